"""A bus as a drawing: its line and stubs to scale, with what hangs on it."""

import itertools
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from molvik.circuits.bus.members import Member
from molvik.circuits.bus.study import Study
from molvik.circuits.bus.topology import Bus
from molvik.drawing.labelling import Corners, Put, Wanted, about, band, outline
from molvik.drawing.labelplacing import place_labels
from molvik.drawing.lettering import width_of
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around
from molvik.wording import counted

EDGE, FOOT, STUB_LEAST = 46.0, 26.0, 26.0
LEAST_SHARE = 0.6
"""The line is drawn no shorter than this share of the room for the sake of long stubs, which are
cut short instead: how long they are stands beside them."""

MOST_WIDE, LINE_HIGH = 172.0, 15.0
NAME_PX, SMALL_PX = 12, 11
APART = 3.5
"""How far the two wires of the line are from its middle, px."""

RESISTOR = (7.0, 20.0)


class Label(NamedTuple):
    """What stands beside a place. code: of what hangs there, or of the place; lines: with their
    roles.
    """

    at: str
    code: str
    lines: tuple[tuple[str, str], ...]

    @property
    def words(self) -> str:
        """All of it, to be said."""
        return " · ".join(text for text, _ in self.lines)

    @property
    def size(self) -> tuple[float, float]:
        """How wide and high it is, px."""
        longest = max(width_of(text, NAME_PX, "B612-Bold") for text, _ in self.lines)
        return min(MOST_WIDE, longest + 14), LINE_HIGH * len(self.lines) + 6


def line_scene(study: Study, width: float, height: float, hand: str = "") -> Scene:
    """Return the line from end to end with its stubs, all lengths to one scale, and what hangs on
    it with what a meter shows there and what it sees.
    """
    spots = _spots(study.bus, width, height)
    shapes, solid = _drawn(study, spots)
    labels = {
        str(number): label for number, label in enumerate(_labels(study)) if label.at in spots
    }
    wanted = [
        Wanted(key, *label.size, about(spots[label.at], 16, *label.size, 320))
        for key, label in labels.items()
    ]
    put = place_labels(wanted, solid, Box(2, 2, width - 4, height - FOOT - 4), 4).put
    areas = []
    for key, label in labels.items():
        at = spots[label.at]
        if key in put:
            shapes += _box(study, label, put[key], at, hand)
        box = put[key].box if key in put else around(at, 9, 9)
        areas.append(Area(box, label.code, label.words))
    named = {label.at for label in labels.values()}
    areas += [Area(around(p, 9, 9), code, code) for code, p in spots.items() if code not in named]
    shapes += _scale_bar(study.bus, spots, height)
    return Scene(width, height, tuple(shapes), tuple(areas))


def _drawn(study: Study, spots: Mapping[str, Point]) -> tuple[list[Shape], list[Corners]]:
    """Return the line with its terminators, and what no label may lie on."""
    bus, what_if = study.bus, study.what_if
    shapes: list[Shape] = []
    solid: list[Corners] = []
    for begin, end in _legs(bus, spots):
        shapes += _pair(begin, end)
        solid += band((begin, end), 4 * APART)
    for point in spots.values():
        shapes.append(Oval(around(point, 3.0, 3.0), None, "ink"))
        solid.append(outline(around(point, 7, 7)))
    held = {one.at for one in bus.terminators if one.code not in what_if.out}
    for role, places in (("ink", held), ("copper", set(what_if.ends))):
        for at in sorted(places & set(spots)):
            shapes += _terminator(spots[at], role)
            solid.append(outline(_terminated(spots[at])))
    for place, (leaves, far) in bus.stubs.items():
        middle = Point(spots[place].x + 26, (spots[place].y + spots[leaves].y) / 2)
        box = around(middle, 18, 7)
        shapes.append(Text(f"{far:.2g} m", box, SMALL_PX, "faint", whole=True))
        solid.append(outline(box))
    return shapes, solid


def _labels(study: Study) -> Iterator[Label]:
    """Yield what stands beside each place: what hangs there, or that nothing does."""
    bus = study.bus
    for member in bus.members:
        yield Label(member.at, member.code, tuple(_words(study, member)))
    known = {member.at for member in bus.members}
    for place in bus.places:
        if place not in known and bus.is_end(place):
            shown = study.reads[place].shown
            lines = ((place, "ink"), (shown, "faint"), ("nothing is on it", "live_text"))
            yield Label(place, place, lines)


def _spots(bus: Bus, width: float, height: float) -> dict[str, Point]:
    """Return where each place of the line is, by one scale for line and stubs."""
    longest = max((far for _, far in bus.stubs.values()), default=0.0)
    along = (width - 2 * EDGE) / (bus.length_m or 1.0)
    room = max(STUB_LEAST, height - FOOT - 110)
    scale = min(along, max(room / longest, along * LEAST_SHARE)) if longest else along
    left = (width - bus.length_m * scale) / 2
    y = (height - FOOT) / 2 - min(room / 2, longest * scale / 2)
    spots = {place: Point(left + far * scale, y) for place, far in bus.along_m.items()}
    used: dict[str, int] = {}
    for place, (leaves, far) in sorted(bus.stubs.items(), key=lambda one: one[1][1]):
        number = used.get(leaves, 0)
        used[leaves] = number + 1
        # Several stubs of one place fan out.
        aside = 0.0 if number == 0 else (14.0 if number % 2 else -14.0) * ((number + 1) // 2)
        down = min(room, max(STUB_LEAST, far * scale))
        spots[place] = Point(spots[leaves].x + aside, y + down)
    return spots


def _legs(bus: Bus, spots: Mapping[str, Point]) -> Iterator[tuple[Point, Point]]:
    for a, b in itertools.pairwise(bus.trunk):
        yield spots[a], spots[b]
    for place, (leaves, _) in bus.stubs.items():
        yield spots[leaves], spots[place]


def _pair(begin: Point, end: Point) -> Iterator[Shape]:
    """Draw two wires twisted round each other, as two lines that cross again and again."""
    level = abs(end.y - begin.y) < abs(end.x - begin.x)
    long = abs(end.x - begin.x) if level else abs(end.y - begin.y)
    count = max(2, round(long / 14))
    for sign, role in ((1, "ink"), (-1, "faint")):
        points = []
        for number in range(count + 1):
            share = number / count
            off = APART * sign * (1 if number % 2 else -1)
            if number in (0, count):
                off = 0.0
            x = begin.x + (end.x - begin.x) * share + (0 if level else off)
            y = begin.y + (end.y - begin.y) * share + (off if level else 0)
            points.append(Point(x, y))
        yield Path(tuple(points), Pen(role, 1.6, round=True))


def _terminated(at: Point) -> Box:
    """Return what a terminator takes up with its number."""
    wide, high = RESISTOR
    return Box(at.x - 14, at.y - high / 2 - 15, 28, high + 18 - wide / 2)


def _terminator(at: Point, role: str = "ink") -> Iterator[Shape]:
    """Draw a resistor across the line."""
    wide, high = RESISTOR
    yield Rect(around(at, wide / 2, high / 2), Pen(role, 1.8), "sheet", 1.0)
    yield Text("120", around(Point(at.x, at.y - high / 2 - 7), 16, 6), 10, role, whole=True)


def _words(study: Study, member: Member) -> Iterator[tuple[str, str]]:
    """Yield what stands beside a member, and in which role."""
    out = member.code in study.what_if.out
    yield f"{member.code} {member.name}", "stop" if out else "ink"
    read = study.reads.get(member.at)
    if read is not None:
        yield read.shown, "faint"
    if out:
        yield "unplugged", "stop"
    elif member.code == study.sender:
        yield "sends", "copper"
    elif (seen := study.seen_by.get(member.code)) is not None:
        if seen.reads_right:
            yield f"✓ reads, {seen.free_v:.2f} V left", "proved"
        else:
            yield "✗ misreads" if seen.dominant_v is not None else "✗ sees no bit", "stop"
    elif member.half:
        yield "✗ one wire only", "stop"


def _box(study: Study, label: Label, put: Put, at: Point, hand: str) -> Iterator[Shape]:
    box = put.box
    if put.leader:
        yield Path(put.leader, Pen("faint", 1.0))
    else:
        near = Point(min(max(at.x, box.x), box.right), min(max(at.y, box.y), box.bottom))
        yield Path((at, near), Pen("faint", 1.0))
    held = label.code == hand
    dash = (4.0, 3.0) if label.code in study.what_if.out else ()
    pen = Pen("copper" if held else "faint", 2.2 if held else 1.2, dash)
    yield Rect(box, pen, "copper_wash" if held else "sheet", 4.0)
    y = box.y + 3
    for number, (text, role) in enumerate(label.lines):
        line = Box(box.x + 6, y, box.width - 10, LINE_HIGH)
        yield Text(text, line, NAME_PX if not number else SMALL_PX, role, "left", bold=not number)
        y += LINE_HIGH


def _scale_bar(bus: Bus, spots: Mapping[str, Point], height: float) -> Iterator[Shape]:
    """Draw how long the line is, below all."""
    if len(bus.trunk) < 2:
        return
    left, right = spots[bus.trunk[0]].x, spots[bus.trunk[-1]].x
    y = height - FOOT / 2 - 4
    yield Path((Point(left, y), Point(right, y)), Pen("faint", 1.0))
    for x in (left, right):
        yield Path((Point(x, y - 4), Point(x, y + 4)), Pen("faint", 1.0))
    words = f"{bus.length_m:.3g} m" + (
        f", {counted(len(bus.unknown), 'length')} not known, 1 m each" if bus.unknown else ""
    )
    wide = width_of(words, SMALL_PX, "B612-Regular") + 10
    middle = Point((left + right) / 2, y)
    yield Rect(around(middle, wide / 2, 8), None, "paper")
    yield Text(words, around(middle, wide / 2, 8), SMALL_PX, "faint", whole=True)
