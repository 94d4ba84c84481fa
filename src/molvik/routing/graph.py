"""The looms to build as one graph: joints and runs, and the shortest ways along them.

Ways are asked for thousands of wires at once; a search from each joint that wires start at serves
all of them, so it is done here, by Dijkstra's method. ``tests/test_routing.py`` holds it to
NetworkX.
"""

import heapq
from collections import defaultdict
from collections.abc import Collection
from itertools import pairwise
from typing import NamedTuple

from molvik.lazy import cached_property
from molvik.model.routing import Joint, Routing, Run


class Step(NamedTuple):
    """A run as it is gone through. forward: from its start to its finish."""

    run: str
    forward: bool


class Reached(NamedTuple):
    """What one search found: how far each joint is, m, and by which run one comes to it."""

    far_m: dict[str, float]
    by: dict[str, tuple[str, str]]


class RouteGraph:
    """Joints and the runs between them; a run of unknown length counts as nothing, and is named."""

    def __init__(self, routing: Routing) -> None:
        self.routing = routing
        self._reached: dict[tuple[str, frozenset[str]], Reached] = {}

    @cached_property
    def joints(self) -> dict[str, Joint]:
        """Every joint by its code."""
        return {joint.code: joint for joint in self.routing.joints}

    @cached_property
    def runs(self) -> dict[str, Run]:
        """Every run by its code."""
        return {run.code: run for run in self.routing.runs}

    @cached_property
    def at(self) -> dict[str, tuple[tuple[str, str, float], ...]]:
        """From each joint where one can go: the next joint, the run there, its length, m."""
        found: dict[str, list[tuple[str, str, float]]] = {code: [] for code in self.joints}
        for run in self.routing.runs:
            if run.start and run.finish:
                length = run.length_m or 0.0
                found[run.start].append((run.finish, run.code, length))
                found[run.finish].append((run.start, run.code, length))
        return {code: tuple(near) for code, near in found.items()}

    @cached_property
    def carried(self) -> dict[str, tuple[str, ...]]:
        """The joints at which each part sits."""
        found: dict[str, list[str]] = defaultdict(list)
        for joint in self.routing.joints:
            for code in joint.carries:
                found[code].append(joint.code)
        return {code: tuple(joints) for code, joints in found.items()}

    def degree(self, joint: str) -> int:
        """Return how many runs meet at a joint."""
        return len(self.at[joint])

    def is_end(self, joint: str) -> bool:
        """Return whether at most one run leads to a joint."""
        return self.degree(joint) <= 1

    def search(self, start: str, avoid: frozenset[str] = frozenset()) -> Reached:
        """Return how far every joint is from one, keeping out of some; kept for the next question.

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

    def way(
        self, start: str, finish: str, avoid: frozenset[str] = frozenset()
    ) -> tuple[Step, ...] | None:
        """Return the shortest way between two joints, None without one."""
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
            steps.append(Step(run, self.runs[run].finish == here))
            here = came
        return tuple(reversed(steps))

    @cached_property
    def _hung(self) -> dict[str, tuple[str, str, int]]:
        """The joints of pieces without a loop, each with the joint it hangs from, by which run, and
        how deep: between two of them there is one way only, which needs no search.
        """
        found: dict[str, tuple[str, str, int]] = {}
        for root in self.joints:
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
        """Return the only way between two joints of pieces without a loop, None without one."""
        hung, runs = self._hung, self.runs
        up: list[Step] = []
        down: list[Step] = []
        here, there = start, finish
        while here != there:
            if hung[here][2] >= hung[there][2]:
                above, run, _ = hung[here]
                up.append(Step(run, runs[run].start == here) if run else Step("", True))
                here = above
            else:
                above, run, _ = hung[there]
                down.append(Step(run, runs[run].finish == there))
                there = above
            if not above or above in avoid:
                return None
        return (*up, *reversed(down))

    def way_through(
        self, stops: Collection[str], avoid: frozenset[str] = frozenset()
    ) -> tuple[Step, ...] | None:
        """Return the shortest way that comes by some joints in their order, None without one."""
        whole: list[Step] = []
        for start, finish in pairwise(stops):
            part = self.way(start, finish, avoid - {start, finish})
            if part is None:
                return None
            whole += part
        return tuple(whole)

    def length_m(self, steps: tuple[Step, ...]) -> float:
        """Return how long a way is, m."""
        return sum(self.runs[step.run].length_m or 0.0 for step in steps)

    @cached_property
    def pieces(self) -> dict[str, int]:
        """For each joint the number of the piece it is of: joints that runs join are of one."""
        found: dict[str, int] = {}
        for number, joint in enumerate(self.joints):
            if joint not in found:
                for other in self.search(joint).far_m:
                    found[other] = number
        return found

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
                more = f" and {len(runs) - 8} more" if len(runs) > 8 else ""
                found.append(f"{words}: {', '.join(runs[:8])}{more}.")
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
