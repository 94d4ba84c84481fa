"""Time against current as a drawing: the fuse's band, what the wire stands, what flows."""

import math
from collections.abc import Iterator

from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text, along
from molvik.lazy import cached_property
from molvik.sizes.curves import FROM_S, TO_S, Curve, Curves
from molvik.wording import figures

LEFT, RIGHT, TOP, BOTTOM = 52.0, 14.0, 22.0, 30.0
"""Room beside the axes."""

BAND = "#EEDAB5"
"""Where the fuse opens: the role of what is live, light."""

TIMES = (
    (0.01, "10 ms"),
    (0.1, "0.1 s"),
    (1.0, "1 s"),
    (10.0, "10 s"),
    (60.0, "1 min"),
    (600.0, "10 min"),
    (3600.0, "1 h"),
    (36_000.0, "10 h"),
    (360_000.0, "100 h"),
)

DASH, DOTS = (9.0, 5.0), (1.5, 3.5)


class CurveDrawing:
    """The curves of a wire on logarithmic axes, in so much room."""

    def __init__(self, curves: Curves, width: float, height: float) -> None:
        self.curves, self.width, self.height = curves, width, height
        self.box = Box(LEFT, TOP, width - LEFT - RIGHT, height - TOP - BOTTOM)

    @cached_property
    def span_a(self) -> tuple[float, float]:
        """Return the currents at both ends of the axis, whole decades, A."""
        curves = self.curves
        every = [amps for curve in (curves.quick, curves.slow, curves.stands) for amps, _ in curve]
        inrush = curves.inrush[0] if curves.inrush else None
        every += [amps for amps in (curves.load_a, curves.short_a, inrush) if amps]
        least = math.floor(math.log10(max(0.1, min(every))))
        return 10.0**least, 10.0 ** math.ceil(math.log10(max(every)))

    def place(self, amps: float, seconds: float) -> Point:
        """Return where a current and a time are."""
        first, last = self.span_a
        across = math.log(amps / first) / math.log(last / first)
        up = math.log(seconds / FROM_S) / math.log(TO_S / FROM_S)
        box = self.box
        return Point(box.x + across * box.width, box.y + (1 - up) * box.height)

    @cached_property
    def scene(self) -> Scene:
        """Return the drawing. Its areas: the curves and currents, in words."""
        return Scene(self.width, self.height, tuple(self._shapes()), tuple(self._areas()))

    def _shapes(self) -> Iterator[Shape]:
        curves = self.curves
        band = self._points(curves.slow) + self._points(curves.quick)[::-1]
        yield Path(band, Pen("live", 1.2), closed=True, fill=BAND)
        yield from self._axes()
        yield Path(self._points(curves.stands), Pen("proved", 2.6))
        yield Path(self._points(curves.melts), Pen("stop", 2.0, DASH))
        yield from self._currents()
        if curves.inrush is not None:
            spot = self.place(*curves.inrush)
            yield Oval(Box(spot.x - 4.5, spot.y - 4.5, 9, 9), Pen("ink", 1.6), "paper")
            words = Box(spot.x - 126, spot.y - 8, 118, 16)
            yield Text(
                f"inrush {figures(curves.inrush[0])} A", words, 11, "ink", "right", bold=True
            )
        yield from self._legend()

    def _points(self, curve: Curve) -> tuple[Point, ...]:
        """Return a curve within the axes; where it leaves them it ends at the edge."""
        points = [self.place(*one) for one in curve]
        inside: list[Point] = []
        for index, point in enumerate(points):
            if point.x <= self.box.right:
                inside.append(point)
            elif inside:
                last = points[index - 1]
                share = (self.box.right - last.x) / (point.x - last.x)
                inside.append(Point(self.box.right, last.y + (point.y - last.y) * share))
                break
        return tuple(inside)

    def _axes(self) -> Iterator[Shape]:
        box = self.box
        for seconds, name in TIMES:
            y = self.place(self.span_a[0], seconds).y
            yield Path((Point(box.x, y), Point(box.right, y)), Pen("rule", 1.0))
            yield Text(name, Box(0, y - 8, LEFT - 6, 16), 11, "faint", "right", whole=True)
        decade = self.span_a[0]
        while decade <= self.span_a[1] * 1.01:
            x = self.place(decade, 1.0).x
            yield Path((Point(x, box.y), Point(x, box.bottom)), Pen("rule", 1.0))
            words = Box(min(x - 40, self.width - 80), box.bottom + 4, 80, 16)
            yield Text(f"{decade:g} A", words, 11, "faint", whole=True)
            decade *= 10
        corners = (
            Point(box.x, box.y),
            Point(box.right, box.y),
            Point(box.right, box.bottom),
            Point(box.x, box.bottom),
        )
        yield Path(corners, Pen("line", 1.2), closed=True)

    def _flows(self) -> Iterator[tuple[str, float, str]]:
        """Yield the currents that are marked: name, A, role."""
        for name, amps, role in (
            ("load", self.curves.load_a, "ink"),
            ("short", self.curves.short_a, "stop"),
        ):
            if amps and self.span_a[0] <= amps <= self.span_a[1]:
                yield name, amps, role

    def _currents(self) -> Iterator[Shape]:
        for name, amps, role in self._flows():
            x = self.place(amps, 1.0).x
            yield Path((Point(x, self.box.y), Point(x, self.box.bottom)), Pen(role, 1.4, DOTS))
            words = Box(x - 60, 4, 120, 16)
            yield Text(f"{name} {figures(amps)} A", words, 11, role, bold=True, whole=True)

    def _legend(self) -> Iterator[Shape]:
        """What the lines are, where no curve goes."""
        x, y = self.width - RIGHT - 196.0, TOP + 14.0
        yield Rect(Box(x - 6, y - 9, 190, 52), None, "sheet", 4.0)
        for name, pen in (
            (f"{self.curves.fuse} blows in here", Pen("live", 3.0)),
            ("the wire stands it", Pen("proved", 3.0)),
            ("its copper melts", Pen("stop", 3.0, DASH)),
        ):
            yield Path((Point(x, y), Point(x + 22, y)), pen)
            yield Text(name, Box(x + 28, y - 8, 168, 16), 11, "ink", "left")
            y += 16

    def _areas(self) -> Iterator[Area]:
        curves = self.curves
        fuse = curves.fuse
        for ref, words, curve in (
            ("latest", f"The latest {fuse} blows, as its standard permits", curves.slow),
            ("earliest", f"The earliest {fuse} blows", curves.quick),
            ("stands", "What the wire's insulation can take", curves.stands),
            ("melts", "Where the wire's copper melts", curves.melts),
        ):
            points = self._points(curve)
            if len(points) > 1:
                yield along(ref, words, *points)
        for name, amps, _ in self._flows():
            x = self.place(amps, 1.0).x
            said = {"load": "What the wire carries", "short": "A dead short at its far end"}[name]
            ends = Point(x, self.box.y), Point(x, self.box.bottom)
            yield along(name, f"{said}: {figures(amps)} A", *ends)
