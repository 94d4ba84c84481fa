"""The two-wire bus of ISO 11898-2, and what SAE J1939 asks of its line. All from memory."""

from typing import NamedTuple

LINE_OHM = 120.0
"""Impedance of the line, and of the terminator at each of its two ends, ohms (ISO 11898-2)."""

DELAY_NS_PER_M = 5.0
"""How long a wave takes along a metre of twisted pair, ns (ISO 11898-2: typical)."""

DOMINANT_V, RECESSIVE_V = 0.9, 0.5
"""A receiver sees a dominant bit above the one and a recessive bit below the other, volts between
the two wires (ISO 11898-2)."""

REST_V = 2.5
"""What each wire has against earth at rest, V (ISO 11898-2)."""

DRIVER_V, DRIVER_OHM, EDGE_NS = 2.8, 24.0, 30.0
"""What a driver gives without a load, through which resistance, and how fast: 2 V across 60 ohms,
amid the 1.5 to 3 V of ISO 11898-2 (our choice)."""

NODE_OHM, NODE_PF = 30_000.0, 50.0
"""What a module adds between the two wires (ISO 11898-2: 10 to 100 kilohms; some tens of
picofarads, common practice)."""

TRANSCEIVER_NS = 150.0
"""What sending and receiving take together, ns (common practice; ISO 11898-2 allows 255)."""

SAMPLE = 0.8
"""At which share of a bit it is sampled (common practice: 75 to 87.5 %)."""

RATES_KBIT = (1000.0, 800.0, 500.0, 250.0, 125.0, 100.0, 50.0)
"""Bit rates in use, kbit/s."""

USUAL_KBIT = 250.0


class LineLimits(NamedTuple):
    """What a line at a bit rate may be. line_m, stub_m: m; nodes: how many; source: who says so."""

    kbit_s: float
    line_m: float
    stub_m: float
    nodes: int | None
    source: str


J1939_11 = LineLimits(250.0, 40.0, 1.0, 30, "SAE J1939-11")
J1939_15 = LineLimits(250.0, 40.0, 3.0, 10, "SAE J1939-15, without a screen")


def limits_at(kbit_s: float, *, screened: bool) -> LineLimits:
    """Return what a line may be at a bit rate.

    At 250 kbit/s as SAE J1939 has it; at 1 Mbit/s as ISO 11898-2: 40 m, stubs of 0.3 m. Between
    and below them lengths go with the time of a bit (common practice): 100 m at 500, 400 m at 125.
    """
    if kbit_s == USUAL_KBIT:
        return J1939_11 if screened else J1939_15
    if kbit_s >= 1000:
        return LineLimits(kbit_s, 40.0, 0.3, None, "ISO 11898-2")
    line = 100.0 if kbit_s >= 500 else 50_000.0 / kbit_s
    return LineLimits(kbit_s, line, 0.3 * 1000 / kbit_s, None, "common practice")
