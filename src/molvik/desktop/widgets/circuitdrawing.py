"""Lines of stops as a drawing: where each stands, and how it is painted, on screen and on paper."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from molvik.circuits.route import Leg, Line, Shape, Stop, volts_text
from molvik.desktop.theme import colour, font

WIDE = 112.0
"""From one stop to the next."""

HIGH = 106.0
"""From one row of stops to the next."""

MARGIN = 10.0
HEAD = 26.0
SIZE = 22.0


class Placed(NamedTuple):
    """A stop in its place. line, at: which stop of which line."""

    stop: Stop
    line: int
    at: int
    centre: QPointF

    @property
    def area(self) -> QRectF:
        """What belongs to it, for the mouse."""
        return QRectF(self.centre.x() - WIDE / 2, self.centre.y() - 46, WIDE, 92)


class Layout(NamedTuple):
    """Where everything stands. heads: titles with their places; turns: where rows go on."""

    placed: tuple[Placed, ...]
    heads: tuple[tuple[str, QPointF], ...]
    size: QSizeF
    lines: tuple[Line, ...]


def lay_out(lines: tuple[Line, ...], width: float) -> Layout:
    """Place lines within a width; a line that is too long goes on in the next row."""
    in_row = max(2, int((width - 2 * MARGIN) // WIDE))
    placed: list[Placed] = []
    heads: list[tuple[str, QPointF]] = []
    y = MARGIN
    for number, line in enumerate(lines):
        heads.append((line.title, QPointF(MARGIN, y + 12)))
        y += HEAD
        for at, stop in enumerate(line.stops):
            row, column = divmod(at, in_row)
            x = MARGIN + WIDE * (column + 0.5)
            placed.append(Placed(stop, number, at, QPointF(x, y + HIGH * row + 46)))
        y += HIGH * ((len(line.stops) - 1) // in_row + 1)
    most = max((one.centre.x() for one in placed), default=MARGIN) + WIDE / 2
    return Layout(tuple(placed), tuple(heads), QSizeF(most + MARGIN, y + MARGIN), lines)


def paint(painter: QPainter, layout: Layout, chosen: str = "", focus: int = -1) -> None:
    """Paint lines; the chosen code is ringed, and so is the stop with the keyboard."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for title, place in layout.heads:
        _text(painter, title, QRectF(place.x(), place.y() - 12, 900, 18), font(12, bold=True),
              "faint", Qt.AlignmentFlag.AlignLeft)  # fmt: skip
    by_line: dict[int, list[Placed]] = {}
    for one in layout.placed:
        by_line.setdefault(one.line, []).append(one)
    for number, stops in by_line.items():
        for leg, a, b in zip(layout.lines[number].legs, stops[:-1], stops[1:], strict=True):
            _leg(painter, leg, a.centre, b.centre, ringed=chosen in leg.wires)
    for at, one in enumerate(layout.placed):
        ringed = bool(chosen) and one.stop.code == chosen
        _stop(painter, one, ringed=ringed, focused=at == focus)
        last = one.at == len(layout.lines[one.line].stops) - 1
        beside = layout.lines[one.line].beside
        if one.stop.shape == "splice" and beside and not last:
            words = f"and {beside[0]}" if len(beside) == 1 else f"and {len(beside)} more"
            _text(painter, words, QRectF(one.centre.x() - WIDE / 2, one.centre.y() + 32, WIDE, 16),
                  font(11), "faint", Qt.AlignmentFlag.AlignHCenter)  # fmt: skip


def _pen(good: bool) -> QPen:
    pen = QPen(colour("live" if good else "line"), 5.0 if good else 4.0)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    if not good:
        pen.setDashPattern([2.6, 1.8])
    return pen


def _leg(painter: QPainter, leg: Leg, a: QPointF, b: QPointF, *, ringed: bool) -> None:
    painter.setPen(_pen(leg.good))
    if a.y() == b.y():
        painter.drawLine(QPointF(a.x() + SIZE / 2, a.y()), QPointF(b.x() - SIZE / 2, b.y()))
        label = QRectF(a.x() + SIZE / 2, a.y() + 4, b.x() - a.x() - SIZE, 14)
    else:
        # On to the next row: out to the right, and in from the left.
        painter.drawLine(QPointF(a.x() + SIZE / 2, a.y()), QPointF(a.x() + WIDE / 2, a.y()))
        painter.drawLine(QPointF(b.x() - WIDE / 2, b.y()), QPointF(b.x() - SIZE / 2, b.y()))
        _arrow(painter, QPointF(a.x() + WIDE / 2, a.y()), leg.good)
        label = QRectF(b.x() - WIDE / 2 - 2, b.y() + 4, WIDE / 2 - SIZE / 2, 14)
    if leg.wires:
        words = leg.wires[0] if len(leg.wires) == 1 else f"{len(leg.wires)} wires"
        role = "copper" if ringed else "faint"
        face = font(10, mono=True, bold=ringed)
        _text(painter, words, label, face, role, Qt.AlignmentFlag.AlignHCenter)


def _arrow(painter: QPainter, tip: QPointF, good: bool) -> None:
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("live" if good else "line"))
    x, y = tip.x(), tip.y()
    painter.drawPolygon(
        QPolygonF([QPointF(x - 2, y - 7), QPointF(x + 8, y), QPointF(x - 2, y + 7)])
    )
    painter.restore()


def _stop(painter: QPainter, one: Placed, *, ringed: bool, focused: bool) -> None:
    stop, centre = one.stop, one.centre
    edge = QColor(colour("live" if stop.good else "faint"))
    box = QRectF(centre.x() - SIZE / 2, centre.y() - SIZE / 2, SIZE, SIZE)
    if ringed or focused:
        painter.setPen(QPen(colour("copper"), 2.0, Qt.PenStyle.SolidLine if ringed
                            else Qt.PenStyle.DotLine))  # fmt: skip
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box.adjusted(-5, -5, 5, 5), 7, 7)
    painter.setPen(QPen(edge, 2.6))
    painter.setBrush(colour("sheet"))
    _shape(painter, stop.shape, box)
    if stop.shape in ("contact", "fuse", "computer"):
        _contact(painter, box, edge, closed=stop.closed)
    top = QRectF(centre.x() - WIDE / 2 + 3, centre.y() - 46, WIDE - 6, 16)
    _text(painter, stop.title, top, font(12, bold=True), "ink", Qt.AlignmentFlag.AlignHCenter)
    under = stop.under if stop.closed or stop.shape == "gap" else f"{stop.under}, open"
    role = "faint" if stop.closed else "stop"
    _text(painter, under, top.translated(0, 15), font(11), role, Qt.AlignmentFlag.AlignHCenter)
    words = volts_text(stop.volts) or ("" if stop.shape == "gap" else "floating")
    _text(painter, words, QRectF(top.left(), centre.y() + 17, top.width(), 16),
          font(12, bold=True), "live_text" if stop.good else "faint",
          Qt.AlignmentFlag.AlignHCenter)  # fmt: skip


def _shape(painter: QPainter, shape: Shape, box: QRectF) -> None:
    match shape:
        case "source" | "load":
            painter.drawEllipse(box)
            if shape == "source":
                painter.drawEllipse(box.adjusted(6, 6, -6, -6))
        case "fuse":
            painter.drawRoundedRect(box.adjusted(-4, 4, 4, -4), 7, 7)
        case "splice":
            middle = box.center()
            painter.drawPolygon(
                QPolygonF(
                    [
                        QPointF(middle.x(), box.top()),
                        QPointF(box.right(), middle.y()),
                        QPointF(middle.x(), box.bottom()),
                        QPointF(box.left(), middle.y()),
                    ]
                )
            )
        case "earth":
            # The earth of IEC 60617: lines that grow shorter.
            painter.drawLine(QPointF(box.center().x(), box.top()), box.center())
            for at, share in enumerate((1.0, 0.6, 0.25)):
                y = box.center().y() + at * 4.5
                half = box.width() / 2 * share
                across = box.center().x()
                painter.drawLine(QPointF(across - half, y), QPointF(across + half, y))
        case "bar":
            painter.drawRect(box.adjusted(6, 0, -6, 0))
        case "computer":
            painter.drawRoundedRect(box.adjusted(-4, -2, 4, 2), 3, 3)
        case "gap":
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())
        case "fold":
            painter.drawRoundedRect(box.adjusted(-8, 3, 8, -3), 8, 8)
            for at in (-6, 0, 6):
                painter.drawPoint(QPointF(box.center().x() + at, box.center().y()))
        case _:
            painter.drawRoundedRect(box, 4, 4)


def _contact(painter: QPainter, box: QRectF, edge: QColor, *, closed: bool) -> None:
    """A bar through what lets current through, a slash through what does not."""
    middle = box.center().y()
    painter.setPen(QPen(edge, 2.2))
    if closed:
        painter.drawLine(QPointF(box.left() + 4, middle), QPointF(box.right() - 4, middle))
    else:
        painter.setPen(QPen(colour("stop"), 2.4))
        painter.drawLine(QPointF(box.left() + 5, middle + 5), QPointF(box.right() - 5, middle - 6))


def _text(
    painter: QPainter, words: str, box: QRectF, face: QFont, role: str, align: Qt.AlignmentFlag
) -> None:
    painter.setFont(face)
    painter.setPen(colour(role))
    shown = QFontMetricsF(face).elidedText(words, Qt.TextElideMode.ElideRight, box.width() + 1)
    painter.drawText(box, align | Qt.AlignmentFlag.AlignVCenter, shown)
