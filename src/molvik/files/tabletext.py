"""Read a table from text: its encoding and separator are found, and said where they were assumed.

Both by hand. charset-normalizer 3 was tried on German, French and Spanish tables in Latin-1: it
named cp1250 for each, which makes "arręt" of "arrêt", and took 4 s for 21 MB. csv.Sniffer takes a
space for a separator, and raises on a table of one column.
"""

import csv
import io
from collections.abc import Callable, Iterator

from molvik.files.tablelimits import MOST_COLUMNS, STOPPED, TableError, made_table, never, take
from molvik.parsing.tables import RawRow, RawTable

LONGEST_LINE = 1_000_000
MOST_LINES_A_ROW = 1_000


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
