"""The work list: what a stage works through, one thing at a time, each with its state."""

from collections.abc import Sequence
from typing import Any, NamedTuple

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.small import copyable

Index = QModelIndex | QPersistentModelIndex
STATE, ROLE, UNDER, HEADING = (Qt.ItemDataRole.UserRole + n for n in (1, 2, 3, 4))


class Work(NamedTuple):
    """One entry. key: what it is; state: a few words at its right, in a role of the theme.
    heading: it names the entries below it, and cannot be chosen.
    """

    key: str
    title: str
    state: str = ""
    role: str = "faint"
    under: str = ""
    heading: bool = False


ROW_PX, TIGHT_PX, TWO_LINES_PX = 30, 28, 46
"""How high an entry is, one among many, and one of two lines."""


class _Entry(QStyledItemDelegate):
    high = ROW_PX

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        super().paint(painter, option, index)
        rect: QRect = option.rect.adjusted(10, (self.high - 20) // 2, -10, -5)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        state = str(index.data(STATE) or "")
        painter.save()
        painter.setFont(font(12))
        if index.data(HEADING):
            painter.setFont(font(12, bold=True))
            painter.setPen(colour("faint"))
            painter.drawText(
                rect,
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom,
                str(index.data(Qt.ItemDataRole.ToolTipRole)),
            )
            painter.restore()
            return
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
        return QSize(100, TWO_LINES_PX if index.data(UNDER) else self.high)


class _Lines(QAbstractListModel):
    """The entries; nothing is made for those that are not in view."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.entries: list[Work] = []
        self.row_of: dict[str, int] = {}

    def show_work(self, entries: Sequence[Work]) -> None:
        """Show entries; where the same ones stand in the same order, only what changed is told."""
        rows = {entry.key: index for index, entry in enumerate(entries)}
        if list(rows) != list(self.row_of) or len(rows) != len(entries):
            self.beginResetModel()
            self.entries, self.row_of = list(entries), rows
            self.endResetModel()
            return
        before, self.entries = self.entries, list(entries)
        for index, (entry, was) in enumerate(zip(self.entries, before, strict=True)):
            if entry != was:
                self.dataChanged.emit(self.index(index), self.index(index))

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Return how many entries there are."""
        return 0 if parent.isValid() else len(self.entries)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return what an entry says."""
        if not index.isValid():
            return None
        entry = self.entries[index.row()]
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.AccessibleTextRole:
                # What a screen reader says; the delegate paints title and state apart.
                return " ".join(filter(None, (entry.title, entry.state, entry.under)))
            case Qt.ItemDataRole.ToolTipRole:
                return entry.title
            case Qt.ItemDataRole.UserRole:
                return entry.key
        said = {STATE: entry.state, ROLE: entry.role, UNDER: entry.under, HEADING: entry.heading}
        return said.get(role)

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Say what can be chosen."""
        heading = index.isValid() and self.entries[index.row()].heading
        return Qt.ItemFlag.NoItemFlags if heading else super().flags(index)


class WorkList(QListView):
    """A list of work. chosen(key) when the user moves to an entry. tight: its entries are as low as
    can be clicked.
    """

    chosen = Signal(str)

    def __init__(self, name: str, *, tight: bool = False) -> None:
        super().__init__()
        self.setObjectName("workList")
        self.setAccessibleName(name)
        self._lines = _Lines(self)
        self.setModel(self._lines)
        entry = _Entry(self)
        entry.high = self.row_px = TIGHT_PX if tight else ROW_PX
        self.setItemDelegate(entry)
        self._is_tight = tight
        self.setEditTriggers(QListView.EditTrigger.NoEditTriggers)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        copyable(self)
        self._quiet = False
        self.selectionModel().currentChanged.connect(self._moved)

    def sizeHint(self) -> QSize:
        """Return the room for all entries of a tight one; any other takes what it is given."""
        hint = super().sizeHint()
        return QSize(hint.width(), self.count() * self.row_px + 6) if self._is_tight else hint

    def show_work(self, entries: Sequence[Work]) -> None:
        """Show entries; the chosen one stays chosen while it is there."""
        kept = self.key()
        self._quiet = True
        # Rows of one height are laid out without being asked one by one.
        self.setUniformItemSizes(len({bool(entry.under) for entry in entries}) < 2)
        self._lines.show_work(entries)
        if kept:
            self.choose(kept)
        if not self.key():
            first = next((n for n, entry in enumerate(entries) if not entry.heading), -1)
            self.setCurrentRow(first)
        self._quiet = False
        self.updateGeometry()

    def choose(self, key: str) -> bool:
        """Choose an entry without a signal; say whether it is there."""
        index = self._lines.row_of.get(key, -1)
        if index >= 0 and index != self.currentRow():
            was, self._quiet = self._quiet, True
            self.setCurrentRow(index)
            self._quiet = was
        return index >= 0

    def count(self) -> int:
        """Return how many entries there are."""
        return len(self._lines.entries)

    def text(self, row: int) -> str:
        """Return what an entry says, its state included."""
        return str(self._lines.index(row).data())

    def currentRow(self) -> int:
        """Return the row of the chosen entry, -1 when there is none."""
        return self.currentIndex().row()

    def setCurrentRow(self, row: int) -> None:
        """Choose an entry by its row."""
        self.setCurrentIndex(self._lines.index(row))

    def key(self) -> str:
        """Return the key of the chosen entry."""
        index = self.currentRow()
        entry = self._lines.entries[index] if 0 <= index < self.count() else None
        return "" if entry is None or entry.heading else entry.key

    def _moved(self, current: QModelIndex, previous: object) -> None:
        if current.isValid() and not self._quiet:
            self.chosen.emit(self.key())
