"""Where a function crosses zero between two points.

By Chandrupatla's method (Advances in Engineering Software 28, 1997): inverse quadratic steps where
they are safe, halves where not. SciPy's root finders leave a ring of functions behind at each call,
which only the collector frees: in a loom of 2,000 wires it stopped the window for half a second.
``tests/test_heat_more.py`` holds this one to SciPy's.
"""

from collections.abc import Callable

MOST_STEPS = 200


def root(function: Callable[[float], float], low: float, high: float, close: float) -> float:
    """Return a zero of a continuous function between two points of unlike sign.

    close: how near the zero at most, in the unit of the points. Raises ValueError where the signs
    are alike, or the function has no value.
    """
    a, b, value_b = high, low, function(low)
    value_a = function(a)
    if not value_a * value_b <= 0:  # true for what is not a number, too
        raise ValueError(f"no zero between {low:g} and {high:g}: {value_b:g}, {value_a:g}")
    if value_a == 0 or value_b == 0:
        return a if value_a == 0 else b
    share = 0.5
    for _ in range(MOST_STEPS):
        new = a + share * (b - a)
        value = function(new)
        if value != value:
            raise ValueError(f"no value at {new:g}")
        if (value > 0) == (value_a > 0):
            c, value_c = a, value_a
        else:
            b, value_b, c, value_c = a, value_a, b, value_b
        a, value_a = new, value
        best, least = (a, value_a) if abs(value_a) < abs(value_b) else (b, value_b)
        if least == 0 or abs(b - a) <= close:
            return best
        edge = close / 2 / abs(b - a)
        xi, phi = (a - b) / (c - b), (value_a - value_b) / (value_c - value_b)
        share = 0.5
        if phi**2 < xi and (1 - phi) ** 2 < 1 - xi:
            to_b, to_c = value_b - value_a, value_c - value_a
            apart = value_c - value_b
            share = (c - a) / (b - a) * value_a / to_c * value_b / apart
            share -= value_a / to_b * value_c / apart
        share = min(1 - edge, max(edge, share))
    return best
