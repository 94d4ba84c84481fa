"""What sits in a wire, or beside a load: resistors, diodes, light-emitting diodes."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import ConductionPath, DeviceStates, Kind, Limits, OwnTest, Pair, pair_of
from molvik.devices.nodes import Vehicle, turned
from molvik.devices.states import State
from molvik.electrical.elements import THERMAL_V, Diode, Element, Resistor
from molvik.model.parts import Device

LED_A, LED_EMISSION = 0.02, 2.0
"""A light-emitting diode's drop is told at this current; for ten times as much it is an eighth of a
volt more (typical, from memory)."""

LED_LIT_A = 0.001
"""From this current on one is seen (common practice)."""

SAME_V = 1e-4
"""What goes by its current stands as before where its voltage changes by less, V."""


@dataclass(frozen=True, kw_only=True, eq=False)
class OneWay(Kind):
    """It knows its poles."""

    passes: bool = True

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its anode and its cathode, as they are in the solution."""
        return turned(vehicle, *super().ends(vehicle, device))


@dataclass(frozen=True, kw_only=True, eq=False)
class PlainDiode(OneWay):
    """A diode."""

    is_load: bool = False
    in_line: bool = True

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """Its curve."""
        plus, minus = self.ends(vehicle, device)
        curve = self.figure(device, "saturation A"), self.figure(device, "emission")
        return [Diode(device.code, plus, minus, *curve)] if plus and minus else []

    def conduction_paths(self, device: Device, live: str) -> tuple[ConductionPath, ...]:
        """One way; with plus at metal a supply is at minus, and passes it from its other end."""
        if len(device.terminals) < 2:
            return ()
        anode, cathode = device.terminals[:2]
        ends = (anode, cathode) if live == "+" else (cathode, anode)
        return (ConductionPath(*ends, both=False),)

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Forwards and backwards."""
        pair = pair_of(device)
        yield OwnTest(pair, "diode test, forwards", shows="diode")
        yield OwnTest(pair[::-1], "ohms backwards", shows="open")


@dataclass(frozen=True, kw_only=True, eq=False)
class Led(OneWay):
    """A light-emitting diode, which holds its drop, with the resistor that is part of it."""

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """Its resistor, and its curve behind that."""
        plus, minus = self.ends(vehicle, device)
        if not (plus and minus):
            return []
        code, ohm = device.code, self.figure(device, "ohm", vehicle.nominal)
        bends = self.figure(device, "drop") / (LED_EMISSION * THERMAL_V)
        curve = LED_A / math.expm1(min(max(bends, 1e-9), 700.0)), LED_EMISSION
        middle = f"{code} inside"
        return [Resistor(code, plus, middle, ohm), Diode(f"{code} LED", middle, minus, *curve)]

    def stands(
        self,
        device: Device,
        volts: float,
        amps: float,
        limits: Limits,
        *,
        works: bool,
        state: State,
    ) -> str:
        """By its current, for it holds its drop: that says whether it is seen."""
        return "alive" if amps >= LED_LIT_A else "weak" if amps >= LED_LIT_A / 5 else "dead"

    def stays_between(self, state: str, now_v: float, limits: Limits) -> tuple[float, float]:
        """Where its voltage stays."""
        return now_v - SAME_V, now_v + SAME_V


RESISTOR = Kind(
    name="resistor",
    figures={"ohm": 560.0},
    ohm_goes="with its square",
    by_ohm=True,
    passes=True,
    in_line=True,
    winding="itself",
    elsewhere="{square} its ohms for the same power; a ballast is chosen by what it feeds.",
)

DIODE = PlainDiode(name="diode", figures={"saturation A": 1e-9, "emission": 1.8})

# What it holds at 20 mA, and a resistor that is part of it; none where "ohm" is 0. Its drop in V
# does not go with the nominal voltage.
LED = Led(
    name="LED",
    figures={"drop": 2.0, "ohm": 560.0},
    ohm_goes="with its square",
    elsewhere="another resistor before it.",
)
