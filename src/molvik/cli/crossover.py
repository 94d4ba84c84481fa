"""Crossover: plan the repinning of a plug."""

import argparse
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json

if TYPE_CHECKING:
    from molvik.crossover.repinplan import RepinPlan

if TYPE_CHECKING:
    pass


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    crossover = commands.add_parser("crossover", help="plan the repinning of a plug")
    add_job(crossover)
    crossover.add_argument("--set", required=True, metavar="NAME", help="name or code of the set")
    crossover.add_argument("--json", action="store_true", help="print JSON")
    crossover.set_defaults(run=_crossover)


def _crossover(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.crossover.repinplan import ticks_of

    job = job_at(parsed.job)
    wanted = parsed.set.strip().lower()
    code = next((r.code for r in job.repins if wanted in (r.code.lower(), r.name.lower())), "")
    if not code:
        known = (
            ", ".join(f"{repin_set.code} {repin_set.name}" for repin_set in job.repins) or "none"
        )
        return complain(f"There is no repin set “{parsed.set}” in the job. It has: {known}.")
    analysis = Analysis(job)
    plan = analysis.plans[code]
    ticked = ticks_of(analysis.network, code)
    if parsed.json:
        print_json({"job": job.title, "set": code, **_plan(plan, ticked)})
    else:
        _print_plan(plan, ticked)
    return 0


def _plan(plan: "RepinPlan", ticked: set[str]) -> dict[str, Any]:
    """Return a plan as JSON has it."""
    return {
        "name": plan.set.name,
        "matches": [
            {
                "lead": match.lead.place,
                "function": match.lead.function,
                "to": match.want.place if match.want else None,
                "wanted": match.want.function if match.want else None,
                "score": round(match.score, 1),
                "state": match.state,
                "reason": match.reason,
                "runners_up": [
                    {"to": r.place, "function": r.function, "score": round(r.score, 1)}
                    for r in match.runners
                ],
            }
            for match in plan.matches
        ],
        "actions": [
            {
                "lead": happening.place or None,
                "action": happening.action,
                "to": happening.end or None,
                "function": happening.function,
                "reason": happening.reason,
                "fit": happening.fit.verdict if happening.fit else None,
                "extend_m": happening.extend_m,
                "diagram": happening.diagram,
            }
            for happening in plan.happenings
        ],
        "steps": [
            {
                "key": step.key,
                "do": step.do,
                "detail": step.detail,
                "first": step.first,
                "take": step.take or None,
                "put": step.put or None,
                "ticks": list(step.ticks),
                "done": step.is_done(ticked),
            }
            for step in plan.steps
        ],
        "problems": [problem.text for problem in plan.broken] + list(plan.astray(ticked)),
        "empty": {at: list(gaps) for at, gaps in plan.empty.items()},
    }


def _print_plan(plan: "RepinPlan", ticked: set[str]) -> None:
    """Print what is to be decided, the steps in order, and what is wrong."""
    for one in plan.undecided:
        to = f" to {one.end} {one.want.function}" if one.want else ""
        print(f"decide: {one.place} {one.function}{to}? {one.reason}")
    for number, step in enumerate(plan.steps, start=1):
        if step.first:
            print(f"      {step.first}")
        done = "✓" if step.is_done(ticked) else " "
        print(f"{number:4} {done} {step.do}" + (f" ({step.detail})" if step.detail else ""))
    for words in (*(problem.text for problem in plan.broken), *plan.astray(ticked)):
        print(words)
