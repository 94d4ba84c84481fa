"""What wires join, as a list: each net with its places and wires, and its volts in a state."""

from collections import defaultdict
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import NAMED
from molvik.electrical.elements import SolveError
from molvik.model.job import Job, code_order
from molvik.model.parts import End
from molvik.netlist.network import Network


class Net(NamedTuple):
    """A net. number: from one, in the order of its first place; places, wires: by their codes;
    volts: against the battery's earthed pole, the most of its places, None where it floats or
    nothing is solved.
    """

    number: int
    places: tuple[str, ...]
    wires: tuple[str, ...]
    volts: float | None


def nets_of(job: Job, state: str = "") -> tuple[Net, ...]:
    """Return every net of a job. Raises ValueError for an unknown state, or one that cannot be
    solved.
    """
    network = Network(job)
    volts: dict[str, float] = {}
    if state:
        if state not in NAMED:
            raise ValueError(f"There is no state “{state}”: {', '.join(NAMED)}.")
        if not any(one.kind == "battery" for one in job.devices):
            raise ValueError("There is no battery in the job: nothing is alive in any state.")
        try:
            point = OperatingPoint(network, NAMED[state])
        except SolveError as error:
            raise ValueError(f"{state}: {error}") from error
        zero = point.solution.volts.get(point.reference, 0.0)
        volts = {node: volt - zero for node, volt in point.solution.volts.items()}
    ends: dict[int, list[End]] = defaultdict(list)
    for end, number in network.net_of.items():
        if end.at:
            ends[number].append(end)
    wires: dict[int, list[str]] = defaultdict(list)
    for wire in job.wires:
        on = [network.net_of[end] for end in wire.ends if end.at and end in network.net_of]
        if on:
            wires[on[0]].append(wire.code)

    def order(end: End) -> tuple[object, ...]:
        return (*code_order(end.at), end.cavity)

    found: list[Net] = []
    for number, held in sorted(ends.items(), key=lambda one: order(min(one[1], key=order))):
        places = tuple(str(end) for end in sorted(held, key=order))
        known = [volts[place] for place in places if place in volts]
        most = max(known, key=abs, default=None)
        codes = tuple(sorted(wires[number], key=code_order))
        found.append(Net(len(found) + 1, places, codes, most))
    return tuple(found)
