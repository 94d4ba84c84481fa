"""Each bus of a job: what hangs on its two wires, and which line and stubs they make."""

import itertools
import math
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING, NamedTuple

from molvik.devices import kind_of, value
from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model.job import code_order
from molvik.model.parts import Connector, Device, End, Wire
from molvik.netlist.cache import Key
from molvik.netlist.network import Network
from molvik.reference.bus import NODE_OHM, NODE_PF, USUAL_KBIT

if TYPE_CHECKING:
    import networkx

ASSUMED_M = 1.0
"""A wire of unknown length counts as so long, m."""

HIGH = re.compile(
    r"\b(can|network|bus|data ?link|datalink)\b.*\b(high|hi|h|\+)(\W|$)|\bcan[-_ ]?h(igh)?\b", re.I
)
LOW = re.compile(
    r"\b(can|network|bus|data ?link|datalink)\b.*\b(low|lo|l|-)(\W|$)|\bcan[-_ ]?l(ow)?\b", re.I
)
"""What a pinout calls the two wires."""


class Member(NamedTuple):
    """What hangs on a bus. at: its place on the line, the code of a part; high, low: where its two
    wires are. ohm: between them; kbit_s: how fast it talks, None where that is not said. sort: a
    module, a plug to read codes at, a terminator, or a plug of which only the pinout tells.
    crossed: its two wires are the other way round. half: only one of them gets to the bus.
    """

    code: str
    name: str
    at: str
    high: End
    low: End
    ohm: float
    pf: float
    sort: str
    kbit_s: float | None = None
    crossed: bool = False
    half: bool = False

    @property
    def terminates(self) -> bool:
        """Whether it has a terminator."""
        return self.ohm < 2 * TERMINATOR_OHM

    @property
    def talks(self) -> bool:
        """Whether it sends and receives."""
        return self.sort in ("module", "pinout")


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


class Bus(NamedTuple):
    """A bus. key: of the bus, by its first member; members: what hangs on it; stretches: its line.
    trunk: the places along the line from end to end; along_m: how far along each is, m; stubs: how
    far off the line each other place is, m, and where it leaves it. rings: wires that close a ring.
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
        """What sends and receives."""
        return tuple(one for one in self.members if one.talks)

    @property
    def kbit_s(self) -> float:
        """How fast it talks, kbit/s: as its modules say, else as is usual."""
        said = Counter(one.kbit_s for one in self.members if one.kbit_s)
        return said.most_common(1)[0][0] or USUAL_KBIT if said else USUAL_KBIT

    @property
    def places(self) -> tuple[str, ...]:
        """Every place on it."""
        return (*self.trunk, *(place for place in self.stubs if place not in self.trunk))

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


BUSES = Key["tuple[Bus, ...]"]("connectors", "devices", "splices", "fuses", "earths", "wires")


def buses(network: Network) -> tuple[Bus, ...]:
    """Return every bus of a job, by what hangs on it."""
    return network.cache.get(BUSES, lambda: tuple(_buses(network)))


def _buses(network: Network) -> Iterator[Bus]:
    pairs = [*_pairs(network)]
    if not pairs:
        return
    import networkx

    graph: networkx.Graph[int] = networkx.Graph()
    for _, high, low, _ in pairs:
        nets = [network.net_of[end] for end in (high, low) if end in network.net_of]
        if nets:
            networkx.add_path(graph, nets) if len(nets) > 1 else graph.add_node(nets[0])
    groups = sorted(networkx.connected_components(graph), key=min)
    for group in groups:
        own = [pair for pair in pairs if _nets(network, pair) & group]
        made = _bus(network, own)
        if made is not None:
            yield made


Pair = tuple[Device | Connector, End, End, str]


def _nets(network: Network, pair: Pair) -> set[int]:
    return {network.net_of[end] for end in pair[1:3] if end in network.net_of}


def _pairs(network: Network) -> Iterator[Pair]:
    """Yield what has two wires of a bus: modules, plugs for codes, and plugs by their pinout."""
    for device in network.job.devices:
        if device.kind == "network node" and len(device.terminals) > 1:
            high, low = device.terminals[:2]
            yield device, End(device.code, high), End(device.code, low), "module"
        elif device.kind == "diagnostic plug" and {"6", "14"} <= set(device.terminals):
            yield device, End(device.code, "6"), End(device.code, "14"), "diagnosis"
    plugs = {device.plug for device in network.job.devices if device.kind == "network node"}
    for plug in network.job.connectors:
        if plug.code in network.mates or plug.code in plugs:
            continue  # the line goes on through it, or its module is known
        high_at = [pin.cavity for pin in plug.pins if HIGH.search(pin.function)]
        low_at = [pin.cavity for pin in plug.pins if LOW.search(pin.function)]
        if len(high_at) == len(low_at) == 1:
            ends = End(plug.code, high_at[0]), End(plug.code, low_at[0])
            if any(end in network.wires_at for end in ends):
                yield plug, *ends, "pinout"


def _bus(network: Network, pairs: list[Pair]) -> Bus | None:
    """Return the bus that some pairs make, None where no wire joins any."""
    net_of = network.net_of
    highs = Counter(net_of[pair[1]] for pair in pairs if pair[1] in net_of)
    lows = Counter(net_of[pair[2]] for pair in pairs if pair[2] in net_of)
    if not highs or not lows:
        return None
    high = highs.most_common(1)[0][0]
    low = next((net for net, _ in lows.most_common() if net != high), high)
    members = [_member(network, pair, high, low) for pair in pairs]
    members += _resistors(network, high, low, {pair[0].code for pair in pairs})
    members.sort(key=lambda one: code_order(one.code))
    stretches = tuple(_stretches(network, high, low))
    reached = {place for one in stretches for place in (one.a, one.b)}
    hung = tuple(one for one in members if one.at in reached or not stretches)
    line = _line(stretches, hung)
    wires = [network.wires[one.wire] for one in stretches if one.wire]
    screened = any(
        wire.use == "screen" and wire.cable and wire.cable in {one.cable for one in wires}
        for wire in network.job.wires
    )
    key = next((one.code for one in members if one.talks), members[0].code)
    return Bus(key, tuple(members), stretches, *line, screened=screened)


def _member(network: Network, pair: Pair, high: int, low: int) -> Member:
    part, first, second, sort = pair
    nets = [network.net_of.get(end) for end in (first, second)]
    crossed = nets[0] == low or nets[1] == high
    ohm, pf, kbit = NODE_OHM, NODE_PF, None
    name = part.name
    if isinstance(part, Device):
        if part.kind == "network node":
            ohm, pf = value(part, "ohm"), value(part, "pF")
            kbit = dict(part.values).get("kbit/s")
        else:
            ohm, pf = math.inf, 0.0  # nothing is plugged in there
    else:
        owner = next((one for one in network.job.devices if one.plug == part.code), None)
        name = owner.name if owner is not None else part.name
    if crossed:
        first, second = second, first
    half = high == low or {network.net_of.get(first), network.net_of.get(second)} != {high, low}
    crossed = crossed and high != low
    return Member(
        part.code,
        name,
        part.code,
        first,
        second,
        ohm,
        pf,
        sort,
        kbit,
        crossed,
        half,
    )


def _resistors(network: Network, high: int, low: int, known: set[str]) -> Iterator[Member]:
    """Yield the resistors between the two wires."""
    for device in network.job.devices:
        if device.kind != "resistor" or device.code in known or len(device.terminals) < 2:
            continue
        ends = [End(device.code, name) for name in device.terminals[:2]]
        nets = [network.net_of.get(end) for end in ends]
        if set(nets) == {high, low} and high != low:
            first, second = ends if nets[0] == high else ends[::-1]
            ohm = kind_of(device).figure(device, "ohm")
            yield Member(
                device.code, device.name, device.code, first, second, ohm, 0.0, "terminator"
            )


def _stretches(network: Network, high: int, low: int) -> Iterator[Stretch]:
    """Yield the stretches of the wire that is high, by the parts it joins; the other wire runs
    beside it.
    """
    beside = {
        frozenset((wire.start.at, wire.finish.at)): wire
        for wire in network.job.wires
        if network.net_of.get(wire.start) == low
    }
    for wire in network.job.wires:
        if network.net_of.get(wire.start) != high or not (wire.start.at and wire.finish.at):
            continue
        other = beside.get(frozenset((wire.start.at, wire.finish.at)))
        twisted = bool(wire.cable or wire.lay_length_mm or _said_twisted(wire, other))
        yield Stretch(wire.start.at, wire.finish.at, wire.length_m, wire.code, twisted)
    for one, two in network.touching:
        if network.net_of.get(one) == high:
            yield Stretch(one.at, two.at, 0.0)


def _said_twisted(wire: Wire, other: Wire | None) -> bool:
    words = f"{wire.note} {other.note if other else ''}".lower()
    return "twist" in words


def _line(
    stretches: Iterable[Stretch], members: tuple[Member, ...]
) -> tuple[tuple[str, ...], dict[str, float], dict[str, tuple[str, float]], tuple[str, ...]]:
    """Return the line from end to end, how far along each of its places is, the stubs, and the
    wires that close a ring.

    The line goes from one terminator to the other where there are two, else between the two of its
    modules and ends that are farthest apart.
    """
    import networkx

    tree: networkx.Graph[str] = networkx.Graph()
    rings: list[str] = []
    above: dict[str, str] = {}

    def top(place: str) -> str:
        while above.setdefault(place, place) != place:
            place = above[place]
        return place

    for one in sorted(stretches, key=lambda one: one.counts_m):
        tree.add_nodes_from((one.a, one.b))
        if top(one.a) == top(one.b):
            if one.wire:
                rings.append(one.wire)
            continue
        above[top(one.a)] = top(one.b)
        tree.add_edge(one.a, one.b, m=one.counts_m)
    hung = {one.at for one in members if one.at in tree}
    if not tree or not hung:
        places = tuple(dict.fromkeys(one.at for one in members))[:1]
        return places, dict.fromkeys(places, 0.0), {}, tuple(rings)
    # What a broken wire leaves apart is not on the line: the largest piece is.
    piece = max(networkx.connected_components(tree), key=lambda own: len(own & hung))
    tree = networkx.Graph(tree.subgraph(piece))
    ends = [one.at for one in members if one.terminates and one.at in piece]
    ends = list(dict.fromkeys(ends))
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
    stubs = {}
    for place, (far, way) in _off(tree, trunk).items():
        stubs[place] = way, far
    return trunk, along, stubs, tuple(rings)


def _farthest(tree: "networkx.Graph[str]", among: set[str]) -> list[str]:
    import networkx

    far: Mapping[str, Mapping[str, float]] = {
        one: networkx.single_source_dijkstra_path_length(tree, one, weight="m") for one in among
    }
    pairs = ((far[a][b], code_order(a), a, b) for a in among for b in among)
    most = max(pairs, key=lambda pair: (pair[0], pair[1]))
    return sorted(most[2:], key=code_order)


def _off(tree: "networkx.Graph[str]", trunk: tuple[str, ...]) -> dict[str, tuple[float, str]]:
    """Return how far off the line each other place is, and where it leaves it."""
    found: dict[str, tuple[float, str]] = {}
    waiting = [(place, place, 0.0) for place in trunk]
    seen = set(trunk)
    while waiting:
        here, leaves, far = waiting.pop()
        for there in tree[here]:
            if there not in seen:
                seen.add(there)
                found[there] = far + tree.edges[here, there]["m"], leaves
                waiting.append((there, leaves, found[there][0]))
    return found


def wires_of(bus: Bus) -> frozenset[str]:
    """Return the codes of the wires of its line."""
    return frozenset(one.wire for one in bus.stretches if one.wire)


def by_place(bus: Bus) -> dict[str, list[Member]]:
    """Return what hangs on each place."""
    found: dict[str, list[Member]] = defaultdict(list)
    for one in bus.members:
        found[one.at].append(one)
    return dict(found)
