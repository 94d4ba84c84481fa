"""Survey: the loom as found."""

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Card, Entry
from molvik.model.loom_edits import find
from molvik.model.refs import Ref


def _shows(analysis: Analysis, ref: Ref) -> bool:
    return find(analysis.job.loom, ref.code) is not None


def _is_found(analysis: Analysis, ref: Ref) -> bool:
    # In files from before, a wire and a stretch may share a code: the wire is meant.
    return ref.code not in analysis.network.wires and _shows(analysis, ref)


ENTRY = Entry("molvik.desktop.stages.survey.page:SurveyPage", _shows,
              cards=(Card(_is_found, "molvik.desktop.stages.survey.found:FoundCard"),),
              facts="molvik.desktop.stages.survey.found:facts_of", facts_at=40)  # fmt: skip
