"""How much voltage a wire may lose, by what it is for. All common practice, with no source.

Each limit is a share of the system voltage over the supply wire alone.
"""

from typing import NamedTuple


class Use(NamedTuple):
    """What a wire is for. drop_share: largest voltage drop as a share of the system voltage."""

    code: str
    name: str
    drop_share: float


_USES = (
    Use("", "general", 0.03),
    Use("starter", "starter cable", 0.04),
    Use("charging", "charging cable", 0.02),
    Use("ecu", "engine computer supply", 0.02),
    Use("pump", "pump or fan", 0.03),
    Use("lighting", "lighting", 0.03),
    Use("sensor", "sensor or signal", 0.005),
    Use("screen", "screen of a cable", 1.0),
)

USES: dict[str, Use] = {one.code: one for one in _USES}

LEAST_MM2 = 0.34
"""Thinnest wire that survives handling and vibration on an engine, mm2 (common practice: 22 AWG
or 0.35 mm2)."""

HEAT_MARGIN_K = 10.0
"""Kept between the conductor and its insulation's limit, K: our choice, for what is not known."""
