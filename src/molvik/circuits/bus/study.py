"""All that is said of a bus at once: what a meter shows, what modules see, how fast it may be."""

from typing import NamedTuple

from molvik.circuits.bus.eye import AS_IT_IS, Eye, Sees, WhatIf, eyes, fastest
from molvik.circuits.bus.meter import Reads, reads
from molvik.circuits.bus.topology import Bus
from molvik.wording import counted


class Study(NamedTuple):
    """A bus in one situation. reads: what a meter shows at each place; sees: what each module sees
    of a bit, None where nobody talks; fastest: of the highest usual bit rate that works, or None;
    sender: who sends, empty for nobody.
    """

    bus: Bus
    what_if: WhatIf
    kbit_s: float
    sender: str
    reads: dict[str, Reads]
    sees: Eye | None
    fastest: Eye | None

    @property
    def seen_by(self) -> dict[str, Sees]:
        """What each module that receives sees, by its code."""
        return {one.member.code: one for one in self.sees.sees} if self.sees else {}

    @property
    def words(self) -> str:
        """What comes of it, in a line."""
        ends = [one for one in self.bus.terminators if one.code not in self.what_if.out]
        count = len(ends) + len(self.what_if.ends)
        first = "" if count == 2 else f"{counted(count, 'terminator')} in place of two. "
        return first + self._heard

    @property
    def _heard(self) -> str:
        """Who reads whom, in words."""
        talk = [one for one in self.bus.talkers if one.code not in self.what_if.out]
        if len(talk) < 2:
            return "Nobody is there to talk with."
        wrong = [code for code, one in self.seen_by.items() if not one.reads_right]
        if wrong:
            said = f"At {self.kbit_s:g} kbit/s {', '.join(wrong)} cannot read {self.sender}"
        elif self.sees is not None and not self.sees.in_time:
            said = f"At {self.kbit_s:g} kbit/s no answer comes back within the bit"
        else:
            said = f"At {self.kbit_s:g} kbit/s all read {self.sender}"
        if self.fastest is None:
            return f"{said}; at no usual bit rate do all read all."
        return f"{said}; all read all up to {self.fastest.kbit_s:g} kbit/s."


def study(
    bus: Bus,
    sender: str = "",
    kbit_s: float | None = None,
    what_if: WhatIf = AS_IT_IS,
) -> Study:
    """Return what is said of a bus. sender: who sends a bit, else the one that is heard worst;
    kbit_s: else as fast as its modules say. Raises ValueError for a bit rate that is not above
    zero.
    """
    rate = bus.kbit_s if kbit_s is None else kbit_s
    talk = [one.code for one in bus.talkers if one.code not in what_if.out and not one.half]
    seen: Eye | None = None
    if len(talk) > 1:
        senders = [sender] if sender in talk else talk
        seen = min(eyes(bus, senders, rate, what_if), key=lambda one: one.free_v)
    places = dict.fromkeys([*(one.at for one in bus.members), *bus.places])
    shown = {at: reads(bus, at, what_if.out, what_if.ends) for at in places}
    return Study(
        bus, what_if, rate, seen.sender if seen else "", shown, seen, fastest(bus, what_if)
    )
