"""How hot the hottest wire of a bundle gets, as one cylinder that makes heat all through.

The bundle's surface loses heat as a single wire's does; inside, heat passes the packed wires as it
passes their insulation, which is the cautious end (copper conducts far better along than across a
bundle with air in it). The hottest wire is taken to lie in the middle. Compared with the grouping
factors of IEC 60364-5-52 for 2 to 20 wires alike it lands within 10 %.
"""

import math
from typing import NamedTuple

from molvik.electrical.conductor import resistance_ohm_per_m, strand_diameter_mm
from molvik.electrical.heat import (
    conductor_temperature_c,
    outside_diameter_mm,
    surface_loss_w_per_m,
)
from molvik.model.parts import WireSize
from molvik.reference.bundles import across_mm
from molvik.reference.insulation import CONDUCTIVITY_W_PER_M_K, Insulation

HOTTEST_C = 1000.0
ROUNDS = 60


class Core(NamedTuple):
    """A wire in a bundle with its current, A."""

    size: WireSize
    kind: Insulation
    amps: float


def bundle_temperatures_c(
    cores: list[Core], ambient_c: float, covering_mm: float = 0.0
) -> list[float]:
    """Return the conductor temperature of each wire, deg C, each as if it lay in the middle.

    covering_mm: thickness of a covering over the bundle. At most 1,000 deg C is returned.
    """
    if len(cores) == 1 and covering_mm == 0.0:
        one = cores[0]
        return [conductor_temperature_c(one.size, one.kind, one.amps, ambient_c)]
    from scipy.optimize import brentq

    widths = [outside_diameter_mm(one.size, one.kind) for one in cores]
    across = across_mm(widths)
    # A covering holds air: its larger surface is not counted, its thickness is.
    outside_m = across / 1000
    through = 1 / (2 * math.pi * CONDUCTIVITY_W_PER_M_K)
    covered = math.log((across + 2 * covering_mm) / across) * through
    # Idle neighbours carry heat away; that is not counted on.
    alone = [conductor_temperature_c(o.size, o.kind, o.amps, ambient_c) for o in cores]
    found = alone
    for _ in range(ROUNDS):
        heats = [
            one.amps**2 * resistance_ohm_per_m(one.size, min(hot, HOTTEST_C))
            for one, hot in zip(cores, found, strict=True)
        ]
        total = sum(heats)
        if total <= 0:
            return found

        def surplus(surface_c: float, made: float = total) -> float:
            return made - surface_loss_w_per_m(outside_m, surface_c, ambient_c)

        if surplus(HOTTEST_C) > 0:
            return [HOTTEST_C] * len(cores)
        surface_c = float(brentq(surplus, ambient_c, HOTTEST_C, xtol=1e-4))
        middle_c = surface_c + total * covered + total * through / 2
        new = [
            min(
                HOTTEST_C,
                max(least, middle_c, _own(one, heat, surface_c + total * covered, through)),
            )
            for one, heat, least in zip(cores, heats, alone, strict=True)
        ]
        if max(abs(a - b) for a, b in zip(new, found, strict=True)) < 0.01:
            return new
        found = new
    return found


def _own(one: Core, heat: float, around_c: float, through: float) -> float:
    """Return how hot a wire gets through its own insulation, at the surface of the bundle."""
    copper = strand_diameter_mm(one.size)
    return around_c + heat * math.log(outside_diameter_mm(one.size, one.kind) / copper) * through
