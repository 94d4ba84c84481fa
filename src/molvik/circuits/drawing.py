"""A device's circuit as a drawing: lines of stops from the battery and back."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.circuits.route import CircuitStop, Leg, Line, volts_text
from molvik.circuits.route import Shape as Form
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text
from molvik.wording import counted

WIDE = 112.0
"""From one stop to the next."""

HIGH = 106.0
"""From one row of stops to the next."""

MARGIN = 10.0
HEAD = 26.0
SIZE = 22.0
PAPER_WIDTH = 1100.0
"""What a drawing on paper is laid out for."""


class Placed(NamedTuple):
    """A stop in its place. line, at: which stop of which line."""

    stop: CircuitStop
    line: int
    at: int
    centre: Point

    @property
    def area(self) -> Box:
        """What belongs to it, for the mouse."""
        return Box(self.centre.x - WIDE / 2, self.centre.y - 46, WIDE, 92)

    @property
    def ref(self) -> str:
        """The code of what it is; joints taken together are no one thing."""
        return "" if self.stop.shape == "fold" else self.stop.code

    @property
    def words(self) -> str:
        """What it is, in full."""
        stop = self.stop
        volts = "floating" if stop.volts is None else f"{round(stop.volts, 2) + 0.0:.2f} V"
        held = f" ({', '.join(inner.title for inner in stop.held)})" if stop.held else ""
        words = [stop.code, stop.title + held, stop.under, "" if stop.closed else "open", volts]
        return " · ".join(word for word in words if word)


class Layout(NamedTuple):
    """Where everything stands. heads: titles with their places."""

    placed: tuple[Placed, ...]
    heads: tuple[tuple[str, Point], ...]
    width: float
    height: float
    lines: tuple[Line, ...]


def lay_out(lines: tuple[Line, ...], width: float) -> Layout:
    """Place lines within a width; a line that is too long goes on in the next row."""
    in_row = max(2, int((width - 2 * MARGIN) // WIDE))
    placed: list[Placed] = []
    heads: list[tuple[str, Point]] = []
    y = MARGIN
    for number, line in enumerate(lines):
        heads.append((line.title, Point(MARGIN, y + 12)))
        y += HEAD
        for index, stop in enumerate(line.stops):
            row, column = divmod(index, in_row)
            x = MARGIN + WIDE * (column + 0.5)
            placed.append(Placed(stop, number, index, Point(x, y + HIGH * row + 46)))
        y += HIGH * ((len(line.stops) - 1) // in_row + 1)
    most = max((other.centre.x for other in placed), default=MARGIN) + WIDE / 2
    return Layout(tuple(placed), tuple(heads), most + MARGIN, y + MARGIN, lines)


def drawn(layout: Layout, chosen: str = "") -> Scene:
    """Return the drawing of a layout; the chosen code is ringed. Its areas: the wires
    between the stops, then the stops.
    """
    shapes = tuple(_shapes(layout, chosen))
    areas = tuple(_wires(layout))
    areas += tuple(Area(placed.area, placed.ref, placed.words) for placed in layout.placed)
    return Scene(layout.width, layout.height, shapes, areas)


def _pairs(layout: Layout) -> Iterator[tuple[Leg, Point, Point]]:
    """Yield what leads from stop to stop, with where these stand."""
    by_line: dict[int, list[Placed]] = {}
    for placed in layout.placed:
        by_line.setdefault(placed.line, []).append(placed)
    for number, stops in by_line.items():
        for leg, a, b in zip(layout.lines[number].legs, stops[:-1], stops[1:], strict=True):
            yield leg, a.centre, b.centre


def _wires(layout: Layout) -> Iterator[Area]:
    """Yield where each wire can be pointed at; of several in a row the first."""
    for leg, a, b in _pairs(layout):
        if leg.wires:
            begin = Point(a.x + SIZE, a.y) if a.y == b.y else Point(b.x - WIDE / 2, b.y)
            end = Point(b.x - SIZE, b.y)
            words = " and ".join(leg.wires) + ("" if leg.good else ", no current can pass")
            yield Area(Box(begin.x, end.y - 14, end.x - begin.x, 28), leg.wires[0], words)


def _shapes(layout: Layout, chosen: str) -> Iterator[Shape]:
    for title, place in layout.heads:
        box = Box(place.x, place.y - 12, 900, 18)
        yield Text(title, box, 12, "faint", "left", bold=True)
    for leg, a, b in _pairs(layout):
        yield from _leg(leg, a, b, ringed=chosen in leg.wires)
    for placed in layout.placed:
        yield from _stop(placed, ringed=bool(chosen) and placed.stop.code == chosen)
        last = placed.at == len(layout.lines[placed.line].stops) - 1
        beside = layout.lines[placed.line].beside
        if placed.stop.shape == "splice" and beside and not last:
            words = f"and {beside[0]}" if len(beside) == 1 else f"and {len(beside)} more"
            box = Box(placed.centre.x - WIDE / 2, placed.centre.y + 32, WIDE, 16)
            yield Text(words, box, 11, "faint")


def _leg(leg: Leg, a: Point, b: Point, *, ringed: bool) -> Iterator[Shape]:
    role = "live" if leg.good else "line"
    pen = Pen(role, 5.0) if leg.good else Pen(role, 4.0, (10.4, 7.2))
    begin, end = Point(a.x + SIZE / 2, a.y), Point(b.x - SIZE / 2, b.y)
    if a.y == b.y:
        yield Path((begin, end), pen)
        label = Box(begin.x, a.y + 4, b.x - a.x - SIZE, 14)
    else:
        # On to the next row: out to the right, and in from the left.
        out = a.x + WIDE / 2
        yield Path((begin, Point(out, a.y)), pen)
        yield Path((Point(b.x - WIDE / 2, b.y), end), pen)
        tip = (Point(out - 2, a.y - 7), Point(out + 8, a.y), Point(out - 2, a.y + 7))
        yield Path(tip, None, closed=True, fill=role)
        label = Box(b.x - WIDE / 2 - 2, b.y + 4, WIDE / 2 - SIZE / 2, 14)
    if leg.wires:
        words = leg.wires[0] if len(leg.wires) == 1 else f"{counted(len(leg.wires), 'wire')}"
        colour = "copper" if ringed else "faint"
        yield Text(words, label, 10, colour, bold=ringed, mono=True)


def _stop(placed: Placed, *, ringed: bool) -> Iterator[Shape]:
    stop, centre = placed.stop, placed.centre
    edge = "live" if stop.good else "faint"
    box = Box(centre.x - SIZE / 2, centre.y - SIZE / 2, SIZE, SIZE)
    if ringed:
        yield Rect(box.grown(5, 5), Pen("copper", 2.0), radius=7)
    yield from _form(stop.shape, box, Pen(edge, 2.6))
    if stop.shape in ("contact", "fuse", "computer"):
        yield _contact(box, edge, closed=stop.closed)
    top = Box(centre.x - WIDE / 2 + 3, centre.y - 46, WIDE - 6, 16)
    yield Text(stop.title, top, 12, "ink", bold=True)
    under = stop.under if stop.closed or stop.shape == "gap" else f"{stop.under}, open"
    yield Text(under, top._replace(y=top.y + 15), 11, "faint" if stop.closed else "stop")
    words = volts_text(stop.volts) or ("" if stop.shape == "gap" else "floating")
    below = Box(top.x, centre.y + 17, top.width, 16)
    yield Text(words, below, 12, "live_text" if stop.good else "faint", bold=True)


def _form(form: Form, box: Box, pen: Pen) -> Iterator[Shape]:
    middle = box.middle
    match form:
        case "source" | "load":
            yield Oval(box, pen, "sheet")
            if form == "source":
                yield Oval(box.grown(-6, -6), pen, "sheet")
        case "fuse":
            yield Rect(box.grown(4, -4), pen, "sheet", 7)
        case "splice":
            corners = (
                Point(middle.x, box.y),
                Point(box.right, middle.y),
                Point(middle.x, box.bottom),
                Point(box.x, middle.y),
            )
            yield Path(corners, pen, closed=True, fill="sheet")
        case "earth":
            # The earth of IEC 60617: lines that grow shorter.
            yield Path((Point(middle.x, box.y), middle), pen)
            for index, share in enumerate((1.0, 0.6, 0.25)):
                y, half = middle.y + index * 4.5, box.width / 2 * share
                yield Path((Point(middle.x - half, y), Point(middle.x + half, y)), pen)
        case "bar":
            yield Rect(box.grown(-6, 0), pen, "sheet")
        case "computer":
            yield Rect(box.grown(4, 2), pen, "sheet", 3)
        case "gap":
            yield Path((Point(box.x, box.y), Point(box.right, box.bottom)), pen)
            yield Path((Point(box.right, box.y), Point(box.x, box.bottom)), pen)
        case "fold":
            yield Rect(box.grown(8, -3), pen, "sheet", 8)
            for index in (-6, 0, 6):
                yield Oval(Box(middle.x + index - 1.3, middle.y - 1.3, 2.6, 2.6), None, pen.role)
        case _:
            yield Rect(box, pen, "sheet", 4)


def _contact(box: Box, edge: str, *, closed: bool) -> Shape:
    """A bar through what lets current through, a slash through what does not."""
    y = box.middle.y
    if closed:
        return Path((Point(box.x + 4, y), Point(box.right - 4, y)), Pen(edge, 2.2))
    return Path((Point(box.x + 5, y + 5), Point(box.right - 5, y - 6)), Pen("stop", 2.4))
