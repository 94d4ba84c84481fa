"""What of a diagram is alive in a state: its lines, and the contacts that are closed."""

from typing import NamedTuple

from molvik.circuits.diagram.placing import Placing
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.nodes import METAL
from molvik.model.parts import End

ALIVE_SHARE = 0.5
"""From such a share of the nominal voltage on a line is alive (our choice)."""


class Alive(NamedTuple):
    """A state that a diagram is drawn in. lines: those that are alive; closed: contacts that are,
    by the key of their piece; name: of the state.
    """

    lines: frozenset[int]
    closed: frozenset[str]
    name: str


def alive(stands: Placing, point: OperatingPoint) -> Alive:
    """Return what is alive in a solution: what has half the nominal voltage and more."""
    volts, zero = point.solution.volts, point.solution.volts.get(point.reference, 0.0)
    lines = {
        end.line
        for one in stands.placed
        for end in one.piece.ends
        if abs(volts.get(str(end.place), zero) - zero) >= ALIVE_SHARE * point.nominal
    }
    joins = {frozenset((link.a, link.b)) for link in point.links if link.closed}
    closed = {
        one.piece.key
        for one in stands.placed
        if one.piece.form == "contact"
        and frozenset(_node(end.place) for end in one.piece.ends) in joins
    }
    return Alive(frozenset(lines), frozenset(closed), point.state.name)


def _node(place: End) -> str:
    return METAL if place.cavity == "case" else str(place)
