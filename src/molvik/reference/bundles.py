"""Circles in a circle: how wide wires lie together.

Outer over inner diameter of equal circles: best known packings (Graham and others, 1998), from
memory.
"""

import math

CIRCLE_RATIO: dict[int, float] = {
    1: 1.000, 2: 2.000, 3: 2.155, 4: 2.414, 5: 2.701, 6: 3.000, 7: 3.000, 8: 3.305, 9: 3.613,
    10: 3.813, 12: 4.030, 14: 4.328, 19: 4.864,
}  # fmt: skip
"""By number of circles."""

MIXED_FILL = 1.25
"""A bundle of unequal wires is at most this many times as wide as the root of the sum of their
squares (our choice; above every ratio of equal circles from 4 on)."""


def across_mm(widths: list[float]) -> float:
    """Return how wide wires of these outside diameters, mm, lie together."""
    number = len(widths)
    if max(widths) - min(widths) < 1e-9 and number in CIRCLE_RATIO:
        return CIRCLE_RATIO[number] * widths[0]
    square = math.sqrt(sum(width * width for width in widths))
    return max(MIXED_FILL * square, sum(sorted(widths)[-2:]))
