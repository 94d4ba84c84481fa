"""Faces of many plugs beside each other, with marks; below them what has terminals and no face."""

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from molvik.drawing.face import SAMPLE, Cavity, cavity_shapes, face_scene, face_size, frame_of
from molvik.drawing.lettering import width_of
from molvik.drawing.marks import Mark, over, under
from molvik.drawing.scene import Area, Box, Pen, Rect, Scene, Shape, Text
from molvik.model.geometry import Face
from molvik.model.parts import Connector

STEP = 27.0
"""From cavity to cavity, px: each has its number."""

GAP, TITLE = 10.0, 18.0
LINE, BOX, MARK = 26.0, 20.0, 14.0
"""Height of a line of terminals and of a terminal in it; width of a mark beside its name, px."""

BESIDE = ("passed", "failed", "touches")
"""Marks that would lie over what they mark."""


class Plug(NamedTuple):
    """A plug with its cavities as they lie at a face; title: above it."""

    connector: Connector
    cavities: tuple[Cavity, ...]
    title: str


class Terminal(NamedTuple):
    """A terminal or stud that has no face. ref: "F3/in"; words: what is said of it."""

    ref: str
    name: str
    mark: Mark
    words: str


class TerminalRow(NamedTuple):
    """A part whose terminals have no face."""

    code: str
    terminals: tuple[Terminal, ...]


class Layout(NamedTuple):
    """Where plugs and terminals stand, and how high all is."""

    plugs: tuple[tuple[Plug, Box], ...]
    rows: tuple[tuple[TerminalRow, Box], ...]
    height: float


def lay_out_faces(
    plugs: Iterable[Plug], rows: Iterable[TerminalRow], width: float, step: float = STEP
) -> Layout:
    """Place plugs from left to right and on in the next row, then what has no face. step: from
    cavity to cavity, smaller where a plug is wider than the drawing.
    """
    stand: list[tuple[Plug, Box]] = []
    x = y = deep = 0.0
    for plug in plugs:
        wide, high = face_size(plug.connector, step)
        wide = min(max(wide, width_of(plug.title, 12, "B612-Bold") + 8), width)
        if x and x + wide > width:
            x, y, deep = 0.0, y + deep + GAP, 0.0
        stand.append((plug, Box(x, y, wide, high + TITLE)))
        x, deep = x + wide + GAP, max(deep, high + TITLE)
    y += deep + (GAP if deep else 0.0)
    below: list[tuple[TerminalRow, Box]] = []
    x = 2.0
    for row in rows:
        wide = _code_width(row) + sum(_width(one) + 3 for one in row.terminals)
        if x > 2.0 and x + wide > width:
            x, y = 2.0, y + LINE
        below.append((row, Box(x, y, wide, BOX)))
        x += wide + 2 * GAP
    return Layout(tuple(stand), tuple(below), y + (LINE if below else 0.0))


def faces_scene(
    plugs: Iterable[Plug],
    rows: Iterable[TerminalRow],
    width: float,
    face: Face,
    step: float = STEP,
) -> Scene:
    """Return the drawing of plugs at a face, and of what has no face."""
    laid = lay_out_faces(plugs, rows, width, step)
    shapes: list[Shape] = []
    areas: list[Area] = []
    for plug, box in laid.plugs:
        drawn = _plug(plug, box, face, step)
        shapes += drawn.shapes
        areas += drawn.areas
    for row, box in laid.rows:
        for made in _row(row, box):
            if isinstance(made, Area):
                areas.append(made)
            else:
                shapes.append(made)
    return Scene(width, laid.height, tuple(shapes), tuple(areas))


def _plug(plug: Plug, box: Box, face: Face, step: float) -> Scene:
    """Draw a plug in a box, its title above."""
    title = Text(plug.title, Box(box.x + 2, box.y, box.width - 4, TITLE), 12, "ink", bold=True)
    frame = frame_of(plug.connector, box.width, box.height - TITLE, step)
    shell = frame.shell
    placed = frame._replace(shell=shell._replace(x=shell.x + box.x, y=shell.y + box.y + TITLE))
    drawn = face_scene(plug.connector, plug.cavities, face, placed)
    return drawn._replace(shapes=(title, *drawn.shapes))


def _row(row: TerminalRow, box: Box) -> Iterator[Shape | Area]:
    """Yield a part without a face: its code, and a box for each terminal."""
    yield Text(row.code, box, 12, "ink", "left", bold=True)
    x = box.x + _code_width(row)
    for one in row.terminals:
        yield from _terminal(one, Box(x, box.y, _width(one), box.height))
        x += _width(one) + 3


def _code_width(row: TerminalRow) -> float:
    return width_of(row.code, 12, "B612-Bold") + 10


def _width(terminal: Terminal) -> float:
    """Return how wide a terminal is, with room for its mark beside its name."""
    name = max(BOX, width_of(terminal.name, 11, "B612-Regular") + 12)
    return name + (MARK if terminal.mark in BESIDE else 0.0)


def _terminal(terminal: Terminal, box: Box) -> Iterator[Shape | Area]:
    yield Rect(box, Pen("line", 1.2), "sheet", 3.0)
    yield from under(box, terminal.mark)
    beside = MARK if terminal.mark in BESIDE else 0.0
    yield Text(terminal.name, box._replace(width=box.width - beside), 11, "ink", whole=True)
    if beside:  # on its name it could not be read
        mark = Box(box.right - MARK - 2, box.y + 3, MARK, box.height - 6)
        yield from over(mark, mark.middle, 5.0, terminal.mark)
    yield Area(box, terminal.ref, terminal.words)


def marks_legend(marks: Sequence[tuple[Mark, str]], widths: Sequence[float]) -> Scene:
    """Return what marks mean, in a line. widths: of the words of each, px."""
    shapes: list[Shape] = []
    left = 0.0
    for (mark, words), wide in zip(marks, widths, strict=True):
        box = Box(left + 1, 1, 18, 18)
        shapes += under(box, mark)
        shapes += cavity_shapes(box.middle, 5.0, "wired", (SAMPLE,))
        shapes += over(box, box.middle, 5.0, mark)
        shapes.append(Text(words, Box(left + 24, 0, wide + 2, 20), 11, "faint", "left"))
        left += wide + 42
    return Scene(left, 20, tuple(shapes))
