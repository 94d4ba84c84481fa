"""Terminals: what they carry and which wires they take.

Currents are common practice for sealed rectangular families. The wire ranges are common practice
as well, from memory, and cover what crimps into that contact in most families.
"""

from typing import NamedTuple


class Contact(NamedTuple):
    """A contact size. current_a: what it carries all day, A. Wire range in mm2."""

    size: str
    current_a: float
    least_mm2: float
    most_mm2: float


_SIZES = (
    Contact("20", 7.5, 0.3, 1.1),
    Contact("16", 13, 0.5, 2.1),
    Contact("12", 25, 2.0, 4.2),
    Contact("8", 60, 5.2, 10.1),
    Contact("4", 100, 13.2, 25.1),
)

CONTACTS: dict[str, Contact] = {one.size: one for one in _SIZES}

NEW_JOINT_OHM = 0.005
"""A good crimped and mated contact, ohms (common practice: a few milliohms)."""

WORST_JOINT_OHM = 0.02
"""A contact past this deserves to be looked at, ohms (common practice)."""
