"""The order in which wires are laid into a loom, as steps at the bench, and the list to cut them.

The longest go in first, so that nothing is threaded back under what lies there; the cores of a
cable go in together (common practice).
"""

from collections import defaultdict
from collections.abc import Iterator

from molvik.model.job import Job, code_order
from molvik.model.parts import Wire
from molvik.reference.colours import colour_name
from molvik.routing.layers import Layer, layers_of
from molvik.routing.lengths import CutLength
from molvik.routing.ways import Way, Ways
from molvik.sheet import Sheet, Table, notes
from molvik.steps import Step
from molvik.wording import counted

LAYING = "laying"
"""Name of the list of steps, for its ticks."""

CUT, LAID = "cut", "laid"


def laying_order(job: Job, ways: Ways, cuts: dict[str, CutLength]) -> list[Wire]:
    """Return the wires with a way of known length, loom by loom: cables together, the longest
    first.
    """
    loom_of = {joint.code: joint.loom for joint in job.routing.joints}
    wires = [wire for wire in job.wires if wire.code in cuts]
    reach: dict[str, float] = defaultdict(float)
    for wire in wires:
        group = wire.cable or wire.code
        reach[group] = max(reach[group], cuts[wire.code].way_m)
    return sorted(
        wires,
        key=lambda wire: (
            code_order(loom_of[ways.of[wire.code].start]),
            not wire.cable,
            -reach[wire.cable or wire.code],
            wire.cable,
            code_order(wire.code),
        ),
    )


def laying_steps(job: Job, ways: Ways, cuts: dict[str, CutLength]) -> tuple[Step, ...]:
    """Return a step for each wire: cut it, lay it along its way."""
    layers = layers_of(job, ways)
    return tuple(
        _step(ways, wire, cuts[wire.code], layers) for wire in laying_order(job, ways, cuts)
    )


def _step(ways: Ways, wire: Wire, cut: CutLength, layers: dict[str, tuple[Layer, ...]]) -> Step:
    way = ways.of[wire.code]
    along = " → ".join(_joints(ways, way))
    what = " ".join(filter(None, [str(wire.size or ""), wire.insulation]))
    cable = f"; core of {wire.cable}" if wire.cable else ""
    return Step(
        f"lay {wire.code}",
        wire.code,
        f"{wire.code}  {cut.cut_m:.2f} m",
        f"{what}, {wire.start} to {wire.finish}: {along}{cable}{_turned(way, wire.code, layers)}",
        (CUT, LAID),
        colour=wire.colour,
    )


def _turned(way: Way, code: str, layers: dict[str, tuple[Layer, ...]]) -> str:
    """Say how a wire is turned where the loom is twisted: in the first run of its way."""
    for step in way.steps[:1]:
        for number, layer in enumerate(layers.get(step.run, ())):
            if code in layer.codes and layer.lay_mm:
                hand = "right" if layer.right else "left"
                fill = f", {counted(layer.fillers, 'filler')}" if layer.fillers else ""
                return f"; layer {number}, to the {hand}, lay length {layer.lay_mm:.0f} mm{fill}"
            if code in layer.codes:
                return "; in the middle, straight"
    return ""


def _joints(ways: Ways, way: Way) -> Iterator[str]:
    """Yield the names of the joints a wire passes, its ends first and last."""
    graph = ways.graph
    yield graph.joints[way.start].name
    for step in way.steps:
        run = graph.runs[step.run]
        yield graph.joints[run.finish if step.forward else run.start].name


def cutting_sheet(job: Job, ways: Ways, cuts: dict[str, CutLength]) -> Sheet:
    """Return what is cut from each reel, the longest first, and how much of each is wanted."""
    wires = [wire for wire in job.wires if wire.code in cuts]
    reels: dict[tuple[str, str, str], list[Wire]] = defaultdict(list)
    for wire in wires:
        tint = colour_name(wire.colour.base, wire.colour.tracer) if wire.colour else ""
        reels[str(wire.size or "no size"), wire.insulation, tint].append(wire)
    rows, sums = [], []
    for reel, cut_from in sorted(reels.items()):
        cut_from.sort(key=lambda wire: -cuts[wire.code].cut_m)
        total = sum(cuts[wire.code].cut_m for wire in cut_from)
        sums.append((*reel, f"{len(cut_from)}", f"{total:.2f}"))
        for wire in cut_from:
            cut = cuts[wire.code]
            way = ways.of[wire.code]
            rows.append(
                (
                    *reel,
                    wire.code,
                    f"{cut.cut_m:.2f}",
                    str(wire.start),
                    str(wire.finish),
                    " ".join(step.run for step in way.steps),
                    "" if cut.now_m is None else f"{cut.now_m:.2f}",
                    "☐",
                )
            )
    lists = (
        Table(
            (
                "Size",
                "Insulation",
                "Colour",
                "Wire",
                "Cut length m",
                "From",
                "To",
                "Route",
                "Job has m",
                "Cut",
            ),
            (8, 8, 12, 5, 7, 7, 7, 18, 8, 4),
            tuple(rows),
        ),
        Table(
            ("Size", "Insulation", "Colour", "Wires", "Together m"), (9, 9, 14, 6, 9), tuple(sums)
        ),
    )
    below = notes(
        "Cut length is the route along the loom, the service length at both ends, slack and twist. "
        "Cut long: a wire can be shortened, never lengthened. Check the first of each branch "
        "against the vehicle."
    )
    return Sheet("cutting-list", "Cutting list", (*lists, *below))
