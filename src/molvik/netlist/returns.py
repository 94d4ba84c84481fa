"""The cables that all current comes back through: what a short to metal lets flow in them."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from molvik.electrical.conductor import resistance_20_ohm_per_m
from molvik.electrical.elements import Current, Element, Resistor, SolveError
from molvik.electrical.solve import solve
from molvik.model.parts import End, Wire
from molvik.netlist.feeds import Feed
from molvik.netlist.passing import passages
from molvik.reference.devices import MATED_OHM, METAL_OHM, UNKNOWN_WIRE_OHM, value

if TYPE_CHECKING:
    from molvik.netlist.network import Network

METAL = "metal"

LEAST_SHARE = 0.005
"""A wire through which less of a fault comes back than this lies beside the way."""


def returns(network: "Network") -> Mapping[str, Feed]:
    """Return what flows through each wire between the battery and the metal of the vehicle, when
    what the largest fuse feeds, or several together, lies on metal.

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
        code: largest._replace(limit_a=largest.limit_a * min(share, 1.0))
        for code, share in shares.items()
        if share >= LEAST_SHARE
    }


def _node(end: End) -> str:
    return f"{end.at}/{end.cavity}"


def _ohm(wire: Wire) -> float:
    if wire.size is None or wire.length_m is None:
        return UNKNOWN_WIRE_OHM
    return wire.length_m * resistance_20_ohm_per_m(wire.size)


def _largest(network: "Network") -> Feed | None:
    """Return the most that can come back from one place for ever, by all the fuses that feed it.

    What an alternator adds goes back to its own body.
    """
    most_a = {
        device.code: value(device, "most A", network.job.settings.system_v)
        for device in network.job.devices
        if device.kind == "alternator"
    }
    found: list[Feed] = []
    for feed in network.feeds.values():
        codes = feed.by or (feed.fuse,)
        amps = feed.limit_a - sum(most_a.get(code, 0.0) for code in codes)
        limits = tuple(code for code in codes if code not in most_a)
        if math.isfinite(amps) and amps > 0 and limits:
            found.append(Feed(amps, limits[0], limits if len(limits) > 1 else ()))
    return max(found, key=lambda feed: (feed.limit_a, feed.named), default=None)
