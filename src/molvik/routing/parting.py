"""Where a loom may be parted: parts that are often changed, on a short loom of their own.

What is changed often, or cooks, is taken off with its own few wires and a pair of plugs, and the
rest of the loom stays where it is (common practice). Each contact adds a little resistance, which
is told with what flows through it.
"""

from collections import defaultdict
from typing import NamedTuple

from molvik.model.job import Job, code_order
from molvik.reference.contacts import NEW_JOINT_OHM
from molvik.routing.ways import Ways

OFTEN: tuple[str, ...] = ("injector", "coil", "sensor", "thermistor", "pickup")
"""What is changed in the life of an engine (common practice)."""

TOGETHER_M = 0.6
"""Plugs no farther from their middle than this make one short loom, m (our choice)."""

LEAST_PLUGS = 2


class Parting(NamedTuple):
    """A short loom. joint: where it parts; plugs, wires: what goes with it; contacts: so many pairs
    meet there. drop_v: the most that one of them loses, V, at amps. hot: it lies beside heat.
    """

    kind: str
    joint: str
    plugs: tuple[str, ...]
    wires: tuple[str, ...]
    drop_v: float
    amps: float
    hot: bool

    @property
    def contacts(self) -> int:
        """How many contacts the pair of plugs has."""
        return len(self.wires)


def partings(job: Job, ways: Ways, amps: dict[str, float]) -> tuple[Parting, ...]:
    """Return where parts that are often changed could have a loom of their own, the fewest contacts
    first. amps: what each wire carries at most, A.
    """
    graph = ways.graph
    ends: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for device in job.devices:
        if device.kind in OFTEN and device.plug and (at := graph.carried.get(device.plug)):
            ends[device.kind].append((device.plug, at[0]))
    found: list[Parting] = []
    for kind, plugs in ends.items():
        found += _of_kind(job, ways, kind, plugs, amps)
    return tuple(sorted(found, key=lambda one: (one.contacts, code_order(one.joint))))


def _of_kind(
    job: Job, ways: Ways, kind: str, plugs: list[tuple[str, str]], amps: dict[str, float]
) -> list[Parting]:
    found: list[Parting] = []
    left = dict(plugs)
    graph = ways.graph
    while left:
        best: tuple[int, float, str, list[str]] | None = None
        for joint in graph.joints:
            if graph.degree(joint) < 3:
                continue
            far = graph.search(joint).far_m
            near = [p for p, end in left.items() if far.get(end, TOGETHER_M + 1) <= TOGETHER_M]
            spread = sum(far[left[plug]] for plug in near)
            if len(near) >= LEAST_PLUGS and (best is None or (-len(near), spread) < best[:2]):
                best = -len(near), spread, joint, near
        if best is None:
            return found
        _, _, joint, near = best
        taken = {left.pop(plug) for plug in near}
        inner = set(near)
        wires = [wire for wire in job.wires if sum(end.at in inner for end in wire.ends) == 1]
        if any(ways.graph.joints[end].loom != ways.graph.joints[joint].loom for end in taken):
            continue
        most = max((amps.get(wire.code, 0.0) for wire in wires), default=0.0)
        hot = any(
            job.routing.zone(graph.runs[run].zone).hot_c is not None
            for end in taken
            for _, run, _ in graph.at[end]
        )
        found.append(
            Parting(
                kind,
                joint,
                tuple(sorted(near, key=code_order)),
                tuple(wire.code for wire in wires),
                most * NEW_JOINT_OHM,
                most,
                hot,
            )
        )
    return found
