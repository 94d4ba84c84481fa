"""The alternator, with its regulator inside or beside it, and the dynamo."""

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
from molvik.reference.charging import HOT_SHARE

CHARGE_LAMP_OHM = 0.5
"""From what charges to its lamp terminal, which it holds at its own voltage, ohms."""

IDLE_OHM = 500.0
"""From the terminal that says to a computer whether it charges to earth, while it does not, ohms
(our choice)."""

TRIO_OHM = 0.05
"""The same where the field of a regulator beside it is fed there (common practice: three diodes
that carry some amperes)."""

LAMPS = ("L", "D+", "61")
"""What the terminal of the charge lamp is called (DIN 72552: D+, 61), in this order."""

FULL_FIELD = 0.7
"""With this share of the current that the whole voltage drives through its field it gives all it
can (our choice)."""

FIELD = "DF"
"""The field, where a regulator beside the machine feeds it (DIN 72552)."""

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

DYNAMO_AT_RPM: tuple[tuple[float, float], ...] = ((1100, 0.0), (1400, 0.4), (2000, 1.0))
"""The same of a dynamo: late, then soon all that it may give (typical, from memory)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Alternator(Kind):
    """It begins with a current through its lamp terminal, finds its voltage, and goes on alone.

    With L and D+ a computer excites it at L and is told at D+ that it charges. With a terminal DF
    its regulator is beside it: it begins, and goes on, with what that gives its
    field. output: the terminal that it gives its current at; curve: the share of its largest
    current by its own speed, (1/min, share).
    """

    output: str = "B+"
    curve: tuple[tuple[float, float], ...] = OUTPUT_AT_RPM
    alters: bool = True
    acts: bool = True
    by_acting: bool = True
    regulates: bool = True
    crossed: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its output, and its body."""
        return terminal(device, self.output), minus_of(device)

    def source(self, live: str) -> str:
        """Its output."""
        return self.output

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """At rest its field; charging a voltage, or all the current that it can give."""
        code, (plus, minus) = device.code, self.ends(vehicle, device)
        field = self._field(device)
        on, made = code in states.on, list[Element]()
        if field and (FIELD in device.terminals or not on):
            made.append(Resistor(f"{code} field", *field, self._field_ohm(vehicle, device)))
        if not on:
            return made + self._at_rest(vehicle, device, state)
        limits = dict(states.limits)
        if code in limits:
            made.append(Current(code, plus, minus, limits[code]))
        else:
            lost = dict(states.sensed).get(code, 0.0)
            volts = self.figure(device, "set V", vehicle.nominal) + lost
            made.append(Source(code, plus, minus, volts, self.figure(device, "ohm")))
        ohm = TRIO_OHM if FIELD in device.terminals else CHARGE_LAMP_OHM
        for lamp in self._lamps(device):
            made.append(Resistor(f"{code} {lamp}", plus, terminal(device, lamp), ohm))
        return made

    def lamp(self, device: Device) -> str:
        """Return its terminal for the charge lamp, empty for none."""
        return next(iter(self._lamps(device)), "")

    def _lamps(self, device: Device) -> list[str]:
        """Return the terminals that are alive while it charges: with two the first excites it, and
        the other says so to a computer.
        """
        return [name for name in LAMPS if name in device.terminals and name != self.output]

    def excited_at(self, device: Device) -> str:
        """Return the terminal at which it is excited, empty where nothing from outside does it."""
        return FIELD if FIELD in device.terminals else self.lamp(device)

    def _field(self, device: Device) -> Pair | None:
        """Return between which nodes its field is."""
        name = self.excited_at(device)
        return (terminal(device, name), minus_of(device)) if name else None

    def _at_rest(self, vehicle: Vehicle, device: Device, state: State) -> list[Element]:
        """Return what else it is while it does not charge: what says so to a computer is low."""
        minus, code = minus_of(device), device.code
        return [
            Resistor(f"{code} {name}", terminal(device, name), minus, IDLE_OHM)
            for name in self._lamps(device)[1:]
        ]

    def _field_ohm(self, vehicle: Vehicle, device: Device) -> float:
        return self.figure(device, "field ohm", vehicle.nominal)

    def inside(self, vehicle: Vehicle, device: Device, on: frozenset[str]) -> Iterator[Inside]:
        """From its lamp through its field."""
        if field := self._field(device):
            yield Inside(*field, self._field_ohm(vehicle, device), "inside")

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
        goes_on = device.code in was.on and FIELD not in device.terminals
        return goes_on or self.is_excited(device, solution)

    def is_excited(self, device: Device, solution: Solution) -> bool:
        """Return whether enough flows through its field that it begins; by a solution in which it
        does not charge yet.
        """
        if self._field(device) is None:
            return True
        return self._field_a(device, solution) >= self.figure(device, "excite A")

    def begins(self, device: Device, standing: Solution, running: Solution) -> bool:
        """Return the same by the solution with the engine standing, and the one that it charges
        in.
        """
        return self.is_excited(device, standing)

    def _field_a(self, device: Device, solution: Solution) -> float:
        return solution.amps.get(f"{device.code} field", 0.0)

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
        if FIELD in device.terminals:  # fed with less, as by the lamp alone, it gives less
            full = self.figure(device, "set V", vehicle.nominal) / self._field_ohm(vehicle, device)
            most *= min(1.0, self._field_a(device, solution) / (FULL_FIELD * full))
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
        return self.given_a(device, state.rpm * self.figure(device, "pulleys"), nominal)

    def given_a(self, device: Device, rpm: float, nominal: float = 12.0) -> float:
        """Return the largest current it gives at its own speed, A: by its typed points where it
        has some, below the first of which it is taken to give nothing.
        """
        if device.curve:
            points = sorted(device.curve)
            return share_at(tuple(points), rpm) if rpm >= points[0][0] else 0.0
        return self.figure(device, "most A", nominal) * share_at(self.curve, rpm)

    def hot_a(self, device: Device, rpm: float, nominal: float = 12.0) -> float:
        """Return the same hot: a rating is for a cold machine, typed points are as they are."""
        return self.given_a(device, rpm, nominal) * (1.0 if device.curve else HOT_SHARE)

    def rating_a(self, device: Device, nominal: float = 12.0) -> float:
        """The most of its typed points, where its rating is not typed too."""
        if device.curve and "most A" not in dict(device.values):
            return max(amps for _, amps in device.curve)
        return self.figure(device, "most A", nominal)

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


@dataclass(frozen=True, kw_only=True, eq=False)
class Dynamo(Alternator):
    """It gives direct current by itself, and begins with the magnetism that is left in its iron."""

    def begins(self, device: Device, standing: Solution, running: Solution) -> bool:
        """It begins by being turned, where it reaches its field."""
        return self.is_excited(device, running)

    def _at_rest(self, vehicle: Vehicle, device: Device, state: State) -> list[Element]:
        """Its winding, which lights the lamp while it stands; turning it gives a little."""
        ends, ohm = self.ends(vehicle, device), self.figure(device, "winding ohm", vehicle.nominal)
        if state.running:
            left = self.figure(device, "left V", vehicle.nominal)
            return [Source(f"{device.code} winding", *ends, left, ohm)]
        return [Resistor(f"{device.code} winding", *ends, ohm)]


def share_at(points: tuple[tuple[float, float], ...], rpm: float) -> float:
    """Return what a machine gives at its own speed, 1/min, by points: on straight lines between
    them, and as at the first or last beyond.
    """
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
    fields=("case", "curve"),
    is_engine=True,
    use="charging",
    elsewhere="another machine, or its regulator and windings: it sets the voltage.",
)

# 11 to 30 A, 22 usual; 14.2 V by its regulator; its field has some 6 ohms, its winding a quarter of
# one, and what is left in the iron gives half a volt. It turns about twice as fast as the engine.
DYNAMO = Dynamo(
    name="dynamo",
    terminals=("D+", "DF"),
    output="D+",
    curve=DYNAMO_AT_RPM,
    figures={
        "set V": 14.2,
        "ohm": 0.02,
        "excite A": 0.03,
        "field ohm": 6.0,
        "winding ohm": 0.25,
        "left V": 0.5,
        "most A": 22.0,
        "pulleys": 2.0,
    },
    fields=("case", "curve"),
    is_engine=True,
    use="charging",
    elsewhere="another machine, or its regulator and windings: it sets the voltage.",
)


def alternators(devices: Iterable[Device]) -> list[tuple[Device, Alternator]]:
    """Return what charges among devices as an alternator or a dynamo does, each with its kind."""
    kinds = {kind.name: kind for kind in (ALTERNATOR, DYNAMO)}
    return [(device, kinds[device.kind]) for device in devices if device.kind in kinds]
