"""A drawing is a value: the same on screen, in a file and on the command line."""

import xml.etree.ElementTree as ET
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontMetricsF, QImage, QPainter
from PySide6.QtWidgets import QApplication

from jobs import jobs_of_every_kind
from molvik.analysis import Analysis
from molvik.circuits.route import fold, route
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop import theme
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.painting import paint_scene
from molvik.drawing.circuit import drawn, lay_out
from molvik.drawing.roles import LIGHT
from molvik.drawing.scene import Box, Oval, Pen, Point, Rect, Scene, Text
from molvik.drawing.scene import Path as Lines
from molvik.files.svg import FACES, _shortened, _width, svg_bytes
from molvik.model.job import Job
from molvik.netlist.states import CRANK, RUN

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
    assert [area.ref for area in scene.areas] == [stop.code for stop in stops]
    assert {stop.title for stop in stops} <= set(scene.texts())
    assert {line.title for line in lines} <= set(scene.texts())
    for area, stop in zip(scene.areas, stops, strict=True):
        assert stop.title in area.words
        assert area.box.x >= 0
        assert area.box.right <= scene.width
        assert area.box.y >= 0
        assert area.box.bottom <= scene.height
    one = scene.areas[3].box
    assert [a for a in scene.areas if a.box.holds(*one.middle)] == [scene.areas[3]]


@settings(max_examples=30)
@given(jobs_of_every_kind(), st.sampled_from([240.0, 700.0, 1100.0]))
def test_any_circuit_can_be_drawn_and_written(job: Job, width: float) -> None:
    for state in (RUN, CRANK):
        point = Analysis(job).operating_point(state)
        for device in job.devices:
            for lines in (route(point, device.code), tuple(map(fold, route(point, device.code)))):
                scene = drawn(lay_out(lines, width), device.code, focus=0)
                root = ET.fromstring(svg_bytes(scene, device.name))
                assert len(root.findall(f"{SVG}text")) == len(scene.texts())
                boxes = [area.box for area in scene.areas]
                assert len({(box.x, box.y) for box in boxes}) == len(boxes), "none hides another"


def test_screen_and_file_show_the_same(qapp: QApplication) -> None:
    """What Qt draws of the file is what it draws of the shapes, but for edges of letters."""
    from PySide6.QtSvg import QSvgRenderer

    theme.load_fonts()
    scene = pump()
    shown = painted(scene)
    read = QImage(shown.size(), QImage.Format.Format_RGB32)
    read.fill(colour("sheet"))
    painter = QPainter(read)
    renderer = QSvgRenderer(svg_bytes(scene._replace(areas=()), "Pump"))
    assert renderer.isValid()
    renderer.render(painter, QRectF(read.rect()))
    painter.end()
    # Letters are set with another hinting; lines and shapes are compared where no text is.
    texts = [one.box.grown(2, 3) for one in scene.shapes if isinstance(one, Text)]
    apart = count = 0
    for y in range(0, shown.height(), 3):
        for x in range(0, shown.width(), 3):
            if any(box.holds(x / 2, y / 2) for box in texts):
                continue
            count += 1
            a, b = shown.pixelColor(x, y), read.pixelColor(x, y)
            apart += abs(a.red() - b.red()) + abs(a.blue() - b.blue()) > 80
    assert count > 10_000
    assert apart / count < 0.002


def test_words_that_are_too_wide_are_cut_short_alike(qapp: QApplication) -> None:
    theme.load_fonts()
    for words in ("Fuel pump relay of the second tank", "W12", "ÄÖÜ – Ω …", "i" * 60):
        for bold, mono in FACES:
            face = font(12, bold=bold, mono=mono)
            wide = QFontMetricsF(face).horizontalAdvance(words)
            assert _width(words, 12, FACES[bold, mono]) == pytest.approx(wide, rel=0.06, abs=2)
            short = _shortened(words, 80, 12, FACES[bold, mono])
            assert short == words or short.endswith("…")
            assert _width(short, 12, FACES[bold, mono]) <= 81


def test_each_shape_is_written_as_svg_has_it() -> None:
    pen = Pen("stop", 2.0, (4.0, 3.0))
    scene = Scene(100, 50, (
        Lines((Point(1, 2), Point(3, 4)), pen),
        Lines((Point(1, 2), Point(3, 4), Point(5, 2)), None, closed=True, fill="live"),
        Oval(Box(10, 10, 20, 10), Pen("ink", 1.0), "sheet"),
        Rect(Box(40, 10, 20, 10), Pen("ink", 1.0), radius=3),
        Text("<a & b>", Box(0, 30, 100, 16), 12, "faint", "left", bold=True),
    ))  # fmt: skip
    root = ET.fromstring(svg_bytes(scene, "A & B"))
    line, area, oval, text = (root.find(f"{SVG}{n}") for n in ("polyline", "polygon", "ellipse",
                                                              "text"))  # fmt: skip
    assert line is not None
    assert area is not None
    assert oval is not None
    assert text is not None
    assert line.attrib == {
        "points": "1,2 3,4", "fill": "none", "stroke": LIGHT.stop, "stroke-width": "2",
        "stroke-dasharray": "4 3",
    }  # fmt: skip
    assert area.attrib == {"points": "1,2 3,4 5,2", "fill": LIGHT.live}
    assert (oval.get("cx"), oval.get("cy"), oval.get("rx"), oval.get("ry")) == (
        "20", "15", "10", "5",
    )  # fmt: skip
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
