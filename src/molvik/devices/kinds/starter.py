"""The starter, with its solenoid."""

from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import Acting, Bound, DeviceStates, Kind, Pair, across, side
from molvik.devices.nodes import Vehicle, minus_of, terminal
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor
from molvik.electrical.solve import Solution
from molvik.model.parts import Device

HELD_SHARE = 0.5
"""Pulled in, a solenoid holds with this share of what pulls it in (common practice)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Starter(Kind):
    """A motor that its solenoid switches."""

    alters: bool = True
    acts: bool = True
    by_acting: bool = True
    holds: bool = True
    crossed: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its solenoid, and its body."""
        return terminal(device, "50"), minus_of(device)

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """The solenoid, and the motor while that is pulled in."""
        code, minus = device.code, minus_of(device)
        coil = self.figure(device, "coil ohm", vehicle.nominal)
        made: list[Element] = [Resistor(f"{code} coil", terminal(device, "50"), minus, coil)]
        if code in states.on:
            motor = self.figure(device, "motor ohm", vehicle.nominal)
            made.append(Resistor(code, terminal(device, "30"), minus, motor))
        return made

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """It turns while its solenoid is pulled in."""
        pull = self.figure(device, "pull V", vehicle.nominal)
        held = HELD_SHARE if device.code in was.on else 1.0
        if across(solution, *self.ends(vehicle, device)) >= pull * held:
            found.on.add(device.code)

    def bounds(
        self, vehicle: Vehicle, device: Device, states: DeviceStates, solution: Solution
    ) -> Iterator[Bound]:
        """Where it pulls in."""
        pull = self.figure(device, "pull V", vehicle.nominal)
        yield *self.ends(vehicle, device), *side(pull, above=device.code in states.on)

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """By wires only: they are followed from its terminals."""
        yield from ()

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Its solenoid."""
        yield from filter(None, self.ends(vehicle, device))


STARTER = Starter(
    name="starter",
    terminals=("30", "50"),
    figures={"coil ohm": 1.2, "pull V": 7.5, "motor ohm": 0.05},
    fields=("case",),
    is_engine=True,
    use="starter",
    elsewhere="it gets {share}: one made for {volts:g} V, or new windings.",
)
