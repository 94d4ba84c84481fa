"""Where a loom lies on the board: every stretch as long as it is, nothing over anything else.

The longest way goes straight on, and folds back where the board ends; branches leave it by tidy
angles, the longest first, each by the first angle at which all of it lies free, its plug too. What
a hand has turned lies as it was turned. As it lies in the vehicle a loom goes on to the right where
it comes to a later place, and back where it comes to an earlier one.
"""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple, Protocol

from molvik.drawing.scene import Box, Point
from molvik.model.routing import Pose, Routing
from molvik.netlist.free import CLEAR_M, Free

UNKNOWN_M = 0.15
"""A stretch of unknown length is drawn this long, m."""

BELOW_M = 0.25
"""Pieces that nothing joins lie so far below each other, m."""

ON = (0, 15, -15, 30, -30, 45, -45, 60, -60, 75, -75, 90, -90, 120, -120, 150, -150, 165, -165)
REST = (60, -60, 75, -75, 90, -90, 15, -15, 105, -105, 120, -120, 135, -135, 150, -150, 165, -165)
OFF = (60, -60, 45, -45, 75, -75, 90, -90, 30, -30, *REST[6:], 0, 180)
STYLES = ((45, -45, 30, -30, *REST, 0, 180), (30, -30, 45, -45, *REST, 0, 180), OFF)
"""How a way goes on, and how a branch leaves it, deg, from the best angle on: on a board flat, for
it takes the least room so; of the loom as found wide apart, for its names.
"""

MANY = 150
"""A loom of more nodes is laid in one style only: it takes a moment."""

BEGINS = (0.5, 0.0, 1.0)
"""Where a loom may begin on the left edge of a board of typed size, as a share from above."""

BENT = (90, -90, 60, -60, 120, -120, 150, -150)
"""How a stretch is bent in its middle that lies free at no angle, deg."""


SOME, CROWD = 10, 40
"""So many angles are tried with each bend, until so many runs have lain free nowhere."""


class Stretch(Protocol):
    """A stretch between two joints."""

    @property
    def code(self) -> str:
        """What it is called."""

    @property
    def start(self) -> str:
        """The joint it begins at."""

    @property
    def finish(self) -> str:
        """The joint it ends at."""

    @property
    def length_m(self) -> float | None:
        """How long it is, m, None where that is not known."""


class Lies(NamedTuple):
    """How a loom lies in the vehicle. headings: which way a run leads from its start, deg, where
    that was seen; places: which place a run passes, as a number that grows towards one end.
    """

    headings: Mapping[str, float] = MappingProxyType({})
    places: Mapping[str, int] = MappingProxyType({})


TIGHT_M = 0.01
"""A plug nearer than this to the middle of a stretch lies over it, as thick as most are, m."""

Body = tuple[float, float]
"""How wide and how deep a plug is, m."""


class Placed(NamedTuple):
    """A loom on the board, m. places: of its joints; paths: of each run from its start, by corners.
    turns: heading and bend of each run that others hang from, deg; hangs: each joint with the joint
    and the run it hangs from. over: the runs that lie over another; tight: the joints whose plug
    lies over something, or too near.
    """

    places: dict[str, Point]
    paths: dict[str, tuple[Point, ...]]
    turns: dict[str, tuple[float, float]]
    hangs: dict[str, tuple[str, str]]
    over: frozenset[str]
    tight: frozenset[str] = frozenset()

    def beyond(self, joint: str) -> frozenset[str]:
        """Return a joint and all that hangs from it."""
        below: dict[str, list[str]] = defaultdict(list)
        for one, (above, _) in self.hangs.items():
            below[above].append(one)
        found, waiting = set[str](), [joint]
        while waiting:
            here = waiting.pop()
            found.add(here)
            waiting += below[here]
        return frozenset(found)

    @property
    def bounds(self) -> Box:
        """The box it lies in, m."""
        points = [*self.places.values(), *(p for path in self.paths.values() for p in path)]
        xs, ys = [point.x for point in points] or [0.0], [point.y for point in points] or [0.0]
        return Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))

    @property
    def size_m(self) -> tuple[float, float]:
        """How wide and high it is, m."""
        return self.bounds.width, self.bounds.height

    def fits(self, room_m: tuple[float, float]) -> bool:
        """Return whether it lies on a board so wide and high."""
        wide, high = self.size_m
        return wide <= room_m[0] + 1e-9 and high <= room_m[1] + 1e-9


def place(
    routing: Routing,
    loom: str,
    board: tuple[Pose, ...] = (),
    room_m: tuple[float, float] | None = None,
    plugs: Mapping[str, Body] = MappingProxyType({}),
    lies: Lies | None = None,
) -> Placed:
    """Return where a loom lies: in the style of branches in which the least lies over another, and
    then takes the least room, or fills the board that is given. board: how runs were turned.
    room_m: how wide and high the board is, m, None for one that is large enough. plugs: the size
    of the plug at each joint with one. lies: how it lies in the vehicle, where it is to lie so.
    """
    joints = [joint.code for joint in routing.joints if joint.loom == loom]
    own = set(joints)
    runs = [run for run in routing.runs if run.start in own and run.finish in own]
    styles = STYLES[:1] if len(joints) > MANY else STYLES
    begins = BEGINS if room_m is not None and len(joints) <= MANY else BEGINS[:1]
    tried = [
        lay(joints, runs, board, room_m, off, plugs, lies, down)
        for down in begins
        for off in styles
    ]

    def worse(placed: Placed) -> tuple[bool, int, float]:
        outside = room_m is not None and not placed.fits(room_m)
        area = math.prod(placed.size_m)
        # Room that is there is used: tables and names lie nearer to what they are of.
        wanted = -area if room_m is not None and not outside else area
        return outside, len(placed.over) + len(placed.tight), wanted

    return min(tried, key=worse)


def lay(
    joints: list[str],
    runs: Sequence[Stretch],
    board: tuple[Pose, ...] = (),
    room_m: tuple[float, float] | None = None,
    off: tuple[int, ...] = OFF,
    plugs: Mapping[str, Body] = MappingProxyType({}),
    lies: Lies | None = None,
    down: float = BEGINS[0],
) -> Placed:
    """Return where joints and the stretches between them lie, of a loom as found or to be built.
    off: how branches leave, deg, from the best angle on. down: where it begins on the left edge of
    its board, as a share of that from above.
    """
    poses = {pose.run: pose for pose in board}
    laying = _Laying(runs, poses, room_m, off, plugs, lies or Lies(), down)
    below = 0.0
    for root in laying.roots(joints):
        laying.lay_piece(root)
        piece = laying.piece
        points = [laying.places[joint] for joint in piece]
        points += [
            p
            for joint in piece
            if joint in laying.hangs
            for p in laying.paths[laying.hangs[joint][1]]
        ]
        laying.shift(below - min(point.y for point in points))
        below += max(p.y for p in points) - min(p.y for p in points) + BELOW_M
    laying.close_loops()
    return Placed(
        laying.places,
        laying.paths,
        laying.turns,
        laying.hangs,
        frozenset(laying.over),
        frozenset(laying.tight),
    )


def path_of(begin: Point, length: float, heading: float, bent: float) -> tuple[Point, ...]:
    """Return the corners of a stretch that begins at a place. heading, bent: deg."""
    first, then = math.radians(heading), math.radians(heading + bent)
    if not bent:
        return begin, _on(begin, first, length)
    middle = _on(begin, first, length / 2)
    return begin, middle, _on(middle, then, length / 2)


def _on(begin: Point, angle: float, length: float) -> Point:
    return Point(begin.x + length * math.cos(angle), begin.y + length * math.sin(angle))


def _body(end: tuple[Point, ...], body: Body) -> tuple[tuple[Point, Point], ...]:
    """Return the lines of a plug at the end of a straight part: on from there to its face, across
    behind and across the face.
    """
    (before, at), (wide, deep) = end, body
    far = math.dist(before, at) or 1.0
    along = Point((at.x - before.x) / far, (at.y - before.y) / far)

    def spot(on: float, aside: float) -> Point:
        return Point(at.x + on * along.x - aside * along.y, at.y + on * along.y + aside * along.x)

    half = wide / 2
    return (
        (at, spot(deep, 0.0)),
        (spot(0.0, -half), spot(0.0, half)),
        (spot(deep, -half), spot(deep, half)),
    )


def drawn_m(run: Stretch) -> float:
    """Return how long a stretch is drawn, m."""
    return run.length_m or UNKNOWN_M


class _Laying:
    """The work of laying one loom, piece by piece."""

    def __init__(
        self,
        runs: Sequence[Stretch],
        poses: Mapping[str, Pose],
        room_m: tuple[float, float] | None,
        off: tuple[int, ...],
        plugs: Mapping[str, Body],
        lies: Lies,
        down: float,
    ) -> None:
        self._off, self._plugs, self._lies, self._down = off, plugs, lies, down
        self.runs = {run.code: run for run in runs}
        self._poses, self._room = poses, room_m
        self.places: dict[str, Point] = {}
        self.paths: dict[str, tuple[Point, ...]] = {}
        self.turns: dict[str, tuple[float, float]] = {}
        self.hangs: dict[str, tuple[str, str]] = {}
        self.over: set[str] = set()
        self.tight: set[str] = set()
        self.piece: list[str] = []
        self._near: dict[str, list[tuple[str, str, float]]] = defaultdict(list)
        for run in self._spanning(runs):
            self._near[run.start].append((run.finish, run.code, drawn_m(run)))
            self._near[run.finish].append((run.start, run.code, drawn_m(run)))
        self._free = Free()
        self._crowded = 0
        self._full: dict[str, int] = {}
        """Joints round which nothing lies free any more, with how many were laid there since."""

    def _spanning(self, runs: Sequence[Stretch]) -> Iterator[Stretch]:
        """Yield the runs of a tree through all joints: those that were turned first, then the
        shortest; the others close loops.
        """
        of: dict[str, str] = {}

        def top(joint: str) -> str:
            while of.setdefault(joint, joint) != joint:
                of[joint] = of[of[joint]]
                joint = of[joint]
            return joint

        for run in sorted(runs, key=lambda run: (run.code not in self._poses, drawn_m(run))):
            one, other = top(run.start), top(run.finish)
            if one != other:
                of[one] = other
                yield run

    def roots(self, joints: list[str]) -> Iterator[str]:
        """Yield an end of the longest way of each piece: of its two the one named first, which
        lies on the left.
        """
        place = {joint: number for number, joint in enumerate(joints)}
        seen: set[str] = set()
        for joint in joints:
            if joint not in seen:
                far = self._far(joint)
                seen |= set(far)
                one = max(far, key=lambda code: (far[code], code))
                back = self._far(one)
                other = max(back, key=lambda code: (back[code], -place[code]))
                yield min(one, other, key=lambda code: (self._place_of(code), place[code]))

    def _place_of(self, end: str) -> int:
        """Return which place an end lies in, as a number."""
        return min((self._lies.places.get(run, 0) for _, run, _ in self._near[end]), default=0)

    def _far(self, root: str) -> dict[str, float]:
        far, waiting = {root: 0.0}, [root]
        while waiting:
            here = waiting.pop()
            for there, _, length in self._near[here]:
                if there not in far:
                    far[there] = far[here] + length
                    waiting.append(there)
        return far

    def lay_piece(self, root: str) -> None:
        """Lay a piece: the longest way from its root, then what branches off it, and so on."""
        self._free = Free()
        self.piece = [root]
        self.places[root] = Point(0.0, 0.0)
        self._reach = self._reaches(root)
        waiting: list[tuple[str, float, int]] = [(root, 0.0, 0)]
        while waiting:
            here, heading, side = waiting.pop(0)
            chain: list[tuple[str, float]] = [(here, heading)]
            began = bool(self.hangs.get(here)) or len(self.piece) > 1
            branch = began
            while (there := self._longest(here)) is not None:
                heading = self._lay(here, *there, heading, branch, side)
                here, branch = there[0], False
                chain.append((here, heading))
            for joint, leads in chain:
                for _ in range(sum(one not in self.places for one, _, _ in self._near[joint])):
                    side = 1 - side
                    waiting.append((joint, leads, side))

    def _reaches(self, root: str) -> dict[str, float]:
        """Return how far each joint is from the farthest that hangs from it, m."""
        order, above = [root], {root: ""}
        for here in order:
            for there, _, _ in self._near[here]:
                if there not in above:
                    above[there] = here
                    order.append(there)
        reach: dict[str, float] = defaultdict(float)
        for here in reversed(order):
            for there, _, length in self._near[here]:
                if above.get(there) == here:
                    reach[here] = max(reach[here], reach[there] + length)
        return reach

    def _longest(self, here: str) -> tuple[str, str] | None:
        left = [
            (self._reach[there] + length, there, run)
            for there, run, length in self._near[here]
            if there not in self.places
        ]
        return max(left)[1:] if left else None

    def _lay(
        self, here: str, there: str, code: str, heading: float, branch: bool, side: int
    ) -> float:
        """Lay a run on from a joint; return which way it leads at its end, deg."""
        run, begin = self.runs[code], self.places[here]
        length = drawn_m(run)
        pose = self._poses.get(code)
        forward = run.start == here
        if pose is not None:
            turn = (pose.heading_deg, pose.bent_deg)
            if not forward:  # it is laid from its finish on
                turn = (pose.heading_deg + pose.bent_deg + 180, -pose.bent_deg)
        else:
            seen = self._seen(here, code, forward)
            sign = -1 if side else 1
            if seen is None:
                turns = [heading + sign * turn for turn in (self._off if branch else ON)]
            else:
                turns = [seen + sign * turn for turn in ON]
            turn = self._choose(begin, length, turns, here, there)
        path = path_of(begin, length, *turn)
        if self._free.hits(path, here):
            self.over.add(code)
        if here not in self.hangs and here in self._plugs and len(self._near[here]) == 1:
            self._put_plug(here, (path[1], path[0]))
        self._put_plug(there, path[-2:])
        self._free.add(path, here, there)
        self.places[there] = path[-1]
        self.hangs[there] = here, code
        self.piece.append(there)
        lead = turn[0] + turn[1]
        if forward:
            self.paths[code], self.turns[code] = path, turn
        else:
            self.paths[code] = path[::-1]
            self.turns[code] = lead + 180, -turn[1]
        return lead

    def _seen(self, here: str, code: str, forward: bool) -> float | None:
        """Return which way a run leads from a joint in the vehicle, deg, None where that is not
        known, or is the way of what it hangs from.
        """
        heading = self._lies.headings.get(code)
        if heading is not None:
            return heading if forward else heading + 180
        own = self._lies.places.get(code)
        before = self._lies.places.get(self.hangs[here][1]) if here in self.hangs else None
        if own is None or before is None or own == before:
            return None
        return 0.0 if own > before else 180.0

    def _put_plug(self, joint: str, end: tuple[Point, ...]) -> None:
        """Lay down the plug at the end of a run. end: the last straight part of it."""
        if joint not in self._plugs or len(self._near[joint]) > 1:
            return
        parts = _body(end, self._plugs[joint])
        if any(self._free.hits(part, joint, clear_m=TIGHT_M) for part in parts):
            self.tight.add(joint)
        for part in parts:
            self._free.add(part, joint if part[0] == end[-1] else "", "")

    def _choose(
        self, begin: Point, length: float, turns: list[float], here: str, there: str
    ) -> tuple[float, float]:
        """Return the first turn at which a run lies free with its plug, else the one at which it
        lies least badly.
        """
        straight = [(turn, 0.0) for turn in turns]
        if here in self._full:  # round about it is
            self._full[here] += 1
            return straight[self._full[here] % len(straight)]
        bent: list[tuple[float, float]] = []
        if length >= 2 * CLEAR_M and self._crowded < CROWD:
            bent = [(turn, float(bend)) for bend in BENT for turn in turns[:SOME]]
        for tried in (*straight, *bent):
            if not self._bad(begin, length, tried, here, there, 1):
                return tried
        self._crowded += 1
        self._full[here] = 0
        least, best = math.inf, straight[0]
        for tried in straight:
            bad = self._bad(begin, length, tried, here, there, least)
            if bad < least:
                least, best = bad, tried
        return best

    def _bad(
        self,
        begin: Point,
        length: float,
        turn: tuple[float, float],
        here: str,
        there: str,
        least: float,
    ) -> float:
        """Return how badly a run would lie with its plug, up to the least that matters."""
        path = path_of(begin, length, *turn)
        if outside := self._outside(path):
            return 2 * outside
        found = self._free.hits(path, here, least)
        if there not in self._plugs or len(self._near[there]) > 1:
            return found
        for part in _body(path[-2:], self._plugs[there]):
            if found < least:
                found += self._free.hits(part, there, least - found)
        return found

    def _outside(self, path: tuple[Point, ...]) -> int:
        if self._room is None:
            return 0
        wide, high = self._room
        top, bottom = -self._down * high, (1 - self._down) * high
        return sum(not (0 <= p.x <= wide and top <= p.y <= bottom) for p in path)

    def shift(self, down: float) -> None:
        """Move the piece that was laid last."""
        for joint in self.piece:
            x, y = self.places[joint]
            self.places[joint] = Point(x, y + down)
            if joint in self.hangs:
                run = self.hangs[joint][1]
                self.paths[run] = tuple(Point(p.x, p.y + down) for p in self.paths[run])

    def close_loops(self) -> None:
        """Lay what closes a loop between its ends: bent out where it is longer, straight where it
        is not.
        """
        for run in self.runs.values():
            if run.code in self.paths:
                continue
            begin, end = self.places[run.start], self.places[run.finish]
            straight, length = math.dist(begin, end), drawn_m(run)
            out = math.sqrt(max(0.0, (length / 2) ** 2 - (straight / 2) ** 2))
            if out < CLEAR_M:
                self.paths[run.code] = begin, end
                continue
            across = (end.y - begin.y, begin.x - end.x) if straight else (0.0, 1.0)
            scale = out / (straight or 1.0)
            middle = Point(
                (begin.x + end.x) / 2 + across[0] * scale, (begin.y + end.y) / 2 + across[1] * scale
            )
            self.paths[run.code] = begin, middle, end
