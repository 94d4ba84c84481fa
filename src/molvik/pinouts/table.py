"""Read a pinout table: find its columns by their headings, then judge it row by row.

Nothing is guessed in silence: a row is fine, needs the user, or cannot be read, with the reason.
"""

import re
from collections import Counter
from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from molvik.model.parts import CavityFill, Colour, Pin, WireSize
from molvik.parsing.colours import (
    ColourError,
    ColourReading,
    DialectGuess,
    guess_dialect,
    read_colour,
    read_mixed,
    reads,
)
from molvik.parsing.quantities import BareSize, QuantityError, read_size
from molvik.parsing.rowstates import RowState
from molvik.parsing.tables import RawRow, RawTable
from molvik.pinouts.columns import Columns, Field, column_letter
from molvik.reference.copper import METRIC_SIZES

LONGEST_CAVITY = 8

EMPTY_WORDS = {"empty", "not used", "unused", "n.c.", "nc", "n/c", "vacant", "blank", "spare"}
UNREAD: Literal["unread"] = "unread"
PLUG_WORDS = {"plugged", "cavity plug", "plug", "blanked"}


class RowReading(Struct, frozen=True, gc=False):
    """What one row says. pin is None when it cannot be read."""

    number: int
    state: RowState
    pin: Pin | None
    remarks: tuple[str, ...] = ()


class ColourAsk(NamedTuple):
    """A colour of a table that the user must say, once for all its rows. text: as it stands there.
    options: what it could mean, each with the dialects that say so.
    """

    text: str
    rows: int
    options: tuple[tuple[Colour, tuple[str, ...]], ...]


class TableReading(NamedTuple):
    """A whole table read. problem: why nothing could be read, empty when it could. asks: colours
    that must be said.
    """

    rows: tuple[RowReading, ...]
    dialect: str = ""
    dialect_evidence: str = ""
    bare_size: BareSize = ""
    size_evidence: str = ""
    problem: str = ""
    asks: tuple[ColourAsk, ...] = ()

    def count(self, state: RowState) -> int:
        """Return how many rows are in a state."""
        return sum(row.state == state for row in self.rows)

    def pins(self, numbers: frozenset[int]) -> tuple[Pin, ...]:
        """Return the pins of the chosen rows. Raises ValueError for a cavity chosen twice."""
        chosen = [row.pin for row in self.rows if row.pin is not None and row.number in numbers]
        twice = [cavity for cavity, n in Counter(pin.cavity for pin in chosen).items() if n > 1]
        if twice:
            raise ValueError(f"Cavity {twice[0]} is chosen in two rows. Untick one of them.")
        return tuple(chosen)


def _rows_below(raw: RawTable, columns: Columns) -> tuple[RawRow, ...] | str:
    """Return the rows that say something, below the headings; or why there are none to read."""
    if not raw.rows:
        return "The table is empty."
    if "cavity" not in columns.fields:
        first = ", ".join(cell for cell in raw.rows[0].cells if cell)[:80]
        return (
            "No column is headed cavity or pin. "
            f"Row {raw.rows[0].number} reads: {first}. Choose the cavity column above."
        )
    rows = raw.rows[columns.heading_row + 1 :] if columns.heading_row is not None else raw.rows
    rows = tuple(row for row in rows if any(cell.strip() for cell in row.cells) or row.merged)
    return rows or "There are headings but no rows below them."


def read_table(
    raw: RawTable,
    columns: Columns,
    *,
    known: frozenset[str] | None = None,
    dialect: str = "",
    bare_size: BareSize = "",
    meanings: Mapping[str, Colour] = MappingProxyType({}),
    stop: Callable[[], bool] = lambda: False,
) -> TableReading:
    """Judge every row of a table.

    known: the cavities the connector has, None when it is to be made from this table. dialect,
    bare_size: the user's choice, guessed from the table when empty. meanings: what the user said of
    texts in the colour column. stop: asked now and then; when it says yes the reading ends and says
    so.
    """
    rows = _rows_below(raw, columns)
    if isinstance(rows, str):
        return TableReading((), problem=rows)
    texts = Counter(filter(None, map(tidied, _column(rows, columns, "colour"))))
    guess = guess_dialect(texts.elements())
    unit, unit_evidence = _bare_unit(raw, rows, columns)
    colours = read_mixed(texts, dialect or guess.dialect, forced=bool(dialect), meanings=meanings)
    reader = _RowReader(
        columns, known, dialect or guess.dialect, bare_size or unit, colours, forced=bool(bare_size)
    )
    uses = Counter(reader.cavity(row) for row in rows)
    doubtful_dialect = not dialect and _dialect_in_doubt(guess)
    readings: list[RowReading] = []
    for index, row in enumerate(rows):
        if index % 500 == 0 and stop():
            return TableReading((), problem="Stopped. Nothing was changed.")
        reading = reader.read(row, uses)
        readings.append(_asking(reading) if doubtful_dialect else reading)
    return TableReading(
        tuple(readings),
        dialect or guess.dialect,
        _colours_said(texts, dialect, guess, colours, meanings),
        bare_size or unit,
        f"Sizes are {_UNIT_NAMES[bare_size]}, as you chose." if bare_size else unit_evidence,
        asks=_asks(texts, colours),
    )


def _asking(reading: RowReading) -> RowReading:
    """Return a row that has a colour as one that needs the user to choose the dialect."""
    if reading.pin is None or reading.pin.colour is None:
        return reading
    remarks = (*reading.remarks, "Choose the colour dialect: two would read this table.")
    return replace(reading, state="needs you", remarks=remarks)


def _asks(texts: Counter[str], colours: Mapping[str, ColourReading]) -> tuple[ColourAsk, ...]:
    """Return what the user is to say of colours that can be two, the most frequent first."""
    often = sorted(colours.items(), key=lambda item: (-texts[item[0]], item[0]))
    return tuple(
        ColourAsk(text, texts[text], colour_reading.options)
        for text, colour_reading in often
        if colour_reading.colour is None
    )


_UNIT_NAMES = {"awg": "AWG", "metric": "mm²"}


def tidied(text: str) -> str:
    """Return a cell's text with single spaces; empty for a dash."""
    tidy = re.sub(r"\s+", " ", text).strip()
    return "" if tidy in ("-", "–") else tidy


def _colours_said(
    texts: Counter[str],
    forced: str,
    guess: DialectGuess,
    colours: Mapping[str, ColourReading],
    meanings: Mapping[str, Colour],
) -> str:
    """Say how the colours are read, and of which dialect the odd ones are."""
    count = sum(texts.values())
    if not count:
        return guess.evidence
    read = sum(
        texts[text] for text, colour_reading in colours.items() if colour_reading.colour is not None
    )
    if forced:
        return f"Colours are read as {forced}, as you chose: {read} of {count}."
    odd = [
        text
        for text, colour_reading in colours.items()
        if colour_reading.colour and not reads(text, guess.dialect)
    ]
    said = sorted(set(odd) & set(meanings))
    others = sorted(set(odd) - set(meanings))
    also = f" Read by others: {', '.join(others[:6])}." if others else ""
    also += f" As you said: {', '.join(said[:6])}." if said else ""
    return f"{guess.evidence}{also}"


def cavity_names(raw: RawTable, columns: Columns) -> tuple[str, ...]:
    """Return the cavities that the rows name, in their order, whatever else is wrong with them."""
    if "cavity" not in columns.fields:
        return ()
    rows = raw.rows[columns.heading_row + 1 :] if columns.heading_row is not None else raw.rows
    reader = _RowReader(columns, None, "", "", {})
    names = (reader.cavity(row) for row in rows)
    return tuple(name for name in names if 0 < len(name) <= LONGEST_CAVITY)


def _dialect_in_doubt(guess: DialectGuess) -> bool:
    return not guess.sure and "choose" in guess.evidence


def _column(rows: tuple[RawRow, ...], columns: Columns, field: Field) -> list[str]:
    column = columns.fields.get(field)
    if column is None:
        return []
    return [row.cells[column].strip() for row in rows if column < len(row.cells)]


def _bare_unit(raw: RawTable, rows: tuple[RawRow, ...], columns: Columns) -> tuple[BareSize, str]:
    """Return what a size without a unit means in this table, and why."""
    bare = [text.replace(",", ".") for text in _column(rows, columns, "size")]
    bare = [text for text in bare if len(text) < 12 and re.fullmatch(r"\d*\.?\d+", text)]
    if not bare:
        return "", ""
    heading = ""
    if columns.heading_row is not None:
        heading = raw.rows[columns.heading_row].cells[columns.fields["size"]].lower()
    parts = any("." in text for text in bare)
    if "awg" in heading or "gauge" in heading:
        also = "; those with a decimal point are mm²" if parts else ""
        return "awg", f"Sizes are AWG: the column is headed “{heading}”{also}."
    if "mm" in heading or "section" in heading:
        return "metric", f"Sizes are mm²: the column is headed “{heading}”."
    if any(float(text) != int(float(text)) for text in bare):
        return "metric", "Sizes are mm²: some are fractions, which AWG has not."
    if any(text in ("12", "14", "18", "20", "22", "24") for text in bare):
        return "awg", "Sizes are AWG: 12, 14, 18, 20 and 22 are not sold in mm²."
    return "", "Sizes have no unit and could be AWG or mm²: choose."


class _RowReader:
    """Reads rows with one set of choices."""

    def __init__(
        self,
        columns: Columns,
        known: frozenset[str] | None,
        dialect: str,
        bare: BareSize,
        colours: Mapping[str, ColourReading],
        *,
        forced: bool = False,
    ) -> None:
        self.fields = columns.fields
        self.known = known
        self.dialect = dialect
        self.bare, self.forced = bare, forced
        self.colours = colours

    def text(self, row: RawRow, field: Field) -> str:
        column = self.fields.get(field)
        if column is None or column >= len(row.cells):
            return ""
        return re.sub(r"\s+", " ", row.cells[column]).strip()

    def cavity(self, row: RawRow) -> str:
        text = self.text(row, "cavity")[:40]
        whole = re.fullmatch(r"0*(\d+)(?:\.0+)?", text)  # spreadsheets turn 7 into 7.0 or 07
        return whole.group(1) if whole else text.upper().replace(" ", "")

    def read(self, row: RawRow, uses: Counter[str]) -> RowReading:
        cavity = self.cavity(row)
        remarks = [
            f"Cell {column_letter(column)}{row.number} is part of the merged cells {where}: "
            "only the first holds the text. Type what belongs here."
            for column, where in row.merged.items()
            if column in self.fields.values()
        ]
        if not cavity:
            return self._unreadable(row, remarks, "No cavity in this row. Type one.")
        if self.known is not None and cavity not in self.known:
            return self._unreadable(row, remarks, f"The connector has no cavity {cavity}.")
        if len(cavity) > LONGEST_CAVITY:
            return self._unreadable(row, remarks, f"“{cavity[:20]}” is not a name for a cavity.")
        if uses[cavity] > 1:
            remarks.append(f"Cavity {cavity} is in {uses[cavity]} rows. Tick the right one.")
        colour = self._colour(row, remarks)
        size = self._size(row, remarks)
        notes = [self.text(row, "note")]
        # What could not be read is kept as it stands, so that nothing of the table is lost.
        notes += [f"colour in the table: {self.text(row, 'colour')}"] if colour is UNREAD else []
        notes += [f"size in the table: {self.text(row, 'size')}"] if size is UNREAD else []
        function = self.text(row, "function")
        fill: CavityFill = ""
        if function.lower() in EMPTY_WORDS:
            fill, function = "empty", ""
        elif function.lower() in PLUG_WORDS:
            fill, function = "plugged", ""
        pin = Pin(
            cavity,
            function,
            self.text(row, "circuit"),
            colour if isinstance(colour, Colour) else None,
            size if isinstance(size, WireSize) else None,
            "; ".join(note for note in notes if note),
            fill,
        )
        return RowReading(row.number, "needs you" if remarks else "fine", pin, tuple(remarks))

    def _unreadable(self, row: RawRow, remarks: list[str], reason: str) -> RowReading:
        return RowReading(row.number, "cannot be read", None, (*remarks, reason))

    def _colour(self, row: RawRow, remarks: list[str]) -> Colour | Literal["unread"] | None:
        text = tidied(self.text(row, "colour"))
        if not text:
            return None
        colour_reading = self.colours.get(text, ColourReading(None))
        if colour_reading.colour is not None:
            return colour_reading.colour
        if colour_reading.options:
            choices = " or ".join(str(colour) for colour, _ in colour_reading.options)
            remarks.append(f"Colour “{text[:40]}” could be {choices}: say which, once for all.")
            return UNREAD
        try:
            return read_colour(text, self.dialect)
        except ColourError as error:
            remarks.append(f"{error} The colour stays blank unless you say what it is.")
            return UNREAD

    def _doubt(self, text: str, size: WireSize) -> None:
        """Refuse a number that the table's unit would make a section nobody sells."""
        if self.forced or self.bare != "metric" or not text.isdigit() or size in METRIC_SIZES:
            return
        raise QuantityError(
            f"{text} mm² is not sold, {text} AWG may be meant. Type {text} AWG or {text} mm2."
        )

    def _size(self, row: RawRow, remarks: list[str]) -> WireSize | Literal["unread"] | None:
        text = self.text(row, "size")
        if text in ("", "-", "–"):
            return None
        try:
            size = read_size(text, "" if "." in text.replace(",", ".") else self.bare)
            self._doubt(text, size)
            return size
        except QuantityError as error:
            remarks.append(f"{error} The size stays blank unless you correct it.")
            return UNREAD
