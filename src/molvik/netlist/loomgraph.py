"""A loom as nodes joined by segments, as found or to be built: its shortest ways.

Ways are asked for thousands of wires at once. In a piece without a loop they are climbed; where
there is one, a search from each node that wires start at serves all of them, by Dijkstra's method.
``tests/test_routing.py`` holds it to NetworkX.
"""

import heapq
from collections.abc import Collection, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Generic, NamedTuple, TypeVar

from molvik.lazy import cached_property
from molvik.model.loom import Node, Segment
from molvik.model.routing import LoomNode, Run

if TYPE_CHECKING:
    import networkx

Place = TypeVar("Place", Node, LoomNode)
Way = TypeVar("Way", Segment, Run)


class Stretch(NamedTuple):
    """The part of a segment between two distances from its start, m."""

    segment: str
    begin_m: float
    end_m: float

    @property
    def length_m(self) -> float:
        """How long it is, m."""
        return self.end_m - self.begin_m


class Step(NamedTuple):
    """A segment as it is gone through. forward: from its start to its finish."""

    run: str
    forward: bool


class Reached(NamedTuple):
    """What one search found: how far each node is, m, and by which segment one comes to it."""

    far_m: dict[str, float]
    by: dict[str, tuple[str, str]]


class LoomGraph(Generic[Place, Way]):
    """Nodes and the segments between them, joined when first asked for. A segment of unknown length
    counts as nothing.
    """

    def __init__(self, nodes: Sequence[Place], segments: Sequence[Way]) -> None:
        self._nodes: Sequence[Place] = nodes
        self._segments: Sequence[Way] = segments
        self._reached: dict[tuple[str, frozenset[str]], Reached] = {}

    @cached_property
    def nodes(self) -> dict[str, Place]:
        """Every node by its code."""
        return {node.code: node for node in self._nodes}

    @cached_property
    def segments(self) -> dict[str, Way]:
        """Every segment by its code."""
        return {segment.code: segment for segment in self._segments}

    @cached_property
    def graph(self) -> "networkx.MultiGraph[str]":
        """The nodes, joined by the segments, weighted by length."""
        import networkx

        graph: networkx.MultiGraph[str] = networkx.MultiGraph()
        graph.add_nodes_from(self.nodes)
        for segment in self._segments:
            if segment.start and segment.finish:
                weight = segment.length_m or 0.0
                graph.add_edge(segment.start, segment.finish, key=segment.code, weight=weight)
        return graph

    @cached_property
    def at(self) -> dict[str, tuple[tuple[str, str, float], ...]]:
        """From each node where one can go: the next node, the segment there, its length, m."""
        found: dict[str, list[tuple[str, str, float]]] = {code: [] for code in self.nodes}
        for segment in self._segments:
            if segment.start and segment.finish:
                length = segment.length_m or 0.0
                found[segment.start].append((segment.finish, segment.code, length))
                found[segment.finish].append((segment.start, segment.code, length))
        return {code: tuple(near) for code, near in found.items()}

    def degree(self, node: str) -> int:
        """Return how many segments meet at a node."""
        return len(self.at[node])

    def is_end(self, node: str) -> bool:
        """Return whether at most one segment leads to a node."""
        return self.degree(node) <= 1

    def search(self, start: str, avoid: frozenset[str] = frozenset()) -> Reached:
        """Return how far every node is from one, keeping out of some; kept for the next question.

        Of ways equally long the one by the lower codes is taken, so that it is always the same.
        """
        key = start, avoid
        if key in self._reached:
            return self._reached[key]
        far: dict[str, float] = {}
        by: dict[str, tuple[str, str]] = {}
        heap: list[tuple[float, str, str, str]] = [(0.0, start, "", "")]
        while heap:
            here_m, here, came, run = heapq.heappop(heap)
            if here in far:
                continue
            far[here] = here_m
            if came:
                by[here] = came, run
            for there, over, length in self.at.get(here, ()):
                if there not in far and there not in avoid:
                    heapq.heappush(heap, (here_m + length, there, here, over))
        self._reached[key] = Reached(far, by)
        return self._reached[key]

    def steps(
        self, start: str, finish: str, avoid: frozenset[str] = frozenset()
    ) -> tuple[Step, ...] | None:
        """Return the shortest way between two nodes, None without one."""
        hung = self._hung
        if start in hung and finish in hung:
            return self._climbed(start, finish, avoid)
        found = self.search(start, avoid)
        if finish not in found.far_m:
            return None
        steps: list[Step] = []
        here = finish
        while here != start:
            came, run = found.by[here]
            steps.append(Step(run, self.segments[run].finish == here))
            here = came
        return tuple(reversed(steps))

    @cached_property
    def _hung(self) -> dict[str, tuple[str, str, int]]:
        """The nodes of pieces without a loop, each with the node it hangs from, by which segment,
        and how deep: between two of them there is one way only, which needs no search.
        """
        found: dict[str, tuple[str, str, int]] = {}
        for root in self.nodes:
            if root in found:
                continue
            piece = {root: ("", "", 0)}
            waiting, edges = [root], 0
            while waiting:
                here = waiting.pop()
                for there, run, _ in self.at[here]:
                    edges += 1
                    if there not in piece:
                        piece[there] = here, run, piece[here][2] + 1
                        waiting.append(there)
            if edges == 2 * (len(piece) - 1):
                found |= piece
        return found

    def _climbed(self, start: str, finish: str, avoid: frozenset[str]) -> tuple[Step, ...] | None:
        """Return the only way between two nodes of pieces without a loop, None without one."""
        hung, segments = self._hung, self.segments
        up: list[Step] = []
        down: list[Step] = []
        here, there = start, finish
        while here != there:
            if hung[here][2] >= hung[there][2]:
                above, run, _ = hung[here]
                up.append(Step(run, segments[run].start == here) if run else Step("", True))
                here = above
            else:
                above, run, _ = hung[there]
                down.append(Step(run, segments[run].finish == there))
                there = above
            if not above or above in avoid:
                return None
        return (*up, *reversed(down))

    def steps_through(
        self, stops: Collection[str], avoid: frozenset[str] = frozenset()
    ) -> tuple[Step, ...] | None:
        """Return the shortest way that comes by some nodes in their order, None without one."""
        whole: list[Step] = []
        for start, finish in pairwise(stops):
            part = self.steps(start, finish, avoid - {start, finish})
            if part is None:
                return None
            whole += part
        return tuple(whole)

    def length_of(self, steps: tuple[Step, ...]) -> float:
        """Return how long a way is, m."""
        return sum(self.segments[step.run].length_m or 0.0 for step in steps)

    @cached_property
    def pieces(self) -> dict[str, int]:
        """For each node the number of the piece it is of: nodes that segments join are of one."""
        found: dict[str, int] = {}
        for number, node in enumerate(self.nodes):
            if node not in found:
                for other in self.search(node).far_m:
                    found[other] = number
        return found
