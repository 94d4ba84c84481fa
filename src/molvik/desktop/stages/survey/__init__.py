"""Survey: the loom as found."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Card, Entry
from molvik.model.loom import Fault, FoundWire, Node, Segment
from molvik.model.loom_edits import Found, find
from molvik.model.refs import Ref


def _shows(analysis: Analysis, ref: Ref) -> bool:
    return find(analysis.job.loom, ref.code) is not None


def _is(kind: type[Found]) -> Callable[[Analysis, Ref], bool]:
    """Return what tells a kind of thing of the loom."""

    def holds(analysis: Analysis, ref: Ref) -> bool:
        # In files from before, a wire and a stretch may share a code: the wire is meant.
        if ref.code in analysis.network.wires:
            return False
        return isinstance(find(analysis.job.loom, ref.code), kind)

    return holds


ENTRY = Entry(
    "molvik.desktop.stages.survey.page:SurveyPage",
    _shows,
    cards=(
        Card(_is(Node), "molvik.desktop.stages.survey.cards:NodeCard"),
        Card(_is(Segment), "molvik.desktop.stages.survey.cards:StretchCard"),
        Card(_is(FoundWire), "molvik.desktop.stages.survey.cards:FoundWireCard"),
        Card(_is(Fault), "molvik.desktop.stages.survey.cards:FaultCard"),
    ),
    facts="molvik.desktop.stages.survey.found:facts_of",
    facts_at=40,
)
