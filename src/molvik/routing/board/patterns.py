"""How what lies over a loom, holds it and is near it is told apart on a board without colour."""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from molvik.drawing.scene import Oval, Path, Pen, Point, Rect, Shape, around, at_share
from molvik.model.routing import LoomNode
from molvik.routing.board.lay import Board, Laid
from molvik.routing.holding import Held, holds
from molvik.routing.passing import passes

FINE = Pen("faint", 0.25)
BOLD = Pen("ink", 1.0)

ZONE_MM = 5.0
"""So far beside a stretch stands what it passes, mm."""


class Pattern(NamedTuple):
    """Strokes across a covering: one every so many mm, leaning along it by so many times how thick
    it is. both: leaning the other way too. slit: a line along its middle. solid: blocks of so many
    mm in place of strokes; fill: of the whole.
    """

    every_mm: float = 0.0
    lean: float = 0.0
    both: bool = False
    slit: bool = False
    solid: float = 0.0
    fill: str = "sheet"


PATTERNS: dict[str, Pattern] = {
    "": Pattern(),
    "tape": Pattern(7.0, 0.8),
    "spot tape": Pattern(60.0, solid=10.0),
    "spiral": Pattern(18.0, 1.0),
    "braid": Pattern(7.0, 0.8, both=True),
    "heat-shrink": Pattern(fill="line"),
    "split tube": Pattern(4.0, slit=True),
    "tube": Pattern(12.0),
    "heat sleeve": Pattern(12.0, 0.8, both=True, fill="line"),
}
"""By the keys of ``reference.coverings``."""


def covered(path: tuple[Point, ...], thick_mm: float, covering: str) -> Iterator[Shape]:
    """Draw a stretch as thick as it is, with the pattern of what lies over it."""
    pattern = PATTERNS.get(covering, PATTERNS[""])
    yield Path(path, Pen("ink", thick_mm + 0.6, round=True))
    yield Path(path, Pen(pattern.fill, max(0.2, thick_mm - 0.2), round=True))
    if not covering:
        yield Path(path, Pen("faint", 0.3, (6.0, 2.0)))
    for begin, end in pairwise(path):
        yield from _strokes(begin, end, thick_mm, pattern)
    if pattern.slit:
        yield Path(path, Pen("ink", 0.25, (8.0, 1.5, 1.5, 1.5)))


def _strokes(begin: Point, end: Point, thick: float, pattern: Pattern) -> Iterator[Shape]:
    length = math.dist(begin, end)
    if not pattern.every_mm or not length:
        return
    along = Point((end.x - begin.x) / length, (end.y - begin.y) / length)

    def at(far: float, across: float) -> Point:
        return Point(
            begin.x + along.x * far - along.y * across, begin.y + along.y * far + along.x * across
        )

    half = thick / 2
    far = pattern.every_mm / 2
    while far < length:
        if pattern.solid:
            block = (far - pattern.solid / 2, far + pattern.solid / 2)
            if block[0] > 0 and block[1] < length:
                corners = tuple(
                    at(x, y)
                    for x, y in zip(
                        (block[0], block[1], block[1], block[0]),
                        (-half, -half, half, half),
                        strict=True,
                    )
                )
                yield Path(corners, None, closed=True, fill="faint")
        else:
            for sign in (1, -1) if pattern.both else (1,):
                lean = sign * pattern.lean * half
                if far - abs(lean) >= 0 and far + abs(lean) <= length:
                    yield Path((at(far - lean, -half), at(far + lean, half)), FINE)
        far += pattern.every_mm


def passing(laid: Laid) -> Iterator[Shape]:
    """Draw what a stretch passes on both sides of it, by marks of their own shapes."""
    kinds = passes(laid.zone)
    for begin, end in pairwise(laid.path):
        length = math.dist(begin, end)
        for index in range(int(length // 12)):
            if kinds:
                yield from _mark(
                    kinds[index % len(kinds)], begin, end, 6 + 12 * index, laid.thick_mm / 2
                )


def _mark(kind: str, begin: Point, end: Point, far: float, half: float) -> Iterator[Shape]:
    length = math.dist(begin, end)
    along = Point((end.x - begin.x) / length, (end.y - begin.y) / length)
    for side in (1, -1):
        off = side * (half + ZONE_MM / 2 + 0.8)
        middle = Point(
            begin.x + along.x * far - along.y * off, begin.y + along.y * far + along.x * off
        )
        yield from zone_mark(kind, middle)


def zone_mark(kind: str, middle: Point) -> Iterator[Shape]:
    """Draw the mark of what a stretch passes."""
    x, y = middle
    match kind:
        case "hot":
            yield Path((Point(x - 1.6, y + 2), Point(x + 1.6, y - 2)), Pen("stop", 0.6))
        case "wet":
            yield Oval(around(middle, 1.3, 1.3), Pen("ink", 0.4))
        case _:
            yield Path((Point(x + 1.2, y - 2), Point(x - 1.2, y), Point(x + 1.2, y + 2)), FINE)


def node_kind(board: Board, joint: LoomNode) -> str:
    """Return what is drawn at a node that carries no plug."""
    if joint.kind == "grommet":
        return "grommet"
    if joint.kind == "splice" or any(code.startswith("S") for code in joint.carries):
        return "splice"
    if any(code.startswith("E") for code in joint.carries):
        return "earth"
    return "end" if board.is_end(joint.code) else "breakout"


def node_mark(kind: str, point: Point, thick_mm: float) -> Iterator[Shape]:
    """Draw the mark of a node. thick_mm: of the loom there."""
    pen = Pen("ink", 0.6)
    match kind:
        case "grommet":
            yield Rect(around(point, 4, thick_mm / 2 + 3), pen, "faint", 1.5)
        case "splice":
            corners = ((0, -5), (5, 0), (0, 5), (-5, 0))
            diamond = tuple(Point(point.x + x, point.y + y) for x, y in corners)
            yield Path(diamond, pen, closed=True, fill="ink")
        case "earth":
            yield Oval(around(point, 5, 5), pen, "sheet")
            yield Oval(around(point, 1.8, 1.8), pen, "ink")
        case "end":
            yield Rect(around(point, 4, 4), pen, "sheet", 1.5)
        case _:
            yield Oval(around(point, 3, 3), pen, "sheet")


def hold(kind: str, point: Point, angle: float, thick_mm: float) -> Iterator[Shape]:
    """Draw what holds a loom, or sits on it, at a point of it; angle: which way it leads there."""
    along = Point(math.cos(angle), math.sin(angle))
    reach = thick_mm / 2 + 4

    def at(far: float, across: float) -> Point:
        return Point(
            point.x + along.x * far - along.y * across, point.y + along.y * far + along.x * across
        )

    match kind:
        case "clip":
            for far in (-1.6, 1.6):
                yield Path((at(far, -reach), at(far, reach)), BOLD)
        case "tie":
            yield Path((at(0, -reach), at(0, reach)), BOLD)
        case "bracket":
            corners = at(-3, -reach), at(3, -reach), at(3, reach), at(-3, reach)
            yield Path(corners, BOLD, closed=True)
        case "label":
            half = thick_mm / 2 + 1
            corners = at(-6, -half), at(6, -half), at(6, half), at(-6, half)
            yield Path(corners, Pen("ink", 0.4), closed=True, fill="sheet")
        case _:
            half = thick_mm / 2 + 0.5
            corners = at(-8, -half), at(8, -half), at(8, half), at(-8, half)
            yield Path(corners, Pen("ink", 0.4), closed=True, fill="line")


def held(laid: Laid) -> Iterator[tuple[Held, Point, float]]:
    """Yield what holds a stretch, or sits on it, with the place and the way of the loom there,
    radians.
    """
    total = sum(math.dist(a, b) for a, b in pairwise(laid.path)) or 1.0
    for one in holds(laid.run, total / 1000):
        point, angle = at_share(laid.path, one.at_m * 1000 / total)
        yield one, point, angle
