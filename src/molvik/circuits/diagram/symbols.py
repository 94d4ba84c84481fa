"""Symbols of a diagram, each about the middle of its track. Drawn by us from the descriptions of
IEC 60617: fuse, coil of a relay, contact, lamp, motor, diode, resistor, battery.
"""

from collections.abc import Iterator

from molvik.circuits.diagram.pieces import Form
from molvik.drawing.scene import Box, Oval, Path, Pen, Point, Rect, Shape, Text, around

HALF = 24.0
"""Half the height of a symbol: where its upper and lower ends are, px."""

INK = Pen("ink", 1.6)
FINE = Pen("ink", 1.2)
NET = Pen("ink", 1.8)
"""Of the symbols themselves, of their leads, and of what is a wire."""


def symbol(form: Form, x: float, y: float, *, closed: bool = False) -> Iterator[Shape]:
    """Yield the shapes of a form about a middle, with its leads to both ends. closed: a contact."""
    top, foot = Point(x, y - HALF), Point(x, y + HALF)
    match form:
        case "fuse":
            yield Path((top, foot), FINE)
            yield Rect(around(Point(x, y), 6, 14), INK, "", 2)
        case "coil":
            yield from _leads(x, y, 9)
            box = around(Point(x, y), 15, 9)
            yield Rect(box, INK)
            yield Path((Point(box.x, box.bottom), Point(box.right, box.y)), FINE)
        case "contact":
            yield Path((top, Point(x, y - 12)), FINE)
            yield Path((Point(x, y + 12), foot), FINE)
            yield Path((Point(x, y + 12), Point(x if closed else x - 11, y - 12)), INK)
        case "lamp":
            yield from _leads(x, y, 12)
            yield Oval(around(Point(x, y), 12, 12), INK)
            for way in (1, -1):
                yield Path((Point(x - 8.5, y - 8.5 * way), Point(x + 8.5, y + 8.5 * way)), FINE)
        case "motor":
            yield from _leads(x, y, 13)
            yield Oval(around(Point(x, y), 13, 13), INK)
            yield Text("M", around(Point(x, y), 12, 8), 12, "ink", bold=True, whole=True)
        case "diode" | "led":
            yield from _leads(x, y, 9)
            corners = Point(x - 9, y - 9), Point(x + 9, y - 9), Point(x, y + 9)
            yield Path(corners, INK, closed=True)
            yield Path((Point(x - 9, y + 9), Point(x + 9, y + 9)), INK)
            for shift in (0, 5) if form == "led" else ():  # the light that it gives
                tip = Point(x - 19, y - 9 + shift)
                yield Path((Point(x - 11, y - 1 + shift), tip), FINE)
                yield Path((Point(tip.x + 4, tip.y), tip, Point(tip.x, tip.y + 4)), FINE)
        case "resistor":
            yield from _leads(x, y, 14)
            yield Rect(around(Point(x, y), 6, 14), INK)
        case "battery":
            yield from _leads(x, y, 4)
            yield Path((Point(x - 14, y - 4), Point(x + 14, y - 4)), INK)
            yield Path((Point(x - 7, y + 4), Point(x + 7, y + 4)), Pen("ink", 3.0))
        case "box":
            yield from _leads(x, y, 15)
            yield Rect(around(Point(x, y), 15, 15), INK, "", 2)
        case "wire":
            yield Path((top, foot), NET)
        case "plug":
            yield Path((top, Point(x, y - 4)), FINE)
            yield Rect(Box(x - 6, y - 4, 12, 12), INK, "", 2)
        case "loose":
            yield Path((top, Point(x, y - 4)), FINE)
            yield Path((Point(x - 7, y - 4), Point(x + 7, y - 4)), INK)
        case "pin":
            pass  # its box is drawn for all pins in a row


def _leads(x: float, y: float, half: float) -> Iterator[Shape]:
    """Yield the lines from a body of half a height to both ends."""
    yield Path((Point(x, y - HALF), Point(x, y - half)), FINE)
    yield Path((Point(x, y + half), Point(x, y + HALF)), FINE)
