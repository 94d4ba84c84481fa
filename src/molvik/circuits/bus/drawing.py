"""A bus as a drawing: its line and stubs to scale, and what its modules see of a bit in time."""

import itertools
import math
from collections.abc import Callable, Iterator, Mapping
from typing import NamedTuple

from molvik.circuits.bus.eye import AS_IT_IS, Eye, Sees, WhatIf
from molvik.circuits.bus.meter import Reads
from molvik.circuits.bus.topology import Bus, Member
from molvik.drawing.labelling import Put, Wanted, about, band, outline
from molvik.drawing.labelplacing import place_labels
from molvik.drawing.lettering import width_of
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around
from molvik.model.parts import End
from molvik.parsing.quantities import ohm_text
from molvik.reference.bus import DOMINANT_V, RECESSIVE_V, SAMPLE
from molvik.wording import counted

EDGE, FOOT, STUB_LEAST = 46.0, 26.0, 26.0
LEAST_SHARE = 0.6
"""The line is drawn no shorter than this share of the room for the sake of long stubs, which are
cut short instead: how long they are stands beside them."""

BOX_WIDE, LINE_HIGH = 132.0, 15.0
NAME_PX, SMALL_PX = 12, 11
APART = 3.5
"""How far the two wires of the line are from its middle, px."""

RESISTOR = (7.0, 20.0)


class Shown(NamedTuple):
    """What is known of a bus as it is drawn. reads: what the meter shows at each place; sees: of
    the members that receive; what_if: what is otherwise than in the job.
    """

    bus: Bus
    reads: Mapping[str, Reads]
    sees: Mapping[str, Sees]
    sender: str
    what_if: WhatIf = AS_IT_IS


def line_scene(shown: Shown, width: float, height: float, hand: str = "") -> Scene:
    """Return the line from end to end with its stubs, all lengths to one scale, and what hangs on
    it with what a meter shows there and what it sees.
    """
    bus = shown.bus
    spots = _spots(bus, width, height)
    shapes: list[Shape] = []
    solid = []
    for begin, end in _legs(bus, spots):
        shapes += _pair(begin, end)
        solid += list(band((begin, end), 4 * APART))
    for point in spots.values():
        shapes.append(Oval(around(point, 3.0, 3.0), None, "ink"))
        solid.append(outline(around(point, 7, 7)))
    for member in bus.members:
        if member.at in spots and (member.terminates or member.at in shown.what_if.ends):
            out = member.code in shown.what_if.out
            if not out or member.at in shown.what_if.ends:
                shapes += _terminator(spots[member.at])
                solid.append(outline(_terminated(spots[member.at])))
    for place in shown.what_if.ends:
        if place in spots:
            shapes += _terminator(spots[place], "copper")
            solid.append(outline(_terminated(spots[place])))
    labels = {
        f"{member.code} {number}": (member, list(_words(shown, member)))
        for number, member in enumerate((*bus.members, *_empty(shown)))
        if member.at in spots
    }
    for place, (leaves, _) in bus.stubs.items():
        middle = Point(spots[place].x + 26, (spots[place].y + spots[leaves].y) / 2)
        solid.append(outline(around(middle, 18, 7)))
    wanted = [
        Wanted(
            key,
            _wide(words),
            LINE_HIGH * len(words) + 6,
            about(spots[member.at], 16, _wide(words), LINE_HIGH * len(words) + 6, 320),
        )
        for key, (member, words) in labels.items()
    ]
    page = Box(2, 2, width - 4, height - FOOT - 4)
    put = place_labels(wanted, solid, page, 4).put
    areas = []
    for key, (member, words) in labels.items():
        if key in put:
            shapes += _box(shown, member, words, put[key], spots[member.at], hand)
            areas.append(Area(put[key].box, member.code, " · ".join(text for text, _ in words)))
        else:
            areas.append(
                Area(around(spots[member.at], 9, 9), member.code, " · ".join(t for t, _ in words))
            )
    known = {member.at for member in bus.members}
    areas += [Area(around(p, 9, 9), code, code) for code, p in spots.items() if code not in known]
    for place, (leaves, far) in bus.stubs.items():
        middle = Point(spots[place].x + 26, (spots[place].y + spots[leaves].y) / 2)
        shapes.append(Text(f"{far:.2g} m", around(middle, 18, 7), SMALL_PX, "faint", whole=True))
    shapes += _scale_bar(bus, spots, height)
    return Scene(width, height, tuple(shapes), tuple(areas))


def _empty(shown: Shown) -> Iterator[Member]:
    """Yield the ends of the line at which nothing is, as if something were."""
    bus = shown.bus
    known = {member.at for member in bus.members}
    for place in bus.places:
        ends_here = sum(place in (one.a, one.b) for one in bus.stretches) <= 1
        if place not in known and ends_here:
            nothing = End(place)
            yield Member(place, "", place, nothing, nothing, math.inf, 0.0, "empty")


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


Words = list[tuple[str, str]]
"""Lines with their roles."""


def _words(shown: Shown, member: Member) -> Iterator[tuple[str, str]]:
    """Yield what stands in the box of a member, and in which role."""
    out = member.code in shown.what_if.out
    yield f"{member.code} {member.name}", "stop" if out else "ink"
    read = shown.reads.get(member.at)
    if read is not None:
        yield ("open" if read.ohm > 1e5 else ohm_text(read.ohm)), "faint"
    if member.sort == "empty":
        yield "nothing is plugged in", "live_text"
    elif out:
        yield "unplugged", "stop"
    elif member.code == shown.sender:
        yield "sends", "copper"
    elif (seen := shown.sees.get(member.code)) is not None:
        if seen.reads_right:
            yield f"✓ reads, {seen.free_v:.2f} V left", "proved"
        else:
            yield "✗ misreads" if seen.dominant_v is not None else "✗ sees no bit", "stop"
    elif member.half:
        yield "✗ one wire only", "stop"


def _wide(words: Words) -> float:
    longest = max(width_of(text, NAME_PX, "B612-Bold") for text, _ in words)
    return min(BOX_WIDE + 40, longest + 14)


def _box(
    shown: Shown, member: Member, words: Words, put: Put, at: Point, hand: str
) -> Iterator[Shape]:
    box = put.box
    if put.leader:
        yield Path(put.leader, Pen("faint", 1.0))
    else:
        near = Point(min(max(at.x, box.x), box.right), min(max(at.y, box.y), box.bottom))
        yield Path((at, near), Pen("faint", 1.0))
    out = member.code in shown.what_if.out
    held = member.code == hand
    pen = Pen("copper" if held else "faint", 2.2 if held else 1.2, (4.0, 3.0) if out else ())
    yield Rect(box, pen, "copper_wash" if held else "sheet", 4.0)
    y = box.y + 3
    for number, (text, role) in enumerate(words):
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


# the wave

Place = Callable[[float, float], Point]
"""Where a time, ns, and a voltage, V, are in the drawing."""

LEFT, RIGHT, TOP, BOTTOM = 44.0, 16.0, 26.0, 26.0
LEAST_V, MOST_V = -1.0, 3.0
POINTS = 700
"""So many points of a curve are drawn."""


def wave_scene(made: Eye, width: float, height: float, hand: str = "") -> Scene:
    """Return the voltage between the two wires at each module over a bit that is sent and the one
    after it, with where each samples them. hand: the module that is drawn strong, else the worst.
    """
    box = Box(LEFT, TOP, width - LEFT - RIGHT, height - TOP - BOTTOM)
    whole_ns = float(made.wave.times_ns[-1]) or 1.0
    most = max(MOST_V, max(float(volts.max()) for volts in made.wave.volts.values()))
    least = min(LEAST_V, min(float(volts.min()) for volts in made.wave.volts.values()))

    def place(ns: float, volts: float) -> Point:
        up = (volts - least) / (most - least)
        return Point(box.x + box.width * ns / whole_ns, box.y + (1 - up) * box.height)

    strong = next((one for one in made.sees if one.member.code == hand), None)
    if strong is None and made.sees:
        strong = min(made.sees, key=lambda one: one.free_v)
    shapes: list[Shape] = [*_bands(place, whole_ns, most, least)]
    shapes += _axes(place, made, whole_ns, box)
    at = strong.member.at if strong else ""
    seen = {one.member.at for one in made.sees}
    for name in seen:
        if name != at:
            shapes.append(_curve(made, name, place, Pen("line", 1.4)))
    if strong is not None:
        shapes.append(_curve(made, at, place, Pen("copper", 2.4)))
        shapes += _samples(made, strong, place)
    shapes.append(Text(_said(made, strong), Box(LEFT, 4, box.width, 18), 12, "ink", "left"))
    areas = [Area(Box(LEFT, TOP, box.width, box.height), hand, _said(made, strong))]
    return Scene(width, height, tuple(shapes), tuple(areas))


def _bands(place: Place, whole_ns: float, most: float, least: float) -> Iterator[Shape]:
    """Shade what is dominant and what is recessive; between them nothing is sure."""
    for low, high, words in (
        (DOMINANT_V, most, "dominant"),
        (least, RECESSIVE_V, "recessive"),
    ):
        a, b = place(0.0, high), place(whole_ns, low)
        yield Rect(Box(a.x, a.y, b.x - a.x, b.y - a.y), None, "side")
        y = a.y + 3 if words == "dominant" else b.y - 17
        yield Text(words, Box(b.x - 90, y, 84, 14), SMALL_PX, "faint", "right")
    for volts in (DOMINANT_V, RECESSIVE_V):
        a, b = place(0.0, volts), place(whole_ns, volts)
        yield Path((a, b), Pen("stop", 1.2, (6.0, 4.0)))
        top = a.y - (13 if volts == DOMINANT_V else 3)  # they are near each other
        yield Text(f"{volts:g} V", Box(0, top, LEFT - 6, 16), SMALL_PX, "stop", "right")


def _axes(place: Place, made: Eye, whole_ns: float, box: Box) -> Iterator[Shape]:
    for volts in (0.0, 2.0):
        point = place(0.0, volts)
        yield Path((point, Point(box.right, point.y)), Pen("rule", 1.0))
        yield Text(f"{volts:g} V", Box(0, point.y - 8, LEFT - 6, 16), SMALL_PX, "faint", "right")
    for number in range(3):
        x = place(number * whole_ns / 2, 0.0).x
        yield Path((Point(x, box.y), Point(x, box.bottom)), Pen("rule", 1.0))
        words = f"{number * whole_ns / 2000:g} µs"
        left = min(x - 40, box.right - 70)
        yield Text(words, Box(left, box.bottom + 4, 80, 16), SMALL_PX, "faint", whole=True)


def _curve(made: Eye, name: str, place: Place, pen: Pen) -> Path:
    times, volts = made.wave.times_ns, made.wave.volts[name]
    step = max(1, len(times) // POINTS)
    points = [
        place(float(ns), float(v)) for ns, v in zip(times[::step], volts[::step], strict=True)
    ]
    return Path(tuple(points), pen)


def _samples(made: Eye, seen: Sees, place: Place) -> Iterator[Shape]:
    """Mark where a module samples the two bits."""
    if seen.dominant_v is None or seen.recessive_v is None:
        return
    bit = float(made.wave.times_ns[-1]) / 2
    volts = made.wave.volts[seen.member.at]
    above = (volts > DOMINANT_V).argmax()
    edge = float(made.wave.times_ns[above])
    for number, sampled in enumerate((seen.dominant_v, seen.recessive_v)):
        point = place(min(edge + (number + SAMPLE) * bit, 2 * bit), sampled)
        right = (sampled > DOMINANT_V) if number == 0 else (sampled < RECESSIVE_V)
        role = "proved" if right else "stop"
        yield Oval(around(point, 5.5, 5.5), Pen(role, 2.4), "sheet")


def _said(made: Eye, seen: Sees | None) -> str:
    """Say what a module sees of the bit."""
    if seen is None:
        return f"{made.sender} sends, and nobody is there to read it."
    name = f"{seen.member.code} {seen.member.name}"
    if seen.dominant_v is None or seen.recessive_v is None:
        return f"{made.sender} sends at {made.kbit_s:g} kbit/s: {name} sees no bit at all."
    verdict = f"{seen.free_v:.2f} V left" if seen.reads_right else "it misreads"
    late = "" if made.in_time else " The line is too long: no answer comes back within the bit."
    return (
        f"{made.sender} sends at {made.kbit_s:g} kbit/s: {name} samples "
        f"{round(seen.dominant_v, 2):.2f} V and {round(seen.recessive_v, 2) + 0.0:.2f} V, "
        f"{verdict}.{late}"
    )
