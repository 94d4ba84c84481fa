"""What all tests share: a state folder of their own, an offscreen screen, small jobs."""

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse, Grid, Wire, WireSize

# Shared machines stall; what is tested is right and wrong, not time.
settings.register_profile("molvik", deadline=None, max_examples=60)
settings.load_profile("molvik")


@pytest.fixture(autouse=True)
def _own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Keep locks, recovery copies and desktop files of a test to itself."""
    for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))


@pytest.fixture
def demo() -> Job:
    return demo_job()


def metric(area: float) -> WireSize:
    return WireSize("metric", area)


def awg(number: float) -> WireSize:
    return WireSize("awg", number)


def small_job(*wires: Wire, **fields: object) -> Job:
    """Return a job with a battery, two fuses, an earth, two six-way connectors and these wires."""
    parts: dict[str, object] = {
        "connectors": (
            Connector("C1", "Engine plug", Grid(2, 3), contact="16", terminals="socket"),
            Connector("C2", "Lamp plug", Grid(2, 3), contact="16", terminals="pin"),
        ),
        "fuses": (Fuse("F1", "Main", 40, "bolt-down"), Fuse("F2", "Lamp", 10)),
        "earths": (EarthPoint("E1", "Block"),),
        "devices": (
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("K1", "Relay", "relay", ("30", "87", "85", "86"), (("30", "87"),)),
        ),
    }
    return Job("small", wires=wires, **{**parts, **fields})  # type: ignore[arg-type]


def wire(code: str, start: str, finish: str, **fields: object) -> Wire:
    """Return a wire between ends written C1/2, F1/in, E1."""

    def end(text: str) -> End:
        at, _, cavity = text.partition("/")
        return End(at, cavity)

    return Wire(code, end(start), end(finish), **fields)  # type: ignore[arg-type]


def found(job: Job) -> dict[str, list[Finding]]:
    """Return the findings of a job by their rule."""
    by_rule: dict[str, list[Finding]] = {}
    for finding in find_all(Analysis(job)):
        by_rule.setdefault(finding.rule, []).append(finding)
    return by_rule
