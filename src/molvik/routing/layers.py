"""A loom twisted in layers: one to five wires in the middle, then what fits round them.

What goes on longest lies inside, so that what leaves first lies outside and no wire crosses a
layer. Each layer turns the other way than the one below it, one turn in some eight to sixteen of
its diameters (common practice); what is left open in a layer is filled, or it would not stay round.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

from molvik.electrical.heat import outside_diameter_mm
from molvik.electrical.root import root
from molvik.model.job import Job, code_order
from molvik.reference.insulation import insulation
from molvik.routing.twist import take_up
from molvik.routing.ways import Ways

LAY = 12.0
"""Length of one turn, by the diameter over its layer (common practice: 8 to 16)."""

MOST_MIDDLE = 5
"""Up to so many wires lie in the middle and turn round each other (common practice)."""

LOOSE = 0.35
"""A ring that closes round itself may leave so much of the diameter below it open, which is filled
(our choice): seven lie round one, with three tenths of it between.
"""


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


def layered(
    codes: Sequence[str], widths_mm: Sequence[float], middle: int | None = None
) -> tuple[Layer, ...]:
    """Return wires laid in layers, given from the one that lies innermost on. middle: how many of
    them lie in the middle; the thinnest way where it is not said, or where they would not lie so.
    """
    known = layups(codes, widths_mm)
    if not known:
        return ()
    thinnest = min(known, key=lambda count: round(known[count][-1].over_mm, 6))
    return known.get(thinnest if middle is None else middle, known[thinnest])


def layups(codes: Sequence[str], widths_mm: Sequence[float]) -> dict[int, tuple[Layer, ...]]:
    """Return the thinnest way to lay wires with each number of them in the middle, one to five,
    that is sound: none lies in another.
    """
    pairs = list(zip(codes, widths_mm, strict=True))
    found: dict[int, tuple[Layer, ...]] = {}
    for middle in range(1, min(MOST_MIDDLE, len(pairs)) + 1):
        ways = [_laid(pairs, middle, loose=loose) for loose in (False, True)]
        sound = [made for made in ways if not _overlaps(made)]
        if sound:
            found[middle] = min(sound, key=lambda made: round(made[-1].over_mm, 6))
    if pairs and not found:
        found[1] = _laid(pairs, 1, loose=False)
    return found


def _overlaps(layers: tuple[Layer, ...]) -> bool:
    """Return whether wires of one layer would lie in one another, two thick ones on either side of
    thin ones: the next but one and the next but two are looked at.
    """
    for layer in layers:
        ring = zip(layer.widths_mm, layer.angles, layer.pitches_mm, strict=True)
        at = [
            (pitch / 2 * math.cos(angle), pitch / 2 * math.sin(angle), width)
            for width, angle, pitch in ring
        ]
        count = len(at)
        for n, (x, y, wide) in enumerate(at):
            for step in range(1, min(4, count)):
                x2, y2, wide2 = at[(n + step) % count]
                if math.hypot(x - x2, y - y2) < (wide + wide2) / 2 - 1e-6:
                    return True
    return False


def _laid(pairs: list[tuple[str, float]], middle: int, *, loose: bool) -> tuple[Layer, ...]:
    """Return wires in layers round so many in the middle. loose: the outermost may be a ring that
    holds itself.
    """
    layers = [_middle(pairs[:middle])]
    at = middle
    while at < len(pairs):
        inside, rest = layers[-1].over_mm, pairs[at:]
        right = (len(layers) + (middle > 1)) % 2 == 1
        closes = loose and len(rest) > 2
        wider = _closing_mm([width for _, width in rest]) if closes else math.inf
        if inside < wider <= inside * (1 + LOOSE):  # one ring that holds itself, and is filled
            layers.append(_round(wider, rest, right=right))
            break
        count = 1
        while at + count < len(pairs) and _closes(inside, pairs[at : at + count + 1]):
            count += 1
        layers.append(_round(inside, pairs[at : at + count], right=right))
        at += count
    return tuple(layers)


def _middle(pairs: list[tuple[str, float]]) -> Layer:
    """Return what lies in the middle: one that goes straight, or some that turn round each other
    and touch.
    """
    codes, widths = tuple(code for code, _ in pairs), tuple(width for _, width in pairs)
    if len(pairs) == 1:
        return Layer(codes, widths, (0.0,), (0.0,), 0, 0.0, widths[0], 0.0, False)
    if len(pairs) == 2:
        over = sum(widths)
        pitches = tuple(over - width for width in widths)
        return Layer(codes, widths, (0.0, math.pi), pitches, 0, 0.0, over, LAY * over, True)
    made = _round(_closing_mm(widths), pairs, right=True)
    return made._replace(fillers=0)


def _closing_mm(widths: Sequence[float]) -> float:
    """Return the diameter round which three wires or more just close a ring, each touching the next
    two.
    """

    def open_rad(inside: float) -> float:
        return 2 * math.pi - sum(_turns(inside, widths))

    least, most = 0.0, len(widths) * max(widths)
    return float(root(open_rad, least, most, close=1e-9))


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
        tuple(code for code, _ in pairs),
        widths,
        tuple(angles),
        tuple(inside + width for width in widths),
        fillers,
        thin,
        over,
        LAY * over,
        right,
    )


def layers_of(job: Job, ways: Ways) -> dict[str, tuple[Layer, ...]]:
    """Return the layers of each run of a loom that is laid twisted."""
    twisted = {loom.code for loom in job.routing.looms if loom.laid == "twisted"}
    if not twisted or not ways.of:
        return {}
    own = {joint.code for joint in job.routing.joints if joint.loom in twisted}
    wires = {wire.code: wire for wire in job.wires if wire.size is not None}
    rank = {
        code: (-ways.graph.length_of(way.steps), code_order(code)) for code, way in ways.of.items()
    }
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
        found[run.code] = layered(codes, widths, run.middle)
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
