"""One step of bringing power up, and how the states it speaks of are solved."""

from collections.abc import Callable
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.model.job import Job
from molvik.netlist.states import State, all_off

Solved = Callable[[State], OperatingPoint]


def still(job: Job, solved: Solved) -> Solved:
    """Return how states are solved with every switch but the key off, and those that a state
    names: nobody left one on.
    """
    off = all_off(job)

    def with_switches_off(state: State) -> OperatingPoint:
        own = dict(state.switches)
        switches = tuple((code, own.get(code, first)) for code, first in off)
        return solved(state._replace(switches=switches))

    return with_switches_off


class PowerStep(NamedTuple):
    """A step. subject: what to take in hand; before: what is unplugged or kept ready; expect: what
    is seen or read, otherwise: what to do if it is not.
    """

    key: str
    subject: str
    do: str
    why: str
    before: str
    expect: str
    otherwise: str
