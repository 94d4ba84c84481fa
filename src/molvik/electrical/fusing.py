"""Does a fuse carry its load, and does it protect the wire behind it?

The fuse's slowest permitted time at each published overload is held against what the wire
withstands there, along the whole curve; its quickest against the load's inrush.
"""

import itertools
import math
from collections.abc import Sequence
from functools import lru_cache

from molvik.electrical.conductor import (
    area_mm2,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
    strand_diameter_mm,
)
from molvik.electrical.heat import current_for_temperature_a, outside_diameter_mm
from molvik.electrical.root import root
from molvik.electrical.transient import COPPER_J_PER_M_MM2_K, warmed_c
from molvik.model.parts import WireSize
from molvik.reference.fuses import (
    HOT_PER_K,
    LOAD_FACTOR,
    PROPOSED,
    RATINGS_A,
    TIME_LIMITS,
    USUAL_AIR_C,
    curve_of,
)
from molvik.reference.insulation import HEAT_CROSS_LINKED, HEAT_PVC, K_PVC, Insulation

OVERLOAD_K = 50.0
"""How far above its class a wire may go for minutes in its life (the thermal overload test of ISO
6722-1: class plus 50 K for 6 h; from memory)."""

OVERLOAD_S = 6 * 3600.0
CROSS_LINKED_C = 250.0
"""What cross-linked insulation may come to in a short circuit (IEC 60364-4-43)."""

SUSTAINED_K, SUSTAINED_S = 25.0, 240 * 3600.0
"""How far above its class a wire may go for days in its life (the short-term ageing of ISO 6722-1:
class plus 25 K for 240 h; from memory). An overload that a fuse carries for ever is a fault, which
is met long before."""

STEPS = 8
"""Into how many pieces each stretch of a fuse's curve is cut to be held against a wire."""

ADIABATIC_S = 5.0
"""Up to this time the copper keeps its heat, and I2t = k2 A2 holds (IEC 60364-4-43)."""

SOAKED_S = 60.0
"""After this time insulation is warm all through (the thickest wall of a 120 mm2 cable needs 40 s:
IEC 60853-2, a third of its heat times its resistance; from memory)."""


def overload_c(kind: Insulation, seconds: float) -> float:
    """Return how hot a wire may get for a time, s, once in its life, deg C.

    ``OVERLOAD_K`` above its class for 6 h, less for longer, straight over the logarithm of time, to
    ``SUSTAINED_K`` for 240 h and for ever. Cross-linked insulation does not soften but ages: twice
    as fast for each 10 K (a rule of thumb, common practice), so for less time it may get hotter, up
    to what IEC 60364-4-43 allows it for seconds. PVC softens: it gets no more.
    """
    if seconds > OVERLOAD_S:
        longer = math.log(min(seconds, SUSTAINED_S) / OVERLOAD_S)
        share = longer / math.log(SUSTAINED_S / OVERLOAD_S)
        return kind.limit_c + OVERLOAD_K + (SUSTAINED_K - OVERLOAD_K) * share
    least = kind.limit_c + OVERLOAD_K
    if kind.k <= K_PVC:
        return least
    hotter = 10.0 * math.log2(max(1.0, OVERLOAD_S / seconds))
    return max(least, min(CROSS_LINKED_C, least + hotter))


@lru_cache(maxsize=4096)
def withstand_a(size: WireSize, kind: Insulation, ambient_c: float, seconds: float) -> float:
    """Return the current, A, a wire already at its class limit withstands for a time, s, or ever.

    Seconds: I2t = k2 A2. Longer: the copper, heated from its class limit to ``overload_c``, loses
    heat in proportion to its rise over ambient, and some to its insulation; its resistance rises
    with it.
    """
    if seconds <= ADIABATIC_S:
        return kind.k * area_mm2(size) / math.sqrt(seconds)
    hot_c = overload_c(kind, seconds)
    steady = current_for_temperature_a(size, kind, hot_c, ambient_c)
    if math.isinf(seconds):
        return steady
    loss = steady**2 * resistance_ohm_per_m(size, hot_c) / (hot_c - ambient_c)
    takes = COPPER_J_PER_M_MM2_K * area_mm2(size) + _soaks_j_per_m_k(size, kind, seconds)
    start_c = max(kind.limit_c, ambient_c)

    def short_of(amps: float) -> float:
        made = amps**2 * resistance_20_ohm_per_m(size)
        return hot_c - warmed_c(made, loss, takes, seconds, start_c, ambient_c)

    if short_of(steady) < 1e-6:
        return steady  # so long that it stands no more than for ever
    # With all its heat kept it would stand less than this many times what it stands for ever.
    most = steady * (1.0 + math.sqrt(takes / (loss * seconds)))
    while short_of(most) > 0:
        most *= 2.0
    return root(short_of, steady, most, close=1e-9 * steady)


def _soaks_j_per_m_k(size: WireSize, kind: Insulation, seconds: float) -> float:
    """Return the heat that a metre of insulation takes for each kelvin of the copper, J/(m K).

    Van Wormer's share of it (IEC 60853-2) once it is warm all through; none while the copper keeps
    its heat, and in between more with the logarithm of time (our choice, on the safe side).
    """
    copper_mm, outside_mm = strand_diameter_mm(size), outside_diameter_mm(size, kind)
    wide = outside_mm / copper_mm
    warm = 1 / (2 * math.log(wide)) - 1 / (wide**2 - 1)
    takes = HEAT_PVC if kind.k <= K_PVC else HEAT_CROSS_LINKED
    whole = takes * math.pi / 4 * (outside_mm**2 - copper_mm**2) * 1e-6
    share = math.log(seconds / ADIABATIC_S) / math.log(SOAKED_S / ADIABATIC_S)
    return whole * warm * min(1.0, share)


@lru_cache(maxsize=4096)
def largest_protecting_a(size: WireSize, kind: Insulation, ambient_c: float, fuse: str) -> float:
    """Return the largest rating, A, of a kind of fuse that protects a wire at every overload.

    The wire must stand each current for as long as the slowest fuse its standard permits may carry
    it, from what it carries for ever on. Zero where the air alone is at its limit.
    """
    if ambient_c >= kind.limit_c:
        return 0.0
    found = min(
        withstand_a(size, kind, ambient_c, seconds) / multiple
        for multiple, seconds in slowest_curve(fuse)
    )
    return float(f"{found:.3g}")  # as it is printed, so that both say the same


STEADY = "steady"
"""The kind of what is no fuse and never opens: an alternator, a resistance."""

SLOWEST = ("fusible link", "bolt-down", "large blade", "breaker", "glass", "blade")
"""Kinds of fuses, the slowest first: of several that feed one fault it is the last to open."""


@lru_cache
def slowest_curve(fuse: str) -> tuple[tuple[float, float], ...]:
    """Return the whole slowest curve of a kind of fuse as multiples of its rating and times, s.

    From the multiple that it may carry for ever (its time infinite) over every published point, to
    where the copper keeps its heat and the I2t of fuse and wire both stay the same. A stretch
    that passes ``ADIABATIC_S``, where a wire may be less hot from one moment to the next, has a
    point on either side.
    """
    if fuse == STEADY:
        return ((1.0, math.inf),)
    corners = _corners(fuse)
    made = [(corners[0][0], math.inf)]
    for (low, slow), (high, quick) in itertools.pairwise(corners):
        part = [
            (low * (high / low) ** (n / STEPS), slow * (quick / slow) ** (n / STEPS))
            for n in range(STEPS + 1)
        ]
        for moment in (ADIABATIC_S, ADIABATIC_S * 1.0001):
            if quick <= moment <= slow:
                share = math.log(slow / moment) / math.log(slow / quick)
                part.append((low * (high / low) ** share, moment))
        made += sorted(part)
    return tuple(made)


def _corners(fuse: str) -> list[tuple[float, float]]:
    """Return what a fuse carries at least as long as its standard says, then when it opens."""
    limits = TIME_LIMITS[fuse]
    carries = max(limit for limit in limits if limit.most_s is None)
    found = [(carries.multiple, carries.least_s)]
    found += [(limit.multiple, limit.most_s) for limit in limits if limit.most_s is not None]
    last, soonest = found[-1]
    if soonest > ADIABATIC_S:
        found.append((last * math.sqrt(soonest / ADIABATIC_S), ADIABATIC_S))
    return found


def lasts_s(kind: str, multiple: float) -> float:
    """Return how long a fuse may carry a multiple of its rating at the slowest, s, or for ever.

    As ``slowest_s``; but between what it carries for hours or for ever and the least overload with
    an end, where standards are silent, straight on logarithmic axes as well.
    """
    corners = _corners(kind)
    return math.inf if multiple <= corners[0][0] else _along(corners, multiple)


def at_current(curve: Sequence[tuple[float, float]], amps: float) -> float | None:
    """Return the time of a curve at a current, straight on logarithmic axes; None outside it."""
    for (low, slow), (high, quick) in itertools.pairwise(curve):
        if low <= amps <= high:
            share = math.log(amps / low) / math.log(high / low) if high > low else 0.0
            return math.exp(math.log(slow) + share * math.log(quick / slow))
    return None


def slowest_s(kind: str, multiple: float) -> float:
    """Return when a fuse opens at the slowest its standard permits, s, at a multiple of its rating.

    Between published points the curve is straight on logarithmic axes; below the lowest point with
    an end it may never open.
    """
    points = [(limit.multiple, limit.most_s) for limit in TIME_LIMITS[kind] if limit.most_s]
    return _along(points, multiple)


def surely_opens(kind: str, multiple: float, within_s: float = math.inf) -> bool:
    """Return whether a fuse opens at a multiple of its rating even at its slowest, in some time or
    ever.
    """
    slowest = slowest_s(kind, multiple)
    return slowest <= within_s and slowest < math.inf


def quickest_s(kind: str, multiple: float) -> float | None:
    """Return when a fuse opens at the quickest its standard permits, s; None where none is known.

    Up to the lowest published multiple it never opens.
    """
    points = [(limit.multiple, limit.least_s) for limit in TIME_LIMITS[kind] if limit.least_s > 0]
    if multiple > points[-1][0] and len(points) < 2:
        return None
    return math.inf if multiple <= points[0][0] else _along(points, multiple)


def _along(points: list[tuple[float, float]], multiple: float) -> float:
    if not points or multiple < points[0][0]:
        return math.inf
    between = at_current(points, multiple)
    if between is not None:
        return between
    # Beyond the last point the heat that melts it, I2t, stays the same.
    last, soonest = points[-1]
    return float(soonest * (last / multiple) ** 2)


def carries_share(ambient_c: float) -> float:
    """Return the share of its rating that a fuse carries for hours in air of a temperature."""
    return LOAD_FACTOR * max(0.0, 1 - HOT_PER_K * max(0.0, ambient_c - USUAL_AIR_C))


def bears_inrush(kind: str, rating_a: float, inrush: tuple[float, float]) -> bool:
    """Return whether even the quickest fuse stays whole: inrush is a current, A, and its time, s.

    Where no quickest time is published it is taken to.
    """
    soonest = quickest_s(kind, inrush[0] / rating_a)
    return soonest is None or soonest > inrush[1]


def smallest_carrying_a(
    load_a: float, fuse: str, ambient_c: float = 25.0, inrush: tuple[float, float] | None = None
) -> float | None:
    """Return the smallest standard rating, A, that carries a load for hours, or None.

    inrush: what it begins with, A, and for how long, s.
    """
    share = carries_share(ambient_c)
    for rating in RATINGS_A[fuse]:
        curve = curve_of(fuse, rating)
        if rating * share >= load_a and (inrush is None or bears_inrush(curve, rating, inrush)):
            return rating
    return None


def choose_fuse(
    size: WireSize,
    kind: Insulation,
    ambient_c: float,
    load_a: float,
    inrush: tuple[float, float] | None = None,
) -> tuple[str, float] | None:
    """Return the kind and rating, A, of the smallest fuse that carries and protects, or None."""
    for fuse in PROPOSED:
        rating = smallest_carrying_a(load_a, fuse, ambient_c, inrush)
        if rating is not None and rating <= largest_protecting_a(
            size, kind, ambient_c, curve_of(fuse, rating)
        ):
            return fuse, rating
    return None
