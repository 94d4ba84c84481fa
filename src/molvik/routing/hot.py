"""How hot it is for a loom beside a hot surface: the air that would make it as hot.

Radiation between grey surfaces (Stefan and Boltzmann). The hot surface is taken as a strip that
goes on along the loom; what a long cylinder sees of a strip beside it is the angle it subtends over
the whole round, exact in two dimensions. What the loom takes up it gives to the air as a cylinder
does, by the same model as its own heat. Hot air that rises from the surface is not counted: a place
says what air there is. Emissivities are common values, from memory.
"""

import math
from functools import lru_cache

from molvik.electrical.heat import HOTTEST_C, surface_loss_w_per_m
from molvik.electrical.root import root

STEFAN_BOLTZMANN = 5.670e-8
"""W/(m2 K4)."""

LOOM_EMISSIVITY, SURFACE_EMISSIVITY, SHIELD_EMISSIVITY = 0.9, 0.8, 0.1
"""Tape and plastics; oxidised steel or cast iron; bright aluminium or foil."""

STRIP_M = 0.1
"""How wide a hot surface is taken to be, m: a manifold or a pipe with its flanges (our choice)."""

NEAREST_MM = 5.0
"""Nearer than this, and where no distance is known, a surface is taken to be this near, mm."""


def seen_share(distance_mm: float) -> float:
    """Return which share of all it sees a loom sees of a hot surface at a distance."""
    return math.atan(STRIP_M / (2 * max(NEAREST_MM, distance_mm) / 1000)) / math.pi


def taken_w_per_m2(hot_c: float, loom_c: float, distance_mm: float, *, shielded: bool) -> float:
    """Return what each square metre of a loom takes up from a hot surface, W/m2, net."""
    emitted = STEFAN_BOLTZMANN * ((hot_c + 273.15) ** 4 - (loom_c + 273.15) ** 4)
    net = LOOM_EMISSIVITY * SURFACE_EMISSIVITY * seen_share(distance_mm) * emitted
    return net * SHIELD_EMISSIVITY if shielded else net


@lru_cache(maxsize=4096)
def as_hot_as_c(
    air_c: float, hot_c: float, distance_mm: float, across_mm: float, *, shielded: bool
) -> float:
    """Return the air, deg C, in which a loom would be as hot as it gets beside a hot surface.

    across_mm: how thick the loom is. Never less than the air.
    """
    if hot_c <= air_c or across_mm <= 0:
        return air_c
    across_m = across_mm / 1000

    def surplus(loom_c: float) -> float:
        taken = taken_w_per_m2(hot_c, loom_c, distance_mm, shielded=shielded)
        return surface_loss_w_per_m(across_m, loom_c, air_c) - taken * math.pi * across_m

    most = min(HOTTEST_C, hot_c)
    if surplus(most) <= 0:
        return most
    return float(root(surplus, air_c, most, close=1e-3))


def safe_distance_mm(
    air_c: float, hot_c: float, limit_c: float, across_mm: float, *, shielded: bool
) -> float | None:
    """Return the nearest distance, mm, at which a loom stays at or below a limit, deg C; None where
    even a metre is too near.
    """

    def over(distance_mm: float) -> float:
        found = as_hot_as_c(air_c, hot_c, distance_mm, across_mm, shielded=shielded)
        return found - limit_c

    if over(1000.0) > 0:
        return None
    if over(NEAREST_MM) <= 0:
        return NEAREST_MM
    return float(root(over, NEAREST_MM, 1000.0, close=0.1))
