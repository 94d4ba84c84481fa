"""Edits are pure, honest about what they refuse, and lose nothing."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import found, small_job, wire
from jobs import edited, jobs
from molvik.analysis import Analysis
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.codes import next_code
from molvik.model.job import Acceptance, Job, Settings, code_order
from molvik.model.parts import Connector, Device, End, Fuse, Grid, Pin, Wire
from molvik.proving.wiretest import continuity_reading
from molvik.sheets.continuity_list import continuity_list
from molvik.sheets.wire_list import wire_list


@given(st.data())
def test_an_edit_leaves_the_job_it_was_given_as_it_was(data: st.DataObject) -> None:
    job = data.draw(jobs())
    before = hash(repr(job))
    data.draw(edited(job))
    assert hash(repr(job)) == before


@given(jobs())
def test_any_job_at_all_can_be_looked_over_and_listed(job: Job) -> None:
    analysis = Analysis(job)
    findings = find_all(analysis)
    keys = [one.key for one in findings]
    assert len(keys) == len(set(keys)), "two findings with one key could not be accepted apart"
    assert all(one.what and one.why and one.remedy for one in findings)
    assert len(wire_list(analysis.network).tables[0].rows) == len(job.wires)
    both_ends = [w for w in job.wires if w.start.at and w.finish.at]
    assert len(continuity_list(analysis.network, analysis.plan).tables[0].rows) == len(both_ends)
    for one in job.wires:
        assert analysis.story(one.code)


def test_a_code_that_has_readings_is_never_given_to_another_wire() -> None:
    assert next_code("W", ["W1", "W7", "X9"]) == "W8"
    assert sorted(["W10", "W2", "C1"], key=code_order) == ["C1", "W2", "W10"]
    one = wire("W1", "C1/1", "C2/1")
    job = edits.record(
        small_job(one), continuity_reading(one, 0.3, "2026-11-02T10:00Z", Settings())
    )
    job = edits.remove_wires(job, frozenset(["W1"]))
    assert edits.free_code(job, Wire) == "W2"


def test_a_relay_gets_a_k_and_a_device_a_d() -> None:
    job = edits.add(Job("x"), Device("", "Pump relay", "relay", ("30",)))
    job = edits.add(job, Device("", "Pump", "load", ("+",)))
    assert [one.code for one in job.devices] == ["K1", "D1"]


def test_taking_a_part_out_leaves_its_wires_loose_and_not_lost() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"))
    job = edits.change_part(job, "C2", plugs_into="C1")
    job = edits.remove_part(job, "C1")
    assert job.wires[0].start == End()
    assert job.wires[0].finish == End("C2", "1")
    assert job.connectors[0].plugs_into == ""
    assert "loose-end" in found(job)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda job: edits.change_wire(job, "W9", note="x"), "no wire W9"),
        (lambda job: edits.change_wire(job, "W1", start=End("C9", "1")), "no C9 in the job"),
        (lambda job: edits.change_part(job, "C9", name="x"), "no C9"),
        (lambda job: edits.remove_part(job, "C9"), "no C9"),
        (lambda job: edits.set_pins(job, "F1", (), "t"), "no connector F1"),
        (lambda job: edits.add(job, Fuse("F1", "again", 5)), "F1 is already"),
        (lambda job: edits.rename(job, "  ", ""), "needs a title"),
        (lambda job: edits.accept(job, Acceptance("x", " ", "")), "Say why"),
    ],
)
def test_what_cannot_be_done_is_refused_in_words(change, words: str) -> None:  # type: ignore[no-untyped-def]
    job = small_job(wire("W1", "C1/1", "C2/1"))
    with pytest.raises(edits.EditError, match=words):
        change(job)


def test_importing_pins_keeps_cavities_the_table_leaves_out() -> None:
    pins = (Pin("1", "old"), Pin("2", "mine"))
    job = Job("x", connectors=(Connector("C1", "a", Grid(1, 4), pins=pins),))
    job = edits.set_pins(job, "C1", (Pin("1", "new"), Pin("3", "more")), "table.csv")
    assert [(p.cavity, p.function) for p in job.connectors[0].pins] == [
        ("1", "new"),
        ("2", "mine"),
        ("3", "more"),
    ]
    assert job.connectors[0].pinout_from == "table.csv"


def test_accepting_again_replaces_the_reason_and_can_be_withdrawn() -> None:
    job = edits.accept(Job("x"), Acceptance("f", "first", "2026-11-02T10:00Z"))
    job = edits.accept(job, Acceptance("f", "second", "2026-11-02T10:05Z"))
    assert [one.reason for one in job.accepted] == ["second"]
    assert edits.withdraw(job, "f").accepted == ()


def test_a_connector_mates_with_one_other_only() -> None:
    grid = Grid(1, 2)
    job = Job("x", connectors=tuple(Connector(f"C{n}", f"c{n}", grid) for n in range(1, 5)))
    job = edits.change_part(job, "C2", plugs_into="C1")
    for code, mate, words in (
        ("C3", "C1", "C2 already plugs into C1"),
        ("C3", "C2", "C2 already plugs into C1"),
        ("C1", "C3", "C2 already plugs into C1"),
        ("C3", "C3", "cannot plug into itself"),
        ("C3", "C9", "no connector C9"),
    ):
        with pytest.raises(edits.EditError, match=words):
            edits.change_part(job, code, plugs_into=mate)
    with pytest.raises(edits.EditError, match="already plugs"):
        edits.add(job, Connector("", "new", grid, plugs_into="C1"))
    assert edits.change_part(job, "C3", plugs_into="C4").connectors[2].plugs_into == "C4"
