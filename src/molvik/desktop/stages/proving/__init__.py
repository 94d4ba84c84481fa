"""Proving: whether it is right, before and after power."""

from molvik.desktop.stages.entry import Entry, shows_wire

ENTRY = Entry(
    "molvik.desktop.stages.proving.page:ProvingPage",
    shows_wire,
    facts="molvik.desktop.stages.proving.facts:facts_of",
    facts_at=20,
)
