"""Ways a current can take, by the nodes they lead to and from."""

import math
from collections import defaultdict
from collections.abc import Iterable

from molvik.netlist.circuitgraph import Branch
from molvik.netlist.search import Reach, search

Ways = dict[str, list[Branch]]
"""Links by the nodes they end at."""

OPEN_COSTS = 1000.0
"""An open link on a way counts as this many closed ones: the way with the fewest is the honest
one."""

BROKEN_COSTS = 900.0
"""One that a fault has opened counts a little less, so that of two it is the one that is named."""


def far_end(link: Branch, node: str) -> str:
    """Return the node at the other end of a link."""
    return link.b if link.a == node else link.a


def by_node(links: Iterable[Branch]) -> Ways:
    """Return links by the nodes they end at."""
    found: Ways = defaultdict(list)
    for link in links:
        found[link.a].append(link)
        found[link.b].append(link)
    return found


def path(known: Ways, begin: str, end: str, *, through_loads: bool = False) -> list[Branch] | None:
    """Return the way with the fewest open links from a node to another, nearest first."""

    def cost(link: Branch) -> float:
        if link.what == "load" and not through_loads:
            return math.inf
        if link.closed:
            return 1.0
        return BROKEN_COSTS if link.ohm >= 1e9 else OPEN_COSTS

    reach = search(known, {begin: 0.0}, far_end, cost, end=end)
    return reach.way_to(end)[::-1] if end in reach.came else None


def tree(known: Ways, begin: str) -> Reach[str, Branch]:
    """Return by which link each node is reached from one, by the way of least resistance."""
    return search(known, {begin: 0.0}, far_end, lambda link: link.ohm + 1e-9)


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


def joined(known: Ways) -> dict[str, str]:
    """Return for each node one that speaks for all that closed links join it to, loads left out."""
    found: dict[str, str] = {}
    for node in known:
        if node not in found:
            found |= dict.fromkeys(reached(known, [node], closed=True), node)
    return found
