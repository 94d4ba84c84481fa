"""The cables that all current comes back through: what a short to metal lets flow in them."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from molvik.model.parts import End, Fuse
from molvik.netlist.feeds import Feed
from molvik.netlist.flow import Edge, Node, two_edge_connected
from molvik.netlist.passing import passages

if TYPE_CHECKING:
    from molvik.netlist.network import Network

METAL = "metal"


def returns(network: "Network") -> Mapping[str, Feed]:
    """Return what flows through each wire that alone joins the battery to the metal of the vehicle,
    when something behind the largest fuse lies on metal.

    Cables side by side share it, and are not judged.
    """
    job, batteries = network.job, network.batteries
    largest = _largest(network)
    if len(batteries.lowest) != 1 or largest is None:
        return {}
    links: list[tuple[Node, Node, str]] = [
        (wire.start, wire.finish, wire.code) for wire in network.job.wires
        if wire.start.at and wire.finish.at
    ]  # fmt: skip
    links += [(a, b, "") for a, b in network.touching]
    links += [(End(earth.code), METAL, "") for earth in network.job.earths]
    for device in network.job.devices:
        for way in passages(device, job.settings.live_pole):
            if not way.inside:
                links.append((End(device.code, way.a), End(device.code, way.b), ""))
    earthed = batteries.earthed_end(batteries.lowest[0])
    parts = two_edge_connected([Edge(a, b, 0.0) for a, b, _ in links], earthed)
    metal = parts.of.get(METAL)
    found: dict[str, Feed] = {}
    while metal:  # from the metal back to the battery
        by = parts.by[metal]
        assert by is not None
        code = links[by][2]
        if code:
            found[code] = Feed(largest.rating_a, largest.code)
        metal = parts.under[metal]
    return found


def _largest(network: "Network") -> Fuse | None:
    """Return the largest fuse that a battery without another before it feeds."""
    limits = {
        feed.fuse for feed in network.feeds.values() if math.isfinite(feed.limit_a) and not feed.by
    }
    fuses = [fuse for fuse in network.job.fuses if fuse.code in limits]
    return max(fuses, key=lambda fuse: (fuse.rating_a, fuse.code), default=None)
