"""Import a pinout table: which columns, which dialect, and a preview of every row to judge."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QWidget,
)

from molvik import wording
from molvik.desktop.stages.pinouts.asking import ask_overwrite, overwritten
from molvik.desktop.stages.pinouts.importform import ImportForm, row_key
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.files.tables import read_raw_table
from molvik.files.tabletext import read_text_table
from molvik.model import crossover_edits, edits
from molvik.model.crossover import Pinout
from molvik.model.geometry import cavities, grid_problem
from molvik.model.parts import Colour, Connector, Grid
from molvik.parsing.rowstates import STATE_WORDS, RowState
from molvik.parsing.tables import RawRow, RawTable
from molvik.pinouts.columns import Columns, Field, column_letter, unused_headings
from molvik.pinouts.judging import (
    Asked,
    Found,
    Judged,
    Shown,
    corrected_grid,
    found_in,
    judge,
    taken,
)
from molvik.pinouts.propose import propose_grid
from molvik.pinouts.table import TableReading, cavity_names

NONE = "–"
QUICK_ROWS = 2000
"""Up to this many rows are judged at once; more are judged in the background."""


MOST_SHOWN = 5000
"""Rows in the preview; what a larger table holds beyond them is said, and taken all the same."""


class Copied(NamedTuple):
    """Rows that were copied in a spreadsheet, as its text."""

    text: str
    name: str = "pasted table.tsv"
    stem: str = "pasted table"


def _read(source: "Path | Copied", stop: Callable[[], bool]) -> RawTable:
    """Read a table from its file, or as it was copied. Raises TableError."""
    if isinstance(source, Copied):
        return read_text_table(source.name, source.text.encode(), stop)
    return read_raw_table(source, stop)


class ImportDialog(ImportForm):
    """The import window. imported(code): the connector that took the pins."""

    imported = Signal(str)

    def __init__(self, parent: QWidget, store: Store, source: "Path | Copied", code: str) -> None:
        title = source.stem.replace("-", " ").replace("_", " ")
        super().__init__(parent, store.job.connectors, title, code, self._cell, self._correct)
        self.setWindowTitle(f"Import {source.name}")
        self._store, self._source, self._title = store, source, title
        self._raw: RawTable | None = None
        self._columns = Columns(None, {})
        self._typed: dict[tuple[int, int], str] = {}
        self._ticks: dict[int, bool] = {}
        self._meanings: dict[str, Colour] = {}
        self._maybe = ""
        self._rows: tuple[Shown, ...] = ()
        self._counts: Counter[RowState] = Counter()
        self._taken: frozenset[int] = frozenset()
        self._proposed = Grid(1, 1)
        self._task: Task | None = None
        self.reading: TableReading | None = None
        self.changed.connect(self.reread)
        self.meant.connect(self._mean)
        self.toggled.connect(self._toggle)
        self.stopped.connect(self._stop)
        self.variant_wanted.connect(self._take_as_variant)
        self._work(
            lambda stop: found_in(_read(source, stop)),
            self._take_table,
            f"Reading {source.name}",
        )

    # reading

    def _work(
        self,
        work: Callable[[Callable[[], bool]], object],
        done: Callable[[object], None],
        doing: str,
    ) -> None:
        if self._task is not None:
            self._task.stop()
        self.doing.setText(f"{doing} …")
        self._waiting.show()
        self.take.setEnabled(False)
        task = Task(work, self)
        task.done.connect(done)
        task.failed.connect(self._failed)
        self._task = task
        task.start()

    def _failed(self, error: Exception) -> None:
        self._waiting.hide()
        self.notice.say(str(error))
        self.take.setEnabled(False)

    def _stop(self) -> None:
        if self._task is not None:
            self._task.stop()
        self._waiting.hide()
        if self._raw is None:
            self.reject()

    def _take_table(self, found: object) -> None:
        assert isinstance(found, Found)
        self._raw = raw = found.raw
        self._columns = found.columns
        letters = [column_letter(index) for index in range(raw.width)]
        heads: tuple[str, ...] = ()
        if self._columns.heading_row is not None:
            heads = raw.rows[self._columns.heading_row].cells
        for field, box in self.choices.items():
            box.addItem(NONE, -1)
            for index, letter in enumerate(letters):
                head = heads[index].strip() if index < len(heads) else ""
                box.addItem(f"{letter}  {head[:24]}".strip(), index)
            box.setCurrentIndex(box.findData(self._columns.fields.get(field, -1)))
        self._offer_new_connector(found.cavities)
        self._size_by(found.proposed)
        self.reread()

    def _size_by(self, proposed: Grid) -> None:
        """Size the new connector by the cavities that the table names."""
        self._proposed = proposed
        for spin, value in ((self.rows, proposed.rows), (self.columns, proposed.columns)):
            spin.blockSignals(True)
            spin.setValue(value)
            spin.blockSignals(False)

    def _offer_new_connector(self, names: frozenset[str]) -> None:
        """Choose a new connector where the chosen one is plainly not the table's, or has one.

        Where the cavities fit one that has a pinout, it may be a variant of it: that is asked.
        """
        target = self._store.job.connector(self.into.currentData())
        if target is None or not names:
            return
        known = set(cavities(target.grid))
        fits = names <= known
        if target.pins or sum(name in known for name in names) < len(names) / 2:
            self.into.setCurrentIndex(self.into.findData(""))
        self._maybe = target.code if target.pins and fits else ""
        self.maybe_words.setText(
            f"Its cavities fit {target.name} ({target.code}), which has a pinout. A variant of it?"
        )
        self.as_variant.setText(f"A variant of {target.code}")

    def _take_as_variant(self) -> None:
        """The table is another pinout of a connector that has one."""
        self.into.setCurrentIndex(self.into.findData(self._maybe))
        self._maybe = ""
        self.variant.setText(self._title)
        self.reread()
        self.variant.setFocus()
        self.variant.selectAll()

    def _grid(self) -> Grid:
        """Return the housing of the new connector, as proposed or as the user corrected it."""
        return corrected_grid(self._proposed, self.rows.value(), self.columns.value())

    def reread(self) -> None:
        """Judge every row again with the user's choices."""
        if self._raw is None:
            return
        self._new.setVisible(not self.into.currentData())
        self._as_variant.setVisible(bool(self.into.currentData()))
        self._maybe_row.setVisible(bool(self._maybe) and not self.into.currentData())
        fields = {f: box.currentData() for f, box in self.choices.items() if box.currentData() >= 0}
        before = self._columns
        self._columns = Columns(before.heading_row, fields, before.by_looks)
        if before.fields.get("cavity") != fields.get("cavity"):
            self._size_by(propose_grid(cavity_names(self._raw, self._columns)))
        raw, target = self._raw, self._store.job.connector(self.into.currentData())
        asked = Asked(
            self._columns,
            dict(self._typed),
            dict(self._ticks),
            dict(self._meanings),
            self.dialect.currentData(),
            self.unit.currentData(),
            target.grid if target else None,
            self.rows.value(),
            self.columns.value(),
        )
        if len(raw.rows) <= QUICK_ROWS:
            self._show(judge(raw, asked, lambda: False))
        else:
            self._work(
                lambda stop: judge(raw, asked, stop), self._show, f"Judging {len(raw.rows):,} rows"
            )

    def _mean(self, text: str, colour: Colour) -> None:
        """A text of the colour column means a colour, in all its rows."""
        self._meanings[text] = colour
        self.reread()

    def _show(self, judged: object) -> None:
        assert isinstance(judged, Judged)
        assert self._raw is not None
        self._waiting.hide()
        self.reading, self._rows, self._proposed, self._counts, self._taken = judged
        reading = judged.reading
        self.notice.say(reading.problem)
        self.colours.show_asks(reading.asks)
        words = (*self._raw.remarks, reading.dialect_evidence, reading.size_evidence)
        looks = [one for one in self._columns.by_looks if one in self._columns.fields]
        words += (f"Found by what is there: {', '.join(looks)}.",) if looks else ()
        unused = unused_headings(self._raw, self._columns)
        words += (f"Not used: column {', '.join(unused)}.",) if unused else ()
        if len(self._rows) > MOST_SHOWN:
            words += (f"The first {MOST_SHOWN:,} of {len(self._rows):,} rows are shown.",)
        self.evidence.setText("  ".join(word for word in words if word))
        self.model.show_things(self._rows[:MOST_SHOWN])
        self._sum_up()
        self.explain()

    def _sum_up(self) -> None:
        if self.reading is None:
            return
        counts = [f"{self._counts[state]} {word}" for state, word in STATE_WORDS.items()]
        self.summary.setText(" · ".join(counts))
        taken = len(self._taken)
        self.take.setText(f"Import {wording.counted(taken, 'row')}")
        self.take.setEnabled(taken > 0)

    def _cell(self, raw: RawRow, field: Field) -> str:
        index = self._columns.fields.get(field)
        return raw.cells[index] if index is not None and index < len(raw.cells) else ""

    def _correct(self, shown: Shown, field: Field, text: str) -> None:
        index = self._columns.fields.get(field)
        if index is None:
            raise ValueError(f"The table has no {field} column. Choose one above.")
        self._typed[shown.raw.number, index] = text
        self.reread()

    def _toggle(self) -> None:
        keys = set(self.table.selected_keys())
        for shown in self.model.things:
            if row_key(shown) in keys:
                self._ticks[shown.raw.number] = not shown.ticked
        self._rows = tuple(
            replace(shown, ticked=self._ticks.get(shown.raw.number, shown.ticked))
            for shown in self._rows
        )
        self._taken = taken(self._rows)
        self.model.show_things(self._rows[:MOST_SHOWN])
        self._sum_up()

    # ending

    def accept(self) -> None:
        """Put the ticked rows into the job."""
        if self.reading is None:
            return
        try:
            code = self._import(self.reading)
        except ValueError as error:
            self.notice.say(str(error))
            return
        super().accept()
        self.imported.emit(code)

    def _import(self, reading: TableReading) -> str:
        pins = reading.pins(self._taken)
        code: str = self.into.currentData()
        name = self._source.name
        variant = self.variant.text().strip()
        if code and variant:
            table = Pinout(code, variant, pins)
            self._store.do(f"Import {name}", lambda job: crossover_edits.add_pinout(job, table))
            return code
        if code:
            connector = self._store.job.connector(code)
            assert connector is not None  # it was chosen from those there are
            count = overwritten(connector, pins)
            answer = ask_overwrite(self, connector, count) if count else "over"
            if answer == "variant":
                self.variant.setText(self._title)
                self.variant.setFocus()
                raise ValueError("Give the variant a name, then import.")
            if not answer:
                raise ValueError(f"Nothing was imported: {code} is as it was.")
            self._store.do(f"Import {name}", lambda job: edits.set_pins(job, code, pins, name))
            return code
        grid = self._grid()
        problem = grid_problem(grid) or ("" if self.name.text().strip() else "Name the connector.")
        if problem:
            raise ValueError(problem)
        code = edits.free_code(self._store.job, Connector)
        made = Connector(code, self.name.text().strip(), grid, pins=pins, pinout_from=name)
        self._store.do(f"Import {name}", lambda job: edits.add(job, made))
        return code

    def reject(self) -> None:
        """Change nothing."""
        if self._task is not None:
            self._task.stop()
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop what is still being read."""
        if self._task is not None:
            self._task.stop()
        super().closeEvent(event)
