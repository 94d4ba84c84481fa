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

STEP_NS, MOST_STEPS, MOST_EACH = 0.5, 20_000, 8_000
"""How long a step is, ns, and how many at most, of one sender and of each of several: of a slow bit
they are longer.
"""

LONG_STEP_NS, LONG_STEPS = 1.0, 20.0
"""As long a step will do where every line is so many of them long: what is left of a length by
whole steps is then a fortieth of it at most, and an edge still has thirty.
"""

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
    return simulate_each(lines, loads, (sender,), bit_ns, bits)[0]


def simulate_each(
    lines: Sequence[Line],
    loads: Mapping[str, Sequence[Load]],
    senders: Sequence[str],
    bit_ns: float,
    bits: Sequence[int] = (0, 1),
) -> list[Wave]:
    """Return what ``simulate`` does for each of some senders, all at once. Raises ValueError as
    that does.
    """
    if bit_ns <= 0:
        raise ValueError("A bit takes some time: type a bit rate above zero.")
    whole_ns = bit_ns * len(bits)
    step = max(_finest(lines), whole_ns / (MOST_STEPS if len(senders) == 1 else MOST_EACH))
    places = list(dict.fromkeys([*(p for line in lines for p in (line.a, line.b)), *loads]))
    for sender in senders:
        if sender not in places:
            raise ValueError(f"{sender or 'Nothing'} is not on this line, so it sends nothing.")
    at, lines = _merged(places, lines, step)
    count, many = max(at.values()) + 1, len(senders)
    size = round(whole_ns / step) + 1
    times: Floats = np.arange(size, dtype=np.float64) * step
    drive = _driving(times, bit_ns, bits) / DRIVER_OHM

    half = len(lines)
    here = np.array([at[line.a] for line in lines] + [at[line.b] for line in lines], dtype=int)
    other = np.concatenate((np.arange(half) + half, np.arange(half)))
    delays = np.array([_steps(line, step) for line in lines] * 2, dtype=int)
    meets = np.zeros((2 * half, count))  # which end is at which place, by what it admits
    meets[np.arange(2 * half), here] = 1 / LINE_OHM

    fixed = meets.sum(axis=0)
    farads = np.zeros(count)
    for place, hung in loads.items():
        for load in hung:
            fixed[at[place]] += 1 / load.ohm
            farads[at[place]] += load.pf * 1e-12
    store = 2 * farads / (step * 1e-9)

    # What left each end, as the voltage it makes at the other, for as long as the longest line.
    ring = int(delays.max(initial=1)) + 1
    left = np.zeros((ring, many, 2 * half))
    own = np.array([at[sender] for sender in senders], dtype=int)
    rows, ends = np.arange(many), np.arange(2 * half)
    hung_at = sorted({at[place] for place in places if loads.get(place)} | {*own.tolist()})
    kept = places if many == 1 else [place for place in places if at[place] in set(hung_at)]
    shown = np.array(sorted({at[place] for place in kept}), dtype=int)
    volts = np.zeros((size, many, len(shown)), dtype=np.float64 if many == 1 else np.float32)
    now_v = np.zeros((many, count))
    through = np.zeros((many, count))  # the current into each capacitance
    admits = np.tile(fixed + store, (many, 1))
    base = admits[rows, own].copy()
    for now in range(1, size):
        if now % 1024 == 0:
            look_up()
        arrives = left[(now - delays) % ring, :, other[ends]].T  # nothing yet: zeros
        push = arrives @ meets + store * now_v + through
        push[rows, own] += drive[now] * DRIVER_V
        admits[rows, own] = base + drive[now]
        found = push / admits
        through = store * (found - now_v) - through
        now_v = found
        volts[now] = found[:, shown]
        left[now % ring] = 2 * found[:, here] - arrives
    column = {place: number for number, place in enumerate(shown.tolist())}
    return [
        Wave(times, {place: volts[:, row, column[at[place]]] for place in kept})
        for row in range(many)
    ]


def _finest(lines: Sequence[Line]) -> float:
    """Return the step for the shortest of some lines, ns."""
    shortest = min((line.length_m * DELAY_NS_PER_M for line in lines), default=0.0)
    return LONG_STEP_NS if shortest >= LONG_STEPS * LONG_STEP_NS else STEP_NS


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
