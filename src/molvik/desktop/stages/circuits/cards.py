"""Circuits in hand: a wire with its story and its fields, and the parts wires go to."""

from collections.abc import Callable
from typing import Any

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import Shown
from molvik.desktop.panel.facts import Facts, wires_at
from molvik.desktop.panel.fieldcard import FieldCard
from molvik.desktop.stages.page import known_now
from molvik.desktop.store import Store
from molvik.desktop.widgets.story import StoryView
from molvik.devices.kind import terminals_named
from molvik.model.parts import Device, EarthPoint, End, Fuse, Part, Splice, Wire
from molvik.model.refs import Ref
from molvik.reference.colours import colour_name
from molvik.reference.fuses import BODY_COLOURS
from molvik.sizes.drop import drop_v
from molvik.typed.field import Field, Typed, named
from molvik.typed.parts import (
    EARTH_FIELDS,
    FUSE_FIELDS,
    SPLICE_FIELDS,
    device_fields,
    fields_of,
    type_part,
)
from molvik.typed.wires import WIRE_FIELDS, type_wire

FIRST = ("From", "To", "Function", "Colour", "Size", "Insulation", "Length", "Current")
"""The fields that are always in view; the others are folded away."""

FROM = {"measured": "measured on the loom as found", "routed": "along its route"}
"""Where a length is from, when nobody typed it."""


class WireCard(FieldCard):
    """A wire: its story, then each of its fields to type into."""

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.story = StoryView()
        self.story.chosen.connect(self.hand.pick)
        self.above = self.story
        first = [named(WIRE_FIELDS, name) for name in FIRST]
        more = [field for field in WIRE_FIELDS if field.name not in FIRST]
        self.lay(first, more, "Place, duty, circuit, note")

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a wire."""
        wire = analysis.network.wires[ref.code]
        stops = analysis.story(wire.code)
        wires = analysis.network.wires
        legs = {stop.wire: _leg(analysis, wires[stop.wire]) for stop in stops if stop.wire}
        self.story.show_story(stops, legs, wire.code)
        self.show_fields(wire, WIRE_FIELDS)
        tint = wire.colour
        named = colour_name(tint.base, tint.tracer) if tint else "colour not known"
        under = f"{wire.code} · {named}"
        title = wire.function or f"Wire {wire.code}"
        facts: Facts = []
        if wire.length_from != "typed" and wire.length_m is not None:
            facts = [("Length is", FROM[wire.length_from], "")]
        return Shown(title, under, facts, tint, has_colour=True, removable=True)

    def typed(self, thing: Wire, field: Field[Wire], text: str) -> Typed:
        """Read what was typed into a field of the wire."""
        return type_wire(self.store.job, self.store.analysis.network, thing.code, field, text)


class PartCard(FieldCard):
    """A part with its wires. every: all the fields that such a part may have."""

    every: tuple[Field[Any], ...] = ()

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.lay(self.every)

    def typed(self, thing: Part, field: Field[Any], text: str) -> Typed:
        """Read what was typed into a field of the part."""
        return type_part(self.store.analysis.network, thing.code, field, text)

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a part with its wires."""
        part = analysis.network.parts[ref.code]
        facts: Facts = []
        mine: set[End] = set()
        if isinstance(part, Device) and part.plug:
            mine = {End(part.plug, name) for name in terminals_named(part)}
        self.show_fields(part, fields_of(part))
        facts += wires_at(analysis, part.code, mine)
        under = f"{part.code} · {_kind(part, analysis.job.settings.earth_word)}"
        return Shown(
            part.name or part.code,
            under,
            facts,
            removable=True,
            changeable=isinstance(part, Device),
        )


class FuseCard(PartCard):
    """A fuse."""

    every = FUSE_FIELDS


class SpliceCard(PartCard):
    """A splice."""

    every = SPLICE_FIELDS


class EarthCard(PartCard):
    """An earth point."""

    every = EARTH_FIELDS


class DeviceCard(PartCard):
    """A device."""

    every = device_fields(Device("", "", "load"), every_kind=True)


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
    lost = (
        drop_v(wire.size, analysis.electrics.sizing_cases[wire.code])
        if known and wire.size
        else None
    )
    if lost is not None:
        words.append(f"drop {lost * 1000:.0f} mV")
    return " · ".join(words)
