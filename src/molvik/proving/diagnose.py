"""What is likely wrong, from any set of readings, and what to measure next.

Each cause is played through, and held against the readings with what the meter may be off: the
better it explains them, the likelier; what no cause explains is said, and then pairs are tried.
The next measurement is the one that splits best what is left.
"""

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from itertools import combinations, pairwise, product
from typing import NamedTuple

from molvik.devices.states import NAMED
from molvik.lazy import cached_property
from molvik.model.parts import End
from molvik.proving.bench import end_order
from molvik.proving.causes import Cause
from molvik.proving.faultsimulator import Faults
from molvik.proving.observations import Observation
from molvik.proving.points import Point, Shown, in_words, where_words
from molvik.proving.scoring import SLIP, SLIPS, Scoring
from molvik.stopping import look_up

SEEN = ("lamp", "warning lamp", "LED", "motor", "heater", "load", "gauge")
"""Kinds of devices that anybody sees, hears or feels working."""

LIKELY, MOST_LEFT = 0.002, 80
"""Causes less likely than this, and past so many, are no matter for what is measured next."""

NARROW = (
    "So much is joined to it that only what lies on the paths to it is considered: a short "
    "elsewhere shows as the fuse it blows."
)

MOST_POINTS = 12
"""Of so many points of a net it is thought where to measure."""

ODD = -2.0
"""A reading that fits a sound loom worse than this, twice what it may be off, shows something."""

MOST_NAMED = 3

SURE = 0.95
LEAST_BITS = 0.02

LOOKING, PROBING, UNPLUGGING = 0.4, 1.0, 3.0
"""How much trouble it is to look whether something works, to probe a plug from behind, and to take
power off and plugs out for ohms (our choice). On a bench all is unplugged: ohms are as easy."""

NEARER = 0.85
"""So much of the trouble where one probe can stay (our choice)."""


class Ranked(NamedTuple):
    """A cause, or two together, with how likely it is, 0 to 1. unexplained: the readings it does
    not explain, by their places. faults: what is wrong then, as it fits best.
    """

    causes: tuple[Cause, ...]
    share: float
    unexplained: tuple[int, ...]
    faults: Faults


class Proposal(NamedTuple):
    """What to measure next. bits: how much it tells; answers: what each answer would mean: what is
    shown, in words, and the causes that are left then, the likeliest first.
    """

    point: Point
    bits: float
    answers: tuple[tuple[str, tuple[tuple[Cause, ...], ...]], ...]


class Diagnosis(Scoring):
    """What some readings of a job mean, and what to measure next."""

    @cached_property
    def ranked(self) -> tuple[Ranked, ...]:
        """All causes, the likeliest first; no cause stands for a sound loom. Where none alone
        explains every reading, pairs that do stand among them.
        """
        found = list(self.singles)
        found += self.pairs(found) if all(one[2] for one in found) else self.coincidences(found)
        # A reading that a cause leaves unexplained may have been a slip; twice the same is hardly
        # one, and whether a lamp is alight nobody mistakes.
        read = {n for n, seen in enumerate(self.seen) if not isinstance(seen.shown, str)}
        slip = math.log(SLIPS / SLIP)
        found = [(one[0] + slip * len(read.intersection(one[2])), *one[1:]) for one in found]
        top = max(one[0] for one in found)
        total = sum(math.exp(one[0] - top) for one in found)
        made = [
            Ranked(some, math.exp(score - top) / total, missed, faults)
            for score, some, missed, faults in found
        ]
        return tuple(sorted(made, key=lambda one: -one.share))

    # what it comes to

    @cached_property
    def groups(self) -> tuple[tuple[Ranked, ...], ...]:
        """The likely causes in groups that no measurement tells apart, the likeliest first."""
        found, together = list[list[Ranked]](), [list(self._left)]
        for point in self._by_effort:
            look_up()
            split: list[list[Ranked]] = []
            for group in together:
                by: dict[str, list[Ranked]] = defaultdict(list)
                for one in group:
                    by[self._told(point, self.simulator.predicted(one.faults, point))].append(one)
                split += by.values()
            # One that is alone is told from all others: nothing more is asked of it.
            found += [some for some in split if len(some) == 1]
            together = [some for some in split if len(some) > 1]
        groups = (tuple(some) for some in (*found, *together) if some)
        place = {id(one): n for n, one in enumerate(self.ranked)}
        return tuple(
            sorted(groups, key=lambda some: (-sum(one.share for one in some), place[id(some[0])]))
        )

    @cached_property
    def _by_effort(self) -> list[Point]:
        """Where may be measured, what is the least trouble first."""
        every = (*self._looked_at, *self._points)
        can = (point for point in every if self.can_unplug or not point.is_on_bench)
        return sorted(can, key=self.effort)

    def _told(self, point: Point, shown: Shown) -> str:
        """Return what is shown in steps that a meter tells apart."""
        if shown is None or isinstance(shown, str):
            return str(shown)
        if point.what != "resistance":
            return f"{round(shown / (4 * self.tolerance(point, shown)))}"
        return f"{round(math.log(1 + shown / 0.15) * 2.5)}"

    @cached_property
    def known(self) -> tuple[Cause, ...]:
        """The causes that are sure whatever else is wrong beside them."""
        shares: dict[str, float] = defaultdict(float)
        causes: dict[str, Cause] = {}
        for one in self.ranked:
            for cause in one.causes if len(one.causes) > 1 else ():
                shares[cause.key] += one.share
                causes[cause.key] = cause
        return tuple(causes[key] for key, share in shares.items() if share >= SURE)

    def left_of(self, some: tuple[Cause, ...]) -> tuple[Cause, ...]:
        """Return of causes those that are not known while others are left, all when none is."""
        sure = {cause.key for cause in self.known}
        rest = tuple(cause for cause in some if cause.key not in sure)
        return rest if rest and self.next is not None else some

    @property
    def verdict(self) -> str:
        """Say what it comes to, in words, what wavers, and what was not thought of."""
        said = [self._verdict]
        if self.wavers and not self._is_all_that_wavers:
            where = "”, “".join(map(self.where, self.wavers))
            said.append(f"Besides, it comes and goes at “{where}”.")
        return " ".join((*said, NARROW) if self.reach.narrow else said)

    @cached_property
    def wavers(self) -> tuple[Point, ...]:
        """Where something else was read before, and nothing was mended between."""
        return tuple(dict.fromkeys(seen.point for seen in self.seen if seen.wavers))

    @property
    def _is_all_that_wavers(self) -> bool:
        """Whether nothing is wrong but that a reading was another before."""
        best = self.groups[0] if self.groups else ()
        sound = bool(best) and not best[0].causes and sum(one.share for one in best) >= 0.5
        return sound and bool(self.wavers) and not self.odd

    @property
    def _verdict(self) -> str:
        job = self.network.job
        best = self.groups[0] if self.groups else ()
        may_be_slip = bool(best) and not best[0].causes and bool(self.odd)
        if not best or (sum(one.share for one in best) < 0.5 and not may_be_slip):
            if self.known:
                words = "; ".join(cause.words(job) for cause in self.known)
                return f"Known: {words}. What else is wrong is left: measure on."
            return "Several causes are left: measure on."
        first = best[0]
        if not first.causes:
            odd = self.odd
            if self._is_all_that_wavers:
                where = "”, “".join(map(self.where, self.wavers))
                return (
                    f"It comes and goes at “{where}”: what was read there before is not what "
                    "is read now, and nothing was repaired in between. Move the wire and both "
                    "plugs while you measure, warm it, and measure again."
                )
            if not odd:
                return "Nothing is wrong, as far as was measured."
            may = next(
                (one for one in self.ranked if one.causes and not set(odd) & set(one.unexplained)),
                None,
            )
            if may is None:
                return f"Nothing that is thought of explains {self._named(odd)} Measure that again."
            words = " and ".join(cause.words(job) for cause in may.causes)
            return f"A slip, or {words}: {self._named(odd)} Measure that again."
        words = " and ".join(cause.words(job) for cause in first.causes)
        if first.unexplained:
            left = self._named(first.unexplained)
            if all(self.seen[n].point in self.once for n in first.unexplained):
                return f"{words}; it does not explain {left} Measure that again."
            return f"No single fault explains these readings, nor do two: not {left}"
        if len(self.odd) == 1 and self.once:
            where = self.where(self.seen[self.odd[0]].point)
            words += f", if one reading is right: measure “{where}” again"
        if len(best) > 1:
            others = "; ".join(" and ".join(c.words(job) for c in one.causes) for one in best[1:4])
            return f"{words}; or, which no measurement tells apart: {others}."
        return f"{words}."

    def where(self, point: Point) -> str:
        """Say what is measured, and where, with names."""
        part = self.network.parts.get(point.red.at) if point.what == "device" else None
        return where_words(point, self.settings.earthed, getattr(part, "name", ""))

    def shortly(self, seen: Observation) -> str:
        """Say what was seen, and where, in as few words as go into a list."""
        point, shown = seen.point, in_words(seen.point, seen.shown)
        out = f", {', '.join(point.out)} out" if point.out else ""
        if point.what == "device":
            part = self.network.parts.get(point.red.at)
            name = f"{getattr(part, 'name', '')} ({point.red.at})".strip()
            return f"{name} {shown} in {point.state}{out}"
        if point.what == "code":
            return f"{point.red.cavity} {shown}"
        if point.what == "fuse":
            return f"{point.red.at} {shown}"
        places = f"{point.red} {point.black}".strip() if point.black.at else str(point.red)
        return f"{places} {shown}{f' in {point.state}' if point.state else ''}{out}"

    @cached_property
    def once(self) -> frozenset[Point]:
        """Where something odd was read, and only once: it may have been a slip."""
        odd = Counter(
            self.seen[n].point for n in self.odd if not isinstance(self.seen[n].shown, str)
        )
        return frozenset(point for point, times in odd.items() if times == 1)

    @property
    def odd(self) -> tuple[int, ...]:
        """Return the places of the readings that a sound loom would hardly show."""
        return tuple(n for n, fit in enumerate(self._sound) if fit < ODD)

    def _named(self, places: Sequence[int]) -> str:
        """Say of some readings what is shown, and what a sound loom would show."""
        said = []
        for seen in (self.seen[n] for n in places[:MOST_NAMED]):
            sound = in_words(seen.point, self.simulator.predicted((), seen.point))
            shown = in_words(seen.point, seen.shown)
            said.append(f"{shown} at “{self.where(seen.point)}”, where {sound} is expected")
        more = f" and {len(places) - MOST_NAMED} more" if len(places) > MOST_NAMED else ""
        return f"{'; '.join(said)}{more}."

    # what to measure next

    @cached_property
    def _left(self) -> tuple[Ranked, ...]:
        return tuple(one for one in self.ranked if one.share >= LIKELY)[:MOST_LEFT]

    @cached_property
    def _points(self) -> tuple[Point, ...]:
        """Where measuring may tell anything: on the nets that likely causes touch."""
        bench = self.simulator.bench
        found: dict[Point, None] = {}
        states = dict.fromkeys(seen.point.state for seen in self.seen if seen.point.state)
        for ranked in self._left:
            nets = self.simulator.faulty(ranked.faults).touched
            hubs: list[End] = []
            for net in sorted(nets):
                every = sorted(bench.nets[net].points, key=end_order)
                points = every[:MOST_POINTS]
                hubs += points[:1]
                # In a net of many points, each against the first tells enough.
                beside = pairwise(points) if len(every) <= MOST_POINTS else ()
                for a, b in (*((points[0], p) for p in points[1:]), *beside):
                    found[Point.of("resistance", a, b)] = None
                for point in points:
                    for state in states:
                        found[Point.of("voltage", point, End(), state)] = None
            if any(fault.kind == "swap" for fault in ranked.faults):
                # Two that are in each other's place show themselves when it is measured across.
                some = [sorted(bench.nets[net].points, key=end_order)[:3] for net in sorted(nets)]
                for first, second in combinations(some[:3], 2):
                    for a, b in product(first, second):
                        found[Point.of("resistance", a, b)] = None
            for a, b in combinations(hubs[:4], 2):
                found[Point.of("resistance", a, b)] = None
        return tuple(found)

    def effort(self, point: Point) -> float:
        """Return how much trouble a measurement is, beside probing a plug."""
        if point.what in ("device", "fuse"):
            return LOOKING
        effort = UNPLUGGING if point.is_on_bench and self._powered else PROBING
        last = self.seen[-1].point if self.seen else None
        stays = last is not None and {point.red, point.black} & {last.red, last.black} - {End()}
        return effort * NEARER if stays else effort

    @cached_property
    def _looked_at(self) -> list[Point]:
        """What can be looked at: whether devices work that what is left may change, in the states
        that were looked at.
        """
        states = dict.fromkeys(seen.point.state for seen in self.seen if seen.point.state)
        changed = {
            state: frozenset[str]().union(
                *(self.simulator.otherwise(one.faults, NAMED[state]) for one in self._left)
            )
            for state in states
        }
        return [
            Point.of("device", End(device.code), End(), state)
            for state in states
            for device in self.network.job.devices
            if device.kind in SEEN and device.code in changed[state]
        ]

    @cached_property
    def next(self) -> Proposal | None:
        """The measurement that tells most, None when one cause is left, or none tells more."""
        if not self.groups:
            return None
        best_is_sound = not self.groups[0][0].causes
        first = self.once or frozenset(self.wavers) if best_is_sound else frozenset[Point]()
        if not first and sum(one.share for one in self.groups[0]) >= SURE:
            return None
        known = {seen.point for seen in self.seen}
        left = [some for some in self.groups if some]
        shares = [sum(one.share for one in some) for some in left]
        most = _bits(shares)
        best: tuple[float, float, Point, dict[str, list[int]]] | None = None
        again = self.once
        known -= again
        # In an order that is the same each time: the first of like worth is proposed. Where a sound
        # loom is likeliest, with a slip or what comes and goes, nothing else is asked before that
        # was measured again.
        more = sorted(again.difference(self._by_effort), key=str)
        known -= first
        least = 0.0 if first else LEAST_BITS
        asked = sorted(first, key=str) if first else (*self._by_effort, *more)
        for point in sorted(asked, key=self.effort):
            if best is not None and most / self.effort(point) <= best[0]:
                break  # telling all there is to tell, it would be worth less
            if point in known:
                continue
            look_up()
            classes: dict[str, list[int]] = defaultdict(list)
            for number, some in enumerate(left):
                shown = self.simulator.predicted(some[0].faults, point)
                classes[self._told(point, shown)].append(number)
            sums = [sum(shares[n] for n in group) for group in classes.values()]
            bits = _bits(sums)
            worth = bits / self.effort(point)
            if bits >= least and (best is None or worth > best[0] + 1e-9):
                best = worth, bits, point, classes
        if best is None:
            return None
        _, bits, point, classes = best
        answers = []
        for group in sorted(classes.values(), key=lambda group: -sum(shares[n] for n in group)):
            shown = self.simulator.predicted(left[group[0]][0].faults, point)
            answers.append((in_words(point, shown), tuple(left[n][0].causes for n in group)))
        return Proposal(point, bits, tuple(answers))


def _bits(shares: Sequence[float]) -> float:
    """Return how much it tells which of some it is, by how likely each is beside the others."""
    total = sum(shares)
    return -sum(p / total * math.log2(p / total) for p in shares if p > 0)
