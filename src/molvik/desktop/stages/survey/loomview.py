"""The loom as found, drawn to scale, with its faults."""

import weakref

from PySide6.QtCore import QSize
from PySide6.QtGui import QFontMetricsF

from molvik.analysis import Analysis
from molvik.desktop.theme import font
from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.scene import Area, Scene
from molvik.model.loom import Loom
from molvik.model.loom_edits import find
from molvik.survey.drawing import NAME_PX, LoomDrawing
from molvik.survey.layout import Point, lay_out


class LoomView(Canvas):
    """Nodes, stretches and faults."""

    def __init__(self) -> None:
        super().__init__(
            "The loom as found, drawn to scale",
            "Nothing laid out yet. Type a stretch below: from, to and its length.",
        )
        # Held by the window as long as it is shown: out of sight, this must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self._loom: Loom | None = None
        self._places: dict[str, Point] = {}
        self._hand = ""
        self.setMinimumHeight(180)

    def show_loom(self, analysis: Analysis) -> None:
        """Show the loom as the job has it."""
        if self._loom != analysis.job.loom:
            self._places = lay_out(analysis.loom)
        self._loom, self._seen = analysis.job.loom, weakref.ref(analysis)
        self.redraw()

    @property
    def _analysis(self) -> Analysis | None:
        return self._seen() if self._seen else None

    def hold(self, code: str) -> None:
        """Mark what is in hand: a node, a stretch, the way of a wire, the reach of a fault."""
        if code != self._hand:
            self._hand = code
            self.stand_on(code)
            self.redraw()

    def sizeHint(self) -> QSize:
        """Return a size with room for the names."""
        return QSize(700, 280)

    def loom_drawing(self, width: float, height: float) -> LoomDrawing | None:
        """Return the loom as it is drawn in so much room; None without one."""
        if self._analysis is None or not self._places:
            return None
        tree = self._analysis.loom
        return LoomDrawing(tree, self._places, width, height, self._hand, _measured)

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the loom with what is in hand."""
        made = self.loom_drawing(width, height)
        return made.scene if made else None

    def told(self, area: Area) -> str:
        """Say what a node, stretch or fault is."""
        from molvik.desktop.stages.survey.found import show_found

        analysis = self._analysis
        thing = find(analysis.job.loom, area.ref) if analysis else None
        if analysis is None or thing is None:
            return area.words
        shown = show_found(analysis, thing)
        return f"{shown.title}\n{shown.under}"


def _measured(words: str, bold: bool) -> float:
    return QFontMetricsF(font(NAME_PX, bold=bold)).horizontalAdvance(words)
