"""What to do about each fault: few rules, written once, tried from the top.

All of them are common practice among those who restore looms. The user may overrule any.
"""

from collections.abc import Callable
from typing import NamedTuple

from molvik.model.loom import Action, Fault, FoundWire
from molvik.model.loom_edits import find
from molvik.survey.spread import HEAT, stretches_of
from molvik.survey.tree import LoomTree

GRADES = ("as new", "used", "worn", "bad", "dangerous")
"""A plain word for each grade, 0 to 4."""

NOT_LEFT, DANGEROUS = 3, 4
"""From the one on no proposal leaves it; the other may burn or stop the vehicle."""

CONDEMNED_SHARE = 0.5
"""From this share of wires to be replaced on, a new loom is less work (our choice)."""

FEW_WIRES = 4
"""Fewer wires than this are no loom to be given up as a whole."""

CLEANING = (
    "mild acid, neutralise, rinse, dry, protect; gloves and air, battery off, nothing hot near fuel"
)


class Decision(NamedTuple):
    """What to do, how, and why. own: whether the user overruled the proposal."""

    action: Action
    how: str
    reason: str
    own: bool = False


Rule = Callable[[LoomTree, Fault], Decision | None]


def _wire(tree: LoomTree, fault: Fault) -> FoundWire | None:
    on = find(tree.loom, fault.on)
    return on if isinstance(on, FoundWire) else None


def heat_on_an_unfused_wire(tree: LoomTree, fault: Fault) -> Decision | None:
    """A wire that got hot with no fuse before it was hot all along its way."""
    wire = _wire(tree, fault)
    if wire is None or fault.kind not in HEAT or wire.fused:
        return None
    known = "has no fuse" if wire.fused is False else "is not known to have a fuse"
    return Decision(
        "replace end to end",
        "open the bundle along its whole way and inspect every neighbour; fit a fuse",
        f"{wire.code} got hot and {known}: nothing stopped the current, so it was hot all along.",
    )


def heat_behind_a_fuse(tree: LoomTree, fault: Fault) -> Decision | None:
    """Heat behind a fuse is local as a rule: a bad joint; the wire is still replaced."""
    if fault.kind not in HEAT:
        return None
    return Decision(
        "replace end to end",
        "look for the joint that got hot, and at the neighbours along the way",
        "Insulation that got hot is hard and will crack; the copper is soft where it glowed.",
    )


def crumbling_condemns_the_family(tree: LoomTree, fault: Fault) -> Decision | None:
    """What crumbles in one place crumbles everywhere the same insulation was used."""
    wire = _wire(tree, fault)
    if wire is None or fault.kind != "crumbling":
        return None
    if not wire.family:
        return Decision(
            "replace end to end",
            "name its insulation family, so that its like are found",
            "Insulation that crumbles in one place crumbles all along.",
        )
    return Decision(
        "replace the family",
        f"all {len(family(tree, wire.family))} wires of “{wire.family}”; look at sound ones beside",
        "What crumbles in one place crumbles everywhere the same insulation was used; thick "
        "sound wires beside crumbling thin ones are the fire.",
    )


def crumbling_where_wires_lie(tree: LoomTree, fault: Fault) -> Decision | None:
    """Insulation that crumbles somewhere is that of wires that lie there."""
    if fault.kind != "crumbling":
        return None
    segments = dict.fromkeys(stretch.segment for stretch in stretches_of(tree, fault))
    there = dict.fromkeys(code for one in segments for code in tree.wires_in.get(one, ()))
    lie = f" {', '.join(there)} lie there." if there else ""
    return Decision(
        "replace end to end",
        f"find which wires it is of, and name their insulation family.{lie}",
        "Insulation that crumbles in one place crumbles all along.",
    )


def a_repair_is_opened(tree: LoomTree, fault: Fault) -> Decision | None:
    """An earlier repair is opened, never trusted."""
    if fault.kind not in ("bad repair", "wrong colour extension"):
        return None
    wire = _wire(tree, fault)
    sensor = wire is not None and wire.role == "sensor"
    return Decision(
        "splice in a piece",
        "open it, cut back to bright copper, splice in wire of the right colour",
        "A bad joint in a sensor wire makes a wrong reading long before it fails."
        if sensor
        else "An earlier repair is opened, never trusted: what is under the tape is not known.",
    )


def a_cut_wire_is_joined(tree: LoomTree, fault: Fault) -> Decision | None:
    """A clean cut, or a place worn through, takes a piece."""
    if fault.kind not in ("cut", "chafed through", "stretched"):
        return None
    return Decision(
        "splice in a piece",
        "as long as it takes to reach sound insulation on both sides; joints staggered",
        "The rest of the wire is sound.",
    )


def a_bad_joint_matters_on_a_sensor(tree: LoomTree, fault: Fault) -> Decision | None:
    """On a sensor a few ohms are a wrong reading."""
    wire = _wire(tree, fault)
    if wire is None or wire.role != "sensor" or fault.kind not in ("tarnished", "green copper"):
        return None
    return Decision(
        "re-terminate",
        "cut back to bright copper, new terminal, check the reading",
        "A bad joint in a sensor wire is a fault even if it works.",
    )


def green_copper(tree: LoomTree, fault: Fault) -> Decision | None:
    """Corrosion is cleaned while it is slight, cut out when it is not."""
    if fault.kind not in ("green copper", "tarnished"):
        return None
    if fault.grade <= 2:
        return Decision("clean", CLEANING, "It is on the surface.")
    return Decision(
        "re-terminate",
        "cut back to bright copper; if it is green for a hand's breadth, replace the wire",
        "Green copper creeps on under the insulation and cannot be cleaned there.",
    )


def parts_are_renewed(tree: LoomTree, fault: Fault) -> Decision | None:
    """Terminals, housings and seals are renewed, not mended."""
    if fault.kind == "bad terminal":
        return Decision(
            "re-terminate", "new terminal of the same family", "It must click and hold a tug."
        )
    if fault.kind in ("cracked housing", "missing seal"):
        return Decision(
            "replace the part",
            "same kind, the wires moved one to one",
            "Water gets in, and the terminal no longer locks.",
        )
    return None


def coverings(tree: LoomTree, fault: Fault) -> Decision | None:
    """A covering that is gone is replaced once what it covered was looked at."""
    if fault.kind != "sleeve gone":
        return None
    return Decision(
        "replace the covering",
        "inspect the wires first; never cover what was not looked at",
        "Bare wires chafe through where the loom was meant to be covered.",
    )


def grade_of(tree: LoomTree, fault: Fault) -> int:
    """Return how bad a fault is: as it was graded, but dangerous at least where a wire that nothing
    protects has burnt. What burnt it can come back, and nothing will stop it.
    """
    wire = _wire(tree, fault)
    unfused = fault.kind in HEAT and wire is not None and wire.fused is False
    return DANGEROUS if unfused else fault.grade


def what_is_left(tree: LoomTree, fault: Fault) -> Decision | None:
    """Cracks by their grade; paint is only paint."""
    if fault.kind == "not said" and fault.grade < NOT_LEFT:
        return Decision("leave", "say what is wrong", "Nothing can be proposed before it is said.")
    if fault.kind == "cracked" and fault.grade >= 3:
        return Decision(
            "replace end to end", "", "Cracks through the insulation let water and current out."
        )
    if fault.kind == "overspray" and fault.grade <= 1:
        return Decision("leave", "", "It is only paint; mark the colour beneath on a label.")
    if fault.kind == "overspray":
        return Decision("clean", "spirit and a soft cloth; solvents with gloves and air", "")
    if fault.grade >= NOT_LEFT:
        wire = _wire(tree, fault)
        return Decision(
            "replace the part" if wire is None else "replace end to end",
            "open it up first, and see what else it has reached" if fault.kind != "not said"
            else "say what is wrong, so that more can be proposed",
            f"It is {GRADES[fault.grade]}: that is not left.",
        )  # fmt: skip
    return Decision("leave", "look again when the loom is next opened", "It is slight.")


RULES: tuple[Rule, ...] = (
    heat_on_an_unfused_wire,
    heat_behind_a_fuse,
    crumbling_condemns_the_family,
    crumbling_where_wires_lie,
    a_bad_joint_matters_on_a_sensor,
    a_repair_is_opened,
    a_cut_wire_is_joined,
    green_copper,
    parts_are_renewed,
    coverings,
    what_is_left,
)


def proposed(tree: LoomTree, fault: Fault) -> Decision:
    """Return what the first rule that fits proposes; the last rule fits always."""
    for rule in RULES:
        decision = rule(tree, fault)
        if decision is not None:
            return decision
    raise AssertionError("the last rule fits always")


def decide(tree: LoomTree, fault: Fault) -> Decision:
    """Return the user's own decision, or the proposed one."""
    if fault.decision:
        return Decision(fault.decision, "", fault.reason or "The user's own decision.", True)
    return proposed(tree, fault)


def family(tree: LoomTree, name: str) -> tuple[str, ...]:
    """Return the wires of an insulation family."""
    wanted = name.strip().lower()
    return tuple(w.code for w in tree.loom.wires if w.family.strip().lower() == wanted)


def condemned(tree: LoomTree) -> tuple[str, ...]:
    """Return the wires that the decisions replace end to end."""
    gone: dict[str, None] = {}
    for fault in tree.loom.faults:
        action = decide(tree, fault).action
        wire = _wire(tree, fault)
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
