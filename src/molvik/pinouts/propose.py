"""Propose a housing for a table that names its cavities."""

import math
import re
from collections.abc import Iterable

from molvik.model.geometry import LARGEST, ROW_LETTERS
from molvik.model.parts import Grid


def propose_grid(cavities: Iterable[str]) -> Grid:
    """Return a grid that has all these cavities; the user corrects rows and columns.

    A1, B7 make lettered rows. Numbers make as many ways as the highest, on rows of at most 20.
    """
    names = list(cavities)
    lettered = [re.fullmatch(rf"([{ROW_LETTERS}])(\d{{1,2}})", name) for name in names]
    if names and all(lettered):
        rows = max(ROW_LETTERS.index(match.group(1)) for match in lettered if match) + 1
        columns = max(int(match.group(2)) for match in lettered if match)
        return Grid(rows, columns, letters=True)
    ways = max((int(name) for name in names if name.isdecimal() and len(name) < 9), default=1)
    ways = min(max(ways, 1), LARGEST)
    fewest = 1 if ways <= 4 else 2 if ways <= 24 else math.ceil(ways / 20)
    # Full rows where so many ways make them: 70 is five rows of 14, not four of 18 less two.
    rows = next((n for n in range(fewest, fewest + 3) if ways % n == 0), fewest)
    columns = math.ceil(ways / rows)
    gaps = tuple((rows - 1, column) for column in range(columns - (rows * columns - ways), columns))
    return Grid(rows, columns, gaps=gaps)
