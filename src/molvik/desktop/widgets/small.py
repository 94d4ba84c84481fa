"""Small widgets and helpers: labels by role, buttons, a notice, fields that check what is typed."""

from collections.abc import Callable, Sequence
from typing import TypeVar

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import (
    QGuiApplication,
    QHelpEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QListView,
    QPushButton,
    QStyleOptionButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

Box = TypeVar("Box", QHBoxLayout, QVBoxLayout)


def label(text: str, role: str = "", *, wrap: bool = False) -> QLabel:
    """Return a label in a role of the theme."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def set_role(widget: QWidget, role: str) -> None:
    """Change the role of a widget and let the style sheet see it."""
    if widget.property("role") != role:
        widget.setProperty("role", role)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


class _Button(QPushButton):
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Press on Enter, too, wherever it stands."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self.click()
            return
        super().keyPressEvent(event)


def button(text: str, tip: str, pressed: Callable[[], object], role: str = "") -> QPushButton:
    """Return a button with a tooltip that teaches; Enter presses it as Space does."""
    made = _Button(text)
    made.setToolTip(tip)
    made.setAccessibleName(text)
    made.setAccessibleDescription(tip)
    made.setAutoDefault(False)
    if role:
        made.setProperty("role", role)
    made.clicked.connect(lambda: pressed())
    return made


def row(*widgets: QWidget | int, spacing: int = 8) -> QHBoxLayout:
    """Return a row of widgets; a number is a stretch."""
    return _fill(QHBoxLayout(), widgets, spacing)


def column(*widgets: QWidget | QLayout | int, spacing: int = 8) -> QVBoxLayout:
    """Return a column of widgets; a number is a stretch."""
    return _fill(QVBoxLayout(), widgets, spacing)


def _fill(box: Box, things: tuple[QWidget | QLayout | int, ...], spacing: int) -> Box:
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(spacing)
    for thing in things:
        if isinstance(thing, int):
            box.addStretch(thing)
        elif isinstance(thing, QLayout):
            box.addLayout(thing)
        else:
            box.addWidget(thing)
    return box


def copyable(view: QListView) -> None:
    """Let Ctrl+C copy the chosen lines of a list as text."""

    def copy() -> None:
        chosen = [str(index.data()) for index in view.selectionModel().selectedIndexes()]
        QGuiApplication.clipboard().setText("\n".join(chosen))

    shortcut = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), view)
    shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
    shortcut.activated.connect(copy)


BUTTON_PAD = 14
"""What a button's words keep free on either side, px."""


class ShortLabel(QLabel):
    """A label that gives way: what does not fit ends in dots, and stands in full in the tooltip."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def minimumSizeHint(self) -> QSize:
        """Return a width that leaves room for others."""
        return QSize(40, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint as much as fits."""
        shown = self.fontMetrics().elidedText(
            self.text(), Qt.TextElideMode.ElideRight, self.width()
        )
        self.setToolTip(self.text() if shown != self.text() else "")
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, shown)


class ShortButton(_Button):
    """A button that gives way: what does not fit ends in dots."""

    def initStyleOption(self, option: QStyleOptionButton) -> None:
        """Return how it is painted, with as much of its words as fits."""
        super().initStyleOption(option)
        room = self.width() - 2 * BUTTON_PAD
        option.text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, room)


class SidewaysLabel(QLabel):
    """A label that is read from the top down."""

    def sizeHint(self) -> QSize:
        """Return the size of its text, turned."""
        return super().sizeHint().transposed()

    def minimumSizeHint(self) -> QSize:
        """Return nearly nothing: it gives way."""
        return QSize(super().minimumSizeHint().height(), 20)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the text turned by a quarter."""
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.translate(self.width() / 2 - self.fontMetrics().ascent() / 2, 8)
        painter.rotate(90)
        painter.drawText(0, 0, self.text())


class Choice(QComboBox):
    """A box of choices whose list shows its entries whole, and whose tooltip says what is cut."""

    def showPopup(self) -> None:
        """Open the list as wide as its longest entry."""
        view = self.view()
        bar = view.verticalScrollBar().sizeHint().width()
        view.setMinimumWidth(max(self.width(), view.sizeHintForColumn(0) + bar + 16))
        super().showPopup()

    def event(self, event: QEvent) -> bool:
        """Say in full what is chosen where there is no room for it."""
        if isinstance(event, QHelpEvent) and not self.toolTip():
            text = self.currentText()
            cut = self.fontMetrics().horizontalAdvance(text) > self.width() - 36
            QToolTip.showText(event.globalPos(), text if cut else "", self)
            return True
        return super().event(event)


def choice(name: str, items: list[tuple[str, str]], chosen: str = "") -> QComboBox:
    """Return a box of choices, each with its data, with one chosen."""
    box = Choice()
    box.setAccessibleName(name)
    for text, data in items:
        box.addItem(text, data)
    box.setCurrentIndex(max(0, box.findData(chosen)))
    return box


def held(*widgets: QWidget) -> QWidget:
    """Return widgets in a row, as one."""
    box = QWidget()
    box.setLayout(row(*widgets, 1))
    return box


UNDOING = tuple(QKeySequence(keys) for keys in ("Ctrl+Z", "Ctrl+Shift+Z", "Ctrl+Y"))
"""Keys by which an edit of the job is taken back, or made again."""


class CheckedField(QLineEdit):
    """A field that hands over what is typed and, when it is refused, keeps the text and says why.

    take: is given the text on Enter or on leaving; a ValueError from it is the refusal.
    """

    refused = Signal(str)
    taken = Signal()

    def __init__(self, name: str, tip: str, take: Callable[[str], None]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self._tip = tip
        self._take = take
        self._shown = ""
        self._offered: tuple[str, ...] = ()
        self.editingFinished.connect(self.finish)
        self.textEdited.connect(lambda _: self._mark(""))

    def describe(self, tip: str, choices: Sequence[str]) -> None:
        """Say anew what is typed here, and what is offered."""
        if tip != self._tip:
            self._tip = tip
            self.setToolTip(tip)
        if choices and tuple(choices) != self._offered:
            self.offer(choices)

    def offer(self, choices: Sequence[str]) -> None:
        """Offer these texts in a list as soon as the field is entered."""
        self._offered = tuple(choices)
        completer = QCompleter(list(choices), self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setCompleter(completer)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Open the list of what is offered, all of it."""
        super().mousePressEvent(event)
        completer = self.completer()
        if completer is not None:
            completer.setCompletionPrefix("")
            completer.complete()

    @property
    def refuses(self) -> bool:
        """Whether what stands in it was refused."""
        return bool(self.property("wrong") == "true")

    def enter(self) -> None:
        """Put the cursor into it, with all of it chosen, to be typed over."""
        self.setFocus(Qt.FocusReason.TabFocusReason)
        self.selectAll()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the window where nothing is being typed: they are of the job."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            keys = QKeySequence(event.keyCombination())
            if keys in UNDOING and self.text() == self._shown:
                event.ignore()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc gives up what was typed; where nothing was, it is for who holds the field."""
        if event.key() == Qt.Key.Key_Escape and (self.text() != self._shown or self.refuses):
            self.setText(self._shown)
            self._mark("")
            self.taken.emit()
            return
        super().keyPressEvent(event)

    def show_value(self, text: str) -> None:
        """Show what the job holds, unless the user is in the middle of typing something else."""
        if self.hasFocus() and self.text() != self._shown:
            return
        self._shown = text
        self.setText(text)
        self.setCursorPosition(0)
        self._mark("")

    def finish(self) -> None:
        """Hand over what was typed, if anything was."""
        if self.text() == self._shown:
            return
        before = self._shown
        self._shown = self.text()  # what the job shows next may differ: "22 in" becomes 0.559 m
        try:
            self._take(self.text())
        except ValueError as error:
            self._shown = before
            self._mark(str(error))
            self.refused.emit(str(error))
        else:
            self._mark("")
            self.taken.emit()

    def _mark(self, problem: str) -> None:
        self.setProperty("wrong", "true" if problem else "false")
        self.setToolTip(problem or self._tip)
        self.style().unpolish(self)
        self.style().polish(self)
