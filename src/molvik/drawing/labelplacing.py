"""Which labels lie where: one way for all drawings, so that none lies on another.

Whatever touches what is drawn falls away; which of the other places exclude each other is a graph.
The label with the fewest places left chooses first, and one that finds all of its own taken moves
those in its way, where they have another. Known as point-feature and line-feature label placement;
the graph of conflicts after F. Wagner, A. Wolff, V. Kapoor and T. Strijk, "Three rules suffice for
good label placement" (2001), from memory. The geometry is shapely's.
"""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from molvik.drawing.labelling import GAP, Corners, Labelling, Put, Spot, Wanted, nearest
from molvik.drawing.scene import Box, Point

CROSSES = 2.0
"""How much worse a place is for each thing that its line crosses, in places."""

AT_ONCE, ROUNDS = 12, 8
"""So many of a label's farther places are weighed at once, in so many rounds."""

KEEPS_OFF, CUTS_OFF = 3.0, 30.0
"""How much worse a place is whose line comes so near to what another label is of, in places."""

MOVED = 3
"""So many others are moved at most to make room for one."""

MANY = 120
"""Of more labels than this those that find no room soon are left out: a window waits for it."""

FAR_OFF, TRIED, MOST_BETTERED = 30.0, 3, 5
"""Of the labels that lie so badly, or nowhere, so many of the worst are tried elsewhere, each at so
many places that others stand on."""


class _Found(NamedTuple):
    """The places that are left, of each label the best first. owner: the label's number; boxes,
    leaders: as geometry, a missing leader is None; costs: of each with what its line crosses.
    """

    owner: NDArray[Any]
    spots: list[Spot]
    boxes: NDArray[Any]
    leaders: NDArray[Any]
    costs: NDArray[np.float64]

    def only(self, kept: NDArray[Any]) -> "_Found":
        """Return some of them, by their numbers in order or by a mask."""
        at = np.arange(len(self.spots))[kept]
        spots = [self.spots[index] for index in at]
        leaders, costs = self.leaders[at], self.costs[at]
        return _Found(self.owner[at], spots, self.boxes[at], leaders, costs)

    def shapes(self, index: int) -> list[Any]:
        """Return what a place takes up."""
        return [shape for shape in (self.boxes[index], self.leaders[index]) if shape is not None]


_EMPTY: NDArray[Any] = np.zeros(0, object)
NONE = _Found(np.zeros(0, int), [], _EMPTY, _EMPTY, np.zeros(0))


def _joined(parts: Sequence[_Found]) -> _Found:
    """Return all places of several."""
    if not parts:
        return NONE
    owners, spots, boxes, leaders, costs = zip(*parts, strict=True)
    return _Found(
        np.concatenate(owners),
        [spot for own in spots for spot in own],
        np.concatenate(boxes),
        np.concatenate(leaders),
        np.concatenate(costs),
    )


def place_labels(
    wanted: Sequence[Wanted], drawn: Iterable[Corners], page: Box, gap: float = GAP
) -> Labelling:
    """Return where labels lie. drawn: what none may lie on; page: where all of them lie; gap: what
    stays free between two.
    """
    placing = _Placing(wanted, drawn, page, gap)
    for rank in sorted({label.rank for label in wanted}):
        placing.place([label for label in wanted if label.rank == rank])
    bad = [label for label in wanted if placing.cost(label) >= FAR_OFF]
    for label in sorted(bad, key=placing.cost)[-MOST_BETTERED:]:
        placing.better(label, wanted)
    put = placing.put
    return Labelling(put, tuple(label.key for label in wanted if label.key not in put))


class _Placing:
    """The work of placing labels on one page."""

    def __init__(
        self, wanted: Sequence[Wanted], drawn: Iterable[Corners], page: Box, gap: float
    ) -> None:

        begins = [begin for label in wanted if (begin := _begin(label)) is not None]
        self._begins = shapely.STRtree([shapely.Point(begin) for begin in begins])
        self._solid = shapely.STRtree([shapely.Polygon(shape) for shape in drawn])
        self._page, self._gap = page, gap
        self.put: dict[str, Put] = {}
        self._taken: dict[str, list[Any]] = {}
        """What each label takes up that has its place."""
        self._cost: dict[str, float] = {}
        self._known: dict[tuple[str, SpotsOf], _Found] = {}

    def place(self, wanted: Sequence[Wanted], *, near: bool = False) -> None:
        """Place labels: beside what they are of, else on the rings about it, else anywhere round
        it, unless they are to be near.
        """
        self._round(wanted, _beside)
        many = len(wanted) > MANY
        for spots_of in (_with_line,) if near or many else (_with_line, _all_round):
            for _ in range(2 if many else ROUNDS):
                left = [label for label in wanted if label.key not in self.put]
                if not left or not self._round(left, spots_of):
                    break

    def _round(self, left: Sequence[Wanted], spots_of: "SpotsOf") -> bool:
        """Place labels at the best that are free of their spots. Return whether any was placed."""
        found = self._clear(left, spots_of)
        if found.spots:
            found = self._free(found)
        if spots_of is not _beside and found.spots:
            first = np.searchsorted(found.owner, found.owner)
            found = found.only(np.arange(len(found.owner)) - first < AT_ONCE)
        chosen = _choose(found)
        for owner, index in chosen:
            self._put(left[owner], found, index)
        return bool(chosen)

    def _put(self, label: Wanted, found: _Found, index: int) -> None:
        spot = found.spots[index]
        box = Box(
            spot.middle.x - label.width / 2,
            spot.middle.y - label.height / 2,
            label.width,
            label.height,
        )
        self.put[label.key] = Put(label.key, box, spot.turn, spot.leader)
        self._taken[label.key] = found.shapes(index)
        self._cost[label.key] = float(found.costs[index])

    def cost(self, label: Wanted) -> float:
        """Return how badly a label lies; without end where it has no place."""
        return self._cost.get(label.key, math.inf)

    def better(self, label: Wanted, wanted: Sequence[Wanted]) -> None:
        """Give a label a better place, or one at all, though others stand on it, if those find
        others that are no worse in all; what does not work out is put back.
        """
        ways = (_beside, _with_line) if label.key in self.put else (_beside, _with_line, _all_round)
        found = _joined([self._clear([label], spots_of) for spots_of in ways])
        found = found.only(found.costs < self._cost.get(label.key, math.inf))
        if not found.spots:
            return
        in_the_way = self._in_the_way(label, found)
        order = sorted(range(len(found.spots)), key=lambda at: (len(in_the_way[at]), at))
        for index in order[:TRIED]:
            moved = in_the_way[index]
            if len(moved) > MOVED:
                return
            before = self.put.copy(), self._taken.copy(), self._cost.copy()
            had = sum(self._cost[key] for key in moved) + self._cost.get(label.key, math.inf)
            for key in (*moved, *([label.key] if label.key in self.put else ())):
                del self.put[key], self._taken[key], self._cost[key]
            self._put(label, found, index)
            self.place([other for other in wanted if other.key in moved], near=True)
            every = (label.key, *moved)
            if moved <= set(self.put) and sum(self._cost[key] for key in every) < had:
                return
            self.put, self._taken, self._cost = before

    def _in_the_way(self, label: Wanted, found: _Found) -> list[set[str]]:
        """Return which labels stand on each place of one, or on the line to it."""

        shapes = [
            (key, shape)
            for key, taken in self._taken.items()
            for shape in taken
            if key != label.key
        ]
        tree = shapely.STRtree([shape for _, shape in shapes])
        in_the_way: list[set[str]] = [set() for _ in found.spots]
        every = np.arange(len(found.spots))
        with_line = np.flatnonzero(found.leaders != None)  # noqa: E711 -- element by element
        for tried, at in ((found.boxes, every), (found.leaders, with_line)):
            for index, other in tree.query(tried[at], predicate="intersects").T.tolist():
                in_the_way[at[index]].add(shapes[other][0])
        return in_the_way

    def _clear(self, left: Sequence[Wanted], spots_of: "SpotsOf") -> _Found:
        """Return the places of labels that are on the page and off all that is drawn, of each the
        best first; they are the same in each round.
        """
        new = [label for label in left if (label.key, spots_of) not in self._known]
        found = self._look(new, spots_of)
        for number, label in enumerate(new):
            self._known[label.key, spots_of] = found.only(found.owner == number)
        known = [self._known[label.key, spots_of] for label in left]
        return _joined([one._replace(owner=one.owner * 0 + at) for at, one in enumerate(known)])

    def _look(self, left: Sequence[Wanted], spots_of: "SpotsOf") -> _Found:
        """Look for them; what its line crosses makes a place worse."""

        every = [
            (number, spot)
            for number, label in enumerate(left)
            for spot in spots_of(label)
            if self._page.holds(*spot.middle)
        ]
        if not every:
            return NONE
        owner = np.array([number for number, _ in every])
        costs = np.array([spot.cost for _, spot in every])
        boxes = _boxes(left, every, self._gap)
        least_x, least_y, most_x, most_y = shapely.bounds(boxes).T
        page = self._page
        free = (least_x >= page.x) & (least_y >= page.y)
        free &= (most_x <= page.right) & (most_y <= page.bottom)
        at = np.flatnonzero(free)
        free[at[self._solid.query(boxes[at], predicate="intersects")[0]]] = False
        leaders: NDArray[Any] = np.full(len(every), None, dtype=object)
        at = np.flatnonzero(free & np.array([spot.leader is not None for _, spot in every]))
        if len(at):
            lines = np.array([every[index][1].leader for index in at], dtype=float)
            leaders[at] = shapely.linestrings(lines)
            crossed = self._solid.query(leaders[at], predicate="intersects")[0]
            costs[at] += CROSSES * np.bincount(crossed, minlength=len(at))
            # A line over what another label is of would cut off that one's own line.
            over = self._begins.query(leaders[at], predicate="dwithin", distance=KEEPS_OFF)[0]
            costs[at] += CUTS_OFF * (np.bincount(over, minlength=len(at)) - 1)
        order = np.lexsort((costs, owner))
        found = _Found(owner, [spot for _, spot in every], boxes, leaders, costs)
        return found.only(order[free[order]])

    def _free(self, found: _Found) -> _Found:
        """Return the places that touch no label that has its own."""

        taken = [shape for shapes in self._taken.values() for shape in shapes]
        if not taken:
            return found
        tree, free = shapely.STRtree(taken), np.ones(len(found.spots), dtype=bool)
        free[tree.query(found.boxes, predicate="intersects")[0]] = False
        at = np.flatnonzero(free & (found.leaders != None))  # noqa: E711 -- element by element
        if len(at):
            free[at[tree.query(found.leaders[at], predicate="intersects")[0]]] = False
        return found.only(free)


SpotsOf = Callable[[Wanted], list[Spot]]


def _beside(label: Wanted) -> list[Spot]:
    """Return the places of a label that need no line."""
    return [spot for spot in label.spots if spot.leader is None]


def _with_line(label: Wanted) -> list[Spot]:
    """Return the places of a label that have a line."""
    return [spot for spot in label.spots if spot.leader is not None]


def _begin(label: Wanted) -> Point | None:
    """Return where the line to a label begins."""
    return next((spot.leader[0] for spot in label.spots if spot.leader is not None), None)


def _all_round(label: Wanted) -> list[Spot]:
    """Return places in rows all round what a label is of, as far off as it may go."""
    begin = _begin(label)
    if begin is None:
        return []
    across, down = label.width / 3, label.height
    reach = max(math.dist(begin, spot.middle) for spot in label.spots)
    columns, rows = int(reach / across), int(reach / down)
    found: list[Spot] = []
    for column in range(-columns, columns + 1):
        for line in range(-rows, rows + 1):
            middle = Point(begin.x + column * across, begin.y + line * down)
            near = nearest(middle, label.width, label.height, begin)
            found.append(Spot(middle, 0.0, 100 + math.dist(near, begin), (begin, near)))
    return found


def _boxes(left: Sequence[Wanted], spots: Sequence[tuple[int, Spot]], gap: float) -> NDArray[Any]:
    """Return what labels cover at their places, with half of the gap round about."""
    sizes = np.array([(left[number].width, left[number].height) for number, _ in spots])
    middles = np.array([spot.middle for _, spot in spots])
    turns = np.radians([spot.turn for _, spot in spots])
    half = (sizes + gap) / 2
    signs = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])
    x, y = half[:, None, 0] * signs[:, 0], half[:, None, 1] * signs[:, 1]
    cos, sin = np.cos(turns)[:, None], np.sin(turns)[:, None]
    turned = np.stack((x * cos - y * sin, x * sin + y * cos), axis=-1)
    return np.asarray(shapely.polygons(middles[:, None, :] + turned))


def _conflicts(found: _Found) -> list[NDArray[Any]]:
    """Return which places exclude which: of two labels, where box or line touches box or line."""
    boxes = shapely.STRtree(found.boxes)
    pairs = [boxes.query(found.boxes, predicate="intersects")]
    if found.spots[0].leader is not None:
        pairs.append(boxes.query(found.leaders, predicate="intersects"))
        pairs.append(shapely.STRtree(found.leaders).query(found.leaders, predicate="intersects"))
    both = np.hstack(pairs)
    both = both[:, found.owner[both[0]] != found.owner[both[1]]]
    count = len(found.spots)
    each = np.unique(np.concatenate((both[0] * count + both[1], both[1] * count + both[0])))
    return np.split(each % count, np.searchsorted(each // count, np.arange(1, count)))


class _Choice:
    """The work of giving each label one of its places."""

    def __init__(self, found: _Found) -> None:
        self._owner = found.owner
        self._excludes = _conflicts(found)
        self._own = {int(label): np.flatnonzero(found.owner == label) for label in found.owner}
        self._blocked = np.zeros(len(found.spots), dtype=int)
        """How many chosen places exclude each."""
        self._taken = np.zeros(len(found.spots), dtype=bool)
        self.chosen: dict[int, int] = {}

    def run(self) -> None:
        """Let the label with the fewest places choose first; then make room for the others."""
        for label in sorted(self._own, key=lambda label: (len(self._own[label]), label)):
            self._take_best(label)
        for label in sorted(set(self._own) - set(self.chosen)):
            for spot in self._own[label]:
                if self._make_room(label, int(spot)):
                    break

    def _take_best(self, label: int) -> bool:
        own = self._own[label]
        free = own[self._blocked[own] == 0]
        if len(free):
            self._take(label, int(free[0]))
        return bool(len(free))

    def _take(self, label: int, spot: int) -> None:
        self.chosen[label] = spot
        self._taken[spot] = True
        self._blocked[self._excludes[spot]] += 1

    def _give_back(self, label: int) -> int:
        spot = self.chosen.pop(label)
        self._taken[spot] = False
        self._blocked[self._excludes[spot]] -= 1
        return spot

    def _make_room(self, label: int, spot: int) -> bool:
        """Give a label a place, if all that are in its way have another; else change nothing."""
        excluded = self._excludes[spot]
        in_the_way = self._owner[excluded[self._taken[excluded]]].tolist()
        if len(in_the_way) > MOVED:
            return False
        held = {one: self._give_back(one) for one in in_the_way}
        self._take(label, spot)
        moved = [label]
        for one in in_the_way:
            if not self._take_best(one):
                for other in moved:
                    self._give_back(other)
                for other, was in held.items():
                    self._take(other, was)
                return False
            moved.append(one)
        return True


def _choose(found: _Found) -> list[tuple[int, int]]:
    """Return a place for each label that can have one: pairs of their numbers."""
    if not found.spots:
        return []
    choice = _Choice(found)
    choice.run()
    return sorted(choice.chosen.items())
