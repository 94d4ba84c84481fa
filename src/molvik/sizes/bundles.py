"""Which wires lie together, how thick they lie, and what each of them has round it."""

from collections import defaultdict
from typing import NamedTuple

from molvik.electrical.bundle import (
    ALONE,
    Core,
    Neighbours,
    bundle_temperatures_c,
    neighbours_of_each,
)
from molvik.electrical.heat import outside_diameter_mm
from molvik.electrical.solve import round_significant
from molvik.electrical.transient import rms_share
from molvik.model.parts import Wire
from molvik.netlist.network import Network
from molvik.reference.bundles import across_mm
from molvik.reference.coverings import find_covering
from molvik.reference.insulation import insulation
from molvik.reference.places import air_c
from molvik.sizes.sizing_case import Installation, duty_of, lying_of, use_of


class BundleSummary(NamedTuple):
    """A bundle. wires: the codes of those with a size. across_mm: how thick, with its covering.

    hottest: the wire that comes nearest its insulation's limit, hottest_c its temperature, deg C.
    unknown: the codes of wires without a size, which are not counted.
    """

    name: str
    wires: tuple[str, ...]
    across_mm: float
    hottest: str
    hottest_c: float
    unknown: tuple[str, ...]


def members(network: Network) -> dict[str, list[Wire]]:
    """Return the wires of each named bundle."""
    found: dict[str, list[Wire]] = defaultdict(list)
    for wire in network.job.wires:
        if wire.bundle:
            found[wire.bundle].append(wire)
    return dict(found)


def cores_of(network: Network, wires: list[Wire], solved: dict[str, float]) -> list[Core]:
    """Return wires that have a size with the current that heats them; what is stowed has none."""
    cores = []
    for wire in wires:
        assert wire.size is not None  # those without are left out before
        amps = wire.load_a if wire.load_a is not None else solved.get(wire.code, 0.0)
        duty = duty_of(wire, use_of(network.job.settings, wire.use))
        if duty is not None:
            amps *= rms_share(duty)
        cores.append(Core(wire.size, insulation(wire.insulation), 0.0 if wire.stowed else amps))
    return cores


def _covering_mm(network: Network, name: str) -> float:
    found = find_covering(network.job.bundle(name).covering)
    return found.thick_mm if found else 0.0


def lies_of_wires(
    network: Network, solved: dict[str, float]
) -> dict[str, tuple[Installation, ...]]:
    """Return where each wire lies, all at their worst at once: one stretch, in its bundle or alone.

    solved: the current each wire carries in its worst state, A, where nobody typed one.
    """
    round_it = _neighbours(network, solved)
    return {
        wire.code: (lying_of(network, wire, round_it.get(wire.code, ALONE)),)
        for wire in network.job.wires
    }


def _neighbours(network: Network, solved: dict[str, float]) -> dict[str, Neighbours]:
    """Return what lies round each wire that is in a bundle."""
    found: dict[str, Neighbours] = {}
    for name, wires in members(network).items():
        sized = [wire for wire in wires if wire.size is not None]
        lying = neighbours_of_each(cores_of(network, sized, solved), _covering_mm(network, name))
        for wire, neighbours in zip(sized, lying, strict=True):
            found[wire.code] = neighbours._replace(
                heat_w_per_m=round_significant(neighbours.heat_w_per_m)
            )
    return found


def bundle_summary(network: Network, name: str, solved: dict[str, float]) -> BundleSummary | None:
    """Return what a bundle comes to, None for one with no sized wire in it."""
    wires = members(network).get(name, [])
    sized = [wire for wire in wires if wire.size is not None]
    if not sized:
        return None
    cores = cores_of(network, sized, solved)
    cover = _covering_mm(network, name)
    air = air_c(network.job.settings, network.job.bundle(name).place)
    hot = bundle_temperatures_c(cores, air, cover)
    nearest = min(range(len(sized)), key=lambda index: cores[index].kind.limit_c - hot[index])
    across = across_mm([outside_diameter_mm(core.size, core.kind) for core in cores]) + 2 * cover
    unknown = tuple(wire.code for wire in wires if wire.size is None)
    return BundleSummary(
        name, tuple(wire.code for wire in sized), across, sized[nearest].code, hot[nearest], unknown
    )
