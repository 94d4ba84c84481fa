"""A loom drawn to scale, as found or to be built: what both have in common."""

import weakref
from functools import lru_cache

from PySide6.QtCore import QSize
from PySide6.QtGui import QFontMetricsF

from molvik.analysis import Analysis
from molvik.desktop.theme import font
from molvik.desktop.widgets.canvas import Canvas
from molvik.survey.drawing import NAME_PX

EMPTY = "Nothing laid out yet. Type a stretch below: from, to and its length."


class LoomCanvas(Canvas):
    """Holds what of a loom is in hand."""

    def __init__(self, name: str) -> None:
        super().__init__(name, EMPTY)
        # Held by the window as long as it is shown: out of sight, this must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self._hand = ""
        self.setMinimumHeight(180)

    @property
    def analysis(self) -> Analysis | None:
        """The analysis that is shown, as long as the window has it."""
        return self._seen() if self._seen else None

    def hold(self, code: str) -> None:
        """Mark what is in hand."""
        if code != self._hand:
            self._hand = code
            self.stand_on(code)
            self.redraw_over()

    def sizeHint(self) -> QSize:
        """Return a size with room for the names."""
        return QSize(700, 280)


@lru_cache(maxsize=4096)
def name_width(words: str, bold: bool) -> float:
    """Return how wide a name is on the screen, px."""
    return QFontMetricsF(font(NAME_PX, bold=bold)).horizontalAdvance(words)
