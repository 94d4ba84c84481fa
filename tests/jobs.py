"""Random jobs and random edits, for property tests."""

from typing import Any, get_args

from hypothesis import strategies as st

from molvik.devices import KINDS
from molvik.model import edits
from molvik.model.geometry import cavities
from molvik.model.job import Acceptance, Job, Quantity, Reading, Settings
from molvik.model.parts import (
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Output,
    Pin,
    Splice,
    Wire,
    WireSize,
    terminals_of,
)
from molvik.reference.colours import NAMES
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import INSULATIONS
from molvik.reference.limits import USES
from molvik.sheet import Paragraph, Sheet, Ticks

texts = st.text(
    st.characters(min_codepoint=32, max_codepoint=0x2FFF, exclude_categories=["Cs"]), max_size=20
)
names = texts.map(lambda text: f"n{text}")
colours = st.builds(Colour, st.sampled_from(sorted(NAMES)), st.sampled_from(["", *sorted(NAMES)]))
sizes: st.SearchStrategy[WireSize] = st.sampled_from([*AWG_SIZES, *METRIC_SIZES])
grids = st.builds(
    Grid,
    st.integers(1, 5),
    st.integers(1, 8),
    st.sampled_from(["row", "column"]),
    st.sampled_from(["top left", "bottom right"]),
    st.booleans(),
    st.booleans(),
)


@st.composite
def connectors(draw: st.DrawFn, code: str) -> Connector:
    grid = draw(grids)
    some = draw(st.lists(st.sampled_from(cavities(grid)), unique=True, max_size=4))
    pins = tuple(
        Pin(
            cavity,
            draw(texts),
            draw(texts),
            draw(st.none() | colours),
            draw(st.none() | sizes),
            draw(texts),
            draw(st.sampled_from(["", "empty", "plugged"])),
        )
        for cavity in some
    )
    return Connector(
        code,
        draw(names),
        grid,
        draw(st.sampled_from(["", "plug", "receptacle"])),
        draw(st.sampled_from(["", "pin", "socket"])),
        draw(st.sampled_from(["", "20", "16", "12"])),
        pins=pins,
        note=draw(texts),
    )


def ends(job: Job) -> st.SearchStrategy[End]:
    """Any end there is in the job, or a loose one."""
    places = [End()]
    for part in job.parts():
        if isinstance(part, Connector):
            places += [End(part.code, cavity) for cavity in cavities(part.grid)]
        else:
            places += [End(part.code, terminal) for terminal in terminals_of(part)]
    return st.sampled_from(places)


@st.composite
def wires(draw: st.DrawFn, job: Job, code: str) -> Wire:
    return Wire(
        code,
        draw(ends(job)),
        draw(ends(job)),
        draw(texts),
        draw(texts),
        draw(st.none() | colours),
        draw(st.none() | sizes),
        draw(st.sampled_from(["", *INSULATIONS])),
        draw(st.none() | st.floats(0.01, 50)),
        draw(st.none() | st.floats(0, 300)),
        draw(st.none() | st.floats(-40, 150)),
        draw(st.sampled_from(sorted(USES))),
        draw(texts),
    )


@st.composite
def readings(draw: st.DrawFn, job: Job) -> Reading:
    wire = draw(st.sampled_from(job.wires))
    return Reading(
        draw(st.sampled_from([wire.code, ""])),
        draw(st.sampled_from(get_args(Quantity))),
        draw(st.none() | st.floats(0, 100)),
        draw(st.sampled_from([wire.ends, (wire.start,)])),
        "2026-11-02T10:00:00+01:00",
        draw(texts),
        draw(st.sampled_from(["", "run"])),
        draw(texts),
        draw(st.floats(0, 1)),
        draw(texts),
    )


@st.composite
def jobs(draw: st.DrawFn) -> Job:
    """Any job a person could make."""
    job = Job(
        "any",
        draw(names),
        draw(texts),
        Settings(draw(st.sampled_from([6.0, 12.0, 24.0])), draw(st.floats(0, 90))),
        tuple(draw(connectors(f"C{n}")) for n in range(draw(st.integers(0, 3)))),
        (Fuse("F1", "main", 80, "bolt-down"), Fuse("F2", "f", draw(st.sampled_from([5, 7.5, 33])))),
        (Splice("S1", draw(texts), draw(st.sampled_from(["crimped", "soldered"]))),),
        (EarthPoint("E1", draw(names)),),
        (
            Device("D1", "battery", "battery", ("+", "-")),
            Device("K1", "relay", "relay", ("30", "87"), (("30", "87"),)),
        ),
    )
    for n in range(draw(st.integers(0, 8))):
        job = edits.add(job, draw(wires(job, f"W{n}")))
    if job.wires:
        for _ in range(draw(st.integers(0, 3))):
            job = edits.record(job, draw(readings(job)))
    if draw(st.booleans()):
        job = edits.accept(job, Acceptance(draw(names), draw(names), "2026-11-02T10:00:00+01:00"))
    return job


@st.composite
def edited(draw: st.DrawFn, job: Job) -> Job:
    """The job after one random edit."""
    kind = draw(st.integers(0, 7))
    if kind == 0:
        return edits.add(job, draw(wires(job, "")))
    if kind == 1 and job.wires:
        one = draw(st.sampled_from(job.wires))
        return edits.change_wire(job, one.code, size=draw(st.none() | sizes), note=draw(texts))
    if kind == 2 and job.wires:
        return edits.remove_wires(job, frozenset([draw(st.sampled_from(job.wires)).code]))
    if kind == 3:
        return edits.remove_part(job, draw(st.sampled_from([one.code for one in job.parts()])))
    if kind == 4 and job.connectors:
        one_of = draw(st.sampled_from(job.connectors))
        cavity = draw(st.sampled_from(cavities(one_of.grid)))
        return edits.fill_cavity(job, one_of.code, cavity, "plugged")
    if kind == 5 and job.wires:
        return edits.record(job, draw(readings(job)))
    if kind == 6:
        return edits.change_settings(job, measured_by=draw(texts))
    return edits.add(job, draw(connectors("")))


SUPPRESSION: st.SearchStrategy[Any] = st.sampled_from(["", "diode", "resistor"])


def figures(kind: str) -> st.SearchStrategy[tuple[tuple[str, float], ...]]:
    """Figures of a device of its own, some of them such as no device has."""
    named = st.sampled_from(sorted(KINDS[kind].figures))
    sizes_of = st.sampled_from([0.0, 1e-308, 1e-9, 0.004, 0.5, 3.0, 90.0, 1e9, 1e308])
    return st.dictionaries(named, sizes_of, max_size=2).map(lambda one: tuple(one.items()))


@st.composite
def devices(draw: st.DrawFn, code: str) -> Device:
    """A device of any kind, with the terminals it begins with, or fewer, or none."""
    kind: Any = draw(st.sampled_from(sorted(KINDS)))
    usual = KINDS[kind].terminals
    terminals = usual[: draw(st.integers(0, len(usual)))] if draw(st.booleans()) else usual
    joins = tuple(j for j in KINDS[kind].joins if all(one in terminals for one in j))
    controls = kind == "controller" and len(terminals) > 0
    outputs = (
        (Output(draw(st.sampled_from(terminals))),) if controls and draw(st.booleans()) else ()
    )
    own: tuple[tuple[str, float], ...] = draw(figures(kind)) if draw(st.booleans()) else ()
    return Device(
        code,
        draw(texts),
        kind,
        terminals,
        joins,
        values=own,
        case=draw(st.sampled_from(["", "E1"])),
        needed=draw(st.booleans()),
        outputs=outputs,
        supplies=terminals[:1] if controls else (),
        earths=terminals[-1:] if controls else (),
        suppression=draw(SUPPRESSION) if kind == "relay" else "",
    )


@st.composite
def jobs_of_every_kind(draw: st.DrawFn) -> Job:
    """Parts of every kind, many of them with nothing at their terminals."""
    made = tuple(draw(devices(f"D{n}")) for n in range(2, draw(st.integers(3, 9))))
    battery = (Device("D1", "battery", "battery", ("+", "-")),) if draw(st.booleans()) else ()
    earths = (EarthPoint("E1", "block"), EarthPoint("E2", "frame"))
    job = Job(
        "kinds",
        "kinds",
        "",
        Settings(draw(st.sampled_from([6.0, 12.0, 24.0]))),
        (draw(connectors("C1")), draw(connectors("C2"))),
        (Fuse("F1", "main", 80, "bolt-down"), Fuse("F2", "f", 10)),
        (Splice("S1", ""),),
        earths[: draw(st.integers(1, 2))],
        (*battery, *made),
    )
    for n in range(draw(st.integers(0, 12))):
        job = edits.add(job, draw(wires(job, f"W{n}")))
    return job


def words_on(sheet: Sheet) -> list[str]:
    """Return what is to be read and ticked on a sheet."""
    found: list[str] = []
    for block in sheet.blocks:
        if isinstance(block, Paragraph):
            found.append(block.text)
        if isinstance(block, Ticks):
            found += block.items
    return found
