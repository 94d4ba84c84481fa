"""The bus in the window: its line, the wave, what if, a new module laid."""

from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QMenu
from pytestqt.qtbot import QtBot

from busjobs import bus_job
from conftest import answer, page
from molvik.circuits.bus.topology import buses
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.stages.circuits.busview import BusView
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Text
from molvik.model.job import Job
from molvik.model.parts import Connector, Grid
from molvik.netlist.network import Network


def shown(window: MainWindow, job: Job, qtbot: QtBot) -> BusView:
    window.files.new()
    window.store.load(job, None)
    circuits = page(window, "Circuits")
    view: BusView = circuits.turn_to("Bus")
    tried(view, qtbot)
    return view


def tried(view: BusView, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not view._later.isActive() and not view.waits)


def drawn(view: BusView, width: float = 740, height: float = 260) -> tuple[str, ...]:
    scene = view.line.draw(width, height)
    assert scene is not None
    return scene.texts()


def test_the_demo_shows_where_a_terminator_was_left_off(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, demo_job(), qtbot)
    texts = drawn(view)
    assert "C17" in " ".join(texts)
    assert "nothing is on it" in texts
    assert texts.count("120 Ω") == 4, "one terminator, wherever it is measured"
    assert "1 terminator in place of two" in view.said.text()
    view.terminate("C17")
    tried(view, qtbot)
    assert "in place of two" not in view.said.text()
    assert "What if: a terminator at C17" in view.said.text()
    texts = drawn(view)
    assert not any(text == "120 Ω" for text in texts)
    assert sum(text.startswith("59.9 Ω") or text == "60 Ω" for text in texts) == 4
    assert view.reset.isVisible()
    view.reset.click()
    tried(view, qtbot)
    assert "What if" not in view.said.text()


def test_what_is_unplugged_is_drawn_so_and_sends_no_more(window: MainWindow, qtbot: QtBot) -> None:
    job = bus_job(("D1", "D2", 4.0), ("D2", "D3", 3.0), ends=("D1", "D3"))
    view = shown(window, job, qtbot)
    view.sends.setCurrentIndex(view.sends.findData("D2"))
    tried(view, qtbot)
    assert view.study is not None
    assert view.study.sender == "D2"
    view.unplug("D2")
    tried(view, qtbot)
    assert view.study.sender in ("D1", "D3")
    assert "unplugged" in drawn(view)
    view.unplug("D2")
    tried(view, qtbot)
    assert "unplugged" not in drawn(view)


def test_the_menu_of_a_module_offers_what_can_be_tried(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    job = bus_job(
        ("D1", "S1", 4.0), ("S1", "D2", 3.0), ("S1", "D3", 1.0), ends=("D1", "D2"), splices=("S1",)
    )
    view = shown(window, job, qtbot)
    offered: list[list[str]] = []

    def look(menu: QMenu, place: QPoint) -> None:
        offered.append([action.text() for action in menu.actions()])

    monkeypatch.setattr(QMenu, "popup", look)
    view.line.asked.emit("D3", QPoint())
    view.line.asked.emit("S1", QPoint())
    assert offered[0] == [
        "Unplug it",
        "What if a terminator were here?",
        "What if its stub were 2 m longer?",
    ]
    assert offered[1] == ["What if a terminator were here?"]
    view.lengthen("D3")
    tried(view, qtbot)
    assert "the stub to D3 2 m longer" in view.said.text()


def test_plugs_that_are_together_are_pulled_apart(window: MainWindow, qtbot: QtBot) -> None:
    plugs = (
        Connector("C1", "Bulkhead", Grid(1, 2), plugs_into="C2"),
        Connector("C2", "Bulkhead, far side", Grid(1, 2)),
    )
    job = bus_job(("D1", "C1", 2.0), ("C2", "D2", 3.0), ends=("D1", "D2"), plugs=plugs)
    view = shown(window, job, qtbot)
    assert view.study is not None
    assert view.study.reads["D1"].ohm == pytest.approx(60, rel=0.01)
    view.line.asked.emit("C1", QPoint())
    (menu,) = view.findChildren(QMenu)
    next(action for action in menu.actions() if action.text() == "Unplug it").trigger()
    menu.close()
    tried(view, qtbot)
    assert view.study.reads["D1"].ohm == pytest.approx(120, rel=0.01)
    assert "C1 unplugged" in view.said.text()


def test_another_bit_rate_is_tried_and_the_wave_is_twice_as_short(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, bus_job(("D1", "D2", 4.0), ends=("D1", "D2")), qtbot)
    assert view.study is not None
    assert view.study.sees is not None
    before = view.study.sees.wave.times_ns[-1]
    view.rate.setCurrentIndex(view.rate.findData("500"))
    tried(view, qtbot)
    assert view.study.sees.kbit_s == 500
    assert view.study.sees.wave.times_ns[-1] == pytest.approx(before / 2)
    scene = view.wave.draw(700, 200)
    assert scene is not None
    assert any("at 500 kbit/s" in text for text in scene.texts())


def test_a_module_is_taken_in_hand_by_a_click_on_it(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, bus_job(("D1", "D2", 4.0), ends=("D1", "D2")), qtbot)
    scene = view.line.draw(view.line.viewport().width(), view.line.viewport().height())
    assert scene is not None
    area = next(one for one in scene.areas if one.ref == "D2")
    at = view.line.mapFromScene(area.middle.x, area.middle.y)
    QTest.mouseClick(view.line.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.hand.subject == "D2"


def test_a_new_module_is_laid_at_the_best_place_as_one_step(
    window: MainWindow, qtbot: QtBot
) -> None:
    job = bus_job(("D1", "S1", 4.0), ("S1", "D2", 3.0), ends=("D1", "D2"), splices=("S1",))
    view = shown(window, job, qtbot)
    qtbot.mouseClick(view.tap_button, Qt.MouseButton.LeftButton)
    assert view.tables.taps_table.current_key() == "S1"
    said: list[str] = []

    def first(question: LineQuestion) -> None:
        assert isinstance(question.field, QLineEdit)
        question.field.setText("Boost gauge")
        question.accept()
        said.append(question.notice.text() if hasattr(question, "notice") else "")
        question.field.setText("Boost gauge, 300 mm")
        question.accept()

    answer(LineQuestion, first)
    qtbot.mouseClick(view.tables.lay_button, Qt.MouseButton.LeftButton)
    names = [device.name for device in window.store.job.devices]
    assert "Boost gauge" in names
    (bus,) = buses(Network(window.store.job))
    assert len(bus.talkers) == 3
    tried(view, qtbot)
    assert "Boost gauge" in " ".join(drawn(view))
    window.store.history.undo()
    assert window.store.job == job


def test_a_job_without_a_bus_says_how_to_get_one(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, Job(id="x", title="x"), qtbot)
    assert "No bus is known" in view.line.empty
    assert view.line.draw(700, 300) is None
    assert not view.tap_button.isVisible()


def test_a_bus_is_begun_from_an_empty_job(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, Job(id="x", title="x"), qtbot)
    qtbot.waitUntil(view.begin_button.isVisible)

    def say(question: LineQuestion) -> None:
        assert isinstance(question.field, QLineEdit)
        question.field.setText("Engine computer")
        question.accept()
        assert question.isVisible(), "one module makes no bus"
        question.field.setText("Engine computer 2.5 m, Cluster 800 mm, Gearbox")
        question.accept()

    answer(LineQuestion, say)
    qtbot.mouseClick(view.begin_button, Qt.MouseButton.LeftButton)
    tried(view, qtbot)
    assert "all read all up to 1000 kbit/s" in view.said.text()
    assert not view.begin_button.isVisible()
    window.store.history.undo()
    assert window.store.job.devices == ()


@pytest.mark.parametrize("count", [2, 12, 30])
def test_boxes_of_modules_never_lie_over_each_other(
    window: MainWindow, qtbot: QtBot, count: int
) -> None:
    links: list[tuple[str, str, float | None]] = [
        (f"D{n}", f"D{n + 1}", 1.0 + n % 3) for n in range(1, count)
    ]
    view = shown(window, bus_job(*links, ends=("D1", f"D{count}")), qtbot)
    scene: Any = view.line.draw(1000, 420)
    boxes = [area.box for area in scene.areas if area.box.width > 30]
    assert len(boxes) >= min(count, 8)
    for number, one in enumerate(boxes):
        assert not any(one.overlaps(other) for other in boxes[number + 1 :])
    refs = {area.ref for area in scene.areas}
    assert refs >= {f"D{n}" for n in range(1, count + 1)}
    assert any(isinstance(one, Text) for one in scene.shapes)
