"""Figures of devices: their own, or the usual ones of their kind at a nominal voltage.

What else is known of batteries, alternators and what joins them. All are typical values from common
practice, from memory.
"""

import itertools
import math

from molvik.model.parts import Device
from molvik.reference.device_types import DeviceType, type_of

WINDINGS = ("coil ohm", "motor ohm", "field ohm")
"""Figures that go with the square of the nominal voltage, whatever has them."""

LED_A, LED_EMISSION = 0.02, 2.0
"""A light-emitting diode's drop is told at this current; for ten times as much it is an eighth of a
volt more (typical, from memory)."""

LED_LIT_A = 0.001
"""From this current on one is seen (common practice)."""

BATTERY_STATES: dict[str, tuple[float, float]] = {
    "charged": (1.0, 1.0),
    "half": (12.2 / 12.6, 1.5),
    "flat": (11.6 / 12.6, 3.0),
}
"""What is left of a battery's rest voltage, and how many times its resistance has grown (lead-acid,
common practice: 12.2 V is half, 11.6 V is flat; the resistances are our guess)."""

COLD_PER_K = 0.025
"""By what share a battery's resistance grows for each kelvin below 20 deg C (common practice: it
about doubles at -20)."""

OUTPUT_AT_RPM: tuple[tuple[float, float], ...] = (
    (1000, 0.0), (1500, 0.35), (2000, 0.55), (3000, 0.8), (4000, 0.9), (6000, 1.0),
)  # fmt: skip
"""Share of an alternator's largest current by its own speed, 1/min (typical shape of claw-pole
alternators, from memory)."""

MATED_OHM = 0.005
"""Two cavities that are plugged together, ohms (common practice: a few milliohms)."""

METAL_OHM = 0.0005
"""From one earth point to another through the metal, ohms (common practice)."""

FUSE_DROP_V = 0.1
"""What a fuse loses at its rating, V (typical of blade fuses; common practice)."""

ZERO_K, TWENTY_K = 273.15, 293.15
"""0 and 20 deg C in kelvins."""

UNKNOWN_WIRE_OHM = 0.01
"""A wire of unknown size or length, ohms (our choice: about a metre of 2 mm2)."""


def value(device: Device, name: str, nominal_v: float = 12.0) -> float:
    """Return a figure of a device: its own, or the usual one of its kind at a nominal voltage."""
    for own, figure in device.values:
        if own == name:
            return figure
    kind = type_of(device)
    usual = kind.figures[name]
    return usual if name == "Ah" else at_share(kind, name, usual, nominal_v / 12.0)


def at_share(kind: DeviceType, name: str, figure: float, share: float) -> float:
    """Return a figure of a device of the same power at another voltage. share: of that voltage to
    the one the figure is for.
    """
    if name.endswith(" V"):
        return figure * share
    if name in ("A", "most A", "asleep A", "Ah"):  # of a battery as many watt-hours
        return figure / share
    if kind.ohm_goes == "with it":  # of the figures of a battery, all that are left
        return figure * share
    if name in WINDINGS or (name == "ohm" and kind.ohm_goes == "with its square"):
        return figure * share**2
    return figure


def thermistor_ohm(device: Device, celsius: float, nominal_v: float = 12.0) -> float:
    """Return what a thermistor has at a temperature, ohms: by its resistance at 20 deg C and its
    beta, R = R20 exp(B (1/T - 1/T20)), T in kelvins; the exponent is bounded.
    """
    return value(device, "ohm", nominal_v) * thermistor_times(device, celsius, nominal_v)


def thermistor_times(device: Device, celsius: float, nominal_v: float = 12.0) -> float:
    """Return how many times its resistance at 20 deg C a thermistor has at a temperature."""
    steep = value(device, "beta K", nominal_v) * (1 / (ZERO_K + celsius) - 1 / TWENTY_K)
    return math.exp(min(max(steep, -50.0), 50.0))


def thermistor_c(device: Device, ohm: float, nominal_v: float = 12.0) -> float:
    """Return how warm a thermistor is that has so many ohms, deg C."""
    steep = math.log(ohm / value(device, "ohm", nominal_v)) / value(device, "beta K", nominal_v)
    return 1 / (steep + 1 / TWENTY_K) - ZERO_K


def output_share(rpm: float) -> float:
    """Return the share of its largest current an alternator gives at its own speed, 1/min."""
    points = OUTPUT_AT_RPM
    if rpm <= points[0][0]:
        return points[0][1]
    for (low, least), (high, most) in itertools.pairwise(points):
        if rpm <= high:
            return least + (most - least) * (rpm - low) / (high - low)
    return points[-1][1]
