"""The board at full size: what it says, on paper, as SVG and as DXF, read back by others."""

import io
import itertools
import math
import random
import re
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import networkx
import pypdfium2
import pytest
from ezdxf import units
from ezdxf.filemanagement import read
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from conftest import answer, page, put_job
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.stages.routing.boarddialog import BoardDialog
from molvik.desktop.window import MainWindow
from molvik.drawing.labelling import Corners, band, corners, outline
from molvik.drawing.scene import Path as Lines
from molvik.drawing.scene import Point, Rect, Text, bounds
from molvik.files.board import board_pdf, board_svg
from molvik.files.boarddxf import board_dxf
from molvik.model import routing_edits
from molvik.model.edits import EditError, change_settings
from molvik.model.job import Job
from molvik.model.parts import Connector, End, Grid, Pin, Wire
from molvik.model.routing import LoomNode, NewLoom, Routing, Run, RunMark, Zone
from molvik.parsing.marks import (
    marks_text,
    read_marks,
    read_tolerances,
    tolerances_text,
)
from molvik.reference.coverings import COVERINGS
from molvik.routing.board.dimensions import running_mm, tolerance_mm
from molvik.routing.board.framing import explained
from molvik.routing.board.patterns import PATTERNS, covered, held, hold, zone_mark
from molvik.routing.board.pegs import pegs
from molvik.routing.board.sheet import BoardSheet
from molvik.routing.board.tiling import EDGE_MM, FOOT_MM, PAPERS, tiling
from molvik.routing.measuring import measured, read_measured_m
from molvik.typed.field import named
from molvik.typed.routed import LOOM_FIELDS, RUN_FIELDS
from test_labelling import meet, thick, written
from test_routing import three

SVG = "{http://www.w3.org/2000/svg}"

SHEETS: dict[tuple[str, bool], BoardSheet] = {}
"""The boards of the demo, which are drawn once: values that nothing changes."""


def sheet_of(loom: str = "H1", *, tables: bool = True) -> BoardSheet:
    if (loom, tables) not in SHEETS:
        made = Analysis(demo_job()).board_sheet(loom, "2026-03-14", tables=tables)
        SHEETS[loom, tables] = made
    return SHEETS[loom, tables]


def drawn(routing: Routing) -> BoardSheet:
    """Return the board of a job that has nothing but its looms."""
    return Analysis(Job(id="x", title="Bare", routing=routing)).board_sheet("H1")


def star(ends: int) -> Routing:
    """Return a loom with so many ends at one breakout."""
    joints = (
        LoomNode("J1", "H1", "Hub"),
        *(LoomNode(f"J{n}", "H1", f"Plug number {n}") for n in range(2, ends + 2)),
    )
    runs = tuple(Run(f"R{n}", "J1", f"J{n + 1}", 0.2 + 0.01 * n) for n in range(1, ends + 1))
    return Routing((NewLoom("H1", "Star"),), joints, runs)


def grown(stretches: int, seed: int) -> Routing:
    """Return a loom that grew by chance."""
    chosen = random.Random(seed)
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in range(stretches + 1))
    runs = tuple(
        Run(
            f"R{n}",
            f"J{chosen.randrange(max(0, n - 6), n)}",
            f"J{n}",
            chosen.choice((0.05, 0.2, 0.45, 1.1, None)),
            zone=chosen.choice(("", "hot", "wet")),
            covering=chosen.choice([*COVERINGS]),
            clips=chosen.randrange(4),
        )
        for n in range(1, stretches + 1)
    )
    zones = (Zone("hot", hot_c=400.0, distance_mm=50.0), Zone("wet", wet=True, moves=True))
    return Routing((NewLoom("H1", "Grown"),), joints, runs, zones)


def long(path: tuple[Point, ...]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(path))


def test_every_stretch_is_as_long_on_the_board_as_it_is() -> None:
    for loom in ("H1", "H2"):
        board = sheet_of(loom).board
        assert len(board.runs) > 20
        for laid in board.runs:
            assert laid.length_mm is not None
            assert long(laid.path) == pytest.approx(laid.length_mm, abs=0.01)
            for point in laid.path:
                assert 0 < point.x < board.width_mm
                assert 0 < point.y < board.height_mm


# nothing lies over anything


def said(sheet: BoardSheet) -> list[tuple[str, Corners]]:
    """Return what is written and tabled: names, lengths, tables, legend and title block."""
    found: list[tuple[str, Corners]] = []
    for piece in sheet.pieces:
        if piece.layer in ("CALLOUTS", "FRAME"):
            boxes = [shape for shape in piece.shapes if isinstance(shape, Rect)]
            if boxes and boxes[0].box.width < sheet.width_mm - 20:
                found.append((f"table {piece.code}", outline(boxes[0].box)))
        else:
            found += [
                (shape.words, written(shape)) for shape in piece.shapes if isinstance(shape, Text)
            ]
    return found


def over(sheet: BoardSheet) -> list[str]:
    """Return what lies over what. The oracle is Qt's."""
    words = said(sheet)
    found = [
        f"{one} over {other}"
        for (one, a), (other, b) in itertools.combinations(words, 2)
        if meet(a, b)
    ]
    solid: list[tuple[str, Corners]] = []
    for laid in sheet.board.runs:
        for a, b in itertools.pairwise(laid.path):
            pen = Lines((a, b), None)
            assert pen.pen is None
            solid += [(laid.run.code, shape) for shape in band((a, b), laid.thick_mm)]
    for piece in sheet.pieces:
        if piece.layer in ("PLUGS", "NODES", "HOLDS"):
            for shape in piece.shapes:
                if isinstance(shape, Lines) and shape.closed:
                    solid.append((piece.code, shape.points))
                elif isinstance(shape, Lines) and shape.pen is not None:
                    solid.append((piece.code, thick(shape._replace(points=shape.points[:2]))))
                elif not isinstance(shape, Text):
                    solid.append((piece.code, outline(bounds(shape))))
    return found + [f"{one} on {code}" for one, a in words for code, b in solid if meet(a, b)]


@pytest.mark.parametrize("tables", [True, False])
@pytest.mark.parametrize("loom", ["H1", "H2"])
def test_on_the_board_nothing_lies_over_anything(loom: str, tables: bool) -> None:
    sheet = sheet_of(loom, tables=tables)
    assert over(sheet) == []
    assert sheet.left_out == ()


@pytest.mark.parametrize(("stretches", "seed"), [(1, 1), (2, 2), (8, 3), (25, 4), (60, 5)])
def test_nor_on_a_board_that_grew_by_chance(stretches: int, seed: int) -> None:
    sheet = drawn(grown(stretches, seed))
    assert over(sheet) == []
    words = " ".join(words for words, _ in said(sheet))
    for joint in sheet.board.joints:
        assert joint.code in sheet.left_out or f"{joint.code} {joint.name}" in words
    assert len(sheet.left_out) <= stretches / 6


def test_sixty_plugs_at_one_joint_are_drawn_or_told() -> None:
    sheet = drawn(star(60))
    assert over(sheet) == []
    names = {words for words, _ in said(sheet)}
    told = sum(f"J{n} Plug number {n}" in names for n in range(2, 62))
    assert told + len([one for one in sheet.left_out if one.startswith("J")]) >= 60
    assert told > 50


def test_a_loom_of_one_stretch_and_one_without_lengths_are_drawn() -> None:
    one = drawn(star(1))
    assert any("210 ±5" in words for words, _ in said(one))
    bare = drawn(replace(star(3), runs=tuple(replace(r, length_m=None) for r in star(3).runs)))
    assert sum(words == "length ?" for words, _ in said(bare)) == 3
    assert not any("±" in words and "to" not in words for words, _ in said(bare))


# what it says


def test_at_each_plug_stands_what_goes_into_every_cavity() -> None:
    """Held to the wires of the job, one by one."""
    job = demo_job()
    sheet = sheet_of()
    tables = {p.code: p.shapes for p in sheet.pieces if p.layer == "CALLOUTS"}
    seen = 0
    for joint in sheet.board.joints:
        plugs = [plug for code in joint.carries if (plug := job.connector(code)) is not None]
        if len(joint.carries) != 1 or not plugs:
            continue
        words = [shape.words for shape in tables[joint.code] if isinstance(shape, Text)]
        assert words[0] == f"{plugs[0].code}  {plugs[0].name}"
        wires = [w for w in job.wires if plugs[0].code in (w.start.at, w.finish.at)]
        more = [int(found[1]) for text in words if (found := re.match(r"(\d+) more", text))]
        shown = [wire for wire in wires if wire.code in words]
        assert len(shown) + sum(more) >= len(wires) > 0
        for wire in shown:
            own, other = wire.ends if wire.start.at == plugs[0].code else wire.ends[::-1]
            at = words.index(wire.code)
            line = words[at - 2 : at + 3]
            assert line[0] == own.cavity
            assert line[1] == str(wire.colour)
            assert line[3] == str(wire.size)
            assert line[4].startswith(str(other)) or wire.stowed
            seen += 1
    assert seen > 40


def test_what_stays_empty_on_purpose_and_what_is_fitted_first_is_said() -> None:
    pins = (Pin("1", fill="plugged"), Pin("2", fill="plugged"), Pin("3"))
    plug = Connector("C1", "Sender", Grid(1, 3), pins=pins, up="lever side")
    wires = (
        Wire("W1", End("C1", "2"), End("D1", "+"), lay_length_mm=20.0),
        Wire("W2", End("C1", "3"), stowed=True),
    )
    joint = LoomNode("J1", "H1", "Sender", carries=("C1",), boots=("boot", "seal"))
    routing = Routing(
        (NewLoom("H1", "One"),),
        (joint, LoomNode("J2", "H1", "Other")),
        (Run("R1", "J1", "J2", 0.3),),
    )
    job = Job(id="x", title="x", connectors=(plug,), wires=wires, routing=routing)
    texts = Analysis(job).board_sheet("H1").scene.texts()
    assert texts.count("cavity plug") == 1
    assert "D1/+, twisted" in texts
    assert "cap and tie back" in texts
    assert "0, datum; boot, seal on first; top: lever side; outline not measured" in texts


def test_running_dimensions_are_the_way_from_the_datum() -> None:
    """Held to NetworkX's shortest ways."""
    job = demo_job()
    for datum in ("", "J5", "J7"):
        looms = tuple(replace(one, datum=datum) for one in job.routing.looms)
        board = Analysis(replace(job, routing=replace(job.routing, looms=looms))).board("H1")
        assert board.datum == (datum or board.datum)
        graph: networkx.Graph[str] = networkx.Graph()
        for run in job.routing.runs:
            graph.add_edge(run.start, run.finish, weight=(run.length_m or 0) * 1000)
        ways = networkx.single_source_dijkstra_path_length(graph, board.datum)
        for joint, far in running_mm(board).items():
            assert far == pytest.approx(ways[joint])
    texts = sheet_of().scene.texts()
    assert any("0, datum" in text for text in texts)
    assert any(re.match(r"750 from C5", text) for text in texts)


def test_beyond_a_stretch_of_unknown_length_nothing_is_measured_from_the_datum() -> None:
    routing = star(3)
    routing = replace(
        routing,
        looms=(replace(routing.looms[0], datum="J2"),),
        runs=(*routing.runs[:2], replace(routing.runs[2], length_m=None)),
    )
    board = drawn(routing).board
    assert set(running_mm(board)) == {"J1", "J2", "J3"}


@given(st.floats(1, 5000))
def test_a_tolerance_goes_by_the_class_of_the_length(length: float) -> None:
    classes = read_tolerances("±5 to 300, ±10 to 1000, ±15 above")
    wanted = 5 if length <= 300 else 10 if length <= 1000 else 15
    assert tolerance_mm(length, classes) == wanted


def test_a_class_of_lengths_ends_with_its_own_limit() -> None:
    classes = read_tolerances("±5 to 300, ±10 to 1000, ±15 above")
    exact = [tolerance_mm(length, classes) for length in (300, 300.1, 1000, 1000.1)]
    assert exact == [5, 10, 10, 15]


def test_round_a_loop_it_is_the_shorter_way_from_the_datum() -> None:
    joints = tuple(LoomNode(f"J{n}", "H1", f"Place {n}") for n in range(1, 5))
    runs = (
        Run("R1", "J1", "J2", 1.0),
        Run("R2", "J2", "J3", 1.0),
        Run("R3", "J1", "J3", 0.3),
        Run("R4", "J3", "J4", 0.1),
    )
    routing = Routing((NewLoom("H1", "Loop", datum="J1"),), joints, runs)
    far = running_mm(drawn(routing).board)
    assert far == pytest.approx({"J1": 0, "J3": 300, "J4": 400, "J2": 1000})


@pytest.mark.parametrize("text", ["±5 to 300, ±10 to 1000, ±15 above", "±3", "±2 to 50, ±8 above"])
def test_tolerances_come_back_as_they_were_typed(text: str) -> None:
    assert tolerances_text(read_tolerances(text)) == text


@pytest.mark.parametrize(
    "text",
    ["", "about", "±5 to 300", "±5 to 300, ±3 to 200, ±9 above", "0 above", "5 above, 6 above"],
)
def test_tolerances_that_leave_a_length_out_are_refused(text: str) -> None:
    with pytest.raises(ValueError, match=r"±5 to 300|Tolerance 0"):
        read_tolerances(text)


def test_the_job_says_how_exactly_lengths_are_met(window: MainWindow) -> None:
    from molvik.desktop.dialogs.jobsettings import JobSettings

    window.files.new()
    dialog = JobSettings(window, window.store)
    dialog.tolerances.setText("±5 to 300")
    dialog.accept()
    assert "all above" in dialog.notice.text()
    dialog.tolerances.setText("±3 to 100, ±6 above")
    dialog.accept()
    assert window.store.job.settings.tolerances_mm == ((100.0, 3.0), (1e6, 6.0))


def test_what_sits_on_a_stretch_is_typed_with_its_distance() -> None:
    marks = read_marks("label 200 ENGINE, clip 80; tie 0.15 m")
    assert marks == (RunMark("clip", 0.08), RunMark("tie", 0.15), RunMark("label", 0.2, "ENGINE"))
    assert read_marks(marks_text(marks)) == marks
    assert read_marks("") == ()
    for text in ("clip", "rivet 80", "80 clip", "clip -3", "clip 1.2.3", "clip 80 mm 2 m, x"):
        with pytest.raises(ValueError, match="is not understood"):
            read_marks(text)


def test_clips_with_a_place_lie_there_and_the_others_are_spread_evenly() -> None:
    run = Run("R1", "J1", "J2", 1.0, clips=3, marks=read_marks("clip 100, bracket 950"))
    routing = replace(star(1), runs=(run,))
    laid = drawn(routing).board.runs[0]
    places = sorted((one.kind, round(one.at_m, 3)) for one, _, _ in held(laid))
    assert places == [("bracket", 0.95), ("clip", 0.1), ("clip", 0.333), ("clip", 0.667)]
    for one, point, _ in held(laid):
        assert math.dist(point, laid.path[0]) == pytest.approx(one.at_m * 1000, abs=1e-6)


def test_every_covering_and_mark_is_told_apart_without_its_colour() -> None:
    """By the number, the way and the width of their strokes, whatever they are painted in."""
    assert set(PATTERNS) == set(COVERINGS)
    path = Point(0, 0), Point(200, 0)

    def looks(shapes: object) -> tuple[object, ...]:
        assert isinstance(shapes, list)
        return tuple(
            sorted(
                str((type(s).__name__, s.points, s.closed, s.pen and (s.pen.width, s.pen.dash)))
                if isinstance(s, Lines)
                else str(bounds(s))
                for s in shapes
            )
        )

    # Of the two that are only filled the fill is a grey of its own.
    fills = {
        key: {s.pen.role for s in covered(path, 12, key) if isinstance(s, Lines) and s.pen}
        for key in COVERINGS
    }
    coverings = {key: looks([*covered(path, 12, key)]) for key in COVERINGS}
    for one, other in itertools.combinations(coverings, 2):
        assert coverings[one] != coverings[other] or fills[one] != fills[other], (one, other)
    kinds = ("clip", "tie", "bracket", "label", "shrink")
    assert len({looks([*hold(kind, Point(0, 0), 0.0, 8)]) for kind in kinds}) == len(kinds)
    assert len({looks([*zone_mark(kind, Point(0, 0))]) for kind in ("hot", "wet", "moves")}) == 3


def test_the_legend_explains_what_is_on_the_board_and_nothing_else() -> None:
    sheet = sheet_of()
    there = {laid.run.covering for laid in sheet.board.runs}
    lines = explained(sheet.board)
    assert {key for sort, key in lines if sort == "covering"} == there
    assert ("zone", "hot") in lines
    assert ("node", "splice") in lines
    texts = sheet.scene.texts()
    for sort, key in lines:
        if sort == "covering":
            assert COVERINGS[key].name in texts
    assert "braid" not in texts


def test_the_title_block_says_which_loom_and_which_state_of_it() -> None:
    texts = sheet_of().scene.texts()
    for words in ("Marten fire tender", "H1  Engine loom", "scale 1:1 · sheet 1 of 1"):
        assert words in texts
    assert any(text.startswith("2026-03-14") for text in texts)
    job = demo_job()
    state = [text for text in texts if text.startswith("as of ")]
    changed = routing_edits.change(job, job.routing.runs[0].code, length_m=0.777)
    other = Analysis(changed).board_sheet("H1").scene.texts()
    assert state != [text for text in other if text.startswith("as of ")]


def test_pegs_stand_at_every_node_and_bend_counted_from_the_lower_left() -> None:
    board = sheet_of().board
    found = pegs(board)
    bends = sum(len(laid.path) - 2 for laid in board.runs)
    assert len(found) == len(board.joints) + bends
    for peg in found:
        if peg.what.startswith("J"):
            place = board.places[peg.what.split()[0]]
            assert peg.x_mm == pytest.approx(place.x, abs=0.06)
            assert peg.y_mm == pytest.approx(board.height_mm - place.y, abs=0.06)
    kinds = {peg.what.split()[0]: peg.kind for peg in found}
    for joint in board.joints:
        ends = sum(joint.code in (laid.run.start, laid.run.finish) for laid in board.runs)
        wanted = "holder" if joint.code in board.plugs else "pin" if ends == 1 else "fork"
        assert kinds[joint.code] == wanted


def test_a_datum_is_named_by_its_code_or_name_and_cleared_with_its_node() -> None:
    job = demo_job()
    network = Analysis(job).network
    field = named(LOOM_FIELDS, "Datum")
    assert field.read("J5", network) == {"datum": "J5"}
    assert field.read("J5 Rail, rear", network) == {"datum": "J5"}
    assert field.read("", network) == {"datum": ""}
    with pytest.raises(ValueError, match="not a node"):
        field.read("J99", network)
    assert "J5 Rail, rear" in (field.of_job(job) if field.of_job else ())
    routing = replace(star(2), looms=(NewLoom("H1", "Star", datum="J3"),))
    bare = Job(id="x", title="x", routing=routing)
    bare = routing_edits.remove(bare, "R2")
    assert routing_edits.remove(bare, "J3").routing.looms[0].datum == ""
    with pytest.raises(EditError, match="zero or more"):
        routing_edits.change(bare, "R1", marks=(RunMark("clip", -1.0),))
    assert named(RUN_FIELDS, "On it").read("clip 80", network)["marks"] == (RunMark("clip", 0.08),)


# DXF, read back


def test_dxf_reads_back_with_the_same_lengths_in_layers() -> None:
    sheet = sheet_of()
    board = sheet.board
    drawing = read(io.StringIO(board_dxf(sheet).decode()))
    assert drawing.units == units.MM
    space = drawing.modelspace()
    lines = [one for one in space if one.dxf.layer == "RUNS"]
    lengths = sorted(math.dist(line.dxf.start, line.dxf.end) for line in lines)
    wanted = sorted(laid.length_mm or 0 for laid in board.runs)
    assert lengths == pytest.approx(wanted, abs=1e-2)
    wide = [one for one in space if one.dxf.layer == "THICKNESS"]
    assert sorted(one.dxf.const_width for one in wide) == pytest.approx(
        sorted(laid.thick_mm for laid in board.runs)
    )
    texts = {one.dxf.text for one in space.query("TEXT")}
    assert {"C9  Injector 2", "J5 Rail, rear", "Marten fire tender"} <= texts
    assert not drawing.audit().errors
    assert drawing.header["$EXTMAX"][:2] == pytest.approx((sheet.width_mm - 3, sheet.height_mm - 3))


def test_in_dxf_a_length_is_a_dimension_and_a_plug_a_block() -> None:
    sheet = sheet_of()
    board = sheet.board
    drawing = read(io.StringIO(board_dxf(sheet).decode()))
    space = drawing.modelspace()
    dimensions: list[Any] = [*space.query("DIMENSION")]
    lengths = {laid.run.code: laid.length_mm or 0.0 for laid in board.runs}
    assert len(dimensions) == len(sheet.dimensions) > 5
    assert sorted(one.get_measurement() for one in dimensions) == pytest.approx(
        sorted(lengths[code] for code in sheet.dimensions), abs=1e-2
    )
    for one in dimensions:
        assert float(one.dxf.text.split(" ")[0]) == pytest.approx(one.get_measurement(), abs=0.51)
    for begin, end, middle in sheet.dimensions.values():
        # Where the words stand goes the line of the dimension that begins at the same place.
        (own,) = [
            one
            for one in dimensions
            if math.dist(one.dxf.defpoint2.vec2, (begin.x, sheet.height_mm - begin.y)) < 1e-6
            and math.dist(one.dxf.defpoint3.vec2, (end.x, sheet.height_mm - end.y)) < 1e-6
        ]
        at, along = own.dxf.defpoint, own.dxf.defpoint3 - own.dxf.defpoint2
        off = (middle.x - at.x) * along.y - (sheet.height_mm - middle.y - at.y) * along.x
        assert off / along.magnitude == pytest.approx(0, abs=1e-6)
    runs = {laid.run.code: laid.path for laid in board.runs}
    turned = [one for one in space.query("TEXT[layer=='DIMENSIONS']") if one.dxf.rotation]
    lengths_at = {
        (round(shape.box.middle.x, 3), round(sheet.height_mm - shape.box.middle.y, 3)): piece.code
        for piece in sheet.pieces
        if piece.layer == "DIMENSIONS"
        for shape in piece.shapes
        if isinstance(shape, Text)
    }
    assert turned
    for one in turned:
        place = one.dxf.align_point
        path = runs[lengths_at[round(place.x, 3), round(place.y, 3)]]
        leads = math.degrees(math.atan2(path[0].y - path[-1].y, path[-1].x - path[0].x))
        assert (one.dxf.rotation - leads) % 180 == pytest.approx(0, abs=1e-3) or (
            one.dxf.rotation - leads
        ) % 180 == pytest.approx(180, abs=1e-3)
    plugs = {one.dxf.name: one.dxf.insert for one in space.query("INSERT[layer=='PLUGS']")}
    assert len(plugs) == len(board.plugs)
    for code, (plug, _) in board.plugs.items():
        place = board.places[code]
        at = plugs[f"PLUG_{code}"]
        assert (at.x, at.y) == pytest.approx((place.x, sheet.height_mm - place.y))
        housing: Any = next(iter(drawing.blocks[f"PLUG_{code}"].query("LWPOLYLINE")))
        corners_of = housing.get_points("xy")
        sides = sorted(math.dist(a, b) for a, b in itertools.pairwise(corners_of))
        assert min(sides) == pytest.approx(min(plug.wide_mm, plug.deep_mm), abs=1e-6)
    drilled = {
        (round(one.dxf.center.x, 1), round(one.dxf.center.y, 1))
        for one in space.query("CIRCLE[layer=='PEGS']")
    }
    assert (
        drilled
        == {(round(p.x, 1), round(sheet.height_mm - p.y, 1)) for p in board.places.values()}
        | drilled
    )
    assert len(drilled) == len({(peg.x_mm, peg.y_mm) for peg in pegs(board)})


# SVG, read back


def test_svg_reads_back_in_millimetres_in_groups_by_code() -> None:
    sheet = sheet_of()
    root = ET.fromstring(board_svg(sheet))
    assert root.get("width") == f"{sheet.width_mm:g}mm"
    assert root.get("viewBox") == f"0 0 {sheet.width_mm:g} {sheet.height_mm:g}"
    groups = {one.get("id"): one for one in root.iter(f"{SVG}g")}
    assert len(groups) == sum(1 for _ in root.iter(f"{SVG}g")), "each id is there once"
    for laid in sheet.board.runs:
        group = groups[f"runs-{laid.run.code}"]
        assert group.get("data-ref") == laid.run.code
        line = group.find(f"{SVG}polyline")
        assert line is not None
        path = tuple(
            Point(*map(float, point.split(","))) for point in (line.get("points") or "").split()
        )
        assert long(path) == pytest.approx(laid.length_mm or 0, abs=0.01)
    for code in sheet.board.plugs:
        assert f"plugs-{code}" in groups
    turned = [one for one in root.iter(f"{SVG}text") if one.get("transform")]
    assert turned, "lengths run along their stretches"


# paper


@pytest.mark.parametrize("paper", ["A4", "A3", "Letter", "roll 914"])
def test_the_ruler_on_every_tile_measures_100_mm(paper: str) -> None:
    """Rendered at a known scale, and measured in the picture."""
    sheet = sheet_of()
    pages = pypdfium2.PdfDocument(board_pdf(sheet, paper))
    made = tiling(sheet, paper)
    first = len(pages) - len(made.tiles)
    assert first == 2, "how they lie, and where pegs go"
    per_mm = 6
    for index in (first, len(pages) - 1):
        shown = pages[index]
        assert shown.get_width() / 72 * 25.4 == pytest.approx(made.wide_mm, abs=0.1)
        assert shown.get_height() / 72 * 25.4 == pytest.approx(made.high_mm, abs=0.1)
        crop = (0, 0, max(0, shown.get_width() - 200 / 25.4 * 72), 0)
        picture = shown.render(scale=25.4 / 72 * per_mm, crop=crop).to_pil().convert("L")
        y = round((made.high_mm - EDGE_MM - 3.0) * per_mm)
        best = 0
        for row in range(y - 4, y + 5):
            dark = [picture.getpixel((x, row)) < 140 for x in range(picture.width)]
            run = max(
                (len(part) for part in re.findall("1+", "".join("01"[d] for d in dark))), default=0
            )
            best = max(best, run)
        assert best / per_mm == pytest.approx(100, abs=0.8)


def test_each_tile_shows_what_lies_there() -> None:
    """A node's mark is dark where it is reckoned to be, on the tile that it lies on."""
    sheet = sheet_of("H2")
    pages = pypdfium2.PdfDocument(board_pdf(sheet, "A3"))
    made = tiling(sheet, "A3")
    first, per_mm, seen = len(pages) - len(made.tiles), 3, 0
    for number, tile in enumerate(made.tiles, first):
        picture = pages[number].render(scale=25.4 / 72 * per_mm).to_pil().convert("L")
        for code, place in sheet.board.places.items():
            x, y = place.x - tile.shows.x, place.y - tile.shows.y
            if not (15 < x < tile.shows.width - 15 and 15 < y < tile.shows.height - 15):
                continue
            if code in sheet.board.plugs:
                continue
            around = [
                picture.getpixel(
                    (
                        round((EDGE_MM + x + dx / 2) * per_mm),
                        round((EDGE_MM + y + dy / 2) * per_mm),
                    )
                )
                for dx in range(-12, 13)
                for dy in range(-12, 13)
            ]
            assert min(around) < 110, (tile.name, code)
            seen += 1
    assert seen > 10


@pytest.mark.parametrize("loom", ["H1", "H2"])
def test_tiles_show_all_of_it_none_is_blank_and_they_are_few(loom: str) -> None:
    """Few beside a plain grid over the whole board, of which half would be blank."""
    sheet, paper = sheet_of(loom), "A4"
    made = tiling(sheet, paper)
    across, down = (made.tiles[0].shows.width - 10, made.tiles[0].shows.height - 10)
    grid = math.ceil(sheet.width_mm / across) * math.ceil(sheet.height_mm / down)
    assert len(made.tiles) <= 0.55 * grid
    points = [p for laid in sheet.board.runs for p in laid.path]
    for piece in sheet.pieces:
        if piece.layer != "FRAME":
            for shape in piece.shapes:
                if isinstance(shape, Text):
                    points += corners(shape.box, shape.turn)
                elif isinstance(shape, Lines):
                    points += shape.points
    for laid in sheet.board.runs:
        length = long(laid.path)
        (a, b) = laid.path[0], laid.path[-1]
        if len(laid.path) == 2:
            points += [
                Point(a.x + (b.x - a.x) * n / 50, a.y + (b.y - a.y) * n / 50)
                for n in range(int(length > 0) * 51)
            ]
    for point in points:
        assert any(tile.shows.holds(*point) for tile in made.tiles), point
    pages = pypdfium2.PdfDocument(board_pdf(sheet, paper))
    first = len(pages) - len(made.tiles)
    for number in range(first, len(pages)):
        picture = pages[number].render(scale=0.6).to_pil().convert("L")
        inside = picture.crop(
            (12, 12, picture.width - 12, picture.height - round((EDGE_MM + FOOT_MM) * 1.8))
        )
        assert inside.getextrema()[0] < 150, f"page {number} is blank"


def test_a_tile_that_no_neighbour_needs_is_not_turned_for_nothing() -> None:
    """The better of both ways of turning, by counting the other."""
    sheet = drawn(star(2))
    made = tiling(sheet, "A4")
    assert {made.wide_mm, made.high_mm} == set(PAPERS["A4"])


def test_a_roll_narrower_than_a_plug_is_refused_and_no_paper_is_made_up() -> None:
    sheet = sheet_of()
    with pytest.raises(ValueError, match="Choose a wider one"):
        tiling(sheet, "roll 60")
    for paper in ("A9", "napkin"):
        with pytest.raises(ValueError, match="not a paper known here"):
            tiling(sheet, paper)
    strips = tiling(sheet, "roll 610").tiles
    assert all(tile.shows.height <= 610 for tile in strips)
    assert len(strips) == 2


def test_grey_paper_loses_no_meaning() -> None:
    """What a stretch passes is drawn by its own shape; colours stand beside their letters."""
    sheet = sheet_of()
    job = demo_job()
    for piece in sheet.pieces:
        if piece.layer == "CALLOUTS":
            words = [shape.words for shape in piece.shapes if isinstance(shape, Text)]
            for wire in job.wires:
                if wire.code in words and wire.colour is not None:
                    assert str(wire.colour) in words


def test_the_board_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "demo.molvik"
    put_job(demo_job(), path)
    for name in ("board.pdf", "board.svg", "board.dxf"):
        assert main(["board", str(path), "--out", str(tmp_path / name)]) == 0
        assert (tmp_path / name).stat().st_size > 2000
        assert "Engine loom" in capsys.readouterr().out
    again = ["board", str(path), "--out", str(tmp_path / "board.pdf")]
    assert main(again) == 2
    assert "is there already" in capsys.readouterr().err
    assert main([*again, "--overwrite", "--loom", "H2", "--paper", "A3"]) == 0
    for words, told in (
        (["--out", str(tmp_path / "b.png")], "is not PDF, SVG or DXF"),
        (["--out", str(tmp_path / "c.pdf"), "--paper", "napkin"], "not a paper known here"),
        (["--out", str(tmp_path / "c.pdf"), "--loom", "H9"], "There is no loom H9"),
    ):
        assert main(["board", str(path), *words]) == 2
        assert told in capsys.readouterr().err
    bare = tmp_path / "bare.molvik"
    put_job(replace(three(), routing=Routing()), bare)
    assert main(["board", str(bare), "--out", str(tmp_path / "d.pdf")]) == 2


def test_the_pegs_of_a_board_are_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "demo.molvik"
    put_job(demo_job(), path)
    out = str(tmp_path / "board.dxf")
    assert main(["board", str(path), "--out", out, "--pegs", "--names"]) == 0
    told = capsys.readouterr().out
    assert re.search(r"70\.0 .* holder +J18 Crank sensor", told)


def settled(dialog: BoardDialog, qtbot: QtBot) -> BoardDialog:
    """Wait until nothing is drawn, cut or written aside."""
    qtbot.waitUntil(dialog.save.isEnabled)
    return dialog


def board_dialog(window: MainWindow, qtbot: QtBot) -> BoardDialog:
    dialog = BoardDialog(window, window.store, "H1")
    qtbot.addWidget(dialog)
    return settled(dialog, qtbot)


def seen(dialog: BoardDialog) -> tuple[str, ...]:
    scene = dialog.view.draw(800, 600)
    assert scene is not None
    return scene.texts()


def test_the_board_is_written_from_the_window(
    demo_window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    shown = page(demo_window, "Routing")
    path = tmp_path / "board.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), "PDF"))

    def save(dialog: BoardDialog) -> None:
        settled(dialog, qtbot).paper.setCurrentText("A3")
        qtbot.mouseClick(settled(dialog, qtbot).save, Qt.MouseButton.LeftButton)
        assert "is being written" in dialog.about.text()
        assert not dialog.save.isEnabled(), "not twice at once"
        qtbot.waitUntil(lambda: bool(dialog.said))

    answer(BoardDialog, save)
    qtbot.mouseClick(shown.tools.full_size, Qt.MouseButton.LeftButton)
    assert "written to board.pdf" in shown.about.text()
    tile = pypdfium2.PdfDocument(path.read_bytes())[2]
    sides = sorted((tile.get_width() / 72 * 25.4, tile.get_height() / 72 * 25.4))
    assert sides == pytest.approx([297, 420], abs=0.1)


def test_what_cannot_be_written_is_said_in_its_window(
    demo_window: MainWindow, tmp_path: Path, qtbot: QtBot
) -> None:
    dialog = board_dialog(demo_window, qtbot)
    for path, words in (("board.png", "is not PDF, SVG or DXF"), ("none/board.svg", "none")):
        dialog.notice.say("")
        dialog.write_to(tmp_path / path)
        qtbot.waitUntil(lambda: bool(dialog.notice.text()))
        assert words in dialog.notice.text()
        assert dialog.save.isEnabled(), "it can be tried again"
        assert dialog.said == ""


def test_before_printing_the_sheets_of_paper_are_seen(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    dialog = board_dialog(demo_window, qtbot)
    assert dialog.sheet is not None
    tiles = tiling(dialog.sheet, "A4").tiles
    assert f"{len(tiles)} sheets" in dialog.about.text()
    assert {tile.name for tile in tiles} <= set(seen(dialog))
    assert "LEGEND" not in seen(dialog), "that is on the cover of the tiles"
    dialog.paper.setCurrentText("roll 914")
    assert "2 strips" in settled(dialog, qtbot).about.text()
    assert "LEGEND" in seen(dialog)
    dialog.paper.setCurrentIndex(0)
    assert "A1" not in seen(settled(dialog, qtbot))


@pytest.mark.parametrize(("name", "gone"), [("Lengths", "350 ±10"), ("Names", "J5 Rail, rear")])
def test_what_is_left_out_is_neither_seen_nor_written(
    demo_window: MainWindow, tmp_path: Path, qtbot: QtBot, name: str, gone: str
) -> None:
    dialog = board_dialog(demo_window, qtbot)
    assert gone in seen(dialog)
    dialog.shown[name].click()
    assert gone not in seen(settled(dialog, qtbot))
    dialog.write_to(tmp_path / "board.svg")
    qtbot.waitUntil(lambda: bool(dialog.said))
    assert gone not in (tmp_path / "board.svg").read_text()


def test_without_tables_every_plug_has_its_name(demo_window: MainWindow, qtbot: QtBot) -> None:
    dialog = board_dialog(demo_window, qtbot)
    dialog.tables.click()
    texts = seen(settled(dialog, qtbot))
    assert dialog.sheet is not None
    assert "S1" not in texts
    for joint in dialog.sheet.board.joints:
        code = joint.carries[0] if len(joint.carries) == 1 else joint.code
        assert f"{code} {joint.name}" in texts


def test_a_table_without_room_stands_below_the_loom_and_its_node_says_so() -> None:
    below = 0
    routing = star(40)
    joints = tuple(replace(j, carries=(f"C{n}",)) for n, j in enumerate(routing.joints[1:], 1))
    plugs = tuple(Connector(f"C{n}", f"Plug {n}", Grid(1, 2)) for n in range(1, 41))
    routing = replace(routing, joints=(routing.joints[0], *joints))
    job = Job(id="x", title="x", connectors=plugs, routing=routing)
    for sheet in (sheet_of("H1"), Analysis(job).board_sheet("H1")):
        tables = {p.code: p.shapes[0] for p in sheet.pieces if p.layer == "CALLOUTS"}
        for piece in sheet.pieces:
            words = [shape.words for shape in piece.shapes if isinstance(shape, Text)]
            if piece.layer == "NAMES" and any("table below" in text for text in words):
                below += 1
                assert bounds(tables[piece.code]).y >= sheet.board.height_mm
    assert below > 0


@pytest.mark.parametrize("paper", ["roll 20", "roll 40", "roll 199", "roll -5", "roll 1.2.3"])
def test_a_roll_that_shows_nothing_is_refused_and_not_laid_for_ever(paper: str) -> None:
    with pytest.raises(ValueError, match="roll"):
        tiling(drawn(star(3)), paper)


@pytest.mark.parametrize(
    "classes", [(), ((300.0, 0.0),), ((300.0, 5.0), (100.0, 5.0)), ((0.0, 5.0),)]
)
def test_a_job_without_tolerances_is_refused(classes: tuple[tuple[float, float], ...]) -> None:
    job = Job(id="x", title="x", routing=star(2))
    with pytest.raises(EditError, match="Tolerances"):
        change_settings(job, tolerances_mm=classes)


def test_the_board_has_the_page_to_itself_by_one_key(demo_window: MainWindow, qtbot: QtBot) -> None:
    shown = page(demo_window, "Routing")
    demo_window.resize(1280, 800)
    high = shown.view.height()
    qtbot.keyClick(shown, Qt.Key.Key_F9)
    assert not shown.tabs.isVisible()
    qtbot.waitUntil(lambda: shown.view.height() > 1.5 * high)
    qtbot.keyClick(shown, Qt.Key.Key_F9)
    assert shown.tabs.isVisible()
    qtbot.waitUntil(lambda: shown.view.height() == high)


def test_in_a_loom_without_stretches_the_first_is_typed(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    shown = page(demo_window, "Routing")
    shown.add_loom()
    assert shown.tools.draw_button.isEnabled()
    qtbot.mouseClick(shown.tools.draw_button, Qt.MouseButton.LeftButton)
    assert "first stretch is typed" in shown.notice.text()
    assert not shown.tools.draw_button.isChecked()
    assert shown.tabs.currentWidget() is shown.tables["Stretches"]
    assert shown.tables["Stretches"].state() == shown.tables["Stretches"].State.EditingState


@pytest.mark.parametrize(("text", "length_m"), [("480", 0.48), ("0.62 m", 0.62), ("22 in", 0.5588)])
def test_a_bare_number_on_a_measuring_card_is_millimetres(text: str, length_m: float) -> None:
    assert read_measured_m(text) == pytest.approx(length_m)
    with pytest.raises(ValueError, match="too short for a stretch"):
        read_measured_m("1.2")


def test_only_what_was_measured_counts_as_measured() -> None:
    runs = (
        Run("R1", "J1", "J2", 0.3, "typed"),
        Run("R2", "J1", "J3", 0.3, "measured"),
        Run("R3", "J1", "J4", 0.3, "as found"),
    )
    job = Job(id="x", title="x", routing=replace(star(3), runs=runs))
    assert measured(job) == {"measure R2"}
