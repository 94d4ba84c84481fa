"""Building a loom is one order: each thing once, and nothing that an earlier step closed off."""

import random
from collections import Counter

import pytest
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.model.job import Job
from molvik.model.parts import Connector, Splice
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.assembly import only_splices
from molvik.routing.building import building_steps
from molvik.steps import Step


def steps_of(job: Job) -> tuple[Step, ...]:
    one = Analysis(job)
    return building_steps(job, one.electrics.ways, one.cut_lengths, one.assembly)


def play(job: Job) -> Counter[str]:
    """Do every step as a hand would; return what was done, by kind."""
    analysis = Analysis(job)
    joints = {joint.code: joint for joint in job.routing.joints}
    laid: set[str] = set()
    closed = {code for code, joint in joints.items() if joint.closed}
    done: Counter[str] = Counter()
    for step in steps_of(job):
        verb, _, rest = step.key.partition(" ")
        done[step.key] += 1
        match verb:
            case "lay":
                assert not done["splice"], "a splice waits for its wires"
                laid.add(rest)
            case "splice":
                wires = {w.code for w in job.wires if rest in {e.at for e in w.ends}}
                assert wires & analysis.cut_lengths.keys() <= laid
            case "slide":
                for end in step.detail.partition("from ")[2].split(";")[0].split(", "):
                    code = end.split(" ")[0]
                    if code in joints:
                        assert code not in closed, step
                        assert not only_splices(job, joints[code])
            case "close" | "end":
                assert rest not in closed
                closed.add(rest)
            case _:
                assert verb == "cover"
        done[verb] += 1
    assert max(done[step.key] for step in steps_of(job)) == 1
    return done


def test_everything_is_in_it_once() -> None:
    job = demo_job("marten")
    analysis = Analysis(job)
    done, ways = play(job), analysis.electrics.ways
    assert done["lay"] == len(analysis.cut_lengths)
    ends_at = Counter(e.at for w in job.wires for e in w.ends)
    spliced = {
        e.at
        for w in job.wires
        if w.code in analysis.cut_lengths
        for e in w.ends
        if ends_at[e.at] > 1 and isinstance(job.part(e.at), Splice)
    }
    assert done["splice"] == len(spliced)
    used = {end for way in ways.of.values() if not way.problem for end in (way.start, way.finish)}
    ends = [
        j
        for j in job.routing.joints
        if j.code in used
        and not j.closed
        and not all(isinstance(job.part(c), Splice) for c in j.carries)
    ]
    plugs = [j for j in ends if any(isinstance(job.part(c), Connector) for c in j.carries)]
    assert done["close"] == len(plugs)
    assert done["end"] == len(ends) - len(plugs)
    wraps = [
        r
        for r in job.routing.runs
        if ways.wires_in[r.code]
        and (
            r.ties
            or r.clips
            or ((c := COVERINGS.get(r.covering, BARE)) is not BARE and not c.closed)
        )
    ]
    assert done["cover"] == len(wraps)


@pytest.mark.parametrize("seed", range(8))
def test_any_coverings_and_boots_still_come_in_an_order_that_works(seed: int) -> None:
    chance, job = random.Random(seed), demo_job("marten")
    kinds = [key for key in COVERINGS if key]
    runs = tuple(
        replace(run, covering=chance.choice(kinds), ties=chance.randrange(3))
        for run in job.routing.runs
    )
    booted = {
        joint.code
        for joint in job.routing.joints
        if chance.random() < 0.3 and not only_splices(job, joint)
    }
    joints = tuple(
        replace(joint, boots=("boot",) if joint.code in booted else ())
        for joint in job.routing.joints
    )
    done = play(replace(job, routing=replace(job.routing, runs=runs, joints=joints)))
    assert done["slide"] > 0


def test_a_sleeve_that_waits_for_a_plug_is_caught() -> None:
    """The play is strict: with its steps the other way round it does not pass."""
    job = demo_job("marten")
    runs = tuple(replace(run, covering="tube") for run in job.routing.runs)
    job = replace(job, routing=replace(job.routing, runs=runs))
    keys = [step.key.split(" ")[0] for step in steps_of(job)]
    assert keys.index("slide") < keys.index("close")
    assert keys.index("splice") > len(keys) - 1 - keys[::-1].index("lay")
