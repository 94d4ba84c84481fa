"""What of the stock goes into the job, piece by piece: cut, to be cut, or short.

What the decisions about the loom as found take, and what covers the looms to build, from one stock:
nothing is promised twice.
"""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.analysis import Analysis
from molvik.model.job import code_order
from molvik.model.stock import StockItem, StockKind, unit_of
from molvik.reference.coverings import COVERINGS
from molvik.survey.replacement import replacements

LEAST = 1e-6
"""Less than this is nothing, m or pieces."""


class Pick(NamedTuple):
    """Something that the job takes. on: the wire as found or the run that it is for, empty for what
    many share. item: from what in stock, None for what is short. amount: m or pieces. cut: the id
    of the cut, empty while it is to be cut. note: how it is marked, or why there is none. name:
    what the wire does.
    """

    on: str
    what: str
    kind: StockKind
    amount: float
    item: StockItem | None = None
    cut: str = ""
    note: str = ""
    name: str = ""

    @property
    def key(self) -> str:
        """What tells it from the others."""
        source = self.item.code if self.item else "short"
        return f"{self.on} {self.what} {source} {self.cut}"

    @property
    def unit(self) -> str:
        """m or pieces."""
        return unit_of(self.kind)

    @property
    def is_to_cut(self) -> bool:
        """Whether it lies there and is still to be cut."""
        return self.item is not None and not self.cut


def picks(analysis: Analysis) -> tuple[Pick, ...]:
    """Return all that the job takes: what is short first, then what is to be cut, then the rest."""
    found = [*_wires(analysis), *_shared(analysis), *_covers(analysis)]
    return tuple(sorted(found, key=_order))


def _order(pick: Pick) -> tuple[bool, bool, tuple[str, int, str]]:
    return pick.item is not None, bool(pick.cut), code_order(pick.on)


def to_reserve(found: tuple[Pick, ...]) -> dict[str, float]:
    """Return how much of each thing in stock is still to be cut, by code."""
    amounts: dict[str, float] = {}
    for pick in found:
        if pick.is_to_cut and pick.item is not None:
            code = pick.item.code
            amounts[code] = round(amounts.get(code, 0.0) + pick.amount, 3)
    return amounts


def _wires(analysis: Analysis) -> Iterator[Pick]:
    """Return the wires that are made anew, one by one."""
    cut = {one.on: one.id for one in analysis.job.taken if one.on}
    for replacement in replacements(analysis.loom, analysis.stock, analysis.job.taken):
        what = f"wire, {replacement.size or 'size not known'}"
        note = replacement.why if replacement.item is None else replacement.mark
        done = cut[replacement.wire] if replacement.cut else ""
        yield Pick(
            replacement.wire,
            what,
            "wire",
            replacement.length_m,
            replacement.item,
            done,
            note,
            replacement.function,
        )


def _shared(analysis: Analysis) -> Iterator[Pick]:
    """Return what is cut for no one wire or run: terminals, seals, splices, pieces, tape."""
    items = {item.code: item for item in analysis.stock}
    for shortage in analysis.shortages:
        if not shortage.anew:
            for code, amount in shortage.draws:
                yield Pick("", shortage.what, shortage.kind, amount, items[code])
            if shortage.short:
                yield Pick("", shortage.what, shortage.kind, shortage.short)
    for taken in analysis.job.taken:
        if not taken.on:
            item = taken.what
            words = item.kind if item.size is None else f"{item.kind}, {item.size}"
            yield Pick("", words, item.kind, item.amount, item, taken.id)


def _covers(analysis: Analysis) -> Iterator[Pick]:
    """Return what covers the looms to build; each piece is cut from one thing."""
    items, left = {item.code: item for item in analysis.stock}, dict(analysis.stock_left)
    cut = {one.on: one for one in analysis.job.taken if one.on}
    for cover in analysis.covers.values():
        covering = COVERINGS[cover.covering]
        kind = covering.stock or "sleeve"
        what = f"{covering.name} {cover.size}".strip()
        if cover.cut:
            done = cut[cover.run]
            yield Pick(cover.run, what, kind, cover.amount_m, done.what, done.id)
        elif not cover.problem:
            item = items.get(cover.item)
            if item is not None and left[item.code] < cover.amount_m - LEAST:
                item = None
            elif item is not None:
                left[item.code] -= cover.amount_m
            yield Pick(cover.run, what, kind, cover.amount_m, item)
