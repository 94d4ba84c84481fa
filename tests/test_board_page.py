"""The board in the real window: drawn on, turned, measured in the vehicle, traced on a photo."""

import math
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot

from conftest import answer, cell, looked_over, page
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Path as Line
from molvik.drawing.scene import Rect
from molvik.findings import find_all
from molvik.model import routing_edits, run_edits
from molvik.model.job import Job
from molvik.model.parts import End, Splice, Wire
from molvik.model.photos import Mark, Photo
from molvik.model.routing import LoomNode, Run
from molvik.routing.measuring import measured
from molvik.routing.tracing import traced
from molvik.routing.ways import route_text
from molvik.survey.photo_lengths import lengths
from test_photo_window import add, drag, large, write
from test_routing import SIZE, three

CTRL_ALT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def opened(window: MainWindow, job: Job) -> Any:
    """Open Routing on a job."""
    window.files.new()
    made = replace(job, id=window.store.job.id)
    window.store.do("a loom", lambda _: made)
    shown = page(window, "Routing")
    window.hand.pick("J1")  # the panel is open: nothing moves when a press opens it
    QApplication.processEvents()
    return shown


def pull(view: Any, begin: QPoint, end: QPoint) -> None:
    """Drag over the board, as a mouse does."""
    ground = view.viewport()
    QTest.mousePress(ground, LEFT, NONE, begin)
    for share in (0.3, 0.6, 1.0):
        at = QPointF(begin) + QPointF(end - begin) * share
        QApplication.sendEvent(
            ground,
            QMouseEvent(
                QEvent.Type.MouseMove,
                at,
                ground.mapToGlobal(at),
                Qt.MouseButton.NoButton,
                LEFT,
                NONE,
            ),
        )
    QTest.mouseRelease(ground, LEFT, NONE, end)


def run_of(window: MainWindow, code: str) -> Run:
    found = routing_edits.find(window.store.job.routing, code)
    assert isinstance(found, Run)
    return found


def current(cards: StepCards) -> str:
    step = cards.current()
    return step.subject if step else ""


def test_a_branch_is_turned_by_dragging_its_end_and_all_else_stays(window: MainWindow) -> None:
    shown = opened(window, three())
    view = shown.view
    end = next(j for j in ("J2", "J3", "J4") if j in window.store.analysis.placed["H1"].hangs)
    before = window.store.analysis.placed["H1"]
    above, code = before.hangs[end]
    pivot = view.spot(above)
    pull(view, view.spot(end), QPoint(pivot.x() + 3, pivot.y() - 90))
    assert window.hand.subject == end, "a press takes in hand, too"
    after = window.store.analysis.placed["H1"]
    path = after.paths[code] if run_of(window, code).start == above else after.paths[code][::-1]
    leads = math.degrees(math.atan2(path[1].y - path[0].y, path[1].x - path[0].x))
    assert leads == pytest.approx(-90), "straight up, tidily"
    assert len(window.store.job.board) == 3, "the others stay as they lay"
    assert shown.tools.anew_button.isEnabled()
    window.store.history.undo()
    assert not window.store.job.board
    window.store.history.redo()
    shown.tools.anew_button.click()
    assert not window.store.job.board


def test_a_stretch_is_bent_by_dragging_it_and_a_click_moves_nothing(window: MainWindow) -> None:
    shown = opened(window, three())
    view = shown.view
    code = next(run for _, run in window.store.analysis.placed["H1"].hangs.values())
    at = view.spot(code)
    QTest.mouseClick(view.viewport(), LEFT, NONE, at)
    assert window.hand.subject == code
    assert not window.store.job.board
    pull(view, at, at + QPoint(0, 45))
    (pose,) = [pose for pose in window.store.job.board if pose.run == code]
    assert pose.bent_deg != 0
    path = window.store.analysis.placed["H1"].paths[code]
    assert len(path) == 3
    length = math.dist(path[0], path[1]) + math.dist(path[1], path[2])
    assert length == pytest.approx(run_of(window, code).length_m)


def test_a_stretch_is_drawn_out_of_a_joint_and_its_length_typed(window: MainWindow) -> None:
    shown = opened(window, three())
    view = shown.view
    shown.tools.draw_button.click()
    before_drawn = window.store.analysis.placed["H1"]
    start = view.spot("J1")

    def say(asked: Any) -> None:
        assert asked.typed.endswith("mm")
        asked.type("a bit, C9")
        assert "how long it is" in asked.notice.text()
        asked.type("480 mm, Lamp")

    answer(LineQuestion, say)
    pull(view, start, start + QPoint(0, 80))
    made = window.store.job.routing.runs[-1]
    assert (made.code, made.start, made.length_m, made.length_from) == ("R5", "J1", 0.48, "typed")
    joint = next(j for j in window.store.job.routing.joints if j.code == made.finish)
    assert joint.name == "Lamp"
    (pose,) = [pose for pose in window.store.job.board if pose.run == "R5"]
    assert pose.heading_deg == 90
    after = window.store.analysis.placed["H1"]
    for run, (heading, _) in before_drawn.turns.items():  # all else lies as it lay
        assert (after.turns[run][0] - heading) % 360 == pytest.approx(0, abs=0.01)
    assert window.hand.subject == "R5"
    # Out to a joint that is there: a loop, which is told.
    answer(LineQuestion, lambda asked: asked.type("2 m"))
    pull(view, view.spot("J2"), view.spot("J3"))
    closing = window.store.job.routing.runs[-1]
    assert {closing.start, closing.finish} == {"J2", "J3"}
    assert any(
        "has a loop" in words for words in window.store.analysis.electrics.ways.graph.problems
    )
    shown.tools.draw_button.click()
    before = window.store.job
    answer(LineQuestion, lambda asked: asked.reject())
    window.hand.pick("J4")
    shown.draw_from_hand()
    assert window.store.job is before, "given up, nothing is drawn"
    window.hand.pick("W1")
    shown.draw_from_hand()
    assert "Select an end or a breakout" in shown.notice.text()


def test_lengths_are_typed_on_cards_with_one_hand(window: MainWindow, qtbot: QtBot) -> None:
    job = three()
    for run in job.routing.runs:
        job = routing_edits.change(job, run.code, length_m=None, length_from="as found")
    shown = opened(window, job)
    qtbot.mouseClick(shown.tools.measure_button, LEFT)
    (cards,) = (one for one in window.findChildren(StepCards) if one.isVisible())
    first = cards.current()
    assert first is not None
    assert "→" in cards.headline.text()
    assert window.hand.subject == first.subject
    QTest.keyClicks(cards, "485")
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    QTest.keyClicks(cards, "0mm")
    assert cards.big.text() == "480mm"
    QTest.keyClick(cards, Qt.Key.Key_Return)
    run = run_of(window, first.subject)
    assert (run.length_m, run.length_from) == (0.48, "measured")
    second = cards.current()
    assert second is not None
    assert second.subject != first.subject
    QTest.keyClicks(cards, "0m")
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert "not likely" in cards.notice.text()
    assert current(cards) == second.subject, "it stays, to be mended"
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    QTest.keyClick(cards, Qt.Key.Key_Return)  # nothing typed: on to the next
    assert current(cards) not in (first.subject, second.subject)
    QTest.keyClick(cards, Qt.Key.Key_Left)
    assert current(cards) == second.subject
    assert "1 done" in cards.count.text()
    cards.close()
    window.store.history.undo()
    assert run_of(window, first.subject).length_m is None
    found = routing_edits.change(job, "R2", length_m=0.5, length_from="as found")
    assert measured(found) == set(), "what was taken over is measured all the same"
    typed = routing_edits.change(found, "R2", length_m=0.6)
    assert measured(typed) == set(), "typed is not measured"


def test_a_splice_is_laid_along_a_stretch_where_it_lies_best(window: MainWindow) -> None:
    job = replace(three(), splices=(Splice("S1"),))
    job = run_edits.split_run(job, "R4", 1.0, LoomNode("J9", "", "Splice", "splice", ("S1",)))
    made = tuple(Wire(f"W{n}", End(f"C{n}", "5"), End("S1"), size=SIZE) for n in (1, 2, 3))
    shown = opened(window, replace(job, wires=made))
    window.hand.pick("C1")
    shown.put_splice()
    assert "Select a splice" in shown.notice.text()
    window.hand.pick("S1")

    def best(asked: Any) -> None:
        offered = asked.typed
        asked.type("the middle")
        assert "R5 120 mm" in asked.notice.text()
        asked.type(offered)

    answer(LineQuestion, best)
    QTest.keyClick(window, Qt.Key.Key_S, CTRL_ALT)
    joints = [joint for joint in window.store.job.routing.joints if "S1" in joint.carries]
    assert [joint.code for joint in joints] != ["J9"]
    places = window.store.analysis.splice_places["S1"]
    assert places.now is not None
    assert places.best is not None
    assert places.now.copper_cm3 == pytest.approx(places.best.copper_cm3)
    window.store.history.undo()
    assert any(joint.code == "J9" for joint in window.store.job.routing.joints)
    answer(LineQuestion, lambda asked: asked.type("R2 200 mm"))
    shown.put_splice()
    assert run_of(window, "R2").length_m == pytest.approx(0.2)
    alone = replace(window.store.job, wires=made[:1])
    window.store.do("one member", lambda _: alone)
    window.hand.pick("S1")

    def none_offered(asked: Any) -> None:
        assert asked.typed == ""
        assert "No place" in asked.words.text()
        asked.reject()

    answer(LineQuestion, none_offered)
    shown.put_splice()
    assert "splice-of-one" in {finding.rule for finding in find_all(window.store.analysis)}


def test_what_became_of_the_old_loom_is_listed(demo_window: MainWindow, qtbot: QtBot) -> None:
    shown = page(demo_window, "Routing")
    qtbot.mouseClick(shown.take_over_button, LEFT)
    table = shown.tables["Beside the old loom"]
    assert table.things.rowCount() == 0
    loom = demo_window.store.job.routing.looms[-1].code
    own = {j.code for j in demo_window.store.job.routing.joints if j.loom == loom}
    run = next(
        r for r in demo_window.store.job.routing.runs if r.start in own and r.length_m is not None
    )
    longer = (run.length_m or 0.0) + 0.25
    demo_window.store.do("longer", lambda job: routing_edits.change(job, run.code, length_m=longer))
    key = f"{run.code} longer"
    assert cell(table, key, "It is") == f"{longer:.2f} m"
    shown.tabs.setCurrentWidget(table)
    table.pick(key)
    table.picked.emit(key)
    assert demo_window.hand.subject == run.code


def test_places_in_columns_are_picked_from_like_the_board(demo_window: MainWindow) -> None:
    shown = page(demo_window, "Routing")
    shown.list.chosen.emit("H2")
    shown.tools.vehicle_button.click()
    view = shown.view
    assert view.drawing is not None
    assert "Tilt hinge" in view.drawing.texts()
    QTest.mouseClick(view.viewport(), LEFT, NONE, view.spot("J28"))
    assert demo_window.hand.subject == "J28"
    pull(view, view.spot("J28"), view.spot("J28") + QPoint(60, 60))
    assert not demo_window.store.job.board, "places are not turned"
    demo_window.hand.pick("R41")
    over = view.draw_over()
    assert over is not None
    assert len(over.shapes) == 3
    shown.tools.vehicle_button.click()
    assert "Tilt hinge" not in view.drawing.texts()


def test_what_is_known_of_a_stretch_a_splice_and_a_plug_is_in_hand(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Routing")
    looked_over(qtbot, demo_window)

    def facts(code: str) -> str:
        demo_window.hand.pick(code)
        return " ".join(
            f"{name.text()} {value.text()}" for name, value in demo_window.in_hand.facts._rows
        )

    said = facts("R16")
    assert "split tube" in said
    assert "no tighter than" in said
    assert "heat shield, 4 bolts, 25 min" in said
    assert "Lies best" in facts("S2")
    plug = facts("C8")
    assert "Looks like" in plug
    assert "by its cavities" in plug


def test_what_is_slid_on_and_closed_is_stepped_through_after_laying(
    window: MainWindow, qtbot: QtBot
) -> None:
    job = routing_edits.change(three(), "R2", covering="heat-shrink")
    shown = opened(window, routing_edits.change(job, "J2", boots=("boot",)))
    keys = [step.key for step in shown._steps()]
    assert keys[:3] == ["lay W2", "lay W3", "lay W1"]
    # What goes over the boot's end is slid on from the other side, or before it.
    assert {key.rpartition(" ")[2] for key in keys[3:5]} == {"R2", "J2"}
    assert keys[5:] == ["close J2", "close J3", "close J4"]


# traced over a photo


def test_a_loom_is_traced_over_a_photo_and_a_typed_length_stands(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    demo_window.hand.pick("X2")
    add(qtbot, demo_window, write(tmp_path, "bay.png"))
    shown = large(demo_window)
    runs = len(demo_window.store.job.routing.runs)
    shown.tools["trace"].click()
    assert shown.view.tool == "trace"
    for at in ((0.1, 0.5), (0.5, 0.5), (0.9, 0.5)):
        drag(shown.view, at, at)  # clicks
    for _ in range(2):  # laid down, and taken up again
        shown.tools["trace"].click()
    drag(shown.view, (0.503, 0.5), (0.5, 0.9))  # a branch, from near the breakout
    marks = demo_window.store.job.photos[-1].marks
    assert [mark.kind for mark in marks] == ["trace"] * 3
    assert (marks[2].x1, marks[2].y1) == (marks[0].x2, marks[0].y2), "legs meet exactly"
    shown.stretches_button.click()
    assert "No length on this photo was measured" in shown.notice.text()
    shown.tools["length"].click()
    drag(shown.view, (0.1, 0.2), (0.5, 0.2))
    field: QLineEdit = shown.says
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "50 cm")
    QTest.keyClick(field, Qt.Key.Key_Return)
    shown.stretches_button.click()
    made = demo_window.store.job.routing.runs[runs:]
    assert [run.length_m for run in made] == pytest.approx([0.5, 0.5, 0.375], abs=0.01)
    assert {run.length_from for run in made} == {"scaled"}
    assert made[0].finish == made[1].start == made[2].start
    assert shown.view.label_of(0).endswith(made[0].code)
    demo_window.store.history.undo()
    assert len(demo_window.store.job.routing.runs) == runs


def test_a_length_that_a_hand_gave_wins_over_one_from_a_photo() -> None:
    ruler = Mark("length", 0, 0, 1, 0, length_m=1.0)
    legs = (Mark("trace", 0, 0.5, 0.5, 0.5), Mark("trace", 0.5, 0.5, 0.5, 1.0))
    photo = Photo("P1", "a.jpg", 1000, 500, "2026-11-02T10:00:00+01:00", marks=(ruler, *legs))
    job = traced(replace(three(), photos=(photo,)), "P1", "H1")
    assert [lengths(job.photos[0])[n].length_m for n in (1, 2)] == pytest.approx([0.5, 0.25])
    first, second = (run.code for run in job.routing.runs[-2:])
    job = routing_edits.change(job, first, length_m=0.62)
    marks = (replace(ruler, length_m=2.0), *job.photos[0].marks[1:])
    job = replace(job, photos=(replace(job.photos[0], marks=marks),))
    job = traced(job, "P1", "H1")
    found = {run.code: (run.length_m, run.length_from) for run in job.routing.runs}
    assert found[first] == (0.62, "typed")
    assert found[second] == (0.5, "scaled")
    assert len(job.routing.runs) == 5
    with pytest.raises(ValueError, match="Nothing is traced"):
        traced(replace(job, photos=(replace(photo, marks=(ruler,)),)), "P1")


def test_what_is_traced_goes_into_the_loom_that_was_looked_at(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shown = page(demo_window, "Routing")
    assert demo_window.hand.loom == "H1"
    shown._choose_loom("H2")
    qtbot.waitUntil(lambda: demo_window.hand.loom == "H2")


def test_a_route_is_told_by_the_places_it_passes() -> None:
    analysis = Analysis(demo_job())
    ways, routing = analysis.electrics.ways, analysis.job.routing
    names = {joint.code: joint.name for joint in routing.joints}
    runs = {run.code: run for run in routing.runs}
    told = 0
    for way in ways.of.values():
        if way.problem or len(way.steps) < 2:
            continue
        words = route_text(ways.graph, way).split(" · ")
        assert words[::2] == [step.run for step in way.steps]
        for before, place, after in zip(words[::2], words[1::2], words[2::2], strict=False):
            shared = {runs[before].start, runs[before].finish} & {
                runs[after].start,
                runs[after].finish,
            }
            assert place in {names[joint] for joint in shared}
            told += 1
    assert told > 100


def test_what_stands_beside_stretches_is_shown_or_hidden(demo_window: MainWindow) -> None:
    """Lengths, wires, covers, clips, zones: each by itself, and kept when the job changes."""
    demo_window.resize(1500, 1100)  # room for every word
    shown = page(demo_window, "Routing")
    view, tools = shown.view, shown.tools
    run = next(r for r in demo_window.store.job.routing.runs if r.code == "R1")
    count = len(demo_window.store.analysis.sections["R1"].wires)

    def words() -> str:
        drawing = view.drawing
        assert drawing is not None
        return " | ".join(drawing.texts())

    def squares() -> int:
        drawing = view.drawing
        assert drawing is not None
        return sum(isinstance(one, Rect) for one in drawing.shapes)

    assert run.length_m is not None
    length = f"{run.length_m * 1000:.0f}"
    before, clips = words(), squares()
    assert length in before.split(" | ")
    assert "wires" not in before
    assert "hot" not in before
    tools.shown["lengths"].setChecked(False)
    assert length not in words().split(" | ")
    tools.shown["wires"].setChecked(True)
    assert f"{count} wires" in words().split(" | ")
    tools.shown["zones"].setChecked(True)
    assert "· hot" in words()
    tools.shown["holds"].setChecked(False)
    assert squares() < clips
    demo_window.store.do("longer", lambda job: routing_edits.change(job, "R1", length_m=0.3))
    assert f"{count} wires" in words().split(" | ")
    assert length not in words().split(" | ")
    for key in ("wires", "zones"):
        tools.shown[key].setChecked(False)
    for key in ("lengths", "holds"):
        tools.shown[key].setChecked(True)
    assert "300" in words().split(" | ")


def test_covers_are_left_out_of_the_board_when_wished(demo_window: MainWindow) -> None:
    shown = page(demo_window, "Routing")

    def covered() -> int:
        drawing = shown.view.drawing
        assert drawing is not None
        return sum(
            isinstance(one, Line) and one.pen is not None and one.pen.role == "line"
            for one in drawing.shapes
        )

    assert covered() > 5
    shown.tools.shown["covers"].setChecked(False)
    assert covered() == 0
