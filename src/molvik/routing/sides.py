"""What lies on either side of a place in a loom, as the wires there go on."""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.netlist.loomgraph import Step
from molvik.routing.ways import Way, Ways


class Beyond(NamedTuple):
    """What lies on one side of a place. toward: the joint one goes to on that side. wires: the
    codes of those that go on there, by the joint they end at; passed: runs and joints on the way.
    """

    toward: str
    ends: dict[str, tuple[str, ...]]
    passed: frozenset[str]


def sides_of_run(ways: Ways, run: str) -> tuple[Beyond, Beyond]:
    """Return what lies beyond the start of a run, and beyond its finish."""
    there = ways.graph.runs[run]
    starts: dict[str, list[str]] = {}
    finishes: dict[str, list[str]] = {}
    passed: tuple[set[str], set[str]] = set(), set()
    for code in ways.wires_in[run]:
        way = ways.of[code]
        for at, step in enumerate(way.steps):
            if step.run != run:
                continue
            before, after = (
                set(_along(ways, way.steps[:at])),
                set(_along(ways, way.steps[at + 1 :])),
            )
            first, last = (way.start, way.finish) if step.forward else (way.finish, way.start)
            starts.setdefault(first, []).append(code)
            finishes.setdefault(last, []).append(code)
            passed[0].update(before if step.forward else after)
            passed[1].update(after if step.forward else before)
    return (
        Beyond(there.start, _ends(starts), frozenset(passed[0] | {there.start}) - {run}),
        Beyond(there.finish, _ends(finishes), frozenset(passed[1] | {there.finish}) - {run}),
    )


def _ends(found: dict[str, list[str]]) -> dict[str, tuple[str, ...]]:
    return {joint: tuple(dict.fromkeys(codes)) for joint, codes in found.items()}


def _along(ways: Ways, steps: tuple[Step, ...]) -> Iterator[str]:
    """Yield the runs and the joints that steps pass, both ends of each run."""
    for step in steps:
        run = ways.graph.runs[step.run]
        yield from (step.run, run.start, run.finish)


def sides_of_joint(ways: Ways, joint: str) -> tuple[Beyond, ...]:
    """Return what lies on each side of a joint that wires go through: by each run that all of them
    use, beyond it, and all that lies the other way.
    """
    through = [code for code, way in ways.of.items() if joint in _inside(ways, way)]
    found: list[Beyond] = []
    for there, run, _ in ways.graph.at[joint]:
        if not through or not set(through) <= set(ways.wires_in[run]):
            continue
        outer = dict(zip(("start", "finish"), sides_of_run(ways, run), strict=True))
        own = ways.graph.runs[run]
        far, near = ("finish", "start") if own.finish == there else ("start", "finish")
        kept = set(through)
        found.append(_only(outer[far], kept, run))
        found.append(_only(outer[near], kept, "")._replace(toward=""))
    return tuple(found[:2])


def _only(side: Beyond, wires: set[str], run: str) -> Beyond:
    ends = {
        joint: kept
        for joint, codes in side.ends.items()
        if (kept := tuple(code for code in codes if code in wires))
    }
    return side._replace(ends=ends, passed=side.passed | ({run} if run else set()))


def _inside(ways: Ways, way: Way) -> set[str]:
    """Return the joints a wire goes through, its ends left out."""
    return {
        joint
        for step in way.steps
        for joint in (ways.graph.runs[step.run].start, ways.graph.runs[step.run].finish)
    } - {way.start, way.finish}
