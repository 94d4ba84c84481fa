"""Whether nets touch that should not: all against all in about as many measurements as the number
of nets has binary digits, never each against each.

First what is to stay off everything, earth and screens, against all the rest. Then the nets are
tied together in two groups, by a digit of their numbers, and the groups measured against each
other: two nets differ in at least one digit. Numbered as they lie beside each other, neighbours
differ in the lowest, so that the likely touch is found first. What touches is closed in on by
halves, and is then tied together, and all goes on until everything passes.
"""

from collections import defaultdict
from collections.abc import Generator, Iterable, Sequence
from typing import NamedTuple

from molvik.model.job import Job
from molvik.proving.bench import Bench

APART_OHM = 1e6
"""Nets that do not touch show at least this, ohms (common practice)."""

HARMED = {
    "alternator", "diode", "diagnostic plug", "controller", "gauge", "LED", "network node",
    "pickup", "sensor",
}  # fmt: skip
"""Kinds of devices that hold electronics, which an insulation tester's voltage breaks (common
practice: whatever holds electronics is unplugged before 250 or 500 V is put on)."""
HIGH_V = (250, 500)
"""The voltages of insulation testers that a loom is measured with, volts."""


class Groups(NamedTuple):
    """A measurement: all of one side tied together, against all of the other. why: for what."""

    one: tuple[int, ...]
    other: tuple[int, ...]
    why: str


Group = tuple[int, ...]
Run = Generator[Groups, bool, None]


class Isolation:
    """Isolation of some nets, step by step. nets: their numbers, neighbours beside each other.
    first: those that are measured against all others at the start.
    """

    def __init__(self, nets: Sequence[int], first: Sequence[int] = ()) -> None:
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
        first = {self._top(net) for net in self._first}
        rest = [top for top in dict.fromkeys(map(self._top, self._rest)) if top not in first]

        def members(tops: Iterable[int]) -> Group:
            return tuple(net for top in tops for net in ones[top])

        if first and rest:
            words = "earth and screens against all others"
            if (yield from self._apart(members(first), members(rest), {}, words)):
                return
        for digit in range(max(0, len(rest) - 1).bit_length()):
            one = members(top for at, top in enumerate(rest) if at >> digit & 1)
            other = members(top for at, top in enumerate(rest) if not at >> digit & 1)
            # What passed for the lower digits differs in none of them.
            alike = {net: at & ((1 << digit) - 1) for at, top in enumerate(rest)
                     for net in ones[top]}  # fmt: skip
            words = "neighbours against each other" if digit == 0 else "halves mixed anew"
            if (yield from self._apart(one, other, alike, words)):
                return

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


def _of(group: Group, alike: dict[int, int], kinds: set[int]) -> Group:
    return tuple(net for net in group if alike[net] in kinds)


def isolation_of(bench: Bench) -> Isolation:
    """Return isolation of all nets of a bench that a probe reaches, numbered as they lie beside
    each other; earths and screens first.
    """
    nets = [number for number, net in enumerate(bench.nets) if net.points]
    screens = {wire.code for wire in bench.wires.values() if wire.use == "screen"}
    first = [
        number
        for number in nets
        if any(point.at in bench.earths for point in bench.nets[number].points)
        or screens & set(bench.nets[number].wires)
    ]
    return Isolation(nets, first)


def harmed(job: Job) -> list[str]:
    """Return what must be unplugged before a high voltage is put on a loom, by name."""
    return [
        device.name or device.code
        for device in job.devices
        if device.kind in HARMED or device.suppression == "diode"
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
