"""Continuity: what to expect, what a reading means."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import metric, small_job, wire
from molvik.analysis import Analysis
from molvik.findings import find_all
from molvik.logbook.story import story
from molvik.model import edits
from molvik.model.job import Job, Reading, Settings
from molvik.model.parts import End, Wire
from molvik.netlist.network import Network
from molvik.proving.continuity import verdicts
from molvik.proving.proofplan import ProofPlan
from molvik.proving.taken import taken
from molvik.proving.validity import mended_text
from molvik.proving.wiretest import continuity_reading, continuity_test, judge
from molvik.sheets.continuity_list import continuity_list
from test_plan import AT, loom_job

SETTINGS = Settings(meter_leads_ohm=0.2, meter_step_ohm=0.1)
LAMP = wire("W1", "C1/1", "C2/1", size=metric(0.75), length_m=4.0)


def reading(ohm: float | None, leads: float = 0.2, one: Wire = LAMP) -> Reading:
    settings = Settings(meter_leads_ohm=leads, measured_by="IM")
    return continuity_reading(one, ohm, "2026-11-02T10:00:00+01:00", settings)


def test_the_reading_to_expect_is_copper_and_contacts_and_leads() -> None:
    # ISO 6722-1: 0.75 mm2 has at most 24.7 mohm/m; contacts of 5 mohm are common practice.
    test = continuity_test(LAMP, SETTINGS)
    assert test.expected_ohm == pytest.approx(0.2 + 4 * 0.0247 + 2 * 0.005)
    most = 0.2 + 4 * 0.0247 * 1.1 + 2 * 0.02
    assert test.limit_ohm == pytest.approx(most + 0.008 * most + 0.1)  # 0.8 % and a step


@pytest.mark.parametrize(
    ("ohm", "outcome"),
    [
        (0.31, "passed"),
        (0.44, "passed"),
        (0.46, "high"),
        (1.9, "high"),
        (None, "open"),
        (0.05, "below leads"),
        (0.1, "passed"),
    ],
)
def test_a_reading_is_judged_at_once(ohm: float | None, outcome: str) -> None:
    verdict = judge(continuity_test(LAMP, SETTINGS), reading(ohm), SETTINGS)
    assert verdict.outcome == outcome


def test_other_leads_on_the_day_shift_the_limit() -> None:
    test = continuity_test(LAMP, SETTINGS)
    assert judge(test, reading(0.7, leads=0.5), SETTINGS).outcome == "passed"
    assert judge(test, reading(0.7), SETTINGS).outcome == "high"


def test_a_way_that_failed_is_told_for_each_wire_on_it() -> None:
    """Neither wire has a reading of its own: what was read of both is what failed."""
    job = loom_job(("C1/1", "S1"), ("S1", "C2/1"), ("S1", "C3/1"))
    way = next(one for one in ProofPlan(job).measurements if one.wires == ("W1", "W2"))
    open_way = taken(
        job.settings, AT, "resistance", None, (way.red, way.black), fingerprint=way.fingerprint
    )
    job = edits.record(job, open_way)
    found = [one for one in find_all(Analysis(job)) if one.rule == "failed-continuity"]
    assert [one.subject for one in found] == ["W1", "W2"]
    assert all("one of W1, W2 is broken" in one.what for one in found)
    assert found[0].rests_on[0].text(found[0].rests_on[0].value) == "open"
    sheet = continuity_list(
        Network(now := edits.record(job, replace(open_way, value=way.expected_ohm))),
        ProofPlan(now),
    )
    rows = {row[0]: row for row in sheet.blocks[1].rows}  # type: ignore[union-attr]
    assert rows["W1"][9] == "comes and goes", "told by a way through it"
    assert rows["W3"][9] == ""


def test_what_was_mended_since_is_measured_again() -> None:
    job = loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"))
    plan = ProofPlan(job)
    for one in plan.measurements:
        job = edits.record(
            job, continuity_reading(job.wire(one.key) or job.wires[0], 0.3, AT, job.settings)
        )
    assert {v.outcome for v in verdicts(ProofPlan(job)).values()} == {"passed"}
    job = edits.record(job, mended_text(job, "w1: new terminal at C2", AT))
    assert {code: v.outcome for code, v in verdicts(ProofPlan(job)).items()} == {
        "W1": "moved",
        "W2": "passed",
    }
    assert "repaired since" in verdicts(ProofPlan(job))["W1"].text
    assert ProofPlan(job).judged["W1"].outcome == "changed"
    job = edits.record(job, continuity_reading(job.wires[0], 0.3, AT, job.settings))
    assert {v.outcome for v in verdicts(ProofPlan(job)).values()} == {"passed"}
    assert any("new terminal at C2" in line.text for line in story(job)), "it stays in the record"


def test_a_wire_moved_since_is_not_proved() -> None:
    moved = wire("W1", "C1/2", "C2/1", size=metric(0.75), length_m=4.0)
    verdict = judge(continuity_test(moved, SETTINGS), reading(0.31), SETTINGS)
    assert verdict.outcome == "moved"
    turned = wire("W1", "C2/1", "C1/1", size=metric(0.75), length_m=4.0)
    assert judge(continuity_test(turned, SETTINGS), reading(0.31), SETTINGS).outcome == "passed"


def test_without_length_or_size_the_limit_is_wide_and_says_why() -> None:
    test = continuity_test(wire("W1", "C1/1", "C2/1"), SETTINGS)
    assert test.limit_ohm == pytest.approx((0.2 + 1.0 + 2 * 0.02) * 1.008 + 0.1)
    assert "length and size not known" in test.doubt


@given(st.floats(0.1, 20), st.sampled_from([0.35, 0.5, 1, 2.5, 6]))
def test_a_sound_wire_passes_and_a_bad_joint_of_half_an_ohm_never_does(
    length: float, area: float
) -> None:
    one = wire("W1", "C1/1", "C2/1", size=metric(area), length_m=length)
    test = continuity_test(one, SETTINGS)
    assert judge(test, reading(test.expected_ohm, one=one), SETTINGS).outcome == "passed"
    bad = reading(test.expected_ohm * 1.1 + 0.5, one=one)
    assert judge(test, bad, SETTINGS).outcome == "high"


def test_every_reading_is_kept_and_the_last_one_counts() -> None:
    job = small_job(LAMP)
    for ohm in (1.9, 0.31):
        job = edits.record(job, reading(ohm))
    assert [one.value for one in job.readings] == [1.9, 0.31]
    assert Analysis(job).proof["W1"].outcome == "comes and goes"


def test_a_wire_with_a_loose_end_has_no_test() -> None:
    job = small_job(wire("W1", "C1/1", ""))
    assert Analysis(job).proof == {}
    assert Analysis(job).tests == {}


def test_a_reading_below_zero_is_refused() -> None:
    with pytest.raises(edits.EditError, match="below zero"):
        edits.record(small_job(LAMP), reading(-0.1))
    with pytest.raises(edits.EditError, match="no wire W9"):
        edits.record(
            small_job(LAMP), Reading("W9", "resistance", 1.0, (End("C1", "1"), End("C2", "1")), "")
        )


def test_a_reading_of_another_quantity_proves_no_wire() -> None:
    job = small_job(LAMP)
    volts = Reading(
        LAMP.code,
        "voltage",
        12.6,
        (LAMP.start,),
        "2026-11-02T10:00:00+01:00",
        "IM",
        "run",
        "bench meter",
    )
    job = edits.record(job, volts)
    assert verdicts(ProofPlan(job))[LAMP.code].outcome == "not measured"
    job = edits.record(job, reading(0.25))
    assert verdicts(ProofPlan(job))[LAMP.code].outcome == "passed"
    job = edits.record(job, volts)
    assert verdicts(ProofPlan(job))[LAMP.code].outcome == "passed"
    lines = [line.text for line in story(job)]
    assert lines[0] == f"{LAMP.start}: 12.6 V, run"
    assert lines[1] == f"{LAMP.start} to {LAMP.finish}: 0.25 Ω"
    free = Reading("", "current", 3.2, (LAMP.start,), "2026-11-02T10:00:00+01:00")
    assert edits.record(job, free).readings[-1].shown == "3.2 A"
    with pytest.raises(edits.EditError, match="where it was measured"):
        edits.record(job, Reading("", "current", 3.2, (), ""))


def test_a_way_that_passed_proves_its_wires_and_one_that_failed_accuses_those_not_proved() -> None:
    job = loom_job(("C1/1", "S1"), ("S1", "C2/1"), ("S1", "C3/1"))
    plan = ProofPlan(job)
    by = {(str(one.red), str(one.black)): one for one in plan.measurements}

    def read(job: Job, way: tuple[str, str], ohm: float | None) -> Job:
        one = by[way]
        made = Reading(
            "",
            "resistance",
            ohm,
            (one.red, one.black),
            AT,
            leads_ohm=0.2,
            fingerprint=one.fingerprint,
        )
        return edits.record(job, made)

    job = read(job, ("C1/1", "C2/1"), 0.3)
    outcomes = {code: one.outcome for code, one in verdicts(ProofPlan(job)).items()}
    assert outcomes == {"W1": "passed", "W2": "passed", "W3": "not measured"}
    job = read(job, ("C1/1", "C3/1"), None)
    found = verdicts(ProofPlan(job))
    assert {code: one.outcome for code, one in found.items()} == {
        "W1": "passed",
        "W2": "passed",
        "W3": "open",
    }
    assert "from C1/1 to C3/1" in found["W3"].text
    longer = edits.change_wire(job, "W2", length_m=9.0)
    assert verdicts(ProofPlan(longer))["W2"].outcome == "moved"
