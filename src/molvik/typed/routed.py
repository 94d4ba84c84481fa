"""What people type about the looms to build: joints, runs, zones, and which way a wire is sent."""

import re
from typing import Any

from msgspec.structs import replace

from molvik.model import routing_edits, run_edits
from molvik.model.job import Job
from molvik.model.routing import Drawn, Kind, LoomNode, NewLoom, Run, Zone
from molvik.netlist.network import Network
from molvik.numbers import read_number
from molvik.parsing.marks import MARKS_HOW, marks_text, read_marks
from molvik.parsing.quantities import read_length_m, read_surface_c
from molvik.parsing.revisions import HOW as REVISIONS_HOW
from molvik.parsing.revisions import read_revisions, revisions_text
from molvik.reference.coverings import COVERINGS
from molvik.reference.places import PLACES
from molvik.routing.layers import MOST_MIDDLE
from molvik.typed.field import (
    YES,
    Field,
    Fields,
    Reader,
    Typed,
    chosen,
    count,
    covering,
    millimetres,
    number_text,
    one_of,
    optional,
    plain,
    words_of,
    yes_or_no,
    zone,
)
from molvik.wording import figures


def _carries(text: str, network: Network) -> Fields:
    codes = {part.code.upper(): part.code for part in network.job.parts()}
    names = {part.name.lower(): part.code for part in network.job.parts() if part.name}
    found: list[str] = []
    if text.strip().lower() in names:  # one part by its name, which may have commas
        return {"carries": (names[text.strip().lower()],)}
    for word in re.split(r"[,;]\s*|\s+(?=[A-Za-z]+\d)", text.strip()):
        if not word:
            continue
        code = codes.get(word.upper()) or names.get(word.lower())
        if code is None:
            raise ValueError(f"“{word}” is not a part of the job. Type codes: C3, F2, E1.")
        found.append(code)
    return {"carries": tuple(dict.fromkeys(found))}


def _length(field: str) -> Reader:
    """Read a length that is nothing when it is left out."""
    return lambda text, _: {
        field: read_length_m(text) if text.strip() not in ("", "0", "0 m") else 0.0
    }


def _truth(field: str) -> Reader:
    return lambda text, _: {field: bool(yes_or_no(text))}


def _minutes(text: str, _: Network) -> Fields:
    tidy = text.strip().removesuffix("min").strip() or "0"
    return {"access_min": read_number(tidy, "number of minutes", "25", least=0, most=10_000)}


def _boots(text: str, _: Network) -> Fields:
    return {"boots": tuple(dict.fromkeys(filter(None, map(str.strip, text.split(",")))))}


def _datum(text: str, network: Network) -> Fields:
    tidy = text.strip().lower()
    if not tidy:
        return {"datum": ""}
    for joint in network.job.routing.joints:
        if tidy in (joint.code.lower(), joint.name.lower(), f"{joint.code} {joint.name}".lower()):
            return {"datum": joint.code}
    raise ValueError(f"“{text.strip()}” is not a node of a loom to build: type its code, J3.")


LOOM_FIELDS: tuple[Field[NewLoom], ...] = (
    Field("Name", "Engine loom, cab loom, patch loom", lambda h: h.name, plain("name")),
    Field(
        "Laid",
        "parallel, or twisted in layers",
        lambda h: h.laid,
        one_of("laid", NewLoom.__annotations__["laid"]),
        ("parallel", "twisted"),
    ),
    Field(
        "Service length",
        "To terminate each wire once more: 50 mm (common practice)",
        lambda h: number_text(h.service_m, "m"),
        _length("service_m"),
        unit="m",
    ),
    Field(
        "Drip loop",
        "More of it where it is wet: water runs off below the plug",
        lambda h: number_text(h.drip_m, "m"),
        _length("drip_m"),
        unit="m",
    ),
    Field(
        "Board wide",
        "Of the board it is laid on: it folds back where that ends",
        lambda h: number_text(h.wide_m, "m"),
        optional("wide_m", read_length_m),
        unit="m",
    ),
    Field(
        "Board high",
        "Of the board it is laid on",
        lambda h: number_text(h.high_m, "m"),
        optional("high_m", read_length_m),
        unit="m",
    ),
    Field(
        "Drawn",
        "In little room, or as in the vehicle: by the places that its stretches pass, in the order "
        "of the list of places, and as they were traced on photos",
        lambda h: h.drawn,
        one_of("drawn", Drawn),
        words_of(Drawn),
    ),
    Field(
        "Datum",
        "The node that distances on the board begin at, by code or name; empty for its first end",
        lambda h: h.datum,
        _datum,
        of_job=lambda job: tuple(f"{joint.code} {joint.name}" for joint in job.routing.joints),
    ),
    Field(
        "Revisions",
        f"Of its board, as they were given out: {REVISIONS_HOW}",
        lambda h: revisions_text(h.revisions),
        lambda text, _: {"revisions": read_revisions(text)},
    ),
    Field("Note", "Anything to remember", lambda h: h.note, plain("note")),
)

JOINT_FIELDS: tuple[Field[LoomNode], ...] = (
    Field("Name", "What it plugs into, or where it lies", lambda j: j.name, plain("name")),
    Field(
        "Carries",
        "What is there, by code: C3, or the fuses of a box: F1 F2 F3",
        lambda j: " ".join(j.carries),
        _carries,
    ),
    Field(
        "Kind",
        "grommet, clip or splice; empty for an end or breakout",
        lambda j: j.kind,
        one_of("kind", Kind),
        words_of(Kind)[1:],
    ),
    Field(
        "Hole",
        "Of the hole its grommet sits in, mm",
        lambda j: number_text(j.hole_mm, "mm"),
        millimetres("hole_mm"),
        unit="mm",
    ),
    Field(
        "Allowance here",
        "Beyond the route, in place of what the loom has: 80 mm",
        lambda j: number_text(j.allowance_m, "m"),
        optional("allowance_m", read_length_m),
        unit="m",
    ),
    Field(
        "Fit before plug",
        "On the wires before the plug: boot, seal, shrink",
        lambda j: ", ".join(j.boots),
        _boots,
    ),
    Field(
        "Plug fitted",
        "yes: the end carries its plug already, and it stays on",
        lambda j: YES[j.closed or None],
        _truth("closed"),
        ("yes", "no"),
    ),
    Field(
        "Split grommet",
        "yes: the grommet can be opened, and goes on at any time",
        lambda j: YES[j.opens or None],
        _truth("opens"),
        ("yes", "no"),
    ),
    Field("Note", "Anything to remember", lambda j: j.note, plain("note")),
)


def _joint(job: Job, text: str, loom: str) -> tuple[Job, str]:
    """Return the joint a text means, made if it is not there, and the job that has it."""
    tidy = " ".join(text.split())
    if not tidy or tidy == "-":
        return job, ""
    own = [joint for joint in job.routing.joints if not loom or joint.loom == loom]
    for words in (tidy.lower(), tidy.partition(" ")[0].lower()):
        for joint in (*own, *job.routing.joints):
            if words in (joint.code.lower(), joint.name.lower()):
                return job, joint.code
    if re.fullmatch(r"[Jj]\d+", tidy):
        raise ValueError(f"There is no {tidy.upper()}. Type its name to make a new one.")
    job, loom = routing_edits.some_loom(job, loom)
    made = routing_edits.free_code(job, LoomNode)
    # A plug or stud that is named by its code sits there.
    part = job.part(tidy.upper())
    carries = (part.code,) if part is not None else ()
    name = (part.name or part.code) if part is not None else tidy
    return routing_edits.add(job, LoomNode(made, loom, name, carries=carries)), made


def _middle(text: str, _: Network) -> Fields:
    if not text.strip() or text.strip() == "-":
        return {"middle": None}
    if text.strip() not in {str(count) for count in range(1, MOST_MIDDLE + 1)}:
        raise ValueError(
            f"“{text.strip()}” is not a number of wires in the middle: type 1 to {MOST_MIDDLE}, or "
            "nothing for as many as make the loom thinnest."
        )
    return {"middle": int(text)}


RUN_FIELDS: tuple[Field[Run], ...] = (
    Field(
        "From",
        "A node by code or name, or a plug: C3; a new name makes a new node",
        lambda r: r.start,
        plain("start"),
        makes="start",
    ),
    Field(
        "To",
        "A node by code or name, or a plug: C3; a new name makes a new node",
        lambda r: r.finish,
        plain("finish"),
        makes="finish",
    ),
    Field(
        "Length",
        "480 mm, 22 in, 1.2 m",
        lambda r: "" if r.length_m is None else f"{figures(r.length_m)} m",
        optional("length_m", read_length_m),
        unit="m",
    ),
    Field("Zone", "What it passes, by the name of a zone", lambda r: r.zone, zone),
    Field(
        "Covering",
        f"{', '.join(filter(None, COVERINGS))}; empty for bare",
        lambda r: r.covering,
        covering,
        tuple(filter(None, COVERINGS)),
    ),
    Field("Clips", "How many", lambda r: str(r.clips or ""), count("clips", 500)),
    Field("Ties", "How many", lambda r: str(r.ties or ""), count("ties", 500)),
    Field(
        "On it",
        f"{MARKS_HOW}, mm; clips and ties without a place are spread evenly",
        lambda r: marks_text(r.marks),
        lambda text, _: {"marks": read_marks(text)},
    ),
    Field(
        "Slack",
        "More than its length, across what moves: 60 mm",
        lambda r: number_text(r.slack_m, "m") if r.slack_m else "",
        _length("slack_m"),
        unit="m",
    ),
    Field(
        "Bend radius",
        "Radius of the tightest bend on its route, mm",
        lambda r: number_text(r.bend_mm, "mm"),
        millimetres("bend_mm"),
        unit="mm",
    ),
    Field(
        "In the middle",
        "How many wires, 1 to 5, of a twisted loom; empty for what makes it thinnest",
        lambda r: str(r.middle or ""),
        _middle,
        ("1", "2", "3", "4", "5"),
    ),
    Field("Note", "Anything to remember", lambda r: r.note, plain("note")),
)

ZONE_FIELDS: tuple[Field[Zone], ...] = (
    Field(
        "Name", "What is passed there: bulkhead, along the block", lambda z: z.name, plain("name")
    ),
    Field(
        "Place",
        "What air: " + ", ".join(code for code in PLACES if code) + "; empty for the engine bay",
        lambda z: z.place,
        chosen("place", PLACES, "place"),
        tuple(code for code in PLACES if code),
    ),
    Field(
        "Hot surface",
        "Beside it: 500, or 900 F; empty without one",
        lambda z: number_text(z.hot_c, "°C"),
        optional("hot_c", read_surface_c),
    ),
    Field(
        "Distance",
        "Of the hot surface, mm",
        lambda z: number_text(z.distance_mm, "mm"),
        millimetres("distance_mm"),
        unit="mm",
    ),
    Field(
        "Width",
        "Of the hot surface, mm: a pipe 50, a manifold 100; empty for 100",
        lambda z: number_text(z.wide_mm, "mm"),
        millimetres("wide_mm"),
        unit="mm",
    ),
    Field(
        "Shield",
        "yes: something bright stands between",
        lambda z: YES[z.shielded or None],
        _truth("shielded"),
        ("yes", "no"),
    ),
    Field(
        "Wet",
        "yes: splashed; plugs get a drip loop",
        lambda z: YES[z.wet or None],
        _truth("wet"),
        ("yes", "no"),
    ),
    Field(
        "Moves",
        "yes: one end moves against the other",
        lambda z: YES[z.moves or None],
        _truth("moves"),
        ("yes", "no"),
    ),
    Field("Access", "What must come off to reach it", lambda z: z.access, plain("access")),
    Field(
        "Minutes",
        "How long that takes",
        lambda z: f"{z.access_min:g}" if z.access_min else "",
        _minutes,
    ),
)

NEW: dict[type, Any] = {Run: Run(""), LoomNode: LoomNode("", "", ""), NewLoom: NewLoom("", "")}
NEW_ZONE = Zone("")
"""Stand for the empty last row of each table, where a new thing is typed."""


def type_routed(
    job: Job, network: Network, loom: str, thing: Any, field: Field[Any], text: str
) -> Typed:
    """Read a text typed into a loom, joint or run, or into a new one when its code is empty. loom:
    what new joints are of.
    """
    kind = type(thing)
    fields = {} if field.makes else field.read(text, network)
    if thing.code:
        code = thing.code
    else:
        _, loom = routing_edits.some_loom(job, loom)
        code = routing_edits.free_code(job, kind)

    def edit(job: Job) -> Job:
        changed = fields
        if field.makes:
            job, joint = _joint(job, text, _loom_of(job, thing) or loom)
            changed = {field.makes: joint}
        if thing.code:
            return routing_edits.change(job, code, **changed)
        if kind is NewLoom:
            return routing_edits.add(job, NewLoom(**{"code": code, "name": "New loom", **changed}))
        if kind is LoomNode:
            job, of = routing_edits.some_loom(job, loom)
            return routing_edits.add(
                job, LoomNode(**{"code": code, "loom": of, "name": "New", **changed})
            )
        return routing_edits.add(job, kind(**{"code": code, **changed}))

    return Typed(f"{field.name} of {code}", code, edit)


def _loom_of(job: Job, thing: Any) -> str:
    """Return the loom that a run with one end typed is of already."""
    if not isinstance(thing, Run):
        return ""
    of = {joint.code: joint.loom for joint in job.routing.joints}
    return of.get(thing.start) or of.get(thing.finish) or ""


def type_zone(network: Network, thing: Zone, field: Field[Zone], text: str) -> Typed:
    """Read a text typed into a zone, or into a new one when its name is empty."""

    fields = field.read(text, network)
    if not thing.name and "name" not in fields:
        fields = {"name": f"Zone {len(network.job.routing.zones) + 1}", **fields}
    new = replace(thing, **fields)
    return Typed(
        f"{field.name} of the zone {new.name}",
        new.name,
        lambda job: routing_edits.set_zone(job, thing.name, new),
    )


_DRAWN = re.compile(r"\s*([\d.,]*\d\s*(?:mm|cm|m|in|ft|\"|')?)\s*[,;]?\s*(.*)", re.IGNORECASE)


def type_drawn(
    job: Job,
    start: str,
    to: str,
    text: str,
    turns: dict[str, tuple[float, float]] | None = None,
    heading: float | None = None,
) -> Typed:
    """Read the length of a stretch that was drawn out of a joint, and what is at its end: "480 mm
    C5". to: the joint it ends at, empty for a new one. heading: as it was drawn, deg;
    turns: of the runs that were there, which stay as they lay. Raises ValueError.
    """
    match = _DRAWN.fullmatch(text)
    if match is None:
        raise ValueError("Type how long it is, and what is at its end: 480 mm, C5.")
    length, name = read_length_m(match[1]), match[2].strip()
    code = routing_edits.free_code(job, Run)
    loom = next((joint.loom for joint in job.routing.joints if joint.code == start), "")

    def edit(job: Job) -> Job:
        job, end = (job, to) if to else _joint(job, name or f"End of {code}", loom)
        job = routing_edits.add(job, Run(code, start, end, length))
        if heading is None:
            return job
        return run_edits.turned(job, {**(turns or {}), code: (heading, 0.0)})

    return Typed(f"Draw {code}", code, edit)


def type_splice(job: Job, splice: str, text: str) -> Typed:
    """Read where a splice is laid along a stretch, from its start: "R5 120 mm".

    Raises ValueError.
    """
    code, _, length = text.strip().partition(" ")
    run = routing_edits.find(job.routing, code.upper())
    if not isinstance(run, Run) or not length.strip():
        raise ValueError("Type a stretch and how far from its start: R5 120 mm.")
    at_m = read_length_m(length)
    return Typed(
        f"Lay {splice} in {run.code}",
        splice,
        lambda job: run_edits.put_splice(job, splice, run.code, at_m),
    )
