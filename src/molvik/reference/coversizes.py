"""Sizes in which coverings are sold, and over how thick a bundle each goes.

Heat-shrink of ratio 2:1: sizes supplied and recovered as in SAE AMS-DTL-23053 (from memory). All
others are generic sizes, common practice, from memory: what a maker says of his own goes into the
stock and comes first.
"""

import math
from typing import NamedTuple

from molvik.reference.coverings import COVERINGS

GOES_ON = 0.9
"""A closed sleeve goes over a bundle up to this share of its bore (our choice)."""

SHRINKS_TIGHT = 0.95
"""Heat-shrink holds what is thicker than its recovered size by this share (our choice)."""

TAPE_MM, TAPE_LAP = 19.0, 0.5
"""Width of loom tape, mm, and how far a turn lies over the one before (common practice)."""

SPOT_MM, SPOT_TURNS = 150.0, 3
"""How far apart spots of tape are, mm, and how many turns each has (common practice)."""


class CoverSize(NamedTuple):
    """A size of a covering: its name, and the thinnest and thickest bundle it goes over, mm."""

    name: str
    least_mm: float
    most_mm: float


_SHRINK_MM = (1.2, 1.6, 2.4, 3.2, 4.8, 6.4, 9.5, 12.7, 19.1, 25.4, 38.1, 50.8, 76.2, 101.6)
_SPLIT_MM = (4.5, 6.5, 8.5, 10.0, 13.0, 17.0, 23.0, 29.0, 37.0, 50.0)
_TUBE_MM = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 14.0, 16.0, 20.0, 25.0, 30.0, 40.0)
_GLASS_MM = (4.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0)
_BRAID_MM = (
    (3, 2, 5),
    (6, 4, 9),
    (8, 5, 12),
    (10, 7, 16),
    (12, 8, 18),
    (15, 10, 22),
    (20, 14, 30),
    (25, 18, 38),
    (32, 22, 45),
    (40, 30, 60),
)
_SPIRAL_MM = ((3, 2, 10), (6, 4, 30), (10, 8, 60), (20, 18, 120))

SIZES: dict[str, tuple[CoverSize, ...]] = {
    "heat-shrink": tuple(
        CoverSize(f"{mm:g}/{mm / 2:.2g}", round(mm / 2, 2) / SHRINKS_TIGHT, mm * GOES_ON)
        for mm in _SHRINK_MM
    ),
    "split tube": tuple(CoverSize(f"{mm:g}", 0.0, mm) for mm in _SPLIT_MM),
    "tube": tuple(CoverSize(f"{mm:g}", 0.0, mm * GOES_ON) for mm in _TUBE_MM),
    "heat sleeve": tuple(CoverSize(f"{mm:g}", 0.0, mm * GOES_ON) for mm in _GLASS_MM),
    "braid": tuple(CoverSize(f"{mm}", least, most) for mm, least, most in _BRAID_MM),
    "spiral": tuple(CoverSize(f"{mm}", least, most) for mm, least, most in _SPIRAL_MM),
}
"""By the keys of ``reference.coverings``, each from the smallest on; tape goes over anything."""


def smallest(covering: str, thick_mm: float) -> CoverSize | None:
    """Return the smallest size that goes over a bundle and holds it; None where none does, and for
    what has no sizes.
    """
    fits = (s for s in SIZES.get(covering, ()) if s.least_mm <= thick_mm <= s.most_mm)
    return next(fits, None)


def amount_m(covering: str, thick_mm: float, length_m: float) -> float:
    """Return how much of a covering a stretch takes, m: of tape by its turns."""
    turn_m = math.pi * thick_mm / 1000
    if covering == "tape":
        return length_m / (TAPE_MM / 1000 * (1 - TAPE_LAP)) * turn_m
    if covering == "spot tape":
        return max(1, math.ceil(length_m / (SPOT_MM / 1000))) * SPOT_TURNS * turn_m
    return length_m * COVERINGS[covering].per_m
