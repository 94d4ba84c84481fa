"""Pure edits of stretches of a loom to build: parted and joined again, a splice put along one,
turned on the board.
"""

from msgspec.structs import replace

from molvik.model import references, routing_edits
from molvik.model.edits import EditError, photo_of_nothing, retire
from molvik.model.job import Job
from molvik.model.parts import Splice
from molvik.model.routing import LoomNode, Pose, Run
from molvik.wording import figures

LEAST_M = 0.001
"""A piece of a stretch is at least so long, m."""


def split_run(job: Job, code: str, at_m: float, joint: LoomNode) -> Job:
    """Part a run at a distance from its start, m, by a new joint of its loom; an empty code of that
    gets the next free one. Clips and ties go by length. Raises EditError.
    """
    run = _run(job, code)
    length = run.length_m
    if not (run.start and run.finish) or length is None:
        raise EditError(f"{code} has no length or end yet: type them first.")
    if not LEAST_M <= at_m <= length - LEAST_M:
        raise EditError(f"{code} is {figures(length)} m long: choose a place between its ends.")
    before = {one.code for one in job.routing.joints}
    job = routing_edits.add(job, replace(joint, loom=_loom(job, run)))
    made = next(one.code for one in job.routing.joints if one.code not in before)
    share = at_m / length
    clips, ties, slack = round(run.clips * share), round(run.ties * share), run.slack_m * share
    rest = replace(
        run,
        code="",
        start=made,
        length_m=round(length - at_m, 6),
        clips=run.clips - clips,
        ties=run.ties - ties,
        slack_m=round(run.slack_m - slack, 6),
    )
    job = routing_edits.change(
        job,
        code,
        finish=made,
        length_m=round(at_m, 6),
        length_from=run.length_from,
        clips=clips,
        ties=ties,
        slack_m=round(slack, 6),
    )
    job = routing_edits.add(job, rest)
    pose = next((pose for pose in job.board if pose.run == code), None)
    if pose is not None:
        other = job.routing.runs[-1].code
        job = turned(
            job, {code: (pose.heading_deg, 0.0), other: (pose.heading_deg + pose.bent_deg, 0.0)}
        )
    return job


def join_runs(job: Job, joint: str) -> Job:
    """Take a joint of two runs out, which become one: what the first passes and is covered with
    holds for both. Raises EditError.
    """
    runs = [run for run in job.routing.runs if joint in (run.start, run.finish)]
    if len(runs) != 2:
        raise EditError(f"{joint} is not a node of two stretches.")
    first, second = runs
    far = second.finish if second.start == joint else second.start
    known = first.length_m is not None and second.length_m is not None
    whole = replace(
        first,
        start=far if first.start == joint else first.start,
        finish=far if first.finish == joint else first.finish,
        length_m=round((first.length_m or 0.0) + (second.length_m or 0.0), 6) if known else None,
        clips=first.clips + second.clips,
        ties=first.ties + second.ties,
        slack_m=first.slack_m + second.slack_m,
    )
    if whole.start == whole.finish:
        raise EditError(f"Without {joint} a stretch would start and end at {whole.start}.")
    job = references.without(job, second.code, references.ROUTED)
    kept = tuple(whole if run is first else run for run in job.routing.runs if run is not second)
    job = replace(job, routing=replace(job.routing, runs=kept))
    job = retire(photo_of_nothing(job, second.code), [second.code])
    return routing_edits.remove(job, joint)


def put_splice(job: Job, splice: str, run: str, at_m: float) -> Job:
    """Lay a splice along a run, at a distance from its start, m, from wherever it lies. A joint
    that was only for it goes. Raises EditError.
    """
    if not isinstance(job.part(splice), Splice):
        raise EditError(f"There is no splice {splice or '?'} in the job.")
    old = [joint for joint in job.routing.joints if splice in joint.carries]
    for joint in old:
        carries = tuple(code for code in joint.carries if code != splice)
        job = routing_edits.change(job, joint.code, carries=carries)
    part = job.part(splice)
    name = getattr(part, "name", "") or f"Splice {splice}"
    job = split_run(job, run, at_m, LoomNode("", "", name, "splice", (splice,)))
    for joint in old:
        ends = sum(joint.code in (run.start, run.finish) for run in job.routing.runs)
        alone = len(joint.carries) == 1 and joint.kind in ("", "splice") and not joint.note
        if alone and ends == 2:
            job = join_runs(job, joint.code)
        elif joint.kind == "splice":
            job = routing_edits.change(job, joint.code, kind="")
    return job


def turned(job: Job, poses: dict[str, tuple[float, float]]) -> Job:
    """Turn runs on the board: heading and bend of each, deg, by its code."""
    kept = tuple(pose for pose in job.board if pose.run not in poses)
    made = tuple(
        Pose(run, round(heading % 360, 2), round(bent, 2)) for run, (heading, bent) in poses.items()
    )
    return replace(job, board=(*kept, *made))


def laid_anew(job: Job, loom: str) -> Job:
    """Forget how a loom was turned on the board."""
    own = {joint.code for joint in job.routing.joints if joint.loom == loom}
    runs = {run.code for run in job.routing.runs if run.start in own}
    return replace(job, board=tuple(pose for pose in job.board if pose.run not in runs))


def _run(job: Job, code: str) -> Run:
    found = routing_edits.find(job.routing, code)
    if not isinstance(found, Run):
        raise EditError(f"There is no stretch {code or '?'} among the looms to build.")
    return found


def _loom(job: Job, run: Run) -> str:
    return next(joint.loom for joint in job.routing.joints if joint.code == run.start)
