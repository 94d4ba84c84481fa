"""Circuits in hand: a wire with its story and its fields, and the parts wires go to."""

from collections.abc import Callable
from functools import partial

from molvik.analysis import Analysis
from molvik.desktop.card import HandCard, Shown
from molvik.desktop.facts import Facts, wires_at
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import known_now
from molvik.desktop.store import Store
from molvik.desktop.typed import WIRE_FIELDS, WireField, edit_wire
from molvik.desktop.widgets.fieldrows import FieldRows
from molvik.desktop.widgets.fold import Fold
from molvik.desktop.widgets.small import CheckedField
from molvik.desktop.widgets.story import StoryView
from molvik.model.parts import Device, EarthPoint, End, Fuse, Part, Splice, Wire
from molvik.model.refs import Ref
from molvik.netlist.passing import terminals_named
from molvik.reference.colours import colour_name
from molvik.reference.fuses import BODY_COLOURS
from molvik.sizes.drop import drop_v

FIRST = ("From", "To", "Function", "Colour", "Size", "Insulation", "Length", "Current")
"""The fields that are always in view; the others are folded away."""

FROM = {"measured": "measured on the loom as found", "routed": "along its way"}
"""Where a length is from, when nobody typed it."""


class WireCard(HandCard):
    """A wire: its story, then each of its fields to type into."""

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.story = StoryView()
        self.story.chosen.connect(self.hand.pick)
        self.above = self.story
        self.fields: dict[str, CheckedField] = {}
        self._code = ""
        for field in WIRE_FIELDS:
            entry = CheckedField(field.name, field.tip, partial(self._take, field))
            if field.choices:
                entry.offer(field.choices)
            entry.refused.connect(self.say)
            entry.taken.connect(partial(self.say, ""))
            self.fields[field.name] = entry
        self.first = FieldRows([self.fields[name] for name in FIRST])
        self.more = FieldRows([self.fields[name] for name in self.fields if name not in FIRST])
        self.rows, self.rest = self.first, Fold("Place, duty, circuit, note", self.more)
        self.first.over.connect(self.rest.unfold)

    def begin(self) -> bool:
        """Put the cursor into the first field."""
        self.first.begin()
        return True

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a wire."""
        wire = analysis.network.wires[ref.code]
        stops = analysis.story(wire.code)
        wires = analysis.network.wires
        legs = {stop.wire: _leg(analysis, wires[stop.wire]) for stop in stops if stop.wire}
        self.story.show_story(stops, legs, wire.code)
        if wire.code != self._code:
            for entry in self.fields.values():
                entry.finish()  # what was typed belongs to the wire it was typed for
            self._code = wire.code
        for field in WIRE_FIELDS:
            self.fields[field.name].show_value(field.show(wire))
        tint = wire.colour
        named = colour_name(tint.base, tint.tracer) if tint else "colour not known"
        under = f"{wire.code} · {named}"
        title = wire.function or f"Wire {wire.code}"
        facts: Facts = []
        if wire.length_from != "typed" and wire.length_m is not None:
            facts = [("Length is", FROM[wire.length_from], "")]
        return Shown(title, under, facts, tint, has_colour=True, removable=True)

    def _take(self, field: WireField, text: str) -> None:
        edit_wire(self.store, self._code, field, text)


class PartCard(HandCard):
    """A fuse, a splice, an earth point or a device."""

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a part with its wires."""
        part = analysis.network.parts[ref.code]
        facts: Facts = []
        mine: set[End] = set()
        if isinstance(part, Device):
            facts.append(("Terminals", ", ".join(terminals_named(part)), ""))
            if part.plug:
                facts.append(("Plug", part.plug, ""))
                mine = {End(part.plug, name) for name in terminals_named(part)}
        facts += wires_at(analysis, part.code, mine)
        under = f"{part.code} · {_kind(part, analysis.job.settings.earth_word)}"
        return Shown(part.name or part.code, under, facts, removable=True, changeable=True)


def _kind(part: Part, earth_word: str) -> str:
    """Return what a part is, in words."""
    match part:
        case Fuse():
            tint = BODY_COLOURS.get(part.rating_a) if part.kind == "blade" else None
            return f"{part.rating_a:g} A {part.kind} fuse" + (f", {tint} body" if tint else "")
        case Splice():
            return f"{part.joint} splice"
        case EarthPoint():
            return f"{earth_word} point"
        case Device():
            return part.kind
    return "connector"


def _leg(analysis: Analysis, wire: Wire) -> str:
    """Return what to say of a wire between two stops: its code, length and drop."""
    words = [wire.code]
    if wire.length_m is not None:
        words.append(f"{wire.length_m:.2f} m")
    known = wire.size is not None and known_now(analysis)
    lost = drop_v(wire.size, analysis.sizing_cases[wire.code]) if known and wire.size else None
    if lost is not None:
        words.append(f"drop {lost * 1000:.0f} mV")
    return " · ".join(words)
