"""Where everything of a loom lies on the board, in mm from the upper left."""

import math
from collections.abc import Mapping
from typing import NamedTuple

from molvik.drawing.scene import Point
from molvik.model.job import Job
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone
from molvik.netlist.placing import Body, Placed, place
from molvik.routing.drawing import Plug
from molvik.routing.inthevehicle import lies_of
from molvik.routing.outlines import body_mm
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
    points, radians; datum: the joint that running dimensions begin at. tight: the joints whose plug
    has no room of its own; too_large: it does not go on the board whose size is typed; in_vehicle:
    it lies as in the vehicle, so places have their names.
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
    tight: frozenset[str] = frozenset()
    too_large: bool = False
    in_vehicle: bool = False

    def is_end(self, joint: str) -> bool:
        """Return whether at most one stretch ends at a joint."""
        return sum(joint in (laid.run.start, laid.run.finish) for laid in self.runs) <= 1


EDGE_MM = 40.0
"""What a loom leaves free along the edge of a board whose size is typed, on each side."""


LEGEND_MM = 99.0
"""What legend, ruler and title block take of it at its foot."""


def placed_on_board(job: Job, code: str) -> Placed:
    """Return how a loom lies on its board, with its plugs; as in the vehicle where it is to be
    drawn so.
    """
    loom = next(one for one in job.routing.looms if one.code == code)
    plugs: dict[str, Body] = {}
    for joint in job.routing.joints:
        for part in joint.carries if joint.loom == code else ():
            plug = job.connector(part)
            if plug is not None:
                wide, deep = body_mm(plug)
                plugs[joint.code] = wide / 1000, deep / 1000
                break
    lies = lies_of(job, code) if loom.drawn == "as in the vehicle" else None
    return place(job.routing, code, job.board, inner_m(loom), plugs, lies)


def inner_m(loom: NewLoom) -> tuple[float, float] | None:
    """Return what of a board of typed size a loom may take, wide and high, m."""
    if loom.room_m is None:
        return None
    wide, high = loom.room_m
    edges = 2 * EDGE_MM / 1000
    return max(wide / 2, wide - edges), max(high / 2, high - edges - LEGEND_MM / 1000)


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
    takes = placed.bounds
    wide_mm, high_mm = takes.width * 1000 + 2 * MARGIN_MM, takes.height * 1000 + 2 * MARGIN_MM
    room = inner_m(made)
    if made.room_m is not None and room is not None and placed.fits(room):
        wide_mm, high_mm = made.room_m[0] * 1000, made.room_m[1] * 1000 - LEGEND_MM
    left_mm = (wide_mm - takes.width * 1000) / 2
    top_mm = (high_mm - takes.height * 1000) / 2

    def full(point: Point) -> Point:
        return Point(left_mm + (point.x - takes.x) * 1000, top_mm + (point.y - takes.y) * 1000)

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
        wide_mm,
        high_mm,
        runs,
        joints,
        {code: full(point) for code, point in placed.places.items()},
        {code: (plug, _points(code, routing, placed)) for code, plug in plugs.items()},
        _datum(made.datum, joints, placed),
        placed.tight,
        room is not None and not placed.fits(room),
        made.drawn == "as in the vehicle",
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
