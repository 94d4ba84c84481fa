"""What a fault reaches: the wires beside it, for how long, and the covering to be opened."""

from typing import NamedTuple

from molvik.model.loom import Fault, FoundWire, Node, Segment
from molvik.model.loom_edits import find
from molvik.netlist.loomgraph import Stretch
from molvik.survey.tree import LoomTree

REACH_M = 0.1
"""How far either side of a fault the covering is opened to see sound wire, m (common practice: a
hand's breadth)."""

HEAT = ("burnt", "melted together")
"""Kinds of fault that may have gone anywhere along the wire that was hot."""


class Spread(NamedTuple):
    """inspect: metres each other wire runs beside it. open_m: covering to be opened, m."""

    stretches: tuple[Stretch, ...]
    inspect: dict[str, float]
    open_m: float


def stretches_of(tree: LoomTree, fault: Fault) -> tuple[Stretch, ...]:
    """Return the stretches of loom a fault concerns.

    Heat on a wire concerns its whole way; a fault at a known place, a hand's breadth either side;
    one at an unknown place, all of what it is on.
    """
    on = find(tree.loom, fault.on)
    match on:
        case Segment():
            return (_around(on, fault.at_m),)
        case FoundWire():
            way = tree.ways[on.code]
            if fault.kind in HEAT or fault.at_m is None:
                return way
            spot = tree.place(on.code, fault.at_m)
            return () if spot is None else (_around(tree.segments[spot[0]], spot[1]),)
        case Node():
            # The last of each stretch that leads here.
            return tuple(
                _around(s, 0.0 if s.start == on.code else s.length_m or 0.0)
                for s in tree.loom.segments
                if on.code in (s.start, s.finish)
            )
        case _:
            return ()


def _around(segment: Segment, at_m: float | None) -> Stretch:
    length = segment.length_m or 0.0
    if at_m is None:
        return Stretch(segment.code, 0.0, length)
    at_m = min(at_m, length)
    return Stretch(segment.code, max(0.0, at_m - REACH_M), min(length, at_m + REACH_M))


def spread(tree: LoomTree, fault: Fault) -> Spread:
    """Return what to inspect for a fault, and how much covering that takes off."""
    stretches = stretches_of(tree, fault)
    covered = sum(s.length_m for s in stretches if tree.segments[s.segment].covering)
    return Spread(stretches, tree.beside(stretches, but=fault.on), covered)
