"""How hot a wire's copper gets where it lies, and what it resists then: one answer for all."""

from molvik.electrical.bundle import ALONE, Core, hottest_c
from molvik.electrical.conductor import resistance_ohm_per_m
from molvik.electrical.fusing import OVERLOAD_K
from molvik.electrical.transient import duty_peak_c
from molvik.model.parts import WireSize
from molvik.reference.insulation import Insulation
from molvik.reference.limits import CRANK_S, REST_S
from molvik.sizes.sizing_case import Installation, SizingCase


def around_c(size: WireSize, requirements: SizingCase) -> float:
    """Return what a wire lies in where that is hottest, deg C: the air, or its bundle as its
    neighbours warm it.
    """
    return max(_around_c(size, requirements.kind, lying) for lying in requirements.lies)


def _around_c(size: WireSize, kind: Insulation, lying: Installation) -> float:
    if lying.neighbours == ALONE:
        return lying.ambient_c
    return round(hottest_c(Core(size, kind, 0.0), lying.ambient_c, lying.neighbours), 1)


def temperature_c(size: WireSize, requirements: SizingCase) -> float | None:
    """Return the conductor's highest temperature at its load, deg C, None without a load."""
    amps = requirements.load_a if requirements.warm_a is None else requirements.warm_a
    if amps is None:
        return None
    if requirements.duty is None:
        core = Core(size, requirements.kind, amps)
        return max(
            hottest_c(core, lying.ambient_c, lying.neighbours) for lying in requirements.lies
        )
    return duty_peak_c(
        size, requirements.kind, amps, requirements.duty, around_c(size, requirements)
    )


def cranked_c(size: WireSize, requirements: SizingCase) -> float | None:
    """Return the conductor's highest temperature after cranking again and again, deg C."""
    found = temperature_c(size, requirements)
    if requirements.crank_a is None:
        return found
    duty = CRANK_S, REST_S
    peak = duty_peak_c(
        size, requirements.kind, requirements.crank_a, duty, around_c(size, requirements)
    )
    return peak if found is None else max(found, peak)


def copper_c(size: WireSize, requirements: SizingCase, *, cranking: bool) -> float:
    """Return the temperature at which a wire's copper resists, deg C.

    Where no load is known that of its class. At most what it stands once in its life: a wire that
    would get hotter is told for that, and its path not for what it loses then.
    """
    found = cranked_c(size, requirements) if cranking else temperature_c(size, requirements)
    return (
        requirements.kind.limit_c
        if found is None
        else min(found, requirements.kind.limit_c + OVERLOAD_K)
    )


def ohm_per_m(size: WireSize, requirements: SizingCase, *, cranking: bool = False) -> float:
    """Return what a wire resists at its own temperature, ohm/m."""
    return resistance_ohm_per_m(size, copper_c(size, requirements, cranking=cranking))
