"""Time against current on logarithmic axes: the fuse's band, what the wire stands, what flows."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from molvik.desktop.theme import colour, font
from molvik.sizes.curves import FROM_S, TO_S, Curve, Curves

LEFT, RIGHT, TOP, BOTTOM = 52, 14, 22, 30


class CurvePlot(QWidget):
    """Draws the curves of one wire; empty without any."""

    def __init__(self) -> None:
        super().__init__()
        self.curves: Curves | None = None
        self._from_a, self._to_a = 1.0, 1000.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(250)

    def sizeHint(self) -> QSize:
        """Return a size that shows three decades well."""
        return QSize(560, 250)

    def show_curves(self, curves: Curves | None) -> None:
        """Draw other curves."""
        self.curves = curves
        self.setVisible(curves is not None)
        if curves is None:
            return
        every = [amps for curve in (curves.quick, curves.slow, curves.stands) for amps, _ in curve]
        inrush = curves.inrush[0] if curves.inrush else None
        every += [amps for amps in (curves.load_a, curves.short_a, inrush) if amps]
        self._from_a = 10 ** math.floor(math.log10(max(0.1, min(every))))
        self._to_a = 10 ** math.ceil(math.log10(max(every)))
        verdict = "protects" if curves.protects else "does not protect"
        words = f"{curves.fuse} {verdict} the wire at every current"
        self.setAccessibleName("Time against current")
        self.setAccessibleDescription(words)
        self.setToolTip(
            f"{words}. The fuse opens somewhere in its band, at the latest on its upper edge; the "
            "wire must stand that. Both axes are logarithmic."
        )
        self.update()

    def place(self, amps: float, seconds: float) -> QPointF:
        """Return where a current and a time are."""
        across = math.log(amps / self._from_a) / math.log(self._to_a / self._from_a)
        up = math.log(seconds / FROM_S) / math.log(TO_S / FROM_S)
        width, height = self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM
        return QPointF(LEFT + across * width, TOP + (1 - up) * height)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint axes, band, curves and currents."""
        if self.curves is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._axes(painter, QRectF(LEFT, TOP, self.width() - LEFT - RIGHT,
                                   self.height() - TOP - BOTTOM))  # fmt: skip
        painter.setClipRect(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)
        curves = self.curves
        band = [self.place(*point) for point in curves.slow]
        band += [self.place(*point) for point in reversed(curves.quick)]
        wash = colour("live")
        wash.setAlpha(70)
        painter.setPen(QPen(colour("live"), 1.2))
        painter.setBrush(wash)
        painter.drawPolygon(QPolygonF(band))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._curve(painter, curves.stands, QPen(colour("proved"), 2.6))
        self._curve(painter, curves.melts, QPen(colour("stop"), 2.0, Qt.PenStyle.DashLine))
        painter.setClipping(False)
        if curves.inrush is not None:
            place = self.place(*curves.inrush)
            painter.setPen(QPen(colour("ink"), 1.6))
            painter.setBrush(colour("paper"))
            painter.drawEllipse(place, 4.5, 4.5)
            painter.setFont(font(11, bold=True))
            painter.setPen(colour("ink"))
            painter.drawText(QRectF(place.x() - 126, place.y() - 8, 118, 16),
                             Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                             f"start {curves.inrush[0]:.3g} A")  # fmt: skip
        for amps, name, role in (
            (curves.load_a, "load", "ink"), (curves.short_a, "short", "stop"),
        ):  # fmt: skip
            if amps and self._from_a <= amps <= self._to_a:
                x = self.place(amps, 1.0).x()
                painter.setPen(QPen(colour(role), 1.4, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(x, TOP), QPointF(x, self.height() - BOTTOM))
                painter.setPen(colour(role))
                painter.setFont(font(11, bold=True))
                box = QRectF(x - 60, 4, 120, 16)
                words = f"{name} {amps:.3g} A"
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        self._legend(painter)

    def _curve(self, painter: QPainter, curve: Curve, pen: QPen) -> None:
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF([self.place(*point) for point in curve]))

    def _axes(self, painter: QPainter, box: QRectF) -> None:
        painter.setFont(font(11))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for seconds, name in ((0.01, "10 ms"), (0.1, "0.1 s"), (1.0, "1 s"), (10.0, "10 s"),
                              (60.0, "1 min"), (600.0, "10 min"), (3600.0, "1 h"),
                              (36_000.0, "10 h"), (360_000.0, "100 h")):  # fmt: skip
            y = self.place(self._from_a, seconds).y()
            painter.setPen(QPen(colour("rule"), 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(colour("faint"))
            painter.drawText(QRectF(0, y - 8, LEFT - 6, 16), right, name)
        decade = self._from_a
        while decade <= self._to_a * 1.01:
            x = self.place(decade, 1.0).x()
            painter.setPen(QPen(colour("rule"), 1))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            painter.setPen(colour("faint"))
            place = QRectF(min(x - 40, self.width() - 80), box.bottom() + 4, 80, 16)
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, f"{decade:g} A")
            decade *= 10
        painter.setPen(QPen(colour("line"), 1.2))
        painter.drawRect(box)

    def _legend(self, painter: QPainter) -> None:
        assert self.curves is not None
        painter.setFont(font(11))
        x, y = self.width() - RIGHT - 196.0, TOP + 14.0  # where no curve goes
        for name, role, style in (
            (f"{self.curves.fuse} opens in here", "live", Qt.PenStyle.SolidLine),
            ("the wire stands it", "proved", Qt.PenStyle.SolidLine),
            ("its copper melts", "stop", Qt.PenStyle.DashLine),
        ):
            painter.setPen(QPen(colour(role), 3, style))
            painter.drawLine(QPointF(x, y), QPointF(x + 22, y))
            painter.setPen(colour("ink"))
            painter.drawText(QRectF(x + 28, y - 8, 168, 16), Qt.AlignmentFlag.AlignVCenter, name)
            y += 16
