"""The continuity test of each wire: the reading to expect, and what a reading means.

A two-wire meter cannot tell one strand from nineteen: continuity proves that the wire goes where
it should, not that it can carry its load.
"""

from collections.abc import Iterable
from typing import Literal, NamedTuple

from molvik.electrical.conductor import resistance_20_ohm_per_m
from molvik.model.job import Job, Reading, Settings
from molvik.model.parts import End, Wire
from molvik.parsing.quantities import ohm_text
from molvik.reference.contacts import NEW_JOINT_OHM, WORST_JOINT_OHM

LENGTH_UNKNOWN_OHM = 1.0
"""Allowed above the leads when length or size is not known (common practice: under an ohm)."""

WARMEST_COPPER_TIMES = 1.1
"""A loom in a warm shop, 45 deg C, has 10 % more resistance than at 20."""

Outcome = Literal["passed", "high", "open", "below leads", "moved", "not measured"]


class ContinuityTest(NamedTuple):
    """What the meter should show between two ends, ohms, leads included."""

    wire: str
    start: End
    finish: End
    expected_ohm: float
    limit_ohm: float
    doubt: str = ""


class Verdict(NamedTuple):
    """What a reading means, in words."""

    outcome: Outcome
    text: str


NOT_MEASURED = Verdict("not measured", "not measured yet")


def continuity_test(wire: Wire, settings: Settings) -> ContinuityTest:
    """Return the test of one wire, with both contacts and the meter's leads in the reading."""
    leads = settings.meter_leads_ohm
    if wire.length_m is None or wire.size is None:
        missing = " and ".join(
            name
            for name, value in (("length", wire.length_m), ("size", wire.size))
            if value is None
        )
        return ContinuityTest(
            wire.code,
            wire.start,
            wire.finish,
            leads,
            leads + LENGTH_UNKNOWN_OHM,
            f"{missing} not known: limit is {LENGTH_UNKNOWN_OHM:g} Ω above the leads",
        )
    copper = resistance_20_ohm_per_m(wire.size) * wire.length_m
    return ContinuityTest(
        wire.code,
        wire.start,
        wire.finish,
        leads + copper + 2 * NEW_JOINT_OHM,
        leads + copper * WARMEST_COPPER_TIMES + 2 * WORST_JOINT_OHM + settings.meter_step_ohm,
    )


def judge(test: ContinuityTest, reading: Reading, settings: Settings) -> Verdict:
    """Judge a reading against the test as the job stands now."""
    if set(reading.points) != {test.start, test.finish}:
        return Verdict("moved", "the wire was moved since: measure again")
    if reading.value is None:
        return Verdict("open", "open: find the break, or check you are on the right cavities")
    # The leads may have been other ones on the day.
    shift = reading.leads_ohm - settings.meter_leads_ohm
    if reading.value > test.limit_ohm + shift + 1e-9:
        return Verdict(
            "high",
            f"{ohm_text(reading.value)} is above {ohm_text(test.limit_ohm + shift)}: "
            "look at both terminals and any old repair",
        )
    if reading.value < reading.leads_ohm - settings.meter_step_ohm - 1e-9:
        return Verdict(
            "below leads",
            f"{ohm_text(reading.value)} is less than the leads alone: "
            "hold the leads together and set what they show",
        )
    return Verdict("passed", f"{ohm_text(reading.value)}, within the limit")


def continuity_reading(wire: Wire, ohm: float | None, at: str, settings: Settings) -> Reading:
    """Return a reading between a wire's ends, ohms with the leads, None for open."""
    return Reading(
        wire.code, "resistance", ohm, wire.ends, at, settings.measured_by,
        leads_ohm=settings.meter_leads_ohm,
    )  # fmt: skip


def latest(readings: Iterable[Reading]) -> dict[str, Reading]:
    """Return the last continuity reading of each wire; earlier ones stay in the job."""
    return {
        reading.item: reading
        for reading in readings
        if reading.item and reading.quantity == "resistance"
    }


def verdicts(job: Job) -> dict[str, Verdict]:
    """Return the verdict on every wire that has both ends."""
    last = latest(job.readings)
    found: dict[str, Verdict] = {}
    for wire in job.wires:
        if not (wire.start.at and wire.finish.at):
            continue
        reading = last.get(wire.code)
        found[wire.code] = (
            NOT_MEASURED
            if reading is None
            else judge(continuity_test(wire, job.settings), reading, job.settings)
        )
    return found
