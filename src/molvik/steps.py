"""A step at the bench: what is done, where, and what is ticked while it is done."""

from typing import NamedTuple

from molvik.model.parts import Colour


class Step(NamedTuple):
    """One thing to do. key names it for its ticks; subject is what to take in hand.

    ticks: what is ticked, in order. first: what to undo before. take, put: the cavity a terminal is
    taken out of and the one it goes into, "C1/5", or empty. colour: of its wire. asks: what is
    typed on the card, by an example of it, empty where it is only ticked; shown: what is known of
    that; letters: what may be typed behind a figure, begins: also before one. probes: where the red
    and the black one are put, "C1/5"; tied: the same for two groups, each tied together.
    """

    key: str
    subject: str
    do: str
    detail: str
    ticks: tuple[str, ...] = ("done",)
    first: str = ""
    take: str = ""
    put: str = ""
    colour: Colour | None = None
    asks: str = ""
    shown: str = ""
    letters: str = "cmftin\"'/"
    begins: str = ""
    probes: tuple[str, ...] = ()
    tied: tuple[tuple[str, ...], ...] = ()

    def tick_key(self, tick: str) -> str:
        """The name of one of its ticks in the log."""
        return self.key if self.ticks == ("done",) else f"{self.key}: {tick}"

    def is_done(self, ticked: "set[str] | frozenset[str]") -> bool:
        """Whether all of it is ticked."""
        return all(self.tick_key(tick) in ticked for tick in self.ticks)
