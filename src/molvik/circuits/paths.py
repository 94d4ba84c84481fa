"""Ways through a job that is solved: the honest way to a part, and where current really flows."""

import heapq
from collections import defaultdict
from collections.abc import Iterable
from typing import NamedTuple

from molvik.circuits.behaviour import ends_of, minus_of, output_key, terminal
from molvik.circuits.simulate import Alive
from molvik.circuits.wiring import METAL, Link
from molvik.electrical.solve import Element, Solution, Source

OPEN_COSTS = 1000.0
"""An open link on a way counts as this many closed ones: the way with the fewest is the honest
one."""

BROKEN_COSTS = 900.0
"""One that a fault has opened counts a little less, so that of two it is the one that is named."""

PASSED = ("lamp", "warning lamp", "load", "resistor", "LED", "diode", "gauge")
"""Kinds of device that a current for another device can pass through."""

Ways = dict[str, list[Link]]


def ways(alive: Alive) -> Ways:
    """Return every way by its nodes: links closed and open, what is taken away, drivers, loads."""
    links = [*alive.links, *alive.wiring.missing]
    for device in alive.job.devices:
        gone = device.code in alive.state.broken
        if device.kind == "controller":
            inside, earth = f"{device.code} supply", f"{device.code} earth"
            for names, node in ((device.supplies, inside), (device.earths, earth)):
                for name in names:
                    ends = terminal(device, name), node
                    links.append(Link(*ends, 0.01, device.code, "inside", not gone))
            for one in device.outputs:
                ends = (
                    terminal(device, one.terminal),
                    inside if one.acts == "feeds high" else earth,
                )
                acts = output_key(device, one) in alive.on
                links.append(Link(*ends, 0.2, device.code, "driver", acts))
        elif device.kind == "alternator" and "L" in device.terminals and not gone:
            ends = terminal(device, "L"), minus_of(device)
            links.append(Link(*ends, 9.0, device.code, "inside"))
        elif device.kind in PASSED:
            plus, minus = ends_of(alive.wiring, device)
            if plus and minus:
                links.append(Link(plus, minus, 100.0, device.code, "load", not gone))
    return by_node(links)


def by_node(links: Iterable[Link]) -> Ways:
    """Return links by the nodes they end at."""
    found: Ways = defaultdict(list)
    for link in links:
        found[link.a].append(link)
        found[link.b].append(link)
    return found


def path(known: Ways, begin: str, end: str, *, through_loads: bool = False) -> list[Link] | None:
    """Return the way with the fewest open links from a node to another, nearest first."""
    queue: list[tuple[float, int, str]] = [(0.0, 0, begin)]
    came: dict[str, Link | None] = {begin: None}
    cost = {begin: 0.0}
    count = 0
    while queue:
        spent, _, node = heapq.heappop(queue)
        if node == end:
            found: list[Link] = []
            while (link := came[node]) is not None:
                found.append(link)
                node = link.a if link.b == node else link.b
            return found[::-1]
        if spent > cost[node]:
            continue
        for link in known.get(node, []):
            if link.what == "load" and not through_loads:
                continue
            other = link.b if link.a == node else link.a
            dearer = spent + _cost(link)
            if dearer < cost.get(other, float("inf")):
                cost[other], came[other] = dearer, link
                count += 1
                heapq.heappush(queue, (dearer, count, other))
    return None


def _cost(link: Link) -> float:
    if link.closed:
        return 1.0
    return BROKEN_COSTS if link.ohm >= 1e9 else OPEN_COSTS


def tree(known: Ways, begin: str) -> dict[str, Link | None]:
    """Return by which link each node is reached from one, by the way of least resistance."""
    queue: list[tuple[float, str]] = [(0.0, begin)]
    cost = {begin: 0.0}
    came: dict[str, Link | None] = {begin: None}
    while queue:
        spent, node = heapq.heappop(queue)
        if spent > cost[node]:
            continue
        for link in known.get(node, []):
            other = link.b if link.a == node else link.a
            dearer = spent + link.ohm + 1e-9
            if dearer < cost.get(other, float("inf")):
                cost[other], came[other] = dearer, link
                heapq.heappush(queue, (dearer, other))
    return came


def way_to(came: dict[str, Link | None], node: str) -> list[Link]:
    """Return the links from a node back to the root of a tree, none where it is not reached."""
    found: list[Link] = []
    while (link := came.get(node)) is not None:
        found.append(link)
        node = link.a if link.b == node else link.b
    return found


def reached(known: Ways, begin: Iterable[str], *, closed: bool = False) -> set[str]:
    """Return every node that links lead to, loads left out; only closed links if asked."""
    seen = set(begin)
    queue = list(seen)
    while queue:
        for link in known.get(queue.pop(), []):
            if link.what == "load" or (closed and not link.closed):
                continue
            fresh = {link.a, link.b} - seen
            seen |= fresh
            queue += fresh
    return seen


class Flow(NamedTuple):
    """A stretch of a current. part: whose it is; what: as of a link, or "load", or "source"."""

    part: str
    what: str
    amps: float
    a: str
    b: str


def follow(
    alive: Alive, begin: str, *, upstream: bool,
    solution: Solution | None = None, elements: tuple[Element, ...] | None = None,
) -> list[Flow]:  # fmt: skip
    """Return where the largest current at a node comes from, or goes to, up to a source.

    Going down it ends at the first load or at the metal, and the last flow says which.
    """
    solved = solution or alive.solution
    kinds = {link.name: link for link in alive.links}
    at: dict[str, list[Element]] = defaultdict(list)
    for one in elements or alive.elements:
        at[one[1]].append(one)
        at[one[2]].append(one)
    node, used, found = begin, set[str](), list[Flow]()
    while True:
        best, most = None, 1e-6
        for one in at[node]:
            if one.name in used:
                continue
            amps = solved.amps[one.name]
            # Resistors and diodes carry from their first node to their second, sources out of it.
            into = amps if (one[1] == node) == isinstance(one, Source) else -amps
            wanted = into if upstream else -into
            if wanted > most:
                best, most = one, wanted
        if best is None:
            return found
        used.add(best.name)
        link = kinds.get(best.name)
        what = link.what if link else ("source" if isinstance(best, Source) else "load")
        part = link.part if link else best.name.split(" ")[0]
        node = best[2] if best[1] == node else best[1]
        found.append(Flow(part, what, most, best[1], best[2]))
        ended = what == "source" or (not upstream and (what == "load" or node == METAL))
        if ended or (part in alive.on and what == "load" and upstream and _is_source(alive, part)):
            return found


def _is_source(alive: Alive, code: str) -> bool:
    return any(one.code == code and one.kind == "alternator" for one in alive.job.devices)


def fed_by(alive: Alive, fuse: str) -> tuple[str, ...]:
    """Return the devices with no way to the battery but a fuse, whatever is switched on."""
    known = ways(alive)
    sources = {f"{one.code}/{name}" for one in alive.job.devices for name in ("+", "B+")
               if one.kind in ("battery", "alternator")}  # fmt: skip
    # The fuse's own load side is reached, or not, from what it protects.
    without: Ways = {
        node: [link for link in links if link.part != fuse] for node, links in known.items()
    }
    still, ever = reached(without, sources), reached(known, sources)
    return tuple(one.device for one in alive.loads if one.plus in ever and one.plus not in still)
