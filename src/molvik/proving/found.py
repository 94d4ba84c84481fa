"""What was found at each point of a loom on the bench, to be marked on the faces of its plugs."""

from collections import defaultdict

from molvik.drawing.marks import Marked
from molvik.model.geometry import places
from molvik.model.parts import End, Grid
from molvik.proving.bench import BenchNet
from molvik.proving.proofplan import FAILED, Measurement, ProofPlan
from molvik.proving.touching import apart_by_itself, touching

NEIGHBOURS = 1.5
"""Cavities this near, in steps of the grid, lie beside each other, corner to corner included."""


def found_at(plan: ProofPlan) -> dict[End, Marked]:
    """Return what was found at each point that a probe reaches.

    A point is sound as soon as one measurement from it passed: what failed from there failed at its
    other end, or on the way. So only what failed from all sides is marked as failed.
    """
    by: dict[End, list[Measurement]] = defaultdict(list)
    for one in plan.measurements:
        by[one.red].append(one)
        by[one.black].append(one)
    found = {point: Marked() for net in plan.bench.nets for point in net.points}
    found |= {point: _of(plan, measured) for point, measured in by.items()}
    for pair, reading in touching(plan).items():
        first, second = (plan.bench.nets[net] for net in sorted(pair))
        where = _where(plan, first, second)
        words = f"{first.name} is shorted to {second.name}, {reading.shown}{where}"
        found |= dict.fromkeys((*first.points, *second.points), Marked("touches", words))
    for pair, reading in apart_by_itself(plan).items():
        first, second = (plan.bench.nets[net] for net in sorted(pair))
        words = f"{first.name} was shorted to {second.name}, {reading.shown}"
        words += "; apart now, nothing repaired"
        found |= dict.fromkeys((*first.points, *second.points), Marked("again", words))
    return found


def _of(plan: ProofPlan, measured: list[Measurement]) -> Marked:
    by: dict[str, list[str]] = defaultdict(list)
    for one in measured:
        judged = plan.judged[one.key]
        by[judged.outcome].append(f"{one.red} to {one.black}, {judged.text}")
    failed = [words for outcome in FAILED for words in by[outcome]]
    if failed and not by["passed"]:
        more = f"; and {len(failed) - 2} more" if len(failed) > 2 else ""
        return Marked("failed", "; ".join(failed[:2]) + more)
    if by["changed"]:
        return Marked("again", by["changed"][0])
    if by["passed"]:
        count = len(by["passed"])
        return Marked("passed", f"{count} of {len(measured)} measurements from here passed")
    return Marked("", by["not measured"][0])


def _where(plan: ProofPlan, one: BenchNet, other: BenchNet) -> str:
    """Say where two nets lie beside each other in a plug: there they touch most likely."""
    for plug in plan.job.connectors:
        at = _spots(plug.grid)
        for here in (point for point in one.points if point.at == plug.code):
            for there in (point for point in other.points if point.at == plug.code):
                (a, b), (c, d) = at[here.cavity], at[there.cavity]
                if max(abs(a - c), abs(b - d)) <= NEIGHBOURS:
                    return f": {here} lies beside {there}, look there first"
    return ""


def _spots(grid: Grid) -> dict[str, tuple[float, float]]:
    return {place.cavity: (place.row, place.column) for place in places(grid)}
