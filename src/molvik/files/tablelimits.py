"""What a table may cost, wherever it comes from: bounded in bytes, rows, columns and letters."""

from molvik.files.cells import as_written
from molvik.parsing.tables import RawRow, RawTable

LARGEST_BYTES = 30_000_000
MOST_ROWS = 200_000
MOST_COLUMNS = 200
LONGEST_CELL = 33_000
"""Spreadsheets hold 32,767 letters a cell."""
STOPPED = "Stopped. Nothing was changed."


class TableError(Exception):
    """A table that cannot be read; the text says why and what to do."""


def never() -> bool:
    """Do not stop."""
    return False


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
