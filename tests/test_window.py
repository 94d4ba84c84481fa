"""The window: its stages, its files, its findings, and what happens when things go wrong."""

import json
import os
import re
import stat
import subprocess
import sys
from collections.abc import Callable
from functools import partial
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
)
from pytestqt.qtbot import QtBot

from conftest import (
    answer,
    cell,
    looked_over,
    open_window,
    page,
    press,
    put_job,
    small_job,
    type_cell,
    type_field,
    wire,
    wire_card,
)
from jobs import edited, jobs
from molvik.analysis import Analysis
from molvik.desktop.dialogs.find import FindBox
from molvik.desktop.dialogs.housing import HousingDialog
from molvik.desktop.dialogs.jobsettings import JobSettings
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.dialogs.questions import LineQuestion, Question
from molvik.desktop.jobfile import keeping
from molvik.desktop.stages.crossover.setdialog import SetDialog
from molvik.desktop.stages.pinouts.cards import CavityCard
from molvik.desktop.stages.registry import ENTRIES
from molvik.desktop.store import Store
from molvik.desktop.window import MainWindow
from molvik.drawing.roles import LIGHT
from molvik.files.jobfile import read_job
from molvik.files.recovery import leftovers
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Colour, End
from molvik.model.references import codes
from molvik.model.routing import Routing
from molvik.parsing.quantities import read_size
from molvik.reference.insulation import INSULATIONS
from molvik.search import search
from molvik.stages import STAGES

LEFT = Qt.MouseButton.LeftButton


def test_qt_hands_back_every_reference_it_takes(demo_window: MainWindow) -> None:
    """A binding that loses references to None ends in a crash after some minutes of painting."""
    sizes = page(demo_window, "Sizes")
    sizes.grab()
    before = sys.getrefcount(None)
    for _ in range(20):
        sizes.grab()
    assert sys.getrefcount(None) > before - 200


# The store


def second(new: Job, _: Job) -> Job:
    return new


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_any_sequence_of_edits_undone_gives_the_first_job_back(
    qapp: QApplication, data: st.DataObject
) -> None:
    first = data.draw(jobs())
    store = Store(first)
    seen: list[tuple[Job, Job]] = []
    store.changed.connect(lambda old, new: seen.append((old, new)))
    for _ in range(data.draw(st.integers(1, 6))):
        new = data.draw(edited(store.job))
        store.do("edit", partial(second, new))
    last = store.job
    while store.history.canUndo():
        store.history.undo()
    assert store.job == first
    while store.history.canRedo():
        store.history.redo()
    assert store.job == last
    assert all(new == after_old for (_, new), (after_old, _) in pairwise(seen))


def test_an_edit_that_is_refused_changes_nothing(qapp: QApplication) -> None:
    store = Store(small_job())
    with pytest.raises(edits.EditError):
        store.do("x", lambda job: edits.change_wire(job, "W9", note=""))
    assert not store.history.canUndo()
    store.do("nothing", lambda job: job)
    assert not store.history.canUndo(), "an edit that changes nothing is not a step"


def test_an_analysis_belongs_to_one_job_value(qapp: QApplication) -> None:
    store = Store(small_job(wire("W1", "C1/1", "C2/1")))
    before = store.analysis
    store.do("x", lambda job: edits.change_wire(job, "W1", note="new"))
    assert store.analysis is not before
    assert before.job.wires[0].note == ""


# Stages


def test_every_stage_opens_by_its_key_and_says_what_it_is(demo_window: MainWindow) -> None:
    for index, (_, name, question) in enumerate(STAGES):
        shown = page(demo_window, name)
        assert demo_window.trunk.breakouts[index].isChecked()
        assert question in demo_window.trunk.breakouts[index].toolTip()
        assert shown.isVisible()
        assert shown.work.isVisible()


def test_every_stage_has_a_page() -> None:
    assert all(ENTRIES[key].page for key, *_ in STAGES)


def test_every_button_is_named_and_explained(demo_window: MainWindow) -> None:
    for _, name, _ in STAGES:
        page(demo_window, name)
    for one in demo_window.findChildren(QAbstractButton):
        if one.isVisible() and one.text():
            assert one.toolTip() or one.text() == "Close", one.text()


def test_text_has_the_contrast_that_wcag_asks_for() -> None:
    # WCAG 2.1, success criterion 1.4.3: 4.5 to 1 for text; the formula is the standard's.
    def luminance(name: str) -> float:
        tint = QColor(name)
        parts = [
            c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4
            for c in (tint.redF(), tint.greenF(), tint.blueF())
        ]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    def contrast(one: str, other: str) -> float:
        high, low = sorted((luminance(one), luminance(other)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    roles = LIGHT
    for text in ("ink", "faint", "stop"):
        for ground in ("paper", "sheet", "side", "strip", "copper_wash"):
            assert contrast(getattr(roles, text), getattr(roles, ground)) >= 4.5, (text, ground)
    for text in ("copper", "proved", "live_text"):
        assert contrast(getattr(roles, text), roles.sheet) >= 4.5, text
    assert contrast("#FFFFFF", roles.copper) >= 4.5


def test_the_shipped_typeface_is_used(demo_window: MainWindow) -> None:
    assert QApplication.font().family() == "B612"
    assert demo_window.fontInfo().family() == "B612"


# In hand


def test_a_wire_in_hand_is_in_hand_everywhere(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    circuits.table.pick("W1")
    circuits.table.edit_cell("W42", "Note")
    QTest.keyClick(circuits.table.indexWidget(circuits.table.currentIndex()), Qt.Key.Key_Escape)
    assert demo_window.hand.subject == "W42"
    assert demo_window.in_hand.title.text() == "Fuel pump feed, engine bay"
    assert circuits.first.end() == End("K2", "87")
    assert circuits.second.end() == End("C3", "6")
    assert "Fuel pump" in wire_card(demo_window).story.accessibleName()
    assert (
        page(demo_window, "Sizes")
        .detail.verdict.text()
        .startswith("Fuel pump feed, engine bay needs")
    )
    proving = page(demo_window, "Proving")
    assert proving.table.current_key() == "W42"
    assert "black: Bulkhead, engine side, cavity 6" in proving.bench.view.where.text()
    page(demo_window, "Pinouts")
    demo_window.hand.pick("C2/15")
    assert demo_window.in_hand.title.text() == "Crank sensor signal"
    demo_window.hand.pick("F5")
    # ISO 8820-3: a 20 A blade fuse is yellow.
    assert "20 A blade fuse, yellow body" in demo_window.in_hand.under.text()


@pytest.mark.parametrize("subject", ["C1", "C2/70", "S1", "E1", "D4", "K1", "W63", "W99", "C9/1"])
def test_anything_can_be_taken_in_hand(demo_window: MainWindow, subject: str) -> None:
    for name in ("Pinouts", "Circuits", "Sizes", "Proving", "Sheets"):
        page(demo_window, name)
        demo_window.hand.pick("")
        demo_window.hand.pick(subject)
        assert demo_window.in_hand.title.text()


def test_a_field_that_is_refused_keeps_what_was_typed_and_says_why(
    demo_window: MainWindow,
) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W42")
    field = wire_card(demo_window).fields["Length"]
    type_field(field, "a long way")
    assert field.text() == "a long way"
    assert field.property("wrong") == "true"
    assert "“a long way” is not a length" in demo_window.in_hand.notice.text()
    assert not demo_window.store.unsaved
    type_field(field, "2 ft")
    assert field.text() == "0.6096 m"
    assert demo_window.in_hand.notice.text() == ""
    assert demo_window.store.history.undoText() == "Length of W42"


def test_marking_a_cavity_in_hand(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Pinouts")
    demo_window.hand.pick("C2/70")
    card = demo_window.in_hand.card
    assert isinstance(card, CavityCard)
    qtbot.mouseClick(card.fill_buttons["plugged"], LEFT)
    connector = demo_window.store.job.connector("C2")
    assert connector is not None
    assert next(pin for pin in connector.pins if pin.cavity == "70").fill == "plugged"
    looked_over(qtbot, demo_window)
    assert "C2/70" not in {one.subject for one in demo_window.strip._open}


@pytest.mark.parametrize(
    "kind", ["connector", "fuse", "splice", "earth point", "device", "set", "job"]
)
def test_what_is_typed_first_is_the_name(window: MainWindow, qtbot: QtBot, kind: str) -> None:
    """In a new connector it chose a family by its first letters."""
    store = window.store
    match kind:
        case "connector":
            dialog: QDialog = HousingDialog(window, store, None)
        case "set":
            dialog = SetDialog(window, store, None)
        case "job":
            dialog = JobSettings(window, store)
        case _:
            dialog = PartDialog(window, store, kind)
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.focusWidget() is not None)
    assert dialog.focusWidget().accessibleName() in ("Name", "Title")


def test_taking_out_of_the_job_can_be_undone(demo_window: MainWindow, qtbot: QtBot) -> None:
    before = demo_window.store.job
    page(demo_window, "Circuits")
    said = []

    def sure(words: str) -> Callable[[Question], None]:
        def do(asked: Question) -> None:
            said.append(asked.more.text())
            asked.press(words)

        return do

    # What a part takes along is said before; a wire takes nothing.
    demo_window.hand.pick("F5")
    answer(Question, sure("Cancel"))
    qtbot.mouseClick(demo_window.in_hand.remove, LEFT)
    assert (demo_window.store.job, demo_window.hand.subject) == (before, "F5")
    for subject in ("W42", "C13", "F5"):
        demo_window.hand.pick(subject)
        if subject != "W42":
            answer(Question, sure("Delete it"))
        qtbot.mouseClick(demo_window.in_hand.remove, LEFT)
        assert demo_window.hand.subject == ""
    wires = [one.code for one in before.wires if "F5" in (one.start.at, one.finish.at)]
    assert all(code in said[0] and code in said[2] for code in wires)
    assert "come loose" in said[0]
    assert demo_window.store.job.part("C13") is None
    while demo_window.store.history.canUndo():
        demo_window.store.history.undo()
    assert demo_window.store.job == before


@pytest.mark.parametrize(
    ("old", "stage"),
    [("W12", "Circuits"), ("C2", "Pinouts"), ("X1", "Survey")],
)
def test_a_code_is_changed_as_it_stands_on_the_label(
    demo_window: MainWindow, qtbot: QtBot, old: str, stage: str
) -> None:
    before = demo_window.store.job
    page(demo_window, stage)
    demo_window.hand.pick(old)
    said: list[str] = []

    def typed(asked: LineQuestion) -> None:
        QTest.keyClicks(asked.field, "W13")  # another's, over what is chosen
        QTest.keyClick(asked.field, Qt.Key.Key_Return)
        said.append(asked.notice.text())
        asked.type("engine-7")

    answer(LineQuestion, typed)
    demo_window.commands.change_code()
    assert "W13 is already in the job" in said[0]
    assert demo_window.hand.subject == "ENGINE-7"
    assert "ENGINE-7" in set(codes(demo_window.store.job))
    assert old not in set(codes(demo_window.store.job))
    looked_over(qtbot, demo_window)
    for at in range(len(STAGES)):  # every page shows it
        demo_window.go(at)
        QApplication.processEvents()
    demo_window.store.history.undo()
    assert demo_window.store.job == before


# The wire list


def test_a_cell_that_is_refused_opens_again_with_what_was_typed(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    table = page(demo_window, "Circuits").table
    type_cell(table, "W42", "Size", "thick")
    qtbot.waitUntil(lambda: isinstance(table.indexWidget(table.currentIndex()), QLineEdit))
    editor = table.indexWidget(table.currentIndex())
    assert editor.text() == "thick"
    assert "“thick” is not a wire size" in page(demo_window, "Circuits").notice.text()
    assert not demo_window.store.unsaved


def test_two_cells_that_are_refused_open_one_after_the_other(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    """Each would close the other, which is refused again, and so on for ever."""
    table = page(demo_window, "Circuits").table
    said: list[str] = []
    table.refused.connect(said.append)
    headings = [column.heading for column in table.things.columns]
    row = table.things.row_of("W42")
    for heading, text in (("Size", "thick"), ("Colour", "loud")):
        table.things.setData(table.things.index(row, headings.index(heading)), text)

    def opened() -> str:
        editor = table.indexWidget(table.currentIndex())
        return editor.text() if isinstance(editor, QLineEdit) else ""

    qtbot.waitUntil(lambda: opened() == "thick")
    qtbot.wait(150)
    assert opened() == "thick"
    assert len(said) <= 3
    QTest.keyClick(table.indexWidget(table.currentIndex()), Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: opened() == "loud")
    editor = table.indexWidget(table.currentIndex())
    editor.selectAll()
    QTest.keyClicks(editor, "BU")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    qtbot.wait(100)
    assert opened() == ""
    assert demo_window.store.analysis.network.wires["W42"].colour == Colour("BU")


def test_tab_goes_on_to_the_next_cell_even_in_the_row_of_a_new_wire(
    demo_window: MainWindow,
) -> None:
    table = page(demo_window, "Circuits").table
    table.edit_cell("", "From")
    for text in ("C1 1", "C2 70", "Power earth", "BK"):
        editor = table.indexWidget(table.currentIndex())
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Tab)
    made = demo_window.store.job.wires[-1]
    assert made.code == "W140"
    assert (made.start, made.finish) == (End("C1", "1"), End("C2", "70"))
    assert (made.function, made.colour) == ("Power earth", Colour("BK"))


def test_rows_sort_by_what_they_mean_and_the_new_row_stays_last(demo_window: MainWindow) -> None:
    table = page(demo_window, "Circuits").table

    def shown(column: int) -> list[str]:
        model = table.model()
        return [str(model.index(row, column).data()) for row in range(model.rowCount())]

    headings = [column.heading for column in table.things.columns]
    for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
        table.sortByColumn(0, order)
        codes = shown(0)
        assert codes[-1] == "new"
        numbers = [int(code[1:]) for code in codes[:-1]]
        down = order == Qt.SortOrder.DescendingOrder
        assert numbers == sorted(numbers, reverse=down)
    table.sortByColumn(headings.index("Size"), Qt.SortOrder.AscendingOrder)
    sizes = [float(text.split()[0]) for text in shown(headings.index("Size"))[:-1]]
    assert sizes == sorted(sizes)


def test_rows_copy_as_text_and_paste_from_a_spreadsheet_as_one_step(
    demo_window: MainWindow,
) -> None:
    table = page(demo_window, "Circuits").table
    table.pick("W42")
    table.setFocus()
    QTest.keyClick(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = QGuiApplication.clipboard().text().split("\n")
    assert lines[0].split("\t")[:4] == ["Wire", "From", "To", "Function"]
    assert lines[1].split("\t")[:4] == ["W42", "K2/87", "C3/6", "Fuel pump feed, engine bay"]
    before = demo_window.store.job
    headings = [column.heading for column in table.things.columns]
    index = table.model().index(table.currentIndex().row(), headings.index("Size"))
    table.setCurrentIndex(index)
    QGuiApplication.clipboard().setText("1.5 mm2\t1 m\n1 mm2\t2 m\n")
    QTest.keyClick(table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [cell(table, code, "Size") for code in ("W42", "W43")] == ["1.5 mm²", "1 mm²"]
    assert cell(table, "W43", "Length") == "2"
    across = Qt.Orientation.Horizontal
    assert table.model().headerData(headings.index("Length"), across) == "Length m"
    demo_window.store.history.undo()
    assert demo_window.store.job == before


def test_a_paste_with_something_unreadable_says_what_was_left_out(
    demo_window: MainWindow,
) -> None:
    circuits = page(demo_window, "Circuits")
    headings = [column.heading for column in circuits.table.things.columns]
    row = circuits.table.things.row_of("W42")
    circuits.table.setCurrentIndex(circuits.table.model().index(row, headings.index("Size")))
    circuits.table.paste("1.5 mm2\nrubbish\n")
    assert cell(circuits.table, "W42", "Size") == "1.5 mm²"
    assert "Not all was pasted" in circuits.notice.text()
    assert "rubbish" in circuits.notice.text()


def test_lines_pasted_into_the_last_row_become_new_wires(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    before = demo_window.store.job
    table = circuits.table
    last = table.model().index(table.model().rowCount() - 1, 1)
    table.setCurrentIndex(last)
    lines = (
        ("C1 1", "E1", "Power earth", "BK", "1.5 mm2"),
        ("C1 2", "E1", "Power earth", "BK", "rubbish"),
        ("C1 4", "loose"),
    )
    table.paste("".join("\t".join(line) + "\n" for line in lines))
    made = demo_window.store.job.wires[len(before.wires) :]
    assert [(w.code, str(w.start), str(w.finish)) for w in made] == [
        ("W140", "C1/1", "E1"),
        ("W141", "C1/2", "E1"),
        ("W142", "C1/4", "loose"),
    ]
    assert [str(w.size) for w in made] == ["1.5 mm²", "None", "None"]
    assert "rubbish" in circuits.notice.text()
    demo_window.store.history.undo()
    assert demo_window.store.job == before, "a paste is one step"


def test_lines_beyond_a_table_that_takes_no_new_ones_are_said_to_be_left_out(
    demo_window: MainWindow,
) -> None:
    proving = page(demo_window, "Proving")
    row = proving.table.model().rowCount() - 1
    proving.table.setCurrentIndex(proving.table.model().index(row, 6))
    proving.table.paste("0.2\n0.2\n")
    assert "more lines than rows" in proving.notice.text()
    assert len(demo_window.store.job.readings) == 13


def test_deleting_rows_takes_wires_out_as_one_step(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    circuits.table.selectRow(3)
    circuits.table.setFocus()
    QTest.keyClick(circuits.table, Qt.Key.Key_Delete)
    assert demo_window.store.job.wire("W4") is None
    assert demo_window.store.history.undoText() == "Delete W4"


def test_the_list_can_be_narrowed_to_loose_ends_and_to_one_part(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    circuits.list.setCurrentRow(1)
    assert [w.code for w in circuits.model.things] == ["W63", ""]
    for row in range(circuits.list.count()):
        if circuits.list.text(row).startswith("C7"):
            circuits.list.setCurrentRow(row)
    assert [w.code for w in circuits.model.things] == ["W33", "W34", ""]
    demo_window.hand.pick("W1")
    assert len(circuits.model.things) == 140, "a wire taken in hand is shown"


def test_a_wire_from_a_cavity_to_itself_is_not_offered(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    for picker in (circuits.first, circuits.second):
        picker.choose(End("C2", "5"))
    circuits.name_run()
    assert not circuits.run_button.isEnabled()


# Connectors


def test_arrow_keys_walk_over_a_face(demo_window: MainWindow) -> None:
    pinouts = page(demo_window, "Pinouts")
    demo_window.hand.pick("C2/15")
    face = pinouts.face
    for key, cavity in (
        (Qt.Key.Key_Down, "29"),
        (Qt.Key.Key_Left, "30"),
        (Qt.Key.Key_Up, "16"),
        (Qt.Key.Key_Right, "15"),
        (Qt.Key.Key_Right, "15"),
    ):
        QTest.keyClick(face, key)
        assert demo_window.hand.subject == f"C2/{cavity}"
    assert "Crank sensor signal" in face.accessibleDescription()
    QTest.keyClick(face, Qt.Key.Key_F)
    QTest.keyClick(face, Qt.Key.Key_Left)
    assert demo_window.hand.subject == "C2/15", "at the wire side 15 is at the left edge"


def test_cavities_say_what_is_in_them(demo_window: MainWindow) -> None:
    pinouts = page(demo_window, "Pinouts")
    demo_window.hand.pick("C2/1")
    states = {one.place.cavity: one.inside for one in pinouts.face._cavities}
    assert [states[c] for c in ("1", "70", "4")] == ["wired", "listed", "empty"]
    demo_window.hand.pick("C4/5")
    five = next(one for one in pinouts.face._cavities if one.place.cavity == "5")
    assert len(five.wires) == 2
    assert "W56 red, green tracer, W57 orange, black tracer" in five.words
    assert next(o for o in pinouts.face._cavities if o.place.cavity == "16").inside == "unknown"


def test_a_pin_is_edited_in_the_table(demo_window: MainWindow) -> None:
    pinouts = page(demo_window, "Pinouts")
    demo_window.hand.pick("C2/17")
    for heading, text in (("Function", "Screen"), ("Colour", "sw"), ("Seen", "plugged")):
        type_cell(pinouts.table, "17", heading, text)
    assert cell(pinouts.table, "17", "Colour") == "BK"
    type_cell(pinouts.table, "17", "Seen", "perhaps")
    assert "Type empty, plugged, or nothing" in pinouts.notice.text()


def test_a_connector_is_added_by_rows_and_columns(demo_window: MainWindow) -> None:
    def fill(dialog: HousingDialog) -> None:
        dialog.accept()
        assert dialog.notice.text() == "Give it a name."
        dialog.name.setText("Knock sensor")
        dialog.rows.setValue(1)
        dialog.columns.setValue(2)
        dialog.letters.setChecked(True)
        assert len(dialog.face._cavities) == 2
        dialog.accept()

    answer(HousingDialog, fill)
    page(demo_window, "Circuits").add_part("connector")
    made = demo_window.store.job.connectors[-1]
    assert (made.code, made.name, made.grid.columns, made.grid.letters) == (
        "C18",
        "Knock sensor",
        2,
        True,
    )


def test_a_housing_is_not_made_smaller_than_its_wires(demo_window: MainWindow) -> None:
    dialog = HousingDialog(demo_window, demo_window.store, demo_window.store.job.connector("C2"))
    dialog.rows.setValue(4)
    dialog.accept()
    assert "Wires end in cavity 66, 68, 69" in dialog.notice.text()
    dialog.rows.setValue(5)
    dialog.name.setText("Engine computer")
    dialog.accept()
    assert demo_window.store.job.connectors[1].name == "Engine computer"


# Sizes and proving


def test_taking_the_smallest_size_clears_the_finding(demo_window: MainWindow, qtbot: QtBot) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    said = sizes.detail.verdict.text()
    assert said == (
        "Fuel pump feed, engine bay needs 3 mm², has 0.75 mm²: its voltage drop is too large and "
        "its fuse is too large for it."
    )
    bars = sizes.detail.bars.accessibleName()
    assert "fuse: 20 A fuse of 16.1 A protects it, 124% used" in bars
    qtbot.mouseClick(sizes.detail.use_metric, LEFT)
    assert str(demo_window.store.job.wire("W42").size) == "3 mm²"  # type: ignore[union-attr]
    assert "passes with 3 mm²" in sizes.detail.verdict.text()
    looked_over(qtbot, demo_window)
    assert "fuse-too-large W42" not in {one.key for one in demo_window.strip._open}


def test_a_thinner_wire_is_offered_quietly_with_what_it_leaves(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    assert sizes.detail.use_metric.property("role") == "action"
    demo_window.store.do("x", lambda job: edits.change_wire(job, "W42", size=read_size("16 mm2")))
    assert sizes.detail.use_metric.property("role") == ""
    assert sizes.detail.use_metric.text() == "3 mm² would do"
    tip = sizes.detail.use_metric.toolTip()
    assert re.search(r"Thinner than what is there: \d+% of [a-z ]+ would be used", tip)


def test_the_tightest_wire_comes_first(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    assert sizes.list.key() == "fails"
    assert [wire.code for wire in sizes.model.things[:2]] == ["W61", "W42"], "no fuse is the worst"


def test_readings_are_judged_as_they_are_typed_and_enter_goes_on(
    demo_window: MainWindow,
) -> None:
    proving = page(demo_window, "Proving")
    demo_window.hand.pick("W1")
    for code, text, outcome in (("W1", "0.2", "passed"), ("W2", "ol", "open"), ("W3", "9", "high")):
        assert proving.table.current_key() == code
        type_cell(proving.table, code, "Read Ω", text)
        assert cell(proving.table, code, "Verdict") == outcome
    assert "W3: 9 Ω is above" in proving.notice.text()
    type_cell(proving.table, "W4", "Read Ω", "-1")
    assert "below zero" in proving.notice.text()


def test_a_wire_measured_in_the_list_to_measure_leaves_it(demo_window: MainWindow) -> None:
    proving = page(demo_window, "Proving")
    proving.list.setCurrentRow(1)
    before = len(proving.model.things)
    first = proving.model.things[0].code
    type_cell(proving.table, first, "Read Ω", "0.2")
    assert len(proving.model.things) == before - 1
    assert proving.table.current_key() == proving.model.things[0].code, "on to the next"


def test_a_wide_limit_says_why_it_is_wide(demo_window: MainWindow) -> None:
    proving, store = page(demo_window, "Proving"), demo_window.store
    demo_window.hand.pick("W42")
    assert proving.about.text() == "7 of 138 proved"
    # It has a way along the loom: that is as long as it is cut, and nothing else is known of it.
    way_m = store.analysis.cut_lengths["W42"].cut_m
    store.do("x", lambda job: edits.change_wire(job, "W42", length_m=None))
    assert proving.about.text() == "7 of 138 proved"
    routed = store.analysis.tests["W42"]
    store.do("x", lambda job: edits.change_wire(job, "W42", length_m=way_m))
    assert store.analysis.tests["W42"].limit_ohm == pytest.approx(routed.limit_ohm, rel=1e-3)
    store.do("x", lambda job: edits.change_wire(job, "W42", length_m=None))
    store.do("x", lambda job: replace(job, routing=Routing()))
    assert proving.about.text().startswith("7 of 138 proved · W42: length not known")


def test_the_meter_is_set_in_the_list(demo_window: MainWindow) -> None:
    proving = page(demo_window, "Proving")
    type_field(proving.meter.leads, "0,4")
    assert demo_window.store.job.settings.meter_leads_ohm == 0.4
    type_field(proving.meter.leads, "OL")
    assert "Type ohms" in proving.notice.text()
    type_field(proving.meter.step, "0.01")
    assert demo_window.store.job.settings.meter_step_ohm == 0.01


# Findings and find


def test_findings_are_counted_and_lead_to_their_place(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    strip = demo_window.strip
    texts = [strip.counts[severity].text() for severity in ("stop", "look", "note")]
    assert texts == ["21 to fix", "38 to check", "11 notes"]
    assert demo_window.trunk.breakouts[demo_window.stage_named("Proving")].waits.to_do == 131
    qtbot.mouseClick(strip.worst, LEFT)
    assert STAGES[demo_window.stage].name == "Circuits"
    assert demo_window.hand.subject == "D12"
    strip.show_all()
    assert strip.panel.isVisible()
    for row in range(strip.list.count()):
        strip.list.setCurrentRow(row)
        qtbot.mouseClick(strip.go, LEFT)
        judged = strip._current()
        assert judged is not None
        finding = judged.finding
        assert demo_window.stage == demo_window.stage_named(finding.stage)
        assert all(text in strip.story.text() for text in finding[3:6])


def test_a_finding_is_accepted_with_a_reason_and_taken_back(
    demo_window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    strip = demo_window.strip
    strip.show_all()
    strip.list.setCurrentRow(4)
    one = strip._current()
    assert one is not None
    answer(LineQuestion, lambda asked: asked.type(""))
    qtbot.mouseClick(strip.judge, LEFT)
    assert "Say why" in demo_window.notice.text()
    answer(LineQuestion, lambda asked: asked.type("capped and tied"))
    qtbot.mouseClick(strip.judge, LEFT)
    looked_over(qtbot, demo_window)
    assert strip.counts["stop"].text() == "20 to fix"
    assert demo_window.store.job.accepted[0].reason == "capped and tied"
    assert ": capped and tied" in strip.story.text()
    qtbot.mouseClick(strip.judge, LEFT)
    looked_over(qtbot, demo_window)
    assert strip.counts["stop"].text() == "21 to fix"


@pytest.mark.parametrize(
    ("text", "first"),
    [
        ("W42", "W42"),
        ("c2 15", "C2/15"),
        ("C2/15", "C2/15"),
        ("F5", "F5"),
        ("violet", "W50"),
        ("yellow/black", "W29"),
        ("beacon", "W61"),
        ("power earth 3", "C2/70"),
        ("CLT", "C2/27"),
    ],
)
def test_find_goes_by_code_cavity_colour_and_function(demo: Job, text: str, first: str) -> None:
    hits = search(Analysis(demo), text)
    assert next(hit.subject for hit in hits if hit.subject) == first


def test_find_answers_a_small_sum(demo: Job) -> None:
    assert "between 14 AWG and 12 AWG" in search(Analysis(demo), "2.5 mm2")[0].text
    assert search(Analysis(demo), "zebra") == []
    assert search(Analysis(demo), " ") == []


def test_find_by_keyboard(demo_window: MainWindow) -> None:
    page(demo_window, "Sheets")
    demo_window.commands.open_find()
    box = demo_window.commands.find_box
    assert isinstance(box, FindBox)
    QTest.keyClicks(box.field, "injector")
    QTest.keyClick(box.field, Qt.Key.Key_Down)
    QTest.keyClick(box.field, Qt.Key.Key_Return)
    assert not box.isVisible()
    assert demo_window.hand.subject.startswith("W")
    assert STAGES[demo_window.stage].name == "Circuits"
    demo_window.commands.open_find()
    box.field.setText("nowhere to be found")
    assert "Nothing in this job matches" in box.hint.text()
    box.hide()


# Files


def test_the_window_comes_back_as_it_was_left(qtbot: QtBot, tmp_path: Path) -> None:
    first = open_window(qtbot, tmp_path)
    first.files.open_demo()
    assert first.files.save_as(tmp_path / "a.molvik")
    page(first, "Sizes")
    first.resize(1400, 900)
    first.hand.pick("W42")
    first.panels.splitter.setSizes([300, 700, 400])
    sizes = first.panels.splitter.sizes()
    first.close()
    again = open_window(qtbot, tmp_path)
    again.resize(1400, 900)
    again.files.open(tmp_path / "a.molvik")
    again.hand.pick("W42")
    assert STAGES[again.stage].name == "Sizes"
    assert [abs(a - b) < 12 for a, b in zip(again.panels.splitter.sizes(), sizes, strict=True)]
    assert again.panels.splitter.sizes()[0] > 280


def test_unsaved_work_is_asked_about_before_it_is_left(
    demo_window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "kept.molvik"
    demo_window.store.do("note", lambda job: edits.change_wire(job, "W1", note="mine"))
    assert demo_window.isWindowModified()
    answer(Question, press("Cancel"))
    assert not demo_window.close()
    assert demo_window.files.has_job
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    answer(Question, press("Save"))
    assert demo_window.files.close_job()
    assert read_job(path).wires[0].note == "mine"


def test_discarding_leaves_the_file_as_it_was(demo_window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "job.molvik"
    assert demo_window.files.save_as(path)
    before = path.read_bytes()
    demo_window.store.do("note", lambda job: edits.change_wire(job, "W1", note="not kept"))
    answer(Question, press("Discard"))
    assert demo_window.files.close_job()
    assert path.read_bytes() == before
    assert leftovers() == []


def test_a_file_that_cannot_be_opened_leaves_the_present_job(
    demo_window: MainWindow, tmp_path: Path
) -> None:
    job = demo_window.store.job
    bad = tmp_path / "bad.molvik"
    bad.write_bytes(b"PK\x03\x04 cut")
    newer = tmp_path / "newer.molvik"
    newer.write_text(json.dumps({"schema": 99}))
    for path, words in (
        (bad, "damaged or cut short"),
        (newer, "is not a Molvik job"),
        (tmp_path / "gone.molvik", "no file gone.molvik"),
    ):
        assert not demo_window.files.open(path)
        assert words in demo_window.notice.text()
        assert demo_window.store.job is job


def test_saving_where_one_may_not_says_so_and_keeps_the_job(
    demo_window: MainWindow, tmp_path: Path
) -> None:
    folder = tmp_path / "gone"
    assert not demo_window.files.save_as(folder / "x.molvik")
    assert "not there any more" in demo_window.notice.text()
    assert demo_window.store.path is None
    blocked = tmp_path / "blocked"
    blocked.mkdir()
    target = blocked / "x.molvik"
    put_job(small_job(), target)
    blocked.chmod(stat.S_IRUSR | stat.S_IXUSR)
    saved = demo_window.files.save_as(target)
    blocked.chmod(stat.S_IRWXU)
    if not saved:  # root may write anywhere
        assert "may not write there" in demo_window.notice.text()
        assert read_job(target) == small_job()


def test_a_job_open_in_another_window_is_only_opened_as_a_copy(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "job.molvik"
    assert demo_window.files.save_as(path)
    other = open_window(qtbot, tmp_path)
    answer(Question, press("Cancel"))
    assert not other.files.open(path)
    assert not other.files.has_job
    answer(Question, press("Open a copy"))
    assert other.files.open(path)
    assert other.store.path is None, "a copy has no file yet"
    assert other.store.unsaved
    assert not other.files.save_as(path)
    assert "open in another window" in other.notice.text()


def test_an_unsaved_job_survives_a_crash_and_is_offered_again(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = """
import os, sys
sys.path.insert(0, sys.argv[1])
from pathlib import Path
from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication
from molvik.desktop.jobfile import files as jobfiles, keeping
from molvik.desktop.window import MainWindow
from molvik.model import edits
keeping.KEEP_AFTER_MS = 10
application = QApplication([])
window = MainWindow(QSettings(sys.argv[2], QSettings.Format.IniFormat))
window.files.open_demo()
window.store.do("x", lambda job: edits.change_wire(job, "W1", note="before the crash"))
kept = QTimer()
kept.timeout.connect(lambda: list(Path(sys.argv[3]).rglob("*.recovery")) and os._exit(9))
kept.start(20)
application.exec()
"""
    done = subprocess.run(
        [
            sys.executable,
            "-c",
            script,
            str(Path(__file__).parent),
            str(tmp_path / "s.ini"),
            str(tmp_path),
        ],
        timeout=300,
    )
    assert done.returncode == 9
    window = open_window(qtbot, tmp_path)
    left = leftovers()
    assert len(left) == 1
    window.welcome.recovered.emit(left[0])
    assert window.store.job.wires[0].note == "before the crash"
    assert window.store.unsaved
    qtbot.waitUntil(lambda: leftovers() == [])


def test_a_saved_or_undone_job_leaves_no_recovery_copy(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(keeping, "KEEP_AFTER_MS", 5)
    window = open_window(qtbot, tmp_path)
    window.files.open_demo()
    window.store.do("x", lambda job: edits.change_wire(job, "W1", note="y"))
    folder = tmp_path / "xdg_state_home" / "molvik" / "recovery"
    qtbot.waitUntil(lambda: bool(list(folder.glob("*.recovery"))))
    assert window.files.save_as(tmp_path / "job.molvik")
    qtbot.waitUntil(lambda: not list(folder.glob("*.recovery")))


def test_the_first_screen_offers_recent_files(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "My tender.molvik"
    put_job(small_job(), path)
    first = open_window(qtbot, tmp_path)
    assert first.files.open(path)
    first.files.close_job()
    texts = [one.text() for one in first.welcome.findChildren(QAbstractButton)]
    assert "My tender" in texts
    path.unlink()
    again = open_window(qtbot, tmp_path)
    assert again.files.recent() == []


def test_the_name_of_a_new_job_can_be_typed_at_once(demo_window: MainWindow) -> None:
    demo_window.commands.new_job()
    dialog = demo_window.findChild(JobSettings)
    assert dialog is not None
    QTest.keyClicks(dialog.focusWidget(), "Skiff engine loom")
    QTest.keyClick(dialog.focusWidget(), Qt.Key.Key_Return)
    assert demo_window.store.job.title == "Skiff engine loom"


def test_job_settings_refuse_what_makes_no_sense(demo_window: MainWindow) -> None:
    dialog = JobSettings(demo_window, demo_window.store)
    dialog.title.setText(" ")
    dialog.accept()
    assert "needs a title" in dialog.notice.text()
    dialog.title.setText("Marten")
    dialog.ambient.setText("hot")
    dialog.accept()
    assert "is not a temperature" in dialog.notice.text()
    dialog.ambient.setText("176 F")
    dialog.stagger.setText("far")
    dialog.accept()
    assert "is not a length" in dialog.notice.text()
    dialog.stagger.setText("50")
    dialog.hour.setText("a lot")
    dialog.accept()
    assert "is not a price of an hour" in dialog.notice.text()
    dialog.hour.setText("62,50")
    dialog.currency.setText("pounds")
    dialog.accept()
    assert "not a currency" in dialog.notice.text()
    dialog.currency.setText("£")
    dialog.joints.setCurrentText("soldered")
    assert "stiffens the strands" in dialog.method.text()
    dialog.volts.setCurrentIndex(0)
    dialog.earth.setCurrentIndex(dialog.earth.findData("ground"))
    dialog.accept()
    settings = demo_window.store.job.settings
    assert (settings.joints, settings.stagger_m) == ("soldered", 0.05)
    assert (settings.hour_price, settings.currency) == (62.5, "GBP")
    assert (settings.system_v, round(settings.ambient_c), settings.earth_word) == (6, 80, "ground")


def test_an_empty_job_is_calm_in_every_stage(window: MainWindow, qtbot: QtBot) -> None:
    window.files.new()
    for _, name, _ in STAGES:
        page(window, name)
    looked_over(qtbot, window)
    assert window.strip.counts["stop"].text() == "0 to fix"
    assert "Nothing found" in window.strip.worst.text()
    assert "Run one in Circuits" in page(window, "Sizes").detail.verdict.text()
    assert page(window, "Proving").empty.isVisible()
    assert page(window, "Pinouts").empty.isVisible()


def test_the_window_really_opens_on_an_x_display(tmp_path: Path) -> None:
    """Under Xvfb, with Qt's own X11 platform: keys, a picture with our colours, a clean end."""
    script = tmp_path / "drive.py"
    script.write_text(
        """
import sys
from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from molvik.desktop import theme
from molvik.desktop.start import end
from molvik.desktop.window import MainWindow
application = QApplication([])
theme.apply(application)
window = MainWindow(QSettings(sys.argv[1], QSettings.Format.IniFormat))
window.show()
assert QTest.qWaitForWindowExposed(window)
window.files.open_demo()
window.activateWindow()
QTest.qWait(300)
QTest.keyClick(window, Qt.Key.Key_5, Qt.KeyboardModifier.ControlModifier)
QTest.qWait(300)
picture = window.screen().grabWindow(0).toImage()
tints = {picture.pixelColor(x, y).name() for x in range(0, 1270, 3) for y in range(0, 790, 3)}
print(application.platformName(), window.stage, "#ad5b27" in tints)
window.store.history.setClean()
window.close()
sys.exit(end(0))
"""
    )
    command = [sys.executable, str(script), str(tmp_path / "s.ini")]
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", *command],
        env={**os.environ, "QT_QPA_PLATFORM": "xcb"},
        capture_output=True,
        text=True,
        timeout=600,
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.split() == ["xcb", "4", "True"]


def test_nothing_heavy_is_imported_before_it_is_needed(tmp_path: Path) -> None:
    script = """
import sys
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from molvik.desktop import theme
from molvik.desktop.window import MainWindow
application = QApplication([])
theme.apply(application)
window = MainWindow(QSettings(sys.argv[1], QSettings.Format.IniFormat))
window.show()
application.processEvents()
heavy = {"scipy", "numpy", "networkx", "openpyxl", "reportlab", "pint", "rapidfuzz"}
print(sorted(heavy & set(sys.modules)))
"""
    done = subprocess.run(
        [sys.executable, "-c", script, str(tmp_path / "s.ini")], capture_output=True, text=True
    )
    assert done.stdout.strip() == "[]", done.stderr


def test_what_was_typed_for_one_wire_never_lands_on_another(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W42")
    field = wire_card(demo_window).fields["Note"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "for the pump")
    demo_window.hand.pick("W43")
    notes = {w.code: w.note for w in demo_window.store.job.wires}
    assert (notes["W42"], notes["W43"]) == ("for the pump", "")
    assert field.text() == ""


def test_saving_takes_up_what_stands_in_a_field(demo_window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "job.molvik"
    assert demo_window.files.save_as(path)
    page(demo_window, "Circuits")
    demo_window.hand.pick("W42")
    field = wire_card(demo_window).fields["Note"]
    field.setFocus()
    QTest.keyClicks(field, " typed but not entered")
    field.clearFocus()
    assert demo_window.files.save()
    note = read_job(path).wires[41].note
    assert "typed but not entered" in note


def test_f_turns_the_connector_over_from_the_work_list(demo_window: MainWindow) -> None:
    pinouts = page(demo_window, "Pinouts")
    assert pinouts.face.face == "mating face"
    pinouts.flip_button.click()
    assert pinouts.face.face == "wire side"
    assert pinouts.flip_button.text() == "Show mating face"


def test_a_recovery_copy_older_than_its_file_does_not_overwrite_it(
    window: MainWindow, tmp_path: Path, demo: Job
) -> None:
    path = tmp_path / "job.molvik"
    put_job(demo, path)
    file = tmp_path / "xdg_state_home" / "molvik" / "recovery" / "old.molvik"
    file.parent.mkdir(parents=True, exist_ok=True)
    put_job(small_job(), file)
    file.with_suffix(".origin").write_text(str(path))
    os.utime(file, (1, 1))
    window.files.recover(leftovers()[0])
    assert window.store.path is None
    assert window.store.unsaved
    assert read_job(path) == demo


@pytest.mark.parametrize(
    ("code", "fields", "check"),
    [
        ("F5", {"Rating": "10"}, lambda part: part.rating_a == 10),
        ("S2", {"Node": "crimped"}, lambda part: part.joint == "crimped"),
        ("E2", {"Name": "Cab floor, left"}, lambda part: part.name == "Cab floor, left"),
        (
            "K2",
            {"Terminals": "30 87 87a 86 85", "Closed when on": "30-87 30-87a"},
            lambda part: part.joins == (("30", "87"), ("30", "87a")),
        ),
    ],
)
def test_a_part_in_hand_can_be_changed(
    demo_window: MainWindow,
    qtbot: QtBot,
    code: str,
    fields: dict[str, str],
    check: Callable[[Any], bool],
) -> None:
    def fill(dialog: PartDialog) -> None:
        for name, text in fields.items():
            dialog.set_text(name, text)
        dialog.accept()

    page(demo_window, "Circuits")
    demo_window.hand.pick(code)
    answer(PartDialog, fill)
    qtbot.mouseClick(demo_window.in_hand.change, LEFT)
    part = demo_window.store.job.part(code)
    assert part is not None
    assert check(part)
    assert part.code == code
    demo_window.store.history.undo()
    assert not demo_window.store.unsaved


def test_all_fields_of_a_part_go_with_its_window(demo_window: MainWindow, qtbot: QtBot) -> None:
    """A field that lies in no window would never be freed."""
    for kind in ("fuse", "splice", "earth point", "device"):
        dialog = PartDialog(demo_window, demo_window.store, kind)
        fields = (*dialog.findChildren(QLineEdit), *dialog.findChildren(QComboBox))
        own = (*dialog.fields.values(), dialog.device_kind)
        assert len(own) > 1
        assert {id(one) for one in own} <= {id(one) for one in fields}
        dialog.deleteLater()


def test_a_part_that_makes_no_sense_is_refused_in_its_window(demo_window: MainWindow) -> None:
    for kind, fields, words in (
        ("fuse", {"Name": "x", "Rating": "much"}, "is not a current"),
        ("fuse", {"Name": "x", "Rating": "0"}, "rating above zero"),
        ("earth point", {"Name": " "}, "Give it a name"),
        ("device", {"Name": "x", "Terminals": " "}, "Name its terminals"),
        ("device", {"Name": "x", "Terminals": "1 2", "Closed when on": "1-3"}, "does not join two"),
    ):
        dialog = PartDialog(demo_window, demo_window.store, kind)
        for name, text in fields.items():
            dialog.set_text(name, text)
        dialog.accept()
        assert words in dialog.notice.text()
    assert not demo_window.store.history.canUndo()


def test_lists_are_copied_as_text(demo_window: MainWindow) -> None:
    demo_window.strip.show_all()
    demo_window.strip.list.selectAll()
    demo_window.strip.list.setFocus()
    QTest.keyClick(demo_window.strip.list, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = QGuiApplication.clipboard().text().splitlines()
    assert len(lines) == demo_window.strip.list.count()
    assert lines[0].startswith("fix · Injector 1, Injector 2")


def test_insulation_is_offered_as_a_list(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W42")
    field = wire_card(demo_window).fields["Insulation"]
    qtbot.mouseClick(field, LEFT)
    completer = field.completer()
    assert completer is not None
    popup = completer.popup()
    assert popup is not None
    assert popup.isVisible()
    assert completer.completionCount() == len(INSULATIONS)
    popup.hide()
    type_field(field, "gxl")
    assert demo_window.store.job.wires[41].insulation == "GXL"
    type_field(field, "paper")
    assert "is not an insulation known here" in demo_window.in_hand.notice.text()
