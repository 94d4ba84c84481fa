"""Crossover in the real window: decided, ordered, worked through at the bench with one hand."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from conftest import answer, cell, give_up, looked_over, page, type_cell
from molvik.crossover.repinplan import Happening
from molvik.desktop.beside.logline import JotDialog
from molvik.desktop.dialogs.questions import LineQuestion, Question
from molvik.desktop.stages.crossover import settling
from molvik.desktop.stages.crossover.page import CrossoverPage
from molvik.desktop.stages.crossover.setdialog import SetDialog
from molvik.desktop.widgets.cards import BIG_PX, StepCards
from molvik.desktop.window import MainWindow
from molvik.files.jobfile import read_job
from molvik.model import edits
from molvik.model.parts import End


@pytest.fixture
def plover(window: MainWindow, qtbot: QtBot) -> MainWindow:
    """The window on the Plover demo, in Crossover."""
    window.files.open_demo("plover")
    page(window, "Crossover")
    looked_over(qtbot, window)
    return window


def crossover(window: MainWindow) -> CrossoverPage:
    shown = page(window, "Crossover")
    assert isinstance(shown, CrossoverPage)
    return shown


def cards_of(window: MainWindow) -> StepCards:
    crossover(window).bench()
    return next(
        one
        for one in QApplication.topLevelWidgets()
        if isinstance(one, StepCards) and one.isVisible()
    )


def space(cards: StepCards, times: int = 1) -> None:
    for _ in range(times):
        QTest.keyClick(cards, Qt.Key.Key_Space)


def test_the_sets_show_how_far_they_are_and_what_waits(plover: MainWindow) -> None:
    shown = crossover(plover)
    texts = [shown.list.text(n) for n in range(shown.list.count())]
    assert texts[0].startswith("Engine computer plug 0/")
    assert "4 to decide" in texts[0]
    assert "6  moves" in shown.happens.text()
    assert "22  cavity plugs" in shown.happens.text()
    first = shown.model.things[0]
    assert (first.number, first.state) == ("", "decide")  # what waits stands on top
    assert shown.table.current_key() in ("", first.key)  # nothing is in hand yet


def test_a_match_is_typed_confirmed_and_taken_back(plover: MainWindow, qtbot: QtBot) -> None:
    shown = crossover(plover)
    assert cell(shown.table, "C1/14", "Goes to") == "C2/11?"
    type_cell(shown.table, "C1/14", "Goes to", "12")
    assert cell(shown.table, "C1/14", "Goes to") == "C2/12"
    assert cell(shown.table, "C1/14", "What happens") == "changes plug"
    shown.table.pick("C1/15")
    shown.table.selectRow(shown.table.currentIndex().row())
    shown.confirm()
    words = plover.store.job.repins[0].decided
    assert [(one.lead, one.to) for one in words] == [("C1/14", "C2/12"), ("C1/15", "C2/11")]
    type_cell(shown.table, "C1/14", "Goes to", " ")
    assert cell(shown.table, "C1/14", "Goes to") == "C2/12?"
    plover.store.history.undo()
    assert cell(shown.table, "C1/14", "Goes to") == "C2/12"


@pytest.mark.parametrize(
    ("text", "words"),
    [("99", "has no cavity 99"), ("C1/3", "has no cavity C1/3"), ("9", "is for nothing in this")],
)
def test_a_cavity_that_cannot_be_is_refused_and_nothing_lost(
    plover: MainWindow, qtbot: QtBot, text: str, words: str
) -> None:
    shown = crossover(plover)
    type_cell(shown.table, "C1/14", "Goes to", text)
    assert words in shown.notice.text()
    give_up(qtbot, shown.table, text)
    assert plover.store.job.repins[0].decided == ()


def test_stow_remove_join_and_longer_are_typed(plover: MainWindow, qtbot: QtBot) -> None:
    shown = crossover(plover)
    type_cell(shown.table, "C1/58", "Goes to", "remove")
    assert "Say why" in shown.notice.text()
    give_up(qtbot, shown.table, "remove")
    assert cell(shown.table, "C1/58", "What happens") == "decide"
    type_cell(shown.table, "C1/58", "Goes to", "remove, it has no immobiliser")
    assert cell(shown.table, "C1/58", "What happens") == "removed"
    type_cell(shown.table, "C1/47", "Goes to", "join 49")
    assert cell(shown.table, "C1/47", "Goes to") == "to C2/49"
    type_cell(shown.table, "C1/47", "Goes to", "stow, kept for later")
    assert cell(shown.table, "C1/47", "Why").startswith("you decided: stow, kept for later")
    assert cell(shown.table, "C1/47", "What happens") == "cut back, capped"
    type_cell(shown.table, "C1/8", "Longer", "12 in")
    assert cell(shown.table, "C1/8", "Longer") == "0.30 m"
    assert "0.30 m longer" in cell(shown.table, "C1/8", "What happens")


def pressed(button: QPushButton) -> None:
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def happening(window: MainWindow, lead: str) -> Happening:
    plan = crossover(window).plan()
    assert plan is not None
    return plan.by_lead[lead]


def test_a_lead_is_put_aside_for_a_reason_that_somebody_gave(plover: MainWindow) -> None:
    """No reason stands there to be taken with Enter."""
    shown = crossover(plover)
    shown.table.pick("C1/58")
    plover.hand.pick("W40")
    said: list[str] = []

    def nothing_then_a_reason(dialog: LineQuestion) -> None:
        assert "C1/58 Immobiliser line" in dialog.words.text()
        assert dialog.typed == ""
        dialog.accept()
        said.append(dialog.notice.text())
        dialog.type("  it has no immobiliser ")

    answer(LineQuestion, nothing_then_a_reason)
    pressed(shown.card.button_of("stow"))
    assert "Say why" in said[0]
    assert happening(plover, "C1/58").reason == "you decided: stow, it has no immobiliser"
    plover.store.history.undo()
    answer(LineQuestion, lambda dialog: dialog.reject())
    pressed(shown.card.button_of("stow"))
    assert happening(plover, "C1/58").action == "undecided"


def test_all_that_nothing_is_proposed_for_is_put_aside_at_once_with_a_reason(
    plover: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    shown = crossover(plover)
    asked: list[str] = []

    def reason(_parent: object, _word: str, what: str) -> str | None:
        asked.append(what)
        return None if len(asked) == 1 else "not used in this vehicle"

    monkeypatch.setattr("molvik.desktop.stages.crossover.page.ask_reason", reason)
    assert shown.rest_button.isVisible()
    pressed(shown.rest_button)
    assert happening(plover, "C1/58").action == "undecided", "given up: nothing was done"
    pressed(shown.rest_button)
    assert happening(plover, "C1/58").action == "stowed"
    assert "not used in this vehicle" in happening(plover, "C1/58").reason
    assert happening(plover, "C1/14").action == "undecided", "one with a proposal is not put aside"
    assert not shown.rest_button.isVisible()
    plover.store.history.undo()
    assert happening(plover, "C1/58").action == "undecided"


def test_the_lead_in_hand_has_a_card_that_says_why_and_decides(
    plover: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(settling, "ask_reason", lambda *_: "kept for later")
    shown, card = crossover(plover), crossover(plover).card
    shown.table.pick("C1/14")
    plover.hand.pick("W11")
    assert card.isVisible()
    assert "C1/14 IN Q1" in card._head.text()
    assert card.goes.text() == "C2/11 Coil A driver?"
    assert "78 of 100" in card.state.text()
    assert "not the same" in card.why.text()
    assert card.runners[0].text() == "C2/12 Coil B driver, 70"
    assert not card.button_of("take back").isEnabled()
    pressed(card.button_of("not this"))
    assert happening(plover, "C1/14").end != "C2/11"
    pressed(card.button_of("take back"))
    assert happening(plover, "C1/14").end == "C2/11"
    pressed(card.here_button)  # what is proposed
    assert happening(plover, "C1/14").match.state == "confirmed"  # type: ignore[union-attr]
    assert "you decided" in card.state.text()
    pressed(card.button_of("stow"))
    assert happening(plover, "C1/14").action == "stowed"
    pressed(card.button_of("remove"))
    assert happening(plover, "C1/14").action == "removed"
    pressed(card.button_of("take back"))
    pressed(card.runners[0])
    assert happening(plover, "C1/14").end == "C2/12"
    pressed(card.button_of("take back"))
    pressed(card.button_of("new wire"))
    plan = shown.plan()
    assert plan is not None
    assert "C2/11" in {one.end for one in plan.happenings if one.action == "new"}
    assert happening(plover, "C1/14").action == "stowed"
    for _ in range(9):
        plover.store.history.undo()
    assert happening(plover, "C1/14").end == "C2/11"
    # It goes with what is in hand, also after an edit: a connector is not a lead.
    plover.hand.pick("C2")
    assert not card.isVisible()
    plover.store.history.redo()
    assert not card.isVisible()
    plover.hand.pick("W11")
    assert card.isVisible()
    # The card belongs to this stage: another shows none.
    plover.go(plover.stage_named("Circuits"))
    assert not card.isVisible()


def test_two_leads_for_one_cavity_are_a_choice_on_screen(plover: MainWindow, qtbot: QtBot) -> None:
    shown, card = crossover(plover), crossover(plover).card
    there = "C1/7"  # sure to go to C2/52
    assert happening(plover, there).end == "C2/52"

    def choose(words: str) -> Callable[[Question], None]:
        def do(asked: Question) -> None:
            assert "C2/52 is for Permanent supply, from C1/7" in asked.text.text()
            asked.press(words)

        return do

    # A plain number in the table: nothing is pushed out without asking.
    before = plover.store.job
    answer(Question, choose("Cancel"))
    type_cell(shown.table, "C1/14", "Goes to", "52")
    assert plover.store.job == before
    assert "Nothing was changed" in shown.notice.text()
    give_up(qtbot, shown.table, "52")
    answer(Question, choose("Join both"))
    type_cell(shown.table, "C1/14", "Goes to", "52")
    assert (happening(plover, "C1/14").action, happening(plover, there).end) == ("joins", "C2/52")
    plover.store.history.undo()
    # In the card, by its number and its function as the list completes it.
    shown.table.pick("C1/14")
    plover.hand.pick("W11")
    QTest.keyClicks(card.cavity, "C2/52 Permanent supply")
    answer(Question, choose("C1/14 instead"))
    QTest.keyClick(card.cavity, Qt.Key.Key_Return)
    assert happening(plover, "C1/14").end == "C2/52"
    assert happening(plover, there).end != "C2/52"
    plover.store.history.undo()
    QTest.keyClicks(card.cavity, "52")
    pressed(card.join_button)
    assert happening(plover, "C1/14").action == "joins"
    plover.store.history.undo()
    # To join one that goes nowhere is refused in words.
    card.cavity.setText("57")
    pressed(card.join_button)
    assert "No wire goes into C2/57" in shown.notice.text()


def test_the_faces_show_where_it_comes_out_and_goes_in(plover: MainWindow) -> None:
    shown = crossover(plover)
    plover.hand.pick("W21")
    assert shown.table.current_key() == "C1/28"
    assert shown.faces.titles[0].text() == "TAKE OUT OF C1/28"
    assert shown.faces.titles[1].text() == "PUSH INTO C2/30"
    assert (shown.faces.views[0].cavity, shown.faces.views[1].cavity) == ("28", "30")
    assert shown.faces.views[1].face == "wire side"
    shown.table.pick("C2/21")
    shown._picked("C2/21")
    assert plover.hand.subject == "W48"


def test_a_step_is_dragged_and_what_it_breaks_is_said_at_once(
    plover: MainWindow, qtbot: QtBot
) -> None:
    shown = crossover(plover)
    shown.table.setFixedHeight(2400)  # so that every line is there to be dragged
    QApplication.processEvents()

    def middle(key: str) -> QPoint:
        row = shown.model.row_of(key)
        return shown.table.visualRect(shown.table.model().index(row, 0)).center()

    view = shown.table.viewport()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=middle("C1/28"))
    QTest.mouseMove(view, middle("C1/9"))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=middle("C1/8"))
    plan = shown.plan()
    assert plan is not None
    assert "C2/30 is still full; step" in shown.notice.text()
    looked_over(qtbot, plover)
    assert any("still full" in one.what for one in plover.store.analysis.once(_find_all))
    shown.best.click()
    assert shown.notice.text() == ""
    at = [op.lead for op in shown.plan().ops].index("C1/28")  # type: ignore[union-attr]
    shown.table.pick("C1/28")
    shown.shift(1)
    assert [op.lead for op in shown.plan().ops].index("C1/28") == at + 1  # type: ignore[union-attr]


def _find_all(analysis: Any) -> Any:
    from molvik.findings import find_all

    return find_all(analysis)


def test_the_gearbox_link_is_repinned_at_the_bench_with_one_hand(
    plover: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    shown = crossover(plover)
    shown._choose_set("Q3")
    type_cell(shown.table, "C5/5", "Goes to", "3")
    cards = cards_of(plover)
    assert "open the secondary lock: C5" in cards.first.text()
    assert cards.big.text() == "1 → 4"
    assert BIG_PX >= 90
    assert cards.face.face == "wire side"
    assert cards.face.cavity == "1"
    space(cards)
    assert plover.store.job.wire("W58").start == End()  # type: ignore[union-attr]
    assert cards.face.cavity == "4"  # out: now the cavity it goes into is lit
    space(cards, 2)
    assert plover.store.job.wire("W58").start == End("C6", "4")  # type: ignore[union-attr]
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    assert plover.store.job.wire("W58").start == End()  # type: ignore[union-attr]

    def write(box: JotDialog) -> None:
        box.text.setPlainText("bent tang")
        box.accept()

    answer(JotDialog, write)
    QTest.keyClick(cards, Qt.Key.Key_N)
    assert plover.store.job.log[-1].text == "bent tang"
    assert plover.store.job.log[-1].subject == "W58"
    # Stop, save, go on next week.
    cards.close()
    path = tmp_path / "plover.molvik"
    assert plover.files.save_as(path)
    plover.files.close_job()
    assert plover.files.open(path)
    shown = crossover(plover)
    shown._choose_set("Q3")
    cards = cards_of(plover)
    assert cards.headline.text().startswith("Reverse light switch")
    for _ in range(80):
        if cards.count.text().split(" · ")[-1] == f"{len(cards._steps())} done":
            break
        space(cards)
    assert "all steps are done" in cards.state.text()
    cards.close()
    job = plover.store.job
    ends = {wire.function: wire.start for wire in job.wires if wire.start.at == "C6"}
    assert {name: end.cavity for name, end in ends.items()} == {
        "Reverse light switch": "4",
        "Reverse light feed": "5",
        "Vehicle speed sensor": "1",
        "Vehicle speed sensor 5 V": "2",
        "Vehicle speed sensor return": "3",
        "Neutral switch": "7",
    }
    assert {pin.cavity for pin in job.connector("C6").pins if pin.fill == "plugged"} == {  # type: ignore[union-attr]
        "6",
        "8",
        "9",
        "10",
    }
    assert shown.list.text(2).startswith("Gearbox link, 10-way all done")
    assert plover.files.save()
    assert read_job(path) == job
    stamps = [one.at for one in job.ticks]
    assert stamps == sorted(stamps)
    assert all("T" in at for at in stamps)


def test_a_refused_tick_is_said_on_the_card(plover: MainWindow) -> None:
    shown = crossover(plover)
    at = [step.take for step in shown.plan().steps].index("C1/28")  # type: ignore[union-attr]
    cards = cards_of(plover)
    cards.at = at
    cards.refresh()
    space(cards, 2)
    assert "C2/30 is still full: W46 is in it" in cards.notice.text()
    assert plover.store.job.wire("W21").start == End()  # type: ignore[union-attr]
    cards.close()


def test_a_wire_moved_meanwhile_is_told_and_the_plan_made_anew(plover: MainWindow) -> None:
    shown = crossover(plover)
    cards = cards_of(plover)
    space(cards)
    cards.close()
    plover.store.do("x", lambda job: edits.change_wire(job, "W10", start=End("C1", "60")))
    assert "W10 is in C1/60 now; the plan has it in C1/11" in shown.notice.text()
    assert shown.fresh.isVisible()
    shown.fresh.click()
    assert shown.notice.text() == ""


def test_a_set_is_made_and_changed_in_its_window(plover: MainWindow) -> None:
    shown = crossover(plover)

    def fill(dialog: SetDialog) -> None:
        dialog.accept()
        assert "Give the set a name" in dialog.notice.text()
        dialog.name.setText("Link, back")
        dialog.accept()
        assert "wires come from" in dialog.notice.text()
        codes = [dialog.sources.item(n).data(0x0100) for n in range(dialog.sources.count())]
        dialog.sources.item(codes.index("C2")).setCheckState(Qt.CheckState.Checked)
        dialog.target.setCurrentIndex(dialog.target.findData("C2"))
        dialog.accept()
        assert "Import the table it is to have" in dialog.notice.text()
        dialog.wanted.setCurrentIndex(dialog.wanted.findData("with automatic gearbox"))
        dialog.approach.setCurrentIndex(dialog.approach.findData("chassis wiring"))
        assert "chassis diagram" in dialog.means.text()
        dialog.accept()

    answer(SetDialog, fill)
    shown.add_set()
    made = plover.store.job.repins[-1]
    assert (made.code, made.sources, made.wanted) == ("Q4", ("C2",), "with automatic gearbox")
    assert shown.title.text() == "Link, back"

    def rename(dialog: SetDialog) -> None:
        dialog.name.setText("Variant")
        dialog.accept()

    answer(SetDialog, rename)
    shown.edit_set()
    assert shown.title.text() == "Variant"


def test_an_empty_job_says_what_to_do_first(window: MainWindow) -> None:
    window.files.new()
    shown = crossover(window)
    assert "Both pinouts are needed first" in shown.empty.accessibleName()
    assert not shown.table.isVisible()
    shown.add_set()
    assert "Import a pinout" in shown.notice.text()
