"""A drawing on the screen: seen larger and smaller, moved, picked from, walked through by keys.

Everything drawn is shown here, so that zoom, keys, tooltips and what a screen reader is told are
the same everywhere. What is drawn is a `Scene`; what can be picked are its areas.
"""

import math

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPicture,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import (
    QFrame,
    QGraphicsItem,
    QGraphicsScene,
    QGraphicsView,
    QStyleOptionGraphicsItem,
    QToolTip,
    QWidget,
)

from molvik.desktop.theme import colour
from molvik.desktop.widgets.painting import paint_scene
from molvik.desktop.widgets.saying import said
from molvik.drawing.scene import Area, Scene

LEAST_ZOOM, MOST_ZOOM = 0.3, 6.0
NEAR_PX = 9.0
"""A click this near a line hits what runs along it."""

BAR_PX = 11
"""Room for a scroll bar beside a drawing that goes on downwards."""

ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class Painted(QGraphicsItem):
    """A drawing as one thing on a canvas: recorded once, painted again without any Python."""

    def __init__(self) -> None:
        super().__init__()
        self._picture = QPicture()
        self._box = QRectF()

    def record(self, scene: Scene | None) -> None:
        """Take over a drawing; None for nothing."""
        self.prepareGeometryChange()
        self._picture = QPicture()
        self._box = QRectF(0, 0, scene.width, scene.height) if scene else QRectF()
        if scene is not None:
            painter = QPainter(self._picture)
            paint_scene(painter, scene)
            painter.end()
        self.update()

    def boundingRect(self) -> QRectF:
        """Return the room it takes."""
        return self._box

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Paint it."""
        painter.drawPicture(0, 0, self._picture)


class Canvas(QGraphicsView):
    """Shows what `draw` returns for the room there is. picked(ref): an area was chosen.
    asked(ref, place on the screen): a menu is wanted for it.

    What `draw_over` returns lies over it, and is drawn anew alone when something is taken in hand.
    flows: the drawing is laid out anew for the width at each zoom, and goes on downwards; else it
    fills the room at zoom 1. walks: the arrow keys choose at once what they come to. shows_focus:
    the drawing itself is another with the focus.
    """

    picked = Signal(str)
    asked = Signal(str, QPoint)
    flows = False
    walks = False
    shows_focus = False

    def __init__(self, name: str, empty: str = "") -> None:
        super().__init__()
        self.empty = empty
        self.zoom = 1.0
        self._at: tuple[str, int] = "", -1
        self._drawing: Scene | None = None
        self._drawn_for: tuple[float, float] | None = None
        self._panned: QPoint | None = None
        self._fitted: QSize | None = None
        self._shrunk = 1.0
        self._painted, self._over = Painted(), Painted()
        held = QGraphicsScene(self)
        held.addItem(self._painted)
        held.addItem(self._over)
        self.setScene(held)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.AnchorUnderMouse)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setStyleSheet("QGraphicsView { background: transparent; }")
        self.viewport().setMouseTracking(True)
        self.setAccessibleName(name)

    # the drawing

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the drawing for so much room, None while there is nothing to draw."""
        raise NotImplementedError

    def draw_over(self) -> Scene | None:
        """Return what lies over the drawing, None for nothing."""
        return None

    def keep_still(self, still: bool) -> None:
        """Keep the drawing as a picture while something is dragged over it."""
        modes = QGraphicsItem.CacheMode
        self._painted.setCacheMode(modes.DeviceCoordinateCache if still else modes.NoCache)

    def redraw_over(self) -> None:
        """Draw anew what lies over the drawing, and nothing else."""
        if self._drawing is not None and self._drawn_for is not None:
            self._over.record(self.draw_over())
            self.viewport().update()

    def redraw(self) -> None:
        """Draw it anew when it is next looked at."""
        self._drawn_for = None
        self.viewport().update()

    def room(self) -> tuple[float, float]:
        """Return the room for the drawing, in its own pixels."""
        size = self.maximumViewportSize()
        if self.flows:
            return (size.width() - BAR_PX) / self.zoom, size.height() / self.zoom
        return float(size.width()), float(size.height())

    @property
    def drawing(self) -> Scene | None:
        """Return the drawing as it stands, made when something of it changed."""
        room = self.room()
        if self._drawn_for != room:
            self._drawn_for = room
            self._drawing = said(self.draw(*room))
            self._painted.record(self._drawing)
            self._over.record(self.draw_over() if self._drawing else None)
            if self._drawing is not None:
                self.setSceneRect(0, 0, self._drawing.width, self._drawing.height)
                if not self.flows:
                    wide, high = room[0] / self._drawing.width, room[1] / self._drawing.height
                    self._shrunk = min(1.0, wide, high)
            self._scale()
        return self._drawing

    def _scale(self) -> None:
        """Show it at its zoom; what does not fit into the room is smaller at zoom 1."""
        scale = self.zoom * self._shrunk
        if self.transform().m11() != scale:
            self.setTransform(QTransform.fromScale(scale, scale))

    @property
    def place(self) -> int | None:
        """Return which area the keys have come to."""
        areas = self._drawing.areas if self._drawing else ()
        ref, index = self._at
        if 0 <= index < len(areas) and areas[index].ref == ref:
            return index
        return next((i for i, area in enumerate(areas) if ref and area.ref == ref), None)

    def stand_on(self, ref: str) -> None:
        """Let the keys go on from an area."""
        if ref != self._at[0]:
            self._at = ref, -1

    def spot(self, ref: str) -> QPoint:
        """Return where an area is on the screen, in the pixels of the viewport."""
        drawing = self.drawing
        assert drawing is not None
        area = next(area for area in drawing.areas if area.ref == ref)
        return self.mapFromScene(QPointF(*area.middle))

    def hit(self, point: QPoint) -> Area | None:
        """Return the area at a place of the viewport: boxes first, then the nearest line."""
        drawing = self.drawing
        if drawing is None:
            return None
        place = self.mapToScene(point)
        x, y = place.x(), place.y()
        for area in drawing.areas:
            if not area.way and area.box.holds(x, y):
                return area
        near = [(area.away(x, y), index) for index, area in enumerate(drawing.areas) if area.way]
        if near and min(near)[0] <= NEAR_PX / self.transform().m11():
            return drawing.areas[min(near)[1]]
        return None

    def told(self, area: Area) -> str:
        """Return what is said of an area under the mouse."""
        return area.words

    # larger and smaller

    def zoom_to(self, zoom: float) -> None:
        """Show it at a scale; 1 is the usual one."""
        self.zoom = max(LEAST_ZOOM, min(MOST_ZOOM, zoom))
        if not self.flows:
            self.zoom = max(1.0, self.zoom)
        self._scale()
        if self.flows:
            self.redraw()

    def zoom_by(self, share: float) -> None:
        """Show it larger or smaller."""
        self._fitted = None
        self.zoom_to(self.zoom * share)

    def fit_all(self) -> None:
        """Show all of it at once, as large as goes, and keep it so in another room."""
        self._fitted = size = self.maximumViewportSize()
        zoom = 1.0
        if self.flows:
            zoom = 1.25
            while zoom > LEAST_ZOOM:
                wide, high = self.laid_out((size.width() - BAR_PX) / zoom, size.height() / zoom)
                if high * zoom <= size.height() and wide * zoom <= size.width():
                    break
                zoom /= 1.08
        self.zoom_to(zoom)

    def laid_out(self, width: float, height: float) -> tuple[float, float]:
        """Return how wide and high the drawing is in so much room."""
        drawing = said(self.draw(width, height))
        return (drawing.width, drawing.height) if drawing else (0.0, 0.0)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom with Ctrl; else scroll, or let the page scroll."""
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.1 if event.angleDelta().y() > 0 else 1 / 1.1)
            event.accept()
        else:
            super().wheelEvent(event)

    # the mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose what is under the mouse, or begin to move the drawing."""
        area = self.hit(event.position().toPoint())
        if area is not None and event.button() == Qt.MouseButton.LeftButton:
            self._come_to(area)
            self._choose(area)
        elif event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            self._panned = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the drawing, or show that there is something to choose."""
        here = event.position().toPoint()
        if self._panned is not None and event.buttons():
            moved = here - self._panned
            self._panned = here
            for bar, by in (
                (self.horizontalScrollBar(), moved.x()),
                (self.verticalScrollBar(), moved.y()),
            ):
                bar.setValue(bar.value() - by)
            return
        over = self.hit(here) is not None
        shape = Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
        self.viewport().setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Leave the drawing where it is."""
        self._panned = None

    def viewportEvent(self, event: QEvent) -> bool:
        """Say what is under the mouse."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            area = self.hit(event.pos())
            if area is None and self.toolTip():
                return super().viewportEvent(event)
            QToolTip.showText(event.globalPos(), self.told(area) if area else "", self)
            return True
        return super().viewportEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Offer what can be done with an area: under the mouse, or where the keys are."""
        area, where = self.hit(event.pos()), event.globalPos()
        if event.reason() == QContextMenuEvent.Reason.Keyboard:
            drawing, place = self.drawing, self.place
            area = drawing.areas[place] if drawing and place is not None else None
            if area is not None:
                where = self.viewport().mapToGlobal(self.mapFromScene(QPointF(*area.middle)))
        if area is not None and area.ref:
            self.asked.emit(area.ref, where)

    # the keyboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk with the arrows, choose with Enter, zoom with Ctrl and + − 0."""
        key = Qt.Key(event.key())
        drawing = self.drawing
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            zooms = {Qt.Key.Key_Plus: 1.2, Qt.Key.Key_Equal: 1.2, Qt.Key.Key_Minus: 1 / 1.2}
            if key in zooms:
                self.zoom_by(zooms[key])
            elif key == Qt.Key.Key_0:
                self.fit_all()
            else:
                event.ignore()
        elif key in ARROWS and drawing is not None and drawing.areas:
            area = self.beside(*ARROWS[key])
            if area is not None:
                self._come_to(area)
                if self.walks:
                    self._choose(area)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and (
            drawing is not None and (place := self.place) is not None
        ):
            self._choose(drawing.areas[place])
        else:
            event.ignore()

    def beside(self, across: int, down: int) -> Area | None:
        """Return the next area in a direction: those straight ahead before those to the side."""
        drawing = self.drawing
        assert drawing is not None
        place = self.place
        if place is None:
            return drawing.areas[0]
        here = drawing.areas[place]
        x, y = here.middle
        best: tuple[float, int] | None = None
        for index, area in enumerate(drawing.areas):
            to_x, to_y = area.middle.x - x, area.middle.y - y
            along = to_x * across + to_y * down
            aside = abs(to_x * down) + abs(to_y * across)
            if area is here or along < 2 or aside > along:
                continue
            away = math.hypot(along, aside) + 4 * aside
            if best is None or away < best[0]:
                best = away, index
        return drawing.areas[best[1]] if best else None

    def _come_to(self, area: Area) -> None:
        drawing = self.drawing
        assert drawing is not None
        self._at = area.ref, next(i for i, other in enumerate(drawing.areas) if other is area)
        self.setAccessibleDescription(self.told(area))
        self.ensureVisible(QRectF(*area.box), 12, 12)
        self.viewport().update()

    def _choose(self, area: Area) -> None:
        self.picked.emit(area.ref)

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the drawing, or say why there is none."""
        if self.drawing is not None:
            super().paintEvent(event)
            return
        painter = QPainter(self.viewport())
        painter.setPen(colour("faint"))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(self.viewport().rect(), flags, self.empty)

    def drawForeground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        """Ring what the keys have come to."""
        place = self.place
        if place is None or self._drawing is None or self.walks or not self.hasFocus():
            return
        area = self._drawing.areas[place]
        painter.setPen(QPen(colour("copper"), 1.6, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(*area.box.grown(1, 1)), 5, 5)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit it anew, if it was fitted; it is laid out for the new room when it is painted."""
        super().resizeEvent(event)
        if self._fitted is not None and self._fitted != self.maximumViewportSize():
            self.fit_all()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the focus."""
        super().focusInEvent(event)
        self._focus_moved()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Hide the focus."""
        super().focusOutEvent(event)
        self._focus_moved()

    def _focus_moved(self) -> None:
        if self.shows_focus:
            self.redraw()
        else:
            self.viewport().update()
