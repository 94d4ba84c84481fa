"""The continuity test of one wire by itself: the reading to expect, and what a reading means.

A two-wire meter cannot tell one strand from nineteen: continuity proves that the wire goes where
it should, not that it can carry its load.
"""

from collections.abc import Iterable
from typing import Literal, NamedTuple

from molvik.model.job import Reading, Settings
from molvik.model.parts import End, Wire
from molvik.parsing.quantities import ohm_text
from molvik.proving.bench import UNKNOWN_LIMIT_OHM, digest, wire_ohm
from molvik.proving.meter import spread_ohm
from molvik.proving.taken import taken

Outcome = Literal[
    "passed", "high", "open", "below leads", "comes and goes", "moved", "not measured"
]


class ContinuityTest(NamedTuple):
    """What the meter should show between two ends, ohms, leads included."""

    wire: str
    start: End
    finish: End
    expected_ohm: float
    limit_ohm: float
    doubt: str = ""


class Verdict(NamedTuple):
    """What a reading means, in words. by: the reading, None without one."""

    outcome: Outcome
    text: str
    by: Reading | None = None


NOT_MEASURED = Verdict("not measured", "not measured yet")


def continuity_test(wire: Wire, settings: Settings) -> ContinuityTest:
    """Return the test of one wire, with both contacts and the meter's leads in the reading."""
    leads = settings.meter_leads_ohm
    most = leads + wire_ohm(wire, settings, worst=True)
    missing = [
        name for name, value in (("length", wire.length_m), ("size", wire.size)) if value is None
    ]
    doubt = ""
    if missing:
        doubt = f"{' and '.join(missing)} not known: limit is about {UNKNOWN_LIMIT_OHM:g} Ω"
    return ContinuityTest(
        wire.code,
        wire.start,
        wire.finish,
        leads + wire_ohm(wire, settings),
        most + spread_ohm(most, settings),
        doubt,
    )


Held = Literal["open", "high", "below leads", "passed"]


def held_to(limit_ohm: float, reading: Reading, settings: Settings) -> tuple[Held, float]:
    """Return how a reading in ohms stands against a limit, and the limit with the leads of the day,
    which may have been other ones. limit_ohm: with the leads of the job's meter.
    """
    limit = limit_ohm + reading.leads_ohm - settings.meter_leads_ohm
    if reading.value is None:
        return "open", limit
    if reading.value > limit + 1e-9:
        return "high", limit
    low = reading.value < reading.leads_ohm - settings.meter_step_ohm - 1e-9
    return "below leads" if low else "passed", limit


def held_words(held: Held, reading: Reading, limit_ohm: float, look_at: str, broken: str) -> str:
    """Say how a reading stands. limit_ohm: as of ``held_to``; look_at: where to look if it is high,
    broken: what to do if it is open.
    """
    shown = ohm_text(reading.value or 0.0)
    return {
        "open": f"open: {broken}",
        "high": f"{shown} is above {ohm_text(limit_ohm)}: look at {look_at}",
        "below leads": f"{shown} is less than the leads alone: hold the leads together and set "
        "what they show",
        "passed": f"{shown}, within the limit",
    }[held]


def judge(
    test: ContinuityTest, reading: Reading, settings: Settings, fingerprint: str = ""
) -> Verdict:
    """Judge a reading against the test as the job stands now. fingerprint: of the wire as it is."""
    if set(reading.points) != {test.start, test.finish}:
        return Verdict("moved", "the wire was moved since: measure again")
    if reading.fingerprint and fingerprint and reading.fingerprint != fingerprint:
        return Verdict("moved", "the wire was changed since: measure again")
    held, limit = held_to(test.limit_ohm, reading, settings)
    words = held_words(
        held,
        reading,
        limit,
        "both terminals and any old repair",
        "find the break, or check you are on the right cavities",
    )
    return Verdict(held, words)


def continuity_reading(wire: Wire, ohm: float | None, at: str, settings: Settings) -> Reading:
    """Return a reading between a wire's ends, ohms with the leads, None for open."""
    return taken(
        settings, at, "resistance", ohm, wire.ends, item=wire.code, fingerprint=digest((wire,))
    )


def latest(readings: Iterable[Reading]) -> dict[str, Reading]:
    """Return the last continuity reading of each wire; earlier ones stay in the job."""
    return {
        reading.item: reading
        for reading in readings
        if reading.item and reading.quantity == "resistance" and reading.of == "loom"
    }
