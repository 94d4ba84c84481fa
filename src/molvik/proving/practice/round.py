"""One round of practice: what is hidden, what all that was seen leaves of it, and naming it."""

import random
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

from molvik.model.parts import Device, EarthPoint, End, Fuse, Wire
from molvik.netlist.faults import in_words
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.causes import Cause
from molvik.proving.diagnose import LIKELY, Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation
from molvik.proving.points import Point, where_words
from molvik.proving.points import in_words as shown_words
from molvik.proving.practice.complaints import symptoms
from molvik.proving.practice.costs import HINT, UNTOLD, WRONG, Step
from molvik.proving.practice.hiddenbench import HiddenBench
from molvik.proving.practice.hiding import Degree, Hidden, hide


class Named(NamedTuple):
    """What came of naming a part. over: whether the round is."""

    right: bool
    over: bool
    words: str


class Round(HiddenBench):
    """One round. weights: how often each kind of fault is to come. simulator: one of the same
    network, to go on with. hidden: what is hidden, where that is known. Raises ValueError where
    nothing can be hidden that anybody would notice.
    """

    def __init__(
        self,
        network: Network,
        degree: Degree,
        seed: int,
        weights: Mapping[str, float] = MappingProxyType({}),
        simulator: FaultSimulator | None = None,
        hidden: Hidden | None = None,
    ) -> None:
        simulator = simulator or FaultSimulator(network, Bench(network.job))
        if hidden is None:
            hidden = hide(simulator, degree, random.Random(seed), weights)
        super().__init__(network, hidden, seed, simulator)
        self.degree, self.seed = degree, seed
        self.is_over = False
        self._sound: frozenset[str] = frozenset()
        """What was changed for nothing: it is known to be sound."""
        self._known: tuple[tuple[tuple[Observation, ...], frozenset[str]], Diagnosis] | None = None

    def again(self) -> "Round":
        """Return the same round from its beginning."""
        seed = self.seed + 1
        return Round(self.network, self.degree, seed, simulator=self.simulator, hidden=self.hidden)

    # what it comes to

    @property
    def told(self) -> tuple[Observation, ...]:
        """What was seen of what is still hidden."""
        return tuple(self._told)

    def leaves(self) -> Diagnosis:
        """Return what all that was seen leaves."""
        known = self.told, self._sound
        if self._known is None or self._known[0] != known:
            self._known = known, self.leaves_of(*known)
        return self._known[1]

    def leaves_of(self, seen: Sequence[Observation], sound: frozenset[str]) -> Diagnosis:
        """Return what something leaves that was seen. sound: the codes of what is known to be."""
        every = self.simulator.causes(self.network)
        among = tuple(one for one in every if sound.isdisjoint(one.on))
        can_unplug = self.hidden.trigger != "cranked"
        return Diagnosis(self.network, seen, self.simulator, among, can_unplug=can_unplug)

    def hint(self) -> str:
        """Return what the program would measure next; it costs some minutes."""
        proposal = self.leaves().next
        words = self.where(proposal.point) if proposal else "name it: no reading tells more"
        self._did("Asked for a hint", words, HINT, "hints")
        return words

    def where(self, point: Point) -> str:
        """Say where something is measured."""
        part = self.network.parts.get(point.red.at) if point.what == "device" else None
        return where_words(point, self.job.settings.earthed, getattr(part, "name", ""))

    # naming it

    def name(self, code: str) -> Named:
        """Say that a wire or part is what is wrong. Raises ValueError for what there is not."""
        if code not in self.network.wires and code not in self.network.parts:
            raise ValueError(f"There is no {code} here.")
        for place in self.left:
            if code in self.hidden.causes[place].on:
                return self._found(code, place)
        if any(fault.at == code for fault in self.hidden.aside) and not self.aside_mended:
            self.aside_mended = True
            self._begin_again(self._complained(), code, "broken by itself, and changed")
            words = f"{code} was broken, and is changed. But what the customer came for is left."
            return Named(False, False, words)
        why = self._cleared(code) or UNTOLD
        self._sound |= {code}
        said = "no: it was changed for nothing"
        self.steps.append(Step(f"It is: {code}", said, WRONG, badly="guessed", sound=code))
        return Named(False, False, f"{code} is sound. {why}")

    def _begin_again(self, known: list[Observation], code: str, said: str) -> None:
        """Something was repaired: what was seen with it tells no more of what is left."""
        self._told = known
        self.steps.append(Step(f"It is: {code}", said, 0.0, known=tuple(known)))

    def nothing(self) -> Named:
        """Say that nothing is wrong, or nothing any more."""
        if not self.hidden.faults:
            self.is_over = True
            self._did("Nothing is wrong", "right", 0.0)
            return Named(True, True, "Right: it is meant to be so. Tell the customer how it works.")
        self._did("Nothing is wrong", "it came back", WRONG, "guessed")
        return Named(False, False, "It came back with the same complaint.")

    def _found(self, code: str, place: int) -> Named:
        words = in_words(self.hidden.faults[place], self.job)
        self.left.remove(place)
        if not self.left:
            self.is_over = True
            self._did(f"It is: {code}", "right", 0.0)
            return Named(True, True, f"Right: {words}.")
        # What was seen before was of both: of what is left only what is still odd is known.
        told = self._complained()
        odd = [one for one in told if one.shown != self.simulator.predicted((), one.point)]
        self._begin_again(odd or self._noticed(), code, "right")
        return Named(True, False, f"Right: {words}; it is repaired. Something else is wrong, too.")

    def _noticed(self) -> list[Observation]:
        """What is odd now, where nothing is any more of what the customer said."""
        return [
            Observation(Point.of("device", End(one.device), End(), one.state), one.stands)
            for one in symptoms(self.simulator, self._all_faults())[:1]
        ]

    def _cleared(self, code: str) -> str:
        """Return which reading speaks against each fault of a wire or part; empty for none."""
        found = self.leaves()
        on = [one for one in found.ranked if len(one.causes) == 1 and code in one.causes[0].on]
        against = [set(one.unexplained) for one in on]
        places = set.intersection(*against) if against else set[int]()
        if not places or any(not some for some in against):
            return ""
        place = min(places)
        seen = found.seen[place]
        would = self.simulator.predicted(on[0].faults, seen.point)
        return (
            f"Were it {on[0].causes[0].words(self.job)}, “{self.where(seen.point)}” would show "
            f"{shown_words(seen.point, would)}; it shows {shown_words(seen.point, seen.shown)}."
        )

    def count_left(self) -> int:
        """Return how many causes are left."""
        return sum(one.share >= LIKELY for one in self.leaves().ranked)

    @property
    def count_all(self) -> int:
        """How many causes there are before anything was seen."""
        return len(self.simulator.causes(self.network))


def pointed_at(network: Network, end: End) -> tuple[str, ...]:
    """Return what may be named at a place that is pointed at: its wires, else the part."""
    wires: list[Wire] = network.wires_at.get(end, [])
    part = network.parts.get(end.at)
    if isinstance(part, Fuse | EarthPoint | Device):
        return (end.at, *(wire.code for wire in wires))
    return tuple(wire.code for wire in wires)


def cause_words(causes: tuple[Cause, ...], network: Network) -> str:
    """Say causes together, in words."""
    return " and ".join(cause.words(network.job) for cause in causes) or "nothing is wrong"
