"""The regulator beside an alternator or a dynamo."""

from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import (
    Acting,
    Bound,
    DeviceStates,
    Inside,
    Kind,
    OwnTest,
    Pair,
    across,
    side,
)
from molvik.devices.nodes import Vehicle, minus_of, terminal
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor
from molvik.electrical.solve import Solution
from molvik.model.parts import Device

FIELD_OHM = 0.1
"""From D+ to DF while the regulator lets the field have all: contacts, or a transistor, ohms."""

LAMP_OHM = 0.01
"""From D+ to 61, which are one inside, ohms."""

CUT_OUT_OHM = 0.02
"""The contacts and the winding of a cut-out, ohms (common practice)."""

HELD_SHARE = 0.9
"""A cut-out that has closed stays until less than this share of what closed it (our choice)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Regulator(Kind):
    """It gives the field of a machine what that needs. With a terminal B+ it is a dynamo's: its
    cut-out joins that to D+ while the dynamo gives more than the battery has.

    Terminals of DIN 72552: D+ from the machine, DF its field, 61 the charge lamp, B+ the battery
    (51 with some), 31 its earth.
    """

    alters: bool = True
    acts: bool = True
    by_acting: bool = True
    holds: bool = True
    crossed: bool = False
    is_load: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its winding: from D+ to its body."""
        return terminal(device, "D+"), minus_of(device)

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """Its winding, the way to the field, and the cut-out while it is closed."""
        code, (plus, minus) = device.code, self.ends(vehicle, device)
        ohm = self.figure(device, "coil ohm", vehicle.nominal)
        made: list[Element] = [Resistor(code, plus, minus, ohm)]
        for to, a_ohm in self._ways(device):
            made.append(Resistor(f"{code} {to}", plus, terminal(device, to), a_ohm))
        if "B+" in device.terminals and code in states.on:
            made.append(Resistor(f"{code} B+", plus, terminal(device, "B+"), CUT_OUT_OHM))
        return made

    def _ways(self, device: Device) -> Iterator[tuple[str, float]]:
        for to, ohm in (("DF", FIELD_OHM), ("61", LAMP_OHM)):
            if to in device.terminals:
                yield to, ohm

    def inside(self, vehicle: Vehicle, device: Device, on: frozenset[str]) -> Iterator[Inside]:
        """Its winding, and from D+ to the field, the lamp and the battery."""
        plus, minus = self.ends(vehicle, device)
        yield Inside(plus, minus, self.figure(device, "coil ohm", vehicle.nominal), "load")
        for to, ohm in self._ways(device):
            yield Inside(plus, terminal(device, to), ohm, "inside")
        if "B+" in device.terminals:
            closed = device.code in on
            yield Inside(plus, terminal(device, "B+"), CUT_OUT_OHM, "inside", closed)

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """Its cut-out closes while the engine runs and the dynamo gives enough."""
        share = HELD_SHARE if device.code in was.on else 1.0
        volts = across(solution, *self.ends(vehicle, device))
        if state.running and volts >= share * self._closes_v(vehicle, device):
            found.on.add(device.code)

    def _closes_v(self, vehicle: Vehicle, device: Device) -> float:
        return self.figure(device, "cut-in V", vehicle.nominal)

    def bounds(
        self, vehicle: Vehicle, device: Device, states: DeviceStates, solution: Solution
    ) -> Iterator[Bound]:
        """Where its cut-out closes."""
        closes = self._closes_v(vehicle, device)
        yield *self.ends(vehicle, device), *side(closes, above=device.code in states.on)

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Its winding."""
        yield from self.ends(vehicle, device)

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """At rest the field hangs on D+, and the battery does not."""
        yield OwnTest(("D+", "DF"), "its contact to the field, at rest", shows="closed")
        if "B+" in device.terminals:
            yield OwnTest(("D+", "B+"), "its cut-out, at rest", shows="open")


# A dynamo's cut-out closes at 12.8 V; its winding is some 60 ohms (typical, from memory).
REGULATOR = Regulator(
    name="regulator",
    terminals=("D+", "DF", "B+", "61", "31"),
    figures={"cut-in V": 12.8, "coil ohm": 60.0},
    fields=("case",),
    is_engine=True,
    use="charging",
    elsewhere="another one: it sets the voltage.",
)
