"""Read wire colours as manuals write them, in the dialect of the table."""

import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import NamedTuple

from molvik.model.parts import Colour
from molvik.reference.colours import DIALECTS

LONGEST = 60
"""More letters than any colour has; longer texts would only take time."""


class ColourError(ValueError):
    """A colour that cannot be read; the message is for the user."""


class DialectGuess(NamedTuple):
    """The dialect that reads most of a table, and the evidence in words.

    sure: whether it reads every colour and every other dialect that does so reads them alike.
    """

    dialect: str
    evidence: str
    sure: bool


@lru_cache(maxsize=8192)
def read_colour(text: str, dialect: str) -> Colour:
    """Return the colour a text means in a dialect, base first, tracer after.

    A tracer follows a slash, a hyphen, a space or nothing. Raises ColourError.
    """
    if len(text) > LONGEST:
        raise ColourError(f"“{text[:LONGEST]}…” is longer than any colour.")
    codes = DIALECTS[dialect]
    tidy = re.sub(r"\s+", " ", text.strip())
    tidy = tidy.lower() if dialect == "German" else tidy.upper()
    if tidy in codes:
        return Colour(codes[tidy])
    pairs = {
        (codes[base], codes[tracer])
        for base, tracer in _splits(tidy)
        if base in codes and tracer in codes
    }
    if len(pairs) == 1:
        return Colour(*pairs.pop())
    if pairs:
        choices = " or ".join(f"{base}/{tracer}" for base, tracer in sorted(pairs))
        raise ColourError(f"Colour “{text}” could be {choices}. Write the one you see.")
    raise ColourError(f"Colour “{text}” is not one of the codes of {dialect}.")


def _splits(tidy: str) -> list[tuple[str, str]]:
    apart = re.split(r"\s*[/\-]\s*", tidy)
    if len(apart) == 2:
        return [(apart[0], apart[1])]
    if len(apart) > 2:
        return []
    words = re.sub(r"[,;]| WITH | TRACER| STRIPE", " ", tidy).split()
    by_word = [(" ".join(words[:i]), " ".join(words[i:])) for i in range(1, len(words))]
    solid = tidy.replace(" ", "")
    return by_word or [(solid[:i], solid[i:]) for i in range(1, len(solid))]


def guess_dialect(texts: Iterable[str]) -> DialectGuess:
    """Return the dialect that reads the most of a table's colours, with the evidence."""
    wanted = [text.strip() for text in texts if text.strip()]
    readings = {
        name: [_try(text, name) for text in wanted]
        for name in DIALECTS
        # German manuals write lower case; capitals are one of the others.
        if name != "German" or all(text == text.lower() for text in wanted)
    }
    counts = {name: sum(colour is not None for colour in row) for name, row in readings.items()}
    best = max(counts, key=lambda name: counts[name])
    if not wanted:
        return DialectGuess(best, "The table has no colours.", True)
    others = {name: count for name, count in counts.items() if name != best}
    second = max(others, key=lambda name: others[name])
    evidence = (
        f"{best} reads {counts[best]} of {len(wanted)} colours; "
        f"next best is {second} with {others[second]}."
    )
    rivals = [
        name
        for name, row in readings.items()
        if name != best
        and counts[name] == counts[best]
        and any(a and b and a != b for a, b in zip(row, readings[best], strict=True))
    ]
    if rivals:
        evidence += f" {' and '.join(rivals)} would read them otherwise: choose."
    return DialectGuess(best, evidence, not rivals and counts[best] == len(wanted))


class ColourReading(NamedTuple):
    """What a text of a table means. options: what else it could mean, each with the dialects that
    say so, when the user must choose; then, and when nobody reads it, there is no colour.
    """

    colour: Colour | None
    options: tuple[tuple[Colour, tuple[str, ...]], ...] = ()


def read_mixed(
    texts: Iterable[str], dialect: str, *, forced: bool, meanings: Mapping[str, Colour]
) -> dict[str, ColourReading]:
    """Return what each text of a table means: by the user's word, by the table's dialect, or by the
    one other dialect that reads it.

    forced: the user chose the dialect, and no other is tried. Where several dialects are needed to
    read a table, a text that two of them read differently must be chosen.
    """
    wanted = set(texts)
    main = {text: _try(text, dialect) for text in wanted}
    in_use = {dialect}
    if not forced:
        lost = [text for text, colour in main.items() if colour is None]
        in_use |= {name for name in DIALECTS for text in lost if _try(text, name) is not None}
    found: dict[str, ColourReading] = {}
    for text in wanted:
        if text in meanings:
            found[text] = ColourReading(meanings[text])
            continue
        said: dict[Colour, tuple[str, ...]] = {}
        for name in DIALECTS:
            colour = _try(text, name) if name in in_use else None
            if colour is not None:
                said[colour] = (*said.get(colour, ()), name)
        found[text] = (
            ColourReading(next(iter(said)))
            if len(said) == 1
            else ColourReading(None, tuple(said.items()))
        )
    return found


def reads(text: str, dialect: str) -> bool:
    """Return whether a dialect reads a text."""
    return _try(text, dialect) is not None


def _try(text: str, dialect: str) -> Colour | None:
    try:
        return read_colour(text, dialect)
    except ColourError:
        return None


def read_any_colour(text: str) -> Colour:
    """Read a colour typed into a field: IEC codes first, then words, then the other dialects.

    A text that two of the other dialects read differently is refused.
    """
    for name in ("IEC 60757", "English words"):
        found = _try(text, name)
        if found is not None:
            return found
    readings = {colour for name in DIALECTS if (colour := _try(text, name)) is not None}
    if len(readings) == 1:
        return readings.pop()
    if readings:
        choices = " or ".join(sorted(str(colour) for colour in readings))
        raise ColourError(f"Colour “{text.strip()}” could be {choices}. Type the one you mean.")
    raise ColourError(
        f"“{text.strip()[:LONGEST]}” is not a colour. Type RD, RD/WH for red with a white tracer, "
        "or words."
    )
