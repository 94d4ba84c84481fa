"""The key switch as a row of its positions, turned by the mouse, the wheel or the keys."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from molvik.desktop.theme import colour, font
from molvik.devices.states import KEYS

WIDTHS = dict(zip(KEYS, (46.0, 48.0, 46.0, 58.0), strict=True))
SHOWN = {"accessory": "acc."}
HEIGHT = 40


class KeyDial(QWidget):
    """A key switch with its positions side by side. turned(position) when the user turns it."""

    turned = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.position = KEYS[2]
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Key")
        self.setToolTip("Turn the key: click a position, the wheel, or the arrow keys")
        self.setFixedSize(self.sizeHint())
        self._say()

    def sizeHint(self) -> QSize:
        """Return a size with room for the name and all positions."""
        return QSize(int(38 + sum(WIDTHS.values())), HEIGHT)

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

    def place(self, position: str) -> QRectF:
        """Return where a position stands."""
        before = sum(WIDTHS[key] for key in KEYS[: KEYS.index(position)])
        return QRectF(34 + before, 5, WIDTHS[position], HEIGHT - 10)

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
        """Paint the positions, the one that is set filled."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(colour("faint"))
        painter.setFont(font(12, bold=True))
        painter.drawText(QRectF(0, 0, 32, HEIGHT), Qt.AlignmentFlag.AlignVCenter, "KEY")
        whole = self.place(KEYS[0]).united(self.place(KEYS[-1]))
        painter.setPen(QPen(colour("copper" if self.hasFocus() else "line"), 1.5))
        painter.setBrush(colour("sheet"))
        painter.drawRoundedRect(whole, 5, 5)
        for position in KEYS:
            here, box = position == self.position, self.place(position)
            if here:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(colour("copper"))
                painter.drawRoundedRect(box.adjusted(2, 2, -2, -2), 4, 4)
            painter.setPen(colour("sheet" if here else "ink"))
            painter.setFont(font(13, bold=here))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, SHOWN.get(position, position))
