"""A loom to build as it lies on the board: to scale, as thick as it is, its plugs from outside.

Colours at a plug are those of its wires, in the order of its cavities.
"""

import math
from collections.abc import Callable, Collection, Iterator, Mapping
from types import MappingProxyType
from typing import NamedTuple

from molvik.drawing.face import OUTLINE, UNKNOWN_PAINT
from molvik.drawing.labelling import Corners, beside, outline
from molvik.drawing.scene import (
    Box,
    Oval,
    Path,
    Pen,
    Point,
    Rect,
    Shape,
    Text,
    around,
    at_share,
    bounds,
)
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.loom import Loom, Node, Segment
from molvik.model.parts import Colour, Connector, EarthPoint, End, Side, Splice
from molvik.model.routing import LoomNode, Routing, Run
from molvik.netlist.network import Network
from molvik.netlist.placing import UNKNOWN_M, Placed
from molvik.reference.colours import PAINT
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.holding import holds
from molvik.routing.outlines import body_mm
from molvik.routing.passing import passes
from molvik.routing.ways import Way
from molvik.survey.drawing import NAME_PX, Label, LoomDrawing, Measure, plain_width
from molvik.survey.tree import LoomTree
from molvik.wording import counted

LEAST_PX = 2.0
"""The thinnest stretch is drawn so wide, px."""

LEAST_PLUG_PX = 11.0
"""The smallest plug is drawn so large, px."""

STRIPES = 16
"""So many wires are drawn at a plug in their colours."""

LENGTH_PX = 9

SHOWN = {
    "lengths": "How long each stretch is, mm",
    "wires": "How many wires each stretch has",
    "covers": "Which stretches are covered",
    "holds": "Clips, ties and what sits on a stretch",
    "zones": "What is hot, wet or moves beside a stretch",
}
"""What may be shown of stretches, or left out."""

USUAL = frozenset({"lengths", "covers", "holds"})
HALO_PX = 7.0
"""So much wider than a stretch is what marks what it passes, px."""

MOST_HOLDS = 40
"""Of a run that is held by more than so many, none is drawn: they would be a line."""

LENGTH_REACH_PX = 75.0
"""A length that has no room beside its stretch goes no farther off than this."""

FINE = 150
"""Of looms with more joints than this, plugs are drawn without their wires, and neither clips nor
lengths: at that scale nobody sees them, and they take a moment to draw.
"""


def tree_of(routing: Routing, loom: str, thick_mm: Mapping[str, float]) -> LoomTree:
    """Return a loom to build as a tree that can be laid out and drawn. thick_mm: of each run."""
    joints = [joint for joint in routing.joints if joint.loom == loom]
    own = {joint.code for joint in joints}
    return LoomTree(
        Loom(
            tuple(Node(joint.code, _named(joint), "found") for joint in joints),
            tuple(
                Segment(
                    run.code,
                    run.start,
                    run.finish,
                    run.length_m,
                    run.covering,
                    thick_mm.get(run.code) or None,
                )
                for run in routing.runs
                if run.start in own and run.finish in own
            ),
        )
    )


def _named(joint: LoomNode) -> str:
    """Return a joint's name after the code of what it carries, unless that says it already."""
    if len(joint.carries) != 1 or joint.carries[0] in joint.name.split():
        return joint.name
    return f"{joint.carries[0]} {joint.name}"


class Plug(NamedTuple):
    """A plug from outside, mm: wide, deep. colours: of its wires by cavity. up: how its top is
    told. lock, key: on which side they are, seen at the mating face, empty where that is not known.
    """

    wide_mm: float
    deep_mm: float
    colours: tuple[Colour | None, ...]
    up: str
    lock: Side = ""
    key: Side = ""


def plugs_of(job: Job, network: Network, loom: str) -> dict[str, Plug]:
    """Return the plug at each end of a loom that carries one."""
    found: dict[str, Plug] = {}
    for joint in job.routing.joints:
        if joint.loom != loom:
            continue
        for code in joint.carries:
            plug = job.connector(code)
            if plug is not None:
                found[joint.code] = Plug(
                    *body_mm(plug),
                    _colours(network, plug),
                    plug.up,
                    plug.lever,
                    plug.key,
                )
                break
    return found


def _colours(network: Network, plug: Connector) -> tuple[Colour | None, ...]:
    """Return the colour of the wire in each cavity, in their order."""
    found: list[Colour | None] = []
    for cavity in cavities(plug.grid):
        wires = network.wires_at.get(End(plug.code, cavity), [])
        found.append(wires[0].colour if wires else None)
    return tuple(found)


class RouteDrawing(LoomDrawing):
    """A loom to build. lit: the runs that belong to what is in hand. shown: of SHOWN; wires: how
    many each run has.
    """

    def __init__(
        self,
        routing: Routing,
        tree: LoomTree,
        placed: Placed,
        plugs: Mapping[str, Plug],
        loom: str,
        width: float,
        height: float,
        hand: str = "",
        lit: frozenset[str] = frozenset(),
        measure: Measure = plain_width,
        shown: frozenset[str] = USUAL,
        wires: Mapping[str, int] = MappingProxyType({}),
    ) -> None:
        super().__init__(tree, placed, width, height, hand, measure)
        self.shown, self.wires = shown, wires
        self._zones = {zone.name: zone for zone in routing.zones}
        self.routing, self.loom = routing, loom
        self.plugs, self._lit = plugs, lit
        self._joints = {joint.code: joint for joint in routing.joints}
        self._runs = {run.code: run for run in routing.runs}
        self._fine = len(placed.places) <= FINE

    def again(
        self,
        room: tuple[float, float],
        hand: str = "",
        lit: frozenset[str] = frozenset(),
        shown: frozenset[str] | None = None,
    ) -> "RouteDrawing":
        """Return the same loom in other room, with something else in hand, or shown."""
        return RouteDrawing(
            self.routing,
            self.tree,
            self.placed,
            self.plugs,
            self.loom,
            *room,
            hand,
            lit,
            self._measure,
            self.shown if shown is None else shown,
            self.wires,
        )

    def _held(self) -> set[str]:
        return set(self._lit)

    def thick_px(self, code: str) -> float:
        """Return how wide a run is drawn, px: as thick as it is."""
        thick = self.tree.segments[code].diameter_mm or 0.0
        return max(LEAST_PX, round(thick / 1000 * self.scale[0] * 4) / 4)

    def _stretches(self, only: Collection[str] | None = None) -> Iterator[Shape]:
        """Draw runs as thick as they are, what looks alike one after the other: it is painted at
        once.
        """
        held = self._held()
        outlines, insides, holds = list[Path](), list[Path](), list[Shape]()
        halos = list[Path]()
        for segment in self.tree.loom.segments:
            if only is not None and segment.code not in only:
                continue
            line, run = self.line(segment), self._runs[segment.code]
            wide = self.thick_px(segment.code)
            dash = () if run.length_m else (3 * wide + 2, 2 * wide + 2)
            if self._passed(run):
                halos.append(Path(line, Pen("live", wide + HALO_PX, (1.5, 4.0))))
            if segment.code in held:
                insides.append(Path(line, Pen("copper", wide + 2.4, dash, round=True)))
            else:
                outlines.append(Path(line, Pen("faint", wide + 1.2, dash, round=True)))
                if wide > LEAST_PX + 0.5:
                    covered = "covers" in self.shown and COVERINGS.get(run.covering, BARE).key
                    role = "line" if covered else "sheet"
                    insides.append(Path(line, Pen(role, wide - 0.4, dash, round=True)))
            holds += self._holds(run, line, wide)
        yield from sorted(halos, key=_by_pen)
        yield from sorted(outlines, key=_by_pen)
        yield from sorted(insides, key=_by_pen)
        yield from holds

    def _nodes(self) -> Iterator[Shape]:
        shapes = list(super()._nodes())
        yield from shapes if self._fine else sorted(shapes, key=_by_pen)

    def _holds(self, run: Run, line: tuple[Point, ...], wide: float) -> Iterator[Shape]:
        """Draw what sits on a run: clips and the like as squares, ties as ticks."""
        if "holds" not in self.shown:
            return
        if not self._fine or run.clips + run.ties + len(run.marks) > MOST_HOLDS:
            return
        for held in holds(run, run.length_m or UNKNOWN_M):
            point, angle = at_share(line, held.at_m / (run.length_m or UNKNOWN_M))
            if held.kind != "tie":
                half = max(2.6, wide / 2 + 1.2)
                yield Rect(around(point, half, half), Pen("ink", 1.0), "sheet")
            else:
                reach = max(3.2, wide / 2 + 1.6)
                across, down = -math.sin(angle) * reach, math.cos(angle) * reach
                yield Path(
                    (
                        Point(point.x - across, point.y - down),
                        Point(point.x + across, point.y + down),
                    ),
                    Pen("ink", 1.6),
                )

    def _node(self, code: str) -> Iterator[Shape]:
        joint, point = self._joints[code], self.node(code)
        held = code == self.hand
        pen = Pen("copper" if held else "ink", 2.2 if held else 1.2)
        if code in self.plugs:
            plug, scale = self.plugs[code], self.scale[0] / 1000
            plug = plug if self._fine else plug._replace(colours=())
            yield from plug_shapes(plug, point, self._leads(code), pen, scale, LEAST_PLUG_PX)
        elif joint.kind == "grommet":
            yield from _bars(point, self._leads(code), pen)
        elif joint.kind == "splice" or self._is(joint, Splice):
            yield _diamond(point, 5.0, pen)
        elif joint.kind == "clip":
            yield Rect(around(point, 3.5, 3.5), pen, "sheet")
        elif self._is(joint, EarthPoint):
            yield Oval(around(point, 5.0, 5.0), pen, "sheet")
            yield Oval(around(point, 1.8, 1.8), pen, "ink")
        elif self.tree.is_end(code):
            yield Rect(around(point, 4.5, 4.5), pen, "sheet", 2.0)
        else:
            yield Oval(around(point, 3.2, 3.2), pen, "sheet")

    def _is(self, joint: LoomNode, kind: type[Splice | EarthPoint]) -> bool:
        letter = "S" if kind is Splice else "E"
        return any(code.startswith(letter) for code in joint.carries)

    def _leads(self, code: str) -> float:
        """Return which way a joint points, away from what it hangs on, radians."""
        for _, run, _ in self.tree.at[code]:
            line = self.line(self.tree.segments[run])
            if self.tree.segments[run].start == code:
                line = line[::-1]
            before, end = line[-2], line[-1]
            return math.atan2(end.y - before.y, end.x - before.x)
        return 0.0

    def _labels(self) -> Iterator[Label]:
        """Yield the names, and the length of each run."""
        yield from super()._labels()
        if not self._fine:
            return
        for segment in self.tree.loom.segments:
            if not (segment.start and segment.finish):
                continue
            words = self._said(segment.code, segment.length_m)
            if not words:
                continue
            wide = self._measure(words, False) * LENGTH_PX / NAME_PX + 2
            text = Text(words, Box(0, 0, wide, 10), LENGTH_PX, "faint", whole=True)
            line, thick = self.line(segment), self.thick_px(segment.code) + 3
            spots = beside(line, thick, wide, 10, LENGTH_REACH_PX)
            yield Label(segment.code, text, spots, 1)

    def _said(self, code: str, length_m: float | None) -> str:
        """Return what stands beside a run: of what is shown."""
        said = []
        if "lengths" in self.shown:
            said.append(f"{length_m * 1000:.0f}" if length_m else "?")
        if "wires" in self.shown:
            said.append(counted(self.wires.get(code, 0), "wire"))
        said += self._passed(self._runs[code])
        return " · ".join(said)

    def _passed(self, run: Run) -> tuple[str, ...]:
        """Return what a run passes, where that is shown."""
        zone = self._zones.get(run.zone) if "zones" in self.shown else None
        return passes(zone) if zone is not None else ()

    def _solid(self) -> Iterator[Corners]:
        yield from super()._solid()
        if self._fine:
            for run in self.tree.loom.segments:
                if run.start and run.finish:
                    holds = self._holds(
                        self._runs[run.code], self.line(run), self.thick_px(run.code)
                    )
                    for shape in holds:
                        yield outline(bounds(shape))

    def _solid_node(self, code: str) -> Corners:
        if code not in self.plugs:
            return outline(around(self.node(code), 8, 8))
        plug = self.plugs[code]._replace(colours=())
        pen, scale = Pen("ink", 1.2), self.scale[0] / 1000
        shapes = plug_shapes(plug, self.node(code), self._leads(code), pen, scale, LEAST_PLUG_PX)
        return next(shape.points for shape in shapes if isinstance(shape, Path) and shape.closed)


def plug_shapes(
    plug: Plug, point: Point, angle: float, pen: Pen, scale: float, least: float = 0.0
) -> Iterator[Shape]:
    """Draw a plug from above: its wires enter behind, its mating face is the thick edge.

    angle: which way it points, radians. scale: units a millimetre; least: no smaller than this.
    """
    wide, deep = max(least, plug.wide_mm * scale), max(least * 0.7, plug.deep_mm * scale)

    def at(along: float, across: float) -> Point:
        return Point(
            point.x + along * math.cos(angle) - across * math.sin(angle),
            point.y + along * math.sin(angle) + across * math.cos(angle),
        )

    half = wide / 2
    corners = (at(0, -half), at(deep, -half), at(deep, half), at(0, half))
    yield Path(corners, pen, closed=True, fill="sheet")
    shown = [tint for tint in plug.colours if tint is not None][:STRIPES]
    for number, tint in enumerate(shown):
        across = -half + (number + 0.5) * wide / len(shown)
        yield from colour_line(
            (at(deep * 0.1, across), at(deep * 0.62, across)),
            tint,
            min(2.6, wide / len(shown) * 0.7),
        )
    yield Path((at(deep, -half), at(deep, half)), Pen(pen.role, pen.width + 1.4))
    yield from _lock_and_key(plug, wide, deep, at)


def _lock_and_key(
    plug: Plug, wide: float, deep: float, at: Callable[[float, float], Point]
) -> Iterator[Shape]:
    """Draw a plug's lock and key as seen from above; what is below is not seen. at: a place along
    it and across, from where its wires enter.
    """
    # Seen from behind, what is on the left of the mating face is on the right.
    side = {"left": 1.0, "right": -1.0}
    half = wide / 2

    def block(along: tuple[float, float], across: tuple[float, float]) -> tuple[Point, ...]:
        (a, b), (c, d) = along, across
        return at(a, c), at(b, c), at(b, d), at(a, d)

    if plug.lock == "top":
        reach = min(half * 0.5, deep * 0.3)
        bar = block((deep * 0.7, deep * 0.86), (-reach, reach))
        yield Path(bar, None, closed=True, fill="ink")
    elif plug.lock in side:
        out = side[plug.lock] * half
        tab = block((deep * 0.35, deep * 0.8), (out, out * (1 + min(0.2, 0.12 * deep / half))))
        yield Path(tab, None, closed=True, fill="ink")
    if plug.key in ("top", *side):
        across = 0.0 if plug.key == "top" else side[plug.key] * half * 0.8
        if plug.key == "top" and plug.lock == "top":
            across = half * 0.5
        reach = min(half * 0.2, deep * 0.12)
        notch = (at(deep, across - reach), at(deep * 0.88, across), at(deep, across + reach))
        yield Path(notch, Pen("ink", 0.4), closed=True, fill="sheet")


def colour_line(line: tuple[Point, ...], tint: Colour, wide: float) -> Iterator[Shape]:
    """Draw a line in a wire's colour, thinly outlined, with its tracer."""
    yield Path(line, Pen(OUTLINE, wide + 0.8))
    yield Path(line, Pen(PAINT.get(tint.base, UNKNOWN_PAINT), wide))
    if tint.tracer:
        yield Path(line, Pen(PAINT.get(tint.tracer, UNKNOWN_PAINT), wide * 0.35))


def _by_pen(shape: Shape) -> tuple[str, str, str, float]:
    """Return what sorts shapes that are painted alike beside each other."""
    pen = getattr(shape, "pen", None)
    kind = type(shape).__name__
    return kind, getattr(shape, "fill", ""), pen.role if pen else "", pen.width if pen else 0.0


def _diamond(point: Point, size: float, pen: Pen) -> Shape:
    corners = ((0, -size), (size, 0), (0, size), (-size, 0))
    return Path(
        tuple(Point(point.x + x, point.y + y) for x, y in corners), pen, closed=True, fill="sheet"
    )


def _bars(point: Point, angle: float, pen: Pen) -> Iterator[Shape]:
    """Draw a grommet: a wall that the loom goes through."""
    across, down = -math.sin(angle), math.cos(angle)
    for along in (-2.2, 2.2):
        middle = Point(point.x + along * math.cos(angle), point.y + along * math.sin(angle))
        yield Path(
            (
                Point(middle.x - across * 8, middle.y - down * 8),
                Point(middle.x + across * 8, middle.y + down * 8),
            ),
            pen,
        )


def lit_runs(hand: str, ways: Mapping[str, Way]) -> frozenset[str]:
    """Return the runs that belong to what is in hand: its own, or those of a wire's way."""
    way = ways.get(hand)
    return frozenset(step.run for step in way.steps) if way else frozenset({hand})
