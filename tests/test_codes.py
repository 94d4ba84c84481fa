"""Codes are never used twice, can be changed, and everything that points at a thing follows."""

import re
from collections.abc import Iterator
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import small_job, wire
from jobs import edited, jobs
from molvik.analysis import Analysis
from molvik.circuits.wire_table import put_wires
from molvik.demo import demo_job
from molvik.files.jobtext import decode_job, encode_job
from molvik.findings import find_all
from molvik.model import crossover_edits, edits, loom_edits, photo_edits, stock_edits
from molvik.model.codes import is_spent, next_code, spend
from molvik.model.crossover import Pinout, RepinSet
from molvik.model.edits import EditError
from molvik.model.job import Acceptance, Job, Reading
from molvik.model.log import LogEntry, Tick
from molvik.model.loom import Fault, Node, Segment
from molvik.model.parts import LOOSE, Connector, Device, EarthPoint, End, Grid, Pin, Wire
from molvik.model.photos import Photo
from molvik.model.references import COLLECTIONS, REFERENCES, codes, collection_of, uses
from molvik.model.stock import StockItem
from molvik.netlist.ends import EndError, read_end

AT = "2026-11-02T10:00:00+01:00"
JOBS = {name: demo_job(name) for name in ("marten", "plover")}


def strings(value: Any, path: str = "") -> Iterator[tuple[str, str]]:
    """Every text in a job with the way to it."""
    if isinstance(value, str):
        yield path, value
    elif isinstance(value, tuple):
        for one in value:
            yield from strings(one, path)
    elif isinstance(value, msgspec.Struct):
        for field in value.__struct_fields__:
            yield from strings(getattr(value, field), f"{path}.{field}".lstrip("."))


# Which is the next.


@pytest.mark.parametrize(
    ("letters", "taken", "spent", "wanted"),
    [
        ("W", [], (), "W1"),
        ("W", ["W1", "W10", "K12", "WX", "W-3", "W²"], (), "W11"),
        ("W", ["W1"], (("W", 7),), "W8"),
        ("W", ["W9"], (("K", 20), ("W", 7)), "W10"),
        ("W", [f"W{'9' * 40}"], (), "W1"),
    ],
)
def test_the_next_code_is_above_all_that_were(
    letters: str, taken: list[str], spent: Any, wanted: str
) -> None:
    assert next_code(letters, taken, spent) == wanted


def test_what_is_spent_is_told_by_letters_and_number() -> None:
    spent = spend((), ["W7", "W3", "MAIN", "IGN-2"])
    assert spent == (("IGN-", 2), ("MAIN", 0), ("W", 7))
    assert [is_spent(spent, one) for one in ("W7", "W2", "W8", "MAIN", "MAIN1", "IGN-1", "K1")] == [
        True,
        True,
        False,
        True,
        False,
        True,
        False,
    ]
    assert spend(spent, ["W9", "W8"]) == (("IGN-", 2), ("MAIN", 0), ("W", 9))


@given(st.data())
def test_no_code_ever_comes_back(data: st.DataObject) -> None:
    job = data.draw(jobs())
    ever = set(codes(job))
    for _ in range(data.draw(st.integers(1, 12))):
        before = set(codes(job))
        job = data.draw(edited(job))
        if data.draw(st.integers(0, 4)) == 0:
            job = decode_job(encode_job(job), "kept")
        made = set(codes(job)) - before
        assert not made & ever
        ever |= made
        for code in ever - set(codes(job)):
            with pytest.raises(EditError, match="Choose another code"):
                edits.refuse_code(job, code)


def test_so_have_it_the_loom_the_sets_the_photos_and_the_stock() -> None:
    job = JOBS["marten"]
    job = stock_edits.put_in(job, (StockItem("", amount=1.0),))
    photo = Photo("", "a.jpg", 10, 10, AT)
    ways: Any = (
        (lambda job: loom_edits.add(job, Node("", "end")), loom_edits.remove),
        (lambda job: loom_edits.add(job, Fault("", job.loom.nodes[0].code)), loom_edits.remove),
        (lambda job: photo_edits.add(job, (photo,)), photo_edits.remove),
        (
            lambda job: stock_edits.put_in(job, (StockItem("", amount=1.0),)),
            lambda job, code: stock_edits.take_out(job, frozenset([code])),
        ),
        (
            lambda job: crossover_edits.add(
                job, RepinSet("", "x", (job.connectors[0].code,), job.connectors[1].code)
            ),
            crossover_edits.remove,
        ),
    )
    for add, remove in ways:
        with_one = add(job)
        (made,) = set(codes(with_one)) - set(codes(job))
        again = add(remove(with_one, made))
        (later,) = set(codes(again)) - set(codes(job))
        assert (later[0], int(later[1:])) == (made[0], int(made[1:]) + 1)


def test_a_new_wire_inherits_nothing_and_a_new_earth_has_nothing_bolted_to_it() -> None:
    job = small_job(
        wire("W1", "C1/1", "C2/1"),
        wire("W2", "F1/out", "C1/2"),
        devices=(
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("D2", "Starter", "starter", ("+", "50"), case="E1"),
        ),
    )
    job = edits.accept(job, Acceptance("no-length W2", "seen", AT))
    job = edits.log(job, LogEntry(AT, subject="W2", text="chafed"))
    job = photo_edits.add(job, (Photo("", "a.jpg", 10, 10, AT, on="W2"),))
    job = edits.remove_wires(job, frozenset(["W2"]))
    assert job.photos_on("W2") == ()
    job = edits.add(job, Wire("", End("F1", "out"), End("C1", "2")))
    assert [one.code for one in job.wires] == ["W1", "W3"]
    job = edits.remove_part(job, "E1")
    assert job.devices[1].case == ""
    job = edits.add(job, EarthPoint("", "Case earth"))
    assert (job.earths[0].code, job.devices[1].case) == ("E2", "")


def test_a_file_from_before_spends_what_its_record_speaks_of() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"))
    job = replace(
        job,
        readings=(Reading("W9", "resistance", 0.2, (End("C1", "1"), End("C7", "1")), AT),),
        log=(LogEntry(AT, subject="C5/3"),),
        accepted=(Acceptance("loose-end W12", "x", AT),),
        photos=(Photo("P1", "a.jpg", 10, 10, AT, on="F8"),),
    )
    job = decode_job(encode_job(job), "old")
    assert job.spent == (("C", 7), ("F", 8), ("W", 12))
    assert edits.free_code(job, Wire) == "W13"
    assert decode_job(encode_job(job), "new") == job


def test_a_table_of_wires_brings_no_code_back_and_none_that_another_has() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), wire("W2", "C1/2", "C2/2"))
    job = edits.remove_wires(job, frozenset(["W2"]))
    assert [one.code for one in put_wires(job, [Wire(""), Wire("W7"), Wire("")]).wires] == [
        "W1",
        "W3",
        "W7",
        "W4",
    ]
    for code, words in (("W2", "Choose another code"), ("F1", "F1 is already"), ("W1", "W1 is al")):
        with pytest.raises(EditError, match=words):
            put_wires(job, [Wire(code)])
    with pytest.raises(EditError, match="W4 has a length or current of -1"):
        put_wires(job, [Wire("W4", length_m=-1.0)])


# Who points at what.


@pytest.mark.parametrize("name", JOBS)
def test_every_field_that_points_at_something_is_in_the_table(name: str) -> None:
    job = JOBS[name]
    known, there = {one.path for one in REFERENCES}, set(codes(job))
    paths: set[str] = set()
    for path, text in strings(job):
        head = text.partition("/")[0]
        words = re.findall(r"(?<![\w.-])[A-Z][0-9]+(?![\w.-])", text)
        if head in there or (path.startswith(("ticks", "accepted", "repins")) and words):
            paths.add(path)
    paths -= {f"{own}.code" for own in COLLECTIONS}
    # Texts for people, and what a table or a label calls a circuit, may look like a code.
    free = (
        "text",
        "note",
        "reason",
        "circuit",
        "name",
        "function",
        "cavity",
        "terminals",
        "joins",
        "mark",
    )
    paths = {path.removesuffix(".at") for path in paths}
    assert not {path for path in paths - known if path.rpartition(".")[2] not in free}
    assert len(paths & known) >= 5  # it is no empty check


def test_what_a_removal_takes_along_is_said() -> None:
    mates = (Connector("C1", "a", Grid(1, 2)), Connector("C2", "b", Grid(1, 2), plugs_into="C1"))
    job = Job("x", connectors=mates, pinouts=(Pinout("C1", "1998"), Pinout("C1", "2001")))
    job = edits.add(job, Device("", "Pump", "motor", plug="C1"))
    for n in range(8):
        job = edits.add(job, Wire("", End("C1", "1"), End("C1", "2") if n else LOOSE))
    assert [use.words for use in uses(job, "C1")] == [
        "W1, W2, W3, W4, W5 and 3 more come loose",
        "C2 mates with nothing",
        "D1 has no plug",
        "its table 1998 and its table 2001 go with it",
    ]
    gone = edits.remove_part(job, "C1")
    assert {end for one in gone.wires for end in one.ends} == {LOOSE}
    assert (gone.connectors[0].plugs_into, gone.devices[0].plug, gone.pinouts) == ("", "", ())
    assert not uses(gone, "C1")
    job = crossover_edits.add(job, RepinSet("", "Bulkhead", ("C1",), "C2"))
    with pytest.raises(EditError, match=r"the repin set Bulkhead is about it. Delete that"):
        edits.remove_part(job, "C1")


@given(st.data())
def test_after_a_removal_only_the_record_speaks_of_it(data: st.DataObject) -> None:
    job = JOBS[data.draw(st.sampled_from(sorted(JOBS)))]
    code = data.draw(st.sampled_from([part.code for part in job.parts()]))
    if any(use.reference.gone == "holds it" for use in uses(job, code)):
        with pytest.raises(EditError):
            edits.remove_part(job, code)
        return
    job = edits.remove_part(job, code)
    left = {path.removesuffix(".at") for path, text in strings(job) if text.split("/")[0] == code}
    assert left <= {one.path for one in REFERENCES if one.gone == "stays"}
    assert decode_job(encode_job(job), "kept") == job


# Another code.


@settings(max_examples=40)
@given(st.data())
def test_a_code_is_changed_everywhere_and_back(data: st.DataObject) -> None:
    job = JOBS[data.draw(st.sampled_from(sorted(JOBS)))]
    old = data.draw(st.sampled_from(sorted(codes(job))))
    new = data.draw(st.sampled_from(["ZZ-9", "7A", "MAIN.1", f"{old}X"]))
    there = edits.change_code(job, old, new, AT, "B")
    assert there.log[-1] == LogEntry(
        AT, subject=new, by="B", text=f"{old} is called {new} from now on."
    )
    token = re.compile(rf"(?<![\w.-]){re.escape(old)}(?![\w.-])")
    pointing = {one.path for one in REFERENCES} | {f"{collection_of(job, old)}.code"}
    for path, text in strings(replace(there, log=())):
        if path.removesuffix(".at") in pointing:
            assert not token.search(text)
    back = edits.change_code(there, new, "ZZ-10", AT)
    same = replace(edits.change_code(there, new, "ZZ-10", AT), log=(), spent=())
    assert replace(edits.change_code(job, old, "ZZ-10", AT), log=(), spent=()) == same
    with pytest.raises(EditError, match="Choose another code"):
        edits.change_code(back, "ZZ-10", old, AT)  # a label may still say it
    assert decode_job(encode_job(there), "kept") == there


@pytest.mark.parametrize("name", JOBS)
@pytest.mark.parametrize("at", range(4))
def test_another_code_changes_no_finding(name: str, at: int) -> None:
    job = JOBS[name]
    kinds = (job.wires, job.connectors, job.devices, job.fuses)
    old = (kinds[at] or job.wires)[0].code
    there = edits.change_code(job, old, "ZZ-9", AT)

    def told(job: Job) -> list[tuple[str, str]]:
        return sorted((one.rule, one.key) for one in find_all(Analysis(job)))

    token = re.compile(rf"(?<![\w.-]){re.escape(old)}(?![\w.-])")
    assert told(there) == sorted((rule, token.sub("ZZ-9", key)) for rule, key in told(job))
    kept = {one.finding for one in there.accepted}
    assert kept == {token.sub("ZZ-9", one.finding) for one in job.accepted}


def test_a_code_that_another_kind_was_given_is_not_given_out() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"))
    for old, new in (("C1", "W2"), ("F1", "N1"), ("F2", "P1"), ("E1", "T1"), ("K1", "Q1")):
        job = edits.change_code(job, old, new, AT)
    job = edits.add(job, Wire("", End("W2", "2")))
    job = loom_edits.add(job, Node("", "end"))
    job = photo_edits.add(job, (Photo("", "a.jpg", 10, 10, AT),) * 2)
    job = stock_edits.put_in(job, (StockItem("", amount=1.0),) * 2)
    job = crossover_edits.add(job, RepinSet("", "x", ("W2",), "C2"))
    made = [job.wires[-1].code, *(one.code for one in job.loom.nodes)]
    made += [photo.code for photo in job.photos] + [item.code for item in job.stock]
    assert [*made, job.repins[0].code] == ["W3", "N2", "P2", "P3", "T2", "T3", "Q2"]
    assert decode_job(encode_job(job), "kept") == job
    with pytest.raises(EditError, match="C2 is already"):
        crossover_edits.add(job, RepinSet("C2", "x", ("W2",), "C2"))


def test_a_file_in_which_a_wire_and_a_stretch_share_a_code_opens_and_keeps_them_apart() -> None:
    job = small_job(wire("B1", "C1/1", "C2/1"))
    for thing in (Node("", "a"), Node("", "b"), Segment("", "N1", "N2")):
        loom = loom_edits.add(Job("x", loom=job.loom), thing).loom
        job = replace(job, loom=loom)
    job = replace(job, loom=loom_edits.add(Job("x", loom=job.loom), Fault("", "B1")).loom)
    assert decode_job(encode_job(job), "old") == job
    with pytest.raises(EditError, match="B1 stays: X1 is recorded on it"):
        loom_edits.remove(job, "B1")
    gone = edits.remove_wires(job, frozenset(["B1"]))
    assert (gone.wires, gone.loom) == ((), job.loom)


def test_words_with_a_longer_code_in_them_are_left_alone() -> None:
    job = small_job(*(wire(f"W{n}", "C1/1", "C2/1") for n in (1, 12)))
    for finding in ("no-length W1", "no-length W12", "two-in-one C1/1 W1 W12"):
        job = edits.accept(job, Acceptance(finding, "seen", AT))
    job = edits.tick(job, Tick("repin Q1", "Q1 move W1: taken out", AT))
    job = edits.change_code(job, "W1", "IGN-1", AT)
    assert [one.finding for one in job.accepted] == [
        "no-length IGN-1",
        "no-length W12",
        "two-in-one C1/1 IGN-1 W12",
    ]
    assert job.ticks[0].step == "Q1 move IGN-1: taken out"


@pytest.mark.parametrize(
    ("new", "words"),
    [
        ("", "begins with"),
        ("w 1", "begins with"),
        ("ü1", "begins with"),
        ("W1/2", "begins with"),
        ("W1@2", "begins with"),
        ("W" * 21, "begins with"),
        ("F1", "F1 is already"),
        ("f1", "F1 is already"),
        ("C2", "C2 is already"),
        ("W2", "Choose another"),
    ],
)
def test_a_code_that_cannot_be_is_refused(new: str, words: str) -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), wire("W3", "C1/2", "C2/2"))
    job = edits.remove_wires(job, frozenset(["W3"]))
    with pytest.raises(EditError, match=words):
        edits.change_code(job, "W1", new, AT)
    with pytest.raises(EditError, match="no W8"):
        edits.change_code(job, "W8", "W9", AT)


def test_a_code_is_written_in_capitals_and_typed_as_one_likes() -> None:
    job = Job("x", connectors=(Connector("C1", "a", Grid(1, 2), pins=(Pin("1", "C1 feed"),)),))
    job = edits.add(job, Wire("", End("C1", "1")))
    assert edits.change_code(job, "C1", "c1", AT) == job
    job = edits.change_code(job, "C1", "main-1.a", AT)
    assert job.wires[0].start == End("MAIN-1.A", "1")
    assert job.connectors[0].pins[0].function == "C1 feed"  # the user's words are the user's
    job = edits.add(job, Connector("MAIN-1", "b", Grid(1, 2)))
    network = Analysis(job).network
    for typed, wanted in (
        ("main-1.a 2", End("MAIN-1.A", "2")),
        ("MAIN-1.A/1", End("MAIN-1.A", "1")),
        ("main-1-2", End("MAIN-1", "2")),
        ("Main-1 2", End("MAIN-1", "2")),
    ):
        assert read_end(typed, network) == wanted
    for typed, words in (
        ("MAIN 2", "is not an end"),
        ("C1 2", "There is no C1"),
        ("main-12", "not an end"),
    ):
        with pytest.raises(EndError, match=words):
            read_end(typed, network)
