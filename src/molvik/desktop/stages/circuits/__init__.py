"""Circuits: the wires, and what is alive when."""

from molvik.desktop.stages.entry import Action, Entry, shows_wire

ENTRY = Entry(
    "molvik.desktop.stages.circuits.page:CircuitsPage",
    shows_wire,
    (
        Action("Edit", "&Run the wire between the chosen cavities", "Ctrl+R", "run_wire",
               "run the wire between the two chosen cavities"),
    ),
)  # fmt: skip
