"""What an edit accepts, a file accepts: nothing is saved that comes back as damaged."""

from collections.abc import Callable
from typing import Any

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import small_job, wire
from molvik.files.jobtext import decode_job, encode_job
from molvik.model import crossover_edits, edits, loom_edits, photo_edits, stock_edits, wire_edits
from molvik.model.checks import job_problem
from molvik.model.crossover import Extension, Pinout, RepinSet
from molvik.model.edits import EditError
from molvik.model.job import Acceptance, Job, Reading
from molvik.model.log import LogEntry, Tick
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import (
    CavityPosition,
    Connector,
    Device,
    End,
    Fuse,
    Grid,
    Pin,
    Wire,
    WireSize,
)
from molvik.model.photos import Mark, Photo
from molvik.model.references import REFERENCES, detached
from molvik.model.routing import LoomNode, NewLoom, Pose, Routing, Run
from molvik.model.stock import StockItem

AT = "2026-11-02T10:00:00+01:00"
ONE = Photo("", "a.jpg", 10, 10, AT)


def begin() -> Job:
    job = small_job(wire("W1", "C1/1", "C2/1"), wire("W2", "C1/2", "C2/2"))
    job = photo_edits.add(job, (replace(ONE, marks=(Mark("circle", 0.1, 0.1, 0.5, 0.5),)),))
    for thing in (Node("", "a"), Node("", "b"), Segment("", "N1", "N2"), FoundWire("", "N1")):
        job = loom_edits.add(job, thing)
    job = loom_edits.add(job, Fault("", "B1"))
    job = stock_edits.put_in(job, (StockItem("", amount=1.0),))
    return crossover_edits.add(job, RepinSet("", "x", ("C1",), "C2"))


JOB = begin()
NUMBERS = st.sampled_from(
    [
        -1e300,
        -200.0,
        -4.0,
        -0.0,
        0.0,
        1e-320,
        0.5,
        7.0,
        99.0,
        401.0,
        5e4,
        1e7,
        1e300,
        float("inf"),
        float("-inf"),
        float("nan"),
    ]
)
TIMES = st.sampled_from([AT, "", "now", "2026-11-02", "2026-11-02T10:00:00", "24:00", "0"])

Odd = Callable[[Job, float, str], Job]


def _set(edit: Callable[..., Job], *at: str) -> Odd:
    *codes, name = at
    return lambda job, x, t: edit(job, *codes, **{name: x})


EDITS: dict[str, Odd] = {
    **{
        f"wire {name}": _set(edits.change_wire, "W1", name)
        for name in ("length_m", "load_a", "ambient_c", "lay_length_mm", "on_s", "rest_s")
    },
    **{
        f"settings {name}": _set(edits.change_settings, name)
        for name in (
            "system_v",
            "ambient_c",
            "meter_leads_ohm",
            "meter_step_ohm",
            "stagger_m",
            "hour_price",
            "drain_limit_a",
        )
    },
    "awg": lambda job, x, t: edits.change_wire(job, "W1", size=WireSize("awg", x)),
    "metric": lambda job, x, t: edits.change_wire(job, "W1", size=WireSize("metric", x)),
    "new wire": lambda job, x, t: edits.add(job, Wire("", End("C1", "3"), length_m=x)),
    "many wires": lambda job, x, t: wire_edits.change_many(
        job, frozenset(["W1", "W2"]), ambient_c=x
    ),
    "extend": lambda job, x, t: wire_edits.extend(job, "W1", x),
    "split": lambda job, x, t: wire_edits.split(job, "W1", x),
    "in-line fuse": lambda job, x, t: wire_edits.insert_fuse(job, "W1", x),
    "fuse": lambda job, x, t: edits.change_part(job, "F1", rating_a=x),
    "new fuse": lambda job, x, t: edits.add(job, Fuse("", "f", x)),
    "figure": lambda job, x, t: edits.change_part(job, "K1", values=(("ohm", x),)),
    "rows": lambda job, x, t: edits.change_part(
        job, "C1", grid=Grid(int(x) if abs(x) < 1e6 else 1000, 2)
    ),
    "spots": lambda job, x, t: edits.add(
        job,
        Connector(
            "", "c", Grid(1, 1, spots=(CavityPosition("1", x, 0), CavityPosition("2", 0, 0)))
        ),
    ),
    "pin size": lambda job, x, t: edits.change_pin(job, "C1", "1", size=WireSize("metric", x)),
    "air": lambda job, x, t: edits.change_settings(job, air_c=(("engine bay", x),)),
    "share": lambda job, x, t: edits.change_settings(job, drop_shares=(("lamp", x),)),
    "stock": lambda job, x, t: stock_edits.change(job, "T1", amount=x),
    "stock size": lambda job, x, t: stock_edits.put_in(
        job, (StockItem("", size=WireSize("awg", x), price=1.0),)
    ),
    "bore": lambda job, x, t: stock_edits.change(job, "T1", bore_mm=x),
    "mark": lambda job, x, t: photo_edits.change_mark(job, "P1", 0, x1=x),
    "marked length": lambda job, x, t: photo_edits.change_mark(job, "P1", 0, length_m=x),
    "photo": lambda job, x, t: photo_edits.add(job, (replace(ONE, at=t),)),
    "stretch": lambda job, x, t: loom_edits.change(job, "B1", length_m=x),
    "diameter": lambda job, x, t: loom_edits.change(job, "B1", diameter_mm=x),
    "left": lambda job, x, t: loom_edits.change(job, "L1", left_m=x),
    "fault": lambda job, x, t: loom_edits.change(job, "X1", at_m=x, decided_at=t),
    "extension": lambda job, x, t: crossover_edits.extend(job, "Q1", Extension("C1/1", x)),
    "reading": lambda job, x, t: edits.record(
        job, Reading("W1", "resistance", x, (End("C1", "1"), End("C2", "1")), t)
    ),
    "note": lambda job, x, t: edits.log(job, LogEntry(t, text="x")),
    "done": lambda job, x, t: edits.log(
        job, LogEntry(AT, "done", operation="crimp", quantity=x, minutes=x)
    ),
    "tick": lambda job, x, t: edits.tick(job, Tick("repin Q1", "x", t)),
    "accept": lambda job, x, t: edits.accept(job, Acceptance("x W1", "y", t)),
}


@pytest.mark.parametrize("name", EDITS)
@given(x=NUMBERS, t=TIMES)
def test_what_an_edit_accepts_a_file_accepts(name: str, x: float, t: str) -> None:
    try:
        job = EDITS[name](JOB, x, t)
    except EditError:
        return
    assert job_problem(job) == ""
    assert decode_job(encode_job(job), "kept") == job


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (lambda job: edits.change_wire(job, "W1", length_m=-4.0), "W1 has a length or current"),
        (lambda job: edits.change_wire(job, "W1", length_m=2e5), "W1 has a length or current"),
        (lambda job: edits.change_part(job, "F1", rating_a=0.0), "F1 has a rating of 0 A"),
        (lambda job: edits.change_settings(job, system_v=0.0), "The system voltage is 0 V"),
        (lambda job: edits.change_part(job, "K1", values=(("ohm", float("nan")),)), "not a number"),
        (lambda job: edits.set_pins(job, "C1", (Pin("1"), Pin("1")), "t"), ""),
        (lambda job: edits.change_part(job, "C1", pins=(Pin("1"), Pin("1"))), "cavity 1 twice"),
        (
            lambda job: crossover_edits.add_pinout(job, Pinout("C1", "x", (Pin("1"), Pin("1")))),
            "the table x lists cavity 1 twice",
        ),
        (lambda job: edits.add(job, Device("K1", "again", "relay")), "K1 is already"),
        (lambda job: loom_edits.add(job, Node("W1", "n")), "W1 is already"),
        (lambda job: edits.log(job, LogEntry("yesterday", text="x")), "“yesterday” is not a time"),
    ],
)
def test_what_cannot_be_is_said_at_once(edit: Callable[[Job], Job], words: str) -> None:
    if not words:  # pins of a table come as a set: the last of a cavity counts
        assert job_problem(edit(JOB)) == ""
        return
    with pytest.raises(EditError, match=f"(?i){words}"):
        edit(JOB)


def test_two_things_with_one_code_are_no_job() -> None:
    data: Any = msgspec.json.decode(encode_job(JOB))
    data["job"]["wires"][0]["code"] = "F1"
    with pytest.raises(Exception, match="the code F1 is used twice"):
        decode_job(msgspec.json.encode(data), "x")


def test_what_a_thing_is_of_must_be_there() -> None:
    """By the table of references: each that holds on to something, pointed at nothing."""
    loom = Loom(
        (Node("N1", "end"), Node("N2", "plug")),
        (Segment("B1", "N1", "N2"),),
        (FoundWire("X1", "N1", "N2"),),
        (Fault("Q1", "B1", "chafed through"),),
    )
    routing = Routing(
        (NewLoom("H1", "loom"),),
        (LoomNode("J1", "H1", "end"), LoomNode("J2", "H1", "plug")),
        (Run("R1", "J1", "J2"),),
    )
    whole = replace(
        small_job(),
        loom=loom,
        pinouts=(Pinout("C1", "made"),),
        routing=routing,
        board=(Pose("R1", 90.0),),
    )
    assert job_problem(whole) == ""
    tried = 0
    for reference in REFERENCES:
        *steps, field = reference.path.split(".")
        if reference.gone not in ("goes along", "holds it") or steps == ["repins"]:
            continue
        for code in ("N99", ""):
            broken = _with(whole, steps, field, code)
            if code or reference.needed:
                tried += 1
                assert (code or "nothing") in job_problem(broken), (reference.path, code)
            else:
                assert job_problem(broken) == "", (reference.path, code)
    assert tried >= 8


def _with(job: Job, steps: list[str], field: str, code: str) -> Job:
    """Return a job in which the first thing of a list points at something else."""
    if len(steps) == 2:
        inner = _with(getattr(job, steps[0]), steps[1:], field, code)
        return replace(job, **{steps[0]: inner})
    first, *others = getattr(job, steps[0])
    return replace(job, **{steps[0]: (replace(first, **{field: code}), *others)})


def test_a_thing_taken_elsewhere_points_at_nothing() -> None:
    device = Device("D7", "Pump", "motor", ("+", "-"), plug="C1", case="E1", values=(("A", 6.0),))
    assert detached(device, "devices") == replace(device, code="", plug="", case="")
    assert detached(wire("W3", "C1/1", "E1", note="x"), "wires") == Wire("", note="x")
