"""What a newcomer begins with, from an empty job, by mouse and keyboard: no dead end, few actions.

An action is a click, a key, or a text typed in one go. How many each job took is written to the
file that MOLVIK_COUNTS names, if any.
"""

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QWidget,
)
from pytestqt.qtbot import QtBot
from shiboken6 import isValid

from conftest import answer, looked_over, page, wire_card
from molvik.analysis import Analysis
from molvik.circuits.scenario import go_through, scenarios, states_of
from molvik.demo import DONOR_TABLE, ECU_TABLE
from molvik.desktop.dialogs.jobsettings import JobSettings
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.stages.circuits.laying import BlockDialog
from molvik.desktop.stages.crossover.setdialog import SetDialog
from molvik.desktop.stages.pinouts.importing import ImportDialog
from molvik.desktop.stages.sizes.many import ResizeDialog
from molvik.desktop.window import MainWindow
from molvik.model import edits
from molvik.model.parts import End
from test_slice import centre_of

KEY, LEFT = Qt.Key, Qt.MouseButton.LeftButton


def is_open(dialog: QDialog) -> bool:
    """Whether a dialog is still there; closed, it is freed."""
    return isValid(dialog) and dialog.isVisible()


class Hands:
    """Works the window, and counts."""

    def __init__(self, window: MainWindow, qtbot: QtBot) -> None:
        self.window, self.qtbot = window, qtbot
        self.count = 0

    def focus(self) -> QWidget:
        """Return what has the focus; offscreen a window is not active again after a dialog."""
        self.window.activateWindow()
        self.qtbot.waitUntil(lambda: QApplication.focusWidget() is not None)
        widget = QApplication.focusWidget()
        assert widget is not None
        return widget

    def click(self, widget: QWidget, at: QPoint | None = None) -> None:
        assert widget.isVisible(), widget.accessibleName()
        assert widget.isEnabled(), widget.accessibleName()
        self.count += 1
        QTest.mouseClick(widget, LEFT, pos=at or widget.rect().center())

    def key(self, key: Qt.Key, *, ctrl: bool = False, into: QWidget | None = None) -> None:
        """Press a key where the focus is; in a dialog, which offscreen is not active, into it."""
        self.count += 1
        modifier = Qt.KeyboardModifier.ControlModifier if ctrl else Qt.KeyboardModifier.NoModifier
        widget = into or self.focus()
        QTest.keyClick(widget, key, modifier)
        QTest.qWait(1)

    def write(
        self, text: str, then: Qt.Key | None = None, *, into: QLineEdit | None = None
    ) -> None:
        self.count += 1
        widget = into or self.focus()
        assert isinstance(widget, QLineEdit), widget
        QTest.keyClicks(widget, text)
        if then is not None:
            self.key(then, into=into)

    def go(self, name: str) -> Any:
        self.count += 1  # Ctrl and its number
        return page(self.window, name)

    def choose(self, box: QComboBox, text: str) -> None:
        """Open a list of choices and take one."""
        self.count += 2
        index = box.findText(text, Qt.MatchFlag.MatchContains)
        assert index >= 0, text
        box.setCurrentIndex(index)
        box.activated.emit(index)

    def entry(self, menu: QMenu, text: str) -> None:
        """Open a menu and take an entry."""
        self.count += 2
        next(action for action in menu.actions() if action.text().startswith(text)).trigger()

    def row(self, table: Any, key: str, heading: str, *texts: str) -> None:
        """Click into a cell and type along the row: Tab goes to the next, Enter ends."""
        number = [column.heading for column in table.things.columns].index(heading)
        index = table.things.index(table.things.row_of(key), number)
        QTest.qWait(1)  # what was laid out anew is where it is seen
        table.scrollTo(index)
        self.click(table.viewport(), table.visualRect(index).center())
        self.key(KEY.Key_Return)
        for place, text in enumerate(texts):
            last = place == len(texts) - 1
            if text:
                self.write(text)
            self.key(KEY.Key_Return if last else KEY.Key_Tab)
            while table.state() == QAbstractItemView.State.EditingState and last:
                QTest.qWait(2)


@pytest.fixture
def hands(window: MainWindow, qtbot: QtBot, request: pytest.FixtureRequest) -> Iterator[Hands]:
    """A pair of hands at a window with a job that was just begun and named."""
    made = Hands(window, qtbot)

    def name_it(dialog: JobSettings) -> None:
        dialog.title.selectAll()
        made.write("Mine", KEY.Key_Return, into=dialog.title)
        if is_open(dialog):
            dialog.accept()

    answer(JobSettings, name_it)
    made.click(window.welcome.new_button)
    qtbot.waitUntil(lambda: window.store.job.title == "Mine")
    yield made
    if os.environ.get("MOLVIK_COUNTS"):
        with Path(os.environ["MOLVIK_COUNTS"]).open("a") as told:
            told.write(f"{request.node.name}: {made.count}\n")


def bring_in(
    hands: Hands, guide_button: QPushButton, table: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Import a table as a connector of its own: the button, the file, and Take."""
    from PySide6.QtWidgets import QFileDialog

    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(table), ""))
    hands.count += 2  # the file is chosen and opened
    hands.click(guide_button)
    found = [one for one in QApplication.topLevelWidgets() if isinstance(one, ImportDialog)]
    dialog = next(one for one in found if one.isVisible())
    hands.qtbot.waitUntil(lambda: dialog.reading is not None)
    if dialog.into.currentData():
        hands.choose(dialog.into, "new connector")
    hands.qtbot.waitUntil(dialog.take.isEnabled)
    hands.click(dialog.take)
    assert not is_open(dialog)


def add_device(hands: Hands, button: QWidget | None, kind: str, name: str) -> None:
    """Add a device in its window: its kind, its name, Enter."""

    def fill(dialog: PartDialog) -> None:
        hands.write(name, into=dialog.name)
        hands.choose(dialog.device_kind, kind)
        hands.key(KEY.Key_Return, into=dialog.name)
        if is_open(dialog):
            hands.count += 1
            dialog.accept()

    answer(PartDialog, fill)
    if button is not None:
        hands.click(button)
    else:
        circuits: Any = hands.window.pages[hands.window.stage]
        hands.entry(circuits.add_menu, "Device")


def test_a_table_is_imported_and_six_wires_run(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = hands.window
    pinouts = hands.go("Pinouts")
    bring_in(hands, pinouts.empty.buttons[0], ECU_TABLE, monkeypatch)
    circuits = hands.go("Circuits")
    add_device(hands, None, "battery", "Battery")
    add_device(hands, None, "lamp", "Check lamp")
    lines = ("D1 +\tC1 1", "D1 -\tC1 2", "D1 +\tD2 +", "D2 -\tC1 3", "C1 4\tC1 5", "D1 -\tC1 6")
    for line in lines:
        start, finish = line.split("\t")
        hands.row(circuits.table, "", "From", start, finish)
    assert len(window.store.job.wires) == 6
    assert all(wire.start.at and wire.finish.at for wire in window.store.job.wires)
    assert hands.count <= 88


def test_six_wires_are_run_by_pointing_at_cavities(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    pinouts = hands.go("Pinouts")
    bring_in(hands, pinouts.empty.buttons[0], ECU_TABLE, monkeypatch)
    bring_in(hands, pinouts.import_button, DONOR_TABLE, monkeypatch)
    circuits = hands.go("Circuits")
    ends = circuits.first.part.currentData(), circuits.second.part.currentData()
    assert ends == ("C1", "C2"), "two ends of a wire are seldom at one part"
    asked: list[str] = []

    def take_the_first(question: Question) -> None:
        asked.append(question.more.text())
        hands.click(question.buttons[0])

    answer(Question, take_the_first)
    for start, finish in zip(
        ("1", "2", "3", "4", "5", "6"), ("8", "9", "10", "11", "12", "14"), strict=True
    ):
        hands.click(circuits.first.face.viewport(), centre_of(circuits.first.face, start))
        hands.click(circuits.second.face.viewport(), centre_of(circuits.second.face, finish))
        hands.click(circuits.run_button)
    assert len(hands.window.store.job.wires) == 6
    assert len(asked) == 1, "whose word counts is asked once, not for each wire"
    assert "says" in asked[0]
    assert hands.count <= 49
    # What is typed into the wire in hand is followed.
    hands.window.hand.pick("W1")
    hands.window.store.do("moved", lambda job: edits.change_wire(job, "W1", finish=End("C1", "20")))
    assert circuits.second.end() == End("C1", "20")


def test_a_plug_is_repinned_from_two_tables(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window = hands.window
    crossover = hands.go("Crossover")
    bring_in(hands, crossover.empty.buttons[0], DONOR_TABLE, monkeypatch)
    crossover = hands.go("Crossover")
    bring_in(hands, crossover.empty.buttons[1], ECU_TABLE, monkeypatch)
    crossover = hands.go("Crossover")

    def fill(dialog: SetDialog) -> None:
        hands.write("Engine plug", into=dialog.name)
        hands.count += 1
        dialog.sources.item(0).setCheckState(Qt.CheckState.Checked)
        hands.choose(dialog.target, "C2")
        hands.count += 1
        dialog.accept()
        assert not is_open(dialog), dialog.notice.text()

    answer(SetDialog, fill)
    hands.click(crossover.empty.buttons[2])
    assert crossover.plan() is not None
    crossover.table.setFocus()
    hands.key(KEY.Key_A, ctrl=True)
    hands.click(crossover.confirm_button)
    plan = crossover.plan()
    assert plan.moves
    assert not plan.broken
    planned = hands.count
    assert planned <= 40
    hands.click(crossover.bench_button)
    cards = next(one for one in window.findChildren(QDialog) if one.isVisible())
    for _ in range(3):
        hands.count += 1
        QTest.keyClick(cards, KEY.Key_Space)
    assert window.store.job.ticks
    cards.close()
    # Each step at the bench is one press of Space, as it was.
    assert hands.count <= planned + 4


def test_a_loom_with_three_faults_is_taken_down(hands: Hands) -> None:
    survey = hands.go("Survey")
    window, kinds = hands.window, list(survey.table_of)
    stretches, faults = survey.table_of[kinds[0]], survey.table_of[kinds[3]]
    hands.click(survey.guide.buttons[1])
    for place, text in enumerate(("Bulkhead plug", "Breakout", "0.6 m")):
        hands.write(text, KEY.Key_Tab if place < 2 else KEY.Key_Return)
    hands.row(stretches, "", "From", "Breakout", "Lamp", "0.4 m")
    hands.row(stretches, "", "From", "Breakout", "Horn", "0.3 m")
    hands.count += 1
    survey.tabs.setCurrentWidget(faults)
    for on, what in (("B1", "chafed through"), ("B2", "burnt"), ("N3", "green copper")):
        hands.row(faults, "", "On", on, what)
    loom = window.store.job.loom
    assert (len(loom.segments), len(loom.faults)) == (3, 3)
    assert [fault.kind for fault in loom.faults] == ["chafed through", "burnt", "green copper"]
    looked_over(hands.qtbot, window)
    assert hands.count <= 60


def lay(hands: Hands, opener: Callable[[], None], title: str) -> None:
    """Lay a block by its first letters and Enter."""

    def choose(dialog: BlockDialog) -> None:
        for letter in title.split()[0][:3].upper():
            hands.key(Qt.Key(ord(letter)), into=dialog.list)
        assert dialog.list.currentItem().text() == title
        hands.qtbot.waitUntil(lambda: dialog.laid is not None)
        hands.count += 1
        QTest.keyClick(dialog, KEY.Key_Return)
        hands.qtbot.waitUntil(lambda: not is_open(dialog))

    answer(BlockDialog, choose)
    opener()


def test_a_run_stand_is_laid_from_blocks_and_starts(hands: Hands) -> None:
    circuits = hands.go("Circuits")
    lay(hands, lambda: hands.click(circuits.guide.buttons[0]), "Run stand")
    job = hands.window.store.job
    network = Analysis(job).network
    for scenario in scenarios(job):
        engine = [step.engine for step in go_through(network, states_of(scenario))]
        assert "turns and starts" in engine
    assert hands.count <= 31


def test_an_alternator_is_changed_for_a_larger_one(hands: Hands) -> None:
    """Charging is laid, the alternator is doubled, and its cable and fuse grow with it."""
    window = hands.window
    circuits = hands.go("Circuits")
    lay(hands, lambda: hands.click(circuits.guide.buttons[0]), "Charging")
    job = window.store.job
    alternator = next(one for one in job.devices if one.kind == "alternator")
    window.commands.open_find()
    hands.count += 1
    box: Any = window.commands.find_box
    hands.write("alternator", KEY.Key_Return, into=box.field)
    assert window.hand.subject == alternator.code

    def larger(dialog: PartDialog) -> None:
        figures = dialog.fields["Figures"]
        assert isinstance(figures, QLineEdit)
        figures.selectAll()
        hands.write("A=180", KEY.Key_Return, into=figures)
        if is_open(dialog):
            hands.count += 1
            dialog.accept()
        assert not is_open(dialog), dialog.notice.text()

    answer(PartDialog, larger)
    hands.click(window.in_hand.change)
    looked_over(hands.qtbot, window)
    sizes = hands.go("Sizes")
    assert sizes.title.text()
    cable = next(
        w
        for w in window.store.job.wires
        if f"{alternator.code}/B+" in (str(w.start), str(w.finish))
    )
    window.hand.pick(cable.code)
    field = wire_card(window).fields["Current"]
    hands.click(field)
    field.selectAll()
    hands.write("180 A", KEY.Key_Return)
    looked_over(hands.qtbot, window)
    before = window.store.analysis.electrics.sizings[cable.code]

    def set_them(dialog: ResizeDialog) -> None:
        hands.count += 1
        dialog.set_them()

    if not before.passes:
        answer(ResizeDialog, set_them)
        hands.click(sizes.many)
    looked_over(hands.qtbot, window)
    after = window.store.analysis.electrics.sizings[cable.code]
    assert all(one.passes for one in after.criteria if one.name != "fuse")
    assert hands.count <= 28
    QGuiApplication.processEvents()
