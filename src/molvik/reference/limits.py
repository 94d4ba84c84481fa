"""What a wire is for: how much voltage its path may lose, and for how long it is loaded.

All common practice, with no source: a meter held along a good circuit shows some tenths of a volt
in its supply and less in its return. Each limit is a share of the system voltage over the whole
path of both; a job may have limits of its own.
"""

from typing import NamedTuple


class Use(NamedTuple):
    """What a wire is for. drop_share: largest voltage drop as a share of the system voltage.

    on_s, rest_s: how long its load is on at a time and off in between, s; None for always on.
    """

    code: str
    name: str
    drop_share: float
    on_s: float | None = None
    rest_s: float | None = None


CRANK_S = 15.0
"""How long an engine is cranked at a time, s (common practice: 10 to 15)."""

REST_S = 60.0
"""How long an engine rests between two attempts, s (common practice: a minute)."""

_USES = (
    Use("", "general", 0.06),
    Use("starter", "starter cable", 0.08, CRANK_S, REST_S),
    Use("charging", "charging cable", 0.04),
    Use("ecu", "engine computer supply", 0.04),
    Use("pump", "pump or fan", 0.06),
    Use("lighting", "lighting", 0.06),
    Use("sensor", "sensor or signal", 0.01),
    Use("glow", "glow plugs", 0.08, 30.0, 300.0),
    Use("seat", "seat heater", 0.06, 600.0, 300.0),
    Use("screen", "screen of a cable", 1.0),
)

USES: dict[str, Use] = {use.code: use for use in _USES}

LEAST_MM2 = 0.34
"""Thinnest wire that survives handling and vibration on an engine, mm2 (common practice: 22 AWG
or 0.35 mm2)."""

HEAT_MARGIN_K = 10.0
"""Kept between the conductor and its insulation's limit, K: our choice, for what is not known."""
