"""Terminals: what they carry and which wires they take.

Currents are common practice for sealed rectangular families. The ranges of wires and of seals, and
how far apart cavities lie, are common practice as well, from memory, and cover what fits that
contact in most families.
"""

from typing import NamedTuple


class Contact(NamedTuple):
    """A contact size. current_a: what it carries all day, A. Wire range in mm2.

    seal_mm: the thinnest and the thickest insulation its usual seal closes on, mm. pitch_mm: from
    cavity to cavity, mm.
    """

    size: str
    current_a: float
    least_mm2: float
    most_mm2: float
    seal_mm: tuple[float, float]
    pitch_mm: float

    def seal_takes(self, outside_mm: float) -> bool:
        """Return whether the seal closes on a wire of this outside diameter, mm."""
        return self.seal_mm[0] <= outside_mm <= self.seal_mm[1]


_SIZES = (
    Contact("20", 7.5, 0.3, 1.1, (1.2, 2.6), 4.0),
    Contact("16", 13, 0.5, 2.1, (1.7, 3.4), 5.0),
    Contact("12", 25, 2.0, 4.2, (2.8, 4.6), 7.0),
    Contact("8", 60, 5.2, 10.1, (4.4, 6.8), 10.5),
    Contact("4", 100, 13.2, 25.1, (6.8, 10.6), 15.0),
)

CONTACTS: dict[str, Contact] = {contact.size: contact for contact in _SIZES}

NEW_JOINT_OHM = 0.005
"""A good crimped and mated contact, ohms (common practice: a few milliohms)."""

WORST_JOINT_OHM = 0.02
"""A contact past this deserves to be looked at, ohms (common practice)."""
