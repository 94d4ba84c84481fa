"""Draw on a page of a PDF: the same shapes as on screen."""

from typing import TYPE_CHECKING

from molvik.drawing.lettering import FACES, face_file, face_of, shortened
from molvik.drawing.roles import LIGHT, Roles
from molvik.drawing.scene import Oval, Path, Pen, Rect, Scene, Shape, Text

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas


def register_faces() -> None:
    """Make the shipped typeface known to the PDF."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name in set(FACES.values()) - set(pdfmetrics.getRegisteredFontNames()):
        pdfmetrics.registerFont(TTFont(name, str(face_file(name))))


def draw_scene(canvas: "Canvas", scene: Scene, scale: float, roles: Roles = LIGHT) -> None:
    """Draw a scene with its lower left corner at the origin. scale: points a pixel of it."""
    register_faces()
    canvas.saveState()
    canvas.translate(0, scene.height * scale)
    canvas.scale(scale, -scale)  # a page counts upwards, a drawing downwards
    for shape in scene.shapes:
        _draw(canvas, shape, roles)
    canvas.restoreState()


def _draw(canvas: "Canvas", shape: Shape, roles: Roles) -> None:
    if isinstance(shape, Text):
        _write(canvas, shape, roles)
        return
    if shape.pen is not None:
        _take_up(canvas, shape.pen, roles)
    if shape.fill:
        canvas.setFillColor(roles.paint(shape.fill))
    stroke, fill = int(shape.pen is not None), int(bool(shape.fill))
    match shape:
        case Path(points, _, closed):
            path = canvas.beginPath()
            path.moveTo(*points[0])
            for point in points[1:]:
                path.lineTo(*point)
            if closed:
                path.close()
            canvas.drawPath(path, stroke=stroke, fill=fill)
        case Oval(box):
            canvas.ellipse(box.x, box.y, box.right, box.bottom, stroke=stroke, fill=fill)
        case Rect(box, _, _, radius):
            radius = min(radius, box.width / 2, box.height / 2)
            canvas.roundRect(box.x, box.y, box.width, box.height, radius, stroke=stroke, fill=fill)


def _take_up(canvas: "Canvas", pen: Pen, roles: Roles) -> None:
    canvas.setStrokeColor(roles.paint(pen.role))
    canvas.setLineWidth(pen.width)
    canvas.setLineCap(1 if pen.round else 0)
    canvas.setDash(list(pen.dash))


def _write(canvas: "Canvas", text: Text, roles: Roles) -> None:
    box, words = text.box, shortened(text)
    canvas.saveState()
    # Letters would stand on their heads: turned upright about their base line.
    if text.turn:
        canvas.translate(*box.middle)
        canvas.rotate(text.turn)
        canvas.translate(-box.middle.x, -box.middle.y)
    canvas.translate(0, box.middle.y + text.pixels * 0.36)
    canvas.scale(1, -1)
    canvas.setFont(face_of(text), text.pixels)
    canvas.setFillColor(roles.paint(text.role))
    match text.align:
        case "left":
            canvas.drawString(box.x, 0, words)
        case "right":
            canvas.drawRightString(box.right, 0, words)
        case _:
            canvas.drawCentredString(box.middle.x, 0, words)
    canvas.restoreState()
