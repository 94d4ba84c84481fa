"""The Survey page in the real window."""

from typing import Any, get_args

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QLineEdit, QListView
from pytestqt.qtbot import QtBot

from conftest import cell, give_up, looked_over, page, type_cell
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.window import MainWindow
from molvik.model.loom import Fault, FaultKind, FoundWire, Node, Segment

LEFT = Qt.MouseButton.LeftButton


def test_a_loom_is_typed_stretch_by_stretch_and_drawn_at_once(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()
    survey = page(window, "Survey")
    assert survey.view.loom_drawing() is None
    stretches = survey.table_of[Segment]
    for start, finish, length in (
        ("Bulkhead plug", "First breakout", "480 mm"),
        ("First breakout", "Lamp", "22 in"),
        ("n2", "Horn", "0.3"),
    ):
        stretches.edit_cell("", "From")
        for text in (start, finish, length):
            editor = stretches.indexWidget(stretches.currentIndex())
            QTest.keyClicks(editor, text)
            QTest.keyClick(editor, Qt.Key.Key_Tab)
        stretches.closePersistentEditor(stretches.currentIndex())
    loom = window.store.job.loom
    assert [node.name for node in loom.nodes] == ["Bulkhead plug", "First breakout", "Lamp", "Horn"]
    assert [(s.start, s.finish) for s in loom.segments] == [
        ("N1", "N2"),
        ("N2", "N3"),
        ("N2", "N4"),
    ]
    assert loom.segments[1].length_m == pytest.approx(0.5588)
    assert len(survey.view.loom_drawing().places) == 4
    assert survey.about.text() == "3 ends, 1 breakout · 0 wires · 1.3 m"
    # A wire, and a fault on it, with its decision.
    survey.tabs.setCurrentIndex(2)
    found = survey.table_of[FoundWire]
    type_cell(found, "", "From", "Bulkhead plug")
    type_cell(found, "L1", "To", "lamp")
    type_cell(found, "L1", "Measured", "50 x 0.25")
    assert cell(found, "L1", "Size") == "2.5 mm²"
    type_cell(found, "L1", "Fused", "no")
    survey.tabs.setCurrentIndex(3)
    faults = survey.table_of[Fault]
    type_cell(faults, "", "On", "l1")
    type_cell(faults, "X1", "Fault", "burnt")
    type_cell(faults, "X1", "Grade", "4")
    assert cell(faults, "X1", "Do") == "replace end to end"
    assert window.in_hand.title.text() == "Burnt"
    looked_over(qtbot, window)
    assert window.strip.counts["stop"].text() == "1 to fix"
    assert sum(window.trunk.breakouts[0].waits[:3]) == 1
    # The user decides otherwise, with a reason.
    type_cell(faults, "X1", "Own decision", "splice")
    type_cell(faults, "X1", "Reason", "only the first hand's breadth")
    assert cell(faults, "X1", "Do") == "splice in a piece (own)"
    before = window.store.job
    while window.store.history.canUndo():
        window.store.history.undo()
    assert window.store.job.loom.nodes == ()
    while window.store.history.canRedo():
        window.store.history.redo()
    assert window.store.job == before


def test_what_is_clicked_in_the_drawing_is_in_hand(demo_window: MainWindow, qtbot: QtBot) -> None:
    survey = page(demo_window, "Survey")
    loom = demo_window.store.job.loom
    view = survey.view
    qtbot.mouseClick(view.viewport(), LEFT, pos=view.spot("N20"))
    assert demo_window.hand.subject == "N20"
    assert demo_window.in_hand.title.text() == "Tail link plug"
    assert survey.tabs.currentWidget() is survey.table_of[Node]
    fault = next(one for one in loom.faults if one.code == "X9")
    qtbot.mouseClick(view.viewport(), LEFT, pos=view.spot(fault.code))
    assert demo_window.hand.subject == "X9"
    free = next(one.code for one in loom.segments if view.hit(view.spot(one.code)).ref == one.code)
    middle = view.spot(free)
    qtbot.mouseClick(view.viewport(), LEFT, pos=middle)
    assert demo_window.hand.subject == free, "a stretch is hit along its line"
    assert free in view.accessibleDescription(), "and told to who cannot see it"
    view.setFocus()
    seen = set()
    for key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):
        qtbot.keyClick(view, key)
        seen.add(view.accessibleDescription())
    assert len(seen) > 2, "the arrows walk over the loom"
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert demo_window.hand.subject == view.drawing.areas[view.place].ref
    demo_window.hand.pick("L17")
    assert view.loom_drawing("L17")._held() == {"B1", "B4", "B8", "B11", "B14", "B15"}
    assert "a supply without one" in [v.text() for _, v in demo_window.in_hand.facts._rows]


def test_a_fault_leads_to_its_decision_and_its_neighbours(demo_window: MainWindow) -> None:
    survey = page(demo_window, "Survey")
    faults = demo_window.store.job.loom.faults
    assert len(survey.table_of[Fault].things.things) == len(faults) + 1  # and the row for a new one
    survey.list.setCurrentRow(2)
    assert survey.list.text(2) == "Dangerous 3"
    assert demo_window.hand.subject == "X1"
    assert survey.tabs.currentWidget() is survey.table_of[Fault]
    assert [fault.grade for fault in survey.table_of[Fault].things.things[:-1]] == [4, 4, 4]
    demo_window.hand.pick(next(fault.code for fault in faults if fault.grade < 4))
    assert survey.table_of[Fault].current_key() == demo_window.hand.subject
    demo_window.hand.pick("X1")
    facts = [value.text() for _, value in demo_window.in_hand.facts._rows]
    assert "replace end to end" in facts
    assert "3.58 m of covering" in facts
    assert any(text.startswith("L18 Blue beacon earth") for text in facts)


def test_refusals_say_why_where_it_happened(demo_window: MainWindow, qtbot: QtBot) -> None:
    survey = page(demo_window, "Survey")
    survey.tabs.setCurrentIndex(0)
    for heading, text, words in (
        ("Length", "-2 m", "not likely"),
        ("To", "N99", "There is no node N99"),
        ("To", "N1", "starts and ends at N1"),
        ("Ties", "some", "whole number"),
    ):
        type_cell(survey.table_of[Segment], "B1", heading, text)
        assert words in survey.notice.text()
        give_up(qtbot, survey.table_of[Segment], text)
    assert not demo_window.store.unsaved
    demo_window.hand.pick("N2")
    demo_window.in_hand.remove.click()
    assert "Move them first" in demo_window.in_hand.notice.text()
    survey.tabs.setCurrentIndex(3)
    faults = survey.table_of[Fault]
    faults.selectRow(0)
    faults.setFocus()
    QTest.keyClick(faults, Qt.Key.Key_Delete)
    assert demo_window.store.job.loom.faults[0].code == "X2"


def test_find_knows_the_loom(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window._go_to("L26")
    assert demo_window.stage == 0
    assert demo_window.in_hand.title.text() == "Tank level"


def _list(table: ThingsTable[Any]) -> tuple[QLineEdit, QListView]:
    """Return the field of the cell that is open, and the list under it."""
    editor = table.indexWidget(table.currentIndex())
    assert isinstance(editor, QLineEdit)
    completer = editor.completer()
    assert completer is not None
    popup = completer.popup()
    assert isinstance(popup, QListView)
    return editor, popup


def shown(popup: QListView) -> list[str]:
    model = popup.model()
    return [model.index(row, 0).data() for row in range(model.rowCount())]


def test_a_fault_is_chosen_from_a_list_by_what_people_call_it(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    survey = page(demo_window, "Survey")
    survey.tabs.setCurrentIndex(3)
    faults = survey.table_of[Fault]
    type_cell(faults, "", "On", "L1")
    code = demo_window.store.job.loom.faults[-1].code

    def kind() -> str:
        return demo_window.store.job.loom.faults[-1].kind

    faults.edit_cell(code, "Fault")
    editor, popup = _list(faults)
    editor.clear()
    QTest.keyClicks(editor, "crimp")
    qtbot.waitUntil(popup.isVisible)
    (offered,) = shown(popup)
    assert offered.startswith("bad terminal (")
    assert "bad crimp" in offered
    QTest.keyClick(popup, Qt.Key.Key_Down)
    QTest.keyClick(popup, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: kind() == "bad terminal")
    # A word typed whole is taken with Enter, list or no list.
    faults.edit_cell(code, "Fault")
    editor, popup = _list(faults)
    editor.clear()
    QTest.keyClicks(editor, "chewed")
    qtbot.waitUntil(popup.isVisible)
    QTest.keyClick(popup, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: kind() == "chafed through")
    qtbot.waitUntil(lambda: faults.state() != QAbstractItemView.State.EditingState)


def test_an_empty_cell_opens_the_whole_list(demo_window: MainWindow, qtbot: QtBot) -> None:
    survey = page(demo_window, "Survey")
    survey.tabs.setCurrentIndex(3)
    faults = survey.table_of[Fault]
    faults.edit_cell("", "Fault")
    editor, popup = _list(faults)
    if editor.text():
        editor.clear()
        QTest.keyClick(editor, Qt.Key.Key_Down)
    qtbot.waitUntil(popup.isVisible)
    assert len(shown(popup)) == len(get_args(FaultKind))
    QTest.keyClick(popup, Qt.Key.Key_Escape)
