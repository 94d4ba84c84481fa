"""What can flow into a short on each net and wire, and what limits it: fuses, as a rule.

Of a single way the narrowest piece counts: a fuse is as wide as its rating, a contact has no limit,
a low resistance lets through what the voltage drives. Several ways add up, as two fuses do that
two relays join: the most that can flow by all of them, in any position of what switches between
them, is the smallest cut (Ford and Fulkerson, 1956). An alternator gives what it can beside the
battery.
"""

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from molvik.devices import kind_of, value
from molvik.model.job import Job
from molvik.model.parts import Device, End, Wire
from molvik.netlist.flow import Edge, Flow, Node, Parts, most, reached, two_edge_connected
from molvik.netlist.search import search

Place = int | End
"""A net by its number; or an end that no wire goes to, which current can pass all the same."""

SOURCES = "the sources"
"""The place that all supplies are fed from."""

MOST_TURNS = 64
"""So many positions of switches and relays are tried; with more, all their ways count at once."""

CHARGED = 1.2
"""The voltage while charging against the nominal one: 14.4 V of 12 V (common practice)."""

LEAST_A = 3.0
"""A resistance that lets through less harms no wire that there may be (our choice)."""


class Feed(NamedTuple):
    """What can flow into a short on a net or through a wire.

    limit_a: the largest fault current, A, that can last for ever, infinite where nothing limits it.
    fuse: the code of the widest fuse that does, or of what does where it is none. by: the codes of
    all that limit it together, where there is more than one.
    """

    limit_a: float
    fuse: str
    by: tuple[str, ...] = ()

    @property
    def named(self) -> str:
        """What limits it, in words."""
        return " and ".join(self.by) or self.fuse


ENDLESS = Feed(math.inf, "")
NOTHING = Feed(0.0, "")
"""Of a place that no supply reaches in any position of what switches."""


class Feeds(NamedTuple):
    """What can flow into a short. nets: by their numbers. wires: through those whose net is fed
    from more than one side, where it is not the same through all of its wires.
    """

    nets: dict[int, Feed]
    wires: dict[str, Feed]


def find_feeds(
    job: Job, net_of: Mapping[End, int], touching: Sequence[tuple[End, End]] = ()
) -> Feeds:
    """Return what can flow into a short on each net that a supply reaches.

    touching: pairs of ends that meet without a wire. Ways through a module's inside count for nets
    that have no other.
    """
    edges = _edges(job, net_of)
    finder = _Finder(job, net_of, touching)
    found = finder.find(edges)
    found |= _inside(job, net_of, edges, found)
    nets = {at: feed for at, feed in found.items() if isinstance(at, int)}
    return Feeds(nets, finder.wires)


def _edges(job: Job, net_of: Mapping[End, int]) -> list[Edge]:
    """Return the ways from the sources on, through whatever passes current."""
    volts, made = job.settings.system_v * CHARGED, []
    for fuse in job.fuses:
        ends = End(fuse.code, "in"), End(fuse.code, "out")
        made.append(_edge(net_of, ends, fuse.rating_a, fuse.code))
    for device in job.devices:
        kind = kind_of(device)
        if out := kind.source(job.settings.live_pole):
            limited = kind.regulates  # an alternator gives what it can, a battery all
            most_a = value(device, "most A", job.settings.system_v) if limited else math.inf
            by = device.code if limited else ""
            made.append(_source(net_of, End(device.code, out), most_a, by))
        ohm = _low_ohm(device, job.settings.system_v)
        if ohm is not None and volts > LEAST_A * ohm:
            ends = End(device.code, device.terminals[0]), End(device.code, device.terminals[1])
            made.append(_edge(net_of, ends, volts / ohm if ohm else math.inf, device.code))
        turns = kind.alternatives(device)
        for way in kind_of(device).conduction_paths(device, job.settings.live_pole):
            if way.inside:
                continue
            pair = {way.a, way.b}
            open_in = tuple(n for n, joins in enumerate(turns) if pair in map(set, joins))
            ends = End(device.code, way.a), End(device.code, way.b)
            edge = _edge(net_of, ends, math.inf, "")._replace(both=way.both)
            if 0 < len(open_in) < len(turns):
                edge = edge._replace(device=device.code, open_in=open_in)
            made.append(edge)
    return made


def _edge(net_of: Mapping[End, int], ends: tuple[End, End], width: float, code: str) -> Edge:
    return Edge(_at(net_of, ends[0]), _at(net_of, ends[1]), width, code, ends=ends)


def _source(net_of: Mapping[End, int], plus: End, width: float, code: str) -> Edge:
    return Edge(SOURCES, _at(net_of, plus), width, code, both=False, ends=(None, plus))


def _low_ohm(device: Device, system_v: float) -> float | None:
    """Return the resistance of a shunt, a ballast or the like, which other current goes through."""
    kind = kind_of(device)
    if not (kind.by_ohm and kind.passes) or len(device.terminals) < 2:
        return None
    return value(device, "ohm", system_v)


class _Finder:
    def __init__(
        self, job: Job, net_of: Mapping[End, int], touching: Sequence[tuple[End, End]]
    ) -> None:
        self._job, self._net_of, self._touching = job, net_of, touching
        self._devices = {device.code: device for device in job.devices}
        self._fuses = {fuse.code for fuse in job.fuses}
        self.wires: dict[str, Feed] = {}

    def find(self, edges: list[Edge]) -> dict[Place, Feed]:
        """Return the feed of every place that is reached."""
        there = reached(edges, SOURCES)
        edges = [edge for edge in edges if edge.a in there and edge.b in there]
        parts = two_edge_connected(edges, SOURCES)
        inner: dict[int, list[Edge]] = defaultdict(list)
        for edge in edges:
            if parts.of[edge.a] == parts.of[edge.b]:
                inner[parts.of[edge.a]].append(edge)
        found: dict[Node, Feed] = {}
        for number, (nodes, by) in enumerate(zip(parts.nodes, parts.by, strict=True)):
            before = ENDLESS
            if by is not None:
                edge = edges[by]
                if parts.of[edge.b] != number:
                    edge = edge._replace(a=edge.b, b=edge.a, ends=edge.ends[::-1])
                before = found.get(edge.a, ENDLESS)
                if edge.open_in and before is not NOTHING and _comes_by_another(parts, edges, edge):
                    before = self._before(edges, edge, before)
                before = _narrower(before, edge)
                inner[number].append(Edge(SOURCES, edge.b, math.inf, ends=(None, edge.ends[1])))
            if len(nodes) == 1:
                found[nodes[0]] = before
            else:
                self._together(before, found, nodes, inner[number])
        found.pop(SOURCES, None)
        return {
            at: feed
            for at, feed in found.items()
            if isinstance(at, int | End) and feed is not NOTHING
        }

    def _before(self, edges: list[Edge], edge: Edge, feed: Feed) -> Feed:
        """Return what can flow to where a contact begins while it is closed: what comes there by
        another position of the same contacts does not go through it.
        """
        closed = set(edge.open_in)
        now = [
            one._replace(device="", open_in=()) if one.device == edge.device else one
            for one in edges
            if one.device != edge.device or closed & set(one.open_in)
        ]
        flow = self._most(now, edge.a)
        return self._least(feed, flow) if flow.amps else NOTHING

    def _together(
        self, before: Feed, found: dict[Node, Feed], nodes: Iterable[Node], edges: list[Edge]
    ) -> None:
        """Find the feeds of places that are reached by more than one way. before: of the one by
        which all of it comes in.
        """
        for node in nodes:
            if node != SOURCES:
                found[node] = self._least(before, self._most(edges, node))
        wires: dict[int, list[Wire]] = {node: [] for node in nodes if isinstance(node, int)}
        for wire in self._job.wires:
            net = self._net_of.get(wire.start)
            if net in wires and self._net_of.get(wire.finish) == net:
                wires[net].append(wire)
        for net, of in wires.items():
            if of:
                self._through(before, net, of, edges)

    def _through(self, before: Feed, net: int, wires: list[Wire], edges: list[Edge]) -> None:
        """Find what can flow through each wire of a net: into a short at one end of it, from what
        lies at the other.
        """
        entries = {
            end
            for edge in edges
            for node, end in zip(edge[:2], edge.ends, strict=True)
            if node == net
        }
        ends = {end for wire in wires for end in wire.ends} | entries
        links: list[tuple[End, End, Wire | None]] = [(w.start, w.finish, w) for w in wires]
        links += [(a, b, None) for a, b in self._touching if a in ends or b in ends]
        for wire, there in _parted(links, entries).items():
            if 0 < len(there) < len(entries):
                split = [_split(edge, net, there) for edge in edges]
                flows = [self._most(split, (net, side)) for side in (True, False)]
                widest = max(flows, key=lambda flow: flow.amps)
                self.wires[wire.code] = self._least(before, widest)

    def _least(self, before: Feed, flow: Flow) -> Feed:
        if flow.amps >= before.limit_a or not flow.limits:
            return before
        fuse = next((code for code in flow.limits if code in self._fuses), flow.limits[0])
        return Feed(flow.amps, fuse, flow.limits if len(flow.limits) > 1 else ())

    def _most(self, edges: list[Edge], end: Node) -> Flow:
        """Return the most that can flow to a place in any position of what switches."""
        turning = self._turning(edges)
        if math.prod(map(len, turning.values())) > MOST_TURNS:
            return most(edges, SOURCES, end)
        best = Flow(0.0, ())
        for turns in itertools.product(*turning.values()):
            stands = dict(zip(turning, turns, strict=True))
            now = [one for one in edges if not one.open_in or stands[one.device] in one.open_in]
            best = max(best, most(now, SOURCES, end), key=lambda flow: flow.amps)
        return best

    def _turning(self, edges: list[Edge]) -> dict[str, list[int]]:
        """Return the positions in which devices have some ways open that they have in no other
        together: more never flows by fewer ways.
        """
        found: dict[str, list[int]] = {}
        for device in dict.fromkeys(edge.device for edge in edges if edge.open_in):
            ways = [edge.open_in for edge in edges if edge.device == device]
            number = len(kind_of(self._devices[device]).alternatives(self._devices[device]))
            opened = [{n for n, way in enumerate(ways) if at in way} for at in range(number)]
            found[device] = [
                at
                for at, some in enumerate(opened)
                if some not in opened[:at] and not any(some < more for more in opened)
            ]
        return found


def _comes_by_another(parts: Parts, edges: list[Edge], edge: Edge) -> bool:
    """Return whether something can come to where a contact begins by another position of it: not
    by one that only leads on from there.
    """
    at = parts.of[edge.a]
    for number, other in enumerate(edges):
        if other.device == edge.device and not set(other.open_in) & set(edge.open_in):
            leads_on = any(
                parts.by[part] == number and parts.under[part] == at
                for part in (parts.of[other.a], parts.of[other.b])
            )
            if not leads_on:
                return True
    return False


def _parted(
    links: list[tuple[End, End, Wire | None]], entries: set[End]
) -> dict[Wire, frozenset[End]]:
    """Return, for each wire that alone holds its net together, which entries lie behind it."""
    if not links:
        return {}
    edges = [Edge(a, b, 0.0) for a, b, _ in links]
    parts = two_edge_connected(edges, links[0][0])
    below: list[set[End]] = [entries & set(nodes) for nodes in parts.nodes]
    found: dict[Wire, frozenset[End]] = {}
    for number in range(len(parts.nodes) - 1, 0, -1):
        by = parts.by[number]
        assert by is not None
        wire = links[by][2]
        below[parts.under[number]] |= below[number]
        if wire is not None:
            found[wire] = frozenset(below[number])
    return found


def _split(edge: Edge, net: int, there: frozenset[End]) -> Edge:
    """Return a way with a net parted: what lies there is one place, the rest another."""
    a, b = (
        (net, end in there) if node == net else node
        for node, end in zip(edge[:2], edge.ends, strict=True)
    )
    return edge._replace(a=a, b=b)


def _narrower(before: Feed, edge: Edge) -> Feed:
    return before if edge.width >= before.limit_a else Feed(edge.width, edge.code)


def _at(net_of: Mapping[End, int], end: End) -> Place:
    return net_of.get(end, end)


def _inside(
    job: Job, net_of: Mapping[End, int], edges: list[Edge], found: Mapping[Place, Feed]
) -> dict[Place, Feed]:
    """Return the feeds of places that are reached through a module's inside alone, by the widest
    way.
    """
    ways = [
        Edge(_at(net_of, End(device.code, way.a)), _at(net_of, End(device.code, way.b)), math.inf)
        for device in job.devices
        for way in kind_of(device).conduction_paths(device, job.settings.live_pole)
        if way.inside
    ]
    steps: dict[Node, list[tuple[Node, Edge]]] = defaultdict(list)
    for edge in [*edges, *ways] if ways else ():
        if edge.b not in found and edge.a != SOURCES:
            steps[edge.a].append((edge.b, edge))
        if edge.both and edge.a not in found and edge.a != SOURCES:
            steps[edge.b].append((edge.a, edge))
    narrow: dict[Node, float] = {at: -feed.limit_a for at, feed in found.items()}
    reach = search(steps, narrow, lambda step, _: step[0], lambda step: -step[1].width, max)
    more: dict[Node, Feed] = dict(found.items())
    for at, came in reach.came.items():  # each after the one it was reached from
        if came is not None:
            more[at] = _narrower(more[came[0]], came[1][1])
    return {at: feed for at, feed in more.items() if isinstance(at, int | End)}
