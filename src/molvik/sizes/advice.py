"""What to give a wire: the smallest sizes that pass, the fuse for the one it has, its curves."""

from typing import NamedTuple

from molvik.model.parts import Wire, WireSize
from molvik.netlist.network import Network
from molvik.sizes.curves import Curves, curves
from molvik.sizes.fuses import FuseWork, starts_with
from molvik.sizes.short import FarShort, far_short
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import fuse_for, largest_fuse_a, smallest

FUSE_KINDS = ("blade", "bolt-down")
"""What is advised on."""


class Advice(NamedTuple):
    """Advice on one wire. awg, metric: the smallest size that passes, None where none does or the
    current is not known. starts: what its load begins with, A, and for how long, s. fuse: kind and
    rating, A. most_a: the largest fuse that protects it, by kind. short: at its far end.
    """

    awg: WireSize | None
    metric: WireSize | None
    starts: tuple[float, float] | None
    fuse: tuple[str, float] | None
    most_a: dict[str, float]
    short: FarShort | None
    curves: Curves | None


def advise(network: Network, wire: Wire, requirements: SizingCase, work: FuseWork | None) -> Advice:
    """Return the advice on a wire. asked: what is asked of it; work: what its fuse has to bear."""
    known = requirements.load_a is not None
    starts = starts_with(network, requirements)
    size = wire.size
    return Advice(
        smallest(requirements, "awg") if known else None,
        smallest(requirements, "metric") if known else None,
        starts,
        fuse_for(size, requirements, starts) if size else None,
        {kind: largest_fuse_a(size, requirements, kind) for kind in FUSE_KINDS} if size else {},
        far_short(network, wire, requirements),
        curves(network, wire, requirements, work),
    )
