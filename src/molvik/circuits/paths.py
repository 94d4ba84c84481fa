"""Ways through a job that is solved: the honest way to a part, and where current really flows."""

from collections import defaultdict
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.nodes import METAL, owner_of, terminal
from molvik.electrical.elements import Element, Source
from molvik.electrical.solve import Solution
from molvik.netlist.branches import Ways, by_node, reached
from molvik.netlist.circuitgraph import Branch


def ways(point: OperatingPoint) -> Ways:
    """Return every way by its nodes: links closed and open, what is taken away, drivers, loads."""
    links = [*point.links, *point.wiring.missing]
    for device in point.job.devices:
        gone = device.code in point.state.broken
        for way in kind_of(device).inside(point.wiring, device, point.on):
            closed = way.closed if way.what == "driver" else not gone
            links.append(Branch(way.a, way.b, way.ohm, device.code, way.what, closed))
    return by_node(links)


class Flow(NamedTuple):
    """A stretch of a current. part: whose it is; what: as of a link, or "load", or "source"."""

    part: str
    what: str
    amps: float
    a: str
    b: str


def follow(
    point: OperatingPoint,
    begin: str,
    *,
    upstream: bool,
    solution: Solution | None = None,
    elements: tuple[Element, ...] | None = None,
) -> list[Flow]:
    """Return where the largest current at a node comes from, or goes to, up to a source.

    Going down it ends at the first load or at the metal, and the last flow says which.
    """
    solved = solution or point.solution
    kinds = {link.name: link for link in point.links}
    at: dict[str, list[Element]] = defaultdict(list)
    for diode in elements or point.elements:
        at[diode[1]].append(diode)
        at[diode[2]].append(diode)
    node, used, found = begin, set[str](), list[Flow]()
    while True:
        best, most = None, 1e-6
        for diode in at[node]:
            if diode.name in used:
                continue
            amps = solved.amps[diode.name]
            # Resistors and diodes carry from their first node to their second, sources out of it.
            into = amps if (diode[1] == node) == isinstance(diode, Source) else -amps
            wanted = into if upstream else -into
            if wanted > most:
                best, most = diode, wanted
        if best is None:
            return found
        used.add(best.name)
        link = kinds.get(best.name)
        what = link.what if link else ("source" if isinstance(best, Source) else "load")
        part = link.part if link else owner_of(best.name)
        node = best[2] if best[1] == node else best[1]
        found.append(Flow(part, what, most, best[1], best[2]))
        ended = what == "source" or (not upstream and (what == "load" or node == METAL))
        if ended or (part in point.on and what == "load" and upstream and _is_source(point, part)):
            return found


def _is_source(point: OperatingPoint, code: str) -> bool:
    return any(device.code == code and kind_of(device).regulates for device in point.job.devices)


def fed_by(point: OperatingPoint, fuse: str) -> tuple[str, ...]:
    """Return the devices with no way to the battery but a fuse, whatever is switched on."""
    known = ways(point)
    live = point.job.settings.live_pole
    sources = {
        terminal(device, out)
        for device in point.job.devices
        if (out := kind_of(device).source(live))
    }
    # The fuse's own load side is reached, or not, from what it protects.
    without: Ways = {
        node: [link for link in links if link.part != fuse] for node, links in known.items()
    }
    still, ever = reached(without, sources), reached(known, sources)
    return tuple(
        load.device for load in point.loads if load.plus in ever and load.plus not in still
    )
