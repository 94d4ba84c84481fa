"""The fewest continuity measurements that prove a loom on the bench, in an order for one hand.

In each net one probe stays and the other goes to every other point: one measurement fewer than the
net has points, and fewer cannot reach them all. A wire is proved by a way that would not be there
without it; two beside each other are not told apart, which is said.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from molvik.lazy import cached_property
from molvik.model.job import Job, Reading, Settings, code_order
from molvik.model.parts import End, Wire
from molvik.parsing.quantities import ohm_text
from molvik.proving.bench import Bench, BenchNet, digest, end_order
from molvik.proving.meter import spread_ohm
from molvik.proving.wiretest import Verdict, continuity_test, held_to, held_words, judge, latest


class Measurement(NamedTuple):
    """One measurement. key: what readings of it are called: the wire's code where it is one.

    red stays while black goes from point to point. expected_ohm, limit_ohm: on the meter, leads
    and what it may be off included. wires: on the way, in order; proves: those of them that it
    proves. doubt: what is not known, in words. fingerprint: of the wires as they are.
    """

    key: str
    red: End
    black: End
    expected_ohm: float
    limit_ohm: float
    wires: tuple[str, ...]
    proves: tuple[str, ...]
    doubt: str
    fingerprint: str


Outcome = Literal[
    "passed", "high", "open", "below leads", "comes and goes", "changed", "not measured"
]


FAILED: tuple[Outcome, ...] = ("open", "high", "below leads", "comes and goes")
"""Outcomes of a measurement that failed."""

STEADY_WHILE = (
    "again while the wires and both plugs are moved",
    "once more warm, with a hair dryer at its joints and old repairs",
)
"""What failed once and passes now is sound only when it passed so as well (common practice)."""


class Judged(NamedTuple):
    """What a reading of a measurement means."""

    outcome: Outcome
    text: str


class _Before(NamedTuple):
    """What a plan can take over from one before an edit: measurements of nets that it left alone.

    net_of: the net of each wire then.
    """

    settings: Settings
    wires: dict[str, Wire]
    net_of: dict[str, BenchNet]
    made: dict[tuple[End, End], Measurement]


class ProofPlan:
    """The continuity plan of a job. before: of the job before an edit. routed_m: what wires are cut
    to along their ways, m, for those whose length nobody typed.
    """

    def __init__(
        self,
        job: Job,
        before: "ProofPlan | None" = None,
        routed_m: Mapping[str, float] = MappingProxyType({}),
    ) -> None:
        self.job = job
        self.bench = Bench(job, routed_m)
        self._before = None if before is None else before.known

    @property
    def known(self) -> _Before | None:
        """What a plan after an edit can take over from this one."""
        if "measurements" not in self.__dict__:
            return self._before
        bench = self.bench
        return _Before(
            bench.settings,
            bench.wires,
            {code: net for net in bench.nets for code in net.wires},
            {(one.red, one.black): one for one in self.measurements},
        )

    def _taken_over(self, net: BenchNet) -> dict[tuple[End, End], Measurement]:
        """Return the measurements before the edit, where it left the net as it was."""
        before = self._before
        if before is None or before.settings != self.bench.settings:
            return {}
        was = before.net_of.get(net.wires[0]) if net.wires else None
        same = was == net and all(
            before.wires[code] == self.bench.wires[code] for code in net.wires
        )
        return before.made if same else {}

    @cached_property
    def measurements(self) -> tuple[Measurement, ...]:
        """All measurements, so that the probes move least: the red one stays at a plug as long as
        there is something to measure from it, and goes from cavity to cavity.
        """
        found = [one for net in self.bench.nets for one in self._of(net)]
        self._before = None
        return tuple(
            sorted(
                found,
                key=lambda m: (
                    code_order(m.red.at),
                    code_order(m.black.at),
                    end_order(m.red),
                    end_order(m.black),
                ),
            )
        )

    @cached_property
    def _crowd(self) -> Counter[str]:
        """How many points each part has: the red probe stays where most are."""
        return Counter(point.at for net in self.bench.nets for point in net.points)

    def _of(self, net: BenchNet) -> Iterable[Measurement]:
        if len(net.points) < 2:
            return
        hub = min(net.points, key=lambda p: (-self._crowd[p.at], end_order(p)))
        made = self._taken_over(net)
        for point in net.points:
            if point != hub:
                yield made.get((hub, point)) or self.between(hub, point)

    def between(self, red: End, black: End) -> Measurement:
        """Return the measurement between two points of one net."""
        bench, settings = self.bench, self.job.settings
        way = bench.way(red, black) or ()
        expected, most = bench.ohm(red, black), bench.ohm(red, black, worst=True)
        assert expected is not None
        assert most is not None
        limit = settings.meter_leads_ohm + most
        unknown = [w.code for w in way if w.size is None or w.length_m is None]
        doubt = f"length or size not known: {', '.join(unknown)}" if unknown else ""
        key = way[0].code if len(way) == 1 else f"{red} {black}"
        return Measurement(
            key,
            red,
            black,
            settings.meter_leads_ohm + expected,
            limit + spread_ohm(limit, settings),
            tuple(wire.code for wire in way),
            tuple(wire.code for wire in way if wire.code in bench.bridges),
            doubt,
            digest(way),
        )

    @cached_property
    def through(self) -> dict[str, list[Measurement]]:
        """The measurements whose way goes through each wire."""
        found: dict[str, list[Measurement]] = defaultdict(list)
        for one in self.measurements:
            for code in one.wires:
                found[code].append(one)
        return found

    @cached_property
    def not_told_apart(self) -> tuple[tuple[str, ...], ...]:
        """Wires that lie beside others between the same points, by nets: continuity shows nearly
        the same without one of them. A load or a four-wire measurement tells.
        """
        bridges = self.bench.bridges
        return tuple(
            hidden
            for net in self.bench.nets
            if (hidden := tuple(code for code in net.wires if code not in bridges))
        )

    @cached_property
    def unreached(self) -> tuple[str, ...]:
        """Wires that no probe reaches both ends of: one that only goes to a splice."""
        reached = {code for one in self.measurements for code in one.wires}
        hidden = {code for some in self.not_told_apart for code in some}
        return tuple(code for code in self.bench.wires if code not in reached | hidden)

    # what was measured

    @cached_property
    def _last(self) -> dict[frozenset[End], Reading]:
        """The last reading in ohms between each two points, with the power off."""
        return {
            frozenset(reading.points): reading
            for reading in self.job.readings
            if reading.of == "loom"
            and reading.quantity == "resistance"
            and not reading.state
            and len(reading.points) == 2
        }

    def reading(self, measurement: Measurement) -> Reading | None:
        """Return the last reading of a measurement."""
        return self._last.get(frozenset((measurement.red, measurement.black)))

    @cached_property
    def judged(self) -> dict[str, Judged]:
        """What was found of each measurement, by its key: by its reading, or by its wires where
        each was measured by itself.
        """
        return {
            one.key: self._by_wires(one) or self.judge(one, self.reading(one))
            for one in self.measurements
        }

    @cached_property
    def _own(self) -> dict[str, Reading]:
        """The last reading of each wire by itself."""
        return latest(self.job.readings)

    def own_verdict(self, code: str) -> Verdict | None:
        """Return what the last reading of a wire by itself means, None where it has none."""
        reading, wire = self._own.get(code), self.bench.wires.get(code)
        if reading is None or wire is None:
            return None
        test = continuity_test(wire, self.job.settings)
        found = judge(test, reading, self.job.settings, digest((wire,)))
        if self.mended_since(reading, code):
            found = Verdict("moved", "the wire was repaired since: measure again")
        elif found.outcome == "passed":
            why = self.comes_and_goes(reading, test.limit_ohm, (code,))
            found = Verdict("comes and goes", why) if why else found
        return found._replace(by=reading)

    def _by_wires(self, measurement: Measurement) -> Judged | None:
        """Return what was found of the wires on a way, each measured by itself since; None where
        one was not.
        """
        last, worst = self.reading(measurement), ""
        if len(measurement.wires) < 2:
            return None
        outcome: Outcome = "passed"
        for code in measurement.wires:
            found = self.own_verdict(code)
            if found is None or found.by is None or found.outcome == "moved":
                return None
            if last is not None and self.is_later(last, found.by):
                return None
            if outcome == "passed" and found.outcome != "passed":
                outcome, worst = found.outcome, f"{code}: {found.text}"
        return Judged(outcome, worst or f"{', '.join(measurement.wires)} passed one by one")

    def is_later(self, one: Reading, other: Reading) -> bool:
        """Return whether one reading of the job was taken after another."""
        return self._places[id(one)] > self._places[id(other)]

    def wire(self, wire: Wire) -> Wire:
        """Return a wire as it is measured, with the length of its way where it has none typed."""
        return self.bench.wires.get(wire.code, wire)

    @cached_property
    def _places(self) -> dict[int, int]:
        """When each reading was taken, beside the others. They stay the same objects."""
        return {id(reading): place for place, reading in enumerate(self.job.readings)}

    @cached_property
    def _mended(self) -> dict[str, int]:
        """When each wire or part was mended last."""
        return {
            reading.item or reading.points[0].at: place
            for place, reading in enumerate(self.job.readings)
            if reading.of == "mended"
        }

    def mended_since(self, reading: Reading, *codes: str) -> bool:
        """Return whether one of these was mended after a reading; without any, whether anything."""
        when = [self._mended.get(code, -1) for code in codes or self._mended]
        return max(when, default=-1) > self._places.get(id(reading), len(self._places))

    def judge(self, measurement: Measurement, reading: Reading | None) -> Judged:
        """Judge a reading against the job as it stands."""
        settings = self.job.settings
        if reading is None:
            return Judged("not measured", "not measured yet")
        if reading.fingerprint and reading.fingerprint != measurement.fingerprint:
            return Judged("changed", "something on its path was changed since: measure again")
        if self.mended_since(reading, *measurement.wires):
            return Judged("changed", "something on its path was repaired since: measure again")
        held, limit = held_to(measurement.limit_ohm, reading, settings)
        if held == "passed" and (
            why := self.comes_and_goes(reading, measurement.limit_ohm, measurement.wires)
        ):
            return Judged("comes and goes", why)
        look_at = f"the terminals and old repairs of {', '.join(measurement.wires)}"
        words = held_words(held, reading, limit, look_at, self._where(measurement))
        return Judged(held, words)

    @cached_property
    def _history(self) -> dict[frozenset[End], list[Reading]]:
        """All readings in ohms between each two points, with the power off, as they came."""
        found: dict[frozenset[End], list[Reading]] = defaultdict(list)
        for reading in self.job.readings:
            if reading.of == "loom" and reading.quantity == "resistance" and not reading.state:
                found[frozenset(reading.points)].append(reading)
        return found

    def comes_and_goes(self, last: Reading, limit_ohm: float, wires: Iterable[str]) -> str:
        """Return what is still to be done where a reading that passes follows one that failed,
        with nothing changed or mended between; empty where there is nothing. limit_ohm: with the
        leads of the job's meter.
        """
        codes, history = tuple(wires), self._history[frozenset(last.points)]
        for passed, reading in enumerate(reversed(history)):
            stale = (
                reading.fingerprint and last.fingerprint and reading.fingerprint != last.fingerprint
            )
            if stale or passed > len(STEADY_WHILE) or self.mended_since(reading, *codes):
                break
            if held_to(limit_ohm, reading, self.job.settings)[0] in ("open", "high"):
                shown = "open" if reading.value is None else ohm_text(reading.value)
                if not passed:
                    return f"{shown} since, between the same points: measure it again"
                how = STEADY_WHILE[passed - 1]
                return f"{shown} before, and nothing was repaired: measure it {how}"
        return ""

    def _where(self, measurement: Measurement) -> str:
        wires = measurement.wires
        if len(wires) == 1:
            return "find the break, or check you are on the right cavities"
        return f"one of {', '.join(wires)} is broken, or a probe is on another cavity"
