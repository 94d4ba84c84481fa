"""What a meter shows on the bench where something is wrong: the same nets, with a fault in them."""

import heapq
from collections import defaultdict
from collections.abc import Iterable
from typing import NamedTuple

from molvik.devices.states import EARTH, Fault
from molvik.electrical.elements import Current, Resistor
from molvik.electrical.solve import solve
from molvik.lazy import cached_property
from molvik.model.parts import End
from molvik.proving.bench import Bench

METAL = "metal"
TOUCH_OHM = 0.01
"""Bare copper against bare copper, ohms (our choice)."""

Edge = tuple[str, str, float]
Graph = dict[str, list[tuple[str, float]]]
"""From each node where its edges go, and their ohms."""


class Reached(NamedTuple):
    """What is joined to a node: how far each other is, ohms, and the edges between all of them."""

    far: dict[str, float]
    inside: list[Edge]


class FaultyBench:
    """A bench with some faults in it. Only what they touch is another than on the sound one."""

    def __init__(self, bench: Bench, faults: Iterable[Fault] = ()) -> None:
        self._bench = bench
        self._faults = tuple(faults)
        self._swaps: dict[End, End] = {}
        self._halved: set[str] = set()
        self._open: set[str] = set()
        self._extra: dict[str, float] = {}
        for fault in self._faults:
            match fault.kind:
                case "open":
                    self._open.add(fault.at)
                case "bad":
                    self._extra[fault.at] = fault.ohm
                case "swap":
                    one, other = End.of(fault.at), End.of(fault.other)
                    self._swaps |= {one: other, other: one}
                case "short":
                    self._halved |= {fault.at, fault.other} - {EARTH}
                case _:
                    pass
        self._kept: dict[frozenset[End], float | None] = {}
        self._graphs: dict[frozenset[int], Graph] = {}
        self._reached: dict[tuple[frozenset[int], str], Reached] = {}

    @cached_property
    def touched(self) -> frozenset[int]:
        """The nets that the faults touch, by their numbers on the sound bench."""
        bench = self._bench
        codes = self._open | set(self._extra) | self._halved
        ends = {end for code in codes if (w := bench.wires.get(code)) for end in w.ends}
        ends |= set(self._swaps)
        found = {bench.net_of[bench.node(end)] for end in ends if bench.node(end) in bench.net_of}
        if any(fault.other == EARTH for fault in self._faults):
            found |= self._earths
        return frozenset(found)

    @property
    def _earths(self) -> set[int]:
        bench = self._bench
        return {bench.net_of[point] for point in bench.net_of if point.at in bench.earths}

    def ohm(self, red: End, black: End) -> float | None:
        """Return what lies between two points, the leads left out, None for nothing."""
        key = frozenset((red, black))
        if key not in self._kept:
            self._kept[key] = self._ohm(red, black)
        return self._kept[key]

    def _ohm(self, red: End, black: End) -> float | None:
        bench = self._bench
        nets = {bench.net_of[point] for point in (red, black) if point in bench.net_of}
        touched = self.touched
        if not nets & touched:
            return bench.ohm(red, black)
        start, finish = str(bench.node(red)), str(bench.node(black))
        among = frozenset(nets | touched)
        if (among, finish) in self._reached:  # the same from either end
            start, finish = finish, start
        found = self._reach(among, start)
        if finish not in found.far:
            return None
        if len(found.inside) == len(found.far) - 1:  # one way only
            return found.far[finish]
        elements = [Resistor(str(n), a, b, ohm) for n, (a, b, ohm) in enumerate(found.inside)]
        solved = solve([*elements, Current("meter", start, finish, 1.0)], finish)
        return abs(solved.volts[start])

    def _reach(self, nets: frozenset[int], start: str) -> "Reached":
        """Return what is joined to a node by some nets; asked again for each other end."""
        key = nets, start
        if key not in self._reached:
            near = self._graph(nets)
            far = _far(near, start)
            # Each edge stands at both its ends: it is taken at the one that was numbered first.
            place = {node: n for n, node in enumerate(far)}
            inside = [(a, b, ohm) for a in far for b, ohm in near[a] if place[a] < place[b]]
            self._reached[key] = Reached(far, inside)
        return self._reached[key]

    def _graph(self, nets: frozenset[int]) -> "Graph":
        if nets not in self._graphs:
            near: Graph = defaultdict(list)
            for edges in (*map(self._edges, nets), self._shorts()):
                for a, b, ohm in edges:
                    near[a].append((b, ohm))
                    near[b].append((a, ohm))
            self._graphs[nets] = near
        return self._graphs[nets]

    def _edges(self, net: int) -> Iterable[Edge]:
        bench = self._bench
        for code, begin, end, ohm in bench.edges(net):
            if code in self._open:
                continue
            a, b, more = begin, end, ohm + self._extra.get(code, 0.0)
            if self._swaps:
                a, b = (str(bench.node(self._swaps.get(e, e))) for e in bench.wires[code].ends)
            if code in self._halved:
                middle = f"{code} middle"
                yield a, middle, more / 2
                yield middle, b, more / 2
            else:
                yield a, b, more

    def _shorts(self) -> Iterable[Edge]:
        for fault in self._faults:
            if fault.kind != "short":
                continue
            other = METAL if fault.other == EARTH else f"{fault.other} middle"
            yield f"{fault.at} middle", other, TOUCH_OHM
            if fault.other == EARTH:
                for point in self._bench.net_of:
                    if point.at in self._bench.earths:
                        yield str(point), METAL, TOUCH_OHM


def _far(near: Graph, start: str) -> dict[str, float]:
    """Return how far every node is that is joined to one, by the least way, ohms."""
    far: dict[str, float] = {}
    heap = [(0.0, start)]
    while heap:
        ohm, here = heapq.heappop(heap)
        if here in far:
            continue
        far[here] = ohm
        for there, more in near[here]:
            if there not in far:
                heapq.heappush(heap, (ohm + more, there))
    return far
