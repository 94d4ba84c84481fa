"""A loom as nodes joined by stretches, as found or to be built: its ways and their lengths."""

from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

from molvik.lazy import cached_property
from molvik.model.loom import Node, Segment

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


class LoomGraph:
    """Nodes and the segments between them, joined when first asked for.

    A segment of unknown length counts as zero and is named in ``problems``.
    """

    def __init__(self, nodes: tuple[Node, ...], segments: tuple[Segment, ...]) -> None:
        self._nodes, self._segments = nodes, segments

    @cached_property
    def nodes(self) -> dict[str, Node]:
        """Every node by its code."""
        return {node.code: node for node in self._nodes}

    @cached_property
    def segments(self) -> dict[str, Segment]:
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
        open_ended = [s.code for s in self._segments if not (s.start and s.finish)]
        if open_ended:
            found.append(f"Goes nowhere yet: {', '.join(open_ended[:8])}. Type both its nodes.")
        unknown = [s.code for s in self._segments if s.length_m is None]
        if unknown:
            found.append(f"No length yet: {', '.join(unknown[:8])}. Spread counts them as zero.")
        return tuple(found)

    def way(self, start: str, finish: str) -> tuple[Stretch, ...]:
        """Return the stretches of the shortest way between two nodes, whole; none without one."""
        import networkx

        try:
            nodes = networkx.shortest_path(self.graph, start, finish, weight="weight")
        except (networkx.NetworkXNoPath, networkx.NodeNotFound):
            return ()
        found: list[Stretch] = []
        for here, there in pairwise(nodes):
            choices = self.graph.get_edge_data(here, there)
            code = min(map(str, choices), key=lambda key: (choices[key]["weight"], key))
            found.append(Stretch(code, 0.0, self.segments[code].length_m or 0.0))
        return tuple(found)
