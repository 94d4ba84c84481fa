"""A page of a diagram as a sheet of paper: A3 across, its frame with zones (ISO 5457: fields of 50
mm), its title block (ISO 7200) below on the right. From memory.
"""

from typing import NamedTuple

from molvik.circuits.diagram.tracks import Diagram, Page
from molvik.drawing.scene import Box, Path, Pen, Point, Rect, Scene, Shape, Text, moved

WIDE_MM, HIGH_MM = 420.0, 297.0
"""A3 (ISO 216)."""

LEFT_MM, EDGE_MM, FIELD_MM = 20.0, 10.0, 50.0
BLOCK_MM, BLOCK_HIGH_MM = 180.0, 22.0
MOST_SCALE = 0.29
"""Millimetres a pixel at most: letters of 9 px are 7.4 pt then."""

FRAME, FINE = Pen("ink", 0.7), Pen("ink", 0.25)


class Heading(NamedTuple):
    """What a title block says of a job: its title, what it is of, the day, who drew it."""

    title: str
    subtitle: str
    on: str
    by: str


def sheets(made: Diagram, heading: Heading) -> tuple[Scene, ...]:
    """Return every page as a sheet of paper, in millimetres."""
    return tuple(sheet(page, len(made.pages), heading) for page in made.pages)


def sheet(page: Page, many: int, heading: Heading) -> Scene:
    """Return a page as a sheet of paper, in millimetres. many: so many pages there are."""
    inner = Box(LEFT_MM, EDGE_MM, WIDE_MM - LEFT_MM - EDGE_MM, HIGH_MM - 2 * EDGE_MM)
    room = Box(inner.x + 4, inner.y + 4, inner.width - 8, inner.height - BLOCK_HIGH_MM - 10)
    scale = min(MOST_SCALE, room.width / page.scene.width, room.height / page.scene.height)
    by = Point(room.x, room.y + (room.height - page.scene.height * scale) / 2)
    shapes: list[Shape] = [moved(shape, scale, by) for shape in page.scene.shapes]
    shapes += _frame(inner)
    shapes += _block(inner, page, many, heading)
    return Scene(WIDE_MM, HIGH_MM, tuple(shapes))


def _frame(inner: Box) -> list[Shape]:
    """Return the frame, its zones numbered along it and lettered down it."""
    shapes: list[Shape] = [Rect(inner, FRAME)]
    for number in range(int(inner.width // FIELD_MM) + 1):
        x = inner.x + number * FIELD_MM
        right = min(x + FIELD_MM, inner.right)
        for y in (inner.y - 5, inner.bottom):
            shapes.append(Path((Point(x, y), Point(x, y + 5)), FINE))
            if right - x > 8:
                box = Box(x, y, right - x, 5)
                shapes.append(Text(str(number + 1), box, 3.0, "ink", whole=True))
    for number in range(int(inner.height // FIELD_MM) + 1):
        y = inner.y + number * FIELD_MM
        bottom = min(y + FIELD_MM, inner.bottom)
        for x in (inner.x - 5, inner.right):
            shapes.append(Path((Point(x, y), Point(x + 5, y)), FINE))
            if bottom - y > 8:
                letter = "ABCDEFGH"[number]
                shapes.append(Text(letter, Box(x, y, 5, bottom - y), 3.0, "ink", whole=True))
    return shapes


def _block(inner: Box, page: Page, many: int, heading: Heading) -> list[Shape]:
    box = Box(inner.right - BLOCK_MM, inner.bottom - BLOCK_HIGH_MM, BLOCK_MM, BLOCK_HIGH_MM)
    shapes: list[Shape] = [Rect(box, FRAME)]
    half = box.y + box.height / 2
    shapes.append(Path((Point(box.x, half), Point(box.right, half)), FINE))
    cells = (
        ("Title", heading.title, 0.0, 0, 0.6),
        ("What it is", f"Current tracks {page.first} to {page.last}", 0.6, 0, 0.4),
        ("Job", heading.subtitle, 0.0, 1, 0.4),
        ("Date", heading.on, 0.4, 1, 0.2),
        ("Drawn by", heading.by, 0.6, 1, 0.2),
        ("Sheet", f"{page.number} of {many}", 0.8, 1, 0.2),
    )
    for name, words, begin, row, wide in cells:
        x, y = box.x + begin * box.width, box.y + row * box.height / 2
        if begin:
            shapes.append(Path((Point(x, y), Point(x, y + box.height / 2)), FINE))
        shapes.append(Text(name, Box(x + 1.5, y + 0.6, 40, 3), 2.2, "faint", "left"))
        at = Box(x + 1.5, y + 4, wide * box.width - 3, 6)
        shapes.append(Text(words, at, 3.6, "ink", "left", bold=name == "Title"))
    return shapes
