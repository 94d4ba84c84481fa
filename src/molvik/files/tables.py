"""Read a table from CSV, TSV or XLSX as rows of text, saying what had to be assumed."""

import csv
import io
import zipfile
from collections.abc import Callable
from pathlib import Path

from molvik.pinouts.table import RawRow, RawTable

LARGEST_BYTES = 50_000_000
MOST_ROWS = 200_000

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
        if path.stat().st_size > LARGEST_BYTES:
            raise TableError(f"{path.name} is larger than any pinout table (50 MB).")
        data = path.read_bytes()
    except OSError as error:
        raise TableError(f"{path.name} cannot be read: {error.strerror or error}.") from error
    if not data.strip():
        raise TableError(f"{path.name} is empty. Save the table again and import that.")
    for start, kind in _PICTURES.items():
        if data.startswith(start):
            raise TableError(f"{path.name} is {kind}, not a table. Import CSV or XLSX.")
    if data.startswith(b"PK\x03\x04"):
        return _read_xlsx(path, stop)
    if path.suffix.lower() in (".xlsx", ".xlsm"):
        raise TableError(
            f"{path.name} is named .xlsx but is not a spreadsheet. Open it where it was made and "
            "save it as .xlsx or .csv."
        )
    return read_text_table(path.name, data, stop)


def read_text_table(name: str, data: bytes, stop: Callable[[], bool] = never) -> RawTable:
    """Read a table from text as it stands in a file or on the clipboard."""
    text, remarks = _decode(data)
    if "\x00" in text:
        raise TableError(f"{name} is not a text table. Import CSV or XLSX.")
    separator, said = _separator(text)
    remarks += said
    rows: list[RawRow] = []
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    try:
        for cells in reader:
            if len(rows) % 2000 == 0 and stop():
                raise TableError("Stopped. Nothing was changed.")
            if len(rows) >= MOST_ROWS:
                raise TableError(f"{name} has more than {MOST_ROWS:,} rows: not a pinout table.")
            if any(cell.strip() for cell in cells):
                rows.append(RawRow(reader.line_num, tuple(cells)))
    except csv.Error as error:
        where = f"{name}, row {reader.line_num}"
        raise TableError(f"{where}: {error}. Save it again as CSV.") from error
    return RawTable(name, tuple(rows), tuple(remarks))


def _decode(data: bytes) -> tuple[str, list[str]]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace"), ["Read as UTF-16."]
    try:
        return data.decode("utf-8-sig"), []
    except UnicodeDecodeError:
        remark = "Not UTF-8: read as Latin-1. Check letters such as ä, é or ß."
        return data.decode("latin-1"), [remark]


def _separator(text: str) -> tuple[str, list[str]]:
    """Return the separator that splits the first rows most evenly."""
    lines = [line for line in text.splitlines()[:30] if line.strip()]
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


def _read_xlsx(path: Path, stop: Callable[[], bool]) -> RawTable:
    import openpyxl

    try:
        with zipfile.ZipFile(path) as package:
            if sum(member.file_size for member in package.infolist()) > 20 * LARGEST_BYTES:
                raise TableError(f"{path.name} unpacks to more than any pinout table.")
        if stop():
            raise TableError("Stopped. Nothing was changed.")
        book = openpyxl.load_workbook(path, data_only=True)
    except TableError:
        raise
    except Exception as error:  # openpyxl raises many kinds for a file it cannot read
        raise TableError(
            f"{path.name} is not a spreadsheet that can be read. Save it again as .xlsx or .csv."
        ) from error
    # The first sheet with something in it.
    sheets = [sheet for sheet in book.worksheets if sheet.max_row > 1 or sheet["A1"].value]
    if not sheets:
        raise TableError(f"{path.name} is empty. Save the table again and import that.")
    sheet = sheets[0]
    if sheet.max_row > MOST_ROWS:
        raise TableError(f"{path.name} has more than {MOST_ROWS:,} rows: not a pinout table.")
    remarks = [f"Read the sheet “{sheet.title}”."] if len(sheets) > 1 else []
    merged: dict[int, dict[int, str]] = {}
    for area in sheet.merged_cells.ranges:
        for row in range(area.min_row, area.max_row + 1):
            for column in range(area.min_col, area.max_col + 1):
                if (row, column) != (area.min_row, area.min_col):
                    merged.setdefault(row, {})[column - 1] = area.coord
    rows: list[RawRow] = []
    for number, values in enumerate(sheet.iter_rows(values_only=True), start=1):
        if number % 2000 == 0 and stop():
            raise TableError("Stopped. Nothing was changed.")
        cells = tuple(_cell_text(value) for value in values)
        if any(cell.strip() for cell in cells):
            rows.append(RawRow(number, cells, merged.get(number, {})))
    return RawTable(path.name, tuple(rows), tuple(remarks))


def _cell_text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)
