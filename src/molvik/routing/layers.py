"""A loom twisted in layers: one wire in the middle, then what fits round it, layer by layer.

What goes on longest lies inside, so that what leaves first lies outside and no wire crosses a
layer. Each layer turns the other way than the one below it, one turn in some eight to sixteen of
its diameters (common practice); what is left open in a layer is filled, or it would not stay round.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import Job, code_order
from molvik.reference.bundles import across_mm
from molvik.reference.insulation import insulation
from molvik.routing.twist import take_up
from molvik.routing.ways import Ways

LAY = 12.0
"""Length of one turn, by the diameter over its layer (common practice: 8 to 16)."""

HOLLOW = 5
"""Up to so many wires have none in the middle: they turn round each other."""


class Layer(NamedTuple):
    """A layer. codes: its wires, widths_mm: their outsides, in the order they lie round it, at
    angles, radians; pitches_mm: on how wide a circle the middle of each winds. fillers: how many
    fit into what is open, of filler_mm. over_mm: the diameter over it; lay_mm: length of a turn,
    0 for the one in the middle; right: it turns right-handed.
    """

    codes: tuple[str, ...]
    widths_mm: tuple[float, ...]
    angles: tuple[float, ...]
    pitches_mm: tuple[float, ...]
    fillers: int
    filler_mm: float
    over_mm: float
    lay_mm: float
    right: bool


def layered(codes: Sequence[str], widths_mm: Sequence[float]) -> tuple[Layer, ...]:
    """Return wires laid in layers, given from the one that lies innermost on."""
    pairs = list(zip(codes, widths_mm, strict=True))
    if not pairs:
        return ()
    if 1 < len(pairs) <= HOLLOW:
        return (_hollow(pairs),)
    code, width = pairs[0]
    layers = [Layer((code,), (width,), (0.0,), (0.0,), 0, 0.0, width, 0.0, False)]
    at = 1
    while at < len(pairs):
        inside = layers[-1].over_mm
        count = 1
        while at + count < len(pairs) and _closes(inside, pairs[at : at + count + 1]):
            count += 1
        layers.append(_round(inside, pairs[at : at + count], right=len(layers) % 2 == 1))
        at += count
    return tuple(layers)


def _hollow(pairs: list[tuple[str, float]]) -> Layer:
    widths = tuple(width for _, width in pairs)
    over = across_mm(list(widths))
    count = len(pairs)
    return Layer(
        tuple(code for code, _ in pairs), widths,
        tuple(2 * math.pi * n / count for n in range(count)),
        tuple(over - width for width in widths), 0, 0.0, over, LAY * over, True,
    )  # fmt: skip


def _apart(inside: float, one: float, other: float) -> float:
    """Return how far two wires that touch lie apart round a circle, radians."""
    near, far = (inside + one) / 2, (inside + other) / 2
    cosine = (near**2 + far**2 - ((one + other) / 2) ** 2) / (2 * near * far)
    return math.acos(max(-1.0, min(1.0, cosine)))


def _turns(inside: float, widths: Sequence[float]) -> list[float]:
    """Return how far each wire lies from the next round a circle, the last from the first."""
    return [_apart(inside, width, widths[(n + 1) % len(widths)]) for n, width in enumerate(widths)]


def _closes(inside: float, pairs: list[tuple[str, float]]) -> bool:
    return sum(_turns(inside, [width for _, width in pairs])) <= 2 * math.pi + 1e-9


def _round(inside: float, pairs: list[tuple[str, float]], *, right: bool) -> Layer:
    widths = tuple(width for _, width in pairs)
    turns = _turns(inside, widths) if len(widths) > 1 else [0.0]
    thin = min(widths)
    own = _apart(inside, thin, thin)
    # What is open lies between the last wire and the first.
    wide = sum(turns) if len(widths) > 1 else own
    fillers = int((2 * math.pi - wide + 1e-9) / own)
    spare = (2 * math.pi - wide - fillers * own) / (len(widths) + fillers)
    angles = [0.0]
    for turn in turns[:-1]:
        angles.append(angles[-1] + turn + spare)
    over = inside + 2 * max(widths)
    return Layer(
        tuple(code for code, _ in pairs), widths, tuple(angles),
        tuple(inside + width for width in widths), fillers, thin, over, LAY * over, right,
    )  # fmt: skip


def layers_of(job: Job, ways: Ways) -> dict[str, tuple[Layer, ...]]:
    """Return the layers of each run of a loom that is laid twisted."""
    twisted = {loom.code for loom in job.routing.looms if loom.laid == "twisted"}
    if not twisted or not ways.of:
        return {}
    own = {joint.code for joint in job.routing.joints if joint.loom in twisted}
    wires = {wire.code: wire for wire in job.wires if wire.size is not None}
    rank = {code: (-ways.graph.length_of(way.steps), code_order(code))
            for code, way in ways.of.items()}  # fmt: skip
    found: dict[str, tuple[Layer, ...]] = {}
    for run in job.routing.runs:
        if run.start not in own:
            continue
        codes = sorted((c for c in ways.wires_in[run.code] if c in wires), key=rank.__getitem__)
        widths = [
            outside_diameter_mm(size, insulation(wires[code].insulation))
            for code in codes
            if (size := wires[code].size) is not None
        ]
        found[run.code] = layered(codes, widths)
    return found


def taken_up(layers: dict[str, tuple[Layer, ...]]) -> dict[str, dict[str, float]]:
    """Return how many times as long as each run each wire in it is, where it winds."""
    return {
        run: {
            code: take_up(pitch, layer.lay_mm)
            for layer in made
            for code, pitch in zip(layer.codes, layer.pitches_mm, strict=True)
            if layer.lay_mm
        }
        for run, made in layers.items()
    }
