"""The size of a wire that nothing on the loom is for, and why it is that."""

from typing import NamedTuple

from molvik.crossover.leads import Lead, Repin, Want
from molvik.electrical.conductor import area_mm2, resistance_20_ohm_per_m
from molvik.electrical.heat import current_for_temperature_a
from molvik.model.job import Settings
from molvik.model.parts import WireSize
from molvik.parsing.functions.reading import our_words
from molvik.parsing.functions.words import SUPPLIES
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import INSULATIONS
from molvik.reference.limits import HEAT_MARGIN_K
from molvik.reference.usual_loads import USUAL_LOADS_A

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
    amps = usual_a(want)
    awg = sum(thing.size is not None and thing.size.system == "awg" for thing in things)
    metric = sum(thing.size is not None and thing.size.system == "metric" for thing in things)
    system = "awg" if awg > metric else "metric"
    if amps is not None and said.kind in ("", "signal"):
        size = size_for(amps, system, repin.job.settings)
        return NewSize(
            size, f"{size} as {amps:g} A are usual there: type its own current, and Sizes judges it"
        )
    heavy = said.kind in (*SUPPLIES, "earth")
    size = (SUPPLY if heavy else SIGNAL)[system]
    what = "a supply or an earth" if heavy else "a signal"
    return NewSize(size, f"{size} as is usual for {what}: type its current, and Sizes judges it")


def usual_a(want: Want) -> float | None:
    """Return what a circuit usually carries, A, by the words of its function; None where that says
    nothing: a signal, a feed of who knows what.
    """
    words = {part for word in want.telling.words for part in word.split()}
    words |= set(our_words(want.function).split())
    if "sensor" in words or want.said.kind in ("return", "reference", "screen", "network"):
        return None
    return next((amps for named, amps in USUAL_LOADS_A if named <= words), None)


SPARE = 1.5
"""A new wire bears so many times the usual current: who knows what its load draws (our choice)."""


ABOUT_M, DROP_SHARE = 4.0, 0.03
"""How long a way out and back is taken to be, m, where nobody knows, and what may be lost on it."""


def size_for(amps: float, system: str, settings: Settings) -> WireSize:
    """Return the smallest size that bears a current with some in hand and loses little on a usual
    way, never thinner than for a signal: C125 in the job's air.
    """
    most_ohm_per_m = DROP_SHARE * settings.system_v / amps / ABOUT_M
    sizes = AWG_SIZES if system == "awg" else METRIC_SIZES
    kind = INSULATIONS["C125"]
    limit_c = kind.limit_c - HEAT_MARGIN_K
    bears = (
        size
        for size in sizes
        if area_mm2(size) >= area_mm2(SIGNAL[system])
        and current_for_temperature_a(size, kind, limit_c, settings.ambient_c) >= SPARE * amps
        and resistance_20_ohm_per_m(size) <= most_ohm_per_m
    )
    return next(bears, sizes[-1])
