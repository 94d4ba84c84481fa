"""Several connectors at once, a line each: "Fuel pump 1x2", or rows copied from a spreadsheet."""

import re
from typing import NamedTuple

from molvik.model.geometry import grid_problem
from molvik.model.parts import Connector, Grid
from molvik.numbers import read_number

HOW = "Crank sensor 1x3, or Crank sensor 3 way"
MOST_IN_ONE_ROW = 3
"""A plug of so many cavities is taken for one row, of more for two (common practice)."""

_GRID = re.compile(r"^(.*?)[\s,;]+(\d+)\s*[x×*]\s*(\d+)$", re.IGNORECASE)
_COUNT = re.compile(
    r"^(.*?)[\s,;]+(\d+)[\s-]*(?:ways?|pins?|cavit(?:y|ies)|poles?)$", re.IGNORECASE
)
"""A number alone would be read of "Injector 1", which is a name."""


class PlugRow(NamedTuple):
    """A line as it was typed: the connector it makes, without a code, or what is wrong with it."""

    text: str
    plug: Connector | None
    problem: str = ""


def read_plug_rows(text: str) -> tuple[PlugRow, ...]:
    """Return each line that says anything: a name, then rows x columns, or how many cavities; or
    name, rows and columns in cells.
    """
    lines = (line.strip(" \r") for line in text.splitlines())
    return tuple(_read(line) for line in lines if line.strip())


def _read(line: str) -> PlugRow:
    try:
        return PlugRow(line, _plug(line))
    except ValueError as error:
        return PlugRow(line, None, str(error))


def _plug(line: str) -> Connector:
    cells = [cell.strip() for cell in line.split("\t")]
    if len(cells) >= 3 and cells[1] and cells[2]:
        name, rows, columns = cells[0], _whole(cells[1]), _whole(cells[2])
    elif found := _GRID.match(line):
        name, rows, columns = found[1], int(found[2]), int(found[3])
    elif found := _COUNT.match(line):
        name, count = found[1], int(found[2])
        rows = 1 if count <= MOST_IN_ONE_ROW else 2
        columns = -(-count // rows)
        grid = Grid(rows, columns, gaps=((1, columns - 1),) if rows * columns > count else ())
        return _checked(name, grid)
    else:
        raise ValueError(f"Say how many cavities it has: {HOW}.")
    return _checked(name, Grid(rows, columns))


def _whole(text: str) -> int:
    value = read_number(text)
    if value != int(value):
        raise ValueError(f"“{text}” is not a number of rows or columns.")
    return int(value)


def _checked(name: str, grid: Grid) -> Connector:
    name = name.strip(" ,;\t")
    if not name:
        raise ValueError(f"Say what it plugs into, too: {HOW}.")
    problem = grid_problem(grid)
    if problem:
        raise ValueError(problem)
    return Connector("", name, grid)
