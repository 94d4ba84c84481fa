"""The size of a wire that nothing on the loom is for, and why it is that."""

from typing import NamedTuple

from molvik.crossover.leads import Lead, Repin, Want
from molvik.crossover.words import SUPPLIES
from molvik.model.parts import WireSize

SIGNAL = {"metric": WireSize("metric", 0.5), "awg": WireSize("awg", 20)}
"""For a signal or a driver (common practice; no source)."""

SUPPLY = {"metric": WireSize("metric", 1.5), "awg": WireSize("awg", 16)}
"""For a supply or an earth of which nothing is known (common practice; no source)."""


class NewSize(NamedTuple):
    """A size and the reason for it, in words."""

    size: WireSize
    why: str


def new_size(repin: Repin, want: Want) -> NewSize:
    """Return the size of a new wire: as the table says, as its like have, else as is usual."""
    if want.size is not None:
        return NewSize(want.size, f"{want.size} as its table says")
    said = want.said
    things: list[Lead | Want] = [*repin.wants, *repin.leads]
    for thing in things:
        alike = thing.said
        if thing.size is not None and said.group and alike.group == said.group:
            return NewSize(thing.size, f"{thing.size} as the other {said.kind} wires")
    for thing in things:
        if thing.size is not None and said.words and thing.said.words == said.words:
            return NewSize(thing.size, f"{thing.size} as {thing.function}")
    awg = sum(thing.size is not None and thing.size.system == "awg" for thing in things)
    metric = sum(thing.size is not None and thing.size.system == "metric" for thing in things)
    system = "awg" if awg > metric else "metric"
    heavy = said.kind in (*SUPPLIES, "earth")
    size = (SUPPLY if heavy else SIGNAL)[system]
    what = "a supply or an earth" if heavy else "a signal"
    return NewSize(size, f"{size} as is usual for {what}: type its current, and Sizes judges it")
