"""What is drawn with the key off, item by item."""

from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.model.job import Job
from molvik.netlist.states import OFF, State, all_off


class Drain(NamedTuple):
    """total_a: what the battery gives, A. items: devices that draw, with their current, A."""

    total_a: float
    items: tuple[tuple[str, str, float], ...]


LEAST_A = 1e-4


def parked(job: Job) -> State:
    """Return the state of a vehicle that stands: key off, every switch in its first position."""
    return OFF._replace(switches=all_off(job))


def drain(point: OperatingPoint) -> Drain:
    """Return who draws what in a state that is solved, the most first."""
    items = [
        (load.device, load.name, load.amps)
        for load in point.loads
        if load.amps >= LEAST_A and abs(load.volts) > 0.1
    ]
    return Drain(max(0.0, point.source_amps), tuple(sorted(items, key=lambda one: -one[2])))
