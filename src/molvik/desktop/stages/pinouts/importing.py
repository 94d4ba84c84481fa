"""Import a pinout table: which columns, which dialect, and a preview of every row to judge."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from molvik import wording
from molvik.desktop.stages.pinouts.asking import ColourAsks, ask_overwrite, overwritten
from molvik.desktop.store import Store
from molvik.desktop.widgets.fields import counted, line
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, held, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.work.background import Task
from molvik.files.tables import read_raw_table
from molvik.files.tabletext import read_text_table
from molvik.model import crossover_edits, edits
from molvik.model.crossover import Pinout
from molvik.model.geometry import cavities, grid_problem
from molvik.model.parts import Colour, Connector, Grid
from molvik.parsing.rowstates import STATE_WORDS, RowState
from molvik.parsing.tables import RawRow, RawTable
from molvik.pinouts.columns import FIELDS, Columns, Field, column_letter, unused_headings
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
from molvik.reference.colours import DIALECTS, colour_name

NEW = "a new connector"
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


class ImportDialog(QDialog):
    """The import window. imported(code): the connector that took the pins."""

    imported = Signal(str)

    def __init__(self, parent: QWidget, store: Store, source: "Path | Copied", code: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Import {source.name}")
        self.setWindowModality(Qt.WindowModality.WindowModal)
        self.resize(1200, 720)
        self._store, self._source = store, source
        self._title = source.stem.replace("-", " ").replace("_", " ")
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
        self._build(code)
        self._work(
            lambda stop: found_in(_read(source, stop)),
            self._take_table,
            f"Reading {source.name}",
        )

    # building

    def _build(self, code: str) -> None:
        self._into_fields(code)
        self._reading_fields()
        self._preview()
        self._waiting_fields()
        into = row(label("Into", "faint"), self.into, self._as_variant, self._new, 1)
        whole = QVBoxLayout(self)
        whole.setSpacing(10)
        whole.addLayout(into)
        whole.addWidget(self._maybe_row)
        whole.addLayout(self._columns_grid())
        whole.addLayout(row(self.dialect, self.unit, 1))
        for widget in (self.evidence, self.colours, self.notice, self._waiting):
            whole.addWidget(widget)
        whole.addWidget(self.table, 1)
        whole.addWidget(self.detail)
        whole.addLayout(row(self.summary, 1, self.tick, self.cancel, self.take))
        for box in (self.into, self.dialect, self.unit, *self.choices.values()):
            box.activated.connect(lambda _: self.reread())
        self._new.setVisible(not self.into.currentData())
        self._as_variant.setVisible(bool(self.into.currentData()))

    def _into_fields(self, code: str) -> None:
        ways = [
            (
                f"{connector.code} {connector.name}, "
                f"{wording.counted(len(cavities(connector.grid)), 'cavity', 'cavities')}",
                connector.code,
            )
            for connector in self._store.job.connectors
        ]
        self.into = choice("Into", [*ways, (NEW, "")])
        index = self.into.findData(code)
        self.into.setCurrentIndex(max(0, index if code else self.into.count() - 1))
        self.name = line("Name of the new connector", self._title.capitalize())
        self.variant = line(
            "Name of the variant",
            "",
            "Keep it beside the connector's own pinout: another year, "
            "an automatic, what it is to become",
            hint="empty: its own pinout",
        )
        self.variant.setMinimumWidth(190)  # its hint is read whole
        self._as_variant = held(label("as a variant named", "faint"), self.variant)
        self.rows = counted("Rows", 1, 100, self.reread)
        self.columns = counted("Columns", 1, 100, self.reread)
        self._new = QWidget()
        self._new.setLayout(
            row(
                label("named", "faint"),
                self.name,
                label("rows", "faint"),
                self.rows,
                label("columns", "faint"),
                self.columns,
            )
        )
        self.maybe_words = label("", "look")
        self.as_variant = button(
            "A variant", "Keep it beside that connector's own pinout", self._take_as_variant
        )
        self._maybe_row = held(self.maybe_words, self.as_variant)
        self._maybe_row.hide()

    def _columns_grid(self) -> QGridLayout:
        """Return a choice of column for each field."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        for index, field in enumerate(FIELDS):
            grid.addWidget(label(field, "faint"), 0, index)
            grid.addWidget(self.choices[field], 1, index)
        return grid

    def _reading_fields(self) -> None:
        self.choices: dict[Field, QComboBox] = {}
        for field in FIELDS:
            self.choices[field] = choice(f"Column of {field}", [])
            self.choices[field].setToolTip(f"The column that holds the {field}")
        dialects = [(f"colours: {name}", name) for name in DIALECTS]
        self.dialect = choice("Colour dialect", [("colours: as guessed", ""), *dialects])
        units = [("sizes: as guessed", ""), ("sizes: AWG", "awg"), ("sizes: mm²", "metric")]
        self.unit = choice("Unit of bare sizes", units)
        self.colours = ColourAsks()
        self.colours.said.connect(self._mean)
        self.evidence = label("", "faint", wrap=True)
        self.notice = Notice()
        self.colours.refused.connect(self.notice.say)

    def _preview(self) -> None:
        self.model: ThingsModel[Shown] = ThingsModel(self._preview_columns(), _row_key)
        self.table: ThingsTable[Shown] = ThingsTable(self.model, "Preview")
        self.table.clicked.connect(lambda index: self._toggle() if index.column() == 0 else None)
        self.summary = label("")
        self.detail = label("", "look", wrap=True)
        self.table.picked.connect(lambda _: self._explain())
        self.tick = button("Tick or untick", "Take the row or leave it out (Space)", self._toggle)
        self.take = button(
            "Import", "Take the ticked rows, as one undoable step", self.accept, "action"
        )
        self.cancel = button("Cancel", "Change nothing (Esc)", self.reject)

    def _waiting_fields(self) -> None:
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.doing = label("", "faint")
        self.stop = button("Stop", "Stop reading; nothing is changed", self._stop)
        self._waiting = QWidget()
        self._waiting.setLayout(row(self.doing, self.progress, self.stop))

    def _preview_columns(self) -> list[Column[Shown]]:
        def cell(field: Field, shown: Shown) -> str:
            return self._cell(shown.raw, field)

        def column(field: Field, width: int) -> Column[Shown]:
            return Column(
                field.capitalize(),
                lambda shown: cell(field, shown),
                width=width,
                edit=lambda shown, text: self._correct(shown, field, text),
                tip="As it is in the table. Type to correct it.",
            )

        return [
            Column("Take", lambda s: "yes" if s.ticked else "no", width=54),
            Column("Row", lambda s: str(s.raw.number), width=54, mono=True),
            Column("State", lambda s: STATE_WORDS[s.reading.state], width=104, role=_state_role),
            Column("What to do", lambda s: " ".join(s.reading.remarks), width=232),
            column("cavity", 62),
            column("function", 170),
            column("circuit", 66),
            column("colour", 86),
            Column(
                "Read as",
                _colour_words,
                width=140,
                colour=lambda s: s.reading.pin.colour if s.reading.pin else None,
            ),
            column("size", 64),
            Column("Read as", _size_words, width=92),
            column("note", 160),
        ]

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
        self._explain()

    def _explain(self) -> None:
        """Say under the table what the row in hand needs, at full length."""
        row_of = self.model.row_of(self.table.current_key())
        remarks = self.model.things[row_of].reading.remarks if row_of >= 0 else ()
        self.detail.setText(" ".join(remarks))
        self.detail.setVisible(bool(remarks))

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
            if _row_key(shown) in keys:
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


def _row_key(shown: Shown) -> str:
    return str(shown.raw.number)


def _state_role(shown: Shown) -> str:
    return {"fine": "proved", "needs you": "live_text"}.get(shown.reading.state, "stop")


def _colour_words(shown: Shown) -> str:
    pin = shown.reading.pin
    if pin is not None and pin.fill:
        return f"marked {pin.fill}"
    if pin is None or pin.colour is None:
        return ""
    return colour_name(pin.colour.base, pin.colour.tracer)


def _size_words(shown: Shown) -> str:
    pin = shown.reading.pin
    return str(pin.size) if pin is not None and pin.size is not None else ""
