"""Circuits: the wires, and what is alive when."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Action, Card, Entry, shows_wire
from molvik.model.parts import Device, EarthPoint, Fuse, Part, Splice
from molvik.model.refs import Ref


def _is(kind: type[Part]) -> Callable[[Analysis, Ref], bool]:
    """Return what tells a kind of part."""
    return lambda analysis, ref: isinstance(analysis.network.parts.get(ref.code), kind)


ENTRY = Entry(
    "molvik.desktop.stages.circuits.page:CircuitsPage",
    shows_wire,
    (Action("Edit", "&Run the wire between the chosen cavities", "Ctrl+R", "run_wire"),),
    cards=(
        Card(shows_wire, "molvik.desktop.stages.circuits.cards:WireCard"),
        Card(_is(Fuse), "molvik.desktop.stages.circuits.cards:FuseCard"),
        Card(_is(Splice), "molvik.desktop.stages.circuits.cards:SpliceCard"),
        Card(_is(EarthPoint), "molvik.desktop.stages.circuits.cards:EarthCard"),
        Card(_is(Device), "molvik.desktop.stages.circuits.cards:DeviceCard"),
    ),
    facts="molvik.desktop.stages.circuits.facts:facts_of",
    facts_at=30,
)
