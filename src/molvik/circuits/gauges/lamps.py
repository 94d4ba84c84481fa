"""Warning lamps of the engine: whether each is lit with the key in run and dark while it runs, or
the other way round with the switch of another engine.
"""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from molvik.circuits.excitation import lamp_is
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.kinds.alternator import alternators
from molvik.devices.states import RUN, RUNNING, joins_of
from molvik.electrical.elements import SolveError
from molvik.model.parts import Device, End
from molvik.netlist.network import Network

LampVerdict = Literal["right", "wrong", "not known"]


class Lamp(NamedTuple):
    """A warning lamp that the engine moves. source: the switch or alternator that does, by code;
    key_on, running: how it is. wire: how its switch is wired and what it closes, in words; charges:
    of the alternator's lamp whether that charges, None for a switch.
    """

    lamp: str
    name: str
    source: str
    key_on: str
    running: str
    wire: str
    charges: bool | None = None

    @property
    def verdict(self) -> LampVerdict:
        """Whether it says what is so."""
        return "right" if (self.key_on, self.running) == ("lit", "dark") else "wrong"

    @property
    def says(self) -> str:
        """What it does, in words."""
        how = f"{self.key_on} with the key in run, {self.running} while it runs"
        return f"It is {how}. {self.wire}"

    @property
    def does(self) -> str:
        """What to do about it, empty where it is right."""
        if self.verdict == "right":
            return ""
        if self.charges is False:
            return "It does not charge: Charging, “What it reads” says what excites it."
        if (self.key_on, self.running) == ("dark", "lit"):
            return "The wrong way round: lay the block “Lamp inverter”, or take the other switch."
        if self.key_on == self.running == "dark":
            return "It never lights: look at its feed, and whether its switch closes to earth."
        if self.key_on == self.running == "lit":
            return "It never goes out: its switch stays closed, or its wire is shorted to earth."
        return "It only glows: look at its feed, its earth, and the bulb."


def lit_lamps(network: Network) -> tuple[Lamp, ...]:
    """Return each warning lamp that the engine moves; none where the job cannot be solved."""
    try:
        key_on, running = OperatingPoint(network, RUN), OperatingPoint(network, RUNNING)
    except SolveError:
        return ()
    return tuple(lamps(network, key_on, running))


def lamps(network: Network, key_on: OperatingPoint, running: OperatingPoint) -> Iterator[Lamp]:
    """Yield each warning lamp that the engine moves. key_on, running: the network solved so."""
    machines = {maker.code for maker, _ in alternators(network.job.devices)}
    for device in network.job.devices:
        if device.kind not in ("warning lamp", "LED"):
            continue
        source = _mover(network, device, machines)
        if source is not None:
            yield Lamp(
                device.code,
                device.name,
                source.code,
                lamp_is(key_on, device),
                lamp_is(running, device),
                _wire(source, key_on, running),
                source.code in running.on if source.code in machines else None,
            )


def _mover(network: Network, lamp: Device, machines: set[str]) -> Device | None:
    """Return the switch or alternator at a lamp's terminals, past what lies in the wire."""
    seen, nets = {lamp.code}, [network.net_of.get(End(lamp.code, at)) for at in lamp.terminals]
    for net in nets:  # grows while what is in line is followed
        if net is None:
            continue
        for device in _at(network, net):
            if device.code in seen:
                continue
            seen.add(device.code)
            if device.code in machines or _is_moved(device):
                return device
            if device.kind in ("diode", "resistor"):
                nets += [network.net_of.get(End(device.code, at)) for at in device.terminals]
    return None


def _at(network: Network, net: int) -> list[Device]:
    codes = {end.at for end, number in network.net_of.items() if number == net}
    return [one for one in network.job.devices if ({one.code, one.plug} - {""}) & codes]


def _is_moved(device: Device) -> bool:
    """Return whether the engine moves a switch."""
    names = {position.name.lower() for position in device.positions}
    return device.kind == "switch" and {"standing", "running"} <= names


def _wire(source: Device, key_on: OperatingPoint, running: OperatingPoint) -> str:
    """Say how a switch is wired, and when it closes."""
    if source.kind != "switch":
        return f"{source.name} ({source.code}) moves it."
    closed = [
        name
        for name, point in (("standing", key_on), ("running", running))
        if joins_of(source, point.state)
    ]
    ways = "one wire, its body is earth" if len(source.terminals) < 2 else "two wires"
    when = f"closed with the engine {closed[0]}" if len(closed) == 1 else "the same in both"
    return f"{source.name} ({source.code}): {ways}, {when}."
