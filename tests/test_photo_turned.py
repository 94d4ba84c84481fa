"""Photos are turned with their marks, looked into with the wheel, and keep the panel's width."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from molvik.desktop.window import MainWindow
from molvik.model import photo_edits
from molvik.model.job import Job
from molvik.model.photos import Mark, Photo
from molvik.survey.photo_lengths import lengths

part = st.floats(0, 1).map(lambda value: round(value, 4))


@given(part, part, part, part)
def test_a_photo_turned_four_times_is_as_it_was(x1: float, y1: float, x2: float, y2: float) -> None:
    if (x1, y1) == (x2, y2):
        return
    photo = Photo(
        "P1",
        "photos/a.jpg",
        400,
        300,
        "2026-11-02T10:00:00+01:00",
        marks=(Mark("arrow", x1, y1, x2, y2),),
    )
    job = Job("x", photos=(photo,))
    once = photo_edits.turn(job, "P1").photos[0]
    assert (once.width, once.height, once.turned) == (300, 400, 1)
    # Clockwise by a quarter, in pixels: what was at (x, y) is at (height - y, x).
    assert once.marks[0].x1 * 300 == pytest.approx(300 - y1 * 300)
    assert once.marks[0].y1 * 400 == pytest.approx(x1 * 400)
    for _ in range(4):
        job = photo_edits.turn(job, "P1")
    assert job == Job("x", photos=(photo,))


def test_what_is_measured_on_it_is_as_long_whichever_way_it_is_turned() -> None:
    marks = (Mark("length", 0.1, 0.2, 0.5, 0.2, length_m=0.1), Mark("length", 0.1, 0.2, 0.4, 0.9))
    photo = Photo("P1", "photos/a.jpg", 400, 300, "2026-11-02T10:00:00+01:00", marks=marks)
    job = Job("x", photos=(photo,))
    turned = photo_edits.turn(job, "P1").photos[0]
    assert lengths(turned)[1].length_m == pytest.approx(lengths(photo)[1].length_m)


@pytest.fixture
def shown(demo_window: MainWindow, qtbot: QtBot, tmp_path: Path) -> MainWindow:
    """A window with a photo that is red at the top and blue below."""
    picture = Image.new("RGB", (80, 60), (200, 20, 20))
    picture.paste((20, 20, 200), (0, 30, 80, 60))
    picture.save(tmp_path / "a.png")
    demo_window.show()
    demo_window.hand.pick("N9")
    demo_window.beside.add_photos([tmp_path / "a.png"])
    qtbot.waitUntil(lambda: bool(demo_window.store.job.photos_on("N9")))
    demo_window.beside.show_photo(demo_window.store.job.photos[-1].code)
    return demo_window


def test_a_photo_is_turned_in_its_window_and_in_the_panel(shown: MainWindow) -> None:
    desk = shown.beside.photos
    assert desk is not None
    large = desk.shown
    assert large is not None
    large.activateWindow()
    assert QTest.qWaitForWindowActive(large)
    large.view.setFocus()
    QTest.keyClick(large.view, Qt.Key.Key_R)
    photo = large.photo()
    assert photo is not None
    assert photo.turned == 1
    image = large._image
    assert (image.width(), image.height()) == (60, 80)
    # What was on top is on the right now.
    assert image.pixelColor(50, 40).red() > 150
    assert image.pixelColor(8, 40).blue() > 150
    icon = shown.in_hand.thumbs.pictures[0].icon().pixmap(84, 62)
    assert icon.width() < icon.height()
    shown.store.history.undo()
    assert large._image.width() == 80
    large.close()


def test_the_wheel_looks_into_a_photo(shown: MainWindow) -> None:
    desk = shown.beside.photos
    assert desk is not None
    assert desk.shown is not None
    view = desk.shown.view
    before = view.zoom
    middle = QPointF(view.viewport().rect().center())
    for by in (120, 120):
        QApplication.sendEvent(
            view.viewport(),
            QWheelEvent(
                middle,
                middle,
                QPoint(),
                QPoint(0, by),
                Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
    assert view.zoom > 1.2 * before
    desk.shown.close()


def test_photos_in_the_panel_do_not_widen_it(
    shown: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    desk = shown.beside.photos
    assert desk is not None
    assert desk.shown is not None
    desk.shown.close()
    wide, least = shown.in_hand.width(), shown.in_hand.minimumSizeHint().width()
    names = []
    for n in range(5):
        Image.new("RGB", (80 + n, 60), (20 * n, 20, 20)).save(tmp_path / f"{n}.png")
        names.append(tmp_path / f"{n}.png")
    shown.beside.add_photos(names)
    qtbot.waitUntil(lambda: len(shown.store.job.photos_on("N9")) == 6)
    assert shown.in_hand.minimumSizeHint().width() <= least
    assert shown.in_hand.width() == wide
    thumbs = shown.in_hand.thumbs
    qtbot.waitUntil(lambda: thumbs.pictures[5].isVisible())
    assert all(one.geometry().right() <= thumbs.width() for one in thumbs.pictures)
    assert len({(one.x(), one.y()) for one in thumbs.pictures}) == 6
