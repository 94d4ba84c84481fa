"""A fuse and the wire behind it as curves of time against current: which gives way first."""

import math
from typing import NamedTuple

from molvik.electrical.fusing import ADIABATIC_S, SUSTAINED_S, slowest_curve, withstand_a
from molvik.electrical.transient import MELTS_C, seconds_to_c
from molvik.model.parts import Fuse, Wire, WireSize
from molvik.netlist.network import Network
from molvik.reference.fuses import TIME_LIMITS, curve_of
from molvik.sizes.fuses import FuseWork
from molvik.sizes.hot import around_c
from molvik.sizes.short import far_short
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import largest_fuse_a

FROM_S, TO_S = 0.01, SUSTAINED_S
"""What is drawn: what lasts longer lasts for ever."""

STEPS = 80

Curve = tuple[tuple[float, float], ...]
"""Points of current, A, and time, s, from low currents to high ones."""


class Curves(NamedTuple):
    """What is drawn of one wire. quick, slow: the fuse's band. stands: what the insulation stands;
    melts: where copper melts. load_a, short_a: what it carries, and a dead short at its far end.
    protects: whether the slowest fuse opens before the insulation is spoilt, at every current.
    inrush: the current, A, and time, s, that the fuse sees when what starts hardest comes on.
    """

    fuse: str
    quick: Curve
    slow: Curve
    stands: Curve
    melts: Curve
    load_a: float | None
    short_a: float | None
    protects: bool
    inrush: tuple[float, float] | None = None


def curves(
    network: Network, wire: Wire, requirements: SizingCase, work: FuseWork | None = None
) -> Curves | None:
    """Return the curves of a wire and the fuse before it; None without a size or a fuse.

    asked: what is asked of the wire. work: what its fuse has to bear.
    """
    feed = network.feed(wire)
    fuse = network.parts.get(feed.fuse) if feed else None
    if wire.size is None or not isinstance(fuse, Fuse) or (feed and feed.by):
        return None  # of several that feed it together there is no one curve
    size, kind = wire.size, requirements.kind
    air = min(around_c(size, requirements), kind.limit_c - 1)
    stands = stands_curve(wire.size, requirements, air)
    hottest = stands[-1][0]
    grid = [stands[0][0] * (4 * hottest / stands[0][0]) ** (step / STEPS) for step in range(STEPS)]
    melts = tuple(
        (amps, seconds)
        for amps in grid
        if FROM_S <= (seconds := seconds_to_c(size, kind, amps, MELTS_C - 1, air, air)) <= TO_S
    )
    short = far_short(network, wire, requirements)
    return Curves(
        fuse.code,
        fuse_curve(fuse, quick=True),
        fuse_curve(fuse, quick=False),
        stands,
        melts,
        requirements.load_a,
        short.amps if short else None,
        fuse.rating_a <= largest_fuse_a(size, requirements, curve_of(fuse.kind, fuse.rating_a)),
        work.inrush if work else None,
    )


def fuse_curve(fuse: Fuse, *, quick: bool) -> Curve:
    """Return the quickest or the slowest a fuse may open, as its standard permits: the slowest from
    what it carries for ever, the same curve that its wire is judged by.
    """
    if quick:
        found = [
            (limit.multiple * fuse.rating_a, max(FROM_S, limit.least_s))
            for limit in TIME_LIMITS[curve_of(fuse.kind, fuse.rating_a)]
            if limit.most_s is not None
        ]
    else:
        found = [
            (times * fuse.rating_a, min(s, TO_S))
            for times, s in slowest_curve(curve_of(fuse.kind, fuse.rating_a))
        ]
    if found[-1][1] > FROM_S:
        # Beyond the last point the heat that melts it, I2t, stays the same.
        amps, seconds = found[-1]
        found.append((amps * math.sqrt(seconds / FROM_S), FROM_S))
    return tuple(found)


def stands_curve(size: WireSize, requirements: SizingCase, air_c: float) -> Curve:
    """Return how long a wire stands each current in air of a temperature, deg C."""
    times = [FROM_S * (TO_S / FROM_S) ** (step / STEPS) for step in range(STEPS + 1)]
    # Where the copper no longer keeps all its heat a wire may be less hot: a step, drawn as one.
    times += [ADIABATIC_S, ADIABATIC_S * 1.0001]
    return tuple(
        (withstand_a(size, requirements.kind, air_c, seconds), seconds)
        for seconds in sorted(times, reverse=True)
    )
