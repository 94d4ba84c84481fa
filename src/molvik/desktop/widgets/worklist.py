"""The work list: what a stage works through, one thing at a time, each with its state."""

from collections.abc import Sequence
from typing import NamedTuple

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.small import copyable

Index = QModelIndex | QPersistentModelIndex
STATE, ROLE, UNDER = (Qt.ItemDataRole.UserRole + n for n in (1, 2, 3))


class Work(NamedTuple):
    """One entry. key: what it is; state: a few words at its right, in a role of the theme."""

    key: str
    title: str
    state: str = ""
    role: str = "faint"
    under: str = ""


class _Entry(QStyledItemDelegate):
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        rect: QRect = option.rect.adjusted(10, 5, -10, -5)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        state = str(index.data(STATE) or "")
        painter.save()
        painter.setFont(font(12))
        painter.setPen(colour(str(index.data(ROLE) or "faint")))
        top = QRect(rect.left(), rect.top(), rect.width(), 18)
        painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, state)
        taken = painter.fontMetrics().horizontalAdvance(state) + (10 if state else 0)
        painter.setFont(font(13, bold=chosen))
        painter.setPen(colour("ink"))
        room = rect.width() - taken
        title = painter.fontMetrics().elidedText(
            str(index.data(Qt.ItemDataRole.ToolTipRole)), Qt.TextElideMode.ElideRight, room
        )
        place = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRect(rect.left(), rect.top(), room, 18), place, title)
        under = str(index.data(UNDER) or "")
        if under:
            painter.setFont(font(12))
            painter.setPen(colour("faint"))
            shown = painter.fontMetrics().elidedText(
                under, Qt.TextElideMode.ElideRight, rect.width()
            )
            painter.drawText(QRect(rect.left(), rect.top() + 18, rect.width(), 16), place, shown)
        painter.restore()

    def initStyleOption(self, option: QStyleOptionViewItem, index: Index) -> None:
        super().initStyleOption(option, index)
        option.text = ""  # painted above, in two columns

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(100, 46 if index.data(UNDER) else 30)


class WorkList(QListWidget):
    """A list of work. chosen(key) when the user moves to an entry."""

    chosen = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName("workList")
        self.setAccessibleName(name)
        self.setItemDelegate(_Entry(self))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        copyable(self)
        self._quiet = False
        self.currentItemChanged.connect(self._moved)

    def show_work(self, entries: Sequence[Work]) -> None:
        """Show entries; the chosen one stays chosen while it is there."""
        kept = self.key()
        self._quiet = True
        while self.count() > len(entries):
            self.takeItem(self.count() - 1)
        while self.count() < len(entries):
            self.addItem(QListWidgetItem())
        for at, entry in enumerate(entries):
            item = self.item(at)
            item.setData(Qt.ItemDataRole.UserRole, entry.key)
            # The text is what a screen reader says; the delegate paints title and state apart.
            item.setText(" ".join(filter(None, (entry.title, entry.state, entry.under))))
            item.setToolTip(entry.title)
            item.setData(STATE, entry.state)
            item.setData(ROLE, entry.role)
            item.setData(UNDER, entry.under)
        self._quiet = False
        if kept:
            self.choose(kept)
        elif self.currentRow() < 0 and entries:
            self._quiet = True
            self.setCurrentRow(0)
            self._quiet = False

    def choose(self, key: str) -> bool:
        """Choose an entry without a signal; say whether it is there."""
        for at in range(self.count()):
            if self.item(at).data(Qt.ItemDataRole.UserRole) == key:
                if at != self.currentRow():
                    self._quiet = True
                    self.setCurrentRow(at)
                    self._quiet = False
                return True
        return False

    def key(self) -> str:
        """Return the key of the chosen entry."""
        item = self.currentItem()
        return str(item.data(Qt.ItemDataRole.UserRole)) if item else ""

    def _moved(self, current: QListWidgetItem | None, previous: object) -> None:
        if current is not None and not self._quiet:
            self.chosen.emit(self.key())
