"""A bar for each criterion of a wire: how much of its limit is used, and what is in hand."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from molvik.desktop.theme import colour, font
from molvik.sizes.sizing_case import Criterion, margin_text

BAR_HEIGHT = 40


class CriteriaView(QWidget):
    """A bar for each criterion: how much of its limit is used, and what is in hand."""

    def __init__(self) -> None:
        super().__init__()
        self._criteria: tuple[Criterion, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_criteria(self, criteria: tuple[Criterion, ...]) -> None:
        """Show criteria, the tightest first."""
        self._criteria = tuple(sorted(criteria, key=lambda criterion: criterion.margin))
        self.setFixedHeight(max(1, len(criteria)) * BAR_HEIGHT)
        words = [f"{c.name}: {c.has} of {c.limit}, {margin_text(c.margin)}" for c in self._criteria]
        self.setAccessibleName("Criteria. " + ". ".join(words))
        self.setToolTip("\n".join(f"{c.name}: {c.why}" for c in self._criteria))
        self.update()

    def sizeHint(self) -> QSize:
        """Return the height of all bars."""
        return QSize(400, max(1, len(self._criteria)) * BAR_HEIGHT)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the bars."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, width = 112.0, self.width() - 112.0 - 132.0
        vertical = Qt.AlignmentFlag.AlignVCenter
        for index, criterion in enumerate(self._criteria):
            top = index * BAR_HEIGHT
            painter.setFont(font(13, bold=True))
            painter.setPen(colour("ink"))
            painter.drawText(QRectF(0, top, left, 20), vertical, criterion.name)
            painter.setFont(font(12))
            text = f"{criterion.has}  of  {criterion.limit}"
            room = QRectF(left, top, self.width() - left - 132, 20)
            shown = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(room, vertical, shown)
            used = min(1.0, max(0.0, 1 - criterion.margin))
            track = QRectF(left, top + 22, width, 8)
            painter.setPen(QPen(colour("line"), 1))
            painter.setBrush(colour("paper"))
            painter.drawRoundedRect(track, 4, 4)
            role = (
                "stop" if not criterion.passes else "live" if criterion.margin < 0.1 else "proved"
            )
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(role))
            painter.drawRoundedRect(QRectF(left, top + 22, max(8.0, width * used), 8), 4, 4)
            painter.setPen(colour("live_text" if role == "live" else role))
            painter.setFont(font(13, bold=True))
            painter.drawText(
                QRectF(self.width() - 124, top + 15, 124, 22),
                vertical,
                margin_text(criterion.margin),
            )
