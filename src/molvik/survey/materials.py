"""What a repair takes, what a whole new loom would take, and what of it is on the shelf."""

import re
from collections.abc import Iterable
from typing import NamedTuple

from molvik.electrical.conductor import area_mm2
from molvik.model.loom import FoundWire, Segment
from molvik.model.parts import WireSize
from molvik.model.stock import StockItem, StockKind, unit_of
from molvik.reference.coverings import find_covering, may_serve
from molvik.reference.coversizes import amount_m
from molvik.reference.insulation import UNKNOWN, insulation
from molvik.survey.decide import condemned, decide
from molvik.survey.spread import spread
from molvik.survey.tree import LoomTree

SPARE_M = 0.3
"""Left long at each end that is not certain, m (common practice: a wire can be shortened once)."""

PIECE_M = 0.3
"""Length of a spliced-in piece, m (our choice: from sound insulation to sound insulation)."""

SAME_COPPER = 0.99
"""Sections this near count as the same: sizes of two systems never meet exactly."""

SLACK_SLEEVE = 2.0
"""A sleeve up to this many times as wide as the bundle still holds it (our choice)."""


class Need(NamedTuple):
    """Something a piece of work takes. amount: m or pieces. size: of wire; bore_mm: the least bore
    of a sleeve, mm; name: of a part, which a thing in stock has to have the words of.
    """

    kind: StockKind
    amount: float
    size: WireSize | None = None
    bore_mm: float | None = None
    name: str = ""

    @property
    def unit(self) -> str:
        """m or pieces."""
        return unit_of(self.kind)

    @property
    def what(self) -> str:
        """What it is, in words."""
        if self.kind == "wire":
            return f"wire, {self.size or 'size not known'}"
        if self.kind == "sleeve" and self.bore_mm:
            return f"sleeve over {self.bore_mm:g} mm"
        return self.name or self.kind

    def met_by(self, item: StockItem) -> bool:
        """Return whether a thing in stock is what is needed."""
        if item.kind != self.kind:
            return False
        if self.name:
            return _words(self.name) <= _words(item.name)
        if self.kind == "wire":
            return self.size is not None and has_the_copper(item, self.size)
        if self.kind == "sleeve" and self.bore_mm and item.bore_mm:
            return self.bore_mm <= item.bore_mm <= SLACK_SLEEVE * self.bore_mm
        return self.kind != "tape" or may_serve(item, "tape")


def _words(name: str) -> set[str]:
    return set(re.findall(r"[\w.+-]+", name.lower()))


def has_the_copper(item: StockItem, size: WireSize) -> bool:
    """Return whether a wire has the copper, and an insulation no worse than old wire had."""
    if item.size is None or area_mm2(item.size) < SAME_COPPER * area_mm2(size):
        return False
    return insulation(item.insulation).limit_c >= UNKNOWN.limit_c


def length_needed_m(tree: LoomTree, wire: FoundWire) -> float:
    """Return the length to cut, m: along the loom, and some left at each uncertain end."""
    length = tree.length_m(wire.code)
    for code in (wire.start, wire.finish):
        node = tree.nodes.get(code)
        if node is None or node.state != "found" or wire.known == "presumed":
            length += SPARE_M
    return length


def repair_needs(tree: LoomTree) -> tuple[Need, ...]:
    """Return what the decisions take."""
    wires = {wire.code: wire for wire in tree.loom.wires}
    gone = condemned(tree)
    needs = [Need("wire", length_needed_m(tree, wires[code]), wires[code].size) for code in gone]
    needs += pieces(tree)
    needs.append(Need("terminal", 2.0 * len(gone)))
    for fault in tree.loom.faults:
        action = decide(tree, fault).action
        if action == "splice in a piece":
            needs.append(Need("splice", 2))
        elif action == "re-terminate":
            needs.append(Need("terminal", 1))
        elif action == "replace the covering":
            for stretch in spread(tree, fault).stretches:
                segment = tree.segments[stretch.segment]
                needs.append(_cover_over(segment, stretch.length_m))
        if fault.kind == "missing seal":
            needs.append(Need("seal", 1))
    return together(needs)


def pieces(tree: LoomTree) -> list[Need]:
    """Return the wire that is spliced in, into wires that are not replaced altogether."""
    wires, gone = {wire.code: wire for wire in tree.loom.wires}, condemned(tree)
    return [
        Need("wire", PIECE_M, wires[fault.on].size)
        for fault in tree.loom.faults
        if fault.on in wires and fault.on not in gone
        if decide(tree, fault).action == "splice in a piece"
    ]


def new_loom_needs(tree: LoomTree) -> tuple[Need, ...]:
    """Return what a whole new loom takes."""
    needs = [
        Need("wire", length_needed_m(tree, wire), wire.size)
        for wire in tree.loom.wires
        if wire.finish  # what a cut-off wire was for is not known
    ]
    needs.append(Need("terminal", 2.0 * len(needs)))
    for segment in tree.loom.segments:
        if segment.covering:
            needs.append(_cover_over(segment, segment.length_m or 0.0))
    return together(needs)


def _cover_over(segment: Segment, length_m: float) -> Need:
    """Return the covering that some of a stretch takes: of its kind, of tape by its turns."""
    covering = find_covering(segment.covering)
    thick = segment.diameter_mm
    if covering is None or covering.stock != "tape":
        return Need("sleeve", length_m, None, thick)
    return Need("tape", amount_m(covering.key, thick, length_m) if thick else length_m)


def together(needs: Iterable[Need]) -> tuple[Need, ...]:
    """Return needs with those of one kind, size and bore added up; nothing of no amount."""
    total: dict[tuple[StockKind, WireSize | None, float | None, str], float] = {}
    for need in needs:
        key = (need.kind, need.size, need.bore_mm, need.name)
        total[key] = total.get(key, 0.0) + need.amount
    return tuple(
        Need(kind, amount, size, bore, name)
        for (kind, size, bore, name), amount in total.items()
        if amount > 0
    )


class Bought(NamedTuple):
    """A need with its price. item: what it is made from, None when nothing in stock is it."""

    need: Need
    item: StockItem | None

    @property
    def price(self) -> float | None:
        """What it costs, None when no price is known."""
        return self.need.amount * self.item.price if self.item and self.item.price else None


def priced(needs: Iterable[Need], stock: tuple[StockItem, ...]) -> tuple[Bought, ...]:
    """Return the needs at the cheapest price in stock of what meets them, there is enough or not:
    what is short is bought at the same price.
    """
    found: list[Bought] = []
    for need in needs:
        fits = [item for item in stock if need.met_by(item)]
        found.append(Bought(need, min(fits, key=_cheapest, default=None)))
    return tuple(found)


def _cheapest(item: StockItem) -> tuple[bool, float]:
    return not item.price, item.price
