"""How large a plug is from outside, and what has to pass a hole with it."""

import math

from molvik.model.geometry import extent
from molvik.model.parts import Connector
from molvik.reference.contacts import CONTACTS

WALL_MM = 4.0
"""What a housing is larger than its cavities, on each side, latch and seal counted in, mm (common
practice, from memory)."""

USUAL = CONTACTS["16"]

DEEP = 1.4
"""How deep a plug is, by the shorter side of its face (our choice)."""


def pitch_mm(plug: Connector) -> float:
    """Return how far apart the cavities of a housing lie, mm."""
    return CONTACTS.get(plug.contact, USUAL).pitch_mm


def outline_mm(plug: Connector) -> tuple[float, float]:
    """Return how wide and how high a housing is, mm: as measured, else by its cavities."""
    across, down = extent(plug.grid)
    pitch = pitch_mm(plug)
    wide = plug.wide_mm or across * pitch + 2 * WALL_MM
    high = plug.high_mm or down * pitch + 2 * WALL_MM
    return wide, high


def body_mm(plug: Connector) -> tuple[float, float]:
    """Return how wide and how deep a housing is from above, mm: as measured, else by its face."""
    wide, high = outline_mm(plug)
    return wide, plug.deep_mm or min(wide, high) * DEEP


def is_measured(plug: Connector) -> bool:
    """Return whether both its sides were measured."""
    return bool(plug.wide_mm and plug.high_mm)


def passes_mm(plug: Connector, beside_mm: float = 0.0, own_mm: float = 0.0) -> float:
    """Return how wide a round hole a plug goes through, mm: face first or, where its depth is known
    and that is less, on edge, its own wires folded back beside it.

    beside_mm: of the bundle that lies in the hole already, mm: on the long side of the plug, in the
    smallest circle round both. own_mm: of that with the plug's own wires.
    """
    wide, high = outline_mm(plug)
    if plug.grid.round:
        return wide + beside_mm
    needs = [_round_both_mm(wide, high, beside_mm)]
    if plug.deep_mm:
        needs.append(_round_both_mm(plug.deep_mm, min(wide, high), max(beside_mm, own_mm)))
    return min(needs)


def deepest_mm(plug: Connector, own_mm: float, hole_mm: float) -> float:
    """Return how deep a plug may be that goes through a hole on edge, mm; 0 where none does.

    own_mm: of the bundle in the hole with the plug's own wires, folded back beside it.
    """
    thin = min(outline_mm(plug))
    if plug.grid.round or _round_both_mm(0.0, thin, own_mm) > hole_mm:
        return 0.0
    least, most = 0.0, hole_mm
    for _ in range(50):
        middle = (least + most) / 2
        fits = _round_both_mm(middle, thin, own_mm) <= hole_mm
        least, most = (middle, most) if fits else (least, middle)
    return least


def _round_both_mm(one_mm: float, other_mm: float, beside_mm: float) -> float:
    """Return the smallest circle round a rectangle with a bundle on its long side, mm."""
    wide, high = max(one_mm, other_mm), min(one_mm, other_mm)
    if not beside_mm:
        return math.hypot(wide, high)

    def radius(middle: float) -> float:
        """Of the circle round both, its middle so far above the side they share."""
        lower = math.hypot(wide / 2, middle + high)
        upper = math.hypot(wide / 2, middle)
        return max(lower, upper, abs(beside_mm / 2 - middle) + beside_mm / 2)

    low, top = -high, beside_mm
    for _ in range(60):  # the larger of convex functions is convex: thirds close in on its least
        one, other = low + (top - low) / 3, top - (top - low) / 3
        low, top = (low, other) if radius(one) < radius(other) else (one, top)
    return 2 * radius((low + top) / 2)
