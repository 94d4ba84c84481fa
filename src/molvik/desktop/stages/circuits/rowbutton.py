"""Buttons that say a name and where it stands; pressed, they go on to the next."""

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy

from molvik.desktop.theme import colour, font


class RowButton(QPushButton):
    """A name at the left and where it stands at the right; upright, the one over the other."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__()
        self._upright = upright
        self.setProperty("role", "row")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        if upright:
            self.setFixedHeight(40)
        self.setAutoDefault(False)
        self.name = self.value = ""

    def show_value(self, name: str, value: str) -> None:
        """Show where it stands."""
        self.name, self.value = name, value
        self.setAccessibleName(f"{name}: {value}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the button, then both words."""
        super().paintEvent(event)
        painter = QPainter(self)
        box = self.rect().adjusted(8, 0, -8, 0)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        ink = "ink" if self.isEnabled() else "faint"
        if self._upright:
            name, value = box.adjusted(0, 3, 0, -20), box.adjusted(0, 17, 0, -2)
            self._write(painter, name, left, self.name, 12, "faint")
            self._write(painter, value, left, self.value, 13, ink, bold=True)
            return
        painter.setPen(colour(ink))
        painter.setFont(font(13, bold=True))
        painter.drawText(box, right, self.value)
        room = box.width() - painter.fontMetrics().horizontalAdvance(self.value) - 8
        name = QRect(box.left(), box.top(), room, box.height())
        self._write(painter, name, left, self.name, 13, ink)

    @staticmethod
    def _write(
        painter: QPainter,
        box: QRect,
        where: Qt.AlignmentFlag,
        text: str,
        pixels: int,
        role: str,
        *,
        bold: bool = False,
    ) -> None:
        painter.setFont(font(pixels, bold=bold))
        painter.setPen(colour(role))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(box, where, shown)
