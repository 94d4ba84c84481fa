"""Where everything of a loom lies on the board, in mm from the upper left."""

import math
from collections.abc import Mapping
from typing import NamedTuple

from molvik.drawing.scene import Point
from molvik.model.routing import LoomNode, Routing, Run, Zone
from molvik.netlist.placing import Placed
from molvik.routing.drawing import Plug
from molvik.routing.sections import Section

MARGIN_MM = 70.0
"""What stays free round a loom, for names and tables."""

LEAST_MM = 2.0
"""A stretch in which nothing with a size lies is drawn so thick."""


class Laid(NamedTuple):
    """A stretch on the board. path: its corners; thick_mm: over all; run: as the job has it; zone:
    what it passes.
    """

    run: Run
    path: tuple[Point, ...]
    thick_mm: float
    zone: Zone

    @property
    def length_mm(self) -> float | None:
        """How long it is as measured, None where it is not."""
        return None if self.run.length_m is None else self.run.length_m * 1000


class Board(NamedTuple):
    """A loom on the board. loom: its code; width_mm, height_mm: what it takes with its margin;
    places: of each joint; plugs: from outside, by the joints they sit at, each with which way it
    points, radians; datum: the joint that running dimensions begin at.
    """

    loom: str
    name: str
    width_mm: float
    height_mm: float
    runs: tuple[Laid, ...]
    joints: tuple[LoomNode, ...]
    places: dict[str, Point]
    plugs: dict[str, tuple[Plug, float]]
    datum: str

    def is_end(self, joint: str) -> bool:
        """Return whether at most one stretch ends at a joint."""
        return sum(joint in (laid.run.start, laid.run.finish) for laid in self.runs) <= 1


def lay_on_board(
    routing: Routing,
    loom: str,
    sections: Mapping[str, Section],
    placed: Placed | None,
    plugs: Mapping[str, Plug],
) -> Board:
    """Return a loom at full size. Raises ValueError where there is nothing to lay out."""
    made = next((one for one in routing.looms if one.code == loom), None)
    joints = tuple(joint for joint in routing.joints if joint.loom == loom)
    if made is None or not joints or placed is None:
        raise ValueError(f"There is no loom {loom or '?'} with ends to lay on a board.")
    corners = [*placed.places.values(), *(p for path in placed.paths.values() for p in path)]
    left, top = min(p.x for p in corners), min(p.y for p in corners)

    def full(point: Point) -> Point:
        return Point(MARGIN_MM + (point.x - left) * 1000, MARGIN_MM + (point.y - top) * 1000)

    runs = tuple(
        Laid(
            run,
            tuple(map(full, placed.paths[run.code])),
            max(LEAST_MM, sections[run.code].over_mm),
            routing.zone(run.zone),
        )
        for run in routing.runs
        if run.code in placed.paths
    )
    return Board(
        loom,
        made.name,
        max(full(point).x for point in corners) + MARGIN_MM,
        max(full(point).y for point in corners) + MARGIN_MM,
        runs,
        joints,
        {code: full(point) for code, point in placed.places.items()},
        {code: (plug, _points(code, routing, placed)) for code, plug in plugs.items()},
        _datum(made.datum, joints, placed),
    )


def _datum(wanted: str, joints: tuple[LoomNode, ...], placed: Placed) -> str:
    """Return where running dimensions begin: where the user says, else at the end of the longest
    way, from which everything hangs.
    """
    codes = [joint.code for joint in joints]
    if wanted in codes:
        return wanted
    return next((code for code in codes if code not in placed.hangs), codes[0])


def _points(joint: str, routing: Routing, placed: Placed) -> float:
    """Return which way a joint points, away from what it hangs on, radians."""
    for run in routing.runs:
        path = placed.paths.get(run.code, ())
        if path and joint in (run.start, run.finish):
            end, before = (path[-1], path[-2]) if run.finish == joint else (path[0], path[1])
            return math.atan2(end.y - before.y, end.x - before.x)
    return 0.0
