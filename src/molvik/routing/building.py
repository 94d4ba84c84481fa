"""The one order in which a loom is built: wires, splices, what is slid on, plugs and rings, covers.

Splices are made once all their wires lie, before anything is slid over them; what does not open is
slid on while the ends it comes from are open (``assembly``); then the ends are closed. What wraps
round the loom goes on last, when the loom is proved (common practice): each thing exactly once,
which ``tests/test_building_order.py`` plays through.
"""

from collections.abc import Iterator

from molvik.model.job import Job, code_order
from molvik.model.parts import Connector, EarthPoint
from molvik.model.routing import Run
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.assembly import Assembly, Put, only_splices
from molvik.routing.laying import laying_steps
from molvik.routing.lengths import CutLength
from molvik.routing.ways import Ways
from molvik.steps import Step
from molvik.wording import counted, some


def building_steps(
    job: Job, ways: Ways, cuts: dict[str, CutLength], made: Assembly
) -> tuple[Step, ...]:
    """Return every step of building the looms, wires first."""
    return (*laying_steps(job, ways, cuts), *after_laying(job, ways, made))


def after_laying(job: Job, ways: Ways, made: Assembly) -> tuple[Step, ...]:
    """Return every step once all wires are laid."""
    return (
        *_splices(job, ways),
        *(_put(job, put) for put in made.steps),
        *_ends(job, ways),
        *_covers(job, ways),
    )


def _splices(job: Job, ways: Ways) -> Iterator[Step]:
    """Yield a step for each splice whose wires lie in the looms."""
    names = {code: joint.name for joint in job.routing.joints for code in joint.carries}
    for splice in job.splices:
        wires = [w for w in job.wires if splice.code in {end.at for end in w.ends}]
        laid = [w for w in wires if w.code in ways.of and ways.of[w.code].steps]
        if not laid or len(wires) < 2:
            continue
        how = "crimp" if job.settings.joints == "crimped" else "solder"
        ends = ", ".join(sorted((wire.code for wire in wires), key=code_order))
        yield Step(
            f"splice {splice.code}",
            splice.code,
            f"Splice {splice.code}: {len(wires)} wire ends",
            f"{ends}, at {names.get(splice.code, 'its place')}: slide adhesive shrink over one "
            f"side first, {how}, pull at each wire, then shrink it",
        )


def _put(job: Job, put: Put) -> Step:
    """Return the step of something that is slid on, or of a plug."""
    joints = {joint.code: joint for joint in job.routing.joints}
    joint = joints.get(put.at)
    name = joint.name if joint is not None else ""
    if put.what:
        # A splice is not an end: nothing comes on over it from there.
        open_ends = [end for end in put.ends if not only_splices(job, joints[end])]
        ends = some([f"{end} {joints[end].name}" for end in open_ends or put.ends], 3)
        return Step(
            f"slide {put.what} {put.at}",
            put.at,
            f"Slide on {put.what}: {put.at} {name}",
            f"from {ends}; every end there still open",
        )
    assert joint is not None
    return Step(
        f"close {put.at}",
        put.at,
        f"Close {put.at}: {' '.join(joint.carries[:3])} {name}",
        "terminals, seals and plug",
    )


def _ends(job: Job, ways: Ways) -> Iterator[Step]:
    """Yield a step for each end at an earth, a stud or a fuse: what has no plug has rings, or
    terminals of its own.
    """
    used = {end for way in ways.of.values() if not way.problem for end in (way.start, way.finish)}
    for joint in job.routing.joints:
        parts = [job.part(code) for code in joint.carries]
        plugged = any(isinstance(part, Connector) for part in parts)
        if joint.code not in used or joint.closed or plugged or only_splices(job, joint):
            continue
        wires = sorted(
            (
                code
                for code, way in ways.of.items()
                if not way.problem and joint.code in (way.start, way.finish)
            ),
            key=code_order,
        )
        earth = any(isinstance(part, EarthPoint) for part in parts)
        what = "rings, to bare metal, sealed afterwards" if earth else "rings or terminals"
        yield Step(
            f"end {joint.code}",
            joint.code,
            f"Ends at {joint.code}: {' '.join(joint.carries[:3])} {joint.name}",
            f"{some(wires, 6)}: {what}",
        )


def _covers(job: Job, ways: Ways) -> Iterator[Step]:
    """Yield a step for each stretch that is wrapped, tied or clipped."""
    for run in job.routing.runs:
        covering = COVERINGS.get(run.covering, BARE)
        wraps = covering is not BARE and not covering.closed
        if not ways.wires_in[run.code] or not (wraps or run.ties or run.clips):
            continue
        words = [covering.name] if wraps else []
        words += [f"{run.ties} ties"] if run.ties else []
        words += [f"{counted(run.clips, 'clip')}"] if run.clips else []
        long = f", {run.length_m:.2f} m" if run.length_m else ""
        yield Step(
            f"cover {run.code}",
            run.code,
            f"Cover {run.code}: {', '.join(words)}",
            f"{_between(job, run)}{long}; last, once the loom is proved",
        )


def _between(job: Job, run: Run) -> str:
    names = {joint.code: joint.name for joint in job.routing.joints}
    return f"{names.get(run.start, run.start)} to {names.get(run.finish, run.finish)}"
