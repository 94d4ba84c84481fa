"""Painting wires: base colour and tracer, with a thin outline so that white shows on paper."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from molvik.desktop.theme import colour
from molvik.drawing.face import OUTLINE, UNKNOWN_PAINT
from molvik.model.parts import Colour
from molvik.reference.colours import PAINT


def paint_of(code: str) -> QColor:
    """Return the paint of a colour code."""
    return QColor(PAINT.get(code, UNKNOWN_PAINT))


def draw_wire(painter: QPainter, rect: QRectF, wire: Colour | None) -> None:
    """Draw a short stretch of wire: the base with the tracer along its middle."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    radius = rect.height() / 2
    path = QPainterPath()
    path.addRoundedRect(rect, radius, radius)
    if wire is None:
        painter.setPen(QPen(colour("faint"), 1, Qt.PenStyle.DashLine))
        painter.drawPath(path)
        painter.restore()
        return
    painter.fillPath(path, paint_of(wire.base))
    if wire.tracer:
        painter.setClipPath(path)
        stripe = QRectF(rect.left(), rect.center().y() - rect.height() * 0.17, rect.width(), 0)
        stripe.setHeight(rect.height() * 0.34)
        painter.fillRect(stripe, paint_of(wire.tracer))
        painter.setClipping(False)
    painter.setPen(QPen(QColor(OUTLINE), 0.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    painter.restore()


class Swatch(QWidget):
    """A stretch of wire as a widget."""

    def __init__(self, width: int = 70, height: int = 12) -> None:
        super().__init__()
        self._wire: Colour | None = None
        self.setFixedSize(QSize(width, height))

    def show_colour(self, wire: Colour | None) -> None:
        """Show a colour."""
        self._wire = wire
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the wire."""
        painter = QPainter(self)
        draw_wire(painter, QRectF(self.rect()).adjusted(1, 1, -1, -1), self._wire)
