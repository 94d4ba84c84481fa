"""What people type into the tables of the loom as found."""

import re
from collections.abc import Callable
from datetime import datetime
from typing import Any, NamedTuple, get_args

from molvik.desktop.store import Store
from molvik.desktop.typed import Fields, number_text
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
from molvik.parsing.colours import read_any_colour
from molvik.parsing.quantities import read_length_m, read_size
from molvik.reference.contacts import CONTACTS
from molvik.reference.coverings import COVERINGS, find_covering
from molvik.survey.measured import reckon


class FoundField(NamedTuple):
    """A field of a thing in the loom. read: what a typed text changes, or a ValueError.

    node: the field takes a node by its code or name, and makes one that is not there yet.
    """

    name: str
    tip: str
    width: int
    show: Callable[[Any], str]
    read: Callable[[str], Fields]
    node: str = ""


def _plain(field: str) -> Callable[[str], Fields]:
    return lambda text: {field: text.strip()}


EVERYDAY = {
    "broken": "cut", "snapped": "cut", "severed": "cut", "burned": "burnt", "scorched": "burnt",
    "melted": "melted together", "chafed": "chafed through", "frayed": "chafed through",
    "rubbed through": "chafed through", "corroded": "green copper", "verdigris": "green copper",
    "brittle": "crumbling", "loose terminal": "bad terminal", "no seal": "missing seal",
}  # fmt: skip
"""What faults are called at the bench, and what they are here (common practice)."""


def _choice(field: str, kind: Any) -> Callable[[str], Fields]:
    """Read one of the words of a Literal, the start of one, or what it is called at the bench."""
    words = [word for word in get_args(kind) if isinstance(word, str)]

    def read(text: str) -> Fields:
        tidy = text.strip().lower()
        near = [word for word in words if word == tidy] or [
            word for word in words if tidy and word.startswith(tidy)
        ]
        if len(near) != 1 and EVERYDAY.get(tidy) in words:
            near = [EVERYDAY[tidy]]
        if len(near) != 1:
            known = ", ".join(word for word in words if word)
            raise ValueError(f"“{text.strip()}” is not one of: {known}.")
        return {field: near[0]}

    return read


def _contact(text: str) -> Fields:
    size = text.strip()
    if size and size not in CONTACTS:
        raise ValueError(f"“{size}” is not one of the contact sizes {', '.join(CONTACTS)}.")
    return {"contact": size}


def _own_decision(text: str) -> Fields:
    if not text.strip():
        return {"decision": "", "decided_at": ""}
    now = datetime.now().astimezone().isoformat(timespec="seconds")
    return {**_choice("decision", Action)(text), "decided_at": now}


def _count(field: str, most: int) -> Callable[[str], Fields]:
    def read(text: str) -> Fields:
        if not text.strip():
            return {field: 0}
        if not text.strip().isdigit() or int(text) > most:
            raise ValueError(f"Type a whole number, 0 to {most}.")
        return {field: int(text)}

    return read


def _ways(text: str) -> Fields:
    return {"ways": _count("ways", 400)(text)["ways"] or None}


def _length(field: str) -> Callable[[str], Fields]:
    return lambda text: {field: read_length_m(text) if text.strip() else None}


def _distance(text: str) -> Fields:
    if text.strip() in ("0", "0 m", "0 mm"):
        return {"at_m": 0.0}
    return _length("at_m")(text)


def _diameter(text: str) -> Fields:
    if not text.strip():
        return {"diameter_mm": None}
    # A bare number is millimetres here; read_length_m takes bare numbers for metres.
    bare = re.fullmatch(r"\d+([.,]\d+)?", text.strip())
    return {"diameter_mm": read_length_m(f"{text} mm" if bare else text) * 1000}


def _measured(text: str) -> Fields:
    if not text.strip():
        return {"seen": ""}
    return {"seen": text.strip(), "size": reckon(text).metric}


def _fused(text: str) -> Fields:
    known = {"": None, "?": None, "yes": True, "no": False, "y": True, "n": False}
    tidy = text.strip().lower()
    if tidy not in known:
        raise ValueError("Type yes, no, or nothing when it is not known.")
    return {"fused": known[tidy]}


def _covering(text: str) -> dict[str, Any]:
    found = find_covering(text)
    if found is None:
        known = ", ".join(filter(None, COVERINGS))
        raise ValueError(
            f"“{text.strip()}” is no covering known here. Type one of: {known}; what is special "
            "about it goes into the note."
        )
    return {"covering": found.key}


_YES: dict[bool | None, str] = {None: "", True: "yes", False: "no"}

NODE_FIELDS: tuple[FoundField, ...] = (
    FoundField("Name", "What it plugs into, or where it lies", 170,
               lambda n: n.name, _plain("name")),
    FoundField("State", "found, missing, cut off or unknown", 76,
               lambda n: n.state, _choice("state", NodeState)),
    FoundField("Plugs into", "What this end plugs into", 150,
               lambda n: n.plugs_into, _plain("plugs_into")),
    FoundField("Connector", "Code of its connector in this job", 82,
               lambda n: n.connector, _plain("connector")),
    FoundField("Ways", "How many cavities", 54,
               lambda n: str(n.ways or ""), _ways),
    FoundField("Contact", "Contact size of a sealed housing: " + ", ".join(CONTACTS), 62,
               lambda n: n.contact, _contact),
    FoundField("Mark", "What is written or tied on it", 100, lambda n: n.mark, _plain("mark")),
    FoundField("Note", "Anything to remember", 120, lambda n: n.note, _plain("note")),
)  # fmt: skip

SEGMENT_FIELDS: tuple[FoundField, ...] = (
    FoundField("From", "A node by its code or name; a new name makes a new node", 150,
               lambda s: s.start, _plain("start"), "start"),
    FoundField("To", "A node by its code or name; a new name makes a new node", 150,
               lambda s: s.finish, _plain("finish"), "finish"),
    FoundField("Length", "480 mm, 22 in, 1.2 m", 78,
               lambda s: "" if s.length_m is None else f"{s.length_m:.3g} m", _length("length_m")),
    FoundField("Covering", f"{', '.join(filter(None, COVERINGS))}; empty for bare", 120,
               lambda s: s.covering, _covering),
    FoundField("Diameter", "Over the covering, mm", 76,
               lambda s: number_text(s.diameter_mm, "mm"), _diameter),
    FoundField("Ties", "How many", 46, lambda s: str(s.ties or ""), _count("ties", 500)),
    FoundField("Clips", "How many", 50, lambda s: str(s.clips or ""), _count("clips", 500)),
    FoundField("Grommet", "Where it passes through metal", 84,
               lambda s: s.grommet, _plain("grommet")),
    FoundField("Note", "Anything to remember", 100, lambda s: s.note, _plain("note")),
)  # fmt: skip

FOUND_FIELDS: tuple[FoundField, ...] = (
    FoundField("From", "The end it starts at", 110, lambda w: w.start, _plain("start"), "start"),
    FoundField("To", "The end it goes to; empty when it was cut off", 110,
               lambda w: w.finish, _plain("finish"), "finish"),
    FoundField("Function", "What it is for", 150, lambda w: w.function, _plain("function")),
    FoundField("Wire", "The wire that it is in this job, by its code", 62,
               lambda w: w.wire, lambda text: {"wire": text.strip().upper()}),
    FoundField("Colour", "As seen under the dirt: RD/WH", 104,
               lambda w: str(w.colour) if w.colour else "",
               lambda text: {"colour": read_any_colour(text) if text.strip() else None}),
    FoundField("Measured", "copper 1.3 mm, outside 2.6 mm, or 19 x 0.3 mm", 118,
               lambda w: w.seen, _measured),
    FoundField("Size", "Reckoned from the measure, or typed", 82,
               lambda w: str(w.size) if w.size else "",
               lambda text: {"size": read_size(text) if text.strip() else None}),
    FoundField("Insulation", "Its family by its looks; what crumbles, crumbles by family", 130,
               lambda w: w.family, _plain("family")),
    FoundField("Role", "supply, earth, sensor or signal", 66,
               lambda w: w.role, _choice("role", Role)),
    FoundField("Fused", "yes, no, or nothing", 54, lambda w: _YES[w.fused], _fused),
    FoundField("Known", "traced or presumed", 78, lambda w: w.known, _choice("known", Known)),
    FoundField("Left", "What is left of a cut wire", 66,
               lambda w: number_text(w.left_m, "m"), _length("left_m")),
    FoundField("Note", "Anything to remember", 100, lambda w: w.note, _plain("note")),
)  # fmt: skip

FAULT_FIELDS: tuple[FoundField, ...] = (
    FoundField("On", "A wire L4, a stretch B3 or a node N2", 56,
               lambda f: f.on, lambda text: {"on": text.strip().upper()}),
    FoundField("Fault", "One of: " + ", ".join(get_args(FaultKind)), 136,
               lambda f: f.kind, _choice("kind", FaultKind)),
    FoundField("At", "How far from the start of what it is on", 66,
               lambda f: number_text(f.at_m, "m"), _distance),
    FoundField("Grade", "0 as new, 1 used, 2 worn, 3 bad, 4 dangerous", 54,
               lambda f: str(f.grade), _count("grade", 4)),
    FoundField("Note", "What was seen", 190, lambda f: f.note, _plain("note")),
    FoundField("Own decision", "Overrules the proposal: " + ", ".join(get_args(Action)), 120,
               lambda f: f.decision, _own_decision),
    FoundField("Reason", "Why you decided otherwise", 150, lambda f: f.reason, _plain("reason")),
)  # fmt: skip

BLANKS: dict[type, Any] = {
    Node: Node("", ""),
    Segment: Segment(""),
    FoundWire: FoundWire(""),
    Fault: Fault("", ""),
}
"""Stand for the empty last row of each table, where a new thing is typed."""


def edit_found(store: Store, thing: Any, field: FoundField, text: str) -> str:
    """Put a typed text into a thing of the loom, or into a new one; return its code."""
    kind = type(thing)
    fields = {} if field.node else field.read(text)
    code = thing.code or loom_edits.free_code(store.job, kind)

    def edit(job: Job) -> Job:
        changed = dict(fields)
        if field.node:
            job, node = _node(job, text)
            changed[field.node] = node
        if thing.code:
            return loom_edits.change(job, code, **changed)
        blank = {"name": ""} if kind is Node else {"on": ""} if kind is Fault else {}
        return loom_edits.add(job, kind(**{"code": code, **blank, **changed}))

    store.do(f"{field.name} of {code}", edit)
    return code


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
