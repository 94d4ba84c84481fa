"""Print a sheet as PDF: A4 landscape, with the job's title and the page on each page.

The cells are broken into lines here, by the widths of the letters: a paragraph object for each of
them took 5 s for a list of 2,000 wires, and a table object still 2 s. A row longer than a page goes
on on the next.
"""

import io
from collections.abc import Callable, Iterator
from datetime import datetime
from itertools import groupby
from typing import TYPE_CHECKING, Any, NamedTuple
from xml.sax.saxutils import escape

from molvik.drawing.scene import Box, Pen, Rect, Scene
from molvik.files.errors import JobFileError
from molvik.files.pdfdrawing import draw_scene, register_faces
from molvik.model.job import Job
from molvik.sheet import Block, Drawing, Paragraph, Sheet, Table, Ticks

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas
    from reportlab.platypus import Flowable

INK, COPPER, RULE, PAPER = "#24211D", "#AD5B27", "#D9CFBD", "#F4EFE6"
REGULAR, BOLD = "B612-Regular", "B612-Bold"
SIZE, LEADING, PADDING = 7.0, 8.6, 3.0
POINTS_A_PIXEL = 0.72
"""Of a drawing, where the page is large enough."""

MOST_BESIDE = 1300.0
"""Two drawings wider than this together, pixels, are put below each other."""

TALLEST = 440.0
"""Of a drawing: an A4 page on its side, without title and margins, points."""
MOST_LINES = 40
"""Of one row on one page."""


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
        for index, letter in enumerate(word):
            used += self._widths.get(ord(letter), self._usual) * self._scale
            if used > most:
                return max(1, index)
        return len(word)


def sheet_pdf(
    sheet: Sheet, job: Job, printed: datetime, stop: Callable[[], bool] = lambda: False
) -> bytes:
    """Return a sheet as PDF. stop: asked now and then; when it says yes, JobFileError is raised."""
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.units import mm
    from reportlab.platypus import SimpleDocTemplate, Spacer

    register_faces()
    page = landscape(A4)
    margin = 12 * mm
    width = page[0] - 2 * margin
    subtitle = f"{job.title}. {job.subtitle}" if job.subtitle else job.title
    story: list[Any] = [_words(sheet.title, 14, BOLD), _words(subtitle), Spacer(1, 6)]
    for kind, blocks in groupby(sheet.blocks, type):
        if kind is Drawing:
            story += _drawings([ticks for ticks in blocks if isinstance(ticks, Drawing)], width)
        else:
            story += [flowable for block in blocks for flowable in _flowables(block, width, stop)]
    foot = f"{sheet.title} · printed {printed:%Y-%m-%d %H:%M}"
    breaker = _Breaker(REGULAR, 7)
    room = width - breaker.width(f"page 9999 of 9999   {foot} · ")
    named = f"{breaker.lines(job.title, room)[0]} · {foot}"

    def footer(canvas: "Canvas", _: Any) -> None:
        if stop():
            raise JobFileError("Stopped. The sheet was not written.")
        canvas.saveState()
        canvas.setFont(REGULAR, 7)
        canvas.drawString(margin, 7 * mm, named)
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
    document.build(
        story, onFirstPage=footer, onLaterPages=footer, canvasmaker=_numbered(page[0] - margin)
    )
    return buffer.getvalue()


def _numbered(right: float) -> Any:
    """Return a canvas that says on each page which of how many it is: that is known at the end.

    right: where the words end, points.
    """
    from reportlab.lib.units import mm
    from reportlab.pdfgen.canvas import Canvas

    class Numbered(Canvas):
        """Keeps its pages until all are there."""

        def __init__(self, *words: Any, **more: Any) -> None:
            super().__init__(*words, **more)
            self._whole: list[dict[str, Any]] = []

        def showPage(self) -> None:
            """Keep a page, and begin another."""
            self._whole.append(dict(self.__dict__))
            self._startPage()  # type: ignore[attr-defined]

        def save(self) -> None:
            """Write all pages, each with its number."""
            for number, kept in enumerate(self._whole, start=1):
                self.__dict__.update(kept)
                self.setFont(REGULAR, 7)
                self.drawRightString(right, 7 * mm, f"page {number} of {len(self._whole)}")
                Canvas.showPage(self)
            super().save()

    return Numbered


def _words(text: str, size: float = 8, font: str = REGULAR) -> "Flowable":
    """Return a paragraph."""
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph as Words

    style = ParagraphStyle(font, fontName=font, fontSize=size, leading=size * 1.35)
    return Words(escape(text), style)


def _flowables(block: Block, width: float, stop: Callable[[], bool]) -> "list[Flowable]":
    """Return a block as what goes on a page."""
    from reportlab.platypus import Spacer

    match block:
        case Table() if block.rows:
            return [_table(block, width, stop), Spacer(1, 6)]
        case Table():
            return [_words("There is nothing to list yet."), Spacer(1, 6)]
        case Paragraph(text):
            return [_words(text)]
        case Ticks(items):
            return [*(_tick(item, width) for item in items), Spacer(1, 6)]
    raise AssertionError(block)  # drawings are placed beside each other


def _drawings(blocks: list[Drawing], width: float) -> "list[Flowable]":
    """Return drawings side by side, or one below the other where they would be too small."""
    from reportlab.platypus import Spacer
    from reportlab.platypus import Table as Grid

    across = 2 if len(blocks) > 1 and 2 * max(o.scene.width for o in blocks) <= MOST_BESIDE else 1
    wide = width / across
    cells = [
        [_words(drawing.title), _shown(drawing.scene, wide - 2 * PADDING)] for drawing in blocks
    ]
    rows = [cells[index : index + across] for index in range(0, len(cells), across)]
    rows[-1] += [[] for _ in range(across - len(rows[-1]))]
    grid = Grid(rows, colWidths=[wide] * across, hAlign="LEFT")
    grid.setStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
    return [grid, Spacer(1, 6)]


def _shown(scene: Scene, width: float) -> "Flowable":
    """Return a drawing, made smaller where it is wider than its room."""
    from reportlab.platypus import Flowable

    fits = width / max(1.0, scene.width), TALLEST / max(1.0, scene.height)
    scale = min(POINTS_A_PIXEL, *fits)

    class Shown(Flowable):
        def wrap(self, _wide: float, _tall: float) -> tuple[float, float]:
            return scene.width * scale, scene.height * scale

        def draw(self) -> None:
            draw_scene(self.canv, scene, scale)

    return Shown()


def _tick(text: str, width: float) -> "Flowable":
    """Return words with a box to tick before them."""
    from reportlab.platypus import Table as Grid

    box = Scene(14, 14, (Rect(Box(1, 1, 12, 12), Pen("ink", 1.0), radius=2),))
    grid = Grid([[_shown(box, 14), _words(text)]], colWidths=[16, width - 16], hAlign="LEFT")
    grid.setStyle(
        [
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
            ("PADDING", (0, 0), (-1, -1), 1),
            ("LEFTPADDING", (0, 0), (0, 0), 0),
        ]
    )
    return grid


class _Line(NamedTuple):
    """A row, or as much of a long one as a page takes. cells: the lines of each. height: points."""

    cells: tuple[list[str], ...]
    height: float
    shaded: bool


def _lines(table: Table, shares: list[float], stop: Callable[[], bool]) -> Iterator[_Line]:
    """Break each row into lines that fit their columns."""
    breaker = _Breaker(REGULAR, SIZE)
    for number, row in enumerate(table.rows):
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


def _draw_rows(
    canvas: "Canvas", lines: "tuple[_Line, ...]", shares: list[float], top: float
) -> None:
    """Draw rows below a height, the first of them the headings. shares: the widths of columns."""
    from reportlab.lib.colors import HexColor

    width, under = sum(shares), top - lines[0].height
    text = canvas.beginText()
    text.setFillColor(HexColor(INK))
    canvas.setStrokeColor(HexColor(RULE))
    canvas.setFillColor(HexColor(PAPER))
    canvas.setLineWidth(0.4)
    for line in lines:
        text.setFont(BOLD if line is lines[0] else REGULAR, SIZE, LEADING)
        left = PADDING
        for cell, wide in zip(line.cells, shares, strict=True):
            if cell and cell[0]:
                text.setTextOrigin(left, top - SIZE - 1.5)
                text.textLines(cell, trim=0)
            left += wide
        top -= line.height
        if line.shaded:
            canvas.rect(0, top, width, line.height, stroke=0, fill=1)
        canvas.line(0, top, width, top)
    canvas.setStrokeColor(HexColor(COPPER))
    canvas.setLineWidth(1.2)
    canvas.line(0, under, width, under)
    canvas.drawText(text)


def _table(table: Table, width: float, stop: Callable[[], bool]) -> "Flowable":
    """Return the rows with the headings above them on each page."""
    from reportlab.platypus import Flowable

    shares = [width * share / sum(table.widths) for share in table.widths]
    heavy = _Breaker(BOLD, SIZE)
    heads = tuple(
        heavy.lines(text, wide - 2 * PADDING)
        for text, wide in zip(table.headings, shares, strict=True)
    )
    heading = _Line(heads, _height(heads), False)

    class Rows(Flowable):
        def __init__(self, lines: list[_Line]) -> None:
            super().__init__()
            self.lines = lines

        def wrap(self, _wide: float, _tall: float) -> tuple[float, float]:
            return width, heading.height + sum(line.height for line in self.lines)

        def split(self, _wide: float, tall: float) -> "list[Flowable]":
            left = tall - heading.height
            for index, line in enumerate(self.lines):
                left -= line.height
                if left < 0:
                    return [Rows(self.lines[:index]), Rows(self.lines[index:])] if index else []
            return [self]

        def draw(self) -> None:
            _draw_rows(self.canv, (heading, *self.lines), shares, self.wrap(0, 0)[1])

    return Rows(list(_lines(table, shares, stop)))
