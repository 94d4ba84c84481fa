"""The alternator, with its regulator."""

import itertools
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from molvik.devices.kind import (
    Acting,
    DeviceStates,
    Inside,
    Kind,
    Limits,
    Pair,
    across,
    terminals_named,
)
from molvik.devices.nodes import Vehicle, minus_of, terminal
from molvik.devices.states import State
from molvik.electrical.elements import Current, Element, Resistor, Source
from molvik.electrical.solve import Solution
from molvik.model.parts import Device

CHARGE_LAMP_OHM = 0.5
"""From what charges to its lamp terminal, which it holds at its own voltage, ohms."""

OUTPUT_AT_RPM: tuple[tuple[float, float], ...] = (
    (1000, 0.0),
    (1500, 0.35),
    (2000, 0.55),
    (3000, 0.8),
    (4000, 0.9),
    (6000, 1.0),
)
"""Share of an alternator's largest current by its own speed, 1/min (typical shape of claw-pole
alternators, from memory)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Alternator(Kind):
    """It begins with a current through its lamp terminal, finds its voltage, and goes on alone."""

    alters: bool = True
    acts: bool = True
    by_acting: bool = True
    regulates: bool = True
    crossed: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its output, and its body."""
        return terminal(device, "B+"), minus_of(device)

    def source(self, live: str) -> str:
        """Its output."""
        return "B+"

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """At rest its field; charging a voltage, or all the current that it can give."""
        code, minus = device.code, minus_of(device)
        plus, lamp = terminal(device, "B+"), terminal(device, "L")
        has_lamp = "L" in device.terminals
        if code not in states.on:
            if not has_lamp:
                return []
            ohm = self._field_ohm(vehicle, device)
            return [Resistor(f"{code} field", *self._field(device), ohm)]
        limits = dict(states.limits)
        made: list[Element] = []
        if code in limits:
            made.append(Current(code, plus, minus, limits[code]))
        else:
            lost = dict(states.sensed).get(code, 0.0)
            volts = self.figure(device, "set V", vehicle.nominal) + lost
            made.append(Source(code, plus, minus, volts, self.figure(device, "ohm")))
        if has_lamp:
            made.append(Resistor(f"{code} L", plus, lamp, CHARGE_LAMP_OHM))
        return made

    def _field(self, device: Device) -> Pair:
        return terminal(device, "L"), minus_of(device)

    def _field_ohm(self, vehicle: Vehicle, device: Device) -> float:
        return self.figure(device, "field ohm", vehicle.nominal)

    def inside(self, vehicle: Vehicle, device: Device, on: frozenset[str]) -> Iterator[Inside]:
        """From its lamp through its field."""
        if "L" in device.terminals:
            yield Inside(*self._field(device), self._field_ohm(vehicle, device), "inside")

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """It charges while it is driven, once it was excited."""
        if self._charges(device, state, was, solution):
            found.on.add(device.code)
            self._regulate(vehicle, device, state, was, solution, found)

    def _charges(self, device: Device, state: State, was: DeviceStates, solution: Solution) -> bool:
        if not state.running:
            return False
        if device.code in was.on or "L" not in device.terminals:
            return True
        field_a = solution.amps.get(f"{device.code} field", 0.0)
        return field_a >= self.figure(device, "excite A")

    def _regulate(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """Hold it within what it can give, and its set voltage at its sense wire."""
        code, most = device.code, self.max_current_a(device, state, vehicle.nominal)
        if code not in was.on:
            return
        plus, minus = self.ends(vehicle, device)
        wanted = self.figure(device, "set V", vehicle.nominal)
        before = dict(was.limits)
        if code in before:
            volts = across(solution, plus, minus)
            # It stays at its limit while the voltage stays below what it is set to.
            held = volts < wanted if before[code] > 0 else volts > wanted or most == 0
            if held:
                found.limits[code] = before[code]
        else:
            amps = solution.amps.get(code, 0.0)
            if amps > most or amps < 0:
                found.limits[code] = max(0.0, min(amps, most))
        if "S" in device.terminals and terminal(device, "S") in solution.volts:
            lost = across(solution, plus, terminal(device, "S"))
            if 0 < lost < 0.2 * wanted:
                found.sensed[code] = round(lost, 3)

    def max_current_a(self, device: Device, state: State, nominal: float) -> float:
        """Return the largest current it gives at a state's engine speed, A."""
        rpm = state.rpm * self.figure(device, "pulleys")
        return self.figure(device, "most A", nominal) * output_share(rpm)

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
        """It charges or does not while the engine runs; else it is at rest."""
        if not state.running:
            return "at rest"
        return "alive" if works else "dead"

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """It feeds, and is fed by nothing."""
        yield from ()

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """All its terminals."""
        names: Iterable[str] = terminals_named(device)
        return (terminal(device, name) for name in names)


def output_share(rpm: float) -> float:
    """Return the share of its largest current an alternator gives at its own speed, 1/min."""
    points = OUTPUT_AT_RPM
    if rpm <= points[0][0]:
        return points[0][1]
    for (low, least), (high, most) in itertools.pairwise(points):
        if rpm <= high:
            return least + (most - least) * (rpm - low) / (high - low)
    return points[-1][1]


# 13.8 to 14.8 V, 14.4 typical; needs some tens of milliamperes through L to begin. Pulleys make
# it turn 2.5 times as fast as the engine. The regulator gives way by some tenths of a volt.
ALTERNATOR = Alternator(
    name="alternator",
    terminals=("B+", "L"),
    figures={
        "set V": 14.4,
        "ohm": 0.004,
        "excite A": 0.02,
        "field ohm": 9.0,
        "most A": 90.0,
        "pulleys": 2.5,
    },
    fields=("case",),
    is_engine=True,
    use="charging",
    elsewhere="another machine, or its regulator and windings: it sets the voltage.",
)
