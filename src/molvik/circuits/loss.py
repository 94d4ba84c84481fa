"""What each circuit loses from the battery to its load and back, and what each wire adds to it."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of, value
from molvik.devices.kinds.controller import INSIDE_OHM, output_key
from molvik.devices.nodes import terminal
from molvik.devices.states import State
from molvik.electrical.solve import round_significant
from molvik.model.parts import Device
from molvik.netlist.branches import by_node, tree
from molvik.netlist.circuitgraph import Branch
from molvik.netlist.network import Network

LEAST_A = 0.01
"""A load that takes less than this, A, says nothing of its path."""

IN_LINE = ("resistor", "diode", "driver", "inside")
"""Links through devices that lose a voltage of their own: shunts, ballasts, diodes, a computer's
outputs. A way goes on through them; no wire has to make up for what they lose."""


class PathLoss(NamedTuple):
    """The path that a wire hurts most. device, name: its load. use: what it is for. state: when.

    lost_v: all that is lost from the battery's terminals to the load and back, V. own_v: by this
    wire; amps: through it. share: this wire's
    length as a share of all wire on the way. worst: the wire that loses most, worst_v.
    """

    device: str
    name: str
    use: str
    state: State
    lost_v: float
    own_v: float
    amps: float
    share: float
    worst: str
    worst_v: float

    @property
    def rest_v(self) -> float:
        """What the rest of the path loses, V."""
        return max(0.0, self.lost_v - self.own_v)


class Path(NamedTuple):
    """The way of a load's current, from the battery and back. device, name, use, state, lost_v: as
    of ``PathLoss``. drops: what each wire on it loses, V; amps: what each carries.
    """

    device: str
    name: str
    use: str
    state: State
    lost_v: float
    drops: dict[str, float]
    amps: dict[str, float]


def paths(network: Network, states: Iterable[OperatingPoint]) -> Iterator[Path]:
    """Yield the way of each load that works, in each of some states, where wires are on it."""
    for point in states:
        volts = point.solution.volts
        for device, plus, minus, links in _ways(point):
            wires = [link for link in links if link.what == "wire"]
            if not wires:
                continue
            drops = {link.part: _drop(volts, link) for link in wires}
            lost = _between(volts, point.wiring.live, plus)
            lost += _between(volts, minus, point.reference)
            lost -= sum(_drop(volts, link) for link in links if link.what in IN_LINE)
            lost = max(lost, 0.0)
            amps = {code: abs(point.wire_amps.get(code, 0.0)) for code in drops}
            use = _use(network, device, wires)
            yield Path(device.code, device.name, use, point.state, lost, drops, amps)


def path_losses(
    network: Network, found_paths: Iterable[Path], limit: Callable[[str], float]
) -> dict[str, tuple[PathLoss, ...]]:
    """Return, for each wire on the way to a load, the path that is nearest to its limit.

    One of the lasting states, and one of cranking, which counts for the starter alone. limit: the
    voltage a use may lose, V.
    """
    found: dict[tuple[str, bool], PathLoss] = {}
    tight: dict[tuple[str, bool], float] = {}
    for path in found_paths:
        ratio = path.lost_v / limit(path.use)
        nearer = [
            code for code in path.drops if ratio > tight.get((code, path.state.shortly), -1.0)
        ]
        if not nearer:
            continue
        lengths = {code: _length(network, code) for code in path.drops}
        whole = sum(lengths.values())
        worst = max(path.drops, key=lambda code: path.drops[code])
        for code in nearer:
            at = code, path.state.shortly
            tight[at] = ratio
            share = lengths[code] / whole if whole else 1.0
            found[at] = PathLoss(
                path.device,
                path.name,
                path.use,
                path.state,
                round_significant(path.lost_v),
                round_significant(path.drops[code]),
                round_significant(path.amps[code]),
                round_significant(share),
                worst,
                round_significant(path.drops[worst]),
            )
    both: dict[str, tuple[PathLoss, ...]] = {}
    for (code, _), loss in sorted(found.items(), key=lambda one: one[0]):
        both[code] = (*both.get(code, ()), loss)
    return both


def fuses_before(point: OperatingPoint) -> dict[str, tuple[tuple[str, ...], float]]:
    """Return the fuses before each load that works, the nearest first, and its current, A."""
    found: dict[str, tuple[tuple[str, ...], float]] = {}
    for device, _, _, links in _ways(point):
        fuses = tuple(link.part for link in links if link.what == "fuse")
        # What starts behind a resistor takes no more than that lets through.
        held = any(link.what == "resistor" for link in links)
        if fuses and not kind_of(device).regulates and not held:
            found[device.code] = fuses, point.load[device.code].amps
    return found


def _ways(point: OperatingPoint) -> Iterator[tuple[Device, str, str, list[Branch]]]:
    """Yield each load with its two nodes and its way: to the battery, then back."""
    if not point.wiring.live:
        return
    closed = by_node([*(link for link in point.links if link.closed), *_in_line(point)])
    out = tree(closed, point.wiring.live)
    back = tree(closed, point.reference)
    for device, plus, minus in _loads(point):
        # What hangs on another load is not followed through that.
        supply, earth = plus if plus in out.came else "", minus if minus in back.came else ""
        if kind_of(device).in_line and not (supply and earth):
            continue  # it is a part of another load's way
        yield device, supply, earth, [*out.way_to(supply), *back.way_to(earth)]


def _in_line(point: OperatingPoint) -> Iterator[Branch]:
    """Yield the ways through devices that carry a current for others in a state."""
    for device in point.job.devices:
        if device.code in point.state.broken:
            continue
        if kind_of(device).in_line:
            plus, minus = kind_of(device).ends(point.wiring, device)
            amps = abs(point.solution.amps.get(device.code, 0.0))
            if plus and minus and amps >= LEAST_A:
                ohm = abs(point.across(plus, minus)) / amps
                yield Branch(plus, minus, ohm, device.code, device.kind)
        elif kind_of(device).is_computer:
            inside, earth = kind_of(device).ends(point.wiring, device)
            for names, node in ((device.supplies, inside), (device.earths, earth)):
                for name in names:
                    yield Branch(terminal(device, name), node, INSIDE_OHM, device.code, "inside")
            ohm = value(device, "driver ohm")
            for output in device.outputs:
                if output.acts != "5 V" and output_key(device, output) in point.on:
                    node = inside if output.acts == "feeds high" else earth
                    pin = terminal(device, output.terminal)
                    yield Branch(pin, node, ohm, device.code, "driver")


def _loads(point: OperatingPoint) -> Iterable[tuple[Device, str, str]]:
    """Yield each load that takes a current in a state, however starved, with its two nodes.

    An alternator by its output, a controller by its first supply and earth.
    """
    shortly = point.state.shortly
    for device in point.job.devices:
        if kind_of(device).regulates:
            if device.code in point.on and point.state.running:
                yield device, *kind_of(device).ends(point.wiring, device)
            continue
        load = point.load.get(device.code)
        if load is None or shortly != (device.kind == "starter"):
            continue
        if device.kind == "starter":
            if load.state == "alive":
                yield device, terminal(device, "30"), load.minus
        elif kind_of(device).is_computer:
            for supply in device.supplies[:1] if load.state == "alive" else ():
                earth = device.earths[0] if device.earths else ""
                yield device, terminal(device, supply), terminal(device, earth)
        elif load.amps >= LEAST_A:
            yield device, load.plus, load.minus


def _use(network: Network, device: Device, wires: list[Branch]) -> str:
    """Return what a path is for: as a wire at the load says, or by the load's kind."""
    for link in wires:
        wire = network.wires[link.part]
        if wire.use and device.code in {end.at for end in wire.ends} | {
            one.code
            for end in wire.ends
            for one in [network.parts.get(end.at)]
            if one is not None and one.code == device.plug
        }:
            return wire.use
    return kind_of(device).use


def _length(network: Network, code: str) -> float:
    return network.wires[code].length_m or 1.0


def _drop(volts: Mapping[str, float], link: Branch) -> float:
    return _between(volts, link.a, link.b)


def _between(volts: Mapping[str, float], a: str, b: str) -> float:
    one, other = volts.get(a), volts.get(b)
    return 0.0 if one is None or other is None else abs(one - other)
