"""Conductor sizes and copper.

Sources: ASTM B258 for AWG diameters; IEC 60028 (IACS) for copper; ISO 6722-1 for the largest
resistances of road-vehicle conductors, given from memory of the standard.
"""

from molvik.model.parts import WireSize

RESISTIVITY_OHM_M = 1.7241e-8
"""Annealed copper at 20 deg C, ohm m (IACS)."""

TEMPERATURE_COEFFICIENT = 0.00393
"""Rise of copper's resistance per kelvin from 20 deg C."""

STRANDING = 1.02
"""Stranded wire is about 2 % longer than its strands' run (common practice)."""

ISO_6722_MAX_MOHM_PER_M: dict[float, float] = {
    0.35: 54.4,
    0.5: 37.1,
    0.75: 24.7,
    1: 18.5,
    1.5: 12.7,
    2: 9.42,
    2.5: 7.60,
    3: 6.15,
    4: 4.71,
    5: 3.94,
    6: 3.14,
    10: 1.82,
    16: 1.16,
    25: 0.743,
    35: 0.527,
    50: 0.368,
    70: 0.259,
    95: 0.196,
    120: 0.153,
}
"""Nominal section, mm2, to the largest resistance at 20 deg C, mohm/m (ISO 6722-1, bare copper)."""

METRIC_SIZES = tuple(WireSize("metric", area) for area in ISO_6722_MAX_MOHM_PER_M)
"""Metric sizes in the shops, thinnest first."""

AWG_SIZES = tuple(
    WireSize("awg", number) for number in (22, 20, 18, 16, 14, 12, 10, 8, 6, 4, 2, 1, 0, -1, -2, -3)
)
"""AWG sizes in the shops for vehicles, thinnest first."""


def awg_diameter_mm(number: float) -> float:
    """Return the solid diameter of an AWG number, mm (ASTM B258)."""
    return float(0.127 * 92 ** ((36 - number) / 39))
