"""The board at full size: on paper, as SVG and as DXF, read back by others and measured."""

import io
import itertools
import math
import re
import xml.etree.ElementTree as ET
from pathlib import Path

import pypdfium2
import pytest
from ezdxf import units
from ezdxf.filemanagement import read
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from conftest import answer, page, put_job
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.window import MainWindow
from molvik.drawing.scene import Point
from molvik.files.board import EDGE_MM, PAPERS, board_dxf, board_pdf, board_svg, tiles
from molvik.model.routing import Routing
from molvik.routing.board import Board
from test_routing import three

SVG = "{http://www.w3.org/2000/svg}"


def board_of(loom: str = "H1") -> Board:
    return Analysis(demo_job()).board(loom)


def long(path: tuple[Point, ...]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(path))


def test_every_stretch_is_as_long_on_the_board_as_it_is() -> None:
    for loom in ("H1", "H2"):
        board = board_of(loom)
        assert len(board.runs) > 20
        for laid in board.runs:
            assert laid.length_m is not None
            assert long(laid.path) == pytest.approx(laid.length_m * 1000, abs=0.01)
            for point in laid.path:
                assert 0 < point.x < board.width_mm
                assert 0 < point.y < board.height_mm


def test_dxf_reads_back_with_the_same_lengths_in_layers() -> None:
    board = board_of()
    drawing = read(io.StringIO(board_dxf(board).decode()))
    assert drawing.units == units.MM
    lines = [one for one in drawing.modelspace() if one.dxf.layer == "RUNS"]
    lengths = sorted(math.dist(line.dxf.start, line.dxf.end) / 1000 for line in lines)
    assert lengths == pytest.approx(sorted(laid.length_m or 0 for laid in board.runs), abs=1e-5)
    wide = [one for one in drawing.modelspace() if one.dxf.layer == "THICKNESS"]
    assert sorted(one.dxf.const_width for one in wide) == pytest.approx(
        sorted(laid.thick_mm for laid in board.runs)
    )
    names = {one.dxf.text for one in drawing.modelspace() if one.dxf.layer == "NAMES"}
    assert {"R16", "J4 Fuse box"} <= names
    assert not drawing.audit().errors
    circles = {
        (round(one.dxf.center.x, 3), round(one.dxf.center.y, 3))
        for one in drawing.modelspace()
        if one.dxf.layer == "JOINTS"
    }
    assert circles == {
        (round(place.x, 3), round(board.height_mm - place.y, 3)) for place in board.places.values()
    }, "the right way up: DXF counts upwards"


def test_svg_reads_back_in_millimetres_with_the_same_lengths() -> None:
    board = board_of()
    root = ET.fromstring(board_svg(board))
    assert root.get("width") == f"{board.width_mm:g}mm"
    assert root.get("viewBox") == f"0 0 {board.width_mm:g} {board.height_mm:g}"
    found = []
    for line in root.findall(f"{SVG}polyline"):
        if line.get("stroke-linecap") == "round":
            a, b = (tuple(map(float, p.split(","))) for p in (line.get("points") or "").split())
            found.append(math.dist(a, b) / 1000)
    assert sorted(found) == pytest.approx(
        sorted(laid.length_m or 0 for laid in board.runs), abs=2e-3
    )


@pytest.mark.parametrize("paper", ["A4", "A3", "Letter", "roll"])
def test_the_ruler_on_every_tile_measures_100_mm(paper: str) -> None:
    """Rendered at a known scale, and measured in the picture."""
    board = board_of()
    pages = pypdfium2.PdfDocument(board_pdf(board, paper))
    _, sheets = tiles(board, paper)
    assert len(pages) == len(sheets) + (len(sheets) > 1)
    per_mm = 6
    for index in (1, len(pages) - 1) if len(pages) > 1 else (0,):
        page = pages[index]
        size = PAPERS[paper]
        if size:
            assert page.get_width() / 72 * 25.4 == pytest.approx(size[0], abs=0.1)
        picture = page.render(scale=25.4 / 72 * per_mm).to_pil().convert("L")
        # The ruler lies 4 mm above the lower edge of what the tile shows, from 4 mm on.
        y = round((page.get_height() / 72 * 25.4 - EDGE_MM - 4.0) * per_mm)
        best = 0
        for row in range(y - 4, y + 5):
            dark = [picture.getpixel((x, row)) < 140 for x in range(picture.width)]
            run = max(
                (len(part) for part in re.findall("1+", "".join("01"[d] for d in dark))), default=0
            )
            best = max(best, run)
        assert best / per_mm == pytest.approx(100, abs=0.8)


def test_each_tile_shows_what_lies_there() -> None:
    """A joint's ring is black where it is reckoned to be, on the tile that it lies on."""
    board = board_of("H2")
    pages = pypdfium2.PdfDocument(board_pdf(board, "A3"))
    (wide, high), sheets = tiles(board, "A3")
    per_mm, seen = 3, 0
    for number, tile in enumerate(sheets, 1):
        picture = pages[number].render(scale=25.4 / 72 * per_mm).to_pil().convert("L")
        for place in board.places.values():
            x, y = place.x - tile.x, place.y - tile.y
            if not (15 < x < wide - 15 and 15 < y < high - 15):
                continue
            # Of several joints near each other one may cover another's ring: it is looked for
            # on all sides.
            sides = [(3, 0), (-3, 0), (0, 3), (0, -3)]
            rings = [
                min(
                    picture.getpixel(
                        (
                            round((EDGE_MM + x + dx) * per_mm) + i,
                            round((EDGE_MM + y + dy) * per_mm) + j,
                        )
                    )
                    for i in (-1, 0, 1)
                    for j in (-1, 0, 1)
                )
                for dx, dy in sides
            ]
            assert min(rings) < 110, (tile.name, place)
            seen += 1
    assert seen > 10


def test_tiles_cover_the_whole_board_and_overlap() -> None:
    board = board_of("H2")
    (wide, high), sheets = tiles(board, "A4")
    assert len(sheets) > 4
    assert max(tile.x for tile in sheets) + wide >= board.width_mm
    assert max(tile.y for tile in sheets) + high >= board.height_mm
    columns = sorted({tile.x for tile in sheets})
    assert all(b - a < wide for a, b in itertools.pairwise(columns))
    with pytest.raises(ValueError, match="not a paper known here"):
        tiles(board, "A9")


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


def test_the_board_is_written_from_the_window(
    demo_window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    shown = page(demo_window, "Routing")
    path = tmp_path / "board.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), "PDF"))
    answer(LineQuestion, lambda asked: asked.type("A3"))
    qtbot.mouseClick(shown.tools.full_size, Qt.MouseButton.LeftButton)
    assert "written to board.pdf" in shown.about.text()
    first = pypdfium2.PdfDocument(path.read_bytes())[0]
    assert first.get_width() / 72 * 25.4 == pytest.approx(420, abs=0.1)
    bad = str(tmp_path / "board.png")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (bad, ""))
    qtbot.mouseClick(shown.tools.full_size, Qt.MouseButton.LeftButton)
    assert "not PDF, SVG or DXF" in shown.notice.text()
