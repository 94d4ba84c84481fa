"""The loom as found: which way each wire goes, how long, and what lies beside it."""

from collections import defaultdict

from molvik.lazy import cached_property
from molvik.model.loom import FoundWire, Loom, Node, Segment
from molvik.netlist.loomgraph import LoomGraph, Stretch


class LoomTree(LoomGraph[Node, Segment]):
    """The loom as found, with its wires."""

    def __init__(self, loom: Loom) -> None:
        super().__init__(loom.nodes, loom.segments)
        self.loom = loom

    @cached_property
    def ways(self) -> dict[str, tuple[Stretch, ...]]:
        """The stretches each wire runs through, from its start on."""
        return {wire.code: self._way(wire) for wire in self.loom.wires}

    @cached_property
    def looms(self) -> dict[str, tuple[str, ...]]:
        """The nodes of each loom that was found, by its name."""
        found: dict[str, list[str]] = defaultdict(list)
        for node in self.nodes.values():
            found[node.loom].append(node.code)
        return {name: tuple(codes) for name, codes in found.items()}

    @cached_property
    def problems(self) -> tuple[str, ...]:
        """What is odd about the tree, in words: loops, loose parts, unknown lengths."""
        found: list[str] = []
        if not self.nodes:
            return ()
        parts = len(set(self.pieces.values()))
        edges = sum(map(self.degree, self.nodes)) // 2
        for name, codes in self.looms.items():
            torn = len({self.pieces[code] for code in codes})
            if torn > 1:
                found.append(f"{name or 'The loom'} lies in {torn} pieces that no stretch joins.")
        joined = [
            segment.code
            for segment in self._segments
            if segment.start
            and segment.finish
            and self.nodes[segment.start].loom != self.nodes[segment.finish].loom
        ]
        if joined:
            found.append(f"Joins two looms by name: {', '.join(joined[:8])}. Looms meet at plugs.")
        if edges > len(self.nodes) - parts:
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
        if start not in self.nodes or finish not in self.nodes:
            return ()
        steps = self.steps(start, finish) or ()
        return tuple(
            Stretch(step.run, 0.0, self.segments[step.run].length_m or 0.0) for step in steps
        )

    def _way(self, wire: FoundWire) -> tuple[Stretch, ...]:
        if not wire.start or not wire.finish:
            return self._stub(wire)
        return self.way(wire.start, wire.finish)

    def _stub(self, wire: FoundWire) -> tuple[Stretch, ...]:
        """Return the way of a wire cut off in mid-loom: along the only stretch its start has.

        Where it went past the first breakout nobody can tell from the tree.
        """
        near = wire.start or wire.finish
        if near not in self.nodes or wire.left_m is None:
            return ()
        codes = [segment for _, segment, _ in self.at[near]]
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
