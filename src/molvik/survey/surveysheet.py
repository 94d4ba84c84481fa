"""Sheets of the survey: the faults with their decisions, and the wires to be made anew."""

from molvik.model.job import Settings
from molvik.model.loom import Fault
from molvik.model.loom_edits import find
from molvik.model.stock import StockItem, Taken
from molvik.reference.colours import colour_name
from molvik.sheet import Sheet, Table, notes
from molvik.survey.decide import decide
from molvik.survey.repair_method import LIKE, repair_method_text
from molvik.survey.replacement import replacements
from molvik.survey.rules import GRADES, NOT_LEFT, Decision, grade_of
from molvik.survey.spread import spread
from molvik.survey.tree import LoomTree


def fault_sheet(tree: LoomTree, settings: Settings) -> Sheet:
    """Return the faults of the loom as found, the worst first."""
    rows = []
    for fault in sorted(tree.loom.faults, key=lambda fault: -grade_of(tree, fault)):
        decision, reach = decide(tree, fault), spread(tree, fault)
        on = find(tree.loom, fault.on)
        name = getattr(on, "function", "") or getattr(on, "name", "")
        beside = ", ".join(f"{code} {m:.2f} m" for code, m in reach.inspect.items())
        rows.append(
            (
                fault.code,
                fault.on,
                name,
                fault.kind,
                f"{grade_of(tree, fault)} {GRADES[grade_of(tree, fault)]}",
                "" if fault.at_m is None else f"{fault.at_m:g} m",
                decision.action + _whose(tree, fault, decision),
                decision.how,
                decision.reason,
                f"{reach.open_m:.2f} m" if reach.open_m else "",
                beside,
            )
        )
    table = Table(
        ("Fault", "On", "Name", "Kind", "Grade", "At", "Do", "How", "Why", "Open", "Inspect"),
        (4, 4, 10, 8, 7, 5, 9, 16, 16, 5, 16),
        tuple(rows),
    )
    below = notes(
        f"Joints: {repair_method_text(settings)}",
        f"Repairs {settings.standard}: {LIKE[settings.standard]}",
        "Battery off. Solvents and acid with gloves and air; heat guns away from fuel.",
        "Airbag and high-voltage circuits are left to those licensed for them.",
    )
    return Sheet("survey", "Survey of the loom", (table, *below))


def _whose(tree: LoomTree, fault: Fault, decision: Decision) -> str:
    """Say where the user overruled what is proposed, and where that leaves what is bad."""
    if not decision.own:
        return ""
    grade = grade_of(tree, fault)
    left = decision.action == "leave" and grade >= NOT_LEFT
    return f" (own; {GRADES[grade]}, accepted as it is)" if left else " (own)"


def replacement_sheet(
    tree: LoomTree, stock: tuple[StockItem, ...], taken: tuple[Taken, ...] = ()
) -> Sheet:
    """Return the wires to be made anew, each with what it is made from and how it is marked."""
    rows = []
    for replacement in replacements(tree, stock, taken):
        item = replacement.item
        source = ""
        if item is not None:
            tint = colour_name(item.colour.base, item.colour.tracer) if item.colour else ""
            source = f"{item.code} {item.size} {tint} {item.insulation}".strip()
        rows.append(
            (
                replacement.wire,
                replacement.function,
                colour_name(replacement.colour.base, replacement.colour.tracer)
                if replacement.colour
                else "",
                str(replacement.size or ""),
                f"{replacement.length_m:.2f} m",
                source or "none in stock",
                replacement.mark,
                replacement.why,
            )
        )
    table = Table(
        ("Wire", "Function", "Was", "Size", "Cut", "From stock", "Mark", "Why"),
        (4, 14, 12, 6, 6, 16, 18, 18),
        tuple(rows),
    )
    below = notes("Every substitution is listed here, because the next person reads the diagram.")
    return Sheet("replacement-wires", "Replacement wires", (table, *below))
