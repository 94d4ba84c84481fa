"""What an instrument's answer is worth: a number as IEEE 488.2 writes it, within what can be, or
nothing (IEEE 488.2 and SCPI 1999, from memory).
"""

import re

OVERLOAD = 9.9e37
"""SCPI's infinity: the range was passed, an open circuit."""

_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?: ?[Ee] ?[+-]?\d{1,3})?")
_ERROR = re.compile(r'([+-]?\d{1,5}) ?, ?"([^"\n]*)"')
LONGEST_NUMBER = 30

OHMS = (-1.0, 1e11)
"""What a meter can show in ohms: a little below nothing beside its zero, up to 100 gigaohms."""

VOLTS = (-1100.0, 1100.0)
AMPS = (-500.0, 500.0)


class InstrumentError(ValueError):
    """An instrument that does not do what it should; the message is for the user."""


def number(text: str, name: str, within: tuple[float, float]) -> float | None:
    """Return the one number of an answer, None for an overload. Raises InstrumentError."""
    if len(text) > LONGEST_NUMBER or not text.isascii() or not _NUMBER.fullmatch(text):
        raise InstrumentError(f"{name} answers “{text[:40]}”, which is not a reading.")
    value = float(text.replace(" ", ""))
    if abs(abs(value) - OVERLOAD) < 1e34:
        return None
    if not within[0] <= value <= within[1]:  # 9.91E37 is SCPI's "not a number"
        raise InstrumentError(
            f"{name} has no reading: it answers “{text[:40]}”, which it cannot have measured."
        )
    return value


def error_of(text: str) -> tuple[int, str] | None:
    """Return an error as an instrument tells it, 0 for none; None when the answer is none."""
    found = _ERROR.fullmatch(text)
    return None if found is None else (int(found[1]), found[2])
