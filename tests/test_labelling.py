"""Labels of drawings: nothing lies over anything, every one is there or told as left out.

What overlaps is judged by Qt's polygons, which share nothing with the geometry that places.
"""

import random
from itertools import combinations, pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPolygonF

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.drawing.labelling import (
    Corners,
    Spot,
    Wanted,
    about,
    beside,
    corners,
    outline,
    upright,
)
from molvik.drawing.labelplacing import place_labels
from molvik.drawing.lettering import face_of, width_of
from molvik.drawing.scene import Box, Path, Point, Rect, Scene, Text
from molvik.model.job import Job
from molvik.model.loom import Loom, Node, Segment
from molvik.model.routing import LoomNode, NewLoom, Routing, Run
from molvik.netlist.network import Network
from molvik.netlist.placing import place
from molvik.routing.drawing import RouteDrawing, plugs_of, tree_of
from molvik.survey.drawing import LoomDrawing, aspect_of
from molvik.survey.layout import lay_out
from molvik.survey.tree import LoomTree

PAGE = Box(0, 0, 400, 300)


def meet(one: Corners, other: Corners) -> bool:
    """Return whether two areas have anything in common beyond their edges, by Qt."""
    a, b = (QPolygonF([QPointF(*p) for p in shape]) for shape in (one, other))
    both = a.intersected(b)
    box = both.boundingRect()
    return not both.isEmpty() and box.width() > 0.05 and box.height() > 0.05


def written(text: Text) -> Corners:
    """Return what the letters of a text cover: as wide as they are in the shipped typeface."""
    wide = min(text.box.width, width_of(text.words, text.pixels, face_of(text)))
    x = {"left": text.box.x, "right": text.box.right - wide}.get(
        text.align, text.box.middle.x - wide / 2
    )
    return corners(Box(x, text.box.y, wide, text.box.height), text.turn)


def thick(line: Path) -> Corners:
    """Return what a straight line covers that is drawn thick."""
    (a, b), half = line.points, (line.pen.width / 2 if line.pen else 0.0)
    length = max(1e-9, ((b.x - a.x) ** 2 + (b.y - a.y) ** 2) ** 0.5)
    x, y = -(b.y - a.y) / length * half, (b.x - a.x) / length * half
    return (
        Point(a.x + x, a.y + y),
        Point(b.x + x, b.y + y),
        Point(b.x - x, b.y - y),
        Point(a.x - x, a.y - y),
    )


def overlaps(scene: Scene) -> list[str]:
    """Return what lies over what, of texts, and of texts on stretches, plugs and marks."""
    texts = [shape for shape in scene.shapes if isinstance(shape, Text)]
    found = [
        f"{a.words} on {b.words}" for a, b in combinations(texts, 2) if meet(written(a), written(b))
    ]
    solid: list[Corners] = []
    for shape in scene.shapes:
        if isinstance(shape, Text):
            continue
        if isinstance(shape, Path):
            if shape.closed:
                solid.append(shape.points)
            elif shape.pen is not None and shape.pen.width > 1:  # a leader is thinner
                for a, b in pairwise(shape.points):
                    solid.append(thick(Path((a, b), shape.pen)))
        else:
            solid.append(outline(shape.box))
    found += [
        f"{text.words} on something at {shape[0]}"
        for text in texts
        for shape in solid
        if meet(written(text), shape)
    ]
    leaders = [s for s in scene.shapes if isinstance(s, Path) and s.pen and s.pen.width == 0.9]
    found += [
        f"the line to a label goes through {text.words}"
        for text in texts
        for leader in leaders
        if meet(corners(text.box.grown(-1.5, -1.5), text.turn), thick(leader))
    ]
    return found


def grown(stretches: int, seed: int) -> Loom:
    """Return a loom that grew by chance."""
    chosen = random.Random(seed)
    names = ("sender", "horn", "instrument panel, blue plug", "D plus", "number plate lamp, left")
    nodes = tuple(
        Node(f"N{n}", f"{chosen.choice(names)} {n}", "found") for n in range(stretches + 1)
    )
    segments = tuple(
        Segment(
            f"B{n}",
            f"N{chosen.randrange(max(0, n - 12), n)}",
            f"N{n}",
            chosen.choice((0.05, 0.12, 0.3, 0.55, 0.9, 1.7)),
            "tape",
            chosen.choice((3.0, 8.0, 16.0, 30.0)),
        )
        for n in range(1, stretches + 1)
    )
    return Loom(nodes, segments)


def found_drawing(stretches: int, seed: int, room: tuple[float, float]) -> LoomDrawing:
    tree = LoomTree(grown(stretches, seed))
    return LoomDrawing(tree, lay_out(tree, aspect_of(*room)), *room)


def route_drawing(job: Job, loom: str, room: tuple[float, float]) -> RouteDrawing:
    analysis = Analysis(job)
    thick_mm = {code: section.over_mm for code, section in analysis.sections.items()}
    tree = tree_of(job.routing, loom, thick_mm)
    plugs = plugs_of(job, analysis.network, loom)
    return RouteDrawing(job.routing, tree, place(job.routing, loom), plugs, loom, *room)


ROOMS = ((738.0, 330.0), (1300.0, 700.0), (2600.0, 1500.0))


@pytest.mark.parametrize("room", ROOMS)
@pytest.mark.parametrize("loom", ["H1", "H2"])
def test_on_the_demo_no_label_lies_over_anything(loom: str, room: tuple[float, float]) -> None:
    made = route_drawing(demo_job(), loom, room)
    assert overlaps(made.scene) == []
    said = {text.words for text in made.scene.shapes if isinstance(text, Text)}
    ends = {code for code in made.tree.nodes if made.tree.is_end(code)}
    left = set(made.labelling.left_out)
    assert ends - set(made.labelling.put) <= left
    assert len(left & ends) <= 1
    for code in ends - left:
        assert any(words[:8] == made.tree.nodes[code].name[:8] for words in said), code


@pytest.mark.parametrize("room", ROOMS)
def test_nor_on_the_loom_as_found(room: tuple[float, float]) -> None:
    tree = Analysis(demo_job()).loom
    made = LoomDrawing(tree, lay_out(tree, aspect_of(*room)), *room)
    assert overlaps(made.scene) == []
    assert made.labelling.left_out == ()


@pytest.mark.parametrize(("stretches", "seed"), [(2, 1), (20, 2), (60, 3), (150, 4), (400, 5)])
def test_of_looms_that_grew_by_chance_every_name_is_there_or_told(
    stretches: int, seed: int
) -> None:
    made = found_drawing(stretches, seed, (1600.0, 900.0))
    assert overlaps(made.scene) == []
    ends = {code for code in made.tree.nodes if made.tree.is_end(code)}
    left = set(made.labelling.left_out)
    assert set(made.labelling.put) | left == ends
    told = [text for text in made.scene.texts() if "without room" in text]
    assert bool(told) is bool(left)
    if left:
        assert told[0].startswith(str(len(left)))


@settings(max_examples=25)
@given(st.integers(2, 40), st.integers(0, 10**6), st.sampled_from(ROOMS[:2]))
def test_nothing_lies_over_anything_in_any_loom(
    stretches: int, seed: int, room: tuple[float, float]
) -> None:
    assert overlaps(found_drawing(stretches, seed, room).scene) == []


def test_sixty_plugs_at_one_joint_are_named_or_told() -> None:
    ends = (LoomNode(f"J{n}", "H1", f"Plug number {n}") for n in range(2, 62))
    joints = (LoomNode("J1", "H1", "Hub"), *ends)
    runs = tuple(Run(f"R{n}", "J1", f"J{n + 1}", 0.3) for n in range(1, 61))
    routing = Routing((NewLoom("H1", "Star"),), joints, runs)
    job = Job(id="x", title="x", routing=routing)
    tree = tree_of(routing, "H1", {})
    made = RouteDrawing(
        routing, tree, place(routing, "H1"), plugs_of(job, Network(job), "H1"), "H1", 900, 600
    )
    assert overlaps(made.scene) == []
    assert len(made.labelling.put) + len(made.labelling.left_out) == 120


# the placement itself


def test_the_best_place_is_taken_where_all_are_free() -> None:
    spots = about(Point(200, 150), 8, 60, 14)
    put = place_labels([Wanted("a", 60, 14, spots)], [], PAGE).put["a"]
    assert put.box.middle == Point(200, 165)
    assert put.leader is None


def test_a_label_gives_way_to_one_that_has_no_other_place() -> None:
    """Two that want one place: the one with another takes that, whatever their order."""
    here, there = Spot(Point(100, 100)), Spot(Point(100, 200), cost=1)
    both = Wanted("both", 50, 20, (here, there))
    only = Wanted("only", 50, 20, (here,))
    for wanted in ([both, only], [only, both]):
        put = place_labels(wanted, [], PAGE).put
        assert put["only"].box.middle == Point(100, 100)
        assert put["both"].box.middle == Point(100, 200)


def test_whoever_stands_in_the_way_is_moved_if_it_can() -> None:
    """a and b have two places each, c one that both of their best ones exclude."""
    a = Wanted("a", 40, 20, (Spot(Point(100, 100)), Spot(Point(100, 160), cost=1)))
    b = Wanted("b", 40, 20, (Spot(Point(150, 100)), Spot(Point(150, 160), cost=1)))
    c = Wanted("c", 100, 20, (Spot(Point(125, 100)), Spot(Point(125, 104)), Spot(Point(125, 96))))
    put = place_labels([a, b, c], [], PAGE).put
    assert set(put) == {"a", "b", "c"}
    assert put["a"].box.middle == Point(100, 160)


def test_what_has_no_place_is_told_and_takes_none() -> None:
    spot = (Spot(Point(100, 100)),)
    made = place_labels([Wanted("a", 40, 20, spot), Wanted("b", 40, 20, spot)], [], PAGE)
    assert len(made.put) == 1
    assert made.left_out == ("b",)
    outside = (Spot(Point(395, 100)),)
    assert place_labels([Wanted("a", 40, 20, outside)], [], PAGE).left_out == ("a",)


def test_of_a_lower_rank_chooses_first() -> None:
    spot = (Spot(Point(100, 100)),)
    made = place_labels([Wanted("a", 40, 20, spot, 1), Wanted("b", 40, 20, spot, 0)], [], PAGE)
    assert made.left_out == ("a",)


def test_a_label_without_room_beside_its_thing_gets_a_line_to_it() -> None:
    wall = [outline(Box(160, 110, 80, 80))]
    put = place_labels([Wanted("a", 60, 14, about(Point(200, 150), 8, 60, 14))], wall, PAGE).put[
        "a"
    ]
    assert put.leader is not None
    assert put.leader[0] == Point(200, 150)
    assert not meet(corners(put.box, 0), wall[0])


@given(st.floats(-720, 720))
def test_words_along_a_line_are_never_upside_down(turn: float) -> None:
    made = upright(turn)
    assert -90 <= made < 90 or made == pytest.approx(-90)
    assert (made - turn) % 180 == pytest.approx(0, abs=1e-6) or (made - turn) % 180 == (
        pytest.approx(180, abs=1e-6)
    )


def test_a_length_runs_along_its_line() -> None:
    line = (Point(100, 100), Point(200, 200))
    put = place_labels([Wanted("a", 30, 10, beside(line, 8, 30, 10))], [], PAGE).put["a"]
    assert put.turn == pytest.approx(45)
    middle = put.box.middle
    away = abs((middle.x - 100) - (middle.y - 100)) / 2**0.5
    assert away == pytest.approx(4 + 5 + 1.5)
    assert middle.y < middle.x, "above the line, as it is read"


def test_a_rectangle_is_a_rectangle_here_and_in_qt() -> None:
    """The oracle itself: two that touch do not overlap, two that cross without a corner do."""
    assert not meet(outline(Box(0, 0, 10, 10)), outline(Box(10, 0, 10, 10)))
    assert meet(outline(Box(0, 4, 30, 2)), outline(Box(10, 0, 2, 30)))
    assert overlaps(
        Scene(
            9, 9, (Text("abc", Box(0, 0, 40, 14), 11, "ink"), Rect(Box(2, 2, 30, 8), None, "ink"))
        )
    )
