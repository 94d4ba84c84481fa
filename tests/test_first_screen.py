"""The first screen with much on it: everything can be read and pressed, scrolled where needed."""

from datetime import datetime
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton, QScrollArea, QWidget
from pytestqt.qtbot import QtBot

from conftest import small_job, wire
from molvik.desktop.window import MainWindow
from molvik.files.recovery import Leftover

LONG = "Engine loom of the Curlew transporter, second attempt with the new bulkhead plug"


def full(count: int) -> tuple[list[Path], list[Leftover]]:
    """Six files opened last, and so many jobs that were left behind, two of one name."""
    recent = [Path(f"/home/builder/customers/vehicle {n}/{LONG} {n}.molvik") for n in range(6)]
    job = replace(small_job(wire("W1", "C1/1", "C2/1")), title=LONG)
    left = [
        Leftover(
            Path(f"/tmp/{n}.recovery"),
            job,
            Path(f"/home/b/{n}.molvik") if n else None,
            datetime(2026, 11, 30, 10, n),
        )
        for n in range(count)
    ]
    return recent, left


def area(widget: QWidget, of: QWidget) -> QRect:
    return QRect(widget.mapTo(of, QPoint(0, 0)), widget.size())


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (683, 467)])
@pytest.mark.parametrize("count", [0, 1, 4])
def test_nothing_is_cut_away_nor_lies_over_another(
    window: MainWindow, qtbot: QtBot, size: tuple[int, int], count: int
) -> None:
    """683 x 467 is 1024 x 700 with text of 150 %."""
    window.show()
    window.resize(*size)
    window.welcome.show_lists(*full(count))
    (scrolled,) = window.welcome.findChildren(QScrollArea)
    page = scrolled.widget()
    assert page is not None

    def squeezed() -> list[str]:
        return _squeezed(page, scrolled.viewport().width(), 14 + 3 * count)

    qtbot.waitUntil(lambda: squeezed() == [])


def _squeezed(page: QWidget, wide: int, least: int) -> list[str]:
    """Return what is cut away on a page, or lies over another; and whether too little is there."""
    shown = [
        one
        for one in page.findChildren(QWidget)
        if isinstance(one, QPushButton | QLabel) and one.isVisible()
    ]
    found = [] if len(shown) > least else [f"only {len(shown)} are there"]
    for n, one in enumerate(shown):
        needed = one.heightForWidth(one.width()) if one.hasHeightForWidth() else 0
        if one.height() < max(needed, one.minimumSizeHint().height()):
            found.append(f"“{one.text()}” is cut away")
        if area(one, page).right() > wide:
            found.append(f"“{one.text()}” lies beside the screen")
        found += [
            f"“{one.text()}” lies over “{other.text()}”"
            for other in shown[n + 1 :]
            if area(one, page).intersects(area(other, page))
        ]
    return found


def test_the_last_of_many_is_scrolled_to_by_keys_and_opened(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.show()
    window.resize(1024, 700)
    recent, left = full(4)
    window.welcome.show_lists(recent, left)
    (scrolled,) = window.welcome.findChildren(QScrollArea)
    names = [one for one in scrolled.findChildren(QPushButton) if one.text().startswith(LONG)]
    last = names[-1]
    last.setFocus(Qt.FocusReason.TabFocusReason)

    def comes_into_view() -> bool:
        scrolled.ensureWidgetVisible(last)
        return not last.visibleRegion().isEmpty()

    qtbot.waitUntil(comes_into_view)
    with qtbot.waitSignal(window.welcome.reopened) as asked:
        QTest.keyClick(last, Qt.Key.Key_Return)
    assert asked.args == [recent[-1]]


def test_two_of_one_name_that_were_left_behind_are_told_apart(window: MainWindow) -> None:
    window.welcome.show_lists(*full(2))
    words = [one.text() for one in window.welcome.findChildren(QLabel) if "unsaved" in one.text()]
    assert (
        words[0] == f"{LONG}: unsaved work from 30 Nov 2026, 10:00, never saved to a file; 1 wire."
    )
    assert words[1].endswith("10:01, of 1.molvik in /home/b; 1 wire.")


def test_who_has_opened_nothing_is_told_the_order_of_the_work(window: MainWindow) -> None:
    window.show()
    for recent in ([], full(0)[0]):
        window.welcome.show_lists(recent, [])
        told = [
            one for one in window.welcome.findChildren(QLabel) if "What do I have" in one.text()
        ]
        assert told[0].isVisible() is not bool(recent)
