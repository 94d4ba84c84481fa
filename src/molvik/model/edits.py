"""Pure edits: each takes a job and returns the changed job, or says in words why it cannot."""

import re
from collections.abc import Collection, Iterable
from typing import Any, TypeVar

from msgspec.structs import replace

from molvik.model import references
from molvik.model.checks import thing_problem
from molvik.model.codes import is_spent, next_code, spend
from molvik.model.job import Acceptance, Job, Reading
from molvik.model.log import LogEntry, Tick
from molvik.model.parts import (
    CavityFill,
    Connector,
    Device,
    EarthPoint,
    Fuse,
    Part,
    Pin,
    Scenario,
    Splice,
    Value,
    Wire,
)
from molvik.model.refs import Ref

Coded = TypeVar("Coded", bound=Value)


class EditError(ValueError):
    """An edit that cannot be made; the text is for the user."""


_FIELDS: dict[type[Value], tuple[str, str]] = {
    Connector: ("connectors", "C"),
    Fuse: ("fuses", "F"),
    Splice: ("splices", "S"),
    EarthPoint: ("earths", "E"),
    Device: ("devices", "D"),
    Wire: ("wires", "W"),
}

Thing = Part | Wire


def free_code(job: Job, kind: type[Value], *, relay: bool = False) -> str:
    """Return the next free code for a kind of part, or for a wire. Relays are K1, K2, …"""
    return new_code(job, "K" if relay else _FIELDS[kind][1])


def new_code(job: Job, letters: str) -> str:
    """Return the next code with these letters that nothing in the job has or had."""
    return next_code(letters, references.codes(job), job.spent)


def coded(job: Job, things: Iterable[Coded], letters: str) -> tuple[Coded, ...]:
    """Return things that come in together, each with the next code with these letters."""
    first = int(new_code(job, letters).removeprefix(letters))
    return tuple(replace(thing, code=f"{letters}{n}") for n, thing in enumerate(things, first))


def refuse(thing: Any) -> None:
    """Refuse what cannot be, as opening a file does. Raises EditError."""
    problem = thing_problem(thing)
    if problem:
        raise EditError(f"{problem[0].upper()}{problem[1:]}. Nothing was changed.")


def refuse_code(job: Job, code: str, taken: Collection[str] | None = None) -> None:
    """Refuse a code that a thing has or had: labels and the record would speak of two things.

    taken: the codes in the job, where many are asked for. Raises EditError.
    """
    if code in taken if taken is not None else references.collection_of(job, code):
        raise EditError(f"{code} is already in the job.")
    if is_spent(job.spent, code):
        raise EditError(
            f"{code} was deleted from this job, or a later number was: labels and the record may "
            "speak of it. Choose another code, or none: it gets the next that is free."
        )


def retire(job: Job, codes: Iterable[str]) -> Job:
    """Return a job that does not give these codes out again."""
    return replace(job, spent=spend(job.spent, codes))


def add(job: Job, thing: Thing) -> Job:
    """Add a part or a wire; an empty code gets the next free one."""
    where: str = _FIELDS[type(thing)][0]
    if not thing.code:
        relay = isinstance(thing, Device) and thing.kind == "relay"
        thing = replace(thing, code=free_code(job, type(thing), relay=relay))
    else:
        refuse_code(job, thing.code)
    refuse(thing)
    if isinstance(thing, Wire):
        _check_ends(job, thing)
    if isinstance(thing, Connector):
        _check_mate(job, thing)
    return replace(job, **{where: (*getattr(job, where), thing)})


def change_wire(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of one wire. Raises EditError."""
    old = job.wire(code)
    if old is None:
        raise EditError(f"There is no wire {code} in the job.")
    if "length_m" in fields:
        fields.setdefault("length_from", "typed")
    new = replace(old, **fields)
    refuse(new)
    if "start" in fields or "finish" in fields:
        _check_ends(job, new)
    return replace(job, wires=tuple(new if wire is old else wire for wire in job.wires))


def change_part(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of one part that is not a wire. Raises EditError."""
    old = job.part(code)
    if old is None:
        raise EditError(f"There is no {code} in the job.")
    new = replace(old, **fields)
    refuse(new)
    if isinstance(new, Connector) and "plugs_into" in fields:
        _check_mate(job, new)
    field, _ = _FIELDS[type(old)]
    return replace(
        job, **{field: tuple(new if part is old else part for part in getattr(job, field))}
    )


def remove_wires(job: Job, codes: frozenset[str]) -> Job:
    """Take wires out. Their readings stay in the record."""
    gone = [wire.code for wire in job.wires if wire.code in codes]
    for code in gone:
        job = references.without(job, code, ("wires",))
    job = replace(job, wires=tuple(wire for wire in job.wires if wire.code not in codes))
    for code in gone:
        job = photo_of_nothing(job, code)
    return retire(job, gone)


def remove_part(job: Job, code: str) -> Job:
    """Take a part out; wires that ended there become loose, they are not lost. Raises EditError."""
    old = job.part(code)
    if old is None:
        raise EditError(f"There is no {code} in the job.")
    refuse_held(job, code)
    job = references.without(job, code)
    field, _ = _FIELDS[type(old)]
    kept: tuple[Part, ...] = tuple(part for part in getattr(job, field) if part is not old)
    return retire(photo_of_nothing(replace(job, **{field: kept}), code), [code])


def refuse_held(job: Job, code: str, among: tuple[str, ...] = references.COLLECTIONS) -> None:
    """Refuse to take out what others hold on to. Raises EditError."""
    for use in references.uses(job, code, among):
        if use.reference.gone == "holds it":
            raise EditError(f"{code} stays: {use.words}.")


def change_code(job: Job, old: str, new: str, at: str, by: str = "") -> Job:
    """Give a thing another code, as it stands on its label; all that points at it follows.

    at: local time with its UTC offset, ISO 8601, for the line in the log that keeps the old code.
    Raises EditError.
    """
    new = new.strip().upper()
    if not references.collection_of(job, old):
        raise EditError(f"There is no {old} in the job.")
    if not re.fullmatch(r"[A-Z0-9][A-Z0-9_.-]{0,19}", new):
        raise EditError(
            "A code is made of letters, digits, dots, - and _, at most 20, and begins with a "
            "letter or a digit: W12, IGN-1."
        )
    if new == old:
        return job
    refuse_code(job, new)
    job = retire(references.renamed(job, old, new), [old])
    return log(job, LogEntry(at, subject=new, text=f"{old} is called {new} from now on.", by=by))


def photo_of_nothing(job: Job, code: str) -> Job:
    """Let the photos of a thing that goes be photos of the job: they are not lost with it, and not
    taken for photos of another thing that gets its code.
    """
    if not any(Ref.parse(photo.on).code == code for photo in job.photos):
        return job
    photos = tuple(
        replace(photo, on="", text=f"{photo.text} ({photo.on})".strip())
        if Ref.parse(photo.on).code == code
        else photo
        for photo in job.photos
    )
    return replace(job, photos=photos)


def set_pins(job: Job, code: str, pins: tuple[Pin, ...], source: str) -> Job:
    """Give a connector the pins read from a table; cavities the table leaves out keep theirs."""
    connector = _connector(job, code)
    read = {pin.cavity: pin for pin in pins}
    kept = tuple(read.pop(pin.cavity, pin) for pin in connector.pins)
    return change_part(job, code, pins=(*kept, *read.values()), pinout_from=source)


def change_pin(job: Job, code: str, cavity: str, **fields: Any) -> Job:
    """Change what is known of one cavity."""
    connector = _connector(job, code)
    old = next((pin for pin in connector.pins if pin.cavity == cavity), None)
    if old is None:
        return change_part(job, code, pins=(*connector.pins, Pin(cavity, **fields)))
    new = replace(old, **fields)
    return change_part(job, code, pins=tuple(new if pin is old else pin for pin in connector.pins))


def fill_cavity(job: Job, code: str, cavity: str, fill: CavityFill) -> Job:
    """Say that a cavity was seen empty, or that a cavity plug is fitted."""
    return change_pin(job, code, cavity, fill=fill)


def change_settings(job: Job, **fields: Any) -> Job:
    """Change settings of the job."""
    new = replace(job.settings, **fields)
    refuse(new)
    return replace(job, settings=new)


def rename(job: Job, title: str, subtitle: str) -> Job:
    """Give the job another title. Raises EditError."""
    if not title.strip():
        raise EditError("A job needs a title.")
    return replace(job, title=title.strip(), subtitle=subtitle.strip())


def record(job: Job, reading: Reading) -> Job:
    """Keep a reading. Readings are added, never overwritten. Raises EditError."""
    if reading.item and job.wire(reading.item) is None:
        raise EditError(f"There is no wire {reading.item} to measure.")
    if reading.quantity == "resistance" and reading.value is not None and reading.value < 0:
        raise EditError("A resistance cannot be below zero. Hold the leads together, zero again.")
    refuse(reading)
    return replace(job, readings=(*job.readings, reading))


def log(job: Job, entry: LogEntry) -> Job:
    """Write a line into the logbook. Raises EditError."""
    refuse_line(entry)
    return replace(job, log=(*job.log, entry))


def refuse_line(entry: LogEntry) -> None:
    """Refuse a line of the log that says nothing, or cannot be. Raises EditError."""
    if entry.kind == "note" and not entry.text.strip():
        raise EditError("An empty note says nothing. Type what you saw or did.")
    if entry.kind == "done":
        if not entry.operation or not 0 < entry.quantity < 10_000:
            raise EditError("Say what was done and how much of it, above zero.")
        if not 0 < entry.minutes < 10_000:
            raise EditError("Say how many minutes it took, above zero.")
    refuse(entry)


def tick(job: Job, other: Tick) -> Job:
    """Tick a step off; one that is ticked already keeps its first time."""
    if any((old.list, old.step) == (other.list, other.step) for old in job.ticks):
        return job
    refuse(other)
    return replace(job, ticks=(*job.ticks, other))


def untick(job: Job, steps: str, step: str) -> Job:
    """Take the tick of a step away."""
    kept = tuple(old for old in job.ticks if (old.list, old.step) != (steps, step))
    return replace(job, ticks=kept)


def accept(job: Job, acceptance: Acceptance) -> Job:
    """Accept a finding with a reason. Raises EditError."""
    if not acceptance.reason.strip():
        raise EditError("Say why you accept this finding; the reason is printed with the job.")
    refuse(acceptance)
    others = tuple(other for other in job.accepted if other.finding != acceptance.finding)
    return replace(job, accepted=(*others, acceptance))


def withdraw(job: Job, finding: str) -> Job:
    """Take back the acceptance of a finding."""
    return replace(
        job,
        accepted=tuple(acceptance for acceptance in job.accepted if acceptance.finding != finding),
    )


def _connector(job: Job, code: str) -> Connector:
    connector = job.connector(code)
    if connector is None:
        raise EditError(f"There is no connector {code} in the job.")
    return connector


def _check_mate(job: Job, connector: Connector) -> None:
    """Refuse a connector that would plug into itself or into one already taken."""
    code, mate = connector.code, connector.plugs_into
    if not mate:
        return
    if mate == code:
        raise EditError(f"{code} cannot plug into itself.")
    other = _connector(job, mate)
    if other.plugs_into not in ("", code):
        raise EditError(f"{mate} already plugs into {other.plugs_into}.")
    for third in job.connectors:
        if third.code not in (code, mate) and third.plugs_into in (code, mate):
            raise EditError(f"{third.code} already plugs into {third.plugs_into}.")


def _check_ends(job: Job, wire: Wire) -> None:
    codes = {part.code for part in job.parts()}
    for end in wire.ends:
        if end.at and end.at not in codes:
            raise EditError(f"There is no {end.at} in the job for {wire.code} to go to.")


def set_scenarios(job: Job, scenarios: tuple[Scenario, ...]) -> Job:
    """Replace the job's own scenarios; each has a name of its own and at least one state.

    Raises EditError.
    """
    names = [scenario.name.strip() for scenario in scenarios]
    if not all(names) or len(set(names)) < len(names):
        raise EditError("Each scenario needs a name of its own.")
    if not all(scenario.steps for scenario in scenarios):
        raise EditError("A scenario goes through at least one state.")
    return replace(job, scenarios=scenarios)
