"""A board at full size as a file: PDF in tiles, one long SVG, DXF with layers."""

import io
import math
from collections.abc import Iterator
from xml.sax.saxutils import escape, quoteattr

from molvik.drawing.roles import LIGHT
from molvik.drawing.scene import (
    Box,
    Path,
    Pen,
    Point,
    Rect,
    Scene,
    Shape,
    Text,
    around,
    bounds,
)
from molvik.files.boarddxf import board_dxf
from molvik.files.pdfdrawing import draw_scene
from molvik.files.svg import element
from molvik.routing.board.framing import (
    BLOCK_MM,
    TITLE_MM,
    Legend,
    explained,
    revised,
    ruler,
    title_block,
)
from molvik.routing.board.sheet import BoardSheet
from molvik.routing.board.tiling import EDGE_MM, FOOT_MM, OVERLAP_MM, PAPERS, Tile, Tiling, tiling
from molvik.wording import counted

MM_PT = 72 / 25.4
FRONT_MM = PAPERS["A4"]
"""The pages before the tiles are of this size, upright."""

MAP_MM = 12.0
"""How high the map on each tile is."""


def board_bytes(sheet: BoardSheet, suffix: str, paper: str) -> bytes:
    """Return a board as the kind of file that a suffix says: .pdf, .svg or .dxf. Raises ValueError
    for another, and for a paper that is not known.
    """
    match suffix.lower():
        case ".pdf":
            return board_pdf(sheet, paper)
        case ".svg":
            return board_svg(sheet)
        case ".dxf":
            return board_dxf(sheet)
        case _:
            raise ValueError(f"“{suffix}” is not PDF, SVG or DXF: end the name with .pdf for one.")


def board_pdf(sheet: BoardSheet, paper: str) -> bytes:
    """Return a board at full size in tiles, each with a ruler of 100 mm and its place on the board;
    first, where there are several, how they lie and where pegs go. Raises ValueError.
    """
    from reportlab.pdfgen.canvas import Canvas

    made = tiling(sheet, paper)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(made.wide_mm * MM_PT, made.high_mm * MM_PT))
    canvas.setTitle(f"{sheet.board.name}, full size")
    for scene in front(sheet, made) if made.has_cover else ():
        canvas.setPageSize((scene.width * MM_PT, scene.height * MM_PT))
        draw_scene(canvas, scene, MM_PT)
        canvas.showPage()
    scene = made.sheet.scene
    placed = [(shape, bounds_of(shape)) for shape in scene.shapes]
    for number, tile in enumerate(made.tiles, 1):
        shows = tile.shows
        canvas.setPageSize((made.wide_mm * MM_PT, made.high_mm * MM_PT))
        canvas.saveState()
        canvas.translate(EDGE_MM * MM_PT, (EDGE_MM + FOOT_MM) * MM_PT)
        canvas.saveState()
        clip = canvas.beginPath()
        clip.rect(0, 0, shows.width * MM_PT, shows.height * MM_PT)
        canvas.clipPath(clip, stroke=0)
        lift = (sheet.height_mm - shows.y - shows.height) * MM_PT
        canvas.translate(-shows.x * MM_PT, -lift)
        near = tuple(shape for shape, box in placed if box.overlaps(shows.grown(2, 2)))
        draw_scene(canvas, scene._replace(shapes=near), MM_PT)
        canvas.restoreState()
        draw_scene(canvas, _edges(tile, made), MM_PT)
        canvas.restoreState()
        canvas.saveState()
        canvas.translate(EDGE_MM * MM_PT, EDGE_MM * MM_PT)
        draw_scene(canvas, _foot(sheet, made, number), MM_PT)
        canvas.restoreState()
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def bounds_of(shape: Shape) -> Box:
    """Return the box in which a shape lies whole, words turned or not."""
    box = bounds(shape)
    if isinstance(shape, Text):
        half = math.hypot(box.width, box.height) / 2
        return around(box.middle, half, half)
    # A line that is level or upright has no area of its own to be overlapped.
    return box.grown(0.1, 0.1)


def _edges(tile: Tile, made: Tiling) -> Scene:
    """Return the edge of a tile, and where others meet it: marks that lie over each other."""
    wide, high = tile.shows.width, tile.shows.height
    shapes: list[Shape] = [Rect(Box(0, 0, wide, high), Pen("faint", 0.2, (2.0, 2.0)))]
    for other in made.tiles:
        if other is not tile and other.shows.overlaps(tile.shows):
            x = max(other.shows.x, tile.shows.x) - tile.shows.x
            y = max(other.shows.y, tile.shows.y) - tile.shows.y
            right = min(other.shows.right, tile.shows.right) - tile.shows.x
            bottom = min(other.shows.bottom, tile.shows.bottom) - tile.shows.y
            shapes += _cross(Point((x + right) / 2, (y + bottom) / 2))
            along = right - x > bottom - y
            for share in (0.1, 0.9):
                shapes += _cross(
                    Point(x + (right - x) * share, (y + bottom) / 2)
                    if along
                    else Point((x + right) / 2, y + (bottom - y) * share)
                )
    return Scene(wide, high, tuple(shapes))


def _cross(at: Point) -> list[Shape]:
    pen = Pen("copper", 0.3)
    return [
        Path((Point(at.x - 3, at.y), Point(at.x + 3, at.y)), pen),
        Path((Point(at.x, at.y - 3), Point(at.x, at.y + 3)), pen),
    ]


def _foot(sheet: BoardSheet, made: Tiling, number: int) -> Scene:
    """Return what stands below a tile: a ruler, which one it is, and where it lies."""
    wide, tile = made.wide_mm - 2 * EDGE_MM, made.tiles[number - 1]
    heading = sheet.heading
    words = f"tile {tile.name}, {number} of {len(made.tiles)}"
    about = " · ".join(filter(None, (heading.job, sheet.board.name, heading.version, heading.on)))
    shapes: list[Shape] = [
        *ruler(1.0, FOOT_MM - 3),
        Text(words, Box(wide - 100, 1, 70, 6), 5, "ink", "right", bold=True, whole=True),
        Text(about, Box(wide - 100, 8, 70, 5), 3, "faint", "right"),
        *_small_map(sheet, made, Box(wide - 27, 1, 26, MAP_MM), number),
    ]
    return Scene(wide, FOOT_MM, tuple(shapes))


def _small_map(sheet: BoardSheet, made: Tiling, box: Box, number: int = 0) -> list[Shape]:
    """Return how the tiles lie, in a box; number: of the one that is marked."""
    scale = min(box.width / sheet.width_mm, box.height / sheet.height_mm)
    shapes: list[Shape] = []
    for laid in sheet.board.runs:
        path = tuple(Point(box.x + p.x * scale, box.y + p.y * scale) for p in laid.path)
        shapes.append(Path(path, Pen("line", max(0.3, laid.thick_mm * scale))))
    for at, tile in enumerate(made.tiles, 1):
        place = Box(
            box.x + tile.shows.x * scale,
            box.y + tile.shows.y * scale,
            tile.shows.width * scale,
            tile.shows.height * scale,
        )
        marked = at == number
        shapes.append(Rect(place, Pen("copper" if marked else "faint", 0.6 if marked else 0.15)))
        if not number:
            shapes.append(Text(tile.name, place, 6, "copper", bold=True, whole=True))
    return shapes


def front(sheet: BoardSheet, made: Tiling) -> tuple[Scene, ...]:
    """Return the pages before the tiles: how they lie, what marks mean, the title block; then
    where pegs go.
    """
    wide, high = FRONT_MM
    board, legend = sheet.board, Legend(explained(sheet.board), rows=6)
    words = (
        f"{board.name}, full size: {sheet.width_mm:.0f} by {sheet.height_mm:.0f} mm in "
        f"{counted(len(made.tiles), 'tile')}.",
        "Print at 100 %; each ruler measures 100 mm. Crosses of neighbours lie over each other.",
    )
    shapes: list[Shape] = [
        Text(text, Box(15, 12 + 7 * line, wide - 30, 6), 4, "ink", "left", whole=True)
        for line, text in enumerate(words)
    ]
    across = [
        code
        for code, (plug, _) in board.plugs.items()
        if max(plug.wide_mm, plug.deep_mm) > min(made.tiles[0].shows[2:]) - OVERLAP_MM
    ]
    if across:
        said = f"Larger than a tile, so across several: the plug at {', '.join(across)}."
        shapes.append(Text(said, Box(15, 26, wide - 30, 6), 4, "stop", "left", whole=True))
    title = Point((wide - TITLE_MM) / 2, high - BLOCK_MM - 12)
    shapes += title_block(board, sheet.heading, *title, f"cover of {len(made.tiles)} tiles")
    key = Point(title.x, title.y - legend.high_mm - 5)
    shapes += legend.shapes(*key)
    if sheet.heading.revisions:
        key = Point(key.x, key.y - BLOCK_MM - 5)
        shapes += revised(sheet.heading, *key)
    shapes += _small_map(sheet, made, Box(15, 36, wide - 30, key.y - 42))
    return Scene(wide, high, tuple(shapes)), *_pegs(sheet)


def _pegs(sheet: BoardSheet) -> Iterator[Scene]:
    """Yield where pegs go, in columns."""
    (wide, high), line, columns = FRONT_MM, 5.0, 2
    down = int((high - 45) / line)
    every = sheet.pegs
    words = f"{sheet.board.name}, pegs: mm from the lower left corner of the board"
    for begin in range(0, len(every), columns * down):
        shapes: list[Shape] = [
            Text(words, Box(15, 12, wide - 30, 6), 5, "ink", "left", bold=True, whole=True)
        ]
        for index, peg in enumerate(every[begin : begin + columns * down]):
            x, y = 15 + (index // down) * 92.0, 24 + (index % down) * line
            for text, at, room in (
                (f"{peg.x_mm:.0f}", x, 14.0),
                (f"{peg.y_mm:.0f}", x + 15, 14.0),
                (peg.kind, x + 31, 16.0),
                (peg.what, x + 47, 43.0),
            ):
                shapes.append(Text(text, Box(at, y, room, line), 4, "ink", "left"))
        yield Scene(wide, high, tuple(shapes))


def board_svg(sheet: BoardSheet) -> bytes:
    """Return a board as one SVG at full size: a unit of it is a millimetre, each thing a group with
    its code, in a group for its layer.
    """
    width, height = f"{sheet.width_mm:g}", f"{sheet.height_mm:g}"
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}" role="img">',
        f"<title>{escape(sheet.board.name)}, full size</title>",
        f'<rect width="{width}" height="{height}" fill="{LIGHT.sheet}"/>',
    ]
    layers = dict.fromkeys(piece.layer for piece in sheet.pieces)
    for layer in layers:
        lines.append(f'<g id="{layer.lower()}">')
        own: dict[str, list[Shape]] = {}
        for piece in sheet.pieces:
            if piece.layer == layer:
                own.setdefault(piece.code, []).extend(piece.shapes)
        for code, shapes in own.items():
            name = f"{layer.lower()}-{code}" if code else f"{layer.lower()}-sheet"
            lines.append(f"<g id={quoteattr(name)} data-ref={quoteattr(code)}>")
            lines += [element(shape, LIGHT) for shape in shapes]
            lines.append("</g>")
        lines.append("</g>")
    lines.append("</svg>\n")
    return "\n".join(lines).encode()
