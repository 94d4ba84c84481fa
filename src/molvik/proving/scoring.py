"""How well each cause explains some readings: played through, and held against what was shown with
what the meter may be off.
"""

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from itertools import combinations, pairwise, product

from molvik.devices.states import Fault, State
from molvik.lazy import cached_property
from molvik.model.job import Settings
from molvik.model.refs import Ref
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.causes import ANYWHERE, ODDS, TOGETHER, Cause, two_touch
from molvik.proving.faultsimulator import Faults, FaultSimulator
from molvik.proving.meter import spread_ohm
from molvik.proving.observations import Observation
from molvik.proving.points import Point, Shown
from molvik.proving.searchscope import SearchScope
from molvik.stopping import look_up

SOUND_SHARE = 0.5
"""How likely it is before anything was measured that nothing is wrong (our choice)."""

NOT_AT_ALL = math.log(1e-4) + 1e-9
SLIP = 1e-4
"""A reading that a cause does not explain fits it as badly as this, however far it is off."""

SLIPS = 2e-3
"""How often a reading is of something else: a probe on another cavity, a poor touch, a slip of the
pen (our choice)."""

JOINTS_OHM, JOINTS_SHARE = 0.03, 0.1
"""How much sound joints and copper differ from what is reckoned, ohms, and as a share."""

SHORTER = 0.3
"""A wire that shows less than is reckoned is shorter than was typed: by such a share that is no
wonder (our choice)."""

VOLTS_OFF, VOLTS_SHARE = 0.15, 0.02
"""How much voltages differ from what is reckoned, V, and as a share (our choice)."""

AMPS_OFF, AMPS_SHARE = 0.05, 0.15
"""How much currents differ from what is reckoned, A, and as a share (our choice): loads differ."""

MOST_BAD_OHM, FAR_OHM = 60.0, 2000.0
"""Past so many ohms a joint under power is as good as open, and told as that, unless a reading asks
for more and is another than with the far ones (our choice): a relay's coil behind it."""

CLOSED_IN, MOST_ASKED = 6, 2
"""In so many halvings the ohms of a bad joint are closed in on, by so many odd readings."""

REFINED = 16
"""Of so many bad joints the ohms are closed in on."""

SECOND = 0.15
"""How often a loom with a fault has another (our choice)."""

COMMON = 0.01
"""How likely it is that what opened one wire opened the one beside it: a crushed stretch, a plug
that is not home (our choice)."""

MOST_LOOKED_AT, MOST_PAIRS = 60, 36
"""Of so many wires of each net the pairs are looked at, and of so many pairs it is thought that
they touch: those that lie together first."""

PAIRS_OF = 8
"""Of so many causes for each reading pairs are made."""

WIDENED = 6
"""So many pairs that leave a reading unexplained are tried with a third cause."""


Scored = tuple[float, tuple[Cause, ...], tuple[int, ...], Faults]
"""How well causes explain the readings, a logarithm, which readings they do not, and the faults."""


class Scoring:
    """How well each cause explains some readings of a job.

    simulator: what was played before, to be used again. among: the causes thought of, all there are
    without it. can_unplug: whether what is wrong shows on the bench, too, with all unplugged.
    """

    def __init__(
        self,
        network: Network,
        seen: Sequence[Observation],
        simulator: FaultSimulator | None = None,
        among: tuple[Cause, ...] | None = None,
        *,
        can_unplug: bool = True,
    ) -> None:
        self.network, self.seen = network, tuple(seen)
        self.settings: Settings = network.job.settings
        self.simulator = simulator or FaultSimulator(network, Bench(network.job))
        self._among, self.can_unplug = among, can_unplug

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        """The causes thought of; and that what was found joined on the bench touches, wherever its
        wires lie.
        """
        known = self.simulator.causes(self.network) if self._among is None else self._among
        keys = {cause.key for cause in known}
        return (*known, *(cause for cause in self._joined() if cause.key not in keys))

    def _joined(self) -> Iterator[Cause]:
        """Yield for each reading between two nets that their wires touch."""
        bench = self.simulator.bench
        seen_pairs: set[frozenset[int]] = set()
        for seen in self.seen:
            nets = self._nets(seen.point) if seen.point.is_on_bench else set()
            apart = seen.shown in (None, "silent", "OL")
            if len(nets) != 2 or apart or frozenset(nets) in seen_pairs:
                continue
            seen_pairs.add(frozenset(nets))
            one, other = (bench.nets[net].wires[:MOST_LOOKED_AT] for net in sorted(nets))
            pairs = [(self._lie_together(*pair), *pair) for pair in product(one, other)]
            pairs.sort(key=lambda pair: not pair[0])
            for together, first, second in pairs[:MOST_PAIRS]:
                yield two_touch(first, second, ODDS["short"] * (TOGETHER if together else ANYWHERE))

    def _lie_together(self, one: str, other: str) -> bool:
        """Return whether two wires run through a stretch together, where that is known."""
        lies_in, nowhere = self.simulator.lies_in, frozenset[str]()
        return not lies_in.get(one, nowhere).isdisjoint(lies_in.get(other, nowhere))

    def tolerance(self, point: Point, value: float) -> float:
        """Return how far a reading of a sound loom may lie from what is reckoned, ohms or V."""
        if point.what == "resistance":
            meter = spread_ohm(value, self.settings)
            return math.hypot(meter, JOINTS_OHM + JOINTS_SHARE * value)
        if point.what == "current":
            return AMPS_OFF + AMPS_SHARE * abs(value)
        return VOLTS_OFF + VOLTS_SHARE * abs(value)

    def _fit(self, point: Point, shown: Shown, wanted: Shown) -> float:
        """Return how well what is shown is what a cause makes of it: a logarithm, 0 at best."""
        if isinstance(shown, str) or isinstance(wanted, str) or shown is None or wanted is None:
            return 0.0 if shown == wanted else math.log(SLIP)
        lies = self.tolerance(point, max(shown, wanted))
        if point.what == "resistance" and shown < wanted:
            lies = max(lies, SHORTER * wanted)
        off = (shown - wanted) / lies
        return max(math.log(SLIP), -0.5 * off * off)

    @cached_property
    def _sound(self) -> tuple[float, ...]:
        """How well a sound loom explains each reading."""
        return tuple(
            self._fit(seen.point, seen.shown, self.simulator.predicted((), seen.point))
            for seen in self.seen
        )

    @cached_property
    def _on_net(self) -> dict[int, list[int]]:
        """The places of the readings that were taken on each net of the bench."""
        found: dict[int, list[int]] = defaultdict(list)
        for place, seen in enumerate(self.seen):
            if seen.point.is_on_bench:
                for net in self._nets(seen.point):
                    found[net].append(place)
        return found

    @cached_property
    def _powered(self) -> tuple[int, ...]:
        """The places of the readings that were not taken on the bench."""
        return tuple(n for n, seen in enumerate(self.seen) if not seen.point.is_on_bench)

    def _nets(self, point: Point) -> set[int]:
        bench = self.simulator.bench
        return {bench.net_of[end] for end in (point.red, point.black) if end in bench.net_of}

    def _changed(self, faults: Faults) -> list[int]:
        """Return the places of the readings that faults can change."""
        touched = self.simulator.faulty(faults).touched
        changed = {n for net in touched for n in self._on_net.get(net, ())}
        if self._powered and any(map(self.reach.holds, faults)):
            changed |= set(self._powered)
        return sorted(changed)

    def _explains(self, some: tuple[Cause, ...]) -> tuple[float, tuple[int, ...], Faults]:
        """Return how well causes explain all readings, which they do not, and with which faults."""
        whole = sum(self._sound)
        unlike = {n for n, fit in enumerate(self._sound) if fit <= NOT_AT_ALL}
        best: tuple[float, tuple[int, ...], Faults] | None = None
        for faults in self._variants(some):
            total, missed = whole, set(unlike)
            for place in self._changed(faults):
                seen = self.seen[place]
                fit = self._fit(
                    seen.point, seen.shown, self.simulator.predicted(faults, seen.point)
                )
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
            sound = self.simulator.predicted((), seen.point)
            if seen.point.what == "resistance" and isinstance(seen.shown, float):
                more = seen.shown - sound if isinstance(sound, float) else 0.0
                if more > 0.1:
                    extra.add(round(more, 2))
        usual = [] if extra else list(under_power(cause) if self._powered else cause.faults)
        if self._powered and not extra:
            usual += self._closed_in(usual)
        return [first._replace(ohm=ohm) for ohm in sorted(extra)[:4]] + usual

    def _closed_in(self, tried: Sequence[Fault]) -> list[Fault]:
        """Return a bad joint with as many ohms as an odd reading with power on asks for, where that
        lies between what two that were tried would show.
        """
        for place in self._odd_figures:
            point, shown = self.seen[place].point, self.seen[place].shown
            assert isinstance(shown, float)
            lies = self.tolerance(point, shown) / 2
            far = tried[-1]._replace(ohm=FAR_OHM)
            within = [(one, self.simulator.predicted((one,), point)) for one in (*tried, far)]
            if isinstance(within[-1][1], float) and abs(within[-1][1] - shown) <= 4 * lies:
                continue  # as good as open
            for (low, one), (high, other) in pairwise(within):
                if not (isinstance(one, float) and isinstance(other, float)):
                    continue
                if not min(one, other) < shown < max(one, other):
                    continue
                for _ in range(CLOSED_IN):
                    look_up()
                    middle = low._replace(ohm=math.sqrt(low.ohm * high.ohm))
                    now = self.simulator.predicted((middle,), point)
                    if not isinstance(now, float) or abs(now - shown) <= lies:
                        break
                    if (now < shown) == (one < other):
                        low = middle
                    else:
                        high = middle
                return [middle]
        return []

    @cached_property
    def _odd_figures(self) -> list[int]:
        """The places of the first readings with power on that a sound loom would not show."""
        found = [
            n
            for n in self._powered
            if isinstance(self.seen[n].shown, float) and self._sound[n] <= NOT_AT_ALL
        ]
        return found[:MOST_ASKED]

    @cached_property
    def singles(self) -> list[Scored]:
        """A sound loom, then each single cause that anything tells of."""
        found: list[Scored] = []
        total, missed, _ = self._explains(())
        odds = sum(cause.odds for cause in self.causes) * SOUND_SHARE / (1 - SOUND_SHARE)
        found.append((math.log(odds or 1.0) + total, (), missed, ()))
        for cause in self.causes:
            look_up()
            if not self._tells(cause):
                continue
            fit, missed, faults = self._explains((cause,))
            found.append((math.log(cause.odds) + fit, (cause,), missed, faults))
        return self._refined(found) if self._powered else found

    def _refined(self, found: list[Scored]) -> list[Scored]:
        """Return causes with the ohms of bad joints closed in on, of those that may be it: under
        power nothing shows how many there are too many.
        """
        bad = [
            one
            for one in found
            if one[1]
            and one[1][0].faults[0].kind == "bad"
            and one[0] < math.log(one[1][0].odds) - 1e-9
        ]  # what fits to the full fits no better
        bad.sort(key=lambda one: -one[0])
        better: dict[str, Scored] = {}
        for score, (cause,), missed, (fault,) in bad[:REFINED]:
            best = score, (cause,), missed, (fault,)
            for times in (0.4, 2.5, 0.65, 1.55, 0.85, 1.2):
                look_up()
                tried = best[3][0]._replace(ohm=min(MOST_BAD_OHM, best[3][0].ohm * times))
                total, left = self._held(tried)
                if math.log(cause.odds) + total > best[0]:
                    best = math.log(cause.odds) + total, (cause,), left, (tried,)
            better[cause.key] = best
        return [better.get(one[1][0].key, one) if one[1] else one for one in found]

    def _held(self, fault: Fault) -> tuple[float, tuple[int, ...]]:
        """Return how well one fault explains all readings, and which it does not."""
        total, missed = sum(self._sound), set[int]()
        changed = self._changed((fault,))
        for place, seen in enumerate(self.seen):
            fit = self._sound[place]
            if place in changed:
                fit = self._fit(
                    seen.point, seen.shown, self.simulator.predicted((fault,), seen.point)
                )
                total += fit - self._sound[place]
            if fit <= NOT_AT_ALL:
                missed.add(place)
        return total, tuple(sorted(missed))

    def _tells(self, cause: Cause) -> bool:
        """Return whether anything that was measured, or can be, tells of a cause."""
        if self._powered and self.reach.holds(cause.faults[0]):
            return True
        if self._powered and not self._on_net:
            return False
        touched = self.simulator.faulty(cause.faults[:1]).touched
        return not touched.isdisjoint(self._on_net) or (not self._powered and bool(touched))

    @cached_property
    def reach(self) -> SearchScope:
        """What the readings with power on can be about."""
        return SearchScope(
            self.simulator, [self.seen[place].point for place in self._powered], self.causes
        )

    def pairs(self, singles: list[Scored]) -> list[Scored]:
        """Return pairs of causes that each explain what the other does not: of the likeliest for
        each reading that a sound loom does not explain; and threes, where pairs leave something.
        """
        ranked = sorted(singles[1:], key=lambda one: -one[0])
        useful: dict[str, Scored] = {}
        for place in singles[0][2]:
            telling = [one for one in ranked if place not in one[2]]
            useful |= {one[1][0].key: one for one in telling[:PAIRS_OF]}
        found: list[Scored] = []
        for (_, one, missed, _), (_, other, unlike, _) in combinations(useful.values(), 2):
            look_up()
            together = set(missed) & set(unlike)
            if len(together) < min(len(missed), len(unlike)):
                fit, left, faults = self._explains((*one, *other))
                found.append((self._odds((*one, *other)) + fit, (*one, *other), left, faults))
        return found + self._threes(found, useful)

    def coincidences(self, singles: list[Scored]) -> list[Scored]:
        """Return for wires that seem to be swapped that both are open: a stretch that was crushed,
        a plug that is not home show the same until it is measured across.
        """
        by_wire = {
            one[1][0].on: one[1][0]
            for one in singles[1:]
            if one[1][0].faults[0].kind == "open" and len(one[1][0].on) == 1
        }
        found: list[Scored] = []
        for _, (cause,), missed, _ in singles[1:]:
            if cause.faults[0].kind != "swap" or set(missed) >= set(singles[0][2]):
                continue
            opens = [by_wire[code,] for code in dict.fromkeys(cause.on) if (code,) in by_wire]
            for pair in combinations(opens, 2):
                fit, left, faults = self._explains(pair)
                if set(left) <= set(missed):
                    found.append((self._odds(pair, COMMON) + fit, pair, left, faults))
        return found

    def _odds(self, some: tuple[Cause, ...], more: float | None = None) -> float:
        """Return how likely causes are together before anything was measured, a logarithm. more:
        how likely each is beside the first, none for as likely as any other is.
        """
        if more is None:
            more = SECOND / (sum(cause.odds for cause in self.causes) or 1.0)
        together = sum(math.log(cause.odds) for cause in some)
        return together + (len(some) - 1) * math.log(more)

    def _threes(self, pairs: list[Scored], useful: dict[str, Scored]) -> list[Scored]:
        """Return the likeliest pairs with a third cause, for what they leave unexplained."""
        found: list[Scored] = []
        for _, some, missed, _ in sorted(pairs, key=lambda one: -one[0])[:WIDENED]:
            for _, (third,), unlike, _ in useful.values():
                if third in some or not set(missed) - set(unlike):
                    continue
                look_up()
                fit, left, faults = self._explains((*some, third))
                if len(left) < len(missed):
                    found.append((self._odds((*some, third)) + fit, (*some, third), left, faults))
        return found


def under_power(cause: Cause) -> Faults:
    """Return what a cause may be where nothing shows its ohms: a bad joint a little, more, much."""
    return cause.faults[::2] if cause.faults[0].kind == "bad" else cause.faults


MAIN_SHARE = 0.05
"""What carries so much of what the battery gives feeds many: its causes are thought of for each."""


def get_ready(simulator: FaultSimulator, state: State, *, main_only: bool = False) -> None:
    """Play single causes through in a state before anything is asked: then the first answer takes
    as long as the others. main_only: only those of what feeds many, which take longest.
    """
    among = _main(simulator, state) if main_only else None
    for cause in simulator.causes(simulator.network):
        if among is not None and among.isdisjoint(cause.on):
            continue
        for fault in under_power(cause):
            simulator.solved((fault,), state)


def _main(simulator: FaultSimulator, state: State) -> frozenset[str]:
    """Return the codes of what carries much of what the battery gives."""
    sound = simulator.solved((), state)
    least = MAIN_SHARE * abs(sound.source_amps)
    amps = sound.solution.amps
    busy = {link.part for link in sound.links if abs(amps.get(link.name, 0.0)) > least}
    return frozenset(Ref.parse(part).code for part in busy)
