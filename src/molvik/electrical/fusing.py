"""Does a fuse carry its load, and does it protect the wire behind it?

A first honest version: the fuse's slowest permitted time at each published overload is held
against what the wire withstands there. Inrush and selectivity are not judged yet.
"""

import math
from functools import lru_cache

from molvik.electrical.conductor import area_mm2, resistance_ohm_per_m
from molvik.electrical.heat import current_for_temperature_a
from molvik.electrical.transient import COPPER_J_PER_M_MM2_K
from molvik.model.parts import WireSize
from molvik.reference.fuses import LOAD_FACTOR, PROPOSED, RATINGS_A, TIME_LIMITS
from molvik.reference.insulation import Insulation

OVERLOAD_K = 50.0
"""How far above its class a wire may go for minutes in its life (the thermal overload test of ISO
6722-1: class plus 50 K for 6 h; from memory)."""

ADIABATIC_S = 5.0
"""Up to this time the copper keeps its heat, and I2t = k2 A2 holds (IEC 60364-4-43)."""


@lru_cache(maxsize=4096)
def withstand_a(size: WireSize, kind: Insulation, ambient_c: float, seconds: float) -> float:
    """Return the current, A, a wire already at its class limit withstands for a time, s.

    Seconds: I2t = k2 A2. Longer: the copper, heated from its class limit to ``OVERLOAD_K`` above
    it, loses heat in proportion to its rise over ambient; insulation's own heat is left out and
    the resistance taken hot, both on the safe side.
    """
    if seconds <= ADIABATIC_S:
        return kind.k * area_mm2(size) / math.sqrt(seconds)
    hot_c = kind.limit_c + OVERLOAD_K
    steady = current_for_temperature_a(size, kind, hot_c, ambient_c)
    loss = steady**2 * resistance_ohm_per_m(size, hot_c)
    rise, start = hot_c - ambient_c, max(0.0, kind.limit_c - ambient_c)
    time_constant_s = COPPER_J_PER_M_MM2_K * area_mm2(size) * rise / loss
    left = math.exp(-seconds / time_constant_s)
    return steady * math.sqrt((rise - start * left) / (1 - left) / rise)


@lru_cache(maxsize=4096)
def largest_protecting_a(size: WireSize, kind: Insulation, ambient_c: float, fuse: str) -> float:
    """Return the largest rating, A, of a kind of fuse that protects a wire at every overload.

    The wire must carry the whole rating for ever, and at each published overload withstand it for
    as long as the slowest fuse its standard permits may take.
    """
    allowed = current_for_temperature_a(size, kind, kind.limit_c, ambient_c)
    for limit in TIME_LIMITS[fuse]:
        if limit.most_s is not None:
            withstand = withstand_a(size, kind, ambient_c, limit.most_s)
            allowed = min(allowed, withstand / limit.multiple)
    return allowed


def smallest_carrying_a(load_a: float, fuse: str) -> float | None:
    """Return the smallest standard rating, A, that carries a load for hours, or None."""
    return next((rating for rating in RATINGS_A[fuse] if rating * LOAD_FACTOR >= load_a), None)


def choose_fuse(
    size: WireSize, kind: Insulation, ambient_c: float, load_a: float
) -> tuple[str, float] | None:
    """Return the kind and rating, A, of the smallest fuse that carries and protects, or None."""
    for fuse in PROPOSED:
        rating = smallest_carrying_a(load_a, fuse)
        if rating is not None and rating <= largest_protecting_a(size, kind, ambient_c, fuse):
            return fuse, rating
    return None
