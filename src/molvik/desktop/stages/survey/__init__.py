"""Survey: the loom as found."""

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Card, Entry
from molvik.model.loom_edits import find
from molvik.model.refs import Ref


def _shows(analysis: Analysis, ref: Ref) -> bool:
    return find(analysis.job.loom, ref.code) is not None


ENTRY = Entry("molvik.desktop.stages.survey.page:SurveyPage", _shows,
              cards=(Card(_shows, "molvik.desktop.stages.survey.found:FoundCard"),))  # fmt: skip
