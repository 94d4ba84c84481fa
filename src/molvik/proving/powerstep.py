"""One step of bringing power up, and how the states it speaks of are solved."""

from collections.abc import Callable
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.netlist.states import State

Solved = Callable[[State], OperatingPoint]


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
