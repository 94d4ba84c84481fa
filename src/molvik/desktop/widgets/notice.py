"""A message in the place where something went wrong."""

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QMouseEvent, QMoveEvent, QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy


class Notice(QLabel):
    """A message in the place where something went wrong; hidden while there is none.

    over: it lies over what stands above its place, instead of pushing what is below it away from
    under a hand that is typing there.
    """

    def __init__(self, *, over: bool = False) -> None:
        super().__init__()
        self._over = over
        self.setObjectName("notice")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setToolTip("Click to close")
        if over:
            policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            policy.setRetainSizeWhenHidden(True)
            self.setSizePolicy(policy)
        self._foot = 0
        """Where its place is, from the top of what it lies in."""
        self.hide()

    def hasHeightForWidth(self) -> bool:
        """One that lies over has no height of its own among what it lies in."""
        return not self._over and super().hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        """Return how high it is among what it lies in."""
        return 0 if self._over else super().heightForWidth(width)

    def sizeHint(self) -> QSize:
        """Return what room it wants."""
        return QSize(0, 0) if self._over else super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        """Return what room it needs."""
        return QSize(0, 0) if self._over else super().minimumSizeHint()

    def moveEvent(self, event: QMoveEvent) -> None:
        """Its place was moved."""
        super().moveEvent(event)
        self._lie_over()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Its place has another width."""
        super().resizeEvent(event)
        self._lie_over()

    def _lie_over(self) -> None:
        """Stand on its place, as high as its words are."""
        if not self._over:
            return
        if self.height() == 0:  # so the layout put it
            self._foot = self.y()
        high = super().heightForWidth(self.width())
        at = QRect(self.x(), max(0, self._foot - high), self.width(), high)
        if self.isVisible() and at != self.geometry():
            self.setGeometry(at)
            self.raise_()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Close it."""
        self.say("")

    def say(self, text: str) -> None:
        """Show a message, or none."""
        self.setText(text)
        self.setAccessibleName(text)
        self.setVisible(bool(text))
        self._lie_over()
