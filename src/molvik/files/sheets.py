"""Write sheets as CSV, XLSX and PDF, one or all of a job's."""

import io
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

from molvik.files.cells import csv_bytes
from molvik.files.errors import JobFileError
from molvik.files.tablelimits import never
from molvik.files.writing import reason, write_file
from molvik.model.job import Job
from molvik.sheet import Sheet, Table

STOPPED = "Stopped. What was written by then stays."
LONGEST_CELL = 32_767
"""Letters in a cell of a spreadsheet."""


def sheet_csv(sheet: Sheet) -> bytes:
    """Return the tables of a sheet as CSV, an empty line between two."""
    lines: list[tuple[str, ...]] = []
    for table in sheet.tables:
        if lines:
            lines.append(())
        lines += [table.headings, *table.rows]
    return csv_bytes(lines)


def sheet_xlsx(sheet: Sheet) -> bytes:
    """Return the tables of a sheet as XLSX, each with its headings in a frozen row, every cell as
    text.
    """
    import xlsxwriter

    kept = io.BytesIO()
    with xlsxwriter.Workbook(kept, {"in_memory": True}) as book:
        bold = book.add_format({"bold": True})
        for number, table in enumerate(sheet.tables):
            _write_table(book.add_worksheet(_page_name(sheet.title, number)), table, bold)
    return kept.getvalue()


def _page_name(title: str, number: int) -> str:
    """Return a name that a spreadsheet takes, another for each table."""
    name = "".join(c for c in title if c not in "[]:*?/\\'")
    return name[:31] if not number else f"{name[:27]} {number + 1}"


def _write_table(page: Any, table: Table, bold: Any) -> None:
    page.freeze_panes(1, 0)
    for index, share in enumerate(table.widths):
        page.set_column(index, index, 6 + share * 2)
    page.write_row(0, 0, table.headings, bold)
    for number, row in enumerate(table.rows, start=1):
        for index, text in enumerate(row):
            if text:  # as text: a note that begins with = is a note
                page.write_string(number, index, _plain(text))


def _plain(text: str) -> str:
    """Return a text without what a spreadsheet cannot hold."""
    plain = text if text.isprintable() else "".join(c for c in text if c >= " " or c == "\n")
    return plain if len(plain) <= LONGEST_CELL else f"{plain[: LONGEST_CELL - 1]}…"


def write_sheet(sheet: Sheet, job: Job, path: Path, stop: Callable[[], bool] = never) -> None:
    """Write one sheet by the ending of its name: .csv, .xlsx or else PDF. Raises JobFileError."""
    from molvik.files.pdf import sheet_pdf

    match path.suffix.lower():
        case ".csv":
            data = sheet_csv(sheet)
        case ".xlsx":
            data = sheet_xlsx(sheet)
        case _:
            data = sheet_pdf(sheet, job, datetime.now(), stop)
    write_file(path, data)


def export_sheets(
    job: Job,
    sheets: tuple[Sheet, ...],
    folder: Path,
    stop: Callable[[], bool] = never,
    told: Callable[[int], object] = lambda done: None,
) -> list[Path]:
    """Write every sheet as CSV, PDF and XLSX into a folder and return the files.

    stop: asked now and then. told: gets the number of files written so far. Raises JobFileError.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise JobFileError(f"{folder} cannot be made: {reason(error)}.") from error
    written: list[Path] = []
    for sheet in sheets:
        for suffix in ("csv", "pdf", "xlsx"):
            if stop():
                raise JobFileError(STOPPED)
            path = folder / f"{sheet.name}.{suffix}"
            write_sheet(sheet, job, path, stop)
            written.append(path)
            told(len(written))
    return written
