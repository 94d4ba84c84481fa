"""What the faults of a loom are grouped by: how bad they are, and what is to be done."""

from collections import Counter

from molvik.desktop.widgets.worklist import Work
from molvik.model.loom import Fault
from molvik.survey.decide import decide
from molvik.survey.rules import GRADES, grade_of
from molvik.survey.tree import LoomTree

ALL = "all"
ROLES = {4: "stop", 3: "live_text"}


def in_group(tree: LoomTree, fault: Fault, key: str) -> bool:
    """Return whether a fault is in a group."""
    return key in (ALL, f"grade:{grade_of(tree, fault)}", f"do:{decide(tree, fault).action}")


def groups_of(tree: LoomTree) -> list[Work]:
    """Return the groups of a loom's faults, each with how many it has."""
    faults = tree.loom.faults
    grades = Counter(grade_of(tree, fault) for fault in faults)
    actions = Counter(decide(tree, fault).action for fault in faults)
    found = [
        Work("#faults", "FAULTS", heading=True),
        Work(ALL, "All", str(len(faults))),
        *(
            Work(
                f"grade:{grade}",
                GRADES[grade].capitalize(),
                str(grades[grade]),
                ROLES.get(grade, "faint"),
            )
            for grade in sorted(grades, reverse=True)
        ),
    ]
    if actions:
        found.append(Work("#do", "WHAT TO DO", heading=True))
        found += [
            Work(f"do:{action}", action.capitalize(), str(count))
            for action, count in actions.most_common()
        ]
    return found
