"""What each module of a bus sees of a bit that another sends, and how fast it may be.

A judgement aid: drivers and modules are as is usual, the line is without loss, one bit is sent into
a bus at rest. It does not replace a look with an oscilloscope.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from molvik.circuits.bus.members import Member
from molvik.circuits.bus.topology import Bus
from molvik.circuits.bus.wave import Line, Load, Wave, simulate_each
from molvik.reference.bus import (
    DELAY_NS_PER_M,
    DOMINANT_V,
    LINE_OHM,
    RATES_KBIT,
    RECESSIVE_V,
    SAMPLE,
    TRANSCEIVER_NS,
)

NS_PER_MS = 1e6


class WhatIf(NamedTuple):
    """What is otherwise than in the job. out: what is unplugged; ends: places that get a terminator
    more; longer_m: how much longer the stub to a place is, m.
    """

    out: frozenset[str] = frozenset()
    ends: tuple[str, ...] = ()
    longer_m: tuple[tuple[str, float], ...] = ()


AS_IT_IS = WhatIf()


class Sees(NamedTuple):
    """What a module sees. dominant_v, recessive_v: between the two wires when it samples the bit
    that is sent and the one after it, V; None where it sees no bit at all. free_v: what is left to
    the nearer threshold, V, less than nothing where it misreads.
    """

    member: Member
    dominant_v: float | None
    recessive_v: float | None
    free_v: float

    @property
    def reads_right(self) -> bool:
        """Whether it reads both bits."""
        return self.free_v >= 0


class Eye(NamedTuple):
    """What all modules see of a bit. in_time: there and back again before it is sampled."""

    kbit_s: float
    sender: str
    wave: Wave
    sees: tuple[Sees, ...]
    in_time: bool

    @property
    def works(self) -> bool:
        """Whether every module reads both bits, in time."""
        return self.in_time and all(one.reads_right for one in self.sees)

    @property
    def free_v(self) -> float:
        """What the worst of them has left, V."""
        return min((one.free_v for one in self.sees), default=0.0)


def eye(bus: Bus, sender: str, kbit_s: float, what_if: WhatIf = AS_IT_IS) -> Eye:
    """Return what each module sees of a bit. sender: the code of the member that sends it. Raises
    ValueError for one that is not on the bus, or a bit rate that is not above zero.
    """
    return eyes(bus, (sender,), kbit_s, what_if)[0]


def eyes(bus: Bus, senders: Sequence[str], kbit_s: float, what_if: WhatIf = AS_IT_IS) -> list[Eye]:
    """Return what ``eye`` does for each of some senders, all at once. Raises ValueError as that
    does.
    """
    if kbit_s <= 0:
        raise ValueError("A bit rate is above zero: type kbit/s, 250 or 500.")
    members = [one for one in bus.members if one.code not in what_if.out and not one.half]
    talk = {one.code: one for one in members if one.talks}
    for sender in senders:
        if sender not in talk:
            raise ValueError(f"{sender or 'Nothing'} does not talk on this bus.")
    bit_ns = NS_PER_MS / kbit_s
    lines, loads = _line(bus, members, what_if)
    waves = simulate_each(lines, loads, [talk[one].at for one in senders], bit_ns)
    in_time = _longest_ns(bus, members) <= SAMPLE * bit_ns
    return [
        Eye(
            kbit_s,
            sender,
            wave,
            tuple(_seen(one, wave, bit_ns) for one in talk.values() if one.code != sender),
            in_time,
        )
        for sender, wave in zip(senders, waves, strict=True)
    ]


def _line(
    bus: Bus, members: Iterable[Member], what_if: WhatIf
) -> tuple[list[Line], Mapping[str, list[Load]]]:
    longer = dict(what_if.longer_m)
    loads: dict[str, list[Load]] = {}
    lines = []
    for one in bus.stretches:
        # A plug that is out takes the joint apart; the wires stay.
        if not one.wire and {one.a, one.b} & what_if.out:
            continue
        more = longer.get(one.b, longer.get(one.a, 0.0))
        lines.append(Line(one.a, one.b, one.counts_m + more))
        loads.setdefault(one.a, [])
        loads.setdefault(one.b, [])
    for member in members:
        loads.setdefault(member.at, []).append(Load(member.ohm, member.pf))
    for place in what_if.ends:
        loads.setdefault(place, []).append(Load(LINE_OHM))
    return lines, loads


def _seen(member: Member, wave: Wave, bit_ns: float) -> Sees:
    """Return what a member sees. It finds the beginning of the bit by the edge it sees."""
    import numpy as np

    volts = -wave.volts[member.at] if member.crossed else wave.volts[member.at]
    above = np.flatnonzero(volts > DOMINANT_V)
    if not len(above) or wave.times_ns[above[0]] > bit_ns:
        best = float(volts.max())
        return Sees(member, None, None, best - DOMINANT_V if best < DOMINANT_V else -DOMINANT_V)
    edge = wave.times_ns[above[0]]
    sampled, after = (
        float(np.interp(edge + (number + SAMPLE) * bit_ns, wave.times_ns, volts))
        for number in (0, 1)
    )
    return Sees(member, sampled, after, min(sampled - DOMINANT_V, RECESSIVE_V - after))


def _longest_ns(bus: Bus, members: Iterable[Member]) -> float:
    """Return how long it takes at most there and back again, through a module on each side, ns."""
    talkers = [one for one in members if one.talks]
    way = max((between_m(bus, a.at, b.at) for a in talkers for b in talkers), default=0.0)
    return 2 * (way * DELAY_NS_PER_M + TRANSCEIVER_NS)


def between_m(bus: Bus, a: str, b: str) -> float:
    """Return how far it is along the line from one place to another, m."""
    leaves_a, leaves_b = (bus.stubs[one][0] if one in bus.stubs else one for one in (a, b))
    off = bus.away_m(a) + bus.away_m(b)
    if leaves_a == leaves_b and a != b and a in bus.stubs and b in bus.stubs:
        return off  # at most: they may have a part of their stub in common
    return 0.0 if a == b else off + abs(bus.along_m[leaves_a] - bus.along_m[leaves_b])


def fastest(bus: Bus, what_if: WhatIf = AS_IT_IS) -> Eye | None:
    """Return what is seen at the highest usual bit rate at which all read right, whoever sends;
    None where there is none. Of each rate the eye of the sender that is heard worst.
    """
    talkers = [one for one in bus.talkers if one.code not in what_if.out and not one.half]
    if len(talkers) < 2:
        return None
    members = [one for one in bus.members if one.code not in what_if.out and not one.half]
    for kbit_s in RATES_KBIT:
        if _longest_ns(bus, members) > SAMPLE * NS_PER_MS / kbit_s:
            continue
        made = eyes(bus, [one.code for one in talkers], kbit_s, what_if)
        if all(one.works for one in made):
            return min(made, key=lambda one: one.free_v)
    return None


class _Line:
    """A bus by what its wave depends on, so that another edit of the job does not find it anew."""

    def __init__(self, bus: Bus) -> None:
        self.bus = bus
        self._key = bus.members, bus.stretches, bus.trunk

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Line) and self._key == other._key


def heard_worst(bus: Bus) -> Eye | None:
    """Return what is seen of a bit at a bus's own rate, of those that its two outermost modules
    send the one that is heard worst; None where nobody is there to hear it.
    """
    return _heard_worst(_Line(bus))


@lru_cache(maxsize=16)
def _heard_worst(line: _Line) -> Eye | None:
    bus = line.bus
    talkers = [one for one in bus.talkers if not one.half]
    if len(talkers) < 2:
        return None
    along = sorted(talkers, key=lambda one: bus.position_m(one.at))
    made = eyes(bus, [along[0].code, along[-1].code], bus.kbit_s)
    return min(made, key=lambda one: one.free_v)
