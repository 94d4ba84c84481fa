"""A loom to build beside the loom as found it was taken over from: what is longer, moved, gone."""

from typing import Literal, NamedTuple

from molvik.model.job import Job
from molvik.model.loom import Node, Segment
from molvik.model.routing import LoomNode, Run

LEAST_M = 0.005
"""Lengths nearer than this are the same, m."""

How = Literal["longer", "shorter", "moved", "gone", "new", "covered otherwise"]


class Change(NamedTuple):
    """What became of a place or stretch of the old loom. new, old: its codes in both, empty where
    it is not; name: in words; was, now: what it was and is.
    """

    how: How
    new: str
    old: str
    name: str
    was: str
    now: str


def changes(job: Job, loom: str) -> tuple[Change, ...]:
    """Return what of the loom as found is another in a loom to build, by plugs and names; nothing
    for a loom of which less than half was there before: it is a new one.
    """
    joints = {joint.code: joint for joint in job.routing.joints if joint.loom == loom}
    nodes = {node.code: node for node in job.loom.nodes}
    pairs = _paired(list(joints.values()), list(nodes.values()))
    if not pairs or 2 * len(pairs) < len(joints):
        return ()
    old_of = {new: old for old, new in pairs.items()}
    runs = [run for run in job.routing.runs if run.start in joints and run.finish in joints]
    segments = [segment for segment in job.loom.segments if segment.start and segment.finish]
    found = _stretches(runs, segments, pairs, old_of, joints, nodes)
    for joint in joints.values():
        if joint.code not in old_of:
            found.append(Change("new", joint.code, "", joint.name, "", "an end or breakout"))
    beside = {
        end
        for segment in segments
        if segment.start in pairs or segment.finish in pairs
        for end in (segment.start, segment.finish)
    }
    for node in nodes.values():
        if node.code not in pairs and node.code in beside:
            found.append(Change("gone", "", node.code, node.name, "an end or breakout", ""))
    return tuple(found)


def _paired(joints: list[LoomNode], nodes: list[Node]) -> dict[str, str]:
    """Return which joint each node has become: by what sits there, else by its name."""
    by_plug = {code: joint.code for joint in joints for code in joint.carries}
    by_name: dict[str, str] = {}
    for joint in joints:
        by_name.setdefault(joint.name.lower(), joint.code)
    found: dict[str, str] = {}
    for node in nodes:
        new = by_plug.get(node.connector) if node.connector else None
        new = new or by_name.get(node.name.lower())
        if new is not None and new not in found.values():
            found[node.code] = new
    return found


def _stretches(
    runs: list[Run],
    segments: list[Segment],
    pairs: dict[str, str],
    old_of: dict[str, str],
    joints: dict[str, LoomNode],
    nodes: dict[str, Node],
) -> list[Change]:
    found: list[Change] = []
    now = {frozenset((run.start, run.finish)): run for run in runs}
    was = {
        frozenset((pairs[s.start], pairs[s.finish])): s
        for s in segments
        if s.start in pairs and s.finish in pairs
    }
    for ends, run in now.items():
        name = " to ".join(joints[code].name for code in (run.start, run.finish))
        segment = was.get(ends)
        if segment is None:
            old = _hung(run, segments, old_of)
            if old is not None:
                before = " to ".join(nodes[code].name for code in (old.start, old.finish))
                found.append(Change("moved", run.code, old.code, name, before, name))
            else:
                found.append(Change("new", run.code, "", name, "", _metres(run.length_m)))
            continue
        if run.length_m is not None and segment.length_m is not None:
            more = run.length_m - segment.length_m
            if abs(more) >= LEAST_M:
                how: How = "longer" if more > 0 else "shorter"
                found.append(
                    Change(
                        how,
                        run.code,
                        segment.code,
                        name,
                        _metres(segment.length_m),
                        _metres(run.length_m),
                    )
                )
        if run.covering != segment.covering:
            found.append(
                Change(
                    "covered otherwise",
                    run.code,
                    segment.code,
                    name,
                    segment.covering or "bare",
                    run.covering or "bare",
                )
            )
    moved = {change.old for change in found if change.how == "moved"}
    for ends, segment in was.items():
        if ends not in now and segment.code not in moved:
            name = " to ".join(nodes[code].name for code in (segment.start, segment.finish))
            found.append(Change("gone", "", segment.code, name, _metres(segment.length_m), ""))
    return found


def _hung(run: Run, segments: list[Segment], old_of: dict[str, str]) -> Segment | None:
    """Return the only segment that led to one end of a run before: that end has moved."""
    for code in (run.finish, run.start):
        old = old_of.get(code)
        at = [segment for segment in segments if old in (segment.start, segment.finish)]
        if old and len(at) == 1:
            return at[0]
    return None


def _metres(length: float | None) -> str:
    return "not known" if length is None else f"{length:.2f} m"
