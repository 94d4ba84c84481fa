"""What was seen of a loom, from the readings of a job: what of them counts, and what wavers."""

from collections import defaultdict
from collections.abc import Iterable
from functools import partial
from itertools import takewhile
from typing import NamedTuple

from molvik.model.job import Reading
from molvik.model.parts import End
from molvik.proving.points import BLOWN, WHOLE, Point, Shown

AGREE_OHM, AGREE_V, AGREE_SHARE = 0.1, 0.3, 0.1
"""Two readings of one place are the same within so many ohms, volts, and such a share (our choice).
"""

STEADY_AFTER = 3
"""So many readings that agree, one after the other, make up for one before that did not."""


WORDS = {
    "lit": "lamp",
    "dim": "lamp",
    "dark": "lamp",
    "sounds": "tone",
    "silent": "tone",
    "joined": "diode",
    "OL": "diode",
    WHOLE: "fuse",
    BLOWN: "fuse",
}
"""What was looked at or measured, by what was seen there; a device stands otherwise."""


class Observation(NamedTuple):
    """One reading: where, and what was shown: ohms with the leads taken off, volts, or how a device
    stands. wavers: it was something else before, and nothing was mended between.
    """

    point: Point
    shown: Shown
    wavers: bool = False


def seen_of(readings: Iterable[Reading]) -> tuple[Observation, ...]:
    """Return what readings say: ohms on the bench, volts in a state. Of each place the last counts,
    with those before that agree: what was measured again is no slip.
    """
    found: dict[Point, list[Shown]] = defaultdict(list)
    for reading in readings:
        if reading.of != "loom" or len(reading.points) != 2:
            continue
        red, black = reading.points
        if reading.quantity == "resistance" and not reading.state:
            point = Point.of("resistance", red, black)
            value = None if reading.value is None else max(0.0, reading.value - reading.leads_ohm)
            found[point].append(value)
        elif reading.quantity == "voltage" and reading.state:
            point = Point.of("voltage", red, black, reading.state, reading.out)
            found[point].append(reading.value)
        elif reading.quantity == "current" and reading.state and _is_in_clips(red, black):
            point = Point.of("current", red, black, reading.state, reading.out)
            found[point].append(reading.value)
        elif reading.quantity == "words" and (reading.state or reading.said in WORDS):
            what = WORDS.get(reading.said, "device")
            point = Point.of(what, red, black, reading.state, reading.out)
            found[point].append(reading.said)
    made: list[Observation] = []
    for point, shown in found.items():
        last = list(takewhile(partial(agree, point, shown[-1]), reversed(shown)))
        wavers = len(last) < min(len(shown), STEADY_AFTER)
        made += [Observation(point, one, wavers) for one in last[:STEADY_AFTER][::-1]]
    return tuple(made)


def _is_in_clips(red: End, black: End) -> bool:
    """Return whether a current was measured in place of a fuse, and not from a supply."""
    return red.at == black.at and {red.cavity, black.cavity} == {"in", "out"}


def agree(point: Point, one: Shown, other: Shown) -> bool:
    """Return whether two readings of a place are the same."""
    if isinstance(one, float | int) and isinstance(other, float | int):
        least = AGREE_OHM if point.what == "resistance" else AGREE_V
        return abs(one - other) <= max(least, AGREE_SHARE * max(abs(one), abs(other)))
    return one == other
