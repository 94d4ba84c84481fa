"""The plan at the bench: the fewest measurements, what each shows, what touches that should not."""

import itertools
import math
import random
import shutil
import subprocess
from pathlib import Path

import networkx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.job import Job, Reading, Settings
from molvik.model.parts import Connector, End, Grid, Splice, Wire, WireSize
from molvik.proving.bench import Bench
from molvik.proving.continuity import proved, verdicts
from molvik.proving.isolation import Isolation
from molvik.proving.meter import spread_ohm
from molvik.proving.proofplan import Measurement, ProofPlan
from molvik.proving.validity import mended_text
from molvik.proving.wiretest import continuity_reading
from molvik.reference.contacts import NEW_JOINT_OHM

AT = "2026-11-02T10:00:00+01:00"


def loom_job(*pairs: tuple[str, str], length: float = 2.0) -> Job:
    """Return wires between places: "C1/1" to "C2/3", "S1"."""
    made = tuple(
        Wire(f"W{n}", End.of(a), End.of(b), size=WireSize("metric", 1.0), length_m=length)
        for n, (a, b) in enumerate(pairs, 1)
    )
    codes = sorted({end.at for wire in made for end in wire.ends})
    plugs = tuple(Connector(code, code, Grid(2, 6)) for code in codes if code[0] == "C")
    splices = tuple(Splice(code) for code in codes if code[0] == "S")
    return Job("x", connectors=plugs, splices=splices, wires=made)


@st.composite
def looms(draw: st.DrawFn) -> Job:
    """Draw wires between a few cavities and splices, some beside each other."""
    places = [*(f"C{n}/{m}" for n in (1, 2, 3) for m in (1, 2, 3)), "S1", "S2", "S3"]
    pair = st.tuples(st.sampled_from(places), st.sampled_from(places)).filter(
        lambda p: p[0] != p[1]
    )
    return loom_job(*draw(st.lists(pair, min_size=1, max_size=14)), length=draw(st.floats(0.2, 9)))


@settings(max_examples=120, deadline=None)
@given(looms())
def test_the_plan_reaches_every_point_with_the_fewest_measurements(job: Job) -> None:
    """Nets and bridges against NetworkX."""
    plan = ProofPlan(job)
    graph: networkx.MultiGraph[str] = networkx.MultiGraph()
    for wire in job.wires:
        graph.add_edge(
            str(plan.bench.node(wire.start)), str(plan.bench.node(wire.finish)), key=wire.code
        )
    nets = [set(part) for part in networkx.connected_components(graph)]
    points = [{node for node in net if "/" in node} for net in nets]
    assert len(plan.measurements) == sum(max(0, len(some) - 1) for some in points)
    for some in points:  # all points of a net hang together by its measurements
        joined: networkx.Graph[str] = networkx.Graph()
        joined.add_nodes_from(some)
        joined.add_edges_from(
            (str(m.red), str(m.black)) for m in plan.measurements if str(m.red) in some
        )
        assert not some or networkx.is_connected(joined)
    simple: networkx.Graph[str] = networkx.Graph(graph)
    bridges = {frozenset(pair) for pair in networkx.bridges(simple)}
    for wire in job.wires:
        ends = frozenset(str(plan.bench.node(end)) for end in wire.ends)
        alone = len(ends) == 2 and graph.number_of_edges(*ends) == 1 and ends in bridges
        assert (wire.code in plan.bench.bridges) == alone
    proved = {code for one in plan.measurements for code in one.proves}
    hidden = {code for some_wires in plan.not_told_apart for code in some_wires}
    assert proved | hidden | set(plan.unreached) == {wire.code for wire in job.wires}
    assert not proved & hidden


def spice_ohm(job: Job, red: End, black: End, folder: Path) -> float:
    """Return what ngspice finds between two points of the loom on the bench, ohms."""
    program = shutil.which("ngspice")
    assert program, "scripts/setup test installs ngspice"
    bench = Bench(job)

    def name(end: End) -> str:
        return str(bench.node(end)).replace("/", "_").lower()

    lines = ["bench", f"I1 {name(black)} {name(red)} 1", f"V0 {name(black)} 0 0"]
    lines += [
        f"R{w.code} {name(w.start)} {name(w.finish)} {bench.wire_ohm(w):.9g}"
        for w in job.wires
        if name(w.start) != name(w.finish)
    ]
    net = bench.nets[bench.net_of[red]]
    keep = {f"R{code}" for code in net.wires}
    lines = [line for line in lines if line[0] != "R" or line.split()[0] in keep]
    lines += [".op", ".control", "run", f"print v({name(red)})", ".endc", ".end"]
    deck = folder / "bench.cir"
    deck.write_text("\n".join(lines))
    said = subprocess.run([program, "-b", str(deck)], capture_output=True, text=True, check=False)
    line = next(line for line in said.stdout.splitlines() if line.startswith("v("))
    return float(line.split("=")[1])


@pytest.mark.parametrize("seed", range(4))
def test_expected_ohms_agree_with_ngspice(seed: int, tmp_path: Path) -> None:
    chosen = random.Random(seed)
    places = [*(f"C{n}/{m}" for n in (1, 2) for m in range(1, 5)), "S1", "S2"]
    pairs = [tuple(chosen.sample(places, 2)) for _ in range(12)]
    job = loom_job(*pairs)  # type: ignore[arg-type]
    plan = ProofPlan(job)
    assert plan.measurements
    for one in plan.measurements[:4]:
        found = one.expected_ohm - job.settings.meter_leads_ohm
        assert found == pytest.approx(spice_ohm(job, one.red, one.black, tmp_path), rel=1e-5)


def test_a_wire_shows_its_copper_its_joints_and_the_leads() -> None:
    """1 mm2 of a road vehicle's wire has 18.5 mohm a metre at 20 deg C (ISO 6722, from memory)."""
    job = loom_job(("C1/1", "C2/1"))
    (one,) = ProofPlan(job).measurements
    assert one.expected_ohm == pytest.approx(0.2 + 2 * 0.0185 + 2 * NEW_JOINT_OHM, abs=5e-4)
    assert one.key == "W1"
    warm = replace(job, settings=Settings(bench_c=45))
    copper = Bench(warm).wire_ohm(warm.wires[0]) - 2 * NEW_JOINT_OHM
    cold = Bench(job).wire_ohm(job.wires[0]) - 2 * NEW_JOINT_OHM
    assert copper / cold == pytest.approx(1 + 0.00393 * 25, rel=1e-3)


def test_what_a_meter_may_be_off_has_the_form_of_its_data_sheet() -> None:
    """+-(0.8 % + 3 digits) of a meter that shows tenths: 10 ohms may be 0.38 off."""
    sheet = Settings(meter_percent=0.8, meter_counts=3, meter_step_ohm=0.1)
    assert spread_ohm(10.0, sheet) == pytest.approx(0.38)
    assert spread_ohm(0.0, sheet) == pytest.approx(0.3)
    fine = loom_job(("C1/1", "C2/1"))
    (one,) = ProofPlan(fine).measurements
    (worse,) = ProofPlan(replace(fine, settings=sheet)).measurements
    assert worse.limit_ohm - one.limit_ohm == pytest.approx(0.2)


def test_wires_beside_each_other_are_not_told_apart_and_said() -> None:
    plan = ProofPlan(
        loom_job(("C1/1", "C2/1"), ("C1/1", "C2/1"), ("C1/2", "S1"), ("S1", "C2/2"), ("S1", "C3/1"))
    )
    assert plan.not_told_apart == (("W1", "W2"),)
    proves = {one.key: one.proves for one in plan.measurements}
    assert proves["C1/1 C2/1" if "C1/1 C2/1" in proves else "W1"] == ()
    assert {code for wires in proves.values() for code in wires} == {"W3", "W4", "W5"}
    assert len(plan.measurements) == 3


def measured(job: Job, red: str, black: str, ohm: float | None, fingerprint: str = "") -> Job:
    reading = Reading(
        "",
        "resistance",
        ohm,
        (End.of(red), End.of(black)),
        AT,
        leads_ohm=0.2,
        fingerprint=fingerprint,
    )
    return edits.record(job, reading)


def test_readings_are_judged_by_ways_and_only_what_was_changed_is_measured_again() -> None:
    job = loom_job(("C1/1", "S1"), ("S1", "C2/1"), ("S1", "C3/1"), ("C1/2", "C2/2"))
    plan = ProofPlan(job)
    by = {(str(one.red), str(one.black)): one for one in plan.measurements}
    one = by["C1/1", "C2/1"]
    assert one.wires == ("W1", "W2")
    job = measured(job, "C1/1", "C2/1", 0.3, one.fingerprint)
    plan = ProofPlan(job)
    assert plan.judged[one.key].outcome == "passed"
    assert proved(plan) == ("W1", "W2")
    for ohm, outcome in ((None, "open"), (2.0, "high"), (0.02, "below leads")):
        assert ProofPlan(measured(job, "C2/1", "C1/1", ohm)).judged[one.key].outcome == outcome
    assert "W1, W2" in ProofPlan(measured(job, "C1/1", "C2/1", None)).judged[one.key].text
    live = replace(job.readings[-1], value=None, state="run")
    assert ProofPlan(edits.record(job, live)).judged[one.key].outcome == "passed", (
        "ohms of a live wire"
    )
    longer = edits.change_wire(job, "W2", length_m=3.0)
    assert ProofPlan(longer).judged[one.key].outcome == "changed"
    assert proved(ProofPlan(longer)) == ()
    elsewhere = edits.change_wire(job, "W4", length_m=3.0)
    assert ProofPlan(elsewhere).judged[one.key].outcome == "passed"
    unknown = edits.change_wire(job, "W3", length_m=None)
    assert any("W3" in m.doubt for m in ProofPlan(unknown).measurements)


def test_a_way_that_fails_later_counts_more_than_what_its_wires_showed_before() -> None:
    """Each wire passed by itself; then the way through both was open: neither is called sound."""
    job = loom_job(("C1/1", "S1"), ("S1", "C2/1"))
    for wire in job.wires:
        job = edits.record(job, continuity_reading(wire, 0.3, AT, job.settings))
    (way,) = ProofPlan(job).measurements
    assert ProofPlan(job).judged[way.key] == ("passed", "W1, W2 passed one by one")
    later = measured(job, "C1/1", "C2/1", None, way.fingerprint)
    assert ProofPlan(later).judged[way.key].outcome == "open"
    assert {one.outcome for one in verdicts(ProofPlan(later)).values()} == {"open"}
    stops = [one.subject for one in find_all(Analysis(later)) if one.rule == "failed-continuity"]
    assert stops == ["W1", "W2"]


def test_what_was_open_and_passes_is_moved_and_warmed_before_it_is_sound() -> None:
    job = loom_job(("C1/1", "S1"), ("S1", "C2/1"), ("C1/2", "C2/2"))
    (through, alone) = ProofPlan(job).measurements
    for one in (through, alone):
        ends = str(one.red), str(one.black)

        def read(
            job: Job, ohm: float | None, one: Measurement = one, ends: tuple[str, str] = ends
        ) -> tuple[Job, str, str]:
            job = measured(job, *ends, ohm, one.fingerprint)
            judged = ProofPlan(job).judged[one.key]
            return job, judged.outcome, judged.text

        now, outcome, _ = read(job, None)
        assert outcome == "open"
        now, outcome, text = read(now, 0.3)
        assert outcome == "comes and goes"
        assert "the wires and both plugs are moved" in text
        now, outcome, text = read(now, 0.3)
        assert outcome == "comes and goes"
        assert "warm" in text
        now, outcome, _ = read(now, 0.3)
        assert outcome == "passed"
        now, outcome, _ = read(now, 5.0)
        mended = edits.record(now, mended_text(now, f"{one.wires[0]} new terminal", AT))
        assert read(mended, 0.3)[1] == "passed", "something was done about it"
        assert read(now, 0.3)[1] == "comes and goes"
    code = alone.wires[0]
    wire = job.wire(code)
    assert wire is not None
    for ohm, outcome in (
        (None, "open"),
        (0.3, "comes and goes"),
        (0.3, "comes and goes"),
        (0.3, "passed"),
    ):
        job = edits.record(job, continuity_reading(wire, ohm, AT, job.settings))
        assert verdicts(ProofPlan(job))[code].outcome == outcome
        stops = [f for f in find_all(Analysis(job)) if f.rule == "failed-continuity"]
        assert bool(stops) is (outcome != "passed")


def test_the_red_probe_stays_and_goes_through_each_plug_once() -> None:
    plan = ProofPlan(demo_job())
    reds = [one.red.at for one in plan.measurements]
    assert len(list(itertools.groupby(reds))) == len(set(reds)), "it comes back to no plug"
    pairs = [(one.red.at, one.black.at) for one in plan.measurements]
    assert len(list(itertools.groupby(pairs))) == len(set(pairs))
    wires = [w for w in demo_job().wires if w.start.at and w.finish.at]
    assert len(plan.measurements) <= len(wires)


# isolation


def isolated(
    count: int,
    shorts: list[tuple[int, int]],
    first: tuple[int, ...] = (),
    clips: int | None = None,
) -> Isolation:
    """Measure nets of which some touch, as a meter would."""
    steps = Isolation(range(count), first, clips)
    joined: networkx.Graph[int] = networkx.Graph()
    joined.add_nodes_from(range(count))
    joined.add_edges_from(shorts)
    island = {
        net: n for n, part in enumerate(networkx.connected_components(joined)) for net in part
    }
    while steps.now is not None:
        one, other = ({island[net] for net in group} for group in steps.now[:2])
        assert not set(steps.now.one) & set(steps.now.other)
        if clips and not steps.touching:
            assert max(len(steps.now.one), len(steps.now.other)) <= clips
        steps.answer(0.4 if one & other else None)
        assert steps.measured < 400 or clips
    return steps


def test_sixty_healthy_nets_pass_in_seven_measurements() -> None:
    assert isolated(60, []).measured == math.ceil(math.log2(60)) == 6
    assert isolated(60, [], (0, 1)).measured == 7


def test_with_eight_clips_each_pair_meets_in_fewest_handfuls() -> None:
    """Sixty nets in handfuls of 8: 28 pairs of handfuls, and at most 3 measurements within each."""
    steps = isolated(60, [], clips=8)
    assert 28 + 7 * 3 <= steps.measured <= 28 + 8 * 3
    met: set[frozenset[int]] = set()
    steps = Isolation(range(60), (), 8)
    while steps.now is not None:
        met |= {frozenset(pair) for pair in itertools.product(*steps.now[:2])}
        steps.answer(None)
    assert met == {frozenset(pair) for pair in itertools.combinations(range(60), 2)}


@pytest.mark.parametrize("first", [(), (0,)])
def test_one_short_among_sixty_nets_is_found_in_fourteen_measurements(
    first: tuple[int, ...],
) -> None:
    """Every pair there is."""
    for pair in itertools.combinations(range(60), 2):
        steps = Isolation(range(60), first)
        while steps.now is not None and not steps.touching:
            one, other = steps.now[:2]
            there = (pair[0] in one and pair[1] in other) or (pair[1] in one and pair[0] in other)
            steps.answer(0.4 if there else None)
        assert {frozenset(found) for found in steps.touching} == {frozenset(pair)}
        assert steps.ohm == 0.4, "of the pair, even where the last of the halves was open"
        assert steps.measured <= 14, pair


@settings(max_examples=150, deadline=None)
@given(st.integers(2, 70), st.data())
def test_whatever_touches_is_found(count: int, data: st.DataObject) -> None:
    pair = st.tuples(st.integers(0, count - 1), st.integers(0, count - 1))
    shorts = [p for p in data.draw(st.lists(pair, max_size=6)) if p[0] != p[1]]
    first = tuple(sorted(data.draw(st.sets(st.integers(0, count - 1), max_size=3))))
    clips = data.draw(st.sampled_from((None, 2, 3, 8)))
    steps = isolated(count, shorts, first, clips)
    found: networkx.Graph[int] = networkx.Graph()
    true: networkx.Graph[int] = networkx.Graph()
    for graph, edges in ((found, steps.touching), (true, shorts)):
        graph.add_nodes_from(range(count))
        graph.add_edges_from(edges)
    if first:  # what is measured together at the start is one for this
        for graph in (found, true):
            graph.add_edges_from((first[0], other) for other in first[1:])
    parts = [
        {frozenset(part) for part in networkx.connected_components(graph)}
        for graph in (found, true)
    ]
    assert parts[0] == parts[1]


@given(looms(), st.data())
def test_a_plan_after_an_edit_is_the_plan_of_the_job_as_it_is(
    job: Job, data: st.DataObject
) -> None:
    plan = ProofPlan(job)
    _ = plan.measurements
    for n in range(6):
        code = data.draw(st.sampled_from([wire.code for wire in job.wires]))
        other = data.draw(st.sampled_from(job.wires))
        match data.draw(st.integers(0, 3)):
            case 0:
                job = edits.change_wire(job, code, length_m=1.0 + n)
            case 1:
                wires = tuple(
                    replace(wire, finish=other.start) if wire.code == code else wire
                    for wire in job.wires
                )
                job = replace(job, wires=wires)
            case 2 if len(job.wires) > 2:
                job = replace(job, wires=tuple(w for w in job.wires if w.code != code))
            case _:
                job = replace(job, settings=replace(job.settings, bench_c=20.0 + n))
        after, fresh = ProofPlan(job, plan), ProofPlan(job)
        assert after.measurements == fresh.measurements
        assert after.judged == fresh.judged
        plan = after if n != 3 else ProofPlan(job, plan)  # now and then one is never asked


def test_what_an_edit_left_alone_is_taken_over() -> None:
    job = loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"), ("C1/3", "C2/3"))
    plan = ProofPlan(job)
    before = {one.key: one for one in plan.measurements}
    after = ProofPlan(edits.change_wire(job, "W2", length_m=9.0), plan)
    same = {one.key for one in after.measurements if one is before[one.key]}
    assert same == {"W1", "W3"}


def test_what_is_not_known_of_a_way_is_said_and_nothing_else() -> None:
    known = replace(loom_job(("C1/1", "C2/1")).wires[0], size=WireSize("metric", 1.0), length_m=1.0)
    job = loom_job(("C1/1", "C2/1"))
    for wire, doubt in (
        (known, ""),
        (replace(known, size=None), "length or size not known: W1"),
        (replace(known, length_m=None), "length or size not known: W1"),
    ):
        (one,) = ProofPlan(replace(job, wires=(wire,))).measurements
        assert one.doubt == doubt
