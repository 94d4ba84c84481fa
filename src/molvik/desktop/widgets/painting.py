"""Paint a drawing with Qt, on screen and on paper."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF

from molvik.desktop.theme import colour, font
from molvik.drawing.scene import Box, Oval, Path, Pen, Rect, Scene, Shape, Text

_ACROSS = {
    "left": Qt.AlignmentFlag.AlignLeft,
    "middle": Qt.AlignmentFlag.AlignHCenter,
    "right": Qt.AlignmentFlag.AlignRight,
}


def paint_scene(painter: QPainter, scene: Scene) -> None:
    """Paint the shapes of a drawing."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for shape in scene.shapes:
        _paint(painter, shape)


def _paint(painter: QPainter, shape: Shape) -> None:
    if isinstance(shape, Text):
        _write(painter, shape)
        return
    painter.setPen(_pen(shape.pen) if shape.pen else Qt.PenStyle.NoPen)
    painter.setBrush(colour(shape.fill) if shape.fill else Qt.BrushStyle.NoBrush)
    match shape:
        case Path(points, _, closed):
            places = QPolygonF([QPointF(*point) for point in points])
            if closed:
                painter.drawPolygon(places)
            else:
                painter.drawPolyline(places)
        case Oval(box):
            painter.drawEllipse(_rect(box))
        case Rect(box, _, _, radius):
            painter.drawRoundedRect(_rect(box), radius, radius)


def _rect(box: Box) -> QRectF:
    return QRectF(*box)


def _pen(pen: Pen) -> QPen:
    made = QPen(colour(pen.role), pen.width)
    if pen.dash:
        made.setDashPattern([one / pen.width for one in pen.dash])
    made.setCapStyle(Qt.PenCapStyle.RoundCap if pen.round else Qt.PenCapStyle.FlatCap)
    return made


def _write(painter: QPainter, text: Text) -> None:
    face = font(text.pixels, bold=text.bold, mono=text.mono)
    painter.setFont(face)
    painter.setPen(colour(text.role))
    shown, flags = text.words, _ACROSS[text.align] | Qt.AlignmentFlag.AlignVCenter
    if text.whole:
        flags |= Qt.TextFlag.TextDontClip
    else:
        elide = Qt.TextElideMode.ElideRight
        shown = QFontMetricsF(face).elidedText(text.words, elide, text.box.width + 1)
    painter.drawText(_rect(text.box), flags, shown)
