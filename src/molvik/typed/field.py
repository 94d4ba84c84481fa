"""A field of a thing as it is typed, and the readers that many fields share."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Generic, NamedTuple, TypeVar, get_args

from molvik.model.job import Job
from molvik.netlist.network import Network
from molvik.parsing.quantities import read_mm
from molvik.reference.contacts import CONTACTS
from molvik.reference.coverings import COVERINGS, find_covering
from molvik.spoken import as_written
from molvik.wording import a

Fields = dict[str, Any]
"""Fields of a thing in the model, by name, with their new values."""

Reader = Callable[[str, Network], Fields]
T = TypeVar("T")


class Field(NamedTuple, Generic[T]):
    """A field of a kind of thing. show: its text. read: what a typed text changes; a ValueError
    says why it is refused. choices: what is offered. unit: in which its text is told, where a bare
    number means that. makes: the field of the thing in the model that is the code of a place in a
    loom, which is made when it is not there yet; it is not read but found by who knows the loom.
    listed: a table offers its choices in a list, which opens by itself in an empty cell. of_job:
    what the job at hand offers, where the choices are its own.
    """

    name: str
    tip: str
    show: Callable[[T], str]
    read: Reader
    choices: tuple[str, ...] = ()
    unit: str = ""
    makes: str = ""
    listed: bool = False
    of_job: Callable[[Job], tuple[str, ...]] | None = None


class Typed(NamedTuple):
    """A change that was typed. step: its name in the history; code: of the thing, its new one where
    it was new; edit: makes it, and may raise an EditError. remark: what the user should know of it.
    """

    step: str
    code: str
    edit: Callable[[Job], Job]
    remark: str = ""


def offered(field: Field[T], job: Job) -> tuple[str, ...]:
    """Return what can be chosen for a field."""
    return field.of_job(job) if field.of_job is not None else field.choices


def named(fields: tuple[Field[T], ...], name: str) -> Field[T]:
    """Return the field of a name."""
    return next(field for field in fields if field.name == name)


def plain(field: str) -> Reader:
    """Read text as it stands."""
    return lambda text, _: {field: text.strip()}


def optional(field: str, read: Callable[[str], Any]) -> Reader:
    """Read a value, or nothing as None."""
    return lambda text, _: {field: read(text) if text.strip() else None}


def chosen(field: str, choices: Mapping[str, Any], what: str) -> Reader:
    """Read one of a table's codes, by its code or the start of its name."""

    def read(text: str, _: Network) -> Fields:
        tidy = text.strip().lower()
        if not tidy:
            return {field: ""}
        for code, choice in choices.items():
            if {tidy, as_written(tidy)} & {code.lower(), choice.name.lower()}:
                return {field: code}
        near = [code for code, choice in choices.items() if choice.name.lower().startswith(tidy)]
        if len(near) == 1:
            return {field: near[0]}
        known = ", ".join(code for code in choices if code)
        raise ValueError(f"“{text.strip()}” is not {a(what)} known here. Type one of: {known}.")

    return read


def words_of(kind: Any) -> tuple[str, ...]:
    """Return the words of a Literal."""
    return tuple(word for word in get_args(kind) if isinstance(word, str))


def with_calls(kind: Any, everyday: Mapping[str, str]) -> tuple[str, ...]:
    """Return the words of a Literal, each with what else it is called: "cut (broken, snapped)"."""
    called: dict[str, list[str]] = {}
    for other, word in everyday.items():
        called.setdefault(word, []).append(other)
    return tuple(
        f"{word} ({', '.join(called[word])})" if word in called else word for word in words_of(kind)
    )


def one_of(field: str, kind: Any, everyday: Mapping[str, str] | None = None) -> Reader:
    """Read one of the words of a Literal, the start of one, or what it is called at the bench."""

    def read(text: str, _: Network) -> Fields:
        found = word_for(text.partition(" (")[0], kind, everyday or {})  # what else it is called
        if found is None:
            known = ", ".join(word for word in words_of(kind) if word)
            raise ValueError(f"“{text.strip()}” is not one of: {known}.")
        return {field: found}

    return read


def word_for(text: str, kind: Any, everyday: Mapping[str, str]) -> str | None:
    """Return which word of a Literal a text means: one of them, the start of one, or what it is
    called at the bench; None for none, or for several.
    """
    tidy, words = text.strip().lower(), words_of(kind)
    near = [word for word in words if word.lower() == tidy] or [
        word for word in words if tidy and word.lower().startswith(tidy)
    ]
    if len(near) != 1 and everyday.get(tidy) in words:
        near = [everyday[tidy]]
    return near[0] if len(near) == 1 else None


def count(field: str, most: int) -> Reader:
    """Read a whole number, nothing for 0."""

    def read(text: str, _: Network) -> Fields:
        if not text.strip():
            return {field: 0}
        if not text.strip().isdigit() or int(text) > most:
            raise ValueError(f"Type a whole number, 0 to {most}.")
        return {field: int(text)}

    return read


def yes_or_no(text: str) -> bool | None:
    """Read yes, no, or nothing where it is not known."""
    known = {"": None, "?": None, "yes": True, "no": False, "y": True, "n": False}
    tidy = text.strip().lower()
    if tidy not in known:
        raise ValueError("Type yes, no, or nothing when it is not known.")
    return known[tidy]


YES: dict[bool | None, str] = {None: "", True: "yes", False: "no"}
"""How that is shown."""


def number_text(value: float | None, unit: str) -> str:
    """Write a number with its unit, nothing for None."""
    return "" if value is None else f"{value:.4g} {unit}"


def contact(text: str, _: Network) -> Fields:
    """Read a contact size."""
    size = text.strip()
    if size and size not in CONTACTS:
        raise ValueError(f"“{size}” is not one of the terminal sizes {', '.join(CONTACTS)}.")
    return {"contact": size}


def covering(text: str, _: Network) -> Fields:
    """Read what lies over a loom."""
    found = find_covering(text)
    if found is None:
        known = ", ".join(filter(None, COVERINGS))
        raise ValueError(
            f"“{text.strip()}” is not a covering known here. Type one of: {known}; what is special "
            "about it goes into the note."
        )
    return {"covering": found.key}


def zone(text: str, network: Network) -> Fields:
    """Read the name of a zone that is there; empty for none."""
    tidy = " ".join(text.split())
    for one in network.job.routing.zones:
        if one.name.lower() == tidy.lower():
            return {"zone": one.name}
    if tidy:
        known = ", ".join(one.name for one in network.job.routing.zones) or "none yet"
        raise ValueError(f"There is no zone “{tidy}”. Name it under Zones first. Known: {known}.")
    return {"zone": ""}


def millimetres(field: str) -> Reader:
    """Read a length in which a bare number is millimetres, as mm; nothing as None."""

    def read(text: str, _: Network) -> Fields:
        return {field: read_mm(text) if text.strip() else None}

    return read


def place_text(field: Field[Any], thing: Any, places: Iterable[Any]) -> str:
    """Return a field's text; a place of a loom with its name, because a code alone says nothing."""
    text = field.show(thing)
    name = next((place.name for place in places if place.code == text), "") if field.makes else ""
    return f"{text} {name}" if name else text
