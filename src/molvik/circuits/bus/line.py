"""The line that the wires of a bus make: from which end to which, with which stubs and rings."""

import itertools
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, NamedTuple

from molvik.circuits.bus.members import Member
from molvik.model.job import code_order
from molvik.model.parts import Wire
from molvik.netlist.network import Network

if TYPE_CHECKING:
    import networkx

ASSUMED_M = 1.0
"""A wire of unknown length counts as so long, m."""


class Stretch(NamedTuple):
    """A wire of the line between two places, or a plug joint. length_m: None where that is not
    known; wire: its code, empty for a joint; twisted: it lies in a pair.
    """

    a: str
    b: str
    length_m: float | None
    wire: str = ""
    twisted: bool = True

    @property
    def counts_m(self) -> float:
        """How long it counts as, m."""
        return ASSUMED_M if self.length_m is None else self.length_m


class Laid(NamedTuple):
    """How a line lies. trunk: the places along it from end to end; along_m: how far along each is,
    m; stubs: where each other place leaves it, and how far off it is, m; rings: the wires that
    close a ring.
    """

    trunk: tuple[str, ...]
    along_m: dict[str, float]
    stubs: dict[str, tuple[str, float]]
    rings: tuple[str, ...]


def stretches(network: Network, high: int, routed_m: Mapping[str, float]) -> tuple[Stretch, ...]:
    """Return the stretches of the wire that is high, by the parts it joins; the other runs beside
    it. routed_m: what wires without a length of their own are cut to along their ways, m.
    """
    found = [
        Stretch(
            wire.start.at,
            wire.finish.at,
            routed_m.get(wire.code) if wire.length_m is None else wire.length_m,
            wire.code,
            _in_a_pair(wire),
        )
        for wire in network.job.wires
        if network.net_of.get(wire.start) == high and wire.start.at and wire.finish.at
    ]
    found += [
        Stretch(one.at, two.at, 0.0)
        for one, two in network.touching
        if network.net_of.get(one) == high
    ]
    return tuple(found)


def _in_a_pair(wire: Wire) -> bool:
    return bool(wire.cable or wire.lay_length_mm)


def laid(found: Iterable[Stretch], members: tuple[Member, ...]) -> Laid:
    """Return how a line lies: from one terminator to the other where there are two, else between
    the two of its modules and ends that are farthest apart.
    """
    import networkx

    tree: networkx.Graph[str] = networkx.Graph()
    rings: list[str] = []
    above: dict[str, str] = {}

    def top(place: str) -> str:
        while above.setdefault(place, place) != place:
            place = above[place]
        return place

    for one in sorted(found, key=lambda one: one.counts_m):
        tree.add_nodes_from((one.a, one.b))
        if top(one.a) == top(one.b):
            if one.wire:
                rings.append(one.wire)
            continue
        above[top(one.a)] = top(one.b)
        tree.add_edge(one.a, one.b, m=one.counts_m)
    hung = {one.at for one in members if one.at in tree}
    if not hung:
        places = tuple(dict.fromkeys(one.at for one in members))[:1]
        return Laid(places, dict.fromkeys(places, 0.0), {}, tuple(rings))
    # What a broken wire leaves apart is not on the line: the largest piece is.
    piece = max(networkx.connected_components(tree), key=lambda own: len(own & hung))
    tree = networkx.Graph(tree.subgraph(piece))
    ends = list(dict.fromkeys(one.at for one in members if one.terminates and one.at in piece))
    if len(ends) != 2:
        # A plug for codes is a branch; what ends in a plug without anything is an end of the line.
        branches = {one.at for one in members if one.sort == "diagnosis"}
        leaves = {place for place in piece if tree.degree[place] <= 1}
        among = ((hung | leaves) & piece) - branches
        ends = _farthest(tree, among if len(among) > 1 else piece)
    trunk = tuple(networkx.shortest_path(tree, ends[0], ends[1], weight="m"))
    along = {trunk[0]: 0.0}
    for a, b in itertools.pairwise(trunk):
        along[b] = along[a] + tree.edges[a, b]["m"]
    return Laid(trunk, along, _stubs(tree, trunk), tuple(rings))


def _farthest(tree: "networkx.Graph[str]", among: set[str]) -> list[str]:
    import networkx

    far: Mapping[str, Mapping[str, float]] = {
        one: networkx.single_source_dijkstra_path_length(tree, one, weight="m") for one in among
    }
    pairs = ((far[a][b], code_order(a), a, b) for a in among for b in among)
    most = max(pairs, key=lambda pair: (pair[0], pair[1]))
    return sorted(most[2:], key=code_order)


def _stubs(tree: "networkx.Graph[str]", trunk: tuple[str, ...]) -> dict[str, tuple[str, float]]:
    """Return where each other place leaves the line, and how far off it is."""
    found: dict[str, tuple[str, float]] = {}
    waiting = [(place, place, 0.0) for place in trunk]
    seen = set(trunk)
    while waiting:
        here, leaves, far = waiting.pop()
        for there in tree[here]:
            if there not in seen:
                seen.add(there)
                found[there] = leaves, far + tree.edges[here, there]["m"]
                waiting.append((there, leaves, found[there][1]))
    return found
