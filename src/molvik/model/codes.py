"""Codes of things: which is the next, and which are spent for ever."""

import re
from collections.abc import Iterable

Spent = tuple[tuple[str, int], ...]
"""Letters and the highest number behind them that was taken out; a name without number has zero.

A label may still be on a wire, and the record speaks of it: neither it nor a number below it that
is free comes back as the code of another thing.
"""

MOST_DIGITS = 15
"""A longer number is part of a name: files hold whole numbers of 64 bits."""

_SHAPE = re.compile(rf"(.*?)([0-9]{{0,{MOST_DIGITS}}})", re.DOTALL)


def split_code(code: str) -> tuple[str, int]:
    """Return the letters of a code and its number, zero when it has none."""
    match = _SHAPE.fullmatch(code)
    assert match is not None  # it matches any text
    return match[1], int(match[2] or 0)


def spend(spent: Spent, codes: Iterable[str]) -> Spent:
    """Return what is spent when these codes are, too."""
    highest = dict(spent)
    for letters, number in map(split_code, codes):
        highest[letters] = max(number, highest.get(letters, 0))
    return tuple(sorted(highest.items()))


def is_spent(spent: Spent, code: str) -> bool:
    """Return whether a code that nothing has now may not be given out."""
    letters, number = split_code(code)
    return number <= dict(spent).get(letters, -1)


def next_code(letters: str, taken: Iterable[str], spent: Spent = ()) -> str:
    """Return the next code: one more than the highest number in use or ever used."""
    index = len(letters)  # no pattern: it is asked for each of thousands of wires
    numbers = [
        int(code[index:])
        for code in taken
        if code.startswith(letters)
        and code[index:].isdecimal()
        and len(code) - index <= MOST_DIGITS
    ]
    return f"{letters}{max([*numbers, dict(spent).get(letters, 0)], default=0) + 1}"
