"""What is drawn in a table of the board: a plug's face from its wire side, fuses, relay sockets.

A face is in its true size where numbers in it can be read, else half as large again or twice, which
is said below it. Fuses and relays are drawn as they lie on the bench, to no scale.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

from molvik.drawing.benchtop import benchtop_scene
from molvik.drawing.face import Frame, face_scene
from molvik.drawing.lettering import width_of
from molvik.drawing.scene import Box, Point, Shape, Text, moved
from molvik.model.geometry import extent
from molvik.model.parts import Connector, Device, Fuse, Part
from molvik.netlist.cavities import cavities_of
from molvik.netlist.network import Network
from molvik.netlist.stands import on_the_bench
from molvik.routing.outlines import outline_mm, pitch_mm

STEP_PX = 30.0
"""From cavity to cavity of a face as it is drawn, px, before it is brought to its size."""

READ_MM = 7.0
"""From cavity to cavity, mm, in which a number of two digits is read at arm's length (our choice:
it is 2 mm high then)."""

SIZES = (1.0, 1.5, 2.0)
LOCK_PX = 8.0
"""What lock and key stick out of a shell, px."""

FOOT_MM, FOOT_TEXT_MM = 5.0, 3.5
BENCH_MM = 0.3
"""Millimetres for a pixel of what lies on the bench: its letters are 3 mm high."""

BENCH_PX = 360.0


class Figure(NamedTuple):
    """A figure with its size, mm; shapes: from its upper left corner."""

    wide_mm: float
    high_mm: float
    shapes: tuple[Shape, ...]

    def at(self, x: float, y: float) -> tuple[Shape, ...]:
        """Return what is drawn with the upper left corner at a place."""
        return tuple(moved(shape, 1.0, Point(x, y)) for shape in self.shapes)


def figure_of(network: Network, parts: Sequence[Part]) -> Figure | None:
    """Return the figure of what sits at a node, None where that has neither face nor socket."""
    plugs = [part for part in parts if isinstance(part, Connector)]
    if plugs:
        return _beside([face_figure(network, plug, coded=len(plugs) > 1) for plug in plugs])
    codes = [part.code for part in parts if _is_pulled(part)]
    stands = on_the_bench(network, codes)
    if not stands:
        return None
    scene = benchtop_scene(stands, BENCH_PX)
    right = max(area.box.right for area in scene.areas)
    return _scaled(right + 4, scene.height, scene.shapes, BENCH_MM)


def _is_pulled(part: Part) -> bool:
    return isinstance(part, Fuse) or (isinstance(part, Device) and part.kind == "relay")


def size_of(plug: Connector) -> float:
    """Return how many times its true size a face is drawn."""
    pitch = pitch_mm(plug)
    return next((size for size in SIZES if size * pitch >= READ_MM), SIZES[-1])


def face_figure(network: Network, plug: Connector, *, coded: bool = False) -> Figure:
    """Return a plug's face from its wire side with its outline, lock, key and numbers. coded: its
    code stands below it.
    """
    pitch, size = pitch_mm(plug), size_of(plug)
    px = STEP_PX / pitch  # so many pixels are a true millimetre
    across, down = extent(plug.grid)
    wide, high = (side * px for side in outline_mm(plug))
    shell = Box(LOCK_PX, LOCK_PX, wide, high)
    inset = Point((wide - across * STEP_PX) / 2, (high - down * STEP_PX) / 2)
    frame = Frame(STEP_PX, shell, numbered=True, inset=inset)
    cavities = cavities_of(plug, network, "wire side")
    face = face_scene(plug, cavities, "wire side", frame).shapes
    drawn = _scaled(wide + 2 * LOCK_PX, high + 2 * LOCK_PX, face, size / px)
    scale = "1:1" if size == 1 else f"{size:g}:1"
    words = f"{plug.code} wire side, {scale}" if coded else f"wire side, {scale}"
    wide_mm = max(drawn.wide_mm, width_of(words, FOOT_TEXT_MM, "B612-Regular") + 2)
    aside = Point((wide_mm - drawn.wide_mm) / 2, 0.0)
    foot = Text(words, Box(0, drawn.high_mm, wide_mm, FOOT_MM), FOOT_TEXT_MM, "faint", whole=True)
    placed = tuple(moved(shape, 1.0, aside) for shape in drawn.shapes)
    return _whole(wide_mm, drawn.high_mm + FOOT_MM, (*placed, foot))


def _whole(wide_mm: float, high_mm: float, shapes: tuple[Shape, ...]) -> Figure:
    """Return a figure that takes whole millimetres: so does the board with it."""
    return Figure(math.ceil(wide_mm), math.ceil(high_mm), shapes)


def _scaled(wide: float, high: float, shapes: Sequence[Shape], scale: float) -> Figure:
    small = tuple(moved(shape, scale, Point(0.0, 0.0)) for shape in shapes)
    return _whole(wide * scale, high * scale, small)


def _beside(figures: Sequence[Figure]) -> Figure:
    """Return figures side by side."""
    shapes: list[Shape] = []
    x = 0.0
    for figure in figures:
        shapes += figure.at(x, 0.0)
        x += figure.wide_mm + 3
    return Figure(x - 3, max(figure.high_mm for figure in figures), tuple(shapes))
