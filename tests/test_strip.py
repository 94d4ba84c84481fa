"""Stripping a loom down: what is kept works as before, and nothing more is kept."""

import json
import random
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import open_window, put_job
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.strip import (
    LOOKED_AT,
    Stopped,
    _Check,
    devices_named,
    strip,
    stripped,
    with_sensors,
)
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.stages.circuits.stripping import StripDialog
from molvik.devices import kind_of
from molvik.devices.states import STATES
from molvik.files.jobfile import read_job
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Device, Fuse
from molvik.netlist.network import Network
from test_alive import KEY, LAMP, job_of

ENGINE = ("controller", "injector", "coil", "Fuel pump", "pickup", "thermistor", "Throttle sensor")


@pytest.fixture
def sound(demo: Job) -> Job:
    """The demo with a fuse that stands its lamps and heater."""
    return edits.change_part(demo, "F7", rating_a=30.0)


def point_in(job: Job, codes: tuple[str, ...]) -> dict[str, dict[str, bool]]:
    network = Network(job)
    found = {}
    for state in STATES:
        load = OperatingPoint(network, state).load
        found[state.name] = {c: load[c].state != "dead" for c in codes if c in load}
    return found


@pytest.mark.parametrize("seed", range(3))
def test_any_strip_leaves_what_is_kept_as_it_was_and_nothing_to_spare(
    sound: Job, seed: int
) -> None:
    chance = random.Random(seed)
    loads = [d.code for d in sound.devices if d.kind not in ("battery", "switch", "bus bar")]
    keep = tuple(chance.sample(loads, chance.randrange(1, 5)))
    plan = strip(sound, keep)
    left = stripped(sound, plan)
    assert point_in(left, keep) == point_in(sound, keep)
    assert {w.code for w in left.wires} == set(plan.kept)
    assert set(plan.kept) | set(plan.gone) == {w.code for w in sound.wires}
    # Taking any further wire away breaks something that is kept.
    check = _Check(sound, keep)
    for code in plan.kept:
        assert check.broken_by(frozenset(plan.kept) - {code}), (keep, code)


BY_HAND = {
    "battery to the fuse box": "W65 W1 W3 W4 W7 W8 W9",
    "alternator, which feeds the engine with the isolator off": "W5 W6 W52 W53 W54",
    "main relay, key": "W11 W39 W40 W47 W48 W49",
    "computer": "W12 W13 W64 W36 W37 W38 W137",
    "injectors and their relay": "W14 W66 W16 W17 W18 W19 W20 W21 W22 W23 W24 W67 W68 W69",
    "coils": "W15 W25 W26 W27",
    "sensors": "W28 W29 W128 W30 W31 W32 W33 W34 W35 W135 W136",
    "pump and its relay": "W41 W42 W43 W44 W45 W46",
}
"""Worked out by reading the demo's wire list, circuit by circuit."""


def test_engine_only_against_an_answer_by_hand(demo: Job) -> None:
    plan = strip(demo, devices_named(demo, ENGINE))
    wanted = {code for codes in BY_HAND.values() for code in codes.split()}
    assert set(plan.kept) == wanted
    assert (len(wanted), len(plan.gone)) == (60, 79)
    gone = {demo.wire(code).function for code in plan.gone}  # type: ignore[union-attr]
    assert {"Headlamps", "Horn", "Left fan", "Wiper motor", "Blue beacon", "Starter cable"} <= gone
    whats = [lead.what for lead in plan.leads]
    assert whats.count("key on, run and crank") == 2
    assert {"constant", "battery earth", "tachometer"} <= set(whats)
    assert {"F10", "K6", "D8"} <= set(plan.parts)
    assert "C3" not in plan.parts
    assert "D11" not in plan.parts
    # The main earth stays for the engine, and had served the fans too.
    assert "Fan, left" in plan.shared["W3"]


def test_a_shared_splice_is_kept_and_says_for_whom() -> None:
    other = Device("D6", "Horn", "load", ("+", "-"))
    wires = "D1/+ F1/in, F1/out D2/30, D2/15 D3/+, D3/- E1, E1 D1/-, D2/15 D6/+, D6/- E1"
    job = job_of(wires, KEY, LAMP, other, fuses=(Fuse("F1", "Main", 30),))
    plan = strip(job, ["D3"])
    assert plan.gone == ("W6", "W7")
    assert plan.kept["W2"] == "Lamp"
    assert plan.parts == ("E2", "D6")
    assert [lead.label for lead in plan.leads] == [
        "CONST",
        "CONST KEY",
        "KEY ON",
        "EARTH W4",
        "EARTH W5",
        "BATT EARTH",
    ]
    one = stripped(job, plan)
    assert [w.code for w in one.wires] == ["W1", "W2", "W3", "W4", "W5"]


def test_a_strip_that_keeps_nothing_is_refused(demo: Job) -> None:
    with pytest.raises(ValueError, match="Nothing is kept"):
        strip(demo, [])
    with pytest.raises(ValueError, match="no device D99"):
        strip(demo, ["D99"])
    with pytest.raises(ValueError, match="There is no device “moon”"):
        devices_named(demo, ["moon"])
    assert devices_named(demo, ["injectors", "d18"]) == ("D12", "D13", "D14", "D15", "D18")
    with pytest.raises(Stopped):
        strip(demo, ["D18"], stop=lambda: True)


def test_all_states_are_compared() -> None:
    assert set(LOOKED_AT) == set(STATES)


def test_strip_without_a_window(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path, out = tmp_path / "demo.molvik", tmp_path / "stripped.molvik"
    put_job(demo, path)
    assert main(["strip", str(path), "--keep", "Fuel pump", "--out", str(out), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for part in (report, report["kept"][0], report["leads"][0]):
        for key in part:
            assert f"`{key}`" in documented, key
    assert {w.code for w in read_job(out).wires} == {one["wire"] for one in report["kept"]}
    assert main(["strip", str(path), "--keep", "moon"]) == 2
    assert "no device “moon”" in capsys.readouterr().err


def test_what_a_repin_set_is_about_stays_empty_and_the_strip_goes_through() -> None:
    """The second demo: its computer's old plug is spoken of by the set."""
    job = demo_job("plover")
    for device in job.devices:
        if kind_of(device).is_load:
            plan = strip(job, [device.code])
            left = stripped(job, plan)
            assert set(plan.gone).isdisjoint(wire.code for wire in left.wires)
            for code in plan.held:
                assert left.part(code) is not None
    held = strip(job, [next(d.code for d in job.devices if kind_of(d).is_load)]).held
    assert any("repin set" in why for why in held.values())


def test_sensors_that_a_kept_computer_reads_are_kept_too(demo: Job) -> None:
    few = devices_named(demo, ["controller", "injectors", "coils", "starter", "alternator"])
    names = {device.code: device.name for device in demo.devices}
    more = with_sensors(demo, few)
    added = {names[code] for code in more if code not in few}
    assert {"Crank sensor", "Coolant sensor"} <= added
    assert any("hrottle" in name for name in added)
    bare, whole = strip(demo, few), strip(demo, more)
    wire = next(w for w in demo.wires if "rank" in w.function and w.code in whole.kept)
    assert wire.code in bare.gone, "that was the fault"
    lamp = next(d.code for d in demo.devices if d.kind == "lamp")
    assert with_sensors(demo, [lamp]) == (lamp,), "a lamp reads nothing"


def test_the_second_demo_is_stripped_in_the_window(qtbot: QtBot, tmp_path: Path) -> None:
    window = open_window(qtbot, tmp_path)
    window.files.open_demo("plover")
    dialog = StripDialog(window, window.store)
    qtbot.addWidget(dialog)
    dialog._mark(lambda code: kind_of(window.store.job.part(code)).is_load)  # type: ignore[arg-type]
    dialog.devices.item(0).setCheckState(Qt.CheckState.Unchecked)
    dialog.look.click()
    qtbot.waitUntil(lambda: dialog.plan is not None)
    before = len(window.store.job.wires)
    dialog.strip_it()
    assert dialog.notice.text() == ""
    assert len(window.store.job.wires) < before
    window.files.close_job = lambda: True  # type: ignore[method-assign]
