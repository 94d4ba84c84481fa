"""What lies in a run, as it looks cut across."""

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

from molvik.drawing.face import wire_end
from molvik.drawing.scene import Area, Box, Oval, Pen, Point, Scene, Shape, Text
from molvik.model.parts import Colour, Wire
from molvik.reference.coverings import COVERINGS
from molvik.routing.sections import Section

if TYPE_CHECKING:
    from molvik.routing.packing import Packed

MARGIN, FOOT = 10.0, 20.0


def section_scene(
    section: Section,
    wires: Mapping[str, Wire],
    covering: str,
    width: float,
    height: float,
    hand: str = "",
) -> Scene | None:
    """Return what lies in a run, cut across, packed as tight as goes; None where nothing with a
    size does. Its areas: the wires.
    """
    from molvik.routing.packing import pack  # loads numpy

    codes = [code for code in section.wires if code not in section.unknown]
    if not codes:
        return None
    packed = _laid(section, codes) if section.layers else pack(section.widths_mm)
    thick = COVERINGS.get(covering, COVERINGS[""]).thick_mm
    across = packed.across_mm + 2 * thick
    scale = min(width - 2 * MARGIN, height - 2 * MARGIN - FOOT) / across
    middle = Point(width / 2, (height - FOOT) / 2)
    shapes: list[Shape] = []
    areas: list[Area] = []
    if thick:
        shapes.append(_disc(middle, across / 2 * scale, Pen("faint", 1.0), "line"))
    shapes.append(_disc(middle, packed.across_mm / 2 * scale, Pen("faint", 1.2), "sheet"))
    for code, wide, (x, y) in zip(codes, section.widths_mm, packed.centres_mm, strict=True):
        wire = wires[code]
        centre = Point(middle.x + x * scale, middle.y + y * scale)
        radius = wide / 2 * scale
        if code == hand:
            shapes.append(_disc(centre, radius + 2.5, Pen("copper", 2.5)))
        shapes += wire_end(centre, radius, wire.colour)
        box = Box(centre.x - radius, centre.y - radius, 2 * radius, 2 * radius)
        if radius > 13:
            words = Box(box.x, centre.y - 7, box.width, 14)
            shapes.append(Text(code, words, 10, _readable(wire.colour), mono=True, whole=True))
        areas.append(Area(box, code, _words(wire, wide)))
    left = f", {len(section.unknown)} left out" if section.unknown else ""
    how = f"{len(section.layers)} layers" if section.layers else "packed"
    foot = (
        f"{how} {packed.across_mm:.1f}, laid {section.laid_mm:.1f}, "
        f"over all {section.over_mm:.1f} mm{left}"
    )
    shapes.append(Text(foot, Box(0, height - FOOT, width, 16), 11, "faint"))
    return Scene(width, height, tuple(shapes), tuple(areas))


def _laid(section: Section, codes: list[str]) -> "Packed":
    """Return where wires lie that are twisted in layers."""
    from molvik.routing.packing import Packed

    at = {
        code: (pitch / 2 * math.cos(angle), pitch / 2 * math.sin(angle))
        for layer in section.layers
        for code, pitch, angle in zip(layer.codes, layer.pitches_mm, layer.angles, strict=True)
    }
    return Packed(section.tight_mm, tuple(at[code] for code in codes))


def _words(wire: Wire, wide: float) -> str:
    words = [wire.code, wire.function, str(wire.colour or ""), str(wire.size or "")]
    return " · ".join(filter(None, [*words, f"{wide:.1f} mm outside"]))


def _readable(tint: Colour | None) -> str:
    """Return ink or paper, whichever is read on a wire's base colour."""
    dark = tint is not None and tint.base in ("BK", "BU", "BN", "VT", "GN", "RD")
    return "#FFFFFF" if dark else "#24211D"


def _disc(middle: Point, radius: float, pen: Pen | None, fill: str = "") -> Oval:
    return Oval(Box(middle.x - radius, middle.y - radius, 2 * radius, 2 * radius), pen, fill)
