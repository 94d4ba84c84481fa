"""The relay."""

import math
from collections.abc import Collection, Iterator
from dataclasses import dataclass

from molvik.devices.kind import Acting, Bound, DeviceStates, Kind, OwnTest, Pair, across
from molvik.devices.nodes import Vehicle, terminal, turned
from molvik.devices.states import State
from molvik.electrical.elements import Diode, Element, Resistor
from molvik.electrical.solve import Solution
from molvik.model.parts import Device


@dataclass(frozen=True, kw_only=True, eq=False)
class Relay(Kind):
    """A coil that moves contacts: 30 to 87, and 30 to 87a, which is closed at rest."""

    acts: bool = True
    by_acting: bool = True
    is_pulled: bool = True
    holds: bool = True
    crossed: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its coil."""
        return terminal(device, "86"), terminal(device, "85")

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """The coil, and what sits across it."""
        code, coil = device.code, self.ends(vehicle, device)
        ohm = self.figure(device, "coil ohm", vehicle.nominal)
        made: list[Element] = [Resistor(code, *coil, ohm)]
        if device.suppression == "diode":
            made.append(Diode(f"{code} diode", *turned(vehicle, coil[1], coil[0])))
        elif device.suppression == "resistor":
            beside = self.figure(device, "across ohm", vehicle.nominal)
            made.append(Resistor(f"{code} resistor", *coil, beside))
        return made

    def contacts(self, device: Device) -> tuple[Pair, ...]:
        """The pairs of terminals that it makes and breaks."""
        names = set(device.terminals)
        pairs = [pair for pair in device.joins or (("30", "87"),) if set(pair) <= names]
        if "87a" in names and ("30", "87a") not in pairs:
            pairs.append(("30", "87a"))
        return tuple(pairs)

    def joined(self, device: Device, state: State) -> Collection[Pair]:
        """What is closed at rest."""
        return [pair for pair in self.contacts(device) if pair[1] == "87a"]

    def alternatives(self, device: Device) -> tuple[tuple[Pair, ...], ...]:
        """Pulled in and at rest, where something is closed then."""
        pairs = self.contacts(device)
        rest = tuple(pair for pair in pairs if "87a" in pair)
        return (tuple(pair for pair in pairs if pair not in rest), rest) if rest else (pairs,)

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """It pulls in, and lets go at less."""
        name = "drop share" if device.code in was.on else "pull share"
        volts = across(solution, *self.ends(vehicle, device))
        if abs(volts) >= self.figure(device, name) * vehicle.nominal:
            found.on.add(device.code)

    def bounds(
        self, vehicle: Vehicle, device: Device, states: DeviceStates, solution: Solution
    ) -> Iterator[Bound]:
        """Where it pulls in, either way round."""
        a, b = self.ends(vehicle, device)
        pull = self.figure(device, "pull share") * vehicle.nominal
        if device.code not in states.on:
            yield a, b, -pull, pull
        elif solution.volts.get(a, 0.0) > solution.volts.get(b, 0.0):
            yield a, b, pull, math.inf
        else:
            yield b, a, pull, math.inf

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Its coil."""
        yield from self.ends(vehicle, device)

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Its coil, and its contacts at rest and pulled in by its voltage."""
        yield OwnTest(("85", "86"), "its coil", "coil ohm")
        for change in ("87", "87a"):
            if change in device.terminals:
                for position, made in (("at rest", change == "87a"), ("pulled in", change == "87")):
                    what = f"its contact, {position}"
                    yield OwnTest(
                        ("30", change), what, shows="closed" if made else "open", position=position
                    )


RELAY = Relay(
    name="relay",
    terminals=("30", "87", "86", "85"),
    figures={
        "coil ohm": 90.0,
        "pull share": 0.6,
        "drop share": 0.2,
        "contact ohm": 0.005,
        "across ohm": 680.0,
    },
    joins=(("30", "87"),),
    fields=("joins", "suppression"),
    has_coil=True,
    is_supply=True,
    elsewhere="another coil: its pull-in voltage goes with the system.",
)
