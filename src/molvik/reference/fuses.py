"""Fuse ratings and time limits.

Sources: ISO 8820-3 for blade fuses, ISO 8820-5 (SF51) for bolt-down fuses, SAE J554 for glass
fuses, SAE J1888 for large blades, SAE J553 for breakers that reset themselves, from memory of the
standards. Fusible links follow no curve that is agreed on: theirs is our guess, slower than a
bolt-down fuse. The load factor is common practice.
"""

from typing import NamedTuple


class Limit(NamedTuple):
    """At this multiple of the rating the fuse opens between these times, s."""

    multiple: float
    least_s: float
    most_s: float | None


RATINGS_A: dict[str, tuple[float, ...]] = {
    "blade": (1, 2, 3, 5, 7.5, 10, 15, 20, 25, 30, 40, 50, 60, 70, 80),
    "bolt-down": (30, 40, 50, 60, 70, 80, 100, 125, 150, 175, 200, 250, 300, 400, 500),
    "glass": (1, 2, 3, 5, 7.5, 10, 15, 20, 25, 30),
    "breaker": (5, 6, 8, 10, 15, 20, 25, 30, 40, 50),
    "fusible link": (20, 30, 40, 50, 60, 80, 100, 120),
}

PROPOSED = ("blade", "bolt-down")
"""Kinds that are proposed for a new circuit; the others are met in old ones."""

TIME_LIMITS: dict[str, tuple[Limit, ...]] = {
    "blade": (
        Limit(1.10, 360_000, None),
        Limit(1.35, 0.75, 600),
        Limit(1.60, 0.25, 50),
        Limit(2.0, 0.15, 5),
        Limit(3.5, 0.04, 0.5),
        Limit(6.0, 0.0, 0.1),
    ),
    "large blade": (
        Limit(1.10, 360_000, None),
        Limit(1.35, 60, 1800),
        Limit(2.0, 2, 60),
        Limit(3.5, 0.2, 7),
        Limit(6.0, 0.04, 1),
    ),
    "bolt-down": (
        Limit(1.0, 14_400, None),
        Limit(1.35, 120, 1800),
        Limit(2.0, 1, 15),
        Limit(3.5, 0.3, 5),
        Limit(6.0, 0.1, 1),
    ),
    "glass": (
        Limit(1.10, 14_400, None),
        Limit(1.35, 0, 3600),
        Limit(2.0, 0, 10),
    ),
    "breaker": (
        Limit(1.0, 14_400, None),
        Limit(1.35, 0, 1800),
        Limit(2.0, 0, 60),
    ),
    "fusible link": (
        Limit(1.0, 14_400, None),
        Limit(2.0, 5, 100),
        Limit(3.5, 1, 15),
        Limit(6.0, 0.2, 3),
    ),
}

SMALL_BLADE_A = 40.0
"""Blades of larger ratings are larger themselves, and slower."""


def curve_of(kind: str, rating_a: float) -> str:
    """Return by which time limits a fuse of a kind and a rating opens."""
    return "large blade" if kind == "blade" and rating_a > SMALL_BLADE_A else kind


BODY_COLOURS: dict[float, str] = {
    3: "violet",
    5: "tan",
    7.5: "brown",
    10: "red",
    15: "blue",
    20: "yellow",
    25: "clear",
    30: "green",
    40: "orange",
}
"""Colours of blade fuse bodies (ISO 8820-3)."""

LOAD_FACTOR = 0.8
"""A fuse carries at most this share of its rating for hours (common practice, 75 to 80 %)."""

USUAL_AIR_C = 60.0
HOT_PER_K = 0.0015
"""Up to the usual air of an engine bay the load factor holds; above it a fuse carries this much
less for each kelvin (typical of blade and bolt-down fuses; from memory)."""
