"""Sheets: what goes to the bench and is handed over. Tables of text, ready to be printed."""

from typing import NamedTuple


class Dot(NamedTuple):
    """A cavity in a drawn face. x, y: in steps of the grid, from the top left. base, tracer: colour
    codes of its wire, empty for none. lit: it is one of those the sheet is about.
    """

    label: str
    x: float
    y: float
    base: str = ""
    tracer: str = ""
    lit: bool = False


class FaceDrawing(NamedTuple):
    """A connector's face to be drawn on a sheet."""

    title: str
    columns: float
    rows: float
    dots: tuple[Dot, ...]


class Sheet(NamedTuple):
    """A sheet to print. widths: each column's share of the page. notes stand below the table, faces
    above it.
    """

    name: str
    title: str
    headings: tuple[str, ...]
    widths: tuple[float, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...] = ()
    faces: tuple[FaceDrawing, ...] = ()
