"""A dead short at the far end of a wire: does the fuse open before the wire is spoilt?"""

import heapq
from typing import NamedTuple

from molvik.circuits.network import Network
from molvik.circuits.paths import by_node, path
from molvik.circuits.states import RUNNING
from molvik.circuits.wiring import METAL, wiring
from molvik.electrical.conductor import area_mm2
from molvik.electrical.fusing import OVERLOAD_K, slowest_s
from molvik.electrical.transient import seconds_to_c
from molvik.model.parts import Fuse, Wire
from molvik.reference.devices import value
from molvik.reference.insulation import insulation
from molvik.sizes.question import ambient_of


class FarShort(NamedTuple):
    """What a short at a wire's far end comes to.

    amps: what flows, A. fuse: the code of the fuse that should open. opens_s: when at the slowest,
    infinite for never. stands_s: how long the wire stands it, s.
    """

    amps: float
    fuse: str
    opens_s: float
    stands_s: float

    @property
    def guarded(self) -> bool:
        """Whether the fuse opens in time."""
        return self.opens_s <= self.stands_s


class Reached(NamedTuple):
    """How the battery reaches a node. ohm: there and through the battery; fuses: on the way."""

    ohm: float
    fuses: tuple[str, ...]


def _reaches(network: Network) -> dict[str, Reached]:
    """Return how the battery reaches every node by the way of least resistance, with all on."""
    if "reaches" in network.kept:
        kept: dict[str, Reached] = network.kept["reaches"]
        return kept
    made = wiring(network, RUNNING)
    known = by_node((*made.fixed, *made.switched(RUNNING, frozenset(), ())))
    battery = next(one for one in network.job.devices if one.kind == "battery")
    begin = Reached(value(battery, "ohm", network.job.settings.system_v), ())
    found: dict[str, Reached] = {}
    queue = [(begin.ohm, made.plus, begin.fuses)]
    while queue:
        ohm, node, fuses = heapq.heappop(queue)
        if node in found:
            continue
        found[node] = Reached(ohm, fuses)
        for link in known.get(node, []):
            other = link.b if link.a == node else link.a
            if other not in found:
                more = (*fuses, link.part) if link.what == "fuse" else fuses
                heapq.heappush(queue, (ohm + link.ohm, other, more))
    network.kept["reaches"] = found
    return found


def _back_ohm(network: Network) -> float:
    """Return the resistance from the metal back to the battery, ohms."""
    if "back" not in network.kept:
        made = wiring(network, RUNNING)
        back = path(by_node(made.fixed), METAL, made.reference)
        network.kept["back"] = sum(link.ohm for link in back or ())
    found: float = network.kept["back"]
    return found


def far_short(network: Network, wire: Wire) -> FarShort | None:
    """Return what a short at the end of a wire away from the battery comes to; None for no feed.

    The way is taken with everything on: battery, wires, plugs, fuses, contacts, and back through
    metal to the battery.
    """
    feed = network.feed(wire)
    battery = next((one for one in network.job.devices if one.kind == "battery"), None)
    fuse = network.parts.get(feed.fuse) if feed else None
    if battery is None or not isinstance(fuse, Fuse) or wire.size is None:
        return None
    reached = _reaches(network)
    ends = [reached[str(end)] for end in wire.ends if str(end) in reached]
    if len(ends) < 2:
        return None
    far = max(ends)  # the end that lies further from the battery
    ohm = far.ohm + _back_ohm(network)
    amps = value(battery, "rest V", network.job.settings.system_v) / ohm
    opening = [
        (slowest_s(one.kind, amps / one.rating_a), one.code)
        for one in network.job.fuses
        if one.code in far.fuses
    ]
    if not opening:
        return None
    soonest, code = min(opening)
    kind = insulation(wire.insulation)
    air = ambient_of(network, wire)
    start_c, limit_c = max(air, kind.limit_c), kind.limit_c + OVERLOAD_K
    if kind.limit_c <= air:
        return FarShort(amps, code, soonest, 0.0)
    # Up to seconds the copper may go where IEC 60364-4-43 lets it: its k says how much heat.
    copper = (kind.k * area_mm2(wire.size)) ** 2 / amps**2
    stands = max(seconds_to_c(wire.size, kind, amps, limit_c, start_c, air), min(copper, 5.0))
    return FarShort(amps, code, soonest, stands)
