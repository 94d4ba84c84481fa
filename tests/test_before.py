"""Before it is opened: the list, and the cards at the bench."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from conftest import answer, page
from molvik.desktop.logline import JotDialog
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.window import MainWindow
from molvik.logbook.story import story
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import Tick
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import WireSize
from molvik.survey.before import before_opening
from molvik.survey.tree import LoomTree


def test_nothing_is_cut_before_it_is_marked_measured_and_photographed() -> None:
    loom = Loom(
        (Node("N1", "Plug"), Node("N2", "Breakout"), Node("N3", "Lamp"), Node("N4", "Horn")),
        (
            Segment("B1", "N1", "N2", 1.0),
            Segment("B2", "N2", "N3", 1.0),
            Segment("B3", "N2", "N4"),
        ),
        (
            FoundWire("L1", "N1", "N3"),
            FoundWire("L2", "N1", "N4", size=WireSize("metric", 1), known="traced"),
        ),
        (Fault("X1", "L1", "burnt"),),
    )
    # By hand: battery; three ends; one breakout; a length, a gauge, a trace; one fault.
    assert [step.key for step in before_opening(LoomTree(loom))] == [
        "battery",
        "mark N1",
        "mark N3",
        "mark N4",
        "photo N2",
        "measure B3",
        "gauge L1",
        "trace L1",
        "fault X1",
    ]


def test_a_tick_keeps_its_first_time_and_stands_in_the_story() -> None:
    first = Tick("before it is opened", "battery", "2026-11-02T10:00:00+01:00", "IM")
    again = Tick("before it is opened", "battery", "2026-11-03T10:00:00+01:00", "IM")
    job = edits.tick(edits.tick(Job("x"), first), again)
    assert job.ticks == (first,)
    assert [line.kind for line in story(job)] == ["ticked"]
    assert edits.untick(job, "before it is opened", "battery").ticks == ()


def cards_of(window: MainWindow) -> StepCards:
    found = [one for one in QApplication.topLevelWidgets() if isinstance(one, StepCards)]
    return next(one for one in found if one.isVisible())


def test_cards_are_driven_with_one_hand_and_gone_on_with_next_week(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    survey = page(demo_window, "Survey")
    steps = before_opening(demo_window.store.analysis.loom)
    assert survey.bench_button.text() == f"Before it is opened: {len(steps)} to do"
    survey.bench_button.click()
    cards = cards_of(demo_window)
    assert cards.headline.text() == "Battery off"
    for key in (Qt.Key.Key_Space, Qt.Key.Key_Space):
        QTest.keyClick(cards, key)
    assert cards.headline.text() == "Mark Key switch"
    assert demo_window.hand.subject == "N3"
    assert [one.step for one in demo_window.store.job.ticks] == ["battery", "mark N1"]
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    assert len(demo_window.store.job.ticks) == 1
    QTest.keyClick(cards, Qt.Key.Key_Right)
    QTest.keyClick(cards, Qt.Key.Key_Left)
    assert len(demo_window.store.job.ticks) == 1, "looking ticks nothing"

    def write(dialog: JotDialog) -> None:
        QTest.keyClicks(dialog.text, "label fell off")
        dialog.accept()

    answer(JotDialog, write)
    QTest.keyClick(cards, Qt.Key.Key_N)
    assert demo_window.store.job.log[-1].text == "label fell off"
    QTest.keyClick(cards, Qt.Key.Key_Escape)
    # Next week: the cards begin at the first step that is not done.
    survey.bench_button.click()
    again = cards_of(demo_window)
    assert again.at == 1
    assert again.headline.fontInfo().pixelSize() >= 50, "read from two metres"
    for _ in steps:
        QTest.keyClick(again, Qt.Key.Key_Space)
    assert "all steps are done" in again.state.text()
    assert survey.bench_button.text() == "All recorded"
    again.close()
