"""A finding's severity as a shape: square for stop, triangle for look, disc for note."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from molvik.desktop.theme import colour
from molvik.findings.kinds import Severity

ROLE_OF: dict[str, str] = {"stop": "stop", "look": "live", "note": "faint"}


class Mark(QWidget):
    """A severity as a shape: square for stop, triangle for look, disc for note."""

    def __init__(self, severity: Severity) -> None:
        super().__init__()
        self._severity = severity
        self.setFixedSize(QSize(14, 14))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the shape."""
        painter = QPainter(self)
        draw_mark(painter, QRectF(1, 1, 12, 12), self._severity)


def draw_mark(painter: QPainter, rect: QRectF, severity: Severity) -> None:
    """Draw a severity's shape in its colour."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(ROLE_OF[severity]))
    if severity == "stop":
        painter.drawRoundedRect(rect, 2, 2)
    elif severity == "look":
        top = QPointF(rect.center().x(), rect.top())
        painter.drawPolygon([rect.bottomLeft(), rect.bottomRight(), top])
    else:
        painter.drawEllipse(rect)
