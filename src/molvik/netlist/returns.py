"""The cables that all current comes back through: what a short to metal lets flow in them."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from molvik.electrical.conductor import resistance_20_ohm_per_m
from molvik.electrical.elements import Current, Element, Resistor, SolveError
from molvik.electrical.solve import solve
from molvik.model.parts import End, Fuse, Wire
from molvik.netlist.feeds import Feed
from molvik.netlist.passing import passages
from molvik.reference.devices import MATED_OHM, METAL_OHM, UNKNOWN_WIRE_OHM

if TYPE_CHECKING:
    from molvik.netlist.network import Network

METAL = "metal"

LEAST_SHARE = 0.005
"""A wire through which less of a fault comes back than this lies beside the way."""


def returns(network: "Network") -> Mapping[str, Feed]:
    """Return what flows through each wire between the battery and the metal of the vehicle, when
    something behind the largest fuse lies on metal.

    Cables side by side share it as their resistances make it; all metal is one, so what parts of it
    lie between them is not known. With one of them off the other carries all: nobody builds for
    that, and an earth that was left off is found otherwise.
    """
    batteries = network.batteries
    largest = _largest(network)
    if len(batteries.lowest) != 1 or largest is None:
        return {}
    earthed = _node(batteries.earthed_end(batteries.lowest[0]))
    elements: list[Element] = [Current("short", METAL, earthed, 1.0)]
    for wire in network.job.wires:
        if wire.start.at and wire.finish.at:
            elements.append(Resistor(wire.code, _node(wire.start), _node(wire.finish), _ohm(wire)))
    ways = [(_node(a), _node(b), MATED_OHM) for a, b in network.touching]
    ways += [(_node(End(earth.code)), METAL, METAL_OHM) for earth in network.job.earths]
    for device in network.job.devices:
        for way in passages(device, network.job.settings.live_pole):
            if not way.inside:
                a, b = End(device.code, way.a), End(device.code, way.b)
                ways.append((_node(a), _node(b), METAL_OHM))
    elements += [Resistor(f"way {at}", *way) for at, way in enumerate(ways)]
    try:
        found = solve(elements, earthed)
    except SolveError:
        return {}
    if METAL in found.floating or METAL not in found.volts:
        return {}
    shares = {wire.code: abs(found.amps.get(wire.code, 0.0)) for wire in network.job.wires}
    return {
        code: Feed(largest.rating_a * min(share, 1.0), largest.code)
        for code, share in shares.items()
        if share >= LEAST_SHARE
    }


def _node(end: End) -> str:
    return f"{end.at}/{end.cavity}"


def _ohm(wire: Wire) -> float:
    if wire.size is None or wire.length_m is None:
        return UNKNOWN_WIRE_OHM
    return wire.length_m * resistance_20_ohm_per_m(wire.size)


def _largest(network: "Network") -> Fuse | None:
    """Return the largest fuse that a battery without another before it feeds."""
    limits = {
        feed.fuse for feed in network.feeds.values() if math.isfinite(feed.limit_a) and not feed.by
    }
    fuses = [fuse for fuse in network.job.fuses if fuse.code in limits]
    return max(fuses, key=lambda fuse: (fuse.rating_a, fuse.code), default=None)
