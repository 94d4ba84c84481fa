"""Before it is opened: the list, and the cards at the bench."""

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog
from pytestqt.qtbot import QtBot

from conftest import answer, drop, page
from molvik.desktop.beside.logline import JotDialog
from molvik.desktop.cards.cameracards import CameraCards
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.window import MainWindow
from molvik.logbook.story import story
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import Tick
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import WireSize
from molvik.parsing.quantities import QuantityError
from molvik.survey.before import before_opening, recorded
from molvik.survey.measured import reckon
from molvik.survey.tree import LoomTree


def picture(path: Path) -> Path:
    """Write a picture unlike all others."""
    tint = sum(path.name.encode()) % 200
    Image.new("RGB", (40 + tint, 30), (tint, 80, 70)).save(path)
    return path


def found() -> Loom:
    """Three ends and a breakout, a stretch not measured, two wires, a fault."""
    return Loom(
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


def test_nothing_is_cut_before_it_is_marked_measured_and_photographed() -> None:
    # By hand: battery; three ends marked and photographed; one breakout; lengths; each wire
    # gauged and traced; one fault.
    steps = before_opening(LoomTree(found()))
    assert [step.key for step in steps] == [
        "battery",
        "mark N1",
        "mark N3",
        "mark N4",
        "photo N1",
        "photo N3",
        "photo N4",
        "photo N2",
        "measure B1",
        "measure B2",
        "measure B3",
        "gauge L1",
        "trace L1",
        "gauge L2",
        "trace L2",
        "photo X1",
    ]
    assert steps[10].do == "Measure from Breakout to Horn"
    assert recorded(found(), set(), set()) == {"measure B1", "measure B2", "gauge L2", "trace L2"}


def test_only_the_battery_is_done_by_a_tick() -> None:
    every = {step.key for step in before_opening(LoomTree(found()))}
    assert recorded(Loom(), every, set()) == {"battery"}
    assert recorded(found(), every, {"N2", "X1"}) == {
        "battery",
        "measure B1",
        "measure B2",
        "gauge L2",
        "trace L2",
        "photo N2",
        "photo X1",
    }


@pytest.mark.parametrize(
    ("typed", "size", "wall"),
    [
        ("copper 1.3 mm, outside 2.6 mm", "1 mm²", "0.65"),
        ("1.3/2.6", "1 mm²", "0.65"),
        ("outside 2,6 mm, copper 1,3 mm", "1 mm²", "0.65"),
        ("19x0.3", "1.5 mm²", ""),
        ("19 x 0.3 mm and outside 2.95", "1.5 mm²", "0.72"),
    ],
)
def test_a_measure_is_read_as_the_tip_shows_it(typed: str, size: str, wall: str) -> None:
    """By hand: 1.3 mm of strands that fill 75 % are 1.0 mm²; (2.6 - 1.3) / 2 is the wall."""
    made = reckon(typed)
    assert str(made.metric) == size
    assert (f"a wall of {wall} mm" in made.how) == bool(wall)


@pytest.mark.parametrize("typed", ["copper 2.6, outside 1.3", "copper 1.3, copper 1.4", "1.3/x"])
def test_a_measure_that_cannot_be_is_refused(typed: str) -> None:
    with pytest.raises(QuantityError):
        reckon(typed)


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


@pytest.fixture
def survey(window: MainWindow) -> Any:
    """The survey of that loom, in a window that is seen."""
    window.files.new()
    window.store.do("a loom", lambda job: replace(job, loom=found()))
    window.show()
    return page(window, "Survey")


def typed(cards: StepCards, text: str) -> None:
    """Type on the card and press Enter."""
    QTest.keyClicks(cards, text)
    QTest.keyClick(cards, Qt.Key.Key_Return)


def to(cards: StepCards, key: str) -> None:
    """Look on to a card."""
    steps = cards._steps()
    while (now := cards.current()) is not None and now.key != key:
        at, wanted = cards.at, [step.key for step in steps].index(key)
        QTest.keyClick(cards, Qt.Key.Key_Right if wanted > at else Qt.Key.Key_Left)


def test_a_loom_is_recorded_by_cards_alone(
    survey: Any, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    """Keys, a camera that writes into a folder, and one picture dropped on the card."""
    assert survey.bench_button.text() == "Before it is opened: 12 to do"
    survey.bench_button.click()
    cards = cards_of(window)
    (camera,) = cards.findChildren(CameraCards)
    camera.watch(tmp_path)
    assert cards.headline.text() == "Battery off"
    assert cards.headline.fontInfo().pixelSize() >= 50, "read from two metres"
    for _ in range(4):
        QTest.keyClick(cards, Qt.Key.Key_Space)
    assert [node.mark for node in window.store.job.loom.nodes] == ["N1", "", "N3", "N4"]
    assert cards.headline.text() == "Photograph Plug"
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert "done by a photo" in cards.notice.text()
    for code in ("N1", "N3", "N4"):
        picture(tmp_path / f"shot {code}.jpg")
        qtbot.waitUntil(lambda code=code: bool(window.store.job.photos_on(code)))  # type: ignore[misc]
    qtbot.waitUntil(lambda: cards.headline.text() == "Photograph Breakout")
    drop(cards, [picture(tmp_path.parent / "dropped.png")], cards)
    qtbot.waitUntil(lambda: bool(window.store.job.photos_on("N2")))
    # The lengths that are known already are passed over.
    qtbot.waitUntil(lambda: cards.headline.text() == "Measure from Breakout to Horn")
    typed(cards, "480mm")
    typed(cards, "1.3/2.6")
    assert cards.headline.text() == "Trace L1"
    QTest.keyClick(cards, Qt.Key.Key_Left)
    assert "copper 1.3" in cards.state.text() or "1.3/2.6" in cards.state.text()
    QTest.keyClick(cards, Qt.Key.Key_Right)
    typed(cards, "N9")
    assert "There is no end N9" in cards.notice.text()
    for _ in range(2):
        QTest.keyClick(cards, Qt.Key.Key_Backspace)
    typed(cards, "N1")
    assert "L1 starts at N1" in cards.notice.text()
    for _ in range(2):
        QTest.keyClick(cards, Qt.Key.Key_Backspace)
    typed(cards, "n4")
    to(cards, "photo X1")
    picture(tmp_path / "shot X1.jpg")
    qtbot.waitUntil(lambda: survey.bench_button.text() == "All recorded")
    loom = window.store.job.loom
    assert loom.segments[2].length_m == 0.48
    assert (loom.wires[0].finish, loom.wires[0].known) == ("N4", "traced")
    assert str(loom.wires[0].size) == "1 mm²"
    assert (tmp_path / "shot N1.jpg").exists()
    cards.close()


def test_space_alone_records_nothing(survey: Any, window: MainWindow) -> None:
    """Six cards passed by Space said "all recorded" of a loom of 0.0 m."""
    survey.bench_button.click()
    cards = cards_of(window)
    to(cards, "measure B3")
    for _ in range(12):
        QTest.keyClick(cards, Qt.Key.Key_Space)
    assert survey.bench_button.text() == "Before it is opened: 12 to do"
    assert window.store.job.loom == found()
    cards.close()


def test_what_a_card_brought_is_taken_back_by_its_key_and_by_undo(
    survey: Any, window: MainWindow
) -> None:
    survey.bench_button.click()
    cards = cards_of(window)
    to(cards, "measure B3")
    typed(cards, "2m")
    assert window.store.job.loom.segments[2].length_m == 2
    to(cards, "measure B3")
    QTest.keyClick(cards, Qt.Key.Key_Backspace)
    assert window.store.job.loom.segments[2].length_m is None
    window.store.history.undo()
    assert window.store.job.loom.segments[2].length_m == 2
    cards.close()


def test_a_picture_that_comes_while_a_length_is_measured_is_not_taken_for_it(
    survey: Any, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    survey.bench_button.click()
    cards = cards_of(window)
    (camera,) = cards.findChildren(CameraCards)
    picture(tmp_path / "before.jpg")
    camera.watch(tmp_path)
    to(cards, "measure B3")
    picture(tmp_path / "while.jpg")
    qtbot.waitUntil(lambda: "while.jpg was not taken" in cards.notice.text())
    assert window.store.job.photos == ()
    cards.close()


def test_a_picture_that_is_still_being_written_is_waited_for(
    survey: Any, window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    survey.bench_button.click()
    cards = cards_of(window)
    (camera,) = cards.findChildren(CameraCards)
    camera.watch(tmp_path)
    camera._look.stop()  # looked by hand here, to say when
    to(cards, "photo N1")
    whole = picture(tmp_path.parent / "whole.png").read_bytes()
    path = tmp_path / "shot.png"
    for end in (len(whole) // 2, len(whole) - 9):
        path.write_bytes(whole[:end])
        camera.look()
        assert camera._taken == set()
    path.write_bytes(whole)
    for _ in range(2):
        camera.look()
    qtbot.waitUntil(lambda: len(window.store.job.photos_on("N1")) == 1)
    camera.look()
    assert len(window.store.job.photos) == 1, "once"
    cards.close()


def test_the_folder_of_the_camera_is_remembered(
    survey: Any, window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    survey.bench_button.click()
    cards = cards_of(window)
    (camera,) = cards.findChildren(CameraCards)
    assert camera.camera_button.text() == "Watch camera…"
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    camera.camera_button.click()
    assert camera.camera_button.text() == f"Watching {tmp_path.name}"
    cards.close()
    survey.bench_button.click()
    again = cards_of(window)
    (camera,) = again.findChildren(CameraCards)
    assert camera.folder == tmp_path
    camera.camera_button.click()
    assert camera.folder is None
    again.close()


def test_notes_are_taken_and_gone_on_with_next_week(demo_window: MainWindow, qtbot: QtBot) -> None:
    survey = page(demo_window, "Survey")
    survey.bench_button.click()
    cards = cards_of(demo_window)
    first = cards.current()
    assert first is not None
    assert demo_window.hand.subject == first.subject

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
    now = again.current()
    assert now is not None
    assert not again.is_done(now)
    again.close()
