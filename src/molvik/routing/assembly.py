"""In which order a loom is put together: what has to be on before a plug closes its end.

Sleeves, shrink, boots and grommets that do not open are slid on from an end, over all wires of one
side at once: every end on that side still open, and nothing else on there yet. Looked at backwards
this is taking off, and taking one thing off never stands in the way of another: whatever comes off
is taken off until nothing does, and the other way round is an order that works. What is left cannot
be put on (``tests/test_building.py`` holds this to trying every order).
"""

from collections import Counter
from collections.abc import Iterable
from itertools import combinations
from typing import NamedTuple

from molvik.model.job import Job, code_order
from molvik.model.parts import Connector, Splice
from molvik.model.routing import LoomNode
from molvik.reference.coverings import BARE, COVERINGS
from molvik.reference.coversizes import GOES_ON
from molvik.routing.covers import Cover
from molvik.routing.outlines import passes_mm
from molvik.routing.sides import Beyond, sides_of_joint, sides_of_run
from molvik.routing.ways import Ways

MOST_CLOSED = 10
"""Of up to so many ends that carry their plugs all choices are tried, of more the next best."""


class Slid(NamedTuple):
    """Something that is slid on. at: the run or joint it lies at; what: in words; sides: how it
    can come there. bore_mm: what goes through it, 0 where that is not known.
    """

    at: str
    what: str
    sides: tuple[Beyond, ...]
    bore_mm: float = 0.0


class Put(NamedTuple):
    """A step of assembly. what: slid on at a place from the ends on one side, or, where it is
    empty, the ends that are closed there.
    """

    at: str
    what: str
    ends: tuple[str, ...]


class Stuck(NamedTuple):
    """What cannot be put on, since on each side an end carries its plug. opened: a covering in its
    place that opens, empty for a boot or grommet.
    """

    at: str
    what: str
    closed: tuple[tuple[str, ...], ...]


class Assembly(NamedTuple):
    """An order of assembly. off: the ends whose plugs are cheapest to take off, so that what is
    stuck goes on, and with how many terminals.
    """

    steps: tuple[Put, ...]
    stuck: tuple[Stuck, ...] = ()
    off: tuple[str, ...] = ()
    terminals: int = 0


def assembly(job: Job, ways: Ways, covers: dict[str, Cover]) -> Assembly:
    """Return an order in which all that is slid on and every plug of the looms goes on."""
    if not ways.of:
        return Assembly(())
    items = slid_on(job, ways, covers)
    closed = {joint.code: joint for joint in job.routing.joints if joint.closed}
    widths = {code: _plug_mm(job, joint.carries) for code, joint in closed.items()}
    order, left = taken_off(items, widths)
    steps = [
        Put(item.at, item.what, tuple(sorted(side.ends, key=code_order)))
        for item, side in reversed(order)
    ]
    used = {end for way in ways.of.values() if not way.problem for end in (way.start, way.finish)}
    steps += [
        Put(joint.code, "", (joint.code,))
        for joint in job.routing.joints
        if joint.code in used and not joint.closed and _has_plug(job, joint.carries)
    ]
    stuck = tuple(
        Stuck(
            item.at,
            item.what,
            tuple(
                tuple(sorted(set(side.ends) & set(closed), key=code_order)) for side in item.sides
            ),
        )
        for item in left
    )
    off, terminals = _cheapest(ways, items, widths) if stuck else ((), 0)
    return Assembly(tuple(steps), stuck, off, terminals)


def slid_on(job: Job, ways: Ways, covers: dict[str, Cover]) -> tuple[Slid, ...]:
    """Return all that goes on over an end, with the sides it can come from."""
    found: list[Slid] = []
    splices = {joint.code for joint in job.routing.joints if only_splices(job, joint)}

    def from_ends(sides: Iterable[Beyond]) -> tuple[Beyond, ...]:
        """Leave out sides on which there is nothing but splices: no end is open there."""
        every = tuple(side for side in sides if side.ends)
        return tuple(side for side in every if side.ends.keys() - splices) or every

    for run in job.routing.runs:
        covering = COVERINGS.get(run.covering, BARE)
        if covering.closed and ways.wires_in[run.code]:
            size = covers[run.code].size if run.code in covers else ""
            words = f"{covering.name} {size}".strip()
            sides = from_ends(sides_of_run(ways, run.code))
            bore = covers[run.code].over_mm / GOES_ON if run.code in covers else 0.0
            found.append(Slid(run.code, words, sides, bore))
    for joint in job.routing.joints:
        if joint.kind == "grommet" and not joint.opens:
            sides = from_ends(sides_of_joint(ways, joint.code))
            if sides:
                found.append(Slid(joint.code, "grommet", sides, joint.hole_mm or 0.0))
        for boot in joint.boots:
            wires = [c for c, w in ways.of.items() if joint.code in (w.start, w.finish)]
            if wires:
                side = Beyond(joint.code, {joint.code: tuple(wires)}, frozenset())
                found.append(Slid(joint.code, boot, (side,)))
    return tuple(found)


def taken_off(
    items: tuple[Slid, ...], closed: dict[str, float]
) -> tuple[list[tuple[Slid, Beyond]], list[Slid]]:
    """Return in which order things come off, each with the side it goes to, and what never does.

    closed: the ends that carry their plugs, with how wide a hole each goes through, mm.
    """
    order: list[tuple[Slid, Beyond]] = []
    left = list(items)
    on = Counter(item.at for item in left)
    while True:
        kept: list[Slid] = []
        for item in left:
            free = next((side for side in item.sides if _clear(item, side, on, closed)), None)
            if free is None:
                kept.append(item)
            else:
                order.append((item, free))
                on[item.at] -= 1
        if len(kept) == len(left):
            return order, left
        left = kept


def _clear(item: Slid, side: Beyond, on: Counter[str], closed: dict[str, float]) -> bool:
    """Return whether a thing comes off to a side: no plug there that does not go through it, and
    nothing else on the way.
    """
    if any(end in closed and not 0 < closed[end] <= item.bore_mm for end in side.ends):
        return False
    return not any(on[place] for place in side.passed if place != item.at)


def _cheapest(
    ways: Ways, items: tuple[Slid, ...], closed: dict[str, float]
) -> tuple[tuple[str, ...], int]:
    """Return the ends whose plugs are taken off with the fewest terminals, so that all goes on."""
    counts = {
        end: sum((way.start == end) + (way.finish == end) for way in ways.of.values())
        for end in closed
    }
    held = sorted(closed, key=lambda end: (counts[end], code_order(end)))
    if len(held) <= MOST_CLOSED:
        tried = [some for size in range(len(held) + 1) for some in combinations(held, size)]
        tried.sort(key=lambda some: (sum(counts[end] for end in some), len(some)))
    else:  # the cheapest first, one more at a time
        tried = [tuple(held[:size]) for size in range(len(held) + 1)]
    for some in tried:
        rest = {end: wide for end, wide in closed.items() if end not in some}
        if not taken_off(items, rest)[1]:
            return some, sum(counts[end] for end in some)
    return (), 0


def _has_plug(job: Job, carries: tuple[str, ...]) -> bool:
    return any(isinstance(job.part(code), Connector) for code in carries)


def _plug_mm(job: Job, carries: tuple[str, ...]) -> float:
    """Return how wide a hole what an end carries goes through, mm, 0 where that is not known."""
    plugs = [part for code in carries if isinstance(part := job.part(code), Connector)]
    measured = [plug for plug in plugs if plug.wide_mm and plug.high_mm]
    return max(map(passes_mm, measured)) if measured and len(measured) == len(carries) else 0.0


def only_splices(job: Job, joint: LoomNode) -> bool:
    """Return whether a joint carries splices and nothing else."""
    return bool(joint.carries) and all(isinstance(job.part(c), Splice) for c in joint.carries)
