"""Ways through a job that is solved: the honest way to a part, and where current really flows."""

from collections import defaultdict
from typing import NamedTuple

from molvik.circuits.behaviour import ends_of, minus_of, output_key, terminal
from molvik.circuits.simulate import OperatingPoint
from molvik.electrical.elements import Element, Source
from molvik.electrical.solve import Solution
from molvik.netlist.ways import Ways, by_node, reached
from molvik.netlist.wiring import METAL, Link, owner_of
from molvik.reference.device_types import type_of


def ways(point: OperatingPoint) -> Ways:
    """Return every way by its nodes: links closed and open, what is taken away, drivers, loads."""
    links = [*point.links, *point.wiring.missing]
    for device in point.job.devices:
        gone = device.code in point.state.broken
        if device.kind == "controller":
            inside, earth = f"{device.code} supply", f"{device.code} earth"
            for names, node in ((device.supplies, inside), (device.earths, earth)):
                for name in names:
                    ends = terminal(device, name), node
                    links.append(Link(*ends, 0.01, device.code, "inside", not gone))
            for output in device.outputs:
                ends = (
                    terminal(device, output.terminal),
                    inside if output.acts == "feeds high" else earth,
                )
                acts = output_key(device, output) in point.on
                links.append(Link(*ends, 0.2, device.code, "driver", acts))
        elif device.kind == "alternator" and "L" in device.terminals and not gone:
            ends = terminal(device, "L"), minus_of(device)
            links.append(Link(*ends, 9.0, device.code, "inside"))
        elif type_of(device).passes:
            plus, minus = ends_of(point.wiring, device)
            if plus and minus:
                links.append(Link(plus, minus, 100.0, device.code, "load", not gone))
    return by_node(links)


class Flow(NamedTuple):
    """A stretch of a current. part: whose it is; what: as of a link, or "load", or "source"."""

    part: str
    what: str
    amps: float
    a: str
    b: str


def follow(
    point: OperatingPoint, begin: str, *, upstream: bool,
    solution: Solution | None = None, elements: tuple[Element, ...] | None = None,
) -> list[Flow]:  # fmt: skip
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
    return any(device.code == code and device.kind == "alternator" for device in point.job.devices)


def fed_by(point: OperatingPoint, fuse: str) -> tuple[str, ...]:
    """Return the devices with no way to the battery but a fuse, whatever is switched on."""
    known = ways(point)
    live = point.job.settings.live_pole
    out_of = {"battery": live, "alternator": "B+"}
    sources = {f"{device.code}/{out_of[device.kind]}" for device in point.job.devices
               if device.kind in out_of}  # fmt: skip
    # The fuse's own load side is reached, or not, from what it protects.
    without: Ways = {
        node: [link for link in links if link.part != fuse] for node, links in known.items()
    }
    still, ever = reached(without, sources), reached(known, sources)
    return tuple(
        load.device for load in point.loads if load.plus in ever and load.plus not in still
    )
