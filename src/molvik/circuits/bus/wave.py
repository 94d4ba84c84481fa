"""The voltage between the two wires of a bus in time: lossless lines, drivers, what hangs on them.

By the method of characteristics (Bergeron): what arrives at one end of a line left the other so
long ago, so that each place is solved by itself at each step. ``tests/test_bus_wave.py`` holds it
to the transmission lines of ngspice.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from molvik.reference.bus import (
    DELAY_NS_PER_M,
    DRIVER_OHM,
    DRIVER_V,
    EDGE_NS,
    LINE_OHM,
    NODE_OHM,
)
from molvik.stopping import look_up

STEP_NS, MOST_STEPS = 0.5, 20_000
"""How long a step is, ns, and how many at most: of a slow bit they are longer."""

Floats = NDArray[np.float64]


class Line(NamedTuple):
    """A piece of line between two places, m."""

    a: str
    b: str
    length_m: float


class Load(NamedTuple):
    """What hangs on a place between the two wires: ohms, and capacitance, pF."""

    ohm: float = NODE_OHM
    pf: float = 0.0


class Wave(NamedTuple):
    """Volts between the two wires in time. times_ns: of each step; volts: of each place."""

    times_ns: Floats
    volts: dict[str, Floats]


def simulate(
    lines: Sequence[Line],
    loads: Mapping[str, Sequence[Load]],
    sender: str,
    bit_ns: float,
    bits: Sequence[int] = (0, 1),
) -> Wave:
    """Return what a bus at rest does when a place sends bits: 0 is dominant, 1 recessive.

    Raises ValueError for a place that no line or load has, and for a bit of no length.
    """
    if bit_ns <= 0:
        raise ValueError("A bit takes some time: type a bit rate above zero.")
    whole_ns = bit_ns * len(bits)
    step = max(STEP_NS, whole_ns / MOST_STEPS)
    places = list(dict.fromkeys([*(p for line in lines for p in (line.a, line.b)), *loads]))
    if sender not in places:
        raise ValueError(f"{sender or 'Nothing'} is not on this line, so it sends nothing.")
    at, lines = _merged(places, lines, step)
    count = max(at.values()) + 1
    size = round(whole_ns / step) + 1
    times: Floats = np.arange(size, dtype=np.float64) * step
    drive = _driving(times, bit_ns, bits) / DRIVER_OHM

    ends = np.array([[at[line.a], at[line.b]] for line in lines], dtype=int).reshape(-1, 2)
    here = np.concatenate((ends[:, 0], ends[:, 1]))
    half = len(lines)
    other = np.concatenate((np.arange(half) + half, np.arange(half)))
    delays = np.array([_steps(line, step) for line in lines], dtype=int)
    delays = np.concatenate((delays, delays))

    fixed = np.bincount(here, minlength=count) / LINE_OHM
    farads = np.zeros(count)
    for place, hung in loads.items():
        for load in hung:
            fixed[at[place]] += 1 / load.ohm
            farads[at[place]] += load.pf * 1e-12
    store = 2 * farads / (step * 1e-9)

    # left[t] is what left each end at step t, as the voltage it makes at the other end.
    left = np.zeros((size, 2 * half))
    volts = np.zeros((size, count))
    through = np.zeros(count)  # the current into each capacitance
    every = np.arange(2 * half)
    own = at[sender]
    base = fixed + store
    for now in range(1, size):
        if now % 2048 == 0:
            look_up()
        back = now - delays
        arrives = np.where(back >= 0, left[np.maximum(back, 0), other[every]], 0.0)
        push = np.bincount(here, weights=arrives, minlength=count) / LINE_OHM
        push += store * volts[now - 1] + through
        admits = base.copy()
        push[own] += drive[now] * DRIVER_V
        admits[own] += drive[now]
        found = push / admits
        through = store * (found - volts[now - 1]) - through
        volts[now] = found
        left[now] = 2 * found[here] - arrives
    return Wave(times, {place: volts[:, at[place]] for place in places})


def _steps(line: Line, step: float) -> int:
    return round(line.length_m * DELAY_NS_PER_M / step)


def _merged(
    places: Sequence[str], lines: Sequence[Line], step: float
) -> tuple[dict[str, int], list[Line]]:
    """Return the number of each place, those that a wave passes between within a step as one, and
    the lines that are left.
    """
    of = {place: place for place in places}

    def top(place: str) -> str:
        while of[place] != place:
            place = of[place]
        return place

    long = []
    for line in lines:
        if _steps(line, step) < 1:
            of[top(line.a)] = top(line.b)
        else:
            long.append(line)
    numbers: dict[str, int] = {}
    return {place: numbers.setdefault(top(place), len(numbers)) for place in places}, long


def _driving(times: Floats, bit_ns: float, bits: Sequence[int]) -> Floats:
    """Return how far the driver is switched on at each time, 0 to 1: it takes its time."""
    corners, levels, level = [0.0], [0.0], 0.0
    for number, bit in enumerate(bits):
        wanted = 0.0 if bit else 1.0
        if wanted != level:
            corners += [number * bit_ns, number * bit_ns + EDGE_NS]
            levels += [level, wanted]
            level = wanted
    return np.interp(times, corners, levels)
