"""How large a plug is from outside, and what has to pass a hole with it."""

import math

from molvik.model.geometry import extent
from molvik.model.parts import Connector
from molvik.reference.contacts import CONTACTS

WALL_MM = 4.0
"""What a housing is larger than its cavities, on each side, latch and seal counted in, mm (common
practice, from memory)."""

USUAL = CONTACTS["16"]


def outline_mm(plug: Connector) -> tuple[float, float]:
    """Return how wide and how high a housing is, mm: as measured, else by its cavities."""
    across, down = extent(plug.grid)
    pitch = CONTACTS.get(plug.contact, USUAL).pitch_mm
    wide = plug.wide_mm or across * pitch + 2 * WALL_MM
    high = plug.high_mm or down * pitch + 2 * WALL_MM
    return wide, high


def is_measured(plug: Connector) -> bool:
    """Return whether both its sides were measured."""
    return bool(plug.wide_mm and plug.high_mm)


def passes_mm(plug: Connector, beside_mm: float = 0.0) -> float:
    """Return how wide a round hole a plug goes through, mm.

    beside_mm: of the bundle that lies in the hole already, mm: on the long side of the plug, in the
    smallest circle round both.
    """
    wide, high = outline_mm(plug)
    wide, high = max(wide, high), min(wide, high)
    if plug.grid.round:
        return wide + beside_mm
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
