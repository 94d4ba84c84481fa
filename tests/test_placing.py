"""A loom on the board: nothing over anything else, lengths held, however it is turned."""

import itertools
import math
import random
import statistics
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from molvik.demo import demo_job
from molvik.drawing.scene import Point, Text
from molvik.model.routing import LoomNode, NewLoom, Pose, Routing, Run, Zone
from molvik.netlist.free import apart
from molvik.netlist.placing import UNKNOWN_M, Placed, drawn_m, lay, place
from molvik.routing.turning import TIDY_DEG, Grab
from molvik.routing.vehicle import vehicle_scene


def loom(chosen: random.Random, count: int, loops: int = 0) -> Routing:
    """Return a loom as looms are: a trunk with branches, some of them branching again."""
    joints = [LoomNode(f"J{n}", "H1", f"Place {n}") for n in range(count)]
    runs = []
    for n in range(1, count):
        above = n - 1 if n < count // 3 else chosen.randint(0, n - 1)
        runs.append(Run(f"R{n}", f"J{above}", f"J{n}", chosen.choice([0.08, 0.15, 0.3, 0.5, 0.9])))
    for n in range(loops):
        a, b = chosen.sample(range(count), 2)
        runs.append(Run(f"R{count + n}", f"J{a}", f"J{b}", 2.5))
    return Routing((NewLoom("H1", "Loom"),), tuple(joints), tuple(runs))


def long(path: tuple[Point, ...]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(path))


def crossings(routing: Routing, placed: Placed) -> list[tuple[str, str]]:
    """Return the stretches that lie over each other, by every pair of their straight parts."""
    runs = {run.code: {run.start, run.finish} for run in routing.runs}
    return [
        (one, other)
        for one, other in itertools.combinations([run for _, run in placed.hangs.values()], 2)
        if not runs[one] & runs[other]
        and any(
            apart(a, b, c, d) < 1e-9
            for a, b in itertools.pairwise(placed.paths[one])
            for c, d in itertools.pairwise(placed.paths[other])
        )
    ]


@pytest.mark.parametrize("seed", range(12))
def test_looms_lie_free_of_themselves_with_every_stretch_as_long_as_it_is(seed: int) -> None:
    chosen = random.Random(seed)
    routing = loom(chosen, chosen.randint(5, 40))
    placed = place(routing, "H1")
    for run in routing.runs:
        path = placed.paths[run.code]
        assert long(path) == pytest.approx(drawn_m(run))
        assert path[0] == pytest.approx(placed.places[run.start])
        assert path[-1] == pytest.approx(placed.places[run.finish])
    assert crossings(routing, placed) == []
    assert not placed.over


def test_both_looms_of_the_demo_lie_free_and_fold_back_on_a_small_board() -> None:
    routing = demo_job().routing
    for code in ("H1", "H2"):
        assert not place(routing, code).over
    straight = place(routing, "H2")
    assert straight.size_m[0] > 3
    folded = place(routing, "H2", (), (1.8, 1.6))
    assert folded.size_m[0] <= 1.8 + 1e-9
    assert crossings(routing, folded) == []


def test_a_loom_takes_less_board_than_with_its_branches_spread_and_crosses_no_more() -> None:
    """Thirty looms, each beside itself laid with branches at 60 deg first, as all were before."""
    shares, more = [], 0
    for seed in range(30):
        chosen = random.Random(f"area {seed}")
        routing = loom(chosen, chosen.randint(6, 45))
        flat = place(routing, "H1")
        spread = lay([joint.code for joint in routing.joints], routing.runs)
        assert len(crossings(routing, flat)) <= len(crossings(routing, spread))
        more += len(crossings(routing, flat))
        area, before = (  # with a margin of 70 mm
            math.prod(side + 0.14 for side in placed.size_m) for placed in (flat, spread)
        )
        shares.append(area / before)
    assert statistics.median(shares) < 0.75
    assert max(shares) <= 1.2
    assert more <= 1


def test_what_closes_a_loop_is_bent_out_to_its_length_or_drawn_straight() -> None:
    runs = (
        Run("R1", "J1", "J2", 1.0),
        Run("R2", "J2", "J3", 1.0),
        Run("R3", "J1", "J3", 2.6),
        Run("R4", "J1", "J3", 0.4),
    )
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in (1, 2, 3))
    placed = place(Routing((NewLoom("H1", "Loom"),), joints, runs), "H1")
    assert long(placed.paths["R3"]) == pytest.approx(2.6)
    assert len(placed.paths) == 4
    assert place(Routing((NewLoom("H1", "Loom"),), joints, ()), "H1").paths == {}
    assert place(Routing((NewLoom("H1", "Loom"),)), "H1").places == {}


def test_a_stretch_that_was_turned_by_hand_lies_so_whatever_it_hangs_from() -> None:
    runs = (Run("R1", "J1", "J2", 1.0), Run("R2", "J3", "J2", 0.5), Run("R3", "J2", "J4", None))
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in (1, 2, 3, 4))
    routing = Routing((NewLoom("H1", "Loom"),), joints, runs)
    poses = (Pose("R1", 30.0), Pose("R2", 200.0, 40.0), Pose("R3", 100.0))
    placed = place(routing, "H1", poses)
    for pose in poses:
        path = placed.paths[pose.run]
        first = math.degrees(math.atan2(path[1].y - path[0].y, path[1].x - path[0].x))
        last = math.degrees(math.atan2(path[-1].y - path[-2].y, path[-1].x - path[-2].x))
        assert (first - pose.heading_deg) % 360 == pytest.approx(0, abs=1e-6) or (
            first - pose.heading_deg
        ) % 360 == pytest.approx(360, abs=1e-6)
        assert math.cos(math.radians(last - pose.heading_deg - pose.bent_deg)) == pytest.approx(1)
    assert long(placed.paths["R3"]) == pytest.approx(UNKNOWN_M)
    # What it says of itself, given back, lays it the same again.
    again = place(routing, "H1", tuple(Pose(run, *turn) for run, turn in placed.turns.items()))
    assert again.paths.keys() == placed.paths.keys()
    for run, path in placed.paths.items():
        for a, b in itertools.pairwise(zip(path, again.paths[run], strict=True)):
            assert math.dist(a[0], b[0]) == pytest.approx(math.dist(a[1], b[1]))


@pytest.mark.parametrize("ends", [("J1", "J2"), ("J2", "J1")])
def test_a_bent_stretch_lies_as_turned_from_whichever_end_it_is_laid(ends: tuple[str, str]) -> None:
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in (1, 2, 3))
    runs = (Run("R1", *ends, 1.0), Run("R2", "J2", "J3", 3.0))
    routing = Routing((NewLoom("H1", "Loom"),), joints, runs)
    path = place(routing, "H1", (Pose("R1", 37.0, 60.0),)).paths["R1"]
    turns = [math.degrees(math.atan2(b.y - a.y, b.x - a.x)) for a, b in itertools.pairwise(path)]
    assert turns == pytest.approx([37.0, 97.0])
    # Dragged, it leads by a whole step, whatever it did before.
    placed = place(routing, "H1", (Pose("R1", 37.0), Pose("R2", 11.0)))
    joint = next(joint for joint, (_, run) in placed.hangs.items() if run == "R2")
    above, _ = placed.hangs[joint]
    pivot = placed.places[above]
    made = Grab(placed, {run.code: run for run in runs}, joint).to(
        Point(pivot.x + math.cos(1.0), pivot.y + math.sin(1.0))
    )
    leads = made.turns["R2"][0] + (0 if runs[1].start == above else 180)
    assert leads % 360 == pytest.approx(60)  # 57.3 deg, by steps of 15


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.floats(-2, 2), st.floats(-2, 2), st.booleans())
def test_dragging_turns_or_bends_and_holds_every_length(
    seed: int, x: float, y: float, tidy: bool
) -> None:
    chosen = random.Random(seed)
    routing = loom(chosen, 12)
    placed = place(routing, "H1")
    runs = {run.code: run for run in routing.runs}
    ref = chosen.choice([*runs, *placed.places])
    grab = Grab(placed, runs, ref)
    if not grab.holds:
        assert ref not in placed.hangs  # what all else hangs from
        return
    made = grab.to(Point(x, y), tidy=tidy)
    for run, path in made.paths.items():
        assert long(path) == pytest.approx(drawn_m(runs[run]))
    # Laid again as it was turned, it lies as it was shown while it was dragged.
    turns = {**placed.turns, **made.turns}
    after = place(routing, "H1", tuple(Pose(run, *turn) for run, turn in turns.items()))
    for one, other in itertools.combinations(made.paths, 2):
        for a, b in itertools.product((0, -1), repeat=2):
            shown = math.dist(made.paths[one][a], made.paths[other][b])
            laid = math.dist(after.paths[one][a], after.paths[other][b])
            assert shown == pytest.approx(laid, abs=1e-6)
    still = set(placed.paths) - set(made.paths)
    for one, other in itertools.combinations(still, 2):
        was = math.dist(placed.paths[one][0], placed.paths[other][-1])
        assert math.dist(after.paths[one][0], after.paths[other][-1]) == pytest.approx(was)
    if tidy and not grab.is_run:
        above, code = placed.hangs[ref]
        heading, bent = made.turns[code]
        leads = heading if runs[code].start == above else heading + bent + 180
        assert leads % TIDY_DEG == pytest.approx(0, abs=1e-6) or leads % TIDY_DEG == pytest.approx(
            TIDY_DEG, abs=1e-6
        )


def test_a_loom_of_3000_stretches_comes_to_rest() -> None:
    routing = loom(random.Random(5), 3001)
    placed = place(routing, "H1")
    assert len(placed.paths) == 3000


def test_places_stand_in_columns_with_what_matters_there() -> None:
    job = demo_job()
    placed = place(job.routing, "H2")
    scene = vehicle_scene(job.routing, "H2", placed, 900, 400)
    assert scene is not None
    words = [shape.words for shape in scene.shapes if isinstance(shape, Text)]
    assert {"Cab", "Tilt hinge", "Under the floor"} <= set(words)
    assert any("cab tilted" in text for text in words)
    refs = {area.ref for area in scene.areas}
    own = {joint.code for joint in job.routing.joints if joint.loom == "H2"}
    assert own <= refs
    assert len(refs - own) == 21  # its stretches
    along = {area.ref: area.middle.x for area in scene.areas if area.ref in own}
    assert along["J28"] < along["J29"], "what hangs from a joint stands behind it"
    over = vehicle_scene(job.routing, "H2", placed, 900, 400, frozenset({"R41"}))
    assert over is not None
    assert len(over.shapes) == 3
    hot = Routing(
        (NewLoom("H1", "a"),),
        (LoomNode("J1", "H1", "a"), LoomNode("J2", "H1", "b")),
        (Run("R1", "J1", "J2", 1.0, zone="Pipe"),),
        (Zone("Pipe", hot_c=400, distance_mm=50, shielded=True),),
    )
    scene = vehicle_scene(hot, "H1", place(hot, "H1"), 600, 300)
    assert scene is not None
    said: Any = [shape for shape in scene.shapes if isinstance(shape, Text)]
    assert any(text.words == "400 °C at 50 mm, shielded" and text.role == "stop" for text in said)
    assert (
        vehicle_scene(
            Routing((NewLoom("H1", "a"),)), "H1", Placed({}, {}, {}, {}, frozenset()), 600, 300
        )
        is None
    )
