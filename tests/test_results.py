"""What was computed stands as long as what it reads; what is reused is what would be computed."""

import threading
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import awg, metric, small_job, wire
from jobs import edited, jobs_of_every_kind, readings, texts
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.devices.states import RUN, STATES, Fault
from molvik.electrics import Electrics
from molvik.findings import find_all
from molvik.lazy import cached_property
from molvik.model import edits, routing_edits
from molvik.model.job import Job
from molvik.model.log import LogEntry, Tick
from molvik.model.parts import (
    Colour,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Splice,
    Value,
    Wire,
    WireSize,
    is_electric,
    plain_fields,
)
from molvik.model.photos import Photo
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone
from molvik.model.stock import NO_SHELF, Shelf, StockItem
from molvik.netlist.network import Network
from molvik.stopping import Stopped, may_stop

AT = "2026-11-02T10:00:00+01:00"

ELECTRIC = [name for name, one in vars(Electrics).items() if isinstance(one, cached_property)]
DECLARED = {
    name: one.reads
    for name, one in vars(Analysis).items()
    if isinstance(one, cached_property) and one.reads
}

OF_NETWORK = [
    name
    for name, one in vars(Network).items()
    if isinstance(one, cached_property) and name != "batteries"
]

Edit = Callable[[Job], Job]

SHELF = Shelf((StockItem("ST1", "tape", "loom tape", amount=40.0),), name="a shelf")


@st.composite
def silent(draw: st.DrawFn, job: Job) -> Job:
    """The job after an edit that no current cares for."""
    kind = draw(st.integers(0, 6))
    code = draw(st.sampled_from(["", *(one.code for one in job.wires)]))
    if kind == 0:
        return edits.log(job, LogEntry(AT, subject=code, text="Seen."))
    if kind == 1:
        return edits.tick(job, Tick("repin R1", draw(texts), AT))
    if kind == 2:
        return replace(job, photos=(*job.photos, Photo(f"P{len(job.photos) + 1}", "a", 8, 8, AT)))
    if kind == 3 and job.wires:
        return edits.record(job, draw(readings(job)))
    if kind == 4 and job.connectors:
        plug = draw(st.sampled_from(job.connectors))
        return edits.change_pin(job, plug.code, "1", function=draw(texts))
    if code:
        fields = {"note": draw(texts), "function": draw(texts), "colour": Colour("RD")}
        return edits.change_wire(job, code, **fields)
    return edits.rename(job, "Another title", "")


@st.composite
def loud(draw: st.DrawFn, job: Job) -> Job:
    """The job after an edit that changes what flows, or any edit at all."""
    if draw(st.integers(0, 3)) == 0:
        return draw(routed(job))
    if not job.wires or draw(st.booleans()):
        return draw(edited(job))
    code = draw(st.sampled_from([one.code for one in job.wires]))
    fields: dict[str, Any] = draw(
        st.sampled_from(
            [
                {"length_m": 2.5},
                {"size": metric(1.5)},
                {"load_a": 4.0},
                {"load_a": None},
                {"bundle": "b"},
                {"place": "engine bay"},
                {"insulation": "C125"},
                {"use": "pump"},
            ]
        )
    )
    return edits.change_wire(job, code, **fields)


@st.composite
def routed(draw: st.DrawFn, job: Job) -> Job:
    """The job with a loom to build that some of its parts sit at, or with another length there."""
    if job.routing.runs:
        run = draw(st.sampled_from(job.routing.runs))
        metres = draw(st.sampled_from([0.2, 1.5]))
        return routing_edits.change(job, run.code, length_m=metres, zone="Hot")
    parts = [part.code for part in job.parts()]
    ends = st.lists(st.sampled_from(parts), max_size=6, unique=True) if parts else st.just([])
    chosen = draw(ends)
    joints = [LoomNode("J900", "H900", "Breakout")]
    joints += [
        LoomNode(f"J{901 + n}", "H900", f"End {n}", carries=(c,)) for n, c in enumerate(chosen)
    ]
    runs = [Run(f"R{901 + n}", "J900", f"J{901 + n}", 0.5) for n in range(len(chosen))]
    zones = (Zone("Hot", hot_c=400, distance_mm=60),)
    made = Routing((NewLoom("H900", "Loom"),), tuple(joints), tuple(runs), zones)
    return replace(job, routing=made)


def computed(job: Job, before: Analysis | None = None, shelf: Shelf = NO_SHELF) -> Analysis:
    """Return the analysis of a job with all of it computed."""
    analysis = Analysis(job, before, shelf)
    analysis.once(find_all)
    analysis.look_over()
    for name in DECLARED:
        getattr(analysis, name)
    return analysis


def said(analysis: Analysis) -> dict[str, Any]:
    """Return what is compared: all that is told of a job."""
    told: dict[str, Any] = {name: getattr(analysis.electrics, name) for name in ELECTRIC}
    told |= {name: getattr(analysis, name) for name in ("tests", "proof", "sheets")}
    told["network"] = [getattr(analysis.network, name) for name in OF_NETWORK]
    told["warm"] = analysis.electrics.warm.requirements
    told["fuse_work"] = {
        c: (w.load_a, w.crank_a, w.inrush) for c, w in analysis.electrics.fuse_work.items()
    }
    told["plans"] = {code: (p.happenings, p.ops) for code, p in analysis.plans.items()}
    told["loom"] = (analysis.loom.loom, analysis.loom.problems)
    told["ways"] = analysis.electrics.ways.of
    told["cut"] = (analysis.cut_lengths, analysis.sections)
    wrong = [(Fault("open", wire.code),) for wire in analysis.job.wires[:2]]
    told["simulated"] = [analysis.simulator.solved(one, RUN).device_states for one in ((), *wrong)]
    told["codes"] = [analysis.simulator.codes((), d.code) for d in analysis.job.devices]
    told["findings"] = analysis.once(find_all)
    told["alive"] = [
        (one.loads, one.device_states) for one in map(analysis.operating_point, STATES)
    ]
    return told


@settings(max_examples=25)
@given(st.data(), jobs_of_every_kind())
def test_a_result_that_is_reused_is_the_one_that_would_be_computed(
    data: st.DataObject, job: Job
) -> None:
    analysis = computed(job)
    for _ in range(data.draw(st.integers(1, 4))):
        job = data.draw(silent(job) if data.draw(st.booleans()) else loud(job))
        analysis = computed(job, analysis)
        fresh, kept = said(computed(job)), said(analysis)
        for name, one in fresh.items():
            assert repr(kept[name]) == repr(one), name


def test_the_list_of_tests_follows_the_way_that_a_wire_without_a_length_takes() -> None:
    """Its limit is that of its routed length: of 3 m more copper than of 0.3 m."""
    wires = (Wire("W1", End("C1", "1"), End("C2", "1"), size=WireSize("metric", 0.35)),)
    joints = (
        LoomNode("J1", "H1", "One", carries=("C1",)),
        LoomNode("J2", "H1", "Two", carries=("C2",)),
    )
    routing = Routing((NewLoom("H1", "Loom"),), joints, (Run("R1", "J1", "J2", 0.3),))
    plugs = (Connector("C1", "One", Grid(1, 1)), Connector("C2", "Two", Grid(1, 1)))
    job = Job("x", connectors=plugs, wires=wires, routing=routing)
    before = Analysis(job)
    short = before.sheets[1]
    after = Analysis(routing_edits.change(job, "R1", length_m=3.0), before)
    assert after.sheets[1] != short
    assert after.sheets == Analysis(after.job).sheets


@settings(max_examples=40)
@given(st.data(), jobs_of_every_kind())
def test_what_is_written_and_measured_leaves_the_solution_standing(
    data: st.DataObject, job: Job
) -> None:
    before = Analysis(job)
    solved = before.operating_point(RUN)
    after = Analysis(data.draw(silent(job)), before)
    assert after.operating_point(RUN) is solved
    assert after.electrics.sizings is before.electrics.sizings, (
        "and what the one computes later, the other knows"
    )


@pytest.mark.parametrize("name", ["marten", "plover"])
def test_results_read_no_more_than_they_declare(name: str) -> None:
    """Computed from a job with nothing else in it, they are the same."""
    job = demo_job(name)
    whole = computed(job, shelf=SHELF)
    for result, fields in DECLARED.items():
        only = Job(job.id, **{one: getattr(job, one) for one in fields if one != "shelf"})
        alone = getattr(Analysis(only, shelf=SHELF if "shelf" in fields else NO_SHELF), result)
        if result == "plans":
            for code, plan in alone.items():
                known = whole.plans[code]
                assert plan.ops == known.ops
                assert plan.happenings == known.happenings
        elif result == "plan":
            assert alone.measurements == whole.plan.measurements
            assert alone.judged == whole.plan.judged
            assert alone.bench.earths == whole.plan.bench.earths
        elif result == "loom":
            assert alone.problems == whole.loom.problems
        elif result == "simulator":
            for device in job.devices:
                assert alone.watched(device.code) == whole.simulator.watched(device.code)
                for faults in ((), (Fault("open", job.wires[0].code),)):
                    known_codes = whole.simulator.codes(faults, device.code)
                    assert alone.codes(faults, device.code) == known_codes
            assert alone.network.job.left_out == job.left_out, "codes as evidence read it"
        else:
            assert alone == getattr(whole, result), result
    assert {"loom", "plans", "proof", "tests", "sheets"} <= DECLARED.keys()


def test_each_declared_field_is_read_by_itself() -> None:
    """A field that changes brings what reads it, and nothing else."""
    job = demo_job("plover")
    before = computed(job)
    reading = edits.log(job, LogEntry(AT, text="x"))
    after = Analysis(reading, before)
    assert after.plans is before.plans
    assert after.loom is before.loom
    assert "proof" in after.__dict__
    ticked = Analysis(edits.tick(job, Tick("x", "y", AT)), before)
    assert "plans" not in ticked.__dict__
    assert ticked.loom is before.loom


def test_a_size_that_is_asked_the_same_is_not_judged_again() -> None:
    down = wire("W1", "D1/+", "F2/in", size=metric(2.5), length_m=0.3, load_a=8.0)
    one = wire("W2", "F2/out", "C1/1", size=metric(2.5), length_m=1.0, load_a=8.0)
    job = small_job(down, one)
    before = computed(job)
    after = computed(edits.change_wire(job, "W2", length_m=1.5), before)
    assert after.electrics.sizings["W1"] is before.electrics.sizings["W1"]
    assert after.electrics.sizings["W2"] is not before.electrics.sizings["W2"]


def test_another_size_gets_a_verdict_of_its_own_where_it_is_asked_the_same() -> None:
    """A wire that carries nothing is asked the same at any size."""
    idle = wire("W1", "C1/1", "C2/1", size=metric(2.5), length_m=1.0)
    typed = wire("W2", "C1/2", "C2/2", size=metric(2.5), length_m=1.0, load_a=3.0)
    before = computed(small_job(idle, typed))
    for code in ("W1", "W2"):
        thin = edits.change_wire(before.job, code, size=metric(0.2))
        after = computed(thin, before)
        assert after.electrics.sizing_cases[code] == before.electrics.sizing_cases[code]
        assert after.electrics.sizings[code].size == metric(0.2)
        assert not after.electrics.sizings[code].passes
    gauge = computed(edits.change_wire(before.job, "W2", size=awg(12)), before)
    least = gauge.electrics.least_sizes["W2"]
    assert least is not None
    assert least.system == "awg", "the smallest is told in the wire's own system"


def test_a_thicker_cable_takes_its_share_of_what_comes_back() -> None:
    """Two cables from metal to the battery share a fault as their resistances make it."""
    job = small_job(
        wire("W1", "D1/+", "F2/in", size=metric(10), length_m=0.3),
        wire("W2", "F2/out", "C1/1", size=metric(2.5), length_m=1.0),
        wire("W3", "E1", "D1/-", size=metric(10), length_m=1.0),
        wire("W4", "E1", "D1/-", size=metric(10), length_m=1.0),
    )
    before = computed(job)
    assert before.network.returns["W3"] == before.network.returns["W4"]
    after = computed(edits.change_wire(job, "W4", size=metric(50)), before)
    assert after.network.returns == Analysis(after.job).network.returns
    assert after.network.returns["W4"].limit_a > 4 * after.network.returns["W3"].limit_a


@pytest.mark.parametrize("end", ["start", "finish"])
def test_a_wire_that_is_led_elsewhere_brings_its_nets(end: str) -> None:
    """Either end, to another cavity or loose: what is kept is what it would be anew."""
    job = small_job(
        wire("W1", "C1/1", "C2/1"),
        wire("W2", "C1/2", "C2/2"),
        wire("W3", "F1/out", "C1/3"),
        wire("W4", "D1/+", "F1/in"),
        wire("W5", "E1", "D1/-"),
    )
    before = computed(job)
    for code in ("W1", "W3", "W5"):
        for to in (End("C2", "4"), End("K1", "85"), End()):
            after = computed(edits.change_wire(job, code, **{end: to}), before)
            anew = Analysis(after.job)
            for name in OF_NETWORK:
                kept, fresh = (getattr(one.network, name) for one in (after, anew))
                assert kept == fresh, (code, to, name)


@pytest.mark.parametrize("kind", [Wire, Connector, Fuse, Splice, EarthPoint, Device])
def test_every_field_says_whether_the_electrical_side_reads_it(kind: type[Value]) -> None:
    """A field of a part that says nothing would throw the solution away, or leave it stale."""
    assert [name for name, said in is_electric(kind).items() if said is None] == []


def test_a_field_that_is_not_read_leaves_the_solution_standing() -> None:
    job = demo_job("plover")
    before = Analysis(job)
    for kind, things in ((Wire, job.wires), (Connector, job.connectors)):
        plain = plain_fields(kind)
        assert plain
        blank = replace(things[0], **plain)
        name = "wires" if kind is Wire else "connectors"
        after = Analysis(replace(job, **{name: (blank, *things[1:])}), before)
        assert after.electrics is before.electrics


def test_undoing_a_step_is_the_job_as_it_was() -> None:
    job = demo_job()
    first = computed(job)
    second = computed(edits.change_wire(job, job.wires[5].code, length_m=9.0), first)
    third = computed(job, second)
    assert repr(third.once(find_all)) == repr(first.once(find_all))


def test_another_job_shares_nothing() -> None:
    job = demo_job()
    before = Analysis(job)
    assert Analysis(replace(job, id="another"), before).electrics is not before.electrics


def test_what_nobody_waits_for_stops() -> None:
    analysis = Analysis(demo_job())
    with may_stop(lambda: True), pytest.raises(Stopped):
        analysis.once(find_all)
    with may_stop(lambda: True), pytest.raises(Stopped):
        analysis.look_over()
    assert analysis.once(find_all), "and can be asked for again"


def test_a_fresh_analysis_does_not_wait_for_a_stale_one() -> None:
    begun, go_on = threading.Event(), threading.Event()

    class Slow:
        @cached_property
        def answer(self) -> int:
            if threading.current_thread() is not threading.main_thread():
                begun.set()
                assert go_on.wait(30)
            return 1

    stale, fresh = Slow(), Slow()
    other = threading.Thread(target=lambda: stale.answer)
    other.start()
    assert begun.wait(30)
    assert fresh.answer == 1
    go_on.set()
    other.join()
