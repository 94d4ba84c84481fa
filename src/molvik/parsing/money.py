"""Currencies as people type them, by their codes (ISO 4217) or signs."""

from functools import cache

SIGNS = {
    "€": "EUR",
    "£": "GBP",
    "zł": "PLN",
    "Kč": "CZK",
    "₹": "INR",
    "₺": "TRY",
    "₴": "UAH",
    "Fr.": "CHF",
    "Fr": "CHF",
    "Ft": "HUF",
    "R$": "BRL",
    "A$": "AUD",
    "C$": "CAD",
    "NZ$": "NZD",
    "US$": "USD",
}
"""Signs that mean one currency (common usage)."""

SHARED = {
    "$": ("USD", "AUD", "CAD", "NZD"),
    "kr": ("SEK", "NOK", "DKK", "ISK"),
    "¥": ("JPY", "CNY"),
}
"""Signs that several share."""


def read_currency(text: str) -> str:
    """Return the code of a typed currency. Raises ValueError for what is none."""
    tidy = text.strip()
    if tidy in SIGNS:
        return SIGNS[tidy]
    shared = SHARED.get(tidy.lower().rstrip("."))
    if shared:
        raise ValueError(f"“{tidy}” is several currencies. Type which: {', '.join(shared)}, …")
    code = tidy.upper()
    if code not in currencies():
        raise ValueError(f"“{tidy}” is not a currency. Type its code (ISO 4217): EUR, GBP, USD, …")
    return code


@cache
def currencies() -> frozenset[str]:
    """Return all codes of ISO 4217 that are or were in use, as Unicode's CLDR lists them."""
    from babel.core import get_global  # 30 MB of languages lie there: not before it is asked

    return frozenset(get_global("all_currencies"))
