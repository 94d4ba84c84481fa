"""Pure edits of wires as a builder makes them: splice, join, extend, fuse, reverse, stow."""

import re

from msgspec.structs import replace

from molvik.model.edits import (
    EditError,
    add,
    change_wire,
    free_code,
    refuse,
    remove_part,
    remove_wires,
)
from molvik.model.job import Job
from molvik.model.parts import LOOSE, Connector, Device, End, Fuse, Splice, Wire


def _wire(job: Job, code: str) -> Wire:
    wire = job.wire(code)
    if wire is None:
        raise EditError(f"There is no wire {code} in the job.")
    return wire


def change_bundle(job: Job, name: str, **fields: str) -> Job:
    """Change the place or the covering of a bundle. Raises EditError."""
    if not name:
        raise EditError("Give the bundle a name first: type it at its wires.")
    new = replace(job.bundle(name), **fields)
    others = tuple(bundle for bundle in job.bundles if bundle.name != name)
    return replace(job, bundles=(*others, new))


def _cut(job: Job, wire: Wire, first: End, second: End, share: float) -> Job:
    """Cut a wire; its first part ends at one place, and a new wire starts at the other."""
    length = wire.length_m
    job = change_wire(
        job, wire.code, finish=first, length_m=None if length is None else length * share
    )
    rest = replace(
        wire,
        code=free_code(job, Wire),
        start=second,
        length_m=None if length is None else length * (1 - share),
        length_from="typed",
    )
    return add(job, rest)


def split(job: Job, code: str, share: float = 0.5) -> Job:
    """Put a splice into a wire, at a share of its length. Raises EditError."""
    wire = _wire(job, code)
    if not 0 < share < 1:
        raise EditError("A splice sits between the ends of a wire: a share between 0 and 1.")
    made = Splice(free_code(job, Splice), wire.function)
    return _cut(add(job, made), wire, End(made.code), End(made.code), share)


def join(job: Job, splice: str) -> Job:
    """Make one wire of the two that meet at a splice, which goes. Raises EditError."""
    end = End(splice)
    meeting = [wire for wire in job.wires if end in wire.ends]
    if not isinstance(job.part(splice), Splice) or len(meeting) != 2:
        raise EditError(f"{splice} joins {len(meeting)} wires: two that meet can be made one.")
    first, second = meeting
    if first.size != second.size:
        raise EditError(f"{first.code} and {second.code} are not of one size.")
    far = second.finish if second.start == end else second.start
    lengths = (first.length_m, second.length_m)
    total = None if None in lengths else sum(length for length in lengths if length is not None)
    job = remove_wires(job, frozenset([second.code]))
    side = {"start": far} if first.start == end else {"finish": far}
    return remove_part(change_wire(job, first.code, length_m=total, **side), splice)


def extend(job: Job, code: str, length_m: float) -> Job:
    """Lengthen a wire by a new piece, joined by a splice. Raises EditError."""
    wire = _wire(job, code)
    if length_m <= 0:
        raise EditError("The new piece has a length above zero.")
    made = Splice(free_code(job, Splice), wire.function)
    job = change_wire(add(job, made), code, finish=End(made.code))
    piece = replace(
        wire,
        code=free_code(job, Wire),
        start=End(made.code),
        length_m=length_m,
        length_from="typed",
    )
    return add(job, piece)


def insert_fuse(job: Job, code: str, rating_a: float) -> Job:
    """Put a fuse into a wire near its start."""
    wire = _wire(job, code)
    made = Fuse(free_code(job, Fuse), wire.function or f"In {code}", rating_a)
    return _cut(add(job, made), wire, End(made.code, "in"), End(made.code, "out"), 0.1)


def insert_relay(job: Job, code: str) -> Job:
    """Put a relay's contact into a wire; its coil is left to be wired."""
    wire = _wire(job, code)
    made = Device(
        free_code(job, Device, relay=True),
        f"{wire.function or code} relay",
        "relay",
        ("30", "87", "86", "85"),
        (("30", "87"),),
    )
    return _cut(add(job, made), wire, End(made.code, "30"), End(made.code, "87"), 0.5)


def reverse(job: Job, codes: frozenset[str]) -> Job:
    """Swap the ends of wires."""
    return replace(
        job,
        wires=tuple(
            replace(w, start=w.finish, finish=w.start) if w.code in codes else w for w in job.wires
        ),
    )


def duplicate(job: Job, codes: tuple[str, ...], times: int) -> Job:
    """Copy wires, as for the next injectors: numbers in functions go on, full cavities stay loose.

    A splice, an earth, a fuse and a device take several wires; a connector's cavity takes one.
    Raises EditError.
    """
    if not 1 <= times <= 100:
        raise EditError("Copy a wire once to a hundred times.")
    wires = [_wire(job, code) for code in codes]
    for more in range(1, times + 1):
        for wire in wires:
            ends = {
                side: LOOSE if isinstance(job.part(end.at), Connector) else end
                for side, end in (("start", wire.start), ("finish", wire.finish))
            }
            number = re.search(r"\d+", wire.function)
            function = wire.function
            if number:
                counted = str(int(number.group()) + more)
                function = function[: number.start()] + counted + function[number.end() :]
            made = replace(
                wire, code=free_code(job, Wire), function=function, length_from="typed", **ends
            )
            job = add(job, made)
    return job


def stow(job: Job, codes: frozenset[str], stowed: bool = True) -> Job:
    """Mark wires as cut back, capped and tied, or take them up again; stowed ends come loose."""
    for code in sorted(codes):
        wire = _wire(job, code)
        fields = {"stowed": stowed}
        if stowed and isinstance(job.part(wire.finish.at), Connector):
            job = change_wire(job, code, finish=LOOSE)
        job = change_wire(job, code, **fields)
    return job


def change_many(job: Job, codes: frozenset[str], **fields: object) -> Job:
    """Change the same fields of many wires."""
    for code in codes:
        _wire(job, code)
    if {"start", "finish"} & fields.keys():
        for code in sorted(codes):
            job = change_wire(job, code, **fields)
        return job
    wires = tuple(replace(w, **fields) if w.code in codes else w for w in job.wires)
    for wire in wires:
        if wire.code in codes:
            refuse(wire)
    return replace(job, wires=wires)
