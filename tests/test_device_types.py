"""A kind of device is one entry in one table."""

import typing

import pytest
from pytestqt.qtbot import QtBot

from conftest import found, metric, small_job, wire
from molvik.analysis import Analysis
from molvik.desktop.parts import PartDialog
from molvik.desktop.store import Store
from molvik.desktop.window import MainWindow
from molvik.findings import find_all
from molvik.model.job import Job
from molvik.model.parts import Device, DeviceKind
from molvik.netlist.passing import passages, terminals_named
from molvik.netlist.states import RUN
from molvik.reference import device_types
from molvik.reference.device_types import TYPES, DeviceType
from molvik.reference.devices import value
from molvik.reference.limits import USES
from molvik.sizes.voltage import parts_then

HORN = DeviceType(
    ("+", "-"), {"A": 5.0}, either_way=True, use="lighting", inrush=(6.0, 0.1),
    elsewhere="another horn for {volts:g} V.",
)  # fmt: skip


@pytest.fixture
def horn(monkeypatch: pytest.MonkeyPatch) -> Job:
    """A job with a device of a kind that the table has just got."""
    known = {**TYPES, "horn": HORN}
    for module in (device_types, "molvik.desktop.parts"):
        where = f"{module}.TYPES" if isinstance(module, str) else f"{module.__name__}.TYPES"
        monkeypatch.setattr(where, known)
    return small_job(
        wire("W1", "D1/+", "F2/in", size=metric(2.5), length_m=0.3),
        wire("W2", "F2/out", "D2/+", size=metric(1.5), length_m=1.0),
        wire("W3", "D2/-", "E1", size=metric(1.5), length_m=1.0),
        wire("W4", "E1", "D1/-", size=metric(2.5), length_m=0.3),
        devices=(
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("D2", "Horn", "horn", ("+", "-")),  # type: ignore[arg-type]
        ),
    )


def test_the_table_has_every_kind_that_files_may_hold() -> None:
    assert set(TYPES) == set(typing.get_args(DeviceKind))


@pytest.mark.parametrize("kind", sorted(TYPES))
def test_an_entry_fits_together(kind: str) -> None:
    entry = TYPES[kind]
    device = Device("D1", "It", kind, entry.terminals, entry.joins)  # type: ignore[arg-type]
    assert all(one in entry.terminals for pair in entry.joins for one in pair)
    assert all(value(device, name) == figure for name, figure in entry.figures.items())
    assert entry.use in USES
    assert {"A", "ohm"} & entry.figures.keys() or entry.acts_as not in ("load", "sensor", "gauge")
    assert entry.by_ohm <= ("ohm" in entry.figures)
    assert {one.a for one in passages(device)} <= set(terminals_named(device))
    assert entry.elsewhere.format(
        volts=6, cells=3, share="half", square="four times"
    ) == entry.elsewhere or ("{" in entry.elsewhere)


def test_a_new_kind_is_solved_and_judged(horn: Job) -> None:
    analysis = Analysis(horn)
    load = analysis.operating_point(RUN).load["D2"]
    assert load.state == "alive"
    assert load.amps == pytest.approx(5.0, rel=0.1)
    assert analysis.sizing_cases["W2"].load_a == pytest.approx(load.amps, rel=0.01)
    assert analysis.sizing_cases["W2"].paths[0].use.code == "lighting"
    work = analysis.fuse_work["F2"]
    assert work.starter == "Horn"
    assert work.inrush == pytest.approx((6.0 * load.amps, 0.1), rel=0.05)
    assert {one.rule for one in find_all(analysis)} <= {"named-not-wired", *found(horn)}
    assert [one.what for one in parts_then(horn, 6.0) if one.code == "D2"] == [
        "another horn for 6 V."
    ]


def test_a_new_kind_can_be_chosen_in_the_window(
    window: MainWindow, qtbot: QtBot, horn: Job
) -> None:
    dialog = PartDialog(window, Store(horn), "device")
    qtbot.addWidget(dialog)
    dialog.device_kind.setCurrentText("horn")
    dialog._propose()
    assert dialog.terminals.text() == "+ -"
    assert "A=5" in dialog.figures.placeholderText()
