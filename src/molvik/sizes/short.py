"""A dead short at the far end of a wire: does the fuse open before the wire is spoilt?"""

import math
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

from molvik.devices.nodes import METAL
from molvik.devices.states import RUNNING
from molvik.electrical.conductor import resistance_20_ohm_per_m, resistance_ohm_per_m
from molvik.electrical.fusing import SUSTAINED_S, lasts_s, withstand_a
from molvik.electrical.root import root
from molvik.lazy import cached_property
from molvik.model.parts import Fuse, Wire, WireSize
from molvik.netlist.branches import by_node, far_end, path
from molvik.netlist.cache import Key
from molvik.netlist.circuitgraph import Branch, circuit_graph
from molvik.netlist.network import Network
from molvik.netlist.search import search
from molvik.reference.fuses import curve_of
from molvik.reference.insulation import Insulation, insulation
from molvik.sizes.hot import around_c
from molvik.sizes.sizing_case import SizingCase

CLEARED_S = 5.0
"""How long a short may last, s (IEC 60364-4-41 for circuits that are not touched; from memory)."""

LEAST_S = 1e-4
CLOSE = 1e-7
"""How near the time that a wire stands a short is found, as a share of it."""


@dataclass(frozen=True)
class FarShort:
    """What a short at a wire's far end comes to, all copper on its way as hot as it may get.

    amps: what flows, A. fuse: the code of the fuse that should open. opens_s: when at the slowest,
    infinite for never. air_c: what the wire lies in, deg C.
    """

    amps: float
    fuse: str
    opens_s: float
    size: WireSize
    kind: Insulation
    air_c: float

    @cached_property
    def guarded(self) -> bool:
        """Whether the fuse opens before the wire is spoilt."""
        return self._stands(self.opens_s)

    @property
    def cleared(self) -> bool:
        """Whether the fuse opens in the time a short may last."""
        return self.opens_s <= CLEARED_S

    @cached_property
    def stands_s(self) -> float:
        """How long the wire stands it, s, infinite for ever."""
        if self._stands(math.inf):
            return math.inf
        low, high = LEAST_S, SUSTAINED_S
        if not self._stands(low):
            return 0.0
        if self._stands(high):
            return high

        def over(log_s: float) -> float:
            bears_a = withstand_a(self.size, self.kind, self.air_c, math.exp(log_s))
            return math.log(bears_a / self.amps)

        return math.exp(root(over, math.log(low), math.log(high), close=CLOSE))

    def _stands(self, seconds: float) -> bool:
        if self.kind.limit_c <= self.air_c:
            return False
        return withstand_a(self.size, self.kind, self.air_c, seconds) >= self.amps


class Reached(NamedTuple):
    """How the battery reaches a node. ohm: there and through the battery; fuses: on the way."""

    ohm: float
    fuses: tuple[str, ...]


REACHES = Key[dict[str, Reached]]()
BACK = Key[float]()


def _reaches(network: Network) -> dict[str, Reached]:
    """Return how the battery reaches every node by the way of least resistance, with all on."""
    return network.cache.get(REACHES, partial(_reached, network))


def _reached(network: Network) -> dict[str, Reached]:
    made = circuit_graph(network, RUNNING)
    known = by_node((*made.fixed, *made.switched(RUNNING, frozenset(), ())))
    own_ohm = network.batteries.in_all[1]
    reach = search(known, {made.live: own_ohm}, far_end, partial(_hot_ohm, network))
    fuses: dict[str, tuple[str, ...]] = {}
    for node, came in reach.came.items():  # each after the one it was reached from
        before = fuses[came[0]] if came else ()
        fuses[node] = (*before, came[1].part) if came and came[1].what == "fuse" else before
    return {node: Reached(ohm, fuses[node]) for node, ohm in reach.cost.items()}


def _hot_ohm(network: Network, link: Branch) -> float:
    """Return the resistance of a piece of the way, ohms, a wire's with its copper at its class."""
    wire = network.wires.get(link.part) if link.what == "wire" else None
    if wire is None or wire.size is None:
        return link.ohm
    hot = resistance_ohm_per_m(wire.size, insulation(wire.insulation).limit_c)
    return link.ohm * hot / resistance_20_ohm_per_m(wire.size)


def _back_ohm(network: Network) -> float:
    """Return the resistance from the metal back to the battery, ohms."""

    def back() -> float:
        made = circuit_graph(network, RUNNING)
        links = path(by_node(made.fixed), METAL, made.reference)
        return sum(_hot_ohm(network, link) for link in links or ())

    return network.cache.get(BACK, back)


def far_short(network: Network, wire: Wire, requirements: SizingCase) -> FarShort | None:
    """Return what a short at the end of a wire away from the battery comes to; None for no feed.

    asked: what is asked of the wire. The way is taken with everything on: battery, wires, plugs,
    fuses, contacts, and back through metal to the battery.
    """
    feed = network.feed(wire)
    fuse = network.parts.get(feed.fuse) if feed else None
    if not network.batteries.every or not isinstance(fuse, Fuse) or wire.size is None:
        return None
    reached = _reaches(network)
    ends = [reached[str(end)] for end in wire.ends if str(end) in reached]
    if len(ends) < 2:
        return None
    far = max(ends)  # the end that lies further from the battery
    ohm = far.ohm + _back_ohm(network)
    amps = network.batteries.in_all[0] / ohm
    known = (network.parts.get(code) for code in far.fuses)
    opening = [
        (lasts_s(curve_of(fuse.kind, fuse.rating_a), amps / fuse.rating_a), fuse.code)
        for fuse in known
        if isinstance(fuse, Fuse)
    ]
    if not opening:
        return None
    soonest, code = min(opening)
    return FarShort(
        amps, code, soonest, wire.size, requirements.kind, around_c(wire.size, requirements)
    )
