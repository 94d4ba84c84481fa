"""The trunk: the navigator along the top, one breakout for each stage, with what waits there."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.marks import ROLE_OF, draw_mark
from molvik.findings.kinds import Severity, count_of
from molvik.stages import STAGES

MIDDLE = 25.0
"""How far down the line lies."""


class Waits(NamedTuple):
    """What waits at a stage: findings by severity, and what is to be done there, with its words."""

    stop: int = 0
    look: int = 0
    note: int = 0
    to_do: int = 0
    words: str = ""

    def text(self) -> str:
        """Tell it in words; empty for nothing."""
        kinds: tuple[tuple[Severity, int], ...] = (
            ("stop", self.stop),
            ("look", self.look),
            ("note", self.note),
        )
        found = [count_of(severity, count) for severity, count in kinds if count]
        return ", ".join([*found, *([f"{self.to_do} {self.words}"] if self.to_do else [])])

    def shown(self) -> list[tuple[Severity, str]]:
        """Return what is painted: what must be judged, else what is to be done."""
        found: list[tuple[Severity, str]] = []
        if self.stop:
            found.append(("stop", _few(self.stop)))
        if self.look:
            found.append(("look", _few(self.look)))
        if self.to_do and not found:
            found.append(("note", _few(self.to_do)))
        return found


class Breakout(QAbstractButton):
    """One stage on the trunk."""

    def __init__(self, index: int, name: str, question: str) -> None:
        super().__init__()
        self._index, self._question = index, question
        self.waits = Waits()
        self.setText(name)
        self.setCheckable(True)
        self.setAccessibleDescription(question)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumSize(QSize(84, 56))
        self._tell()

    def show_waits(self, waits: Waits) -> None:
        """Show what waits here."""
        if waits != self.waits:
            self.waits = waits
            self._tell()
            self.update()

    def _tell(self) -> None:
        said = self.waits.text()
        self.setAccessibleName(f"{self.text()}, {said}" if said else self.text())
        lines = (self._question, said and f"Here wait: {said}", f"Ctrl+{self._index + 1}")
        self.setToolTip("\n".join(filter(None, lines)))

    def sizeHint(self) -> QSize:
        """Return the usual size."""
        return QSize(112, 56)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the stretch of trunk, the breakout, what waits and its name."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(self.width() / 2, MIDDLE)
        line, copper = colour("line"), colour("copper")
        here = self.isChecked()
        start = 0.0 if self._index else 12.0
        end = self.width() - (12.0 if self._index == len(STAGES) - 1 else 0.0)
        painter.setPen(QPen(line, 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        painter.drawLine(QPointF(start, MIDDLE), QPointF(end, MIDDLE))
        painter.setPen(QPen(copper if here else line, 3))
        painter.drawLine(middle, QPointF(middle.x(), MIDDLE + 13))
        painter.setPen(QPen(copper if here else line, 2))
        painter.setBrush(copper if here else colour("sheet"))
        painter.drawEllipse(middle, 7, 7)
        painter.setFont(font(13, bold=here))
        painter.setPen(copper if here else colour("ink"))
        name = QRectF(0, MIDDLE + 12, self.width(), 18)
        painter.drawText(name, Qt.AlignmentFlag.AlignCenter, self.text())
        self._paint_waits(painter, middle.x())
        if self.hasFocus() or self.underMouse():
            width = QFontMetricsF(font(13, bold=here)).horizontalAdvance(self.text())
            painter.setPen(QPen(copper, 2 if self.hasFocus() else 1))
            under = MIDDLE + 29.5
            painter.drawLine(
                QPointF(middle.x() - width / 2, under), QPointF(middle.x() + width / 2, under)
            )

    def _paint_waits(self, painter: QPainter, middle: float) -> None:
        """Paint shapes with their counts."""
        shown = self.waits.shown()
        painter.setFont(font(12, bold=True))
        metrics = QFontMetricsF(painter.font())
        widths = [13 + metrics.horizontalAdvance(text) for _, text in shown]
        left = middle - (sum(widths) + 7 * (len(widths) - 1)) / 2
        for (severity, text), width in zip(shown, widths, strict=True):
            draw_mark(painter, QRectF(left, 3, 9, 9), severity)
            role = ROLE_OF[severity]
            painter.setPen(colour("live_text" if role == "live" else role))
            painter.drawText(QRectF(left + 12, 0, width, 15), Qt.AlignmentFlag.AlignVCenter, text)
            left += width + 7


def _few(count: int) -> str:
    return str(count) if count < 1000 else "999+"


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
            breakout.setChecked(number == index)
            breakout.update()
