"""A board as DXF in millimetres: layers by kind, blocks for plugs, real dimensions."""

import io
import math
from itertools import pairwise
from typing import TYPE_CHECKING

from molvik.drawing.labelling import outline
from molvik.drawing.scene import Oval, Path, Point, Rect, Shape, Text
from molvik.routing.board.sheet import FRAME_MM, BoardSheet

if TYPE_CHECKING:
    from ezdxf.document import Drawing
    from ezdxf.layouts.blocklayout import BlockLayout
    from ezdxf.layouts.layout import Modelspace

TINTS = {
    "ZONES": 30,
    "RUNS": 7,
    "THICKNESS": 8,
    "HOLDS": 4,
    "PLUGS": 5,
    "NODES": 1,
    "DIMENSIONS": 2,
    "CALLOUTS": 3,
    "NAMES": 3,
    "PEGS": 6,
    "FRAME": 8,
}
"""The layers with their colours, by AutoCAD's colour index."""

STYLE = "STANDARD"


def board_dxf(sheet: BoardSheet) -> bytes:
    """Return a board as DXF in millimetres. RUNS has the middle line of each stretch, THICKNESS how
    thick it is, PEGS where pins and forks go; a plug is a block at its node, a length between two
    nodes a dimension.
    """
    from ezdxf import units
    from ezdxf.filemanagement import new

    drawing = new("R2010", setup=True, units=units.MM)
    space = drawing.modelspace()
    for layer, tint in TINTS.items():
        drawing.layers.add(layer, color=tint)
    board, high = sheet.board, sheet.height_mm

    def up(x: float, y: float) -> tuple[float, float]:
        return x, high - y  # a drawing counts downwards

    for laid in board.runs:
        path = [up(*point) for point in laid.path]
        for begin, end in pairwise(path):
            space.add_line(begin, end, dxfattribs={"layer": "RUNS"})
        wide = {"layer": "THICKNESS", "const_width": laid.thick_mm}
        space.add_lwpolyline(path, dxfattribs=wide)
    for piece in sheet.pieces:
        if piece.layer == "RUNS":
            continue
        if piece.layer == "PLUGS":
            place = board.places[piece.code]
            _block(drawing, f"PLUG_{piece.code}", piece.shapes, place)
            on = {"layer": "PLUGS"}
            space.add_blockref(f"PLUG_{piece.code}", up(*place), dxfattribs=on)
            continue
        if piece.layer == "DIMENSIONS" and piece.code in sheet.dimensions:
            _dimension(space, sheet, piece.code, piece.shapes, high)
            continue
        for shape in piece.shapes:
            _draw(space, shape, piece.layer, 0.0, high)
    for peg in sheet.pegs:
        # Counted from the lower left corner of the loom's board, below which the legend lies.
        spot = peg.x_mm, peg.y_mm + high - board.height_mm
        space.add_circle(spot, 2.0, dxfattribs={"layer": "PEGS"})
        space.add_point(spot, dxfattribs={"layer": "PEGS"})
    space.reset_extents(
        (FRAME_MM, FRAME_MM, 0), (sheet.width_mm - FRAME_MM, sheet.height_mm - FRAME_MM, 0)
    )
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


def _block(drawing: "Drawing", name: str, shapes: tuple[Shape, ...], at: Point) -> None:
    """Add a block whose origin is at a place of the drawing."""
    block = drawing.blocks.new(name)
    for shape in shapes:
        _draw(block, shape, "PLUGS", at.x, at.y)


def _dimension(
    space: "Modelspace", sheet: BoardSheet, code: str, shapes: tuple[Shape, ...], high: float
) -> None:
    """Add a dimension of a stretch, with its words as they are drawn: the tolerance is in them."""
    begin, end, middle = sheet.dimensions[code]
    words = next(shape.words for shape in shapes if isinstance(shape, Text))
    length = math.dist(begin, end)
    # How far the line lies off, to the left of the way from begin to end where y counts upwards.
    across = (end.y - begin.y) / length, -(end.x - begin.x) / length
    half = (begin.x + end.x) / 2, (begin.y + end.y) / 2
    off = (middle.x - half[0]) * across[0] + (middle.y - half[1]) * across[1]
    made = space.add_aligned_dim(
        p1=(begin.x, high - begin.y),
        p2=(end.x, high - end.y),
        distance=off,
        text=words,
        dimstyle="EZDXF",
        override={"dimtxt": 4.0, "dimasz": 4.0, "dimtxsty": STYLE},
        dxfattribs={"layer": "DIMENSIONS"},
    )
    made.render()


def _draw(
    space: "Modelspace | BlockLayout", shape: Shape, layer: str, left: float, high: float
) -> None:
    """Add a shape, moved by so much."""
    on = {"layer": layer}

    def up(x: float, y: float) -> tuple[float, float]:
        return x - left, high - y

    match shape:
        case Path(points, _, closed, _):
            space.add_lwpolyline([up(*p) for p in points], close=closed, dxfattribs=on)
        case Oval(box, _, _):
            middle = up(*box.middle)
            if math.isclose(box.width, box.height, rel_tol=1e-6):
                space.add_circle(middle, box.width / 2, dxfattribs=on)
            else:
                wide = box.width >= box.height
                axis = (box.width / 2, 0) if wide else (0, box.height / 2)
                ratio = min(box.width, box.height) / max(box.width, box.height)
                space.add_ellipse(middle, axis, ratio, dxfattribs=on)
        case Rect(box, _, _, _):
            space.add_lwpolyline([up(*p) for p in outline(box)], close=True, dxfattribs=on)
        case Text():
            _write(space, shape, layer, left, high)


def _write(
    space: "Modelspace | BlockLayout", text: Text, layer: str, left: float, high: float
) -> None:
    from ezdxf.enums import TextEntityAlignment

    # The height of capitals, which DXF counts, is about 0.72 of that of the letters.
    made = space.add_text(
        text.words,
        height=text.pixels * 0.72,
        rotation=-text.turn,
        dxfattribs={"layer": layer, "style": STYLE},
    )
    box = text.box
    x, align = {
        "left": (box.x, TextEntityAlignment.MIDDLE_LEFT),
        "middle": (box.middle.x, TextEntityAlignment.MIDDLE_CENTER),
        "right": (box.right, TextEntityAlignment.MIDDLE_RIGHT),
    }[text.align]
    made.set_placement((x - left, high - box.middle.y), align=align)
