"""What goes into which cavity, at each plug, splice, fuse and stud of a board: tables beside."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.drawing.face import OUTLINE, UNKNOWN_PAINT
from molvik.drawing.scene import Box, Path, Pen, Point, Rect, Shape, Text
from molvik.model.geometry import cavities
from molvik.model.parts import Colour, Connector, End, Part, Splice, Wire
from molvik.model.routing import LoomNode
from molvik.netlist.network import Network
from molvik.reference.colours import PAINT
from molvik.routing.board.figures import Figure, figure_of
from molvik.routing.outlines import is_measured
from molvik.wording import counted

ROW_MM, HEAD_MM, TEXT_MM = 5.6, 7.5, 4
MOST_ROWS = 14
"""Of a larger plug the rest is in the pin chart."""

SHORT, CAVITY_MM = 4, (11.0, 22.0)
"""How wide the column of cavities is, where names have so many letters or fewer, and else."""

COLUMNS = (("patch", 9.0), ("colour", 17.0), ("wire", 15.0), ("size", 22.0))
TABLE_MM = 112.0
GAP_MM = 3.0
BESIDE_MM = 115.0
"""A figure no wider than this stands beside the lines of its table, a wider one below them."""


class Row(NamedTuple):
    """A cavity, terminal or member. goes: where its wire's other end is, or what to leave."""

    cavity: str
    colour: Colour | None
    wire: str
    size: str
    goes: str


class Callout(NamedTuple):
    """What is said at a node: a head, more below it, and its rows. left: so many rows are not
    shown. figure: the face or the sockets of what sits there.
    """

    head: str
    below: str
    rows: tuple[Row, ...]
    left: int = 0
    figure: Figure | None = None

    def below_head(self, words: str) -> "Callout":
        """Return it with more below its head, before what is there."""
        return self._replace(below="; ".join(filter(None, (words, self.below))))

    @property
    def is_beside(self) -> bool:
        """Whether its figure stands beside its lines."""
        return self.figure is not None and self.figure.wide_mm <= BESIDE_MM

    @property
    def wide_mm(self) -> float:
        """How wide its table is."""
        if self.figure is None:
            return TABLE_MM
        wide = self.figure.wide_mm + 2 * GAP_MM
        return TABLE_MM + wide if self.is_beside else max(TABLE_MM, wide)

    @property
    def lines_mm(self) -> float:
        """How high its lines are."""
        lines = len(self.rows) + bool(self.left) + bool(self.below)
        return HEAD_MM + lines * ROW_MM + 1.0

    @property
    def height_mm(self) -> float:
        """How high its table is."""
        if self.figure is None:
            return self.lines_mm
        high = self.figure.high_mm + GAP_MM
        if self.is_beside:
            return max(self.lines_mm, HEAD_MM + GAP_MM + high)
        return self.lines_mm + high


def callouts_of(network: Network, joints: tuple[LoomNode, ...]) -> dict[str, Callout]:
    """Return what is said at each node that carries a part."""
    parts = {part.code: part for part in network.job.parts()}
    found: dict[str, Callout] = {}
    for joint in joints:
        carried = [parts[code] for code in joint.carries if code in parts]
        if not carried:
            continue
        rows = [row for part in carried for row in _rows(network, part, several=len(carried) > 1)]
        first = carried[0]
        name = first.name if len(carried) == 1 else joint.name
        code = first.code if len(carried) == 1 else joint.code
        below = [", ".join(joint.boots) + " on first"] if joint.boots else []
        if isinstance(first, Connector) and first.up:
            below.append(f"top: {first.up}")
        if isinstance(first, Connector) and not is_measured(first):
            below.append("outline not measured")
        if isinstance(first, Splice):
            below.append(f"{counted(len(rows), 'wire')}, {first.joint}")
        left = max(0, len(rows) - MOST_ROWS)
        shown = tuple(rows[: MOST_ROWS - 1] if left else rows)
        found[joint.code] = Callout(
            f"{code}  {name}",
            "; ".join(below),
            shown,
            len(rows) - len(shown),
            figure_of(network, carried),
        )
    return found


def _rows(network: Network, part: Part, *, several: bool) -> Iterator[Row]:
    """Yield what goes to a part. several: its code stands before its terminals."""
    if isinstance(part, Connector):
        pins = {pin.cavity: pin for pin in part.pins}
        for cavity in cavities(part.grid):
            wires = network.wires_at.get(End(part.code, cavity), [])
            yield from (_row(wire, End(part.code, cavity), cavity) for wire in wires)
            if not wires and cavity in pins and pins[cavity].fill == "plugged":
                yield Row(cavity, None, "", "", "cavity plug")
        return
    ends = sorted({end for end in network.wires_at if end.at == part.code}, key=str)
    for end in ends:
        for wire in network.wires_at[end]:
            name = str(end) if several else end.cavity
            yield _row(wire, end, name)


def _row(wire: Wire, end: End, name: str) -> Row:
    other = wire.finish if wire.start == end else wire.start
    goes = "cap and tie back" if wire.stowed else str(other) if other.at else "loose"
    more = ", screen" if wire.use == "screen" else ", twisted" if wire.lay_length_mm else ""
    return Row(name, wire.colour, wire.code, str(wire.size or "?"), f"{goes}{more}")


def table(callout: Callout, box: Box) -> Iterator[Shape]:
    """Draw the table of a callout into its box."""
    rule = Pen("faint", 0.25)
    yield Rect(box, Pen("ink", 0.35), "sheet")
    head = Box(box.x + 2, box.y, box.width - 4, HEAD_MM)
    yield Text(callout.head, head, 5, "ink", "left", bold=True)
    y = box.y + HEAD_MM
    yield Path((Point(box.x, y), Point(box.right, y)), rule)
    if callout.figure is not None and callout.is_beside:
        x = box.x + TABLE_MM
        yield Path((Point(x, y), Point(x, box.bottom)), rule)
        yield from callout.figure.at(x + GAP_MM, y + GAP_MM)
        box = box._replace(width=TABLE_MM)
    elif callout.figure is not None:
        aside = (box.width - callout.figure.wide_mm) / 2
        yield from callout.figure.at(box.x + aside, box.y + callout.lines_mm)
    if callout.below:
        yield Text(
            callout.below, Box(box.x + 2, y, box.width - 4, ROW_MM), TEXT_MM, "faint", "left"
        )
        y += ROW_MM
    long = any(len(row.cavity) > SHORT for row in callout.rows)
    for row in callout.rows:
        yield from _line(row, box.x, y, box.width, CAVITY_MM[long])
        y += ROW_MM
    if callout.left:
        words = f"{callout.left} more: pin chart"
        yield Text(words, Box(box.x + 2, y, box.width - 4, ROW_MM), TEXT_MM, "faint", "left")


def _line(row: Row, x: float, y: float, wide: float, cavity_mm: float) -> Iterator[Shape]:
    right = x + wide
    for name, width in (("cavity", cavity_mm), *COLUMNS):
        cell = Box(x + 2, y, width - 2, ROW_MM)
        match name:
            case "cavity":
                yield Text(row.cavity, cell, TEXT_MM, "ink", "left", bold=True)
            case "patch" if row.colour is not None:
                yield from patch(row.colour, Box(x + 1, y + 1.2, width - 2, ROW_MM - 2.4))
            case "colour" if row.colour is not None:
                yield Text(str(row.colour), cell, TEXT_MM, "ink", "left")
            case "wire":
                yield Text(row.wire, cell, TEXT_MM, "ink", "left")
            case "size":
                yield Text(row.size, cell, TEXT_MM, "ink", "left")
            case _:
                pass
        x += width
    yield Text(row.goes, Box(x + 2, y, right - x - 3, ROW_MM), TEXT_MM, "faint", "left")


def patch(colour: Colour, box: Box) -> Iterator[Shape]:
    """Draw a wire's colour with its tracer along the middle, outlined to show on any ground."""
    base = PAINT.get(colour.base, UNKNOWN_PAINT)
    yield Rect(box, Pen(OUTLINE, 0.3), base, 0.8)
    if colour.tracer:
        tracer = PAINT.get(colour.tracer, UNKNOWN_PAINT)
        yield Rect(Box(box.x, box.y + box.height * 0.35, box.width, box.height * 0.3), None, tracer)
