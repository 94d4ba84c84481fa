"""Where each numbered cavity of a housing lies, at the mating face and at the wire side."""

from typing import Literal, NamedTuple

from molvik.model.parts import Grid

Face = Literal["mating face", "wire side"]

ROW_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
"""Letters of rows; I, O and Q are left out because they read as 1 and 0 (common practice)."""

LARGEST = 400
"""More cavities than any housing has; a larger grid is a typing error."""


class Place(NamedTuple):
    """A cavity and its place, row and column counted from the top left at zero."""

    cavity: str
    row: int
    column: int


def grid_problem(grid: Grid) -> str:
    """Return what is wrong with a grid in words, or an empty text."""
    if grid.rows < 1 or grid.columns < 1:
        return "A housing has at least one row and one column."
    if grid.rows * grid.columns > LARGEST:
        return f"{grid.rows} × {grid.columns} is more cavities than any housing has ({LARGEST})."
    if grid.letters and grid.rows > len(ROW_LETTERS):
        return f"Lettered rows go from A to Z without I, O and Q: {len(ROW_LETTERS)} at most."
    return ""


def places(grid: Grid, face: Face = "mating face") -> tuple[Place, ...]:
    """Return every cavity in the order of its number, as seen at a face.

    The wire side is the mirror image of the mating face, left for right.
    """
    gaps = set(grid.gaps)
    found: list[Place] = []
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
        found.append(Place(cavity, row, column))
    if face == "wire side":
        return tuple(p._replace(column=grid.columns - 1 - p.column) for p in found)
    return tuple(found)


def cavities(grid: Grid) -> tuple[str, ...]:
    """Return the names of all cavities, in order."""
    return tuple(place.cavity for place in places(grid))


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
