"""All stages as the window has them: their pages, what they show, their actions and keys."""

from importlib import import_module

from molvik.analysis import Analysis
from molvik.desktop.stages.entry import Card, Entry
from molvik.model.refs import Ref
from molvik.stages import STAGES


def _entry_of(key: str) -> Entry:
    entry: Entry = import_module(f"molvik.desktop.stages.{key}").ENTRY
    return entry


ENTRIES = {stage.key: _entry_of(stage.key) for stage in STAGES}
"""By the stage's key, in the order of the work."""


def where(analysis: Analysis, subject: str, here: str) -> str:
    """Return the stage where a subject can be seen: the one in view, or the first that shows it;
    empty when none does.
    """
    ref = Ref.parse(subject)
    order = (here, *(key for key in ENTRIES if key != here))
    return next((key for key in order if ENTRIES[key].shows(analysis, ref)), "")


def card_of(analysis: Analysis, ref: Ref) -> Card | None:
    """Return the card for a thing in hand; None for nothing, and for what the job has no more."""
    cards = (card for entry in ENTRIES.values() for card in entry.cards)
    return next((card for card in cards if card.holds(analysis, ref)), None)


def page_keys() -> str:
    """Return the keys that hold on the stages' own pages, as lines of text."""
    return "\n".join(entry.keys for entry in ENTRIES.values() if entry.keys)
