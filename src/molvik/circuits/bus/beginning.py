"""A bus begun from a line of words: its modules in order, and how far it is to the next."""

import re
from typing import NamedTuple

from molvik.devices.kinds.network import TERMINATOR_OHM
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Colour, Device, End, Wire, WireSize
from molvik.parsing.quantities import read_length_m

HOW = "Engine computer 2.5 m, Cluster 800 mm, Gearbox"
TWIST_MM = 25.0
"""Lay length of a pair, mm (common practice: 30 to 40 turns a metre)."""

PAIR = (("high", "YE"), ("low", "GN"))


class Stop(NamedTuple):
    """A module along a line, and how far it is to the next, m, None where that was not said."""

    name: str
    next_m: float | None


def read_line(text: str) -> tuple[Stop, ...]:
    """Read the modules of a line in order, each with how far it is to the next. Raises ValueError
    for fewer than two, and for a length that cannot be.
    """
    stops = []
    for part in filter(None, (one.strip() for one in re.split(r"[,;\n→]", text))):
        read = re.fullmatch(r"(.+?)\s+(\d+(?:\.\d+)?\s*(?:mm|cm|m|in|ft))", part)
        name, far = (read[1].strip(), read_length_m(read[2])) if read else (part, None)
        stops.append(Stop(name, far))
    if len(stops) < 2:
        raise ValueError(f"A bus has two modules at least: {HOW}.")
    return tuple(stops)


def begun(job: Job, stops: tuple[Stop, ...]) -> Job:
    """Return the job with a bus: a module for each stop, a twisted pair between two, a terminator
    in the first and the last. Raises EditError.
    """
    if len(stops) < 2:
        raise EditError(f"A bus has two modules at least: {HOW}.")
    codes = []
    for number, stop in enumerate(stops):
        ends = number in (0, len(stops) - 1)
        values = (("ohm", TERMINATOR_OHM),) if ends else ()
        before = {device.code for device in job.devices}
        made = Device("", stop.name, "network node", ("high", "low"), values=values)
        job = edits.add(job, made)
        codes.append(next(one.code for one in job.devices if one.code not in before))
    for number, stop in enumerate(stops[:-1]):
        job = with_pair(
            job,
            (End(codes[number], "high"), End(codes[number], "low")),
            codes[number + 1],
            stop.next_m,
            stops[number + 1].name,
        )
    return job


def with_pair(job: Job, ends: tuple[End, End], code: str, length_m: float | None, name: str) -> Job:
    """Return the job with a twisted pair from two ends, high and low, to a module by its code."""
    for end, (terminal, colour) in zip(ends, PAIR, strict=True):
        wire = Wire(
            edits.free_code(job, Wire),
            end,
            End(code, terminal),
            f"Network {terminal}, {name}",
            colour=Colour(colour),
            size=WireSize("metric", 0.5),
            length_m=length_m,
            use="sensor",
            lay_length_mm=TWIST_MM,
        )
        job = edits.add(job, wire)
    return job
