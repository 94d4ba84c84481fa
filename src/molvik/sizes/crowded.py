"""A wire that its neighbours overheat: which of them do, and what would help more than its size."""

from collections.abc import Iterable
from typing import NamedTuple

from molvik.electrical.bundle import ALONE, Core, Neighbours, heat_20_w_per_m, hottest_c
from molvik.electrical.conductor import area_mm2
from molvik.model.parts import WireSize
from molvik.sizes.sizing_case import Installation, SizingCase
from molvik.sizes.wire import smallest

MUCH_THICKER = 2.0
"""From so many times the section that a wire would need alone on, its size is not the matter (our
choice)."""

MOST_NAMED = 3


class Relief(NamedTuple):
    """What would help, and how hot the wire would then get, deg C."""

    what: str
    hot_c: float


def is_crowded(size: WireSize, requirements: SizingCase) -> bool:
    """Return whether its neighbours rather than its size make a wire too hot."""
    if all(lying.neighbours == ALONE for lying in requirements.lies):
        return False
    free = requirements._replace(
        lies=tuple(one._replace(neighbours=ALONE) for one in requirements.lies)
    )
    alone, here = smallest(free, size.system), smallest(requirements, size.system)
    if alone is None:
        return False
    return here is None or area_mm2(here) >= MUCH_THICKER * area_mm2(alone)


def worst_lying(size: WireSize, requirements: SizingCase) -> Installation:
    """Return the stretch where a wire gets hottest."""
    return max(requirements.lies, key=lambda one: _hot_c(size, requirements, one, one.neighbours))


def reliefs(size: WireSize, requirements: SizingCase) -> tuple[Relief, ...]:
    """Return what laying a wire otherwise would do, the coolest first."""
    lying = worst_lying(size, requirements)
    here = lying.neighbours
    if here == ALONE:
        return ()
    half = Neighbours(here.widths_mm[::2], here.heat_w_per_m / 2, here.covering_mm)
    found = [
        Relief("laid by itself", _hot_c(size, requirements, lying, ALONE)),
        Relief("with the bundle parted in two", _hot_c(size, requirements, lying, half)),
    ]
    if here.covering_mm:
        open_ = here._replace(covering_mm=0.0)
        found.append(Relief("without the covering", _hot_c(size, requirements, lying, open_)))
    return tuple(sorted(found, key=lambda one: one.hot_c))


def _hot_c(
    size: WireSize, requirements: SizingCase, lying: Installation, neighbours: Neighbours
) -> float:
    core = Core(size, requirements.kind, requirements.mean_a or 0.0)
    return hottest_c(core, lying.ambient_c, neighbours)


def heaters(cores: Iterable[tuple[str, Core]]) -> tuple[tuple[str, Core, float], ...]:
    """Return the wires that make most of the heat in a bundle, each with its share of it."""
    heats = [(code, core, heat_20_w_per_m(core)) for code, core in cores]
    total = sum(heat for _, _, heat in heats)
    if total <= 0:
        return ()
    heats.sort(key=lambda one: (-one[2], one[0]))
    return tuple((code, core, heat / total) for code, core, heat in heats[:MOST_NAMED])
