"""Crossover: the donor's plug becomes the one that is needed."""

from molvik.desktop.stages.entry import Entry

ENTRY = Entry(
    "molvik.desktop.stages.crossover.page:CrossoverPage",
    keys="In Crossover: Ctrl+Return confirms, Alt+Up and Alt+Down move a step; or drag it by its "
    "number.",
)
