"""Pinouts: what is in every cavity."""

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Action, Card, Entry
from molvik.model.refs import Ref


def _shows(analysis: Analysis, ref: Ref) -> bool:
    return analysis.job.connector(ref.code) is not None


def _is_cavity(analysis: Analysis, ref: Ref) -> bool:
    return bool(ref.cavity) and _shows(analysis, ref)


ENTRY = Entry(
    "molvik.desktop.stages.pinouts.page:PinoutsPage",
    _shows,
    (
        Action("Job", "&Import a pinout table…", "Ctrl+I", "ask_for_table"),
        Action("Job", "Import a &copied table…", "Ctrl+Shift+V", "paste_table"),
    ),
    "On a connector: arrows move, Enter chooses, F turns it over.",
    cards=(
        Card(_is_cavity, "molvik.desktop.stages.pinouts.cards:CavityCard"),
        Card(_shows, "molvik.desktop.stages.pinouts.cards:ConnectorCard"),
    ),
)
