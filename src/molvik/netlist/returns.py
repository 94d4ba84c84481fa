"""The cables that all current comes back through: what a short to metal lets flow in them."""

import math
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace

from molvik.devices import generators, kind_of
from molvik.devices.nodes import METAL
from molvik.electrical.conductor import resistance_20_ohm_per_m
from molvik.electrical.elements import Current, Element, Resistor, SolveError
from molvik.electrical.solve import solve
from molvik.model.parts import Device, End, Wire
from molvik.model.refs import end_text
from molvik.netlist.feeds import Feed, find_feeds
from molvik.reference.joins import MATED_OHM, METAL_OHM, UNKNOWN_WIRE_OHM

if TYPE_CHECKING:
    from molvik.netlist.network import Network

LEAST_SHARE = 0.005
"""A wire through which less of a fault comes back than this lies beside the way."""


def returns(network: "Network") -> Mapping[str, Feed]:
    """Return what flows through each wire between a battery and the metal of the vehicle, when
    what the largest fuse feeds, or several together, lies on metal.

    Each battery gets back what it gives by itself: of two side by side the other may be flat, or
    switched off. Cables side by side share it as their resistances make it; all metal is one, so
    what parts of it lie between them is not known. With one of them off the other carries all:
    nobody builds for that, and an earth that was left off is found otherwise.
    """
    found: dict[str, Feed] = {}
    for battery in network.batteries.lowest:
        largest = _largest(network, battery)
        if largest is None:
            continue
        for code, share in _shares(network, battery).items():
            comes = largest._replace(limit_a=largest.limit_a * min(share, 1.0))
            if share >= LEAST_SHARE and (code not in found or comes.limit_a > found[code].limit_a):
                found[code] = comes
    return found


def _shares(network: "Network", battery: Device) -> Mapping[str, float]:
    """Return which share of what comes back from metal to a battery each wire carries."""
    earthed = _node(network.batteries.earthed_end(battery))
    elements: list[Element] = [Current("short", METAL, earthed, 1.0)]
    for wire in network.job.wires:
        if wire.start.at and wire.finish.at:
            elements.append(Resistor(wire.code, _node(wire.start), _node(wire.finish), _ohm(wire)))
    ways = [(_node(a), _node(b), MATED_OHM) for a, b in network.touching]
    ways += [(_node(End(earth.code)), METAL, METAL_OHM) for earth in network.job.earths]
    for device in network.job.devices:
        for way in kind_of(device).conduction_paths(device, network.job.settings.live_pole):
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
    return {wire.code: abs(found.amps.get(wire.code, 0.0)) for wire in network.job.wires}


def _node(end: End) -> str:
    return end_text(end.at, end.cavity)


def _ohm(wire: Wire) -> float:
    if wire.size is None or wire.length_m is None:
        return UNKNOWN_WIRE_OHM
    return wire.length_m * resistance_20_ohm_per_m(wire.size)


def _largest(network: "Network", battery: Device) -> Feed | None:
    """Return the most that can come back to a battery from one place for ever, by all the fuses
    that it feeds, alone or with those that stand on it. What an alternator adds goes back to its
    own body.
    """
    row = network.batteries.row(battery)
    job = network.job
    others = {one.code for one in job.devices if one.kind == "battery"}
    others |= {one.code for one in generators(job.devices)}
    others -= {one.code for one in row}
    feeds: Iterable[Feed] = network.feeds.values()
    if others:
        alone = replace(job, devices=tuple(one for one in job.devices if one.code not in others))
        feeds = find_feeds(alone, network.net_of, network.touching).nets.values()
    found = [feed for feed in feeds if math.isfinite(feed.limit_a) and feed.fuse]
    return max(found, key=lambda feed: (feed.limit_a, feed.named), default=None)
