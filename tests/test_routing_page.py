"""Routing in the real window: a loom typed from nothing, ways followed, lengths taken."""

import json
import random
import threading
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from conftest import cell, page, put_job, type_cell
from molvik.cli import main
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.window import MainWindow
from molvik.model import edits, routing_edits
from molvik.model.job import Job
from molvik.model.routing import LoomNode, Run
from molvik.routing import packing
from molvik.routing.ways import Ways
from molvik.search import search
from test_routing import three

LEFT = Qt.MouseButton.LeftButton


def routing_of(window: MainWindow) -> Any:
    """Open Routing on the job of three plugs, without its loom."""
    window.files.new()
    job = three()
    bare = type(job)(window.store.job.id, "Three plugs", connectors=job.connectors, wires=job.wires)
    window.store.do("three plugs", lambda _: bare)
    return page(window, "Routing")


def at_the_keys() -> QWidget:
    """Return what has the keyboard."""
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def test_stretches_are_typed_row_after_row_with_enter_alone(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = routing_of(window)
    qtbot.mouseClick(shown.guide.buttons[0], LEFT)
    for words in ("Computer", "Middle", "0.4", "Middle", "Sender", "0.2", "Middle", "Lamp", "9 in"):
        QTest.keyClicks(at_the_keys(), words[0])  # typing begins to edit
        QTest.keyClicks(at_the_keys(), words[1:])
        QTest.keyClick(at_the_keys(), Qt.Key.Key_Return)
        QApplication.processEvents()
    runs = window.store.job.routing.runs
    assert [run.length_m for run in runs] == pytest.approx([0.4, 0.2, 0.2286])
    assert runs[0].finish == runs[1].start == runs[2].start


def test_a_loom_is_typed_stretch_by_stretch_and_gives_its_lengths(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = routing_of(window)
    assert shown.guide.isVisible()
    qtbot.mouseClick(shown.guide.buttons[0], LEFT)
    runs = shown.tables["Stretches"]
    for number, (start, finish, length) in enumerate(
        (("Breakout", "C1", "0.5"), ("Breakout", "c2", "70 cm"), ("J1", "C3", "1100 mm")), 1
    ):
        type_cell(runs, "", "From", start)
        type_cell(runs, f"R{number}", "To", finish)
        type_cell(runs, f"R{number}", "Length", length)
    routing = window.store.job.routing
    assert [run.length_m for run in routing.runs] == pytest.approx([0.5, 0.7, 1.1])
    assert {code for joint in routing.joints for code in joint.carries} == {"C1", "C2", "C3"}
    assert [loom.name for loom in routing.looms] == ["Engine loom"]
    assert not shown.guide.isVisible()
    assert "3 of 3 wires have a route" in shown.about.text()
    wires = shown.tables["Wires"]
    assert cell(wires, "W2", "Route") == "R2 · Breakout · R3"
    assert cell(wires, "W2", "Cut length") == "1.92"
    # One press gives all of them their lengths, and one undo takes them back.
    qtbot.mouseClick(shown.lengths_button, LEFT)
    taken = window.store.job.wire("W2")
    assert taken is not None
    assert taken.length_m == pytest.approx(1.92)
    assert taken.length_from == "routed"
    assert not shown.lengths_button.isEnabled()
    window.store.history.undo()
    assert all(wire.length_m is None for wire in window.store.job.wires)
    while window.store.history.canUndo() and window.store.job.routing.looms:
        window.store.history.undo()
    assert shown.guide.isVisible()


@pytest.mark.parametrize("column", ["From", "To", "Length"])
@pytest.mark.parametrize("order", [Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder])
def test_stretches_pasted_into_a_sorted_table_stay_whole(
    window: MainWindow, qtbot: QtBot, column: str, order: Qt.SortOrder
) -> None:
    """After a click on a heading the row just made stands anywhere: cells went to others."""
    shown = routing_of(window)
    qtbot.mouseClick(shown.guide.buttons[0], LEFT)
    table = shown.tables["Stretches"]
    titles = [one.title for one in table.things.columns]
    at = next(n for n, title in enumerate(titles) if title.startswith(column))
    table.sortByColumn(at, order)
    chance = random.Random(7)
    rows = [
        (f"N{chance.randrange(1000)} {n}", f"M{chance.randrange(1000)} {n}", f"{n * 37 % 900}")
        for n in range(1, 19)
    ]
    new = table.things.index(len(table.things.things) - 1, titles.index("From"))
    table.setCurrentIndex(new)
    table.paste("\n".join(f"{a}\t{b}\t{mm} mm" for a, b, mm in rows))
    routing = window.store.job.routing
    named = {joint.code: joint.name for joint in routing.joints}
    found = {
        (named[run.start], named[run.finish], round(1000 * (run.length_m or 0)))
        for run in routing.runs
    }
    assert found == {(a, b, int(mm)) for a, b, mm in rows}


def test_a_stretch_is_typed_from_left_to_right_with_enter_alone(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = routing_of(window)
    qtbot.mouseClick(shown.guide.buttons[0], LEFT)
    table = shown.tables["Stretches"]
    for typed in ("Bulkhead", "Fuse box", "0.45"):
        editor = table.findChild(QLineEdit)
        if editor is None or not editor.isVisible():
            QTest.keyClicks(table, typed[0])  # typing begins to edit
            editor = table.findChild(QLineEdit)
            typed = typed[1:]
        assert editor is not None
        QTest.keyClicks(editor, typed)
        QTest.keyClick(editor, Qt.Key.Key_Return)
        QTest.qWait(30)
    (run,) = window.store.job.routing.runs
    names = {joint.code: joint.name for joint in window.store.job.routing.joints}
    assert (names[run.start], names[run.finish], run.length_m) == ("Bulkhead", "Fuse box", 0.45)


def test_a_new_stretch_is_typed_with_tab_and_no_cell_is_leapt_over(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = routing_of(window)
    qtbot.mouseClick(shown.guide.buttons[0], LEFT)
    table = shown.tables["Stretches"]
    table.edit_cell("", "From")
    for typed in ("Bulkhead", "Fuse box", "0.45"):
        editor = table.indexWidget(table.currentIndex())
        assert isinstance(editor, QLineEdit)
        QTest.keyClicks(editor, typed)
        QTest.keyClick(editor, Qt.Key.Key_Tab)
        qtbot.wait(10)
    routing = window.store.job.routing
    assert [joint.name for joint in routing.joints] == ["Bulkhead", "Fuse box"]
    assert [run.length_m for run in routing.runs] == [0.45]


def test_a_wire_in_hand_lights_its_way_and_a_stretch_shows_what_lies_in_it(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = routing_of(window)
    routing = three().routing
    window.store.do(
        "loom",
        lambda job: type(job)(
            job.id,
            job.title,
            connectors=job.connectors,
            wires=job.wires,
            routing=routing,
        ),
    )
    window.hand.pick("W2")
    facts = {name.text(): value.text() for name, value in window.in_hand.facts._rows}
    assert facts["Route"] == "R3 · Breakout · R4"
    assert facts["Cut length"].startswith("1.92 m: 1.80 route + 0.12 ends")
    assert shown.view.drawing is not None
    lit = [
        shape
        for shape in shown.view.draw_over().shapes
        if getattr(shape, "pen", None) and shape.pen.role == "copper" and shape.pen.round
    ]
    assert len(lit) == 2
    qtbot.mouseClick(shown.view.viewport(), LEFT, pos=shown.view.spot("R2"))
    assert window.hand.subject == "R2"
    card: Any = window.in_hand.card
    qtbot.waitUntil(lambda: card.view.drawing is not None)
    assert {area.ref for area in card.view.drawing.areas} == {"W1", "W3"}
    assert "packed" in card.view.drawing.texts()[-1]
    qtbot.mouseClick(card.view.viewport(), LEFT, pos=card.view.spot("W3"))
    assert window.hand.subject == "W3"
    # A joint's fields are typed in the panel; a way that is not the shortest is asked for there.
    window.hand.pick("J3")
    card = window.in_hand.card
    card.fields["Allowance here"].enter()
    QTest.keyClicks(card.fields["Allowance here"], "200 mm")
    QTest.keyClick(card.fields["Allowance here"], Qt.Key.Key_Return)
    joint = routing_edits.find(window.store.job.routing, "J3")
    assert isinstance(joint, LoomNode)
    assert joint.allowance_m == 0.2
    window.hand.pick("W1")
    card = window.in_hand.card
    sent = card.fields["Via"]
    card.rest.unfold()
    sent.enter()
    QTest.keyClicks(sent, "not Breakout")
    QTest.keyClick(sent, Qt.Key.Key_Return)
    assert window.store.job.wire("W1").avoid == ("J1",)  # type: ignore[union-attr]
    assert "no route is left" in window.store.analysis.electrics.ways.of["W1"].problem


@pytest.mark.parametrize(
    ("table", "key", "column", "typed", "told"),
    [
        ("Stretches", "R2", "Length", "0", "A length of 0 m is not likely"),
        ("Stretches", "R2", "Length", "-2", "A length of -2 m is not likely"),
        ("Stretches", "R2", "To", "J1", "starts and ends at J1"),
        ("Stretches", "R2", "To", "J99", "There is no J99"),
        ("Stretches", "R2", "Zone", "the moon", "Name it under Zones first"),
        ("Stretches", "R2", "Covering", "wool", "not a covering known here"),
        ("Ends and breakouts", "J3", "Carries", "C1", "sits at J2"),
        ("Ends and breakouts", "J3", "Carries", "C77", "not a part of the job"),
        ("Zones", "", "Hot surface", "melting", "temperature"),
    ],
)
def test_bad_input_is_refused_where_it_is_typed(
    window: MainWindow, table: str, key: str, column: str, typed: str, told: str
) -> None:
    shown = routing_of(window)
    routing = three().routing
    window.store.do(
        "loom",
        lambda job: type(job)(
            job.id,
            job.title,
            connectors=job.connectors,
            wires=job.wires,
            routing=routing,
        ),
    )
    before = window.store.job
    shown.tabs.setCurrentWidget(shown.tables[table])
    type_cell(shown.tables[table], key, column, typed)
    assert told in shown.notice.text()
    assert window.store.job == before


def test_the_old_loom_is_taken_over_in_one_step(demo_window: MainWindow, qtbot: QtBot) -> None:
    shown = page(demo_window, "Routing")
    before = demo_window.store.job
    qtbot.mouseClick(shown.take_over_button, LEFT)
    made = [
        loom for loom in demo_window.store.job.routing.looms if loom not in before.routing.looms
    ]
    assert len(made) == 1
    own = [j for j in demo_window.store.job.routing.joints if j.loom == made[0].code]
    assert len(own) == len(before.loom.nodes)
    demo_window.store.history.undo()
    assert demo_window.store.job == before


def test_a_joint_or_stretch_is_taken_out_from_the_panel(window: MainWindow, qtbot: QtBot) -> None:
    shown = routing_of(window)
    window.store.do(
        "joint",
        lambda job: routing_edits.add(
            routing_edits.some_loom(job)[0], LoomNode("J5", "H1", "Spare")
        ),
    )
    window.store.do("run", lambda job: routing_edits.add(job, Run("R9")))
    assert "Goes nowhere yet: R9" in " ".join(window.store.analysis.electrics.ways.graph.problems)
    for code in ("R9", "J5"):
        window.hand.pick(code)
        qtbot.mouseClick(window.in_hand.remove, LEFT)
        assert routing_edits.find(window.store.job.routing, code) is None
    assert shown.tables["Ends and breakouts"].things.row_of("J5") < 0


def test_wires_are_laid_card_by_card_and_the_ticks_stay(window: MainWindow, qtbot: QtBot) -> None:
    shown = routing_of(window)
    routing = three().routing
    window.store.do(
        "loom",
        lambda job: type(job)(
            job.id,
            job.title,
            connectors=job.connectors,
            wires=job.wires,
            routing=routing,
        ),
    )
    qtbot.mouseClick(shown.bench_button, LEFT)
    (cards,) = (one for one in window.findChildren(StepCards) if one.isVisible())
    assert cards.headline.text() == "W2  1.92 m"
    assert window.hand.subject == "W2"
    for _ in range(2):  # cut, then laid
        QTest.keyClick(cards, Qt.Key.Key_Space)
    assert cards.headline.text() == "W3  1.72 m"
    assert [tick.step for tick in window.store.job.ticks] == ["lay W2: cut", "lay W2: laid"]
    cards.close()
    window.store.history.undo()
    assert [tick.step for tick in window.store.job.ticks] == ["lay W2: cut"]


def test_ways_and_lengths_on_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "three.molvik"
    put_job(edits.change_wire(three(), "W2", length_m=1.7), path)
    assert main(["route", str(path)]) == 0
    said = capsys.readouterr().out
    assert "H1 Engine loom: 3 stretches, 2.3 m" in said
    assert "W2: cut length 1.92 m, R3 R4, the job has 1.70 m" in said
    assert main(["route", str(path), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert {one["wire"]: one["cut_m"] for one in found["wires"]}["W2"] == pytest.approx(1.92)
    assert found["stretches"][0]["wires"] == ["W1", "W3"]
    empty = tmp_path / "empty.molvik"
    put_job(type(three())("y"), empty)
    assert main(["route", str(empty)]) == 0
    assert "No loom is laid out" in capsys.readouterr().out


def drawn(view: Any) -> bool:
    return view.drawing is not None


def test_a_stretch_is_shown_cut_across_once_its_wires_are_packed(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    packing._packed.cache_clear()
    page(demo_window, "Routing")
    for code in ("R16", "R17"):
        demo_window.hand.pick(code)
        view: Any = demo_window.in_hand.card.view  # type: ignore[union-attr]
        assert not drawn(view), "the window does not wait for it"
        assert "being packed" in view.empty
        qtbot.waitUntil(partial(drawn, view))
        inside = set(demo_window.store.analysis.sections[code].wires)
        assert {area.ref for area in view.drawing.areas} == inside


def test_ends_and_stretches_are_found_by_code_and_name(demo_window: MainWindow) -> None:
    hits = search(demo_window.store.analysis, "Rail, rear")
    assert [(hit.subject, hit.text) for hit in hits if "loom to build" in hit.text] == [
        ("J5", "J5 · Rail, rear (loom to build)")
    ]
    (hit, *_) = search(demo_window.store.analysis, "R16")
    assert (hit.subject, hit.sure) == ("R16", True)


def test_the_ways_of_a_large_job_come_from_the_background(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    threads: set[int] = set()

    def ways(job: Job) -> Ways:
        threads.add(threading.get_ident())
        return Ways(job)

    monkeypatch.setattr("molvik.electrics.Ways", ways)
    soon = window.looking.soon
    monkeypatch.setattr(window.looking, "soon", lambda: None)  # until what is shown was looked at
    small = three()
    many = tuple(replace(small.wires[0], code=f"W{n}") for n in range(1, 421))
    window.files.new()
    window.store.do(
        "many",
        lambda job: type(job)(
            job.id,
            job.title,
            connectors=small.connectors,
            wires=many,
            routing=small.routing,
        ),
    )
    shown = page(window, "Routing")
    assert "being found" in shown.about.text()
    assert not shown.lengths_button.isEnabled()
    monkeypatch.setattr(window.looking, "soon", soon)
    soon()
    qtbot.waitUntil(lambda: "420 of 420 wires" in shown.about.text())
    assert threads
    assert threading.get_ident() not in threads, "the window does not wait for it"
    assert shown.lengths_button.text() == "Take 420 lengths"
    qtbot.mouseClick(shown.lengths_button, LEFT)
    assert {wire.length_from for wire in window.store.job.wires} == {"routed"}
