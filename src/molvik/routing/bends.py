"""How tight a loom may be bent: least radius, by how thick it is and how it lies.

4 to 5 times its diameter where it is laid once, 10 times where it is held tight or stiff (SAE
AS50881, from memory).
"""

from molvik.model.routing import Run, Zone
from molvik.reference.coverings import BARE, COVERINGS
from molvik.routing.sections import Section

LAID_ONCE, HELD_TIGHT = 5.0, 10.0


def least_radius_mm(run: Run, zone: Zone, section: Section) -> float:
    """Return the least radius of a bend in a run, mm: as for one that is held tight where its
    covering is stiff, or it moves.
    """
    stiff = COVERINGS.get(run.covering, BARE).stiff or zone.moves
    return section.over_mm * (HELD_TIGHT if stiff else LAID_ONCE)
