"""Where the loom as found lies on paper: to scale, nothing over anything else, in all the room."""

import math

from molvik.netlist.placing import Placed, lay
from molvik.survey.tree import LoomTree

ASPECT = 1.7
"""How much wider than high a drawing is, about (our choice)."""

FOLDS = (1.0, 0.82, 1.2)
"""A loom that is too long for the room is folded back to about the width at which twice the folds
make half the width; it is tried a little narrower and wider too.
"""

LONG = 1.3
"""From so many times the room's own shape on a loom is too long for it (our choice)."""

FEW = 8
"""A loom of fewer stretches is easier to read straight on."""

WORTH = 0.85
"""It is folded where it is drawn larger by so much (our choice)."""

LARGE = 150
"""A loom of more ends is folded once at most: it takes a moment."""


def lay_out(tree: LoomTree, aspect: float = ASPECT) -> Placed:
    """Return where each node and stretch lies. A long loom folds back where it is drawn larger so;
    a stretch whose other end is not known is left out.
    """
    joints = [node.code for node in tree.loom.nodes]
    own = set(joints)
    runs = [one for one in tree.loom.segments if one.start in own and one.finish in own]
    best = lay(joints, runs)
    wide = best.size_m[0]
    too_long = wide / max(best.size_m[1] * aspect, 1e-9)
    if too_long < LONG or len(runs) < FEW:
        return best
    least = WORTH * _needs_m(best, aspect)
    for fold in FOLDS if len(joints) <= LARGE else FOLDS[:1]:
        room_wide = fold * wide / math.sqrt(min(too_long, 16.0))
        room = room_wide, room_wide / aspect
        made = lay(joints, runs, (), room)
        if len(made.over) <= len(best.over) and _needs_m(made, aspect) < least:
            best, least = made, _needs_m(made, aspect)
    return best


def _needs_m(placed: Placed, aspect: float) -> float:
    """Return how wide a drawing of a loom is, m: wide enough, and high enough."""
    wide, high = placed.size_m
    return max(wide, high * aspect)
