"""Points of a sender or gauge: what it has, ohms, at each temperature, level or pressure."""

import itertools
import math

Points = tuple[tuple[float, float], ...]
"""What something has, ohms, at each value: (value, ohms)."""


def curve_problem(points: Points) -> str:
    """Say why points make no curve; empty where they do: values apart, ohms above zero that only
    rise or only fall.
    """
    if len(points) < 2:
        return "Two points at least make a curve: 20 2500, 90 240"
    ordered = sorted(points)
    if any(not (math.isfinite(value) and 0 < ohm < 1e9) for value, ohm in ordered):
        return "Ohms, or A of an alternator, are above zero"
    for (one, _), (other, _) in itertools.pairwise(ordered):
        if one == other:
            return f"There are two points at {one:g}"
    steps = [b[1] - a[1] for a, b in itertools.pairwise(ordered)]
    if not (all(step > 0 for step in steps) or all(step < 0 for step in steps)):
        return "The curve turns back: what it has only rises or only falls with the value"
    return ""
