"""Whatever is in hand is changed in its place: typed, taken by Enter, refused in words, undone."""

from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from conftest import page
from molvik.desktop.window import MainWindow
from molvik.model.job import Job
from molvik.model.loom_edits import find
from molvik.model.parts import Pin, WireSize, terminals_of
from molvik.netlist.network import Network
from molvik.parsing.quantities import read_surface_c, read_temperature_c
from molvik.typed.field import named
from molvik.typed.found import FAULT_FIELDS, FOUND_FIELDS
from molvik.typed.parts import device_fields, fields_of, type_part
from molvik.typed.routed import ZONE_FIELDS

ENTER, ESCAPE = Qt.Key.Key_Return, Qt.Key.Key_Escape


def thing_of(job: Job, subject: str) -> Any:
    """Return what a subject is, as the job has it."""
    if "/" in subject:
        code, cavity = subject.split("/")
        connector = job.connector(code)
        assert connector is not None
        return next((pin for pin in connector.pins if pin.cavity == cavity), Pin(cavity))
    return job.part(subject) or find(job.loom, subject)


@pytest.mark.parametrize(
    ("subject", "field", "typed", "attribute", "value"),
    [
        ("F5", "Rating", "15", "rating_a", 15.0),
        ("F5", "Kind", "glass", "kind", "glass"),
        ("S1", "Node", "sold", "joint", "soldered"),
        ("E1", "Name", "Gearbox stud", "name", "Gearbox stud"),
        ("D18", "Name", "Lift pump", "name", "Lift pump"),
        ("D18", "Needed to run", "yes", "needed", True),
        ("K2", "Across coil", "diode", "suppression", "diode"),
        ("C3", "Terminal size", "20", "contact", "20"),
        ("C3", "Terminals", "socket", "terminals", "socket"),
        ("C2/15", "Function", "Crank, signal", "function", "Crank, signal"),
        ("C2/15", "Circuit", "CK9", "circuit", "CK9"),
        ("B5", "Length", "0.9", "length_m", 0.9),
        ("B5", "Diameter", "14", "diameter_mm", 14.0),
        ("N20", "Mark", "blue tape", "mark", "blue tape"),
        ("L17", "Function", "Beacon feed", "function", "Beacon feed"),
        ("X9", "Grade", "3", "grade", 3),
    ],
)
def test_a_thing_is_changed_in_the_panel(
    demo_window: MainWindow, subject: str, field: str, typed: str, attribute: str, value: object
) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick(subject)
    card: Any = demo_window.in_hand.card
    entry = card.fields[field]
    before = demo_window.store.job
    steps = demo_window.store.history.count()
    entry.enter()
    QTest.keyClicks(entry, typed)
    QTest.keyClick(entry, ENTER)
    assert getattr(thing_of(demo_window.store.job, subject), attribute) == value
    rows = [row for row in card.fields.values() if row.isVisible()]
    assert entry.hasFocus() == (entry is rows[-1]), "Enter goes on to the next row"
    assert demo_window.hand.subject == subject
    if getattr(thing_of(before, subject), attribute) != value:
        assert demo_window.store.history.count() == steps + 1
        demo_window.store.history.undo()
    assert demo_window.store.job == before


@pytest.mark.parametrize(
    ("subject", "field", "typed", "told"),
    [
        ("F5", "Rating", "many", "current"),
        ("F5", "Rating", "0", "rating above zero"),
        ("F5", "Kind", "paper", "not one of"),
        ("D18", "Name", " ", "Give it a name"),
        ("D18", "Figures", "speed=3", "not a figure of a motor"),
        ("C3", "Plugs into", "the moon", "not a connector in the job"),
        ("C2/15", "Size", "big", "size"),
        ("B5", "Length", "-1", "-1 m is not likely"),
        ("X9", "Grade", "9", "0 to 4"),
    ],
)
def test_what_cannot_be_is_refused_where_it_is_typed(
    demo_window: MainWindow, subject: str, field: str, typed: str, told: str
) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick(subject)
    card: Any = demo_window.in_hand.card
    entry = card.fields[field]
    before, was = demo_window.store.job, entry.text()
    entry.enter()
    QTest.keyClicks(entry, typed)
    QTest.keyClick(entry, ENTER)
    assert told in demo_window.in_hand.notice.text()
    assert entry.hasFocus()
    assert entry.text() == typed, "what was typed is not lost"
    assert demo_window.store.job is before
    QTest.keyClick(entry, ESCAPE)
    assert entry.text() == was


def test_a_device_shows_the_fields_of_its_kind(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    shown = {}
    for subject in ("K2", "D18", "D4"):
        demo_window.hand.pick(subject)
        card: Any = demo_window.in_hand.card
        shown[subject] = {name for name, entry in card.fields.items() if entry.isVisible()}
    assert "Across coil" in shown["K2"]
    assert "Across coil" not in shown["D18"]
    assert "Positions" in shown["D4"]
    assert {"Name", "Terminals", "Figures"} <= shown["K2"] & shown["D18"] & shown["D4"]


def test_what_is_typed_when_another_thing_is_taken_belongs_to_the_first(
    demo_window: MainWindow,
) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("F5")
    card: Any = demo_window.in_hand.card
    card.fields["Name"].enter()
    QTest.keyClicks(card.fields["Name"], "Pump alone")
    demo_window.hand.pick("F6")
    QApplication.processEvents()
    job = demo_window.store.job
    assert {fuse.code: fuse.name for fuse in job.fuses}["F5"] == "Pump alone"
    assert {fuse.code: fuse.name for fuse in job.fuses}["F6"] != "Pump alone"
    assert card.fields["Name"].text() == {fuse.code: fuse.name for fuse in job.fuses}["F6"]


def test_undo_is_the_jobs_after_typing_and_esc_leaves_the_field(
    demo_window: MainWindow,
) -> None:
    """A field undoes its own letters only while something is being typed in it."""
    table = page(demo_window, "Circuits").table
    demo_window.show()
    demo_window.activateWindow()
    assert QTest.qWaitForWindowActive(demo_window)
    table.setFocus()
    demo_window.hand.pick("F5")
    demo_window.to_hand_and_back()
    card: Any = demo_window.in_hand.card
    field = card.fields["Name"]
    field.enter()
    before = field.text()
    QTest.keyClicks(field, "Pump alone")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert demo_window.store.job.part("F5").name == "Pump alone"  # type: ignore[union-attr]
    QTest.keyClick(field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert demo_window.store.job.part("F5").name == before  # type: ignore[union-attr]
    assert field.text() == before
    QTest.keyClick(field, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
    assert field.text() == "Pump alone"
    field.enter()
    QTest.keyClicks(field, "ab")
    QTest.keyClick(field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert demo_window.store.job.part("F5").name == "Pump alone"  # type: ignore[union-attr]
    assert field.text() != "ab", "letters are taken back first"
    QTest.keyClicks(field, "cd")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert field.hasFocus()
    assert field.text() == "Pump alone"
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert demo_window.focusWidget() is table


def test_every_field_reads_what_it_shows(demo: Job) -> None:
    """Typed again as it stands, nothing changes: no field shows what it would not take."""
    network = Network(demo)
    for part in demo.parts():
        for field in fields_of(part):
            shown = field.show(part)
            typed = type_part(network, part.code, field, shown)
            assert typed.edit(demo).part(part.code) == part, (part.code, field.name, shown)


def test_a_device_cannot_lose_all_its_terminals(demo: Job) -> None:
    device = next(d for d in demo.devices if terminals_of(d) and not d.plug)
    field = named(device_fields(device), "Terminals")
    with pytest.raises(ValueError, match="Name its terminals"):
        field.read(" ", Network(demo))


def test_an_exhaust_is_as_hot_as_the_tip_says() -> None:
    """The tip offers 500, and 900 F: 482 deg C."""
    assert read_surface_c("500") == 500
    assert read_surface_c("900 F") == pytest.approx((900 - 32) / 1.8)
    with pytest.raises(ValueError, match="outside -50 to 1200"):
        read_surface_c("2500 F")
    with pytest.raises(ValueError, match="outside -60 to 300"):
        read_temperature_c("500")
    field = next(one for one in ZONE_FIELDS if one.name == "Hot surface")
    assert field.read("900 F", Network(Job("x"))) == {"hot_c": pytest.approx(482.2, abs=0.1)}


def test_a_size_that_is_printed_on_a_wire_is_a_measure_of_it() -> None:
    field = next(one for one in FOUND_FIELDS if one.name == "Measured")
    read = field.read("4 mm2", Network(Job("x")))
    assert (read["seen"], read["size"]) == ("4 mm2", WireSize("metric", 4.0))
    assert field.read("14 awg", Network(Job("x")))["size"] == WireSize("awg", 14)


@pytest.mark.parametrize(
    ("said", "kind"),
    [
        ("bad crimp", "bad terminal"),
        ("Bent pin", "bad terminal"),
        ("rust", "green copper"),
        ("cooked", "burnt"),
        ("twisted and taped", "bad repair"),
        ("broken lock", "cracked housing"),
    ],
)
def test_faults_are_taken_as_people_call_them(said: str, kind: str) -> None:
    field = next(one for one in FAULT_FIELDS if one.name == "Fault")
    assert field.read(said, Network(Job("x"))) == {"kind": kind}
