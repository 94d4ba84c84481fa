"""How hot it is for a loom beside a hot surface: the air that would make the side facing it as hot.

Radiation between grey surfaces (Stefan and Boltzmann). The hot surface is taken as a strip that
goes on along the loom; what a long cylinder sees of a strip beside it is the angle it subtends over
the whole round, exact in two dimensions. Through a narrow gap the air conducts, as from a plane to
a cylinder (the shape factor of conduction, Incropera and DeWitt, table of two-dimensional shapes);
that ends where the layer of warm air on the surface does (Eckert's integral solution for a wall in
still air). What the loom takes up it gives to the air as a cylinder does, by the same model as its
own heat. The side that faces the surface is hotter than the mean of the round: heat that falls on
one side of a cylinder, as its cosine, spreads through it by Fourier's series. Hot air that rises
from the surface is not counted: a place says what air there is. Emissivities and the conductivity
of a bundle are common values, from memory.
"""

import math
from functools import lru_cache

from molvik.electrical.heat import HOTTEST_C, surface_loss_w_per_m
from molvik.electrical.root import root

STEFAN_BOLTZMANN = 5.670e-8
"""W/(m2 K4)."""

LOOM_EMISSIVITY, SURFACE_EMISSIVITY, SHIELD_EMISSIVITY = 0.9, 0.8, 0.1
"""Tape and plastics; oxidised steel or cast iron; bright aluminium or foil."""

STRIP_MM = 100.0
"""How wide a hot surface is where nobody says, mm: a manifold or a pipe with its flanges (our
choice)."""

NEAREST_MM = 5.0
"""Nearer than this, and where no distance is known, a surface is taken to be this near, mm."""

KEPT_MM = 25.0
"""No distance below this is advised, whatever is computed, mm: a loom sags, and an engine rocks
(common practice, no source)."""

BUNDLE_W_PER_M_K = 0.6
"""What a bundle of insulated wires conducts across, W/(m K)."""

LAYER_M = 0.1
"""How high the hot surface is where the layer of warm air on it is reckoned, m (our choice)."""

GRAVITY, PRANDTL = 9.81, 0.7


def seen_share(distance_mm: float, wide_mm: float = STRIP_MM) -> float:
    """Return which share of all it sees a loom sees of a hot surface at a distance."""
    return math.atan(wide_mm / (2 * max(NEAREST_MM, distance_mm))) / math.pi


def warm_layer_mm(hot_c: float, air_c: float) -> float:
    """Return how thick the layer of warm air on a hot wall is, mm: Eckert's
    x 3.93 Pr^-1/2 (0.952 + Pr)^1/4 Gr^-1/4.
    """
    film = (hot_c + air_c) / 2 + 273.15
    viscosity: float = 1.33e-5 * (film / 273.15) ** 1.75  # m2/s, of air, from memory
    grashof = GRAVITY * max(1.0, hot_c - air_c) / film * LAYER_M**3 / viscosity**2
    share: float = 3.93 * PRANDTL**-0.5 * (0.952 + PRANDTL) ** 0.25 * grashof**-0.25
    return float(1000 * LAYER_M * share)


def conducted_w_per_m(
    hot_c: float, loom_c: float, air_c: float, distance_mm: float, across_mm: float
) -> float:
    """Return what a metre of loom takes up through the air between, W/m: all of it in a gap that is
    half as wide as the warm layer, none where that has ended.
    """
    away = max(NEAREST_MM, distance_mm)
    within = min(1.0, max(0.0, 2 * (1 - away / warm_layer_mm(hot_c, air_c))))
    film = (hot_c + loom_c) / 2 + 273.15
    conductivity: float = 0.0241 * (film / 273.15) ** 0.81  # W/(m K), of air, from memory
    shape = 2 * math.pi / math.acosh(1 + 2 * away / across_mm)
    return within * shape * conductivity * (hot_c - loom_c)


def taken_w_per_m2(
    hot_c: float, loom_c: float, distance_mm: float, *, shielded: bool, wide_mm: float = STRIP_MM
) -> float:
    """Return what each square metre of a loom takes up from a hot surface by radiation, W/m2, net
    and over the whole round.
    """
    emitted = STEFAN_BOLTZMANN * ((hot_c + 273.15) ** 4 - (loom_c + 273.15) ** 4)
    net = LOOM_EMISSIVITY * SURFACE_EMISSIVITY * seen_share(distance_mm, wide_mm) * emitted
    return net * SHIELD_EMISSIVITY if shielded else net


@lru_cache(maxsize=4096)
def as_hot_as_c(
    air_c: float,
    hot_c: float,
    distance_mm: float,
    across_mm: float,
    *,
    shielded: bool,
    wide_mm: float = STRIP_MM,
) -> float:
    """Return the air, deg C, in which a loom would be as hot as it gets beside a hot surface on the
    side that faces it.

    across_mm: how thick the loom is; wide_mm: the surface. Never less than the air. A shield keeps
    radiation off; what the air conducts goes through it.
    """
    if hot_c <= air_c or across_mm <= 0:
        return air_c
    across_m = across_mm / 1000

    def taken(loom_c: float) -> float:
        radiated = taken_w_per_m2(hot_c, loom_c, distance_mm, shielded=shielded, wide_mm=wide_mm)
        conducted = conducted_w_per_m(hot_c, loom_c, air_c, distance_mm, across_mm)
        return radiated * math.pi * across_m + conducted

    def surplus(loom_c: float) -> float:
        return surface_loss_w_per_m(across_m, loom_c, air_c) - taken(loom_c)

    most = min(HOTTEST_C, hot_c)
    if surplus(most) <= 0:
        return most
    mean_c = float(root(surplus, air_c, most, close=1e-3))
    return min(most, mean_c + facing_k(taken(mean_c), mean_c - air_c, across_m))


def facing_k(taken_w_per_m: float, above_air_k: float, across_m: float) -> float:
    """Return by how much the side that faces a surface is hotter than the mean of the round, K.

    taken_w_per_m: what falls on that side, as the cosine of the angle; above_air_k: the mean above
    the air, at which as much is given off. The terms of Fourier's series of half a cosine: 1/2,
    2/(3 pi), -2/(15 pi) of its peak for one, two and four waves round.
    """
    if above_air_k <= 0 or taken_w_per_m <= 0:
        return 0.0
    radius = across_m / 2
    peak = taken_w_per_m / across_m  # its mean over the round is a pi-th of its peak
    loss = taken_w_per_m / (math.pi * across_m * above_air_k)  # W/(m2 K)
    waves = ((1, 0.5), (2, 2 / (3 * math.pi)), (4, -2 / (15 * math.pi)))
    return sum(
        share * peak * radius / (wave * BUNDLE_W_PER_M_K + loss * radius) for wave, share in waves
    )


def safe_distance_mm(
    air_c: float,
    hot_c: float,
    limit_c: float,
    across_mm: float,
    *,
    shielded: bool,
    wide_mm: float = STRIP_MM,
) -> float | None:
    """Return the nearest distance, mm, at which a loom stays at or below a limit, deg C, and is not
    nearer than one is kept anyway; None where even a metre is too near.
    """

    def over(distance_mm: float) -> float:
        found = as_hot_as_c(
            air_c, hot_c, distance_mm, across_mm, shielded=shielded, wide_mm=wide_mm
        )
        return found - limit_c

    if over(1000.0) > 0:
        return None
    if over(KEPT_MM) <= 0:
        return KEPT_MM
    return float(root(over, KEPT_MM, 1000.0, close=0.1))
