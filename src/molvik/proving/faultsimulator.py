"""What a cause would make a meter show, on the bench and in the vehicle, played through once."""

from collections.abc import Mapping
from functools import partial
from types import MappingProxyType

from molvik.circuits.faultsolver import FaultSolver
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import CRANK, NAMED, RUN, RUNNING, Fault, State
from molvik.electrical.elements import Element
from molvik.lazy import cached_property
from molvik.model.parts import Device, End
from molvik.model.refs import Ref
from molvik.netlist.circuitgraph import fuse_element
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.benchfault import FaultyBench
from molvik.proving.causes import Cause, causes
from molvik.proving.computer import (
    Watch,
    codes_set,
    computers,
    inside,
    judged,
    supply_codes,
    watches,
)
from molvik.proving.points import (
    BLOWN,
    DIM_SHARE,
    JOINED_OHM,
    LIT_SHARE,
    SOUNDS_OHM,
    TEST_LAMP_W,
    WHOLE,
    Point,
    Shown,
)
from molvik.reference.troublecodes import SUPPLY
from molvik.stopping import look_up

Faults = tuple[Fault, ...]
"""What is wrong together; none for a sound loom."""


class FaultSimulator:
    """Answers what would be shown, whatever is wrong; the same question is played once.

    lies_in: the stretches each wire runs through, by its code, as far as they are known.
    """

    def __init__(
        self,
        network: Network,
        bench: Bench,
        lies_in: Mapping[str, frozenset[str]] = MappingProxyType({}),
    ) -> None:
        self.network, self.bench, self.lies_in = network, bench, lies_in
        self._benches: dict[Faults, FaultyBench] = {}
        self._solved: dict[tuple[Faults, State], OperatingPoint] = {}
        self._parts_of: dict[tuple[str, str, str], frozenset[str]] = {}
        self._stood: dict[State, dict[str, str]] = {}
        self._otherwise: dict[tuple[Faults, State], dict[str, str]] = {}
        self._solvers: dict[State, FaultSolver] = {}
        self._watched: dict[str, tuple[Watch, ...]] = {}
        self._codes: dict[tuple[Faults, str], frozenset[str] | None] = {}
        self._thought_of: tuple[Network, tuple[Cause, ...]] | None = None

    def causes(self, network: Network) -> tuple[Cause, ...]:
        """Return every single fault that is thought of in a network: this one, or the same with
        other things found and written of it.
        """
        kept = self._thought_of  # read once: another thread may ask of another meanwhile
        if kept is None or kept[0] is not network:
            kept = self._thought_of = network, causes(network)
        return kept[1]

    def parts_of(self, fault: Fault) -> frozenset[str]:
        """Return the codes of what is at fault: of wires that are swapped, both."""
        key = fault.kind, fault.at, fault.other
        if key not in self._parts_of:
            places = [place for place in (fault.at, fault.other) if place]
            on = {Ref.parse(place).code for place in places}
            if fault.kind == "swap":
                on |= {
                    wire.code
                    for place in places
                    for wire in self.network.wires_at.get(End.of(place), ())
                }
            self._parts_of[key] = frozenset(on)
        return self._parts_of[key]

    def faulty(self, faults: Faults) -> FaultyBench:
        """Return the bench with something wrong."""
        made = self._benches.get(faults)
        if made is None:
            made = self._benches[faults] = FaultyBench(self.bench, faults)
        return made

    def predicted(self, faults: Faults, point: Point) -> Shown:
        """Return what is shown at a point where something is wrong."""
        if point.what == "resistance":
            return self.faulty(faults).ohm(point.red, point.black)
        if point.is_on_bench:
            ohm = self.faulty(faults).ohm(point.red, point.black)
            if point.what == "tone":
                return "sounds" if ohm is not None and ohm < SOUNDS_OHM else "silent"
            return "joined" if ohm is not None and ohm < JOINED_OHM else "OL"
        faults = (*faults, *point.pulled)
        if point.what == "code":
            of_supply = point.red.cavity in SUPPLY
            codes = (self.supply_codes if of_supply else self.codes)(faults, point.red.at)
            return None if codes is None else "set" if point.red.cavity in codes else "not set"
        state = NAMED[point.state]
        if point.what == "device":
            other = self._otherwise.get((faults, state))
            if other is not None and point.red.at in self.stood(state):
                return other.get(point.red.at, self._stood[state][point.red.at]) or None
            return self.solved(faults, state).stands(point.red.at) or None
        if point.what == "fuse":
            gone = Fault("open", point.red.at) in faults
            # Once blown it stays so: it looks blown in whichever state it is looked at.
            used = (self.solved(faults, one).blown for one in (RUN, CRANK, RUNNING))
            return BLOWN if gone or any(point.red.at in blown for blown in used) else WHOLE
        if point.what == "current":
            return self._amps(self.solved(faults, state), point.red.at)
        nominal = self.network.job.settings.system_v
        if point.what == "lamp":
            black_at = str(point.black) if point.black.at else ""
            ohm = nominal**2 / TEST_LAMP_W
            faults = (*faults, Fault("load", str(point.red), black_at, ohm))
        solved = self.solved(faults, state)
        volts = solved.solution.volts
        red, black = (volts.get(_node(solved, end)) for end in (point.red, point.black))
        if point.what == "lamp":
            share = abs((red or 0.0) - (black or 0.0)) / nominal
            return "lit" if share >= LIT_SHARE else "dim" if share >= DIM_SHARE else "dark"
        if red is None or black is None:
            return None
        # Against the battery its earthed pole is taken for zero, whichever that is.
        return red - black if not point.black.at else (red - black) * self._polarity

    @staticmethod
    def _amps(solved: OperatingPoint, fuse: str) -> float:
        """Return what an ammeter shows in place of a fuse; of one that blows, what it blew at."""
        blown = solved.blown.get(fuse)
        return blown.amps if blown else abs(solved.solution.amps.get(fuse_element(fuse), 0.0))

    def solved(self, faults: Faults, state: State) -> OperatingPoint:
        """Return the network in a state where something is wrong, with what computers put on their
        cavities.
        """
        found = self._solved.get((faults, state))
        if found is None:
            look_up()
            found = self.solver(state).faulty(frozenset(faults))
            self._solved[faults, state] = found
        return found

    def stood(self, state: State) -> dict[str, str]:
        """Return how each device stands in the sound network."""
        if state not in self._stood:
            sound = self.solved((), state)
            codes = [device.code for device in self.network.job.devices]
            self._stood[state] = {code: sound.stands(code) for code in codes}
        return self._stood[state]

    def otherwise(self, faults: Faults, state: State) -> dict[str, str]:
        """Return the devices that stand otherwise where something is wrong, and how."""
        key = faults, state
        if key not in self._otherwise:
            self._otherwise[key] = self.solved(faults, state).otherwise(self.stood(state))
        return self._otherwise[key]

    def solver(self, state: State) -> FaultSolver:
        """Return the sound network of a state, from which faulty ones are reached."""
        made = self._solvers.get(state)
        if made is None:
            rest = self.solver(RUN) if state.running else None
            made = FaultSolver(OperatingPoint(self.network, state), self._inside, rest)
            self._solvers[state] = made
        return made

    def _inside(self, on: frozenset[str]) -> list[Element]:
        """Return what computers that work put on their cavities."""
        return [
            element
            for computer in self._computers
            if computer.code in on
            for element in inside(computer, self._every_watch[computer.code], self._polarity)
        ]

    @property
    def _polarity(self) -> float:
        return -1.0 if self.network.job.settings.earthed == "plus" else 1.0

    @cached_property
    def _computers(self) -> tuple[Device, ...]:
        return computers(self.network)

    @cached_property
    def _every_watch(self) -> dict[str, tuple[Watch, ...]]:
        return {one.code: watches(self.network, one) for one in self._computers}

    def watched(self, code: str) -> tuple[Watch, ...]:
        """Return what a computer watches and can tell of."""
        found = self._watched.get(code)
        if found is None:
            computer = self._computer(code)
            found = ()
            if computer is not None:
                every = self._every_watch[code]
                found = judged(computer, every, partial(self.solved, ()))
            self._watched[code] = found
        return found

    def codes(self, faults: Faults, code: str) -> frozenset[str] | None:
        """Return the codes that a computer sets where something is wrong, but those of its supply;
        None where it does not answer.
        """
        key = faults, code
        if key not in self._codes:
            computer = self._computer(code)
            self._codes[key] = (
                None
                if computer is None
                else codes_set(computer, self.watched(code), partial(self.solved, faults))
            )
        return self._codes[key]

    def supply_codes(self, faults: Faults, code: str) -> frozenset[str] | None:
        """Return the codes of its supply that a computer sets where something is wrong."""
        key = faults, f"{code} supply"
        if key not in self._codes:
            computer = self._computer(code)
            self._codes[key] = (
                None if computer is None else supply_codes(computer, partial(self.solved, faults))
            )
        return self._codes[key]

    def _computer(self, code: str) -> Device | None:
        return next((one for one in self._computers if one.code == code), None)


def _node(solved: OperatingPoint, end: End) -> str:
    """Return the node a probe touches: the cavity itself, whatever wire is in it."""
    return str(end) if end.at else solved.reference
