"""In what two values of a job differ, in words."""

from collections.abc import Iterator
from typing import Any, NamedTuple

from molvik.model.job import Job
from molvik.model.parts import Value
from molvik.wording import some

MOST = 6

NOT_TOLD = ("id", "spent")
"""What nobody sees of a job."""

CALLED = {
    "accepted": ("accepted finding", "accepted findings"),
    "log": ("line of the log", "lines of the log"),
    "stock": ("thing in stock", "things in stock"),
    "board": ("place on the board", "places on the board"),
    "left_out": ("thing left out", "things left out"),
    "repins": ("repin set", "repin sets"),
    "bundles": ("bundle", "bundles"),
    "taken": ("cut", "cuts"),
}
"""What fields are called, one and several, where it is not their name."""


def differing(old: Job, new: Job) -> str:
    """Return in what a job differs from an older value of it: "3 wires changed, 1 photo more";
    empty where in nothing that is seen.
    """
    found: list[str] = []
    for name in old.__struct_fields__:
        was, now = getattr(old, name), getattr(new, name)
        if was is not now and was != now and name not in NOT_TOLD:
            found += _things(name, was, now) if isinstance(was, tuple) else [f"the {name}"]
    return some(found, MOST)


def _things(name: str, was: tuple[Any, ...], now: tuple[Any, ...]) -> list[str]:
    old = {getattr(one, "code", one): one for one in was}
    new = {getattr(one, "code", one): one for one in now}
    changed = sum(key in new and new[key] != one for key, one in old.items())
    more, fewer = len(new.keys() - old.keys()), len(old.keys() - new.keys())
    counts = ((changed, "changed"), (more, "more"), (fewer, "fewer"))
    one, several = CALLED.get(name, (name.removesuffix("s"), name))
    return [f"{count} {several if count > 1 else one} {how}" for count, how in counts if count] or [
        f"the order of {several}"
    ]


class Difference(NamedTuple):
    """One thing, or one field of it, that is another. was, now: as words; empty where it is not."""

    what: str
    field: str
    was: str
    now: str


def differences(old: Job, new: Job) -> tuple[Difference, ...]:
    """Return each thing in which a job differs from an older value of it, field by field."""
    return tuple(_fields("", old, new))


def _fields(what: str, old: Value, new: Value) -> Iterator[Difference]:
    for name in old.__struct_fields__:
        was, now = getattr(old, name), getattr(new, name)
        if was is now or was == now or (not what and name in NOT_TOLD):
            continue
        if isinstance(was, tuple) and isinstance(now, tuple) and _coded(was) and _coded(now):
            yield from _listed(name, was, now)
        elif isinstance(was, Value) and isinstance(now, Value) and not _is_said(was):
            yield from _fields(what or name, was, now)
        else:
            yield Difference(what or "the job", _called(name), _words(was), _words(now))


UNITS = {"m": "m", "mm": "mm", "c": "°C", "v": "V", "a": "A", "ohm": "ohm", "s": "s", "deg": "deg"}


def _called(field: str) -> str:
    """Return a field's name with its unit behind a comma: "length, m"."""
    words, _, unit = field.rpartition("_")
    plain = words.replace("_", " ")
    return f"{plain}, {UNITS[unit]}" if words and unit in UNITS else field.replace("_", " ")


def _is_said(value: Value) -> bool:
    """Return whether a value says itself in words, as a colour or a size does."""
    return type(value).__str__ is not Value.__str__


def _coded(things: tuple[Any, ...]) -> bool:
    return all(isinstance(one, Value) and hasattr(one, "code") for one in things)


def _listed(name: str, was: tuple[Any, ...], now: tuple[Any, ...]) -> Iterator[Difference]:
    one = CALLED.get(name, (name.removesuffix("s"), name))[0]
    old, new = {thing.code: thing for thing in was}, {thing.code: thing for thing in now}
    for code, thing in old.items():
        if code not in new:
            yield Difference(code, one, _words(thing), "")
        elif new[code] != thing:
            yield from _fields(code, thing, new[code])
    for code, thing in new.items():
        if code not in old:
            yield Difference(code, one, "", _words(thing))
    if was != now and old == new:
        yield Difference(name, "order", "", "another")


def _words(value: Any) -> str:
    """Return a value as it is told beside another."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, tuple):
        return (
            f"{len(value)}"
            if any(isinstance(one, Value) for one in value)
            else ", ".join(map(_words, value))
        )
    if isinstance(value, Value) and not _is_said(value):
        told = (getattr(value, name, "") for name in ("name", "function", "kind", "text"))
        return next((str(one) for one in told if one), "there")
    return str(value)
