"""Finding faults for practice: something is hidden in a job, looked at, probed, and named.

Nothing of it enters the job: what is measured here proves nothing.
"""

import math
import random
from typing import Literal, NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import NAMED, Fault
from molvik.model.parts import End
from molvik.netlist.faults import in_words
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.causes import Cause, causes
from molvik.proving.diagnose import Diagnosis, where_words
from molvik.proving.diagnose import in_words as shown_words
from molvik.proving.faultsimulator import FaultSimulator, Point, Shown
from molvik.proving.meter import spread_ohm
from molvik.proving.observations import Observation

Difficulty = Literal["easy", "medium", "hard"]

KINDS: dict[Difficulty, tuple[str, ...]] = {
    "easy": ("open",),
    "medium": ("open", "bad", "stuck"),
    "hard": ("bad", "swap", "short"),
}

LOOKED_AT = ("run", "crank", "running")
"""States in which what is odd is looked for."""

MOST_STEPS = 25
HIDDEN_OHM = (0.2, 200.0)
"""Between so many ohms lies a bad joint that is hidden (our choice)."""

VOLTS_OFF = 0.02
"""What the meter may be off, V."""


class Probed(NamedTuple):
    """A measurement that was made: where, and what the meter showed."""

    where: str
    shown: str


class Practice:
    """One hidden fault, or two when it is hard. Raises ValueError where nothing can be hidden."""

    def __init__(self, network: Network, difficulty: Difficulty, seed: int) -> None:
        self.network, self.difficulty = network, difficulty
        self._chosen = random.Random(seed)
        self.simulator = FaultSimulator(network, Bench(network.job))
        self.probed: list[Probed] = []
        self._seen: list[Observation] = []
        self.hidden: tuple[Cause, ...] = ()
        self._faults: tuple[Fault, ...] = ()
        self._hide()

    def _hide(self) -> None:
        every = [c for c in causes(self.network) if c.faults[0].kind in KINDS[self.difficulty]]
        self._chosen.shuffle(every)
        for cause in every[:60]:
            fault = self._sized(cause)
            if any(set(cause.on) & set(other.on) for other in self.hidden):
                continue  # two on one wire may undo each other
            if self._odd((fault,)) and self._odd((*self._faults, fault)):
                self.hidden, self._faults = (*self.hidden, cause), (*self._faults, fault)
                if (
                    self.difficulty != "hard"
                    or len(self.hidden) == 2
                    or self._chosen.random() < 0.5
                ):
                    return
        if not self.hidden:
            raise ValueError(
                "No fault hidden here would show: a job with a battery and devices is needed."
            )

    def _sized(self, cause: Cause) -> Fault:
        """Return a fault that a cause may be; a bad joint has any resistance, a small one as often
        as a large one.
        """
        fault = self._chosen.choice(cause.faults)
        if fault.kind != "bad":
            return fault
        low, high = map(math.log, HIDDEN_OHM)
        return fault._replace(ohm=round(math.exp(self._chosen.uniform(low, high)), 3))

    def _odd(self, faults: tuple[Fault, ...]) -> list[tuple[str, str, str]]:
        """Return what anybody would see: the state, the device, how it stands."""
        found = []
        for name in LOOKED_AT:
            sound, now = self._solved((), name), self._solved(faults, name)
            if sound.problem or now.problem:
                continue
            found += [
                (name, load.device, load.state)
                for load in now.loads
                if load.state != sound.load[load.device].state
            ]
        return found

    def _solved(self, faults: tuple[Fault, ...], state: str) -> OperatingPoint:
        return self.simulator.solved(faults, NAMED[state])

    @property
    def complaint(self) -> str:
        """What the customer says: the first thing that is odd."""
        state, code, stands = self._odd(self._faults)[0]
        name = next(device.name for device in self.network.job.devices if device.code == code)
        return f"{name} ({code}) is {stands} in {state}."

    def look(self, state: str) -> str:
        """Return what is seen in a state: every device that is not as it would be when sound.
        Raises ValueError for a state that is not known.
        """
        if state not in NAMED:
            raise ValueError(f"There is no state “{state}”. Type one of: {', '.join(NAMED)}.")
        point = self._solved(self._faults, state)
        alive = [load.name for load in point.loads if load.state == "alive"]
        dead = [load.name for load in point.loads if load.state in ("dead", "weak")]
        return f"alive: {', '.join(alive) or 'nothing'}. dead or weak: {', '.join(dead) or 'none'}."

    def measure(self, point: Point) -> str:
        """Return what the meter shows at a point, with its error."""
        shown = self._blurred(point, self.simulator.predicted(self._faults, point))
        self._seen.append(Observation(point, shown))
        made = Probed(self._where(point), shown_words(point, shown))
        self.probed.append(made)
        return made.shown

    def _where(self, point: Point) -> str:
        return where_words(point, self.network.job.settings.earthed)

    def _blurred(self, point: Point, shown: Shown) -> Shown:
        if not isinstance(shown, float):
            return shown
        if point.what == "voltage":
            return round(shown + self._chosen.gauss(0, VOLTS_OFF), 2)
        settings = self.network.job.settings
        ohm = shown + self._chosen.uniform(-1, 1) * spread_ohm(shown, settings) * 0.6
        return max(0.0, round(ohm / settings.meter_step_ohm) * settings.meter_step_ohm)

    def name(self, code: str) -> bool:
        """Return whether a wire or part is what is wrong, or the last of two that are."""
        return any(code in cause.on for cause in self.hidden)

    @property
    def answer(self) -> str:
        """What is wrong, in words."""
        job = self.network.job
        return " and ".join(in_words(fault, job) for fault in self._faults)

    def program(self) -> tuple[str, ...]:
        """Return which measurements the program would have made from the same complaint on."""
        state, code, stands = self._odd(self._faults)[0]
        seen = [Observation(Point.of("device", End(code), End(), state), stands)]
        steps: list[str] = []
        found = Diagnosis(self.network, seen, self.simulator)
        while len(steps) < MOST_STEPS and (proposal := found.next) is not None:
            point = proposal.point
            shown = self._blurred(point, self.simulator.predicted(self._faults, point))
            seen.append(Observation(point, shown))
            steps.append(f"{self._where(point)}: {shown_words(point, shown)}")
            found = Diagnosis(self.network, seen, self.simulator)
        return tuple(steps)
