"""How a fault is judged: few rules, written once, tried from the top.

All of them are common practice among those who restore looms, with no source. The grade decides
what may be left; what a fault sits on decides what is done: a wire of a supply, of an earth, of a
sensor, a stretch or a plug in which several lie. The user may overrule any.
"""

from collections.abc import Callable
from typing import NamedTuple

from molvik.model.loom import Action, Fault, FoundWire, Node
from molvik.model.loom_edits import find
from molvik.survey.spread import HEAT, stretches_of
from molvik.survey.tree import LoomTree
from molvik.wording import some

GRADES = ("as new", "used", "worn", "bad", "dangerous")
"""A plain word for each grade, 0 to 4."""

AS_NEW, NOT_LEFT, DANGEROUS = 0, 3, 4
"""What is graded so needs nothing; from the next on no proposal leaves it; the last may burn or
stop the vehicle."""

BY_GRADE = (
    "bad terminal",
    "cracked housing",
    "missing seal",
    "sleeve gone",
    "green copper",
    "tarnished",
    "stretched",
    "cracked",
    "overspray",
)
"""Kinds that are as bad as they were graded; a cut is a cut, whatever its grade."""

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


def wire_of(tree: LoomTree, fault: Fault) -> FoundWire | None:
    """Return the wire that a fault is on, None for one on a stretch or a node."""
    on = find(tree.loom, fault.on)
    return on if isinstance(on, FoundWire) else None


def family(tree: LoomTree, name: str) -> tuple[str, ...]:
    """Return the wires of an insulation family."""
    wanted = name.strip().lower()
    return tuple(w.code for w in tree.loom.wires if w.family.strip().lower() == wanted)


def grade_of(tree: LoomTree, fault: Fault) -> int:
    """Return how bad a fault is: as it was graded, but dangerous at least where a feed that nothing
    protects has burnt or is bare. What burnt it can come back, and nothing will stop it.
    """
    wire = wire_of(tree, fault)
    bare = (*HEAT, "chafed through")
    if fault.kind in bare and wire is not None and _may_feed(wire) and wire.fused is False:
        return DANGEROUS
    return fault.grade


def _may_feed(wire: FoundWire) -> bool:
    return wire.role in ("supply", "unknown")


def _is_plug(tree: LoomTree, fault: Fault) -> bool:
    return isinstance(find(tree.loom, fault.on), Node) and tree.is_end(fault.on)


def _lie_there(tree: LoomTree, fault: Fault) -> str:
    """Say which wires lie where a fault is, for one that is on none of them."""
    segments = dict.fromkeys(stretch.segment for stretch in stretches_of(tree, fault))
    there = dict.fromkeys(code for one in segments for code in tree.wires_in.get(one, ()))
    if not there:
        return "say which wires are meant"
    lie = "lies" if len(there) == 1 else "lie"
    return f"say which wires are meant: {some(list(there), most=12)} {lie} there"


def graded_as_new(tree: LoomTree, fault: Fault) -> Decision | None:
    """What is graded as new is not mended, whatever it is called."""
    if fault.grade != AS_NEW or fault.kind not in BY_GRADE:
        return None
    return Decision(
        "leave",
        "grade it, or take the fault out",
        f"It is graded as new, and said to be: {fault.kind}.",
    )


def heat_on_a_wire_of_an_earth(tree: LoomTree, fault: Fault) -> Decision | None:
    """An earth gets hot by what comes back through it; a fuse in it would only hide that."""
    wire = wire_of(tree, fault)
    if wire is None or wire.role != "earth" or fault.kind not in HEAT:
        return None
    return Decision(
        "replace end to end",
        "find the earth that is missing, loose or corroded; look at every neighbour along its "
        "route; never a fuse in an earth",
        "It carried more than its own: what should have come back by another path came through it.",
    )


def heat_on_a_wire_of_a_sensor(tree: LoomTree, fault: Fault) -> Decision | None:
    """What carries next to nothing gets hot from what it touched."""
    wire = wire_of(tree, fault)
    if wire is None or wire.role not in ("sensor", "signal") or fault.kind not in HEAT:
        return None
    return Decision(
        "replace end to end",
        "find what it touched, or what lay against it; look at every neighbour along its route, "
        "and at what it goes to",
        "It carries next to no current of its own: something else fed it, or heated it.",
    )


def heat_on_an_unfused_wire(tree: LoomTree, fault: Fault) -> Decision | None:
    """A wire that got hot with no fuse before it was hot all along its way."""
    wire = wire_of(tree, fault)
    if wire is None or fault.kind not in HEAT or wire.fused:
        return None
    if wire.fused is None:
        return Decision(
            "replace end to end",
            "find out whether a fuse protects it; until that is known open the bundle along its "
            "whole length and look at every neighbour",
            "Whether a fuse protects it is not known: if none does, it was hot all along.",
        )
    return Decision(
        "replace end to end",
        "battery off; open the bundle along its whole length and inspect every neighbour; fit a "
        "fuse",
        f"{wire.code} got hot and has no fuse: nothing stopped the current, so it was hot all "
        "along.",
    )


def heat_behind_a_fuse(tree: LoomTree, fault: Fault) -> Decision | None:
    """Heat behind a fuse is local as a rule: a bad joint; the wire is still replaced."""
    if fault.kind not in HEAT or wire_of(tree, fault) is None:
        return None
    touch = "; measure it against each of them" if fault.kind == "melted together" else ""
    return Decision(
        "replace end to end",
        f"look for the joint that got hot, and at the neighbours along its length{touch}",
        "Insulation that got hot is hard and will crack; the copper is soft where it glowed.",
    )


def heat_where_wires_lie(tree: LoomTree, fault: Fault) -> Decision | None:
    """A plug that got hot is renewed; in a stretch one carried the heat, and the others touched."""
    if fault.kind not in HEAT:
        return None
    if _is_plug(tree, fault):
        return Decision(
            "replace the part",
            f"new housing and terminals; wires cut back to where they are soft; "
            f"{_lie_there(tree, fault)}",
            "A plug gets hot at a terminal that no longer grips, or that carries too much.",
        )
    return Decision(
        "replace end to end",
        f"{_lie_there(tree, fault)}; measure each against its neighbours before power",
        "The one that carried the heat was hot over its whole length, the others where they lay "
        "against it; what melted together is shorted out of sight.",
    )


def crumbling_condemns_the_family(tree: LoomTree, fault: Fault) -> Decision | None:
    """What crumbles in one place crumbles everywhere the same insulation was used."""
    wire = wire_of(tree, fault)
    if wire is None or fault.kind != "crumbling":
        return None
    if not wire.family:
        return Decision(
            "replace end to end",
            "name its insulation family, so that its like are found",
            "Insulation that crumbles in one place crumbles all along.",
        )
    like = len(family(tree, wire.family))
    return Decision(
        "replace the family",
        f"{f'all {like} wires' if like > 1 else 'the only wire'} of “{wire.family}”; look at sound "
        "ones beside",
        "What crumbles in one place crumbles everywhere the same insulation was used; a good thick "
        "wire beside crumbling thin ones can start a fire.",
    )


def crumbling_where_wires_lie(tree: LoomTree, fault: Fault) -> Decision | None:
    """Insulation that crumbles somewhere is that of wires that lie there."""
    if fault.kind != "crumbling":
        return None
    return Decision(
        "replace end to end",
        f"{_lie_there(tree, fault)}; name their insulation family",
        "Insulation that crumbles in one place crumbles all along.",
    )


def a_repair_is_opened(tree: LoomTree, fault: Fault) -> Decision | None:
    """An earlier repair is opened, never trusted."""
    if fault.kind not in ("bad repair", "wrong colour extension"):
        return None
    wire = wire_of(tree, fault)
    sensor = wire is not None and wire.role == "sensor"
    how = "open it, cut back to bright copper, splice in wire of the right colour"
    return Decision(
        "splice in a piece",
        how if wire is not None else f"{how}; {_lie_there(tree, fault)}",
        "A bad joint in a sensor wire makes a wrong reading long before it fails."
        if sensor
        else "An earlier repair is opened, never trusted: what is under the tape is not known.",
    )


def a_bare_feed_is_the_fire(tree: LoomTree, fault: Fault) -> Decision | None:
    """Bare copper of a feed against metal burns, unless a fuse opens."""
    wire = wire_of(tree, fault)
    if fault.kind != "chafed through" or wire is None or not _may_feed(wire) or wire.fused:
        return None
    if wire.fused is None:
        return Decision(
            "splice in a piece",
            "battery off until it is insulated; find out whether a fuse protects it; take away "
            "what it rubbed on, or put a grommet or sleeve there",
            "Whether a fuse protects it is not known: if none does, bare copper against metal is "
            "the fire.",
        )
    return Decision(
        "splice in a piece",
        "battery off until it is repaired; fit a fuse; take away what it rubbed on, or put a "
        "grommet or sleeve there",
        f"{wire.code} is a feed without a fuse, and bare: against metal it is the fire.",
    )


def a_cut_wire_is_joined(tree: LoomTree, fault: Fault) -> Decision | None:
    """A clean cut, or a place worn through, takes a piece."""
    if fault.kind not in ("cut", "chafed through", "stretched"):
        return None
    wire = wire_of(tree, fault)
    if wire is None:
        bare = (
            ""
            if fault.kind == "stretched"
            else " Bare copper of a feed without a fuse is the fire."
        )
        return Decision(
            "splice in a piece",
            f"open it up there; {_lie_there(tree, fault)}",
            f"Which wires it is, and how far each is damaged, is not said."
            f"{'' if fault.kind == 'stretched' else bare}",
        )
    how = "as long as it takes to reach sound insulation on both sides; joints staggered"
    if fault.kind == "cut" and _may_feed(wire) and not wire.fused:
        how = f"battery off: the end that is fed may be live; {how}"
    if fault.kind == "chafed through":
        how += "; take away what it rubbed on, or put a grommet or sleeve there"
    return Decision("splice in a piece", how, "The rest of the wire is sound, as far as was seen.")


def a_bad_joint_matters_on_a_sensor(tree: LoomTree, fault: Fault) -> Decision | None:
    """On a sensor a few ohms are a wrong reading."""
    wire = wire_of(tree, fault)
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
    if fault.grade < NOT_LEFT:
        return Decision("clean", CLEANING, "It is on the surface.")
    which = "" if wire_of(tree, fault) else f"; {_lie_there(tree, fault)}"
    return Decision(
        "re-terminate",
        "cut back to bright copper; if it goes on for a hand's breadth, replace the wire" + which,
        "It creeps on under the insulation and cannot be cleaned there.",
    )


def parts_are_renewed(tree: LoomTree, fault: Fault) -> Decision | None:
    """Terminals, housings and seals are renewed, not mended."""
    at_a_plug = wire_of(tree, fault) is not None or _is_plug(tree, fault)
    where = "" if at_a_plug else "say at which plug it is; "
    if fault.kind == "bad terminal":
        which = "" if wire_of(tree, fault) or not at_a_plug else f"; {_lie_there(tree, fault)}"
        return Decision(
            "re-terminate",
            f"{where}new terminal of the same family{which}",
            "It must click and hold a tug.",
        )
    if fault.kind == "cracked housing":
        return Decision(
            "replace the part",
            f"{where}same kind, the wires moved one to one",
            "A terminal that no longer locks backs out; water gets in.",
        )
    if fault.kind == "missing seal":
        return Decision(
            "replace the part",
            f"{where}a seal for the wire's outside, put on before the terminal; look for green "
            "copper behind it",
            "Water gets in, and the copper goes green.",
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


def what_is_left(tree: LoomTree, fault: Fault) -> Decision | None:
    """Cracks by their grade; paint is only paint."""
    wire = wire_of(tree, fault)
    if fault.kind == "not said" and fault.grade < NOT_LEFT:
        return Decision("leave", "say what is wrong", "Nothing can be proposed before it is said.")
    if fault.kind == "cracked" and fault.grade >= NOT_LEFT:
        return Decision(
            "replace end to end",
            "look at every neighbour of the same insulation" if wire else _lie_there(tree, fault),
            "Cracks through the insulation let water in and current out.",
        )
    if fault.kind == "overspray" and fault.grade <= 1:
        return Decision("leave", "", "It is only paint; mark the colour beneath on a label.")
    if fault.kind == "overspray":
        return Decision(
            "clean",
            "spirit and a soft cloth; solvents with gloves and air",
            "Under it neither the colour nor cracks can be seen.",
        )
    if fault.grade >= NOT_LEFT:
        return Decision(
            "replace the part" if wire is None else "replace end to end",
            "open it up first, and see what else it has reached"
            if fault.kind != "not said"
            else "say what is wrong, so that more can be proposed",
            f"It is {GRADES[fault.grade]}: that is not left.",
        )
    return Decision("leave", "look again when the loom is next opened", "It is slight.")


RULES: tuple[Rule, ...] = (
    graded_as_new,
    heat_on_a_wire_of_an_earth,
    heat_on_a_wire_of_a_sensor,
    heat_on_an_unfused_wire,
    heat_behind_a_fuse,
    heat_where_wires_lie,
    crumbling_condemns_the_family,
    crumbling_where_wires_lie,
    a_bad_joint_matters_on_a_sensor,
    a_repair_is_opened,
    a_bare_feed_is_the_fire,
    a_cut_wire_is_joined,
    green_copper,
    parts_are_renewed,
    coverings,
    what_is_left,
)
