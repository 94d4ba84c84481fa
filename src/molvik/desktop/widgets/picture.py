"""A photo with what is marked on it; marks are drawn by dragging, or moved with the arrow keys."""

import math

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.scene import Point, Scene, from_line
from molvik.model.photos import Mark, MarkKind, Photo
from molvik.survey.photo_lengths import lengths
from molvik.wording import counted

NEAR_PX = 12
"""So near a click takes a mark."""

LEAST_PX = 8
"""A shorter drag is a click."""

STEP = 0.01


class PictureView(Canvas):
    """drawn(mark): a new one; chosen(place): -1 for none; moved(place, mark): by the keys."""

    drawn = Signal(object)
    chosen = Signal(int)
    moved = Signal(int, object)

    def __init__(self) -> None:
        super().__init__("No photo", "No photo")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(360, 260)
        self.tool: MarkKind | None = None
        self.at = -1
        self._photo: Photo | None = None
        self._image = QImage()
        self._labels: dict[int, str] = {}
        self._from: QPointF | None = None
        self._to: QPointF | None = None
        self._anchor: QPointF | None = None
        """Where the next leg of a trace begins."""

    def sizeHint(self) -> QSize:
        """Return room for a photo."""
        return QSize(780, 560)

    def show_photo(self, photo: Photo | None, image: QImage) -> None:
        """Show a photo; an image that is null says that it is missing."""
        self._photo, self._image = photo, image
        self._labels = {}
        if photo is not None:
            for index, mark in enumerate(photo.marks):
                self._labels[index] = mark.text
            for index, length in lengths(photo).items():
                figure = f"{length.length_m * 1000:.0f} mm"
                words = figure if length.measured else f"about {figure}"
                self._labels[index] = f"{words} {photo.marks[index].text}".strip()
            self.setAccessibleName(
                f"Photo {photo.code}, {photo.text or 'no caption'}, "
                f"{counted(len(photo.marks), 'mark')}"
            )
        self.empty = (
            "No photo"
            if photo is None
            else "This photo is not in the job's file: the file may be an older version.\n"
            "Add it again, or delete it."
        )
        self.redraw()

    def label_of(self, index: int) -> str:
        """Return what stands beside a mark."""
        return self._labels.get(index, "")

    def choose(self, index: int) -> None:
        """Show which mark is chosen."""
        self.at = index
        self.viewport().update()

    def take_tool(self, tool: MarkKind | None) -> None:
        """Draw with a tool, or with none."""
        if tool != self.tool:
            self._anchor = None
        self.tool = tool
        shape = Qt.CursorShape.CrossCursor if tool else Qt.CursorShape.ArrowCursor
        self.viewport().setCursor(shape)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom: a photo is looked into, there is nothing to scroll past."""
        if event.angleDelta().y():
            self.zoom_by(1.15 if event.angleDelta().y() > 0 else 1 / 1.15)
            event.accept()

    # places

    def frame(self) -> QRectF:
        """Return where the photo lies in the drawing."""
        if self._photo is None:
            return QRectF()
        room = QRectF(0, 0, *self.room())
        share = min(room.width() / self._photo.width, room.height() / self._photo.height)
        width, height = self._photo.width * share, self._photo.height * share
        return QRectF((room.width() - width) / 2, (room.height() - height) / 2, width, height)

    def _ends(self, mark: Mark) -> tuple[QPointF, QPointF]:
        frame = self.frame()
        return (
            QPointF(frame.x() + mark.x1 * frame.width(), frame.y() + mark.y1 * frame.height()),
            QPointF(frame.x() + mark.x2 * frame.width(), frame.y() + mark.y2 * frame.height()),
        )

    def _mark(self, kind: MarkKind, begin: QPointF, end: QPointF) -> Mark:
        frame = self.frame()

        def part(value: float, start: float, length: float) -> float:
            return round(min(1.0, max(0.0, (value - start) / length)), 4)

        return Mark(
            kind,
            part(begin.x(), frame.x(), frame.width()),
            part(begin.y(), frame.y(), frame.height()),
            part(end.x(), frame.x(), frame.width()),
            part(end.y(), frame.y(), frame.height()),
        )

    # painting

    def draw(self, width: float, height: float) -> Scene | None:
        """Return room for a photo; what it shows is painted, not drawn."""
        return None if self._photo is None or self._image.isNull() else Scene(width, height)

    def drawForeground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        """Paint the photo and its marks."""
        if self._photo is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self.frame(), self._image)
        for index, mark in enumerate(self._photo.marks):
            self._paint(painter, mark, self._labels.get(index, ""), index == self.at)
        if self.tool is not None and self._from is not None and self._to is not None:
            self._paint(painter, self._mark(self.tool, self._from, self._to), "", True)
        elif self._anchor is not None and self._to is not None:
            self._paint(painter, self._mark("trace", self._anchor, self._to), "", True)

    def _paint(self, painter: QPainter, mark: Mark, text: str, held: bool) -> None:
        begin, end = self._ends(mark)
        # Light below, copper above: seen on dark and on bright pictures alike.
        for pen in (
            QPen(QColor(255, 255, 255, 215), 7 if held else 5.5),
            QPen(colour("copper"), 3.5 if held else 2.5),
        ):
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            match mark.kind:
                case "circle":
                    radius = math.dist((begin.x(), begin.y()), (end.x(), end.y()))
                    painter.drawEllipse(begin, radius, radius)
                case "arrow":
                    painter.drawLine(begin, end)
                    for side in (2.6, -2.6):
                        painter.drawLine(end, end + self._turned(begin, end, side, 15))
                case "trace":
                    painter.drawLine(begin, end)
                    for tip in (begin, end):
                        painter.drawEllipse(tip, 4, 4)
                case "length":
                    painter.drawLine(begin, end)
                    for tip in (begin, end):
                        across = self._turned(begin, end, math.pi / 2, 9)
                        painter.drawLine(tip - across, tip + across)
        if text:
            self._write(painter, mark, begin, end, text)

    @staticmethod
    def _turned(begin: QPointF, end: QPointF, turn: float, length: float) -> QPointF:
        angle = math.atan2(end.y() - begin.y(), end.x() - begin.x()) + turn
        return QPointF(length * math.cos(angle), length * math.sin(angle))

    def _write(
        self, painter: QPainter, mark: Mark, begin: QPointF, end: QPointF, text: str
    ) -> None:
        face = font(14, bold=True)
        box = QFontMetricsF(face).boundingRect(text).adjusted(-7, -4, 7, 4)
        if mark.kind in ("length", "trace"):
            box.moveCenter((begin + end) / 2 + QPointF(0, 22))
        elif mark.kind == "arrow":
            box.moveCenter(begin - QPointF(0, 6))
        else:
            radius = math.dist((begin.x(), begin.y()), (end.x(), end.y()))
            box.moveCenter(begin + QPointF(0, radius + 18))
        frame = self.frame()
        box.moveLeft(max(frame.left() + 2, min(box.left(), frame.right() - box.width() - 2)))
        box.moveTop(max(frame.top() + 2, min(box.top(), frame.bottom() - box.height() - 2)))
        painter.setPen(QPen(colour("copper"), 1))
        painter.setBrush(colour("sheet"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(colour("ink"))
        painter.setFont(face)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    # drawing and choosing

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a mark; with the middle button move the photo."""
        if event.button() != Qt.MouseButton.LeftButton:
            super().mousePressEvent(event)
        elif not self._image.isNull():
            self._from = self._to = self.mapToScene(event.position().toPoint())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the drag."""
        if self._from is None:
            super().mouseMoveEvent(event)
            self.take_tool(self.tool)
            if self._anchor is not None:
                self._to = self.mapToScene(event.position().toPoint())
                self.viewport().update()
            return
        self._to = self.mapToScene(event.position().toPoint())
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End a mark; a click takes the mark that is there."""
        super().mouseReleaseEvent(event)
        begin, end = self._from, self.mapToScene(event.position().toPoint())
        self._from = self._to = None
        self.viewport().update()
        if begin is None or self._photo is None:
            return
        drag = math.dist((begin.x(), begin.y()), (end.x(), end.y()))
        if self.tool == "trace":
            self._trace(begin, end, drag >= LEAST_PX)
        elif self.tool is not None and drag >= LEAST_PX:
            self.drawn.emit(self._mark(self.tool, begin, end))
        else:
            self.chosen.emit(self._near(end))

    def _trace(self, begin: QPointF, end: QPointF, dragged: bool) -> None:
        """Go on with a trace: by a click from where it was, or by a leg that was dragged."""
        begin, end = self._joined(begin), self._joined(end)
        was = begin if dragged else self._anchor
        self._anchor = end
        if was is not None and was != end:
            self.drawn.emit(self._mark("trace", was, end))

    def _joined(self, point: QPointF) -> QPointF:
        """Return the end of a leg that is near a point, else the point: legs meet exactly."""
        marks = self._photo.marks if self._photo else ()
        ends = [end for mark in marks if mark.kind == "trace" for end in self._ends(mark)]
        near = [
            end
            for end in ends
            if math.dist((end.x(), end.y()), (point.x(), point.y())) <= NEAR_PX / self.zoom
        ]
        return min(
            near, key=lambda e: math.dist((e.x(), e.y()), (point.x(), point.y())), default=point
        )

    def _near(self, point: QPointF) -> int:
        """Return the place of the mark at a point, -1 for none."""
        if self._photo is None:
            return -1
        for place, mark in enumerate(self._photo.marks):
            begin, end = self._ends(mark)
            if mark.kind == "circle":
                radius = math.dist((begin.x(), begin.y()), (end.x(), end.y()))
                away = abs(math.dist((begin.x(), begin.y()), (point.x(), point.y())) - radius)
            else:
                away = from_line(*(Point(p.x(), p.y()) for p in (point, begin, end)))
            if away <= NEAR_PX / self.zoom:
                return place
        return -1

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move the chosen mark; with Shift only its second point."""
        steps = {
            Qt.Key.Key_Left: (-STEP, 0.0),
            Qt.Key.Key_Right: (STEP, 0.0),
            Qt.Key.Key_Up: (0.0, -STEP),
            Qt.Key.Key_Down: (0.0, STEP),
        }
        step = steps.get(Qt.Key(event.key()))
        if step is None or self._photo is None or not 0 <= self.at < len(self._photo.marks):
            super().keyPressEvent(event)
            return
        mark = self._photo.marks[self.at]
        dx, dy = step
        moved = replace(mark, x2=_within(mark.x2 + dx), y2=_within(mark.y2 + dy))
        if not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            moved = replace(moved, x1=_within(mark.x1 + dx), y1=_within(mark.y1 + dy))
        self.moved.emit(self.at, moved)


def _within(value: float) -> float:
    return round(min(1.0, max(0.0, value)), 4)
