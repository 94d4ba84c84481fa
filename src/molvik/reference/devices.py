"""Usual figures of devices. All are typical values from common practice, from memory; a device may
have its own.

They are for 12 V. In a vehicle of another voltage, voltages go with it and resistances with its
square, so that a lamp has the same power.
"""

import itertools

from molvik.model.parts import Device

TYPICAL: dict[str, dict[str, float]] = {
    # A lead-acid starter battery, charged: 12.4 to 12.7 V at rest. Full, it takes a dozen amperes
    # from an alternator, not the hundred its inner resistance would let in.
    "battery": {"rest V": 12.6, "ohm": 0.012, "charge ohm": 0.15},
    # 13.8 to 14.8 V, 14.4 typical; needs some tens of milliamperes through L to begin. Pulleys make
    # it turn 2.5 times as fast as the engine. The regulator gives way by some tenths of a volt.
    "alternator": {
        "set V": 14.4, "ohm": 0.004, "excite A": 0.02, "field ohm": 9.0, "most A": 90.0,
        "pulleys": 2.5,
    },
    "starter": {"coil ohm": 1.2, "pull V": 7.5, "motor ohm": 0.05},
    "relay": {
        "coil ohm": 90.0, "pull share": 0.6, "drop share": 0.2, "contact ohm": 0.005,
        "across ohm": 680.0,
    },
    "switch": {"contact ohm": 0.01},
    "isolator": {"contact ohm": 0.001},
    "bus bar": {"ohm": 0.0001},
    "load": {"A": 2.0},
    "lamp": {"A": 1.75},
    # 1.2 to 3 W behind an instrument.
    "warning lamp": {"A": 0.2},
    # It starts with five times its running current, for tenths of a second.
    "motor": {"A": 8.0, "inrush times": 5.0},
    "solenoid": {"A": 1.5},
    # High resistance 12 to 16 ohms; low resistance 2 to 5, and then with a resistor before it.
    "injector": {"ohm": 14.0},
    "coil": {"ohm": 2.4},
    "heater": {"A": 5.0},
    "resistor": {"ohm": 560.0},
    "diode": {"saturation A": 1e-9, "emission": 1.8},
    # What it holds at 20 mA, and a resistor that is part of it; none where "ohm" is 0.
    "LED": {"drop": 2.0, "ohm": 560.0},
    "gauge": {"A": 0.1},
    # Three wires: supply, signal, return; the wiper stands at this share.
    "sensor": {"ohm": 2500.0, "wiper share": 0.15},
    # 2.5 kilohms at 20 deg C, falling with temperature as exp(beta / T).
    "thermistor": {"ohm": 2500.0, "beta K": 3400.0},
    "pickup": {"ohm": 900.0},
    # ISO 11898-2: 120 ohms at each of the two ends of the line; others draw next to nothing.
    "network node": {"ohm": 30_000.0},
    "diagnostic plug": {"ohm": 1e6},
    # Wakes at about half its nominal voltage and draws about an ampere itself.
    "controller": {"least V": 6.5, "A": 1.0, "asleep A": 0.01, "driver ohm": 0.2, "live V": 4.0,
                   "input ohm": 10_000.0},
}  # fmt: skip
"""By kind of device, then by name: V, A, ohms, K, or a share of the nominal voltage. What ends in
" V" goes with that voltage; a light-emitting diode's "drop" in V does not."""

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

UNKNOWN_WIRE_OHM = 0.01
"""A wire of unknown size or length, ohms (our choice: about a metre of 2 mm2)."""


def value(device: Device, name: str, nominal_v: float = 12.0) -> float:
    """Return a figure of a device: its own, or the usual one of its kind at a nominal voltage."""
    for own, figure in device.values:
        if own == name:
            return figure
    usual = TYPICAL[device.kind][name]
    share = nominal_v / 12.0
    if name.endswith(" V"):
        return usual * share
    if device.kind == "battery":  # half the cells, half the resistance
        return usual * share
    if name in ("coil ohm", "motor ohm", "field ohm") or (
        name == "ohm" and device.kind in ("injector", "coil", "resistor", "LED")
    ):
        return usual * share**2
    return usual / share if name in ("A", "most A") else usual


def output_share(rpm: float) -> float:
    """Return the share of its largest current an alternator gives at its own speed, 1/min."""
    points = OUTPUT_AT_RPM
    if rpm <= points[0][0]:
        return points[0][1]
    for (low, least), (high, most) in itertools.pairwise(points):
        if rpm <= high:
            return least + (most - least) * (rpm - low) / (high - low)
    return points[-1][1]
