"""What is alive: the job as a network, solved until relays, controllers and fuses agree."""

import math
from collections.abc import Mapping
from typing import NamedTuple

from molvik.circuits.behaviour import standing, working
from molvik.devices import kind_of
from molvik.devices.kind import DeviceStates, Limits
from molvik.devices.nodes import owner_of
from molvik.devices.states import State
from molvik.electrical.elements import Element, Resistor, SolveError
from molvik.electrical.fusing import surely_opens
from molvik.electrical.solve import Solution, solve
from molvik.lazy import cached_property
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.netlist.circuitgraph import Branch, CircuitGraph, circuit_graph, fuse_element
from molvik.netlist.network import Network
from molvik.reference.fuses import curve_of
from molvik.reference.limits import CRANK_S
from molvik.stopping import look_up

MOST_ROUNDS = 40
MOST_ORDERS = 6
"""So many relays that lock one another are let go first in turn."""

ALIVE_SHARE = 0.7
"""From this share of the nominal voltage on a load works (our choice)."""

CRANK_SHARE = 0.55
"""The same while cranking, which pulls the battery down: what an engine needs is built for that
(our choice; starting is commonly still expected with 7 to 8 V at the loads)."""

WEAK_SHARE = 0.25
REFERENCE_V = 4.0
"""A sensor on a supply of 5 V works from here on (our choice)."""


class Load(NamedTuple):
    """A device in a state. volts across it, amps through it; state: alive, weak, dead, or at rest
    for an alternator that stands.
    """

    device: str
    name: str
    plus: str
    minus: str
    volts: float
    amps: float
    state: str


class Blown(NamedTuple):
    """How a fuse blew: what it carried, A, and the solution just before, with its elements."""

    amps: float
    solution: Solution
    elements: tuple[Element, ...]


class OperatingPoint:
    """One job solved in one state. before: the state it comes from, whose relays are held. ways:
    those a current can take, where they are not the network's own. out: fuses that are not in yet.
    """

    def __init__(
        self,
        network: Network,
        state: State,
        before: "OperatingPoint | None" = None,
        ways: CircuitGraph | None = None,
        out: frozenset[str] = frozenset(),
    ) -> None:
        look_up()
        self._out = out
        self.network, self.state = network, state
        self.job: Job = network.job
        self.wiring = ways or circuit_graph(network, state)
        self.nominal = self.wiring.nominal
        self.least_v = (CRANK_SHARE if state.shortly else ALIVE_SHARE) * self.nominal
        self.chatter: tuple[str, ...] = ()
        self.rests: tuple[frozenset[str], ...] = ()
        """Where relays that lock one another may come to rest, each by those pulled in, the one
        that is solved first; none where chance decides nothing.
        """
        self.problem = ""
        """Why nothing could be solved at all; then everything is dead, and nothing is known."""
        if before is None and state.was_running:
            running = state._replace(name="running", key="run", isolated=False, was_running=False)
            before = OperatingPoint(network, running)
        self.device_states: DeviceStates = before.device_states if before else DeviceStates()
        self.blown: dict[str, Blown] = dict(before.blown) if before else {}
        self.solution = self._settle()

    @property
    def on(self) -> frozenset[str]:
        """Relays pulled in, starters, controllers and alternators that work, outputs that act."""
        return self.device_states.on

    @property
    def reference(self) -> str:
        """The node from which voltages are told."""
        return self.wiring.reference

    @cached_property
    def links(self) -> tuple[Branch, ...]:
        """Every way a current can take in this state, closed and open ones."""
        return (*self.wiring.fixed, *self._switched())

    def _switched(self) -> list[Branch]:
        return self.wiring.switched(self.state, self.on, self.blown.keys() | self._out)

    # settling

    def _settle(self) -> Solution:
        """Solve until nothing changes; what never does is chatter."""
        seen: list[DeviceStates] = []
        while True:
            solution = self._solved()
            if solution is None:
                return Solution({}, {}, frozenset())
            was, wanted = self.device_states, self._wanted(solution)
            # An alternator that is still finding its voltage blows nothing.
            steady = self._sources(was) == self._sources(wanted)
            blown = self._overloaded(solution) if steady else None
            if blown is not None:
                # It may have been what fed them: all is judged anew, with what was held before.
                self.device_states = wanted
                self.blown[blown[0]] = blown[1]
                seen.clear()
                continue
            if wanted == was:
                return solution
            if wanted in seen or len(seen) > MOST_ROUNDS:
                return self._one_by_one(was, wanted) or self._restless(solution, wanted)
            self.device_states = wanted
            seen.append(wanted)

    def _solved(self) -> Solution | None:
        """Return the solution with all standing as it does; None where none is found."""
        fixed, alert = standing(self.wiring)
        contacts = [
            Resistor(link.name, link.a, link.b, link.ohm)
            for link in self._switched()
            if link.closed
        ]
        made = [
            diode
            for device in alert
            for diode in kind_of(device).elements(
                self.wiring, device, self.state, self.device_states
            )
        ]
        self.elements: tuple[Element, ...] = (*fixed.elements, *contacts, *made)
        try:
            return solve([*contacts, *made], self.reference, fixed)
        except SolveError as error:
            self.problem = str(error)
            return None

    def _wanted(self, solution: Solution) -> DeviceStates:
        return working(self.wiring, self.state, self.device_states, solution)

    def _one_by_one(self, was: DeviceStates, wanted: DeviceStates) -> Solution | None:
        """Let the relays that do not agree move one after the other, as no two are equally fast;
        return the first rest that is found, None for none. Other rests are kept in ``rests``.
        """
        restless = self._moving(was, wanted)
        if len(restless) < 2:
            return None
        found: dict[frozenset[str], tuple[DeviceStates, Solution, tuple[Element, ...]]] = {}
        for first in restless[:MOST_ORDERS]:
            self.device_states = was
            order = [first, *(code for code in restless if code != first)]
            seen: set[DeviceStates] = set()
            while self.device_states not in seen and len(seen) < MOST_ROUNDS:
                seen.add(self.device_states)
                solution = self._solved()
                if solution is None:
                    self.problem = ""
                    break
                now, wanted = self.device_states, self._wanted(solution)
                if now == wanted:
                    rest = frozenset(code for code in restless if code in now.on)
                    found.setdefault(rest, (now, solution, self.elements))
                    break
                moves = self._moving(now, wanted)
                order += [code for code in moves if code not in order]
                held = set(moves) - {next((code for code in order if code in moves), "")}
                # All else follows at once: a computer, an alternator, a battery.
                on = (wanted.on - held) | (now.on & held)
                self.device_states = wanted._replace(on=on)
        if not found:
            self.device_states = was
            return None
        self.rests = tuple(found)
        self.device_states, solution, self.elements = next(iter(found.values()))
        return solution

    def _moving(self, was: DeviceStates, wanted: DeviceStates) -> list[str]:
        """Return the relays that stand otherwise than they should, by their codes."""
        changed = was.on ^ wanted.on
        return [
            device.code
            for device in self.wiring.devices
            if device.code in changed and kind_of(device).is_pulled
        ]

    def _restless(self, solution: Solution, wanted: DeviceStates) -> Solution:
        """Say what never settles, as it stood last."""
        restless = (one for one in self.device_states.on ^ wanted.on if " " not in one)
        self.chatter = tuple(sorted(restless))
        self.device_states = wanted
        return solution

    def _sources(self, device_states: DeviceStates) -> tuple[object, ...]:
        """Return how batteries and alternators stand."""
        makers = {device.code for device in self.job.devices if kind_of(device).regulates}
        sources = {one for one in device_states.on if one in makers or one.endswith(" charging")}
        return sources, device_states.limits

    def _overloaded(self, solution: Solution) -> tuple[str, Blown] | None:
        """Return the most overloaded fuse: one after the other, for it may save the others."""
        within_s = CRANK_S if self.state.shortly else math.inf
        worst, found = 1.0, None  # at its rating no fuse opens
        for fuse in self.job.fuses:
            name = fuse_element(fuse.code)
            amps = abs(solution.amps.get(name, 0.0))
            multiple = amps / fuse.rating_a
            if multiple <= worst or fuse.code in self.blown:
                continue
            if surely_opens(curve_of(fuse.kind, fuse.rating_a), multiple, within_s):
                worst = multiple
                found = fuse.code, Blown(amps, solution, self.elements)
        return found

    # answers

    @cached_property
    def refused(self) -> dict[str, str]:
        """The parts with figures that cannot be, which were left out, and which figures."""
        found: dict[str, str] = {}
        for name, reason in self.solution.refused.items():
            found.setdefault(owner_of(name), reason)
        return found

    def across(self, a: str, b: str) -> float:
        """Return the voltage between two nodes, zero where one floats."""
        one, other = self.solution.volts.get(a), self.solution.volts.get(b)
        return 0.0 if one is None or other is None else one - other

    @cached_property
    def loads(self) -> tuple[Load, ...]:
        """Every device with what it gets."""
        found = (self._load(d) for d in self.job.devices if kind_of(d).is_load)
        return tuple(load for load in found if load.plus and load.minus)

    @cached_property
    def load(self) -> dict[str, Load]:
        """The loads by their codes."""
        return {load.device: load for load in self.loads}

    def stands(self, code: str) -> str:
        """Return how one device stands, without looking at the others; empty for one that is no
        load.
        """
        device = self.network.parts.get(code)
        if not isinstance(device, Device) or not kind_of(device).is_load:
            return ""
        load = self._load(device)
        return load.state if load.plus and load.minus else ""

    def otherwise(self, stood: Mapping[str, str]) -> dict[str, str]:
        """Return the devices that stand otherwise than they did, and how. stood: how by code."""
        now = {code: self.stands(code) for code in stood}
        return {code: state for code, state in now.items() if state != stood[code]}

    def _load(self, device: Device) -> Load:
        plus, minus = kind_of(device).ends(self.wiring, device)
        volts = self.across(plus, minus)
        amps = abs(self.solution.amps.get(device.code, 0.0))
        floating = plus not in self.solution.volts or minus not in self.solution.volts
        state = kind_of(device).stands(
            device,
            volts,
            amps,
            _enough_v(self, device),
            works=device.code in self.on,
            state=self.state,
        )
        gone = device.code in self.state.broken
        if gone or (floating and state not in ("alive", "at rest")):
            state = "dead"
        return Load(device.code, device.name, plus, minus, volts, amps, state)

    @cached_property
    def wire_amps(self) -> dict[str, float]:
        """The current through each wire, A, from its first end to its second."""
        found: dict[str, float] = {}
        for link in self.wiring.fixed:
            if link.what == "wire":
                found.setdefault(link.part, self.solution.amps.get(link.name, 0.0))
        return found

    @cached_property
    def wire_volts(self) -> dict[str, float]:
        """The voltage of each wire against the battery's minus, at its higher end, V."""
        volts = self.solution.volts
        found: dict[str, float] = {}
        for link in self.wiring.fixed:
            ends = [volts[node] for node in (link.a, link.b) if node in volts]
            if link.what == "wire" and ends:
                found[link.part] = max(*ends, found.get(link.part, -1e9))
        return found

    @cached_property
    def source_amps(self) -> float:
        """What the battery gives, A; less than zero while it is charged."""
        # One that stands on another gives the same current once more.
        batteries = self.network.batteries.lowest
        return sum(self.solution.amps.get(device.code, 0.0) for device in batteries)

    @cached_property
    def no_start(self) -> str:
        """Say why an engine that is cranked does not start; empty when it does."""
        starters = [device for device in self.job.devices if device.kind == "starter"]
        if not starters:
            return "there is no starter in the job"
        if not any(device.code in self.on for device in starters):
            return f"{starters[0].name} does not turn"
        dead = [device.name for device in self.lost]
        return f"{', '.join(dead)} dead while cranking" if dead else ""

    @cached_property
    def lost(self) -> tuple[Device, ...]:
        """What the engine needs and does not have in this state; a controller that sleeps, too."""
        return tuple(device for device in needed(self.job) if not self._serves(device))

    def _serves(self, device: Device) -> bool:
        load = self.load.get(device.code)
        if load is None or load.state != "alive":
            return False
        return not kind_of(device).is_computer or f"{device.code} awake" in self.on


def _enough_v(point: OperatingPoint, device: Device) -> Limits:
    """Return from which voltage on a device works, and from which it works weakly, V."""
    if kind_of(device).on_reference(device):
        return Limits(REFERENCE_V, 1.0)
    return Limits(point.least_v, WEAK_SHARE * point.nominal)


def limits_of(
    point: OperatingPoint, device: Device, state: str, now_v: float
) -> tuple[float, float]:
    """Return between which voltages across it a device stands as it does, V, while nothing acts
    otherwise. now_v: the voltage there.
    """
    return kind_of(device).stays_between(state, now_v, _enough_v(point, device))


def needed(job: Job) -> tuple[Device, ...]:
    """Return what the engine needs to run: the user's list, or else what it commonly is.

    Without a list: controllers, injectors, ignition coils, and motors on a wire used for a pump.
    """
    own = tuple(device for device in job.devices if device.needed)
    if own:
        return own
    pumps = {end.at for wire in job.wires if wire.use == "pump" for end in wire.ends}
    return tuple(
        device
        for device in job.devices
        if kind_of(device).is_needed
        or (
            device.kind == "motor"
            and (device.code in pumps or device.plug in pumps)
            and "pump" in device.name.lower()
        )
    )
