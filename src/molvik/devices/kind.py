"""What a kind of device is: all that is particular to it stands in its one entry (``kinds``).

Figures are typical values from common practice, from memory; a device may have its own. They are
for 12 V. In a vehicle of another voltage, voltages go with it and resistances of windings with its
square, so that a lamp has the same power. Words are common practice, with no source.

Voltages are told as the live side against metal. With plus at metal the whole network is solved as
its mirror image, in which a lamp, a relay and a fuse are the same, and only what knows its poles is
turned round: batteries, diodes, computers. A meter shows the same figures with its red lead on
earth.
"""

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Literal, NamedTuple

from molvik.devices.nodes import METAL, Vehicle, ohm_at, terminal
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor
from molvik.electrical.solve import Solution
from molvik.model.parts import Device

Field = Literal[
    "joins", "positions", "supplies", "earths", "outputs", "suppression", "case", "curve"
]
"""Fields of a device that only some kinds have."""

Figures = Mapping[str, float]

Pair = tuple[str, str]

PAIR: Pair = ("+", "-")

WINDINGS = ("coil ohm", "motor ohm", "field ohm", "winding ohm")
"""Figures that go with the square of the nominal voltage, whatever has them."""

THROUGH_OHM = 100.0
"""A load that passes a current on counts as so many ohms where only the way is asked for (our
choice: more than any wire, less than nothing)."""


class ConductionPath(NamedTuple):
    """A way through a device, in some position of it. both: whether in both directions. inside: a
    way through a module's own electronics, which decouple it as a rule (common practice): it counts
    for what has no other feed.
    """

    a: str
    b: str
    both: bool = True
    inside: bool = False


class Inside(NamedTuple):
    """A way inside a device between two nodes, ohms. what: inside, driver or load; closed: now."""

    a: str
    b: str
    ohm: float
    what: Literal["inside", "driver", "load"]
    closed: bool = True


class OwnTest(NamedTuple):
    """What a meter shows on a device by itself, between two of its terminals. figure: ohms by its
    figure of that name, ``times`` as many; else what ``shows`` says. position: of a contact, or how
    the device is held.
    """

    pair: tuple[str, ...]
    what: str
    figure: str = ""
    times: float = 1.0
    shows: Literal["figure", "closed", "open", "diode"] = "figure"
    position: str = ""


class DeviceStates(NamedTuple):
    """What works in a round of the solution. on: codes of relays pulled in, starters, controllers
    and alternators; "D5 12" for a controller's output that acts, "D5 awake" for one that
    does not sleep, "D1 charging" for a battery.
    limits: alternators that give all they can, A; sensed: volts lost between an alternator and its
    sense wire.
    """

    on: frozenset[str] = frozenset()
    limits: tuple[tuple[str, float], ...] = ()
    sensed: tuple[tuple[str, float], ...] = ()


class Acting:
    """What works by the voltages of a solution, as it is found device by device."""

    def __init__(self) -> None:
        self.on: set[str] = set()
        self.limits: dict[str, float] = {}
        self.sensed: dict[str, float] = {}

    def done(self) -> DeviceStates:
        """Return it, as what it can be held against."""
        limits, sensed = (tuple(sorted(one.items())) for one in (self.limits, self.sensed))
        return DeviceStates(frozenset(self.on), limits, sensed)


class Limits(NamedTuple):
    """From which voltage on a device works, and from which it works weakly, V."""

    least: float
    weak: float


Bound = tuple[str, str, float, float]
"""Two nodes, and between which voltages the first may be above the second."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Kind:
    """A kind of device. What is not said otherwise is as of a plain load: something with two ends
    that takes a current, and works from a voltage on.

    terminals, joins: those it begins with. figures: usual ones by name: V, A, ohms, K, or a share
    of the nominal voltage. ohm_goes: how its resistance "ohm" goes with the nominal voltage.
    fields: what else the user can say of it.

    is_load: it is alive or dead itself. by_ohm: what it draws follows from its resistance, not from
    the current typed at its wires. passes: a current for another device can go through it. in_line:
    it is there for that. either_way: a current that enters it from behind is a fault. has_coil: its
    winding kicks when it is let go. is_needed: an engine runs only with it, where nobody said
    otherwise. is_engine: it belongs to an engine that is kept. is_supply: it only hands on what
    others use. use: what its circuit is for, a key of ``reference.limits``, where no wire says.
    inrush: how many times its running current it begins with, and for how long, s, that would heat
    a fuse as much as the whole of it, which dies away. elsewhere: what it needs at another voltage,
    in words; lower: at a lower one, where that is something else.

    alters: its elements change with the state or with what works. acts: it works or does not, by
    what the solution shows. by_acting: it is alive when it acts, whatever voltage it has.
    is_pulled: its contacts are moved by itself. holds: what pulled it in holds it with less.
    regulates: it finds its voltage by itself. is_computer: it reads, decides and drives. crossed:
    a current enters it at one end and leaves it at the other. signal: the place among its terminals
    of the one that tells a computer something; watched: what the computer takes it for. winding:
    what its ohms by itself are of, in words.
    """

    name: str
    terminals: tuple[str, ...] = PAIR
    figures: Figures = field(default_factory=lambda: MappingProxyType({}))
    joins: tuple[Pair, ...] = ()
    fields: tuple[Field, ...] = ()
    ohm_goes: Literal["", "with it", "with its square"] = ""
    is_load: bool = True
    by_ohm: bool = False
    passes: bool = False
    in_line: bool = False
    either_way: bool = False
    has_coil: bool = False
    is_needed: bool = False
    is_engine: bool = False
    is_supply: bool = False
    use: str = ""
    inrush: tuple[float, float] | None = None
    elsewhere: str = ""
    lower: str = ""
    alters: bool = False
    acts: bool = False
    by_acting: bool = False
    is_pulled: bool = False
    holds: bool = False
    regulates: bool = False
    is_computer: bool = False
    crossed: bool = True
    signal: int = 0
    watched: Literal["", "sender", "wiper", "pickup"] = ""
    winding: str = ""

    # figures

    def figure(self, device: Device, name: str, nominal_v: float = 12.0) -> float:
        """Return a figure of a device: its own, or the usual one at a nominal voltage. Raises
        KeyError for one that the kind does not have.
        """
        for own, figure in device.values:
            if own == name:
                return figure
        usual = self.figures[name]
        return usual if name == "Ah" else self.at_share(name, usual, nominal_v / 12.0)

    def at_share(self, name: str, figure: float, share: float) -> float:
        """Return a figure of a device of the same power at another voltage. share: of that voltage
        to the one the figure is for.
        """
        if name.endswith(" V"):
            return figure * share
        if name in ("A", "most A", "asleep A", "Ah"):  # of a battery as many watt-hours
            return figure / share
        if self.ohm_goes == "with it":  # of the figures of a battery, all that are left
            return figure * share
        if name in WINDINGS or (name == "ohm" and self.ohm_goes == "with its square"):
            return figure * share**2
        return figure

    def load_ohm(self, vehicle: Vehicle, device: Device) -> float:
        """Return a load's resistance: its own, or from the current its wires say it carries."""
        own = dict(device.values)
        if "ohm" in own:
            return own["ohm"]
        if "A" in own:
            return ohm_at(vehicle.nominal, own["A"])
        if self.by_ohm:
            return self.figure(device, "ohm", vehicle.nominal)
        typed = vehicle.typed_a(device)
        if typed:
            return vehicle.nominal / typed
        return ohm_at(vehicle.nominal, self.figure(device, "A", vehicle.nominal))

    # how current passes it

    def ends(self, vehicle: Vehicle, device: Device) -> Pair:
        """Return the two nodes it works between; one is empty when it has none."""
        names = device.terminals
        if not names:
            return "", METAL if device.case else ""
        if len(names) == 1:
            return terminal(device, names[0]), METAL if device.case else ""
        return terminal(device, names[0]), terminal(device, self.last(device))

    def last(self, device: Device) -> str:
        """Return the terminal a current leaves it by, of those it has."""
        return device.terminals[1]

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """Return what it is in the network, as it works now."""
        plus, minus = self.ends(vehicle, device)
        if not (plus and minus) or plus == minus:
            return []
        return [Resistor(device.code, plus, minus, self.load_ohm(vehicle, device))]

    def contacts(self, device: Device) -> tuple[Pair, ...]:
        """Return every pair of terminals that it joins in some position."""
        return ()

    def joined(self, device: Device, state: State) -> Collection[Pair]:
        """Return the pairs that it joins in a state; of what ``is_pulled``, while it is at rest."""
        return ()

    def bridges(self, device: Device) -> tuple[Pair, ...]:
        """Return the pairs of terminals that are always one."""
        return ()

    def alternatives(self, device: Device) -> tuple[tuple[Pair, ...], ...]:
        """Return the pairs of terminals that it joins in each of its positions, one at a time."""
        return ()

    def conduction_paths(self, device: Device, live: str) -> tuple[ConductionPath, ...]:
        """Return the ways through it that are open in some state, away from a supply. live: the
        battery's pole that is not at metal, by its name.
        """
        return tuple(
            ConductionPath(*pair) for pair in (*self.contacts(device), *self.bridges(device))
        )

    def source(self, live: str) -> str:
        """Return the terminal that it supplies others at, empty for what supplies none."""
        return ""

    def rating_a(self, device: Device, nominal: float = 12.0) -> float:
        """Return the most that something which charges gives, A: what its cable must bear."""
        return self.figure(device, "most A", nominal)

    def inside(self, vehicle: Vehicle, device: Device, on: frozenset[str]) -> Iterator[Inside]:
        """Yield the ways inside it, by what works, where only the way is asked for."""
        if self.passes:
            plus, minus = self.ends(vehicle, device)
            if plus and minus:
                yield Inside(plus, minus, THROUGH_OHM, "load")

    # when it works

    def works(
        self,
        vehicle: Vehicle,
        device: Device,
        state: State,
        was: DeviceStates,
        solution: Solution,
        found: Acting,
    ) -> None:
        """Put into ``found`` what of it works by the voltages of a solution, with hysteresis from
        what worked.
        """

    def bounds(
        self, vehicle: Vehicle, device: Device, states: DeviceStates, solution: Solution
    ) -> Iterator[Bound]:
        """Yield what must hold for it to stand as it does from rest. What goes by currents has
        none.
        """
        yield from ()

    def stands(
        self,
        device: Device,
        volts: float,
        amps: float,
        limits: Limits,
        *,
        works: bool,
        state: State,
    ) -> str:
        """Return how it stands: alive, weak, dead or at rest. volts, amps: across and through."""
        if self.by_acting:
            return "alive" if works else "dead"
        if abs(volts) >= limits.least:
            return "alive"
        return "weak" if abs(volts) >= limits.weak else "dead"

    def stays_between(self, state: str, now_v: float, limits: Limits) -> tuple[float, float]:
        """Return between which voltages across it it stands as it does, V, while nothing acts
        otherwise. now_v: the voltage there.
        """
        if self.by_acting:
            return 0.0, math.inf
        found = {"alive": (limits.least, math.inf), "weak": (limits.weak, limits.least)}
        return found.get(state, (0.0, limits.weak))

    def on_reference(self, device: Device) -> bool:
        """Return whether it is fed with 5 V: a sensor with supply, signal and return."""
        return False

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Yield the nodes it is fed at, by a supply and back."""
        yield from filter(None, self.ends(vehicle, device))

    def decided_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """Yield the nodes whose voltages decide what it does to others."""
        yield from ()

    # on the bench

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Yield what a meter shows on it by itself, unplugged, at the bench's temperature."""
        if self.winding:
            yield OwnTest(pair_of(device), self.winding, "ohm")


def pair_of(device: Device) -> tuple[str, ...]:
    """Return a device's first two terminals, the second its body where it has only one."""
    return device.terminals[:2] if len(device.terminals) > 1 else (*device.terminals, "")


def across(solution: Solution, a: str, b: str) -> float:
    """Return the voltage between two nodes, V, zero where one floats."""
    one, other = solution.volts.get(a), solution.volts.get(b)
    return 0.0 if one is None or other is None else one - other


def side(limit: float, *, above: bool) -> tuple[float, float]:
    """Return the voltages on one side of a limit."""
    return (limit, math.inf) if above else (-math.inf, limit)


def terminals_named(device: Device) -> tuple[str, ...]:
    """Return every terminal a device has, a controller's supplies and outputs too."""
    outputs = (output.terminal for output in device.outputs)
    inputs = (output.input for output in device.outputs if output.input)
    return tuple(
        dict.fromkeys((*device.terminals, *device.supplies, *device.earths, *outputs, *inputs))
    )
