"""Words by which pinouts name earths and supplies (common practice in English manuals)."""

import re

_EARTH = re.compile(r"\b(earth|ground|gnd|chassis|31)\b", re.IGNORECASE)
_SUPPLY = re.compile(
    r"\b(battery \+|b\+|supply|feed|power|ignition|12 ?v|permanent|30|15)\b", re.IGNORECASE
)
_SENSOR = re.compile(r"\b(sensor|signal|5 ?v|reference|return|shield|screen)\b", re.IGNORECASE)


def is_earth(function: str) -> bool:
    """Return whether a function names a power earth (a sensor's return is not one)."""
    return bool(_EARTH.search(function)) and not _SENSOR.search(function)


def is_supply(function: str) -> bool:
    """Return whether a function names a supply from the battery."""
    return bool(_SUPPLY.search(function)) and not (
        _SENSOR.search(function) or _EARTH.search(function)
    )
