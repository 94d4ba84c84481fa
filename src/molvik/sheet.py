"""A sheet: what goes to the bench and is handed over. What stands on it, in blocks; how a PDF, a
spreadsheet and the screen show each of them is their own matter.
"""

from typing import NamedTuple

from molvik.drawing.scene import Scene


class Table(NamedTuple):
    """Rows under headings. widths: each column's share of the page."""

    headings: tuple[str, ...]
    widths: tuple[float, ...]
    rows: tuple[tuple[str, ...], ...]


class Drawing(NamedTuple):
    """A drawing with words above it."""

    title: str
    scene: Scene


class Paragraph(NamedTuple):
    """Words to read."""

    text: str


class Ticks(NamedTuple):
    """What is to be done or seen before the rest, each with a box to tick on paper."""

    items: tuple[str, ...]


Block = Table | Drawing | Paragraph | Ticks


class Sheet(NamedTuple):
    """A sheet to print: its blocks from the top. name: of its file."""

    name: str
    title: str
    blocks: tuple[Block, ...]

    @property
    def tables(self) -> tuple[Table, ...]:
        """Return its tables, which are what a spreadsheet takes."""
        return tuple(ticks for ticks in self.blocks if isinstance(ticks, Table))

    @property
    def row_count(self) -> int:
        """Return how many rows its tables have together."""
        return sum(len(table.rows) for table in self.tables)


def notes(*texts: str) -> tuple[Paragraph, ...]:
    """Return texts as paragraphs, without the empty ones."""
    return tuple(Paragraph(text) for text in texts if text)
