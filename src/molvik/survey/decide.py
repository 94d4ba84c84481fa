"""What to do about each fault: the user's word, or what the first rule that fits proposes."""

from molvik.model.loom import Fault
from molvik.survey.rules import NOT_LEFT, RULES, Decision, family, grade_of, wire_of
from molvik.survey.tree import LoomTree

CONDEMNED_SHARE = 0.5
"""From this share of wires to be replaced on, a new loom is less work (our choice)."""

FEW_WIRES = 4
"""Fewer wires than this are no loom to be given up as a whole."""


def proposed(tree: LoomTree, fault: Fault) -> Decision:
    """Return what the first rule that fits proposes; the last rule fits always."""
    for rule in RULES:
        decision = rule(tree, fault)
        if decision is not None:
            return decision
    raise AssertionError("the last rule fits always")


def decide(tree: LoomTree, fault: Fault) -> Decision:
    """Return the user's decision, or what is proposed; what is bad is left for a reason only."""
    if fault.decision and not wants_a_reason(tree, fault):
        return Decision(fault.decision, "", fault.reason or "The user's own decision.", True)
    return proposed(tree, fault)


def wants_a_reason(tree: LoomTree, fault: Fault) -> bool:
    """Return whether a bad or dangerous fault was decided to be left, and why is not said."""
    left = fault.decision == "leave" and not fault.reason.strip()
    return left and grade_of(tree, fault) >= NOT_LEFT


def left_all_the_same(tree: LoomTree) -> tuple[Fault, ...]:
    """Return the bad and dangerous faults that the user leaves, for a reason."""
    return tuple(
        fault
        for fault in tree.loom.faults
        if fault.decision == "leave" and fault.reason.strip() and grade_of(tree, fault) >= NOT_LEFT
    )


def condemned(tree: LoomTree) -> tuple[str, ...]:
    """Return the wires that the decisions replace end to end."""
    gone: dict[str, None] = {}
    for fault in tree.loom.faults:
        action = decide(tree, fault).action
        wire = wire_of(tree, fault)
        if wire is None:
            continue
        if action == "replace end to end":
            gone[wire.code] = None
        elif action == "replace the family":
            gone.update(dict.fromkeys(family(tree, wire.family) or (wire.code,)))
    return tuple(gone)


def whole_loom(tree: LoomTree) -> str:
    """Say when so much is to be replaced that a new loom is less work; empty when not."""
    total = len(tree.loom.wires)
    gone = len(condemned(tree))
    if total < FEW_WIRES or gone / total < CONDEMNED_SHARE:
        return ""
    return f"{gone} of {total} wires are to be replaced: consider replacing the loom."
