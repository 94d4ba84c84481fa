"""Pure edits of the loom as found."""

from typing import Any

from msgspec.structs import replace

from molvik.model import references
from molvik.model.checks import loom_codes, loom_problem, past_the_end, thing_problem
from molvik.model.edits import (
    EditError,
    new_code,
    photo_of_nothing,
    refuse_code,
    refuse_held,
    retire,
)
from molvik.model.job import Job
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment

Found = Node | Segment | FoundWire | Fault

_FIELDS: dict[type[Found], tuple[str, str]] = {
    Node: ("nodes", "N"),
    Segment: ("segments", "B"),
    FoundWire: ("wires", "L"),
    Fault: ("faults", "X"),
}


def free_code(job: Job, kind: type[Found]) -> str:
    """Return the next free code for a kind of thing in the loom."""
    return new_code(job, _FIELDS[kind][1])


def find(loom: Loom, code: str) -> Found | None:
    """Return the thing with this code, or None."""
    return next((thing for thing in loom.things() if thing.code == code), None)


def add(job: Job, thing: Found) -> Job:
    """Add a thing to the loom; an empty code gets the next free one."""
    field, _ = _FIELDS[type(thing)]
    if not thing.code:
        thing = replace(thing, code=free_code(job, type(thing)))
    else:
        refuse_code(job, thing.code)
    _check(job, thing)
    return replace(job, loom=replace(job.loom, **{field: (*getattr(job.loom, field), thing)}))


def change(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of one thing in the loom. Raises EditError."""
    old = find(job.loom, code)
    if old is None:
        raise EditError(f"There is no {code} in the loom.")
    new = replace(old, **fields)
    _check(job, new)
    field, _ = _FIELDS[type(old)]
    things = tuple(new if thing is old else thing for thing in getattr(job.loom, field))
    return replace(job, loom=replace(job.loom, **{field: things}))


def remove(job: Job, code: str) -> Job:
    """Take a thing out of the loom. A node that stretches or wires go to stays.

    Raises EditError.
    """
    old = find(job.loom, code)
    if old is None:
        raise EditError(f"There is no {code} in the loom.")
    refuse_held(job, code, references.LOOM)
    job = references.without(job, code, references.LOOM)
    field, _ = _FIELDS[type(old)]
    things = tuple(thing for thing in getattr(job.loom, field) if thing is not old)
    job = photo_of_nothing(replace(job, loom=replace(job.loom, **{field: things})), code)
    return retire(job, [code])


def _check(job: Job, thing: Found) -> None:
    """Refuse what cannot be: a stretch to nowhere, a negative length, an unknown grade."""
    problem = thing_problem(thing) or loom_problem(*loom_codes(job.loom), thing)
    if not problem and isinstance(thing, FoundWire) and thing.wire and not job.wire(thing.wire):
        problem = f"There is no wire {thing.wire} in the job"
    if not problem and isinstance(thing, Fault):
        problem = past_the_end(job.loom, thing)
    if problem:
        raise EditError(f"{problem}.")
