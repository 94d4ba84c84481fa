"""Where a splice lies best: the least copper to all its members, out of what bends or moves.

Between two joints what the members take grows evenly, or falls as one becomes nearer the other way
round, so that the least lies at an end of what is left of a stretch when what is too near to
breakouts, plugs and other splices is left out: only those places are compared.
"""

from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.model.job import Job
from molvik.model.parts import Connector, Splice, Wire
from molvik.routing.ways import Ways

NEAR_M = 0.04
"""A splice lies at least so far from breakouts and plugs, m (common practice)."""

WORTH_SHARE, WORTH_M = 0.1, 0.2
"""From such a share and so much wire on, m, another place is worth telling (our choice)."""


class Place(NamedTuple):
    """A place of a splice. run, at_m: in which run, and how far from its start, m; at a joint both
    are empty. copper_cm3, wire_m: what its members take to there, together.
    """

    run: str
    at_m: float
    copper_cm3: float
    wire_m: float


class SplicePlaces(NamedTuple):
    """Where a splice lies best, None where nowhere, and where it lies now, None where nowhere."""

    best: Place | None
    now: Place | None

    @property
    def saves_m(self) -> float:
        """How much wire the best place saves, m; 0 where it is not worth it."""
        if self.best is None or self.now is None:
            return 0.0
        copper = self.now.copper_cm3 - self.best.copper_cm3
        saved = self.now.wire_m - self.best.wire_m
        worth = copper >= WORTH_SHARE * self.now.copper_cm3 and saved >= WORTH_M
        return saved if worth else 0.0


class _Member(NamedTuple):
    mm2: float
    far_m: dict[str, float]

    def to(self, joint: str) -> float:
        return self.far_m.get(joint, float("inf"))


def splice_places(job: Job, ways: Ways, splice: str) -> SplicePlaces:
    """Return where a splice lies best, and where it lies."""
    graph = ways.graph
    members = [one for wire in job.wires if (one := _member(ways, wire, splice)) is not None]
    if len(members) < 2:
        return SplicePlaces(None, None)
    now = [
        _cost("", 0.0, [(m.mm2, m.to(joint)) for m in members])
        for joint in graph.carried.get(splice, ())
    ]
    stiff: dict[str, float] = {}
    for joint in graph.joints:
        if _hard(job, ways, joint):
            stiff[joint] = NEAR_M
        elif _spliced(job, ways, joint, splice):
            stiff[joint] = job.settings.stagger_m
    best: Place | None = None
    for run in graph.runs.values():
        if not (run.start and run.finish and run.length_m) or job.routing.zone(run.zone).moves:
            continue
        if any(m.to(run.start) == float("inf") for m in members):
            continue
        low = max(0.0, _kept_off(ways, run.start, stiff))
        high = run.length_m - max(0.0, _kept_off(ways, run.finish, stiff))
        if low > high:
            continue
        for at in (low, high):
            parts = [
                (m.mm2, min(m.to(run.start) + at, m.to(run.finish) + run.length_m - at))
                for m in members
            ]
            place = _cost(run.code, at, parts)
            if best is None or place.copper_cm3 < best.copper_cm3 - 1e-9:
                best = place
    lies = min(now, key=lambda place: place.copper_cm3) if now else None
    well = [
        place
        for place, joint in zip(now, graph.carried.get(splice, ()), strict=True)
        if _kept_off(ways, joint, stiff) <= 0
    ]
    for place in well:
        if best is not None and place.copper_cm3 <= best.copper_cm3 + 1e-9:
            best = place  # another would cost more
    return SplicePlaces(best, lies)


def _member(ways: Ways, wire: Wire, splice: str) -> _Member | None:
    """Return what a wire takes from each joint to the splice; None for a wire of another."""
    ends = [end.at for end in wire.ends]
    if splice not in ends or ends[0] == ends[1]:
        return None
    other = ends[1 - ends.index(splice)]
    avoid = frozenset(wire.avoid)
    reached = [ways.graph.search(joint, avoid).far_m for joint in ways.graph.carried.get(other, ())]
    if not reached:
        return None
    far = {
        joint: min(one.get(joint, float("inf")) for one in reached)
        for joint in set().union(*reached)
    }
    return _Member(area_mm2(wire.size) if wire.size else 1.0, far)


def _cost(run: str, at_m: float, parts: list[tuple[float, float]]) -> Place:
    return Place(run, at_m, sum(mm2 * m for mm2, m in parts), sum(m for _, m in parts))


def _hard(job: Job, ways: Ways, joint: str) -> bool:
    """Return whether a joint is a breakout or carries a plug."""
    carried = ways.graph.joints[joint].carries
    plugs = any(isinstance(job.part(code), Connector) for code in carried)
    return ways.graph.degree(joint) > 2 or plugs


def _spliced(job: Job, ways: Ways, joint: str, splice: str) -> bool:
    carried = ways.graph.joints[joint].carries
    return any(code != splice and isinstance(job.part(code), Splice) for code in carried)


def _kept_off(ways: Ways, joint: str, stiff: dict[str, float]) -> float:
    """Return how far from a joint along a stretch a splice begins to lie well, m."""
    far = ways.graph.search(joint).far_m
    return max((near - far[one] for one, near in stiff.items() if one in far), default=0.0)
