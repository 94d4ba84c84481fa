"""Rows of things as a Qt model: columns that show, edit and sort them."""

from collections.abc import Callable, Sequence
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.saying import say
from molvik.model.job import code_order
from molvik.model.parts import Colour
from molvik.typed.field import Field
from molvik.wording import visible

READ = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
EDITED = READ | Qt.ItemFlag.ItemIsEditable
Index = QModelIndex | QPersistentModelIndex
Thing = TypeVar("Thing")

WIRE_ROLE = Qt.ItemDataRole.UserRole + 1
CHOICES_ROLE = Qt.ItemDataRole.UserRole + 2


class Column(Generic[Thing]):
    """One column of a table.

    text: what the cell shows. edit: takes a typed text, a ValueError from it is the refusal; None
    for a column that is only read. colour: the wire colour to draw before the text. role: the
    theme's role for the text. sort: what to sort by. figures: numbers, set to the right, with their
    unit in the heading. unit: shown with the heading, and left out of the cells. grow: its share of
    the room there is to spare; 0 keeps its width. hidden: until the user shows it. choices: what is
    offered in a list while it is typed, found by any part of an entry.
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
        figures: bool = False,
        unit: str = "",
        grow: int = 0,
        hidden: bool = False,
        choices: Sequence[str] = (),
    ) -> None:
        self.choices = choices
        self.heading = heading
        self._text = text
        self.width = width
        self.edit = edit
        self.colour = colour
        self.role = role
        self.sort = sort
        self.tip = tip
        self.mono = mono
        self.figures = figures or bool(unit)
        self.unit = unit
        self.grow = grow
        self.hidden = hidden

    def text(self, thing: Thing) -> str:
        """Return what its cell shows of a thing."""
        said = self._text(thing)
        return said.removesuffix(f" {self.unit}") if self.unit else said

    @property
    def title(self) -> str:
        """What stands above it."""
        return f"{self.heading} {self.unit}" if self.unit else self.heading

    @property
    def alignment(self) -> Qt.AlignmentFlag:
        """Where its texts stand."""
        side = Qt.AlignmentFlag.AlignRight if self.figures else Qt.AlignmentFlag.AlignLeft
        return side | Qt.AlignmentFlag.AlignVCenter


def column_of(
    field: Field[Thing],
    take: Callable[[Thing, Field[Thing], str], object],
    *,
    width: int,
    text: Callable[[Thing], str] | None = None,
    **looks: Any,
) -> Column[Thing]:
    """Return the column of a field; a colour is drawn, and a number told by its unit's heading.

    take: is given what was typed. text: what is shown in place of the field's own text. looks: as
    a column takes them.
    """

    def edit(thing: Thing, typed: str) -> None:
        take(thing, field, typed)

    tint: Callable[[Any], Colour | None] | None = None
    if field.name == "Colour":
        tint = _colour
    return Column(
        field.name,
        text or field.show,
        width=width,
        edit=edit,
        colour=tint,
        tip=field.tip,
        unit=field.unit,
        choices=field.choices if field.listed else (),
        **looks,
    )


def _colour(thing: Any) -> Colour | None:
    tint: Colour | None = thing.colour
    return tint


class ThingsModel(QAbstractTableModel, Generic[Thing]):
    """Rows of things, one thing a row, in the order in which they are shown.

    refused(row, column, text, why) when an edit is refused. derived: cells show what is computed
    from the whole job, so that any of them may have changed when the job did.
    """

    refused = Signal(int, int, str, str)

    def __init__(
        self,
        columns: Sequence[Column[Thing]],
        key: Callable[[Thing], str],
        *,
        blank: Thing | None = None,
        derived: bool = True,
    ) -> None:
        super().__init__()
        self.columns = list(columns)
        self.key = key
        self._blank = blank
        self._derived = derived
        self._given: list[Thing] = []
        self._by: tuple[int, Qt.SortOrder] = (-1, Qt.SortOrder.AscendingOrder)
        self.things: list[Thing] = []
        self._row_of: dict[str, int] = {}

    def show_things(self, things: Sequence[Thing]) -> None:
        """Show other things; rows that keep their key keep their selection."""
        self._given = list(things)
        self._take(self._in_order())

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Put the rows in the order of a column; -1 for the order in which they were given."""
        self._by = (column, order)
        self._take(self._in_order())

    def _in_order(self) -> list[Thing]:
        """Return the things as they are to be shown, the row for new entries last."""
        made = list(self._given)
        column, order = self._by
        if 0 <= column < len(self.columns):
            of = self.columns[column]
            keys = {
                id(thing): of.sort(thing) if of.sort else code_order(of.text(thing))
                for thing in made
            }
            backwards = order == Qt.SortOrder.DescendingOrder
            try:
                made.sort(key=lambda thing: keys[id(thing)], reverse=backwards)
            except TypeError:  # figures and words in one column
                made.sort(key=lambda thing: str(keys[id(thing)]), reverse=backwards)
        return made + ([self._blank] if self._blank is not None else [])

    def _take(self, new: list[Thing]) -> None:
        """Tell the views no more than what changed."""
        keys = {self.key(thing): index for index, thing in enumerate(new)}
        if keys.keys() != self._row_of.keys() or len(keys) != len(new):
            self.beginResetModel()
            self.things, self._row_of = new, keys
            self.endResetModel()
            return
        if list(keys) != list(self._row_of):
            self.layoutAboutToBeChanged.emit()
            old = self.persistentIndexList()
            moved = [
                self.index(keys[self.key(self.things[index.row()])], index.column())
                for index in old
            ]
            self.things, self._row_of = new, keys
            self.changePersistentIndexList(old, moved)
            self.layoutChanged.emit()
            return
        before, self.things = self.things, new
        last = len(self.columns) - 1
        if self._derived:
            if new:
                self.dataChanged.emit(self.index(0, 0), self.index(len(new) - 1, last))
            return
        for at, (thing, was) in enumerate(zip(new, before, strict=True)):
            if thing is not was:
                self.dataChanged.emit(self.index(at, 0), self.index(at, last))

    @property
    def takes_new(self) -> bool:
        """Whether the last row takes new things."""
        return self._blank is not None

    def row_of(self, key: str) -> int:
        """Return the row of a key, -1 when it is not there."""
        return self._row_of.get(key, -1)

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
                return say(self.columns[section].title)
            if role == Qt.ItemDataRole.ToolTipRole:
                return say(self.columns[section].tip) or None
            if role == Qt.ItemDataRole.TextAlignmentRole:
                return self.columns[section].alignment
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return what a cell shows."""
        if not index.isValid():
            return None
        thing, column = self.things[index.row()], self.columns[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return say(visible(column.text(thing)))
            case Qt.ItemDataRole.EditRole:
                return column.text(thing)
            case Qt.ItemDataRole.ToolTipRole:
                text = say(visible(column.text(thing)))
                return text if len(text) > 12 else (say(column.tip) or None)
            case Qt.ItemDataRole.TextAlignmentRole if column.figures:
                return column.alignment
            case Qt.ItemDataRole.FontRole if column.mono:
                return font(13, mono=True)
            case Qt.ItemDataRole.ForegroundRole if column.role is not None:
                wanted = column.role(thing)
                return colour(wanted) if wanted else None
            case _ if role == WIRE_ROLE:
                return column.colour(thing) if column.colour else None
            case _ if role == CHOICES_ROLE:
                return column.choices
            case _:
                return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Say which cells can be edited."""
        editable = index.isValid() and self.columns[index.column()].edit is not None
        return EDITED if editable else READ

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
