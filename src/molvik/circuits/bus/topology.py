"""Each bus of a job: what hangs on its two wires, and which line and stubs they make."""

from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Mapping
from types import MappingProxyType
from typing import NamedTuple

from molvik.circuits.bus.line import Stretch, laid, stretches
from molvik.circuits.bus.members import Member, members, pairs, two_nets
from molvik.netlist.network import Network
from molvik.reference.bus import USUAL_KBIT


class Bus(NamedTuple):
    """A bus. key: of the bus, by its first member; members: what hangs on it; stretches: its line.
    trunk: the places along the line from end to end; along_m: how far along each is, m; stubs:
    where each other place leaves the line, and how far off it is, m. rings: the wires that close a
    ring.
    """

    key: str
    members: tuple[Member, ...]
    stretches: tuple[Stretch, ...]
    trunk: tuple[str, ...]
    along_m: dict[str, float]
    stubs: dict[str, tuple[str, float]]
    rings: tuple[str, ...]
    screened: bool

    @property
    def length_m(self) -> float:
        """How long the line is from end to end, m."""
        return max(self.along_m.values(), default=0.0)

    @property
    def terminators(self) -> tuple[Member, ...]:
        """What terminates it."""
        return tuple(one for one in self.members if one.terminates and not one.half)

    @property
    def talkers(self) -> tuple[Member, ...]:
        """What sends and receives, with both its wires on the bus or not."""
        return tuple(one for one in self.members if one.talks)

    @property
    def said_kbit_s(self) -> float | None:
        """How fast most of its modules are said to talk, kbit/s, None where none is."""
        said = Counter(one.kbit_s for one in self.members if one.kbit_s)
        return said.most_common(1)[0][0] if said else None

    @property
    def kbit_s(self) -> float:
        """How fast it talks, kbit/s: as its modules say, else as is usual."""
        return self.said_kbit_s or USUAL_KBIT

    @property
    def places(self) -> tuple[str, ...]:
        """Every place on it."""
        return (*self.trunk, *self.stubs)

    @property
    def unknown(self) -> tuple[str, ...]:
        """The wires whose length is not known."""
        return tuple(one.wire for one in self.stretches if one.length_m is None)

    def away_m(self, place: str) -> float:
        """Return how far off the line a place is, m."""
        return self.stubs[place][1] if place in self.stubs else 0.0

    def position_m(self, place: str) -> float:
        """Return how far along the line a place is, or the place its stub leaves it at, m."""
        return self.along_m[self.stubs[place][0] if place in self.stubs else place]

    def is_joint(self, place: str) -> bool:
        """Return whether a place is a plug that can be pulled from what it is plugged into."""
        return any(not one.wire and place in (one.a, one.b) for one in self.stretches)

    def is_end(self, place: str) -> bool:
        """Return whether nothing goes on from a place."""
        return sum(place in (one.a, one.b) for one in self.stretches) <= 1

    def reached(self, place: str, out: Collection[str] = ()) -> frozenset[str]:
        """Return the places that the line leads to from one. out: the codes of plugs that are
        pulled: their joints are apart, their wires stay.
        """
        beside: dict[str, list[str]] = defaultdict(list)
        for one in self.stretches:
            if one.wire or not {one.a, one.b} & set(out):
                beside[one.a].append(one.b)
                beside[one.b].append(one.a)
        seen, waiting = {place}, [place]
        while waiting:
            for there in beside[waiting.pop()]:
                if there not in seen:
                    seen.add(there)
                    waiting.append(there)
        return frozenset(seen)


def buses(
    network: Network, routed_m: Mapping[str, float] = MappingProxyType({})
) -> tuple[Bus, ...]:
    """Return every bus of a job, by what hangs on it. routed_m: what wires without a length of
    their own are cut to along their ways, m.
    """
    return tuple(_buses(network, routed_m))


def _buses(network: Network, routed_m: Mapping[str, float]) -> Iterator[Bus]:
    found = [*pairs(network)]
    if not found:
        return
    import networkx

    graph: networkx.Graph[int] = networkx.Graph()
    for pair in found:
        nets = [*pair.nets(network)]
        graph.add_nodes_from(nets)
        networkx.add_path(graph, nets)
    for group in sorted(networkx.connected_components(graph), key=min):
        own = [pair for pair in found if pair.nets(network) & group]
        nets_of = two_nets(network, own)
        if nets_of is not None:
            yield _bus(network, members(network, own, *nets_of), nets_of[0], routed_m)


def _bus(
    network: Network, hung: tuple[Member, ...], high: int, routed_m: Mapping[str, float]
) -> Bus:
    line = stretches(network, high, routed_m)
    lies = laid(line, hung)
    cables = {network.wires[one.wire].cable for one in line if one.wire} - {""}
    screened = any(wire.use == "screen" and wire.cable in cables for wire in network.job.wires)
    key = next((one.code for one in hung if one.talks), hung[0].code)
    return Bus(key, hung, line, lies.trunk, lies.along_m, lies.stubs, lies.rings, screened=screened)


def by_place(bus: Bus) -> dict[str, list[Member]]:
    """Return what hangs on each place."""
    found: dict[str, list[Member]] = defaultdict(list)
    for one in bus.members:
        found[one.at].append(one)
    return dict(found)
