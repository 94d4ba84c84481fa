"""Sheets: what goes to the bench and is handed over. Tables of text, ready to be printed."""

from typing import NamedTuple


class Sheet(NamedTuple):
    """A sheet to print. widths: each column's share of the page. notes stand below the table."""

    name: str
    title: str
    headings: tuple[str, ...]
    widths: tuple[float, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...] = ()
