"""What a wire with no fuse before it leads to: the fuses behind it, and a starter.

Such a wire is harmed by what flows on: it must bear what the largest fuse behind it lets through.
"""

import math
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, NamedTuple

from molvik.devices import kind_of
from molvik.devices.kind import terminals_named
from molvik.model.parts import End, Fuse
from molvik.netlist.flow import Edge, Node, two_edge_connected

if TYPE_CHECKING:
    from molvik.netlist.network import Network


class Ahead(NamedTuple):
    """What lies behind a wire, away from the battery, before any fuse. fuses: the largest first.
    starter: whether one does. others: whether anything else that draws current does.
    """

    fuses: tuple[Fuse, ...]
    starter: bool
    others: bool

    @property
    def may_be_a_starters(self) -> bool:
        """Whether it can be a starter's cable: that is there, or nothing is known to be."""
        return self.starter or not self.others


UNKNOWN = Ahead((), starter=False, others=False)
"""What a wire leads to whose other end is loose."""


def ahead(network: "Network") -> Mapping[str, Ahead]:
    """Return what each wire without a fuse before it leads to."""
    job, feeds = network.job, network.feeds

    def is_bare(end: End) -> bool:
        feed = feeds.get(network.net_of.get(end, -1))
        return feed is not None and math.isinf(feed.limit_a)

    links: list[tuple[End, End, str]] = [
        (wire.start, wire.finish, wire.code)
        for wire in job.wires
        if is_bare(wire.start) and is_bare(wire.finish)
    ]
    links += [(a, b, "") for a, b in network.touching if is_bare(a)]
    for device in job.devices:
        for way in kind_of(device).conduction_paths(device, job.settings.live_pole):
            a, b = End(device.code, way.a), End(device.code, way.b)
            if not way.inside and is_bare(a) and is_bare(b):
                links.append((a, b, ""))
    batteries = network.batteries
    # Those on metal are one source; a battery that stands on another passes its current on.
    begin = [batteries.live_end(battery) for battery in batteries.lowest]
    links += [(begin[0], other, "") for other in begin[1:] for _ in range(2)]
    links += [
        (batteries.earthed_end(battery), batteries.live_end(battery), "")
        for battery in batteries.every
        if battery not in batteries.lowest
    ]
    if not begin or not links:
        return {}
    parts = two_edge_connected([Edge(a, b, 0.0) for a, b, _ in links], begin[0])
    fuses = _fuses_at(network, is_bare)
    starters = {End(one.code, "30") for one in job.devices if one.kind == "starter"}
    behind: list[set[Fuse]] = [
        {fuse for node in nodes for fuse in fuses.get(node, ())} for nodes in parts.nodes
    ]
    starts = [any(node in starters for node in nodes) for nodes in parts.nodes]
    drawing = _drawing(network)
    draws = [any(node in drawing for node in nodes) for nodes in parts.nodes]
    found: dict[str, Ahead] = {}
    for number in range(len(parts.nodes) - 1, -1, -1):
        by = parts.by[number]
        if by is not None:
            code, above = links[by][2], parts.under[number]
            behind[above] |= behind[number]
            starts[above] = starts[above] or starts[number]
            draws[above] = draws[above] or draws[number]
            if code:
                found[code] = _ahead(behind[number], starts[number], draws[number])
    for a, b, code in links:
        if code and code not in found and parts.of.get(a) == parts.of.get(b) is not None:
            at = parts.of[a]
            found[code] = _ahead(behind[at], starts[at], draws[at])
    return found


def _ahead(fuses: set[Fuse], starter: bool, others: bool) -> Ahead:
    largest = sorted(fuses, key=lambda fuse: (-fuse.rating_a, fuse.code))
    return Ahead(tuple(largest), starter, others)


def _drawing(network: "Network") -> set[End]:
    """Return the terminals at which something that is no starter draws current."""
    found: set[End] = set()
    for device in network.job.devices:
        kind = kind_of(device)
        if kind.source("+") or kind.bridges(device) or device.kind == "starter":
            continue
        passed = {name for way in kind.conduction_paths(device, "+") for name in (way.a, way.b)}
        found |= {End(device.code, name) for name in terminals_named(device) if name not in passed}
    return found


def _fuses_at(network: "Network", is_bare: Callable[[End], bool]) -> dict[Node, tuple[Fuse, ...]]:
    """Return the fuses at each end that protect what is behind them: with no way round them."""
    found: dict[Node, tuple[Fuse, ...]] = {}
    for fuse in network.job.fuses:
        ends = [End(fuse.code, side) for side in ("in", "out")]
        open_ends = [end for end in ends if is_bare(end)]
        if len(open_ends) == 1:
            found[open_ends[0]] = (fuse,)
    return found
