"""How a loom lies on the board: plugs clear, in the middle of a typed board, as in the vehicle."""

import itertools
import math
import random

import pytest
import shapely
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.desktop.stages.routing.boarddialog import BoardDialog
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Text, bounds
from molvik.model.job import Job
from molvik.model.parts import Connector, Grid
from molvik.model.photos import Mark, Photo
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, Zone
from molvik.routing.board.lay import EDGE_MM, LEGEND_MM, Board, placed_on_board
from molvik.routing.inthevehicle import lies_of
from test_board import over
from test_placing import crossings, long, loom

MM = 1e-3


def plugged(seed: int) -> Job:
    """Return a loom by chance with a plug of some size at every end."""
    chosen = random.Random(f"plugs {seed}")
    routing = loom(chosen, chosen.randint(5, 30))
    ends = [
        joint
        for joint in routing.joints
        if sum(joint.code in (run.start, run.finish) for run in routing.runs) == 1
    ]
    plugs = tuple(
        Connector(
            f"C{n}",
            f"Plug {n}",
            Grid(1, 2),
            wide_mm=chosen.choice((18.0, 30.0, 55.0)),
            high_mm=15.0,
            deep_mm=chosen.choice((20.0, 40.0)),
        )
        for n, _ in enumerate(ends, 1)
    )
    carried = {joint.code: (f"C{n}",) for n, joint in enumerate(ends, 1)}
    joints = tuple(replace(j, carries=carried.get(j.code, ())) for j in routing.joints)
    return Job(id="x", title="x", connectors=plugs, routing=replace(routing, joints=joints))


def body(board: Board, joint: str) -> shapely.Polygon:
    """Return the outline of a plug, by hand: from where wires enter, along the way it points."""
    plug, angle = board.plugs[joint]
    at, half = board.places[joint], plug.wide_mm / 2
    along, aside = (math.cos(angle), math.sin(angle)), (-math.sin(angle), math.cos(angle))
    return shapely.Polygon(
        [
            (at.x + on * along[0] + off * aside[0], at.y + on * along[1] + off * aside[1])
            for on, off in ((0, -half), (plug.deep_mm, -half), (plug.deep_mm, half), (0, half))
        ]
    )


def crowded(board: Board) -> set[str]:
    """Return the joints whose plug meets another plug, or a stretch that does not end there."""
    bodies = {joint: body(board, joint) for joint in board.plugs}
    found = set()
    for one, other in itertools.combinations(bodies, 2):
        if bodies[one].intersection(bodies[other]).area > 1e-6:
            found |= {one, other}
    for laid in board.runs:
        band = shapely.LineString(laid.path).buffer(laid.thick_mm / 2, cap_style="flat")
        for joint, outline in bodies.items():
            if joint not in (laid.run.start, laid.run.finish):
                if band.intersection(outline).area > 1e-6:
                    found.add(joint)
    return found


@pytest.mark.parametrize("code", ["H1", "H2"])
def test_plugs_of_the_demo_lie_on_nothing(code: str) -> None:
    board = Analysis(demo_job()).board(code)
    assert len(board.plugs) > 1
    assert crowded(board) == set() == board.tight


def test_plugs_of_looms_by_chance_lie_on_nothing_or_are_told() -> None:
    """Held to shapely's geometry, with every stretch as thick as it is drawn."""
    told = every = 0
    for seed in range(30):
        board = Analysis(plugged(seed)).board("H1")
        found = crowded(board)
        every += len(board.plugs)
        told += len(board.tight)
        assert {one for one in found if not (body_partners(board, one) & board.tight)} <= (
            board.tight
        ), seed
    assert every > 200
    assert told < every / 50


def body_partners(board: Board, joint: str) -> set[str]:
    """Return the plugs that one meets."""
    own = body(board, joint)
    return {
        other
        for other in board.plugs
        if other != joint and own.intersection(body(board, other)).area > 1e-6
    }


def with_room(job: Job, wide_m: float, high_m: float) -> Job:
    looms = tuple(replace(one, wide_m=wide_m, high_m=high_m) for one in job.routing.looms)
    return replace(job, routing=replace(job.routing, looms=looms))


@pytest.mark.parametrize(
    ("code", "room"),
    [("H1", (2.4, 1.2)), ("H1", (1.8, 1.0)), ("H2", (2.4, 1.3)), ("H2", (3.0, 1.5))],
)
def test_a_board_of_typed_size_holds_the_loom_in_its_middle(
    code: str, room: tuple[float, float]
) -> None:
    analysis = Analysis(with_room(demo_job(), *room))
    sheet = analysis.board_sheet(code)
    board = sheet.board
    wide, high = (side * 1000 for side in room)
    assert (sheet.width_mm, board.height_mm) == pytest.approx((wide, high - LEGEND_MM))
    if all(
        bounds(piece.shapes[0]).y < board.height_mm
        for piece in sheet.pieces
        if (piece.layer == "CALLOUTS")
    ):
        assert sheet.height_mm == pytest.approx(high)
    assert not board.too_large
    points = [*board.places.values(), *(p for laid in board.runs for p in laid.path)]
    left, right = min(p.x for p in points), board.width_mm - max(p.x for p in points)
    above, below = min(p.y for p in points), board.height_mm - max(p.y for p in points)
    assert min(left, right, above, below) >= EDGE_MM - 1e-6
    assert left == pytest.approx(right)
    assert above == pytest.approx(below)
    for laid in board.runs:
        assert long(laid.path) == pytest.approx(laid.length_mm)
    assert crossings(analysis.job.routing, analysis.placed[code]) == []


def test_on_a_board_that_has_room_nothing_lies_over_anything_either() -> None:
    sheet = Analysis(with_room(demo_job(), 2.4, 1.2)).board_sheet("H1")
    assert over(sheet) == []
    assert sheet.left_out == ()
    assert (sheet.width_mm, sheet.height_mm) == pytest.approx((2400, 1200))


def test_a_board_that_is_too_small_is_told(window: MainWindow, qtbot: QtBot) -> None:
    job = with_room(demo_job(), 0.9, 0.5)
    assert Analysis(job).board("H1").too_large
    window.store.load(job, None)
    dialog = BoardDialog(window, window.store, "H1")
    qtbot.addWidget(dialog)
    qtbot.waitUntil(dialog.save.isEnabled)
    assert "more than the board of the loom" in dialog.about.text()


# as in the vehicle


def line(*zones: str, drawn: str = "as in the vehicle") -> Job:
    """Return a loom of stretches of 300 mm one after the other, each in a place."""
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in range(len(zones) + 1))
    runs = tuple(Run(f"R{n}", f"J{n}", f"J{n + 1}", 0.3, zone=zone) for n, zone in enumerate(zones))
    made = replace(NewLoom("H1", "Line"), drawn=drawn)
    listed = (Zone("front"), Zone("engine"), Zone("cab"), Zone("rear"))
    return Job(id="x", title="x", routing=Routing((made,), joints, runs, listed))


def leads(job: Job) -> dict[str, float]:
    """Return by how much each stretch leads to the right, m."""
    paths = placed_on_board(job, "H1").paths
    return {run: round(path[-1].x - path[0].x, 3) for run, path in paths.items()}


def test_a_later_place_lies_to_the_right_and_an_earlier_one_back_to_the_left() -> None:
    job = line("front", "engine", "cab", "engine", "rear")
    seen = leads(job)
    assert seen["R1"] > 0.25
    assert seen["R2"] > 0.25
    assert seen["R3"] < -0.25
    assert seen["R4"] > 0.25
    straight = leads(line("front", "engine", "cab", "engine", "rear", drawn="in little room"))
    assert set(straight.values()) == {0.3}


def test_places_have_their_names_where_the_loom_lies_as_in_the_vehicle() -> None:
    job = line("front", "engine", "engine", "cab")
    sheet = Analysis(job).board_sheet("H1")
    texts = [one for p in sheet.pieces for one in p.shapes if isinstance(one, Text)]
    at = {one.words: one.box.middle.x for one in texts if one.words in ("front", "engine", "cab")}
    assert at["front"] < at["engine"] < at["cab"]
    assert over(sheet) == []
    job = line("front", "engine", "engine", "cab", drawn="in little room")
    assert "engine" not in Analysis(job).board_sheet("H1").scene.texts()


def test_the_front_is_on_the_left_whichever_end_comes_first() -> None:
    seen = leads(line("rear", "cab", "engine", "front"))
    assert all(lead < -0.25 for lead in seen.values())


def test_a_stretch_that_was_traced_leads_as_on_its_photo() -> None:
    """By hand: on a photo twice as wide as high, from (0.1, 0.1) to (0.2, 0.3) is 45 deg down."""
    marks = (Mark("trace", 0.1, 0.1, 0.2, 0.3, "R0"), Mark("trace", 0.2, 0.3, 0.2, 0.1, "R1"))
    job = replace(line("", "", ""), photos=(Photo("P1", "p.jpg", 2000, 1000, at="", marks=marks),))
    assert lies_of(job, "H1").headings == pytest.approx({"R0": 45.0, "R1": -90.0})
    paths = placed_on_board(job, "H1").paths
    for run, wanted in (("R0", 45.0), ("R1", -90.0)):
        begin, end = paths[run][0], paths[run][-1]
        found = math.degrees(math.atan2(end.y - begin.y, end.x - begin.x))
        assert found == pytest.approx(wanted)
    assert leads(replace(job, routing=line("", "", "", drawn="in little room").routing))[
        "R0"
    ] == pytest.approx(0.3)


def test_what_was_turned_by_hand_stays_so_in_either_style() -> None:
    from molvik.model.run_edits import turned

    job = turned(line("front", "engine", "cab"), {"R1": (-60.0, 0.0)})
    path = placed_on_board(job, "H1").paths["R1"]
    begin, end = path[0], path[-1]
    assert math.degrees(math.atan2(end.y - begin.y, end.x - begin.x)) == pytest.approx(-60.0)
