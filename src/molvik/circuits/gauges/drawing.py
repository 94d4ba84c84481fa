"""What a gauge shows less what is, over its range; what a computer sees of a sensor."""

import math
from collections.abc import Callable, Iterator

from molvik.circuits.gauges.inputs import Input
from molvik.circuits.gauges.matching import FINE_SHARE, Match
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, around
from molvik.reference.inputs import FAULT_V, REFERENCE_V

LEFT, RIGHT, TOP, BOTTOM = 52.0, 18.0, 28.0, 30.0
SMALL_PX, DASH = 11, (7.0, 4.0)


def error_scene(match: Match, width: float, height: float) -> Scene | None:
    """Return the error of a gauge over its range; None where nothing is known of it."""
    if not match.errors:
        return None
    box = Box(LEFT, TOP, width - LEFT - RIGHT, height - TOP - BOTTOM)
    known = [off for _, off in (*match.errors, *match.after) if off is not None]
    known += [match.worst, FINE_SHARE * (match.high - match.low)]
    most = _round_up(max(abs(off) for off in known) * 1.1) or 1.0

    def place(at: float, off: float) -> Point:
        across = (at - match.low) / (match.high - match.low)
        return Point(box.x + box.width * across, box.middle.y - box.height / 2 * off / most)

    fine = FINE_SHARE * (match.high - match.low)
    a, b = place(match.low, fine), place(match.high, -fine)
    shapes: list[Shape] = [Rect(Box(a.x, a.y, b.x - a.x, b.y - a.y), None, "side")]
    for off in (-most, 0.0, most):
        point = place(match.low, off)
        pen = Pen("faint", 1.2) if off == 0 else Pen("rule", 1.0)
        shapes.append(Path((point, Point(box.right, point.y)), pen))
        label = Box(0, point.y - 8, LEFT - 6, 16)
        shapes.append(Text(f"{off:+g}" if off else "0", label, SMALL_PX, "faint", "right"))
    for number in range(5):
        at = match.low + (match.high - match.low) * number / 4
        x = place(at, 0.0).x
        shapes.append(Path((Point(x, box.y), Point(x, box.bottom)), Pen("rule", 1.0)))
        left = min(max(0.0, x - 30), width - 60)
        words = Box(left, box.bottom + 5, 60, 16)
        shapes.append(Text(f"{at:.3g}", words, SMALL_PX, "faint", whole=True))
    shapes += _line(match.errors, place, Pen("stop", 2.4))
    shapes += _line(match.after, place, Pen("proved", 2.4, DASH))
    shapes.append(Text(match.says, Box(LEFT, 4, box.width, 18), 12, "ink", "left"))
    return Scene(
        width, height, tuple(shapes), (Area(box, match.gauge, f"{match.name}: {match.says}"),)
    )


def _line(
    errors: tuple[tuple[float, float | None], ...], place: Callable[[float, float], Point], pen: Pen
) -> Iterator[Path]:
    """Draw errors as lines; where the gauge is at an end of its scale there is none."""
    points: list[Point] = []
    for at, off in errors:
        if off is not None:
            points.append(place(at, off))
            continue
        if len(points) > 1:
            yield Path(tuple(points), pen)
        points = []
    if len(points) > 1:
        yield Path(tuple(points), pen)


def _round_up(value: float) -> float:
    """Return the next of 1, 2, 5, 10, 20, 50 …"""
    if value <= 0:
        return 0.0
    decade = 10.0 ** math.floor(math.log10(value))
    return next(step * decade for step in (1.0, 2.0, 5.0, 10.0) if step * decade >= value * 0.999)


def input_scene(seen: Input, width: float, height: float) -> Scene:
    """Return what a computer sees of a sensor over temperature, with what it takes for broken."""
    box = Box(LEFT, TOP, width - LEFT - RIGHT, height - TOP - BOTTOM)
    first, last = seen.volts[0][0], seen.volts[-1][0]

    def place(celsius: float, volts: float) -> Point:
        across = (celsius - first) / (last - first)
        return Point(box.x + box.width * across, box.bottom - box.height * volts / REFERENCE_V)

    shapes: list[Shape] = []
    for low, high in ((0.0, FAULT_V[0]), (FAULT_V[1], REFERENCE_V)):
        a, b = place(first, high), place(last, low)
        shapes.append(Rect(Box(a.x, a.y, b.x - a.x, b.y - a.y), None, "stop_wash"))
    for volts in range(6):
        point = place(first, volts)
        shapes.append(Path((point, Point(box.right, point.y)), Pen("rule", 1.0)))
        label = Box(0, point.y - 8, LEFT - 6, 16)
        shapes.append(Text(f"{volts} V", label, SMALL_PX, "faint", "right"))
    for celsius in (first, 0.0, 50.0, 100.0, last):
        x = place(celsius, 0.0).x
        shapes.append(Path((Point(x, box.y), Point(x, box.bottom)), Pen("rule", 1.0)))
        left = min(max(0.0, x - 30), width - 60)
        words = Box(left, box.bottom + 5, 60, 16)
        shapes.append(Text(f"{celsius:g} °C", words, SMALL_PX, "faint", whole=True))
    shapes.append(Path(tuple(place(*one) for one in seen.volts), Pen("copper", 2.4)))
    at = min(seen.volts, key=lambda one: abs(one[0] - seen.at))
    shapes.append(Oval(around(place(*at), 5.0, 5.0), Pen("copper", 2.2), "sheet"))
    shapes.append(Text(seen.says, Box(LEFT, 4, box.width, 18), 12, "ink", "left"))
    return Scene(width, height, tuple(shapes), (Area(box, seen.sensor, seen.says),))
