"""What the readings say of each wire: its own, or those of the plan whose way goes through it."""

from collections.abc import Sequence

from molvik.model.job import code_order
from molvik.proving.proofplan import FAILED, Measurement, ProofPlan
from molvik.proving.wiretest import NOT_MEASURED, Verdict


def verdicts(plan: ProofPlan) -> dict[str, Verdict]:
    """Return the verdict on every wire that has both ends: by its own reading, else, or where one
    failed since, by those of the plan whose way goes through it.
    """
    through = plan.through
    found: dict[str, Verdict] = {}
    for code in plan.bench.wires:
        own = plan.own_verdict(code)
        said = _by_plan(code, plan, through.get(code, ()))
        if own is not None and own.by is not None:
            since = said.by is not None and plan.is_later(said.by, own.by)
            found[code] = said if since and said.outcome in FAILED else own
        else:
            found[code] = said
    return found


def proved(plan: ProofPlan) -> tuple[str, ...]:
    """Return the wires that the readings prove, in the order of their codes."""
    found = verdicts(plan)
    return tuple(
        sorted((code for code, one in found.items() if one.outcome == "passed"), key=code_order)
    )


def _by_plan(code: str, plan: ProofPlan, through: Sequence[Measurement]) -> Verdict:
    """Return what the measurements through a wire say of it: what passed proves it, what failed
    may be another's.
    """
    said = NOT_MEASURED
    for measurement in through:
        judged, by = plan.judged[measurement.key], plan.reading(measurement)
        where = f"from {measurement.red} to {measurement.black}"
        if judged.outcome == "passed" and code in measurement.proves:
            return Verdict("passed", f"proved {where}", by)
        if judged.outcome == "changed":
            said = Verdict("moved", f"something {where} was changed since: measure again", by)
        elif judged.outcome in FAILED:
            said = Verdict(judged.outcome, f"{where}: {judged.text}", by)
    return said
