"""Many plugs at once with marks in their cavities, and what has no face below them."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from molvik.desktop.theme import font
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.painting import paint_scene
from molvik.drawing.faces import Plug, TerminalRow, faces_scene, lay_out_faces, marks_legend
from molvik.drawing.marks import Mark
from molvik.drawing.scene import Scene
from molvik.model.geometry import Face
from molvik.netlist.plugmap import PlugMap


class PlugMapView(Canvas):
    """Plugs as they lie at one face. F turns them. turned(face): they were turned over."""

    turned = Signal(str)
    flows = True

    def __init__(self, name: str, empty: str) -> None:
        super().__init__(name, empty)
        self._map: PlugMap | None = None
        self._wrong = False
        self._plugs: tuple[Plug, ...] = ()
        self._rows: tuple[TerminalRow, ...] = ()
        self.face: Face = "wire side"

    def show_map(self, plugs: PlugMap | None, *, wrong: bool = False) -> None:
        """Show marked points. wrong: only plugs at which something failed."""
        self._map, self._wrong = plugs, wrong
        self._rows = plugs.rows(wrong=wrong) if plugs else ()
        self._plugs = plugs.plugs(self.face, wrong=wrong) if plugs else ()
        self.redraw()

    def turn(self) -> None:
        """Turn all plugs over."""
        self.face = "wire side" if self.face == "mating face" else "mating face"
        self.show_map(self._map, wrong=self._wrong)
        self.turned.emit(self.face)

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the plugs for so much room."""
        if not self._plugs and not self._rows:
            return None
        return faces_scene(self._plugs, self._rows, width - 4, self.face)

    def laid_out(self, width: float, height: float) -> tuple[float, float]:
        """Return how wide and high they are in so much room, without drawing them."""
        return width, lay_out_faces(self._plugs, self._rows, width - 4).height

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Turn with F; else as any drawing."""
        if event.key() == Qt.Key.Key_F and not event.modifiers():
            self.turn()
        else:
            super().keyPressEvent(event)


class MarksLegend(QWidget):
    """What the marks mean, in a line."""

    def __init__(self, marks: tuple[tuple[Mark, str], ...]) -> None:
        super().__init__()
        self._marks = marks
        measure = QFontMetricsF(font(11))
        self._widths = [measure.horizontalAdvance(words) for _, words in marks]
        self.setFixedSize(round(sum(self._widths)) + 42 * len(marks), 20)
        self.setAccessibleName(f"Marks: {', '.join(words for _, words in marks)}")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint each mark with its words."""
        paint_scene(QPainter(self), marks_legend(self._marks, self._widths))
