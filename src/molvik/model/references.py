"""Which fields point at what: the one table that removing, renaming and asking who uses a thing
read.
"""

import re
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, Literal, NamedTuple

from msgspec.structs import replace

from molvik.model.crossover import Pinout, RepinSet
from molvik.model.job import Job, code_order
from molvik.model.parts import LOOSE, End
from molvik.model.refs import Ref
from molvik.model.routing import Pose

How = Literal["code", "end", "place", "words"]
Gone = Literal["is cleared", "goes along", "holds it", "stays"]

PARTS = frozenset({"connectors", "fuses", "splices", "earths", "devices"})
WIRES, PLUGS, EARTHS = frozenset({"wires"}), frozenset({"connectors"}), frozenset({"earths"})
SETS, NODES = frozenset({"repins"}), frozenset({"loom.nodes"})
FOUND = NODES | {"loom.segments", "loom.wires"}
COLLECTIONS = (
    *sorted(PARTS),
    "wires",
    "loom.nodes",
    "loom.segments",
    "loom.wires",
    "loom.faults",
    "repins",
    "photos",
    "stock",
    "routing.looms",
    "routing.joints",
    "routing.runs",
)
"""Where the things with codes lie in a job."""
ALL = frozenset(COLLECTIONS)
LOOM = tuple(one for one in COLLECTIONS if one.startswith("loom."))
ROUTED = tuple(one for one in COLLECTIONS if one.startswith("routing."))
LOOMS, JOINTS = frozenset({"routing.looms"}), frozenset({"routing.joints"})
RUNS = frozenset({"routing.runs"})


class Reference(NamedTuple):
    """A field that points at things.

    path: from the job through its lists to the field. to: the lists that what it points at lies in.
    how: it is written as a code, an end, a place ("C3/5"), or as words with codes among them.
    gone: what becomes of it when what it points at is taken out. said: of that, before it is done,
    with the holders before it (the words for one; for several). needed: it cannot be empty.
    """

    path: str
    to: frozenset[str]
    how: How
    gone: Gone
    said: tuple[str, str] = ("", "")
    needed: bool = False


_LOOSE = ("comes loose", "come loose")
_GOES = ("goes to it. Move it first", "go to it. Move them first")

REFERENCES = (
    Reference("wires.start", PARTS, "end", "is cleared", _LOOSE),
    Reference("wires.finish", PARTS, "end", "is cleared", _LOOSE),
    Reference("connectors.plugs_into", PLUGS, "code", "is cleared", ("mates with nothing",) * 2),
    Reference("devices.plug", PLUGS, "code", "is cleared", ("has no plug", "have no plug")),
    Reference(
        "devices.case",
        EARTHS,
        "code",
        "is cleared",
        ("is bolted to no earth", "are bolted to no earth"),
    ),
    Reference(
        "loom.nodes.connector",
        PLUGS,
        "code",
        "is cleared",
        ("is an end without connector", "are ends without connector"),
    ),
    Reference(
        "pinouts.connector",
        PLUGS,
        "code",
        "goes along",
        ("goes with it", "go with it"),
        needed=True,
    ),
    Reference(
        "repins.sources",
        PLUGS,
        "code",
        "holds it",
        ("is about it. Delete that first", "are about it. Delete those first"),
    ),
    Reference(
        "repins.target",
        PLUGS,
        "code",
        "holds it",
        ("is about it. Delete that first", "are about it. Delete those first"),
    ),
    Reference("loom.segments.start", NODES, "code", "holds it", _GOES),
    Reference("loom.segments.finish", NODES, "code", "holds it", _GOES),
    Reference("loom.wires.start", NODES, "code", "holds it", _GOES),
    Reference("loom.wires.finish", NODES, "code", "holds it", _GOES),
    Reference(
        "loom.wires.wire",
        WIRES,
        "code",
        "is cleared",
        ("is linked to no wire", "are linked to no wire"),
    ),
    Reference(
        "loom.faults.on",
        FOUND,
        "code",
        "holds it",
        ("is recorded on it. Move it first", "are recorded on it. Move them first"),
        needed=True,
    ),
    Reference(
        "routing.joints.loom",
        LOOMS,
        "code",
        "holds it",
        ("is of it. Delete that first", "are of it. Delete those first"),
        needed=True,
    ),
    Reference(
        "routing.looms.datum",
        JOINTS,
        "code",
        "is cleared",
        ("is measured from its end again", "are measured from their ends again"),
    ),
    Reference(
        "routing.joints.carries",
        PARTS,
        "code",
        "is cleared",
        ("no longer carries it", "no longer carry it"),
    ),
    Reference("routing.runs.start", JOINTS, "code", "holds it", _GOES),
    Reference("routing.runs.finish", JOINTS, "code", "holds it", _GOES),
    Reference("board.run", RUNS, "code", "goes along", ("goes with it", "go with it"), needed=True),
    Reference(
        "wires.through",
        JOINTS,
        "code",
        "is cleared",
        ("is not sent through it", "are not sent through it"),
    ),
    Reference(
        "wires.avoid",
        JOINTS,
        "code",
        "is cleared",
        ("is not kept out of it", "are not kept out of it"),
    ),
    # What was decided and done is about places; it stays as it was said.
    Reference("repins.decided.lead", PLUGS, "place", "stays"),
    Reference("repins.decided.to", PLUGS, "place", "stays"),
    Reference("repins.rejected.lead", PLUGS, "place", "stays"),
    Reference("repins.rejected.to", PLUGS, "place", "stays"),
    Reference("repins.extensions.lead", PLUGS, "place", "stays"),
    Reference("repins.start.place", PLUGS, "place", "stays"),
    Reference("repins.start.wires", WIRES, "code", "stays"),
    Reference("repins.order", ALL, "words", "stays"),
    Reference("ticks.list", SETS, "words", "stays"),
    Reference("ticks.step", ALL, "words", "stays"),
    Reference("readings.item", WIRES, "code", "stays"),
    Reference("readings.points", PARTS, "end", "stays"),
    Reference("accepted.finding", ALL, "words", "stays"),
    Reference("accepted.subjects", ALL, "code", "stays"),
    Reference("log.subject", ALL, "place", "stays"),
    Reference("taken.on", FOUND | RUNS, "code", "stays"),
    # A photo of a thing that goes becomes the job's: edits.photo_of_nothing.
    Reference("photos.on", ALL, "place", "stays"),
)


def things(job: Job, collection: str) -> tuple[Any, ...]:
    """Return the things of a list of the job, "wires" or "loom.nodes"."""
    found: Any = job
    for name in collection.split("."):
        found = getattr(found, name)
    return tuple(found)


def codes(job: Job) -> Iterator[str]:
    """Every code in the job."""
    for collection in COLLECTIONS:
        for thing in things(job, collection):
            yield thing.code


def collection_of(job: Job, code: str, among: tuple[str, ...] = COLLECTIONS) -> str:
    """Return the list that has the thing with this code, empty when none of these has."""
    for collection in among:
        if any(thing.code == code for thing in things(job, collection)):
            return collection
    return ""


class Use(NamedTuple):
    """Who points at a thing in which way."""

    reference: Reference
    holders: tuple[str, ...]

    @property
    def words(self) -> str:
        """What becomes of them when the thing is taken out."""
        some = list(self.holders[:5])
        if len(self.holders) > 5:
            some.append(f"{len(self.holders) - 5} more")
        names = " and ".join([", ".join(some[:-1]), some[-1]]) if len(some) > 1 else some[0]
        return f"{names} {self.reference.said[len(self.holders) > 1]}"


def uses(job: Job, code: str, among: tuple[str, ...] = COLLECTIONS) -> tuple[Use, ...]:
    """Return who points at the thing with this code, other than the record.

    among: the lists it may lie in; in files from before, a wire and a stretch may share a code.
    """
    collection, found = collection_of(job, code, among), dict[tuple[Gone, tuple[str, str]], Use]()
    for reference in REFERENCES:
        if collection not in reference.to or reference.gone == "stays":
            continue
        *steps, field = reference.path.split(".")
        holders = tuple(
            _name(holder)
            for holder in things(job, ".".join(steps))
            if code in _pointed_at(getattr(holder, field), reference.how)
        )
        if holders:
            key = reference.gone, reference.said
            before = found[key].holders if key in found else ()
            found[key] = Use(reference, tuple(sorted({*before, *holders}, key=code_order)))
    return tuple(found.values())


def missing(job: Job) -> Iterator[tuple[str, str]]:
    """Yield who points at a thing that must be there and is not, with what it names.

    A wire may end where nothing is, and a plug mate with nothing: findings say so. What is of a
    thing, or holds on to it, cannot be without it.
    """
    there = {one: {thing.code for thing in things(job, one)} for one in COLLECTIONS}
    for reference in REFERENCES:
        if reference.gone not in ("goes along", "holds it"):
            continue
        known = set().union(*(there[one] for one in reference.to))
        *steps, field = reference.path.split(".")
        for holder in things(job, ".".join(steps)):
            for code in sorted(_pointed_at(getattr(holder, field), reference.how) - known):
                if code or reference.needed:
                    yield _name(holder), code or "nothing"


def detached(thing: Any, collection: str) -> Any:
    """Return a thing as it can be taken into another job: without a code, pointing at nothing."""
    for reference in REFERENCES:
        *steps, field = reference.path.split(".")
        if ".".join(steps) == collection:
            empty: Any = LOOSE if reference.how == "end" else ""
            if isinstance(getattr(thing, field), tuple):
                empty = ()
            thing = replace(thing, **{field: empty})
    return replace(thing, code="")


def without(job: Job, code: str, among: tuple[str, ...] = COLLECTIONS) -> Job:
    """Return the job with nothing that points at a thing but the record; the thing is still there.

    What holds it is left as it is: ask ``uses`` first.
    """
    collection = collection_of(job, code, among)
    for reference in REFERENCES:
        if collection not in reference.to:
            continue
        if reference.gone == "is cleared":

            def cleared(value: Any, how: How = reference.how) -> Any:
                if code not in _pointed_at(value, how):
                    return value
                if isinstance(value, tuple):
                    return tuple(one for one in value if code not in _pointed_at(one, how))
                return LOOSE if how == "end" else ""

            job = _mapped(job, reference.path.split("."), cleared)
        elif reference.gone == "goes along":
            steps, field = reference.path.rsplit(".", 1)
            kept = tuple(thing for thing in things(job, steps) if getattr(thing, field) != code)
            job = replace(job, **{steps: kept})
    return job


def renamed(job: Job, old: str, new: str) -> Job:
    """Return the job in which a thing has another code; everything that points at it follows."""
    collection = collection_of(job, old)
    token = re.compile(rf"(?<![\w.-]){re.escape(old)}(?![\w.-])")

    def follow(value: Any, how: How) -> Any:
        match value:
            case tuple():
                return tuple(follow(one, how) for one in value)
            case End():
                return replace(value, at=new) if value.at == old else value
            case _ if how == "words":
                return token.sub(lambda _: new, value)
            case _:
                ref = Ref.parse(value)
                return str(ref._replace(code=new)) if ref.code == old else value

    for reference in REFERENCES:
        if collection in reference.to:
            job = _mapped(job, reference.path.split("."), partial(follow, how=reference.how))
    own = [*collection.split("."), "code"]
    made: Job = _mapped(job, own, lambda code: new if code == old else code)
    return made


def mentioned(job: Job) -> set[str]:
    """Return the codes that the record speaks of and nothing has any more."""
    found: set[str] = set()
    for reference in REFERENCES:
        if reference.gone == "stays":
            for value in _values(job, reference.path.split(".")):
                found |= _pointed_at(value, reference.how)
    return {one for one in found if re.fullmatch("[A-Z][0-9]{1,15}", one)} - set(codes(job))


def _values(value: Any, path: list[str]) -> Iterator[Any]:
    """Give what a field holds, through lists on the way."""
    if not path:
        yield value
    elif isinstance(value, tuple):
        for one in value:
            yield from _values(one, path)
    else:
        yield from _values(getattr(value, path[0]), path[1:])


def _name(holder: Any) -> str:
    match holder:
        case RepinSet():
            return f"the repin set {holder.name}"
        case Pinout():
            return f"its table {holder.name}"
        case Pose():
            return "how it is turned on the board"
        case _:
            return str(holder.code)


def _pointed_at(value: Any, how: How) -> set[str]:
    """Return the codes in what a field holds."""
    match value:
        case tuple():
            return {code for one in value for code in _pointed_at(one, how)}
        case End():
            return {value.at}
        case _ if how == "words":
            return set(re.findall(r"(?<![\w.-])[A-Z][0-9]+(?![\w.-])", value))
        case _:
            return {Ref.parse(value).code}


def _mapped(value: Any, path: list[str], change: Callable[[Any], Any]) -> Any:
    """Return a value with a field changed, through lists on the way; itself if nothing changes."""
    if not path:
        return change(value)
    if isinstance(value, tuple):
        new = tuple(_mapped(one, path, change) for one in value)
        return value if all(a is b for a, b in zip(new, value, strict=True)) else new
    was = getattr(value, path[0])
    now = _mapped(was, path[1:], change)
    return value if now is was or now == was else replace(value, **{path[0]: now})
