"""The looms to build as one graph: joints and runs, what sits where, and what is odd about them."""

from collections import defaultdict

from molvik.lazy import cached_property
from molvik.model.routing import LoomNode, Routing, Run
from molvik.netlist.loomgraph import LoomGraph
from molvik.wording import some


class RouteGraph(LoomGraph[LoomNode, Run]):
    """The looms to build."""

    def __init__(self, routing: Routing) -> None:
        super().__init__(routing.joints, routing.runs)
        self.routing = routing

    @property
    def joints(self) -> dict[str, LoomNode]:
        """Every joint by its code."""
        return self.nodes

    @property
    def runs(self) -> dict[str, Run]:
        """Every run by its code."""
        return self.segments

    @cached_property
    def carried(self) -> dict[str, tuple[str, ...]]:
        """The joints at which each part sits."""
        found: dict[str, list[str]] = defaultdict(list)
        for joint in self.routing.joints:
            for code in joint.carries:
                found[code].append(joint.code)
        return {code: tuple(joints) for code, joints in found.items()}

    @cached_property
    def problems(self) -> tuple[str, ...]:
        """What is odd about the looms, in words."""
        found: list[str] = []
        for loom in self.routing.looms:
            own = [joint.code for joint in self.routing.joints if joint.loom == loom.code]
            pieces = len({self.pieces[code] for code in own})
            edges = sum(self.degree(code) for code in own) // 2
            if pieces > 1:
                found.append(f"{loom.name} lies in {pieces} pieces that no stretch joins.")
            if edges > len(own) - pieces:
                found.append(f"{loom.name} has a loop: wires go the shorter way round.")
        for words, runs in (
            ("Goes nowhere yet", [r.code for r in self.routing.runs if not (r.start and r.finish)]),
            ("No length yet", [r.code for r in self.routing.runs if r.length_m is None]),
            ("Joins the same two", self._doubled()),
        ):
            if runs:
                found.append(f"{words}: {some(runs)}.")
        return tuple(found)

    def _doubled(self) -> list[str]:
        seen: set[frozenset[str]] = set()
        twice: list[str] = []
        for run in self.routing.runs:
            ends = frozenset((run.start, run.finish))
            if run.start and run.finish and ends in seen:
                twice.append(run.code)
            seen.add(ends)
        return twice
