"""Tabs below a drawing that are folded to their bar until one of them is wanted."""

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QTabWidget

WHOLE = 16_777_215
"""As high as Qt lets anything be."""


class Drawer(QTabWidget):
    """A click on a tab opens it, a click on the open one folds all to the bar."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.is_open = True
        self._was = 0
        self.tabBarClicked.connect(self._clicked)
        self.currentChanged.connect(self._changed)

    def fold(self) -> None:
        """Fold all to the bar."""
        self._set(is_open=False)

    def unfold(self) -> None:
        """Open what is chosen."""
        self._set(is_open=True)

    def _set(self, *, is_open: bool) -> None:
        if is_open == self.is_open:
            return
        self.is_open = is_open
        self.setMaximumHeight(WHOLE if is_open else self._bar_high)
        self.setMinimumHeight(0 if is_open else self._bar_high)
        widget = self.currentWidget()
        if widget is not None:
            widget.setVisible(is_open)
        self.updateGeometry()

    @property
    def _bar_high(self) -> int:
        return self.tabBar().sizeHint().height() + 2

    def sizeHint(self) -> QSize:
        """Return the bar alone while it is folded."""
        hint = super().sizeHint()
        return hint if self.is_open else QSize(hint.width(), self._bar_high)

    def _clicked(self, place: int) -> None:
        if place < 0:
            return
        same = place == self._was
        self._was = place
        self._set(is_open=not (same and self.is_open))

    def _changed(self, place: int) -> None:
        """Another was chosen, by keys or by the program: it is wanted."""
        if place != self._was:
            self._was = place
            self._set(is_open=True)
