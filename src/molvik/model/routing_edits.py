"""Pure edits of the looms to build."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from molvik.model import references
from molvik.model.checks import route_problem, thing_problem
from molvik.model.edits import (
    EditError,
    coded,
    new_code,
    photo_of_nothing,
    refuse_code,
    refuse_held,
    retire,
)
from molvik.model.job import Job
from molvik.model.parts import Wire
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone

Laid = NewLoom | LoomNode | Run

_FIELDS: dict[type[Laid], tuple[str, str]] = {
    NewLoom: ("looms", "H"),
    LoomNode: ("joints", "J"),
    Run: ("runs", "R"),
}

FIRST_LOOM = "Engine loom"
"""Name of the loom that is made when the first stretch is typed."""


def free_code(job: Job, kind: type[Laid]) -> str:
    """Return the next free code for a loom, joint or run."""
    return new_code(job, _FIELDS[kind][1])


def find(routing: Routing, code: str) -> Laid | None:
    """Return the thing with this code, or None."""
    return next((thing for thing in routing.things() if thing.code == code), None)


def add(job: Job, thing: Laid) -> Job:
    """Add a loom, joint or run; an empty code gets the next free one. Raises EditError."""
    if not thing.code:
        thing = replace(thing, code=free_code(job, type(thing)))
    else:
        refuse_code(job, thing.code)
    _check(job, thing)
    return _put(job, type(thing), lambda things: (*things, thing))


def change(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of a loom, joint or run. Raises EditError."""
    old = find(job.routing, code)
    if old is None:
        raise EditError(f"There is no {code} among the looms to build.")
    if "length_m" in fields:
        fields.setdefault("length_from", "typed")
    new = replace(old, **fields)
    _check(job, new)
    return _put(
        job, type(old), lambda things: tuple(new if thing is old else thing for thing in things)
    )


def remove(job: Job, code: str) -> Job:
    """Take a run or joint out, or a loom with all its joints and runs. A joint that runs go to
    stays. Raises EditError.
    """
    old = find(job.routing, code)
    if old is None:
        raise EditError(f"There is no {code} among the looms to build.")
    if isinstance(old, NewLoom):
        job = _emptied(job, code)
    refuse_held(job, code, references.ROUTED)
    job = references.without(job, code, references.ROUTED)
    job = _put(
        job, type(old), lambda things: tuple(thing for thing in things if thing.code != code)
    )
    return retire(photo_of_nothing(job, code), [code])


def _emptied(job: Job, loom: str) -> Job:
    """Return the job with none of a loom's joints and runs, all taken out at once; wires that were
    sent through one of them are not any more.
    """
    routing = job.routing
    joints = {joint.code for joint in routing.joints if joint.loom == loom}
    runs = {run.code for run in routing.runs if run.start in joints or run.finish in joints}

    def freed(wire: Wire) -> Wire:
        through = tuple(code for code in wire.through if code not in joints)
        avoid = tuple(code for code in wire.avoid if code not in joints)
        same = (through, avoid) == (wire.through, wire.avoid)
        return wire if same else replace(wire, through=through, avoid=avoid)

    kept = replace(
        routing,
        joints=tuple(joint for joint in routing.joints if joint.code not in joints),
        runs=tuple(run for run in routing.runs if run.code not in runs),
    )
    board = tuple(pose for pose in job.board if pose.run not in runs)
    job = replace(job, wires=tuple(map(freed, job.wires)), routing=kept, board=board)
    gone = joints | runs
    for code in {photo.on for photo in job.photos} & gone:
        job = photo_of_nothing(job, code)
    return retire(job, gone)


def set_zone(job: Job, old: str, zone: Zone) -> Job:
    """Add a zone, or change the one that was called ``old``; runs follow its name.
    Raises EditError.
    """
    zone = replace(zone, name=" ".join(zone.name.split()))
    if not zone.name:
        raise EditError("Give the zone a name: bulkhead, along the block, under the floor.")
    problem = thing_problem(zone)
    if problem:
        raise EditError(f"{problem}.")
    others = [other for other in job.routing.zones if other.name != old]
    same = next((other for other in others if other.name.lower() == zone.name.lower()), None)
    if same is not None:
        raise EditError(f"There is a zone called {same.name} already.")
    names = [other.name for other in job.routing.zones]
    zones = tuple(zone if other.name == old else other for other in job.routing.zones)
    if old not in names:
        zones = (*zones, zone)
    runs = tuple(
        replace(run, zone=zone.name) if old and run.zone == old else run for run in job.routing.runs
    )
    job = _zones_renamed(job, old, zone.name) if old else job
    return replace(job, routing=replace(job.routing, zones=zones, runs=runs))


def _zones_renamed(job: Job, old: str, new: str) -> Job:
    """Return the job in which the stretches as found of a zone are of another."""
    segments = tuple(
        replace(segment, zone=new) if segment.zone == old else segment
        for segment in job.loom.segments
    )
    return replace(job, loom=replace(job.loom, segments=segments))


def drop_zone(job: Job, name: str) -> Job:
    """Take a zone out; runs that passed it pass none."""
    zones = tuple(zone for zone in job.routing.zones if zone.name != name)
    runs = tuple(replace(run, zone="") if run.zone == name else run for run in job.routing.runs)
    job = _zones_renamed(job, name, "")
    return replace(job, routing=replace(job.routing, zones=zones, runs=runs))


def some_loom(job: Job, code: str = "") -> tuple[Job, str]:
    """Return a loom for new joints: the one that is named, else the first, made if none is."""
    looms = job.routing.looms
    if any(loom.code == code for loom in looms):
        return job, code
    if looms:
        return job, looms[0].code
    made = free_code(job, NewLoom)
    return add(job, NewLoom(made, FIRST_LOOM)), made


def take_over(job: Job, name: str, beyond: str = "") -> Job:
    """Take the loom as found over as a loom to build, in one step, or several that were found as
    several; whole, or what lies beyond a node, that node included, as seen from its largest part. A
    plug that sits in a loom to build already stays there. Raises EditError.
    """
    nodes = job.loom.nodes
    if not nodes:
        raise EditError("No loom was found: type it in Survey first.")
    kept = _beyond(job, beyond) if beyond else {node.code for node in nodes}
    nodes = tuple(node for node in nodes if node.code in kept)
    names = dict.fromkeys(node.loom for node in nodes)
    made = {}
    for of in names:
        made[of] = free_code(job, NewLoom)
        job = add(job, NewLoom(made[of], name if beyond or not of else of))
    placed = {code for joint in job.routing.joints for code in joint.carries}
    joints = coded(
        job,
        (
            LoomNode(
                "",
                made[node.loom],
                node.name,
                carries=(node.connector,)
                if node.connector and node.connector not in placed
                else (),
            )
            for node in nodes
        ),
        "J",
    )
    joint_of = {node.code: joint.code for node, joint in zip(nodes, joints, strict=True)}
    of_node = {node.code: node.loom for node in nodes}
    runs = coded(
        job,
        (
            Run(
                "",
                joint_of[segment.start],
                joint_of[segment.finish],
                segment.length_m,
                "as found",
                zone=segment.zone,
                covering=segment.covering,
                clips=segment.clips,
                ties=segment.ties,
            )
            for segment in job.loom.segments
            if segment.start in joint_of
            and segment.finish in joint_of
            and of_node[segment.start] == of_node[segment.finish]
        ),
        "R",
    )
    routing = job.routing
    return replace(
        job,
        routing=replace(routing, joints=(*routing.joints, *joints), runs=(*routing.runs, *runs)),
    )


def _beyond(job: Job, node: str) -> set[str]:
    """Return a node and what hangs from it without the largest part of the loom."""
    near: dict[str, set[str]] = {one.code: set() for one in job.loom.nodes}
    if node not in near:
        raise EditError(f"There is no node {node} in the loom as found.")
    for segment in job.loom.segments:
        if segment.start and segment.finish:
            near[segment.start].add(segment.finish)
            near[segment.finish].add(segment.start)
    parts: list[set[str]] = []
    for other in near[node]:
        part, waiting = {node}, [other]
        while waiting:
            here = waiting.pop()
            if here not in part:
                part.add(here)
                waiting += near[here] - part
        parts.append(part - {node})
    parts.sort(key=lambda part: (len(part), sorted(part)))
    if len(parts) < 2:
        raise EditError(f"Nothing branches off at {node}: choose a breakout.")
    return {node}.union(*parts[:-1])


def _put(job: Job, kind: type[Laid], change: Callable[[tuple[Any, ...]], tuple[Any, ...]]) -> Job:
    field, _ = _FIELDS[kind]
    things = change(getattr(job.routing, field))
    return replace(job, routing=replace(job.routing, **{field: things}))


def _check(job: Job, thing: Laid) -> None:
    """Refuse what cannot be: a run to nowhere, a length of nothing, a plug in two looms."""
    problem = thing_problem(thing) or route_problem(job, thing)
    if problem:
        raise EditError(f"{problem}.")


def take_lengths(job: Job, cut_m: dict[str, float]) -> Job:
    """Give wires the lengths of their ways, m, by their codes."""

    def taken(wire: Wire) -> Wire:
        metres = cut_m.get(wire.code)
        if metres is None:
            return wire
        return replace(wire, length_m=round(metres, 3), length_from="routed")

    return replace(job, wires=tuple(map(taken, job.wires)))
