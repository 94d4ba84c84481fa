"""Cranking: what the starter's cables take both ways, what the key switch carries, and what is left
for what the engine needs.
"""

from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint, needed
from molvik.devices import kind_of, value
from molvik.devices.kinds.relay import RELAY
from molvik.devices.nodes import minus_of, terminal
from molvik.devices.states import CRANK, is_key
from molvik.electrical.elements import SolveError
from molvik.model.parts import Device, End
from molvik.netlist.network import Network

KEY_MOST_A = 5.0
"""More than this is not drawn through a key switch: use a relay (common practice)."""


class Left(NamedTuple):
    """What is left for something that the engine needs, V; state: alive, weak or dead then."""

    code: str
    name: str
    volts: float
    state: str


class Cranking(NamedTuple):
    """turns: the starter does; amps: what it takes; battery_v: then at the battery; motor_v: across
    it; plus_v, earth_v: lost in the cable there, and on the way back; key_a: what the start contact
    of the key carries, and relay_a: what it would with a helper relay, None where it has one or no
    key starts it; left: for what the engine needs; is_typed: somebody typed what the starter takes.
    """

    starter: str
    name: str
    turns: bool
    amps: float
    battery_v: float
    motor_v: float
    plus_v: float
    earth_v: float
    key_a: float | None
    relay_a: float | None
    left: tuple[Left, ...]
    is_typed: bool

    @property
    def says(self) -> tuple[str, ...]:
        """In words, a line for each thing."""
        if not self.turns:
            return (f"{self.name} does not turn: see What is alive, cranking.",)
        usual = "" if self.is_typed else ", as is usual (type its motor_ohm)"
        lines = [
            f"{self.name} takes {self.amps:.0f} A{usual}: {self.battery_v:.1f} V at the battery, "
            f"{self.motor_v:.1f} V at it; its cable loses {self.plus_v:.2f} V, the way back "
            f"{self.earth_v:.2f} V"
        ]
        if self.key_a is not None:
            said = f"The start contact of the key carries {self.key_a:.1f} A"
            if self.relay_a is not None and self.key_a > KEY_MOST_A:
                said += (
                    f"; with a helper relay near the starter it would carry {self.relay_a:.2f} A"
                )
            lines.append(said)
        lines += [f"{one.name} has {one.volts:.1f} V: {one.state}" for one in self.left]
        return tuple(lines)


def cranking(network: Network) -> Cranking | None:
    """Return what comes of cranking, None where the job has no starter or cannot be solved."""
    kinds = {one.kind for one in network.job.devices}
    if not {"starter", "battery"} <= kinds:
        return None
    try:
        return cranked(network, OperatingPoint(network, CRANK))
    except SolveError:
        return None


def cranked(network: Network, point: OperatingPoint) -> Cranking | None:
    """Return the same from what is solved already, None where the job has no starter."""
    job = network.job
    starter = next((one for one in job.devices if one.kind == "starter"), None)
    if starter is None:
        return None
    plus, minus = terminal(starter, "30"), minus_of(starter)
    key_a = _key_a(network, point)
    through = starter.code in point.on and key_a is not None and key_a > KEY_MOST_A / 10
    return Cranking(
        starter.code,
        starter.name,
        starter.code in point.on,
        abs(point.solution.amps.get(starter.code, 0.0)),
        point.across(point.wiring.live, point.reference),
        point.across(plus, minus),
        point.across(point.wiring.live, plus),
        point.across(minus, point.reference),
        key_a,
        point.nominal / value(_RELAY, "coil ohm", point.nominal) if through else None,
        tuple(
            Left(one.code, one.name, abs(load.volts), load.state)
            for one in needed(job)
            if (load := point.load.get(one.code)) is not None
        ),
        "motor ohm" in dict(starter.values),
    )


_RELAY = Device("", "", RELAY.name, RELAY.terminals)


def _key_a(network: Network, point: OperatingPoint) -> float | None:
    """Return what leaves the key by its start contact, A; None where no key has one."""
    key = next((one for one in network.job.devices if is_key(one)), None)
    if key is None or "50" not in key.terminals or not kind_of(key).contacts(key):
        return None
    end = End(key.code, "50")
    wires = [wire.code for wire in network.job.wires if end in wire.ends]
    return sum(abs(point.wire_amps.get(code, 0.0)) for code in wires) if wires else None
