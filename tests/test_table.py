"""Reading pinout tables, good and bad."""

import zipfile
from pathlib import Path

import openpyxl
import pytest

from molvik.files.tablelimits import TableError
from molvik.files.tables import read_raw_table
from molvik.files.tabletext import read_text_table
from molvik.model.parts import Colour, Pin, WireSize
from molvik.parsing.tables import RawTable
from molvik.pinouts.columns import Columns, column_letter, find_columns, unused_headings
from molvik.pinouts.table import TableReading, read_table


def read(text: str, **choices: object) -> TableReading:
    raw = read_text_table("t.csv", text.encode())
    return read_table(raw, find_columns(raw), **choices)  # type: ignore[arg-type]


def save(path: Path, rows: list[list[object]], merge: str = "") -> Path:
    book = openpyxl.Workbook()
    sheet = book.worksheets[0]
    for row in rows:
        sheet.append(row)
    if merge:
        sheet.merge_cells(merge)
    book.save(path)
    return path


def remarks(reading: TableReading, number: int) -> str:
    return " ".join(next(row for row in reading.rows if row.number == number).remarks)


GOOD = """Cavity,Function,Circuit,Colour,Size mm2,Note
1,Battery supply,30A,RD/WH,1.5,from relay
2,not used,,,,
3,plugged,,,,
"""


def test_a_good_table_is_read_whole() -> None:
    reading = read(GOOD)
    assert [row.state for row in reading.rows] == ["fine", "fine", "fine"]
    assert reading.rows[0].pin == Pin(
        "1", "Battery supply", "30A", Colour("RD", "WH"), WireSize("metric", 1.5), "from relay"
    )
    assert [row.pin.fill for row in reading.rows if row.pin] == ["", "empty", "plugged"]


@pytest.mark.parametrize(
    "heads",
    ["Pin;Signal;Ckt;Color;Gauge", "PIN NO.;DESCRIPTION;Circuit No;Wire Colour;Wire size (AWG)"],
)
def test_columns_are_found_by_their_headings_wherever_they_stand(heads: str) -> None:
    raw = read_text_table("t.csv", f"Engine plug, 1979\n\n{heads}\n7;Lamp;58;GR;18\n".encode())
    columns = find_columns(raw)
    assert columns.heading_row == 1
    assert columns.fields == {"cavity": 0, "function": 1, "circuit": 2, "colour": 3, "size": 4}
    reading = read_table(raw, columns)
    assert reading.rows[0].pin is not None
    assert reading.rows[0].pin.size == WireSize("awg", 18)


def test_a_slip_of_the_pen_in_a_heading_is_allowed_for() -> None:
    raw = read_text_table("t.csv", b"Cavty,Funktion,Colour\n1,Lamp,RD\n")
    assert find_columns(raw).fields == {"cavity": 0, "function": 1, "colour": 2}


def test_missing_headings_are_named_with_the_row_and_can_be_chosen() -> None:
    raw = read_text_table("t.csv", b"1,Lamp,RD\n2,Horn,BK\n")
    assert "Row 1 reads: 1, Lamp, RD" in read_table(raw, find_columns(raw)).problem
    chosen = Columns(None, {"cavity": 0, "function": 1, "colour": 2})
    assert [r.pin.function for r in read_table(raw, chosen).rows if r.pin] == ["Lamp", "Horn"]


def test_a_heading_that_is_not_used_is_said() -> None:
    raw = read_text_table("t.csv", b"Pin,Function,Torque\n1,Lamp,5\n")
    assert unused_headings(raw, find_columns(raw)) == ("C Torque",)


def test_a_duplicate_cavity_needs_the_user_in_both_rows() -> None:
    reading = read("Pin,Function\n2,Earth\n1,Lamp\n02,Horn\n")
    assert [row.state for row in reading.rows] == ["needs you", "fine", "needs you"]
    assert "Cavity 2 is in 2 rows" in remarks(reading, 2)
    with pytest.raises(ValueError, match="Cavity 2 is chosen in two rows"):
        reading.pins(frozenset([2, 3, 4]))
    assert {pin.cavity for pin in reading.pins(frozenset([3, 4]))} == {"1", "2"}


def test_an_unknown_cavity_cannot_be_read() -> None:
    reading = read("Pin,Function\n1,Lamp\n77,Horn\n,Lost\n", known=frozenset(["1", "2"]))
    assert [row.state for row in reading.rows] == ["fine", "cannot be read", "cannot be read"]
    assert "no cavity 77" in remarks(reading, 3)
    assert "No cavity in this row" in remarks(reading, 4)


def test_an_unreadable_colour_or_size_is_left_blank_and_kept_in_the_note() -> None:
    reading = read("Pin,Colour,Size,Note\n1,RD,1.5 mm2,\n2,QQ,1.5 mm2,old\n3,BK,thick,\n")
    assert [row.state for row in reading.rows] == ["fine", "needs you", "needs you"]
    second, third = reading.rows[1].pin, reading.rows[2].pin
    assert second is not None
    assert third is not None
    assert second.colour is None
    assert second.note == "old; colour in the table: QQ"
    assert third.size is None
    assert third.note == "size in the table: thick"


def test_sizes_without_a_unit_are_never_guessed_in_silence() -> None:
    unsure = read("Pin,Size\n1,16\n2,10\n")
    assert [row.state for row in unsure.rows] == ["needs you", "needs you"]
    assert "choose" in unsure.size_evidence
    chosen = read("Pin,Size\n1,16\n2,10\n", bare_size="awg")
    assert [str(r.pin.size) for r in chosen.rows if r.pin] == ["16 AWG", "10 AWG"]
    assert read("Pin,Size\n1,18\n2,10\n").bare_size == "awg"
    assert read("Pin,Size\n1,0.75\n2,10\n").bare_size == "metric"


def test_colours_that_two_dialects_read_otherwise_need_the_user_to_choose() -> None:
    reading = read("Pin,Colour\n1,bl\n2,gr\n")
    assert {row.state for row in reading.rows} == {"needs you"}
    german = read("Pin,Colour\n1,bl\n2,gr\n", dialect="German")
    assert [str(r.pin.colour) for r in german.rows if r.pin] == ["BU", "GY"]
    assert {row.state for row in german.rows} == {"fine"}


def test_a_semicolon_file_and_a_tab_file_are_understood_and_said() -> None:
    semicolons = read_text_table("t.csv", b"Pin;Function\n1;Lamp, left\n")
    assert semicolons.rows[1].cells == ("1", "Lamp, left")
    assert "semicolons" in semicolons.remarks[0]
    assert read_text_table("t.tsv", b"Pin\tFunction\n1\tLamp\n").rows[1].cells == ("1", "Lamp")


def test_latin_1_is_read_and_said() -> None:
    raw = read_text_table("t.csv", "Pin,Function\n1,Öldruck\n".encode("latin-1"))
    assert raw.rows[1].cells[1] == "Öldruck"
    assert "Latin-1" in raw.remarks[0]


def test_utf_16_and_a_byte_order_mark_are_read() -> None:
    for encoding in ("utf-16", "utf-8-sig"):
        raw = read_text_table("t.csv", "Pin,Function\n1,Öl\n".encode(encoding))
        assert raw.rows[1].cells == ("1", "Öl")


def test_xlsx_is_read_like_csv(tmp_path: Path) -> None:
    path = save(
        tmp_path / "t.xlsx",
        [["Engine plug"], ["Pin", "Function", "Colour", "mm²"], [7, "Lamp", "rt/ws", 0.75]],
    )
    raw = read_raw_table(path)
    reading = read_table(raw, find_columns(raw))
    assert reading.rows[0].pin == Pin(
        "7", "Lamp", colour=Colour("RD", "WH"), size=WireSize("metric", 0.75)
    )
    assert reading.dialect == "German"


def test_a_merged_cell_is_named_and_its_text_not_spread(tmp_path: Path) -> None:
    path = save(
        tmp_path / "t.xlsx",
        [["Pin", "Function"], [1, "Earth"], [2, None], [3, "Lamp"]],
        merge="B2:B3",
    )
    raw = read_raw_table(path)
    reading = read_table(raw, find_columns(raw))
    assert [row.state for row in reading.rows] == ["fine", "needs you", "fine"]
    assert "Cell B3 is part of the merged cells B2:B3" in remarks(reading, 3)


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("empty.csv", b"", "empty.csv is empty"),
        ("blank.csv", b" \n \n", "empty"),
        ("photo.xlsx", b"\x89PNG\r\n\x1a\n123", "a PNG picture, not a table"),
        ("photo.csv", b"\xff\xd8\xff\xe0", "a JPEG picture"),
        ("old.xlsx", b"\xd0\xcf\x11\xe0\xa1", "old .xls spreadsheet; save it as .xlsx"),
        ("text.xlsx", b"Pin,Function\n1,Lamp\n", "named .xlsx but is not a spreadsheet"),
        ("broken.xlsx", b"PK\x03\x04rubbish", "not a spreadsheet that can be read"),
        ("binary.csv", b"Pin,Fun\x00ction\n1,2\n", "not a text table"),
    ],
)
def test_a_file_that_is_no_table_is_named_for_what_it_is(
    tmp_path: Path, name: str, data: bytes, words: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(TableError, match=words):
        read_raw_table(path)


def test_a_zip_that_is_not_a_spreadsheet_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "t.xlsx"
    with zipfile.ZipFile(path, "w") as package:
        package.writestr("a.txt", "hello")
    with pytest.raises(TableError, match="not a spreadsheet"):
        read_raw_table(path)


def test_a_file_that_is_gone_is_told(tmp_path: Path) -> None:
    with pytest.raises(TableError, match=r"gone\.csv cannot be read"):
        read_raw_table(tmp_path / "gone.csv")


def test_headings_without_rows_are_told() -> None:
    assert "no rows below" in read("Cavity,Function\n").problem
    assert read_table(RawTable("t", ()), Columns(None, {})).problem == "The table is empty."


def test_fifty_thousand_rows_are_read_and_each_is_judged() -> None:
    text = "Pin,Function\n" + "".join(f"{n},F{n}\n" for n in range(1, 50_001))
    reading = read(text, known=frozenset(str(n) for n in range(1, 63)))
    assert reading.count("fine") == 62
    assert reading.count("cannot be read") == 49_938


def test_reading_can_be_stopped() -> None:
    raw = read_text_table("t.csv", b"Pin,Function\n1,Lamp\n")
    assert "Stopped" in read_table(raw, find_columns(raw), stop=lambda: True).problem
    with pytest.raises(TableError, match="Stopped"):
        read_text_table("t.csv", b"Pin,Function\n1,Lamp\n", stop=lambda: True)


def test_columns_are_named_as_a_spreadsheet_names_them() -> None:
    assert [column_letter(at) for at in (0, 25, 26, 701, 702)] == ["A", "Z", "AA", "ZZ", "AAA"]
