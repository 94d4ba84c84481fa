"""A connector's face as a drawing, the way it is held: at the mating face or at the wire side."""

import math
from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

from molvik.drawing.marks import Mark, over, under
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text
from molvik.model.geometry import CavityPlace, Face, extent
from molvik.model.parts import Colour, Connector
from molvik.model.refs import end_text
from molvik.reference.colours import PAINT

NUMBERED_STEP = 26.0
"""From this distance between cavities, px, there is room for a number above each."""

SMALLEST_STEP = 8.0
SIDES, ENDS = 64.0, 36.0
"""Room beside the cavities for the numbers of the rows, and above and below for lock and words."""

UNKNOWN_PAINT, OUTLINE = "#E9E2D4", "#3A352E"
"""Of a wire whose colour has no paint, and round every wire so that white shows on paper."""

Inside = Literal["wired", "listed", "empty", "plugged", "unknown"]
"""What is in a cavity: a wire, one in the pinout only, nothing seen, a cavity plug, not known."""

LEGEND: tuple[tuple[Inside, str], ...] = (
    ("wired", "wire"),
    ("listed", "in the pinout, no wire yet"),
    ("empty", "seen empty"),
    ("plugged", "cavity plug"),
    ("unknown", "not known"),
)
SAMPLE = Colour("RD", "WH")


class Cavity(NamedTuple):
    """A cavity to be drawn. wires: their colours, None where it is not known. words: what is in it.
    mark: what else the drawing says of it.
    """

    place: CavityPlace
    inside: Inside
    wires: tuple[Colour | None, ...] = ()
    words: str = ""
    mark: Mark = ""


class Frame(NamedTuple):
    """Where the cavities of a housing stand. step: from one to the next; shell: its outline;
    inset: how far from its edges they begin.
    """

    step: float
    shell: Box
    numbered: bool
    inset: Point = Point(8, 6)

    @property
    def first(self) -> Point:
        """The middle of the place at the top left."""
        half, inset = self.step / 2, self.inset
        return Point(self.shell.x + inset.x + half, self.shell.y + inset.y + half)

    def centre(self, place: CavityPlace) -> Point:
        """Return the middle of a cavity."""
        first = self.first
        return Point(first.x + place.column * self.step, first.y + place.row * self.step)

    def cell(self, place: CavityPlace) -> Box:
        """Return what belongs to a cavity."""
        middle = self.centre(place)
        return Box(middle.x - self.step / 2, middle.y - self.step / 2, self.step, self.step)


def face_size(connector: Connector, step: float) -> tuple[float, float]:
    """Return the width and height of a drawing with cavities so far apart."""
    across, down = extent(connector.grid)
    return across * step + SIDES, down * step + ENDS


def frame_of(connector: Connector, width: float, height: float, largest: float) -> Frame:
    """Return where everything stands in so much room. largest: the most from cavity to cavity."""
    across, down = extent(connector.grid)
    fits = min((width - SIDES) / across, (height - ENDS) / down, largest)
    step = max(SMALLEST_STEP, fits)
    left = (width - across * step) / 2
    top = 16 + (height - ENDS - down * step) / 2
    shell = Box(left - 8, top - 6, across * step + 16, down * step + 12)
    # An irregular layout has no rows to number at their ends.
    return Frame(step, shell, step >= NUMBERED_STEP or bool(connector.grid.spots))


def face_scene(
    connector: Connector,
    cavities: tuple[Cavity, ...],
    face: Face,
    frame: Frame,
    *,
    chosen: str = "",
    focused: bool = False,
    foot: str = "",
) -> Scene:
    """Return a face as a drawing. chosen: a marked cavity. foot: words below."""
    shell = frame.shell
    shapes: list[Shape] = []
    outline = Pen("copper" if focused else "faint", 2.0)
    if connector.grid.round:
        shapes.append(Oval(shell, outline, "side"))
    else:
        shapes.append(Rect(shell, outline, "side", 9.0))
    if connector.lever or not (connector.key or connector.up):
        # Where nothing is said it is held with its lock up.
        lever = _seen_on(connector.lever or "top", face)
        shapes.append(Rect(_lever(shell, lever), None, "faint"))
    if connector.key:
        shapes.append(_key(connector, shell, _seen_on(connector.key, face)))
    for index, cavity in enumerate(cavities):
        shapes += _cavity(cavity, frame, first=index == 0, chosen=cavity.place.cavity == chosen)
    if not frame.numbered:
        shapes += _row_ends(cavities, frame)
    if foot:
        below = 6 if connector.key == "bottom" else 2
        box = Box(0, shell.bottom + below, shell.middle.x * 2, 16)
        shapes.append(Text(foot, box, 11, "faint"))
    areas = tuple(
        Area(frame.cell(cavity.place), end_text(connector.code, cavity.place.cavity), cavity.words)
        for cavity in cavities
    )
    return Scene(shell.middle.x * 2, shell.bottom + 24, tuple(shapes), areas)


def _seen_on(side: str, face: Face) -> str:
    """Return on which side something is seen: turning over swaps left and right only."""
    if face == "wire side":
        return {"left": "right", "right": "left"}.get(side, side)
    return side


def _lever(shell: Box, side: str) -> Box:
    """Return where the lock lever or clip stands."""
    half = min(22.0, (shell.height if side in ("left", "right") else shell.width) / 4)
    middle = shell.middle
    return {
        "top": Box(middle.x - half, shell.y - 6, 2 * half, 6),
        "bottom": Box(middle.x - half, shell.bottom, 2 * half, 6),
        "left": Box(shell.x - 6, middle.y - half, 6, 2 * half),
        "right": Box(shell.right, middle.y - half, 6, 2 * half),
    }[side]


def _key(connector: Connector, shell: Box, side: str) -> Shape:
    """Return the key, a notch in the rim."""
    middle = shell.middle
    # Beside the lever, where both are on top.
    both = connector.lever == "top" and not connector.grid.round
    spot = {
        "top": Point(middle.x - (shell.width * 0.25 if both else 0.0), shell.y),
        "bottom": Point(middle.x, shell.bottom),
        "left": Point(shell.x, middle.y),
        "right": Point(shell.right, middle.y),
    }[side]
    return _disc(spot, 5.0, Pen("ink", 2.0), "sheet")


def _disc(middle: Point, radius: float, pen: Pen | None, fill: str = "") -> Oval:
    return Oval(Box(middle.x - radius, middle.y - radius, 2 * radius, 2 * radius), pen, fill)


def _cavity(cavity: Cavity, frame: Frame, *, first: bool, chosen: bool) -> Iterator[Shape]:
    centre, step = frame.centre(cavity.place), frame.step
    radius = step * (0.27 if frame.numbered else 0.36)
    if chosen:
        box = frame.cell(cavity.place).grown(-1, -1)
        yield Rect(box, Pen("copper", 2.5), "copper_wash", 5.0)
    else:
        yield from under(frame.cell(cavity.place), cavity.mark)
    if frame.numbered:
        # The first is told at a glance, whichever way the plug is held.
        line = frame.cell(cavity.place)._replace(height=step * 0.36)
        role = "copper" if first and not chosen else "ink"
        pixels = max(9, min(12, int(step * 0.29)))
        bold = first or bool(cavity.mark)
        yield Text(cavity.place.cavity, line, pixels, role, bold=bold, mono=True, whole=True)
        centre = Point(centre.x, centre.y + step * 0.14)
    yield from cavity_shapes(centre, radius, cavity.inside, cavity.wires)
    yield from over(frame.cell(cavity.place), centre, radius, cavity.mark)


def _row_ends(cavities: tuple[Cavity, ...], frame: Frame) -> Iterator[Shape]:
    """Number the ends of each row where the cavities are too small to be numbered each."""
    rows: dict[float, list[CavityPlace]] = {}
    for cavity in cavities:
        rows.setdefault(cavity.place.row, []).append(cavity.place)
    for here in rows.values():
        first = min(here, key=lambda place: place.column)
        last = max(here, key=lambda place: place.column)
        y = frame.centre(first).y - 7
        left, right = Box(frame.shell.x - 24, y, 21, 14), Box(frame.shell.right + 3, y, 21, 14)
        yield Text(first.cavity, left, 9, "faint", "right", mono=True, whole=True)
        yield Text(last.cavity, right, 9, "faint", "left", mono=True, whole=True)


def cavity_shapes(
    centre: Point, radius: float, inside: Inside, wires: tuple[Colour | None, ...]
) -> Iterator[Shape]:
    """Return the mark of what is in a cavity."""
    match inside:
        case "wired":
            yield from wire_end(centre, radius, wires[0])
            if len(wires) > 1:
                yield _disc(centre, radius + 1.5, Pen("stop", 2.5))
        case "listed":
            yield _disc(centre, radius, Pen("faint", 1.4, (5.6, 2.8)), "sheet")
            if wires and wires[0] is not None:
                yield from wire_end(centre, radius * 0.45, wires[0])
        case "plugged":
            pen = Pen("faint", 1.2)
            yield _disc(centre, radius, pen, "line")
            reach = radius * 0.6
            for way in (1, -1):
                begin = Point(centre.x - reach, centre.y - way * reach)
                yield Path((begin, Point(centre.x + reach, centre.y + way * reach)), pen)
        case "empty":
            yield _disc(centre, radius, Pen("line", 1.2))
        case _:
            box = Box(centre.x - radius, centre.y - radius, 2 * radius, 2 * radius)
            yield Text("?", box, max(9, int(radius * 1.3)), "faint", whole=True)


def wire_end(centre: Point, radius: float, wire: Colour | None) -> Iterator[Shape]:
    """Return a wire's end: a disc of the base with a bar of the tracer."""
    if wire is None:
        yield _disc(centre, radius, Pen("ink", 1.2), "line")
        return
    yield _disc(centre, radius, None, PAINT.get(wire.base, UNKNOWN_PAINT))
    if wire.tracer:
        bar = tuple(_bar(centre, radius, 0.3))
        yield Path(bar, None, closed=True, fill=PAINT.get(wire.tracer, UNKNOWN_PAINT))
    yield _disc(centre, radius, Pen(OUTLINE, 0.9))


def _bar(centre: Point, radius: float, half: float) -> Iterator[Point]:
    """Yield the corners of a bar across a disc, its ends on the circle. half: of the radius."""
    reach = math.asin(half)
    for turn in (0.0, math.pi):
        for index in range(5):
            angle = turn - reach + index * reach / 2
            x, y = math.cos(angle), math.sin(angle)
            yield Point(centre.x + radius * x, centre.y + radius * y)


def legend_scene(width: float, widths: Iterable[float]) -> Scene:
    """Return what the marks mean, in a line. widths: of the words of each, px."""
    steps = [width + 38 for width in widths]
    left = (width - sum(steps)) / 2
    shapes: list[Shape] = []
    for (inside, words), step in zip(LEGEND, steps, strict=True):
        shapes += cavity_shapes(Point(left + 9, 10), 7.0, inside, (SAMPLE,))
        shapes.append(Text(words, Box(left + 21, 0, step, 20), 11, "faint", "left"))
        left += step
    return Scene(width, 20, tuple(shapes))
