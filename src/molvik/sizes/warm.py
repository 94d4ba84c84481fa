"""Currents and temperatures that agree: a warm wire resists more and carries less."""

from collections.abc import Mapping
from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import State
from molvik.electrical.solve import round_significant
from molvik.netlist.circuitgraph import CircuitGraph
from molvik.netlist.network import Network
from molvik.sizes.hot import copper_c
from molvik.sizes.sizing_case import SizingCase

ROUNDS = 6
CLOSE_K = 0.5

SAME_SHARE = 0.7
"""A wire that carries less than this of its load in the states that are solved warm has it from
another state, or from what an alternator can give, and is as warm as that makes it (our choice)."""


class Warm(NamedTuple):
    """States solved with all copper as warm as they make it. asked: the questions with what each
    wire carries then.
    """

    points: tuple[OperatingPoint, ...]
    requirements: dict[str, SizingCase]


def warmed(
    network: Network, cold: tuple[OperatingPoint, ...], requirements: dict[str, SizingCase]
) -> Warm:
    """Solve states until the copper of every wire is within ``CLOSE_K`` of what was assumed.

    cold: those states with all copper at 20 deg C: what works then warms. asked: what is asked of
    each wire, from these.
    """
    if not cold:
        return Warm((), requirements)
    known: dict[tuple[str, bool], float] = {}
    points = cold
    for _ in range(ROUNDS):
        found = _temperatures(network, [point.state for point in cold], requirements)
        if all(abs(hot_c - known.get(at, 20.0)) <= CLOSE_K for at, hot_c in found.items()):
            break
        known = found
        points = tuple(_solved(point, known) for point in points)
        requirements = _carrying(requirements, points)
    return Warm(points, requirements)


def _temperatures(
    network: Network, states: list[State], requirements: Mapping[str, SizingCase]
) -> dict[tuple[str, bool], float]:
    """Return the temperature of each wire's copper, deg C, for lasting states and for cranking."""
    return {
        (wire.code, cranking): copper_c(wire.size, requirements[wire.code], cranking=cranking)
        for cranking in {state.shortly for state in states}
        for wire in network.job.wires
        if wire.size is not None and requirements[wire.code].load_a is not None
    }


def _solved(before: OperatingPoint, known: Mapping[tuple[str, bool], float]) -> OperatingPoint:
    network, state = before.network, before.state
    hot = {code: hot_c for (code, cranking), hot_c in known.items() if cranking == state.shortly}
    ways = CircuitGraph(network, state.faults, state.temperature_c, hot)
    return OperatingPoint(network, state, before, ways)


def _carrying(
    requirements: Mapping[str, SizingCase], points: tuple[OperatingPoint, ...]
) -> dict[str, SizingCase]:
    """Return the questions with what each wire carries once all are warm."""
    lasting = [point.wire_amps for point in points if not point.state.shortly]
    found = {}
    for code, sizing_case in requirements.items():
        carries = max((abs(amps.get(code, 0.0)) for amps in lasting), default=0.0)
        if sizing_case.solved and sizing_case.load_a and carries >= SAME_SHARE * sizing_case.load_a:
            sizing_case = sizing_case._replace(
                warm_a=round_significant(min(carries, sizing_case.load_a))
            )
        found[code] = sizing_case
    return found
