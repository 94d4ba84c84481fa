"""The standard resistors, in series with a sender or beside it, that mend what a gauge shows."""

from typing import TYPE_CHECKING, Any, NamedTuple

from molvik.circuits.gauges.curves import Curve
from molvik.devices.kinds.sensing import SENDER_OHM
from molvik.reference.resistors import POWERS_W, STANDARD_OHM, TWICE

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Floats = NDArray[Any]

STEPS = 40
"""At so many values over the range the error is looked at."""


class Mended(NamedTuple):
    """A sender with resistors. series_ohm, beside_ohm: None for none; worst, mean: the largest and
    the root mean square error over the range, in units of the gauge; watts: what the resistors turn
    to heat at most, in the order in which they are named.
    """

    series_ohm: float | None
    beside_ohm: float | None
    worst: float
    mean: float
    watts: tuple[float, ...] = ()

    def through(self, sender_ohm: float) -> float:
        """Return what the gauge sees in place of a sender, ohms: what is beside it first, then what
        is in series with both.
        """
        beside = self.beside_ohm
        ohm = sender_ohm if beside is None else sender_ohm * beside / (sender_ohm + beside)
        return ohm + (self.series_ohm or 0.0)

    @property
    def words(self) -> str:
        """Which resistors, in words."""
        parts = [
            f"{ohm:g} Ω {how}, {rated(watts):g} W"
            for (ohm, how), watts in zip(
                [
                    (ohm, how)
                    for ohm, how in (
                        (self.series_ohm, "in series"),
                        (self.beside_ohm, "beside the sender"),
                    )
                    if ohm is not None
                ],
                self.watts or (0.0, 0.0),
                strict=False,
            )
        ]
        return " and ".join(parts) or "none"


def rated(watts: float) -> float:
    """Return which resistor is taken for a heat, W."""
    return next((one for one in POWERS_W if one >= TWICE * watts), POWERS_W[-1])


def errors(
    sender: Curve, gauge: Curve, low: float, high: float, mended: Mended | None = None
) -> list[tuple[float, float | None]]:
    """Return what a gauge shows less what is, at values over a range: (value, error); None where
    the gauge stands at an end of its scale, or nothing is known of the sender.
    """
    found: list[tuple[float, float | None]] = []
    for step in range(STEPS + 1):
        value = low + (high - low) * step / STEPS
        ohm = sender.ohm_at(value)
        seen = None if ohm is None else mended.through(ohm) if mended else ohm
        shown = None if seen is None else gauge.value_at(seen)
        found.append((value, None if shown is None else shown - value))
    return found


def off_scale(sender: Curve, gauge: Curve, value: float, mended: Mended | None = None) -> float:
    """Return the error where a gauge stands at an end of its scale: as far as that end is away."""
    ohm = sender.ohm_at(value)
    if ohm is None:
        return 0.0
    seen = mended.through(ohm) if mended else ohm
    shown = gauge.value_at(seen)
    if shown is None:
        (first, ohm_first), (last, ohm_last) = gauge.points[0], gauge.points[-1]
        shown = first if abs(seen - ohm_first) < abs(seen - ohm_last) else last
    return shown - value


def best_resistor(
    sender: Curve, gauge: Curve, low: float, high: float, supply_v: float = 12.0
) -> Mended:
    """Return the resistors that mend a gauge best over a range: the least sum of squared errors
    over none, one or two standard resistors (IEC 60063, E24). Raises ValueError for a range that
    the sender does not have.

    All pairs are tried: that they are standard makes it a search among some thousands.
    """
    import numpy as np

    first, last = sender.ends
    if not first <= low < high <= last:
        raise ValueError(
            f"The sender is known from {first:g} to {last:g}: choose a range within that."
        )
    values = np.linspace(low, high, STEPS + 1)
    ohms = np.array([sender.ohm_at(float(value)) for value in values])
    scale = sorted((ohm, value) for value, ohm in gauge.points)
    steps = np.array([ohm for ohm, _ in scale])
    marks = np.array([value for _, value in scale])
    logs = gauge.logs

    on_scale = np.log(steps) if logs else steps

    def shows(seen: "Floats") -> "Floats":
        return np.asarray(np.interp(np.log(seen) if logs else seen, on_scale, marks))

    standard = np.array(STANDARD_OHM)
    series = np.concatenate(([0.0], standard))
    best: tuple[float, int, float, float] | None = None
    for beside in (np.inf, *standard):
        under = ohms if np.isinf(beside) else ohms * beside / (ohms + beside)
        off = shows(under[None, :] + series[:, None]) - values
        sums = (off**2).sum(axis=1)
        at = int(sums.argmin())
        parts = int(at > 0) + int(np.isfinite(beside))
        # Of what is as good, the fewer parts.
        key = (float(sums[at]), parts, float(series[at]), float(beside))
        if best is None or key[0] < best[0] * (1 - 1e-6):
            best = key
    assert best is not None
    _, _, in_series, beside = best
    made = Mended(in_series or None, None if np.isinf(beside) else float(beside), 0.0, 0.0)
    seen = np.array([made.through(float(ohm)) for ohm in ohms])
    off = shows(seen) - values
    worst, mean = float(np.abs(off).max()), float(np.sqrt((off**2).mean()))
    return made._replace(worst=worst, mean=mean, watts=_watts(made, ohms.tolist(), supply_v))


def _watts(made: Mended, ohms: list[float], supply_v: float) -> tuple[float, ...]:
    """Return what each resistor turns to heat at most, W, fed through the gauge."""
    series, beside = 0.0, 0.0
    for ohm in ohms:
        whole = made.through(ohm)
        amps = supply_v / (SENDER_OHM + whole)
        series = max(series, amps**2 * (made.series_ohm or 0.0))
        across = amps * (whole - (made.series_ohm or 0.0))
        beside = max(beside, across**2 / made.beside_ohm if made.beside_ohm else 0.0)
    return tuple(
        watts
        for watts, ohm in ((series, made.series_ohm), (beside, made.beside_ohm))
        if ohm is not None
    )
