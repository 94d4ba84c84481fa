"""Lengths taken in the vehicle with a string, stretch by stretch, as steps at the bench."""

from molvik.model.job import Job
from molvik.model.routing import Run
from molvik.netlist.loomgraph import LoomGraph
from molvik.parsing.quantities import read_mm
from molvik.routing.graph import RouteGraph
from molvik.steps import Step

BY_HAND = ("typed", "measured")
"""Lengths that a hand gave; the others are reckoned or taken over."""


def measuring_steps(job: Job, graph: RouteGraph, loom: str) -> tuple[Step, ...]:
    """Return a step for each stretch of a loom, along it from its first end, branch by branch."""
    zones = {zone.name: zone for zone in job.routing.zones}
    steps: list[Step] = []
    for run in in_walking_order(graph, loom):
        names = [graph.joints[code].name for code in (run.start, run.finish)]
        access = zones[run.zone].access if run.zone in zones else ""
        steps.append(
            Step(
                f"measure {run.code}",
                run.code,
                f"{names[0]} → {names[1]}",
                f"{run.code}: a string along the route it will take, "
                f"from {run.start} to {run.finish}",
                first=f"Remove for access: {access}" if access else "",
                asks="480 mm",
                shown=""
                if run.length_m is None
                else f"{run.length_m * 1000:.0f} mm, {run.length_from}",
            )
        )
    return tuple(steps)


def measured(job: Job) -> set[str]:
    """Return the steps that are done: the stretches that were measured, not those typed."""
    return {
        f"measure {run.code}"
        for run in job.routing.runs
        if run.length_m is not None and run.length_from == "measured"
    }


LEAST_MM = 10.0
"""A stretch is not shorter than this: whoever types less means metres."""


def read_measured_m(text: str) -> float:
    """Read what a string in the vehicle measured, m; a bare number is mm, as on the board.

    Raises ValueError for what is not a length, and for less than a stretch can be.
    """
    length_mm = read_mm(text)
    if length_mm < LEAST_MM:
        raise ValueError(
            f"{length_mm:g} mm is too short for a stretch: type millimetres, 480, or 0.48 m."
        )
    return length_mm / 1000


def in_walking_order(graph: RouteGraph, loom: str) -> list[Run]:
    """Return the runs of a loom as a hand goes along it: each begins where one was before."""
    own = [code for code, joint in graph.joints.items() if joint.loom == loom]
    own.sort(key=lambda code: not graph.is_end(code))
    found: dict[str, Run] = {}
    seen: set[str] = set()
    for root in own:
        waiting = [root]
        while waiting:
            here = waiting.pop()
            if here in seen:
                continue
            seen.add(here)
            for there, run, _ in _ends_first(graph, here):
                found.setdefault(run, graph.runs[run])
                waiting.append(there)
    return list(found.values())


def _ends_first(graph: LoomGraph, here: str) -> list[tuple[str, str, float]]:  # type: ignore[type-arg]
    """Return where one can go from a joint: to ends before breakouts."""
    return sorted(graph.at[here], key=lambda near: not graph.is_end(near[0]))
