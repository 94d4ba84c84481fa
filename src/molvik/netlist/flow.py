"""The most that can flow from one place to others, and what of a graph hangs by a single edge."""

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

Node = object


class Edge(NamedTuple):
    """A way between two places. width: what can pass for ever, A. code: of what limits it. both:
    whether in both directions, else from a to b alone. ends: by which terminals it goes. device:
    the one it is a way through, with the positions in which it is open; none for always.
    """

    a: Node
    b: Node
    width: float
    code: str = ""
    both: bool = True
    ends: tuple[Any, Any] = (None, None)
    device: str = ""
    open_in: tuple[int, ...] = ()


class Flow(NamedTuple):
    """The most that can flow. amps: A. limits: the codes of what limits it, the widest first."""

    amps: float
    limits: tuple[str, ...]


UNIT_A, ENDLESS = 0.01, 10_000_000
"""Flows are reckoned in whole hundredths of an ampere, and 100 kA are without end."""


def most(edges: Sequence[Edge], start: Node, end: Node) -> Flow:
    """Return the largest flow from one place to another: what limits it is the least cut."""
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import breadth_first_order, maximum_flow

    if start == end:
        return Flow(math.inf, ())
    numbers: dict[Node, int] = {start: 0, end: 1}
    widths: dict[tuple[int, int], int] = defaultdict(int)
    edges = [edge for edge in edges if edge.a != edge.b]
    for edge in edges:
        a, b = (numbers.setdefault(node, len(numbers)) for node in (edge.a, edge.b))
        width = round(min(edge.width, ENDLESS * UNIT_A) / UNIT_A)
        widths[a, b] = min(ENDLESS, widths[a, b] + width)
        widths[b, a] = min(ENDLESS, widths[b, a] + (width if edge.both else 0))
    size = len(numbers)
    if not edges:
        return Flow(0.0, ())
    rows, columns = zip(*widths, strict=True)
    values: Any = (list(widths.values()), (rows, columns))
    graph = csr_array(values, shape=(size, size), dtype="int32")
    found = maximum_flow(graph, 0, 1)
    if found.flow_value >= ENDLESS:
        return Flow(math.inf, ())
    left = graph - found.flow
    left.eliminate_zeros()
    near = set(breadth_first_order(left, 0, return_predecessors=False).tolist())
    cut = [
        edge
        for edge in edges
        if (numbers[edge.a] in near) is not (numbers[edge.b] in near)
        and (edge.both or numbers[edge.a] in near)
    ]
    cut.sort(key=lambda edge: (-edge.width, edge.code))
    return Flow(float(found.flow_value) * UNIT_A, tuple(dict.fromkeys(edge.code for edge in cut)))


class Parts(NamedTuple):
    """A graph as what hangs together by more than one edge. of: the number of each node's part.
    nodes: of each part, in an order in which each comes after the one it hangs by. by: the edge it
    hangs by, none for the first. under: the part it hangs on by that; the first on itself.
    """

    of: dict[Node, int]
    nodes: list[list[Node]]
    by: list[int | None]
    under: list[int]


def two_edge_connected(edges: Sequence[Edge], start: Node) -> Parts:
    """Return what of a graph cannot be parted by taking one edge away, from a node on.

    By the lowest number that is reached otherwise (Tarjan, 1974). By hand: NetworkX tells the
    parts, not in which order they hang by which edge, and its bridges know no edges side by side.
    """
    at: dict[Node, list[tuple[int, Node]]] = defaultdict(list)
    for number, edge in enumerate(edges):
        at[edge.a].append((number, edge.b))
        at[edge.b].append((number, edge.a))
    entered: dict[Node, int] = {start: 0}
    low: dict[Node, int] = {start: 0}
    came: dict[Node, int | None] = {start: None}
    order: list[Node] = [start]
    stack = [(start, iter(at[start]))]
    above: dict[Node, Node] = {}
    while stack:
        node, left = stack[-1]
        for number, to in left:
            if number == came[node]:
                continue
            if to in entered:
                low[node] = min(low[node], entered[to])
                continue
            entered[to] = low[to] = len(order)
            order.append(to)
            came[to], above[to] = number, node
            stack.append((to, iter(at[to])))
            break
        else:
            stack.pop()
            if node in above:
                low[above[node]] = min(low[above[node]], low[node])
    parts = Parts({}, [], [], [])
    for node in order:
        if node == start or low[node] == entered[node]:
            parts.of[node] = len(parts.nodes)
            parts.nodes.append([])
            parts.by.append(came[node])
            parts.under.append(parts.of[above[node]] if node in above else 0)
        else:
            parts.of[node] = parts.of[above[node]]
        parts.nodes[parts.of[node]].append(node)
    return parts


def reached(edges: Iterable[Edge], start: Node) -> set[Node]:
    """Return the places that can be reached from one."""
    ways: Mapping[Node, list[Node]] = defaultdict(list)
    for edge in edges:
        ways[edge.a].append(edge.b)
        if edge.both:
            ways[edge.b].append(edge.a)
    found, left = {start}, [start]
    while left:
        for to in ways[left.pop()]:
            if to not in found:
                found.add(to)
                left.append(to)
    return found
