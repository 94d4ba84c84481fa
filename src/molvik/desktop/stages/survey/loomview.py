"""The loom as found, drawn to scale, with its faults."""

import weakref

from molvik.analysis import Analysis
from molvik.desktop.stages.survey.found import show_found
from molvik.desktop.widgets.loomcanvas import LoomCanvas, name_width
from molvik.drawing.scene import Area, Scene
from molvik.model.loom import Loom
from molvik.model.loom_edits import find
from molvik.netlist.placing import Placed
from molvik.survey.drawing import LoomDrawing, aspect_of
from molvik.survey.layout import ASPECT, LARGE, lay_out


class LoomView(LoomCanvas):
    """Nodes, stretches and faults; of what is in hand the way of a wire, the reach of a fault."""

    def __init__(self) -> None:
        super().__init__("The loom as found, drawn to scale")
        self._loom: Loom | None = None
        self._placed: Placed | None = None
        self._aspect = 0.0

    def show_loom(self, analysis: Analysis) -> None:
        """Show the loom as the job has it."""
        if self._loom != analysis.job.loom:
            self._placed = None
        self._loom, self._seen = analysis.job.loom, weakref.ref(analysis)
        self.redraw()

    def loom_drawing(self, hand: str = "") -> LoomDrawing | None:
        """Return the loom as it is drawn in the room there is; None without one."""
        if self.analysis is None or not self.analysis.job.loom.nodes:
            return None
        room = self.room()
        # A large loom takes a moment: it is laid out once, whatever room there is.
        aspect = aspect_of(*room) if len(self.analysis.job.loom.nodes) <= LARGE else ASPECT
        if self._placed is None or aspect != self._aspect:
            self._placed, self._aspect = lay_out(self.analysis.loom, aspect), aspect
        return LoomDrawing(self.analysis.loom, self._placed, *room, hand, name_width)

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the loom."""
        made = self.loom_drawing()
        return made.scene if made else None

    def draw_over(self) -> Scene | None:
        """Return what is in hand."""
        made = self.loom_drawing(self._hand) if self._hand else None
        return made.marks if made else None

    def told(self, area: Area) -> str:
        """Say what a node, stretch or fault is."""

        analysis = self.analysis
        thing = find(analysis.job.loom, area.ref) if analysis else None
        if analysis is None or thing is None:
            return area.words
        shown = show_found(analysis, thing)
        return f"{shown.title}\n{shown.under}"
