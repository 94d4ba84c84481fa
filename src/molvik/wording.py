"""How lists are said in words."""

from collections.abc import Sequence

UNSEEN = frozenset("\u200b\u200e\u200f\u061c\u2066\u2067\u2068\u2069\ufeff") | frozenset(
    map(chr, (*range(0x202A, 0x202F), *range(0x09), *range(0x0E, 0x20), 0x7F))
)


def some(names: Sequence[str], most: int = 8, between: str = ", ") -> str:
    """Return the first of some names, and how many more there are beyond most."""
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return between.join(names[:most]) + more


def counted(count: int, one: str, several: str = "") -> str:
    """Return a count of things: "1 end", "2 ends"; several: for a word that takes no s."""
    return f"{count} {one if count == 1 else several or f'{one}s'}"


def agree(count: int, one: str, several: str) -> str:
    """Return the verb that goes with a count: 1 wire stays, 2 wires stay."""
    return one if count == 1 else several


def a(word: str) -> str:
    """Return a word with its article: a number, an amount."""
    return f"{'an' if word[:1].lower() in 'aeiou' else 'a'} {word}"


def visible(text: str) -> str:
    """Return a text with letters that are not seen, and that turn others round, shown as marks: a
    name must not look like another. Unicode Standard Annex 9: the marks and overrides of direction.
    """
    if text.isascii() and text.isprintable():
        return text
    return "".join(f"[U+{ord(one):04X}]" if one in UNSEEN else one for one in text)


def figures(value: float, digits: int = 3) -> str:
    """Return a number rounded to some figures and written out: 2000, never 2e+03. Less than a ten
    thousandth is nothing in any unit that is used here.
    """
    if abs(value) < 1e-4:
        return "0"
    return f"{float(f'{value:.{digits}g}'):.10g}"
