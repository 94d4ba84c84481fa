"""Read a table from CSV, TSV or XLSX as rows of text, saying what had to be assumed.

A table comes from anywhere, so what it may cost is bounded: in bytes, rows, columns and letters.
"""

import csv
import io
import stat
from collections.abc import Callable, Iterator
from pathlib import Path

from molvik.files.cells import as_written
from molvik.files.writing import reason
from molvik.parsing.tables import RawRow, RawTable

LARGEST_BYTES = 30_000_000
MOST_ROWS = 200_000
MOST_COLUMNS = 200
LONGEST_CELL = 33_000
"""Spreadsheets hold 32,767 letters a cell."""
LONGEST_LINE = 1_000_000
MOST_LINES_A_ROW = 1_000
STOPPED = "Stopped. Nothing was changed."

_PICTURES = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"\xd0\xcf\x11\xe0": "an old .xls spreadsheet; save it as .xlsx or .csv",
}


class TableError(Exception):
    """A table that cannot be read; the text says why and what to do."""


def never() -> bool:
    """Do not stop."""
    return False


def read_raw_table(path: Path, stop: Callable[[], bool] = never) -> RawTable:
    """Read a table file. stop is asked now and then; when it says yes, TableError is raised."""
    try:
        known = path.stat()
        if not stat.S_ISREG(known.st_mode):
            raise TableError(f"{path.name} is a folder, a device or a pipe, not a table.")
        if known.st_size > LARGEST_BYTES:
            raise TableError(f"{path.name} is larger than any pinout table (30 MB).")
        data = path.read_bytes()
    except (OSError, RuntimeError, ValueError) as error:
        raise TableError(f"{path.name} cannot be read: {reason(error)}.") from error
    for start, kind in _PICTURES.items():
        if data.startswith(start):
            raise TableError(f"{path.name} is {kind}, not a table. Import CSV or XLSX.")
    if data.startswith(b"PK\x03\x04"):
        from molvik.files.workbooks import read_workbook

        return read_workbook(path.name, data, stop)
    if data.strip() and path.suffix.lower() in (".xlsx", ".xlsm"):
        raise TableError(
            f"{path.name} is named .xlsx but is not a spreadsheet. Open it where it was made and "
            "save it as .xlsx or .csv."
        )
    return read_text_table(path.name, data, stop)


def read_text_table(name: str, data: bytes, stop: Callable[[], bool] = never) -> RawTable:
    """Read a table from text as it stands in a file or on the clipboard. Raises TableError."""
    encoding, remarks = _encoding(data)
    head = data[:100_000].decode(encoding, errors="replace")
    if encoding != "utf-16" and b"\x00" in data:
        raise TableError(f"{name} is not a text table. Import CSV or XLSX.")
    separator, said = _separator(head)
    remarks += said
    lines = _Lines(name, io.TextIOWrapper(io.BytesIO(data), encoding, "replace", newline=""))
    reader = csv.reader(lines, delimiter=separator)
    rows: list[RawRow] = []
    wide: list[int] = []
    try:
        for cells in reader:
            lines.row_ended()
            if len(rows) % 2000 == 0 and stop():
                raise TableError(STOPPED)
            if any(cell.strip() for cell in cells):
                take(rows, RawRow(reader.line_num, tuple(cells[:MOST_COLUMNS])), name)
                if any(cell.strip() for cell in cells[MOST_COLUMNS:]):
                    wide.append(reader.line_num)
    except csv.Error as error:
        if "field limit" in str(error):
            raise TableError(
                f"{name}, row {reader.line_num}: one cell goes on for more than 130,000 letters. "
                'A quotation mark (") there may have no partner.'
            ) from error
        raise TableError(
            f"{name}, row {reader.line_num}: {error}. Save it again as CSV."
        ) from error
    return made_table(name, rows, remarks, wide)


class _Lines:
    """The lines of a text, none of them endless, nor a row that never ends."""

    def __init__(self, name: str, text: io.TextIOWrapper) -> None:
        self._name, self._text = name, text
        self._number = self._since = 0

    def row_ended(self) -> None:
        """Begin to count anew."""
        self._since = 0

    def __iter__(self) -> "_Lines":
        return self

    def __next__(self) -> str:
        self._number += 1
        self._since += 1
        line = self._text.readline(LONGEST_LINE)
        if not line:
            raise StopIteration
        if len(line) >= LONGEST_LINE or self._since > MOST_LINES_A_ROW:
            raise TableError(
                f"{self._name}, line {self._number}: a row goes on for longer than any row of a "
                'pinout table. Is it text? A quotation mark (") may have no partner.'
            )
        return line


def take(rows: list[RawRow], row: RawRow, name: str) -> None:
    """Add a row, unless there are too many or a cell is too long. Raises TableError."""
    if len(rows) >= MOST_ROWS:
        raise TableError(f"{name} has more than {MOST_ROWS:,} rows: not a pinout table.")
    if any(len(cell) > LONGEST_CELL for cell in row.cells):
        raise TableError(
            f"{name}, row {row.number}: a cell holds more than {LONGEST_CELL:,} letters. That is "
            "not a pinout table; shorten it and import again."
        )
    cells = tuple([as_written(cell) for cell in row.cells])
    rows.append(row if cells == row.cells else RawRow(row.number, cells, row.merged))


def made_table(name: str, rows: list[RawRow], remarks: list[str], wide: list[int]) -> RawTable:
    """Return the rows as a table. wide: numbers of the rows that were cut off at the right.

    Raises TableError.
    """
    if not rows:
        raise TableError(f"{name} is empty. Save the table again and import that.")
    if wide:
        more = f" and {len(wide) - 1} more" if len(wide) > 1 else ""
        remarks.append(
            f"Row {wide[0]}{more} has something beyond column {MOST_COLUMNS}: it was left out."
        )
    return RawTable(name, tuple(rows), tuple(remarks))


def _encoding(data: bytes) -> tuple[str, list[str]]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16", ["Read as UTF-16."]
    try:
        for _ in _decoded(data):
            pass
    except UnicodeDecodeError:
        return "latin-1", ["Not UTF-8: read as Latin-1. Check letters such as ä, é or ß."]
    return "utf-8-sig", []


def _decoded(data: bytes) -> Iterator[str]:
    """Decode bit by bit, so that no second copy fills the memory."""
    text = io.TextIOWrapper(io.BytesIO(data), "utf-8-sig")
    while part := text.read(1 << 16):
        yield part


def _separator(text: str) -> tuple[str, list[str]]:
    """Return the separator that splits the first rows most evenly."""
    lines = [line[:10_000] for line in text.splitlines()[:30] if line.strip()]
    if not lines:
        return ",", []
    scores: dict[str, tuple[int, int]] = {}
    for separator in ",;\t|":
        widths = [len(row) for row in csv.reader(lines, delimiter=separator)]
        usual = max(set(widths), key=widths.count)
        scores[separator] = (widths.count(usual) if usual > 1 else 0, usual)
    best = max(scores, key=lambda one: scores[one])
    if scores[best][0] == 0:
        return ",", ["Only one column was found. Is it separated by commas, semicolons or tabs?"]
    words = {";": "semicolons", "\t": "tabs", "|": "upright strokes"}
    return best, [f"Columns are separated by {words[best]}."] if best in words else []
