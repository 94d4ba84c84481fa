"""A sheet: what goes to the bench and is handed over. What stands on it, in blocks; how a PDF, a
spreadsheet and the screen show each of them is their own matter.
"""

from collections.abc import Callable
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

    def said(self, say: Callable[[str], str]) -> "Sheet":
        """Return the sheet with every text said otherwise."""
        return self._replace(
            title=say(self.title), blocks=tuple(_said(block, say) for block in self.blocks)
        )

    @property
    def tables(self) -> tuple[Table, ...]:
        """Return its tables, which are what a spreadsheet takes."""
        return tuple(ticks for ticks in self.blocks if isinstance(ticks, Table))

    @property
    def row_count(self) -> int:
        """Return how many rows its tables have together."""
        return sum(len(table.rows) for table in self.tables)


def _said(block: Block, say: Callable[[str], str]) -> Block:
    match block:
        case Table():
            rows = tuple(tuple(say(cell) for cell in row) for row in block.rows)
            return block._replace(headings=tuple(map(say, block.headings)), rows=rows)
        case Drawing():
            return block._replace(title=say(block.title), scene=block.scene.said(say))
        case Paragraph():
            return Paragraph(say(block.text))
        case Ticks():
            return Ticks(tuple(map(say, block.items)))


def notes(*texts: str) -> tuple[Paragraph, ...]:
    """Return texts as paragraphs, without the empty ones."""
    return tuple(Paragraph(text) for text in texts if text)
