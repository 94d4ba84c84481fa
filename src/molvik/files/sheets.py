"""Write sheets as CSV and PDF."""

import contextlib
import csv
import io
import os
import tempfile
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from molvik import fonts
from molvik.files.package import JobFileError
from molvik.model.job import Job
from molvik.sheets import Sheet

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

INK, COPPER, RULE, PAPER = "#24211D", "#AD5B27", "#D9CFBD", "#F4EFE6"


def sheet_csv(sheet: Sheet) -> bytes:
    """Return a sheet as CSV: UTF-8 with a mark, as spreadsheets expect."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(sheet.headings)
    writer.writerows([harmless(cell) for cell in row] for row in sheet.rows)
    return text.getvalue().encode("utf-8-sig")


def harmless(cell: str) -> str:
    """Keep a spreadsheet from running a note that begins like a formula."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@") and len(cell) > 1 else cell


@cache
def _font_names() -> tuple[str, str]:
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = Path(fonts.__file__).parent
    for name in ("B612-Regular", "B612-Bold"):
        pdfmetrics.registerFont(TTFont(name, str(folder / f"{name}.ttf")))
    return "B612-Regular", "B612-Bold"


def sheet_pdf(sheet: Sheet, job: Job, printed: datetime) -> bytes:
    """Return a sheet as PDF, A4 landscape, with the job's title and the page on each page."""
    from reportlab.lib.colors import HexColor
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

    regular, bold = _font_names()
    page = landscape(A4)
    margin = 12 * mm
    width = page[0] - 2 * margin
    cell = ParagraphStyle("cell", fontName=regular, fontSize=7, leading=8.6, wordWrap="LTR")
    head = ParagraphStyle("head", parent=cell, fontName=bold, textColor=HexColor(INK))
    title = ParagraphStyle("title", fontName=bold, fontSize=14, leading=18)
    small = ParagraphStyle("small", parent=cell, fontSize=8, leading=11)

    def paragraph(text: str, style: ParagraphStyle) -> Paragraph:
        return Paragraph(escape(text), style)

    lines: list[list[Any]] = [[paragraph(text, head) for text in sheet.headings]]
    lines += [[paragraph(text, cell) for text in row] for row in sheet.rows]
    table = Table(
        lines,
        colWidths=[width * share / sum(sheet.widths) for share in sheet.widths],
        repeatRows=1,
    )
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LEFTPADDING", (0, 0), (-1, -1), 2),
                ("RIGHTPADDING", (0, 0), (-1, -1), 2),
                ("LINEBELOW", (0, 0), (-1, 0), 1.2, HexColor(COPPER)),
                ("LINEBELOW", (0, 1), (-1, -1), 0.4, HexColor(RULE)),
                ("ROWBACKGROUNDS", (0, 1), (-1, -1), [None, HexColor(PAPER)]),
            ]
        )
    )
    subtitle = f"{job.title}. {job.subtitle}" if job.subtitle else job.title
    story: list[Any] = [paragraph(sheet.title, title), paragraph(subtitle, small), Spacer(1, 6)]
    story += [table] if sheet.rows else [paragraph("There is nothing to list yet.", small)]
    story += [Spacer(1, 6), *(paragraph(note, small) for note in sheet.notes)]
    foot = f"{job.title} · {sheet.title} · printed {printed:%Y-%m-%d %H:%M}"

    def footer(canvas: "Canvas", document: Any) -> None:
        canvas.saveState()
        canvas.setFont(regular, 7)
        canvas.drawString(margin, 7 * mm, foot)
        canvas.drawRightString(page[0] - margin, 7 * mm, f"page {document.page}")
        canvas.restoreState()

    buffer = io.BytesIO()
    document = SimpleDocTemplate(
        buffer,
        pagesize=page,
        leftMargin=margin,
        rightMargin=margin,
        topMargin=margin,
        bottomMargin=margin,
        title=f"{job.title}: {sheet.title}",
        author="Molvik",
    )
    document.build(story, onFirstPage=footer, onLaterPages=footer)
    return buffer.getvalue()


def write_file(path: Path, data: bytes) -> None:
    """Write a file whole or not at all."""
    temporary: Path | None = None
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        reason = error.strerror or str(error)
        raise JobFileError(f"{path} was not written: {reason}. Choose another folder.") from error
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)


def export_sheets(job: Job, sheets: tuple[Sheet, ...], folder: Path) -> list[Path]:
    """Write every sheet as CSV and PDF into a folder and return the files."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise JobFileError(f"{folder} cannot be made: {error.strerror or error}.") from error
    written: list[Path] = []
    now = datetime.now()
    for sheet in sheets:
        for suffix, data in (("csv", sheet_csv(sheet)), ("pdf", sheet_pdf(sheet, job, now))):
            path = folder / f"{sheet.name}.{suffix}"
            write_file(path, data)
            written.append(path)
    return written
