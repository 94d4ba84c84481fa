"""What the readings say of each wire: its own, or those of the plan whose way goes through it."""

from collections.abc import Sequence

from molvik.model.job import code_order
from molvik.model.parts import Wire
from molvik.proving.bench import digest
from molvik.proving.plan import FAILED, Measurement, Plan
from molvik.proving.wiretest import NOT_MEASURED, Verdict, continuity_test, judge, latest


def verdicts(plan: Plan) -> dict[str, Verdict]:
    """Return the verdict on every wire that has both ends: by its own reading, else by those of
    the plan whose way goes through it.
    """
    job, through = plan.job, plan.through
    last = latest(job.readings)
    found: dict[str, Verdict] = {}
    for wire in map(plan.wire, job.wires):
        if not (wire.start.at and wire.finish.at):
            continue
        reading = last.get(wire.code)
        if reading is not None:
            test = continuity_test(wire, job.settings)
            judged = judge(test, reading, job.settings, digest((wire,)))
            why = plan.comes_and_goes(reading, test.limit_ohm, (wire.code,))
            if judged.outcome == "passed" and why:
                judged = Verdict("comes and goes", why)
            if plan.mended_since(reading, wire.code):
                judged = Verdict("moved", "the wire was mended since: measure again")
            found[wire.code] = judged._replace(by=reading)
        else:
            found[wire.code] = _by_plan(wire, plan, through.get(wire.code, ()))
    return found


def proved(plan: Plan) -> tuple[str, ...]:
    """Return the wires that the readings prove, in the order of their codes."""
    found = verdicts(plan)
    return tuple(sorted((code for code, one in found.items() if one.outcome == "passed"),
                        key=code_order))  # fmt: skip


def _by_plan(wire: Wire, plan: Plan, through: Sequence[Measurement]) -> Verdict:
    """Return what the measurements through a wire say of it: what passed proves it, what failed
    may be another's.
    """
    said = NOT_MEASURED
    for one in through:
        judged, by = plan.judged[one.key], plan.reading(one)
        where = f"from {one.red} to {one.black}"
        if judged.outcome == "passed" and wire.code in one.proves:
            return Verdict("passed", f"proved {where}", by)
        if judged.outcome == "changed":
            said = Verdict("moved", f"something {where} was changed since: measure again", by)
        elif judged.outcome in FAILED:
            said = Verdict(judged.outcome, f"{where}: {judged.text}", by)
    return said
