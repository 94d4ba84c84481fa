"""A bar for each criterion of a wire: what it uses of what it may, up to a mark at the limit."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from molvik.desktop.theme import colour, font
from molvik.sizes.sizing_case import Criterion, used_text
from molvik.sizes.wire import TIGHT

BAR_HEIGHT = 37
LIMIT_AT = 0.8
"""Where along a bar the limit lies; what is over it ends at the bar's end."""


def role_of(criterion: Criterion) -> str:
    """Return the role of a criterion's bar."""
    if not criterion.passes:
        return "stop"
    return "live" if criterion.margin < TIGHT and criterion.name != "strength" else "proved"


class CriteriaView(QWidget):
    """A bar for each criterion; its length and its figures say the same thing."""

    def __init__(self) -> None:
        super().__init__()
        self._criteria: tuple[Criterion, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_criteria(self, criteria: tuple[Criterion, ...]) -> None:
        """Show criteria, the tightest first."""
        self._criteria = tuple(sorted(criteria, key=lambda criterion: criterion.margin))
        self.setFixedHeight(max(1, len(criteria)) * BAR_HEIGHT)
        words = [f"{c.name}: {c.has} of {c.limit}, {used_text(c.margin)}" for c in self._criteria]
        self.setAccessibleName("Criteria. " + ". ".join(words))
        self.setToolTip(
            "\n".join(f"{c.name}: {c.has} of {c.limit}. {c.why}" for c in self._criteria)
        )
        self.update()

    def sizeHint(self) -> QSize:
        """Return the height of all bars."""
        return QSize(260, max(1, len(self._criteria)) * BAR_HEIGHT)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the bars."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for index, criterion in enumerate(self._criteria):
            self._bar(painter, criterion, float(index * BAR_HEIGHT))

    def _bar(self, painter: QPainter, criterion: Criterion, top: float) -> None:
        width, role = float(self.width()), role_of(criterion)
        words = "live_text" if role == "live" else role
        painter.setFont(font(13, bold=True))
        painter.setPen(colour("ink"))
        line = QRectF(0, top, width, 19)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(line, middle, criterion.name.capitalize())
        painter.setPen(colour(words))
        said = criterion.figures
        if criterion.name == "strength":
            said = f"{criterion.allowed:.2f}, least {criterion.amount:.2f} mm²"
        painter.setFont(font(13, bold=not criterion.passes))
        painter.drawText(line, middle | Qt.AlignmentFlag.AlignRight, said)
        track = QRectF(0, top + 21, width, 8)
        painter.setPen(QPen(colour("line"), 1))
        painter.setBrush(colour("paper"))
        painter.drawRoundedRect(track, 4, 4)
        filled = min(width, max(8.0, width * LIMIT_AT * criterion.used))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(role))
        painter.drawRoundedRect(QRectF(0, top + 21, filled, 8), 4, 4)
        painter.setPen(QPen(colour("ink"), 2))
        painter.drawLine(
            QRectF(width * LIMIT_AT, top + 18, 0, 14).topLeft(),
            QRectF(width * LIMIT_AT, top + 18, 0, 14).bottomLeft(),
        )
