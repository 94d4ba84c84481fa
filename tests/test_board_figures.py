"""What is drawn in the tables of a board: faces, fuse boxes, sockets; lock and key of a plug."""

import itertools
import math

import pytest
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.drawing.scene import Box, Oval, Path, Point, Rect, Text, bounds, moved
from molvik.model.job import Job
from molvik.model.parts import (
    CavityPosition,
    Colour,
    Connector,
    Device,
    End,
    Fuse,
    Grid,
    Pin,
    Side,
    Wire,
)
from molvik.model.routing import LoomNode, NewLoom, Routing, Run
from molvik.reference.contacts import CONTACTS
from molvik.routing.board.figures import Figure, face_figure, figure_of
from molvik.routing.board.framing import KEY, LOCK, explained

POINT_MM = 25.4 / 72
"""A point of type, mm."""


def one_plug(plug: Connector, *wires: Wire) -> Analysis:
    """Return a job with one plug at the end of a stretch that leads to the right."""
    routing = Routing(
        (NewLoom("H1", "One", datum="J1"),),
        (LoomNode("J1", "H1", "Other"), LoomNode("J2", "H1", "Plug", carries=(plug.code,))),
        (Run("R1", "J1", "J2", 0.5),),
    )
    return Analysis(Job(id="x", title="x", connectors=(plug,), wires=wires, routing=routing))


def numbers(figure: Figure) -> dict[str, Point]:
    """Return where each cavity's number stands."""
    return {
        shape.words: shape.box.middle
        for shape in figure.shapes
        if isinstance(shape, Text) and shape.mono
    }


@pytest.mark.parametrize(("contact", "times"), [("20", 2), ("16", 1.5), ("12", 1), ("4", 1)])
def test_a_face_is_true_or_a_told_number_of_times_as_large(contact: str, times: float) -> None:
    plug = Connector("C1", "Plug", Grid(2, 3), contact=contact, wide_mm=70.0, high_mm=50.0)
    figure = face_figure(one_plug(plug).network, plug)
    at = numbers(figure)
    assert set(at) == {"1", "2", "3", "4", "5", "6"}
    pitch = CONTACTS[contact].pitch_mm * times
    assert math.dist(at["1"], at["2"]) == pytest.approx(pitch)
    assert math.dist(at["1"], at["4"]) == pytest.approx(pitch)
    shell = max((one.box for one in figure.shapes if isinstance(one, Rect)), key=lambda b: b.width)
    assert (shell.width, shell.height) == pytest.approx((70.0 * times, 50.0 * times))
    middle = Point(sum(p.x for p in at.values()) / 6, sum(p.y for p in at.values()) / 6)
    assert middle.x == pytest.approx(shell.middle.x)
    words = [shape.words for shape in figure.shapes if isinstance(shape, Text)]
    assert words[-1] == f"wire side, {times:g}:1"


@pytest.mark.parametrize("grid", [Grid(2, 5), Grid(1, 3, start="top right"), Grid(3, 4, "column")])
def test_the_wire_side_mirrors_the_mating_face(grid: Grid) -> None:
    """By hand: on the mating face the grid says where 1 is, from behind it is across from there."""
    plug = Connector("C1", "Plug", grid)
    at = numbers(face_figure(one_plug(plug).network, plug))
    first = 1 if grid.start == "top left" else -1
    assert (at["1"].x - at["2"].x) * first > 0 or grid.by == "column"
    xs = sorted({round(point.x, 3) for point in at.values()})
    ys = sorted({round(point.y, 3) for point in at.values()})
    assert (len(xs), len(ys)) == (grid.columns, grid.rows)
    assert round(at["1"].x, 3) == (xs[-1] if first == 1 else xs[0])
    assert round(at["1"].y, 3) == ys[0]


@pytest.mark.parametrize("contact", ["", *CONTACTS])
def test_numbers_in_a_face_can_be_read_and_stand_apart(contact: str) -> None:
    plug = Connector("C1", "Plug", Grid(6, 12), contact=contact)
    figure = face_figure(one_plug(plug).network, plug)
    texts = [shape for shape in figure.shapes if isinstance(shape, Text)]
    assert min(text.pixels for text in texts) >= 5.9 * POINT_MM
    for one, other in itertools.combinations(numbers(figure).values(), 2):
        assert math.dist(one, other) >= 7.0 - 1e-6
    for shape in figure.shapes:
        assert Box(-1, -1, figure.wide_mm + 2, figure.high_mm + 2).covers(bounds(shape))


def test_an_irregular_face_has_every_number_where_its_cavity_is() -> None:
    spots = (
        CavityPosition("A", 0.0, 0.0),
        CavityPosition("B", 1.0, 0.0),
        CavityPosition("C", 0.5, 2.0),
    )
    plug = Connector("C1", "Round", Grid(0, 0, spots=spots, round=True), contact="12")
    at = numbers(face_figure(one_plug(plug).network, plug))
    assert at["A"].x - at["B"].x == pytest.approx(7.0)
    assert at["C"].y - at["A"].y == pytest.approx(14.0)
    assert at["C"].x == pytest.approx((at["A"].x + at["B"].x) / 2)


def test_a_face_shows_which_cavities_have_wires_and_which_are_plugged() -> None:
    pins = (Pin("2", fill="plugged"),)
    plug = Connector("C1", "Plug", Grid(1, 3), pins=pins, contact="12")
    wire = Wire("W1", End("C1", "1"), End("D1", "+"), colour=Colour("RD", "WH"))
    figure = face_figure(one_plug(plug, wire).network, plug)
    at = numbers(figure)
    painted = [one for one in figure.shapes if isinstance(one, Oval) and one.fill.startswith("#")]
    assert {round(one.box.middle.x, 2) for one in painted} == {round(at["1"].x, 2)}
    crosses = [one for one in figure.shapes if isinstance(one, Path) and not one.closed]
    assert {round(bounds(one).middle.x, 2) for one in crosses} == {round(at["2"].x, 2)}


def test_a_fuse_box_shows_each_fuse_with_its_rating_and_each_socket_its_terminals() -> None:
    fuses = (Fuse("F1", "Pump", 15), Fuse("F2", "Lamps", 30))
    relay = Device("K1", "Pump relay", "relay", ("30", "87", "86", "85"))
    joint = LoomNode("J2", "H1", "Fuse box", carries=("F1", "F2", "K1"))
    routing = Routing(
        (NewLoom("H1", "One"),),
        (LoomNode("J1", "H1", "Other"), joint),
        (Run("R1", "J1", "J2", 0.5),),
    )
    wire = Wire("W1", End("F1", "in"), End("K1", "87"))
    job = Job(id="x", title="x", fuses=fuses, devices=(relay,), wires=(wire,), routing=routing)
    analysis = Analysis(job)
    figure = figure_of(analysis.network, (*fuses, relay))
    assert figure is not None
    words = [shape.words for shape in figure.shapes if isinstance(shape, Text)]
    for wanted in ("F1", "15", "F2", "30", "K1 Pump relay", "87", "86", "85"):
        assert wanted in words
    assert words.count("in") == 2
    on_the_board = analysis.board_sheet("H1").scene.texts()
    assert {"15", "K1 Pump relay"} <= set(on_the_board)
    assert figure_of(analysis.network, ()) is None


def test_a_part_with_neither_face_nor_socket_has_a_table_only() -> None:
    lamp = Device("D1", "Lamp", "lamp", ("+", "-"))
    network = Analysis(Job(id="x", title="x", devices=(lamp,))).network
    assert figure_of(network, (lamp,)) is None


# lock and key at the end of a stretch


def marks(side: Side, what: str) -> list[Box]:
    """Return what is drawn of a plug beyond what is drawn of it without lock and key, in mm from
    where its wires enter it; it points to the right.
    """
    plain = Connector("C1", "Plug", Grid(2, 4), wide_mm=40.0, high_mm=20.0, deep_mm=30.0)
    drawn = []
    for plug in (plain, replace(plain, **{what: side})):
        sheet = one_plug(plug).board_sheet("H1", tables=False)
        at = sheet.board.places["J2"]
        (piece,) = [one for one in sheet.pieces if one.layer == "PLUGS"]
        drawn.append([moved(one, 1.0, Point(-at.x, -at.y)) for one in piece.shapes])
    without, with_it = drawn
    return [bounds(one) for one in with_it if one not in without]


@pytest.mark.parametrize("what", ["lever", "key"])
def test_lock_and_key_lie_where_they_are_seen_from_above(what: str) -> None:
    """By hand: looking along the wires into the plug, the left of its mating face is on the right,
    which on the board, with the plug pointing to the right, is below.
    """
    (top,) = marks("top", what)
    assert 0 < top.x < top.right < 30.5
    assert top.middle.y == pytest.approx(0, abs=1e-6)
    (left,) = marks("left", what)
    (right,) = marks("right", what)
    assert left.middle.y > 14
    assert right.middle.y < -14
    assert marks("bottom", what) == []


def test_a_plug_is_as_wide_and_as_deep_as_it_was_measured() -> None:
    plug = Connector("C1", "Plug", Grid(2, 4), wide_mm=40.0, high_mm=20.0, deep_mm=33.0)
    sheet = one_plug(plug).board_sheet("H1")
    (piece,) = [one for one in sheet.pieces if one.layer == "PLUGS"]
    body = piece.shapes[0]
    assert isinstance(body, Path)
    xs, ys = {round(p.x, 6) for p in body.points}, {round(p.y, 6) for p in body.points}
    assert max(xs) - min(xs) == pytest.approx(33.0)
    assert max(ys) - min(ys) == pytest.approx(40.0)


def test_the_legend_explains_lock_and_key_where_they_are_seen() -> None:
    plain = Connector("C1", "Plug", Grid(1, 2))
    for plug, wanted in (
        (plain, set()),
        (replace(plain, lever="top"), {LOCK}),
        (replace(plain, key="left", lever="bottom"), {KEY}),
    ):
        sheet = one_plug(plug).board_sheet("H1")
        assert {key for sort, key in explained(sheet.board) if sort == "plug"} == wanted
        assert wanted <= set(sheet.scene.texts())
