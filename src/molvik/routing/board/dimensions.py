"""What is measured on a board, from where to where, and how exactly it has to be met."""

import heapq
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence

from molvik.drawing.scene import Path, Pen, Point, Shape
from molvik.routing.board.lay import Board

THIN = Pen("faint", 0.25)
ARROW_MM = 4.0

FROM_WHAT = "mm, from the rear face of plugs to the middle of nodes"
"""What lengths are measured between, as the legend says it."""


def tolerance_mm(length_mm: float, classes: Sequence[tuple[float, float]]) -> float:
    """Return how far a length may be off. classes: up to which length, mm, and how far, mm, the
    shortest first; the last holds for all that is longer.
    """
    return next((off for up_to, off in classes if length_mm <= up_to), classes[-1][1])


def length_text(length_mm: float | None, classes: Sequence[tuple[float, float]]) -> str:
    """Write a length with its tolerance, mm."""
    if length_mm is None:
        return "length ?"
    return f"{length_mm:.0f} ±{tolerance_mm(length_mm, classes):g}"


def running_mm(board: Board) -> dict[str, float]:
    """Return how far each joint is from the datum along the loom, mm; those that a stretch of
    unknown length parts from it are left out.
    """
    near: dict[str, list[tuple[str, float]]] = defaultdict(list)
    for laid in board.runs:
        if laid.length_mm is not None:
            near[laid.run.start].append((laid.run.finish, laid.length_mm))
            near[laid.run.finish].append((laid.run.start, laid.length_mm))
    found: dict[str, float] = {}
    waiting = [(0.0, board.datum)]
    while waiting:
        far, here = heapq.heappop(waiting)
        if here not in found:
            found[here] = far
            for there, length in near[here]:
                heapq.heappush(waiting, (far + length, there))
    return found


def dimension_line(begin: Point, end: Point, middle: Point, gap_mm: float) -> Iterator[Shape]:
    """Draw a dimension of what lies between two points. middle: of the line that says it, beside
    them; gap_mm: what its words take out of it.
    """
    length = math.dist(begin, end)
    along = Point((end.x - begin.x) / length, (end.y - begin.y) / length)
    half = Point((begin.x + end.x) / 2, (begin.y + end.y) / 2)
    off = Point(middle.x - half.x, middle.y - half.y)

    def at(share: float) -> Point:
        return Point(
            middle.x + along.x * length * (share - 0.5), middle.y + along.y * length * (share - 0.5)
        )

    for point, tip in ((begin, at(0)), (end, at(1))):
        beyond = Point(tip.x + off.x * 0.12, tip.y + off.y * 0.12)
        yield Path((point, beyond), THIN)
    share = min(0.5, gap_mm / 2 / length)
    for tip, stop, way in ((at(0), at(0.5 - share), 1), (at(1), at(0.5 + share), -1)):
        yield Path((tip, stop), THIN)
        back = Point(tip.x + way * along.x * ARROW_MM, tip.y + way * along.y * ARROW_MM)
        side = Point(-along.y * ARROW_MM / 6, along.x * ARROW_MM / 6)
        arrow = (
            tip,
            Point(back.x + side.x, back.y + side.y),
            Point(back.x - side.x, back.y - side.y),
        )
        yield Path(arrow, None, closed=True, fill="faint")
