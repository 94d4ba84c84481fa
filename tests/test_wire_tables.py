"""A table of wires read into a job that has some of them already."""

from pathlib import Path

import pytest
from hypothesis import assume, given, settings
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import answer, awg, page, press, put_job, small_job, wire
from jobs import jobs
from molvik.circuits.wire_table import compared, put_wires, read_wires, take_up, write_wires
from molvik.cli import main
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.window import MainWindow
from molvik.files.cells import csv_bytes
from molvik.files.jobfile import read_job
from molvik.files.tabletext import read_text_table
from molvik.model import edits
from molvik.model.differing import differences
from molvik.model.job import Job
from molvik.model.parts import Colour
from molvik.netlist.network import Network


def read(text: str, job: Job):  # type: ignore[no-untyped-def]
    return read_wires(read_text_table("t.csv", text.encode()), Network(job))


JOB = small_job(
    wire("W1", "C1/1", "C2/1", function="lamp", size=awg(14)), wire("W2", "C1/2", "C2/2")
)


def test_blanks_round_a_text_which_no_table_keeps_are_no_change() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1", function=" lamp "), wire("W2", "C1/2", "C2/2"))
    table = read_wires(read_text_table("t.csv", csv_bytes(write_wires(job))), Network(job))
    assert compared(table, job).same == ("W1", "W2")


@settings(max_examples=40)
@given(jobs())
def test_a_job_reads_its_own_table_and_nothing_is_doubled(job: Job) -> None:
    table = read_wires(read_text_table("t.csv", csv_bytes(write_wires(job))), Network(job))
    assume(all(row.state == "fine" for row in table.rows))  # figures that nobody types
    found = compared(table, job)
    assert not found.new
    assert not found.gone
    assert differences(job, take_up(job, found, changed=True)) == ()


def test_same_changed_new_and_gone_are_told_apart() -> None:
    text = "Wire,From,From cavity,To,To cavity,Colour\nW1,C1,1,C2,1,RD\n,C1,3,C2,3,BK\n"
    found = compared(read(text, JOB), JOB)
    assert (found.same, found.gone) == ((), ("W2",))
    (changed,) = found.changed
    assert (changed.code, changed.colour) == ("W1", Colour("RD"))
    assert (changed.function, changed.size) == ("lamp", awg(14)), "no column says them"
    assert [one.colour for one in found.new] == [Colour("BK")]
    only_new = take_up(JOB, found, changed=False)
    assert [w.code for w in only_new.wires] == ["W1", "W2", "W3"]
    assert only_new.wires[0] == JOB.wires[0]
    both = take_up(JOB, found, changed=True)
    assert both.wires[0].colour == Colour("RD")
    assert both.wires[1] == JOB.wires[1], "what is not in the table stays"


def test_a_code_of_another_kind_is_kept_and_said() -> None:
    table = read("Wire,From,To\nIGN-1,C1/3,C2/3\n", JOB)
    (row,) = table.rows
    assert row.state == "needs you"
    assert "“IGN-1” is kept in its note" in row.remarks[0]
    made = put_wires(JOB, table.wires()).wires[-1]
    assert (made.code, made.note) == ("W3", "code: IGN-1")


def test_a_spent_code_costs_one_row_its_code_and_not_the_table() -> None:
    job = edits.remove_wires(JOB, frozenset({"W2"}))
    table = read("Wire,From,To\nW2,C1/2,C2/2\nW9,C1/3,C2/3\n", job)
    assert "W2 was deleted from this job" in table.rows[0].remarks[0]
    made = put_wires(job, table.wires())
    assert [w.code for w in made.wires] == ["W1", "W3", "W9"]
    twice = read("Wire,From,To\nW7,C1/2,C2/2\nW7,C1/3,C2/3\n", job)
    assert "is twice" in twice.rows[1].remarks[0]


def test_the_command_line_adds_what_is_new_and_says_the_rest(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path, table = tmp_path / "a.molvik", tmp_path / "t.csv"
    put_job(JOB, path)
    changed = edits.change_wire(JOB, "W1", length_m=2.0)
    table.write_bytes(csv_bytes(write_wires(changed)) + b"W8,C1,3,C2,3\n")
    assert main(["import-wires", str(path), str(table)]) == 0
    assert "1 wires are there already, 1 are changed, and left as they are" in (
        capsys.readouterr().err
    )
    assert [w.length_m for w in read_job(path).wires][:1] == [None]
    assert [w.code for w in read_job(path).wires] == ["W1", "W2", "W8"]
    assert main(["import-wires", str(path), str(table), "--update"]) == 0
    assert [w.length_m for w in read_job(path).wires][:1] == [2.0]
    assert main(["import-wires", str(path), str(table), "--as-new", "--json"]) == 0
    assert len(read_job(path).wires) == 6


@pytest.mark.parametrize(
    ("words", "count", "length"),
    [("The changed and the new", 1, 3.0), ("Only the new", 1, None), ("Cancel", 0, None)],
)
def test_the_window_shows_what_is_there_and_asks(
    demo_window: MainWindow,
    qtbot: QtBot,
    tmp_path: Path,
    words: str,
    count: int,
    length: float | None,
) -> None:
    circuits, store = page(demo_window, "Circuits"), demo_window.store
    before = store.job
    was = before.wires[4]
    table = tmp_path / "t.csv"
    longer = replace(was, length_m=3.0, length_from="typed")
    wires = (*before.wires[:4], longer, *before.wires[5:], wire("", "C1/1", "C2/1"))
    other = replace(before, wires=wires)
    table.write_bytes(csv_bytes(write_wires(other)))
    asked: list[str] = []

    def look(question: Question) -> None:
        asked.append(question.text.text())
        press(words)(question)

    answer(Question, look)
    circuits.menus.read_table(table)
    qtbot.waitUntil(lambda: bool(asked))
    qtbot.waitUntil(lambda: len(store.job.wires) == len(before.wires) + count)
    assert f"{len(before.wires) - 1} the same, 1 changed, 1 new, 0 not in the table" in asked[0]
    now = store.job.wire(was.code)
    assert now is not None
    assert now.length_m == (length or was.length_m)
