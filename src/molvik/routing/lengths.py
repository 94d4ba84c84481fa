"""How long each wire is to be cut: its way, what is left at its ends, what its twist takes up.

What is left at an end is common practice, with no source: enough to terminate it once more, and a
drip loop where it is wet; both can be set per loom, and per end.
"""

from collections import defaultdict
from typing import NamedTuple

from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import Job
from molvik.model.parts import Connector, Wire
from molvik.reference.bundles import across_mm
from molvik.reference.insulation import insulation
from molvik.routing.layers import layers_of, taken_up
from molvik.routing.twist import take_up
from molvik.routing.ways import Ways

TERMINAL_M = 0.01
"""What a terminal takes in: strip length and crimp, m (common practice)."""

DIFFERS_M, DIFFERS_SHARE = 0.02, 0.05
"""From so much, m, and such a share on, another length than typed is told (our choice)."""


class CutLength(NamedTuple):
    """What a wire is cut to, m. way_m: along the loom; ends_m: left at both ends; slack_m: across
    what moves; twist_m: taken up by its twist. now_m: what the job has; from_way: whether that is
    taken from the way.
    """

    way_m: float
    ends_m: tuple[float, float]
    slack_m: float
    twist_m: float
    now_m: float | None
    from_way: bool

    @property
    def cut_m(self) -> float:
        """The whole, m."""
        return self.way_m + sum(self.ends_m) + self.slack_m + self.twist_m

    @property
    def differs_m(self) -> float | None:
        """How much the job's own length is longer than this, m, None where that is no matter."""
        if self.now_m is None:
            return None
        more = self.now_m - self.cut_m
        small = abs(more) < max(DIFFERS_M, DIFFERS_SHARE * self.cut_m)
        return None if small else more


def cut_lengths(job: Job, ways: Ways) -> dict[str, CutLength]:
    """Return what each wire with a way of known length is cut to."""
    pitches = _pitches(job)
    wound = taken_up(layers_of(job, ways))
    found: dict[str, CutLength] = {}
    for wire in job.wires:
        way = ways.of.get(wire.code)
        if way is None or way.problem or way.length_m is None or not way.steps:
            continue  # what links two parts in one box is no matter of the loom
        ends = (
            _left_m(job, ways, way.start, wire.start.at),
            _left_m(job, ways, way.finish, wire.finish.at),
        )
        slack = sum(ways.graph.runs[step.run].slack_m for step in way.steps)
        straight = way.length_m + slack
        twist = 0.0
        if wire.lay_length_mm and wire.code in pitches:
            twist = straight * (take_up(pitches[wire.code], wire.lay_length_mm) - 1)
        for step in way.steps:  # twisted in a cable, and with that in the loom
            times = wound.get(step.run, {}).get(wire.code, 1.0)
            twist += (ways.graph.runs[step.run].length_m or 0.0) * (times - 1)
        found[wire.code] = CutLength(
            way.length_m, ends, slack, twist, wire.length_m, wire.length_from == "routed"
        )
    return found


def _left_m(job: Job, ways: Ways, joint: str, part: str) -> float:
    """Return what a wire has beyond its way at a joint, m: the joint's own word, or its loom's."""
    at = ways.graph.joints[joint]
    if at.allowance_m is not None:
        return TERMINAL_M + at.allowance_m
    loom = next(loom for loom in job.routing.looms if loom.code == at.loom)
    runs = [ways.graph.runs[run] for _, run, _ in ways.graph.at[joint]]
    wet = any(job.routing.zone(run.zone).wet for run in runs)
    drips = wet and isinstance(job.part(part), Connector)
    return TERMINAL_M + loom.service_m + (loom.drip_m if drips else 0.0)


def _pitches(job: Job) -> dict[str, float]:
    """Return on which circle the middle of each twisted wire winds, mm."""
    cables: dict[str, list[Wire]] = defaultdict(list)
    for wire in job.wires:
        if wire.cable and wire.lay_length_mm and wire.size is not None:
            cables[wire.cable].append(wire)
    found: dict[str, float] = {}
    for wires in cables.values():
        if len(wires) < 2:
            continue
        widths = [outside_diameter_mm(w.size, insulation(w.insulation)) for w in wires if w.size]
        across = across_mm(widths)
        for wire, width in zip(wires, widths, strict=True):
            found[wire.code] = max(0.0, across - width)
    return found
