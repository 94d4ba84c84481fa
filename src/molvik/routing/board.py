"""A loom at full size, as it lies on the board: one unit of the drawing is a millimetre."""

import math
from collections.abc import Mapping
from typing import NamedTuple

from molvik.drawing.scene import (
    Area,
    Box,
    Oval,
    Path,
    Pen,
    Point,
    Rect,
    Scene,
    Shape,
    Text,
    along,
    at_share,
)
from molvik.model.routing import LoomNode, Routing
from molvik.netlist.placing import UNKNOWN_M, Placed
from molvik.routing.drawing import Plug, plug_shapes
from molvik.routing.sections import Section
from molvik.wording import figures

MARGIN_MM, FOOT_MM = 60.0, 40.0
LEAST_MM = 2.0
"""A stretch in which nothing with a size lies is drawn so thick."""

RULER_MM = 100.0


class Laid(NamedTuple):
    """A stretch on the board. path: its corners, in mm from the upper left; thick_mm: over all;
    length_m as it is measured, None where it is not.
    """

    run: str
    path: tuple[Point, ...]
    thick_mm: float
    length_m: float | None


class Board(NamedTuple):
    """A loom on the board. width_mm, height_mm: what it takes; places: of each joint, mm; plugs:
    from outside, by the joints they sit at, each with which way it points, radians.
    """

    name: str
    width_mm: float
    height_mm: float
    runs: tuple[Laid, ...]
    joints: tuple[LoomNode, ...]
    places: dict[str, Point]
    plugs: dict[str, tuple[Plug, float]]


def lay_on_board(
    routing: Routing,
    loom: str,
    sections: Mapping[str, Section],
    placed: Placed | None,
    plugs: Mapping[str, Plug],
) -> Board:
    """Return a loom at full size. Raises ValueError where there is nothing to lay out."""
    made = next((one for one in routing.looms if one.code == loom), None)
    joints = tuple(joint for joint in routing.joints if joint.loom == loom)
    if made is None or not joints or placed is None:
        raise ValueError(f"There is no loom {loom or '?'} with ends to lay on a board.")
    corners = [*placed.places.values(), *(p for path in placed.paths.values() for p in path)]
    left, top = min(p.x for p in corners), min(p.y for p in corners)

    def full(point: Point) -> Point:
        return Point(MARGIN_MM + (point.x - left) * 1000, MARGIN_MM + (point.y - top) * 1000)

    places = {code: full(point) for code, point in placed.places.items()}
    runs = tuple(
        Laid(
            run.code,
            tuple(map(full, placed.paths[run.code])),
            max(LEAST_MM, sections[run.code].over_mm),
            run.length_m,
        )
        for run in routing.runs
        if run.code in placed.paths
    )
    width = max(full(point).x for point in corners) + MARGIN_MM
    height = max(full(point).y for point in corners) + MARGIN_MM + FOOT_MM
    turned = {code: (plug, _points(code, routing, placed)) for code, plug in plugs.items()}
    return Board(made.name, width, height, runs, joints, places, turned)


def _points(joint: str, routing: Routing, placed: Placed) -> float:
    """Return which way a joint points, away from what it hangs on, radians."""
    for run in routing.runs:
        path = placed.paths.get(run.code, ())
        if path and joint in (run.start, run.finish):
            end, before = (path[-1], path[-2]) if run.finish == joint else (path[0], path[1])
            return math.atan2(end.y - before.y, end.x - before.x)
    return 0.0


def board_scene(board: Board) -> Scene:
    """Return a board as a drawing, with a ruler to check the printer by."""
    shapes: list[Shape] = []
    areas: list[Area] = []
    for laid in board.runs:
        shapes.append(Path(laid.path, Pen("line", laid.thick_mm, round=True)))
    for laid in board.runs:
        shapes.append(Path(laid.path, Pen("ink", 0.3, (4.0, 2.0))))
        middle = halfway(laid.path)
        length = f"{figures(laid.length_m)} m" if laid.length_m else f"drawn {UNKNOWN_M:g} m"
        words = f"{laid.run}  {length}  {laid.thick_mm:.0f} mm"
        box = Box(middle.x - 40, middle.y + laid.thick_mm / 2 + 1, 80, 5)
        shapes.append(Text(words, box, 4, "faint", whole=True))
        areas.append(along(laid.run, words, *laid.path))
    for code, (plug, angle) in board.plugs.items():
        shapes += plug_shapes(plug, board.places[code], angle, Pen("ink", 0.5), 1.0)
    for joint in board.joints:
        spot = board.places[joint.code]
        shapes.append(Oval(Box(spot.x - 3, spot.y - 3, 6, 6), Pen("ink", 0.5), "sheet"))
        words = f"{joint.code} {joint.name}"
        if joint.carries:
            words += f" ({', '.join(joint.carries[:4])}{' …' if len(joint.carries) > 4 else ''})"
        if joint.code in board.plugs and board.plugs[joint.code][0].up:
            words += f", top: {board.plugs[joint.code][0].up}"
        shapes.append(Text(words, Box(spot.x + 5, spot.y - 9, 120, 7), 5, "ink", "left", bold=True))
        areas.append(Area(Box(spot.x - 4, spot.y - 4, 8, 8), joint.code, words))
    shapes += ruler(MARGIN_MM, board.height_mm - 18)
    title = Box(MARGIN_MM + RULER_MM + 40, board.height_mm - 24, 300, 10)
    shapes.append(Text(f"{board.name}, full size", title, 7, "ink", "left", bold=True))
    return Scene(board.width_mm, board.height_mm, tuple(shapes), tuple(areas))


def halfway(path: tuple[Point, ...]) -> Point:
    """Return the middle of a path."""
    return at_share(path, 0.5)[0]


def ruler(x: float, y: float) -> list[Shape]:
    """Return a ruler of 100 mm from a place on: measured on paper, it says what the printer did."""
    pen = Pen("ink", 0.3)
    shapes: list[Shape] = [Path((Point(x, y), Point(x + RULER_MM, y)), pen)]
    for at in range(0, int(RULER_MM) + 1, 10):
        high = 5.0 if at % 50 == 0 else 3.0
        shapes.append(Path((Point(x + at, y), Point(x + at, y - high)), pen))
    shapes.append(Text("100 mm", Box(x + RULER_MM + 2, y - 5, 30, 6), 4, "ink", "left"))
    return shapes


def frame(width: float, height: float) -> Shape:
    """Return the edge of a tile."""
    return Rect(Box(0, 0, width, height), Pen("faint", 0.2, (2.0, 2.0)))
