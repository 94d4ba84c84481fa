"""What tells something: gauges, and the sensors of an engine computer."""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import DeviceStates, Kind, OwnTest, pair_of
from molvik.devices.nodes import Vehicle, terminal
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor
from molvik.model.parts import Device

SENDER_OHM = 120.0
"""Inside a gauge, from its supply to the wire of its sender, ohms (typical, from memory)."""

ZERO_K, TWENTY_K = 273.15, 293.15
"""0 and 20 deg C in kelvins."""


@dataclass(frozen=True, kw_only=True, eq=False)
class ThreeWires(Kind):
    """With three terminals the one in the middle is its signal."""

    signal: int = 1

    def last(self, device: Device) -> str:
        """Its return, past the signal."""
        return device.terminals[2 if len(device.terminals) > 2 else 1]


@dataclass(frozen=True, kw_only=True, eq=False)
class Gauge(ThreeWires):
    """An instrument that a sender moves."""

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """What it takes itself, and the way to its sender."""
        made = Kind.elements(self, vehicle, device, state, states)
        if made and len(device.terminals) > 2:
            sender = terminal(device, device.terminals[1])
            plus = self.ends(vehicle, device)[0]
            made.append(Resistor(f"{device.code} sender", plus, sender, SENDER_OHM))
        return made


@dataclass(frozen=True, kw_only=True, eq=False)
class Sensor(ThreeWires):
    """A track with a wiper, between a supply of 5 V and its return."""

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """Its track on both sides of the wiper."""
        made = Kind.elements(self, vehicle, device, state, states)
        if not made or len(device.terminals) < 3:
            return made
        plus, minus = self.ends(vehicle, device)
        ohm = self.load_ohm(vehicle, device)
        signal, share = terminal(device, device.terminals[1]), self.figure(device, "wiper share")
        return [
            Resistor(device.code, plus, signal, ohm * (1 - share)),
            Resistor(f"{device.code} wiper", signal, minus, ohm * share),
        ]

    def on_reference(self, device: Device) -> bool:
        """With three terminals."""
        return len(device.terminals) > 2

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Its track from end to end."""
        if len(device.terminals) > 2:
            yield OwnTest((device.terminals[0], device.terminals[-1]), "its track", "ohm")


@dataclass(frozen=True, kw_only=True, eq=False)
class Thermistor(Kind):
    """A resistance that falls as it warms."""

    def load_ohm(self, vehicle: Vehicle, device: Device) -> float:
        """What it has at the vehicle's temperature."""
        return self.ohm_at(device, vehicle.temperature_c, vehicle.nominal)

    def ohm_at(self, device: Device, celsius: float, nominal_v: float = 12.0) -> float:
        """Return what it has at a temperature, ohms: by its points, beyond which it stays as at the
        last; else by its resistance at 20 deg C and its beta, R = R20 exp(B (1/T - 1/T20)), T in
        kelvins; the exponent is bounded.
        """
        if len(device.curve) > 1:
            return _by_points(sorted(device.curve), celsius)
        return self.figure(device, "ohm", nominal_v) * self._times(device, celsius, nominal_v)

    def _times(self, device: Device, celsius: float, nominal_v: float) -> float:
        steep = self.figure(device, "beta K", nominal_v) * (1 / (ZERO_K + celsius) - 1 / TWENTY_K)
        return math.exp(min(max(steep, -50.0), 50.0))

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Its ohms as warm as the bench is."""
        usual = self.figure(device, "ohm", nominal_v)
        times = self._times(device, bench_c, nominal_v)
        if len(device.curve) > 1 and usual:
            times = self.ohm_at(device, bench_c, nominal_v) / usual
        what = f"at {bench_c:g} °C, falling as it warms"
        yield OwnTest(pair_of(device), what, "ohm", times)


def _by_points(points: list[tuple[float, float]], celsius: float) -> float:
    """Return the ohms of points at a temperature; straight in their logarithms between two."""
    for (low, ohm_low), (high, ohm_high) in itertools.pairwise(points):
        if celsius <= high:
            share = max(0.0, (celsius - low) / (high - low)) if high > low else 0.0
            return float(ohm_low * (ohm_high / ohm_low) ** share)
    return points[-1][1]


def thermistor_c(device: Device, ohm: float, nominal_v: float = 12.0) -> float:
    """Return how warm a thermistor is that has so many ohms, deg C."""
    r20, beta = (THERMISTOR.figure(device, name, nominal_v) for name in ("ohm", "beta K"))
    return 1 / (math.log(ohm / r20) / beta + 1 / TWENTY_K) - ZERO_K


WHEEL = {"teeth": 8.0, "gear": 1.0, "final drive": 3.9, "tyre m": 1.95}
"""What pulses follow from: teeth, how often their wheel turns for each turn of the engine or of the
propeller shaft, the final drive, and how far the tyre rolls in a turn, m (typical)."""

GAUGE = Gauge(
    name="gauge",
    terminals=("+", "S", "-"),
    figures={"A": 0.1, "pulses a turn": 2.0, "pulses a km": 4000.0, "damping s": 10.0},
    fields=("curve",),
    passes=True,
    either_way=True,
    elsewhere="another, or a voltage limiter before it.",
    lower="one made for {volts:g} V: a limiter cannot raise the voltage.",
)

# Three wires: supply, signal, return; the wiper stands at this share.
SENSOR = Sensor(
    name="sensor",
    terminals=("5V", "signal", "return"),
    figures={"ohm": 2500.0, "wiper share": 0.15, "pulses a km": 4000.0, **WHEEL},
    fields=("case", "curve"),
    by_ohm=True,
    is_engine=True,
    watched="wiper",
)

# 2.5 kilohms at 20 deg C, falling with temperature as exp(beta / T).
THERMISTOR = Thermistor(
    name="thermistor",
    terminals=("signal", "return"),
    figures={"ohm": 2500.0, "beta K": 3400.0},
    fields=("case", "curve"),
    is_load=False,
    by_ohm=True,
    is_engine=True,
    watched="sender",
)

PICKUP = Kind(
    name="pickup",
    terminals=("signal", "return", "screen"),
    figures={"ohm": 900.0, "pulses a turn": 2.0, "pulses a km": 4000.0, **WHEEL},
    is_load=False,
    by_ohm=True,
    is_engine=True,
    watched="pickup",
    winding="its winding",
)
