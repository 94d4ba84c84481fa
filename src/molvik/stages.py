"""The stages in the order of the work, each with the question it answers.

A stage is known by its key: its package of the core and its folder of the desktop have that name,
findings and logs keep it.
"""

from typing import NamedTuple


class Stage(NamedTuple):
    """A stage of the work."""

    key: str
    name: str
    question: str


STAGES = (
    Stage("survey", "Survey", "What do I have, and what state is it in?"),
    Stage("pinouts", "Pinouts", "What is in every cavity?"),
    Stage("crossover", "Crossover", "How does the donor's plug become the one I need?"),
    Stage("circuits", "Circuits", "What is alive, when, and why not?"),
    Stage("sizes", "Sizes", "Is every wire and fuse right?"),
    Stage("routing", "Routing", "How long, how thick, past what?"),
    Stage("proving", "Proving", "Is it right, before and after power?"),
    Stage("sheets", "Sheets", "What do I take to the bench and hand over?"),
)

KEYS = tuple(stage.key for stage in STAGES)


def key_of(kept: str) -> str:
    """Return the key of a stage as it was kept: in logs from before, by its name."""
    return kept.lower()


def name_of(kept: str) -> str:
    """Return the name of a stage as it was kept, by its key or, in logs from before, its name."""
    key = key_of(kept)
    return next((stage.name for stage in STAGES if stage.key == key), kept)
