"""Where each wire lies for Sizes: in every run of its way, with the neighbours it has there."""

from molvik.electrical.bundle import neighbours_of_each
from molvik.electrical.solve import round_significant
from molvik.model.parts import Wire
from molvik.netlist.network import Network
from molvik.reference.coverings import COVERINGS
from molvik.routing.sections import Section, sections
from molvik.routing.ways import Ways
from molvik.sizes.bundles import cores_of, lies_of_wires
from molvik.sizes.sizing_case import Installation


def lies_along(
    network: Network, ways: Ways, solved: dict[str, float]
) -> dict[str, tuple[Installation, ...]]:
    """Return where each wire lies, all at their worst at once: in the runs of its way, or where
    there is none in one stretch as it is typed.

    solved: the current each wire carries in its worst state, A, where nobody typed one.
    """
    job = network.job
    found = lies_of_wires(network, solved)
    if not job.routing.runs:
        return found
    inside = sections(job, ways)
    at: dict[str, dict[str, Installation]] = {}
    for run in job.routing.runs:
        sized = [
            wire
            for code in inside[run.code].wires
            if (wire := network.wires[code]).size is not None
        ]
        thick = COVERINGS.get(run.covering, COVERINGS[""]).thick_mm
        at[run.code] = _lying(network, run.code, inside[run.code], sized, thick, solved)
    for code, way in ways.of.items():
        along = [at[step.run][code] for step in way.steps if code in at[step.run]]
        if along and not way.problem:
            found[code] = _unlike(along)
    return found


def _lying(
    network: Network,
    run: str,
    section: Section,
    wires: list[Wire],
    covering_mm: float,
    solved: dict[str, float],
) -> dict[str, Installation]:
    """Return where each wire of a run lies there. What was typed of its air, place or bundle is no
    matter: it would hide a hot run.
    """
    lying = neighbours_of_each(cores_of(network, wires, solved), covering_mm)
    air = round_significant(section.air_c)
    return {
        wire.code: Installation(
            air,
            section.place,
            neighbours._replace(heat_w_per_m=round_significant(neighbours.heat_w_per_m)),
            run,
        )
        for wire, neighbours in zip(wires, lying, strict=True)
    }


def _unlike(along: list[Installation]) -> tuple[Installation, ...]:
    """Return the stretches that differ: of those alike the first stands for all."""
    found = {(one.ambient_c, one.neighbours): one for one in reversed(along)}
    return tuple(sorted(found.values(), key=along.index))
