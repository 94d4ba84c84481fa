"""What is likely wrong, from any set of readings, and what to measure next.

Each cause is played through, and held against the readings with what the meter may be off: the
better it explains them, the likelier; what no cause explains is said, and then pairs are tried.
The next measurement is the one that splits best what is left.
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from itertools import combinations, pairwise
from typing import NamedTuple

from molvik.lazy import cached_property
from molvik.model.job import Reading, Settings
from molvik.model.parts import End
from molvik.netlist.faults import Fault
from molvik.netlist.network import Network
from molvik.proving.bench import Bench, end_order
from molvik.proving.causes import Cause, causes
from molvik.proving.meter import spread_ohm
from molvik.proving.played import Faults, Played, Point, Shown
from molvik.stopping import look_up

SOUND_ODDS = 3.0
"""How likely it is that nothing is wrong, beside a wire that is open (our choice): who measures has
a reason."""

NOT_AT_ALL = math.log(1e-4) + 1e-9
SLIP = 1e-4
"""How often a reading is of something else: a probe on another cavity, a slip of the pen (our
choice)."""

JOINTS_OHM, JOINTS_SHARE = 0.03, 0.1
"""How much sound joints and copper differ from what is reckoned, ohms, and as a share."""

VOLTS_OFF, VOLTS_SHARE = 0.15, 0.02
"""How much voltages differ from what is reckoned, V, and as a share (our choice)."""

LIKELY, MOST_LEFT = 0.002, 40
"""Causes less likely than this, and past so many, are no matter for what is measured next."""

SURE = 0.95
LEAST_BITS = 0.02
PAIRS_OF = 24
"""Of so many causes that explain something pairs are made."""


class Seen(NamedTuple):
    """One reading: where, and what was shown: ohms with the leads taken off, volts, or how a device
    stands.
    """

    point: Point
    shown: Shown


class Ranked(NamedTuple):
    """A cause, or two together, with how likely it is, 0 to 1. unexplained: the readings it does
    not explain, by their places. faults: what is wrong then, as it fits best.
    """

    causes: tuple[Cause, ...]
    share: float
    unexplained: tuple[int, ...]
    faults: Faults


Scored = tuple[float, tuple[Cause, ...], tuple[int, ...], Faults]
"""How well causes explain the readings, a logarithm, which readings they do not, and the faults."""


class Proposal(NamedTuple):
    """What to measure next. bits: how much it tells; answers: what each answer would mean: what is
    shown, in words, and the causes that are left then, the likeliest first.
    """

    point: Point
    bits: float
    answers: tuple[tuple[str, tuple[tuple[Cause, ...], ...]], ...]


def seen_of(readings: Iterable[Reading]) -> tuple[Seen, ...]:
    """Return what readings say: ohms on the bench, volts in a state. The last of each counts."""
    found: dict[Point, Seen] = {}
    for reading in readings:
        if len(reading.points) != 2:
            continue
        red, black = reading.points
        if reading.quantity == "resistance" and not reading.state:
            point = Point.of("resistance", red, black)
            value = None if reading.value is None else max(0.0, reading.value - reading.leads_ohm)
            found[point] = Seen(point, value)
        elif reading.quantity == "voltage" and reading.state:
            point = Point.of("voltage", red, black, reading.state)
            found[point] = Seen(point, reading.value)
    return tuple(found.values())


class Diagnosis:
    """What some readings of a job mean.

    played: what was played before, to be used again. among: the causes thought of, all there are
    without it.
    """

    def __init__(
        self, network: Network, seen: Sequence[Seen], played: Played | None = None,
        among: tuple[Cause, ...] | None = None,
    ) -> None:  # fmt: skip
        self.network, self.seen = network, tuple(seen)
        self.settings: Settings = network.job.settings
        self.played = played or Played(network, Bench(network.job))
        self._among = among

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        """The causes thought of."""
        return causes(self.network) if self._among is None else self._among

    def off(self, point: Point, value: float) -> float:
        """Return how far a reading of a sound loom may lie from what is reckoned."""
        if point.what == "resistance":
            meter = spread_ohm(value, self.settings)
            return math.hypot(meter, JOINTS_OHM + JOINTS_SHARE * value)
        return VOLTS_OFF + VOLTS_SHARE * abs(value)

    def _fit(self, point: Point, shown: Shown, wanted: Shown) -> float:
        """Return how well what is shown is what a cause makes of it: a logarithm, 0 at best."""
        if isinstance(shown, str) or isinstance(wanted, str) or shown is None or wanted is None:
            return 0.0 if shown == wanted else math.log(SLIP)
        off = (shown - wanted) / self.off(point, max(shown, wanted))
        return max(math.log(SLIP), -0.5 * off * off)

    @cached_property
    def _sound(self) -> tuple[float, ...]:
        """How well a sound loom explains each reading."""
        return tuple(
            self._fit(seen.point, seen.shown, self.played.shown((), seen.point))
            for seen in self.seen
        )

    @cached_property
    def _on_net(self) -> dict[int, list[int]]:
        """The places of the readings that were taken on each net of the bench."""
        found: dict[int, list[int]] = defaultdict(list)
        for place, seen in enumerate(self.seen):
            if seen.point.what == "resistance":
                for net in self._nets(seen.point):
                    found[net].append(place)
        return found

    @cached_property
    def _powered(self) -> tuple[int, ...]:
        """The places of the readings that were not taken on the bench."""
        return tuple(n for n, seen in enumerate(self.seen) if seen.point.what != "resistance")

    def _nets(self, point: Point) -> set[int]:
        bench = self.played.bench
        return {bench.net_of[end] for end in (point.red, point.black) if end in bench.net_of}

    def _changed(self, faults: Faults) -> list[int]:
        """Return the places of the readings that faults can change."""
        touched = self.played.faulty(faults).touched
        return sorted({n for net in touched for n in self._on_net.get(net, ())}
                      | set(self._powered))  # fmt: skip

    def _explains(self, some: tuple[Cause, ...]) -> tuple[float, tuple[int, ...], Faults]:
        """Return how well causes explain all readings, which they do not, and with which faults."""
        whole = sum(self._sound)
        unlike = {n for n, fit in enumerate(self._sound) if fit <= NOT_AT_ALL}
        best: tuple[float, tuple[int, ...], Faults] | None = None
        for faults in self._variants(some):
            total, missed = whole, set(unlike)
            for place in self._changed(faults):
                seen = self.seen[place]
                fit = self._fit(seen.point, seen.shown, self.played.shown(faults, seen.point))
                total += fit - self._sound[place]
                (missed.add if fit <= NOT_AT_ALL else missed.discard)(place)
            if best is None or total > best[0]:
                best = total, tuple(sorted(missed)), faults
        assert best is not None
        return best

    def _variants(self, some: tuple[Cause, ...]) -> Iterator[Faults]:
        """Yield the faults that causes may be together: a bad joint with as many ohms as a reading
        shows too many, or with the usual ones.
        """
        if not some:
            yield ()
            return
        choices = [self._ohms(cause) for cause in some]
        for number in range(max(map(len, choices))):
            yield tuple(faults[min(number, len(faults) - 1)] for faults in choices)

    def _ohms(self, cause: Cause) -> list[Fault]:
        first = cause.faults[0]
        if first.kind != "bad":
            return list(cause.faults)
        extra: set[float] = set()
        for place in self._changed((first,)):
            seen = self.seen[place]
            sound = self.played.shown((), seen.point)
            if seen.point.what == "resistance" and isinstance(seen.shown, float):
                more = seen.shown - sound if isinstance(sound, float) else 0.0
                if more > 0.1:
                    extra.add(round(more, 2))
        usual = list(cause.faults) if self._powered or not extra else []
        return [first._replace(ohm=ohm) for ohm in sorted(extra)[:4]] + usual

    @cached_property
    def _singles(self) -> list[Scored]:
        found: list[Scored] = []
        total, missed, _ = self._explains(())
        found.append((math.log(SOUND_ODDS) + total, (), missed, ()))
        for cause in self.causes:
            look_up()
            if not self._powered and not self.played.faulty(cause.faults[:1]).touched:
                continue  # nothing on the bench tells of it
            fit, missed, faults = self._explains((cause,))
            found.append((math.log(cause.odds) + fit, (cause,), missed, faults))
        return found

    @cached_property
    def ranked(self) -> tuple[Ranked, ...]:
        """All causes, the likeliest first; no cause stands for a sound loom. Where none alone
        explains every reading, pairs that do stand among them.
        """
        found = list(self._singles)
        if all(one[2] for one in found):
            found += self._pairs(found)
        top = max(one[0] for one in found)
        total = sum(math.exp(one[0] - top) for one in found)
        made = [
            Ranked(some, math.exp(score - top) / total, missed, faults)
            for score, some, missed, faults in found
        ]
        return tuple(sorted(made, key=lambda one: -one.share))

    def _pairs(self, singles: list[Scored]) -> list[Scored]:
        """Return pairs of causes that each explain what the other does not."""
        sound = set(singles[0][2])
        useful = [
            (score, some, set(missed))
            for score, some, missed, _ in singles[1:]
            if sound - set(missed)
        ]
        useful.sort(key=lambda one: -one[0])
        found: list[Scored] = []
        for (_, one, missed), (_, other, unlike) in combinations(useful[:PAIRS_OF], 2):
            look_up()
            if len(missed & unlike) < min(len(missed), len(unlike)):
                fit, left, faults = self._explains((*one, *other))
                odds = math.log(one[0].odds) + math.log(other[0].odds) + math.log(SLIP) / 2
                found.append((odds + fit, (*one, *other), left, faults))
        return found

    # what it comes to

    @cached_property
    def groups(self) -> tuple[tuple[Ranked, ...], ...]:
        """The likely causes in groups that no measurement tells apart, the likeliest first."""
        likely = [one for one in self.ranked if one.share >= LIKELY][:MOST_LEFT]
        by: dict[tuple[str, ...], list[Ranked]] = defaultdict(list)
        for one in likely:
            by[self._sign(one.faults)].append(one)
        found = [tuple(some) for some in by.values()]
        return tuple(sorted(found, key=lambda some: -sum(one.share for one in some)))

    def _sign(self, some: Faults) -> tuple[str, ...]:
        return tuple(self._told(point, self.played.shown(some, point)) for point in self._points)

    def _told(self, point: Point, shown: Shown) -> str:
        """Return what is shown in steps that a meter tells apart."""
        if shown is None or isinstance(shown, str):
            return str(shown)
        if point.what != "resistance":
            return f"{round(shown / (4 * self.off(point, shown)))}"
        return f"{round(math.log(1 + shown / 0.15) * 2.5)}"

    @property
    def verdict(self) -> str:
        """Say what it comes to, in words."""
        job = self.network.job
        best = self.groups[0] if self.groups else ()
        if not best or sum(one.share for one in best) < 0.5:
            return "Several causes are left: measure on."
        first = best[0]
        if not first.causes:
            return "Nothing is wrong, as far as was measured."
        if first.unexplained:
            return "No single fault explains these readings, nor do two."
        words = " and ".join(cause.words(job) for cause in first.causes)
        if len(best) > 1:
            others = "; ".join(" and ".join(c.words(job) for c in one.causes) for one in best[1:4])
            return f"{words}; or, which no measurement tells apart: {others}."
        return f"{words}."

    # what to measure next

    @cached_property
    def _left(self) -> tuple[Ranked, ...]:
        return tuple(one for one in self.ranked if one.share >= LIKELY)[:MOST_LEFT]

    @cached_property
    def _points(self) -> tuple[Point, ...]:
        """Where measuring may tell anything: on the nets that likely causes touch."""
        bench = self.played.bench
        found: dict[Point, None] = {}
        states = dict.fromkeys(seen.point.state for seen in self.seen if seen.point.state)
        for one in self._left:
            nets = self.played.faulty(one.faults).touched
            hubs: list[End] = []
            for net in sorted(nets):
                points = sorted(bench.nets[net].points, key=end_order)[:12]
                hubs += points[:1]
                for a, b in (*((points[0], p) for p in points[1:]), *pairwise(points)):
                    found[Point.of("resistance", a, b)] = None
                for point in points:
                    for state in states:
                        found[Point.of("voltage", point, End(), state)] = None
            for a, b in combinations(hubs[:4], 2):
                found[Point.of("resistance", a, b)] = None
        return tuple(found)

    @cached_property
    def next(self) -> Proposal | None:
        """The measurement that tells most, None when one cause is left, or none tells more."""
        if not self.groups or sum(one.share for one in self.groups[0]) >= SURE:
            return None
        known = {seen.point for seen in self.seen}
        left = [some for some in self.groups if some]
        shares = [sum(one.share for one in some) for some in left]
        best: tuple[float, Point, dict[str, list[int]]] | None = None
        for point in self._points:
            if point in known:
                continue
            look_up()
            classes: dict[str, list[int]] = defaultdict(list)
            for number, some in enumerate(left):
                shown = self.played.shown(some[0].faults, point)
                classes[self._told(point, shown)].append(number)
            sums = [sum(shares[n] for n in group) for group in classes.values()]
            total = sum(sums)
            bits = -sum(p / total * math.log2(p / total) for p in sums if p > 0)
            if best is None or bits > best[0] + 1e-9:
                best = bits, point, classes
        if best is None or best[0] < LEAST_BITS:
            return None
        bits, point, classes = best
        answers = []
        for group in sorted(classes.values(), key=lambda group: -sum(shares[n] for n in group)):
            shown = self.played.shown(left[group[0]][0].faults, point)
            answers.append((in_words(point, shown), tuple(left[n][0].causes for n in group)))
        return Proposal(point, bits, tuple(answers))


def in_words(point: Point, shown: Shown) -> str:
    """Return what a meter shows, in words."""
    if shown is None:
        return "open" if point.what == "resistance" else "nothing"
    if isinstance(shown, str):
        return shown
    return f"{shown:.2f} {'Ω' if point.what == 'resistance' else 'V'}"
