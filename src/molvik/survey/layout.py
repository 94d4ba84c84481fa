"""Lay the loom out on paper to scale: the longest way straight, the rest branching off it."""

import math
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from molvik.survey.tree import LoomTree

if TYPE_CHECKING:
    import networkx

UNKNOWN_M = 0.15
"""A stretch of unknown length is drawn this long, m."""

LEAN = math.radians(52)
"""How far a branch leans from what it leaves."""

FAN = math.radians(40)
"""How much further back the next pair of branches from one node leans."""


class Point(NamedTuple):
    """A place on the drawing, m."""

    x: float
    y: float


def drawn_length_m(tree: LoomTree, code: str) -> float:
    """Return how long a segment is drawn, m."""
    return tree.segments[code].length_m or UNKNOWN_M


def lay_out(tree: LoomTree) -> dict[str, Point]:
    """Return a place for each node; every segment of the tree is as long as it was measured.

    A stretch that closes a loop is drawn between its ends, whatever its length.
    """
    import networkx

    placed: dict[str, Point] = {}
    below = 0.0
    for part in networkx.connected_components(tree.graph):
        piece = _lay_out_part(tree, set(part))
        shift = below - min(point.y for point in piece.values())
        moved = {node: Point(p.x, p.y + shift) for node, p in piece.items()}
        placed.update(moved)
        below = max(point.y for point in moved.values()) + 0.3
    return placed


def _lay_out_part(tree: LoomTree, part: set[str]) -> dict[str, Point]:
    import networkx

    graph: networkx.Graph[str] = networkx.Graph()
    graph.add_nodes_from(part)
    for segment in tree.loom.segments:
        if segment.start in part and segment.finish:
            length = drawn_length_m(tree, segment.code)
            known = graph.get_edge_data(segment.start, segment.finish)
            if known is None or known["weight"] > length:
                graph.add_edge(segment.start, segment.finish, weight=length)
    # The drawing follows a spanning tree; loops are closed by a straight line.
    spanning = networkx.minimum_spanning_tree(graph)
    trunk = _longest_way(spanning)
    placed = {trunk[0]: Point(0.0, 0.0)}
    for here, there in pairwise(trunk):
        length = spanning[here][there]["weight"]
        placed[there] = Point(placed[here].x + length, 0.0)
    side = 1
    for node in trunk:
        leaving = sorted(set(spanning[node]) - set(placed))
        for number, other in enumerate(leaving):
            # Two branches share an angle, one a side; the next two lean further back.
            angle = LEAN + number // 2 * FAN
            _branch(spanning, node, other, side * angle, LEAN / 2, placed)
            side = -side
    return placed


def _longest_way(graph: "networkx.Graph[str]") -> list[str]:
    """Return the longest way through a tree: farthest from anywhere, then farthest from there."""
    import networkx

    start = next(iter(sorted(graph)))
    for _ in range(2):
        lengths = networkx.single_source_dijkstra_path_length(graph, start, weight="weight")
        far = max(lengths, key=lambda node: (lengths[node], node))
        way = networkx.dijkstra_path(graph, start, far, weight="weight")
        start = far
    return list(way)


def _branch(
    graph: "networkx.Graph[str]",
    origin: str,
    node: str,
    angle: float,
    lean: float,
    placed: dict[str, Point],
) -> None:
    length = graph[origin][node]["weight"]
    start = placed[origin]
    placed[node] = Point(start.x + length * math.cos(angle), start.y + length * math.sin(angle))
    side = 1
    onward = sorted(set(graph[node]) - set(placed))
    for number, other in enumerate(onward):
        turn = 0.0 if len(onward) == 1 or number == 0 else side * lean
        _branch(graph, node, other, angle + turn, lean * 0.8, placed)
        if turn:
            side = -side
