"""What covers each stretch: the smallest size that goes on, how much of it, what is short."""

from collections import defaultdict
from collections.abc import Mapping
from typing import NamedTuple

from molvik.model.job import Job
from molvik.model.routing import Run
from molvik.model.stock import StockItem
from molvik.reference.coverings import BARE, COVERINGS, covering_of, may_serve
from molvik.reference.coversizes import (
    GOES_ON,
    SHRINKS_TIGHT,
    SIZES,
    CoverSize,
    amount_m,
    smallest,
)
from molvik.routing.sections import Section

LEAST_SHARE = {"heat-shrink": 0.5, "braid": 0.5}
"""What shrinks or gathers comes down to such a share of its bore, where the stock says no more: 2:1
(common practice)."""


class Cover(NamedTuple):
    """What covers a run. covering: its key; size: its name, empty for tape; amount_m: how much is
    cut, m. item: the code of what is in stock that it is cut from, empty where nothing fits there.
    problem: why nothing goes on, in words, empty when something does. cut: whether it was cut.
    """

    run: str
    covering: str
    over_mm: float
    size: str
    amount_m: float
    item: str = ""
    problem: str = ""
    cut: bool = False


def covers(
    job: Job, stock: tuple[StockItem, ...], sections: dict[str, Section]
) -> dict[str, Cover]:
    """Return what covers each run that has a covering, a length, and wires whose size is known.
    stock: what there is for the job.
    """
    cut = {one.on: one.what for one in job.taken if one.on}
    found: dict[str, Cover] = {}
    for run in job.routing.runs:
        laid = sections[run.code].laid_mm
        if COVERINGS.get(run.covering, BARE) is not BARE and run.length_m and laid:
            item = cut.get(run.code)
            if item is not None and may_serve(item, run.covering):
                size = "" if item.bore_mm is None else f"{item.bore_mm:g}"
                found[run.code] = Cover(
                    run.code, run.covering, laid, size, item.amount, item.code, cut=True
                )
            else:
                found[run.code] = _cover(stock, run, laid)
    return found


def _cover(stock: tuple[StockItem, ...], run: Run, laid_mm: float) -> Cover:
    key, length = run.covering, (run.length_m or 0.0) + run.slack_m
    amount = amount_m(key, laid_mm, length)
    own = sorted(
        (
            (covering_of(item) != key, size.most_mm, size, item.code)
            for item in stock
            if (size := _in_stock(item, key)) is not None
        ),
        key=lambda one: one[:2],  # the thing itself first, then the smallest that goes on
    )
    for _, _, size, code in own:
        if size.least_mm <= laid_mm <= size.most_mm:
            return Cover(run.code, key, laid_mm, size.name, amount, code)
    if key not in SIZES:
        return Cover(run.code, key, laid_mm, "", amount)
    size = smallest(key, laid_mm)
    if size is not None:
        return Cover(run.code, key, laid_mm, size.name, amount)
    largest = SIZES[key][-1]
    name = COVERINGS[key].name
    if laid_mm > largest.most_mm:
        words = f"{name} goes over {largest.most_mm:.0f} mm at most, and {laid_mm:.1f} mm lie there"
    else:
        words = f"no {name} is so small that it holds {laid_mm:.1f} mm"
    return Cover(run.code, key, laid_mm, "", amount, problem=words)


def _in_stock(item: StockItem, key: str) -> CoverSize | None:
    """Return over what a thing in stock goes, None for another covering or without a size."""
    if not may_serve(item, key):
        return None
    if key not in SIZES:
        return CoverSize(item.name, 0.0, float("inf"))
    if not item.bore_mm:
        return None
    whole = COVERINGS[key].closed
    most = item.bore_mm * (GOES_ON if whole and key != "braid" else 1.0)
    least = item.least_mm
    if least is None:
        least = item.bore_mm * LEAST_SHARE.get(key, 0.0)
    if key == "heat-shrink":
        least /= SHRINKS_TIGHT
    return CoverSize(f"{item.bore_mm:g}", least, most)


class Wanted(NamedTuple):
    """How much of one covering and size is wanted, m. runs: for which; have_m: what lies in stock
    of what it is cut from, None where it is not in stock at all.
    """

    covering: str
    size: str
    amount_m: float
    runs: tuple[str, ...]
    item: str
    have_m: float | None

    @property
    def short_m(self) -> float:
        """What is to be bought, m."""
        return max(0.0, self.amount_m - (self.have_m or 0.0))


def wanted(found: dict[str, Cover], left: Mapping[str, float]) -> tuple[Wanted, ...]:
    """Return how much is still to be cut of each covering and size, those that fit nothing left
    out. left: how much is there of each thing in stock, by code.
    """
    together: dict[tuple[str, str, str], list[Cover]] = defaultdict(list)
    for cover in found.values():
        if not cover.problem and not cover.cut:
            together[cover.covering, cover.size, cover.item].append(cover)
    return tuple(
        Wanted(
            covering,
            size,
            sum(one.amount_m for one in covers),
            tuple(c.run for c in covers),
            item,
            left.get(item),
        )
        for (covering, size, item), covers in sorted(together.items())
    )
