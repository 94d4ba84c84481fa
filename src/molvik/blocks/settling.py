"""What was laid is made to pass its own check: currents as solved, fuses and sizes as they need."""

from collections import deque
from collections.abc import Callable, Mapping

from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.electrical.fusing import carries_share
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Fuse, Wire
from molvik.reference.fuses import RATINGS_A
from molvik.sizes.fuses import FuseWork
from molvik.sizes.resize import resized, resizes
from molvik.sizes.sizing_case import SizingCase, carries_more

ROUNDS = 8

SAME_SHARE = 1.01
"""A current that grew by less is the same (our choice)."""

KINDS = ("blade", "bolt-down")
"""A fuse that no rating of its kind suffices for becomes one of the next."""


def settled(
    before: Job,
    laid: Job,
    new: set[str],
    amps: Mapping[str, float],
    stop: Callable[[], bool],
) -> Job:
    """Return a job with what was laid, fuses and wires as large as they have to be.

    before: the job without it. new: codes of what was laid. amps: what each new wire is meant for,
    A. stop: whether nobody waits for it any more. What was there already and no longer passes with
    it grows as well, unless it did not pass before, or was tested: a loom that exists is not
    changed in passing.
    """
    looks = _Looks()
    was, job = Analysis(before), laid
    passed: set[str] | None = None
    for _ in range(ROUNDS):
        if stop():
            break
        job = _as_solved(was, looks.at(job), amps)
        analysis = looks.at(job)
        failing = {
            code for code, sizing in analysis.electrics.sizings.items() if not sizing.is_enough
        }
        fuses = _fuses(analysis)
        if passed is None and (failing | set(fuses)) - new:
            passed = _passing(was)
            passed -= _as_before(was, analysis)
        may = new | (passed or set())
        grown = {code: fuse for code, fuse in fuses.items() if code in may}
        if not grown and not failing & may:
            break
        after = replace(job, fuses=tuple(grown.get(fuse.code, fuse) for fuse in job.fuses))
        changes = resizes(after, looks.asked, "metric", failing_only=True, only=may)
        if not grown and not changes:
            break
        job = resized(after, changes)
    return job


class _Looks:
    """The last few jobs that were looked at, so that none is solved twice in a row."""

    def __init__(self) -> None:
        self._kept: deque[Analysis] = deque(maxlen=4)

    def at(self, job: Job) -> Analysis:
        found = next((analysis for analysis in self._kept if analysis.job == job), None)
        if found is None:
            found = Analysis(job)
            self._kept.append(found)
        return found

    def asked(self, job: Job) -> Mapping[str, SizingCase]:
        return self.at(job).electrics.sizing_cases


def _as_solved(was: Analysis, now: Analysis, amps: Mapping[str, float]) -> Job:
    """Return the job with the current of each new wire as it follows from the circuit; as it is
    meant for, where nothing follows.

    A current that somebody typed, and that was enough before, is raised where it no longer is.
    """

    def at_its_current(wire: Wire) -> Wire:
        solved = now.electrics.worst_amps.get(wire.code)
        if wire.code in amps:
            known = now.electrics.crank_amps.get(wire.code) if wire.use == "starter" else solved
            return replace(wire, load_a=amps[wire.code] if known is None else None)
        if solved is None or not carries_more(wire, solved):
            return wire
        if carries_more(wire, was.electrics.worst_amps.get(wire.code, 0.0)):
            return wire
        return replace(wire, load_a=round(solved, 1))

    return replace(now.job, wires=tuple(at_its_current(wire) for wire in now.job.wires))


def _passing(analysis: Analysis) -> set[str]:
    """Return what passes and was not tested: wires, and fuses that carry their load."""
    job = analysis.job
    tested = {code for code, verdict in analysis.proof.items() if verdict.by is not None}
    share = carries_share(job.settings.ambient_c)
    wires = {code for code, sizing in analysis.electrics.sizings.items() if sizing.is_enough}
    fuses = {
        code
        for code, fuse_work in analysis.electrics.fuse_work.items()
        if fuse_work.load_a <= fuse_work.fuse.rating_a * share
    }
    return (wires - tested) | fuses


def _as_before(was: Analysis, now: Analysis) -> set[str]:
    """Return the fuses that were too small before, as for what begins with a surge, and carry no
    more now.
    """
    before, after = was.electrics.fuse_work, now.electrics.fuse_work
    return {
        code
        for code in _fuses(was).keys() & after.keys()
        if after[code].load_a <= SAME_SHARE * before[code].load_a
    }


def _fuses(analysis: Analysis) -> dict[str, Fuse]:
    """Return the fuses that are too small for what they bear, each as it has to be."""
    share = carries_share(analysis.job.settings.ambient_c)
    found: dict[str, Fuse] = {}
    # Those behind first: one must be larger than each that it stands before.
    works = sorted(analysis.electrics.fuse_work.values(), key=lambda fuse_work: fuse_work.load_a)
    for work in works:
        least_a = max(
            (
                found.get(behind.fuse.code, behind.fuse).rating_a
                for behind in works
                if behind.before is not None and behind.before.code == work.fuse.code
            ),
            default=0.0,
        )
        fuse = work.fuse
        if not _suffices(work, fuse, share, least_a):
            found[fuse.code] = _larger(work, share, least_a)
    return found


def _larger(work: FuseWork, share: float, least_a: float) -> Fuse:
    fuse = work.fuse
    kinds = KINDS[KINDS.index(fuse.kind) :] if fuse.kind in KINDS else (fuse.kind,)
    for kind in kinds:
        for rating_a in RATINGS_A[kind]:
            made = replace(fuse, kind=kind, rating_a=rating_a)
            if rating_a >= fuse.rating_a and _suffices(work, made, share, least_a):
                return made
    raise EditError(f"No fuse carries what {fuse.name} has to. Share it out over two.")


def _suffices(work: FuseWork, fuse: Fuse, share: float, least_a: float) -> bool:
    fuse_work = work._replace(fuse=fuse)
    bears = fuse_work.crank_a <= fuse.rating_a or fuse_work.bears_cranking
    return (
        fuse_work.load_a <= fuse.rating_a * share
        and fuse_work.bears_inrush
        and bears
        and fuse.rating_a > least_a
    )
