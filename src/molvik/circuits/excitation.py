"""What makes an alternator begin, what its terminals should read, and what they read when a part of
that is broken: all from the solution of the network.
"""

from collections.abc import Iterator
from typing import NamedTuple

from molvik.circuits.faultsolver import FaultSolver
from molvik.circuits.paths import follow
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of, value
from molvik.devices.kinds.alternator import Dynamo, alternators
from molvik.devices.states import CRANK, OFF, RUN, RUNNING, Fault, State
from molvik.electrical.elements import SolveError
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.model.refs import end_text
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.stopping import look_up

STATES: tuple[State, ...] = (OFF, RUN, RUNNING)
"""At rest, key on, running: in which a builder measures."""

NAMES = ("at rest", "key on", "running")

LIT_SHARE, GLOWS_SHARE = 0.5, 0.1
"""From such a share of the nominal voltage across it on a charge lamp is lit, and glows (our
choice)."""

CHARGES_A = 0.01
"""A battery that less flows into is not charged, A (our choice)."""

LAMPS = ("warning lamp", "LED", "lamp")
"""Kinds of devices that a charge lamp may be."""


class Reads(NamedTuple):
    """What a terminal reads against the battery's earthed pole, V, in each of ``STATES``; None
    where it floats. part: whose it is, in words.
    """

    place: str
    part: str
    volts: tuple[float | None, ...]


class Broken(NamedTuple):
    """What comes of a part that is broken. key_on, running: how the lamp is, empty without one;
    battery_v: with the engine running; charges: it does then. says: in words.
    """

    code: str
    name: str
    key_on: str
    running: str
    battery_v: float
    charges: bool

    @property
    def says(self) -> str:
        """What is seen and measured."""
        lamp = ""
        if self.key_on:
            lamp = f"lamp {self.key_on} with the key in run, {self.running} while it runs; "
        how = "it charges" if self.charges else "it does not charge"
        return f"{lamp}{how}, {self.battery_v:.1f} V at the battery"


class Excitation(NamedTuple):
    """How an alternator begins. at: where it is excited, empty where nothing from outside has to;
    amps, when: through its field in run with the engine standing, or while it is cranked where
    that is more, A; least_a: what it takes; way: the parts that give it, from the battery on;
    charges: it does, running. reads: of its terminals and its regulator's; sound, broken: what is
    seen with all in order, and with each part on its way broken. least_is_typed: somebody typed
    least_a.
    """

    maker: str
    name: str
    at: str
    amps: float
    when: str
    least_a: float
    way: tuple[str, ...]
    charges: bool
    reads: tuple[Reads, ...]
    sound: Broken
    broken: tuple[Broken, ...]
    least_is_typed: bool

    @property
    def says(self) -> str:
        """What excites it, in a line."""
        if not self.at:
            begins = "begins by itself" if self.charges else "is not excited from outside, and dead"
            return f"{self.name} {begins}."
        if not self.way:
            return f"Nothing in the job leads from {self.at} to the battery: it is not excited."
        begins = "it begins" if self.charges else "it does not begin"
        usual = "" if self.least_is_typed else ", as is usual (type its excite_A)"
        return (
            f"{self.at} gets {self.amps * 1000:.0f} mA {self.when} through "
            f"{', '.join(self.way)}; it takes {self.least_a * 1000:.0f} mA{usual}: {begins}."
        )


def reads_words(found: Excitation) -> Iterator[str]:
    """Yield what an alternator's terminals should read, and what is seen when a part is broken."""
    yield found.says
    yield f"All in order: {found.sound.says}."
    for one in found.reads:
        if any(volts is not None for volts in one.volts):
            said = ", ".join(
                f"{name} {'open' if volts is None else f'{volts:.1f} V'}"
                for name, volts in zip(NAMES, one.volts, strict=True)
            )
            yield f"{one.place} ({one.part}): {said}"
    for broken in found.broken:
        if broken.says != found.sound.says:
            yield f"{broken.code} {broken.name} broken: {broken.says}".replace("  ", " ")


def excitation(network: Network) -> Excitation | None:
    """Return how the alternator of a job begins, None where it has none or cannot be solved."""
    makers = alternators(network.job.devices)
    if not makers or not any(one.kind == "battery" for one in network.job.devices):
        return None
    maker, kind = makers[0]
    try:
        points = [_solved(network, state) for state in STATES]
        crank = _solved(network, CRANK)
    except SolveError:
        return None
    terminal = "" if isinstance(kind, Dynamo) else kind.excited_at(maker)
    at = end_text(maker.code, terminal) if terminal else ""
    key_on, cranked = (
        max(0.0, one.solution.amps.get(f"{maker.code} field", 0.0)) for one in (points[1], crank)
    )
    earlier = key_on >= value(maker, "excite A") or cranked <= key_on
    way = _way(points[1] if earlier else crank, at) if at else ()
    lamp = _lamp(network.job, points[1], way)
    return Excitation(
        maker.code,
        maker.name,
        at,
        key_on if earlier else cranked,
        "with the key in run" if earlier else "while it is cranked",
        value(maker, "excite A"),
        tuple(part for part in way if not part.startswith("W")),
        maker.code in points[2].on,
        tuple(_reads(network.job, maker, points)),
        _seen(maker, lamp, "", "", points[1:]),
        tuple(_broken(maker, lamp, way, points[1], points[2])),
        "excite A" in dict(maker.values),
    )


def _solved(network: Network, state: State) -> OperatingPoint:
    look_up()
    return OperatingPoint(network, state)


def _way(point: OperatingPoint, at: str) -> tuple[str, ...]:
    """Return the parts from the battery to where an alternator is excited, by the most current."""
    found = [flow.part for flow in follow(point, at, upstream=True) if flow.what != "metal"]
    return tuple(dict.fromkeys(code for code in found[::-1] if code))


def _lamp(job: Job, point: OperatingPoint, way: tuple[str, ...]) -> Device | None:
    """Return the charge lamp: on the way that excites it, else the one that is called so."""
    lamps = [one for one in job.devices if one.kind in LAMPS]
    on_it = [one for one in lamps if one.code in way]
    called = [one for one in lamps if "charge lamp" in telling(one.name).words]
    return next(iter((*on_it, *called)), None)


def _reads(job: Job, maker: Device, points: list[OperatingPoint]) -> "list[Reads]":
    """Return what the terminals of an alternator, its regulator and the battery read."""
    found = []
    for device in (maker, *(one for one in job.devices if one.kind in ("regulator", "battery"))):
        for name in device.terminals:
            node = end_text(device.code, name)
            found.append(Reads(node, device.name, tuple(_volts(one, node) for one in points)))
    return found


def _volts(point: OperatingPoint, node: str) -> float | None:
    volts = point.solution.volts.get(node)
    reference = point.solution.volts.get(point.reference, 0.0)
    return None if volts is None else volts - reference


def _broken(
    maker: Device,
    lamp: Device | None,
    way: tuple[str, ...],
    key_on: OperatingPoint,
    running: OperatingPoint,
) -> "list[Broken]":
    """Return what comes of each part that an alternator hangs on; near the sound network, so that
    forty of them take no longer than a few solutions.
    """
    if key_on.problem or running.problem:
        return []
    network, job = running.network, running.job
    rest = FaultSolver(key_on)
    solvers = rest, FaultSolver(running, rest=rest)
    batteries = {one.code for one in job.devices if one.kind == "battery"}
    own = {maker.code, *(one.code for one in job.devices if one.kind == "regulator")}
    wires = [wire.code for wire in job.wires if own & {end.at for end in wire.ends}]
    regulators = [code for code in own if code != maker.code]
    beyond = _output_fuses(network, maker)
    names = {part.code: part.name for part in job.parts()}
    names |= {wire.code: wire.function for wire in job.wires}
    found = []
    for code in dict.fromkeys((*way, *wires, *beyond, *sorted(regulators))):
        if code in batteries or code == maker.code:
            continue
        fault = frozenset({Fault("open", code)})
        try:
            look_up()
            points = [solver.faulty(fault) for solver in solvers]
        except SolveError:
            continue
        found.append(_seen(maker, lamp, code, names.get(code, ""), points))
    return found


def _output_fuses(network: Network, maker: Device) -> list[str]:
    """Return the fuses next to an alternator's output."""
    kind = kind_of(maker)
    node = end_text(maker.code, kind.source(""))
    net = next((n for end, n in network.net_of.items() if str(end) == node), None)
    at = {end.at for end, n in network.net_of.items() if n == net and net is not None}
    return [fuse.code for fuse in network.job.fuses if fuse.code in at]


def _seen(
    maker: Device, lamp: Device | None, code: str, name: str, points: list[OperatingPoint]
) -> Broken:
    running = points[1]
    lit = [_how(one, lamp) for one in points]
    if lamp is not None and code == lamp.code:
        lit = ["dark", "dark"]  # the whole voltage is across it, and nothing flows
    return Broken(
        code,
        name,
        lit[0],
        lit[1],
        running.across(running.wiring.live, running.reference),
        running.source_amps < -CHARGES_A,
    )


def _how(point: OperatingPoint, lamp: Device | None) -> str:
    return "" if lamp is None else lamp_is(point, lamp)


def lamp_is(point: OperatingPoint, lamp: Device) -> str:
    """Say how a lamp is: lit, glows, dark; empty for what is none."""
    load = point.load.get(lamp.code)
    if load is None:
        return ""
    if lamp.kind == "LED":
        return "lit" if load.state == "alive" else "glows" if load.state == "weak" else "dark"
    share = abs(load.volts) / point.nominal
    return "lit" if share >= LIT_SHARE else "glows" if share >= GLOWS_SHARE else "dark"
