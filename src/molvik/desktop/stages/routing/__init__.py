"""Routing: a stage still to be built."""

from molvik.desktop.stages.entry import Entry

ENTRY = Entry(
    will_do="Routing will lay the wires along the vehicle and compute lengths, bundle diameters "
    "and coverings."
)
