"""Find (Ctrl+K): a code, cavity, colour, function or finding, a command, or a small sum."""

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QAction, QHideEvent, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.widgets.small import copyable, label
from molvik.search import search

LEAST_LETTERS = 3
"""So many are needed to offer a command."""


def commands_like(actions: Sequence[QAction], text: str) -> list[QAction]:
    """Return the commands whose name has a text in it."""
    wanted = text.strip().lower()
    if len(wanted) < LEAST_LETTERS:
        return []
    return [
        action for action in actions if action.isEnabled() and wanted in name_of(action).lower()
    ]


def name_of(action: QAction) -> str:
    """Return the name of a command, without the mark of its letter."""
    return action.text().replace("&", "").rstrip("…")


class FindBox(QDialog):
    """The box that finds. followed(subject, stage): go there. actions: the commands there are."""

    followed = Signal(str, str)

    def __init__(self, parent: QWidget, actions: Sequence[QAction]) -> None:
        super().__init__(parent)
        self._actions = actions
        self.setWindowTitle("Find")
        self.setWindowFlag(Qt.WindowType.FramelessWindowHint)
        self.setAccessibleName("Find")
        self._window = parent
        self._analysis: Analysis | None = None
        self.field = QLineEdit()
        self.field.setPlaceholderText(
            "Code, cavity (C2 15), colour (Br/W), function, command, or a sum: 14 awg 5 m 12 A"
        )
        self.field.setAccessibleName("What to find")
        self.field.textChanged.connect(self._search)
        self.field.returnPressed.connect(self._follow)
        self.field.installEventFilter(self)
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.list.setWordWrap(True)
        copyable(self.list)
        self.list.itemActivated.connect(lambda _: self._follow())
        self.list.itemClicked.connect(lambda _: self._follow())
        self.hint = label("Up and down to choose, Enter to go there, Esc to close.", "faint")
        column = QVBoxLayout(self)
        column.addWidget(self.field)
        column.addWidget(self.list)
        column.addWidget(self.hint)
        self.resize(560, 380)

    def ask(self, analysis: Analysis) -> None:
        """Open on a job."""
        self._analysis = analysis
        self.field.selectAll()
        self._search(self.field.text())
        window = self._window
        corner = window.mapToGlobal(window.rect().topRight())
        self.move(corner.x() - self.width() - 20, corner.y() + 64)
        self.show()
        self.raise_()
        self.field.setFocus()

    def hideEvent(self, event: QHideEvent) -> None:
        """Let go of the job that was searched."""
        super().hideEvent(event)
        self._analysis = None
        self.list.clear()

    def _search(self, text: str) -> None:
        self.list.clear()
        if self._analysis is None:
            return
        hits = search(self._analysis, text)
        for hit in hits:
            self._add(hit.text, hit)
        for action in commands_like(self._actions, text):
            keys = action.shortcut().toString()
            self._add(f"do: {name_of(action)}" + (f"   {keys}" if keys else ""), action)
        if self.list.count():
            self.list.setCurrentRow(0)
        elif text.strip():
            self.hint.setText(f"Nothing in this job matches “{text.strip()}”.")
            return
        self.hint.setText("Up and down to choose, Enter to go there, Esc to close.")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Let the arrows move through the list while typing."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step and self.list.count():
                index = self.list.currentRow() + step
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, index)))
                return True
        return super().eventFilter(watched, event)

    def _add(self, text: str, meant: object) -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, meant)
        self.list.addItem(item)

    def _follow(self) -> None:
        item = self.list.currentItem()
        meant = item.data(Qt.ItemDataRole.UserRole) if item else None
        if isinstance(meant, QAction):
            self.hide()
            meant.trigger()
        elif meant is not None and meant.subject:
            self.hide()
            self.followed.emit(meant.subject, meant.stage)
