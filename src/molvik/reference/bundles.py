"""Circles in a circle: how wide wires lie together.

Outer over inner diameter of equal circles: best known packings (Graham and others, 1998, and later
lists), from memory.
"""

import math
from bisect import bisect_left

CIRCLE_RATIO: dict[int, float] = {
    1: 1.000,
    2: 2.000,
    3: 2.155,
    4: 2.414,
    5: 2.701,
    6: 3.000,
    7: 3.000,
    8: 3.305,
    9: 3.613,
    10: 3.813,
    11: 3.924,
    12: 4.030,
    13: 4.236,
    14: 4.328,
    15: 4.521,
    16: 4.615,
    17: 4.792,
    18: 4.864,
    19: 4.864,
    20: 5.122,
    21: 5.252,
    22: 5.439,
    23: 5.545,
    24: 5.651,
    25: 5.752,
    26: 5.828,
    27: 5.906,
    28: 6.014,
    29: 6.138,
    30: 6.197,
    37: 6.759,
    61: 8.661,
}
"""By number of circles."""

_FILL = (
    (3, 1.25),
    (6, 1.226),
    (10, 1.207),
    (13, 1.176),
    (18, 1.165),
    (22, 1.160),
    (25, 1.1515),
    (26, 1.144),
    (29, 1.140),
    (32, 1.137),
    (35, 1.1325),
    (40, 1.127),
    (50, 1.1245),
    (61, 1.119),
    (100, 1.109),
    (1000, 1.08),
)
"""How many times as wide as the root of the sum of their squares wires lie together, by how many of
the thickest would make the same square. Never below the best known packing of as many equal ones,
and falling, so that a bundle with fewer wires is never wider (past 61 from memory; our choice)."""


def across_mm(widths: list[float]) -> float:
    """Return how wide wires of these outside diameters, mm, lie together."""
    number = len(widths)
    if max(widths) - min(widths) < 1e-9 and number in CIRCLE_RATIO:
        return CIRCLE_RATIO[number] * widths[0]
    if number == 2:
        return sum(widths)
    square = sum(width * width for width in widths)
    fill = _fill(square / max(widths) ** 2)
    return max(fill * math.sqrt(square), sum(sorted(widths)[-2:]))


def _fill(as_many: float) -> float:
    """Return the fill for a number of the thickest wires, straight over its logarithm."""
    index = bisect_left(_FILL, (as_many,))
    if index in (0, len(_FILL)):
        return _FILL[min(index, len(_FILL) - 1)][1]
    (low, wide), (high, narrow) = _FILL[index - 1], _FILL[index]
    share = math.log(as_many / low) / math.log(high / low)
    return wide + (narrow - wide) * share
