"""A drawing is a value: the same on screen, in a file and on the command line."""

import io
import itertools
import math
import random
import xml.etree.ElementTree as ET
from collections.abc import Callable
from pathlib import Path
from typing import cast

import numpy
import pypdfium2
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from pypdf import PdfReader
from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontMetricsF, QImage, QPainter
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from reportlab.pdfgen.canvas import Canvas

from jobs import grids, jobs_of_every_kind
from molvik.analysis import Analysis
from molvik.circuits.drawing import drawn, lay_out
from molvik.circuits.route import fold, route
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop import theme
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.painting import paint_scene
from molvik.devices.states import CRANK, RUN
from molvik.drawing.face import (
    OUTLINE,
    Cavity,
    Inside,
    cavity_shapes,
    face_scene,
    face_size,
    frame_of,
)
from molvik.drawing.lettering import FACES, shortened, width_of
from molvik.drawing.roles import LIGHT
from molvik.drawing.scene import Box, Oval, Pen, Point, Rect, Scene, Text
from molvik.drawing.scene import Path as Lines
from molvik.files.pdfdrawing import draw_scene
from molvik.files.svg import svg_bytes
from molvik.model.geometry import Face, places
from molvik.model.job import Job
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.model.parts import Colour, Connector, End, Grid
from molvik.netlist.cavities import cavities_of
from molvik.reference.colours import PAINT
from molvik.survey.drawing import ABOVE_PX, BESIDE_PX, LoomDrawing, aspect_of
from molvik.survey.layout import lay_out as lay_out_loom
from molvik.survey.tree import LoomTree

SVG = "{http://www.w3.org/2000/svg}"


def pump() -> Scene:
    job = demo_job()
    device = next(one for one in job.devices if "pump" in one.name.lower() and one.kind == "motor")
    return drawn(lay_out(route(Analysis(job).operating_point(RUN), device.code), 900), device.code)


def painted(scene: Scene, scale: int = 2) -> QImage:
    image = QImage(int(scene.width * scale), int(scene.height * scale), QImage.Format.Format_RGB32)
    image.fill(colour("sheet"))
    painter = QPainter(image)
    painter.scale(scale, scale)
    paint_scene(painter, scene)
    painter.end()
    return image


def test_a_circuit_names_every_stop_and_where_it_stands() -> None:
    job = demo_job()
    lines = route(Analysis(job).operating_point(RUN), "D12")
    scene = drawn(lay_out(lines, 900), "D12")
    stops = [stop for line in lines for stop in line.stops]
    wires = {wire for line in lines for leg in line.legs for wire in leg.wires[:1]}
    between, areas = scene.areas[: -len(stops)], scene.areas[-len(stops) :]
    assert {area.ref for area in between} == wires, "each wire can be pointed at, over its stops"
    assert [area.ref for area in areas] == [stop.code for stop in stops]
    assert {stop.title for stop in stops} <= set(scene.texts())
    assert {line.title for line in lines} <= set(scene.texts())
    for area, stop in zip(areas, stops, strict=True):
        assert stop.title in area.words
        assert area.box.x >= 0
        assert area.box.right <= scene.width
        assert area.box.y >= 0
        assert area.box.bottom <= scene.height
    one = areas[3].box
    assert [a for a in scene.areas if a.box.holds(*one.middle)] == [areas[3]]


@settings(max_examples=30)
@given(jobs_of_every_kind(), st.sampled_from([240.0, 700.0, 1100.0]))
def test_any_circuit_can_be_drawn_and_written(job: Job, width: float) -> None:
    for state in (RUN, CRANK):
        point = Analysis(job).operating_point(state)
        for device in job.devices:
            for lines in (route(point, device.code), tuple(map(fold, route(point, device.code)))):
                scene = drawn(lay_out(lines, width), device.code)
                root = ET.fromstring(svg_bytes(scene, device.name))
                assert len(root.findall(f"{SVG}text")) == len(scene.texts())
                boxes = [area.box for area in scene.areas]
                assert len({(box.x, box.y) for box in boxes}) == len(boxes), "none hides another"


def apart(shown: QImage, read: QImage, scene: Scene) -> float:
    """Return the share of places where two pictures of a drawing differ, letters left out."""
    one, other = pixels(shown), pixels(read)
    differ = abs(one[..., 0] - other[..., 0]) + abs(one[..., 2] - other[..., 2]) > 80
    counts = numpy.ones(differ.shape, dtype=bool)
    # Letters are set with another hinting; lines and shapes are compared where no text is.
    for text in (shape for shape in scene.shapes if isinstance(shape, Text)):
        box = text.box.grown(2, 3)
        rows = slice(max(0, int(box.y * 2)), int(box.bottom * 2) + 1)
        counts[rows, max(0, int(box.x * 2)) : int(box.right * 2) + 1] = False
    assert counts.sum() > 50_000
    return float((differ & counts).sum() / counts.sum())


def pixels(image: QImage) -> "NDArray[numpy.int32]":
    """Return the colours of a picture, rows first."""
    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    lines = numpy.frombuffer(plain.constBits(), numpy.uint8)
    lines = lines.reshape(plain.height(), plain.bytesPerLine())[:, : plain.width() * 3]
    return lines.reshape(plain.height(), plain.width(), 3).astype(numpy.int32)


def face() -> Scene:
    job = demo_job()
    plug = job.connector("C2")
    assert plug is not None
    cavities = cavities_of(plug, Analysis(job).network, "wire side")
    lit = tuple(one._replace(mark="lit" if one.place.cavity == "5" else "") for one in cavities)
    frame = frame_of(plug, *face_size(plug, 34), 34)
    return face_scene(plug, lit, "wire side", frame, chosen="4", foot="wire side")


def loom(width: float = 900, height: float = 420, hand: str = "") -> LoomDrawing:
    tree = Analysis(demo_job()).loom
    return LoomDrawing(tree, lay_out_loom(tree), width, height, hand)


@pytest.mark.parametrize("make", [pump, face, lambda: loom(hand="L17").scene])
def test_screen_and_files_show_the_same(qapp: QApplication, make: Callable[[], Scene]) -> None:
    """Written and read back by other programs, it is what Qt draws of the shapes."""
    from PySide6.QtSvg import QSvgRenderer

    theme.load_fonts()
    scene = make()
    shown = painted(scene)
    read = QImage(shown.size(), QImage.Format.Format_RGB32)
    read.fill(colour("sheet"))
    painter = QPainter(read)
    renderer = QSvgRenderer(svg_bytes(scene._replace(areas=()), "Pump"))
    assert renderer.isValid()
    renderer.render(painter, QRectF(read.rect()))
    painter.end()
    assert apart(shown, read, scene) < 0.002

    written = io.BytesIO()
    canvas = Canvas(written, pagesize=(scene.width, scene.height))
    canvas.setFillColor(LIGHT.sheet)
    canvas.rect(0, 0, scene.width, scene.height, stroke=0, fill=1)
    draw_scene(canvas, scene, 1.0)
    canvas.showPage()
    canvas.save()
    drawn_page = pypdfium2.PdfDocument(written.getvalue())[0].render(scale=2).to_pil()
    file = io.BytesIO()
    drawn_page.save(file, "PNG")
    page = QImage.fromData(file.getvalue()).convertToFormat(QImage.Format.Format_RGB32)
    assert abs(page.width() - shown.width()) <= 1
    assert apart(shown, page.scaled(shown.size()), scene) < 0.002
    text = "".join(one.extract_text() for one in PdfReader(written).pages)
    whole = [
        one.words for one in scene.shapes if isinstance(one, Text) and shortened(one) == one.words
    ]
    assert whole
    assert all(words in text for words in whole)


@given(grids, st.sampled_from(["mating face", "wire side"]), st.floats(60, 900), st.floats(60, 500))
def test_any_face_shows_each_cavity_once(
    grid: Grid, side: Face, width: float, height: float
) -> None:
    plug = Connector("C1", "n", grid)
    cavities = tuple(Cavity(place, "unknown") for place in places(grid, side))
    frame = frame_of(plug, width, height, 40)
    scene = face_scene(plug, cavities, side, frame)
    assert [area.ref for area in scene.areas] == [f"C1/{one.place.cavity}" for one in cavities]
    for one, other in itertools.combinations([area.box for area in scene.areas], 2):
        assert not one.grown(-0.01, -0.01).overlaps(other)
    for area in scene.areas:
        assert frame.shell.covers(area.box)
    if frame.numbered:
        assert {one.place.cavity for one in cavities} <= set(scene.texts())


def test_a_face_marks_what_is_in_each_cavity() -> None:
    """What is wired has its colours, what is lit a ring, the chosen a frame."""
    scene = face()
    fills = {one.fill for one in scene.shapes if isinstance(one, Oval)}
    job = demo_job()
    for cavity in ("1", "5"):
        (seated,) = Analysis(job).network.wires_at[End("C2", cavity)]
        assert seated.colour is not None
        assert PAINT[seated.colour.base] in fills
    rings = [one for one in scene.shapes if isinstance(one, Oval) and one.pen and not one.fill]
    (lit,) = (one for one in rings if one.pen is not None and one.pen.role == "copper")
    (area,) = (area for area in scene.areas if area.ref == "C2/5")
    assert area.box.holds(*lit.box.middle)
    (frame,) = (o for o in scene.shapes if isinstance(o, Rect) and o.fill == "copper_wash")
    (area,) = (area for area in scene.areas if area.ref == "C2/4")
    assert area.box.covers(frame.box)


@pytest.mark.parametrize(
    ("inside", "wires", "roles"),
    [
        ("wired", (None,), ["ink"]),
        ("wired", (Colour("RD"), Colour("BU")), [OUTLINE, "stop"]),  # two wires in one cavity
        ("wired", (None, None, None), ["ink", "stop"]),
        ("listed", (), ["faint"]),
        ("empty", (), ["line"]),
        ("plugged", (), ["faint"]),
    ],
)
def test_what_is_in_a_cavity_has_its_mark(
    inside: Inside, wires: tuple[Colour | None, ...], roles: list[str]
) -> None:
    shapes = list(cavity_shapes(Point(0, 0), 10, inside, wires))
    drawn = [one.pen.role for one in shapes if isinstance(one, Oval) and one.pen]
    assert drawn == roles
    crosses = [one for one in shapes if isinstance(one, Lines) and not one.closed]
    assert len(crosses) == (2 if inside == "plugged" else 0)


def test_a_key_and_a_lever_change_sides_with_the_face() -> None:
    plug = Connector("C1", "n", Grid(2, 4), key="left", lever="top")
    for side, right in (("mating face", False), ("wire side", True)):
        frame = frame_of(plug, *face_size(plug, 30), 30)
        scene = face_scene(plug, (), cast(Face, side), frame)
        (key,) = (one for one in scene.shapes if isinstance(one, Oval))
        assert key.box.middle.x == (frame.shell.right if right else frame.shell.x)
        lever = [one for one in scene.shapes if isinstance(one, Rect) and one.fill == "faint"]
        assert [one.box.bottom for one in lever] == [frame.shell.y]


def test_the_loom_is_drawn_to_scale() -> None:
    drawing = loom()
    a_metre = drawing.scale[0]
    for segment in drawing.tree.loom.segments:
        if segment.start and segment.finish and segment.length_m:
            line = drawing.line(segment)
            assert line[0] == pytest.approx(drawing.node(segment.start))
            assert line[-1] == pytest.approx(drawing.node(segment.finish))
            drawn = sum(math.dist(a, b) for a, b in itertools.pairwise(line))
            assert drawn == pytest.approx(segment.length_m * a_metre)
    scene = drawing.scene
    rule = next(one for one in scene.shapes if isinstance(one, Text) and one.words == "0.5 m")
    assert rule.box.x - 6 - 10 == pytest.approx(a_metre / 2)
    codes = {node.code for node in drawing.tree.loom.nodes}
    assert codes <= {area.ref for area in scene.areas}
    names = [one.box for one in scene.shapes if isinstance(one, Text)]
    for one, other in itertools.combinations(names, 2):
        assert not one.overlaps(other)


def test_a_fault_is_drawn_as_far_along_as_it_lies() -> None:
    loom_now = Loom(
        (Node("N1", "a"), Node("N2", "b")),
        (Segment("B1", "N1", "N2", 2.0),),
        (FoundWire("L1", "N2", "N1"),),
        (Fault("X1", "B1", at_m=0.5), Fault("X2", "L1", at_m=0.5), Fault("X3", "N2")),
    )
    tree = LoomTree(loom_now)
    drawing = LoomDrawing(tree, lay_out_loom(tree), 900, 420)
    a_metre, begin = drawing.scale[0], drawing.node("N1")
    marks = [one.box.middle for one in drawing.scene.areas if one.ref.startswith("X")]
    away_m = [math.dist(begin, one) / a_metre for one in marks]
    assert away_m == pytest.approx([0.5, 1.5, 2.0])


def test_what_is_in_hand_is_lit_along_its_way() -> None:
    tree = Analysis(demo_job()).loom
    lit = [s for s in loom(hand="L17").scene.shapes if isinstance(s, Lines) and s.pen]
    lit = [one for one in lit if one.pen is not None and one.pen.role == "copper"]
    assert len(lit) == len(tree.ways["L17"]) > 1


def test_words_that_are_too_wide_are_cut_short_alike(qapp: QApplication) -> None:
    theme.load_fonts()
    for words in ("Fuel pump relay of the second tank", "W12", "ÄÖÜ – Ω …", "i" * 60):
        for bold, mono in FACES:
            face = font(12, bold=bold, mono=mono)
            wide = QFontMetricsF(face).horizontalAdvance(words)
            assert width_of(words, 12, FACES[bold, mono]) == pytest.approx(wide, rel=0.06, abs=2)
            short = shortened(Text(words, Box(0, 0, 80, 16), 12, "ink", bold=bold, mono=mono))
            assert short == words or short.endswith("…")
            assert width_of(short, 12, FACES[bold, mono]) <= 81


def test_each_shape_is_written_as_svg_has_it() -> None:
    pen = Pen("stop", 2.0, (4.0, 3.0))
    scene = Scene(
        100,
        50,
        (
            Lines((Point(1, 2), Point(3, 4)), pen),
            Lines((Point(1, 2), Point(3, 4), Point(5, 2)), None, closed=True, fill="live"),
            Oval(Box(10, 10, 20, 10), Pen("ink", 1.0), "sheet"),
            Rect(Box(40, 10, 20, 10), Pen("ink", 1.0), radius=3),
            Text("<a & b>", Box(0, 30, 100, 16), 12, "faint", "left", bold=True),
        ),
    )
    root = ET.fromstring(svg_bytes(scene, "A & B"))
    line, area, oval, text = (
        root.find(f"{SVG}{n}") for n in ("polyline", "polygon", "ellipse", "text")
    )
    assert line is not None
    assert area is not None
    assert oval is not None
    assert text is not None
    assert line.attrib == {
        "points": "1,2 3,4",
        "fill": "none",
        "stroke": LIGHT.stop,
        "stroke-width": "2",
        "stroke-dasharray": "4 3",
    }
    assert area.attrib == {"points": "1,2 3,4 5,2", "fill": LIGHT.live}
    assert (oval.get("cx"), oval.get("cy"), oval.get("rx"), oval.get("ry")) == (
        "20",
        "15",
        "10",
        "5",
    )
    assert text.text == "<a & b>"
    assert (text.get("text-anchor"), text.get("font-weight")) == ("start", "bold")
    title = root.find(f"{SVG}title")
    assert title is not None
    assert title.text == "A & B"
    boxes = root.findall(f"{SVG}rect")
    assert boxes[0].get("fill") == LIGHT.sheet, "it has a page of its own"
    assert boxes[1].get("rx") == "3"


def test_the_command_line_draws_a_circuit(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "pump.svg"
    asked = ["why", "--demo", "marten", "--device", "D12", "--state", "run", "--svg", str(path)]
    assert main(asked) == 0
    root = ET.fromstring(path.read_bytes())
    refs = [one.get("data-ref") for one in root.findall(f"{SVG}rect") if one.get("data-ref")]
    assert "D12" in refs
    path.write_text("mine")
    assert main(asked) == 2
    assert "there already" in capsys.readouterr().err
    assert path.read_text() == "mine"
    assert main([*asked, "--overwrite"]) == 0
    assert path.read_bytes().startswith(b"<?xml")
    assert main([*asked[:-1], str(tmp_path / "no" / "x.svg")]) == 2
    battery = ["why", "--demo", "marten", "--device", "D1", "--state", "run"]
    assert main([*battery, "--svg", str(tmp_path / "b.svg")]) == 2


def test_dashes_and_round_ends_reach_the_page() -> None:
    pen = Pen("stop", 2.0, (4.0, 3.0), round=True)
    scene = Scene(100, 50, (Lines((Point(1, 2), Point(90, 2)), pen),))
    written = io.BytesIO()
    canvas = Canvas(written, pagesize=(100, 50), pageCompression=0)
    draw_scene(canvas, scene, 1.0)
    canvas.save()
    assert b"[4 3] 0 d" in written.getvalue()
    assert b"1 J" in written.getvalue()
    assert b'stroke-linecap="round"' in svg_bytes(scene, "x")


def test_a_number_is_never_cut_short() -> None:
    narrow = Text("128", Box(0, 0, 4, 16), 12, "ink", mono=True)
    assert shortened(narrow).endswith("…")
    assert shortened(narrow._replace(whole=True)) == "128"


def test_a_face_in_a_small_room_is_shown_whole(qtbot: QtBot) -> None:
    job = demo_job()
    face = FaceView(largest=30)
    qtbot.addWidget(face)
    face.show_connector(job.connector("C4"), Analysis(job))
    face.resize(300, 96)
    face.show()
    assert face.drawing is not None
    bars = face.horizontalScrollBar(), face.verticalScrollBar()
    assert face.drawing.height > face.viewport().height(), "there is less room than it wants"
    assert [bar.maximum() for bar in bars] == [0, 0], "it is shown smaller, and nothing is cut"
    face.zoom_by(3)
    assert all(bar.maximum() > 0 for bar in bars), "and can be looked at closer"


@pytest.mark.parametrize("seed", range(6))
def test_a_loom_of_sixty_stretches_uses_the_room_and_names_its_ends(seed: int) -> None:
    chosen = random.Random(seed)
    names = [
        "left headlamp",
        "engine computer plug A",
        "knock sensor",
        "horn",
        "tank sender",
        "instrument panel, blue plug",
        "number plate lamp",
        "D plus",
    ]
    nodes = tuple(Node(f"N{n}", f"{names[n % 8]} {n}", "found") for n in range(61))
    segments = []
    for n in range(1, 61):
        above = n - 1 if n < 16 else chosen.randint(0, 15) if chosen.random() < 0.7 else n // 2
        length = chosen.choice((0.08, 0.2, 0.3, 0.6, 0.9))
        segments.append(Segment(f"B{n}", f"N{above}", f"N{n}", length, "tape", 8.0))
    tree = LoomTree(Loom(nodes, tuple(segments)))
    for width, height in ((1000, 290), (700, 480)):
        placed = lay_out_loom(tree, aspect_of(width, height))
        drawing = LoomDrawing(tree, placed, width, height)
        said = [one for one in drawing.scene.shapes if isinstance(one, Text)]
        ends = {node.name for node in nodes if tree.is_end(node.code)}
        named = {one.words: one.box for one in said}
        missing = ends - named.keys()
        assert len(missing) == len(drawing.labelling.left_out), "and those are counted"
        assert len(missing) < len(ends) / 4
        points = [drawing.node(node.code) for node in nodes]
        across = max(p.x for p in points) - min(p.x for p in points)
        down = max(p.y for p in points) - min(p.y for p in points)
        share = max(across / (width - BESIDE_PX), down / (height - ABOVE_PX))
        assert share == pytest.approx(1, abs=0.01), "it fills one way"
        other_way = min(across / (width - BESIDE_PX), down / (height - ABOVE_PX))
        assert other_way > 0.35, "and does not lie as a line in the other"


def leaning(grey: "NDArray[numpy.uint8]") -> float:
    """Return which way what is dark in a picture runs, deg, downwards to the right above zero."""
    dark = numpy.argwhere(grey < 120)[:, ::-1].astype(float)
    assert len(dark) > 50
    spread = numpy.cov((dark - dark.mean(axis=0)).T)
    across, down = numpy.linalg.eigh(spread)[1][:, -1]
    return math.degrees(math.atan(down / across))


@pytest.mark.parametrize("turn", [30.0, -50.0, 75.0])
def test_turned_words_run_the_same_way_on_screen_on_paper_and_in_svg(
    qapp: QApplication, turn: float
) -> None:
    theme.load_fonts()
    words = Text("a stretch of 350 ±10", Box(20, 90, 160, 20), 14, "ink", turn=turn, whole=True)
    scene = Scene(200, 200, (words,))
    screen = painted(scene).convertToFormat(QImage.Format.Format_Grayscale8)
    lines = numpy.frombuffer(screen.constBits(), numpy.uint8)
    shown = lines.reshape(screen.height(), screen.bytesPerLine())[:, : screen.width()]
    assert leaning(shown) == pytest.approx(turn, abs=3)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(200, 200))
    draw_scene(canvas, scene, 1.0)
    canvas.save()
    paper = pypdfium2.PdfDocument(out.getvalue())[0].render(scale=2).to_pil().convert("L")
    assert leaning(numpy.asarray(paper)) == pytest.approx(turn, abs=3)
    text = ET.fromstring(svg_bytes(scene, "turned")).find(f"{SVG}text")
    assert text is not None
    assert text.get("transform") == f"rotate({turn:g} 100 100)", "SVG counts as the drawing does"
