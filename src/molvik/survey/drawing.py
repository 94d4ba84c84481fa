"""The loom as found as a drawing: stretches to scale, ends by name, faults, what is in hand."""

from collections.abc import Callable, Collection, Iterator
from typing import NamedTuple

from molvik.drawing.labelling import (
    FAR,
    Corners,
    Labelling,
    Spot,
    Wanted,
    about,
    band,
    outline,
)
from molvik.drawing.lettering import FACES, width_of
from molvik.drawing.scene import (
    Area,
    Box,
    Oval,
    Path,
    Pen,
    Point,
    Rect,
    Scene,
    Shape,
    Text,
    along,
    around,
    at_share,
)
from molvik.lazy import cached_property
from molvik.model.loom import Fault, FoundWire, Node, Segment
from molvik.model.loom_edits import find
from molvik.netlist.placing import Placed
from molvik.survey.decide import decide
from molvik.survey.spread import stretches_of
from molvik.survey.tree import LoomTree
from molvik.wording import counted

NAME_PX = 11
LARGEST_NAME = 160.0
"""Names of ends are cut short here, px."""

CROWDED, CROWDED_REACH_PX = 150, 60.0
"""With more ends than these, names go no farther off than this: it would take too long."""

NODE_PX = 6.0
"""So far from its middle a node is drawn, px."""

BESIDE_PX, ABOVE_PX = 150, 64
"""So much room is left for names, px."""

RULE_M = 0.5
"""What the rule at the bottom shows."""


Measure = Callable[[str, bool], float]
"""How wide a name is, px, plain or bold."""


def aspect_of(width: float, height: float) -> float:
    """Return how much wider than high the room for the stretches is, by steps: what is laid out for
    one step is drawn in it as the window changes.
    """
    exact = (width - BESIDE_PX) / max(40.0, height - ABOVE_PX)
    return min(6.0, max(0.5, round(2 * exact) / 2))


def plain_width(words: str, bold: bool) -> float:
    """Return how wide a name is by the shipped typeface, px."""
    return width_of(words, NAME_PX, FACES[bold, False])


class Label(NamedTuple):
    """Words that want a place. key: what they are of; spots: where they may lie; rank: those of a
    lower one choose first.
    """

    key: str
    text: Text
    spots: tuple[Spot, ...]
    rank: int = 0

    @property
    def wanted(self) -> Wanted:
        """What is placed."""
        box = self.text.box
        return Wanted(self.key, box.width, box.height, self.spots, self.rank)


class LoomDrawing:
    """A loom drawn in so much room. hand: the code of what is in hand. measure: a screen brings its
    own, which takes no time to load.
    """

    def __init__(
        self,
        tree: LoomTree,
        placed: Placed,
        width: float,
        height: float,
        hand: str = "",
        measure: Measure = plain_width,
    ) -> None:
        self.tree, self.placed, self.places, self.hand = tree, placed, placed.places, hand
        self.width, self.height, self._measure = width, height, measure

    @cached_property
    def scale(self) -> tuple[float, float, float]:
        """Return pixels a metre, and the left and top margins."""
        corners = [*self.places.values(), *self._corners()]
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        wide, high = max(xs) - min(xs) or 0.5, max(ys) - min(ys) or 0.5
        scale = min((self.width - BESIDE_PX) / wide, (self.height - ABOVE_PX) / high)
        left = (self.width - (max(xs) + min(xs)) * scale) / 2
        top = (self.height - (max(ys) + min(ys)) * scale) / 2
        return scale, left, top

    def node(self, code: str) -> Point:
        """Return where a node stands."""
        scale, left, top = self.scale
        place = self.places[code]
        return Point(left + place.x * scale, top + place.y * scale)

    def _corners(self) -> Iterator[tuple[float, float]]:
        """Yield what has to be in view beside the nodes, m."""
        for path in self.placed.paths.values():
            yield from path

    def line(self, segment: Segment) -> tuple[Point, ...]:
        """Return the corners a segment is drawn along."""
        scale, left, top = self.scale
        path = self.placed.paths[segment.code]
        return tuple(Point(left + p.x * scale, top + p.y * scale) for p in path)

    def along(self, segment: Segment, share: float) -> Point:
        """Return a point along a segment. share: 0 at its start, 1 at its end."""
        return at_share(self.line(segment), share)[0]

    def fault(self, fault: Fault) -> Point | None:
        """Return where a fault is drawn; None when its place is not known."""
        tree = self.tree
        on = find(tree.loom, fault.on)
        if on is not None and on.code in self.places:
            return self.node(on.code)
        place: tuple[str, float] | None = None
        if isinstance(on, Segment):
            place = on.code, fault.at_m or (on.length_m or 0) / 2
        elif isinstance(on, FoundWire) and tree.ways[on.code]:
            place = tree.place(on.code, fault.at_m if fault.at_m is not None else 0.0)
        if place is None:
            return None
        segment = tree.segments[place[0]]
        if segment.start not in self.places or segment.finish not in self.places:
            return None
        return self.along(segment, min(1.0, place[1] / (segment.length_m or 1.0)))

    @cached_property
    def scene(self) -> Scene:
        """Return the drawing. Its areas: faults, nodes, then stretches along their lines."""
        faults = [(fault, spot) for fault in self.tree.loom.faults if (spot := self.fault(fault))]
        shapes: list[Shape] = list(self._stretches())
        shapes += self._nodes()
        shapes += self._names()
        for fault, spot in faults:
            shapes.append(self._fault(fault, spot))
        shapes += self._rule()
        areas = [Area(around(spot, 9, 9), fault.code, fault.kind) for fault, spot in faults]
        areas += [
            Area(around(self.node(node.code), 9, 9), node.code, node.name)
            for node in self.tree.loom.nodes
        ]
        areas += [
            along(segment.code, segment.code, *self.line(segment))
            for segment in self.tree.loom.segments
            if segment.start and segment.finish
        ]
        return Scene(self.width, self.height, tuple(shapes), tuple(areas))

    @cached_property
    def marks(self) -> Scene:
        """Return only what is in hand, to lie over the drawing of the loom without it."""
        held = self._held()
        near = {self.hand} & set(self.places)
        for code in held & set(self.tree.segments):
            segment = self.tree.segments[code]
            near |= {segment.start, segment.finish} & set(self.places)
        shapes = list(self._stretches(only=held))
        for code in sorted(near):
            shapes += self._node(code)
        shapes += self._held_name()
        for fault in self.tree.loom.faults:
            spot = self.fault(fault)
            if spot is not None:
                shapes.append(self._fault(fault, spot))
        return Scene(self.width, self.height, tuple(shapes))

    def _held_name(self) -> Iterator[Shape]:
        """Name the node in hand on a ground of its own, whatever lies there."""
        node = self.tree.nodes.get(self.hand)
        if node is None or node.code not in self.places:
            return
        words = _called(node)
        wide = min(LARGEST_NAME, max(self._measure(words, bold) for bold in (True, False)) + 2)
        point = self.node(node.code)
        left = min(max(0.0, point.x - wide / 2), max(0.0, self.width - wide))
        down = 15 if point.y + 24 < self.height else -15
        box = Box(left, point.y + down - 7, wide, 14)
        yield Rect(box.grown(2, 1), None, "sheet", 2.0)
        yield Text(words, box, NAME_PX, "copper", bold=True)

    def _stretches(self, only: Collection[str] | None = None) -> Iterator[Shape]:
        held = self._held()
        for segment in self.tree.loom.segments:
            if only is not None and segment.code not in only:
                continue
            if segment.start and segment.finish:
                yield from self._stretch(segment, held=segment.code in held)

    def _stretch(self, segment: Segment, *, held: bool) -> Iterator[Shape]:
        width = self.thick_px(segment.code)
        dash = () if segment.length_m else (4 * width, 2 * width)
        yield Path(self.line(segment), Pen("copper" if held else "line", width, dash, round=True))

    def _held(self) -> set[str]:
        """Return the stretches that belong to what is in hand."""
        thing = find(self.tree.loom, self.hand)
        if isinstance(thing, Segment):
            return {thing.code}
        if isinstance(thing, FoundWire):
            return {stretch.segment for stretch in self.tree.ways[thing.code]}
        if isinstance(thing, Fault):
            return {stretch.segment for stretch in stretches_of(self.tree, thing)}
        return set()

    def _nodes(self) -> Iterator[Shape]:
        for node in self.tree.loom.nodes:
            yield from self._node(node.code)

    def _node(self, code: str) -> Iterator[Shape]:
        point, lost = self.node(code), self._is_lost(code)
        role = "stop" if lost else "copper" if code == self.hand else "ink"
        pen = Pen(role, 2.2 if code == self.hand or lost else 1.4)
        if lost:
            for way in (1, -1):
                yield Path(
                    (Point(point.x - 5, point.y - 5 * way), Point(point.x + 5, point.y + 5 * way)),
                    pen,
                )
        elif self.tree.is_end(code):
            yield Rect(around(point, 5, 5), pen, "sheet", 2.0)
        else:
            yield Oval(around(point, 4, 4), pen, "sheet")

    def _is_lost(self, code: str) -> bool:
        return self.tree.nodes[code].state in ("missing", "cut off")

    def _labels(self) -> Iterator[Label]:
        """Yield what is written at ends and along stretches."""
        for node in self.tree.loom.nodes:
            held = node.code == self.hand
            if not (self.tree.is_end(node.code) or held):
                continue
            words = _called(node)
            wide = min(LARGEST_NAME, self._measure(words, held) + 2)
            role = "stop" if self._is_lost(node.code) else "copper" if held else "ink"
            text = Text(words, Box(0, 0, wide, 14), NAME_PX, role, bold=held)
            reach = FAR[-1] if len(self.places) <= CROWDED else CROWDED_REACH_PX
            spots = about(self.node(node.code), NODE_PX + 2, wide, 14, reach)
            yield Label(node.code, text, spots, -held)

    @cached_property
    def _every_label(self) -> tuple[Label, ...]:
        return tuple(self._labels())

    @cached_property
    def labelling(self) -> Labelling:
        """Return where names lie, and which have no room: a tooltip names those."""
        from molvik.drawing.labelplacing import place_labels

        wanted = [label.wanted for label in self._every_label]
        page = Box(0, 0, self.width, self.height)
        return place_labels(wanted, self._solid(), page)

    def _solid(self) -> Iterator[Corners]:
        """Yield what no name may lie on."""
        for segment in self.tree.loom.segments:
            if segment.start and segment.finish:
                yield from band(self.line(segment), self.thick_px(segment.code) + 3)
        for node in self.tree.loom.nodes:
            yield self._solid_node(node.code)
        for fault in self.tree.loom.faults:
            if (spot := self.fault(fault)) is not None:
                yield outline(around(spot, 6.5, 6.5))
        yield outline(Box(0, self.height - 17, self.width, 17))  # the rule, and what is left out

    def _solid_node(self, code: str) -> Corners:
        return outline(around(self.node(code), NODE_PX, NODE_PX))

    def thick_px(self, code: str) -> float:
        """Return how wide a stretch is drawn, px."""
        return max(2.5, min(13.0, (self.tree.segments[code].diameter_mm or 5) * 0.7))

    def _names(self) -> Iterator[Shape]:
        """Write the labels that have a place, and how many have none."""
        put = self.labelling.put
        for label in self._every_label:
            place = put.get(label.key)
            if place is None:
                continue
            if place.leader is not None:
                yield Path(place.leader, Pen("faint", 0.9))
            yield label.text._replace(box=place.box, turn=place.turn)
        yield from self._left_out()

    def _left_out(self) -> Iterator[Shape]:
        """Say how many labels have no room."""
        left = self.labelling.left_out
        if left:
            names = sum(key in self.tree.nodes for key in left)
            kinds = (counted(names, "name"), names), (counted(n := len(left) - names, "length"), n)
            words = f"{' and '.join(said for said, count in kinds if count)} without room"
            box = Box(self.width - 430, self.height - 16, 422, 14)
            yield Text(f"{words}: point there, or enlarge", box, NAME_PX, "faint", "right")

    def _fault(self, fault: Fault, spot: Point) -> Shape:
        left = decide(self.tree, fault).action == "leave"
        role = "faint" if left else "stop" if fault.grade == 4 else "live"
        size = 6.5 if fault.code == self.hand else 5.0
        corners = ((0.0, -size), (size, size), (-size, size))
        triangle = tuple(Point(spot.x + x, spot.y + y) for x, y in corners)
        return Path(triangle, Pen("sheet", 1.2), closed=True, fill=role)

    def _rule(self) -> Iterator[Shape]:
        """A rule, so that the scale can be seen."""
        end, y, pen = 10 + self.scale[0] * RULE_M, self.height - 9, Pen("faint", 1.4)
        yield Path((Point(10, y), Point(end, y)), pen)
        for x in (10.0, end):
            yield Path((Point(x, y - 4), Point(x, y + 4)), pen)
        yield Text(f"{RULE_M:g} m", Box(end + 6, y - 7, 60, 14), 11, "faint", "left")


def _called(node: Node) -> str:
    """Return what an end is called on the drawing: how it was found too, if it was not."""
    return node.name if node.state == "found" else f"{node.name}, {node.state}"
