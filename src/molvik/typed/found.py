"""What people type about the loom as found."""

import re
from datetime import datetime
from typing import Any, get_args

from msgspec.structs import replace

from molvik.model import loom_edits
from molvik.model.job import Job
from molvik.model.loom import (
    Action,
    Fault,
    FaultKind,
    FoundWire,
    Known,
    Loom,
    Node,
    NodeState,
    Role,
    Segment,
)
from molvik.netlist.network import Network
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import read_length_m, read_size
from molvik.reference.contacts import CONTACTS
from molvik.reference.coverings import COVERINGS
from molvik.survey.measured import reckon
from molvik.survey.rules import GRADES, NOT_LEFT, grade_of
from molvik.survey.tree import LoomTree
from molvik.typed.field import (
    YES,
    Field,
    Fields,
    Typed,
    contact,
    count,
    covering,
    millimetres,
    number_text,
    one_of,
    optional,
    plain,
    with_calls,
    words_of,
    yes_or_no,
    zone,
)
from molvik.wording import figures

ROUNDING_M = 0.01
"""A fault at the very end of a wire is on it, m."""

EVERYDAY = {
    "broken": "cut",
    "snapped": "cut",
    "severed": "cut",
    "burned": "burnt",
    "scorched": "burnt",
    "melted": "melted together",
    "chafed": "chafed through",
    "frayed": "chafed through",
    "rubbed through": "chafed through",
    "corroded": "green copper",
    "verdigris": "green copper",
    "brittle": "crumbling",
    "loose terminal": "bad terminal",
    "no seal": "missing seal",
    "bad crimp": "bad terminal",
    "poor crimp": "bad terminal",
    "crimp": "bad terminal",
    "bent pin": "bad terminal",
    "spread terminal": "bad terminal",
    "pulled out": "bad terminal",
    "green": "green copper",
    "corrosion": "green copper",
    "rust": "green copper",
    "black copper": "tarnished",
    "oxidised": "tarnished",
    "hard": "crumbling",
    "cracked insulation": "cracked",
    "rubbed": "chafed through",
    "bare": "chafed through",
    "twisted and taped": "bad repair",
    "tape": "bad repair",
    "bad splice": "bad repair",
    "bad solder": "bad repair",
    "charred": "burnt",
    "cooked": "burnt",
    "overheated": "burnt",
    "broken plug": "cracked housing",
    "broken housing": "cracked housing",
    "chewed": "chafed through",
    "mouse": "chafed through",
    "gnawed": "chafed through",
    "rusty": "green copper",
    "broken lock": "cracked housing",
    "seal gone": "missing seal",
    "pulled": "stretched",
}
"""What faults are called at the bench, and what they are here (common practice)."""


def _own_decision(text: str, network: Network) -> Fields:
    """Read a decision, and the reason behind a colon where one is given: leave: it is for show."""
    said, colon, reason = text.partition(":")
    if not said.strip():
        return {"decision": "", "decided_at": ""}
    now = datetime.now().astimezone().isoformat(timespec="seconds")
    found = {**one_of("decision", Action)(said, network), "decided_at": now}
    return {**found, "reason": reason.strip()} if colon else found


def _ways(text: str, network: Network) -> Fields:
    return {"ways": count("ways", 400)(text, network)["ways"] or None}


def _distance(text: str, network: Network) -> Fields:
    if text.strip() in ("0", "0 m", "0 mm"):
        return {"at_m": 0.0}
    return optional("at_m", read_length_m)(text, network)


def _measured(text: str, _: Network) -> Fields:
    if not text.strip():
        return {"seen": ""}
    if re.search(r"mm\s*(?:2|²|\^2)|awg", text, re.IGNORECASE):  # its size, as it is printed on it
        return {"seen": text.strip(), "size": read_size(text)}
    return {"seen": text.strip(), "size": reckon(text).metric}


def _fused(text: str, _: Network) -> Fields:
    return {"fused": yes_or_no(text)}


def _node(job: Job, text: str) -> tuple[Job, str]:
    """Return the node a text means, made if it is not there, and the job that has it."""
    tidy = " ".join(text.split())
    if not tidy or tidy == "-":
        return job, ""
    # "N1 Bulkhead plug", as the table shows it.
    known = _known(job.loom, tidy) or _known(job.loom, tidy.partition(" ")[0])
    if known:
        return job, known
    if re.fullmatch(r"[Nn]\d+", tidy):
        raise ValueError(f"There is no node {tidy.upper()}. Type its name to make a new one.")
    code = loom_edits.free_code(job, Node)
    return loom_edits.add(job, Node(code, tidy)), code


def _known(loom: Loom, text: str) -> str:
    for node in loom.nodes:
        if text.lower() in (node.code.lower(), node.name.lower()):
            return node.code
    return ""


NODE_FIELDS: tuple[Field[Any], ...] = (
    Field("Name", "What it plugs into, or where it lies", lambda n: n.name, plain("name")),
    Field(
        "State",
        "found, missing, cut off or unknown",
        lambda n: n.state,
        one_of("state", NodeState),
        words_of(NodeState),
    ),
    Field("Plugs into", "What this end plugs into", lambda n: n.plugs_into, plain("plugs_into")),
    Field(
        "Connector", "Code of its connector in this job", lambda n: n.connector, plain("connector")
    ),
    Field("Cavities", "How many cavities", lambda n: str(n.ways or ""), _ways),
    Field(
        "Terminal size",
        "Terminal size of a sealed housing: " + ", ".join(CONTACTS),
        lambda n: n.contact,
        contact,
    ),
    Field("Mark", "What is written or tied on it", lambda n: n.mark, plain("mark")),
    Field(
        "Loom",
        "Which loom it is of, where several were found: Engine loom",
        lambda n: n.loom,
        plain("loom"),
    ),
    Field("Note", "Anything to remember", lambda n: n.note, plain("note")),
)

SEGMENT_FIELDS: tuple[Field[Any], ...] = (
    Field(
        "From",
        "A node by its code or name; a new name makes a new node",
        lambda s: s.start,
        plain("start"),
        makes="start",
    ),
    Field(
        "To",
        "A node by its code or name; a new name makes a new node",
        lambda s: s.finish,
        plain("finish"),
        makes="finish",
    ),
    Field(
        "Length",
        "480 mm, 22 in, 1.2 m",
        lambda s: "" if s.length_m is None else f"{figures(s.length_m)} m",
        optional("length_m", read_length_m),
        unit="m",
    ),
    Field(
        "Covering",
        f"{', '.join(filter(None, COVERINGS))}; empty for bare",
        lambda s: s.covering,
        covering,
        tuple(filter(None, COVERINGS)),
    ),
    Field(
        "Diameter",
        "Over the covering, mm",
        lambda s: number_text(s.diameter_mm, "mm"),
        millimetres("diameter_mm"),
        unit="mm",
    ),
    Field("Ties", "How many", lambda s: str(s.ties or ""), count("ties", 500)),
    Field("Clips", "How many", lambda s: str(s.clips or ""), count("clips", 500)),
    Field("Grommet", "Where it passes through metal", lambda s: s.grommet, plain("grommet")),
    Field(
        "Zone",
        "What it passes, by the name of a zone of Routing: what comes off to reach it "
        "counts in the hours",
        lambda s: s.zone,
        zone,
    ),
    Field("Note", "Anything to remember", lambda s: s.note, plain("note")),
)

FOUND_FIELDS: tuple[Field[Any], ...] = (
    Field("From", "The end it starts at", lambda w: w.start, plain("start"), makes="start"),
    Field(
        "To",
        "The end it goes to; empty when it was cut off",
        lambda w: w.finish,
        plain("finish"),
        makes="finish",
    ),
    Field("Function", "What it is for", lambda w: w.function, plain("function")),
    Field(
        "Wire",
        "The wire that it is in this job, by its code",
        lambda w: w.wire,
        lambda text, _: {"wire": text.strip().upper()},
    ),
    Field(
        "Colour",
        "As seen under the dirt: RD/WH",
        lambda w: str(w.colour) if w.colour else "",
        optional("colour", read_any_colour),
    ),
    Field("Measured", "copper 1.3 mm, outside 2.6 mm, or 19 x 0.3 mm", lambda w: w.seen, _measured),
    Field(
        "Size",
        "Estimated from the measure, or typed",
        lambda w: str(w.size) if w.size else "",
        optional("size", read_size),
    ),
    Field(
        "Insulation",
        "Its family by its looks; what crumbles, crumbles by family",
        lambda w: w.family,
        plain("family"),
    ),
    Field(
        "Role",
        "supply, earth, sensor or signal",
        lambda w: w.role,
        one_of("role", Role),
        words_of(Role),
    ),
    Field("Fused", "yes, no, or nothing", lambda w: YES[w.fused], _fused),
    Field(
        "Traced", "traced or presumed", lambda w: w.known, one_of("known", Known), words_of(Known)
    ),
    Field(
        "Remaining length",
        "What is left of a cut wire",
        lambda w: number_text(w.left_m, "m"),
        optional("left_m", read_length_m),
        unit="m",
    ),
    Field("Note", "Anything to remember", lambda w: w.note, plain("note")),
)

FAULT_FIELDS: tuple[Field[Any], ...] = (
    Field(
        "On",
        "A wire L4, a stretch B3 or a node N2",
        lambda f: f.on,
        lambda text, _: {"on": text.strip().upper()},
    ),
    Field(
        "Fault",
        "One of: " + ", ".join(get_args(FaultKind)) + "; or what you call it: bad "
        "crimp, bent pin, corroded, brittle, rubbed, cooked",
        lambda f: f.kind,
        one_of("kind", FaultKind, EVERYDAY),
        with_calls(FaultKind, EVERYDAY),
        listed=True,
    ),
    Field(
        "At",
        "How far from the start of what it is on",
        lambda f: number_text(f.at_m, "m"),
        _distance,
        unit="m",
    ),
    Field(
        "Grade",
        "0 as new, 1 used, 2 worn, 3 bad, 4 dangerous",
        lambda f: str(f.grade),
        count("grade", 4),
    ),
    Field("Note", "What was seen", lambda f: f.note, plain("note")),
    Field(
        "Own decision",
        "Overrules the proposal: " + ", ".join(get_args(Action)) + "; what is "
        "bad or dangerous is left for a reason: leave: it is for show",
        lambda f: f.decision,
        _own_decision,
        words_of(Action),
    ),
    Field("Reason", "Why you decided otherwise", lambda f: f.reason, plain("reason")),
)

BLANKS: dict[type, Any] = {
    Node: Node("", ""),
    Segment: Segment(""),
    FoundWire: FoundWire(""),
    Fault: Fault("", ""),
}
"""Stand for the empty last row of each table, where a new thing is typed."""


def type_found(job: Job, network: Network, thing: Any, field: Field[Any], text: str) -> Typed:
    """Read a text typed into a thing of the loom, or into a new one when its code is empty."""
    kind = type(thing)
    fields = {} if field.makes else field.read(text, network)
    code = thing.code or loom_edits.free_code(job, kind)
    remark = ""
    if kind is Fault and thing.code:
        fields, remark = _left_for_a_reason(job, thing, fields)
        _is_on_it(job, replace(thing, **fields))

    def edit(job: Job) -> Job:
        changed = fields
        if field.makes:
            job, node = _node(job, text)
            changed = {field.makes: node}
        if thing.code:
            return loom_edits.change(job, code, **changed)
        blank = {"name": ""} if kind is Node else {"on": ""} if kind is Fault else {}
        return loom_edits.add(job, kind(**{"code": code, **blank, **changed}))

    return Typed(f"{field.name} of {code}", code, edit, remark)


def _left_for_a_reason(job: Job, fault: Fault, fields: Fields) -> tuple[Fields, str]:
    """Return what was typed of a fault, and what to say of it: what is bad is left for a reason
    only, and a decision to leave it was for the grade that it had. Raises ValueError.
    """
    now = replace(fault, **fields)
    tree = LoomTree(job.loom)
    grade, was = grade_of(tree, now), grade_of(tree, fault)
    if now.decision != "leave" or grade < NOT_LEFT:
        return fields, ""
    if fault.decision == "leave" and grade > was and "decision" not in fields:
        gone = {"decision": "", "reason": "", "decided_at": ""}
        why = fault.reason or "no reason given"
        return fields | gone, (
            f"It was to be left at grade {was} ({why}). That no longer holds: decide again."
        )
    if not now.reason.strip():
        raise ValueError(
            f"{fault.code} is {GRADES[grade]}: say why it is left, “leave: it is for "
            "show, and the battery stays out”"
        )
    return fields, ""


def _is_on_it(job: Job, fault: Fault) -> None:
    """Refuse a fault further along a wire than the wire is long. Raises ValueError."""
    tree = LoomTree(job.loom)
    if fault.at_m is None or fault.on not in tree.ways:
        return
    known = all(tree.segments[one.segment].length_m for one in tree.ways[fault.on])
    length_m = tree.length_m(fault.on)
    if known and length_m and fault.at_m > length_m + ROUNDING_M:
        raise ValueError(
            f"{fault.on} is {figures(length_m)} m long: a fault at "
            f"{figures(fault.at_m)} m is not on it"
        )
