"""Section, diameter and resistance of a conductor; which size is nearest to which."""

import math
from functools import lru_cache
from typing import NamedTuple

from molvik.model.parts import SizeSystem, WireSize
from molvik.reference import copper

STRAND_FILL = 0.75
"""Copper's share of the circle round a stranded conductor (common practice, 0.72 to 0.78)."""


@lru_cache(maxsize=256)
def area_mm2(size: WireSize) -> float:
    """Return the copper section, mm2: by ASTM B258 for AWG, nominal for metric."""
    if size.system == "metric":
        return size.value
    return math.pi / 4 * copper.awg_diameter_mm(size.value) ** 2


def strand_diameter_mm(size: WireSize) -> float:
    """Return the diameter over the strands, mm."""
    return math.sqrt(4 * area_mm2(size) / (math.pi * STRAND_FILL))


@lru_cache(maxsize=256)
def resistance_20_ohm_per_m(size: WireSize) -> float:
    """Return the resistance at 20 deg C, ohm/m.

    Metric sizes of ISO 6722-1 take its largest permitted value, the cautious one. Any other is
    computed from IACS copper with 2 % for stranding.
    """
    if size.system == "metric" and size.value in copper.ISO_6722_MAX_MOHM_PER_M:
        return copper.ISO_6722_MAX_MOHM_PER_M[size.value] / 1000
    return copper.RESISTIVITY_OHM_M * copper.STRANDING / (area_mm2(size) * 1e-6)


def resistance_ohm_per_m(size: WireSize, conductor_c: float) -> float:
    """Return the resistance, ohm/m, with the conductor at a temperature, deg C."""
    rise = copper.TEMPERATURE_COEFFICIENT * (conductor_c - 20)
    return resistance_20_ohm_per_m(size) * (1 + rise)


class Equivalent(NamedTuple):
    """A size of the other system and how its copper compares.

    copper: its section over the wanted one, less one (-0.17 is 17 % less copper).
    """

    size: WireSize
    copper: float


def neighbours(size: WireSize, system: SizeSystem) -> tuple[Equivalent | None, Equivalent | None]:
    """Return the standard sizes just below and just above in the other system.

    Both are the same size when it is equal within 1 %. None where the range ends.
    """
    wanted = area_mm2(size)
    below = above = None
    for candidate in copper.AWG_SIZES if system == "awg" else copper.METRIC_SIZES:
        found = Equivalent(candidate, area_mm2(candidate) / wanted - 1)
        if abs(found.copper) <= 0.01:
            return found, found
        if found.copper < 0:
            below = found
        elif above is None:
            above = found
    return below, above


def equivalence_text(size: WireSize) -> str:
    """Say how a size stands in the other system, which way it rounds and the copper it costs."""
    other: SizeSystem = "metric" if size.system == "awg" else "awg"
    below, above = neighbours(size, other)
    if below is not None and below is above:
        return f"{size} is {below.size} within 1 %."
    if below is None and above is None:
        return f"{size} has no equivalent."
    if below is None:
        assert above is not None
        return f"{size} is thinner than any; take {above.size}, {above.copper:+.0%} copper."
    if above is None:
        return f"{size} is thicker than any; {below.size} has {-below.copper:.0%} less copper."
    return (
        f"{size} lies between {below.size} and {above.size}. Round up to {above.size} "
        f"({above.copper:+.0%} copper); {below.size} loses {-below.copper:.0%} of it."
    )
