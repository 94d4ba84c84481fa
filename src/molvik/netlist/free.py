"""What lies where on the board: whether another stretch would lie over it, or too near."""

import math
from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise

from molvik.drawing.scene import Point

CLEAR_M = 0.02
"""So far apart stretches lie, m."""

FAN_DEG = 14.0
"""Stretches that leave one joint lie at least this far apart, deg."""

SQUARE_M = 0.15

Piece = tuple[Point, Point, str, str]


class Free:
    """What lies where, by the squares it passes. A straight part knows the joints it ends at."""

    def __init__(self) -> None:
        self._in: dict[tuple[int, int], list[Piece]] = defaultdict(list)

    def add(self, path: tuple[Point, ...], here: str, there: str) -> None:
        """Lay a path between two joints down."""
        for number, (begin, end) in enumerate(pairwise(path)):
            first = here if number == 0 else ""
            last = there if number == len(path) - 2 else ""
            for square in _squares(begin, end):
                self._in[square].append((begin, end, first, last))

    def hits(
        self, path: tuple[Point, ...], here: str, most: float = 1, clear_m: float = CLEAR_M
    ) -> int:
        """Return how many straight parts a path from a joint would lie over, or nearer than is
        clear; no more than matter are counted. clear_m: at most CLEAR_M.
        """
        found = 0
        for number, (begin, end) in enumerate(pairwise(path)):
            seen: set[int] = set()
            for square in _squares(begin, end):
                for piece in self._in.get(square, ()):
                    if id(piece) in seen:
                        continue
                    seen.add(id(piece))
                    found += self._hit(begin, end, here if number == 0 else "", piece, clear_m)
                    if found >= most:
                        return found
        return found

    def _hit(self, begin: Point, end: Point, here: str, piece: Piece, clear_m: float) -> bool:
        other, far, first, last = piece
        if here and here in (first, last):
            if here == last:
                other, far = far, other
            return _between(begin, end, other, far) < FAN_DEG
        return apart(begin, end, other, far) < clear_m


def _squares(begin: Point, end: Point) -> Iterator[tuple[int, int]]:
    """Yield the squares within reach of a straight part."""
    count = max(1, math.ceil(math.dist(begin, end) / SQUARE_M))
    seen: set[tuple[int, int]] = set()
    for step in range(count + 1):
        x = begin.x + (end.x - begin.x) * step / count
        y = begin.y + (end.y - begin.y) * step / count
        for across in (-CLEAR_M, CLEAR_M):
            for down in (-CLEAR_M, CLEAR_M):
                square = math.floor((x + across) / SQUARE_M), math.floor((y + down) / SQUARE_M)
                if square not in seen:
                    seen.add(square)
                    yield square


def _between(begin: Point, end: Point, other: Point, far: Point) -> float:
    """Return the angle between two straight parts that begin at one place, deg."""
    one = math.atan2(end.y - begin.y, end.x - begin.x)
    two = math.atan2(far.y - other.y, far.x - other.x)
    turn = abs(math.degrees(one - two)) % 360
    return min(turn, 360 - turn)


def apart(a: Point, b: Point, c: Point, d: Point) -> float:
    """Return how far two straight parts are apart, in metres as drawn; 0 where they cross."""
    if _crosses(a, b, c, d):
        return 0.0
    return min(_away(a, c, d), _away(b, c, d), _away(c, a, b), _away(d, a, b))


def _crosses(a: Point, b: Point, c: Point, d: Point) -> bool:
    def side(p: Point, q: Point, r: Point) -> float:
        return (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x)

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0


def _away(point: Point, begin: Point, end: Point) -> float:
    across, down = end.x - begin.x, end.y - begin.y
    square = across * across + down * down
    share = ((point.x - begin.x) * across + (point.y - begin.y) * down) / square if square else 0.0
    share = min(1.0, max(0.0, share))
    return math.hypot(begin.x + across * share - point.x, begin.y + down * share - point.y)
