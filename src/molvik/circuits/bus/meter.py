"""What a meter shows on a bus, power off and at rest, with anything unplugged."""

import math
from collections.abc import Collection
from typing import NamedTuple

from molvik.circuits.bus.topology import Bus, Member
from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.reference.bus import LINE_OHM, REST_V

NEAR = 0.08
"""How far off a reading may be and still be that of so many terminators, as a share."""

OPEN_OHM = 1e5
"""From so many ohms on a meter is said to show open between the two wires."""


class Reads(NamedTuple):
    """What a meter shows at a place of a bus. ohm: between its two wires, power off, infinite for
    open; high_v, low_v: of each against earth at rest, power on, None where nothing that is powered
    is plugged in; means: in words.
    """

    at: str
    ohm: float
    high_v: float | None
    low_v: float | None
    means: str


def reads(network: Network, bus: Bus, at: str, out: Collection[str] = ()) -> Reads:
    """Return what a meter shows at a place. at: the code of a part on the bus; out: the codes of
    what is unplugged: modules, plugs, resistors.
    """
    left = [one for one in bus.members if one.code not in out and not one.half]
    reached = {one.code for one in left if _reached(network, bus, at, one.at, out)}
    there = [one for one in left if one.code in reached]
    across = sum(1 / one.ohm for one in there if math.isfinite(one.ohm))
    ohm = 1 / across if across else math.inf
    volts = REST_V if any(one.talks for one in there) else None
    return Reads(at, ohm, volts, volts, in_words(ohm, there))


def _reached(network: Network, bus: Bus, at: str, to: str, out: Collection[str]) -> bool:
    """Return whether the line goes on from one place to another past what is unplugged."""
    seen, waiting = {at}, [at]
    while waiting:
        here = waiting.pop()
        if here == to:
            return True
        for one in bus.stretches:
            if not one.wire and {one.a, one.b} & set(out):
                continue  # a joint of two plugs of which one is out
            for a, b in ((one.a, one.b), (one.b, one.a)):
                if a == here and b not in seen:
                    seen.add(b)
                    waiting.append(b)
    return False


def in_words(ohm: float, there: Collection[Member] = ()) -> str:
    """Return what ohms between the two wires of a bus mean, power off."""
    crossed = [one.name for one in there if one.crossed]
    more = (
        f" {', '.join(crossed)} has its two wires crossed: ohms do not show that."
        if crossed
        else ""
    )
    if ohm >= OPEN_OHM:
        return "Open: no terminator and no module is reached from here." + more
    if ohm > LINE_OHM * 1.5:
        return "No terminator is reached: what looks like an empty cap may have been one." + more
    for count, words in (
        (1, "One terminator: the line is open between here and the other, or one is missing."),
        (2, "Two terminators, as it should be."),
        (3, "Three terminators: one too many. Drivers are overloaded; levels fall."),
        (4, "Four terminators: two too many."),
    ):
        if abs(ohm - LINE_OHM / count) <= NEAR * LINE_OHM / count:
            return words + more
    if ohm < 5:
        return "The two wires touch." + more
    return "No number of terminators of 120 ohms makes this: look for one of another value." + more


AT_REST = (
    (
        "2.5 V on both",
        "at rest, powered: right; while it talks high is a little above and low a little below",
    ),
    ("0 V on one", "that wire is shorted to earth, or broken off from all that is powered"),
    ("the battery's voltage on one", "that wire touches a feed"),
    ("the same on both, not 2.5 V", "the two wires touch each other, or nothing is powered"),
    ("high below low while it talks", "the two wires are crossed at what talks"),
)
"""What volts on the wires of a bus against earth mean (ISO 11898-2 for the 2.5 V; the rest is
common practice, with no source)."""


def places_of(bus: Bus) -> tuple[str, ...]:
    """Return where a meter can be put, what can be unplugged first."""
    own = [one.at for one in bus.members]
    return tuple(dict.fromkeys([*own, *bus.places]))


def probes(member: Member) -> tuple[End, End]:
    """Return where the red and the black lead go at a member."""
    return member.high, member.low
