"""A finding is accepted as it was, and back when it is worse; a rule that breaks hides nothing."""

import re
from itertools import chain
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import BROKEN, metric, small_job, wire
from jobs import jobs_of_every_kind
from molvik import findings
from molvik.analysis import Analysis
from molvik.findings import find_all, judged_findings, open_findings, unjudged
from molvik.findings.accepting import acceptance_of, judged, worse_than
from molvik.findings.finding import Figure, Finding
from molvik.findings.findingsheet import findings_sheet
from molvik.findings.kinds import KINDS, SEVERITIES
from molvik.findings.page import table
from molvik.findings.rule import Rule
from molvik.model import edits
from molvik.model.job import Acceptance, Job, Settings
from molvik.model.references import codes
from molvik.proving.wiretest import continuity_reading

AT = "2026-11-02T10:00:00+01:00"
REASON = "only for a minute, and watched"

DOWN = wire("W1", "D1/+", "F2/in", size=metric(2.5), length_m=0.3)
LAMP = wire("W2", "F2/out", "C1/1", size=metric(2.5), length_m=1.0, load_a=8.5)


def accepted(job: Job, rule: str) -> Job:
    """Return the job with the finding of a rule accepted as it stands."""
    one = next(one for one in find_all(Analysis(job)) if one.rule == rule)
    return edits.accept(job, acceptance_of(one, job, REASON, AT))


def is_open(job: Job, rule: str) -> bool:
    return rule in {one.rule for one in open_findings(Analysis(job))}


# Whatever is accepted.


FIGURES = st.floats(-1e6, 1e6).filter(lambda x: x == 0 or abs(x) > 1e-6)


@given(FIGURES, FIGURES, st.sampled_from(["more", "less", "other"]))
def test_a_figure_that_is_worse_brings_it_back_and_no_other(
    was: float, now: float, worse: str
) -> None:
    one = Finding("drain", "look", "D1", "It draws.", "", "", (Figure("it", was, "A", worse),))  # type: ignore[arg-type]
    job = Job("x")
    had = acceptance_of(one, job, REASON, AT)
    assert worse_than(one, had, frozenset()) == ""
    later = one._replace(rests_on=(Figure("it", now, "A", worse),))  # type: ignore[arg-type]
    apart = abs(now - was) > 0.005 * max(abs(now), abs(was))
    wanted = apart and {"more": now > was, "less": now < was, "other": True}[worse]
    assert bool(worse_than(later, had, frozenset())) == wanted


@given(st.sampled_from(SEVERITIES), st.sampled_from(SEVERITIES))
def test_a_worse_kind_brings_it_back(was: str, now: str) -> None:
    one = Finding("diode-reversed", was, "D1", "D1 conducts.", "", "")  # type: ignore[arg-type]
    had = acceptance_of(one, Job("x"), REASON, AT)
    later = one._replace(severity=now)  # type: ignore[arg-type]
    assert bool(worse_than(later, had, frozenset())) == (
        ["note", "look", "stop"].index(now) > ["note", "look", "stop"].index(was)
    )


@settings(max_examples=40)
@given(jobs_of_every_kind())
def test_what_was_accepted_as_it_stands_is_not_open(job: Job) -> None:
    found = find_all(Analysis(job))
    for one in found:
        job = edits.accept(job, acceptance_of(one, job, REASON, AT))
    assert open_findings(Analysis(job)) == ()
    assert find_all(Analysis(job)) == found


# As it happens at the bench.


def test_a_fuse_accepted_at_one_load_is_back_at_a_larger_one_with_the_old_reason() -> None:
    job = accepted(small_job(DOWN, LAMP), "fuse-too-small")
    assert not is_open(job, "fuse-too-small")
    less = edits.change_wire(job, "W2", load_a=8.2)
    assert not is_open(less, "fuse-too-small")
    more = edits.change_wire(job, "W2", load_a=9.5)
    assert is_open(more, "fuse-too-small")
    row = next(
        row for row in findings_sheet(Analysis(more)).tables[0].rows if "carries 9.5 A" in row[2]
    )
    assert row[-1] == (
        f"accepted 2026-11-02: {REASON}. Back, because what it carries against its rating was "
        "85 % and is 95 %"
    )


def test_a_cable_without_a_fuse_accepted_at_a_length_is_back_when_it_is_longer() -> None:
    job = small_job(replace(DOWN, length_m=0.8), LAMP)
    job = accepted(job, "far-fuse")
    assert not is_open(edits.change_wire(job, "W1", length_m=0.7), "far-fuse")
    longer = edits.change_wire(job, "W1", length_m=1.4)
    assert is_open(longer, "far-fuse")
    changed = {one.finding.rule: one.changed for one in judged_findings(Analysis(longer))}
    assert changed["far-fuse"] == "the length was 0.8 m and is 1.4 m"


def test_a_reading_accepted_at_one_figure_is_back_at_a_worse_one() -> None:
    job = small_job(DOWN, LAMP)

    def read(job: Job, ohm: float | None) -> Job:
        return edits.record(job, continuity_reading(LAMP, ohm, AT, Settings()))

    job = accepted(read(job, 3.0), "failed-continuity")
    assert not is_open(read(job, 2.0), "failed-continuity")
    assert is_open(read(job, 4.0), "failed-continuity")
    cut = read(job, None)
    assert is_open(cut, "failed-continuity")
    (changed,) = {one.changed for one in judged_findings(Analysis(cut)) if one.changed}
    assert changed == "the reading was 3 Ω and is open"


def test_a_finding_that_is_about_another_thing_too_is_back() -> None:
    job = small_job(DOWN, LAMP, replace(LAMP, code="W3"))
    job = accepted(job, "side-by-side")
    assert not is_open(job, "side-by-side")
    third = edits.add(job, replace(LAMP, code="W4"))
    changed = next(one for one in judged_findings(Analysis(third)) if one.finding.subject == "W3")
    assert changed.is_open
    assert changed.changed == "it is about W4 too"
    assert not is_open(edits.remove_wires(third, frozenset(["W4"])), "side-by-side")


def test_it_holds_for_a_thing_that_is_called_something_else() -> None:
    job = accepted(small_job(DOWN, LAMP), "fuse-too-small")
    job = edits.change_code(job, "F2", "LAMP-1", AT)
    assert not is_open(job, "fuse-too-small")
    assert job.accepted[0].subjects == ("LAMP-1",)


def test_what_was_accepted_before_figures_were_kept_holds() -> None:
    job = small_job(DOWN, LAMP)
    one = next(one for one in find_all(Analysis(job)) if one.rule == "fuse-too-small")
    job = edits.accept(job, Acceptance(one.key, REASON, AT))
    assert not is_open(edits.change_wire(job, "W2", load_a=9.9), "fuse-too-small")


def test_accepting_it_again_takes_it_as_it_is_now() -> None:
    job = accepted(small_job(DOWN, LAMP), "fuse-too-small")
    worse = edits.change_wire(job, "W2", load_a=9.5)
    again = accepted(worse, "fuse-too-small")
    assert not is_open(again, "fuse-too-small")
    assert len(again.accepted) == 1


# Rules.


@settings(max_examples=40)
@given(jobs_of_every_kind())
def test_every_finding_is_of_a_kind_its_rule_names(job: Job) -> None:
    analysis = Analysis(job)
    devices = {one.kind for one in job.devices}
    for rule in findings.RULES:
        for one in rule.apply(analysis, devices):
            assert one.rule in rule.kinds
            assert one.severity in KINDS[one.rule].severities
            named = {figure.name for figure in one.rests_on}
            assert len(named) == len(one.rests_on)
            told = judged(job, (one,))
            assert told[0].is_open


def test_every_kind_is_looked_for_once_and_described_on_the_page() -> None:
    looked = list(chain.from_iterable(rule.kinds for rule in findings.RULES))
    assert sorted(looked) == sorted(KINDS.keys() - {"rule-failed"})
    page = (Path(__file__).parent.parent / "docs" / "findings.md").read_text()
    assert table() in page


def test_a_rule_without_what_it_needs_is_not_asked() -> None:
    def asked(analysis: Analysis) -> list[Finding]:
        raise AssertionError

    rule = Rule(asked, ("drain",), needs=("battery", "starter"))
    assert rule.apply(Analysis(small_job()), {"battery"}) == []


def test_a_rule_that_breaks_is_a_finding_and_hides_nothing(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    monkeypatch.setattr("molvik.findings.rule.broken", BROKEN)
    job = small_job(DOWN, LAMP)
    before = find_all(Analysis(job))

    def breaks(analysis: Analysis) -> list[Finding]:
        raise ZeroDivisionError("float division by zero")

    kept = [Rule(breaks, one.kinds) if "loose-end" in one.kinds else one for one in findings.RULES]
    monkeypatch.setattr(findings, "RULES", tuple(kept))
    after = find_all(Analysis(job))
    (broke,) = set(after) - set(before)
    assert [one for one in after if one != broke] == [o for o in before if o.rule != "loose-end"]
    assert broke.rule == "rule-failed"
    assert broke.what.startswith("Whether a wire has a loose end was not found out")
    assert broke.subject == "loose-end"
    assert "float division by zero" in broke.what
    assert unjudged(after).startswith("1 rule broke off")
    assert "loose-end broke" in caplog.text


def test_findings_name_things_that_are_there() -> None:
    job = small_job(DOWN, LAMP)
    one = next(one for one in find_all(Analysis(job)) if one.rule == "fuse-too-small")
    had = acceptance_of(one, job, REASON, AT)
    assert had.subjects == ("F2",)
    assert set(had.subjects) <= set(codes(job))
    assert re.fullmatch(r"fuse-too-small F2", had.finding)
