"""A day of the vehicle as a drawing: what is given and drawn in each part, and the charge."""

import math
from collections.abc import Iterator

from molvik.circuits.balance import Balance, Drive
from molvik.drawing.scene import Area, Box, Path, Pen, Point, Rect, Scene, Shape, Text
from molvik.reference.charging import EMPTY

LEFT, RIGHT, TOP, BOTTOM = 48.0, 14.0, 20.0, 24.0
BARS, GAP = 0.46, 26.0
"""The share of the height that the bars have, and the gap below them, px."""

SMALL_PX, NAME_PX = 11, 12


class DriveDrawing:
    """A day in so much room. chosen: the number of the part in view, -1 for none."""

    def __init__(self, drive: Drive, width: float, height: float, chosen: int = -1) -> None:
        self._drive, self._width, self._height, self._chosen = drive, width, height, chosen
        inner = height - TOP - BOTTOM - GAP
        self._bars = Box(LEFT, TOP, width - LEFT - RIGHT, inner * BARS)
        below = self._bars.bottom + GAP
        self._curve = Box(LEFT, below, width - LEFT - RIGHT, inner * (1 - BARS))
        played = [one for one in drive.balances if one.leg.minutes > 0]
        # A part of half a day beside one of minutes: wide by the root of how long it takes.
        roots = [math.sqrt(one.leg.minutes) for one in played] or [1.0]
        self._spans: list[tuple[Balance, float, float]] = []
        x = LEFT
        for one, root in zip(played, roots, strict=False):
            wide = self._bars.width * root / sum(roots)
            self._spans.append((one, x, x + wide))
            x += wide

    @property
    def scene(self) -> Scene:
        """Return the drawing. Its areas: the parts of the day, by their numbers."""
        shapes = [*self._parts(), *self._charge()]
        areas = [
            Area(
                Box(left, self._bars.y, right - left, self._curve.bottom - self._bars.y),
                str(self._drive.balances.index(one)),
                said(one),
            )
            for one, left, right in self._spans
        ]
        return Scene(self._width, self._height, tuple(shapes), tuple(areas))

    def _parts(self) -> Iterator[Shape]:
        box = self._bars
        most = max((max(one.loads_a, one.can_a) for one, _, _ in self._spans), default=1.0) or 1.0
        for number, (one, left, right) in enumerate(self._spans):
            here = self._drive.balances.index(one) == self._chosen
            if number % 2 == 0 or here:
                fill = "copper_wash" if here else "side"
                whole = Box(left, box.y - 18, right - left, self._curve.bottom - box.y + 18)
                yield Rect(whole, None, fill)
            wide = min(34.0, (right - left) / 4)
            middle = (left + right) / 2
            for amps, x, role in (
                (one.can_a, middle - wide - 2, "proved"),
                (one.loads_a, middle + 2, "live"),
            ):
                high = box.height * amps / most * 0.86
                yield Rect(Box(x, box.bottom - high, wide, high), Pen("faint", 0.8), role)
                words = Box(x - 14, box.bottom - high - 15, wide + 28, 14)
                yield Text(f"{amps:.0f} A", words, SMALL_PX, "ink", whole=True)
            if one.left_a < 0:
                mark = Box(left + 2, box.bottom + 1, right - left - 4, 14)
                yield Text(f"{one.left_a:.0f} A", mark, SMALL_PX, "stop", bold=True, whole=True)
            name = Box(left + 3, box.y - 18, right - left - 6, 16)
            yield Text(one.leg.name, name, SMALL_PX, "ink", bold=here)
        base = Point(box.x, box.bottom)
        yield Path((base, Point(box.right, box.bottom)), Pen("faint", 1.0))
        yield Text("given,", Box(0, box.y + 4, LEFT - 6, 14), SMALL_PX, "proved", "right")
        yield Text("drawn", Box(0, box.y + 18, LEFT - 6, 14), SMALL_PX, "live_text", "right")

    def _charge(self) -> Iterator[Shape]:
        box = self._curve
        for share in (0.0, 0.5, 1.0):
            y = box.bottom - box.height * share
            yield Path((Point(box.x, y), Point(box.right, y)), Pen("rule", 1.0))
            yield Text(f"{share:.0%}", Box(0, y - 8, LEFT - 6, 16), SMALL_PX, "faint", "right")
        empty = box.bottom - box.height * EMPTY
        yield Path((Point(box.x, empty), Point(box.right, empty)), Pen("stop", 1.2, (6.0, 4.0)))
        words = Box(box.x + 4, empty, 170, 14)
        yield Text("turns no engine below this", words, SMALL_PX, "stop", "left")
        points = [self._place(minute, charge) for minute, charge in self._course()]
        yield Path(tuple(points), Pen("copper", 2.4))
        for one, left, right in self._spans:
            long = one.leg.minutes
            time = f"{long / 60:.3g} h" if long >= 90 else f"{long:.3g} min"
            under = Box(left, box.bottom + 4, right - left, 16)
            yield Text(time, under, SMALL_PX, "faint", whole=True)
        last = points[-1] if points else Point(box.right, box.y)
        ends = f"{self._drive.charge[-1]:.0%}"
        # Above its line, or below it where there is no room above.
        y = last.y - 18 if last.y - 18 >= box.y else last.y + 3
        yield Text(ends, Box(last.x - 44, y, 42, 16), NAME_PX, "copper", "right", bold=True)

    def _course(self) -> Iterator[tuple[float, float]]:
        drive = self._drive
        every = max(1, len(drive.minutes) // 600)
        yield from zip(drive.minutes[::every], drive.charge[::every], strict=True)
        yield drive.minutes[-1], drive.charge[-1]

    def _place(self, minute: float, charge: float) -> Point:
        began = 0.0
        x = self._curve.x
        for one, left, right in self._spans:
            if minute <= began + one.leg.minutes:
                x = left + (right - left) * (minute - began) / one.leg.minutes
                break
            began += one.leg.minutes
            x = right
        return Point(x, self._curve.bottom - self._curve.height * charge)


def said(one: Balance) -> str:
    """Say what comes of a part of the day."""
    if not one.leg.rpm:
        return f"{one.leg.name}: {one.loads_a:.2f} A drawn from the battery"
    left = f"{one.left_a:.0f} A left" if one.left_a >= 0 else f"{-one.left_a:.0f} A short"
    return f"{one.leg.name}: {one.can_a:.0f} A given, {one.loads_a:.0f} A drawn, {left}"
