"""The columns of the tables in Routing."""

from collections.abc import Callable
from typing import Any

from molvik.analysis import Analysis
from molvik.desktop.widgets.things import Column, column_of
from molvik.model.parts import Wire
from molvik.model.routing import LoomNode, Run, Zone
from molvik.routing.compare import Change
from molvik.routing.lengths import CutLength
from molvik.routing.sections import Section
from molvik.routing.ways import Way, route_text
from molvik.typed.field import Field, place_text
from molvik.typed.routed import JOINT_FIELDS, NEW, NEW_ZONE, RUN_FIELDS, ZONE_FIELDS

Seen = Callable[[], Analysis | None]
"""The analysis that the page shows, all of it computed: no cell waits for anything."""

Take = Callable[[Any, Field[Any], str], object]

WIDTHS = {
    "From": 130,
    "To": 130,
    "Length": 76,
    "Zone": 96,
    "Covering": 92,
    "Clips": 48,
    "Ties": 44,
    "On it": 120,
    "Slack": 66,
    "Note": 90,
    "Name": 170,
    "Carries": 140,
    "Kind": 74,
    "Hole": 74,
    "Allowance here": 106,
    "Place": 76,
    "Hot surface": 88,
    "Distance": 92,
    "Width": 72,
    "Shield": 60,
    "Wet": 50,
    "Moves": 60,
    "Access": 130,
    "Minutes": 66,
    "Bend radius": 84,
    "Fit before plug": 110,
    "Plug fitted": 78,
    "Split grommet": 92,
    "In the middle": 92,
}
GROWS = ("From", "To", "Name", "Carries", "Access")
AT_WISH = (
    "On it",
    "Clips",
    "Ties",
    "Slack",
    "Note",
    "Bend radius",
    "Fit before plug",
    "Plug fitted",
    "Split grommet",
    "In the middle",
)


def _typed(field: Field[Any], take: Take, blank: Any, text: Callable[[Any], str]) -> Column[Any]:
    return column_of(
        field,
        take,
        width=WIDTHS[field.name],
        grow=int(field.name in GROWS),
        text=lambda thing: "" if thing is blank else text(thing),
        hidden=field.name in AT_WISH,
    )


def run_columns(seen: Seen, take: Take) -> list[Column[Any]]:
    """Return the columns of stretches, with how thick each is."""

    def section(run: Run) -> Section | None:
        analysis = seen()
        return analysis.sections.get(run.code) if analysis else None

    def thick(run: Run) -> float:
        found = section(run)
        return found.over_mm if found else 0.0

    def count(run: Run) -> int:
        found = section(run)
        return len(found.wires) if found else 0

    def text(field: Field[Any]) -> Callable[[Run], str]:
        def show(run: Run) -> str:
            analysis = seen()
            return (
                place_text(field, run, analysis.job.routing.joints) if analysis else field.show(run)
            )

        return show

    return [
        Column("Code", lambda run: run.code or "new", width=50, mono=True),
        *(_typed(field, take, NEW[Run], text(field)) for field in RUN_FIELDS),
        Column(
            "Wires",
            lambda run: str(count(run) or ""),
            width=56,
            figures=True,
            sort=count,
            tip="How many lie in it",
        ),
        Column(
            "Thick",
            lambda run: f"{thick(run):.1f} mm" if thick(run) else "",
            width=82,
            unit="mm",
            sort=thick,
            tip="As laid by hand, over its covering",
        ),
    ]


def joint_columns(take: Take) -> list[Column[Any]]:
    """Return the columns of ends and breakouts."""
    return [
        Column("Code", lambda joint: joint.code or "new", width=50, mono=True),
        *(_typed(field, take, NEW[LoomNode], field.show) for field in JOINT_FIELDS),
    ]


def zone_columns(take: Take) -> list[Column[Any]]:
    """Return the columns of zones."""

    def code(zone: Zone) -> str:
        return "" if zone.name else "new"

    return [
        Column("", code, width=40, mono=True),
        *(_typed(field, take, NEW_ZONE, field.show) for field in ZONE_FIELDS),
    ]


def wire_columns(seen: Seen) -> list[Column[Any]]:
    """Return the columns of wires with their ways."""

    def along(wire: Wire) -> Way | None:
        analysis = seen()
        return analysis.electrics.ways.of.get(wire.code) if analysis else None

    def length(wire: Wire) -> CutLength | None:
        analysis = seen()
        return analysis.cut_lengths.get(wire.code) if analysis else None

    def way(wire: Wire) -> str:
        found = along(wire)
        if found is None:
            return ""
        analysis = seen()
        assert analysis is not None
        return found.problem or route_text(analysis.electrics.ways.graph, found)

    def role(wire: Wire) -> str:
        found = along(wire)
        return "stop" if found and found.problem and found.start else ""

    def cut(wire: Wire) -> float:
        found = length(wire)
        return found.cut_m if found else 0.0

    def differs(wire: Wire) -> float:
        found = length(wire)
        return (found.differs_m or 0.0) if found else 0.0

    return [
        Column("Wire", lambda w: w.code, width=58, mono=True),
        Column("Function", lambda w: w.function, width=140, grow=1),
        Column("Colour", lambda w: str(w.colour or ""), width=98, colour=lambda w: w.colour),
        Column("Route", way, width=170, grow=2, role=role),
        Column(
            "Cut length",
            lambda w: f"{cut(w):.2f} m" if cut(w) else "",
            width=76,
            unit="m",
            sort=cut,
            tip="The route, the service length at both ends, slack and twist",
        ),
        Column(
            "Now",
            lambda w: "" if w.length_m is None else f"{w.length_m:.2f} m",
            width=68,
            unit="m",
            sort=lambda w: w.length_m or 0.0,
            tip="The length the job has",
        ),
        Column(
            "Differs",
            lambda w: f"{differs(w):+.2f} m" if differs(w) else "",
            width=80,
            unit="m",
            sort=differs,
            role=lambda w: "stop" if differs(w) < 0 else "",
            tip="How much longer the job's length is than that; small differences do not matter",
        ),
        Column("From", lambda w: w.length_from, width=76, tip="Where the job's length is from"),
    ]


def change_columns() -> list[Column[Change]]:
    """Return the columns of what became of the old loom."""
    return [
        Column("What", lambda change: change.how, width=110),
        Column("Now", lambda change: change.new, width=50, mono=True, tip="Its code here"),
        Column("Was", lambda change: change.old, width=50, mono=True, tip="Its code in Survey"),
        Column("Stretch or place", lambda change: change.name, width=220, grow=2),
        Column("It was", lambda change: change.was, width=150, grow=1),
        Column("It is", lambda change: change.now, width=150, grow=1),
    ]
