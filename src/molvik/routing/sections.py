"""What lies in each run of a loom, how thick it is, and how hot it is there."""

from statistics import median
from typing import NamedTuple

from molvik.electrical.heat import outside_diameter_mm
from molvik.model.job import Job
from molvik.model.routing import Run
from molvik.reference.bundles import across_mm
from molvik.reference.coverings import COVERINGS
from molvik.reference.insulation import insulation
from molvik.reference.places import PLACES, air_c
from molvik.routing.hot import STRIP_MM, as_hot_as_c
from molvik.routing.layers import Layer, layers_of
from molvik.routing.ways import Ways
from molvik.survey.tree import LoomTree

LOOSE = 1.1
"""How many times as thick as packed tight a loom lies that is laid by hand, until measured looms
say otherwise (common practice, no source)."""

LEAST_LOOSE, MOST_LOOSE = 1.0, 1.6


class Section(NamedTuple):
    """A run's inside. wires: the codes of the wires in it. widths_mm: the outsides of those with a
    size; unknown: the codes of those without. tight_mm: packed as tight as goes; laid_mm: as laid
    by hand; over_mm: over its covering. air_c: the air it is as hot as, hot surfaces counted, deg
    C; place: in words; layers: from the middle on, where the loom is twisted in layers. All 0 where
    nothing with a size lies in it.
    """

    wires: tuple[str, ...]
    widths_mm: tuple[float, ...]
    unknown: tuple[str, ...]
    tight_mm: float
    laid_mm: float
    over_mm: float
    air_c: float
    place: str
    layers: tuple[Layer, ...] = ()


def looseness(job: Job, found: LoomTree) -> float:
    """Return how loose wires lie, a factor, from the measured stretches of the loom as found: their
    diameter, less the covering, over that of the same wires packed tight.
    """
    sizes = {wire.code: wire for wire in found.loom.wires}
    ratios: list[float] = []
    for segment in found.loom.segments:
        inside = [sizes[code] for code in found.wires_in.get(segment.code, ())]
        if segment.diameter_mm is None or len(inside) < 2 or not all(w.size for w in inside):
            continue
        widths = [outside_diameter_mm(w.size, insulation("")) for w in inside if w.size]
        covering = COVERINGS.get(segment.covering, COVERINGS[""])
        ratio = (segment.diameter_mm - 2 * covering.thick_mm) / across_mm(widths)
        if LEAST_LOOSE <= ratio <= MOST_LOOSE:
            ratios.append(ratio)
    return median(ratios) if len(ratios) >= 3 else LOOSE


def sections(job: Job, ways: Ways, loose: float = LOOSE) -> dict[str, Section]:
    """Return what lies in each run. loose: how loose wires lie."""
    wires = {wire.code: wire for wire in job.wires}
    twisted = layers_of(job, ways)
    found: dict[str, Section] = {}
    for run in job.routing.runs:
        inside = [wires[code] for code in ways.wires_in[run.code]] if ways.of else []
        sized = [wire for wire in inside if wire.size is not None]
        widths = tuple(
            outside_diameter_mm(w.size, insulation(w.insulation)) for w in sized if w.size
        )
        tight = across_mm(list(widths)) if widths else 0.0
        laid = tight * (loose if len(widths) > 1 else 1.0)
        layers = twisted.get(run.code, ())
        if layers:
            tight = laid = layers[-1].over_mm
        covering = COVERINGS.get(run.covering, COVERINGS[""])
        over = laid + 2 * covering.thick_mm if widths else 0.0
        air, place = _air(job, run, over)
        found[run.code] = Section(
            tuple(wire.code for wire in inside),
            widths,
            tuple(wire.code for wire in inside if wire.size is None),
            tight,
            laid,
            over,
            air,
            place,
            layers,
        )
    return found


def _air(job: Job, run: Run, across: float) -> tuple[float, str]:
    """Return the air a run is as hot as, deg C, and where it lies, in words."""
    zone = job.routing.zone(run.zone)
    place = PLACES.get(zone.place, PLACES[""])
    air = air_c(job.settings, zone.place)
    words = zone.name or place.name
    if zone.hot_c is None:
        return air, words
    away = zone.distance_mm or 0.0
    as_hot = as_hot_as_c(
        air,
        zone.hot_c,
        away,
        across or 5.0,
        shielded=zone.shielded,
        wide_mm=zone.wide_mm or STRIP_MM,
    )
    return as_hot, f"{words}, beside {zone.hot_c:g} °C"
