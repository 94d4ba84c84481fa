"""The window in the words of the job: ground, harness, firewall, where it asks for them.

Texts are written in one English. While a job wants the other, what is about to be painted or shown
as a tip is said in that; while none does, nothing is looked at. What was said otherwise is kept
with the widget, and comes back when the job is another.
"""

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPersistentModelIndex
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QGroupBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QMenu,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTabBar,
    QWidget,
)

from molvik.desktop.widgets import saying
from molvik.desktop.widgets.canvas import Canvas
from molvik.model.job import Job
from molvik.spoken import Spoken

Index = QModelIndex | QPersistentModelIndex

_WAS, _NOW = "written", "said"


class Speaking(QObject):
    """Says the texts of all windows as the job wants them."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._spoken: Spoken | None = None
        self._listens = False

    def follow(self, job: Job) -> None:
        """Say everything as this job wants it from now on."""
        spoken = Spoken(job)
        if spoken.is_plain and not self._listens:
            return
        self._spoken = spoken
        saying.speak(spoken)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        if spoken.is_plain:
            app.removeEventFilter(self)
            self._listens = False
            for widget in app.allWidgets():
                _write_again(widget)
        elif not self._listens:
            app.installEventFilter(self)
            self._listens = True
        for widget in app.allWidgets():
            if isinstance(widget, Canvas):
                widget.redraw()
            elif widget.isWindow():
                widget.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Say what is about to be seen."""
        kind = event.type()
        if kind == QEvent.Type.Paint:
            self._say_face(watched)
        elif kind == QEvent.Type.ToolTip and isinstance(watched, QWidget):
            self._say(watched, "toolTip", "setToolTip")
        elif kind == QEvent.Type.Show and isinstance(watched, QWidget):
            if watched.isWindow():
                self._say(watched, "windowTitle", "setWindowTitle")
            if isinstance(watched, QMenu):
                for action in watched.actions():
                    self._say(action, "text", "setText")
        return False

    def _say_face(self, watched: QObject) -> None:
        if isinstance(watched, QLabel | QAbstractButton):
            self._say(watched, "text", "setText")
            self._say(watched, "accessibleName", "setAccessibleName")
        elif isinstance(watched, QLineEdit):
            self._say(watched, "placeholderText", "setPlaceholderText")
        elif isinstance(watched, QGroupBox):
            self._say(watched, "title", "setTitle")
        elif isinstance(watched, QTabBar):
            for index in range(watched.count()):
                text = watched.tabText(index)
                if (said := self._words(text)) != text:
                    watched.setProperty(f"{_WAS}-{said}", text)
                    watched.setTabText(index, said)
        elif isinstance(watched.parent(), QListWidget):
            rows = watched.parent()
            assert isinstance(rows, QListWidget)
            if type(rows.itemDelegate()) is QStyledItemDelegate:  # others paint words of their own
                rows.setItemDelegate(_Saying(rows))

    def _words(self, text: str) -> str:
        return self._spoken.say(text) if self._spoken is not None else text

    def _say(self, thing: QWidget | QAction, name: str, put: str) -> None:
        text = str(getattr(thing, name)())
        said = self._words(text)
        if said != text:
            thing.setProperty(f"{_WAS}-{name}", text)
            thing.setProperty(f"{_NOW}-{name}", said)
            getattr(thing, put)(said)


class _Saying(QStyledItemDelegate):
    """Paints the rows of a list in the words of the job; what they hold stays: it may be a key."""

    def initStyleOption(self, option: QStyleOptionViewItem, index: Index) -> None:
        """Say what is painted."""
        super().initStyleOption(option, index)
        option.text = saying.say(option.text)


PARTS = {
    "text": "setText",
    "toolTip": "setToolTip",
    "windowTitle": "setWindowTitle",
    "placeholderText": "setPlaceholderText",
    "title": "setTitle",
    "accessibleName": "setAccessibleName",
}
"""What is said of a widget, and how it is put there."""


def _write_again(widget: QWidget) -> None:
    """Put back what was written, where it still says what was said in its place."""
    if isinstance(widget, QTabBar):
        for index in range(widget.count()):
            was = widget.property(f"{_WAS}-{widget.tabText(index)}")
            if was is not None:
                widget.setTabText(index, was)
    for thing in (widget, *widget.actions()):
        for name, put in PARTS.items():
            was, now = thing.property(f"{_WAS}-{name}"), thing.property(f"{_NOW}-{name}")
            if was is not None and getattr(thing, name)() == now:
                getattr(thing, put)(was)
                thing.setProperty(f"{_WAS}-{name}", None)
