"""The job as ways a current can take: wires, plugs, fuses, contacts, metal, with their faults."""

import weakref
from collections.abc import Container, Mapping
from functools import lru_cache
from types import MappingProxyType
from typing import NamedTuple

from molvik.devices import kind_of, value
from molvik.devices.kind import Kind, terminals_named
from molvik.devices.nodes import METAL, OPEN_OHM, pin
from molvik.devices.states import EARTH, OFF, Fault, State
from molvik.electrical.conductor import resistance_ohm_per_m
from molvik.lazy import cached_property
from molvik.model.parts import Device, End, Fuse, Wire
from molvik.model.refs import end_text
from molvik.netlist.cache import Cache, Key
from molvik.netlist.network import Network
from molvik.reference.joins import FUSE_DROP_V, MATED_OHM, METAL_OHM, UNKNOWN_WIRE_OHM

SHORT_OHM = 0.01
"""A bare wire against metal, ohms (our choice)."""


LOAD = "load"
"""What probes put into the network is called."""


class Branch(NamedTuple):
    """A way a current can take. part: whose it is; closed: whether it is closed now. what: wire,
    fuse, switch, isolator, relay, contact, metal, short, or swap for where a wire should be.
    """

    a: str
    b: str
    ohm: float
    part: str
    what: str
    closed: bool = True

    @property
    def name(self) -> str:
        """A name that no other link has."""
        return f"{self.part} {self.a} {self.b}"


class Contact(NamedTuple):
    """A contact of a switch or a relay, as a link when it is made and when it is broken. at_rest:
    made while a relay's coil carries nothing.
    """

    pair: frozenset[str]
    made: Branch
    broken: Branch
    at_rest: bool = False


def _contacts_of(device: Device, extra_ohm: float = 0.0) -> tuple[Contact, ...]:
    """Return the contacts of what has some."""
    kind = kind_of(device)
    ohm = kind.figure(device, "contact ohm") + extra_ohm
    at_rest = set(kind.joined(device, OFF)) if kind.is_pulled else set[tuple[str, str]]()
    found = []
    for pair in kind.contacts(device):
        made = Branch(pin(device, pair[0]), pin(device, pair[1]), ohm, device.code, device.kind)
        broken = made._replace(closed=False)
        found.append(Contact(frozenset(pair), made, broken, pair in at_rest))
    return tuple(found)


CONTACTS = Key[dict[str, tuple[Contact, ...]]]("devices")
"""The contacts of each device that is sound."""


class CircuitGraph:
    """The ways of one job with some faults, whatever the state.

    temperature_c: of all there is, deg C. warm: that of the copper of wires by code, where known.
    """

    def __init__(
        self,
        network: Network,
        faults: frozenset[Fault],
        temperature_c: float,
        warm: Mapping[str, float] = MappingProxyType({}),
    ) -> None:
        # Whoever asks has the network; that it keeps this, and this it, would make a ring of
        # thousands of objects, which only the collector frees.
        self._network = weakref.ref(network)
        self.cache = Cache()
        self.job, self.faults = network.job, faults
        self.nominal = self.job.settings.system_v
        self.polarity = -1.0 if self.job.settings.earthed == "plus" else 1.0
        """-1 with plus at metal: voltages are then told as a meter shows them turned round."""
        self.temperature_c = temperature_c
        self._warm = warm
        self.broken = frozenset(fault.at for fault in faults if fault.kind == "open")
        self.stuck = frozenset(fault.at for fault in faults if fault.kind == "stuck")
        self.extra = {fault.at: fault.ohm for fault in faults if fault.kind == "bad"}
        self._shorts = [fault for fault in faults if fault.kind == "short"]
        swaps = [fault for fault in faults if fault.kind == "swap"]
        self._swapped = {fault.at: fault.other for fault in swaps}
        self._swapped |= {fault.other: fault.at for fault in swaps}

    @property
    def network(self) -> Network:
        """The network of which these are the ways."""
        network = self._network()
        assert network is not None
        return network

    @cached_property
    def devices(self) -> tuple[Device, ...]:
        """The devices that are not taken away."""
        return tuple(device for device in self.job.devices if device.code not in self.broken)

    @cached_property
    def acting(self) -> tuple[tuple[Device, Kind], ...]:
        """The devices that work or do not, each with its kind."""
        every = ((device, kind_of(device)) for device in self.devices)
        return tuple((device, kind) for device, kind in every if kind.acts)

    def typed_a(self, device: Device) -> float:
        """Return the largest current typed at the wires of a device's first terminal, A; 0 for
        none.
        """
        end = End(device.plug or device.code, device.terminals[0] if device.terminals else "")
        wires = self.network.wires_at.get(end, ())
        return max((wire.load_a or 0.0 for wire in wires), default=0.0)

    def battery_figure(self, battery: Device, name: str) -> float:
        """Return a figure of a battery: its own, or the usual one at its share of the voltage."""
        return self.network.batteries.own(battery, name)

    def end(self, end: End) -> str:
        """Return the node an end of a wire is at; all wires at a splice or an earth meet in one."""
        node = str(end)
        return self._swapped.get(node, node)

    def pin(self, device: Device, name: str) -> str:
        """Return the node of a device's terminal, or of its body for the name "case"."""
        return pin(device, name)

    @cached_property
    def reference(self) -> str:
        """The battery's earthed pole, from which voltages are told."""
        batteries = self.network.batteries
        lowest = (*batteries.lowest, *batteries.every)
        return str(batteries.earthed_end(lowest[0])) if lowest else METAL

    @cached_property
    def live(self) -> str:
        """The battery's live pole, empty without a battery."""
        batteries = self.network.batteries
        highest = (*batteries.highest, *batteries.every)
        return str(batteries.live_end(highest[0])) if highest else ""

    # what does not change with the state

    @cached_property
    def fixed(self) -> tuple[Branch, ...]:
        """Wires, plugs, bus bars, metal, shorts."""
        links: list[Branch] = []
        touched = {code for fault in self._shorts for code in (fault.at, fault.other)}
        for wire in self.job.wires:
            if wire.code not in self.broken and wire.start.at and wire.finish.at:
                links += self._wire(wire, wire.code in touched)
        for fault in self._shorts:
            other = METAL if fault.other == EARTH else _middle(fault.other)
            links.append(Branch(_middle(fault.at), other, SHORT_OHM, fault.at, "short"))
        for fault in self.faults:
            if fault.kind == "load":
                links.append(Branch(fault.at, fault.other or self.reference, fault.ohm, LOAD, LOAD))
        links += [self._mated(*joint) for joint in self._plugged if self.broken.isdisjoint(joint)]
        for device in self.devices:
            for pair in kind_of(device).bridges(device):
                ends = pin(device, pair[0]), pin(device, pair[1])
                links.append(Branch(*ends, value(device, "ohm"), device.code, "contact"))
        for earth in self.job.earths:
            if earth.code not in self.broken:
                ohm = METAL_OHM + self.extra.get(earth.code, 0.0)
                links.append(Branch(earth.code, METAL, ohm, earth.code, "metal"))
        return tuple(links)

    @cached_property
    def _plugged(self) -> list[tuple[str, str, str]]:
        """Each cavity that a plug brings to a part: the plug, the part, the cavity."""
        plugs = self.job.connectors
        into = [
            (plug.code, plug.plugs_into, cavity)
            for plug in plugs
            if plug.plugs_into
            for cavity in sorted(self.network.cavities[plug.code])
        ]
        devices = [
            (d.plug, d.code, name) for d in self.devices if d.plug for name in terminals_named(d)
        ]
        return into + devices

    def _wire(self, wire: Wire, halved: bool) -> list[Branch]:
        begin, end = self.end(wire.start), self.end(wire.finish)
        hot_c = self._warm.get(wire.code, self.temperature_c)
        ohm = wire_ohm(wire, hot_c) + self.extra.get(wire.code, 0.0)
        if not halved:
            return [Branch(begin, end, ohm, wire.code, "wire")]
        middle = _middle(wire.code)
        return [
            Branch(begin, middle, ohm / 2, wire.code, "wire"),
            Branch(middle, end, ohm / 2, wire.code, "wire"),
        ]

    def _mated(self, one: str, other: str, cavity: str) -> Branch:
        a, b = end_text(one, cavity), end_text(other, cavity)
        ohm = MATED_OHM + self.extra.get(a, 0.0) + self.extra.get(b, 0.0)
        return Branch(a, b, ohm, b if b in self.extra else a, "contact")

    # what does

    def switched(
        self,
        state: State,
        on: frozenset[str],
        blown: Container[str],
        among: Container[str] | None = None,
    ) -> list[Branch]:
        """Return fuses and contacts, closed or open as they are in a state. among: the codes of
        those that are asked for, all without it.
        """
        links = []
        for fuse in self.job.fuses:
            if among is not None and fuse.code not in among:
                continue
            good = fuse.code not in self.broken and fuse.code not in blown
            ohm = fuse_ohm(fuse) + self.extra.get(fuse.code, 0.0)
            ends = end_text(fuse.code, "in"), end_text(fuse.code, "out")
            links.append(Branch(*ends, ohm, fuse.code, "fuse", good))
        for device, contacts in self._contacts:
            if among is not None and device.code not in among:
                continue
            kind = kind_of(device)
            if kind.is_pulled:
                pulled = device.code in on or device.code in self.stuck
                links += [
                    contact.made if pulled != contact.at_rest else contact.broken
                    for contact in contacts
                ]
            else:
                joined = {frozenset(pair) for pair in kind.joined(device, state)}
                links += [
                    contact.made if contact.pair in joined else contact.broken
                    for contact in contacts
                ]
        return links

    @cached_property
    def _contacts(self) -> list[tuple[Device, tuple["Contact", ...]]]:
        """The devices that have contacts, with these; made once for all wirings of the devices."""
        kept = self.network.cache.get(CONTACTS, dict)
        found = []
        for device in self.devices:
            if not kind_of(device).contacts(device):
                continue
            extra = self.extra.get(device.code)
            if extra is not None:
                found.append((device, _contacts_of(device, extra)))
                continue
            if device.code not in kept:
                kept[device.code] = _contacts_of(device)
            found.append((device, kept[device.code]))
        return found

    # what would be a way if nothing were broken

    @cached_property
    def missing(self) -> tuple[Branch, ...]:
        """Ways that faults have taken: wires off, earths loose, wires in the wrong cavity."""
        links = []
        for wire in self.job.wires:
            if not (wire.start.at and wire.finish.at):
                continue
            ends = str(wire.start), str(wire.finish)
            if wire.code in self.broken:
                links.append(Branch(*ends, OPEN_OHM, wire.code, "wire", False))
                continue
            for end in ends:
                if end in self._swapped:
                    links.append(Branch(*ends, OPEN_OHM, end, "swap", False))
                    break
        for earth in self.job.earths:
            if earth.code in self.broken:
                links.append(Branch(earth.code, METAL, OPEN_OHM, earth.code, "metal", False))
        for one, other, cavity in self._plugged:
            if self.broken & {one, other}:
                ends = end_text(one, cavity), end_text(other, cavity)
                links.append(Branch(*ends, OPEN_OHM, one, "plug", False))
        for device in self.job.devices:
            if device.code not in self.broken:
                continue
            for pair in kind_of(device).contacts(device):
                a, b = (self.pin(device, name) for name in pair)
                links.append(Branch(a, b, OPEN_OHM, device.code, device.kind, False))
            if device.plug:
                links += [
                    Branch(
                        end_text(device.plug, n),
                        end_text(device.code, n),
                        OPEN_OHM,
                        device.code,
                        "plug",
                        False,
                    )
                    for n in terminals_named(device)
                ]
        return tuple(links)


def _middle(wire: str) -> str:
    return f"{wire} middle"


def wire_ohm(wire: Wire, conductor_c: float = 20.0) -> float:
    """Return a wire's resistance at a temperature, deg C, in ohms."""
    if wire.size is None or wire.length_m is None:
        return UNKNOWN_WIRE_OHM
    return max(1e-5, resistance_ohm_per_m(wire.size, conductor_c) * wire.length_m)


@lru_cache(maxsize=4096)  # asked of every fuse in every round of a solution
def fuse_element(code: str) -> str:
    """Return the name of a fuse's element."""
    return Branch(end_text(code, "in"), end_text(code, "out"), 0.0, code, "fuse").name


def fuse_ohm(fuse: Fuse) -> float:
    """Return a fuse's resistance, ohms."""
    return FUSE_DROP_V / fuse.rating_a


WIRINGS = Key[dict[tuple[frozenset[Fault], float], CircuitGraph]]()
"""The ways of a network, by what is broken and how warm it is."""


def circuit_graph(network: Network, state: State) -> CircuitGraph:
    """Return the ways of a network with a state's faults, made once."""
    key = state.faults, state.temperature_c
    kept = network.cache.get(WIRINGS, dict)
    if key not in kept:
        kept[key] = CircuitGraph(network, *key)
    return kept[key]
