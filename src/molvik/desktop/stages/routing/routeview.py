"""A loom to build, drawn to scale."""

import weakref
from collections.abc import Mapping

from molvik.analysis import Analysis
from molvik.desktop.widgets.loomcanvas import LoomCanvas, name_width
from molvik.drawing.scene import Area, Scene
from molvik.model.routing import Routing
from molvik.routing.drawing import RouteDrawing, lit_runs, tree_of
from molvik.survey.layout import lay_out
from molvik.survey.tree import LoomTree


class RouteView(LoomCanvas):
    """Draws one loom; of what is in hand the way of a wire."""

    def __init__(self) -> None:
        super().__init__("The loom to build, drawn to scale")
        self._of: tuple[Routing, str] | None = None
        self._tree: LoomTree | None = None
        self._thick: Mapping[str, float] = {}

    def show_loom(self, analysis: Analysis, loom: str) -> None:
        """Show a loom as the job has it; all that is shown of it was computed before."""
        thick = {code: section.over_mm for code, section in analysis.sections.items()}
        of = analysis.job.routing, loom
        if self._of != of or thick != self._thick:
            self._tree = tree_of(analysis.job.routing, loom, thick)
            self._places = lay_out(self._tree) if self._tree.loom.nodes else {}
        self._of, self._thick, self._seen = of, thick, weakref.ref(analysis)
        self.redraw()

    def _loom_drawing(self, hand: str = "") -> RouteDrawing | None:
        if self.analysis is None or self._tree is None or not self._places:
            return None
        lit = lit_runs(hand, self.analysis.ways.of) if hand else frozenset[str]()
        return RouteDrawing(self._tree, self._places, *self.room(), hand, lit, name_width)

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the loom."""
        made = self._loom_drawing()
        return made.scene if made else None

    def draw_over(self) -> Scene | None:
        """Return what is in hand."""
        made = self._loom_drawing(self._hand) if self._hand else None
        return made.marks if made else None

    def told(self, area: Area) -> str:
        """Say what a joint or stretch is."""
        section = self.analysis.sections.get(area.ref) if self.analysis else None
        if section is None:
            return f"{area.ref} {area.words}"
        return f"{area.ref} · {len(section.wires)} wires · {section.over_mm:.1f} mm over all"
