"""The loom as a tree: which way each wire goes, how long, and what lies beside it."""

from collections import defaultdict
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from molvik.lazy import cached_property
from molvik.model.loom import FoundWire, Loom, Node, Segment

if TYPE_CHECKING:
    import networkx


class Stretch(NamedTuple):
    """The part of a segment between two distances from its start, m."""

    segment: str
    begin_m: float
    end_m: float

    @property
    def length_m(self) -> float:
        """How long it is, m."""
        return self.end_m - self.begin_m


class LoomTree:
    """The connections of a loom, found when first asked for.

    A segment of unknown length counts as zero and is named in ``problems``.
    """

    def __init__(self, loom: Loom) -> None:
        self.loom = loom

    @cached_property
    def nodes(self) -> dict[str, Node]:
        """Every node by its code."""
        return {node.code: node for node in self.loom.nodes}

    @cached_property
    def segments(self) -> dict[str, Segment]:
        """Every segment by its code."""
        return {segment.code: segment for segment in self.loom.segments}

    @cached_property
    def graph(self) -> "networkx.MultiGraph[str]":
        """The nodes, joined by the segments, weighted by length."""
        import networkx

        graph: networkx.MultiGraph[str] = networkx.MultiGraph()
        graph.add_nodes_from(self.nodes)
        for segment in self.loom.segments:
            if segment.start and segment.finish:
                weight = segment.length_m or 0.0
                graph.add_edge(segment.start, segment.finish, key=segment.code, weight=weight)
        return graph

    def is_end(self, node: str) -> bool:
        """Return whether at most one stretch leads to a node."""
        return bool(self.graph.degree(node) <= 1)

    @cached_property
    def problems(self) -> tuple[str, ...]:
        """What is odd about the tree, in words: loops, loose parts, unknown lengths."""
        import networkx

        found: list[str] = []
        graph = self.graph
        if graph.number_of_nodes() == 0:
            return ()
        parts = networkx.number_connected_components(graph)
        if parts > 1:
            found.append(f"The loom lies in {parts} pieces that no stretch joins.")
        if graph.number_of_edges() > graph.number_of_nodes() - parts:
            found.append("The loom has a loop. Wires are taken to go the shorter way round.")
        open_ended = [s.code for s in self.loom.segments if not (s.start and s.finish)]
        if open_ended:
            found.append(f"Goes nowhere yet: {', '.join(open_ended[:8])}. Type both its nodes.")
        unknown = [s.code for s in self.loom.segments if s.length_m is None]
        if unknown:
            found.append(f"No length yet: {', '.join(unknown[:8])}. Spread counts them as zero.")
        return tuple(found)

    @cached_property
    def ways(self) -> dict[str, tuple[Stretch, ...]]:
        """The stretches each wire runs through, from its start on."""
        return {wire.code: self._way(wire) for wire in self.loom.wires}

    def _way(self, wire: FoundWire) -> tuple[Stretch, ...]:
        if not wire.start or not wire.finish:
            return self._stub(wire)
        import networkx

        try:
            nodes = networkx.shortest_path(self.graph, wire.start, wire.finish, weight="weight")
        except networkx.NetworkXNoPath:
            return ()
        way: list[Stretch] = []
        for here, there in pairwise(nodes):
            choices = self.graph.get_edge_data(here, there)
            code = min(map(str, choices), key=lambda key: (choices[key]["weight"], key))
            way.append(Stretch(code, 0.0, self.segments[code].length_m or 0.0))
        return tuple(way)

    def _stub(self, wire: FoundWire) -> tuple[Stretch, ...]:
        """Return the way of a wire cut off in mid-loom: along the only stretch its start has.

        Where it went past the first breakout nobody can tell from the tree.
        """
        near = wire.start or wire.finish
        if near not in self.graph or wire.left_m is None:
            return ()
        codes = [key for _, _, key in self.graph.edges(near, keys=True)]
        if len(codes) != 1:
            return ()
        segment = self.segments[codes[0]]
        length = segment.length_m or 0.0
        reach = min(wire.left_m, length)
        if segment.start == near:
            return (Stretch(segment.code, 0.0, reach),)
        return (Stretch(segment.code, length - reach, length),)

    def length_m(self, code: str) -> float:
        """Return how long a wire is along the loom, m."""
        return sum(stretch.length_m for stretch in self.ways[code])

    @cached_property
    def wires_in(self) -> dict[str, tuple[str, ...]]:
        """The wires that run through each segment."""
        found: dict[str, list[str]] = defaultdict(list)
        for code, way in self.ways.items():
            for stretch in way:
                found[stretch.segment].append(code)
        return {code: tuple(wires) for code, wires in found.items()}

    def beside(self, stretches: tuple[Stretch, ...], but: str = "") -> dict[str, float]:
        """Return how far, m, each wire runs along some stretches, the longest first."""
        shared: dict[str, float] = defaultdict(float)
        for stretch in stretches:
            for code in self.wires_in.get(stretch.segment, ()):
                for own in self.ways[code]:
                    if own.segment == stretch.segment and code != but:
                        begin = max(own.begin_m, stretch.begin_m)
                        shared[code] += max(0.0, min(own.end_m, stretch.end_m) - begin)
        return dict(sorted(shared.items(), key=lambda item: (-item[1], item[0])))

    def place(self, wire: str, at_m: float) -> tuple[str, float] | None:
        """Return the segment, and the distance from its start, m, at a distance along a wire."""
        here = next((w.start for w in self.loom.wires if w.code == wire), "")
        for stretch in self.ways[wire]:
            segment = self.segments[stretch.segment]
            forward = segment.start == here
            if at_m <= stretch.length_m:
                start = stretch.begin_m + at_m if forward else stretch.end_m - at_m
                return stretch.segment, start
            at_m -= stretch.length_m
            here = segment.finish if forward else segment.start
        return None
