"""Tables that would hang, swell or be run: each gets one clear line, or is read as it is."""

import csv
import io
import os
import re
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import small_job, wire
from molvik.circuits.wire_table import read_wires, write_wires
from molvik.cli import main
from molvik.files.cells import as_written, csv_bytes, harmless
from molvik.files.stock import read_stock
from molvik.files.tablelimits import TableError
from molvik.files.tables import read_raw_table
from molvik.files.tabletext import read_text_table
from molvik.netlist.network import Network
from molvik.parsing.colours import ColourError, read_any_colour
from molvik.parsing.quantities import (
    QuantityError,
    read_current_a,
    read_duty_s,
    read_length_m,
    read_size,
)
from molvik.parsing.tables import RawTable
from molvik.pinouts.columns import find_columns
from molvik.pinouts.table import read_table

HEADING = "Pin,Function,Colour,Size\n"
MOST_KB = 300_000
"""What a table may take."""


def read(folder: Path, data: bytes, name: str = "t.csv") -> RawTable:
    path = folder / name
    path.write_bytes(data)
    return read_raw_table(path)


def workbook(change: Callable[[openpyxl.Workbook], None]) -> bytes:
    book = openpyxl.Workbook()
    page = book.worksheets[0]
    for row in (("Pin", "Function", "Colour"), ("1", "Lamp", "RD"), ("2", "Horn", "BK")):
        page.append(row)
    change(book)
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


def with_part(data: bytes, name: str, made: Callable[[bytes], bytes]) -> bytes:
    """Return a workbook with one part of it made anew."""
    kept = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(data)) as old,
        zipfile.ZipFile(kept, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for member in old.infolist():
            part = old.read(member)
            new.writestr(member.filename, made(part) if member.filename == name else part)
    return kept.getvalue()


SHEET = "xl/worksheets/sheet1.xml"


def same(book: openpyxl.Workbook) -> None:
    """Leave a workbook as it is."""


def rows_of(table: RawTable) -> list[list[str]]:
    return [[cell for cell in row.cells if cell] for row in table.rows]


def read_elsewhere(path: Path, most_kb: int = MOST_KB, bounds: str = "") -> str:
    """Read a table in a process of its own; return how many rows, or what it says.

    Its memory, the interpreter's included, is what the system counted. bounds: other bounds.
    """
    script = (
        "import sys; from pathlib import Path\n"
        "from molvik.files import workbooks\n"
        "from molvik.files.tablelimits import TableError\n"
        "from molvik.files.tables import read_raw_table\n"
        f"{bounds}\n"
        "try: print(len(read_raw_table(Path(sys.argv[1])).rows))\n"
        "except TableError as error: print(error)\n"
        "status = Path('/proc/self/status').read_text()\n"
        "print(status.split('VmHWM:')[1].split()[0])\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", script, str(path)], capture_output=True, text=True, check=True
    )
    said, kilobytes = done.stdout.splitlines()
    assert int(kilobytes) < most_kb, f"{int(kilobytes) / 1000:.0f} MB"
    return said


# Workbooks


def test_one_cell_far_out_costs_nothing_and_is_told(tmp_path: Path) -> None:
    def far(book: openpyxl.Workbook) -> None:
        book.worksheets[0]["XFD1048576"] = "far"
        book.worksheets[0]["XFD2"] = "wide"

    table = read(tmp_path, workbook(far), "far.xlsx")
    assert read_elsewhere(tmp_path / "far.xlsx") == "3"
    assert rows_of(table)[1:] == [["1", "Lamp", "RD"], ["2", "Horn", "BK"]]
    assert "Row 2 and 1 more has something beyond column 200: it was left out." in table.remarks


def test_one_huge_merge_is_said_of_the_rows_that_are_there(tmp_path: Path) -> None:
    merge = b"</sheetData><mergeCells><mergeCell ref='B2:XFD1048576'/></mergeCells>"
    data = with_part(workbook(same), SHEET, lambda old: old.replace(b"</sheetData>", merge))
    table = read(tmp_path, data, "merge.xlsx")
    assert read_elsewhere(tmp_path / "merge.xlsx") == "3"
    assert table.rows[0].merged == {}
    assert 1 not in table.rows[1].merged, "the cell that holds the text"
    assert set(table.rows[2].merged) >= {1, 2}


@pytest.mark.parametrize(
    ("piece", "times", "around", "words"),
    [
        (b"<c/>", 520_000, (b"<row>", b"</row>"), "more cells than any"),
        (b"<row/>", 220_000, (b"", b""), "more cells than any"),
        (b"<x/>", 600_000, (b"<row><c>", b"</c></row>"), "a cell is not a cell"),
        (b"<x/>", 500_000, (b"<y><z>", b"</z></y>"), "3"),
        (b"x", 60_000_000, (b"<row><c t='inlineStr'><is><t>", b"</t></is></c></row>"), "letters"),
    ],
)
def test_a_sheet_that_unpacks_to_masses_is_no_way_to_fill_the_memory(
    tmp_path: Path, piece: bytes, times: int, around: tuple[bytes, bytes], words: str
) -> None:
    """With a fifth of the bounds and of their pieces: what is kept of each would show."""
    inner = b"<sheetData>" + around[0] + piece * times + around[1]
    path = tmp_path / "mass.xlsx"
    path.write_bytes(
        with_part(workbook(same), SHEET, lambda old: old.replace(b"<sheetData>", inner))
    )
    fifth = "workbooks.MOST_CELLS //= 5; workbooks.MOST_XML_ROWS //= 5"
    assert words in read_elsewhere(path, 70_000 if times < 1_000_000 else MOST_KB, fifth)


@pytest.mark.parametrize(("part", "size"), [(SHEET, 140_000_000), ("xl/styles.xml", 6_000_000)])
def test_claimed_and_real_sizes_are_bounded(tmp_path: Path, part: str, size: int) -> None:
    large = with_part(workbook(same), part, lambda old: old + b" " * size)
    with pytest.raises(TableError, match=rf"{part} has {size // 1_000_000} MB"):
        read(tmp_path, large, "large.xlsx")
    claims = bytearray(large)
    at = claims.rfind(b"PK\x01\x02", 0, claims.rfind(part.encode()))
    claims[at + 24 : at + 28] = (100).to_bytes(4, "little")  # it says that it is small
    with pytest.raises(TableError, match="not a spreadsheet"):
        read(tmp_path, bytes(claims), "claims.xlsx")


def test_shared_texts_of_masses_are_refused(tmp_path: Path) -> None:
    kept = io.BytesIO(workbook(same))
    with zipfile.ZipFile(kept, "a", zipfile.ZIP_DEFLATED) as book:
        book.writestr("xl/sharedStrings.xml", b" " * 200_000_000)
    with pytest.raises(TableError, match=r"sharedStrings.xml has 200 MB"):
        read(tmp_path, kept.getvalue(), "strings.xlsx")


def test_numbers_of_any_length_are_text(tmp_path: Path) -> None:
    for digits in (400, 5000):
        data = with_part(
            workbook(same),
            SHEET,
            lambda old, digits=digits: old.replace(  # type: ignore[misc]
                b"</sheetData>",
                b"<row r='9'><c r='A9'><v>" + b"7" * digits + b"</v></c></row></sheetData>",
            ),
        )
        table = read(tmp_path, data, "digits.xlsx")
        assert table.rows[-1].cells[0] == "7" * digits
        reading = read_table(table, find_columns(table))
        assert reading.rows[-1].state == "cannot be read"


def test_reading_a_workbook_stops_when_asked(tmp_path: Path) -> None:
    def long(book: openpyxl.Workbook) -> None:
        for n in range(8_000):
            book.worksheets[0].append((str(n), "Lamp"))

    path = tmp_path / "long.xlsx"
    path.write_bytes(workbook(long))
    asked: list[int] = []

    def stop() -> bool:
        asked.append(1)
        return len(asked) > 5

    with pytest.raises(TableError, match="Stopped"):
        read_raw_table(path, stop)
    assert len(read_raw_table(path).rows) == 8_003


# Text


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"\xef\xbb\xbf", "is empty"),
        (b"\xff\xfe", "is empty"),
        (b",,,,\n,, \n", "is empty"),
        (HEADING.encode() + b'1,"' + b"x" * 140_000 + b'",RD\n', "cell goes on"),
        (HEADING.encode() + b'1,"' + b"x\n" * 60_000 + b'",RD\n', "goes on for longer"),
        (HEADING.encode() + b"," * 2_000_000 + b"1\n", "goes on for longer"),
        (HEADING.encode() + b"1," + b"x" * 40_000 + b"\n", "more than 33,000 letters"),
        (b"1,2\n" * 200_001, "more than 200,000 rows"),
        (bytes(30_000_001), "larger than any"),
        (b"Pin\n1\0\n", "not a text table"),
    ],
)
def test_a_text_that_is_no_table_gets_one_clear_line(
    tmp_path: Path, data: bytes, words: str
) -> None:
    with pytest.raises(TableError, match=words) as told:
        read(tmp_path, data)
    assert "\n" not in str(told.value)
    assert len(str(told.value)) < 300


@pytest.mark.parametrize("kind", ["folder", "device", "fifo", "loop"])
def test_what_is_no_file_is_not_waited_for(
    tmp_path: Path, kind: str, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "t.csv"
    if kind == "folder":
        path.mkdir()
    elif kind == "fifo":
        os.mkfifo(path)
    else:
        path.symlink_to("/dev/zero" if kind == "device" else path)
    assert main(["import-pinout", str(path)]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_large_honest_tables_stay_within_memory(tmp_path: Path) -> None:
    rows = "".join(f"{n},Function number {n},RD/WH,0.75 mm2\n" for n in range(150_000))
    path = tmp_path / "t.csv"
    path.write_text(HEADING + rows)
    assert read_elsewhere(path) == "150001"


@pytest.mark.parametrize(
    "text",
    [
        "R" * 32_000,
        "RD " * 11_000,
        "RD/" * 11_000,
        "0" * 32_000 + "x",
        " " * 32_000 + "x",
        "(" * 32_000,
        "1" * 400,
        "7" * 32_000,
        "0." * 16_000,
    ],
)
def test_readers_of_cells_take_no_time_for_long_ones(text: str) -> None:
    with pytest.raises(ColourError):
        read_any_colour(text)
    for reader in (read_size, read_length_m, read_current_a, read_duty_s):
        with pytest.raises(QuantityError) as told:
            reader(text)
        assert len(str(told.value)) < 200
    raw = read_text_table("t", f"{HEADING}{text},{text[:20_000]},{text},{text}\n".encode())
    reading = read_table(raw, find_columns(raw))
    assert all(len(remark) < 300 for row in reading.rows for remark in row.remarks)
    wires = read_text_table(
        "w", f"From,To,Length,Size,Colour\nC1/1,C2/1,{text},{text},{text}\n".encode()
    )
    made = read_wires(wires, Network(small_job())).rows[0]
    assert made.state == "needs you"


def test_a_row_of_commas_is_no_stock(tmp_path: Path) -> None:
    path = tmp_path / "stock.csv"
    path.write_text(",,,,,\n")
    with pytest.raises(TableError, match="is empty"):
        read_stock(path)


# Cells that a spreadsheet would run


@given(st.text(alphabet="'=+-@\t\r\"a1 ,;", max_size=8))
def test_a_cell_made_harmless_comes_back_as_it_was(cell: str) -> None:
    safe = harmless(cell)
    assert as_written(safe) == cell
    if len(cell) > 1:
        assert safe[:1] not in tuple("=+-@\t\r")


def test_nothing_in_an_exported_wire_table_runs_and_all_of_it_comes_back() -> None:
    evil = ("=1+1", "+1", "-1+2", "@x", "\tx", "\rx", "'=x", "plain", "-")
    job = small_job(
        *(
            replace(wire(f"W{n}", "C1/1", "C2/1"), function=text, circuit=text, note=text)
            for n, text in enumerate(evil, start=1)
        )
    )
    written = csv_bytes(write_wires(job))
    for line in written.decode("utf-8-sig").split("\r\n"):
        assert not any(cell.lstrip('"')[:1] in tuple("=+@\t\r") for cell in line.split(","))
    empty = replace(job, wires=())
    back = read_wires(read_text_table("w.csv", written), Network(empty)).wires()
    kept = [text.strip("\t\r") for text in evil]  # white space around a cell is nobody's
    assert [(one.function, one.circuit, one.note) for one in back] == [(x, x, x) for x in kept]


def test_a_formula_behind_another_separator_is_text_too() -> None:
    """A spreadsheet that parts cells by semicolons sees a cell begin there."""
    for cell in ("b;=1+1;c", "a\t@SUM(A1)", "x|+1", "x\n-2+3"):
        written = csv_bytes([[cell, "y"]]).decode("utf-8-sig")
        parts = re.split(r'[;|\t\n",]', written)
        assert not any(part[:1] in ("=", "@", "+", "-") for part in parts), written
        assert as_written(next(csv.reader(io.StringIO(written)))[0]) == cell
