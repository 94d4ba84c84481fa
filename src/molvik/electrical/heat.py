"""The temperature of one covered wire, lying horizontally in still air.

Heat made in the copper passes the insulation by conduction and leaves its surface by natural
convection (Churchill and Chu, 1975, horizontal cylinder) and radiation. Air properties are fits to
the usual handbook tables, good to about 1 % between 0 and 250 deg C.
"""

import math
from bisect import bisect_left
from functools import lru_cache

from molvik.electrical.conductor import area_mm2, resistance_ohm_per_m, strand_diameter_mm
from molvik.electrical.root import root
from molvik.model.parts import WireSize
from molvik.reference.insulation import (
    CONDUCTIVITY_W_PER_M_K,
    COUNTED_SHARE,
    COUNTED_WALL_MM,
    Insulation,
    wall_mm,
)

EMISSIVITY = 0.9
STEFAN_BOLTZMANN = 5.670374e-8
GRAVITY = 9.80665

HOTTEST_C = 1000.0
LEAST_K, RISES = 0.01, 72
"""From which rise on, and in how many steps, the temperature at a current is tabled."""


def air(temperature_c: float) -> tuple[float, float, float]:
    """Return air's conductivity, W/(m K), kinematic viscosity, m2/s, and Prandtl number.

    Sutherland's law for viscosity, a power law for conductivity, the gas law at 101.325 kPa.
    """
    kelvin = temperature_c + 273.15
    viscosity = 1.458e-6 * kelvin**1.5 / (kelvin + 110.4)
    density = 101_325 / (287.05 * kelvin)
    conductivity = 0.02624 * (kelvin / 300) ** 0.8646
    return conductivity, viscosity / density, viscosity * 1006 / conductivity


def nusselt(rayleigh: float, prandtl: float) -> float:
    """Return the mean Nusselt number of a horizontal cylinder (Churchill and Chu, 1975); all
    without unit."""
    prandtl_part = (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)
    return float((0.60 + 0.387 * rayleigh ** (1 / 6) / prandtl_part) ** 2)


def convection_w_per_m2_k(diameter_m: float, surface_c: float, ambient_c: float) -> float:
    """Return the convection coefficient of the surface, W/(m2 K)."""
    film_c = (surface_c + ambient_c) / 2
    conductivity, kinematic, prandtl = air(film_c)
    lift = GRAVITY / (film_c + 273.15) * abs(surface_c - ambient_c) * diameter_m**3
    return nusselt(lift / kinematic**2 * prandtl, prandtl) * conductivity / diameter_m


def surface_loss_w_per_m(diameter_m: float, surface_c: float, ambient_c: float) -> float:
    """Return the heat a metre of wire gives to still air and its surroundings, W/m."""
    convection = convection_w_per_m2_k(diameter_m, surface_c, ambient_c) * (surface_c - ambient_c)
    hot, cold = surface_c + 273.15, ambient_c + 273.15
    radiation = EMISSIVITY * STEFAN_BOLTZMANN * (hot**4 - cold**4)
    return math.pi * diameter_m * (convection + radiation)


def outside_diameter_mm(size: WireSize, kind: Insulation) -> float:
    """Return the diameter over the insulation, mm."""
    return strand_diameter_mm(size) + 2 * wall_mm(kind, area_mm2(size))


def heat_path(copper_mm: float, outside_mm: float, conductor_c: float, ambient_c: float) -> float:
    """Return the heat, W/m, that leaves a covered conductor held at conductor_c.

    copper_mm, outside_mm: diameters over the copper and over the insulation. A thick wall is not
    counted on for more surface than one of ``COUNTED_WALL_MM`` or ``COUNTED_SHARE`` has.
    """
    if conductor_c <= ambient_c:
        return 0.0
    resistance = math.log(outside_mm / copper_mm) / (2 * math.pi * CONDUCTIVITY_W_PER_M_K)
    counted_mm = max(COUNTED_WALL_MM, COUNTED_SHARE * copper_mm)
    outside_m = min(outside_mm, copper_mm + 2 * counted_mm) / 1000

    def surplus(surface_c: float) -> float:
        through = (conductor_c - surface_c) / resistance
        return through - surface_loss_w_per_m(outside_m, surface_c, ambient_c)

    surface_c = root(surplus, ambient_c, conductor_c, close=1e-4)
    return surface_loss_w_per_m(outside_m, surface_c, ambient_c)


@lru_cache(maxsize=4096)
def current_for_temperature_a(
    size: WireSize, kind: Insulation, conductor_c: float, ambient_c: float
) -> float:
    """Return the steady current, A, that brings the conductor to a temperature, deg C."""
    loss = heat_path(
        strand_diameter_mm(size), outside_diameter_mm(size, kind), conductor_c, ambient_c
    )
    return math.sqrt(loss / resistance_ohm_per_m(size, conductor_c))


def conductor_temperature_c(
    size: WireSize, kind: Insulation, current_a: float, ambient_c: float
) -> float:
    """Return the steady conductor temperature, deg C, at a current, A.

    Past 1,000 deg C the copper is close to melting and 1,000 is returned.
    """
    if current_a <= 0:
        return ambient_c
    currents, rises = _rises(size, kind, ambient_c)
    index = bisect_left(currents, math.log(current_a))
    if index == len(currents):
        return HOTTEST_C
    index = max(1, index)
    (low, high), (cool, hot) = currents[index - 1 : index + 1], rises[index - 1 : index + 1]
    share = (math.log(current_a) - low) / (high - low)
    return ambient_c + math.exp(cool + (hot - cool) * share)


@lru_cache(maxsize=256)
def _rises(size: WireSize, kind: Insulation, ambient_c: float) -> tuple[list[float], list[float]]:
    """Return the logarithms of currents, A, and of how far they heat a conductor, K.

    Close enough together that a straight line between them is within 0.1 % of the rise.
    """
    most = HOTTEST_C - ambient_c
    rises = [LEAST_K * (most / LEAST_K) ** (step / RISES) for step in range(RISES + 1)]
    currents = (
        current_for_temperature_a(size, kind, ambient_c + rise, ambient_c) for rise in rises
    )
    return [math.log(amps) for amps in currents], [math.log(rise) for rise in rises]
