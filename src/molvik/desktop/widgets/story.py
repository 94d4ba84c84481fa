"""A wire's story, drawn top to bottom: stops with a shape for their kind, wires between them."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from molvik.circuits.story import StoryStop
from molvik.desktop.theme import colour, font

STEP = 58
LEFT = 14


class StoryView(QWidget):
    """The stops of a wire's way. chosen(subject): a stop was clicked."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._stops: tuple[StoryStop, ...] = ()
        self._legs: dict[str, str] = {}
        self._hand = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_story(self, stops: tuple[StoryStop, ...], legs: dict[str, str], hand: str) -> None:
        """Show stops; legs: what to say of each wire between them; hand: the wire in hand."""
        self._stops, self._legs, self._hand = stops, legs, hand
        self.setFixedHeight(max(1, len(stops)) * STEP - 10)
        self.setAccessibleName(
            "Story: " + ", then ".join(f"{stop.name}, {stop.detail}" for stop in stops)
        )
        self.setToolTip("Click a stop to take it in hand")
        self.update()

    def sizeHint(self) -> QSize:
        """Return the height the stops need."""
        return QSize(240, max(1, len(self._stops)) * STEP - 10)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the stop under the mouse in hand."""
        index = int(event.position().y() // STEP)
        if 0 <= index < len(self._stops):
            stop = self._stops[index]
            if stop.end.at:
                subject = str(stop.end) if stop.kind == "connector" else stop.end.at
                self.chosen.emit(subject)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the way."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, stop in enumerate(self._stops):
            top = index * STEP
            middle = QPointF(LEFT, top + 13)
            if index + 1 < len(self._stops):
                held = stop.wire == self._hand
                painter.setPen(
                    QPen(colour("copper" if stop.wire else "line"), 5 if held else 3)
                    if stop.wire
                    else QPen(colour("line"), 3, Qt.PenStyle.DotLine)
                )
                painter.drawLine(middle, QPointF(LEFT, top + STEP + 13))
                painter.setFont(font(12))
                painter.setPen(colour("copper"))
                leg = self._legs.get(stop.wire, "plugged together" if not stop.wire else stop.wire)
                self._write(painter, top + 34, leg)
            painter.setPen(QPen(colour("copper" if stop.kind != "loose" else "stop"), 2.5))
            painter.setBrush(colour("sheet"))
            self._shape(painter, middle, stop.kind)
            painter.setPen(colour("ink"))
            painter.setFont(font(13, bold=True))
            self._write(painter, top, stop.name)
            painter.setFont(font(12))
            painter.setPen(colour("faint"))
            self._write(painter, top + 16, stop.detail)

    def _write(self, painter: QPainter, top: float, text: str) -> None:
        width = self.width() - LEFT - 16
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)
        area = QRectF(LEFT + 16, top, width, 19)
        painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def _shape(self, painter: QPainter, point: QPointF, kind: str) -> None:
        match kind:
            case "connector":
                painter.drawRoundedRect(QRectF(point.x() - 7, point.y() - 7, 14, 14), 3, 3)
            case "fuse":
                painter.drawRoundedRect(QRectF(point.x() - 5, point.y() - 9, 10, 18), 5, 5)
            case "splice":
                corners = ((0, -9), (9, 0), (0, 9), (-9, 0))
                painter.drawPolygon([point + QPointF(x, y) for x, y in corners])
            case "earth":
                for row, half in enumerate((9, 6, 3)):
                    y = point.y() - 3 + row * 5
                    painter.drawLine(QPointF(point.x() - half, y), QPointF(point.x() + half, y))
            case "loose":
                painter.drawLine(point + QPointF(-6, -6), point + QPointF(6, 6))
                painter.drawLine(point + QPointF(-6, 6), point + QPointF(6, -6))
            case _:
                painter.drawEllipse(point, 7.5, 7.5)
