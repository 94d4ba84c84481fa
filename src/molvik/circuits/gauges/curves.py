"""Ohms against a temperature, level or pressure: by points, by a thermistor's law, fitted laws."""

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

from molvik.devices.kinds.sensing import TWENTY_K, ZERO_K
from molvik.model.curve import Points, curve_problem


class Curve:
    """Points with straight lines between them, on which nothing is known beyond the ends. logs: of
    the logarithm of ohms, as thermistors want it.

    Raises ValueError for points that make no curve.
    """

    def __init__(self, points: Points, *, logs: bool = False) -> None:
        if problem := curve_problem(points):
            raise ValueError(f"{problem}.")
        self.points = tuple(sorted(points))
        self.logs = logs

    @property
    def ends(self) -> tuple[float, float]:
        """The first and the last value that it knows."""
        return self.points[0][0], self.points[-1][0]

    def ohm_at(self, value: float) -> float | None:
        """Return the ohms at a value, None beyond the ends."""
        if not self.points[0][0] <= value <= self.points[-1][0]:
            return None
        for (a, ohm_a), (b, ohm_b) in itertools.pairwise(self.points):
            if value <= b:
                share = (value - a) / (b - a)
                if self.logs:
                    return float(ohm_a * (ohm_b / ohm_a) ** share)
                return ohm_a + (ohm_b - ohm_a) * share
        return self.points[-1][1]

    def value_at(self, ohm: float) -> float | None:
        """Return the value at which it has so many ohms, None beyond the ends."""
        if ohm <= 0:
            return None
        for (a, ohm_a), (b, ohm_b) in itertools.pairwise(self.points):
            if min(ohm_a, ohm_b) <= ohm <= max(ohm_a, ohm_b):
                if self.logs:
                    share = math.log(ohm / ohm_a) / math.log(ohm_b / ohm_a)
                else:
                    share = (ohm - ohm_a) / (ohm_b - ohm_a)
                return a + (b - a) * share
        return None


class Beta(NamedTuple):
    """A thermistor's law R = R25 exp(B (1/T - 1/T25)). off: the largest share it is off at the
    points it was fitted to.
    """

    r25: float
    beta_k: float
    off: float

    def ohm_at(self, celsius: float) -> float:
        """Return what it has at a temperature, ohms."""
        return self.r25 * math.exp(self.beta_k * (1 / (celsius + ZERO_K) - 1 / (25 + ZERO_K)))


class SteinhartHart(NamedTuple):
    """A thermistor's law 1/T = a + b ln R + c (ln R)^3, T in kelvins. off_k: the largest error at
    the points it was fitted to, K.
    """

    a: float
    b: float
    c: float
    off_k: float

    def celsius_at(self, ohm: float) -> float:
        """Return the temperature at which it has so many ohms, deg C."""
        log = math.log(ohm)
        return 1 / (self.a + self.b * log + self.c * log**3) - ZERO_K


def fit_beta(points: Points) -> Beta:
    """Return the law of two figures that fits points (deg C, ohms) best: a straight line through
    ln R over 1/T, least squares. Raises ValueError for fewer than two points, or ones that cannot
    be.
    """
    from scipy.linalg import lstsq

    _thermistor(points, 2)
    rows = [[1.0, 1 / (celsius + ZERO_K)] for celsius, _ in points]
    found, *_ = lstsq(rows, [math.log(ohm) for _, ohm in points])
    begin, slope = (float(one) for one in found)
    made = Beta(math.exp(begin + slope / (25 + ZERO_K)), slope, 0.0)
    off = max(abs(made.ohm_at(celsius) / ohm - 1) for celsius, ohm in points)
    return made._replace(off=off)


def fit_steinhart_hart(points: Points) -> SteinhartHart:
    """Return the law of Steinhart and Hart (1968) that fits points (deg C, ohms) best by least
    squares. Raises ValueError for fewer than three points, or ones that cannot be.
    """
    from scipy.linalg import lstsq

    _thermistor(points, 3)
    rows = [[1.0, math.log(ohm), math.log(ohm) ** 3] for _, ohm in points]
    found, *_ = lstsq(rows, [1 / (celsius + ZERO_K) for celsius, _ in points])
    a, b, c = (float(one) for one in found)
    made = SteinhartHart(a, b, c, 0.0)
    off = max(abs(made.celsius_at(ohm) - celsius) for celsius, ohm in points)
    return made._replace(off_k=off)


def _thermistor(points: Points, least: int) -> None:
    if len(points) < least:
        raise ValueError(f"This law takes {least} points at least.")
    if problem := curve_problem(points):
        raise ValueError(f"{problem}.")
    if any(celsius <= -ZERO_K for celsius, _ in points):
        raise ValueError("Nothing is colder than -273 °C.")


def by_law(r20: float, beta_k: float, values: Sequence[float]) -> Points:
    """Return points of a thermistor that is known by its resistance at 20 deg C and its beta."""
    return tuple(
        (celsius, r20 * math.exp(beta_k * (1 / (celsius + ZERO_K) - 1 / TWENTY_K)))
        for celsius in values
    )
