"""Tables compared, loose wires identified, housings of any layout and from a library."""

import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from conftest import awg, cell, give_up, metric, page, small_job, type_cell, wire
from molvik.analysis import Analysis
from molvik.demo import ECU_TABLE, demo_job
from molvik.desktop.dialogs.housing import HousingDialog
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.stages.pinouts.loosewires import how_text
from molvik.desktop.stages.pinouts.variants import VariantsDialog
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Oval
from molvik.files.errors import JobFileError
from molvik.files.families import SUFFIX, all_families, read_family, write_family
from molvik.model import crossover_edits, edits, photo_edits
from molvik.model.crossover import Pinout, RepinSet
from molvik.model.edits import EditError
from molvik.model.geometry import (
    cavities,
    contact_of,
    extent,
    grid_problem,
    places,
    read_spots,
)
from molvik.model.job import Job
from molvik.model.parts import CavityPosition, Colour, Connector, End, Grid, Pin
from molvik.model.photos import Photo
from molvik.pinouts.compare import compare
from molvik.pinouts.families import FAMILIES, about, family_of
from molvik.pinouts.loose import candidates, loose_wires

# Comparing tables


def test_what_is_the_same_moved_added_gone_or_of_another_colour() -> None:
    first = (
        Pin("1", "Fan", colour=Colour("RD")),
        Pin("2", "Pump", size=metric(0.5)),
        Pin("3", "Clutch switch"),
        Pin("4", "Lamp", colour=Colour("BU")),
        Pin("5", "empty one", fill="empty"),
        Pin("6", "Brake switch"),
    )
    second = (
        Pin("1", "fan", colour=Colour("GN")),
        Pin("7", "Pump", size=metric(1)),
        Pin("4", "Lamp", colour=Colour("BU")),
        Pin("6", "Park switch"),
        Pin("8", "Torque request"),
    )
    found = {(one.was or one.now).cavity: one.change for one in compare(first, second)}  # type: ignore[union-attr]
    assert found == {
        "1": ("other colour",),
        "2": ("moved", "other size"),
        "3": ("gone",),
        "4": ("same",),
        "6": ("other function",),
        "8": ("added",),
    }


pins = st.lists(
    st.builds(Pin, st.sampled_from("123456789"), st.sampled_from(["a", "b", "c", "d", ""])),
    unique_by=lambda pin: pin.cavity,
).map(tuple)


@given(pins, pins)
def test_every_pin_of_both_tables_is_accounted_for_once(
    first: tuple[Pin, ...], second: tuple[Pin, ...]
) -> None:
    found = compare(first, second)
    was = [one.was.cavity for one in found if one.was]
    now = [one.now.cavity for one in found if one.now]
    assert sorted(was) == sorted(pin.cavity for pin in first if pin.function)
    assert sorted(now) == sorted(pin.cavity for pin in second if pin.function)
    assert all(one.change == ("same",) for one in compare(first, first))


def test_the_demos_automatic_differs_where_it_was_made_to() -> None:
    job = demo_job("plover")
    own = job.connector("C2").pins  # type: ignore[union-attr]
    found = [one for one in compare(own, job.pinouts[0].pins) if one.change != ("same",)]
    assert [(one.change[0], (one.was or one.now).cavity) for one in found] == [  # type: ignore[union-attr]
        ("other function", "43"),
        ("gone", "54"),
        ("added", "63"),
    ]


def test_a_variant_is_kept_replaced_exchanged_and_forgotten() -> None:
    own = (Pin("1", "Fan"),)
    job = Job("x", connectors=(Connector("C1", "ECU", Grid(1, 3), pins=own, pinout_from="a.csv"),))
    with pytest.raises(EditError, match="Give the table a name"):
        crossover_edits.add_pinout(job, Pinout("C1", " "))
    with pytest.raises(EditError, match="no connector C9"):
        crossover_edits.add_pinout(job, Pinout("C9", "x"))
    job = crossover_edits.add_pinout(job, Pinout("C1", "1999", (Pin("1", "Pump"),)))
    job = crossover_edits.add_pinout(job, Pinout("C1", "1999", (Pin("2", "Pump"),)))
    assert len(job.pinouts) == 1
    turned = crossover_edits.exchange_pinout(job, "C1", "1999")
    assert turned.connectors[0].pins == (Pin("2", "Pump"),)
    assert turned.pinouts == (Pinout("C1", "a.csv", own),)
    assert crossover_edits.remove_pinout(job, "C1", "1999").pinouts == ()
    with pytest.raises(EditError, match="no table called"):
        crossover_edits.exchange_pinout(job, "C1", "2001")


def test_a_connector_in_a_repin_set_is_not_taken_out() -> None:
    job = demo_job("plover")
    with pytest.raises(EditError, match="C3 stays: the repin set Bulkhead, 16-way is about it"):
        edits.remove_part(job, "C3")
    for code in ("Q1", "Q2", "Q3"):
        job = crossover_edits.remove(job, code)
    assert edits.remove_part(job, "C2").pinouts == ()


def test_photos_outlive_what_they_show_and_are_never_taken_for_another() -> None:
    at = "2026-03-02T10:20:30+01:00"
    job = small_job(wire("W1", "C1/1", "E1"))
    shots = (Photo("", "photos/a.jpg", 8, 6, at, "W1", "worn"), Photo("", "b", 8, 6, at, "C1/2"))
    job = photo_edits.add(job, shots)
    job = edits.remove_part(edits.remove_wires(job, frozenset(["W1"])), "C1")
    assert [(one.on, one.text) for one in job.photos] == [("", "worn (W1)"), ("", "(C1/2)")]


# Loose wires


def test_what_a_loose_wire_might_be_by_colour_cavity_or_function() -> None:
    network = Analysis(demo_job("plover")).network
    by_colour = candidates(network, Colour("GN", "YE"))
    exact = [one for one in by_colour if one.why.startswith("same colour and tracer")]
    assert {one.end.at for one in exact} == {"C1", "C2"}
    assert by_colour[0].why.startswith("same colour and tracer")
    assert {one.table for one in by_colour if one.end == End("C2", "18")} == {
        "",
        "with automatic gearbox",
    }
    (first, *_) = candidates(network, cavity="61", function="CAN low")
    assert (first.end, first.pin.function) == (End("C2", "61"), "CAN-L")
    assert candidates(network, Colour("TQ")) == ()
    assert all(one.pin.cavity == "C2" for one in candidates(network, cavity="c2"))


def test_a_size_that_differs_speaks_against_it_and_a_cavity_that_is_taken_too() -> None:
    pins = (
        Pin("1", "A", colour=Colour("RD"), size=metric(0.5)),
        Pin("2", "B", colour=Colour("RD"), size=metric(2.5)),
        Pin("3", "C", colour=Colour("RD"), size=metric(0.5)),
    )
    job = replace(
        small_job(wire("W1", "C1/3", "E1")),
        connectors=(Connector("C1", "Plug", Grid(1, 4), pins=pins),),
    )
    found = candidates(Analysis(job).network, Colour("RD"), awg(20))  # 0.52 mm²
    assert [one.pin.function for one in found] == ["A", "C", "B"]
    assert "a wire is there already" in found[1].why
    assert "listed as 2.5 mm²" in found[2].why


def test_what_is_not_identified_stays_countable() -> None:
    job = small_job(
        wire("W1", "C1/1", ""),
        wire("W2", "", ""),
        wire("W3", "C1/2", "E1"),
        wire("W4", "C1/3", "", stowed=True),
    )
    assert [one.code for one in loose_wires(Analysis(job).network)] == ["W1", "W2"]
    assert (how_text("elim"), how_text("By continuity"), how_text(" ")) == (
        "by elimination",
        "by continuity",
        "",
    )
    with pytest.raises(ValueError, match="is not one of: seen"):
        how_text("guess")


def test_loose_wires_are_grouped_looked_up_and_settled_in_their_window(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.open_demo("plover")
    window.store.do("x", lambda job: edits.change_wire(job, "W8", start=End()))
    window.store.do("x", lambda job: edits.change_wire(job, "W40", start=End()))
    shown = page(window, "Pinouts")
    assert shown.loose_button.text() == "Loose wires: 2…"
    shown.loose_button.click()
    loose = shown._loose
    assert loose.count.text() == "2 of 2 loose wires are not identified: 2 in no group."
    type_cell(loose.table, "W40", "Group", "cab")
    type_cell(loose.table, "W40", "Identified", "cont")
    assert "1 of 2" in loose.count.text()
    type_cell(loose.table, "W40", "Identified", "guess")
    assert "is not one of" in loose.notice.text()
    give_up(qtbot, loose.table, "guess")
    loose.settle("seen")
    assert "Choose the wire above" in loose.notice.text()
    loose.table.pick("W8")
    loose._picked("W8")
    assert loose.found.things[0].pin.colour == Colour("WH", "RD")
    loose.ask.setText("9")
    assert {one.pin.cavity for one in loose.found.things} == {"9"}
    loose.ask.setText("GN/WH")
    assert all(one.pin.colour.base == "GN" for one in loose.found.things)
    loose.ask.setText("injector 2")
    key = next(f"{c.end} {c.table}" for c in loose.found.things if c.end == End("C1", "9"))
    loose.candidates.pick(key)
    loose.settle("seen")
    settled = window.store.job.wire("W8")
    assert settled is not None
    assert (settled.start, settled.identified) == (End("C1", "9"), "seen")
    assert "All 1 loose wires are identified" in loose.count.text()
    loose.close()


# Layouts


def test_an_irregular_layout_is_read_from_a_small_table() -> None:
    spots = read_spots("label, x, y, contact\nA, 0, 0,\nb; 5 ; 0 ; 16\nC\t0,0\t2.5\n\nD 2.5 2.5 12")
    assert [(s.label, s.x, s.y, s.contact) for s in spots] == [
        ("A", 0, 0, ""),
        ("B", 5, 0, "16"),
        ("C", 0, 2.5, ""),
        ("D", 2.5, 2.5, "12"),
    ]
    grid = Grid(1, 1, spots=spots)
    assert cavities(grid) == ("A", "B", "C", "D")
    assert extent(grid) == (3.0, 2.0)  # in steps of the smallest distance, 2.5
    connector = Connector("C1", "x", grid, contact="20")
    assert [contact_of(connector, name) for name in "ABCD"] == ["20", "16", "20", "12"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("A 0 0\nA 1 0", "Two cavities are called A"),
        ("A 0 0\nB 0 0", "in one place"),
        ("A 0 0\nB 1 0\nC 900 0", "decimal point missing"),
    ],
)
def test_a_layout_that_cannot_be_is_told(text: str, words: str) -> None:
    assert words in grid_problem(Grid(1, 1, spots=read_spots(text)))


def test_a_line_that_cannot_be_read_is_named() -> None:
    with pytest.raises(ValueError, match="Line 2 reads “B somewhere”"):
        read_spots("A 0 0\nB somewhere")


@given(
    st.lists(
        st.tuples(st.integers(0, 20), st.integers(0, 20)), min_size=1, max_size=30, unique=True
    )
)
def test_the_wire_side_of_any_layout_is_the_mirror_image(points: list[tuple[int, int]]) -> None:
    grid = Grid(1, 1, spots=tuple(CavityPosition(str(n), x, y) for n, (x, y) in enumerate(points)))
    across, _ = extent(grid)
    mating = {p.cavity: p for p in places(grid)}
    for place in places(grid, "wire side"):
        assert place.row == mating[place.cavity].row
        assert place.column == pytest.approx(across - 1 - mating[place.cavity].column)


# The library


def test_the_library_has_what_was_asked_and_nothing_impossible() -> None:
    ways = {family.name: len(cavities(family.grid)) for family in FAMILIES}
    for family in FAMILIES:
        assert grid_problem(family.grid) == ""
        assert f"{ways[family.name]}-way" in family.name or "way" not in family.name
        assert not {cavity for cavity, _ in family.contacts} - set(cavities(family.grid))
    sealed = {n for name, n in ways.items() if name.startswith("Sealed rectangular")}
    assert {min(sealed), max(sealed)} == {2, 12}
    computers = {n for name, n in ways.items() if name.startswith("Lever-lock")}
    assert {min(computers), max(computers)} == {40, 120}
    for word in ("Round bulkhead", "Key switch", "Fuse panel", "Ring on a stud"):
        assert any(name.startswith(word) for name in ways)
    text = about(FAMILIES[0])
    assert "terminal 16: 13 A, 0.5 to 2.1 mm²" in text
    assert "secondary lock" in text


def test_cavities_of_a_round_plug_lie_on_its_rings() -> None:
    ring = next(f for f in FAMILIES if f.name == "Round bulkhead, 14-way")
    radii = [math.hypot(spot.x, spot.y) for spot in ring.grid.spots]
    assert radii == pytest.approx([3.0] * 8 + [2.0] * 5 + [0.0], abs=1e-3)


def test_plug_and_receptacle_of_a_family_mate_face_to_face() -> None:
    plug, receptacle = FAMILIES[0:2]
    across = {p.cavity: p.column for p in places(plug.grid)}
    for place in places(receptacle.grid):
        # Facing each other, left meets right.
        assert place.column == plug.grid.columns - 1 - across[place.cavity]


def test_a_housing_is_shared_as_a_file(tmp_path: Path) -> None:
    made = family_of(
        Connector("C1", "x", Grid(2, 3, letters=True), contact="16", key="left"), "Mine"
    )
    path = tmp_path / f"mine{SUFFIX}"
    write_family(made, path)
    assert read_family(path) == made
    path.write_text("{}")
    with pytest.raises(JobFileError, match="is not a housing of Molvik"):
        read_family(path)
    write_family(replace(made, grid=Grid(0, 1)), path)
    with pytest.raises(JobFileError, match="cannot be used: A housing has"):
        read_family(path)
    with pytest.raises(JobFileError, match="cannot be read"):
        read_family(tmp_path / "gone")


def test_a_housing_is_taken_from_the_library_changed_and_kept(
    demo_window: MainWindow, tmp_path: Path
) -> None:
    dialog = HousingDialog(demo_window, demo_window.store, None)
    at = dialog.family.findText("Lever-lock computer plug, 60-way")
    dialog.family.setCurrentIndex(at)
    dialog._take_family()
    assert "cavities 1 to 6 take size 16" in dialog.about_family.text()
    dialog.others.setText("1:16 99:16")
    dialog.accept()
    assert "no cavity 99" in dialog.notice.text()
    dialog.others.setText("1:17")
    dialog.accept()
    assert "names no terminal size" in dialog.notice.text()
    dialog.others.setText("1:12")
    dialog.name.setText("Engine computer")
    dialog.keep_family("My computer plug")
    assert all_families()[0].name == "My computer plug"
    dialog.accept()
    made = demo_window.store.job.connectors[-1]
    assert (len(cavities(made.grid)), made.lever, made.contacts) == (60, "top", (("1", "12"),))
    again = HousingDialog(demo_window, demo_window.store, made)
    again.irregular.setChecked(True)
    again.spots.setPlainText("A 0")
    again.accept()
    assert "Line 1 reads" in again.notice.text()
    again.spots.setPlainText("A 0 0\nB 2 0 16\nC 1 2")
    again.accept()
    assert "no cavity 1 to have another" in again.notice.text()
    again.others.clear()
    again.accept()
    assert cavities(demo_window.store.job.connectors[-1].grid) == ("A", "B", "C")
    bad = tmp_path / "bad.molvik-housing"
    bad.write_text("no")
    third = HousingDialog(demo_window, demo_window.store, None)
    third.read_family(bad)
    assert "is not a housing" in third.notice.text()
    third.reject()


def test_keys_and_levers_change_sides_when_the_plug_is_turned_over(
    demo_window: MainWindow,
) -> None:
    shown = page(demo_window, "Pinouts")
    demo_window.store.do(
        "x", lambda job: edits.change_part(job, "C1", key="left", lever="right", up="arrow up")
    )
    demo_window.hand.pick("C1/1")

    def key() -> float:
        """Return how far right of the middle the key is drawn, px."""
        scene = shown.face.drawing
        notch = next(o for o in scene.shapes if isinstance(o, Oval) and o.fill == "sheet")
        return float(notch.box.middle.x - scene.width / 2)

    before = shown.face.grab().toImage()
    assert key() < 0
    shown.flip_button.click()
    assert key() > 0
    assert shown.face.grab().toImage() != before
    shown.face.setFocus()
    QTest.keyClick(shown.face, Qt.Key.Key_Left)
    assert shown.face.cavity != "1"


# In the window


def test_a_table_is_imported_as_a_variant_and_compared(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shown = page(demo_window, "Pinouts")
    demo_window.hand.pick("C2")
    assert not shown.compare_button.isVisible()
    own = demo_window.store.job.connector("C2").pins  # type: ignore[union-attr]
    shown.import_table(ECU_TABLE)
    dialog = shown.findChild(ImportDialog)
    qtbot.waitUntil(lambda: dialog.reading is not None)
    dialog.into.setCurrentIndex(dialog.into.findData("C2"))
    dialog.reread()
    dialog.variant.setText("second year")
    dialog.accept()
    assert demo_window.store.job.connector("C2").pins == own  # type: ignore[union-attr]
    assert demo_window.store.job.pinouts[0].name == "second year"
    demo_window.hand.pick("C2/1")
    assert shown.compare_button.isVisible()
    shown.compare_button.click()
    tables = shown.findChild(VariantsDialog)
    assert "same" in tables.summary.text()
    assert tables.model.things == []  # only what differs
    tables.only.setChecked(False)
    assert cell(tables.table, "0", "What") == "same"
    tables.second.setCurrentIndex(0)
    tables.take()
    assert "is its own already" in tables.notice.text()
    tables.forget()
    assert "keeps its own pinout" in tables.notice.text()
    tables.second.setCurrentIndex(1)
    tables.forget()
    assert demo_window.store.job.pinouts == ()
    tables.close()


def test_a_table_that_a_repinning_wants_is_not_forgotten(window: MainWindow) -> None:
    window.files.open_demo("plover")
    wanted = RepinSet("", "Variant", ("C2",), "C2", "with automatic gearbox")
    window.store.do("x", lambda job: crossover_edits.add(job, wanted))
    tables = VariantsDialog(window, window.store, "C2")
    tables.second.setCurrentIndex(1)
    tables.forget()
    assert "repin set Variant wants" in tables.notice.text()
    tables.take()
    assert "what it is already" in tables.notice.text()
    tables.reject()


def test_a_copied_table_is_imported(demo_window: MainWindow, qtbot: QtBot) -> None:
    shown = page(demo_window, "Pinouts")
    clipboard = QApplication.clipboard()
    clipboard.setText("")
    demo_window.act("pinouts", "paste_table")
    assert "Nothing is copied" in shown.notice.text()
    clipboard.setText("Pin\tFunction\tColour\n1\tFan\tGN/YE\n2\tPump\tRD\n")
    demo_window.act("pinouts", "paste_table")
    dialog = shown.findChild(ImportDialog)
    qtbot.waitUntil(lambda: dialog.reading is not None)
    assert dialog.reading.count("fine") == 2
    dialog.into.setCurrentIndex(dialog.into.findData(""))
    dialog.reread()
    dialog.accept()
    made = demo_window.store.job.connectors[-1]
    assert (made.name, made.pins[0].colour) == ("Pasted table", Colour("GN", "YE"))
