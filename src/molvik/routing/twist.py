"""What a twist takes up: a wire that winds round others is longer than the loom it lies in."""

import math


def take_up(pitch_mm: float, lay_mm: float) -> float:
    """Return how many times as long as its axis a helix is: sqrt(1 + (pi d / lay)^2).

    pitch_mm: diameter of the circle its middle winds on, mm. lay_mm: length of one turn, mm.
    """
    return math.sqrt(1 + (math.pi * pitch_mm / lay_mm) ** 2)
