"""The hours still to come: open operations, at rates that learn from what was logged."""

from collections.abc import Iterable
from typing import NamedTuple, get_args

from molvik.analysis import Analysis
from molvik.model.log import LogEntry, Operation, counted
from molvik.model.loom_edits import find
from molvik.survey.decide import condemned, decide
from molvik.survey.rules import family
from molvik.survey.spread import spread
from molvik.survey.tree import LoomTree

START_MIN: dict[Operation, float] = {
    "open and close covering": 20,
    "terminal out and in": 4,
    "crimp": 3,
    "splice": 10,
    "new wire": 6,
    "clean": 15,
    "test": 2,
}
"""Minutes to begin with, a metre for covering and wire, else each: our figures, to be bettered by
what is logged."""

START_WEIGHT = 3.0
"""The first figures count as much as this many logged metres or pieces (our choice)."""

UNLIKE = 5.0
"""So many times slower or faster than is usual teaches nothing: a slip, or another kind of work
(our choice). What takes so long each time is what is usual then."""

OPERATIONS: tuple[Operation, ...] = get_args(Operation)


class Rate(NamedTuple):
    """Minutes a unit, and how much it was learnt from."""

    minutes: float
    learnt_from: float


def rates(log: Iterable[LogEntry]) -> dict[Operation, Rate]:
    """Return the rate of each operation: first figures and logged ones, weighed by quantity. What
    is unlike the rest teaches nothing.
    """
    done = _done(log)
    found: dict[Operation, Rate] = {}
    for operation, first in START_MIN.items():
        usual = _usual(first, done[operation])
        like = [one for one in done[operation] if not _is_unlike(one, usual)]
        logged = sum(one.quantity for one in like)
        minutes = first * START_WEIGHT + sum(one.minutes for one in like)
        found[operation] = Rate(minutes / (START_WEIGHT + logged), logged)
    return found


def unlike(log: Iterable[LogEntry], entry: LogEntry) -> float | None:
    """Return the minutes that are usual for each, where a line of what was done is unlike them;
    None where it is like them, or says nothing of it.
    """
    if entry.kind != "done" or not entry.operation or entry.quantity <= 0:
        return None
    usual = _usual(START_MIN[entry.operation], _done(log)[entry.operation])
    return usual if _is_unlike(entry, usual) else None


def _done(log: Iterable[LogEntry]) -> dict[Operation, list[LogEntry]]:
    found: dict[Operation, list[LogEntry]] = {operation: [] for operation in OPERATIONS}
    for entry in counted(log):
        if entry.kind == "done" and entry.operation and entry.quantity > 0:
            found[entry.operation].append(entry)
    return found


def _usual(first: float, done: Iterable[LogEntry]) -> float:
    """Return how many minutes half of all took at most, the first figure among them."""
    each = sorted([(first, START_WEIGHT), *((o.minutes / o.quantity, o.quantity) for o in done)])
    left = sum(weight for _, weight in each) / 2
    for minutes, weight in each:
        left -= weight
        if left <= 0:
            return minutes
    return first


def _is_unlike(entry: LogEntry, usual: float) -> bool:
    each = entry.minutes / entry.quantity
    return not usual / UNLIKE <= each <= usual * UNLIKE


Quantities = dict[Operation, float]


def repair_quantities(analysis: Analysis) -> Quantities:
    """Return what the decisions on the loom as found still take, and the tests still open."""
    tree = analysis.loom
    todo: Quantities = dict.fromkeys(OPERATIONS, 0.0)
    opened: dict[str, list[tuple[float, float]]] = {}
    for fault in tree.loom.faults:
        action = decide(tree, fault).action
        if action == "leave":
            continue
        for stretch in spread(tree, fault).stretches:
            if tree.segments[stretch.segment].covering:
                opened.setdefault(stretch.segment, []).append((stretch.begin_m, stretch.end_m))
        if action == "re-terminate":
            todo["terminal out and in"] += 1
            todo["crimp"] += 1
        elif action == "splice in a piece":
            todo["splice"] += 2
        elif action == "clean":
            todo["clean"] += 1
        elif action == "replace the part":
            on = find(tree.loom, fault.on)
            wires = [w for w in tree.loom.wires if on and on.code in (w.start, w.finish)]
            todo["terminal out and in"] += len(wires)
        elif action == "replace the family":
            for code in family(tree, _family_of(tree, fault.on)):
                for stretch in tree.ways[code]:
                    if tree.segments[stretch.segment].covering:
                        opened.setdefault(stretch.segment, []).append(
                            (stretch.begin_m, stretch.end_m)
                        )
    for code in condemned(tree):
        _new_wire(tree, code, todo)
    todo["open and close covering"] += sum(_union(parts) for parts in opened.values())
    todo["test"] += sum(verdict.outcome != "passed" for verdict in analysis.proof.values())
    return todo


def reached(analysis: Analysis) -> set[str]:
    """Return the stretches that have to be reached for what was decided on the loom as found."""
    tree = analysis.loom
    found: set[str] = set()
    for fault in tree.loom.faults:
        if decide(tree, fault).action != "leave":
            found |= {stretch.segment for stretch in spread(tree, fault).stretches}
    for code in condemned(tree):
        found |= {stretch.segment for stretch in tree.ways[code]}
    return found


def access_min(analysis: Analysis, segments: set[str]) -> float:
    """Return how long it takes to reach stretches, minutes: what comes off comes off once."""
    routing = analysis.job.routing
    zones = {one.zone for one in analysis.loom.loom.segments if one.code in segments and one.zone}
    return sum(routing.zone(name).access_min for name in zones)


def replace_quantities(analysis: Analysis) -> Quantities:
    """Return what a whole new loom takes: every wire, every covering, every test."""
    tree = analysis.loom
    todo: Quantities = dict.fromkeys(OPERATIONS, 0.0)
    for wire in tree.loom.wires:
        _new_wire(tree, wire.code, todo)
    for segment in tree.loom.segments:
        todo["open and close covering"] += segment.length_m or 0.0
    todo["test"] += len(tree.loom.wires)
    return todo


def _family_of(tree: LoomTree, code: str) -> str:
    return next((wire.family for wire in tree.loom.wires if wire.code == code), "")


def _new_wire(tree: LoomTree, code: str, todo: Quantities) -> None:
    todo["new wire"] += tree.length_m(code)
    todo["crimp"] += 2
    todo["terminal out and in"] += 2


def _union(parts: list[tuple[float, float]]) -> float:
    """Return the length that some stretches of one segment cover together, counted once."""
    total, reached = 0.0, float("-inf")
    for begin, end in sorted(parts):
        total += max(0.0, end - max(begin, reached))
        reached = max(reached, end)
    return total


def hours(quantities: Quantities, known: dict[Operation, Rate]) -> float:
    """Return the hours some quantities take at these rates."""
    return sum(amount * known[operation].minutes for operation, amount in quantities.items()) / 60
