"""Which wire from stock replaces which of the loom, how it is marked, and what is short."""

from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import code_order
from molvik.model.loom import FoundWire
from molvik.model.parts import Colour, WireSize
from molvik.model.stock import BY_THE_METRE, StockItem, StockKind
from molvik.reference.colours import colour_name
from molvik.reference.insulation import UNKNOWN, insulation
from molvik.survey.decide import condemned, decide
from molvik.survey.spread import spread
from molvik.survey.tree import LoomTree

SPARE_M = 0.3
"""Left long at each end that is not certain, m (common practice: a wire can be shortened once)."""

SAME_COPPER = 0.99
"""Sections this near count as the same: sizes of two systems never meet exactly."""

THICKER = 1.25
"""An outside this much larger than the old one may not pass its seal or sleeve (our choice)."""


class Replacement(NamedTuple):
    """A wire to be made anew. item is None when nothing in stock will do.

    mark: how the substitute is marked so that the next person can read the diagram.
    """

    wire: str
    function: str
    colour: Colour | None
    size: WireSize | None
    length_m: float
    item: StockItem | None
    mark: str
    why: str


class Shortage(NamedTuple):
    """What is needed beyond what is there. amount in metres or pieces."""

    kind: StockKind
    what: str
    needed: float
    there: float

    @property
    def short(self) -> float:
        """How much is missing."""
        return max(0.0, self.needed - self.there)

    @property
    def unit(self) -> str:
        """m or pieces."""
        return "m" if self.kind in BY_THE_METRE else "pieces"


def length_needed_m(tree: LoomTree, wire: FoundWire) -> float:
    """Return the length to cut, m: along the loom, and some left at each uncertain end."""
    length = tree.length_m(wire.code)
    for code in (wire.start, wire.finish):
        node = tree.nodes.get(code)
        if node is None or node.state != "found" or wire.known == "presumed":
            length += SPARE_M
    return length


def replacements(tree: LoomTree, stock: tuple[StockItem, ...]) -> tuple[Replacement, ...]:
    """Return a wire from stock for each that is to be replaced; none is given out twice."""
    left = {item.code: item.amount for item in stock}
    wires = {wire.code: wire for wire in tree.loom.wires}
    # Those with their own colour in stock first, so that it is not given to others; then the
    # thickest and longest, which have the fewest to choose from.
    own = {item.colour for item in stock if item.kind == "wire"}
    todo = sorted(
        (wires[code] for code in condemned(tree)),
        key=lambda w: (
            w.colour not in own,
            -(area_mm2(w.size) if w.size else 0.0),
            -tree.length_m(w.code),
        ),
    )
    chosen = [_choose(tree, wire, stock, left) for wire in todo]
    return tuple(sorted(chosen, key=lambda one: code_order(one.wire)))


def _choose(
    tree: LoomTree, wire: FoundWire, stock: tuple[StockItem, ...], left: dict[str, float]
) -> Replacement:
    length = length_needed_m(tree, wire)

    def made(item: StockItem | None, mark: str, why: str) -> Replacement:
        return Replacement(
            wire.code, wire.function, wire.colour, wire.size, length, item, mark, why
        )

    if wire.size is None:
        return made(None, "", "its size is not known: measure it first")
    fits = [item for item in stock if item.kind == "wire" and _will_do(item, wire.size)]
    if not fits:
        return made(None, "", f"no wire in stock has the copper of {wire.size}")
    enough = [item for item in fits if left[item.code] >= length]
    if not enough:
        return made(None, "", f"what would do is shorter than {length:.2f} m")
    best = min(enough, key=lambda item: _preference(item, wire))
    left[best.code] -= length
    mark = _mark(best, wire)
    old = outside_diameter_mm(wire.size, UNKNOWN)
    assert best.size is not None  # it will do, so it has a size
    new = outside_diameter_mm(best.size, insulation(best.insulation))
    why = "not less copper, not a lower class"
    if new > THICKER * old:
        why += f"; {new:.1f} mm over the insulation: check seal and sleeve"
    return made(best, mark, why)


def _will_do(item: StockItem, size: WireSize) -> bool:
    """Return whether an item has the copper, and an insulation no worse than old wire had."""
    if item.size is None or area_mm2(item.size) < SAME_COPPER * area_mm2(size):
        return False
    return insulation(item.insulation).limit_c >= UNKNOWN.limit_c


def _preference(item: StockItem, wire: FoundWire) -> tuple[int, float, float]:
    """Sort key: the right colour first, then the least copper beyond, then the price."""
    assert item.size is not None
    colour = 2
    if item.colour is not None and wire.colour is not None:
        if item.colour == wire.colour:
            colour = 0
        elif item.colour.base == wire.colour.base:
            colour = 1
    return colour, area_mm2(item.size), item.price


def _mark(item: StockItem, wire: FoundWire) -> str:
    if wire.colour is None or item.colour == wire.colour:
        return ""
    wanted = colour_name(wire.colour.base, wire.colour.tracer)
    if item.colour is not None and item.colour.base == wire.colour.base and wire.colour.tracer:
        tracer = colour_name(wire.colour.tracer)
        return f"paint a {tracer} tracer at both ends, or flags"
    return f"sleeve or flag both ends {wanted}, and write it on the diagram"


def shortages(tree: LoomTree, stock: tuple[StockItem, ...]) -> tuple[Shortage, ...]:
    """Return what the decisions need, against what is there, the scarcest first."""
    found: list[Shortage] = []
    missing: dict[tuple[str, str], float] = {}
    for one in replacements(tree, stock):
        if one.item is None:
            colour = colour_name(one.colour.base, one.colour.tracer) if one.colour else "any colour"
            key = (str(one.size or "size not known"), colour)
            missing[key] = missing.get(key, 0.0) + one.length_m
    for (size, colour), metres in missing.items():
        found.append(Shortage("wire", f"{size}, {colour}", metres, 0.0))
    needs: dict[StockKind, float] = {"terminal": 2.0 * len(condemned(tree))}
    covered: dict[str, float] = {}
    for fault in tree.loom.faults:
        action = decide(tree, fault).action
        if action == "splice in a piece":
            needs["splice"] = needs.get("splice", 0.0) + 2
        elif action == "re-terminate":
            needs["terminal"] = needs.get("terminal", 0.0) + 1
        elif action == "replace the covering":
            for stretch in spread(tree, fault).stretches:
                kind = tree.segments[stretch.segment].covering
                covered[kind] = covered.get(kind, 0.0) + stretch.length_m
        if fault.kind == "missing seal":
            needs["seal"] = needs.get("seal", 0.0) + 1
    needs["sleeve"] = sum(covered.values())
    for kind, amount in needs.items():
        there = sum(item.amount for item in stock if item.kind == kind)
        if amount > 0:
            found.append(Shortage(kind, f"all {kind}s together", amount, there))
    return tuple(sorted(found, key=lambda one: (-one.short, one.kind, one.what)))


def cost(tree: LoomTree, stock: tuple[StockItem, ...]) -> dict[str, float]:
    """Return what the wire taken from stock is worth, by currency."""
    total: dict[str, float] = {}
    for one in replacements(tree, stock):
        if one.item is not None and one.item.price:
            currency = one.item.currency
            total[currency] = total.get(currency, 0.0) + one.item.price * one.length_m
    return total
