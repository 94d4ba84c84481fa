"""Turn what was measured of an old wire into the nearest standard sizes, with the doubt stated.

Three ways people measure: over the copper, over the insulation, or strands counted and gauged:
"copper 1.3 mm", "outside 2.6 mm", "19 x 0.3 mm".
"""

import math
import re
from typing import NamedTuple

from molvik.electrical.conductor import STRAND_FILL, area_mm2
from molvik.electrical.heat import outside_diameter_mm
from molvik.model.parts import WireSize
from molvik.parsing.quantities import QuantityError
from molvik.reference.copper import AWG_SIZES, METRIC_SIZES
from molvik.reference.insulation import UNKNOWN

GAUGE_MM = 0.05
"""How well calipers measure something soft, mm (common practice)."""


class Reckoned(NamedTuple):
    """The section that fits, mm2, its range by the doubt of the measure, and the standard sizes.

    how: in words, what was assumed.
    """

    area_mm2: float
    least_mm2: float
    most_mm2: float
    metric: WireSize
    awg: WireSize
    how: str

    @property
    def text(self) -> str:
        """The whole in words."""
        return (
            f"{self.area_mm2:.2f} mm² ({self.least_mm2:.2f} to {self.most_mm2:.2f}): "
            f"{self.metric} or {self.awg}; {self.how}"
        )


def reckon(text: str) -> Reckoned:
    """Return the sizes a measurement fits; of several, by the one that tells most: copper before
    the outside, which must hold it. QuantityError says what to type instead.
    """
    short = re.fullmatch(r"(\d*[.,]\d+)\s*/\s*(\d*[.,]?\d+)", text.strip())
    if short:
        text = f"copper {short[1]} mm; outside {short[2]} mm"
    parts = [
        part for part in re.split(r"[,;](?=\s*[a-z])|;|\s+and\s+", text.strip().lower()) if part
    ]
    if len(parts) < 2:
        return _reckon(text)
    outside = [part for part in parts if part.strip().startswith("outside")]
    inside = [part for part in parts if part not in outside]
    if len(inside) != 1 or len(outside) != 1:
        raise QuantityError(
            f"“{text.strip()}” is not one measure. Type copper 1.3 mm, outside 2.6 mm."
        )
    found, over = _reckon(inside[0]), _figure(outside[0])
    wall = (over - math.sqrt(found.area_mm2 / STRAND_FILL * 4 / math.pi)) / 2
    if wall <= 0:
        raise QuantityError(
            f"The outside, {over:g} mm, does not hold that much copper. Measure again."
        )
    _reckon(outside[0])  # or it is refused
    return found._replace(how=f"{found.how}, a wall of {wall:.2f} mm round it")


def _figure(text: str) -> float:
    found = re.search(r"\d*[.,]?\d+", text)
    return float(found.group().replace(",", ".")) if found else 0.0


def _reckon(text: str) -> Reckoned:
    """Return the sizes that one measurement fits."""
    tidy = text.strip().lower().replace(",", ".").replace("×", "x")
    strands = re.fullmatch(r"(\d+)\s*(?:strands\s*)?(?:x|of|/)\s*(\d*\.?\d+)\s*(?:mm)?", tidy)
    if strands:
        return _strands(int(strands.group(1)), float(strands.group(2)))
    measured = re.fullmatch(r"(solid|copper|outside|over)\s*(\d*\.?\d+)\s*(?:mm)?", tidy)
    if measured is None:
        raise QuantityError(
            f"“{text.strip()}” is not a measure of a wire. Type copper 1.3 mm, solid 1.0 mm, "
            "outside 2.6 mm, or 19 x 0.3 mm."
        )
    diameter = float(measured.group(2))
    if not 0.1 <= diameter <= 40:
        raise QuantityError(f"A wire {diameter:g} mm thick is not likely.")
    kind = measured.group(1)
    if kind == "solid":
        return _round(diameter, 1.0, "one solid strand")
    if kind == "copper":
        return _round(diameter, STRAND_FILL, f"strands fill {STRAND_FILL:.0%} of the circle")
    return _outside(diameter)


def _strands(count: int, diameter: float) -> Reckoned:
    if not 1 <= count <= 3000 or not 0.03 <= diameter <= 5:
        raise QuantityError(f"{count} strands of {diameter:g} mm are not likely. Count again.")
    area = count * math.pi / 4 * diameter**2
    # A strand is gauged to a hundredth, and one in twenty is missed.
    doubt = 2 * 0.01 / diameter + (0.05 if count > 7 else 0.0)
    return _sizes(area, area * (1 - doubt), area * (1 + doubt), f"{count} strands counted")


def _round(diameter: float, fill: float, how: str) -> Reckoned:
    def area(over: float) -> float:
        return fill * math.pi / 4 * over**2

    return _sizes(area(diameter), area(diameter - GAUGE_MM), area(diameter + GAUGE_MM), how)


def _outside(diameter: float) -> Reckoned:
    """Find the size whose outside with an ordinary wall comes nearest."""
    metric = min(METRIC_SIZES, key=lambda s: abs(outside_diameter_mm(s, UNKNOWN) - diameter))
    near = [
        s for s in METRIC_SIZES if abs(outside_diameter_mm(s, UNKNOWN) - diameter) <= 6 * GAUGE_MM
    ] or [metric]
    area = area_mm2(metric)
    least, most = area_mm2(near[0]), area_mm2(near[-1])
    return _sizes(area, least, most, "the wall is not known: measure over the copper if you can")


def _sizes(area: float, least: float, most: float, how: str) -> Reckoned:
    def nearest(sizes: tuple[WireSize, ...]) -> WireSize:
        return min(sizes, key=lambda size: abs(math.log(area_mm2(size) / area)))

    return Reckoned(area, max(0.0, least), most, nearest(METRIC_SIZES), nearest(AWG_SIZES), how)
