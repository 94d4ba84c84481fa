"""The one search for the best way to places, whatever they are."""

import heapq
import math
import operator
from collections.abc import Callable, Hashable, Mapping, Sequence
from typing import Generic, NamedTuple, TypeVar

At = TypeVar("At", bound=Hashable)
Via = TypeVar("Via")


class Reach(NamedTuple, Generic[At, Via]):
    """What a search found, in the order of cost. cost: of the best way to each place. came: from
    where and by what, None where it began.
    """

    cost: dict[At, float]
    came: dict[At, tuple[At, Via] | None]

    def way_to(self, at: At) -> list[Via]:
        """Return what leads to a place, the last first; nothing where it is not reached."""
        found: list[Via] = []
        while (before := self.came.get(at)) is not None:
            at, via = before
            found.append(via)
        return found


def search(
    known: Mapping[At, Sequence[Via]],
    begin: Mapping[At, float],
    far: Callable[[Via, At], At],
    cost: Callable[[Via], float],
    join: Callable[[float, float], float] = operator.add,
    end: At | None = None,
) -> Reach[At, Via]:
    """Find the best way to every place from some, or to ``end`` alone: Dijkstra's algorithm.

    far: the other end of a step from a place. cost: of a step, infinite where it is no way. join:
    the cost of a way and one more step; the larger of the two finds the widest way. Of ways that
    cost the same the one found first counts.
    """
    best = dict(begin)
    led: dict[At, tuple[At, Via] | None] = dict.fromkeys(begin)
    queue = [(spent, number, at) for number, (at, spent) in enumerate(begin.items())]
    heapq.heapify(queue)
    number = len(queue)  # keeps places, which have no order, from being compared
    reach: Reach[At, Via] = Reach({}, {})
    while queue:
        spent, _, at = heapq.heappop(queue)
        if at in reach.cost:
            continue
        reach.cost[at], reach.came[at] = spent, led[at]
        if at == end:
            break
        for step in known.get(at, ()):
            to = far(step, at)
            more = join(spent, cost(step))
            if more < best.get(to, math.inf) and to not in reach.cost:
                best[to], led[to] = more, (at, step)
                number += 1
                heapq.heappush(queue, (more, number, to))
    return reach
