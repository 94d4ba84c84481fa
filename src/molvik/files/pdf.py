"""Print a sheet as PDF: A4 landscape, with the job's title and the page on each page.

The cells are broken into lines here, by the widths of the letters: a paragraph object for each of
them took 5 s for a list of 2,000 wires, and a table object still 2 s. A row longer than a page goes
on on the next.
"""

import io
from collections.abc import Callable, Iterator
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple
from xml.sax.saxutils import escape

from molvik import fonts
from molvik.files.errors import JobFileError
from molvik.model.job import Job
from molvik.reference.colours import PAINT
from molvik.sheet import FaceDrawing, Sheet

if TYPE_CHECKING:
    from reportlab.graphics.shapes import Drawing
    from reportlab.pdfgen.canvas import Canvas
    from reportlab.platypus import Flowable

INK, COPPER, RULE, PAPER = "#24211D", "#AD5B27", "#D9CFBD", "#F4EFE6"
SIZE, LEADING, PADDING = 7.0, 8.6, 3.0
MOST_LINES = 40
"""Of one row on one page."""


@cache
def _font_names() -> tuple[str, str]:
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    folder = Path(fonts.__file__).parent
    for name in ("B612-Regular", "B612-Bold"):
        pdfmetrics.registerFont(TTFont(name, str(folder / f"{name}.ttf")))
    return "B612-Regular", "B612-Bold"


class _Breaker:
    """Breaks texts into lines that fit a width, in points."""

    def __init__(self, font: str, size: float) -> None:
        from reportlab.pdfbase import pdfmetrics

        known: Any = pdfmetrics.getFont(font)
        self._widths: dict[int, float] = known.face.charWidths
        self._usual: float = known.face.defaultWidth
        self._scale = size / 1000
        self._known: dict[str, float] = {}

    def width(self, text: str) -> float:
        """Return how wide a text is."""
        found = self._known.get(text)
        if found is None:
            widths, usual = self._widths, self._usual
            found = sum([widths.get(ord(letter), usual) for letter in text]) * self._scale
            if len(text) < 60:  # words come again and again
                self._known[text] = found
        return found

    def lines(self, text: str, most: float) -> list[str]:
        """Return a text as lines; a word that is too long for one is broken."""
        if self.width(text) <= most and "\n" not in text:
            return [text]
        found: list[str] = []
        for paragraph in text.split("\n"):
            line, used = "", 0.0
            for word in paragraph.split(" "):
                wide = self.width(word)
                space = self.width(" ") if line else 0.0
                if used + space + wide <= most:
                    line, used = f"{line} {word}" if line else word, used + space + wide
                    continue
                if line:
                    found.append(line)
                while wide > most and len(word) > 1:
                    cut = self._fitting(word, most)
                    found.append(word[:cut])
                    word = word[cut:]
                    wide = self.width(word)
                line, used = word, wide
            found.append(line)
        return found

    def _fitting(self, word: str, most: float) -> int:
        """Return how many letters of a word fit, at least one."""
        used = 0.0
        for at, letter in enumerate(word):
            used += self._widths.get(ord(letter), self._usual) * self._scale
            if used > most:
                return max(1, at)
        return len(word)


def sheet_pdf(
    sheet: Sheet, job: Job, printed: datetime, stop: Callable[[], bool] = lambda: False
) -> bytes:
    """Return a sheet as PDF. stop: asked now and then; when it says yes, JobFileError is raised."""
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer

    regular, bold = _font_names()
    page = landscape(A4)
    margin = 12 * mm
    width = page[0] - 2 * margin
    title = ParagraphStyle("title", fontName=bold, fontSize=14, leading=18)
    small = ParagraphStyle("small", fontName=regular, fontSize=8, leading=11, splitLongWords=True)

    def paragraph(text: str, style: ParagraphStyle) -> Paragraph:
        return Paragraph(escape(text), style)

    subtitle = f"{job.title}. {job.subtitle}" if job.subtitle else job.title
    story: list[Any] = [paragraph(sheet.title, title), paragraph(subtitle, small), Spacer(1, 6)]
    for face in sheet.faces:
        story += [paragraph(face.title, small), _face(face, width), Spacer(1, 6)]
    if sheet.rows:
        story.append(_table(sheet, width, stop))
    else:
        story.append(paragraph("There is nothing to list yet.", small))
    story += [Spacer(1, 6), *(paragraph(note, small) for note in sheet.notes)]
    foot = f"{sheet.title} · printed {printed:%Y-%m-%d %H:%M}"
    breaker = _Breaker(regular, 7)
    room = width - breaker.width(f"page 9999   {foot} · ")
    named = f"{breaker.lines(job.title, room)[0]} · {foot}"

    def footer(canvas: "Canvas", document: Any) -> None:
        if stop():
            raise JobFileError("Stopped. The sheet was not written.")
        canvas.saveState()
        canvas.setFont(regular, 7)
        canvas.drawString(margin, 7 * mm, named)
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
        title=f"{job.title[:200]}: {sheet.title}",
        author="Molvik",
    )
    document.build(story, onFirstPage=footer, onLaterPages=footer)
    return buffer.getvalue()


class _Line(NamedTuple):
    """A row, or as much of a long one as a page takes. cells: the lines of each. height: points."""

    cells: tuple[list[str], ...]
    height: float
    shaded: bool


def _lines(sheet: Sheet, shares: list[float], stop: Callable[[], bool]) -> Iterator[_Line]:
    """Break each row into lines that fit their columns."""
    breaker = _Breaker(_font_names()[0], SIZE)
    for number, row in enumerate(sheet.rows):
        if number % 100 == 0 and stop():
            raise JobFileError("Stopped. The sheet was not written.")
        broken = [
            breaker.lines(text, wide - 2 * PADDING) for text, wide in zip(row, shares, strict=True)
        ]
        for first in range(0, max(map(len, broken), default=1), MOST_LINES):
            cells = tuple(lines[first : first + MOST_LINES] for lines in broken)
            yield _Line(cells, _height(cells), number % 2 == 1)


def _height(cells: tuple[list[str], ...]) -> float:
    return max(map(len, cells), default=1) * LEADING + 4


def _table(sheet: Sheet, width: float, stop: Callable[[], bool]) -> "Flowable":
    """Return the rows with the headings above them on each page."""
    from reportlab.lib.colors import HexColor
    from reportlab.platypus import Flowable

    regular, bold = _font_names()
    shares = [width * share / sum(sheet.widths) for share in sheet.widths]
    heavy = _Breaker(bold, SIZE)
    heads = tuple(
        heavy.lines(text, wide - 2 * PADDING)
        for text, wide in zip(sheet.headings, shares, strict=True)
    )
    heading = _Line(heads, _height(heads), False)

    class Rows(Flowable):
        def __init__(self, lines: list[_Line]) -> None:
            super().__init__()
            self.lines = lines

        def wrap(self, _wide: float, _tall: float) -> tuple[float, float]:
            return width, heading.height + sum(one.height for one in self.lines)

        def split(self, _wide: float, tall: float) -> "list[Flowable]":
            left = tall - heading.height
            for at, one in enumerate(self.lines):
                left -= one.height
                if left < 0:
                    return [Rows(self.lines[:at]), Rows(self.lines[at:])] if at else []
            return [self]

        def draw(self) -> None:
            canvas = self.canv
            top = self.wrap(0, 0)[1]
            text = canvas.beginText()
            text.setFillColor(HexColor(INK))
            canvas.setStrokeColor(HexColor(RULE))
            canvas.setFillColor(HexColor(PAPER))
            canvas.setLineWidth(0.4)
            for one in (heading, *self.lines):
                font = bold if one is heading else regular
                text.setFont(font, SIZE, LEADING)
                left = PADDING
                for cell, wide in zip(one.cells, shares, strict=True):
                    if cell and cell[0]:
                        text.setTextOrigin(left, top - SIZE - 1.5)
                        text.textLines(cell, trim=0)
                    left += wide
                top -= one.height
                if one.shaded:
                    canvas.rect(0, top, width, one.height, stroke=0, fill=1)
                canvas.line(0, top, width, top)
            canvas.setStrokeColor(HexColor(COPPER))
            canvas.setLineWidth(1.2)
            under = self.wrap(0, 0)[1] - heading.height
            canvas.line(0, under, width, under)
            canvas.drawText(text)

    return Rows(list(_lines(sheet, shares, stop)))


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
