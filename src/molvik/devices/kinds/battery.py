"""The battery."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from molvik.devices.kind import Acting, DeviceStates, Kind, Pair
from molvik.devices.nodes import Vehicle, terminal, turned
from molvik.devices.states import State
from molvik.electrical.elements import Element, Source
from molvik.electrical.solve import Solution
from molvik.model.parts import Device

STATES: dict[str, tuple[float, float]] = {
    "charged": (1.0, 1.0),
    "half": (12.2 / 12.6, 1.5),
    "flat": (11.6 / 12.6, 3.0),
}
"""What is left of a battery's rest voltage, and how many times its resistance has grown (lead-acid,
common practice: 12.2 V is half, 11.6 V is flat; the resistances are our guess)."""

COLD_PER_K = 0.025
"""By what share a battery's resistance grows for each kelvin below 20 deg C (common practice: it
about doubles at -20)."""

CHARGING_A = 1e-3
"""From this current back into it on a battery is charged, A (our choice)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Battery(Kind):
    """A lead-acid starter battery."""

    alters: bool = True
    acts: bool = True
    crossed: bool = False

    def source(self, live: str) -> str:
        """Its live pole."""
        return live

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """A voltage behind a resistance; an empty battery gives less, and takes more."""
        share, worn = STATES[state.battery]
        cold = 1.0 + COLD_PER_K * max(0.0, 20.0 - state.temperature_c)
        ends = turned(vehicle, *_poles(device))
        figure = partial(vehicle.battery_figure, device)
        charging = f"{device.code} charging" in states.on
        ohm = figure("charge ohm") if charging else figure("ohm") * worn
        return [Source(device.code, *ends, figure("rest V") * share, ohm * cold)]

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """It is charged, or gives."""
        if solution.amps.get(device.code, 0.0) < -CHARGING_A:
            found.on.add(f"{device.code} charging")

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """It feeds, and is fed by nothing."""
        yield from ()


def _poles(device: Device) -> Pair:
    return terminal(device, "+"), terminal(device, "-")


# A lead-acid starter battery, charged: 12.4 to 12.7 V at rest. Full, it takes a dozen amperes
# from an alternator, not the hundred its inner resistance would let in. Half the cells, half the
# resistance.
BATTERY = Battery(
    name="battery",
    figures={"rest V": 12.6, "ohm": 0.012, "charge ohm": 0.15, "Ah": 60.0},
    ohm_goes="with it",
    is_load=False,
    is_supply=True,
    elsewhere="another battery: {cells} cells for {volts:g} V, with as many watt-hours.",
)
