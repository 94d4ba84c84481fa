"""Which way each wire goes along the looms to build, and why one has none."""

from itertools import pairwise
from typing import NamedTuple

from molvik.lazy import cached_property
from molvik.model.job import Job
from molvik.model.parts import Wire
from molvik.netlist.loomgraph import Step
from molvik.routing.graph import RouteGraph


class Way(NamedTuple):
    """The way of a wire. start, finish: the joints its ends sit at. steps: the runs on the way, in
    order from its start; length_m: theirs, m, None where one of them has none. problem: why it has
    no way, empty when it has one.
    """

    start: str
    finish: str
    steps: tuple[Step, ...] = ()
    length_m: float | None = None
    problem: str = ""


class Ways:
    """The ways of all wires of a job that both ends of are known."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self.graph = RouteGraph(job.routing)

    @cached_property
    def of(self) -> dict[str, Way]:
        """The way of each wire by its code; none for wires with a loose end, nor without a loom."""
        if not self._job.routing.joints:
            return {}
        return {
            wire.code: self._way(wire)
            for wire in self._job.wires
            if wire.start.at and wire.finish.at
        }

    @cached_property
    def _sent(self) -> dict[str, tuple[tuple[str, ...], frozenset[str]]]:
        """How each cable is sent: through what one of its cores is, and out of what any is kept.
        A pair that is to stay together is a cable.
        """
        found: dict[str, tuple[tuple[str, ...], frozenset[str]]] = {}
        for wire in self._job.wires:
            if wire.cable:
                through, avoid = found.get(wire.cable, ((), frozenset()))
                found[wire.cable] = through or wire.through, avoid | set(wire.avoid)
        return found

    def _way(self, wire: Wire) -> Way:
        graph = self.graph
        ends = [graph.carried.get(end.at, ()) for end in wire.ends]
        absent = [end.at for end, joints in zip(wire.ends, ends, strict=True) if not joints]
        if absent:
            places = " and ".join(dict.fromkeys(absent))
            verb = "is" if len(set(absent)) == 1 else "are"
            return Way("", "", problem=f"{places} {verb} at no end of a loom yet")
        through, avoid = self._sent.get(wire.cable, (wire.through, frozenset(wire.avoid)))
        best: tuple[float, str, str, tuple[Step, ...]] | None = None
        for start in ends[0]:
            for finish in ends[1]:
                steps = graph.steps_through((start, *through, finish), avoid)
                if steps is not None:
                    found = graph.length_of(steps), start, finish, steps
                    best = min(best, found) if best else found
        if best is None:
            return Way(ends[0][0], ends[1][0], problem=self._why(wire, ends[0][0], ends[1][0]))
        length, start, finish, steps = best
        known = all(graph.runs[step.run].length_m is not None for step in steps)
        return Way(start, finish, steps, length if known else None)

    def _why(self, wire: Wire, start: str, finish: str) -> str:
        """Say why two joints have no way between them."""
        joints, pieces = self.graph.joints, self.graph.pieces
        if pieces[start] == pieces[finish]:
            through, avoid = self._sent.get(wire.cable, (wire.through, frozenset(wire.avoid)))
            wished = ", ".join([*through, *(f"not {code}" for code in sorted(avoid))])
            return f"no route is left as it is sent: {wished}"
        looms = {loom.code: loom.name for loom in self._job.routing.looms}
        names = [looms[joints[code].loom] for code in (start, finish)]
        if names[0] != names[1]:
            return (
                f"its ends lie in {names[0]} and {names[1]}: a wire ends where looms meet, at "
                "a plug, splice or stud"
            )
        return f"no stretch joins {joints[start].name} and {joints[finish].name} yet"

    def apart_m(self, cable: str) -> float:
        """Return how far the cores of a cable go without each other, m: the longest part of a way
        that is not every core's.
        """
        cores = [
            way
            for wire in self._job.wires
            if wire.cable == cable and (way := self.of.get(wire.code)) and not way.problem
        ]
        if len(cores) < 2:
            return 0.0
        common = frozenset.intersection(*(frozenset(s.run for s in way.steps) for way in cores))
        return max(
            self.graph.length_of(tuple(step for step in way.steps if step.run not in common))
            for way in cores
        )

    @cached_property
    def wires_in(self) -> dict[str, tuple[str, ...]]:
        """The wires that lie in each run; empty for those that none goes through."""
        found: dict[str, list[str]] = {run: [] for run in self.graph.runs}
        for code, way in self.of.items():
            for run in dict.fromkeys(step.run for step in way.steps):
                found[run].append(code)
        return {run: tuple(wires) for run, wires in found.items()}


def route_text(graph: RouteGraph, way: Way) -> str:
    """Return how a way goes, by the names of the breakouts it passes and the stretches in between:
    "R16 · Rail, rear · R15".
    """
    if not way.steps:
        return "at one end"
    words, here = [way.steps[0].run], way.start
    for before, step in pairwise(way.steps):
        run = graph.runs[before.run]
        here = run.finish if run.start == here else run.start
        words += [graph.joints[here].name or here, step.run]
    return " · ".join(words)


def run_name(graph: RouteGraph, code: str) -> str:
    """Return a stretch by its code and what it goes between: "R10 Bulkhead to Rail, rear"."""
    run = graph.runs[code]
    ends = [graph.joints[end].name or end for end in (run.start, run.finish) if end]
    return f"{code} {' to '.join(ends)}".strip()
