"""Rules about the loom as found."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.findings.finding import Figure, Finding
from molvik.findings.kinds import Severity
from molvik.model.job import Acceptance
from molvik.model.loom import FoundWire
from molvik.model.loom_edits import find
from molvik.survey.decide import decide, left_all_the_same, wants_a_reason, whole_loom
from molvik.survey.rules import DANGEROUS, GRADES, NOT_LEFT, grade_of
from molvik.survey.spread import spread
from molvik.wording import counted

WHY_LEFT = " It was decided to leave it, and no reason is given: type one, or do it."


def fault_found(analysis: Analysis) -> Iterator[Finding]:
    """A fault that is not to be left, as bad as its grade."""
    tree = analysis.loom
    for fault in tree.loom.faults:
        decision = decide(tree, fault)
        grade = grade_of(tree, fault)
        if decision.action == "leave" and grade < NOT_LEFT:
            continue
        severity: Severity = "stop" if grade == DANGEROUS else "look" if grade == 3 else "note"
        on = find(tree.loom, fault.on)
        name = on.function if isinstance(on, FoundWire) else getattr(on, "name", "")
        reach = spread(tree, fault)
        beside = (
            f" {counted(len(reach.inspect), 'wire')} beside it to inspect." if reach.inspect else ""
        )
        yield Finding(
            "fault-found",
            severity,
            fault.code,
            f"{fault.on} {name}: {fault.kind}, {GRADES[grade]}.",
            decision.reason,
            f"{decision.action.capitalize()}: {decision.how or 'as usual'}.{beside}"
            f"{WHY_LEFT if wants_a_reason(tree, fault) else ''}",
            (Figure("its grade", grade), Figure("wires to inspect", len(reach.inspect))),
        )


def odd_tree(analysis: Analysis) -> Iterator[Finding]:
    """What is odd about the tree is worth a note."""
    for number, problem in enumerate(analysis.loom.problems):
        yield Finding(
            "odd-tree",
            "note",
            f"loom {number + 1}",
            problem,
            "Lengths and what lies beside what are computed from the tree.",
            "Measure again, or leave it if the loom really is so.",
        )


def loom_not_worth_it(analysis: Analysis) -> Iterator[Finding]:
    """Where half the wires go, a new loom may be less work."""
    words = whole_loom(analysis.loom)
    if words:
        yield Finding(
            "loom-not-worth-it",
            "look",
            "loom",
            words,
            "Every wire pulled and put back costs more than laying a new one.",
            "Compare the hours of both before the first wire is cut.",
        )


def decided(analysis: Analysis) -> tuple[Acceptance, ...]:
    """Return the faults that are left for a reason though they are bad: they count as accepted, and
    stay in view.
    """
    by = analysis.job.settings.measured_by
    return tuple(
        Acceptance(f"fault-found {fault.code}", fault.reason, fault.decided_at, by)
        for fault in left_all_the_same(analysis.loom)
    )
