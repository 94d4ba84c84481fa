"""Pure edits of repin sets and of the further pinouts of a connector."""

from typing import Any

from msgspec.structs import replace

from molvik.model.checks import repin_problem
from molvik.model.crossover import Decided, Extension, Pinout, Rejected, RepinSet
from molvik.model.edits import EditError, change_part, new_code, refuse, refuse_code, retire
from molvik.model.job import Job


def find(job: Job, code: str) -> RepinSet:
    """Return the set with this code. Raises EditError."""
    found = job.repin(code)
    if found is None:
        raise EditError(f"There is no repin set {code} in the job.")
    return found


def add(job: Job, repin: RepinSet) -> Job:
    """Add a set; an empty code gets the next free one."""
    if repin.code:
        refuse_code(job, repin.code)
    else:
        repin = replace(repin, code=new_code(job, "Q"))
    check(job, repin)
    return replace(job, repins=(*job.repins, repin))


def change(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of a set."""
    old = find(job, code)
    new = replace(old, **fields)
    check(job, new)
    return replace(
        job, repins=tuple(new if repin_set is old else repin_set for repin_set in job.repins)
    )


def remove(job: Job, code: str) -> Job:
    """Take a set out of the job, with its ticks; wires stay where they are."""
    old = find(job, code)
    ticks = tuple(tick for tick in job.ticks if tick.list != f"repin {code}")
    kept = tuple(repin_set for repin_set in job.repins if repin_set is not old)
    return retire(replace(job, repins=kept, ticks=ticks), [code])


def decide(job: Job, code: str, word: Decided) -> Job:
    """Say what a lead is for. A cavity that was given to another lead is taken from that one."""
    others = [
        decided
        for decided in find(job, code).decided
        if decided.lead != word.lead
        and not (
            word.disposition == "match" and decided.disposition == "match" and decided.to == word.to
        )
    ]
    rejected = find(job, code).rejected
    if word.disposition == "match":  # it is for that cavity after all
        rejected = tuple(
            other
            for other in rejected
            if other.to != word.to or (other.lead != word.lead and not other.fresh)
        )
    return change(job, code, decided=(*others, word), rejected=rejected)


def reject(job: Job, code: str, word: Rejected) -> Job:
    """Say that a lead is not for a cavity, which is not proposed for it again."""
    repin = find(job, code)
    decided = tuple(
        decided for decided in repin.decided if (decided.lead, decided.to) != (word.lead, word.to)
    )
    kept = tuple(
        rejected
        for rejected in repin.rejected
        if (rejected.lead, rejected.to) != (word.lead, word.to)
    )
    return change(job, code, decided=decided, rejected=(*kept, word))


def undecide(job: Job, code: str, lead: str) -> Job:
    """Leave a lead to the proposals again, whatever was said of it."""
    repin = find(job, code)
    return change(
        job,
        code,
        decided=tuple(decided for decided in repin.decided if decided.lead != lead),
        rejected=tuple(rejected for rejected in repin.rejected if rejected.lead != lead),
    )


def extend(job: Job, code: str, extension: Extension) -> Job:
    """Say that a lead is too short, and by how much; a length of zero says that it is not.

    Raises EditError.
    """
    if not 0 <= extension.length_m < 100:
        raise EditError("A length is zero or more. Type for example 350 mm.")
    kept = [other for other in find(job, code).extensions if other.lead != extension.lead]
    if extension.length_m:
        kept.append(extension)
    return change(job, code, extensions=tuple(kept))


def add_pinout(job: Job, pinout: Pinout) -> Job:
    """Keep one more table for a connector; one of the same name is replaced. Raises EditError."""
    if job.connector(pinout.connector) is None:
        raise EditError(f"There is no connector {pinout.connector} in the job.")
    if not pinout.name.strip():
        raise EditError("Give the table a name: its year or variant.")
    refuse(pinout)
    others = (
        other
        for other in job.pinouts
        if (other.connector, other.name) != (pinout.connector, pinout.name)
    )
    return replace(job, pinouts=(*others, pinout))


def remove_pinout(job: Job, connector: str, name: str) -> Job:
    """Forget a further table of a connector. Raises EditError."""
    users = [
        repin_set.name
        for repin_set in job.repins
        if (repin_set.target, repin_set.wanted) == (connector, name)
    ]
    if users:
        raise EditError(f"The repin set {users[0]} wants “{name}”. Change that first.")
    kept = tuple(
        pinout for pinout in job.pinouts if (pinout.connector, pinout.name) != (connector, name)
    )
    return replace(job, pinouts=kept)


def exchange_pinout(job: Job, code: str, name: str) -> Job:
    """Make a further table a connector's own, and its own the further one. Raises EditError."""
    connector = job.connector(code)
    pinout = next((p for p in job.pinouts if (p.connector, p.name) == (code, name)), None)
    if connector is None or pinout is None:
        raise EditError(f"{code} has no table called “{name}”.")
    was = Pinout(code, connector.pinout_from or "as it was", connector.pins)
    job = change_part(job, code, pins=pinout.pins, pinout_from=name)
    kept = tuple(other for other in job.pinouts if other is not pinout)
    sets = tuple(
        replace(repin_set, wanted="")
        if (repin_set.target, repin_set.wanted) == (code, name)
        else repin_set
        for repin_set in job.repins
    )
    job = replace(job, pinouts=kept, repins=sets)
    for repin_set in job.repins:
        check(job, repin_set)
    return add_pinout(job, was) if was.pins else job


def check(job: Job, repin: RepinSet) -> None:
    """Refuse a set that cannot be. Raises EditError."""
    problem = repin_problem(job, repin)
    if problem:
        raise EditError(f"{problem}.")
