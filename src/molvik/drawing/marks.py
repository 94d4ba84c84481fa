"""Marks on the cavities of a face: told by their shape as well as by their colour."""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.drawing.scene import Box, Oval, Path, Pen, Point, Rect, Shape

Mark = Literal["", "lit", "passed", "failed", "touches", "again", "one", "other"]
"""Nothing; what the drawing is about; how it was found; which of two groups it is tied to."""


class Marked(NamedTuple):
    """A mark, and what it says of that place in words."""

    mark: Mark = ""
    words: str = ""


FOUND: tuple[tuple[Mark, str], ...] = (
    ("passed", "passed"),
    ("failed", "failed"),
    ("touches", "shorted to another"),
    ("again", "measure again"),
    ("", "not measured"),
)
"""The marks of what was found, with their names."""

TIED: tuple[tuple[Mark, str], ...] = (
    ("one", "tied to the red probe"),
    ("other", "tied to the black probe"),
)
"""The marks of two groups that are measured against each other, with their names."""


def under(box: Box, mark: Mark) -> Iterator[Shape]:
    """Yield what lies below what is in a cavity."""
    box = box.grown(-1, -1)
    match mark:
        case "failed" | "touches":
            yield Rect(box, Pen("stop", 2.4), "stop_wash", 4.0)
        case "again":
            yield Rect(box, Pen("live_text", 1.6, (3.2, 2.4)), "", 4.0)
        case "one":
            yield Rect(box, Pen("stop", 2.0), "stop_wash", box.height / 2)
        case "other":
            yield Rect(box, Pen("ink", 2.0), "line", 0.0)
        case _:
            pass


def over(box: Box, centre: Point, radius: float, mark: Mark) -> Iterator[Shape]:
    """Yield what lies over what is in a cavity. centre, radius: of what is in it."""
    reach = min(box.width, box.height) * 0.36
    match mark:
        case "lit":
            edge = radius + min(box.width, box.height) * 0.05
            yield Oval(
                Box(centre.x - edge, centre.y - edge, 2 * edge, 2 * edge), Pen("copper", 1.8)
            )
        case "failed":
            for way in (1, -1):
                yield Path(
                    (
                        Point(centre.x - radius, centre.y - way * radius),
                        Point(centre.x + radius, centre.y + way * radius),
                    ),
                    Pen("stop", 2.2, round=True),
                )
        case "touches":
            for up in (-0.35, 0.35):
                y = centre.y + up * radius
                yield Path((Point(box.x + 1, y), Point(box.right - 1, y)), Pen("stop", 2.2))
        case "passed":
            tick = (Point(-0.9, 0.1), Point(-0.25, 0.75), Point(1.0, -0.7))
            place = Point(box.right - reach * 0.75, box.bottom - reach * 0.6)
            points = tuple(
                Point(place.x + p.x * reach * 0.6, place.y + p.y * reach * 0.6) for p in tick
            )
            yield Path(points, Pen("sheet", 4.2, round=True))
            yield Path(points, Pen("proved", 2.2, round=True))
        case _:
            pass
