"""Proving: what to measure, and what readings mean."""

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from molvik.cli import standins
from molvik.cli.answers import add_job, complain, job_at, print_json
from molvik.files.tables import read_raw_table
from molvik.wording import counted, some

if TYPE_CHECKING:
    from molvik.netlist.network import Network
    from molvik.proving.diagnose import Diagnosis
    from molvik.proving.items import ItemTest
    from molvik.proving.observations import Observation
    from molvik.proving.proofplan import ProofPlan


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    prove = commands.add_parser("prove", help="what to measure, and what readings mean")
    add_job(prove)
    prove.add_argument("--plan", action="store_true", help="the fewest measurements (as without)")
    prove.add_argument("--diagnose", metavar="READINGS", help="a table: red, black, reading, state")
    prove.add_argument("--json", action="store_true", help="print JSON")
    prove.set_defaults(run=_prove)
    standins.add_commands(commands)


def _prove(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.proving.diagnose import Diagnosis

    analysis = Analysis(job_at(parsed.job))
    if parsed.diagnose is None:
        plan = analysis.plan
        if parsed.json:
            print_json(_plan(plan))
        else:
            _print_plan(plan)
        return 0
    network = analysis.network
    try:
        seen = read_readings(Path(parsed.diagnose), network)
    except ValueError as error:
        return complain(str(error))
    found = Diagnosis(network, seen, analysis.simulator)
    if parsed.json:
        print_json(_diagnosis(found))
    else:
        _print_diagnosis(found)
    return 0


def read_readings(path: Path, network: "Network") -> "list[Observation]":
    """Read a table of readings; its first row heads the columns red, black, reading, state. Raises
    ValueError, with the row.
    """
    from molvik.proving.readings import seen_of_table

    try:
        return seen_of_table(read_raw_table(path), network)
    except ValueError as error:
        raise ValueError(f"{path.name}: {error}") from error


def _print_plan(plan: "ProofPlan") -> None:
    from molvik.proving.continuity import proved
    from molvik.proving.touching import isolation_words

    for number, measurement in enumerate(plan.measurements, 1):
        doubt = f"; {measurement.doubt}" if measurement.doubt else ""
        print(
            f"{number}. {measurement.red} to {measurement.black}: "
            f"{measurement.expected_ohm:.2f} ohm, at most "
            f"{measurement.limit_ohm:.2f} ({' '.join(measurement.wires)}{doubt}): "
            f"{plan.judged[measurement.key].outcome}"
        )
    for wires in plan.not_told_apart:
        print(
            f"Beside each other, not told apart: {', '.join(wires)}. Load them, or measure with "
            "four wires."
        )
    if plan.unreached:
        print(f"No probe reaches both ends of {', '.join(plan.unreached)}.")
    print(f"{counted(len(plan.measurements), 'measurement')}, {len(proved(plan))} wires proved.")
    print(isolation_words(plan))
    for number, (left, right, why) in enumerate(_isolation(plan), 1):
        print(f"Short test {number}, {why}: {left} against {right}")


def _isolation(plan: "ProofPlan") -> list[tuple[str, str, str]]:
    """Return the groups that are measured against each other where nothing touches."""
    from molvik.proving.isolation import apart_words, isolation_of

    steps, found = isolation_of(plan.bench), []
    while steps.now is not None:
        one, other, why = steps.now
        found.append((apart_words(plan.bench, one), apart_words(plan.bench, other), why))
        steps.answer(None)
    return found


def _plan(plan: "ProofPlan") -> dict[str, Any]:
    """Return the plan as JSON has it, in ohms on the meter."""
    from molvik.netlist.network import Network
    from molvik.proving.continuity import proved
    from molvik.proving.jointtests import joint_tests
    from molvik.proving.parttests import part_tests
    from molvik.proving.touching import isolation_words, touching

    return {
        "job": plan.job.title,
        "measurements": [
            {
                "red": str(one.red),
                "black": str(one.black),
                "expected_ohm": round(one.expected_ohm, 4),
                "limit_ohm": round(one.limit_ohm, 4),
                "wires": list(one.wires),
                "proves": list(one.proves),
                "doubt": one.doubt,
                "outcome": plan.judged[one.key].outcome,
            }
            for one in plan.measurements
        ],
        "not_told_apart": [list(wires) for wires in plan.not_told_apart],
        "unreached": list(plan.unreached),
        "proved": list(proved(plan)),
        "parts": _items(plan, part_tests(plan.job)),
        "joints": _items(plan, joint_tests(Network(plan.job), plan)),
        "isolated": isolation_words(plan),
        "touching": [
            {"red": str(one.points[0]), "black": str(one.points[1]), "ohm": one.value}
            for one in touching(plan).values()
        ],
        "isolation": [
            {"one": one, "other": other, "why": why} for one, other, why in _isolation(plan)
        ],
    }


def _items(plan: "ProofPlan", tests: "Sequence[ItemTest]") -> list[dict[str, Any]]:
    from molvik.proving.items import item_readings, judge_item

    last, settings = item_readings(plan.job.readings), plan.job.settings
    return [
        {
            "on": test.subject,
            "name": test.name,
            "between": test.between,
            "what": test.what,
            "expect": test.expect,
            "outcome": judge_item(test, last, settings).outcome,
        }
        for test in tests
    ]


def _print_diagnosis(found: "Diagnosis") -> None:
    job = found.network.job
    print(found.verdict)
    for group in found.groups[:8]:
        share = sum(one.share for one in group)
        words = "; or ".join(
            " and ".join(cause.words(job) for cause in one.causes) or "nothing is wrong"
            for one in group[:4]
        )
        print(f"{share * 100:5.1f} %  {words}")
    if found.next is not None:
        print(f"Measure next: {found.where(found.next.point)}")
        for shown, left in found.next.answers[:6]:
            print(f"   {shown}: {_left(found, left)}")


def _left(found: "Diagnosis", left: Any) -> str:
    job = found.network.job
    words = [
        " and ".join(cause.words(job) for cause in causes) or "nothing is wrong" for causes in left
    ]
    return some(words, 3, "; ")


def _diagnosis(found: "Diagnosis") -> dict[str, Any]:
    """Return what readings mean as JSON has it. Shares are 0 to 1."""
    job = found.network.job
    proposal = found.next
    return {
        "job": job.title,
        "verdict": found.verdict,
        "causes": [
            {
                "share": round(sum(one.share for one in group), 4),
                "causes": [
                    {
                        "faults": [str(fault) for fault in one.faults],
                        "words": [cause.words(job) for cause in one.causes],
                        "unexplained": list(one.unexplained),
                    }
                    for one in group
                ],
            }
            for group in found.groups
        ],
        "next": None
        if proposal is None
        else {
            "what": proposal.point.what,
            "red": str(proposal.point.red),
            "black": str(proposal.point.black) if proposal.point.black.at else "",
            "state": proposal.point.state,
            "answers": [
                {"shown": shown, "left": [[c.key for c in some] for some in left]}
                for shown, left in proposal.answers
            ],
        },
    }
