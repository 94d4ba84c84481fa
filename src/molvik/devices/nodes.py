"""Where a device touches the network: its terminals, and the metal it is bolted to."""

from typing import Protocol

from molvik.model.parts import Device
from molvik.model.refs import Ref, end_text

METAL = "metal"
"""All metal as one node. A device's body is bolted to it with bolts of its own: what is loose or
dirty at an earth point is between the metal and the wires there.
"""

OPEN_OHM = 1e12


class Vehicle(Protocol):
    """What a device asks of the vehicle it is in. nominal: V; polarity: -1 with plus at metal;
    temperature_c: of all there is, deg C.
    """

    nominal: float
    polarity: float
    temperature_c: float

    def typed_a(self, device: Device) -> float:
        """Return the largest current typed at the wires of a device's first terminal, A; 0 for
        none.
        """

    def battery_figure(self, battery: Device, name: str) -> float:
        """Return a figure of a battery: its own, or the usual one at its share of the voltage."""


def terminal(device: Device, name: str) -> str:
    """Return the node of a device's terminal."""
    return end_text(device.code, name)


def pin(device: Device, name: str) -> str:
    """Return the node of a device's terminal, or of its body for the name "case"."""
    return METAL if name == "case" else terminal(device, name)


def minus_of(device: Device) -> str:
    """Return where a device bolted to metal has its minus: its terminal 31, or its body."""
    return terminal(device, "31") if "31" in device.terminals else METAL


def turned(vehicle: Vehicle, plus: str, minus: str) -> tuple[str, str]:
    """Return the two nodes of something that knows its poles, as they are in the solution."""
    return (plus, minus) if vehicle.polarity > 0 else (minus, plus)


def owner_of(node: str) -> str:
    """Return whose a node or an element is, by its name: "D5/12", "W3 middle", "K1 coil"."""
    return Ref.parse(node.split(" ")[0]).code


def ohm_at(nominal: float, amps: float) -> float:
    """Return the resistance that takes a current at the nominal voltage; open when it is none."""
    return nominal / amps if amps else OPEN_OHM
