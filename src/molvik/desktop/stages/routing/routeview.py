"""A loom to build, drawn to scale."""

import weakref
from collections.abc import Mapping

from PySide6.QtCore import QSize
from PySide6.QtGui import QFontMetricsF

from molvik.analysis import Analysis
from molvik.desktop.theme import font
from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.scene import Area, Scene
from molvik.model.routing import Routing
from molvik.routing.drawing import RouteDrawing, lit_runs, tree_of
from molvik.survey.drawing import NAME_PX
from molvik.survey.layout import Point, lay_out
from molvik.survey.tree import LoomTree


class RouteView(Canvas):
    """Draws one loom; picked(code) takes a joint or stretch in hand."""

    def __init__(self) -> None:
        super().__init__(
            "The loom to build, drawn to scale",
            "Nothing laid out yet. Type a stretch below: from, to and its length.",
        )
        # Held by the window as long as it is shown: out of sight, this must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self._of: tuple[Routing, str] | None = None
        self._tree: LoomTree | None = None
        self._thick: Mapping[str, float] = {}
        self._places: dict[str, Point] = {}
        self._hand = ""
        self.setMinimumHeight(180)

    def show_loom(self, analysis: Analysis, loom: str) -> None:
        """Show a loom as the job has it."""
        thick = {code: section.over_mm for code, section in analysis.sections.items()}
        if self._of != (analysis.job.routing, loom) or thick != self._thick:
            self._tree = tree_of(analysis.job.routing, loom, thick)
            self._places = lay_out(self._tree) if self._tree.loom.nodes else {}
        self._of, self._thick, self._seen = (
            (analysis.job.routing, loom), thick, weakref.ref(analysis),
        )  # fmt: skip
        self.redraw()

    def hold(self, code: str) -> None:
        """Mark what is in hand: a joint, a stretch, the way of a wire."""
        if code != self._hand:
            self._hand = code
            self.stand_on(code)
            self.redraw()

    def sizeHint(self) -> QSize:
        """Return a size with room for the names."""
        return QSize(700, 280)

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the loom with what is in hand."""
        analysis = self._seen() if self._seen else None
        if analysis is None or self._tree is None or not self._places:
            return None
        lit = lit_runs(self._hand, analysis.ways.of)
        made = RouteDrawing(self._tree, self._places, width, height, self._hand, lit, _measured)
        return made.scene

    def told(self, area: Area) -> str:
        """Say what a joint or stretch is."""
        analysis = self._seen() if self._seen else None
        section = analysis.sections.get(area.ref) if analysis else None
        if section is None:
            return f"{area.ref} {area.words}"
        return f"{area.ref} · {len(section.wires)} wires · {section.over_mm:.1f} mm over all"


def _measured(words: str, bold: bool) -> float:
    return QFontMetricsF(font(NAME_PX, bold=bold)).horizontalAdvance(words)
