"""Read wire colours as manuals write them, in the dialect of the table."""

import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import NamedTuple

from molvik.model.parts import Colour
from molvik.reference.colours import DIALECTS, SHORT

LONGEST = 60
"""More letters than any colour has; longer texts would only take time."""


LOWER_SHARE = 0.8
"""From this share of small letters on a table may be a German one: a hand slips now and then."""


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
    if (one := " ".join(_SAYS_TRACER.sub(" ", tidy).split())) in codes:
        return Colour(codes[one])
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


_BETWEEN = re.compile(
    r"\s*(?:(?<=\s)w/|[/\\|+:_–—-]|(?<=[a-z])\.(?=[a-z])|\b(?:with|and|mit|und|et|con|avec)\b)\s*",
    re.IGNORECASE,
)
"""What stands between a base colour and its tracer."""

_SAYS_TRACER = re.compile(
    r"\b(?:with|tracer|trace|stripe[ds]?|strip|str|trc|streifen|filet|raya)\b\.?|[,;()]",
    re.IGNORECASE,
)


def _splits(tidy: str) -> list[tuple[str, str]]:
    tidy = " ".join(_SAYS_TRACER.sub(" ", tidy).split())
    apart = [part for part in _BETWEEN.split(tidy) if part]
    if len(apart) == 2:
        return [(apart[0], apart[1])]
    if len(apart) > 2:
        return []
    words = tidy.split()
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
        if name != "German" or sum(map(str.islower, wanted)) >= LOWER_SHARE * len(wanted)
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
    known: dict[str, str] = {}
    for text, chosen in meanings.items():
        for half, meant in zip(_halves(text), (chosen.base, chosen.tracer), strict=True):
            if half and meant:
                known[half] = meant
    written = {
        half: SHORT[half][0]
        for text in wanted
        for half in _halves(text)
        if len(SHORT.get(half, "")) == 1
    }
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
        if not forced and (not said or (len(in_use) > 1 and _is_doubtful(text))):
            # Where no one dialect holds for the table, a short form may be any that it can be.
            for colour in _not_written_otherwise(text, written):
                said.setdefault(colour, ("other tables",))
        if dialect != "single letters" and len(said) > 1 and is_one_code(text):
            said = {one: names for one, names in said.items() if names != ("single letters",)}
        said = _as_said(text, said, known)
        found[text] = (
            ColourReading(next(iter(said)))
            if len(said) == 1
            else ColourReading(None, tuple(said.items()))
        )
    return found


def by_halves(text: str) -> tuple[Colour, ...]:
    """Return what a colour may be whose base and tracer are written in different ways."""
    if len(text) > LONGEST:
        return ()
    tidy = re.sub(r"\s+", " ", text.strip()).upper()
    found: dict[Colour, None] = {}
    whole = " ".join(_SAYS_TRACER.sub(" ", tidy).split())
    for base in _may_be(whole):
        found[Colour(base)] = None
    for one, other in () if found else _splits(tidy):
        for base in _may_be(one):
            for tracer in _may_be(other):
                found[Colour(base, tracer)] = None
    return tuple(found)


def is_one_code(text: str) -> bool:
    """Return whether a text is a code of one colour rather than two letters that happen to be
    colours: OR is orange, and BL may be black with blue.
    """
    return len(SHORT.get(text.strip().upper(), "")) == 1


def _not_written_otherwise(text: str, written: Mapping[str, str]) -> list[Colour]:
    """Return what a colour may be, without those that this table writes in another way: BL is blue
    where black is BK. written: its short forms that can be one colour only.
    """
    every = by_halves(text)
    taken = set(written.values())
    doubted = {
        name for half in _halves(text) if len(SHORT.get(half, "")) > 1 for name in SHORT[half]
    }
    left = [one for one in every if not {one.base, one.tracer} & doubted & taken]
    return left or list(every)


def _is_doubtful(text: str) -> bool:
    return any(len(SHORT.get(half, "")) > 1 for half in _halves(text))


@lru_cache(maxsize=1024)
def _may_be(half: str) -> tuple[str, ...]:
    """Return the colours that a half may be: as a short form, else as a word of any dialect."""
    if half in SHORT:
        return SHORT[half]
    words = {DIALECTS[name][half]: None for name in DIALECTS if half in DIALECTS[name]}
    return tuple(words)


def _halves(text: str) -> tuple[str, str]:
    """Return the base and the tracer of a colour, as they are written."""
    tidy = re.sub(r"\s+", " ", text.strip()).upper()
    pairs = _splits(tidy)
    return (tidy, "") if _may_be(tidy) or len(pairs) != 1 else pairs[0]


def _as_said(
    text: str, said: dict[Colour, tuple[str, ...]], known: Mapping[str, str]
) -> dict[Colour, tuple[str, ...]]:
    """Leave of several readings those that agree with what the user said of their halves."""
    if len(said) < 2 or not known:
        return said
    base, tracer = _halves(text)
    left = {
        colour: names
        for colour, names in said.items()
        if known.get(base, colour.base) == colour.base
        and known.get(tracer, colour.tracer) == colour.tracer
    }
    return left or said


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

    A text that two of the other dialects read differently is refused. Raises ColourError.
    """
    for name in ("IEC 60757", "English words"):
        found = _try(text, name)
        if found is not None:
            return found
    by_name = {name: colour for name in DIALECTS if (colour := _try(text, name)) is not None}
    if len(set(by_name.values())) > 1 and is_one_code(text):
        by_name.pop("single letters", None)
    readings = set(by_name.values()) or set(by_halves(text))
    if len(readings) == 1:
        return readings.pop()
    if readings:
        choices = " or ".join(sorted(str(colour) for colour in readings))
        raise ColourError(f"Colour “{text.strip()}” could be {choices}. Type the one you mean.")
    raise ColourError(
        f"“{text.strip()[:LONGEST]}” is not a colour. Type RD, RD/WH for red with a white tracer, "
        "or words."
    )
