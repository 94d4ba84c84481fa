"""Where each numbered cavity of a housing lies, at the mating face and at the wire side."""

import itertools
import math
import re
from collections import Counter
from functools import lru_cache
from typing import Literal, NamedTuple

from molvik.model.parts import CavityPosition, Connector, Grid
from molvik.numbers import is_number, read_number

Face = Literal["mating face", "wire side"]

ROW_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
"""Letters of rows; I, O and Q are left out because they read as 1 and 0 (common practice)."""

LARGEST = 400
"""More cavities than any housing has; a larger grid is a typing error."""


WIDEST = 60
"""More steps across than any housing has; beyond it a place is a typing error."""


class CavityPlace(NamedTuple):
    """A cavity and its place, row and column counted from the top left at zero; of an irregular
    layout in steps of its smallest distance, which need not be whole.
    """

    cavity: str
    row: float
    column: float


def grid_problem(grid: Grid) -> str:
    """Return what is wrong with a grid in words, or an empty text."""
    if grid.spots:
        return _spots_problem(grid.spots)
    if grid.rows < 1 or grid.columns < 1:
        return "A housing has at least one row and one column."
    if grid.rows * grid.columns > LARGEST:
        return f"{grid.rows} × {grid.columns} is more cavities than any housing has ({LARGEST})."
    if grid.letters and grid.rows > len(ROW_LETTERS):
        return f"Lettered rows go from A to Z without I, O and Q: {len(ROW_LETTERS)} at most."
    return ""


def places(grid: Grid, face: Face = "mating face") -> tuple[CavityPlace, ...]:
    """Return every cavity in the order of its number, as seen at a face.

    The wire side is the mirror image of the mating face, left for right.
    """
    if grid.spots:
        across, _ = extent(grid)
        spots = _scaled(grid.spots)
        if face == "wire side":
            return tuple(p._replace(column=across - 1 - p.column) for p in spots)
        return spots
    gaps = set(grid.gaps)
    found: list[CavityPlace] = []
    for row, column in _walk(grid):
        if (row, column) in gaps:
            continue
        if grid.letters:
            # Rows are lettered and columns numbered from the starting corner.
            line = row if grid.start.startswith("top") else grid.rows - 1 - row
            across = column if grid.start.endswith("left") else grid.columns - 1 - column
            cavity = f"{ROW_LETTERS[line]}{across + 1}"
        else:
            cavity = str(len(found) + 1)
        found.append(CavityPlace(cavity, row, column))
    if face == "wire side":
        return tuple(p._replace(column=grid.columns - 1 - p.column) for p in found)
    return tuple(found)


@lru_cache(maxsize=1024)
def cavities(grid: Grid) -> tuple[str, ...]:
    """Return the names of all cavities, in order."""
    return tuple(place.cavity for place in places(grid))


def extent(grid: Grid) -> tuple[float, float]:
    """Return how many columns and rows a grid is wide and high."""
    if not grid.spots:
        return grid.columns, grid.rows
    spots = _scaled(grid.spots)
    return max(p.column for p in spots) + 1, max(p.row for p in spots) + 1


@lru_cache(maxsize=64)
def _scaled(spots: tuple[CavityPosition, ...]) -> tuple[CavityPlace, ...]:
    """Return an irregular layout in steps of its smallest distance."""
    step = min(
        (math.dist((a.x, a.y), (b.x, b.y)) for a, b in itertools.combinations(spots, 2)),
        default=1.0,
    )
    left, top = min(s.x for s in spots), min(s.y for s in spots)
    return tuple(CavityPlace(s.label, (s.y - top) / step, (s.x - left) / step) for s in spots)


def _spots_problem(spots: tuple[CavityPosition, ...]) -> str:
    if len(spots) > LARGEST:
        return f"{len(spots)} is more cavities than any housing has ({LARGEST})."
    labels = Counter(spot.label for spot in spots)
    twice = [label for label, count in labels.items() if count > 1]
    if twice:
        return f"Two cavities are called {twice[0]}."
    places = [(spot.x, spot.y) for spot in spots]
    if not all(math.isfinite(x) and math.isfinite(y) for x, y in places):
        return "A place is two numbers."
    if len(set(places)) < len(places):
        return "Two cavities lie in one place."
    across, down = extent(Grid(1, 1, spots=spots))
    if max(across, down) > WIDEST:
        return "One cavity lies far from all others: is a decimal point missing?"
    return ""


def read_spots(text: str) -> tuple[CavityPosition, ...]:
    """Read an irregular layout: a line for each cavity with its label, x, y and, if it has one of
    its own, its contact size. Commas, semicolons, tabs or spaces between them.

    Raises ValueError that names the line.
    """
    spots = []
    for number, line in enumerate(text.strip().splitlines(), start=1):
        comma = "," if line.count(",") >= 2 else " "
        cells = [cell for cell in re.split(rf"[;\t {comma}]+", line.strip()) if cell]
        if not cells:
            continue
        if number == 1 and len(cells) >= 3 and not is_number(cells[1]):
            continue  # a line of headings
        if not 3 <= len(cells) <= 4 or not (is_number(cells[1]) and is_number(cells[2])):
            raise ValueError(
                f"Line {number} reads “{line.strip()[:40]}”. Type label, x, y and perhaps a "
                "terminal size: A 0 2.5 16"
            )
        x, y = (read_number(cell) for cell in cells[1:3])
        spots.append(CavityPosition(cells[0].upper(), x, y, cells[3] if len(cells) > 3 else ""))
    return tuple(spots)


def _walk(grid: Grid) -> list[tuple[int, int]]:
    """Return the grid places in numbering order."""
    rows, columns = list(range(grid.rows)), list(range(grid.columns))
    if grid.start.startswith("bottom"):
        rows.reverse()
    if grid.start.endswith("right"):
        columns.reverse()
    outer, inner = (rows, columns) if grid.by == "row" else (columns, rows)
    walk: list[tuple[int, int]] = []
    for turn, line in enumerate(outer):
        run = inner[::-1] if grid.serpentine and turn % 2 else inner
        walk += [(line, step) if grid.by == "row" else (step, line) for step in run]
    return walk


def contact_of(connector: Connector, cavity: str) -> str:
    """Return the contact size of a cavity: its own, or that of the housing."""
    own = dict(connector.contacts)
    own.update({s.label: s.contact for s in connector.grid.spots if s.contact})
    return own.get(cavity, connector.contact)
