"""A person who clicks and types anything, by a seed; and what that costs in memory."""

import gc
import random
import sys
import time
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QCoreApplication,
    QEvent,
    QModelIndex,
    QPoint,
    QSettings,
    Qt,
    QTimer,
)
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QTabBar,
    QWidget,
)

from molvik.desktop import theme
from molvik.desktop.window import MainWindow
from molvik.stages import STAGES

KEYS = (
    Qt.Key.Key_Return,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Tab,
    Qt.Key.Key_Backtab,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Down,
    Qt.Key.Key_Up,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Space,
    Qt.Key.Key_F8,
    Qt.Key.Key_F,
    Qt.Key.Key_PageDown,
)
WITH_CONTROL = "ZYKURDCVAL12345678"
WORDS = (
    "W12",
    "C3/5",
    "0.75 mm2",
    "14 awg",
    "RD/WH",
    "22 in",
    "-5",
    "1e9",
    "x" * 60,
    "=1",
    "",
    "(a) ~ b",
    "E1",
    "F2 out",
    "12 V",
    "60 °C",
    "OL",
    "0.3",
)
NOT_PRESSED = ("Quit", "Exit")


class User:
    """Acts on whatever is in front; problems: what was raised meanwhile."""

    def __init__(self, window: MainWindow, chance: random.Random, seconds: float) -> None:
        self.window, self.chance = window, chance
        self.problems: list[str] = []
        self.acts = 0
        self.gone = False
        self.ends = time.monotonic() + seconds
        # One timer for all looks: each single shot to a method would leave a connection for ever.
        self._next = QTimer(singleShot=True, interval=40)
        self._next.timeout.connect(self._in_a_dialog)
        self._next.start()
        self._seen: dict[int, int] = {}

    def _in_a_dialog(self) -> None:
        """A window that waits for an answer gets some clicks, and is closed."""
        if self.gone:
            return
        # The next look comes even while what is done here waits for an answer itself.
        self._next.start()
        popup = QApplication.activePopupWidget()
        late = time.monotonic() > self.ends
        if popup is not None and (late or self.chance.random() < 0.5):
            popup.close()
            return
        front = QApplication.activeModalWidget()
        if front is None:
            return
        if late:
            front.close()
            return
        seen = self._seen[id(front)] = self._seen.get(id(front), 0) + 1
        if seen > 4 and isinstance(front, QDialog):
            self._seen.pop(id(front))
            front.reject()
        else:
            self.act(front)

    def act(self, front: QWidget) -> None:
        """Do one thing in a window."""
        self.acts += 1
        chance = self.chance
        match chance.randrange(9):
            case 0 | 1 | 2:
                self._click_one(front, QAbstractButton)
            case 3:
                self._type(front)
            case 4:
                self._click_row(front)
            case 5:
                self._click_one(front, QTabBar)
            case 6 if front is self.window:
                self._go()
            case 7 if front is self.window:
                actions = [
                    a
                    for m in self.window.menuBar().findChildren(QMenu)
                    for a in m.actions()
                    if a.isEnabled() and not a.menu()
                ]
                actions = [a for a in actions if a.text().replace("&", "") not in NOT_PRESSED]
                if actions:
                    chance.choice(actions).trigger()
            case _:
                target = QApplication.focusWidget() or front
                if chance.random() < 0.4:
                    key = getattr(Qt.Key, f"Key_{chance.choice(WITH_CONTROL)}")
                    QTest.keyClick(target, key, Qt.KeyboardModifier.ControlModifier)
                else:
                    QTest.keyClick(target, chance.choice(KEYS))

    def _go(self) -> None:
        job = self.window.store.job
        self.window.go(self.chance.randrange(len(STAGES)))
        codes = [one.code for one in (*job.wires, *job.parts(), *job.loom.things())]
        if codes:
            self.window.hand.pick(self.chance.choice(codes))

    def _some(self, front: QWidget, kind: type) -> Any:
        # Not findChildren: what it finds it ties to the window, which then keeps it for ever.
        known: list[Any] = [
            one
            for one in QApplication.allWidgets()
            if isinstance(one, kind)
            and one.isVisible()
            and one.isEnabled()
            and front.isAncestorOf(one)
        ]
        return self.chance.choice(known) if known else None

    def _click_one(self, front: QWidget, kind: type) -> None:
        one = self._some(front, kind)
        if one is not None:
            at = QPoint(self.chance.randrange(max(1, one.width())), max(1, one.height() // 2))
            QTest.mouseClick(one, Qt.MouseButton.LeftButton, pos=at)

    def _click_row(self, front: QWidget) -> None:
        view = self._some(front, QAbstractItemView)
        if view is None or view.model() is None or not view.model().rowCount(QModelIndex()):
            return
        model = view.model()
        rows, columns = model.rowCount(QModelIndex()), 1
        if not isinstance(model, QAbstractListModel):
            columns = max(1, model.columnCount(QModelIndex()))
        index = model.index(self.chance.randrange(rows), self.chance.randrange(columns))
        view.setCurrentIndex(index)
        if self.chance.random() < 0.5:
            QTest.keyClicks(view, self.chance.choice(WORDS)[:8])
            QTest.keyClick(QApplication.focusWidget() or view, Qt.Key.Key_Return)

    def _type(self, front: QWidget) -> None:
        field = self._some(front, QLineEdit)
        if field is not None:
            field.setFocus()
            field.selectAll()
            QTest.keyClicks(field, self.chance.choice(WORDS))
            QTest.keyClick(field, self.chance.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab)))


def rest(seconds: float) -> None:
    """Let the window finish what it began, and let go of what was closed."""
    ends = time.monotonic() + seconds
    while time.monotonic() < ends:
        QApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        time.sleep(0.005)
    gc.collect()


def play(chance: random.Random, folder: Path, seconds: float, acts: int | None = None) -> int:
    """Use the window for so long, or do so many things; return how many were done.

    Fails when anything raised, when memory went over 350 MB, or when closing the job does not bring
    it back to within 50 MB of the start.
    """
    from torture import megabytes

    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    theme.apply(application)
    kept = {name: getattr(QFileDialog, name) for name in _NAMES}
    for name in _NAMES:
        answer: Any = "" if name == "getExistingDirectory" else ("", "")
        if name == "getOpenFileNames":
            answer = ([], "")
        setattr(QFileDialog, name, staticmethod(lambda *_, answer=answer, **__: answer))
    window = MainWindow(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    window.get_ready()
    _warm_up(window)
    start = megabytes()
    user = User(window, chance, seconds if acts is None else 3600.0)
    hook = sys.excepthook

    def note(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        import traceback

        user.problems.append("".join(traceback.format_exception(kind, error, trace)[-6:]))

    sys.excepthook = note
    most, told = start, time.monotonic()
    try:
        while time.monotonic() < user.ends and not user.problems:
            if acts is not None and user.acts >= acts:
                user.ends = 0.0
                break
            if not window.files.has_job:
                window.store.history.setClean()
                window.files.open_demo(chance.choice(("marten", "plover")))
            front = QApplication.activeModalWidget() or window
            tops = [
                one
                for one in QApplication.topLevelWidgets()
                if isinstance(one, QDialog) and one.isVisible()
            ]
            if tops and chance.random() < 0.5:
                front = tops[-1]
            user.act(front)
            QApplication.processEvents()
            if len(tops) > 3:
                for one in tops:
                    with suppress(RuntimeError):  # closing one may end another
                        one.close()
            if user.acts % 50 == 0:
                rest(0.05)
                most = max(most, megabytes())
            if time.monotonic() > told + 60:
                told = time.monotonic()
                print(f"[{megabytes():.0f} MB, {user.acts} acts]", file=sys.stderr, flush=True)
    finally:
        user.gone = True
        for left in QApplication.topLevelWidgets():
            with suppress(RuntimeError):
                if isinstance(left, QDialog):
                    left.reject()
        window.store.history.setClean()
        window.files.close_job()
        rest(1.5)
        sys.excepthook = hook
        for name, was in kept.items():
            setattr(QFileDialog, name, was)
    after = megabytes()
    window.close()
    window.deleteLater()
    rest(0.2)
    assert not user.problems, user.problems[0]
    assert most < 350, f"{most:.0f} MB"
    assert after < start + 50, (
        f"{start:.0f} MB at the start, {after:.0f} MB after the job was closed"
    )
    print(f"({start:.0f} MB at the start, {most:.0f} at most, {after:.0f} after) ", end="")
    return user.acts


_NAMES = ("getOpenFileName", "getOpenFileNames", "getSaveFileName", "getExistingDirectory")


def _warm_up(window: MainWindow) -> None:
    """Visit everything once, so that libraries and fonts are loaded before memory is compared."""
    import networkx
    import openpyxl
    import rapidfuzz.fuzz
    import xlsxwriter
    from PIL import Image
    from PySide6.QtPrintSupport import QPrinterInfo

    from molvik.analysis import Analysis
    from molvik.files.pdf import sheet_pdf
    from molvik.parsing.quantities import read_length_m

    assert all((networkx, openpyxl, rapidfuzz.fuzz, xlsxwriter, Image))
    read_length_m("22 in")  # the library of units
    QPrinterInfo.defaultPrinter()  # those of the system's printing
    for name in ("marten", "plover"):
        window.files.open_demo(name)
        rest(1.2)
        job = window.store.job
        sheet_pdf(Analysis(job).sheets[0], job, datetime.now())
        for at in range(len(STAGES)):
            window.go(at)
            rest(0.15)
        window.store.history.setClean()
    window.files.close_job()
    rest(0.5)
