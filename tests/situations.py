"""Situations at the bench: faults of any size, kind and number, hidden in a loom, and a hand that
slips now and then; followed by what is proposed, to the verdict.
"""

import math
import random

from molvik.devices.states import RUN, Fault
from molvik.model.parts import End
from molvik.proving.benchfault import FaultyBench
from molvik.proving.causes import Cause
from molvik.proving.diagnose import Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation
from molvik.proving.points import Point, Shown
from test_diagnose import Hidden

SLIP = 0.003
"""So often a reading is of something else."""

MOST_STEPS = 14

LEAST = 0.5
"""A cause that is less likely is not named as the one."""


class Situation:
    """Something hidden, and a hand that slips now and then."""

    def __init__(self, hidden: Hidden, chance: random.Random, *, powered: bool) -> None:
        self.hidden, self.chance = hidden, chance
        number = chance.choices((0, 1, 2), (2, 6, 2))[0]
        self.faults: list[tuple[Cause, Fault]] = []
        while len(self.faults) < number:
            cause, fault = hidden.hide() if not powered else self._any()
            if all(not set(cause.on) & set(other.on) for other, _ in self.faults):
                if fault.kind == "bad":  # from a tenth of an ohm up, by its logarithm
                    fault = fault._replace(
                        ohm=math.exp(chance.uniform(math.log(0.15), math.log(60)))
                    )
                self.faults.append((cause, fault))
        self.bench = FaultyBench(hidden.bench, tuple(fault for _, fault in self.faults))

    def _any(self) -> tuple[Cause, Fault]:
        cause = self.chance.choice(self.hidden.every)
        return cause, self.chance.choice(cause.faults)

    @property
    def keys(self) -> set[str]:
        """What is wrong."""
        return {cause.key for cause, _ in self.faults}

    @property
    def kind(self) -> str:
        """What kinds of faults they are."""
        return " and ".join(sorted(fault.kind for _, fault in self.faults)) or "sound"

    def shown(self, point: Point) -> Shown:
        """Return what is read at a point, right or not."""
        if self.chance.random() < SLIP:
            if point.what == "device":
                return self.chance.choice(("alive", "dead"))
            most = 200.0 if point.what == "resistance" else 14.0
            return self.chance.choice((None, round(self.chance.uniform(0, most), 2)))
        if point.what == "resistance":
            return self.hidden.shown(self.bench, point.red, point.black)
        found = self.hidden.simulator.predicted(tuple(fault for _, fault in self.faults), point)
        return found + self.chance.gauss(0, 0.03) if isinstance(found, float) else found

    def beginning(self, *, powered: bool) -> list[Observation]:
        """Return what is seen first: a device that should work, or all of the plan."""
        if not powered:
            return [
                Observation(p, self.shown(p))
                for one in self.hidden.plan.measurements
                for p in [Point.of("resistance", one.red, one.black)]
            ]
        simulator, faults = self.hidden.simulator, tuple(fault for _, fault in self.faults)
        now, sound = simulator.solved(faults, RUN), simulator.solved((), RUN)
        off = ("dead", "weak")
        codes = [device.code for device in self.hidden.job.devices]
        odd = [c for c in codes if now.stands(c) in off and sound.stands(c) == "alive"]
        if not odd:
            return []
        code = self.chance.choice(odd)
        return [Observation(Point.of("device", End(code), End(), "run"), now.stands(code))]


def follow(situation: Situation, *, powered: bool) -> tuple[float, bool, str] | None:
    """Return the last verdict that names a cause: how sure it is, whether it is right, and what it
    says; None where none does.
    """
    hidden, seen = situation.hidden, situation.beginning(powered=powered)
    if not seen:
        return None
    simulator = FaultSimulator(hidden.network, hidden.bench) if powered else hidden.simulator
    found: tuple[float, bool, str] | None = None
    for _ in range(MOST_STEPS):
        said = Diagnosis(hidden.network, seen, simulator, None if powered else hidden.every)
        best = said.groups[0] if said.groups else ()
        share = sum(one.share for one in best)
        found = None
        if best and best[0].causes and share >= LEAST:
            named = [{cause.key for cause in one.causes} for one in best]
            found = share, any(keys and keys <= situation.keys for keys in named), said.verdict
        proposal = said.next
        if proposal is None:
            break
        seen.append(Observation(proposal.point, situation.shown(proposal.point)))
    return found
