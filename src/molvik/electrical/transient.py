"""A wire that is loaded for a while: cranking, glow plugs, a fault until the fuse opens.

The copper is one body that heats: C dT/dt = I^2 R(T) - G (T - ambient), with R rising with
temperature and G from the steady heat balance. Insulation's own heat is left out: on the safe side.
"""

import math

from molvik.electrical.conductor import area_mm2, resistance_20_ohm_per_m, resistance_ohm_per_m
from molvik.electrical.heat import current_for_temperature_a
from molvik.electrical.root import root
from molvik.model.parts import WireSize
from molvik.reference.copper import TEMPERATURE_COEFFICIENT
from molvik.reference.insulation import Insulation

COPPER_J_PER_M_MM2_K = 3.45
"""Heat a metre of copper takes for each mm2 and kelvin, J (handbook: 3.45e6 J/(m3 K))."""

MELTS_C = 1083.0


def loss_w_per_m_k(size: WireSize, kind: Insulation, ambient_c: float) -> float:
    """Return the heat a metre loses for each kelvin over the air, at its class limit, W/(m K), or
    40 K over the air where that is as warm.
    """
    hot_c = max(kind.limit_c, ambient_c + 40.0)
    steady = current_for_temperature_a(size, kind, hot_c, ambient_c)
    return steady**2 * resistance_ohm_per_m(size, hot_c) / (hot_c - ambient_c)


def temperature_after_c(
    size: WireSize, kind: Insulation, amps: float, seconds: float, start_c: float, ambient_c: float
) -> float:
    """Return the conductor's temperature, deg C, after a current has flowed for a time, s."""
    takes = COPPER_J_PER_M_MM2_K * area_mm2(size)
    loss = loss_w_per_m_k(size, kind, ambient_c)
    made = amps**2 * resistance_20_ohm_per_m(size)
    return warmed_c(made, loss, takes, seconds, start_c, ambient_c)


def warmed_c(
    made: float, loss: float, takes: float, seconds: float, start_c: float, ambient_c: float
) -> float:
    """Return a conductor's temperature, deg C, after a time, s.

    made: heat in it at 20 deg C, W/m. loss: what a metre loses, W/(m K). takes: what it takes to
    warm, J/(m K). The equation is linear in T and is solved exactly; where copper heats itself
    faster than it can lose heat it grows without end, and 1,083 deg C, where it melts, is returned.
    """
    a, b = _rates(made, loss, takes, ambient_c)
    if abs(a * seconds) < 1e-12:
        return min(MELTS_C, start_c + (b - a * start_c) * seconds)
    if -a * seconds > 50:
        return MELTS_C
    return min(MELTS_C, b / a + (start_c - b / a) * math.exp(-a * seconds))


def rms_share(duty: tuple[float, float]) -> float:
    """Return the share of a current that, steady, heats as much as it does over its cycle: its root
    mean square. duty: how long it is on and off, s.
    """
    on_s, rest_s = duty
    return math.sqrt(on_s / (on_s + rest_s))


def duty_peak_c(
    size: WireSize, kind: Insulation, amps: float, duty: tuple[float, float], ambient_c: float
) -> float:
    """Return the highest temperature, deg C, of a wire loaded again and again.

    duty: how long the load is on and off, s. Each cycle takes the temperature it starts from to
    one it ends at, in a straight line; the peak is where that line comes back to itself.
    """
    on_s, rest_s = duty

    def peak(start_c: float) -> float:
        return temperature_after_c(size, kind, amps, on_s, start_c, ambient_c)

    def cooled(hot_c: float) -> float:
        return temperature_after_c(size, kind, 0.0, rest_s, hot_c, ambient_c)

    cold, warm = peak(cooled(ambient_c)), peak(cooled(ambient_c + 1.0))
    if cold >= MELTS_C or warm - cold >= 1.0:
        return MELTS_C
    return min(MELTS_C, ambient_c + (cold - ambient_c) / (1.0 - (warm - cold)))


def duty_allowed_a(
    size: WireSize, kind: Insulation, limit_c: float, duty: tuple[float, float], ambient_c: float
) -> float:
    """Return the current, A, that brings a wire loaded again and again to a temperature."""
    if ambient_c >= limit_c:
        return 0.0
    least = current_for_temperature_a(size, kind, limit_c, ambient_c)
    most = least

    def over(amps: float) -> float:
        return duty_peak_c(size, kind, amps, duty, ambient_c) - limit_c

    while over(most) < 0:
        most *= 2
    return root(over, 0.0, most, close=1e-3)


def seconds_to_c(
    size: WireSize, kind: Insulation, amps: float, limit_c: float, start_c: float, ambient_c: float
) -> float:
    """Return the time, s, until the conductor reaches a temperature; infinite for never."""
    if start_c >= limit_c:
        return 0.0
    loss = loss_w_per_m_k(size, kind, ambient_c)
    a, b = _rates(
        amps**2 * resistance_20_ohm_per_m(size),
        loss,
        COPPER_J_PER_M_MM2_K * area_mm2(size),
        ambient_c,
    )
    if b - a * start_c <= 0:
        return math.inf  # it cools, or stays
    if abs(a) < 1e-15:
        return (limit_c - start_c) / b
    # What is left of the way to where it would come to rest, or how far it has run away from there.
    left = (b - a * limit_c) / (b - a * start_c)
    return -math.log(left) / a if left > 0 else math.inf


def _rates(made: float, loss: float, takes: float, ambient_c: float) -> tuple[float, float]:
    """Return a and b of dT/dt = b - a T, with what copper makes at 20 deg C, more as it warms."""
    return (
        (loss - made * TEMPERATURE_COEFFICIENT) / takes,
        (made * (1 - 20 * TEMPERATURE_COEFFICIENT) + loss * ambient_c) / takes,
    )
