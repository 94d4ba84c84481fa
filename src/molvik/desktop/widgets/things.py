"""Rows of things as a Qt model: columns that show, edit and sort them."""

from collections.abc import Callable, Sequence
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from molvik.desktop.theme import colour, font
from molvik.model.job import code_order
from molvik.model.parts import Colour

Index = QModelIndex | QPersistentModelIndex
Thing = TypeVar("Thing")

SORT_ROLE = Qt.ItemDataRole.UserRole
WIRE_ROLE = Qt.ItemDataRole.UserRole + 1


class Column(Generic[Thing]):
    """One column of a table.

    text: what the cell shows. edit: takes a typed text, a ValueError from it is the refusal; None
    for a column that is only read. colour: the wire colour to draw before the text. role: the
    theme's role for the text. number: sorts by figures.
    """

    def __init__(
        self,
        heading: str,
        text: Callable[[Thing], str],
        *,
        width: int = 90,
        edit: Callable[[Thing, str], None] | None = None,
        colour: Callable[[Thing], Colour | None] | None = None,
        role: Callable[[Thing], str] | None = None,
        sort: Callable[[Thing], Any] | None = None,
        tip: str = "",
        mono: bool = False,
    ) -> None:
        self.heading = heading
        self.text = text
        self.width = width
        self.edit = edit
        self.colour = colour
        self.role = role
        self.sort = sort
        self.tip = tip
        self.mono = mono


class ThingsModel(QAbstractTableModel, Generic[Thing]):
    """Rows of things, one thing a row. refused(row, column, text, why) when an edit is refused."""

    refused = Signal(int, int, str, str)

    def __init__(
        self,
        columns: Sequence[Column[Thing]],
        key: Callable[[Thing], str],
        *,
        blank: Thing | None = None,
    ) -> None:
        super().__init__()
        self.columns = list(columns)
        self.key = key
        self._blank = blank
        self.things: list[Thing] = []

    def show_things(self, things: Sequence[Thing]) -> None:
        """Show other things; rows that keep their key keep their place and selection."""
        new = list(things) + ([self._blank] if self._blank is not None else [])
        if [self.key(one) for one in new] == [self.key(one) for one in self.things]:
            self.things = new
            if new:
                last = self.index(len(new) - 1, len(self.columns) - 1)
                self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self.things = new
        self.endResetModel()

    @property
    def takes_new(self) -> bool:
        """Whether the last row takes new things."""
        return self._blank is not None

    def row_of(self, key: str) -> int:
        """Return the row of a key, -1 when it is not there."""
        return next((n for n, one in enumerate(self.things) if self.key(one) == key), -1)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Return how many rows there are."""
        return 0 if parent.isValid() else len(self.things)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Return how many columns there are."""
        return 0 if parent.isValid() else len(self.columns)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        """Return the headings."""
        if orientation == Qt.Orientation.Horizontal and section < len(self.columns):
            if role == Qt.ItemDataRole.DisplayRole:
                return self.columns[section].heading
            if role == Qt.ItemDataRole.ToolTipRole:
                return self.columns[section].tip or None
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return what a cell shows."""
        if not index.isValid():
            return None
        thing, column = self.things[index.row()], self.columns[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.EditRole:
                return column.text(thing)
            case Qt.ItemDataRole.ToolTipRole:
                text = column.text(thing)
                return text if len(text) > 12 else (column.tip or None)
            case Qt.ItemDataRole.FontRole if column.mono:
                return font(13, mono=True)
            case Qt.ItemDataRole.ForegroundRole if column.role is not None:
                wanted = column.role(thing)
                return colour(wanted) if wanted else None
            case _ if role == WIRE_ROLE:
                return column.colour(thing) if column.colour else None
            case _ if role == SORT_ROLE:
                if self._blank is not None and thing is self._blank:
                    return None
                return column.sort(thing) if column.sort else code_order(column.text(thing))
            case _:
                return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Say which cells can be edited."""
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if index.isValid() and self.columns[index.column()].edit is not None:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Hand a typed text to the column; a refusal is told and changes nothing."""
        edit = self.columns[index.column()].edit
        if role != Qt.ItemDataRole.EditRole or edit is None:
            return False
        thing = self.things[index.row()]
        if str(value) == self.columns[index.column()].text(thing):
            return True
        try:
            edit(thing, str(value))
        except ValueError as error:
            self.refused.emit(index.row(), index.column(), str(value), str(error))
            return False
        return True
