"""Cells of a CSV file that a spreadsheet must not run, and back.

A cell that begins like a formula is run when the file is opened. A quote before it makes it text;
reading takes that quote off again, so that what was written comes back as it was.
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence

_RUN = re.compile(r"'*[=+\-@\t\r]")

_BEGINS = re.compile(r"(?<=[;|\t\n\r])('*[=+\-@])")
"""Where a spreadsheet that parts cells by another sign than the comma sees one begin."""

_BEGUN = re.compile(r"(?<=[;|\t\n\r])'('*[=+\-@])")


def harmless(cell: str) -> str:
    """Return a cell that no spreadsheet runs. A lone sign, as of a terminal, is left alone."""
    begun = f"'{cell}" if len(cell) > 1 and _RUN.match(cell) else cell
    return _BEGINS.sub(r"'\1", begun)


def as_written(cell: str) -> str:
    """Return what a cell was before it was made harmless."""
    cell = _BEGUN.sub(r"\1", cell)
    return cell[1:] if cell[:1] == "'" and len(cell) > 2 and _RUN.match(cell) else cell


def csv_bytes(rows: Iterable[Sequence[str]]) -> bytes:
    """Return rows as CSV: UTF-8 with a mark, as spreadsheets expect, every cell harmless."""
    text = io.StringIO(newline="")
    csv.writer(text).writerows([harmless(cell) for cell in row] for row in rows)
    return text.getvalue().encode("utf-8-sig")
