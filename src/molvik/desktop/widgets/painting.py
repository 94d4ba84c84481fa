"""Paint a drawing with Qt, on screen and on paper."""

from collections.abc import Iterable
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF

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
    for look, shapes in groupby(scene.shapes, _look):
        if look is None:
            for shape in shapes:
                _paint(painter, shape)
        else:
            _paint_together(painter, look, shapes)


Look = tuple[Pen | None, bool, str]


def _look(shape: Shape) -> Look | None:
    """Return how lines look: those that follow each other and look alike are painted in one go,
    since beside a worker each call of Qt waits for the interpreter.
    """
    return (shape.pen, shape.closed, shape.fill) if isinstance(shape, Path) else None


def _paint_together(painter: QPainter, look: Look, shapes: Iterable[Shape]) -> None:
    pen, closed, fill = look
    painter.setPen(_pen(pen) if pen else Qt.PenStyle.NoPen)
    painter.setBrush(colour(fill) if fill else Qt.BrushStyle.NoBrush)
    whole = QPainterPath()
    whole.setFillRule(Qt.FillRule.WindingFill)
    for shape in shapes:
        assert isinstance(shape, Path)
        whole.addPolygon(QPolygonF([QPointF(*point) for point in shape.points]))
        if closed:
            whole.closeSubpath()
    painter.drawPath(whole)


def _paint(painter: QPainter, shape: Shape) -> None:
    if isinstance(shape, Text):
        _write(painter, shape)
        return
    painter.setPen(_pen(shape.pen) if shape.pen else Qt.PenStyle.NoPen)
    painter.setBrush(colour(shape.fill) if shape.fill else Qt.BrushStyle.NoBrush)
    match shape:
        case Oval(box):
            painter.drawEllipse(_rect(box))
        case Rect(box, _, _, radius):
            painter.drawRoundedRect(_rect(box), radius, radius)
        case _:
            raise AssertionError("lines are painted together")


def _rect(box: Box) -> QRectF:
    return QRectF(*box)


def _pen(pen: Pen) -> QPen:
    made = QPen(colour(pen.role), pen.width)
    if pen.dash:
        made.setDashPattern([one / pen.width for one in pen.dash])
    made.setCapStyle(Qt.PenCapStyle.RoundCap if pen.round else Qt.PenCapStyle.FlatCap)
    return made


def _write(painter: QPainter, text: Text) -> None:
    face = font(max(1, round(text.pixels)), bold=text.bold, mono=text.mono)
    painter.setFont(face)
    painter.setPen(colour(text.role))
    shown, flags = text.words, _ACROSS[text.align] | Qt.AlignmentFlag.AlignVCenter
    if text.whole:
        flags |= Qt.TextFlag.TextDontClip
    else:
        elide = Qt.TextElideMode.ElideRight
        shown = QFontMetricsF(face).elidedText(text.words, elide, text.box.width + 1)
    if not text.turn:
        painter.drawText(_rect(text.box), flags, shown)
        return
    painter.save()
    painter.translate(*text.box.middle)
    painter.rotate(text.turn)
    painter.translate(-text.box.middle.x, -text.box.middle.y)
    painter.drawText(_rect(text.box), flags, shown)
    painter.restore()
