"""The continuity test of each wire: the reading to expect, and what a reading means.

A two-wire meter cannot tell one strand from nineteen: continuity proves that the wire goes where
it should, not that it can carry its load.
"""

from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

from molvik.model.job import Job, Reading, Settings
from molvik.model.parts import End, Wire
from molvik.parsing.quantities import ohm_text
from molvik.proving.bench import UNKNOWN_LIMIT_OHM, digest, wire_ohm
from molvik.proving.meter import spread_ohm
from molvik.proving.plan import Measurement, Plan
from molvik.proving.taken import taken

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
        wire.code, wire.start, wire.finish, leads + wire_ohm(wire, settings),
        most + spread_ohm(most, settings), doubt,
    )  # fmt: skip


def judge(test: ContinuityTest, reading: Reading, settings: Settings, sign: str = "") -> Verdict:
    """Judge a reading against the test as the job stands now. sign: of the wire as it is."""
    if set(reading.points) != {test.start, test.finish}:
        return Verdict("moved", "the wire was moved since: measure again")
    if reading.sign and sign and reading.sign != sign:
        return Verdict("moved", "the wire was changed since: measure again")
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
    return taken(settings, at, "resistance", ohm, wire.ends, item=wire.code)


def latest(readings: Iterable[Reading]) -> dict[str, Reading]:
    """Return the last continuity reading of each wire; earlier ones stay in the job."""
    return {
        reading.item: reading
        for reading in readings
        if reading.item and reading.quantity == "resistance" and reading.of == "loom"
    }


def verdicts(job: Job, plan: Plan | None = None) -> dict[str, Verdict]:
    """Return the verdict on every wire that has both ends: by its own reading, else by those of
    the plan whose way goes through it.
    """
    last = latest(job.readings)
    plan = plan or Plan(job)
    through = plan.through
    found: dict[str, Verdict] = {}
    for wire in job.wires:
        if not (wire.start.at and wire.finish.at):
            continue
        reading = last.get(wire.code)
        if reading is not None:
            test = continuity_test(wire, job.settings)
            judged = judge(test, reading, job.settings, digest((wire,)))
            if plan.mended_since(reading, wire.code):
                judged = Verdict("moved", "the wire was mended since: measure again")
            found[wire.code] = judged._replace(by=reading)
        else:
            found[wire.code] = _by_plan(wire, plan, through.get(wire.code, ()))
    return found


def _by_plan(wire: Wire, plan: Plan, through: Sequence[Measurement]) -> Verdict:
    """Return what the measurements through a wire say of it: what passed proves it, what failed
    may be another's.
    """
    said = NOT_MEASURED
    for one in through:
        judged, by = plan.judged[one.key], plan.reading(one)
        where = f"from {one.red} to {one.black}"
        if judged.outcome == "passed" and wire.code in one.proves:
            return Verdict("passed", f"proved {where}", by)
        if judged.outcome == "changed":
            said = Verdict("moved", f"something {where} was changed since: measure again", by)
        elif judged.outcome in ("open", "high", "below leads"):
            said = Verdict(judged.outcome, f"{where}: {judged.text}", by)
    return said
