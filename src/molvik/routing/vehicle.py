"""A loom to build by the places it passes: a column for each zone, in place of angles and lengths.

Said of a place is what matters there: its air, what is hot in it, what comes off to reach it.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator

from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, along
from molvik.model.routing import LoomNode, Routing, Zone
from molvik.netlist.placing import Placed
from molvik.reference.places import PLACES
from molvik.survey.drawing import Measure, plain_width

HEAD, ROW, EDGE = 40.0, 15.0, 14.0
NAME_PX, HEAD_PX = 11, 12
NAMED = 118.0
"""So much of a column is kept for names, px."""


def vehicle_scene(
    routing: Routing,
    loom: str,
    placed: Placed,
    width: float,
    height: float,
    only: frozenset[str] | None = None,
    measure: Measure = plain_width,
) -> Scene | None:
    """Return a loom in columns of places; None without joints. only: nothing but these runs, to lie
    over the whole.
    """
    joints = {joint.code: joint for joint in routing.joints if joint.loom == loom}
    if not joints:
        return None
    plan = _Plan(routing, joints, placed)
    rows = max(1, plan.leaves)
    step = max(ROW, (height - HEAD - 2 * EDGE) / rows)
    high = max(height, HEAD + 2 * EDGE + rows * step)
    wide = width / len(plan.zones)

    def spot(code: str) -> Point:
        column, depth, row = plan.column[code], plan.depth[code], plan.row[code]
        room = max(20.0, wide - NAMED - 2 * EDGE)
        x = column * wide + EDGE + room * depth / max(1, plan.deepest[column])
        return Point(x, HEAD + EDGE + (row + 0.5) * step)

    def line(below: str) -> tuple[Point, ...]:
        begin, end = spot(plan.hangs[below][0]), spot(below)
        # Back to an earlier place it goes round the front.
        x = begin.x if end.x > begin.x + 4 else begin.x + 6
        return begin, Point(x, end.y), end

    if only is not None:
        held = [below for below, (_, run) in plan.hangs.items() if run in only]
        lit = [Path(line(below), Pen("copper", 3.0)) for below in held]
        ends = {code for below in held for code in (below, plan.hangs[below][0])}
        return Scene(width, high, (*lit, *(_mark(spot(code), plan.below[code]) for code in ends)))
    shapes: list[Shape] = list(_columns(routing, plan.zones, wide, high))
    shapes += [Path(line(below), Pen("faint", 1.8)) for below in plan.hangs]
    areas: list[Area] = []
    for code, joint in joints.items():
        point = spot(code)
        shapes.append(_mark(point, plan.below[code]))
        areas.append(Area(Box(point.x - 7, point.y - 7, 14, 14), code, joint.name))
        above = plan.hangs.get(code, ("",))[0]
        if not plan.below[code] or plan.column[code] != plan.column.get(above, -1):
            words = " ".join([*joint.carries[:1], joint.name])
            room = (plan.column[code] + 1) * wide - point.x - 12
            box = Box(point.x + 8, point.y - 7, min(room, measure(words, False) + 6), 14)
            ground = "side" if plan.column[code] % 2 else "sheet"
            shapes += [Rect(box, None, ground), Text(words, box, NAME_PX, "ink", "left")]
    lines = [along(run, run, *line(below)) for below, (_, run) in plan.hangs.items()]
    return Scene(width, high, tuple(shapes), (*areas, *lines))


def _mark(point: Point, below: list[str]) -> Shape:
    box, pen = Box(point.x - 4, point.y - 4, 8, 8), Pen("ink", 1.2)
    return Oval(box, pen, "sheet") if below else Rect(box, pen, "sheet", 2.0)


class _Plan:
    """In which column and row each joint stands."""

    def __init__(self, routing: Routing, joints: dict[str, LoomNode], placed: Placed) -> None:
        zone_of = {run.code: run.zone for run in routing.runs}
        self.hangs = {code: by for code, by in placed.hangs.items() if code in joints}
        self.below: dict[str, list[str]] = defaultdict(list)
        for code, (above, _) in self.hangs.items():
            self.below[above].append(code)
        roots = [code for code in joints if code not in self.hangs]
        order = [code for root in roots for code in self._down(root)]
        zone: dict[str, str] = {}
        for code in order:
            if code in self.hangs:
                zone[code] = zone_of[self.hangs[code][1]]
            else:
                zone[code] = zone_of[self.hangs[self.below[code][0]][1]] if self.below[code] else ""
        self.zones = tuple(dict.fromkeys(zone[code] for code in order))
        self.column = {code: self.zones.index(zone[code]) for code in order}
        self.depth: dict[str, int] = {}
        for code in order:
            above = self.hangs.get(code, ("",))[0]
            same = above in self.column and self.column[above] == self.column[code]
            self.depth[code] = self.depth[above] + 1 if same else 0
        self.deepest: dict[int, int] = defaultdict(int)
        for code in order:
            column = self.column[code]
            self.deepest[column] = max(self.deepest[column], self.depth[code])
        self.row: dict[str, float] = {}
        self.leaves = 0
        for code in reversed(order):
            if code in roots:  # it may be an end, with a name: it has a row of its own
                self.row[code] = self.leaves
                self.leaves += 1
                continue
            rows = [self.row[below] for below in self.below[code]]
            if rows:
                self.row[code] = (min(rows) + max(rows)) / 2
            else:
                self.row[code] = self.leaves
                self.leaves += 1

    def _down(self, root: str) -> Iterator[str]:
        waiting = [root]
        while waiting:
            here = waiting.pop()
            yield here
            waiting += self.below[here]


def _columns(routing: Routing, zones: tuple[str, ...], wide: float, high: float) -> Iterator[Shape]:
    for number, name in enumerate(zones):
        zone = routing.zone(name)
        if number % 2:
            yield Rect(Box(number * wide, 0, wide, high), None, "side")
        head = Box(number * wide + EDGE, 4, wide - 2 * EDGE, 16)
        yield Text(name or "no zone typed", head, HEAD_PX, "ink", "left", bold=True)
        words = ", ".join(_said(zone))
        role = "stop" if zone.hot_c is not None else "faint"
        yield Text(words, head._replace(y=21, height=14), NAME_PX, role, "left")


def _said(zone: Zone) -> Iterator[str]:
    """Say what matters in a place, what hurts first."""
    said: tuple[tuple[bool, Callable[[], str]], ...] = (
        (zone.hot_c is not None, lambda: f"{zone.hot_c:g} °C at {zone.distance_mm or 0:.0f} mm"),
        (zone.shielded, lambda: "shielded"),
        (zone.moves, lambda: "moves"),
        (zone.wet, lambda: "wet"),
        (bool(zone.access), lambda: f"{zone.access}, {zone.access_min:.0f} min"),
        (bool(zone.place), lambda: PLACES[zone.place].name if zone.place in PLACES else zone.place),
    )
    yield from (words() for holds, words in said if holds)
