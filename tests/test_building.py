"""Putting a loom together: layers, coverings, splices, order of assembly, holes, look-alikes."""

import itertools
import math
import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.symptoms import symptoms
from molvik.demo import demo_job
from molvik.desktop.stages.routing.facts import run_facts
from molvik.devices.states import CRANK, RUN, RUNNING
from molvik.electrical.conductor import area_mm2
from molvik.electrical.heat import outside_diameter_mm
from molvik.findings import find_all
from molvik.model import edits, loom_edits, routing_edits, run_edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.loom import Loom, Node, Segment
from molvik.model.parts import Connector, Device, End, Fuse, Grid, Splice, Wire, WireSize
from molvik.model.routing import LoomNode, NewLoom, Pose, Routing, Run, Zone
from molvik.model.stock import StockItem
from molvik.netlist.network import Network
from molvik.reference.contacts import NEW_JOINT_OHM
from molvik.reference.coversizes import SIZES, amount_m, smallest
from molvik.reference.insulation import insulation
from molvik.routing.assembly import Slid, assembly, slid_on, taken_off
from molvik.routing.layers import LAY, Layer, layered, layups
from molvik.routing.outlines import outline_mm, passes_mm
from molvik.routing.parting import partings
from molvik.routing.splices import NEAR_M, splice_places
from molvik.routing.ways import Ways
from molvik.typed.routed import RUN_FIELDS
from test_poles import turned_round
from test_routing import SIZE, plugs, star, three, wire

# twisted in layers


def test_six_lie_round_one_twelve_round_those_and_eighteen_round_all() -> None:
    """The geometry of equal circles: 1, 6, 12, 18 in layers 1, 3, 5, 7 wires wide."""
    layers = layered([f"W{n}" for n in range(37)], [2.0] * 37)
    assert [len(layer.codes) for layer in layers] == [1, 6, 12, 18]
    assert [layer.over_mm for layer in layers] == pytest.approx([2, 6, 10, 14])
    assert [layer.fillers for layer in layers] == [0, 0, 0, 0]
    assert [layer.right for layer in layers[1:]] == [True, False, True]
    assert [layer.lay_mm for layer in layers[1:]] == pytest.approx([6 * LAY, 10 * LAY, 14 * LAY])
    assert [layer.pitches_mm[0] for layer in layers] == pytest.approx([0, 4, 8, 12])


def test_what_is_open_in_a_layer_is_filled() -> None:
    layers = layered([f"W{n}" for n in range(10)], [2.0] * 10)
    assert [(len(layer.codes), layer.fillers) for layer in layers] == [(2, 0), (8, 1)]


@pytest.mark.parametrize(
    ("count", "middle", "over"),
    [
        (2, 2, 2.0),
        (3, 3, 2.1547),
        (4, 4, 2.4142),
        (5, 5, 2.7013),
        (6, 1, 3.0),
        (7, 1, 3.0),
        (8, 1, 3.3048),
        (9, 2, 4.0),
        (12, 3, 4.1547),
        (14, 4, 4.4142),
        (19, 1, 5.0),
    ],
)
def test_as_many_lie_in_the_middle_as_makes_it_thinnest(
    count: int, middle: int, over: float
) -> None:
    """Equal circles round one another: 1 + 1 / sin(180 / n) diameters for a ring of n, so 2.155
    for three, 2.414 for four, 3.305 for seven round one; two more for each layer that lies on.
    """
    made = layered([f"W{n}" for n in range(count)], [1.0] * count)
    assert made[-1].over_mm == pytest.approx(over, abs=1e-3)
    assert len(made[0].codes) == middle


def test_another_number_in_the_middle_can_be_chosen() -> None:
    """Eight equal wires: 1 + 1 / sin(180 / 7) round one, 4 round two, as thick as it then gets."""
    codes, widths = [f"W{n}" for n in range(8)], [1.0] * 8
    known = {count: made[-1].over_mm for count, made in layups(codes, widths).items()}
    assert known[1] == pytest.approx(3.3048, abs=1e-3) == min(known.values())
    assert known[2] == pytest.approx(4.0)
    job = twisted(8)
    run = max(job.routing.runs, key=lambda run: len(Ways(job).wires_in[run.code]))
    before = Analysis(job).sections[run.code]
    chosen, other = len(before.layers[0].codes), 4
    assert chosen != other
    there = routing_edits.change(job, run.code, middle=other)
    after = Analysis(there).sections[run.code]
    assert len(after.layers[0].codes) == other
    assert after.over_mm > before.over_mm
    facts = {name: says for name, says, _ in run_facts(Analysis(there), there.routing.runs[0])}
    assert facts["In the middle"].startswith("4 of 1 "), "what the others come to stands beside it"
    with pytest.raises(EditError, match="One to five"):
        routing_edits.change(job, run.code, middle=6)


def test_a_number_in_the_middle_that_would_not_lie_is_said_and_not_laid() -> None:
    few = routing_edits.change(twisted(3), "R1", middle=5)
    section = Analysis(few).sections["R1"]
    assert len(section.layers[0].codes) < 5
    facts = {name: says for name, says, _ in run_facts(Analysis(few), few.routing.runs[0])}
    assert facts["In the middle"].startswith("5 would not lie side by side")


def test_the_number_in_the_middle_is_typed_as_a_field_of_the_stretch() -> None:
    (field,) = [field for field in RUN_FIELDS if field.name == "In the middle"]
    network = Network(twisted())
    assert field.read("3", network) == {"middle": 3}
    assert field.read("", network) == {"middle": None}
    with pytest.raises(ValueError, match="type 1 to 5"):
        field.read("six", network)


def apart(layers: tuple[Layer, ...]) -> list[tuple[float, float, float]]:
    """Return where the middle of each wire lies and how wide it is, none of them in another."""
    placed = [
        (pitch / 2 * math.cos(angle), pitch / 2 * math.sin(angle), width)
        for layer in layers
        for width, angle, pitch in zip(layer.widths_mm, layer.angles, layer.pitches_mm, strict=True)
    ]
    for (x, y, wide), (x2, y2, wide2) in itertools.combinations(placed, 2):
        assert math.hypot(x - x2, y - y2) >= (wide + wide2) / 2 - 1e-6
    return placed


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(1.0, 4.5), min_size=3, max_size=5))
def test_a_few_unequal_wires_touch_and_do_not_overlap(widths: list[float]) -> None:
    layers = layered([f"W{n}" for n in range(len(widths))], widths)
    apart(layers)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.sampled_from([1.6, 2.0, 2.4, 3.0, 4.1]), min_size=6, max_size=60),
    st.sampled_from([None, 1, 2, 3, 4, 5]),
)
def test_wires_in_layers_never_overlap(widths: list[float], middle: int | None) -> None:
    """By the distance of every two middles, which is the geometry itself."""
    layers = layered([f"W{n}" for n in range(len(widths))], widths, middle)
    placed = apart(layers)
    over = layers[-1].over_mm
    assert all(math.hypot(x, y) + wide / 2 <= over / 2 + 1e-9 for x, y, wide in placed)
    assert [code for layer in layers for code in layer.codes] == [
        f"W{n}" for n in range(len(widths))
    ]


def twisted(count: int = 7) -> Job:
    """Return a loom twisted in layers: all but one wire leave it before its end."""
    joints = (
        LoomNode("J1", "H1", "Computer", carries=("C1",)),
        LoomNode("J2", "H1", "Breakout"),
        LoomNode("J3", "H1", "Far", carries=("C2",)),
        LoomNode("J4", "H1", "Near", carries=("C3",)),
    )
    runs = (Run("R1", "J1", "J2", 1.0), Run("R2", "J2", "J3", 0.8), Run("R3", "J2", "J4", 0.2))
    wires = tuple(wire(f"W{n}", "C1", "C2" if n == count else "C3") for n in range(1, count + 1))
    loom = NewLoom("H1", "Loom", laid="twisted")
    return Job(
        "x", connectors=plugs("C1", "C2", "C3"), wires=wires, routing=Routing((loom,), joints, runs)
    )


def test_what_leaves_first_lies_outside_and_is_cut_longer_by_its_helix() -> None:
    analysis = Analysis(twisted())
    section = analysis.sections["R1"]
    assert section.layers[0].codes == ("W7",)
    assert set(section.layers[1].codes) == {f"W{n}" for n in range(1, 7)}
    width = section.widths_mm[0]
    assert section.over_mm == pytest.approx(3 * width)
    helix = math.hypot(1.0, math.pi * 2 * width / (LAY * 3 * width) * 1.0)
    cuts = analysis.cut_lengths
    assert cuts["W7"].twist_m == 0
    # In R3 the six lie round each other, one in the middle.
    outer = sum(cuts[f"W{n}"].twist_m for n in range(1, 7))
    assert outer > 6 * (helix - 1)
    assert min(cuts[f"W{n}"].twist_m for n in range(1, 7)) == pytest.approx(helix - 1)


# coverings


def test_the_smallest_heat_shrink_is_wide_enough_and_shrinks_tight() -> None:
    """Sizes supplied and recovered of ratio 2:1 as in SAE AMS-DTL-23053, from memory."""
    assert smallest("heat-shrink", 5.0).name == "6.4/3.2"  # type: ignore[union-attr]
    assert smallest("heat-shrink", 0.3) is None
    assert smallest("heat-shrink", 200.0) is None
    for key, sizes in SIZES.items():
        for thick in range(2, 35):
            found = smallest(key, thick)
            fits = [size for size in sizes if size.least_mm <= thick <= size.most_mm]
            assert found == (fits[0] if fits else None)
            assert fits == [] or all(found.most_mm <= other.most_mm for other in fits)  # type: ignore[union-attr]


def test_how_much_tape_a_metre_takes() -> None:
    """Half lapped tape of 19 mm goes round once in 9.5 mm: 105.3 turns of pi times 10 mm."""
    assert amount_m("tape", 10.0, 1.0) == pytest.approx(1000 / 9.5 * math.pi * 0.01)
    assert amount_m("spot tape", 10.0, 0.6) == pytest.approx(4 * 3 * math.pi * 0.01)
    assert amount_m("split tube", 10.0, 2.0) == 2.0


def test_a_covering_is_cut_from_stock_where_it_fits_and_what_is_short_is_told() -> None:
    job = three()
    for run in ("R2", "R3", "R4"):
        job = routing_edits.change(job, run, covering="heat-shrink")
    analysis = Analysis(job)
    over = analysis.sections["R2"].laid_mm
    assert analysis.covers["R2"].size == smallest("heat-shrink", over).name  # type: ignore[union-attr]
    assert analysis.covers["R2"].amount_m == pytest.approx(0.5 * 1.1)
    stock = (
        StockItem("X1", "sleeve", "heat shrink 4:1", bore_mm=40, least_mm=10, amount=9),
        StockItem("X2", "sleeve", "shrink", bore_mm=12, least_mm=3, amount=2.0),
    )
    analysis = Analysis(replace(job, stock=stock))
    assert {cover.item for cover in analysis.covers.values()} == {"X2"}
    from molvik.routing.covers import wanted

    (one,) = wanted(analysis.covers, analysis.stock_left)
    assert one.amount_m == pytest.approx(2.3 * 1.1)
    assert one.short_m == pytest.approx(2.3 * 1.1 - 2.0)
    two = (replace(stock[1], code="X3", bore_mm=30, least_mm=2), stock[1])
    assert Analysis(replace(job, stock=two)).covers["R2"].item == "X2", "the smallest that goes on"
    thick = replace(job, wires=tuple(replace(w, size=WireSize("metric", 2000)) for w in job.wires))
    found = {finding.rule for finding in find_all(Analysis(thick))}
    assert "covering-fits-nothing" in found


# splices


@st.composite
def spliced(draw: st.DrawFn) -> Job:
    """Draw a loom, a tree or with a loop, with wires from plugs to a splice somewhere in it."""
    count = draw(st.integers(3, 8))
    joints = [LoomNode(f"J{n}", "H1", f"Place {n}", carries=(f"C{n}",)) for n in range(count)]
    length = st.sampled_from([0.03, 0.07, 0.1, 0.35, 0.8, 1.4])
    runs = [
        Run(
            f"R{n}",
            f"J{draw(st.integers(0, n - 1))}",
            f"J{n}",
            draw(length),
            zone=draw(st.sampled_from(["", "", "", "Hinge"])),
        )
        for n in range(1, count)
    ]
    if draw(st.booleans()):
        runs.append(Run(f"R{count}", "J0", f"J{count - 1}", draw(length)))
    members = draw(st.lists(st.integers(0, count - 1), min_size=2, max_size=5))
    joints = [one if n in members else replace(one, carries=()) for n, one in enumerate(joints)]
    at = draw(st.integers(0, count - 1))
    joints[at] = replace(joints[at], carries=(*joints[at].carries, "S1"))
    other = draw(st.integers(0, count - 1))
    joints[other] = replace(joints[other], carries=(*joints[other].carries, "S2"))
    areas = st.sampled_from([0.5, 1.5, 4.0])
    wires = tuple(
        Wire(f"W{n}", End(f"C{joint}", "1"), End("S1"), size=WireSize("metric", draw(areas)))
        for n, joint in enumerate(members)
    )
    routing = Routing(
        (NewLoom("H1", "Loom"),), tuple(joints), tuple(runs), (Zone("Hinge", moves=True),)
    )
    return Job(
        "x",
        connectors=plugs(*(f"C{n}" for n in range(count))),
        splices=(Splice("S1"), Splice("S2")),
        wires=wires,
        routing=routing,
    )


@settings(max_examples=60, deadline=None)
@given(spliced())
def test_a_splice_lies_where_trying_every_millimetre_finds_the_least_copper(job: Job) -> None:
    ways = Ways(job)
    found = splice_places(job, ways, "S1")
    graph = ways.graph
    far = {code: graph.search(code).far_m for code in graph.joints}
    weights = [(area_mm2(w.size), w.start.at.replace("C", "J")) for w in job.wires if w.size]
    best = math.inf
    for run in graph.runs.values():
        if job.routing.zone(run.zone).moves:
            continue
        length = run.length_m or 0.0
        for step in range(round(length * 1000) + 1):
            at = step / 1000

            def to(joint: str, run: Run = run, at: float = at, length: float = length) -> float:
                return min(far[joint][run.start] + at, far[joint][run.finish] + length - at)

            stiff = [
                joint.code
                for joint in job.routing.joints
                if graph.degree(joint.code) > 2
                or any(code.startswith("C") or code == "S2" for code in joint.carries)
            ]
            if all(to(joint) >= NEAR_M - 1e-9 for joint in stiff):
                best = min(best, sum(mm2 * to(joint) for mm2, joint in weights))
    assert (found.best is None) == (best == math.inf)
    if found.best is not None:
        assert found.best.copper_cm3 == pytest.approx(best, abs=1e-6)


def test_a_splice_is_laid_where_it_lies_best_and_its_old_joint_goes() -> None:
    routing = star({"C1": 1.0, "C2": 0.3, "C3": 0.3})
    job = Job("x", connectors=plugs("C1", "C2", "C3"), splices=(Splice("S1"),), routing=routing)
    job = run_edits.split_run(job, "R2", 0.9, LoomNode("J9", "", "Splice", "splice", ("S1",)))
    made = tuple(Wire(f"W{n}", End(f"C{n}", "1"), End("S1"), size=SIZE) for n in (1, 2, 3))
    job = replace(job, wires=made)
    places = splice_places(job, Ways(job), "S1")
    assert places.best is not None
    assert places.now is not None
    assert places.now.wire_m == pytest.approx(0.1 + 2 * 1.2)
    assert places.best.wire_m == pytest.approx(1.0 + 0.3 + 0.3 + NEAR_M)
    assert "splice-elsewhere" in {finding.rule for finding in find_all(Analysis(job))}
    job = run_edits.put_splice(job, "S1", places.best.run, places.best.at_m)
    assert not any(joint.code == "J9" for joint in job.routing.joints)
    assert sum(run.length_m or 0 for run in job.routing.runs) == pytest.approx(1.6)
    again = splice_places(job, Ways(job), "S1")
    assert again.now is not None
    assert again.now.copper_cm3 == pytest.approx(places.best.copper_cm3)
    assert again.saves_m == 0


def test_a_stretch_is_parted_and_joined_again() -> None:
    job = three()
    job = routing_edits.change(job, "R2", clips=4, slack_m=0.1)
    job = run_edits.turned(job, {"R2": (90.0, 30.0)})
    parted = run_edits.split_run(job, "R2", 0.125, LoomNode("J9", "", "Clip", "clip"))
    first, rest = (
        next(run for run in parted.routing.runs if run.code == code) for code in ("R2", "R5")
    )
    assert (first.length_m, first.clips, first.finish) == (0.125, 1, "J9")
    assert (rest.length_m, rest.clips, rest.start) == (0.375, 3, "J9")
    assert {pose.run: pose.heading_deg for pose in parted.board} == {"R2": 90.0, "R5": 120.0}
    back = run_edits.join_runs(parted, "J9")
    (whole,) = [run for run in back.routing.runs if run.code == "R2"]
    assert (whole.length_m, whole.clips) == (0.5, 4)
    assert whole.slack_m == pytest.approx(0.1)
    assert [pose.run for pose in back.board] == ["R2"]
    for at in (0.0, 0.5, 0.7):
        with pytest.raises(EditError, match="between its ends"):
            run_edits.split_run(job, "R2", at, LoomNode("", "", "Clip", "clip"))
    with pytest.raises(EditError, match="two stretches"):
        run_edits.join_runs(job, "J1")
    with pytest.raises(EditError, match="no splice"):
        run_edits.put_splice(job, "C1", "R2", 0.1)


# order of assembly


@st.composite
def covered(draw: st.DrawFn) -> Job:
    """Draw a small loom with sleeves, a grommet and a boot; some ends carry their plugs."""
    count = draw(st.integers(3, 5))
    joints = [LoomNode("J0", "H1", "Place 0", carries=("C0",))]
    runs = []
    for n in range(1, count):
        joints.append(LoomNode(f"J{n}", "H1", f"Place {n}", carries=(f"C{n}",)))
        cover = draw(st.sampled_from(["", "tube", "heat-shrink", "split tube"]))
        runs.append(Run(f"R{n}", f"J{draw(st.integers(0, n - 1))}", f"J{n}", 0.5, covering=cover))
    which = draw(st.sets(st.integers(0, count - 1)))
    joints = [
        replace(
            joint,
            closed=n in which,
            boots=("boot",) if n == 1 else (),
            kind="grommet" if n == 0 and draw(st.booleans()) else "",
        )
        for n, joint in enumerate(joints)
    ]
    pairs = draw(
        st.lists(
            st.tuples(st.integers(0, count - 1), st.integers(0, count - 1)), min_size=1, max_size=5
        )
    )
    made = tuple(wire(f"W{n}", f"C{a}", f"C{b}") for n, (a, b) in enumerate(pairs) if a != b)
    routing = Routing((NewLoom("H1", "Loom"),), tuple(joints), tuple(runs))
    return Job("x", connectors=plugs(*(f"C{n}" for n in range(count))), wires=made, routing=routing)


def can_all_go_on(items: tuple[Slid, ...], closed: set[str]) -> int:
    """Return how many things go on in the best of all orders, each from the best side: a search
    forwards, as a hand would, through every set of things that can be on.
    """
    best = 0
    waiting, seen = [frozenset[int]()], set[frozenset[int]]()
    while waiting:
        on = waiting.pop()
        if on in seen:
            continue
        seen.add(on)
        best = max(best, len(on))
        for number, item in enumerate(items):
            if number in on:
                continue
            for side in item.sides:
                at = {items[other].at for other in on} - {item.at}
                if not set(side.ends) & closed and not at & side.passed:
                    waiting.append(on | {number})
    return best


@settings(max_examples=120, deadline=None)
@given(covered())
def test_the_order_of_assembly_is_as_good_as_trying_every_order(job: Job) -> None:
    analysis = Analysis(job)
    items = slid_on(job, analysis.electrics.ways, analysis.covers)
    closed = {joint.code for joint in job.routing.joints if joint.closed}
    made = assembly(job, analysis.electrics.ways, analysis.covers)
    best = can_all_go_on(items, closed)
    if made.stuck:
        assert best < len(items)
        # With the plugs that are told off all goes on, and with none cheaper.
        left = closed - set(made.off)
        assert can_all_go_on(items, left) == len(items)
        counts = {
            end: sum(
                (w.start == end) + (w.finish == end) for w in analysis.electrics.ways.of.values()
            )
            for end in closed
        }
        for size in range(len(closed) + 1):
            for some in itertools.combinations(sorted(closed), size):
                if sum(counts[end] for end in some) < made.terminals:
                    assert can_all_go_on(items, closed - set(some)) < len(items)
    else:
        assert best == len(items)
        on: list[str] = []
        shut = set(closed)
        for step in made.steps:  # played forwards, every step can be done
            if step.what:
                sides = [
                    side
                    for item in items
                    for side in item.sides
                    if item.at == step.at
                    and item.what == step.what
                    and set(step.ends) == set(side.ends)
                ]
                assert any(
                    not set(side.ends) & shut and not set(on) - {step.at} & side.passed
                    for side in sides
                )
                on.append(step.at)
            else:
                shut |= set(step.ends)
        assert len(on) == len(items)


def test_a_sleeve_between_two_plugs_that_are_on_is_found_with_the_cheaper_one() -> None:
    job = three()
    job = routing_edits.change(job, "R2", covering="tube")
    job = routing_edits.change(job, "J2", closed=True)
    assert not Analysis(job).assembly.stuck  # it comes from the other side, over both others' ends
    job = routing_edits.change(job, "J4", closed=True)
    made = Analysis(job).assembly
    assert [(stuck.at, stuck.closed) for stuck in made.stuck] == [("R2", (("J4",), ("J2",)))]
    assert made.off in (("J2",), ("J4",))
    assert made.terminals == 2
    found = {f.rule: f for f in find_all(Analysis(job))}["sleeve-cannot-go-on"]
    assert found.severity == "stop"
    assert "2 terminals" in found.remedy
    assert not Analysis(routing_edits.change(job, "R2", covering="split tube")).assembly.stuck
    # A plug that was measured and goes through the sleeve is in nobody's way.
    small = replace(
        job, connectors=tuple(replace(plug, wide_mm=1.0, high_mm=1.0) for plug in job.connectors)
    )
    assert not Analysis(small).assembly.stuck


def test_two_small_plugs_are_taken_off_before_a_large_one() -> None:
    joints = (
        LoomNode("J1", "H1", "Computer", carries=("C1",), closed=True),
        LoomNode("J2", "H1", "Fork"),
        LoomNode("J3", "H1", "a", carries=("C2",), closed=True),
        LoomNode("J4", "H1", "b", carries=("C3",), closed=True),
        LoomNode("J5", "H1", "Elsewhere", carries=("C4",)),
    )
    runs = (
        Run("R1", "J1", "J2", 0.5, covering="tube"),
        Run("R2", "J2", "J3", 0.2),
        Run("R3", "J2", "J4", 0.2),
        Run("R4", "J1", "J5", 0.3),
    )
    made = [wire("W1", "C1", "C2"), wire("W2", "C1", "C3")]
    made += [wire(f"W{n}", "C1", "C4") for n in range(3, 7)]
    job = Job(
        "x",
        connectors=plugs("C1", "C2", "C3", "C4"),
        wires=tuple(made),
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    found = Analysis(job).assembly
    assert (found.off, found.terminals) == (("J3", "J4"), 2), "the computer's has six"


def test_the_largest_plug_goes_through_first_and_each_counts() -> None:
    """A wide plug alone, and a small one beside its thick cable: the second takes more, and the
    other way round both would pass a wider hole only.
    """
    joints = (
        LoomNode("J1", "H1", "In", carries=("C1",)),
        LoomNode("J2", "H1", "Bulkhead", "grommet", hole_mm=26.2),
        LoomNode("J5", "H1", "Fork"),
        LoomNode("J3", "H1", "a", carries=("C2",)),
        LoomNode("J4", "H1", "b", carries=("C3",)),
    )
    runs = (
        Run("R1", "J1", "J2", 0.5),
        Run("R2", "J2", "J5", 0.5),
        Run("R3", "J5", "J3", 0.1),
        Run("R4", "J5", "J4", 0.1),
    )
    box = Connector("C1", "Box", Grid(2, 9), wide_mm=80, high_mm=60)
    wide = Connector("C2", "Wide", Grid(1, 2), wide_mm=24, high_mm=10)
    small = Connector("C3", "Small", Grid(1, 2), wide_mm=14, high_mm=8)
    thick = replace(wire("W2", "C1", "C3"), size=WireSize("metric", 50))
    job = Job(
        "x",
        connectors=(box, wide, small),
        wires=(wire("W1", "C1", "C2"), thick),
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    # The wide one first takes 26 mm, then the small one lies beside a thin wire: it all passes.
    assert passes_mm(wide) == pytest.approx(26.0)
    assert Analysis(job).hole_clearances == ()
    # With the thick cable on the wide plug, the small one has to pass beside that.
    cable = Analysis(
        replace(
            job,
            wires=(replace(job.wires[0], size=WireSize("metric", 120)), replace(thick, size=SIZE)),
        )
    )
    (passage,) = cable.hole_clearances
    assert passage.plug == "C3"


def test_a_grommet_that_opens_goes_on_at_any_time() -> None:
    joints = (
        LoomNode("J1", "H1", "In", carries=("C1",), closed=True),
        LoomNode("J2", "H1", "Bulkhead", "grommet"),
        LoomNode("J3", "H1", "Out", carries=("C2",), closed=True),
    )
    runs = (Run("R1", "J1", "J2", 0.5), Run("R2", "J2", "J3", 0.5))
    job = Job(
        "x",
        connectors=plugs("C1", "C2"),
        wires=(wire("W1", "C1", "C2"),),
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    assert [one.what for one in Analysis(job).assembly.stuck] == ["grommet"]
    opened = routing_edits.change(job, "J2", opens=True)
    assert not Analysis(opened).assembly.stuck


# holes


def test_what_a_plug_takes_is_the_circle_round_it_and_what_lies_beside_it() -> None:
    """Pythagoras; beside a bundle against trying the middle of the circle in steps."""
    plug = Connector("C1", "Plug", Grid(2, 4), wide_mm=30, high_mm=16)
    assert outline_mm(plug) == (30, 16)
    assert passes_mm(plug) == pytest.approx(34.0)
    assert passes_mm(replace(plug, grid=replace(plug.grid, round=True)), 5.0) == 35
    for beside in (2.0, 8.0, 25.0, 90.0):
        tried = min(
            2 * max(math.hypot(15, y + 16), math.hypot(15, y), abs(beside / 2 - y) + beside / 2)
            for y in (n / 100 for n in range(-2000, 10_000))
        )
        assert passes_mm(plug, beside) == pytest.approx(tried, abs=0.02)
        assert passes_mm(plug, beside) >= max(34.0, beside)


def test_on_edge_a_plug_passes_with_its_own_wires_folded_back() -> None:
    """30 by 16 and 12 deep: on edge 16 by 12 with a bundle of 9 mm, by the same trying."""
    plug = Connector("C1", "Plug", Grid(2, 4), wide_mm=30, high_mm=16, deep_mm=12)
    tried = min(
        2 * max(math.hypot(8, y + 12), math.hypot(8, y), abs(9 / 2 - y) + 9 / 2)
        for y in (n / 100 for n in range(-2000, 10_000))
    )
    assert passes_mm(plug, 0.0, 9.0) == pytest.approx(tried, abs=0.02)
    assert passes_mm(plug, 0.0, 9.0) > passes_mm(plug, 0.0, 0.0) == pytest.approx(20.0)


def test_a_plug_that_does_not_pass_is_found_unless_one_side_goes_through() -> None:
    joints = (
        LoomNode("J1", "H1", "In", carries=("C1",)),
        LoomNode("J2", "H1", "Bulkhead", "grommet", hole_mm=20.0),
        LoomNode("J3", "H1", "Out", carries=("C2",)),
    )
    runs = (Run("R1", "J1", "J2", 0.5), Run("R2", "J2", "J3", 0.5))
    small = Connector("C1", "Small", Grid(1, 2), wide_mm=12, high_mm=10)
    large = Connector("C2", "Large", Grid(2, 8), wide_mm=40, high_mm=20)
    job = Job(
        "x",
        connectors=(small, large),
        wires=(wire("W1", "C1", "C2"),),
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    assert Analysis(job).hole_clearances == ()
    both = replace(job, connectors=(replace(small, wide_mm=30.0), large))
    (passage,) = Analysis(both).hole_clearances
    assert (passage.plug, passage.fixed) == ("C1", False)
    assert passage.need_mm == pytest.approx(math.hypot(30, 10))
    found = {f.rule: f for f in find_all(Analysis(both))}["plug-does-not-pass"]
    assert found.severity == "look"
    for end in ("J1", "J3"):
        both = routing_edits.change(both, end, closed=True)
    asked = {f.rule: f for f in find_all(Analysis(both))}["plug-does-not-pass"]
    assert asked.severity == "look", "how deep it is decides, and is asked first"
    # On edge 10 mm by its depth, one thin wire folded back beside it, in 20 mm.
    own = outside_diameter_mm(SIZE, insulation(both.wires[0].insulation))

    def takes(deep: float) -> float:
        wide, high = max(deep, 10.0), min(deep, 10.0)
        return min(
            2
            * max(
                math.hypot(wide / 2, y + high), math.hypot(wide / 2, y), abs(own / 2 - y) + own / 2
            )
            for y in (n / 50 for n in range(-600, 600))
        )

    tried = max(deep for deep in (n / 10 for n in range(1, 200)) if takes(deep) <= 20)
    assert f"no deeper than {tried:.0f} mm" in asked.remedy
    for deep, severity in ((tried - 0.3, None), (tried + 0.3, "stop")):
        known = changed(both, "C1", deep_mm=deep)
        found_now = {f.rule: f.severity for f in find_all(Analysis(known))}
        assert found_now.get("plug-does-not-pass") == severity, deep
    unmeasured = changed(changed(both, "C1", wide_mm=None, deep_mm=40.0), "C2", deep_mm=60.0)
    narrow = routing_edits.change(unmeasured, "J2", hole_mm=12.0)
    found_now = {f.rule: f.severity for f in find_all(Analysis(narrow))}
    assert found_now["plug-does-not-pass"] == "look", "its face is only known by its cavities"


def test_the_second_plug_passes_beside_the_wires_of_the_first() -> None:
    joints = (
        LoomNode("J1", "H1", "In", carries=("C1",)),
        LoomNode("J2", "H1", "Bulkhead", "grommet", hole_mm=22.5),
        LoomNode("J3", "H1", "Out", carries=("C2",)),
        LoomNode("J4", "H1", "Out too", carries=("C3",)),
        LoomNode("J5", "H1", "Fork"),
    )
    runs = (
        Run("R1", "J1", "J2", 0.5),
        Run("R2", "J2", "J5", 0.5),
        Run("R3", "J5", "J3", 0.1),
        Run("R4", "J5", "J4", 0.1),
    )
    big = Connector("C1", "Big", Grid(2, 9), wide_mm=60, high_mm=30)
    two = [Connector(c, c, Grid(1, 2), wide_mm=16, high_mm=12) for c in ("C2", "C3")]
    wires = (wire("W1", "C1", "C2"), wire("W2", "C1", "C3"))
    job = Job(
        "x",
        connectors=(big, *two),
        wires=wires,
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    assert (
        Analysis(job).hole_clearances == ()
    )  # 20 mm alone, and beside one thin wire no more than 22.5
    thick = replace(wires[0], size=WireSize("metric", 25))
    (passage,) = Analysis(replace(job, wires=(thick, wires[1]))).hole_clearances
    assert passage.need_mm > 22.5


# bends, movement, support, cores that part


def test_bends_slack_stiff_covering_and_support_are_told() -> None:
    """5 and 10 times the bundle: SAE AS50881, from memory."""
    job = three(routing=star({"C1": 0.5, "C2": 0.7, "C3": 1.1}, zones=(Zone("Hinge", moves=True),)))
    over = Analysis(job).sections["R2"].over_mm

    def rules(**fields: Any) -> set[str]:
        changed = routing_edits.change(job, "R2", **fields)
        return {f.rule for f in find_all(Analysis(changed)) if "R2" in f.subject}

    assert "bent-too-tight" not in rules(bend_mm=5 * over + 0.1)
    assert "bent-too-tight" in rules(bend_mm=5 * over - 0.1)
    assert "bent-too-tight" in rules(bend_mm=8 * over, covering="tape")
    assert "moves-without-slack" in rules(zone="Hinge")
    assert "moves-without-slack" not in rules(zone="Hinge", slack_m=0.06)
    assert "stiff-where-it-moves" in rules(zone="Hinge", covering="tape")
    assert "stiff-where-it-moves" not in rules(zone="Hinge", covering="spot tape")
    held = {f.rule: f for f in find_all(Analysis(job))}["plug-not-held"]
    assert held.what.startswith("C1, C2, C3")
    for run in ("R2", "R3", "R4"):
        job = routing_edits.change(job, run, ties=2)
    assert "plug-not-held" not in {f.rule for f in find_all(Analysis(job))}


def test_a_cable_goes_one_way_and_cores_that_part_are_told() -> None:
    runs = (
        Run("R1", "J1", "J2", 1.0),
        Run("R2", "J2", "J3", 1.0),
        Run("R3", "J1", "J4", 2.0),
        Run("R4", "J4", "J3", 2.0),
    )
    joints = (
        LoomNode("J1", "H1", "a", carries=("C1",)),
        LoomNode("J2", "H1", "b"),
        LoomNode("J3", "H1", "c", carries=("C2",)),
        LoomNode("J4", "H1", "d", carries=("C3",)),
    )
    pair = [replace(wire(f"W{n}", "C1", "C2"), cable="Pair", lay_length_mm=30) for n in (1, 2)]
    job = Job(
        "x",
        connectors=plugs("C1", "C2", "C3"),
        wires=tuple(pair),
        routing=Routing((NewLoom("H1", "Loom"),), joints, runs),
    )
    job = edits.change_wire(job, "W2", through=("J4",))
    ways = Ways(job)
    assert [step.run for step in ways.of["W1"].steps] == ["R3", "R4"]
    assert ways.of["W1"].steps == ways.of["W2"].steps
    assert ways.apart_m("Pair") == 0
    kept_out = edits.change_wire(edits.change_wire(job, "W2", through=()), "W1", avoid=("J2",))
    assert [step.run for step in Ways(kept_out).of["W2"].steps] == ["R3", "R4"]
    parted = edits.change_wire(job, "W2", finish=End("C3", "1"))
    assert Ways(parted).apart_m("Pair") == pytest.approx(2.0)
    assert "cores-part" in {f.rule for f in find_all(Analysis(parted))}


# look-alikes


def engine(**more: Any) -> Job:
    """Return a coil that is fed and a heater whose plug is the same, on one breakout, beside a lamp
    that is nowhere near.
    """
    connectors = (
        Connector("C1", "Box", Grid(1, 6)),
        *(Connector(f"C{n}", f"Plug {n}", Grid(1, 2)) for n in (2, 3)),
        Connector("C4", "Plug 4", Grid(2, 2)),
    )
    devices = (
        Device("D1", "Battery", "battery", ("+", "-")),
        Device("D2", "Heater", "heater", plug="C2", terminals=("1", "2")),
        Device("D3", "Sender", "sensor", plug="C3", terminals=("1", "2")),
        Device("D4", "Lamp", "lamp", plug="C4", terminals=("1", "2")),
    )
    made = (
        Wire("W1", End("D1", "+"), End("F1", "in"), size=SIZE),
        Wire("W2", End("F1", "out"), End("C2", "1"), size=SIZE),
        Wire("W3", End("C2", "2"), End("D1", "-"), size=SIZE),
        Wire("W4", End("C3", "2"), End("D1", "-"), size=SIZE),
    )
    joints = (
        LoomNode("J1", "H1", "Breakout", carries=("F1", "D1")),
        LoomNode("J2", "H1", "Heater", carries=("C2",)),
        LoomNode("J3", "H1", "Sender", carries=("C3",)),
        LoomNode("J4", "H1", "Lamp", carries=("C4",)),
    )
    runs = (Run("R1", "J1", "J2", 0.3), Run("R2", "J1", "J3", 0.3), Run("R3", "J1", "J4", 0.3))
    routing = Routing((NewLoom("H1", "Loom"),), joints, runs)
    return Job(
        "x",
        connectors=connectors,
        devices=devices,
        fuses=(Fuse("F1", "Fuse", 10),),
        wires=made,
        routing=routing,
        **more,
    )


def test_look_alikes_are_told_by_what_a_swap_would_do() -> None:
    analysis = Analysis(engine())
    (pair,) = analysis.electrics.alike
    assert (pair.one, pair.other, pair.does) == ("C2", "C3", "damages")
    assert pair.reach_m == pytest.approx(0.3 - 0.7 * 0.3), "the mate lies seven tenths away or more"
    assert any("Sender gets" in words for words in pair.said)
    found = [f for f in find_all(analysis) if f.rule == "look-alikes"]
    assert [(f.severity, f.subject) for f in found] == [("stop", "C2 C3")]


def test_a_key_a_clip_or_another_place_keeps_look_alikes_apart() -> None:
    job = engine()
    keyed = changed(changed(job, "C2", key="left"), "C3", key="right")
    assert Analysis(keyed).electrics.alike == ()
    far = routing_edits.change(job, "R1", clips=2)
    assert Analysis(far).electrics.alike[0].reach_m == pytest.approx(0.1 + 0.2 - 0.7 * 0.3)
    for held in ("clips", "ties"):
        far = routing_edits.change(job, "R1", **{held: 5})
        far = routing_edits.change(far, "R2", **{held: 5})
        assert Analysis(far).electrics.alike == (), held
    zones = routing_edits.set_zone(
        routing_edits.set_zone(job, "", Zone("Remaining length")), "", Zone("Right")
    )
    apart = routing_edits.change(zones, "R1", zone="Remaining length")
    apart = routing_edits.change(apart, "R2", zone="Right")
    assert Analysis(apart).electrics.alike == ()


def test_a_swap_of_like_nets_is_harmless() -> None:
    job = engine()
    same = (*job.wires, Wire("W5", End("C3", "1"), End("F1", "out"), size=SIZE))
    assert [pair.does for pair in Analysis(replace(job, wires=same)).electrics.alike] == [
        "harmless"
    ]
    dead = replace(
        job, devices=tuple(replace(d, kind="lamp") if d.code == "D3" else d for d in job.devices)
    )
    assert [pair.does for pair in Analysis(dead).electrics.alike] == ["does not run"]


def exchanged(job: Job, one: str, other: str) -> Job:
    """Return a job whose wires lead to the other of two plugs, cavity for cavity."""
    to = {one: other, other: one}

    def there(end: End) -> End:
        return replace(end, at=to.get(end.at, end.at))

    return replace(
        job,
        wires=tuple(
            replace(wire, start=there(wire.start), finish=there(wire.finish)) for wire in job.wires
        ),
    )


@pytest.mark.parametrize("name", ["marten", "marten turned round", "two plugs of one wire"])
def test_a_swap_does_what_the_whole_solution_of_the_exchanged_job_says(name: str) -> None:
    """The swap is reached by corrections; here the job is wired so, and solved from nothing."""
    job = demo_job("marten") if name.startswith("marten") else engine()
    if name == "marten turned round":
        job = turned_round(job)
    if name == "two plugs of one wire":  # it leads from one of the two to the other
        job = replace(
            job, wires=(*job.wires, Wire("W6", End("C2", "1"), End("C3", "1"), size=SIZE))
        )
    found = Analysis(job).electrics.alike
    assert found
    states = (RUN, CRANK, RUNNING)
    before = {state.name: OperatingPoint(Network(job), state) for state in states}
    for pair in found:
        if pair.does == "harmless":
            continue
        network = Network(exchanged(job, pair.one, pair.other))
        after = {state.name: OperatingPoint(network, state) for state in states}
        said = symptoms(before, after)
        assert set(said) <= set(pair.said), (pair.one, pair.other)
        hurt = [words for words in pair.said if words not in said]
        assert all(" gets " in words for words in hurt)
        for words in hurt:
            name, volts = words.removesuffix(" V.").split(" gets ")
            (device,) = [device for device in job.devices if device.name == name]
            most = 0.0
            for point in after.values():
                at = [point.solution.volts.get(f"{device.code}/{t}") for t in device.terminals]
                known = [0.0, *(volt for volt in at if volt is not None)]  # the metal's among them
                most = max(most, max(known) - min(known))
            assert float(volts) == pytest.approx(most, abs=0.06)


def changed(job: Job, code: str, **fields: Any) -> Job:
    """Return a job with a plug changed."""
    return replace(
        job,
        connectors=tuple(
            replace(plug, **fields) if plug.code == code else plug for plug in job.connectors
        ),
    )


APART: list[dict[str, tuple[Any, Any]]] = [
    {"key": ("left", "right")},
    {"lever": ("top", "left")},
    {"housing": ("plug", "receptacle")},
    {"terminals": ("male", "female")},
    {"contact": ("16", "20")},
    {"contacts": ((("1", "12"),), (("1", "16"),))},
    {"wide_mm": (20.0, 40.0)},
    {"high_mm": (14.0, 30.0)},
]


@pytest.mark.parametrize("field", APART, ids=lambda field: next(iter(field)))
def test_only_what_is_known_of_both_plugs_parts_them(field: dict[str, tuple[Any, Any]]) -> None:
    ((name, (one, other)),) = field.items()
    half = changed(engine(), "C2", **{name: one})
    assert Analysis(half).electrics.alike, "the other may be the same"
    assert Analysis(changed(half, "C3", **{name: one})).electrics.alike
    assert not Analysis(changed(half, "C3", **{name: other})).electrics.alike


def test_housings_measured_alike_to_the_ruler_are_one_size() -> None:
    job = changed(changed(engine(), "C2", wide_mm=20.0), "C3", wide_mm=21.0)
    assert Analysis(job).electrics.alike


def test_a_long_branch_is_not_put_where_a_short_one_belongs() -> None:
    """By hand: one mate lies 1.4 m away or more, and the other plug has 0.05 m."""
    job = routing_edits.change(
        routing_edits.change(engine(), "R1", length_m=2.0), "R2", length_m=0.05
    )
    assert Analysis(job).electrics.alike == ()
    near = routing_edits.change(job, "R2", length_m=1.5)
    assert Analysis(near).electrics.alike[0].reach_m == pytest.approx(1.5 - 0.7 * 2.0)
    unknown = routing_edits.change(job, "R2", length_m=None)
    assert Analysis(unknown).electrics.alike[0].reach_m is None, "not known is no proof"


def test_a_plug_without_device_or_mate_counts() -> None:
    job = engine()
    for gone, does in (("D3",), "does not run"), (("D2", "D3"), "not known"):
        left = replace(job, devices=tuple(d for d in job.devices if d.code not in gone))
        assert [pair.does for pair in Analysis(left).electrics.alike] == [does], gone


def test_plugs_on_two_looms_count_and_reach_by_where_the_looms_meet() -> None:
    job = engine()
    moved = tuple(
        replace(joint, loom="H2") if joint.code == "J3" else joint for joint in job.routing.joints
    )
    routing = replace(
        job.routing,
        looms=(*job.routing.looms, NewLoom("H2", "Dash")),
        joints=(*moved, LoomNode("J5", "H2", "Stud", carries=("F1",))),
        runs=(job.routing.runs[0], Run("R2", "J5", "J3", 0.3)),
    )
    met = replace(job, routing=routing)
    assert Analysis(met).electrics.alike[0].reach_m == pytest.approx(0.3 - 0.7 * 0.3), "at the fuse"
    apart = replace(
        met,
        routing=replace(
            routing,
            joints=tuple(
                replace(joint, carries=()) if joint.code == "J5" else joint
                for joint in routing.joints
            ),
        ),
    )
    (pair,) = Analysis(apart).electrics.alike
    assert (pair.one, pair.other, pair.reach_m) == ("C2", "C3", None)
    far = replace(
        met,
        routing=replace(
            routing,
            runs=(
                routing.runs[0],
                Run("R2", "J6", "J3", 0.3),
                Run("R4", "J5", "J6", 2.0),
                Run("R5", "J6", "J7", 0.2),
            ),
            joints=(*routing.joints, LoomNode("J6", "H2", "Fork"), LoomNode("J7", "H2", "Spare")),
        ),
    )
    assert Analysis(far).electrics.alike == ()


def test_a_sender_with_the_battery_on_it_is_damaged_though_nothing_flows() -> None:
    """Its other side hangs on a driver that is off: no voltage across, all of it against metal."""
    job = engine()
    loose = tuple(w for w in job.wires if w.code != "W3")
    analysis = Analysis(replace(job, wires=loose))
    (pair,) = analysis.electrics.alike
    assert (pair.does, pair.said[0].split(" gets ")[0]) == ("damages", "Sender")


def test_injectors_on_one_breakout_could_have_a_loom_of_their_own() -> None:
    connectors = (Connector("C9", "Computer", Grid(2, 4)), *plugs("C1", "C2", "C3"))
    routing = star({"C1": 0.2, "C2": 0.3, "C3": 2.0, "C9": 1.0})
    devices = tuple(
        Device(f"D{n}", f"Injector {n}", "injector", ("1", "2"), plug=f"C{n}") for n in (1, 2, 3)
    )
    made = tuple(wire(f"W{n}", f"C{n}", "C9") for n in (1, 2, 3))
    job = Job("x", connectors=connectors, devices=devices, wires=made, routing=routing)
    (one,) = partings(job, Ways(job), {"W1": 1.0, "W2": 2.0})
    assert (one.joint, one.plugs, one.contacts) == ("J1", ("C1", "C2"), 2)
    assert one.drop_v == pytest.approx(2.0 * NEW_JOINT_OHM)
    assert "part-here" in {f.rule for f in find_all(Analysis(job))}


# beside the old loom


def test_a_loom_taken_over_is_compared_with_the_old_one() -> None:
    loom = Loom(
        (
            Node("N1", "Computer", "found", connector="C1"),
            Node("N2", "Breakout", "found"),
            Node("N3", "Sensor", "found", connector="C2"),
            Node("N4", "Valve", "found"),
        ),
        (
            Segment("B1", "N1", "N2", 1.0),
            Segment("B2", "N2", "N3", 0.4),
            Segment("B3", "N2", "N4", 0.3),
        ),
    )
    job = Job("x", connectors=plugs("C1", "C2"), loom=loom)
    job = routing_edits.take_over(job, "New loom")
    assert Analysis(job).loom_changes["H1"] == ()
    twice = replace(job, loom=replace(loom, nodes=(*loom.nodes, Node("N5", "Sensor", "found"))))
    assert not any(c.old == "N3" for c in Analysis(twice).loom_changes["H1"]), "one becomes one"
    joint = {joint.name: joint.code for joint in job.routing.joints}
    run = {run.finish: run.code for run in job.routing.runs}
    job = routing_edits.change(job, run[joint["Breakout"]], length_m=1.2)
    job = routing_edits.change(job, run[joint["Sensor"]], start=joint["Computer"], covering="tape")
    job = routing_edits.remove(job, run[joint["Valve"]])
    job = routing_edits.remove(job, joint["Valve"])
    job = routing_edits.add(job, LoomNode("", "H1", "Lamp"))
    changes = {
        (change.how, change.new or change.old): change
        for change in Analysis(job).loom_changes["H1"]
    }
    longer = changes["longer", run[joint["Breakout"]]]
    assert (longer.was, longer.now) == ("1.00 m", "1.20 m")
    moved = changes["moved", run[joint["Sensor"]]]
    assert (moved.was, moved.now) == ("Breakout to Sensor", "Computer to Sensor")
    assert {("gone", "N4"), ("new", job.routing.joints[-1].code)} <= set(changes)
    assert len(changes) == 4


def test_several_looms_as_found_are_taken_over_as_several() -> None:
    nodes = (
        Node("N1", "Computer", "found", loom="Engine loom"),
        Node("N2", "Sensor", "found", loom="Engine loom"),
        Node("N3", "Dash", "found", loom="Cab loom"),
        Node("N4", "Lamp", "found", loom="Cab loom"),
    )
    loom = Loom(nodes, (Segment("B1", "N1", "N2", 1.0), Segment("B2", "N3", "N4", 0.5)))
    job = Job("x", loom=loom)
    assert Analysis(job).loom.problems == (), "each is whole"
    torn = replace(job, loom=replace(loom, segments=loom.segments[:1]))
    assert Analysis(torn).loom.problems == ("Cab loom lies in 2 pieces that no stretch joins.",)
    across = replace(loom, segments=(*loom.segments, Segment("B3", "N2", "N3", 0.2)))
    assert "Joins two looms by name: B3" in Analysis(replace(job, loom=across)).loom.problems[0]
    made = routing_edits.take_over(job, "New loom").routing
    assert [one.name for one in made.looms] == ["Engine loom", "Cab loom"]
    assert [joint.loom for joint in made.joints] == ["H1", "H1", "H2", "H2"]
    assert [run.length_m for run in made.runs] == [1.0, 0.5]


def test_how_a_loom_is_turned_on_the_board_is_nothing_but_the_boards() -> None:
    job = three()
    before = Analysis(job)
    turned = run_edits.turned(job, {"R2": (370.0, 15.0)})
    assert turned.board == (Pose("R2", 10.0, 15.0),)
    after = Analysis(turned, before)
    assert after.electrics is before.electrics
    assert routing_edits.remove(turned, "R2").board == ()
    assert run_edits.laid_anew(turned, "H1").board == ()
    assert routing_edits.remove(turned, "H1").board == ()


def test_what_is_taken_off_last_can_lie_anywhere() -> None:
    """Large looms come to an answer, too: sixty sleeves in a row, from either end."""
    chosen = random.Random(3)
    count = 60
    joints = [LoomNode(f"J{n}", "H1", f"Place {n}") for n in range(count + 1)]
    joints[0] = replace(joints[0], carries=("C1",))
    joints[-1] = replace(joints[-1], carries=("C2",), closed=True)
    runs = [Run(f"R{n}", f"J{n}", f"J{n + 1}", 0.1, covering="tube") for n in range(count)]
    chosen.shuffle(runs)
    job = Job(
        "x",
        connectors=plugs("C1", "C2"),
        wires=(wire("W1", "C1", "C2"),),
        routing=Routing((NewLoom("H1", "Loom"),), tuple(joints), tuple(runs)),
    )
    analysis = Analysis(job)
    order, left = taken_off(slid_on(job, analysis.electrics.ways, analysis.covers), {"J60": 0.0})
    assert left == []
    assert [item.at for item, _ in order] == [f"R{n}" for n in range(count)]
    assert [step.at for step in analysis.assembly.steps[:count]] == [
        f"R{n}" for n in reversed(range(count))
    ]


def test_a_repair_counts_what_comes_off_to_reach_it() -> None:
    from molvik.logbook.estimate import access_min

    loom = Loom(
        (Node("N1", "a", "found"), Node("N2", "b", "found"), Node("N3", "c", "found")),
        (Segment("B1", "N1", "N2", 1.0, "tape"), Segment("B2", "N2", "N3", 1.0, "tape")),
    )
    job = Job("x", loom=loom)
    job = routing_edits.set_zone(job, "", Zone("Dash", access="panel", access_min=40))
    for code in ("B1", "B2"):
        job = loom_edits.change(job, code, zone="Dash")
    assert access_min(Analysis(job), {"B1", "B2"}) == 40
    assert access_min(Analysis(job), set()) == 0
    renamed = routing_edits.set_zone(job, "Dash", Zone("Panel", access_min=25))
    assert [segment.zone for segment in renamed.loom.segments] == ["Panel", "Panel"]
    assert [s.zone for s in routing_edits.drop_zone(renamed, "Panel").loom.segments] == ["", ""]
