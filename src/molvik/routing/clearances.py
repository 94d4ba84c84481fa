"""What has to pass a hole when a loom is threaded: the bundle, and the plugs of one side with it.

The largest plug goes first, through an empty hole; each next one beside the wires that are through.
"""

from typing import NamedTuple

from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import Job
from molvik.model.parts import Connector
from molvik.reference.bundles import across_mm
from molvik.reference.insulation import insulation
from molvik.routing.outlines import deepest_mm, is_measured, outline_mm, passes_mm
from molvik.routing.sides import Beyond, sides_of_joint
from molvik.routing.ways import Ways


class HoleClearance(NamedTuple):
    """A plug that does not pass a hole with what lies there, threaded from the better side.

    need_mm: how wide a hole it takes; hole_mm: how wide it is. outline_mm: of the plug, and
    whether that was measured. fixed: on both sides such a plug is on already. deepest_mm: how deep
    it may be to pass on edge, where its depth is not known, else 0.
    """

    joint: str
    plug: str
    need_mm: float
    hole_mm: float
    outline_mm: tuple[float, float]
    measured: bool
    fixed: bool
    deepest_mm: float = 0.0


SHALLOWEST_MM = 10.0
"""No plug is less deep than this (our choice): where it would have to be, nothing is asked."""


def hole_clearances(job: Job, ways: Ways) -> tuple[HoleClearance, ...]:
    """Return the plugs that do not pass their holes, one for each hole."""
    found: list[HoleClearance] = []
    for joint in job.routing.joints:
        if joint.hole_mm is None or not ways.of:
            continue
        sides = [_worst(job, ways, side) for side in sides_of_joint(ways, joint.code)]
        if len(sides) < 2 or any(side is None or side[0] <= joint.hole_mm for side in sides):
            continue  # there is a side from which all goes through
        need, plug, _, own = min(side for side in sides if side is not None)
        fixed = all(side is not None and side[2] for side in sides)
        part = job.connector(plug)
        assert part is not None
        may = 0.0 if part.deep_mm else deepest_mm(part, own, joint.hole_mm)
        asked = may if may >= SHALLOWEST_MM else 0.0
        found.append(
            HoleClearance(
                joint.code,
                plug,
                need,
                joint.hole_mm,
                outline_mm(part),
                is_measured(part),
                fixed,
                asked,
            )
        )
    return tuple(found)


def _worst(job: Job, ways: Ways, side: Beyond) -> tuple[float, str, bool, float] | None:
    """Return the widest hole that the plugs of a side take, whose it is, whether it is on already,
    and what lies there with its own wires, mm; None where there is no plug.
    """
    plugs: list[tuple[Connector, str]] = []
    for end in side.ends:
        for code in ways.graph.joints[end].carries:
            part = job.part(code)
            if isinstance(part, Connector):
                plugs.append((part, end))
    plugs.sort(key=lambda pair: (-passes_mm(pair[0]), pair[0].code))
    sizes = {wire.code: wire for wire in job.wires}
    through: list[float] = []
    worst: tuple[float, str, bool, float] | None = None
    for plug, end in plugs:
        beside = across_mm(through) if through else 0.0
        for code in side.ends[end]:
            wire = sizes[code]
            if wire.size is not None:
                through.append(outside_diameter_mm(wire.size, insulation(wire.insulation)))
        own = across_mm(through) if through else 0.0
        need = passes_mm(plug, beside, own), plug.code, ways.graph.joints[end].closed, own
        worst = need if worst is None else max(worst, need)
    return worst
