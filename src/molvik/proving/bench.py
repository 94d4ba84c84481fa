"""The loom on the bench, unplugged at every end: its nets, and what a meter shows on each.

Fuses and relays are out and plugs are off, so that nothing but wires and splices joins anything.
"""

import hashlib
from collections import defaultdict
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import NamedTuple

from msgspec.structs import replace

from molvik.electrical.conductor import resistance_ohm_per_m
from molvik.electrical.elements import Current, Resistor
from molvik.electrical.solve import solve
from molvik.lazy import cached_property
from molvik.model.job import Job, Settings, code_order
from molvik.model.parts import End, Wire
from molvik.reference.contacts import NEW_JOINT_OHM, WORST_JOINT_OHM

UNKNOWN_OHM, UNKNOWN_LIMIT_OHM = 0.05, 1.0
"""What a wire of unknown length or size is taken for, and what is allowed it (common practice:
under an ohm)."""

WARMEST_TIMES = 1.1
"""A loom in a warm shop, 45 deg C, has 10 % more resistance than at 20."""


def end_order(end: End) -> tuple[object, ...]:
    """Sort key of ends: by part, then by cavity as it is numbered."""
    return (code_order(end.at), code_order(end.cavity), end.cavity)


class BenchNet(NamedTuple):
    """What wires and splices join. points: where a probe goes, cavities and studs, in order;
    wires: all that are of it.
    """

    points: tuple[End, ...]
    wires: tuple[str, ...]

    @property
    def name(self) -> str:
        """What it is called: its first point."""
        return str(self.points[0]) if self.points else self.wires[0]


def wire_ohm(wire: Wire, settings: Settings, *, worst: bool = False) -> float:
    """Return a wire's resistance with the joint at each of its ends, ohms: at the bench's
    temperature, or the most that a sound one has.
    """
    joints = 2 * (WORST_JOINT_OHM if worst else NEW_JOINT_OHM)
    if wire.size is None or wire.length_m is None:
        return (UNKNOWN_LIMIT_OHM if worst else UNKNOWN_OHM) + joints
    copper = resistance_ohm_per_m(wire.size, settings.bench_c) * wire.length_m
    return copper * (WARMEST_TIMES if worst else 1.0) + joints


def _with_length(wire: Wire, routed_m: float | None) -> Wire:
    """Return a wire with the length of its way, as it would be taken, where it has none."""
    if wire.length_m is not None or routed_m is None:
        return wire
    return replace(wire, length_m=round(routed_m, 3))


class Bench:
    """The nets of a job's looms on the bench. routed_m: what wires are cut to along their ways, m,
    for those whose length nobody typed.
    """

    def __init__(self, job: Job, routed_m: Mapping[str, float] = MappingProxyType({})) -> None:
        self._splices = {splice.code for splice in job.splices}
        self.settings = job.settings
        self.earths = frozenset(earth.code for earth in job.earths)
        self._kept: dict[tuple[End, End, bool], float | None] = {}
        self._edges: dict[int, list[tuple[str, str, str, float]]] = {}
        self._last_came: tuple[End, dict[End, tuple[End, Wire] | None]] | None = None
        self.wires = {
            w.code: _with_length(w, routed_m.get(w.code))
            for w in job.wires
            if w.start.at and w.finish.at
        }

    def node(self, end: End) -> End:
        """Return where an end of a wire is joined: all ends at a splice are one."""
        return End(end.at) if end.at in self._splices else end

    @cached_property
    def at(self) -> dict[End, list[tuple[End, Wire]]]:
        """From each node where its wires go."""
        found: dict[End, list[tuple[End, Wire]]] = defaultdict(list)
        for wire in self.wires.values():
            a, b = self.node(wire.start), self.node(wire.finish)
            found[a].append((b, wire))
            found[b].append((a, wire))
        return dict(found)

    @cached_property
    def nets(self) -> tuple[BenchNet, ...]:
        """All nets, by their first points."""
        seen: set[End] = set()
        found: list[BenchNet] = []
        for start in sorted(self.at, key=end_order):
            if start in seen:
                continue
            nodes, waiting = {start}, [start]
            while waiting:
                for other, _ in self.at[waiting.pop()]:
                    if other not in nodes:
                        nodes.add(other)
                        waiting.append(other)
            seen |= nodes
            points = sorted((n for n in nodes if n.at not in self._splices), key=end_order)
            wires = {wire.code for node in nodes for _, wire in self.at[node]}
            found.append(BenchNet(tuple(points), tuple(sorted(wires, key=code_order))))
        return tuple(found)

    @cached_property
    def net_of(self) -> dict[End, int]:
        """The number of the net of each point, and of each splice."""
        return {
            self.node(end): number
            for number, net in enumerate(self.nets)
            for code in net.wires
            for end in self.wires[code].ends
        }

    @cached_property
    def tied_at(self) -> dict[int, End]:
        """Where each net is tied to others for isolation: a point of each, at the fewest plugs
        that reach them all, so that little is prepared for it. The plug that reaches most goes
        first, which is near the fewest (the greedy cover).
        """
        at: dict[str, dict[int, End]] = defaultdict(dict)
        for number, net in enumerate(self.nets):
            for point in net.points:
                at[point.at].setdefault(number, point)
        found: dict[int, End] = {}
        while at:
            found |= at.pop(max(at, key=lambda part: len(at[part])))
            left = {
                part: {net: point for net, point in points.items() if net not in found}
                for part, points in at.items()
            }
            at = {part: points for part, points in left.items() if points}
        return found

    def way(self, start: End, finish: End) -> tuple[Wire, ...] | None:
        """Return the wires between two points by the fewest, None where nothing joins them."""
        came = self._came(self.node(start))
        found: list[Wire] = []
        here = self.node(finish)
        if here not in came:
            return None
        while (step := came[here]) is not None:
            here, wire = step
            found.append(wire)
        return tuple(reversed(found))

    def _came(self, start: End) -> dict[End, tuple[End, Wire] | None]:
        """Return from where, and by which wire, each node is reached from one by the fewest wires.
        The last one's is kept: a probe stays at one point while the other goes to all of its net.
        """
        kept = self._last_came  # read once: another thread may ask from elsewhere meanwhile
        if kept is not None and kept[0] == start:
            return kept[1]
        came: dict[End, tuple[End, Wire] | None] = {start: None}
        waiting = [start]
        for here in waiting:
            for other, wire in self.at.get(here, ()):
                if other not in came:
                    came[other] = here, wire
                    waiting.append(other)
        self._last_came = start, came
        return came

    @cached_property
    def bridges(self) -> frozenset[str]:
        """The wires without which a net falls apart: only they are proved by a way through them.

        The others have a wire beside them, and a meter shows nearly the same without one. By hand:
        NetworkX takes ten times as long, 0.1 s for 2,000 wires, after each edit that moves one.
        """
        found: set[str] = set()
        index: dict[End, int] = {}
        low: dict[End, int] = {}
        for root in self.at:
            if root in index:
                continue
            stack: list[tuple[End, str, int]] = [(root, "", 0)]
            while stack:
                here, by, place = stack.pop()
                if place == 0:
                    index[here] = low[here] = len(index)
                near = self.at[here]
                if place < len(near):
                    stack.append((here, by, place + 1))
                    other, wire = near[place]
                    if wire.code == by or other == here:
                        continue
                    if other in index:
                        low[here] = min(low[here], index[other])
                    else:
                        stack.append((other, wire.code, 0))
                elif stack:
                    above = stack[-1][0]
                    low[above] = min(low[above], low[here])
                    if low[here] > index[above] and by:
                        found.add(by)
        return frozenset(found)

    # what a meter shows

    def edges(self, net: int) -> list[tuple[str, str, str, float]]:
        """Return the wires of a net: each with its code, the nodes it joins, and its ohms."""
        found = self._edges.get(net)
        if found is None:
            wires = (self.wires[code] for code in self.nets[net].wires)
            found = [
                (
                    wire.code,
                    str(self.node(wire.start)),
                    str(self.node(wire.finish)),
                    self.wire_ohm(wire),
                )
                for wire in wires
            ]
            self._edges[net] = found
        return found

    def wire_ohm(self, wire: Wire, *, worst: bool = False) -> float:
        """Return a wire's resistance with the joint at each of its ends, ohms: at the bench's
        temperature, or the most that a sound one has.
        """
        return wire_ohm(wire, self.settings, worst=worst)

    def ohm(self, start: End, finish: End, *, worst: bool = False) -> float | None:
        """Return what lies between two points, the meter's leads left out, None for nothing."""
        key = start, finish, worst
        if key not in self._kept:
            self._kept[key] = self._ohm(start, finish, worst=worst)
        return self._kept[key]

    def _ohm(self, start: End, finish: End, *, worst: bool) -> float | None:
        if self.net_of.get(start) != self.net_of.get(finish):
            return None
        way = self.way(start, finish)
        if way is None:
            return None
        if all(wire.code in self.bridges for wire in way):
            return sum(self.wire_ohm(wire, worst=worst) for wire in way)
        net = self.nets[self.net_of[start]]
        elements = [
            Resistor(
                code,
                str(self.node(wire.start)),
                str(self.node(wire.finish)),
                self.wire_ohm(wire, worst=worst),
            )
            for code in net.wires
            if (wire := self.wires[code]) and self.node(wire.start) != self.node(wire.finish)
        ]
        a, b = str(self.node(start)), str(self.node(finish))
        solved = solve([*elements, Current("meter", a, b, 1.0)], b)
        return abs(solved.volts[a])


def digest(wires: Iterable[Wire]) -> str:
    """Return the fingerprint of what was measured: another where a wire was changed since."""

    said = ";".join(
        f"{w.code} {w.start} {w.finish} {w.size} {w.length_m}"
        for w in sorted(wires, key=lambda wire: code_order(wire.code))
    )
    return hashlib.sha256(said.encode()).hexdigest()[:12]
