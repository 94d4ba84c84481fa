"""Read a table from XLSX. openpyxl knows the format; the rows are read cell by cell as they come.

openpyxl lays a sheet out as a full rectangle, and collects each row before it hands it over: one
cell far out, or a row of a million empty cells, would fill the memory. So its way of reading a cell
is used, and only the cells that are there are kept.
"""

import io
import warnings
import zipfile
from bisect import bisect_right
from collections.abc import Callable, Iterator
from typing import Any, NamedTuple
from xml.etree import ElementTree

from molvik.files.tablelimits import MOST_COLUMNS, STOPPED, TableError, made_table, take
from molvik.parsing.tables import RawRow, RawTable

LARGEST_PART = {"sheet": 130_000_000, "sharedStrings": 40_000_000, "styles": 5_000_000}
LARGEST_OTHER = 20_000_000
MOST_CELLS = 2_500_000
MOST_ELEMENTS = 6_000_000
MOST_XML_ROWS = 1_048_576
"""A spreadsheet has no more."""

MOST_IN_A_CELL = 2_000
"""Pieces of differently written text."""

MOST_MERGES = 20_000
_MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"


class _Merge(NamedTuple):
    """A merged area, counted from one as spreadsheets do."""

    top: int
    bottom: int
    left: int
    right: int
    name: str


def read_workbook(name: str, data: bytes, stop: Callable[[], bool]) -> RawTable:
    """Read the first sheet with something in it. Raises TableError."""
    _check_parts(name, data)
    if stop():
        raise TableError(STOPPED)
    try:
        return _read(name, data, stop)
    except TableError:
        raise
    except Exception as error:  # openpyxl raises many kinds for a file it cannot read
        raise TableError(
            f"{name} is not a spreadsheet that can be read. Save it again as .xlsx or .csv."
        ) from error


def _check_parts(name: str, data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            members = package.infolist()
    except Exception as error:  # a damaged zip fails in many ways
        raise TableError(
            f"{name} is not a spreadsheet that can be read. Save it again as .xlsx or .csv."
        ) from error
    for member in members:
        kinds = (most for kind, most in LARGEST_PART.items() if kind in member.filename)
        if member.file_size > next(kinds, LARGEST_OTHER):
            raise TableError(
                f"{name} unpacks to more than any pinout table ({member.filename} has "
                f"{member.file_size / 1e6:.0f} MB). Copy the rows you need into a new sheet."
            )
    if sum(member.file_size for member in members) > 200_000_000 or len(members) > 5_000:
        raise TableError(f"{name} unpacks to more than any pinout table (200 MB).")


def _read(name: str, data: bytes, stop: Callable[[], bool]) -> RawTable:
    import openpyxl

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # what is odd in styles and dates does not matter here
        book = openpyxl.load_workbook(
            io.BytesIO(data), read_only=True, data_only=True, keep_links=False
        )
        try:
            sheets = [_Sheet(name, sheet, stop) for sheet in book.worksheets]
            filled = [sheet for sheet in sheets if sheet.has_text()]
            if not filled:
                raise TableError(f"{name} is empty. Save the table again and import that.")
            first = filled[0]
            first.read()
            remarks = [f"Read the sheet “{first.title}”."] if len(filled) > 1 else []
            return made_table(name, first.with_merges(), remarks, first.wide)
        finally:
            book.close()


class _Sheet:
    """One sheet: its rows, and the areas that are merged."""

    def __init__(self, name: str, sheet: Any, stop: Callable[[], bool]) -> None:
        self._name, self._sheet, self._stop = name, sheet, stop
        self.title = str(sheet.title)
        self.rows: list[RawRow] = []
        self.wide: list[int] = []
        self._merges: list[_Merge] = []

    def has_text(self) -> bool:
        """Return whether any cell holds something."""
        return next(self._filled_rows(), None) is not None

    def read(self) -> None:
        """Read the sheet."""
        for number, found in self._filled_rows():
            width = max(found) + 1
            if width > MOST_COLUMNS:
                self.wide.append(number)
            cells = tuple(found.get(index, "") for index in range(min(width, MOST_COLUMNS)))
            if any(cells):
                take(self.rows, RawRow(number, cells), self._name)

    def _filled_rows(self) -> Iterator[tuple[int, dict[int, str]]]:
        """Give each row with text in it: its number and the text by column, from zero."""
        from openpyxl.worksheet._reader import WorkSheetParser  # no other way to read one cell

        sheet, book = self._sheet, self._sheet.parent
        cell_reader = WorkSheetParser(
            io.BytesIO(),
            sheet._shared_strings,
            data_only=True,
            epoch=book.epoch,
            date_formats=book._date_formats,
            timedelta_formats=book._timedelta_formats,
        )
        row: dict[int, str] = {}
        rows = cells = inside = elements = 0
        above: list[ElementTree.Element] = []
        with sheet._get_source() as source:
            for event, element in ElementTree.iterparse(source, events=("start", "end")):
                if event == "start":
                    above.append(element)
                    elements += 1
                    inside += inside > 0 or element.tag == f"{_MAIN}c"
                    if inside > MOST_IN_A_CELL:
                        raise TableError(f"{self._name}: a cell is not a cell of a pinout table.")
                    if element.tag == f"{_MAIN}row":
                        rows, row = rows + 1, {}
                        given = element.get("r")
                        cell_reader.row_counter = (
                            int(given) if given else cell_reader.row_counter + 1
                        )
                        cell_reader.col_counter = 0
                    continue
                above.pop()
                if element.tag == f"{_MAIN}c":
                    cells, inside = cells + 1, 0
                    self._take_cell(cell_reader, element, row)
                elif element.tag == f"{_MAIN}row" and row:
                    yield cell_reader.row_counter, row
                elif element.tag == f"{_MAIN}mergeCell":
                    self._take_merge(element.get("ref", ""))
                if above and not inside:
                    above[-1].clear()  # what has been read is not kept
                if cells > MOST_CELLS or rows > MOST_XML_ROWS or elements > MOST_ELEMENTS:
                    raise TableError(f"{self._name} has more cells than any pinout table.")
                if elements % 2000 == 0 and self._stop():
                    raise TableError(STOPPED)

    def _take_cell(self, reader: Any, element: ElementTree.Element, row: dict[int, str]) -> None:
        try:
            found = reader.parse_cell(element)
            column, text = int(found["column"]), cell_text(found["value"])
        except (ValueError, OverflowError):  # a number too long to be one: as it stands
            column = reader.col_counter
            text = (element.findtext(f"{_MAIN}v") or "").strip()
        if text.strip():
            row[column - 1] = text

    def _take_merge(self, ref: str) -> None:
        from openpyxl.utils import range_boundaries

        if len(self._merges) >= MOST_MERGES:
            raise TableError(f"{self._name} has more merged cells than any pinout table.")
        bounds = range_boundaries(ref)
        left, top, right, bottom = (int(bound or 0) for bound in bounds)
        self._merges.append(_Merge(top, bottom, left, right, ref))

    def with_merges(self) -> list[RawRow]:
        """Return the rows, each with its columns that lie under a merged area.

        Raises TableError.
        """
        numbers = [row.number for row in self.rows]
        merged: dict[int, dict[int, str]] = {}
        steps = 0
        for area in self._merges:
            first, last = bisect_right(numbers, area.top - 1), bisect_right(numbers, area.bottom)
            under = dict.fromkeys(range(area.left - 1, min(area.right, MOST_COLUMNS)), area.name)
            below_top = dict(under)
            under.pop(area.left - 1, None)  # the one that holds the text
            for number in numbers[first:last]:
                one = under if number == area.top else below_top
                # Rows under one area only share what is said of them.
                merged[number] = {**merged[number], **one} if number in merged else one
                steps += len(merged[number]) if merged[number] is not one else 1
            if steps > MOST_CELLS:
                raise TableError(f"{self._name} has more merged cells than any pinout table.")
        return [
            RawRow(row.number, row.cells, merged[row.number]) if row.number in merged else row
            for row in self.rows
        ]


def cell_text(value: object) -> str:
    """Return a cell's value as it is shown."""
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)
