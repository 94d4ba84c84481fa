"""The trunk: the navigator along the top, one breakout for each stage."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from molvik.desktop.theme import colour, font
from molvik.stages import STAGES


class Breakout(QAbstractButton):
    """One stage on the trunk."""

    def __init__(self, index: int, name: str, question: str) -> None:
        super().__init__()
        self._index = index
        self.count = 0
        self.passed = False
        self.setText(name)
        self.setCheckable(True)
        self.setToolTip(f"{question}\nCtrl+{index + 1}")
        self.setAccessibleName(name)
        self.setAccessibleDescription(question)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumSize(QSize(84, 50))

    def set_count(self, count: int) -> None:
        """Show how much is open here."""
        if count != self.count:
            self.count = count
            self.setAccessibleName(f"{self.text()}, {count} open" if count else self.text())
            self.update()

    def sizeHint(self) -> QSize:
        """Return the usual size."""
        return QSize(112, 50)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the stretch of trunk, the breakout, its count and its name."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(self.width() / 2, 19)
        line, copper = colour("line"), colour("copper")
        here = self.isChecked()
        before = copper if self.passed or here else line
        after = copper if self.passed else line
        for start, end, tint in (
            (0.0 if self._index else 12.0, middle.x(), before),
            (middle.x(), self.width() - (12.0 if self._index == len(STAGES) - 1 else 0.0), after),
        ):
            painter.setPen(QPen(tint, 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(start, middle.y()), QPointF(end, middle.y()))
        tint = copper if self.passed or here else line
        painter.setPen(QPen(tint, 3))
        painter.drawLine(middle, QPointF(middle.x(), 32))
        painter.setPen(QPen(tint, 2))
        painter.setBrush(copper if here else colour("sheet"))
        painter.drawEllipse(middle, 7, 7)
        painter.setFont(font(13, bold=here))
        painter.setPen(copper if here else colour("ink"))
        name = QRectF(0, 31, self.width(), 18)
        painter.drawText(name, Qt.AlignmentFlag.AlignCenter, self.text())
        if self.count:
            text = str(self.count) if self.count < 1000 else "999+"
            painter.setFont(font(11))
            width = QFontMetricsF(painter.font()).horizontalAdvance(text) + 11
            chip = QRectF(middle.x() + 8, 0, width, 14)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("strip"))
            painter.drawRoundedRect(chip, 7, 7)
            painter.setPen(colour("ink"))
            painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, text)
        if self.hasFocus() or self.underMouse():
            width = QFontMetricsF(font(13, bold=here)).horizontalAdvance(self.text())
            painter.setPen(QPen(copper, 2 if self.hasFocus() else 1))
            painter.drawLine(
                QPointF(middle.x() - width / 2, 48.5), QPointF(middle.x() + width / 2, 48.5)
            )


class Trunk(QWidget):
    """All eight stages in a row. stage_chosen gives the index."""

    stage_chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Stages")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        self.breakouts: list[Breakout] = []
        group = QButtonGroup(self)
        group.setExclusive(True)
        for index, (_, name, question) in enumerate(STAGES):
            breakout = Breakout(index, name, question)
            group.addButton(breakout, index)
            line.addWidget(breakout)
            self.breakouts.append(breakout)
        group.idClicked.connect(self.stage_chosen.emit)

    def show_stage(self, index: int) -> None:
        """Mark the stage that is open."""
        for number, breakout in enumerate(self.breakouts):
            breakout.passed = number < index
            breakout.setChecked(number == index)
            breakout.update()
