"""All wires with their verdicts as a table, the least in hand first."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.desktop.widgets.things import Column
from molvik.electrical.conductor import area_mm2
from molvik.model.parts import Wire
from molvik.sizes.sizing_case import FAR_OVER
from molvik.sizes.wire import Sizing

Look = Callable[[], Analysis]
"""Gives the analysis of the job as it stands."""

UNJUDGED = 9.0
"""Where a wire without a verdict stands among those with one: last."""


def columns(look: Look) -> list[Column[Wire]]:
    """Return the columns of the table; what they show is worked out as rows come into view."""

    def sizing(wire: Wire) -> Sizing | None:
        return look().sizings.get(wire.code)

    def margin(wire: Wire) -> float:
        found = sizing(wire)
        if found is None or found.binding is None:
            return UNJUDGED
        return found.binding.margin + (UNJUDGED - 1 if found.passes and found.unknown else 0)

    def criterion(wire: Wire, name: str) -> str:
        found = sizing(wire)
        other = next((c for c in found.criteria if c.name == name), None) if found else None
        return "" if other is None else share_text(other.margin)

    def number(wire: Wire, name: str) -> float:
        found = sizing(wire)
        other = next((c for c in found.criteria if c.name == name), None) if found else None
        return UNJUDGED if other is None else other.margin

    def failing(name: str) -> Callable[[Wire], str]:
        return lambda wire: "stop" if number(wire, name) < 0 else ""

    def least(wire: Wire) -> str:
        found = look().least_sizes
        return str(found[wire.code] or "none passes") if wire.code in found else ""

    def hot(wire: Wire) -> float | None:
        return look().copper_c.get(wire.code)

    def binds(wire: Wire) -> str:
        found = sizing(wire)
        return found.binding.name if found and found.binding else ""

    def current(wire: Wire) -> float:
        return look().sizing_cases[wire.code].load_a or 0.0

    def shares(name: str, heading: str, tip: str) -> Column[Wire]:
        return Column(heading, lambda w: criterion(w, name), width=72, role=failing(name),
                      sort=lambda w: number(w, name), tip=tip)  # fmt: skip

    return [
        Column("In hand", lambda w: _hand_words(sizing(w)), width=84, sort=margin,
               role=lambda w: _role(sizing(w)),
               tip="What is left of the limit that is nearest: the least first"),
        Column("Wire", lambda w: w.code, width=66, mono=True, tip="Enter shows its working"),
        Column("Function", lambda w: w.function, width=154),
        Column("Size", lambda w: str(w.size or ""), width=84,
               sort=lambda w: area_mm2(w.size) if w.size else 0.0),
        Column("Needs", least, width=84, tip="The smallest size of its own system that passes"),
        Column("Binds", binds, width=104, tip="The criterion with the least in hand"),
        Column("Current", lambda w: f"{current(w):.3g} A" if current(w) else "", width=72,
               sort=current, tip="As typed, or in its worst state"),
        Column("Copper", lambda w: "" if (c := hot(w)) is None else f"{c:.0f} °C", width=70,
               sort=lambda w: hot(w) or 0.0, tip="How hot it gets where it lies"),
        shares("heat", "Heat", "In hand on heat"),
        shares("voltage drop", "Drop", "In hand on voltage drop"),
        shares("terminal", "Terminal", "In hand on its terminals"),
        shares("fuse", "Fuse", "In hand on the fuse before it"),
        Column("Bundle", lambda w: w.bundle, width=100),
    ]  # fmt: skip


def _hand_words(found: Sizing | None) -> str:
    if found is None:
        return "no size"
    tight = found.binding
    if found.passes and found.unknown:
        return "unknown"
    return "" if tight is None else share_text(tight.margin)


def share_text(share: float) -> str:
    """Write a share of a limit that is free, with a true minus where it is overdrawn."""
    if share <= FAR_OVER:
        return "far over"
    return f"{share:.0%}".replace("-", "−")


def _role(found: Sizing | None) -> str:
    if found is None or (found.passes and found.unknown):
        return "live_text"
    return "proved" if found.passes else "stop"
