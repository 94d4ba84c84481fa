"""What a meter shows on a bus, power off and at rest, with anything unplugged."""

import math
from collections.abc import Collection
from typing import NamedTuple

from molvik.circuits.bus.members import Member
from molvik.circuits.bus.topology import Bus
from molvik.parsing.quantities import ohm_text
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

    @property
    def shown(self) -> str:
        """What stands on the meter, in ohms."""
        return "open" if self.ohm >= OPEN_OHM else ohm_text(self.ohm)


def reads(bus: Bus, at: str, out: Collection[str] = (), more: Collection[str] = ()) -> Reads:
    """Return what a meter shows at a place. at: the code of a part on the bus; out: the codes of
    what is unplugged: modules, plugs, resistors; more: places that have a terminator more.
    """
    reached = bus.reached(at, out)
    there = [
        one for one in bus.members if one.code not in out and not one.half and one.at in reached
    ]
    across = sum(1 / one.ohm for one in there if math.isfinite(one.ohm))
    across += sum(1 / LINE_OHM for place in more if place in reached)
    ohm = 1 / across if across else math.inf
    volts = REST_V if any(one.talks for one in there) else None
    return Reads(at, ohm, volts, volts, in_words(ohm, there))


def in_words(ohm: float, there: Collection[Member] = ()) -> str:
    """Return what ohms between the two wires of a bus mean, power off."""
    crossed = [one.name for one in there if one.crossed]
    more = f" Crossed wires do not show in ohms: {', '.join(crossed)}." if crossed else ""
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
