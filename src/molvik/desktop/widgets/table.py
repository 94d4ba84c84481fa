"""Tables of things in the job: sorted, edited in place, copied and pasted as text."""

import time
from collections.abc import Callable
from typing import Generic

from PySide6.QtCore import (
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import (
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QTableView,
    QToolTip,
    QWidget,
)

from molvik.desktop.widgets.cells import Cells
from molvik.desktop.widgets.fitting import Fitting
from molvik.desktop.widgets.things import Thing, ThingsModel

COPY_S = 0.01
"""So long rows are copied before the window may do something else."""


class ThingsTable(QTableView, Generic[Thing]):
    """A table of things: sorting by headings, copy and paste, keyboard entry.

    picked(key): the row in hand changed. refused(text): an edit was refused, with the reason.
    removed(keys): Delete was pressed; opened(row): Enter, where nothing is typed. macro: begins and
    ends one undo step round a paste.
    """

    picked = Signal(str)
    refused = Signal(str)
    removed = Signal(list)
    opened = Signal(int)

    def __init__(self, model: ThingsModel[Thing], name: str) -> None:
        super().__init__()
        self.things = model
        self.macro: Callable[[str, bool], None] = lambda text, begin: None
        self.paste_whole: Callable[[str], bool] | None = None
        """Takes a pasted text as a whole instead; says whether it did."""
        self.enter_goes_down = False
        self.setModel(model)
        self.setAccessibleName(name)
        self._cells = Cells(self)
        self.setItemDelegate(self._cells)
        self.setSortingEnabled(True)
        self.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.verticalHeader().setVisible(False)
        self.verticalHeader().setDefaultSectionSize(28)
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        # A selection of its own, always empty: for each paint it would ask every cell otherwise.
        header.setSelectionModel(QItemSelectionModel(model, header))
        header.setSectionsMovable(True)
        self.setTabKeyNavigation(False)  # arrows walk a table, Tab leaves it
        self.fitting = Fitting(self, model.columns)
        self._kept, self._row, self._column = "", 0, 0
        self._typed: tuple[str, str] | None = None
        """The row in which somebody was typing when all rows changed, and what."""
        self._quiet = self._opening = False
        self._refused: list[tuple[QPersistentModelIndex, str, str]] = []
        """Cells whose text was refused, with it and why, that are to be opened again."""
        self._copied: tuple[list[str], list[Thing]] = ([], [])
        model.refused.connect(self._show_refusal)
        model.modelAboutToBeReset.connect(self._remember)
        model.modelReset.connect(self._restore)
        self.selectionModel().currentRowChanged.connect(self._moved)
        self.pressed.connect(lambda _: self.picked.emit(self.current_key()))

    def pick(self, key: str) -> None:
        """Bring a row into view and make it current, without a signal."""
        row = self.things.row_of(key)
        if row < 0:
            return
        here = self.currentIndex()
        if here.isValid() and here.row() == row:
            return
        # After a reset there may be no current cell: go on in the column where the user was.
        column = here.column() if here.isValid() else self._column
        index = self.things.index(row, column)
        self._quiet = True
        self.setCurrentIndex(index)
        self._quiet = False
        self.scrollTo(index)

    def go_on(self, key: str, heading: str) -> None:
        """Make the next cell to type into current, where it is still empty: a row is typed from
        left to right, with Enter after each.
        """
        row = self.things.row_of(key)
        columns = self.things.columns
        here = next((n for n, column in enumerate(columns) if column.heading == heading), -1)
        for number in range(here + 1, len(columns)):
            if columns[number].edit is None or self.isColumnHidden(number):
                continue
            if row >= 0 and here >= 0 and not columns[number].text(self.things.things[row]):
                self._quiet = True
                self.setCurrentIndex(self.things.index(row, number))
                self._quiet = False
            return

    def go_to_new(self, heading: str) -> None:
        """Make a cell of the row for a new thing current: the next is typed there."""
        row = self.things.row_of("")
        column = [column.heading for column in self.things.columns].index(heading)
        if row >= 0:
            self._quiet = True
            self.setCurrentIndex(self.things.index(row, column))
            self._quiet = False

    def current_key(self) -> str:
        """Return the key of the current row."""
        index = self.currentIndex()
        return self.things.key(self.things.things[index.row()]) if index.isValid() else ""

    def selected_keys(self) -> list[str]:
        """Return the keys of the selected rows, top to bottom."""
        return [self.things.key(self.things.things[row]) for row in self._selected_rows()]

    def _selected_rows(self) -> list[int]:
        """Return the selected rows, top to bottom. Qt's own list asks the model for every cell."""
        chosen = self.selectionModel().selection()
        areas = (chosen.at(number) for number in range(chosen.count()))
        return sorted({row for area in areas for row in range(area.top(), area.bottom() + 1)})

    def edit_cell(self, key: str, heading: str) -> None:
        """Begin to edit one cell; its column is shown if it was hidden."""
        row = self.things.row_of(key)
        number = [column.heading for column in self.things.columns].index(heading)
        if self.isColumnHidden(number):
            self.fitting.show_column(number, True)
        index = self.things.index(row, number)
        self.setCurrentIndex(index)
        self.edit(index)

    def _moved(self, current: QModelIndex, previous: QModelIndex) -> None:
        if not self._quiet and current.isValid():
            self.picked.emit(self.current_key())

    def _remember(self) -> None:
        self._kept = self.current_key()
        self._row = self.currentIndex().row()
        self._column = max(0, self.currentIndex().column())
        editor = self.indexWidget(self.currentIndex())
        self._typed = None
        if isinstance(editor, QLineEdit) and editor.isModified():
            self._typed = self._kept, editor.text()

    def _restore(self) -> None:
        row = self.things.row_of(self._kept) if self._kept else -1
        if row >= 0:
            index = self.things.index(row, self._column)
            self._quiet = True
            self.setCurrentIndex(index)
            self._quiet = False
        elif self._kept and self.things.rowCount():
            # The row in hand left the list: its place is taken by the next one.
            at = min(self._row, self.things.rowCount() - 1)
            self.setCurrentIndex(self.things.index(at, self._column))
        if self._typed is not None:
            self._go_on_typing(*self._typed)

    def _go_on_typing(self, key: str, text: str) -> None:
        """Open the cell again in which somebody was typing while other rows came or went."""
        row = self.things.row_of(key)
        if row >= 0:
            index = self.things.index(row, self._column)
            self._quiet = True
            self.setCurrentIndex(index)
            self._quiet = False
            self.edit(index)
            editor = self.indexWidget(index)
            if isinstance(editor, QLineEdit):
                _put(editor, text)
                editor.deselect()

    def _show_refusal(self, row: int, column: int, text: str, why: str) -> None:
        """Say why at the cell, and open it again with what was typed, so that nothing is lost."""
        self.refused.emit(why)
        cell = QPersistentModelIndex(self.things.index(row, column))
        self._refused = [one for one in self._refused if one[0] != cell] + [(cell, text, why)]
        self._open_refused_soon()

    def _open_refused_soon(self) -> None:
        if self._refused and not self._opening:
            self._opening = True
            QTimer.singleShot(0, self._open_refused)

    def _open_refused(self) -> None:
        """Open the cell that was refused first. If that closes another which is refused as well,
        that one waits until this is done with: two would open each other for ever.
        """
        cell, text, why = self._refused.pop(0)
        index = self.things.index(cell.row(), cell.column())
        if index.isValid() and self.isVisible():
            self.setCurrentIndex(index)
            self.edit(index)
            editor = self.indexWidget(index) or self.findChild(QLineEdit)
            if isinstance(editor, QLineEdit):
                _put(editor, text)
            place = self.visualRect(index).bottomLeft() + QPoint(4, 4)
            QToolTip.showText(self.viewport().mapToGlobal(place), why, self)
        self._opening = False

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the columns, and keep the row in hand in view."""
        super().resizeEvent(event)
        self.fitting.fit()
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())

    # keyboard and clipboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Copy, paste, remove; Enter edits."""
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste(QGuiApplication.clipboard().text())
        elif event.key() == Qt.Key.Key_Delete:
            self.removed.emit(self.selected_keys())
        elif (
            event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and self.state() != QAbstractItemView.State.EditingState
        ):
            here = self.currentIndex()
            if here.flags() & Qt.ItemFlag.ItemIsEditable:
                self.edit(here)
            elif here.isValid():
                self.opened.emit(here.row())
        else:
            super().keyPressEvent(event)

    def closeEditor(self, editor: QWidget, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Take what was typed, then go on: down after Enter, across after Tab."""
        super().closeEditor(editor, QAbstractItemDelegate.EndEditHint.NoHint)
        self._open_refused_soon()
        typed, self._cells.typed = self._cells.typed, None
        edited, column = self.current_key(), self.currentIndex().column()
        if typed is not None and typed[0].isValid():
            if not self.things.setData(typed[0], typed[1]):
                return  # refused: the cell opens again with what was typed
        hints = QAbstractItemDelegate.EndEditHint
        if self.enter_goes_down and hint == hints.SubmitModelCache:
            if self.current_key() != edited:
                return  # the row left the list, and the next one took its place
            here = self.currentIndex()
            below = self.things.index(here.row() + 1, here.column())
            if below.isValid():
                self.setCurrentIndex(below)
        elif hint in (hints.EditNextItem, hints.EditPreviousItem):
            self._edit_beside(column, 1 if hint == hints.EditNextItem else -1)

    def _edit_beside(self, column: int, step: int) -> None:
        """Open the next cell of the row that can be edited, from the column on that was typed in:
        what took it may have gone on already.
        """
        here, header = self.currentIndex(), self.horizontalHeader()
        at = header.visualIndex(column) + step
        while 0 <= at < header.count():
            index = self.things.index(here.row(), header.logicalIndex(at))
            if self.things.flags(index) & Qt.ItemFlag.ItemIsEditable:
                self.setCurrentIndex(index)
                self.edit(index)
                return
            at += step

    def copy(self) -> None:
        """Copy the selected rows as they are seen: columns apart by tabs, with their headings."""
        rows = self._selected_rows()
        lines = ["\t".join(self.things.columns[number].title for number in self._seen())]
        self._copied = (lines, [self.things.things[row] for row in rows])
        self._copy_on()

    def _copy_on(self) -> None:
        """Copy as many rows as go without holding the window up, then the next."""
        lines, things = self._copied
        ends = time.perf_counter() + COPY_S
        while things and time.perf_counter() < ends:
            left, things = things[:50], things[50:]
            for thing in left:
                cells = (
                    self.things.columns[number].text(thing).replace("\n", " ").replace("\t", " ")
                    for number in self._seen()
                )
                lines.append("\t".join(cells))
        self._copied = (lines, things)
        if things:
            QTimer.singleShot(0, self._copy_on)
            return
        QGuiApplication.clipboard().setText("\n".join(lines))

    def paste(self, text: str) -> None:
        """Paste a block of cells from a spreadsheet at the current cell, as one undo step."""
        if self.paste_whole is not None and self.paste_whole(text):
            return
        block = [line.split("\t") for line in text.rstrip("\n").split("\n") if line.strip()]
        start = self.currentIndex()
        if not block or not start.isValid():
            return
        seen = self._seen()
        if block[0] == [self.things.columns[number].title for number in seen]:
            block, start = block[1:], self.things.index(start.row(), seen[0])  # copied from here
        onto = seen[seen.index(start.column()) :] if start.column() in seen else []
        refusals: list[str] = []

        def keep(row: int, column: int, typed: str, why: str) -> None:
            refusals.append(why)

        self.things.refused.disconnect(self._show_refusal)
        self.things.refused.connect(keep)
        self.macro("Paste", True)
        try:
            # Rows are named before the first edit: an edit may sort them anew.
            keys = [self._key_at(start.row() + down) for down in range(len(block))]
            for key, cells in zip(keys, block, strict=True):
                if key is None and not self.things.takes_new:
                    refusals.append("there are more lines than rows below the cell.")
                    break
                self._paste_line(key, onto, cells)
        finally:
            self.macro("Paste", False)
            self.things.refused.disconnect(keep)
            self.things.refused.connect(self._show_refusal)
        if refusals:
            more = f" ({len(refusals) - 1} more)" if len(refusals) > 1 else ""
            self.refused.emit(f"Not all was pasted: {refusals[0]}{more}")

    def _key_at(self, row: int) -> str | None:
        """Return the key of a row as it is shown, None for the row of a new thing or beyond."""
        if row >= len(self.things.things):
            return None
        return self.things.key(self.things.things[row]) or None

    def _seen(self) -> list[int]:
        """Return the columns in view, left to right."""
        header = self.horizontalHeader()
        order = (header.logicalIndex(place) for place in range(header.count()))
        return [number for number in order if not self.isColumnHidden(number)]

    def _paste_line(self, key: str | None, onto: list[int], cells: list[str]) -> None:
        """Put a line of cells into columns of a row, or into a new one when there is no key."""
        for number, cell in zip(onto, cells, strict=False):
            if self.things.columns[number].edit is None:
                continue
            if key is None and not cell.strip():
                continue
            before = set() if key else {self.things.key(thing) for thing in self.things.things}
            row = self.things.row_of(key or "")
            done = self.things.setData(self.things.index(row, number), cell.strip())
            if key is None and done:
                # By its key: where the thing just made stands is for the table's order to say.
                made = {self.things.key(thing) for thing in self.things.things} - before
                key = made.pop() if len(made) == 1 else None

    def event(self, event: QEvent) -> bool:
        """Let single letters reach the table before they are taken as shortcuts."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            if event.text().strip() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                event.accept()
                return True
        return super().event(event)


def _put(editor: QLineEdit, text: str) -> None:
    """Put a text into a field as if it was typed."""
    editor.setText(text)
    editor.setModified(True)
