"""Which wire from stock replaces which of the loom, how it is marked, and what is short."""

import math
from collections.abc import Iterator
from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import code_order
from molvik.model.loom import FoundWire
from molvik.model.parts import Colour, WireSize
from molvik.model.stock import StockItem, StockKind, Taken, unit_of
from molvik.reference.colours import colour_name
from molvik.reference.contacts import CONTACTS, Contact
from molvik.reference.coverings import find_covering
from molvik.reference.insulation import UNKNOWN, insulation
from molvik.survey.decide import condemned
from molvik.survey.materials import (
    SAME_COPPER,
    Bought,
    Need,
    has_the_copper,
    length_needed_m,
    pieces,
    priced,
    repair_needs,
    together,
)
from molvik.survey.tree import LoomTree

THICKER = 1.25
"""Where no contact is known, an outside this much larger may not pass its seal (our choice)."""

COVER_GROWS = 0.03
"""A bundle that grows by more than this under a tube may not go back in (our choice)."""


class Replacement(NamedTuple):
    """A wire to be made anew. item is None when nothing in stock will do.

    mark: how the substitute is marked so that the next person can read the diagram. cut: whether it
    was cut already, from item as it was then.
    """

    wire: str
    function: str
    colour: Colour | None
    size: WireSize | None
    length_m: float
    item: StockItem | None
    mark: str
    why: str
    cut: bool = False


class Shortage(NamedTuple):
    """What is needed, against what is there. amount in metres or pieces; there: of the very thing.

    instead: what is taken of another colour or size, with how much of each, in words. cut: how much
    of it all was cut already. draws: how much of what in stock the rest takes, by codes. anew: of
    whole wires, which are cut one by one.
    """

    kind: StockKind
    what: str
    needed: float
    there: float
    instead: tuple[tuple[str, float], ...] = ()
    cut: float = 0.0
    draws: tuple[tuple[str, float], ...] = ()
    anew: bool = False

    @property
    def short(self) -> float:
        """How much is missing, beyond what is taken instead, in the unit of the thing."""
        left = self.needed - self.there - sum(amount for _, amount in self.instead)
        return left if left > 1e-9 else 0.0

    @property
    def unit(self) -> str:
        """m or pieces."""
        return unit_of(self.kind)


def replacements(
    tree: LoomTree, stock: tuple[StockItem, ...], taken: tuple[Taken, ...] = ()
) -> tuple[Replacement, ...]:
    """Return a wire from stock for each that is to be replaced; none is given out twice. taken:
    what was cut already.
    """
    left = {item.code: item.amount for item in stock}
    cut = {one.on: one.what for one in taken if one.what.kind == "wire" and one.on}
    wires = {wire.code: wire for wire in tree.loom.wires}
    # Those with their own colour in stock first, so that it is not given to others; then the
    # thickest and longest, which have the fewest to choose from.
    own = {item.colour for item in stock if item.kind == "wire"}
    todo = sorted(
        (wires[code] for code in condemned(tree) if code not in cut),
        key=lambda w: (
            w.colour not in own,
            -(area_mm2(w.size) if w.size else 0.0),
            -tree.length_m(w.code),
        ),
    )
    chosen = [_choose(tree, wire, stock, left) for wire in todo]
    chosen += [_was_cut(wires[code], cut[code]) for code in condemned(tree) if code in cut]
    return tuple(sorted(chosen, key=lambda replacement: code_order(replacement.wire)))


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
    fits = [item for item in stock if item.kind == "wire" and has_the_copper(item, wire.size)]
    if not fits:
        return made(None, "", f"no wire in stock has the copper of {wire.size}")
    for node, contact in _sealed_ends(tree, wire):
        fits = [item for item in fits if contact.seal_takes(_outside_mm(item))]
        if not fits:
            least, most = contact.seal_mm
            return made(
                None, "", f"none in stock passes the seal at {node}, {least:g} to {most:g} mm"
            )
    enough = [item for item in fits if left[item.code] >= length]
    if not enough:
        return made(None, "", f"what would do is shorter than {length:.2f} m")
    best = min(enough, key=lambda item: _preference(item, wire))
    left[best.code] -= length
    why = "not less copper, not a lower class"
    new, was = _outside_mm(best), outside_diameter_mm(wire.size, UNKNOWN)
    if any(True for _ in _sealed_ends(tree, wire)):
        why += f"; {new:.1f} mm passes the seals"
    elif new > THICKER * was:
        why += f"; {new:.1f} mm over the insulation: check the seals"
    return made(best, _mark(best, wire), why + _tight_cover(tree, wire, best))


def _was_cut(wire: FoundWire, item: StockItem) -> Replacement:
    mark = _mark(item, wire)
    return Replacement(
        wire.code,
        wire.function,
        wire.colour,
        wire.size,
        item.amount,
        item,
        mark,
        "cut already",
        True,
    )


def _outside_mm(item: StockItem) -> float:
    assert item.size is not None  # it has the copper, so it has a size
    return outside_diameter_mm(item.size, insulation(item.insulation))


def _sealed_ends(tree: LoomTree, wire: FoundWire) -> Iterator[tuple[str, Contact]]:
    """Return the ends of a wire whose contact is known, with it."""
    for code in (wire.start, wire.finish):
        node = tree.nodes.get(code)
        contact = CONTACTS.get(node.contact) if node else None
        if node and contact:
            yield node.code, contact


def _tight_cover(tree: LoomTree, wire: FoundWire, item: StockItem) -> str:
    """Say where a thicker wire makes the bundle too thick for a tube it was drawn into."""
    assert wire.size is not None
    old, new = outside_diameter_mm(wire.size, UNKNOWN), _outside_mm(item)
    for stretch in tree.ways[wire.code]:
        segment = tree.segments[stretch.segment]
        covering = find_covering(segment.covering)
        if not segment.diameter_mm or covering is None or not covering.tight:
            continue
        grown = math.sqrt(max(0.0, segment.diameter_mm**2 + new**2 - old**2))
        if grown > (1 + COVER_GROWS) * segment.diameter_mm:
            return (
                f"; {segment.code} grows from {segment.diameter_mm:g} to {grown:.1f} mm: "
                "its tube may not go back on"
            )
    return ""


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


class _Tally:
    """What comes together for one thing that is needed."""

    def __init__(self, kind: StockKind, needed: float = 0.0, *, anew: bool = False) -> None:
        self.kind, self.needed, self.there, self.cut, self.anew = kind, needed, 0.0, 0.0, anew
        self.instead: dict[str, float] = {}
        self.draws: dict[str, float] = {}

    def take(self, item: StockItem, amount: float, *, is_it: bool, cut: bool = False) -> None:
        """Count an amount of a thing in stock, or of one that was cut from it."""
        if is_it:
            self.there += amount
        else:
            self.instead[_named(item)] = self.instead.get(_named(item), 0.0) + amount
        if cut:
            self.cut += amount
        else:
            self.draws[item.code] = self.draws.get(item.code, 0.0) + amount

    def shortage(self, what: str) -> Shortage:
        return Shortage(
            self.kind,
            what,
            self.needed,
            self.there,
            tuple(self.instead.items()),
            self.cut,
            tuple(self.draws.items()),
            self.anew,
        )


def shortages(
    tree: LoomTree, stock: tuple[StockItem, ...], taken: tuple[Taken, ...] = ()
) -> tuple[Shortage, ...]:
    """Return what the decisions need, against what is there, the scarcest first. taken: what was
    cut for it already.

    Another colour or a thicker wire is never counted as the thing itself: it is told as what is
    taken instead.
    """
    left = {item.code: item.amount for item in stock}
    wires: dict[str, _Tally] = {}
    for replacement in replacements(tree, stock, taken):
        colour = (
            colour_name(replacement.colour.base, replacement.colour.tracer)
            if replacement.colour
            else "any colour"
        )
        what = f"wire, {replacement.size or 'size not known'}, {colour}"
        tally = wires.setdefault(what, _Tally("wire", anew=True))
        tally.needed += replacement.length_m
        if replacement.item is None:
            continue
        if not replacement.cut:
            left[replacement.item.code] -= replacement.length_m
        is_it = _is_it(replacement.item, replacement.size, replacement.colour)
        tally.take(replacement.item, replacement.length_m, is_it=is_it, cut=replacement.cut)
    found = [tally.shortage(what) for what, tally in wires.items()]
    # Wires to be replaced were chosen one by one above; the rest takes what they leave.
    spare = {one.id: one.what.amount for one in taken if not one.on}
    for need in sorted(_rest(tree), key=lambda need: need.bore_mm or 0.0):
        tally = _Tally(need.kind, need.amount)
        wanted = need.amount
        for cut in taken:
            if cut.id in spare and need.met_by(cut.what):
                amount = min(spare[cut.id], wanted)
                spare[cut.id] -= amount
                wanted -= amount
                if amount > 0:
                    is_it = _is_it(cut.what, need.size, None)
                    tally.take(cut.what, amount, is_it=is_it, cut=True)
        fits = [item for item in stock if need.met_by(item)]
        for item in sorted(fits, key=lambda stock_item: not _is_it(stock_item, need.size, None)):
            amount = min(left[item.code], wanted)
            left[item.code] -= amount
            wanted -= amount
            if amount > 0:
                tally.take(item, amount, is_it=_is_it(item, need.size, None))
        found.append(tally.shortage(need.what))
    return tuple(
        sorted(found, key=lambda shortage: (-shortage.short, shortage.kind, shortage.what))
    )


def stock_left(stock: tuple[StockItem, ...], found: tuple[Shortage, ...]) -> dict[str, float]:
    """Return how much of each thing in stock is left after what is drawn from it, by code."""
    left = {item.code: item.amount for item in stock}
    for one in found:
        for code, amount in one.draws:
            left[code] -= amount
    return left


def _rest(tree: LoomTree) -> tuple[Need, ...]:
    """Return what a repair takes beside the wires that are made anew, which are chosen singly."""
    rest = [need for need in repair_needs(tree) if need.kind != "wire"]
    rest += together(need for need in pieces(tree) if need.size is not None)
    return tuple(rest)


def _is_it(item: StockItem, size: WireSize | None, colour: Colour | None) -> bool:
    """Return whether a thing in stock is what is wanted: a wire of its copper and colour."""
    if item.kind != "wire":
        return True
    if size is None or item.size is None or (colour is not None and item.colour != colour):
        return False
    return area_mm2(item.size) <= area_mm2(size) / SAME_COPPER


def _named(item: StockItem) -> str:
    tint = item.colour
    colour = colour_name(tint.base, tint.tracer) if tint else "no colour known"
    return f"{item.code}, {item.size}, {colour}"


def bought_for_repair(
    tree: LoomTree, stock: tuple[StockItem, ...], taken: tuple[Taken, ...] = ()
) -> tuple[Bought, ...]:
    """Return what a repair takes with its prices: each wire made anew at that of the one chosen for
    it; the rest, and what is short, at the cheapest that will do.
    """
    chosen: dict[tuple[str, WireSize | None], tuple[float, StockItem]] = {}
    missing: list[Need] = []
    for replacement in replacements(tree, stock, taken):
        if replacement.item is None:
            missing.append(Need("wire", replacement.length_m, replacement.size))
            continue
        key = replacement.item.code, replacement.size
        metres = chosen[key][0] if key in chosen else 0.0
        chosen[key] = metres + replacement.length_m, replacement.item
    wires = [
        Bought(Need("wire", metres, size), item) for (_, size), (metres, item) in chosen.items()
    ]
    return (*wires, *priced((*together(missing), *_rest(tree)), stock))


def cost(
    tree: LoomTree, stock: tuple[StockItem, ...], taken: tuple[Taken, ...] = ()
) -> dict[str, float]:
    """Return what the wire taken from stock is worth, by currency."""
    total: dict[str, float] = {}
    for replacement in replacements(tree, stock, taken):
        if replacement.item is not None and replacement.item.price:
            currency = replacement.item.currency
            total[currency] = (
                total.get(currency, 0.0) + replacement.item.price * replacement.length_m
            )
    return total
