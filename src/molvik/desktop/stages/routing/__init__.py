"""Routing: the looms to build."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Action, Card, Entry
from molvik.model.refs import Ref
from molvik.model.routing import LoomNode, NewLoom, Run
from molvik.model.routing_edits import Laid, find


def _shows(analysis: Analysis, ref: Ref) -> bool:
    wire = analysis.network.wires.get(ref.code)
    if wire is not None:
        return bool(analysis.job.routing.joints and wire.start.at and wire.finish.at)
    return find(analysis.job.routing, ref.code) is not None


def _is(kind: type[Laid]) -> Callable[[Analysis, Ref], bool]:
    """Return what tells a kind of thing of a loom to build."""
    return lambda analysis, ref: isinstance(find(analysis.job.routing, ref.code), kind)


ENTRY = Entry(
    "molvik.desktop.stages.routing.page:RoutingPage",
    _shows,
    cards=(
        Card(_is(NewLoom), "molvik.desktop.stages.routing.cards:LoomCard"),
        Card(_is(LoomNode), "molvik.desktop.stages.routing.cards:JointCard"),
        Card(_is(Run), "molvik.desktop.stages.routing.cards:RunCard"),
    ),
    actions=(
        Action("Edit", "Draw a stretch from the node in hand…", "Ctrl+Alt+D", "draw_from_hand"),
        Action("Edit", "Lay the splice in hand along a stretch…", "Ctrl+Alt+S", "put_splice"),
    ),
    keys="In Routing: drag a node to turn its branch, a stretch to bend it; with Shift by any "
    "angle.",
    facts="molvik.desktop.stages.routing.facts:facts_of",
    facts_at=45,
)
