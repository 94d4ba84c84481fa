"""What is hidden for practice: how hard, of which kind, and whether anybody would notice it."""

import math
import random
from collections import defaultdict
from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from molvik.devices.states import NAMED, Fault
from molvik.model.job import Job
from molvik.model.parts import EarthPoint, Fuse
from molvik.netlist.faults import in_words
from molvik.proving.causes import Cause
from molvik.proving.faultsimulator import Faults, FaultSimulator
from molvik.proving.practice.complaints import (
    NOTICED,
    PLACES,
    Symptom,
    by_design,
    symptoms,
)
from molvik.proving.practice.complaints import in_words as said
from molvik.stopping import look_up

Degree = Literal["one", "second symptom", "intermittent", "two", "sound"]

DEGREES: Mapping[Degree, str] = MappingProxyType(
    {
        "one": "one fault",
        "second symptom": "one fault, and another thing that is odd",
        "intermittent": "one that comes and goes",
        "two": "two at once",
        "sound": "perhaps nothing",
    }
)

SOUND_OF = 0.5
"""So often "perhaps nothing" is nothing (our choice)."""

CRANKED_OF = 0.34
"""So often what comes and goes, and shows while cranking, shows only then (our choice)."""

Trigger = Literal["", "cranked", "warm", "moved"]
"""When a fault is there: always, while cranking, when all is warm, while the loom is moved."""

NOTHING = "nothing wrong"
"""The kind of a round in which the loom is sound."""

HIDDEN_OHM = (0.2, 200.0)
"""Between so many ohms lies a bad joint that is hidden (our choice)."""

MOST_TRIED = 80
NONE_SHOWS = (
    "No fault hidden here would be noticed: a job with a battery and lamps, motors or the like is "
    "needed. Choose the demo instead."
)


class Hidden(NamedTuple):
    """What is hidden. faults, causes: what is to be found, none for a sound loom; aside: what is
    odd beside it and was not complained of as a fault of the loom; trigger: when it is there;
    symptoms: what the customer noticed, the main thing first.
    """

    faults: Faults
    causes: tuple[Cause, ...]
    symptoms: tuple[Symptom, ...]
    aside: Faults = ()
    trigger: Trigger = ""

    def kind(self, job: Job) -> str:
        """Which kind of fault it is, as the record keeps it."""
        return fault_kind(self.faults[0], job) if self.faults else NOTHING

    def answer(self, job: Job) -> str:
        """What is wrong, in words."""
        words = " and ".join(in_words(fault, job) for fault in self.faults)
        return words or "nothing is wrong: it is meant to be so"

    def complaint(self, job: Job) -> str:
        """What the customer says."""
        by_code = {device.code: device for device in job.devices}
        words = [said(one, by_code[one.device]) for one in self.symptoms]
        return " ".join((*words, *filter(None, [PLACES.get(self.trigger, "")])))


def fault_kind(fault: Fault, job: Job) -> str:
    """Return which kind of fault it is, in the words of the trade."""
    part = job.part(fault.at)
    match fault.kind:
        case "open" | "bad" if isinstance(part, EarthPoint):
            return "bad earth"
        case "open" if isinstance(part, Fuse):
            return "blown fuse"
        case "open":
            return "open wire" if part is None else "the part itself"
        case "bad":
            return "high resistance"
        case "swap":
            return "swapped cavities"
        case "short":
            return "short"
        case _:
            return "sticking relay"


class _Hider:
    def __init__(
        self, simulator: FaultSimulator, chosen: random.Random, weights: Mapping[str, float]
    ) -> None:
        self.simulator, self.chosen, self.weights = simulator, chosen, weights
        self.job = simulator.network.job
        self._by_kind: dict[str, list[Cause]] = defaultdict(list)
        for cause in simulator.causes(simulator.network):
            self._by_kind[fault_kind(cause.faults[0], self.job)].append(cause)
        for causes in self._by_kind.values():
            chosen.shuffle(causes)

    def next(self) -> tuple[Cause, Fault] | None:
        """Return another cause, and a fault it is: kinds by their weights, places at random."""
        kinds = sorted(kind for kind, left in self._by_kind.items() if left)
        if not kinds:
            return None
        look_up()
        weights = [self.weights.get(kind, 1.0) for kind in kinds]
        cause = self._by_kind[self.chosen.choices(kinds, weights)[0]].pop()
        return cause, self._sized(cause)

    def _sized(self, cause: Cause) -> Fault:
        """Return a fault that a cause may be; a bad joint has any resistance, a small one as often
        as a large one.
        """
        fault = self.chosen.choice(cause.faults)
        if fault.kind != "bad":
            return fault
        low, high = map(math.log, HIDDEN_OHM)
        return fault._replace(ohm=float(f"{math.exp(self.chosen.uniform(low, high)):.3g}"))

    def noticed(self, accept: Callable[[Cause, list[Symptom]], bool]) -> tuple[Cause, Fault]:
        """Return a fault that is noticed, and accepted. Raises ValueError where none is."""
        for _ in range(MOST_TRIED):
            made = self.next()
            if made is None:
                break
            cause, fault = made
            seen = symptoms(self.simulator, (fault,))
            if seen and accept(cause, seen):
                return cause, fault
        raise ValueError(NONE_SHOWS)


def hide(
    simulator: FaultSimulator,
    degree: Degree,
    chosen: random.Random,
    weights: Mapping[str, float] = MappingProxyType({}),
) -> Hidden:
    """Hide something. weights: of the kinds of faults, one where nothing is said. Raises
    ValueError where nothing that is hidden would be noticed.
    """
    hider = _Hider(simulator, chosen, weights)
    match degree:
        case "sound":
            meant = by_design(simulator)
            if meant and chosen.random() < SOUND_OF:
                return Hidden((), (), (chosen.choice(meant),))
            return _one(hider)
        case "two":
            return _two(hider)
        case "second symptom":
            return _second(hider)
        case "intermittent":
            return _comes_and_goes(hider)
        case _:
            return _one(hider)


def _one(hider: _Hider) -> Hidden:
    cause, fault = hider.noticed(lambda *_: True)
    return Hidden((fault,), (cause,), (symptoms(hider.simulator, (fault,))[0],))


def _comes_and_goes(hider: _Hider) -> Hidden:
    """One that shows when all is hot or moved; or only while cranking, where volts alone tell."""
    cause, fault = hider.noticed(lambda cause, _: cause.faults[0].kind in ("open", "bad", "short"))
    seen = symptoms(hider.simulator, (fault,))
    cranked = [one for one in seen if one.state == "crank"]
    if cranked and fault.kind != "short" and hider.chosen.random() < CRANKED_OF:
        return Hidden((fault,), (cause,), (cranked[0],), trigger="cranked")
    trigger: Trigger = hider.chosen.choice(("warm", "moved"))
    return Hidden((fault,), (cause,), (seen[0],), trigger=trigger)


def _two(hider: _Hider) -> Hidden:
    """Two that are noticed by different things, each for itself and both together."""
    simulator = hider.simulator
    one, first = hider.noticed(lambda *_: True)
    shown = symptoms(simulator, (first,))[0]

    def beside(cause: Cause, seen: list[Symptom]) -> bool:
        return not set(cause.on) & set(one.on) and seen[0].device != shown.device

    while True:
        other, second = hider.noticed(beside)
        both = {(s.state, s.device): s for s in symptoms(simulator, (first, second))}
        own = symptoms(simulator, (second,))[0]
        pair = [both.get((s.state, s.device)) for s in (shown, own)]
        if pair[0] is not None and pair[1] is not None:
            return Hidden((first, second), (one, other), (pair[0], pair[1]))


def _second(hider: _Hider) -> Hidden:
    """One fault, and a part that does not work by itself: what is odd has two reasons."""
    simulator, job = hider.simulator, hider.job
    cause, fault = hider.noticed(lambda *_: True)
    shown = symptoms(simulator, (fault,))[0]
    worse = {one.device for one in symptoms(simulator, (fault,))}
    stood = simulator.stood(NAMED["run"])
    others = [
        device
        for device in job.devices
        if device.kind in NOTICED
        and device.code not in worse | set(cause.on)
        and stood.get(device.code) == "alive"
    ]
    if not others:
        return Hidden((fault,), (cause,), (shown,))
    broken = hider.chosen.choice(others)
    aside = Symptom("run", broken.code, "dead", "alive")
    return Hidden((fault,), (cause,), (shown, aside), aside=(Fault("open", broken.code),))
