"""Sizes: whether every wire and fuse is right."""

from molvik.desktop.stages.entry import Entry, shows_wire

ENTRY = Entry(
    "molvik.desktop.stages.sizes.page:SizesPage",
    shows_wire,
    facts="molvik.desktop.stages.sizes.facts:facts_of",
    facts_at=10,
)
