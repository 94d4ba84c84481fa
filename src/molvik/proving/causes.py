"""What may be wrong with a loom, each as a fault that can be played through, with its odds.

Joints fail before wires, and what was repaired, found faulty or disturbed before fails before what
was not (common practice; the odds are our choice).
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from molvik.devices import kind_of
from molvik.devices.states import EARTH, Fault
from molvik.model.geometry import places
from molvik.model.job import Job, code_order
from molvik.model.log import counted
from molvik.model.parts import End
from molvik.model.refs import Ref
from molvik.netlist.faults import in_words
from molvik.netlist.network import Network

BAD_OHMS = (0.25, 0.8, 3.0, 10.0, 30.0)
"""From these on it is found how many ohms too many a bad joint has: whichever fits, and between."""

ODDS = {
    "bad": 6.0,
    "open": 3.0,
    "fuse": 3.0,
    "earth": 4.0,
    "relay": 2.0,
    "device": 2.0,
    "swap": 1.0,
    "short": 1.0,
    "to earth": 1.5,
}
"""How often each is the cause, beside the others (our choice, after common practice)."""

NEXT, CORNER = 1.01, 1.5
"""How far apart, in steps of the grid, cavities are that are mixed up, and that touch: next to each
other, and corner to corner too."""

ANYWHERE = 0.02
"""So many times as likely as for neighbours it is that any two wires touch (our choice)."""

TOGETHER = 0.1
"""So many times as likely, where they run through a stretch together (our choice)."""

SUSPECT = 4.0
"""So many times as likely is what was repaired, faulty or disturbed (our choice)."""


class Cause(NamedTuple):
    """One thing that may be wrong. faults: one of these, which differ in how many ohms; odds:
    beside the others'. on: the wires and parts it is about.
    """

    faults: tuple[Fault, ...]
    odds: float
    on: tuple[str, ...]

    @property
    def key(self) -> str:
        """A name that no other cause has."""
        first = self.faults[0]
        return f"{first.kind} {first.at} {first.other}".strip()

    def words(self, job: Job) -> str:
        """Say it as at the bench."""
        first = self.faults[0]
        if first.kind == "bad":
            return f"{first.at} has a bad joint or a high resistance"
        if first.kind == "open" and job.wire(first.at) is not None:
            return f"{first.at} is open: broken, or a terminal backed out"
        return in_words(first, job)


def causes(network: Network) -> tuple[Cause, ...]:
    """Return every single fault that is thought of in a job."""
    return tuple(_with_suspects(network.job, _all(network)))


def _all(network: Network) -> Iterator[Cause]:
    job = network.job
    for wire in job.wires:
        if not (wire.start.at and wire.finish.at):
            continue
        code = (wire.code,)
        yield Cause((Fault("open", wire.code),), ODDS["open"], code)
        yield Cause(tuple(Fault("bad", wire.code, "", ohm) for ohm in BAD_OHMS), ODDS["bad"], code)
        if job.earths:  # else nothing is at metal that it could be measured against
            yield Cause((Fault("short", wire.code, EARTH),), ODDS["to earth"], code)
    for one, other in neighbours(network, NEXT):
        here, there = network.wires_at[one], network.wires_at[other]
        wires = tuple(wire.code for wire in (*here, *there))
        yield Cause((Fault("swap", str(one), str(other)),), ODDS["swap"], wires)
    for one, other in neighbours(network, CORNER):
        first, second = network.wires_at[one][0].code, network.wires_at[other][0].code
        if first != second and network.net_of.get(one) != network.net_of.get(other):
            yield two_touch(first, second, ODDS["short"])
    for fuse in job.fuses:
        yield Cause((Fault("open", fuse.code),), ODDS["fuse"], (fuse.code,))
    for earth in job.earths:
        bad = tuple(Fault("bad", earth.code, "", ohm) for ohm in BAD_OHMS)
        yield Cause(bad, ODDS["earth"], (earth.code,))
        yield Cause((Fault("open", earth.code),), ODDS["earth"] / 2, (earth.code,))
    for device in job.devices:
        if device.kind == "battery":
            continue
        yield Cause((Fault("open", device.code),), ODDS["device"], (device.code,))
        if kind_of(device).is_pulled:
            yield Cause((Fault("stuck", device.code),), ODDS["relay"], (device.code,))


def two_touch(first: str, second: str, odds: float) -> Cause:
    """Return the cause that two wires touch."""
    first, second = sorted((first, second), key=code_order)
    return Cause((Fault("short", first, second),), odds, (first, second))


def neighbours(network: Network, steps: float) -> Iterator[tuple[End, End]]:
    """Yield the cavities of one plug that lie within some steps of each other, or have numbers that
    follow each other, and both have wires.
    """
    for plug in network.job.connectors:
        wired = [
            place for place in places(plug.grid) if End(plug.code, place.cavity) in network.wires_at
        ]
        for at, one in enumerate(wired):
            for other in wired[at + 1 :]:
                apart = math.dist((one.row, one.column), (other.row, other.column))
                if apart <= steps or (steps <= NEXT and other is wired[at + 1]):
                    yield End(plug.code, one.cavity), End(plug.code, other.cavity)


def _with_suspects(job: Job, found: Iterable[Cause]) -> Iterator[Cause]:
    """Raise the odds of what was found faulty in Survey, or told of in the log; one of each key."""
    suspects: dict[str, float] = defaultdict(lambda: 1.0)
    linked = {wire.code: wire.wire for wire in job.loom.wires if wire.wire}
    for fault in job.loom.faults:
        if fault.on in linked:
            suspects[linked[fault.on]] = SUSPECT
    for entry in counted(job.log):
        if entry.operation in ("splice", "terminal out and in", "crimp", "new wire"):
            suspects[Ref.parse(entry.subject).code] = SUSPECT
    seen: set[str] = set()
    for cause in found:
        if cause.key not in seen:
            seen.add(cause.key)
            yield cause._replace(odds=cause.odds * max(suspects[code] for code in cause.on))
