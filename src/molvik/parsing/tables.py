"""A table of texts as it stands in a file."""

from collections.abc import Mapping
from typing import NamedTuple

from msgspec import Struct


class RawRow(Struct, frozen=True, gc=False):
    """A row as it stands in the file. number: its row there. merged: columns under a merge.

    gc: hundreds of thousands of rows are nothing to look for garbage in.
    """

    number: int
    cells: tuple[str, ...]
    merged: Mapping[int, str] = {}


class RawTable(NamedTuple):
    """A table as read from a file. remarks: what had to be assumed to read it."""

    name: str
    rows: tuple[RawRow, ...]
    remarks: tuple[str, ...] = ()

    @property
    def width(self) -> int:
        """Number of columns."""
        return max((len(row.cells) for row in self.rows), default=0)
