"""How hot the hottest wire of a bundle gets, as one cylinder that makes heat all through.

The bundle's surface loses heat as a single wire's does; inside, heat passes the packed wires as it
passes their insulation, which is the cautious end (copper conducts far better along than across a
bundle with air in it). Every wire is taken to lie in the middle. Compared with the grouping
factors of IEC 60364-5-52 for 2 to 20 wires alike it lands within 10 %.
"""

import math
from functools import lru_cache
from typing import NamedTuple

from molvik.electrical.conductor import resistance_20_ohm_per_m, strand_diameter_mm
from molvik.electrical.heat import (
    HOTTEST_C,
    conductor_temperature_c,
    current_for_temperature_a,
    outside_diameter_mm,
    surface_loss_w_per_m,
)
from molvik.electrical.root import root
from molvik.model.parts import WireSize
from molvik.reference.bundles import across_mm
from molvik.reference.copper import TEMPERATURE_COEFFICIENT
from molvik.reference.insulation import CONDUCTIVITY_W_PER_M_K, Insulation

M_K_PER_W = 1 / (2 * math.pi * CONDUCTIVITY_W_PER_M_K)


class Core(NamedTuple):
    """A wire in a bundle with its current, A."""

    size: WireSize
    kind: Insulation
    amps: float


class Neighbours(NamedTuple):
    """What lies round a wire. widths_mm: the other wires' outside diameters, in order, so that
    wires alike in one bundle have the same. heat_w_per_m: what
    their copper would make at 20 deg C. covering_mm: thickness of what lies over the bundle.
    """

    widths_mm: tuple[float, ...] = ()
    heat_w_per_m: float = 0.0
    covering_mm: float = 0.0


ALONE = Neighbours()


def heat_20_w_per_m(core: Core) -> float:
    """Return the heat a wire makes at 20 deg C, W/m."""
    return core.amps**2 * resistance_20_ohm_per_m(core.size)


def neighbours_of_each(cores: list[Core], covering_mm: float = 0.0) -> list[Neighbours]:
    """Return what lies round each wire of a bundle."""
    widths = [outside_diameter_mm(core.size, core.kind) for core in cores]
    ordered = sorted(widths)
    others = {width: _without(ordered, width) for width in set(widths)}
    heats = [heat_20_w_per_m(core) for core in cores]
    total = sum(heats)
    return [
        Neighbours(others[width], max(0.0, total - heat), covering_mm)
        for width, heat in zip(widths, heats, strict=True)
    ]


def _without(ordered: list[float], width: float) -> tuple[float, ...]:
    index = ordered.index(width)
    return (*ordered[:index], *ordered[index + 1 :])


def bundle_temperatures_c(
    cores: list[Core], ambient_c: float, covering_mm: float = 0.0
) -> list[float]:
    """Return the conductor temperature of each wire, deg C, each as if it lay in the middle."""
    return [
        hottest_c(core, ambient_c, neighbours)
        for core, neighbours in zip(cores, neighbours_of_each(cores, covering_mm), strict=True)
    ]


@lru_cache(maxsize=20_000)
def hottest_c(core: Core, ambient_c: float, neighbours: Neighbours) -> float:
    """Return a wire's conductor temperature in its bundle, deg C, at most 1,000.

    Never less than alone in still air: that idle neighbours carry heat away is not counted on.
    """
    alone = conductor_temperature_c(core.size, core.kind, core.amps, ambient_c)
    own = heat_20_w_per_m(core)
    made = own + neighbours.heat_w_per_m
    if neighbours == ALONE or made <= 0:
        return alone
    wide_mm = _across_mm(core, neighbours)
    outside_m = wide_mm / 1000
    path = _path(core, neighbours, wide_mm, own / made)

    def conductor_c(surface_c: float) -> float:
        return surface_c + surface_loss_w_per_m(outside_m, surface_c, ambient_c) * path

    def surplus(surface_c: float) -> float:
        lost = surface_loss_w_per_m(outside_m, surface_c, ambient_c)
        return lost - made * _warmer(surface_c + lost * path)

    if surplus(HOTTEST_C) < 0:
        return HOTTEST_C
    surface_c = root(surplus, ambient_c, HOTTEST_C, close=1e-3)
    return min(HOTTEST_C, max(alone, conductor_c(surface_c)))


@lru_cache(maxsize=20_000)
def allowed_a(
    size: WireSize, kind: Insulation, limit_c: float, ambient_c: float, neighbours: Neighbours
) -> float:
    """Return the steady current, A, that brings a wire in its bundle to a temperature, deg C.

    Zero where its neighbours alone bring it there.
    """
    alone = current_for_temperature_a(size, kind, limit_c, ambient_c)
    if neighbours == ALONE or alone <= 0:
        return alone
    if hottest_c(Core(size, kind, alone), ambient_c, neighbours) <= limit_c:
        return alone
    if hottest_c(Core(size, kind, 0.0), ambient_c, neighbours) >= limit_c:
        return 0.0
    wide_mm = _across_mm(Core(size, kind, 0.0), neighbours)
    outside_m = wide_mm / 1000
    ohm = resistance_20_ohm_per_m(size)
    amps, share = alone, 1.0
    for _ in range(6):
        # How much of the heat is its own follows from the current, which follows from it.
        core = Core(size, kind, amps)
        own = heat_20_w_per_m(core)
        share = own / (own + neighbours.heat_w_per_m)
        path = _path(core, neighbours, wide_mm, share)

        def over(surface_c: float, path: float = path) -> float:
            lost = surface_loss_w_per_m(outside_m, surface_c, ambient_c)
            return surface_c + lost * path - limit_c

        surface_c = root(over, ambient_c, limit_c, close=1e-3)
        lost = surface_loss_w_per_m(outside_m, surface_c, ambient_c)
        found = math.sqrt(max(0.0, lost / _warmer(limit_c) - neighbours.heat_w_per_m) / ohm)
        if abs(found - amps) < 1e-4 * alone:
            break
        amps = found
    return min(alone, found)


def _warmer(conductor_c: float) -> float:
    """Return how many times the heat of 20 deg C copper makes at a temperature."""
    return 1 + TEMPERATURE_COEFFICIENT * (min(conductor_c, HOTTEST_C) - 20)


def _across_mm(core: Core, neighbours: Neighbours) -> float:
    # A covering holds air: its larger surface is not counted, its thickness is.
    return _together_mm(outside_diameter_mm(core.size, core.kind), neighbours.widths_mm)


@lru_cache(maxsize=20_000)
def _together_mm(width: float, others: tuple[float, ...]) -> float:
    return across_mm([width, *others])


def _path(core: Core, neighbours: Neighbours, across: float, share: float) -> float:
    """Return how many kelvin a W/m of the whole bundle costs from a conductor to the surface.

    across: of the bundle, mm. share: how much of the heat is this wire's own. From the middle of a
    cylinder that makes heat all through it is half of what it would be from a wire; its own heat
    passes its own insulation.
    """
    own = math.log(outside_diameter_mm(core.size, core.kind) / strand_diameter_mm(core.size))
    covered = math.log((across + 2 * neighbours.covering_mm) / across)
    return (covered + max(0.5, share * own)) * M_K_PER_W
