"""Wires as a harness builder changes them, and tables of wires read and written."""

import csv
import json
from pathlib import Path
from typing import get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import put_job
from jobs import jobs
from molvik.circuits.wire_table import WireTable, put_wires, read_wires, write_wires
from molvik.cli import main
from molvik.files.jobfile import read_job
from molvik.files.tabletext import read_text_table
from molvik.model import edits, wire_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import (
    LOOSE,
    Colour,
    Connector,
    End,
    Grid,
    Identified,
    LengthFrom,
    Pin,
    Splice,
    Wire,
    WireSize,
)
from molvik.model.routing import LoomNode
from molvik.netlist.network import Network
from molvik.parsing.tables import RawRow, RawTable
from molvik.reference.insulation import INSULATIONS
from molvik.reference.limits import USES
from molvik.reference.places import PLACES
from molvik.typed.field import named
from molvik.typed.wires import WIRE_FIELDS, type_wire
from test_alive import DIRECT, LAMP, job_of


def code_at(job: Job, place: str) -> list[str]:
    return [w.code for w in job.wires if place in (str(w.start), str(w.finish))]


def test_a_splice_is_put_into_a_wire_and_taken_out_again() -> None:
    job = job_of(DIRECT, LAMP)
    spliced = wire_edits.split(job, "W2", 0.25)
    first, rest = spliced.wire("W2"), spliced.wire("W5")
    assert first is not None
    assert rest is not None
    assert (str(first.finish), str(rest.start), str(rest.finish)) == ("S1", "S1", "D3/+")
    assert (first.length_m, rest.length_m) == (0.25, 0.75)
    assert rest.size == first.size
    assert wire_edits.join(spliced, "S1").wires == job.wires
    with pytest.raises(EditError, match="between the ends"):
        wire_edits.split(job, "W2", 1.0)
    with pytest.raises(EditError, match="E1 joins"):
        wire_edits.join(job, "E1")


def test_a_wire_is_extended_fused_and_switched() -> None:
    job = job_of(DIRECT, LAMP)
    longer = wire_edits.extend(job, "W3", 0.4)
    assert [w.length_m for w in longer.wires if "S1" in (str(w.start), str(w.finish))] == [1.0, 0.4]
    fused = wire_edits.insert_fuse(job, "W2", 10)
    assert fused.fuses[-1].rating_a == 10
    assert (code_at(fused, "F2/in"), code_at(fused, "F2/out")) == (["W2"], ["W5"])
    switched = wire_edits.insert_relay(job, "W2")
    assert (code_at(switched, "K1/30"), code_at(switched, "K1/87")) == (["W2"], ["W5"])
    with pytest.raises(EditError, match="above zero"):
        wire_edits.extend(job, "W3", 0)
    with pytest.raises(EditError, match="no wire W9"):
        wire_edits.split(job, "W9")


def test_a_wire_is_copied_for_the_next_injectors() -> None:
    plug = Connector("C1", "Injector 1", Grid(1, 2))
    job = job_of("S1 C1/1", connectors=(plug,), splices=(Splice("S1"),))
    job = edits.change_wire(job, "W1", function="Injector 1 supply")
    four = wire_edits.duplicate(job, ("W1",), 3)
    assert [w.function for w in four.wires] == [f"Injector {n} supply" for n in (1, 2, 3, 4)]
    # The splice takes them all; a cavity takes one, and the others wait for theirs.
    assert [str(w.start) for w in four.wires] == ["S1"] * 4
    assert [str(w.finish) for w in four.wires] == ["C1/1", "loose", "loose", "loose"]
    with pytest.raises(EditError, match="once to a hundred"):
        wire_edits.duplicate(job, ("W1",), 0)


def test_wires_are_reversed_stowed_and_changed_together() -> None:
    job = job_of("F1/out C1/1, C1/2 E1", connectors=(Connector("C1", "Plug", Grid(1, 2)),))
    turned = wire_edits.reverse(job, frozenset(["W1"]))
    assert str(turned.wires[0].start) == "C1/1"
    stowed = wire_edits.stow(job, frozenset(["W1"]))
    assert (stowed.wires[0].stowed, str(stowed.wires[0].finish)) == (True, "loose")
    assert not wire_edits.stow(stowed, frozenset(["W1"]), stowed=False).wires[0].stowed
    thick = wire_edits.change_many(job, frozenset(["W1", "W2"]), size=WireSize("metric", 4))
    assert {w.size for w in thick.wires} == {WireSize("metric", 4)}
    with pytest.raises(EditError, match="no C9"):
        wire_edits.change_many(job, frozenset(["W1", "W2"]), start=End("C9", "1"))


# Tables.


def table(text: str, job: Job) -> WireTable:
    return read_wires(read_text_table("paste", text.encode()), Network(job))


def as_raw(rows: list[list[str]]) -> RawTable:
    return RawTable("x", tuple(RawRow(n, tuple(row)) for n, row in enumerate(rows, 1)), ())


def test_writing_the_wires_and_reading_them_back_loses_nothing(demo: Job) -> None:
    bare = replace(demo, wires=())
    read = read_wires(as_raw(write_wires(demo)), Network(bare))
    assert read.count("fine") == len(demo.wires)
    back = put_wires(bare, read.wires())
    assert sorted(back.wires, key=lambda w: w.code) == sorted(demo.wires, key=lambda w: w.code)


@given(jobs())
@settings(max_examples=25, deadline=None)
def test_no_wire_is_lost_in_writing(job: Job) -> None:
    bare = replace(job, wires=())
    read = read_wires(as_raw(write_wires(job)), Network(bare))
    assert len(read.wires()) + read.count("cannot be read") == len(job.wires)
    for row in read.rows:
        if row.state == "fine" and row.wire is not None and row.wire.code:
            before = job.wire(row.wire.code)
            assert before is not None
            assert (row.wire.size, row.wire.length_m, row.wire.load_a) == (
                before.size,
                before.length_m,
                before.load_a,
            )


WORDS = st.text("abcdefgh ÄÖüß1234-/.,;:'", max_size=12).map(str.strip)
FIGURES = st.floats(0.001, 150, allow_nan=False)
MAYBE: dict[str, st.SearchStrategy[object]] = {
    "function": WORDS,
    "circuit": WORDS,
    "note": WORDS,
    "group": WORDS,
    "cable": WORDS,
    "bundle": WORDS,
    "length_m": FIGURES,
    "load_a": FIGURES,
    "lay_length_mm": FIGURES,
    "ambient_c": st.floats(-50, 290).map(lambda degrees: round(degrees, 9)),
    "stowed": st.just(True),
    "size": st.sampled_from([WireSize("awg", 14), WireSize("awg", -1), WireSize("metric", 0.35)]),
    "colour": st.sampled_from([Colour("RD"), Colour("BU", "WH")]),
    "use": st.sampled_from(sorted(code for code in USES if code)),
    "place": st.sampled_from(sorted(code for code in PLACES if code)),
    "insulation": st.sampled_from(sorted(INSULATIONS)),
    "identified": st.sampled_from(get_args(Identified)),
    "length_from": st.sampled_from(get_args(LengthFrom)),
    "through": st.just(("J1",)),
    "avoid": st.just(("J2",)),
    "start": st.sampled_from([LOOSE, End("C1", "1"), End("E1")]),
    "finish": st.sampled_from([LOOSE, End("C1", "2"), End("F1", "out")]),
    "on_s": st.just(15.0),
    "rest_s": st.just(45.0),
}


@given(st.fixed_dictionaries({}, optional=MAYBE))
@settings(max_examples=150, deadline=None)
def test_every_field_of_a_wire_comes_back_as_it_was_written(fields: dict[str, object]) -> None:
    assert {"code", *MAYBE} == set(Wire.__struct_fields__), "a field that is not written is lost"
    if "on_s" in fields or "rest_s" in fields:
        fields |= {"on_s": 15.0, "rest_s": 45.0}
    wire = Wire("W1", **{"function": "x", **fields})  # type: ignore[arg-type]
    pins = tuple(Pin(cavity, "Other", "99", Colour("GN"), WireSize("metric", 6)) for cavity in "12")
    job = job_of("E1 E1", LAMP, connectors=(Connector("C1", "Plug", Grid(1, 2), pins=pins),))
    joints = (LoomNode("J1", "V1", "a"), LoomNode("J2", "V1", "b"))
    job = replace(job, wires=(wire,), routing=replace(job.routing, joints=joints))
    read = read_wires(as_raw(write_wires(job)), Network(replace(job, wires=())))
    assert read.wires() == (wire,)


def test_pasted_wires_take_what_the_pinouts_know_and_say_where_they_differ() -> None:
    pins = (Pin("1", "Fan", "7", Colour("GN"), WireSize("metric", 2.5)),)
    other = (Pin("1", "Fan motor", "7", Colour("BU"), WireSize("metric", 2.5)),)
    job = job_of(
        "E1 E1",
        connectors=(
            Connector("C1", "Plug", Grid(1, 1), pins=pins),
            Connector("C2", "Other", Grid(1, 1), pins=other),
        ),
    )
    read = table("From\tTo\nC1/1\tC2/1\n", job)
    (row,) = read.rows
    assert row.wire is not None
    assert (row.wire.function, row.wire.circuit) == ("Fan", "7")
    assert (row.wire.colour, row.wire.size) == (Colour("GN"), WireSize("metric", 2.5))
    assert row.remarks == ("colour: C1/1 says GN, C2/1 BU; GN was taken",)
    (own,) = table("From\tTo\tColour\nC1/1\tC2/1\tRD\n", job).wires()
    assert own.colour == Colour("RD")


@pytest.mark.parametrize(
    ("typed", "mm"), [("30", 30), ("30 mm", 30), ("3 cm", 30), ("1,5 in", 38.1)]
)
def test_a_bare_twist_is_millimetres_wherever_it_is_typed(typed: str, mm: float) -> None:
    job = job_of("F1/out E1")
    (read,) = table(f"From\tTo\tTwist\nF1/out\tE1\t{typed}\n", job).wires()
    assert read.lay_length_mm == pytest.approx(mm)
    in_panel = type_wire(job, Network(job), "W1", named(WIRE_FIELDS, "Twist"), typed)
    assert in_panel.edit(job).wires[0].lay_length_mm == pytest.approx(mm)


def test_a_wire_led_to_a_cavity_takes_what_its_pinout_knows() -> None:
    pins = (Pin("1", "Fan", "7", Colour("GN"), WireSize("metric", 2.5)),)
    job = job_of("F1/out E1", connectors=(Connector("C1", "Plug", Grid(1, 1), pins=pins),))
    network, to = Network(job), named(WIRE_FIELDS, "To")
    moved = type_wire(job, network, "W1", to, "C1 1").edit(job).wires[0]
    assert (moved.function, moved.colour, moved.size) == (
        job.wires[0].function or "Fan",
        Colour("GN"),
        job.wires[0].size or WireSize("metric", 2.5),
    )
    new = type_wire(job, network, "", to, "C1 1").edit(job).wires[-1]
    assert (new.function, new.circuit) == ("Fan", "7")


def test_headings_are_found_and_units_are_taken_from_them() -> None:
    job = job_of(DIRECT, LAMP, connectors=(Connector("C1", "Plug", Grid(1, 4)),))
    text = (
        "Loom of the blue van\n"
        "No;From;Pin;To;Pin;Signal;Colour;AWG;Length mm;Weight\n"
        "1;C1;3;F1;out;Horn;red/white;16;450;3 g\n"
        "2;C1;9;D3;+;Lamp;rt;16;0,5 m;\n"
        "3;;;;;;;;;\n"
        "4;C9;1;E1;;Pump earth;pink-ish;99;;\n"
    )
    read = read_wires(read_text_table("paste", text.encode()), Network(job))
    assert read.columns == (
        "code",
        "from",
        "from cavity",
        "to",
        "to cavity",
        "function",
        "colour",
        "size",
        "length",
    )
    assert read.unused == ("Weight",)
    fine, cavity, *rest = read.rows
    assert fine.wire is not None
    assert (str(fine.wire.start), str(fine.wire.finish)) == ("C1/3", "F1/out")
    assert (fine.wire.size, fine.wire.length_m) == (WireSize("awg", 16), 0.45)
    assert cavity.state == "needs you"
    assert "no cavity 9" in cavity.remarks[0]
    assert cavity.wire is not None
    assert (str(cavity.wire.start), cavity.wire.note) == ("loose", "from: C1 9")
    unknown = rest[-1]
    assert unknown.wire is not None
    # Nothing that was typed is lost: it stands in the note.
    assert "colour: pink-ish" in unknown.wire.note
    assert "size: 99" in unknown.wire.note
    assert "There is no C9" in unknown.remarks[0]


def test_a_table_without_ends_is_no_table_of_wires() -> None:
    read = read_wires(read_text_table("paste", b"Colour;Size\nred;2"), Network(Job("x")))
    assert "at least From and To" in read.problem


def test_wires_are_put_in_at_once_with_codes_of_their_own() -> None:
    job = job_of(DIRECT, LAMP)
    more = put_wires(job, [Wire("", End("E1"), End("E2")), Wire("W9"), Wire("")])
    assert [w.code for w in more.wires[4:]] == ["W5", "W9", "W6"]
    with pytest.raises(EditError, match="W1 is already"):
        put_wires(job, [Wire("W1")])
    with pytest.raises(EditError, match="starts and ends in one place"):
        put_wires(job, [Wire("", End("E1"), End("E1"))])


def test_import_wires_without_a_window(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, wires = tmp_path / "job.molvik", tmp_path / "wires.csv"
    put_job(job_of(DIRECT, LAMP), path)
    with wires.open("w", newline="") as file:
        csv.writer(file).writerows(
            [["From", "To", "Colour"], ["F1 out", "D3 +", "RD"], ["C9 1", "E1", "BK"]]
        )
    assert main(["import-wires", str(path), str(wires), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for part in (report, report["rows"][0]):
        for key in part:
            assert f"`{key}`" in documented, key
    assert [row["state"] for row in report["rows"]] == ["fine", "needs you"]
    assert [w.code for w in read_job(path).wires][-2:] == ["W5", "W6"]
    out = tmp_path / "other.molvik"
    assert main(["import-wires", str(path), str(wires), "--out", str(out)]) == 0
    assert "1 row OK, 1 to check" in capsys.readouterr().out
    assert len(read_job(out).wires) == 8
    wires.write_text("Colour\nred\n")
    assert main(["import-wires", str(path), str(wires)]) == 2
    assert "at least From and To" in capsys.readouterr().err
