"""The one reader of plain numbers, with a decimal point or a decimal comma."""

import math

from molvik.wording import a

MOST_SHOWN = 30


def read_number(
    text: str,
    what: str = "number",
    example: str = "1.5",
    least: float = -math.inf,
    most: float = math.inf,
) -> float:
    """Return a typed number within limits; ValueError names what was wanted, with an example."""
    tidy = text.strip()
    try:
        value = float(tidy.replace(",", ".", 1))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise ValueError(f"“{tidy[:MOST_SHOWN]}” is not {a(what)}. Type for example {example}.")
    if not least <= value <= most:
        said = f"{what[:1].upper()}{what[1:]} {tidy[:MOST_SHOWN]}"
        raise ValueError(f"{said} is not possible. Type, for example, {example}.")
    return value


def is_number(text: str) -> bool:
    """Return whether a text is a plain number."""
    try:
        read_number(text)
    except ValueError:
        return False
    return True
