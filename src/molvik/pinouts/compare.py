"""Two tables of one connector compared: what is the same, what moved, came, went or changed."""

import re
from typing import Literal, NamedTuple

from molvik.model.parts import Pin

Change = Literal["same", "moved", "added", "gone", "other colour", "other size", "other function"]


class Difference(NamedTuple):
    """What became of a function. was, now: its pins in the two tables, None where it has none."""

    change: tuple[Change, ...]
    was: Pin | None
    now: Pin | None


def compare(first: tuple[Pin, ...], second: tuple[Pin, ...]) -> tuple[Difference, ...]:
    """Return the differences, in the order of the first table, then what was added.

    A pin is followed by its cavity when the function there is the same, else by its function, and
    by its circuit when a function stands twice.
    """
    left = {pin.cavity: pin for pin in first if _says(pin)}
    right = {pin.cavity: pin for pin in second if _says(pin)}
    pairs: dict[str, str] = {
        cavity: cavity
        for cavity, pin in left.items()
        if cavity in right and _name(right[cavity]) == _name(pin)
    }
    free = {cavity: pin for cavity, pin in right.items() if cavity not in pairs}
    for cavity, pin in left.items():
        if cavity in pairs:
            continue
        same = [other for other, there in free.items() if _name(there) == _name(pin)]
        if len(same) > 1:
            same = [other for other in same if free[other].circuit == pin.circuit] or same
        if same:
            pairs[cavity] = same[0]
            del free[same[0]]
    found = []
    for cavity, pin in left.items():
        now = right[pairs[cavity]] if cavity in pairs else None
        if now is None and cavity in free:
            now = free.pop(cavity)
            found.append(Difference(("other function", *_details(pin, now)), pin, now))
        elif now is None:
            found.append(Difference(("gone",), pin, None))
        else:
            moved: tuple[Change, ...] = () if now.cavity == cavity else ("moved",)
            found.append(Difference((*moved, *_details(pin, now)) or ("same",), pin, now))
    found += [Difference(("added",), None, pin) for pin in free.values()]
    return tuple(found)


def _details(was: Pin, now: Pin) -> tuple[Change, ...]:
    changes: list[Change] = []
    if was.colour and now.colour and was.colour != now.colour:
        changes.append("other colour")
    if was.size and now.size and was.size != now.size:
        changes.append("other size")
    return tuple(changes)


def _says(pin: Pin) -> bool:
    return not pin.fill and bool(pin.function or pin.circuit)


def _name(pin: Pin) -> str:
    return re.sub(r"[\W_]+", " ", (pin.function or pin.circuit).lower()).strip()
