"""Write sheets as CSV, PDF and XLSX."""

import io
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from molvik import fonts
from molvik.files.cells import csv_bytes
from molvik.files.errors import JobFileError
from molvik.files.writing import write_file
from molvik.model.job import Job
from molvik.reference.colours import PAINT
from molvik.sheets import FaceDrawing, Sheet

if TYPE_CHECKING:
    from reportlab.graphics.shapes import Drawing
    from reportlab.pdfgen.canvas import Canvas

INK, COPPER, RULE, PAPER = "#24211D", "#AD5B27", "#D9CFBD", "#F4EFE6"


def sheet_csv(sheet: Sheet) -> bytes:
    """Return a sheet as CSV."""
    return csv_bytes([sheet.headings, *sheet.rows])


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
    for face in sheet.faces:
        story += [paragraph(face.title, small), _face(face, width), Spacer(1, 6)]
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


def _face(face: FaceDrawing, width: float) -> "Drawing":
    """Draw a connector's face with its wires in their colours."""
    from reportlab.graphics.shapes import Circle, Drawing, Rect, String
    from reportlab.lib.colors import HexColor

    regular, bold = _font_names()
    step = min(26.0, width / max(1.0, face.columns))
    wide, tall = face.columns * step, face.rows * step
    drawing = Drawing(wide, tall + 4)
    housing: Any = {"fillColor": HexColor(PAPER), "strokeColor": HexColor(INK)}
    drawing.add(Rect(0, 0, wide, tall + 4, 6, 6, **housing))
    for dot in face.dots:
        x, y = (dot.x + 0.5) * step, tall + 2 - (dot.y + 0.5) * step
        if dot.lit:
            drawing.add(Circle(x, y - 2, step * 0.36, fillColor=None,
                               strokeColor=HexColor(COPPER), strokeWidth=1.6))  # fmt: skip
        fill = HexColor(PAINT.get(dot.base, "#FFFFFF")) if dot.base else None
        drawing.add(Circle(x, y - 2, step * 0.24, fillColor=fill, strokeColor=HexColor(INK),
                           strokeWidth=0.5))  # fmt: skip
        if dot.tracer:
            stripe: Any = {"fillColor": HexColor(PAINT.get(dot.tracer, "#FFFFFF"))}
            stripe["strokeColor"] = None
            drawing.add(Rect(x - step * 0.2, y - 2 - step * 0.05, step * 0.4, step * 0.1, **stripe))
        drawing.add(String(x, y + step * 0.26, dot.label, fontName=bold if dot.lit else regular,
                           fontSize=5.5, textAnchor="middle"))  # fmt: skip
    return drawing


def sheet_xlsx(sheet: Sheet) -> bytes:
    """Return a sheet as XLSX, its headings in a frozen row, every cell as text."""
    import openpyxl
    from openpyxl.styles import Font

    from molvik.pinouts.table import column_letter

    book = openpyxl.Workbook()
    page = book.worksheets[0]
    page.title = "".join(c for c in sheet.title if c not in "[]:*?/\\")[:31]
    page.append(list(sheet.headings))
    for row in sheet.rows:
        page.append(["".join(c for c in cell if c >= " " or c == "\n") for cell in row])
    for cell in page[1]:
        cell.font = Font(bold=True)
    page.freeze_panes = "A2"
    for at, share in enumerate(sheet.widths):
        page.column_dimensions[column_letter(at)].width = 6 + share * 2
    for cells in page.iter_rows():
        for cell in cells:
            cell.data_type = "s"  # a note that begins with = is a note
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


def export_sheets(job: Job, sheets: tuple[Sheet, ...], folder: Path) -> list[Path]:
    """Write every sheet as CSV, PDF and XLSX into a folder and return the files."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise JobFileError(f"{folder} cannot be made: {error.strerror or error}.") from error
    written: list[Path] = []
    now = datetime.now()
    for sheet in sheets:
        for suffix, data in (
            ("csv", sheet_csv(sheet)),
            ("pdf", sheet_pdf(sheet, job, now)),
            ("xlsx", sheet_xlsx(sheet)),
        ):
            path = folder / f"{sheet.name}.{suffix}"
            write_file(path, data)
            written.append(path)
    return written
