"""What a cause would make a meter show, on the bench and in the vehicle, played through once."""

from molvik.circuits.simulate import OperatingPoint
from molvik.model.parts import End
from molvik.netlist.faults import Fault
from molvik.netlist.network import Network
from molvik.netlist.states import NAMED
from molvik.proving.bench import Bench
from molvik.proving.benchfault import FaultyBench
from molvik.stopping import look_up

Shown = float | str | None
"""Ohms, volts, or how a device stands; None for an open circuit, or a point that floats."""


class Point(tuple[str, End, End, str]):
    """What is measured: "resistance" between two ends on the bench, "voltage" between two in a
    state, or "device": how one stands in a state.
    """

    __slots__ = ()

    @classmethod
    def of(cls, what: str, red: End, black: End, state: str = "") -> "Point":
        """Return a point; the same whichever probe is where, where that is no matter."""
        if what == "resistance" and (str(black), str(red)) < (str(red), str(black)):
            red, black = black, red
        return cls((what, red, black, state))

    @property
    def what(self) -> str:
        """resistance, voltage or device."""
        return self[0]

    @property
    def red(self) -> End:
        """Where the red probe is; of a device, the device."""
        return self[1]

    @property
    def black(self) -> End:
        """Where the black one is."""
        return self[2]

    @property
    def state(self) -> str:
        """Of the job, by its name; empty on the bench."""
        return self[3]


Faults = tuple[Fault, ...]
"""What is wrong together; none for a sound loom."""


class Played:
    """Answers what would be shown, whatever is wrong; the same question is played once."""

    def __init__(self, network: Network, bench: Bench) -> None:
        self.network, self.bench = network, bench
        self._benches: dict[Faults, FaultyBench] = {}
        self._solved: dict[tuple[Faults, str], OperatingPoint] = {}

    def faulty(self, faults: Faults) -> FaultyBench:
        """Return the bench with something wrong."""
        made = self._benches.get(faults)
        if made is None:
            made = self._benches[faults] = FaultyBench(self.bench, faults)
        return made

    def shown(self, faults: Faults, point: Point) -> Shown:
        """Return what is shown at a point where something is wrong."""
        if point.what == "resistance":
            return self.faulty(faults).ohm(point.red, point.black)
        solved = self._solved.get((faults, point.state))
        if solved is None:
            look_up()
            state = NAMED[point.state]._replace(faults=frozenset(faults))
            solved = self._solved[faults, point.state] = OperatingPoint(self.network, state)
        if point.what == "device":
            load = solved.load.get(point.red.at)
            return load.state if load else None
        volts = solved.solution.volts
        red, black = (volts.get(_node(solved, end)) for end in (point.red, point.black))
        return None if red is None or black is None else red - black


def _node(solved: OperatingPoint, end: End) -> str:
    """Return the node a probe touches: the cavity itself, whatever wire is in it."""
    return str(end) if end.at else solved.reference
