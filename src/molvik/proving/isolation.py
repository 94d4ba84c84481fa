"""Whether nets touch that should not: all against all in about as many measurements as the number
of nets has binary digits, never each against each.

First what is to stay off everything, earth and screens, against all the rest. Then the nets are
tied together in two groups, by a digit of their numbers, and the groups measured against each
other: two nets differ in at least one digit. Numbered as they lie beside each other, neighbours
differ in the lowest, so that the likely touch is found first. What touches is closed in on by
halves, and is then tied together, and all goes on until everything passes.

So many places are tied together by a tester, or by plugs made for it. By hand no more are tied than
there are clips: then each handful is measured against each other handful.
"""

import itertools
from collections import defaultdict
from collections.abc import Callable, Generator, Iterable, Sequence
from typing import NamedTuple

from molvik.model.job import Job
from molvik.proving.bench import Bench

APART_OHM = 1e6
"""Nets that do not touch show at least this, ohms (common practice)."""

SENSITIVE = {
    "alternator",
    "diode",
    "diagnostic plug",
    "controller",
    "dynamo",
    "gauge",
    "LED",
    "network node",
    "pickup",
    "regulator",
    "sensor",
}
"""Kinds of devices that hold electronics, which an insulation tester's voltage breaks (common
practice: whatever holds electronics is unplugged before 250 or 500 V is put on)."""
CLIPS = 8
"""So many clips a side two hands keep in order (our choice)."""

HIGH_V = (250, 500)
"""The voltages of insulation testers that a loom is measured with, volts."""


class Groups(NamedTuple):
    """A measurement: all of one side tied together, against all of the other. why: for what."""

    one: tuple[int, ...]
    other: tuple[int, ...]
    why: str


Group = tuple[int, ...]
Hand = tuple[int, ...]
Run = Generator[Groups, bool, None]


class Isolation:
    """Isolation of some nets, step by step. nets: their numbers, neighbours beside each other.
    first: those that are measured against all others at the start. clips: how many are tied
    together at most, none for as many as there are.
    """

    def __init__(
        self, nets: Sequence[int], first: Sequence[int] = (), clips: int | None = None
    ) -> None:
        self._clips = clips or len(nets) or 1
        self._first = tuple(first)
        self._rest = tuple(net for net in nets if net not in set(first))
        self.touching: list[tuple[int, int]] = []
        """The pairs that touch."""
        self.ohm: float | None = None
        """What was shown last where groups touched, ohms: when a pair is found, between that pair,
        even where the last measurement was of the other half.
        """
        self.measured = 0
        self._tied: dict[int, int] = {}
        self._steps = self._run()
        self.now: Groups | None = next(self._steps, None)
        """What is measured next, None when all is known."""

    def answer(self, ohm: float | None) -> bool:
        """Take up what is shown between the groups that are measured now, None for open; return
        whether they touch.
        """
        self.measured += 1
        touches = ohm is not None and ohm < APART_OHM
        if touches:
            self.ohm = ohm
        try:
            self.now = self._steps.send(touches)
        except StopIteration:
            self.now = None
        return touches

    def _run(self) -> Run:
        """Go through all digits; what was found to touch is one from then on, and all is gone
        through again, until nothing new touches.
        """
        while True:
            known = len(self.touching)
            yield from self._pass()
            if len(self.touching) == known:
                return

    def _pass(self) -> Run:
        """Measure all against all, up to the first that touches."""
        ones: dict[int, list[int]] = {}
        for net in (*self._first, *self._rest):
            ones.setdefault(self._top(net), []).append(net)
        first = dict.fromkeys(self._top(net) for net in self._first)
        rest = [top for top in dict.fromkeys(map(self._top, self._rest)) if top not in first]

        def members(tops: Iterable[int]) -> Group:
            return tuple(net for top in tops for net in ones[top])

        earths = _handfuls([*first], ones, self._clips)
        # Neighbours lie in one handful, or in the next.
        hands = _handfuls(rest, ones, self._clips)
        words = "earth and screens against all others"
        for one, other in itertools.product(earths, hands):  # earths among themselves may meet
            if (yield from self._apart(members(one), members(other), {}, words)):
                return
        for hand in hands:
            if (yield from self._within(hand, members)):
                return
        for one, other in _nearest_first(hands):
            words = "each handful against each other"
            if (yield from self._apart(members(one), members(other), {}, words)):
                return

    def _within(
        self, tops: Sequence[int], members: Callable[[Iterable[int]], Group]
    ) -> Generator[Groups, bool, bool]:
        """Measure all of some nets against each other; return whether any touch."""
        for digit in range(max(0, len(tops) - 1).bit_length()):
            one = members(top for at, top in enumerate(tops) if at >> digit & 1)
            other = members(top for at, top in enumerate(tops) if not at >> digit & 1)
            # What passed for the lower digits differs in none of them.
            alike = {
                net: at & ((1 << digit) - 1)
                for at, top in enumerate(tops)
                for net in members((top,))
            }
            words = "neighbours against each other" if digit == 0 else "halves mixed again"
            if (yield from self._apart(one, other, alike, words)):
                return True
        return False

    def _apart(
        self, one: Group, other: Group, alike: dict[int, int], why: str
    ) -> Generator[Groups, bool, bool]:
        """Measure two groups, and find what touches between them; return whether anything does."""
        if not (yield Groups(one, other, why)):
            return False
        pair = yield from self._closed_in(one, other, alike)
        self.touching.append(pair)
        self._tied[self._top(pair[0])] = self._top(pair[1])
        return True

    def _closed_in(
        self, one: Group, other: Group, alike: dict[int, int]
    ) -> Generator[Groups, bool, tuple[int, int]]:
        """Close in on what touches by halves. alike: a touch is between two of one kind."""
        kinds = sorted({alike[net] for net in one} & {alike[net] for net in other}) if alike else []
        while len(kinds) > 1:
            half = set(kinds[: len(kinds) // 2])
            touches = yield Groups(_of(one, alike, half), _of(other, alike, half), "closing in")
            kinds = [kind for kind in kinds if (kind in half) == touches]
        if kinds:
            one, other = _of(one, alike, set(kinds)), _of(other, alike, set(kinds))
        while len(one) > 1 or len(other) > 1:
            if len(one) >= len(other):
                some = one[: len(one) // 2]
                touches = yield Groups(some, other, "closing in")
                one = some if touches else one[len(one) // 2 :]
            else:
                some = other[: len(other) // 2]
                touches = yield Groups(one, some, "closing in")
                other = some if touches else other[len(other) // 2 :]
        return one[0], other[0]

    def _top(self, net: int) -> int:
        while net in self._tied:
            net = self._tied[net]
        return net


def _handfuls(tops: Sequence[int], ones: dict[int, list[int]], clips: int) -> list[tuple[int, ...]]:
    """Return nets in handfuls of no more places than clips; one that was found to touch many
    others has a place for each, and may be more by itself.
    """
    found: list[list[int]] = []
    room = 0
    for top in tops:
        places = len(ones[top])
        if not found or places > room:
            found.append([])
            room = clips
        found[-1].append(top)
        room -= places
    return [tuple(tops) for tops in found]


def _nearest_first(hands: Sequence[Hand]) -> list[tuple[Hand, Hand]]:
    """Return all pairs of handfuls, those that lie beside each other first."""
    pairs = itertools.combinations(enumerate(hands), 2)
    return [(one[1], other[1]) for one, other in sorted(pairs, key=lambda p: p[1][0] - p[0][0])]


def _of(group: Group, alike: dict[int, int], kinds: set[int]) -> Group:
    return tuple(net for net in group if alike[net] in kinds)


def isolation_of(bench: Bench, clips: int | None = None) -> Isolation:
    """Return isolation of all nets of a bench that a probe reaches, numbered as they lie beside
    each other; earths and screens first. clips: how many are tied together at most.
    """
    nets = [number for number, net in enumerate(bench.nets) if net.points]
    screens = {wire.code for wire in bench.wires.values() if wire.use == "screen"}
    first = [
        number
        for number in nets
        if any(point.at in bench.earths for point in bench.nets[number].points)
        or screens & set(bench.nets[number].wires)
    ]
    return Isolation(nets, first, clips)


def measurements_if_sound(bench: Bench, clips: int | None = None) -> int:
    """Return how many measurements isolation takes where nothing touches."""
    steps = isolation_of(bench, clips)
    while steps.now is not None:
        steps.answer(None)
    return steps.measured


def sensitive_to_high_voltage(job: Job) -> list[str]:
    """Return what must be unplugged before a high voltage is put on a loom, by name."""
    return [
        device.name or device.code
        for device in job.devices
        if device.kind in SENSITIVE or device.suppression == "diode"
    ]


def apart_words(bench: Bench, group: Group, most: int = 40) -> str:
    """Say which nets are tied together: a cavity of each, by plug; no more than most."""
    by: dict[str, list[str]] = defaultdict(list)
    for number in group[:most]:
        point = bench.tied_at[number]
        by[point.at].append(point.cavity)
    words = [f"{part} {', '.join(filter(None, places))}".strip() for part, places in by.items()]
    more = f" and {len(group) - most} more" if len(group) > most else ""
    return "; ".join(words) + more
