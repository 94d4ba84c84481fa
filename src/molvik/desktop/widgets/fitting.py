"""A table's columns: fitted into its width, shown or hidden by the user, and kept so."""

import json
from collections.abc import Sequence
from functools import partial
from math import floor
from typing import Any

from PySide6.QtCore import QObject, QPoint, Qt, Signal
from PySide6.QtWidgets import QMenu, QTableView

from molvik.desktop.widgets.things import Column

NARROWEST = 0.5
"""Columns that grow give way down to this share of their width before a scroll bar comes."""


class Fitting(QObject):
    """Fits the columns of a table. changed: the user gave one a width, or showed or hid it."""

    changed = Signal()

    def __init__(self, table: QTableView, columns: Sequence[Column[Any]]) -> None:
        super().__init__(table)
        self._table, self._columns = table, columns
        self._own: dict[str, int] = {}
        """Widths that the user gave, by heading."""
        self._quiet = False
        header = table.horizontalHeader()
        header.setStretchLastSection(not any(column.grow for column in columns))
        header.setMinimumSectionSize(24)
        header.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        header.customContextMenuRequested.connect(self._offer)
        header.sectionResized.connect(self._resized)
        for number, column in enumerate(columns):
            table.setColumnHidden(number, column.hidden)
        self.fit()

    def fit(self) -> None:
        """Give the columns in view what room there is: those that grow take and give it."""
        shown = [n for n in range(len(self._columns)) if not self._table.isColumnHidden(n)]
        wide = {n: self._own.get(self._columns[n].heading, self._columns[n].width) for n in shown}
        growing = [
            n for n in shown if self._columns[n].grow and self._columns[n].heading not in self._own
        ]
        spare = self._table.viewport().width() - sum(wide.values())
        weights = sum(self._columns[n].grow for n in growing)
        for n in growing:
            share = floor(spare * self._columns[n].grow / weights)
            wide[n] = max(int(wide[n] * NARROWEST), wide[n] + share)
        self._quiet = True
        for n, width in wide.items():
            if self._table.columnWidth(n) != width:
                self._table.setColumnWidth(n, width)
        self._quiet = False

    def menu(self) -> QMenu:
        """Return the choice of columns."""
        menu = QMenu(self._table)
        for number, column in enumerate(self._columns):
            action = menu.addAction(column.title or "Sign")
            action.setToolTip(column.tip)
            action.setCheckable(True)
            action.setChecked(not self._table.isColumnHidden(number))
            action.setEnabled(number > 0)  # the first says what a row is
            action.toggled.connect(partial(self.show_column, number))
        menu.addSeparator()
        menu.addAction("As they were").triggered.connect(lambda: self.restore(""))
        menu.setToolTipsVisible(True)
        return menu

    def show_column(self, number: int, seen: bool) -> None:
        """Show or hide a column."""
        self._table.setColumnHidden(number, not seen)
        self.fit()
        self.changed.emit()

    def kept(self) -> str:
        """Return what the user changed, as text."""
        shown = {
            column.heading: not self._table.isColumnHidden(number)
            for number, column in enumerate(self._columns)
            if self._table.isColumnHidden(number) != column.hidden
        }
        return json.dumps({"shown": shown, "widths": self._own}) if shown or self._own else ""

    def restore(self, text: str) -> None:
        """Take up what was kept; what cannot be read is as if nothing was."""
        shown, own = _read(text)
        self._own = own
        for number, column in enumerate(self._columns):
            seen = number == 0 or shown.get(column.heading, not column.hidden)
            self._table.setColumnHidden(number, not seen)
        self.fit()
        self.changed.emit()

    def _resized(self, number: int, before: int, after: int) -> None:
        if not self._quiet and after and before:
            self._own[self._columns[number].heading] = after
            self.changed.emit()

    def _offer(self, place: QPoint) -> None:
        menu = self.menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self._table.horizontalHeader().mapToGlobal(place))


def _read(text: str) -> tuple[dict[str, bool], dict[str, int]]:
    try:
        found = json.loads(text)
        return (
            {str(name): bool(seen) for name, seen in found["shown"].items()},
            {str(name): max(24, min(2000, int(w))) for name, w in found["widths"].items()},
        )
    except (ValueError, KeyError, TypeError, AttributeError):
        return {}, {}
