"""What a drawing is made of. Lengths in pixels at its usual size, y downwards. Colours by role
(drawing/roles.py), or "#RRGGBB" where a thing has its own, as wires have.
"""

import math
from collections.abc import Callable
from itertools import pairwise
from typing import Literal, NamedTuple


class Point(NamedTuple):
    """A place in a drawing."""

    x: float
    y: float


class Box(NamedTuple):
    """A rectangle, by its top left."""

    x: float
    y: float
    width: float
    height: float

    @property
    def middle(self) -> Point:
        """Its centre."""
        return Point(self.x + self.width / 2, self.y + self.height / 2)

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """Its lower edge."""
        return self.y + self.height

    def grown(self, across: float, down: float) -> "Box":
        """Return it wider and higher on each side; narrower for less than nothing."""
        return Box(self.x - across, self.y - down, self.width + 2 * across, self.height + 2 * down)

    def holds(self, x: float, y: float) -> bool:
        """Return whether a place is in it."""
        return self.x <= x <= self.right and self.y <= y <= self.bottom

    def covers(self, other: "Box") -> bool:
        """Return whether another lies in it whole."""
        return self.holds(other.x, other.y) and self.holds(other.right, other.bottom)

    def overlaps(self, other: "Box") -> bool:
        """Return whether another has an area in common with it."""
        across = self.x < other.right and other.x < self.right
        return across and self.y < other.bottom and other.y < self.bottom


def around(middle: Point, across: float, down: float) -> Box:
    """Return the box that reaches so far from its middle to each side."""
    return Box(middle.x - across, middle.y - down, 2 * across, 2 * down)


class Pen(NamedTuple):
    """A line's look. dash: drawn and left out, in pixels, from its beginning. round: its ends."""

    role: str
    width: float
    dash: tuple[float, ...] = ()
    round: bool = False


class Path(NamedTuple):
    """Straight lines from point to point. fill: the role of its area, empty for none."""

    points: tuple[Point, ...]
    pen: Pen | None
    closed: bool = False
    fill: str = ""


class Oval(NamedTuple):
    """An ellipse within a box."""

    box: Box
    pen: Pen | None
    fill: str = ""


class Rect(NamedTuple):
    """A rectangle with its corners rounded by a radius."""

    box: Box
    pen: Pen | None
    fill: str = ""
    radius: float = 0.0


class Text(NamedTuple):
    """Words in a box, in the middle of its height, cut short where they are wider. whole: never
    cut, as numbers must not be. turn: deg, clockwise about the middle of the box.
    """

    words: str
    box: Box
    pixels: float
    role: str
    align: Literal["left", "middle", "right"] = "middle"
    bold: bool = False
    mono: bool = False
    whole: bool = False
    turn: float = 0.0


Shape = Path | Oval | Rect | Text


def moved(shape: Shape, scale: float, by: Point) -> Shape:
    """Return a shape so many times as large, seen from the upper left of all, and then moved."""

    def point(at: Point) -> Point:
        return Point(at.x * scale + by.x, at.y * scale + by.y)

    def box(of: Box) -> Box:
        return Box(*point(Point(of.x, of.y)), of.width * scale, of.height * scale)

    def pen(of: Pen | None) -> Pen | None:
        if of is None:
            return None
        return of._replace(width=of.width * scale, dash=tuple(one * scale for one in of.dash))

    match shape:
        case Path(points):
            return shape._replace(points=tuple(map(point, points)), pen=pen(shape.pen))
        case Text():
            return shape._replace(box=box(shape.box), pixels=shape.pixels * scale)
        case Oval():
            return shape._replace(box=box(shape.box), pen=pen(shape.pen))
        case Rect():
            radius = shape.radius * scale
            return shape._replace(box=box(shape.box), pen=pen(shape.pen), radius=radius)


def bounds(shape: Shape) -> Box:
    """Return the box that a shape lies in; of words the one they are written into."""
    if not isinstance(shape, Path):
        return shape.box
    xs, ys = [point.x for point in shape.points], [point.y for point in shape.points]
    half = shape.pen.width / 2 if shape.pen else 0.0
    box = Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
    return box.grown(half, half)


class Area(NamedTuple):
    """Where a thing is drawn. ref: its place as it is written; words: what to say of it. way: the
    line along which it lies, for what is hit near a line rather than in a box.
    """

    box: Box
    ref: str
    words: str
    way: tuple[Point, ...] = ()

    @property
    def middle(self) -> Point:
        """Return where it is pointed at."""
        if len(self.way) < 2:
            return self.box.middle
        half = (len(self.way) - 1) // 2
        begin, end = self.way[half], self.way[half + 1]
        return Point((begin.x + end.x) / 2, (begin.y + end.y) / 2)

    def away(self, x: float, y: float) -> float:
        """Return how far a place is from its line."""
        pairs = zip(self.way, self.way[1:], strict=False)
        return min((from_line(Point(x, y), *pair) for pair in pairs), default=math.inf)


def along(ref: str, words: str, *way: Point) -> Area:
    """Return the area of what lies along a line."""
    xs, ys = [point.x for point in way], [point.y for point in way]
    box = Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
    return Area(box, ref, words, way)


def at_share(line: tuple[Point, ...], share: float) -> tuple[Point, float]:
    """Return a point along a line, and which way it leads there, radians."""
    left = share * sum(math.dist(a, b) for a, b in pairwise(line))
    for a, b in pairwise(line):
        length = math.dist(a, b)
        if left <= length or b == line[-1]:
            part = left / length if length else 0.0
            point = Point(a.x + (b.x - a.x) * part, a.y + (b.y - a.y) * part)
            return point, math.atan2(b.y - a.y, b.x - a.x)
        left -= length
    return line[0], 0.0


def from_line(point: Point, begin: Point, end: Point) -> float:
    """Return how far a point lies from the line between two others."""
    across, down = end.x - begin.x, end.y - begin.y
    square = across * across + down * down
    share = ((point.x - begin.x) * across + (point.y - begin.y) * down) / square if square else 0.0
    share = min(1.0, max(0.0, share))
    return math.hypot(begin.x + across * share - point.x, begin.y + down * share - point.y)


class Scene(NamedTuple):
    """A drawing: shapes in the order they are painted, and what stands where."""

    width: float
    height: float
    shapes: tuple[Shape, ...] = ()
    areas: tuple[Area, ...] = ()

    def said(self, say: Callable[[str], str]) -> "Scene":
        """Return the drawing with its words said otherwise."""
        return self._replace(
            shapes=tuple(
                shape._replace(words=say(shape.words)) if isinstance(shape, Text) else shape
                for shape in self.shapes
            )
        )

    def texts(self) -> tuple[str, ...]:
        """Return its words in the order they are painted."""
        return tuple(text.words for text in self.shapes if isinstance(text, Text))
