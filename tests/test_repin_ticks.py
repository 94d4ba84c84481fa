"""What is ticked never changes what is still to be done."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.cli import main
from molvik.crossover.repinplan import RepinPlan, size_of
from molvik.crossover.repinsheet import repin_sheet
from molvik.crossover.work import plan_of, tick, untick
from molvik.files.jobtext import decode_job, encode_job
from molvik.findings import find_all
from molvik.model import crossover_edits
from molvik.model.crossover import Pinout, RepinSet
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import LOOSE, Connector, End, Grid, Pin, Wire, WireSize

AT, BY = "2026-11-02T10:00:00+01:00", "B"
NAMES = (
    "Injector 1",
    "Injector 2",
    "Coil 1",
    "Coil 2",
    "Fuel pump relay",
    "Power earth",
    "Main relay feed",
    "Coolant temperature",
    "Throttle position",
    "Crank sensor signal",
    "Sensor return",
    "Idle valve",
)
KINDS = ("crossover", "two sources", "in place", "one to one", "nothing there")


def pins(names: list[str]) -> tuple[Pin, ...]:
    return tuple(Pin(str(n), name) for n, name in enumerate(names, start=1) if name)


@st.composite
def sets(draw: st.DrawFn) -> Job:
    """A job with one repin set, of any kind, its leads from tables, from wires or from both."""
    kind = draw(st.sampled_from(KINDS))
    there = list(draw(st.permutations(NAMES)))[: draw(st.integers(1, 8))]
    wanted = list(draw(st.permutations(NAMES)))[: draw(st.integers(1, 8))]

    def plug(code: str, names: list[str] = []) -> Connector:  # noqa: B006  # never changed
        return Connector(code, "plug", Grid(2, 6), pins=pins(names))

    parts: tuple[Connector, ...] = (plug("C1", there), plug("C2", wanted))
    repin = RepinSet("Q1", "x", ("C1",), "C2")
    match kind:
        case "two sources":
            parts = (plug("C1", there[::2]), plug("C3", there[1::2]), plug("C2", wanted))
            repin = replace(repin, sources=("C1", "C3"))
        case "in place":
            parts = (plug("C1", there),)
            repin = replace(repin, target="C1", wanted="later")
        case "one to one":
            parts = (plug("C1", there), plug("C3", wanted), plug("C2"))
            repin = replace(repin, sources=("C1", "C3"), kind="one to one")
        case "nothing there":
            parts = (plug("C1"), plug("C2", wanted))
        case _:
            pass
    drawn = [End(one.code, pin.cavity) for one in parts if one.code != "C2" for pin in one.pins]
    drawn = draw(st.lists(st.sampled_from(drawn), unique=True)) if drawn else []
    wires = tuple(Wire(f"W{n}", end, LOOSE, "") for n, end in enumerate(drawn, start=1))
    pinouts = (Pinout("C1", "later", pins(wanted)),)
    return Job("ticks", connectors=parts, wires=wires, repins=(repin,), pinouts=pinouts)


def remains(plan: RepinPlan) -> Any:
    """Return what a plan says, to be compared."""
    return (
        [op.key for op in plan.ops],
        [(one.place, one.action, one.end) for one in plan.happenings],
        [lead.place for lead in plan.repin.leads],
        [step.key for step in plan.steps],
    )


def test_a_plug_goes_in_when_its_lead_is_out_and_comes_out_with_its_tick() -> None:
    """A pinout alone: the plug in a lead's cavity, ticked too early, made the lead vanish."""
    repin = RepinSet("Q1", "x", ("C1",), "C1", "later")
    later = Pinout("C1", "later", (Pin("1", "Injector 2"),))
    plug = Connector(
        "C1", "plug", Grid(1, 3), pins=(Pin("2", "Injector 2"), Pin("3", fill="empty"))
    )
    begun = job = Job("x", connectors=(plug,), repins=(repin,), pinouts=(later,))
    move, plugs = (
        next(s for s in plan_of(job, "Q1").steps if word in s.key) for word in ("move", "plugs")
    )
    done = plugs.tick_key("done")
    with pytest.raises(EditError, match="C1/2 is still full"):
        tick(job, "Q1", plugs, done, AT, BY)
    for part in move.ticks:
        job = tick(job, "Q1", move, move.tick_key(part), AT, BY)
    out = job
    job = tick(job, "Q1", plugs, done, AT, BY)
    (connector,) = job.connectors
    assert {pin.cavity: pin.fill for pin in connector.pins} == {"2": "plugged", "3": "plugged"}
    assert {p.fill for p in untick(job, "Q1", plugs, done).connectors[0].pins} == {""}
    for part in reversed(move.ticks):  # the lead goes back in: its plug came out
        job = untick(job, "Q1", move, move.tick_key(part))
    assert job.connectors[0].pins[0] == Pin("2", "Injector 2")
    assert (
        remains(plan_of(job, "Q1")) == remains(plan_of(begun, "Q1")) == remains(plan_of(out, "Q1"))
    )


@settings(max_examples=150, deadline=None)
@given(sets(), st.data())
def test_any_sequence_of_ticks_leaves_the_plan_as_it_was(job: Job, data: st.DataObject) -> None:
    first = remains(plan_of(job, "Q1"))
    for _ in range(data.draw(st.integers(1, 12))):
        plan = plan_of(job, "Q1")
        steps = [step for step in plan.steps if step.ticks]
        if not steps:
            return
        step = data.draw(st.sampled_from(steps))
        key = step.tick_key(data.draw(st.sampled_from(step.ticks)))
        done = {one.step for one in job.ticks}
        try:
            job = (
                untick(job, "Q1", step, key) if key in done else tick(job, "Q1", step, key, AT, BY)
            )
        except EditError:
            continue  # a cavity that is still full
        if data.draw(st.booleans()):
            job = decode_job(encode_job(job), "kept")
        now = remains(plan_of(job, "Q1"))
        assert now[:3] == first[:3]
        assert [key for key in now[3] if " test " not in key] == [
            key for key in first[3] if " test " not in key
        ]


def two_tables() -> Job:
    there, wanted = list(NAMES[:8]), list(reversed(NAMES[:8]))
    parts = (
        Connector("C1", "old", Grid(2, 6), pins=pins(there)),
        Connector("C2", "new", Grid(2, 6), pins=pins(wanted)),
    )
    return Job("tables", connectors=parts, repins=(RepinSet("Q1", "x", ("C1",), "C2"),))


def test_two_tables_and_no_wire_are_worked_through_to_the_end() -> None:
    job = two_tables()
    first = remains(plan_of(job, "Q1"))
    assert len(plan_of(job, "Q1").repin.leads) == 8
    for step in plan_of(job, "Q1").moves:
        for part in step.ticks:
            job = tick(job, "Q1", step, step.tick_key(part), AT, BY)
            assert remains(plan_of(job, "Q1")) == first
    done = {one.step for one in job.ticks}
    assert all(step.is_done(done) for step in plan_of(job, "Q1").moves)
    assert len(plan_of(job, "Q1").repin.leads) == 8


def test_what_was_ticked_and_taken_back_lets_new_leads_in_again() -> None:
    job = two_tables()
    step = plan_of(job, "Q1").moves[0]
    key = step.tick_key(step.ticks[0])
    job = untick(tick(job, "Q1", step, key, AT, BY), "Q1", step, key)
    assert crossover_edits.find(job, "Q1").start == ()
    more = (*job.connectors[0].pins, Pin("12", "Oil pressure"))
    job = replace(job, connectors=(replace(job.connectors[0], pins=more), job.connectors[1]))
    assert len(plan_of(job, "Q1").repin.leads) == 9


def one_to_one() -> Job:
    parts = (
        Connector("C1", "a", Grid(1, 2), pins=(Pin("1", "Fan"),)),
        Connector("C3", "b", Grid(1, 2), pins=(Pin("1", "Pump"), Pin("2", "Horn"))),
        Connector("C2", "new", Grid(1, 2)),
    )
    return Job(
        "shared",
        connectors=parts,
        repins=(RepinSet("Q1", "x", ("C1", "C3"), "C2", kind="one to one"),),
    )


def test_two_sources_that_share_a_cavity_number_are_asked_about() -> None:
    plan = plan_of(one_to_one(), "Q1")
    assert [(m.lead.place, m.state) for m in plan.matches] == [
        ("C1/1", "sure"),
        ("C3/1", "look"),
        ("C3/2", "sure"),
    ]
    assert plan.steps
    find_all(Analysis(one_to_one()))


def test_check_reads_such_a_set(tmp_path: Any, capsys: pytest.CaptureFixture[str]) -> None:
    from conftest import put_job

    path = tmp_path / "shared.molvik"
    put_job(one_to_one(), path)
    assert main(["check", str(path)]) in (0, 1)
    assert "C3/1" in capsys.readouterr().out


def test_a_new_wire_has_a_size_and_says_why() -> None:
    small, thick = WireSize("metric", 0.35), WireSize("metric", 2.5)
    there = (Pin("1", "Injector 1", size=small), Pin("2", "Power earth", size=thick))
    wanted = (
        Pin("1", "Injector 1"),
        Pin("2", "Injector 2"),
        Pin("3", "Horn"),
        Pin("4", "Ignition feed"),
        Pin("5", "Clutch switch", size=thick),
        Pin("6", "Power earth"),
        Pin("7", "Power ground"),
    )
    parts = (
        Connector("C1", "old", Grid(2, 6), pins=there),
        Connector("C2", "new", Grid(2, 6), pins=wanted),
    )
    job = Job("new", connectors=parts, repins=(RepinSet("Q1", "x", ("C1",), "C2"),))
    plan = plan_of(job, "Q1")
    made = {one.end: one for one in plan.happenings if one.action in ("new", "splits")}
    sizes = {end: (str(size_of(plan.repin, one)), one.reason) for end, one in made.items()}
    assert {end: size for end, (size, _) in sizes.items()} == {
        "C2/2": "0.35 mm²",
        "C2/3": "1.5 mm²",
        "C2/4": "1.5 mm²",
        "C2/5": "2.5 mm²",
        "C2/7": "2.5 mm²",
    }
    assert "as Injector 1" in sizes["C2/2"][1]
    assert "as 5 A are usual there" in sizes["C2/3"][1]
    assert "as is usual for a supply" in sizes["C2/4"][1]
    assert "as its table says" in sizes["C2/5"][1]
    assert "as the other earth wires" in sizes["C2/7"][1]
    rows = repin_sheet(plan).tables[0].rows
    assert {row[1]: row[5] for row in rows}["Horn"] == "1.5 mm²"
    step = next(one for one in plan.moves if one.put == "C2/3")
    for part in step.ticks:
        job = tick(job, "Q1", step, step.tick_key(part), AT, BY)
    assert str(job.wires[-1].size) == "1.5 mm²"
