"""Survey: list the faults of the loom as found."""

import argparse
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, analysed, job_at, print_json

if TYPE_CHECKING:
    from molvik.analysis import Analysis


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    survey = commands.add_parser("survey", help="list the faults of the loom as found")
    add_job(survey)
    survey.add_argument("--json", action="store_true", help="print JSON")
    survey.set_defaults(run=_survey)


def _survey(parsed: argparse.Namespace) -> int:
    from molvik.logbook.quote import break_even, choice
    from molvik.survey.decide import whole_loom
    from molvik.survey.rules import GRADES

    job = job_at(parsed.job)
    analysis = analysed(job)
    if parsed.json:
        print_json(_answer(analysis))
        return 0
    for _fault in _faults(analysis):
        print(f"{_fault['fault']} on {_fault['on']}: {_fault['kind']}, {GRADES[_fault['grade']]}")
        print(f"   {_fault['action']}: {_fault['how']}")
        print(f"   {_fault['reason']}")
        print(
            f"   open {_fault['open_m']:.2f} m of covering, inspect {len(_fault['inspect'])} wires"
        )
    both = analysis.once(choice)
    money = break_even(both.repair, both.new_loom, job.settings)
    for words in (*analysis.loom.problems, whole_loom(analysis.loom), money):
        if words:
            print(words)
    return 0


def _faults(analysis: "Analysis") -> list[dict[str, Any]]:
    """Return the faults as JSON has them, the worst first."""
    from molvik.survey.decide import decide
    from molvik.survey.rules import grade_of
    from molvik.survey.spread import spread

    tree, found = analysis.loom, []
    for fault in sorted(tree.loom.faults, key=lambda fault: -grade_of(tree, fault)):
        decision, reach = decide(tree, fault), spread(tree, fault)
        found.append(
            {
                "fault": fault.code,
                "on": fault.on,
                "kind": fault.kind,
                "grade": grade_of(tree, fault),
                "at_m": fault.at_m,
                "action": decision.action,
                "how": decision.how,
                "reason": decision.reason,
                "own": decision.own,
                "open_m": round(reach.open_m, 3),
                "inspect": {code: round(metres, 3) for code, metres in reach.inspect.items()},
            }
        )
    return found


def _answer(analysis: "Analysis") -> dict[str, Any]:
    """Return the survey as JSON has it."""
    from molvik.logbook.quote import choice
    from molvik.survey.decide import condemned

    job, tree, both = analysis.job, analysis.loom, analysis.once(choice)
    short = [shortage for shortage in analysis.shortages if shortage.short or shortage.instead]
    return {
        "job": job.title,
        "problems": list(tree.problems),
        "condemned": list(condemned(tree)),
        "shortages": [
            {
                "kind": shortage.kind,
                "what": shortage.what,
                "short": round(shortage.short, 3),
                "instead": {name: round(amount, 3) for name, amount in shortage.instead},
            }
            for shortage in short
        ],
        "hours": {
            "repair": round(both.repair.hours, 2),
            "new_loom": round(both.new_loom.hours, 2),
        },
        "costs": {
            "currency": job.settings.currency,
            "repair": round(both.repair.total, 2),
            "new_loom": round(both.new_loom.total, 2),
            "unpriced": sorted({*both.repair.unpriced, *both.new_loom.unpriced}),
        },
        "faults": _faults(analysis),
    }
