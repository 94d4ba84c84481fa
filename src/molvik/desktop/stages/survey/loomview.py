"""The loom as found, drawn to scale, with its faults."""

import weakref

from PySide6.QtCore import QEvent, QLineF, QPointF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QToolTip, QWidget

from molvik.analysis import Analysis
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.painting import paint_scene
from molvik.model.loom import Loom
from molvik.model.loom_edits import find
from molvik.survey.drawing import NAME_PX, LoomDrawing
from molvik.survey.layout import Point, lay_out

NEAR = 9.0
"""A click this near, px, hits."""


class LoomView(QWidget):
    """Nodes, stretches and faults. chosen(code): one was clicked."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        # Held by the window as long as it is shown: out of sight, this must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self._loom: Loom | None = None
        self._places: dict[str, Point] = {}
        self._hand = ""
        self._drawn: tuple[tuple[object, ...], LoomDrawing] | None = None
        self.setMinimumHeight(180)
        self.setAccessibleName("The loom as found, drawn to scale")

    def show_loom(self, analysis: Analysis) -> None:
        """Show the loom as the job has it."""
        if self._loom != analysis.job.loom:
            self._drawn = None
            self._places = lay_out(analysis.loom)
        self._loom, self._seen = analysis.job.loom, weakref.ref(analysis)
        self.update()

    @property
    def _analysis(self) -> Analysis | None:
        return self._seen() if self._seen else None

    def hold(self, code: str) -> None:
        """Mark what is in hand: a node, a stretch, the way of a wire, the reach of a fault."""
        self._hand = code
        self.update()

    def sizeHint(self) -> QSize:
        """Return a size with room for the names."""
        return QSize(700, 280)

    @property
    def drawing(self) -> LoomDrawing | None:
        """Return the loom as it is drawn, made when something of it changed; None without one."""
        if self._analysis is None or not self._places:
            return None
        tree, places = self._analysis.loom, self._places
        wanted = id(places), self.width(), self.height(), self._hand
        if self._drawn is None or self._drawn[0] != wanted or self._drawn[1].tree is not tree:
            drawn = LoomDrawing(tree, places, self.width(), self.height(), self._hand, _measured)
            self._drawn = wanted, drawn
        return self._drawn[1]

    def _hit(self, point: QPointF) -> str:
        """Return the code under a point: a fault before a node before a stretch."""
        drawing = self.drawing
        if drawing is None:
            return ""
        for area in drawing.scene.areas:
            if area.box.holds(point.x(), point.y()):
                return area.ref
        for segment in drawing.tree.loom.segments:
            if segment.start and segment.finish:
                start, end = (QPointF(*drawing.along(segment, share)) for share in (0.0, 1.0))
                if _from_line(start, end, point) <= NEAR:
                    return segment.code
        return ""

    # events

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take what is under the mouse in hand."""
        code = self._hit(event.position())
        if code:
            self.chosen.emit(code)

    def event(self, event: QEvent) -> bool:
        """Say what is under the mouse."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            code = self._hit(QPointF(event.pos()))
            if code and self._analysis is not None:
                from molvik.desktop.stages.survey.found import show_found

                thing = find(self._analysis.job.loom, code)
                assert thing is not None  # it was just hit
                shown = show_found(self._analysis, thing)
                QToolTip.showText(event.globalPos(), f"{shown.title}\n{shown.under}", self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the loom."""
        painter = QPainter(self)
        drawing = self.drawing
        if drawing is None:
            painter.setPen(colour("faint"))
            words = "Nothing laid out yet. Type a stretch below: from, to and its length."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        paint_scene(painter, drawing.scene)


def _measured(words: str, bold: bool) -> float:
    return QFontMetricsF(font(NAME_PX, bold=bold)).horizontalAdvance(words)


def _from_line(start: QPointF, end: QPointF, point: QPointF) -> float:
    """Return how far a point lies from a line between two others."""
    along = end - start
    square = QPointF.dotProduct(along, along)
    share = QPointF.dotProduct(point - start, along) / square if square else 0.0
    return QLineF(start + along * min(1.0, max(0.0, share)), point).length()
