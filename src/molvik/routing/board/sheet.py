"""A board as a drawing that one builds from: every thing with its layer and its code."""

import math
from collections.abc import Iterator, Mapping
from typing import Literal, NamedTuple

from molvik.drawing.labelling import (
    Corners,
    Put,
    Spot,
    Wanted,
    about,
    band,
    beside,
    corners,
    outline,
    upright,
)
from molvik.drawing.labelplacing import place_labels
from molvik.drawing.lettering import FACES, width_of
from molvik.drawing.scene import (
    Area,
    Box,
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
    bounds,
)
from molvik.model.routing import LoomNode
from molvik.netlist.network import Network
from molvik.routing.board.callouts import Callout, callouts_of, table
from molvik.routing.board.dimensions import dimension_line, length_text, running_mm
from molvik.routing.board.framing import (
    REVISED_MM,
    TITLE_MM,
    Heading,
    Legend,
    explained,
    heading_of,
    revised,
    ruler,
    title_block,
)
from molvik.routing.board.lay import LEGEND_MM, Board, Laid
from molvik.routing.board.patterns import covered, held, hold, node_kind, node_mark, passing
from molvik.routing.board.pegs import Peg, pegs
from molvik.routing.drawing import plug_shapes

Layer = Literal[
    "ZONES", "RUNS", "HOLDS", "PLUGS", "NODES", "DIMENSIONS", "CALLOUTS", "NAMES", "FRAME"
]
NAME_MM, LENGTH_MM, PLACE_MM = 5, 4, 7
OVER_FOOT_MM, UNDER_FOOT_MM = 14, 10
FOOT_MM = LEGEND_MM - OVER_FOOT_MM - UNDER_FOOT_MM
NODE_MM, FRAME_MM = 3.0, 3.0
ASIDE_MM = (5.0, 12.0, 20.0, 30.0, 45.0)
"""How far beside a stretch the line of its dimension is tried."""


class Piece(NamedTuple):
    """Part of a board's drawing. code: of what it shows, empty for the frame."""

    layer: Layer
    code: str
    shapes: tuple[Shape, ...]


class BoardSheet(NamedTuple):
    """A board as drawn. pieces: from below up; areas: where things are; left_out: the codes of
    what could not be labelled, or stands in the tables below the loom; dimensions: of each stretch
    with one, between which points and beside which.
    """

    board: Board
    heading: Heading
    width_mm: float
    height_mm: float
    pieces: tuple[Piece, ...]
    areas: tuple[Area, ...]
    left_out: tuple[str, ...]
    dimensions: dict[str, tuple[Point, Point, Point]]

    @property
    def scene(self) -> Scene:
        """The whole drawing."""
        shapes = tuple(shape for piece in self.pieces for shape in piece.shapes)
        return Scene(self.width_mm, self.height_mm, shapes, self.areas)

    @property
    def pegs(self) -> tuple[Peg, ...]:
        """Where pins and forks go."""
        return pegs(self.board)

    def without(self, layers: frozenset[Layer]) -> "BoardSheet":
        """Return it without some layers."""
        return self._replace(pieces=tuple(one for one in self.pieces if one.layer not in layers))


def board_sheet(board: Board, network: Network, on: str = "", *, tables: bool = True) -> BoardSheet:
    """Return a board as a drawing. on: the date; tables: with what goes into each cavity, or names
    only.
    """
    callouts = callouts_of(network, board.joints) if tables else {}
    return _Drawing(board, callouts, heading_of(network.job, board.loom, on)).sheet()


class _Drawing:
    """The work of drawing one board."""

    def __init__(self, board: Board, callouts: Mapping[str, Callout], heading: Heading) -> None:
        self.board, self.heading = board, heading
        self.names = {joint.code: _called(joint) for joint in board.joints}
        self.running = running_mm(board)
        self.below = frozenset[str]()
        """Nodes whose tables have no room beside them."""
        self.callouts = {
            code: callout.below_head(self._second(code)) for code, callout in callouts.items()
        }
        self.dimensions: dict[str, tuple[Point, Point, Point]] = {}
        self.pieces: list[Piece] = []

    def sheet(self) -> BoardSheet:
        """Draw it all."""
        board = self.board
        self._things()
        solid = [*self._solid()]
        page = Box(4, 4, board.width_mm - 8, board.height_mm - 8)
        first = place_labels([*self._wanted()], solid, page)
        put = dict(first.put)
        self.below = frozenset(code for code in self.callouts if f"callout {code}" not in put)
        taken = [corners(one.box, one.turn) for one in put.values()]
        taken += [shape for one in put.values() if one.leader for shape in band(one.leader, 0.3)]
        again = place_labels([*self._wanted_less(first.left_out)], [*solid, *taken], page)
        self._labels(put | dict(again.put))
        width, height = self._foot([code for code in self.callouts if code in self.below])
        areas = [
            *(
                Area(around(board.places[j.code], 4, 4), j.code, self.names[j.code])
                for j in board.joints
            ),
            *(
                along(laid.run.code, f"{laid.run.code} {self._length(laid)}", *laid.path)
                for laid in board.runs
            ),
        ]
        return BoardSheet(
            board,
            self.heading,
            width,
            height,
            tuple(self.pieces),
            tuple(areas),
            tuple(key.partition(" ")[2] for key in again.left_out),
            self.dimensions,
        )

    def _add(self, layer: Layer, code: str, shapes: Iterator[Shape] | list[Shape]) -> None:
        self.pieces.append(Piece(layer, code, tuple(shapes)))

    # what is drawn

    def _things(self) -> None:
        board = self.board
        for laid in board.runs:
            self._add("ZONES", laid.run.code, passing(laid))
        for laid in board.runs:
            self._add("RUNS", laid.run.code, covered(laid.path, laid.thick_mm, laid.run.covering))
        for laid in board.runs:
            for one, point, angle in held(laid):
                self._add("HOLDS", laid.run.code, hold(one.kind, point, angle, laid.thick_mm))
        for joint in board.joints:
            point = board.places[joint.code]
            if joint.code in board.plugs:
                plug, angle = board.plugs[joint.code]
                shapes = plug_shapes(plug, point, angle, Pen("ink", 0.6), 1.0)
                self._add("PLUGS", joint.code, shapes)
            else:
                kind, thick = node_kind(board, joint), self._thickest(joint.code)
                self._add("NODES", joint.code, node_mark(kind, point, thick))

    def _thickest(self, code: str) -> float:
        ends = [x.thick_mm for x in self.board.runs if code in (x.run.start, x.run.finish)]
        return max(ends, default=4.0)

    def _solid(self) -> Iterator[Corners]:
        """Yield what no words may lie on."""
        for laid in self.board.runs:
            yield from band(laid.path, laid.thick_mm + 2)
        for piece in self.pieces:
            if piece.layer in ("HOLDS", "PLUGS", "NODES"):
                for shape in piece.shapes:
                    if isinstance(shape, Path) and shape.closed:
                        yield shape.points
                    else:
                        yield outline(bounds(shape).grown(0.3, 0.3))
            elif piece.layer == "ZONES":
                for shape in piece.shapes:
                    yield outline(bounds(shape))

    # what is written

    def _length(self, laid: Laid) -> str:
        return length_text(laid.length_mm, self.heading.tolerances)

    def _wanted(self) -> Iterator[Wanted]:
        for laid in self.board.runs:
            if (
                len(laid.path) == 2
                and (length := math.dist(*laid.path)) > _wide(self._length(laid), LENGTH_MM) + 14
            ):
                spots = tuple(_aside(laid, length))
                yield Wanted(f"length {laid.run.code}", length - 1, 6.5, spots)
        for joint in self.board.joints:
            callout = self.callouts.get(joint.code)
            point = self.board.places[joint.code]
            if callout is not None:
                wide, high = callout.wide_mm, callout.height_mm
                spots = about(self._middle(joint.code), self._clear(joint.code), wide, high)
                yield Wanted(f"callout {joint.code}", wide, high, spots, 1)
            else:
                wide = self._name_wide(joint.code)
                spots = about(point, self._clear(joint.code), wide, 11)
                yield Wanted(f"name {joint.code}", wide, 11, spots)

    def _wanted_less(self, left_out: tuple[str, ...]) -> Iterator[Wanted]:
        """Yield less of what found no room: a length without its line, a name without its table."""
        runs = {laid.run.code: laid for laid in self.board.runs}
        lengths = [key for key in left_out if key.startswith("length ")]
        known = {f"length {code}" for code in runs}
        asked = {wanted.key for wanted in self._wanted()}
        for key in (*lengths, *sorted(known - asked)):
            laid = runs[key.partition(" ")[2]]
            wide = _wide(self._length(laid), LENGTH_MM)
            yield Wanted(key, wide, 5, beside(laid.path, laid.thick_mm + 2, wide, 5, 126))
        for key in left_out:
            kind, _, code = key.partition(" ")
            if kind in ("callout", "name"):
                wide = self._name_wide(code)
                spots = about(self._middle(code), self._clear(code), wide, 11)
                yield Wanted(f"name {code}", wide, 11, spots)

        if self.board.in_vehicle:
            yield from self._places()

    def _places(self) -> Iterator[Wanted]:
        """Yield the names of the places that stretches pass, each amid its own."""
        middles: dict[str, list[Point]] = {}
        for laid in self.board.runs:
            if laid.run.zone:
                middles.setdefault(laid.run.zone, []).append(at_share(laid.path, 0.5)[0])
        for name, points in middles.items():
            middle = Point(
                sum(point.x for point in points) / len(points),
                sum(point.y for point in points) / len(points),
            )
            wide = _wide(name, PLACE_MM, bold=True)
            yield Wanted(f"place {name}", wide, 8, about(middle, 20.0, wide, 8), 1)

    def _middle(self, code: str) -> Point:
        """Return the middle of what is drawn at a node."""
        for piece in self.pieces:
            if piece.code == code and piece.layer in ("PLUGS", "NODES"):
                return bounds(piece.shapes[0]).middle
        return self.board.places[code]

    def _clear(self, code: str) -> float:
        for piece in self.pieces:
            if piece.code == code and piece.layer in ("PLUGS", "NODES"):
                box = bounds(piece.shapes[0])
                return max(box.width, box.height) / 2 + 3
        return NODE_MM + 3

    def _second(self, code: str) -> str:
        """Return what stands below a name: how far it is from the datum, the hole of a grommet."""
        joint = next(joint for joint in self.board.joints if joint.code == code)
        said = []
        if joint.kind == "grommet":
            said.append(f"hole {joint.hole_mm:g} mm" if joint.hole_mm else "grommet")
        if code == self.board.datum:
            said.append("0, datum")
        elif code in self.running:
            said.append(f"{self.running[code]:.0f} from {self._datum}")
        if code in self.below:
            said.append("table below the loom")
        return ", ".join(said)

    @property
    def _datum(self) -> str:
        """What running dimensions are from, by the part that sits there."""
        code = self.board.datum
        joint = next(joint for joint in self.board.joints if joint.code == code)
        return joint.carries[0] if len(joint.carries) == 1 else code

    def _name_wide(self, code: str) -> float:
        return max(
            _wide(self.names[code], NAME_MM, bold=True), _wide(self._second(code), LENGTH_MM)
        )

    def _labels(self, put: Mapping[str, Put]) -> None:
        runs = {laid.run.code: laid for laid in self.board.runs}
        for key, one in put.items():
            kind, _, code = key.partition(" ")
            leader = [Path(one.leader, Pen("faint", 0.3))] if one.leader else []
            match kind:
                case "length":
                    self._add("DIMENSIONS", code, [*leader, *self._dimension(runs[code], one)])
                case "callout":
                    shapes = [*leader, *table(self.callouts[code], one.box)]
                    self._add("CALLOUTS", code, shapes)
                case "place":
                    words = Text(code, one.box, PLACE_MM, "faint", bold=True, whole=True)
                    self._add("NAMES", code, [*leader, words])
                case _:
                    self._add("NAMES", code, [*leader, *self._name(code, one.box)])

    def _dimension(self, laid: Laid, one: Put) -> Iterator[Shape]:
        words = self._length(laid)
        wide = _wide(words, LENGTH_MM)
        if one.box.width > wide + 10:
            begin, end = laid.path
            self.dimensions[laid.run.code] = begin, end, one.box.middle
            yield from dimension_line(begin, end, one.box.middle, wide + 2)
        middle = one.box.middle
        box = around(middle, wide / 2, 2.5)
        yield Text(words, box, LENGTH_MM, "ink", whole=True, turn=one.turn)

    def _name(self, code: str, box: Box) -> Iterator[Shape]:
        upper = Box(box.x, box.y, box.width, 6)
        yield Text(self.names[code], upper, NAME_MM, "ink", bold=True, whole=True)
        lower = Box(box.x, box.y + 6, box.width, 5)
        yield Text(self._second(code), lower, LENGTH_MM, "copper", whole=True)

    # below the loom

    def _foot(self, below: list[str]) -> tuple[float, float]:
        """Add the tables that found no room, the legend, the ruler and the title block; return how
        large the whole is, mm.
        """
        board, legend = self.board, Legend(explained(self.board))
        widest = [self.callouts[code].wide_mm + 40 for code in below]
        revisions = REVISED_MM + 10 if self.heading.revisions else 0.0
        least = legend.wide_mm + TITLE_MM + revisions + 60
        wide = max(board.width_mm, least, *widest)
        y, x, high = board.height_mm, 20.0, 0.0
        for code in below:
            callout = self.callouts[code]
            box = Box(x, y, callout.wide_mm, callout.height_mm)
            if box.right > wide - 10 and x > 20:
                box = box._replace(x=20.0, y=y + high + 6)
                y, high = box.y, 0.0
            self._add("CALLOUTS", code, table(callout, box))
            x, high = box.right + 6, max(high, box.height)
        y += high + OVER_FOOT_MM
        self._add("FRAME", "", legend.shapes(20, y))
        right = wide - TITLE_MM - 20
        self._add("FRAME", "", title_block(board, self.heading, right, y))
        if revisions:
            self._add("FRAME", "", revised(self.heading, right - revisions, y))
        if wide - TITLE_MM - legend.wide_mm - revisions > 240:
            self._add("FRAME", "", ruler(legend.wide_mm + 40, y + 25))
        else:
            self._add("FRAME", "", ruler(20, y + FOOT_MM - 2))
        height = y + FOOT_MM + UNDER_FOOT_MM
        self._add(
            "FRAME",
            "",
            [Rect(Box(0, 0, wide, height).grown(-FRAME_MM, -FRAME_MM), Pen("ink", 0.4))],
        )
        return wide, height


def _called(joint: LoomNode) -> str:
    """Return what a node is called: by the part that it carries, as on plugs and in tables."""
    code = joint.carries[0] if len(joint.carries) == 1 else joint.code
    return f"{code} {joint.name}".strip()


def _wide(words: str, size: float, *, bold: bool = False) -> float:
    return width_of(words, size, FACES[bold, False]) + 1.5


def _aside(laid: Laid, length: float) -> Iterator[Spot]:
    """Yield where the line of a dimension may lie beside a straight stretch."""
    (a, b), cost = laid.path, 0
    across = Point(-(b.y - a.y) / length, (b.x - a.x) / length)
    middle = Point((a.x + b.x) / 2, (a.y + b.y) / 2)
    turn = upright(math.degrees(math.atan2(b.y - a.y, b.x - a.x)))
    for off in ASIDE_MM:
        for side in (1, -1):
            far = side * (laid.thick_mm / 2 + off + 3)
            yield Spot(
                Point(middle.x + across.x * far, middle.y + across.y * far), turn, float(cost)
            )
            cost += 1
