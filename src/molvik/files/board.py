"""A loom at full size as a file: PDF in tiles, one long SVG, DXF with layers."""

import io
import math
from itertools import pairwise
from typing import Literal, NamedTuple

from molvik.drawing.scene import Box, Path, Pen, Rect, Scene, Shape, Text
from molvik.files.pdfdrawing import draw_scene
from molvik.files.svg import svg_bytes
from molvik.routing.board import Board, board_scene, frame, halfway, ruler
from molvik.routing.drawing import plug_shapes
from molvik.wording import counted

MM_PT = 72 / 25.4
EDGE_MM, OVERLAP_MM = 10.0, 10.0
"""What a printer leaves free at each edge, and how far tiles lie over each other."""

PAPERS: dict[str, tuple[float, float] | None] = {
    "A4": (297.0, 210.0),
    "A3": (420.0, 297.0),
    "Letter": (279.4, 215.9),
    "roll": None,
}
"""Width and height, mm, lying; a roll is as long as the loom."""

Paper = Literal["A4", "A3", "Letter", "roll"]


class Tile(NamedTuple):
    """A sheet of a board in tiles. name: its row and column, "B2"; x, y: where it begins, mm."""

    name: str
    x: float
    y: float


def tiles(board: Board, paper: str) -> tuple[tuple[float, float], tuple[Tile, ...]]:
    """Return how much of a board a sheet shows, mm, and the sheets. Raises ValueError."""
    if paper not in PAPERS:
        raise ValueError(f"“{paper}” is not a paper known here. Type one of: {', '.join(PAPERS)}.")
    size = PAPERS[paper]
    if size is None:
        return (board.width_mm, board.height_mm), (Tile("A1", 0.0, 0.0),)
    wide, high = size[0] - 2 * EDGE_MM, size[1] - 2 * EDGE_MM
    step_x, step_y = wide - OVERLAP_MM, high - OVERLAP_MM
    columns = max(1, math.ceil((board.width_mm - OVERLAP_MM) / step_x))
    rows = max(1, math.ceil((board.height_mm - OVERLAP_MM) / step_y))
    return (wide, high), tuple(
        Tile(f"{_letter(row)}{column + 1}", column * step_x, row * step_y)
        for row in range(rows)
        for column in range(columns)
    )


def _letter(row: int) -> str:
    return chr(65 + row) if row < 26 else f"{chr(64 + row // 26)}{chr(65 + row % 26)}"


def board_pdf(board: Board, paper: str) -> bytes:
    """Return a board at full size in tiles, each with a ruler of 100 mm; a map of them first where
    there are several. Raises ValueError.
    """
    from reportlab.pdfgen.canvas import Canvas

    shown, sheets = tiles(board, paper)
    scene = board_scene(board)
    size = PAPERS[paper] or (board.width_mm + 2 * EDGE_MM, board.height_mm + 2 * EDGE_MM)
    page = size[0] * MM_PT, size[1] * MM_PT
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=page)
    canvas.setTitle(f"{board.name}, full size")
    if len(sheets) > 1:
        draw_scene(canvas, _map(board, sheets, shown, size), MM_PT)
        canvas.showPage()
    for tile in sheets:
        canvas.saveState()
        canvas.translate(EDGE_MM * MM_PT, EDGE_MM * MM_PT)
        clip = canvas.beginPath()
        clip.rect(0, 0, shown[0] * MM_PT, shown[1] * MM_PT)
        canvas.clipPath(clip, stroke=0)
        canvas.saveState()
        lift = (board.height_mm - tile.y - shown[1]) * MM_PT
        canvas.translate(-tile.x * MM_PT, -lift)
        draw_scene(canvas, scene, MM_PT)
        canvas.restoreState()
        draw_scene(canvas, _marks(tile, shown), MM_PT)
        canvas.restoreState()
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def board_bytes(board: Board, suffix: str, paper: str) -> bytes:
    """Return a board as the kind of file that a suffix says: .pdf, .svg or .dxf. Raises ValueError
    for another, and for a paper that is not known.
    """
    match suffix.lower():
        case ".pdf":
            return board_pdf(board, paper)
        case ".svg":
            return board_svg(board)
        case ".dxf":
            return board_dxf(board)
        case _:
            raise ValueError(f"“{suffix}” is not PDF, SVG or DXF: end the name with .pdf for one.")


def _marks(tile: Tile, shown: tuple[float, float]) -> Scene:
    """Return what is on a tile beside the loom: its edge, its name, its ruler, where others lie."""
    wide, high = shown
    lap = Pen("copper", 0.2, (1.0, 3.0))
    shapes: list[Shape] = [
        frame(wide, high),
        Rect(Box(OVERLAP_MM, OVERLAP_MM, wide - 2 * OVERLAP_MM, high - 2 * OVERLAP_MM), lap),
        Text(f"tile {tile.name}", Box(wide - 44, high - 9, 40, 7), 5, "ink", "right", bold=True),
        *ruler(4.0, high - 4.0),
    ]
    return Scene(wide, high, tuple(shapes))


def _map(
    board: Board, sheets: tuple[Tile, ...], shown: tuple[float, float], size: tuple[float, float]
) -> Scene:
    """Return how the tiles lie."""
    scale = min((size[0] - 40) / board.width_mm, (size[1] - 60) / board.height_mm)
    shapes: list[Shape] = []
    for laid in board.runs:
        path = tuple(p._replace(x=20 + p.x * scale, y=30 + p.y * scale) for p in laid.path)
        shapes.append(Path(path, Pen("line", max(0.4, laid.thick_mm * scale))))
    for tile in sheets:
        box = Box(20 + tile.x * scale, 30 + tile.y * scale, shown[0] * scale, shown[1] * scale)
        shapes.append(Rect(box, Pen("faint", 0.3)))
        shapes.append(Text(tile.name, box, 6, "copper", bold=True, whole=True))
    words = (
        f"{board.name}, full size: {board.width_mm:.0f} by {board.height_mm:.0f} mm in "
        f"{counted(len(sheets), 'tile')}. Print at 100 %; each ruler "
        "measures 100 mm."
    )
    shapes.append(Text(words, Box(20, 12, size[0] - 40, 10), 5, "ink", "left", whole=True))
    across = [
        code
        for code, (plug, _) in board.plugs.items()
        if max(plug.wide_mm, plug.deep_mm) > min(shown) - OVERLAP_MM
    ]
    if across:
        words = f"Larger than a tile, so across several: the plug at {', '.join(across)}."
        shapes.append(Text(words, Box(20, 20, size[0] - 40, 8), 5, "stop", "left", whole=True))
    return Scene(size[0], size[1], tuple(shapes))


def board_svg(board: Board) -> bytes:
    """Return a board as one SVG at full size: a unit of it is a millimetre."""
    text = svg_bytes(board_scene(board), f"{board.name}, full size").decode()
    size = f'width="{board.width_mm:g}" height="{board.height_mm:g}" viewBox'
    full = f'width="{board.width_mm:g}mm" height="{board.height_mm:g}mm" viewBox'
    return text.replace(size, full, 1).encode()


def board_dxf(board: Board) -> bytes:
    """Return a board as DXF in millimetres, with the layers RUNS, THICKNESS, JOINTS, NAMES and
    PLUGS."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    drawing = new("R2010", units=units.MM)
    space = drawing.modelspace()
    for layer, tint in (("RUNS", 7), ("THICKNESS", 8), ("JOINTS", 1), ("NAMES", 3), ("PLUGS", 5)):
        drawing.layers.add(layer, color=tint)

    def up(x: float, y: float) -> tuple[float, float]:
        return x, board.height_mm - y  # a drawing counts downwards

    for laid in board.runs:
        path = [up(*point) for point in laid.path]
        for begin, end in pairwise(path):
            space.add_line(begin, end, dxfattribs={"layer": "RUNS"})
        wide = {"layer": "THICKNESS", "const_width": laid.thick_mm}
        space.add_lwpolyline(path, dxfattribs=wide)
        middle = up(*halfway(laid.path))
        space.add_text(laid.run, height=4, dxfattribs={"layer": "NAMES"}).set_placement(middle)
    for code, (plug, angle) in board.plugs.items():
        for shape in plug_shapes(plug, board.places[code], angle, Pen("ink", 0.5), 1.0):
            if isinstance(shape, Path) and shape.closed:
                corners = [up(*point) for point in shape.points]
                outline = {"layer": "PLUGS"}
                space.add_lwpolyline(corners, close=True, dxfattribs=outline)
    for joint in board.joints:
        spot = up(*board.places[joint.code])
        space.add_circle(spot, 3, dxfattribs={"layer": "JOINTS"})
        words = f"{joint.code} {joint.name}"
        place = spot[0] + 5, spot[1] + 3
        space.add_text(words, height=5, dxfattribs={"layer": "NAMES"}).set_placement(place)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
