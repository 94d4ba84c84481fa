"""What the modules of a bus see of a bit in time, as a drawing."""

from collections.abc import Callable, Iterator

from molvik.circuits.bus.eye import Eye, Sees
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around
from molvik.reference.bus import DOMINANT_V, RECESSIVE_V, SAMPLE

SMALL_PX = 11
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
