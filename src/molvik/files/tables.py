"""Read a table file, CSV, TSV or XLSX, as rows of text, saying what had to be assumed."""

import stat
from collections.abc import Callable
from pathlib import Path

from molvik.files.tablelimits import LARGEST_BYTES, TableError, never
from molvik.files.tabletext import read_text_table
from molvik.files.workbooks import read_workbook
from molvik.files.writing import reason
from molvik.parsing.tables import RawTable

_PICTURES = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"\xd0\xcf\x11\xe0": "an old .xls spreadsheet; save it as .xlsx or .csv",
}


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
        return read_workbook(path.name, data, stop)
    if data.strip() and path.suffix.lower() in (".xlsx", ".xlsm"):
        raise TableError(
            f"{path.name} is named .xlsx but is not a spreadsheet. Open it where it was made and "
            "save it as .xlsx or .csv."
        )
    return read_text_table(path.name, data, stop)
