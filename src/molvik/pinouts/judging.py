"""What an import computes aside: the table with what was typed into it, and every row judged."""

from collections import Counter
from collections.abc import Callable, Mapping
from typing import NamedTuple

from msgspec import Struct

from molvik.model.geometry import cavities, grid_problem
from molvik.model.parts import Colour, Grid
from molvik.parsing.quantities import BareSize
from molvik.parsing.rowstates import RowState
from molvik.parsing.tables import RawRow, RawTable
from molvik.pinouts.columns import Columns, find_columns
from molvik.pinouts.propose import propose_grid
from molvik.pinouts.table import RowReading, TableReading, cavity_names, read_table


class Shown(Struct, frozen=True, gc=False):
    """A row of the preview: as read, with the user's tick."""

    raw: RawRow
    reading: RowReading
    ticked: bool


class Found(NamedTuple):
    """A table as read, with the columns found in it, the cavities they name, a housing for them."""

    raw: RawTable
    columns: Columns
    cavities: frozenset[str]
    proposed: Grid


class Judged(NamedTuple):
    """Every row judged. proposed: the housing these cavities would lie in. counts: rows by state.
    taken: the numbers of those that are ticked.
    """

    reading: TableReading
    rows: tuple[Shown, ...]
    proposed: Grid
    counts: Counter[RowState]
    taken: frozenset[int]


class Asked(NamedTuple):
    """What the user chose and typed. typed: cells by row and column. ticks: rows by number.
    meanings: colours by the text of the table. target: the housing that is there, None for a new
    one of rows and columns.
    """

    columns: Columns
    typed: Mapping[tuple[int, int], str]
    ticks: Mapping[int, bool]
    meanings: Mapping[str, Colour]
    dialect: str
    unit: BareSize
    target: Grid | None
    rows: int
    across: int


def found_in(raw: RawTable) -> Found:
    """Return a table with its columns, found by their headings, and its cavities."""
    columns = find_columns(raw)
    names = cavity_names(raw, columns)
    return Found(raw, columns, frozenset(names), propose_grid(names))


def judge(raw: RawTable, asked: Asked, stop: Callable[[], bool]) -> Judged:
    """Return every row of a table judged with the user's choices."""
    as_typed, target = _corrected(raw, asked.typed), asked.target
    proposed = Grid(1, 1) if target else propose_grid(cavity_names(as_typed, asked.columns))
    grid = target if target is not None else corrected_grid(proposed, asked.rows, asked.across)
    known = frozenset(cavities(grid)) if not grid_problem(grid) else frozenset()
    reading = read_table(
        as_typed,
        asked.columns,
        known=known,
        dialect=asked.dialect,
        bare_size=asked.unit,
        meanings=asked.meanings,
        stop=stop,
    )
    raws = {line.number: line for line in as_typed.rows}
    rows = tuple(
        Shown(
            raws[row_reading.number],
            row_reading,
            asked.ticks.get(row_reading.number, row_reading.state == "fine"),
        )
        for row_reading in reading.rows
    )
    counts: Counter[RowState] = Counter(row_reading.state for row_reading in reading.rows)
    return Judged(reading, rows, proposed, counts, taken(rows))


def taken(rows: tuple[Shown, ...]) -> frozenset[int]:
    """Return the numbers of the rows that are ticked and can be read."""
    return frozenset(
        shown.raw.number for shown in rows if shown.ticked and shown.reading.pin is not None
    )


def corrected_grid(proposed: Grid, rows: int, columns: int) -> Grid:
    """Return a housing as proposed, or with the rows and columns the user gave it."""
    if (rows, columns) == (proposed.rows, proposed.columns):
        return proposed
    return Grid(rows, columns, letters=proposed.letters)


def _corrected(raw: RawTable, typed: Mapping[tuple[int, int], str]) -> RawTable:
    """Return the table with what the user typed into its cells."""
    if not typed:
        return raw
    numbers = {number for number, _ in typed}
    rows = []
    for line in raw.rows:
        if line.number in numbers:
            cells, merged = list(line.cells), dict(line.merged)
            for (number, index), text in typed.items():
                if number == line.number:
                    cells += [""] * (index + 1 - len(cells))
                    cells[index] = text
                    merged.pop(index, None)
            line = RawRow(line.number, tuple(cells), merged)
        rows.append(line)
    return raw._replace(rows=tuple(rows))
