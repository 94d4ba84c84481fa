"""The loom as found, drawn to scale, with its faults."""

import weakref

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from molvik.analysis import Analysis
from molvik.desktop.theme import colour, font
from molvik.model.loom import Fault, FoundWire, Loom, Segment
from molvik.model.loom_edits import find
from molvik.survey.decide import decide
from molvik.survey.drawing import Point, lay_out
from molvik.survey.spread import stretches_of

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
        self.setMinimumHeight(180)
        self.setAccessibleName("The loom as found, drawn to scale")

    def show_loom(self, analysis: Analysis) -> None:
        """Show the loom as the job has it."""
        if self._loom != analysis.job.loom:
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

    # geometry

    def _scale(self) -> tuple[float, float, float]:
        """Return pixels a metre and the left and top margins."""
        xs = [p.x for p in self._places.values()]
        ys = [p.y for p in self._places.values()]
        wide, high = max(xs) - min(xs) or 0.5, max(ys) - min(ys) or 0.5
        scale = min((self.width() - 150) / wide, (self.height() - 64) / high)
        left = (self.width() - wide * scale) / 2 - min(xs) * scale
        top = (self.height() - high * scale) / 2 - min(ys) * scale
        return scale, left, top

    def _at(self, point: Point) -> QPointF:
        scale, left, top = self._scale()
        return QPointF(left + point.x * scale, top + point.y * scale)

    def _along(self, segment: Segment, share: float) -> QPointF:
        start, end = self._at(self._places[segment.start]), self._at(self._places[segment.finish])
        return start + (end - start) * share

    def _spot(self, fault: Fault) -> QPointF | None:
        """Return where a fault is drawn."""
        assert self._analysis is not None
        tree = self._analysis.loom
        on = find(tree.loom, fault.on)
        if on is not None and on.code in self._places:
            return self._at(self._places[on.code])
        if isinstance(on, Segment):
            place: tuple[str, float] | None = (on.code, fault.at_m or (on.length_m or 0) / 2)
        elif isinstance(on, FoundWire) and tree.ways[on.code]:
            place = tree.place(on.code, fault.at_m if fault.at_m is not None else 0.0)
        else:
            place = None
        if place is None:
            return None
        segment = tree.segments[place[0]]
        if segment.start not in self._places or segment.finish not in self._places:
            return None
        return self._along(segment, min(1.0, place[1] / (segment.length_m or 1.0)))

    def _hit(self, point: QPointF) -> str:
        """Return the code under a point: a fault before a node before a stretch."""
        if self._analysis is None or not self._places:
            return ""
        loom = self._analysis.job.loom
        for fault in loom.faults:
            spot = self._spot(fault)
            if spot is not None and _distance(spot, point) <= NEAR:
                return fault.code
        for node in loom.nodes:
            if _distance(self._at(self._places[node.code]), point) <= NEAR:
                return node.code
        for segment in loom.segments:
            if segment.start and segment.finish:
                start = self._along(segment, 0.0)
                if _from_line(start, self._along(segment, 1.0), point) <= NEAR:
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
                from molvik.desktop.found import show_found

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
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._analysis is None or not self._places:
            painter.setPen(colour("faint"))
            words = "Nothing laid out yet. Type a stretch below: from, to and its length."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        tree = self._analysis.loom
        held = self._held()
        for segment in tree.loom.segments:
            if not (segment.start and segment.finish):
                continue
            width = max(2.5, min(13.0, (segment.diameter_mm or 5) * 0.7))
            style = Qt.PenStyle.SolidLine if segment.length_m else Qt.PenStyle.DashLine
            tint = "copper" if segment.code in held else "line"
            painter.setPen(QPen(colour(tint), width, style, Qt.PenCapStyle.RoundCap))
            painter.drawLine(self._along(segment, 0.0), self._along(segment, 1.0))
        for node in tree.loom.nodes:
            self._paint_node(painter, node.code)
        self._paint_names(painter)
        for fault in tree.loom.faults:
            self._paint_fault(painter, fault)
        self._paint_rule(painter)

    def _held(self) -> set[str]:
        """Return the stretches that belong to what is in hand."""
        assert self._analysis is not None
        tree = self._analysis.loom
        thing = find(tree.loom, self._hand)
        if isinstance(thing, Segment):
            return {thing.code}
        if isinstance(thing, FoundWire):
            return {stretch.segment for stretch in tree.ways[thing.code]}
        if isinstance(thing, Fault):
            return {stretch.segment for stretch in stretches_of(tree, thing)}
        return set()

    def _paint_node(self, painter: QPainter, code: str) -> None:
        assert self._analysis is not None
        tree = self._analysis.loom
        node, at = tree.nodes[code], self._at(self._places[code])
        end = tree.is_end(code)
        lost = node.state in ("missing", "cut off")
        tint = "stop" if lost else "copper" if code == self._hand else "ink"
        painter.setPen(QPen(colour(tint), 2.2 if code == self._hand or lost else 1.4))
        painter.setBrush(colour("sheet"))
        if lost:
            painter.drawLine(at + QPointF(-5, -5), at + QPointF(5, 5))
            painter.drawLine(at + QPointF(-5, 5), at + QPointF(5, -5))
        elif end:
            painter.drawRoundedRect(QRectF(at.x() - 5, at.y() - 5, 10, 10), 2, 2)
        else:
            painter.drawEllipse(at, 4, 4)

    def _paint_names(self, painter: QPainter) -> None:
        """Name the ends, each where there is room for it; a tooltip names the others."""
        assert self._analysis is not None
        tree = self._analysis.loom
        taken = [self._box(self._at(place), 6, 6) for place in self._places.values()]
        in_order = sorted(tree.loom.nodes, key=lambda node: node.code != self._hand)
        for node in in_order:
            held = node.code == self._hand
            if not (tree.is_end(node.code) or held):
                continue
            painter.setFont(font(11, bold=held))
            words = node.name if node.state == "found" else f"{node.name}, {node.state}"
            metrics = painter.fontMetrics()
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, 160)
            wide = metrics.horizontalAdvance(shown) + 2.0
            at = self._at(self._places[node.code])
            for shift in (QPointF(0, 15), QPointF(0, -15), QPointF(wide / 2 + 9, 0),
                          QPointF(-wide / 2 - 9, 0)):  # fmt: skip
                box = self._box(at + shift, wide / 2, 7)
                inside = QRectF(self.rect()).contains(box)
                if inside and not any(box.intersects(other) for other in taken):
                    lost = node.state in ("missing", "cut off")
                    painter.setPen(colour("stop" if lost else "copper" if held else "ink"))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, shown)
                    taken.append(box)
                    break

    @staticmethod
    def _box(middle: QPointF, half_wide: float, half_high: float) -> QRectF:
        corner = QPointF(half_wide, half_high)
        return QRectF(middle - corner, middle + corner)

    def _paint_fault(self, painter: QPainter, fault: Fault) -> None:
        assert self._analysis is not None
        spot = self._spot(fault)
        if spot is None:
            return
        left = decide(self._analysis.loom, fault).action == "leave"
        role = "faint" if left else "stop" if fault.grade == 4 else "live"
        painter.setPen(QPen(colour("sheet"), 1.2))
        painter.setBrush(colour(role))
        size = 6.5 if fault.code == self._hand else 5.0
        corners = ((0, -size), (size, size), (-size, size))
        painter.drawPolygon([spot + QPointF(x, y) for x, y in corners])

    def _paint_rule(self, painter: QPainter) -> None:
        """Paint a rule of half a metre, so that the scale can be seen."""
        scale = self._scale()[0]
        y = self.height() - 9.0
        painter.setPen(QPen(colour("faint"), 1.4))
        painter.drawLine(QPointF(10, y), QPointF(10 + scale / 2, y))
        for x in (10.0, 10 + scale / 2):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setFont(font(11))
        painter.drawText(QPointF(16 + scale / 2, y + 4), "0.5 m")


def _distance(one: QPointF, other: QPointF) -> float:
    gap = one - other
    return float((gap.x() ** 2 + gap.y() ** 2) ** 0.5)


def _from_line(start: QPointF, end: QPointF, point: QPointF) -> float:
    """Return how far a point lies from a line between two others."""
    along = end - start
    square = QPointF.dotProduct(along, along)
    share = QPointF.dotProduct(point - start, along) / square if square else 0.0
    return _distance(start + along * min(1.0, max(0.0, share)), point)
