"""How a board is cut into sheets of paper: the fewest that show all of it, none of them blank."""

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from molvik.drawing.scene import Box, Path, Text, bounds
from molvik.numbers import read_number
from molvik.routing.board.sheet import BoardSheet

EDGE_MM, OVERLAP_MM, FOOT_MM = 10.0, 10.0, 16.0
"""What a printer leaves free at each edge; how far tiles lie over each other; what the ruler and
the name of a tile take at its foot."""

PAPERS: dict[str, tuple[float, float]] = {
    "A4": (210.0, 297.0),
    "A3": (297.0, 420.0),
    "A2": (420.0, 594.0),
    "A1": (594.0, 841.0),
    "A0": (841.0, 1189.0),
    "Letter": (215.9, 279.4),
}
"""Width and height, mm, upright: ISO 216; Letter by ANSI/ASME Y14.1."""

ROLLS_MM = (610.0, 914.0, 1067.0)
"""How wide rolls are, mm: 24, 36 and 42 inches (common practice)."""

LEAST_ROLL_MM = 200.0
"""A narrower roll shows hardly more than its own edges and foot."""

SHIFTS = 8
"""So many positions of the rows are tried."""

BREAK_MM = 5000.0
"""A roll is broken into pieces no longer than this."""

EVERY = (*PAPERS, *(f"roll {wide:.0f}" for wide in ROLLS_MM))


class Tile(NamedTuple):
    """A sheet of a board in tiles. name: its row and its place in it, "B2"; shows: which part of
    the board, mm.
    """

    name: str
    shows: Box


class Tiling(NamedTuple):
    """The sheets of a board. sheet: what is on them, of tiles without its legend and title block,
    which are on their cover; wide_mm, high_mm: of the paper as it lies.
    """

    sheet: BoardSheet
    wide_mm: float
    high_mm: float
    tiles: tuple[Tile, ...]

    @property
    def has_cover(self) -> bool:
        """Whether there is a sheet before them, that says how they lie."""
        return len(self.tiles) > 1 or all(piece.layer != "FRAME" for piece in self.sheet.pieces)


def tiling(sheet: BoardSheet, paper: str) -> Tiling:
    """Return how a board is cut into sheets. Raises ValueError for a paper that is not known, and
    for a roll that is narrower than a plug.
    """
    if paper in PAPERS:
        sheet = sheet.without(frozenset({"FRAME"}))
        upright = PAPERS[paper]
        found = [_best(sheet, *size) for size in (upright, upright[::-1])]
        return min(found, key=lambda made: len(made.tiles))
    kind, _, wide = paper.partition(" ")
    if kind == "roll":
        named = wide or f"{ROLLS_MM[1]:g}"
        return _on_a_roll(sheet, read_number(named, "width of the roll", "914", least=1))
    raise ValueError(f"“{paper}” is not a paper known here. Type one of: {', '.join(EVERY)}.")


def _on_a_roll(sheet: BoardSheet, wide: float) -> Tiling:
    """Return a board on a roll: in strips as wide as it is, each as long as it has to be."""
    widest = max(
        (max(plug.wide_mm, plug.deep_mm) for plug, _ in sheet.board.plugs.values()), default=0.0
    )
    if widest > wide - 2 * EDGE_MM - FOOT_MM:
        raise ValueError(
            f"The largest plug is {widest:.0f} mm wide, more than a roll of {wide:g} mm shows. "
            "Choose a wider one, or tiles."
        )
    if wide < LEAST_ROLL_MM:
        raise ValueError(
            f"A roll of {wide:g} mm shows hardly more than its own edges. Choose one of "
            f"{LEAST_ROLL_MM:g} mm or more."
        )
    long = min(BREAK_MM, sheet.width_mm + 2 * EDGE_MM)
    return _best(sheet, long, wide)


def _best(sheet: BoardSheet, wide: float, high: float) -> Tiling:
    """Return the fewest sheets of a size, by where their rows begin."""
    content = _content(sheet)
    bounds_of = shapely.bounds(content)
    shown = wide - 2 * EDGE_MM, high - 2 * EDGE_MM - FOOT_MM
    step = shown[1] - OVERLAP_MM
    best: list[Tile] = []
    for shift in range(SHIFTS):
        top = float(bounds_of[:, 1].min()) - 2 - step * shift / SHIFTS
        tiles = _rows(content, bounds_of, top, shown)
        if not best or len(tiles) < len(best):
            best = tiles
    return Tiling(sheet, wide, high, tuple(best))


def _content(sheet: BoardSheet) -> NDArray[Any]:
    """Return what must be on paper: all that is drawn but the frame round it."""
    lines: list[Any] = []
    widths: list[float] = []
    boxes: list[Any] = []
    for piece in sheet.pieces:
        for shape in piece.shapes:
            if isinstance(shape, Path) and len(shape.points) > 1:
                lines.append(shapely.LineString(shape.points))
                widths.append((shape.pen.width if shape.pen else 0.2) / 2 + 0.5)
            elif not (piece.layer == "FRAME" and bounds(shape).width > sheet.width_mm - 10):
                box = bounds(shape)
                if isinstance(shape, Text) and shape.turn:
                    half = math.hypot(box.width, box.height) / 2
                    box = Box(box.middle.x - half, box.middle.y - half, 2 * half, 2 * half)
                boxes.append((box.x, box.y, box.right, box.bottom))
    thick = shapely.buffer(np.array(lines, dtype=object), np.array(widths), quad_segs=2)
    return np.concatenate((thick, shapely.box(*np.array(boxes, dtype=float).reshape(-1, 4).T)))


def _rows(
    content: NDArray[Any], bounds_of: NDArray[Any], top: float, shown: tuple[float, float]
) -> list[Tile]:
    """Return the tiles of rows from a height on: in each row as few as show what lies in it."""
    tiles: list[Tile] = []
    row, bottom = 0, float(bounds_of[:, 3].max())
    while top < bottom:
        spans = _spans(content, bounds_of, top, top + shown[1])
        # What the row above shows already, in the overlap, needs no tile of its own.
        new = _spans(content, bounds_of, top + (OVERLAP_MM if row else 0), top + shown[1])
        if new:
            for number, x in enumerate(_starts(spans, shown[0]), 1):
                tiles.append(Tile(f"{_letter(row)}{number}", Box(x, top, *shown)))
            row += 1
        top += shown[1] - OVERLAP_MM
    return tiles


def _spans(
    content: NDArray[Any], bounds_of: NDArray[Any], top: float, bottom: float
) -> list[tuple[float, float]]:
    """Return from where to where across there is something between two heights."""
    near = content[(bounds_of[:, 3] > top) & (bounds_of[:, 1] < bottom)]
    clipped = shapely.clip_by_rect(near, -1e6, top, 1e6, bottom)
    left, _, right, _ = shapely.bounds(clipped[~shapely.is_empty(clipped)]).T
    return sorted(zip(left.tolist(), right.tolist(), strict=True))


def _starts(spans: Sequence[tuple[float, float]], wide: float) -> list[float]:
    """Return where tiles of a row begin that show all spans: the first at the first of them, each
    further one where the one before ends, or at the next span after a gap. That is the fewest.
    """
    merged: list[list[float]] = []
    for begin, end in spans:
        if merged and begin <= merged[-1][1]:
            merged[-1][1] = max(merged[-1][1], end)
        else:
            merged.append([begin, end])
    starts: list[float] = []
    shown_to = -math.inf
    for begin, end in merged:
        if end <= shown_to:
            continue
        x = begin - 1 if begin > shown_to else shown_to - OVERLAP_MM
        while True:
            starts.append(x)
            shown_to = x + wide
            if shown_to >= end + 1:
                break
            x = shown_to - OVERLAP_MM
    return starts


def _letter(row: int) -> str:
    return chr(65 + row) if row < 26 else f"{chr(64 + row // 26)}{chr(65 + row % 26)}"
