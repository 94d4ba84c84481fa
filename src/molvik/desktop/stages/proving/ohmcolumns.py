"""Columns in which ohms stand: what is expected, the limit, and what was read."""

from collections.abc import Callable
from typing import TypeVar

from molvik.desktop.widgets.things import Column
from molvik.model.job import Reading

Thing = TypeVar("Thing")


def ohm_column(heading: str, ohm: Callable[[Thing], float], width: int, tip: str) -> Column[Thing]:
    """Return a column of ohms, sorted as numbers."""
    return Column(heading, lambda one: f"{ohm(one):.2f}", width=width, unit="Ω", sort=ohm, tip=tip)


def read_text(reading: Reading | None) -> str:
    """Return what a meter showed, as it is typed: OL for an open circuit."""
    if reading is None:
        return ""
    return "OL" if reading.value is None else f"{reading.value:g}"
