"""How lists are said in words."""

from collections.abc import Sequence


def some(names: Sequence[str], most: int = 8, between: str = ", ") -> str:
    """Return the first of some names, and how many more there are beyond most."""
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return between.join(names[:most]) + more


def figures(value: float, digits: int = 3) -> str:
    """Return a number rounded to some figures and written out: 2000, never 2e+03. Less than a ten
    thousandth is nothing in any unit that is used here.
    """
    if abs(value) < 1e-4:
        return "0"
    return f"{float(f'{value:.{digits}g}'):.10g}"
