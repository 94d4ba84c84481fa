"""The sheets, as tables, CSV and PDF."""

import csv
import io
import re
from datetime import datetime
from pathlib import Path

import openpyxl
import pytest
from pypdf import PdfReader
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import metric, page, small_job, wire
from jobs import words_on
from molvik.analysis import Analysis
from molvik.crossover.repinsheet import repin_sheet
from molvik.demo import demo_job
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Text
from molvik.files.errors import JobFileError
from molvik.files.pdf import sheet_pdf
from molvik.files.sheets import export_sheets, sheet_csv, sheet_xlsx
from molvik.files.writing import write_file
from molvik.model.job import Job
from molvik.model.parts import Colour
from molvik.sheet import Drawing, Paragraph, Sheet, Table
from molvik.sheetset import every_sheet

NOW = datetime(2026, 11, 5, 10, 30)


def sheets(job: Job) -> dict[str, Sheet]:
    return {sheet.name: sheet for sheet in every_sheet(Analysis(job))}


def test_the_wire_list_has_every_wire_with_both_ends_in_words(demo: Job) -> None:
    sheet = sheets(demo)["wire-list"]
    assert [row[0] for row in sheet.tables[0].rows] == [
        f"W{n}" for n in range(1, len(demo.wires) + 1)
    ]
    pump = dict(zip(sheet.tables[0].headings, sheet.tables[0].rows[41], strict=True))
    assert pump["From, in words"] == "Fuel pump relay, 87"
    assert pump["To, in words"] == "Bulkhead, engine side, cavity 6"
    assert pump["Colour"] == "white, violet tracer"
    assert pump["Fuse"] == "F5 20 A"


def test_the_continuity_list_shows_what_to_expect_and_what_was_read(demo: Job) -> None:
    sheet = sheets(demo)["continuity-list"]
    rows = {
        row[0]: dict(zip(sheet.tables[0].headings, row, strict=True))
        for row in sheet.tables[0].rows
    }
    assert "W63" not in rows, "a wire with a loose end cannot be measured"
    assert rows["W56"]["Read Ω"] == "1.9"
    assert rows["W56"]["Verdict"] == "high"
    assert rows["W59"]["Read Ω"] == "OL"
    assert rows["W56"]["When"] == "2026-11-04 18:03"
    assert rows["W1"]["Read Ω"] == ""
    assert any("Battery disconnected" in note for note in words_on(sheet))


def test_csv_reads_back_as_it_was(demo: Job) -> None:
    for sheet in sheets(demo).values():
        text = sheet_csv(sheet).decode("utf-8-sig")
        rows = list(csv.reader(io.StringIO(text)))
        assert tuple(rows[0]) == sheet.tables[0].headings
        first = len(sheet.tables[0].rows)
        assert [tuple(row) for row in rows[1 : first + 1]] == list(sheet.tables[0].rows)
        whole = [row for table in sheet.tables for row in (table.headings, *table.rows)]
        assert [tuple(row) for row in rows if row] == whole, "a blank line between two tables"


def test_a_note_that_begins_like_a_formula_is_made_harmless() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1", note='=HYPERLINK("x")'))
    text = sheet_csv(sheets(job)["wire-list"]).decode("utf-8-sig")
    assert "'=HYPERLINK" in text


def test_pdf_prints_every_row_over_pages_with_the_title_on_each(demo: Job) -> None:
    for sheet in sheets(demo).values():
        reader = PdfReader(io.BytesIO(sheet_pdf(sheet, demo, NOW)))
        pages = [page.extract_text() for page in reader.pages]
        assert all("Marten fire tender" in page for page in pages)
        assert "printed 2026-11-05 10:30" in pages[0]
        assert f"page {len(pages)}" in pages[-1]
        whole = "\n".join(pages)
        for row in sheet.tables[0].rows:
            assert row[0].split("/")[0] in whole
    continuity = sheet_pdf(sheets(demo)["continuity-list"], demo, NOW)
    assert "Ω" in PdfReader(io.BytesIO(continuity)).pages[0].extract_text()


def test_odd_names_do_not_break_the_print() -> None:
    job = small_job(
        wire("W1", "C1/1", "C2/1", function="<b>5 V & return</b>", note="naïve → Ω " * 30),
        wire("W2", "C1/2", "C2/2", colour=Colour("WH", "GN"), size=metric(1)),
        title="Fahrzeug «Öl» <1979>",
    )
    for sheet in sheets(job).values():
        text = PdfReader(io.BytesIO(sheet_pdf(sheet, job, NOW))).pages[0].extract_text()
        assert "<1979>" in text


def test_an_empty_job_prints_and_says_so() -> None:
    for sheet in sheets(Job("x")).values():
        text = PdfReader(io.BytesIO(sheet_pdf(sheet, Job("x"), NOW))).pages[0].extract_text()
        assert "nothing to list yet" in text


def test_export_writes_each_sheet_both_ways(tmp_path: Path, demo: Job) -> None:
    written = export_sheets(demo, every_sheet(Analysis(demo)), tmp_path / "out")
    names = (
        "assembly",
        "continuity-list",
        "coverings",
        "cutting-list",
        "findings",
        "logbook",
        "quote",
        "replacement-wires",
        "survey",
        "test-report",
        "tester-points",
        "wire-list",
    )
    assert sorted(path.name for path in written) == [
        f"{name}.{suffix}" for name in names for suffix in ("csv", "pdf", "xlsx")
    ]
    assert all(path.stat().st_size > 400 for path in written)


def test_a_folder_that_cannot_be_made_is_told(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(JobFileError, match="cannot be made"):
        export_sheets(Job("x"), (), tmp_path / "file" / "out")
    with pytest.raises(JobFileError, match="was not written"):
        write_file(tmp_path / "gone" / "a.csv", b"x")


def test_a_sheet_as_xlsx_holds_every_cell_as_text(tmp_path: Path) -> None:
    first = Table(("One", "Two"), (3, 9), (("=1+1", "a\x07b"), ("-", "ü")))
    sheet = Sheet("x", "A/B: x", (first, Paragraph("between"), Table(("Three",), (1,), (("3",),))))
    path = tmp_path / "x.xlsx"
    path.write_bytes(sheet_xlsx(sheet))
    page, second = openpyxl.load_workbook(path).worksheets
    cells = [[cell.value for cell in row] for row in page.iter_rows()]
    assert cells == [["One", "Two"], ["=1+1", "ab"], ["-", "ü"]]
    assert page["A2"].data_type == "s"
    assert (page.title, second.title) == ("AB x", "AB x 2")
    assert [[cell.value for cell in row] for row in second.iter_rows()] == [["Three"], ["3"]]
    lines = sheet_csv(sheet).decode("utf-8-sig").splitlines()
    assert lines == ["One,Two", "'=1+1,a\x07b", "-,ü", "", "Three", "3"]


def test_the_repin_sheet_has_every_step_and_both_faces(tmp_path: Path) -> None:
    plan = Analysis(demo_job("plover")).plans["Q1"]
    sheet = repin_sheet(plan)
    assert [row[2:4] for row in sheet.tables[0].rows if row[1] == "Boost sensor signal"] == [
        ("C1/28", "C2/30")
    ]
    assert sum(row[0].isdigit() for row in sheet.tables[0].rows) == len(plan.ops)
    wire_side, mating = (one.scene for one in sheet.blocks if isinstance(one, Drawing))
    lit = {one.words for one in wire_side.shapes if isinstance(one, Text) and one.bold}
    assert lit - {"1"} == {op.end.partition("/")[2] for op in plan.ops if op.end} - {"1"}
    across = {area.ref: area.box.middle.x for area in mating.areas}
    for area in wire_side.areas:  # the two are mirror images
        assert area.box.middle.x + across[area.ref] == pytest.approx(wire_side.width)
    path = tmp_path / "repin.pdf"
    path.write_bytes(sheet_pdf(sheet, demo_job("plover"), datetime.now()))
    text = "".join(page.extract_text() for page in PdfReader(path).pages)
    assert "wire side, as it will be" in text
    assert all(words in text for words in words_on(sheet)), "ticks and notes, too"
    assert "Boost sensor signal" in text


@pytest.mark.parametrize("text", ["long words " * 1500, "x" * 20_000, "line\n" * 900])
def test_a_text_of_many_pages_prints(text: str) -> None:
    job = small_job(
        wire("W1", "C1/1", "C2/1", note=text, function="kept"),
        wire("W2", "C1/2", "C2/2", function=text[:3000]),
        title=text[:1500],
        subtitle=text[:1500],
    )
    for sheet in sheets(job).values():
        reader = PdfReader(io.BytesIO(sheet_pdf(sheet, job, NOW)))
        pages = [one.extract_text() for one in reader.pages]
        assert f"page {len(pages)}" in pages[-1]
    assert max(len(row[-1]) for row in sheets(job)["wire-list"].tables[0].rows) == len(text)


def test_every_line_of_a_long_cell_is_printed_once_and_in_order() -> None:
    marks = [f"mark{n:04d}" for n in range(2700)]
    table = Table(("One", "Two"), (1, 3), (("row", " ".join(marks)), ("next", "end")))
    sheet = Sheet("x", "X", (table,))
    pages = [p.extract_text() for p in PdfReader(io.BytesIO(sheet_pdf(sheet, Job("x"), NOW))).pages]
    assert len(pages) > 2
    assert re.findall(r"mark\d{4}", "\n".join(pages)) == marks
    assert all("One" in page for page in pages), "the headings stand on each page"
    assert "end" in pages[-1]


def test_lines_fit_their_columns_by_the_font_itself() -> None:
    from reportlab.pdfbase.pdfmetrics import stringWidth

    from molvik.files.pdf import REGULAR, _Breaker
    from molvik.files.pdfdrawing import register_faces

    register_faces()
    text = "Engine computer feed, W-shaped Ωµ 0,75 mm²; " * 8 + "y" * 90
    for most in (9.0, 40.0, 130.0):
        lines = _Breaker(REGULAR, 7).lines(text, most)
        assert max(stringWidth(line, REGULAR, 7) for line in lines if len(line) > 1) <= most + 0.01
        assert "".join("".join(lines).split()) == "".join(text.split())


def test_writing_stops_when_asked(tmp_path: Path, demo: Job) -> None:
    done: list[int] = []
    with pytest.raises(JobFileError, match="Stopped"):
        export_sheets(
            demo, every_sheet(Analysis(demo)), tmp_path, lambda: len(done) >= 4, done.append
        )
    assert len(list(tmp_path.iterdir())) == 4 == len(done)
    sheet = every_sheet(Analysis(demo))[0]
    with pytest.raises(JobFileError, match="Stopped"):
        sheet_pdf(sheet, demo, NOW, lambda: True)


def test_the_window_shows_progress_and_can_stop(
    demo_window: MainWindow, qtbot: QtBot, tmp_path: Path
) -> None:
    shown = page(demo_window, "Sheets")
    shown.save_all(tmp_path / "all")
    assert shown.stop.isVisible()
    assert not shown.pdf.isEnabled()
    qtbot.waitUntil(lambda: shown.done.isVisible())
    assert (
        shown.progress.value()
        == shown.progress.maximum()
        == len(list((tmp_path / "all").iterdir()))
    )
    shown.save_all(tmp_path / "some")
    qtbot.mouseClick(shown.stop, Qt.MouseButton.LeftButton)
    assert "Stopped" in shown.notice.text()
    assert shown.pdf.isEnabled()
    assert not shown.stop.isVisible()
