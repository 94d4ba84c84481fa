"""Circuits: the wires, and what is alive when."""

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Action, Card, Entry, shows_wire
from molvik.model.parts import Connector
from molvik.model.refs import Ref


def _is_part(analysis: Analysis, ref: Ref) -> bool:
    part = analysis.network.parts.get(ref.code)
    return part is not None and not isinstance(part, Connector)


ENTRY = Entry(
    "molvik.desktop.stages.circuits.page:CircuitsPage",
    shows_wire,
    (
        Action("Edit", "&Run the wire between the chosen cavities", "Ctrl+R", "run_wire"),
    ),
    cards=(
        Card(shows_wire, "molvik.desktop.stages.circuits.cards:WireCard"),
        Card(_is_part, "molvik.desktop.stages.circuits.cards:PartCard"),
    ),
    facts="molvik.desktop.stages.circuits.facts:facts_of", facts_at=30,
)  # fmt: skip
