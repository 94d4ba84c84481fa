"""The key switch, turned by the mouse, the wheel or the keys."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from molvik.desktop.theme import colour, font
from molvik.netlist.states import KEYS

ANGLES = dict(zip(KEYS, (150.0, 110.0, 60.0, 15.0), strict=True))
"""Where each position is, in degrees against the clock from the right."""

RADIUS = 38.0


class KeyDial(QWidget):
    """A key switch with its positions round it. turned(position) when the user turns it."""

    turned = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.position = KEYS[2]
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Key")
        self.setToolTip("Turn the key: click a position, the wheel, or the arrow keys")
        self.setFixedHeight(132)
        self._say()

    def sizeHint(self) -> QSize:
        """Return a size that fits the work column."""
        return QSize(190, 132)

    def turn_to(self, position: str) -> None:
        """Show the key in a position, without a signal."""
        self.position = position
        self._say()
        self.update()

    def _say(self) -> None:
        self.setAccessibleDescription(f"The key is at {self.position}")

    def _turn(self, position: str) -> None:
        if position != self.position:
            self.turn_to(position)
            self.turned.emit(position)

    def _step(self, by: int) -> None:
        index = KEYS.index(self.position) + by
        self._turn(KEYS[max(0, min(len(KEYS) - 1, index))])

    def _centre(self) -> QPointF:
        return QPointF(self.width() / 2, 82)

    def place(self, position: str) -> QRectF:
        """Return where the name of a position stands."""
        angle = math.radians(ANGLES[position])
        centre = self._centre()
        x = centre.x() + math.cos(angle) * (RADIUS + 32)
        y = centre.y() - math.sin(angle) * (RADIUS + 20)
        return QRectF(x - 38, y - 14, 76, 28)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Turn to the position that is clicked."""
        for position in KEYS:
            if self.place(position).contains(event.position()):
                self._turn(position)
                return

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Turn a step."""
        self._step(1 if event.angleDelta().y() < 0 else -1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Turn by the arrow keys."""
        match event.key():
            case Qt.Key.Key_Right | Qt.Key.Key_Up:
                self._step(1)
            case Qt.Key.Key_Left | Qt.Key.Key_Down:
                self._step(-1)
            case _:
                super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the lock, the key and the positions."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        centre = self._centre()
        if self.hasFocus():
            painter.setPen(QPen(colour("copper"), 1.5, Qt.PenStyle.DotLine))
            painter.drawEllipse(centre, RADIUS + 5, RADIUS + 5)
        painter.setPen(QPen(colour("faint"), 2))
        painter.setBrush(colour("sheet"))
        painter.drawEllipse(centre, RADIUS, RADIUS)
        painter.save()
        painter.translate(centre)
        painter.rotate(-ANGLES[self.position])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("copper"))
        painter.drawRoundedRect(QRectF(-RADIUS + 7, -7, 2 * RADIUS - 14, 14), 5, 5)
        painter.setBrush(colour("sheet"))
        painter.drawEllipse(QPointF(RADIUS - 15, 0), 3.5, 3.5)
        painter.restore()
        for position in KEYS:
            here = position == self.position
            painter.setPen(colour("copper" if here else "ink"))
            painter.setFont(font(13, bold=here))
            shown = "acc." if position == "accessory" else position
            painter.drawText(self.place(position), Qt.AlignmentFlag.AlignCenter, shown)
