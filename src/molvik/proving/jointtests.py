"""Tests of joints: a sample of each kind of crimp pulled at, heavy cables under a current.

Continuity shows where a wire goes, not that a crimp holds or that every strand is in it (common
practice): these do.
"""

import math
from collections.abc import Iterator
from itertools import pairwise

from molvik.electrical.conductor import area_mm2
from molvik.model.parts import Connector, End, Splice, Wire, WireSize
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.items import ItemTest
from molvik.proving.proofplan import ProofPlan
from molvik.reference.contacts import NEW_JOINT_OHM, WORST_JOINT_OHM
from molvik.reference.pull import LBF_N, PULL_LBF
from molvik.wording import figures, some

HEAVY_MM2 = 6.0
"""Wires from this section on are measured under a current (our choice)."""

LUG, SPLICE = "terminal or lug", "splice"
"""What a wire ends in where there is no plug."""

NEW_LUG_OHM, WORST_LUG_OHM = 0.0002, 0.001
"""A bolted lug, sound, and one to be looked at, ohms (common practice: 0.1 V at 100 A)."""


def joint_tests(network: Network, plan: ProofPlan) -> tuple[ItemTest, ...]:
    """Return the tests of the joints of a job: drops first, then pulls by size."""
    return (*_drops(network, plan), *_pulls(network))


def _drops(network: Network, plan: ProofPlan) -> Iterator[ItemTest]:
    """Heavy wires, and those that a continuity test cannot tell from others beside them."""
    job = network.job
    amps = job.settings.drop_test_a
    beside = {code for wires in plan.not_told_apart for code in wires}
    for wire in map(plan.wire, job.wires):
        if wire.size is None or not (wire.start.at and wire.finish.at):
            continue
        alone = wire.code not in beside
        if alone and area_mm2(wire.size) < HEAVY_MM2:
            continue
        usual, most = (
            amps * _ohm(network, plan.bench, wire, worst=worst) for worst in (False, True)
        )
        words = f"{figures(usual * 1000)} mV, {figures(most * 1000)} at most"
        if wire.length_m is None:
            words += "; its length is not known"
        yield ItemTest(
            "drop",
            wire.code,
            wire.function,
            f"{wire.start} and {wire.finish}",
            wire.start,
            wire.finish,
            f"voltage drop at {figures(amps)} A"
            + ("" if alone else ", clamped to this wire alone"),
            words,
            0.0,
            most,
            quantity="voltage",
            with_a=amps,
            position="" if alone else wire.code,  # two between the same places are two readings
        )


def _ohm(network: Network, bench: Bench, wire: Wire, *, worst: bool) -> float:
    """Return what a wire has from end to end, its joints as they are: in a plug, or bolted."""
    contact, lug = (WORST_JOINT_OHM, WORST_LUG_OHM) if worst else (NEW_JOINT_OHM, NEW_LUG_OHM)
    bolted = sum(not isinstance(network.parts.get(end.at), Connector) for end in wire.ends)
    return bench.wire_ohm(wire, worst=worst) - bolted * (contact - lug)


def _pulls(network: Network) -> Iterator[ItemTest]:
    """One sample of each size in each kind of terminal, crimped as those of the loom are."""
    kinds: dict[tuple[str, WireSize], list[End]] = {}
    for wire in network.job.wires:
        for end in wire.ends:
            if end.at and wire.size is not None:
                kinds.setdefault((_terminal(network, end), wire.size), []).append(end)
    for (terminal, size), ends in sorted(
        kinds.items(), key=lambda one: (one[0][0], area_mm2(one[0][1]))
    ):
        least = pull_n(size)
        parts = list(dict.fromkeys(end.at for end in ends))
        sample = f"{size}, {terminal}"
        yield ItemTest(
            "pull",
            ends[0].at,
            f"{sample}: {some(parts, 4)}",
            "a sample",
            End(ends[0].at),
            End(),
            f"pull test of {sample}",
            f"holds {least:.0f} N",
            least,
            None,
            sample,
            "force",
        )


def _terminal(network: Network, end: End) -> str:
    part = network.parts.get(end.at)
    if not isinstance(part, Connector):
        return SPLICE if isinstance(part, Splice) else LUG
    contact = dict(part.contacts).get(end.cavity) or part.contact
    return f"contact {contact}" if contact else "terminal size not known"


def pull_n(size: WireSize) -> float:
    """Return the least force that a crimp on a wire of a size bears, N: of UL 486A, between its
    sizes along a power of the section, below 22 AWG in proportion to it (our choice).
    """
    area = area_mm2(size)
    known = [(area_mm2(WireSize("awg", awg)), lbf * LBF_N) for awg, lbf in PULL_LBF.items()]
    known.sort()
    if area <= known[0][0]:
        return known[0][1] * area / known[0][0]
    for (small, weak), (large, strong) in pairwise(known):
        if area <= large:
            power = math.log(strong / weak) / math.log(large / small)
            return float(weak * (area / small) ** power)
    return known[-1][1]
