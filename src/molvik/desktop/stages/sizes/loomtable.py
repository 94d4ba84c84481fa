"""Wires with their verdicts as a table, what uses most of its limit first."""

from collections.abc import Callable

from molvik.analysis import Analysis
from molvik.desktop.widgets.things import Column
from molvik.electrical.conductor import area_mm2
from molvik.model.parts import Wire
from molvik.sizes.assessment import Standing, group_of, standing, used_of
from molvik.sizes.sizing_case import FAR_OVER
from molvik.sizes.wire import Sizing
from molvik.wording import figures

Look = Callable[[], Analysis]
"""Gives the analysis of the job as it stands."""

UNJUDGED = -1.0
"""Where a wire without a verdict stands among those with one: last."""

ROLES = {"fails": "stop", "tight": "live_text", "passes": "", "not judged": "live_text"}


class Verdicts:
    """What the cells of the table show, worked out as rows come into view."""

    def __init__(self, look: Look) -> None:
        self._look = look

    def sizing(self, wire: Wire) -> Sizing | None:
        """Return the verdict on a wire."""
        return self._look().electrics.sizings.get(wire.code)

    def stands(self, wire: Wire) -> Standing:
        """Return how a wire stands."""
        return standing(self.sizing(wire))

    def used(self, wire: Wire) -> float:
        """Return the share of its nearest limit that a wire uses, to sort by."""
        found = used_of(self.sizing(wire))
        return UNJUDGED if found is None else found

    def role(self, wire: Wire) -> str:
        """Return the role in which a wire's verdict is shown."""
        return ROLES[group_of(self.sizing(wire))]

    def least(self, wire: Wire) -> str:
        """Return the smallest size that passes."""
        found, requirements = (
            self._look().electrics.least_sizes,
            self._look().electrics.sizing_cases,
        )
        if wire.code not in found:
            return ""
        return str(
            found[wire.code] or ("a fuse" if requirements[wire.code].bare else "none passes")
        )

    def needs_more(self, wire: Wire) -> str:
        """Return the role of what a wire needs: loud where it is more than it has."""
        found = self._look().electrics.least_sizes.get(wire.code)
        has = area_mm2(wire.size) if wire.size else 0.0
        return "stop" if found is not None and area_mm2(found) > has else "faint"

    def copper_c(self, wire: Wire) -> float | None:
        """Return how hot a wire gets, deg C."""
        return self._look().electrics.copper_c.get(wire.code)

    def load_a(self, wire: Wire) -> float:
        """Return what a wire carries, A."""
        case = self._look().electrics.sizing_cases.get(wire.code)
        return (case.load_a if case else None) or 0.0

    def of(self, wire: Wire, criterion: str) -> float | None:
        """Return the share that is used of one criterion's limit."""
        found = self.sizing(wire)
        return (
            next((c.used for c in found.criteria if c.name == criterion), None) if found else None
        )


def columns(look: Look) -> list[Column[Wire]]:
    """Return the columns of the table."""
    see = Verdicts(look)
    return [
        Column("Wire", lambda w: w.code, width=54, mono=True, tip="Double click shows its working"),
        Column("Function", lambda w: w.function, width=150, grow=2),
        Column(
            "Has",
            lambda w: str(w.size or ""),
            width=80,
            figures=True,
            sort=lambda w: area_mm2(w.size) if w.size else 0.0,
            tip="The size it has",
        ),
        Column(
            "Needs",
            see.least,
            width=80,
            figures=True,
            role=see.needs_more,
            tip="The smallest size of its own system that passes",
        ),
        Column(
            "Because",
            lambda w: see.stands(w).because,
            width=190,
            grow=3,
            role=see.role,
            tip="What uses most of what it may, or all that fails",
        ),
        Column(
            "Used %",
            lambda w: percent(used_of(see.sizing(w))),
            width=76,
            figures=True,
            sort=see.used,
            role=see.role,
            tip="Of the limit that is nearest; over 100 it fails",
        ),
        Column(
            "Load A",
            lambda w: figures(see.load_a(w)) if see.load_a(w) else "",
            width=58,
            figures=True,
            sort=see.load_a,
            tip="As typed, or in its worst state",
        ),
        Column(
            "Copper °C",
            lambda w: "" if (c := see.copper_c(w)) is None else f"{c:.0f}",
            width=80,
            figures=True,
            hidden=True,
            sort=lambda w: see.copper_c(w) or 0.0,
            tip="How hot it gets where it lies",
        ),
        *(
            _share(see, name, heading)
            for name, heading in (
                ("heat", "Heat %"),
                ("voltage drop", "Drop %"),
                ("terminal", "Terminal %"),
                ("fuse", "Fuse %"),
            )
        ),
        Column("Bundle", lambda w: w.bundle, width=100, hidden=True),
    ]


def _share(see: Verdicts, name: str, heading: str) -> Column[Wire]:
    """Return the column of one criterion."""
    return Column(
        heading,
        lambda w: percent(see.of(w, name)),
        width=72,
        figures=True,
        hidden=True,
        role=lambda w: "stop" if (see.of(w, name) or 0.0) > 1 else "",
        sort=lambda w: UNJUDGED if (u := see.of(w, name)) is None else u,
        tip=f"Used of what it may on {name}",
    )


def percent(used: float | None) -> str:
    """Write the share of a limit that is used, in percent."""
    if used is None:
        return ""
    return ">1000" if 1 - used <= FAR_OVER else f"{100 * used:.0f}"
