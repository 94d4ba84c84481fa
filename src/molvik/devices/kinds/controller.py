"""Engine computers and other controllers: fed at some cavities, driving others."""

from collections.abc import Iterator
from dataclasses import dataclass

from molvik.devices.kind import (
    Acting,
    Bound,
    ConductionPath,
    DeviceStates,
    Inside,
    Kind,
    Pair,
    across,
    side,
)
from molvik.devices.nodes import Vehicle, ohm_at, terminal, turned
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor, Source
from molvik.electrical.solve import Solution
from molvik.model.parts import Device, Output
from molvik.reference.inputs import PULL_UP_OHM

INSIDE_OHM = 0.01
"""From a cavity to the supply or earth inside, ohms (our choice: a track and a pin)."""

REFERENCE_V, REFERENCE_OHM = 5.0, 1.0
"""What an output for sensors holds, V, behind so many ohms (typical, from memory)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Controller(Kind):
    """It is awake while it is fed or spoken to, and drives its outputs."""

    alters: bool = True
    acts: bool = True
    by_acting: bool = True
    is_computer: bool = True
    crossed: bool = False

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Its supply and its earth, inside."""
        return supply_node(device), earth_node(device)

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """What it takes itself, what holds its inputs, and the outputs that act."""
        code, on = device.code, states.on
        plus, earth = self.ends(vehicle, device)
        made: list[Element] = []
        for names, node in ((device.supplies, plus), (device.earths, earth)):
            for name in names:
                made.append(Resistor(f"{code} {name}", terminal(device, name), node, INSIDE_OHM))
        draws = "A" if awake_key(device) in on else "asleep A"
        ohm = ohm_at(vehicle.nominal, self.figure(device, draws, vehicle.nominal))
        made.append(Resistor(code, plus, earth, ohm))
        # Inputs are held low, or high for switches to earth, by resistors inside.
        for name, when in sorted({(one.input, one.when) for one in device.outputs if one.input}):
            pin = terminal(device, name)
            ends = (plus, pin) if when == "input low" else (pin, earth)
            made.append(
                Resistor(f"{code} input {name} {when}", *ends, self.figure(device, "input ohm"))
            )
        for output in device.outputs:
            if output_key(device, output) not in on:
                continue
            node, name = terminal(device, output.terminal), f"{code} drives {output.terminal}"
            if output.acts == "5 V":
                ends = turned(vehicle, node, earth)
                made.append(Source(name, *ends, REFERENCE_V, REFERENCE_OHM))
            else:
                ends = (node, earth) if output.acts == "pulls low" else (plus, node)
                made.append(Resistor(name, *ends, self.figure(device, "driver ohm")))
        return made

    def inside(self, vehicle: Vehicle, device: Device, on: frozenset[str]) -> Iterator[Inside]:
        """From its cavities to its inside, and through its drivers."""
        plus, earth = self.ends(vehicle, device)
        for names, node in ((device.supplies, plus), (device.earths, earth)):
            for name in names:
                yield Inside(terminal(device, name), node, INSIDE_OHM, "inside")
        for output in device.outputs:
            node = plus if output.acts == "feeds high" else earth
            acts = output_key(device, output) in on
            yield Inside(
                terminal(device, output.terminal),
                node,
                self.figure(device, "driver ohm"),
                "driver",
                acts,
            )

    def conduction_paths(self, device: Device, live: str) -> tuple[ConductionPath, ...]:
        """From its supplies to what it feeds, and from one supply to the others."""
        acts, fed = (
            ("feeds high", device.supplies)
            if live == "+"
            else (
                "pulls low",
                device.earths,
            )
        )
        led = [output.terminal for output in device.outputs if output.acts == acts]
        out = [ConductionPath(supply, to, both=False) for supply in fed for to in led]
        first, *others = fed or ("",)
        return (*out, *(ConductionPath(first, other, inside=True) for other in others))

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """It works while it is fed; awake, and with outputs that act, by its inputs."""
        volts = across(solution, *self.ends(vehicle, device)) * vehicle.polarity
        if volts < self.figure(device, "least V", vehicle.nominal):
            return
        found.on.add(device.code)
        if self._awake(vehicle, device, state, solution):
            found.on.add(awake_key(device))
        found.on.update(
            output_key(device, output)
            for output in device.outputs
            if self._acts(vehicle, device, output, state, solution)
        )

    def _awake(self, vehicle: Vehicle, device: Device, state: State, solution: Solution) -> bool:
        """With an input that wakes it, it sleeps until that is live; without, it is awake while it
        is fed, until it has rested for as long as it takes to fall asleep. 0 minutes: never.
        """
        inputs = wakers(device)
        if not inputs:
            return not (state.rested and self.figure(device, "sleeps min"))
        return any(self._is_live(vehicle, device, solution, name) for name in inputs)

    def _is_live(self, vehicle: Vehicle, device: Device, solution: Solution, name: str) -> bool:
        """Whether an input is live, against its earth."""
        ends = turned(vehicle, terminal(device, name), earth_node(device))
        return across(solution, *ends) >= self.figure(device, "live V", vehicle.nominal)

    def _acts(
        self, vehicle: Vehicle, device: Device, output: Output, state: State, solution: Solution
    ) -> bool:
        """Whether an output acts while it is powered."""
        match output.when:
            case "powered":
                return True
            case "first seconds":
                return state.first
            case "first seconds and turning":
                return state.first or state.turning
            case "key on":
                return state.key in ("run", "crank")
            case "turning":
                return state.turning
            case "cranking":
                return state.turning and not state.running
            case "running":
                return state.running
            case _:
                live = self._is_live(vehicle, device, solution, output.input)
                return not live if output.when == "input low" else live

    def bounds(
        self, vehicle: Vehicle, device: Device, states: DeviceStates, solution: Solution
    ) -> Iterator[Bound]:
        """Where it is fed, and where each input is live."""
        on = device.code in states.on
        ends = turned(vehicle, *self.ends(vehicle, device))
        yield *ends, *side(self.figure(device, "least V", vehicle.nominal), above=on)
        live = self.figure(device, "live V", vehicle.nominal)
        for name in {output.input for output in device.outputs if on and output.input}:
            high, low = turned(vehicle, terminal(device, name), earth_node(device))
            now = solution.volts.get(high, 0.0) - solution.volts.get(low, 0.0)
            yield high, low, *side(live, above=now >= live)

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Its supplies and earths."""
        return (terminal(device, name) for name in (*device.supplies, *device.earths))

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Its supplies, earths and inputs."""
        yield from self.fed_at(vehicle, device)
        yield from (terminal(device, one.input) for one in device.outputs if one.input)


def supply_node(device: Device) -> str:
    """Return the node of a controller's supply inside."""
    return f"{device.code} supply"


def earth_node(device: Device) -> str:
    """Return the node of a controller's earth inside."""
    return f"{device.code} earth"


def awake_key(device: Device) -> str:
    """Return the name that a controller which does not sleep has among what works."""
    return f"{device.code} awake"


def output_key(device: Device, output: Output) -> str:
    """Return the name an output that acts has among what works."""
    return f"{device.code} {output.terminal}"


def wakers(device: Device) -> frozenset[str]:
    """Return the inputs that wake a controller: each that switches an output on when it is live."""
    return frozenset(output.input for output in device.outputs if output.when == "input live")


# Wakes at about half its nominal voltage and draws about an ampere itself.
CONTROLLER = Controller(
    name="controller",
    terminals=("30", "15", "31"),
    figures={
        "least V": 6.5,
        "A": 1.0,
        "asleep A": 0.01,
        "driver ohm": 0.2,
        "live V": 4.0,
        "input ohm": 10_000.0,
        "sleeps min": 10.0,
        "pulses a turn": 2.0,
        "pulses a km": 4000.0,
        "cylinders": 4.0,
        "cylinders a coil": 4.0,
        "strokes": 4.0,
        "pull-up ohm": PULL_UP_OHM,
    },
    fields=("supplies", "earths", "outputs"),
    is_needed=True,
    is_engine=True,
    use="ecu",
    elsewhere="it must be made for {volts:g} V.",
)
