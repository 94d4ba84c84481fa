"""Photos in the real window: added, marked, undone, saved, kept over a crash."""

import io
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from conftest import looked_over, open_window, type_field
from molvik.desktop.beside import photos as photo_desk
from molvik.desktop.beside.photos import PhotoWindow
from molvik.desktop.window import MainWindow
from molvik.files.jobfile import read_job
from molvik.files.photobox import PhotoBox
from molvik.files.photos import make_ready
from molvik.files.recovery import leftovers


def write(folder: Path, name: str, size: tuple[int, int] = (640, 480)) -> Path:
    path = folder / name
    Image.new("RGB", size, "#b3261e").save(path)
    return path


def add(qtbot: QtBot, window: MainWindow, *paths: Path) -> None:
    """Add photos of what is in hand by the key's action, and wait for them."""
    before = len(window.store.job.photos)
    original = QFileDialog.getOpenFileNames
    QFileDialog.getOpenFileNames = lambda *_: ([str(p) for p in paths], "")  # type: ignore
    try:
        window.beside.ask_photos()
    finally:
        QFileDialog.getOpenFileNames = original  # type: ignore[method-assign]
    qtbot.waitUntil(lambda: len(window.store.job.photos) > before)


def large(window: MainWindow, at: int = 0) -> PhotoWindow:
    """Click a small picture; return the window that shows it large."""
    window.in_hand.thumbs.pictures[at].click()
    desk = window.beside.photos
    assert desk is not None
    assert desk.shown is not None
    return desk.shown


def drag(view: Any, begin: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag from one place of a photo to another, in parts of its width and height."""
    frame = view.frame()

    def place(at: tuple[float, float]) -> QPoint:
        return QPointF(
            frame.x() + at[0] * frame.width(), frame.y() + at[1] * frame.height()
        ).toPoint()

    QTest.mousePress(view.viewport(), Qt.MouseButton.LeftButton, pos=place(begin))
    QTest.mouseMove(view.viewport(), place(((begin[0] + end[0]) / 2, end[1])))
    QTest.mouseRelease(view.viewport(), Qt.MouseButton.LeftButton, pos=place(end))


def test_the_photo_of_a_fault_is_in_hand_with_the_fault(demo_window: MainWindow) -> None:
    demo_window.hand.pick("X1")
    first = demo_window.in_hand.thumbs.pictures[0]
    assert first.isVisible()
    assert "P1" in first.toolTip()
    shown = large(demo_window)
    assert not shown.view._image.isNull()
    assert [shown.marks.item(n).text() for n in range(shown.marks.count())] == [
        "arrow: copper shows",
        "length: 68 mm",
        "circle: neighbour scorched",
    ]
    demo_window.hand.pick("X2")
    assert not demo_window.in_hand.thumbs.isVisible()


def test_a_photo_is_added_marked_measured_and_undone(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    demo_window.hand.pick("X2")
    add(qtbot, demo_window, write(tmp_path, "wire.png"))
    photo = demo_window.store.job.photos[-1]
    assert (photo.code, photo.on, photo.by) == ("P5", "X2", "Mirel")
    shown = large(demo_window)
    type_field(shown.caption, "Insulation on the bench")
    QTest.keyClick(shown.view, Qt.Key.Key_L)
    assert shown.tools["length"].isChecked()
    drag(shown.view, (0.1, 0.5), (0.6, 0.5))
    type_field(shown.says, "10 cm")
    shown.tools["length"].click()
    drag(shown.view, (0.1, 0.7), (0.35, 0.7))
    assert shown.view.label_of(0) == "100 mm"
    assert shown.view.label_of(1) == "about 50 mm"  # half as long in the picture
    shown.tools["arrow"].click()
    drag(shown.view, (0.9, 0.1), (0.5, 0.3))
    type_field(shown.says, "falls off here")
    photo = demo_window.store.job.photos[-1]
    assert photo.text == "Insulation on the bench"
    arrow = photo.marks[2]
    assert (arrow.kind, arrow.text) == ("arrow", "falls off here")
    assert (arrow.x2, arrow.y2) == pytest.approx((0.5, 0.3), abs=0.01)
    demo_window.store.history.undo()
    assert demo_window.store.job.photos[-1].marks[2].text == ""
    while demo_window.store.history.canUndo():
        demo_window.store.history.undo()
    assert len(demo_window.store.job.photos) == 4
    assert not shown.isVisible()


def test_marks_are_chosen_moved_and_taken_off_by_keys(demo_window: MainWindow) -> None:
    demo_window.hand.pick("X1")
    shown = large(demo_window)
    before = demo_window.store.job.photos[0].marks[0]
    shown.marks.setCurrentRow(0)
    QTest.keyClick(shown.view, Qt.Key.Key_Right)
    QTest.keyClick(shown.view, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    after = demo_window.store.job.photos[0].marks[0]
    assert (after.x1, after.y1) == pytest.approx((before.x1 + 0.01, before.y1))
    assert (after.x2, after.y2) == pytest.approx((before.x2 + 0.01, before.y2 + 0.01))
    shown.off_button.click()
    assert [mark.kind for mark in demo_window.store.job.photos[0].marks] == ["length", "circle"]


def test_a_click_takes_the_mark_that_is_there(demo_window: MainWindow) -> None:
    demo_window.hand.pick("X1")
    shown = large(demo_window)
    arrow = demo_window.store.job.photos[0].marks[0]
    half = ((arrow.x1 + arrow.x2) / 2, (arrow.y1 + arrow.y2) / 2)
    drag(shown.view, half, half)
    assert shown.view.at == 0
    drag(shown.view, (0.02, 0.95), (0.02, 0.95))
    assert shown.view.at == -1


def test_a_length_that_is_none_is_refused_in_its_place(demo_window: MainWindow) -> None:
    demo_window.hand.pick("X1")
    shown = large(demo_window)
    shown.marks.setCurrentRow(1)
    type_field(shown.says, "long")
    assert "long" in shown.notice.text()
    assert shown.says.text() == "long"
    assert demo_window.store.job.photos[0].marks[1].length_m == 0.068


def test_importing_fifty_photos_shows_progress_and_can_be_stopped(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    paths = [write(tmp_path, f"{n}.png", (40 + n, 30)) for n in range(50)]
    demo_window.beside.add_photos(paths)
    desk = demo_window.beside.photos
    assert desk is not None
    assert desk.progress is not None
    assert desk.progress.maximum() == 50
    qtbot.waitUntil(lambda: len(demo_window.store.job.photos) == 54)
    assert demo_window.store.history.undoText() == "50 photos of the job"

    def reads(paths: Any, box: Any, stop: Any, told: Any) -> Any:
        told(7)
        while not stop():
            QTest.qSleep(5)
        return [], []

    monkeypatch.setattr(photo_desk, "read_photos", reads)
    demo_window.beside.add_photos(paths)
    progress = desk.progress
    qtbot.waitUntil(lambda: progress.value() == 7)
    progress.findChildren(QPushButton)[0].click()
    qtbot.waitUntil(lambda: "no photo" in demo_window.strip.saved.text())
    assert len(demo_window.store.job.photos) == 54


def test_photos_are_saved_and_come_back_with_the_job(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "job.molvik"
    demo_window.hand.pick("X2")
    add(qtbot, demo_window, write(tmp_path, "wire.png"))
    kept = demo_window.store.job
    assert demo_window.files.save_as(path)
    assert read_job(path) == kept
    demo_window.files.close_job()
    assert demo_window.files.open(path)
    demo_window.hand.pick("X2")
    assert demo_window.in_hand.thumbs.pictures[0].isVisible()
    box = demo_window.files.photos
    assert box.folder is not None
    assert not list(box.folder.glob("*"))  # from the package, not from what was left lying
    ready = make_ready((tmp_path / "wire.png").read_bytes(), "wire.png")
    assert box.read(kept.photos[-1].file) == ready.data
    with Image.open(io.BytesIO(box.read(kept.photos[0].file) or b"")) as demo:
        assert demo.size == (1280, 860)


def test_a_photo_taken_out_and_saved_can_be_brought_back(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    path = tmp_path / "job.molvik"
    assert demo_window.files.save_as(path)
    demo_window.files.close_job()
    demo_window.files.open(path)
    demo_window.hand.pick("X1")
    shown = large(demo_window)
    shown._remove()
    assert not shown.isVisible()
    assert demo_window.files.save()
    demo_window.store.history.undo()
    assert demo_window.files.save()
    assert demo_window.files.photos.read(demo_window.store.job.photos[0].file) is not None
    demo_window.files.close_job()
    demo_window.files.open(path)
    assert demo_window.files.photos.read(demo_window.store.job.photos[0].file) is not None


CRASH = """
import os, sys, time
from pathlib import Path
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from molvik.desktop.window import MainWindow
application = QApplication([])
window = MainWindow(QSettings(sys.argv[1] + "/s.ini", QSettings.Format.IniFormat))
window.show()
window.files.open_demo()
window.hand.pick("X2")
window.beside.add_photos([Path(sys.argv[2])])
end = time.monotonic() + 300
while len(window.store.job.photos) < 5 and time.monotonic() < end:
    application.processEvents()
window.files.keeper.keep()
from molvik.desktop.threads.lanes import KEEPING
assert KEEPING.wait(60)
os.kill(os.getpid(), 9)
"""


def test_a_photo_survives_a_crash(qtbot: QtBot, tmp_path: Path) -> None:
    path = write(tmp_path, "wire.png")
    died = subprocess.run([sys.executable, "-c", CRASH, str(tmp_path), str(path)], check=False)
    assert died.returncode == -signal.SIGKILL
    window = open_window(qtbot, tmp_path)
    (left,) = leftovers()
    window.welcome.recovered.emit(left)
    looked_over(qtbot, window)
    photo = window.store.job.photos[-1]
    assert photo.on == "X2"
    assert window.files.photos.read(photo.file) is not None
    saved = tmp_path / "saved.molvik"
    assert window.files.save_as(saved)
    assert not leftovers()
    window.files.close_job()
    assert window.files.open(saved)
    assert window.files.photos.read(photo.file) is not None
    assert window.files.photos.read(window.store.job.photos[0].file) is not None


def test_a_photo_that_is_missing_says_so(demo_window: MainWindow) -> None:
    demo_window.files.photos = PhotoBox()
    demo_window.in_hand.thumbs.forget()
    demo_window.hand.pick("X1")
    shown = large(demo_window)
    assert shown.view._image.isNull()
    shown.grab()  # painting a photo that is not there must not fail
    demo_window.hand.pick("")
    assert not demo_window.in_hand.thumbs.isVisible()


def test_the_logbook_leads_to_a_photo(demo_window: MainWindow) -> None:
    demo_window.beside.show_logbook()
    book = demo_window.beside.logbook
    assert book is not None
    book.filter.setText("photo heater")
    assert [line.kind for _, line in book.model.things] == ["photo"]
    book.table.doubleClicked.emit(book.model.index(0, 0))
    desk = demo_window.beside.photos
    assert desk is not None
    assert desk.shown is not None
    assert desk.shown.code == "P1"
    book.close()
    desk.shown.close()


# Faults from a photo


def test_several_faults_are_recorded_from_one_photo(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    store = demo_window.store
    demo_window.go(0)
    demo_window.hand.pick("B3")
    add(qtbot, demo_window, write(tmp_path, "stretch.png"))
    shown, before = large(demo_window), len(store.job.loom.faults)
    assert not shown.faults_button.isVisible()
    for at, (tool, words) in enumerate(
        (("circle", "chewed 3"), ("arrow", "L17 rusty, dangerous"), ("circle", "see the other"))
    ):
        shown.tools[tool].click()  # type: ignore[index]
        drag(shown.view, (0.2 + at / 5, 0.3), (0.3 + at / 5, 0.5))
        qtbot.keyClicks(shown.says, words)
        qtbot.keyClick(shown.says, Qt.Key.Key_Return)
    assert shown.faults_button.text() == "Record 2 faults"
    shown.faults_button.click()
    made = store.job.loom.faults[before:]
    assert [(one.on, one.kind, one.grade) for one in made] == [
        ("B3", "chafed through", 3),
        ("L17", "green copper", 4),
    ]
    assert [mark.text.split()[0] for mark in store.job.photos[-1].marks[:2]] == [
        one.code for one in made
    ]
    assert not shown.faults_button.isVisible(), "each is recorded once"
    demo_window.hand.pick(made[1].code)
    assert store.job.photos[-1] in store.job.photos_on(made[1].code)
    assert demo_window.in_hand.thumbs.pictures, "the fault shows the photo it was recorded from"
    store.history.undo()
    assert len(store.job.loom.faults) == before
    assert shown.faults_button.isVisible()


def test_a_fault_on_a_photo_of_no_thing_asks_what_it_is_on(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    demo_window.hand.pick("")
    add(qtbot, demo_window, write(tmp_path, "bay.png"))
    shown = large(demo_window)
    shown._record_faults()
    assert "No mark tells of a fault yet" in shown.notice.text()
    shown.tools["circle"].click()
    drag(shown.view, (0.2, 0.3), (0.3, 0.5))
    qtbot.keyClicks(shown.says, "burnt 4")
    qtbot.keyClick(shown.says, Qt.Key.Key_Return)
    shown.faults_button.click()
    assert "for example L3 burnt 4" in shown.notice.text()
