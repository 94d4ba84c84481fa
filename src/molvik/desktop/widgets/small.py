"""Small widgets and helpers: labels by role, buttons, a notice, fields that check what is typed."""

from collections.abc import Callable, Sequence
from typing import TypeVar

from PySide6.QtCore import QEvent, QRect, QSize, Qt, Signal
from PySide6.QtGui import (
    QGuiApplication,
    QHelpEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QMoveEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
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
    QSizePolicy,
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


class Notice(QLabel):
    """A message in the place where something went wrong; hidden while there is none.

    over: it lies over what stands above its place, instead of pushing what is below it away from
    under a hand that is typing there.
    """

    def __init__(self, *, over: bool = False) -> None:
        super().__init__()
        self._over = over
        self.setObjectName("notice")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setToolTip("Click to close")
        if over:
            policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            policy.setRetainSizeWhenHidden(True)
            self.setSizePolicy(policy)
        self._foot = 0
        """Where its place is, from the top of what it lies in."""
        self.hide()

    def hasHeightForWidth(self) -> bool:
        """One that lies over has no height of its own among what it lies in."""
        return not self._over and super().hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        """Return how high it is among what it lies in."""
        return 0 if self._over else super().heightForWidth(width)

    def sizeHint(self) -> QSize:
        """Return what room it wants."""
        return QSize(0, 0) if self._over else super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        """Return what room it needs."""
        return QSize(0, 0) if self._over else super().minimumSizeHint()

    def moveEvent(self, event: QMoveEvent) -> None:
        """Its place was moved."""
        super().moveEvent(event)
        self._lie_over()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Its place has another width."""
        super().resizeEvent(event)
        self._lie_over()

    def _lie_over(self) -> None:
        """Stand on its place, as high as its words are."""
        if not self._over:
            return
        if self.height() == 0:  # so the layout put it
            self._foot = self.y()
        high = super().heightForWidth(self.width())
        at = QRect(self.x(), max(0, self._foot - high), self.width(), high)
        if self.isVisible() and at != self.geometry():
            self.setGeometry(at)
            self.raise_()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Close it."""
        self.say("")

    def say(self, text: str) -> None:
        """Show a message, or none."""
        self.setText(text)
        self.setAccessibleName(text)
        self.setVisible(bool(text))
        self._lie_over()


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
        self.editingFinished.connect(self.finish)
        self.textEdited.connect(lambda _: self._mark(""))

    def describe(self, tip: str, choices: Sequence[str]) -> None:
        """Say anew what is typed here, and what is offered."""
        if tip != self._tip:
            self._tip = tip
            self.setToolTip(tip)
        if choices and self.completer() is None:
            self.offer(choices)

    def offer(self, choices: Sequence[str]) -> None:
        """Offer these texts in a list as soon as the field is entered."""
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

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc gives up what was typed."""
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
