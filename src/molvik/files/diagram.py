"""A diagram as files: PDF with a sheet a page, SVG with a file a sheet."""

import io

from molvik.drawing.scene import Scene
from molvik.files.pdfdrawing import draw_scene
from molvik.files.svg import svg_bytes

MM_PT = 72 / 25.4


def diagram_pdf(sheets: tuple[Scene, ...], title: str) -> bytes:
    """Return sheets, which are in millimetres, as a PDF at their size. Raises ValueError for
    none.
    """
    from reportlab.pdfgen.canvas import Canvas

    if not sheets:
        raise ValueError("There is nothing to draw: the job has no wires.")
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(sheets[0].width * MM_PT, sheets[0].height * MM_PT))
    canvas.setTitle(title)
    for sheet in sheets:
        draw_scene(canvas, sheet, MM_PT)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def diagram_svgs(sheets: tuple[Scene, ...], title: str) -> tuple[bytes, ...]:
    """Return each sheet as an SVG. Raises ValueError for none."""
    if not sheets:
        raise ValueError("There is nothing to draw: the job has no wires.")
    return tuple(svg_bytes(sheet, f"{title}, sheet {n}") for n, sheet in enumerate(sheets, 1))
