"""What a column holds, by what stands in its cells."""

import re
from collections.abc import Sequence

from molvik.parsing.colours import by_halves, reads
from molvik.parsing.quantities import QuantityError, read_size
from molvik.reference.colours import DIALECTS
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES

LOOKED_AT = 200
"""So many cells of a column are looked at."""

LEAST = 3
"""With fewer cells that say anything a column is not plainly one thing."""

_CAVITY = re.compile(r"[A-Za-z]{0,2}[- ]?\d{1,3}[A-Za-z]?(?:\.0)?|[A-Z]{1,2}")
_COMMON = {f"{size.value:g}" for size in (*AWG_SIZES, *METRIC_SIZES)}


def looks_like(field: str, cells: Sequence[str]) -> float:
    """Return how plainly a column is one of cavities, colours, sizes or functions, 0 to 1."""
    said = [cell for cell in cells[:LOOKED_AT] if cell and cell not in ("-", "–")]
    if len(said) < LEAST:
        return 0.0
    match field:
        case "cavity":
            named = sum(_CAVITY.fullmatch(cell) is not None for cell in said) / len(said)
            # Each cavity stands once, in nearly every row.
            return min(
                named, len(set(said)) / len(said), len(said) / max(1, len(cells[:LOOKED_AT]))
            )
        case "colour":
            letters = [cell for cell in said if not any(map(str.isdigit, cell))]
            return sum(map(_is_colour, letters)) / len(said)
        case "size":
            return sum(map(_is_size, said)) / len(said)
        case _:
            words = [cell for cell in said if re.search(r"[^\W\d_]{2}", cell)]
            long = sum(len(cell) > 3 and not _is_colour(cell) for cell in words) / len(said)
            return long if len(set(said)) > len(said) / 2 else 0.0


def _is_colour(cell: str) -> bool:
    return any(reads(cell, name) for name in DIALECTS) or bool(by_halves(cell))


def _is_size(cell: str) -> bool:
    bare = cell.replace(",", ".")
    if re.fullmatch(r"\d*\.?\d+", bare):
        return f"{float(bare):g}" in _COMMON
    try:
        read_size(cell)
    except QuantityError:
        return False
    return True
