"""Labels of drawings, and where they may lie: so that none lies on another or on what is drawn.

Each label has places it may take, the best first: those about a point in the order that cartography
rates them (after E. Imhof, 1975, from memory), those along a line beside its middle; what has no
room beside its thing goes farther off, with a thin line to it. ``labelplacing`` chooses.
"""

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple

from molvik.drawing.scene import Box, Point, at_share

GAP = 1.5
"""What stays free round a label, in the drawing's unit."""


FAR = (14.0, 24.0, 36.0, 52.0, 72.0, 96.0, 126.0, 162.0, 205.0, 255.0, 315.0)
"""How far from its thing a label goes that has no room beside it."""

ROUND = 16
"""In so many directions."""


ALONG = (0.5, 0.36, 0.64, 0.24, 0.76, 0.14, 0.86)
"""Where on its line a label is tried, as shares of it."""


class Spot(NamedTuple):
    """A place for a label: its middle and its turn, deg. cost: how much worse than the best it is;
    leader: the line from the thing to it, where it does not lie beside it.
    """

    middle: Point
    turn: float = 0.0
    cost: float = 0.0
    leader: tuple[Point, Point] | None = None


class Wanted(NamedTuple):
    """A label that wants a place. key: what it is given back by; width, height: its size; spots:
    where it may lie. rank: those of a lower one choose first.
    """

    key: str
    width: float
    height: float
    spots: tuple[Spot, ...]
    rank: int = 0


class Put(NamedTuple):
    """A label that has its place. box: about its middle, before it is turned by so many deg."""

    key: str
    box: Box
    turn: float
    leader: tuple[Point, Point] | None


class Labelling(NamedTuple):
    """Labels in their places, by their keys, and the keys of those that found none."""

    put: dict[str, Put]
    left_out: tuple[str, ...]


Corners = tuple[Point, ...]
"""The corners of something that is drawn, in order."""


def band(line: Sequence[Point], thick: float) -> Iterator[Corners]:
    """Yield what a line covers that is drawn so thick, piece by piece."""
    half = max(thick, 1e-6) / 2
    for begin, end in pairwise(line):
        length = math.dist(begin, end)
        if not length:
            continue
        x, y = (end.x - begin.x) / length * half, (end.y - begin.y) / length * half
        yield (
            Point(begin.x - x - y, begin.y - y + x),
            Point(end.x + x - y, end.y + y + x),
            Point(end.x + x + y, end.y + y - x),
            Point(begin.x - x + y, begin.y - y - x),
        )


def outline(box: Box) -> Corners:
    """Return the corners of a box."""
    return (
        Point(box.x, box.y),
        Point(box.right, box.y),
        Point(box.right, box.bottom),
        Point(box.x, box.bottom),
    )


def corners(box: Box, turn: float) -> Corners:
    """Return the corners of a box that is turned about its middle, deg."""
    middle, angle = box.middle, math.radians(turn)
    cos, sin = math.cos(angle), math.sin(angle)
    return tuple(
        Point(
            middle.x + (p.x - middle.x) * cos - (p.y - middle.y) * sin,
            middle.y + (p.x - middle.x) * sin + (p.y - middle.y) * cos,
        )
        for p in outline(box)
    )


def about(
    point: Point, clear: float, width: float, height: float, reach: float = FAR[-1]
) -> tuple[Spot, ...]:
    """Return places about a point that keep so much clear of it; farther ones, up to a reach, with
    a line.
    """
    aside, above = clear + width / 2, clear + height / 2
    slant = clear * 0.75
    beside = (
        (0.0, above),
        (0.0, -above),
        (aside, 0.0),
        (-aside, 0.0),
        (slant + width / 2, -slant - height / 2),
        (slant + width / 2, slant + height / 2),
        (-slant - width / 2, -slant - height / 2),
        (-slant - width / 2, slant + height / 2),
        (width / 4, above),
        (-width / 4, above),
        (width / 4, -above),
        (-width / 4, -above),
    )
    found = [Spot(Point(point.x + x, point.y + y), 0.0, n) for n, (x, y) in enumerate(beside)]
    found += _afar(point, clear, width, height, reach)
    return tuple(found)


def _afar(point: Point, clear: float, width: float, height: float, reach: float) -> Iterator[Spot]:
    """Yield places farther from a point, ring by ring, each with its line."""
    for ring, away in enumerate(FAR):
        if away > reach:
            return
        for step in range(ROUND):
            angle = 2 * math.pi * step / ROUND
            cos, sin = math.cos(angle), math.sin(angle)
            middle = Point(
                point.x + cos * (clear + away + width / 2),
                point.y + sin * (clear + away + height / 2),
            )
            near = nearest(middle, width, height, point)
            # Straight up, down and aside before between them.
            cost = 20.0 + 6 * ring + (step % 4 > 0) + (step % 2 > 0)
            yield Spot(middle, 0.0, cost, (point, near))


def beside(
    line: tuple[Point, ...], thick: float, width: float, height: float, reach: float = FAR[-1]
) -> tuple[Spot, ...]:
    """Return places along a line that is drawn so thick, on both of its sides, turned with it so
    that it is read from below or from the right; then farther ones, level, with a line.
    """
    off, length = thick / 2 + GAP + height / 2, sum(map(math.dist, line, line[1:]))
    found: list[Spot] = []
    for number, share in enumerate(ALONG):
        point, angle = at_share(line, share)
        room = min(share, 1 - share) * 2 * length
        if room < width and number:
            continue
        turn = upright(math.degrees(angle))
        for side, sign in enumerate((-1, 1)):  # above it, as it is read, before below
            way = math.radians(turn)
            middle = Point(
                point.x - sign * off * math.sin(way), point.y + sign * off * math.cos(way)
            )
            cost = 2 * number + side + (6 if width > length else 0)
            found.append(Spot(middle, turn, cost))
    found += _afar(at_share(line, 0.5)[0], thick / 2, width, height, reach)
    return tuple(found)


def upright(turn: float) -> float:
    """Return a turn by which words run along a line and are not upside down, deg."""
    turn = (turn + 90) % 180 - 90
    return -90.0 if math.isclose(turn, 90, abs_tol=1e-6) else turn


def nearest(middle: Point, width: float, height: float, to: Point) -> Point:
    """Return the place of a box, by its middle, that is nearest to a point."""
    return Point(
        min(max(to.x, middle.x - width / 2), middle.x + width / 2),
        min(max(to.y, middle.y - height / 2), middle.y + height / 2),
    )
