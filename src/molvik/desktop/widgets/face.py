"""A connector drawn to its grid, the way it is held: at the mating face or at the wire side."""

import weakref

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from molvik.analysis import Analysis
from molvik.desktop.theme import font
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.painting import paint_scene
from molvik.drawing.face import (
    LEGEND,
    Cavity,
    face_scene,
    face_size,
    frame_of,
    legend_scene,
)
from molvik.drawing.scene import Scene
from molvik.model.geometry import Face
from molvik.model.parts import Connector
from molvik.model.refs import end_text
from molvik.netlist.cavities import cavities_of


class FaceView(Canvas):
    """The face of a connector. Click or arrow keys choose a cavity, F turns it over.

    chosen(cavity): a cavity was chosen. turned(face): it was turned over.
    """

    chosen = Signal(str)
    turned = Signal(str)
    walks = shows_focus = True

    def __init__(self, largest: int = 40) -> None:
        super().__init__("", "No connector chosen")
        self._largest = largest
        self._cavities: tuple[Cavity, ...] = ()
        self._connector: Connector | None = None
        # Held by the window as long as it is shown: out of sight, a face must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self.face: Face = "mating face"
        self.cavity = ""
        self.picked.connect(self._take)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumHeight(96)

    def show_connector(self, connector: Connector | None, analysis: Analysis) -> None:
        """Show a connector as the job has it."""
        self._connector, self._seen = connector, weakref.ref(analysis)
        self._cavities = cavities_of(connector, analysis.network, self.face) if connector else ()
        if not any(cavity.place.cavity == self.cavity for cavity in self._cavities):
            self.cavity = ""
        self._describe()
        self.updateGeometry()
        self.redraw()

    def choose(self, cavity: str) -> None:
        """Mark a cavity, without a signal."""
        if cavity != self.cavity:
            self.cavity = cavity
            self._describe()
            self.redraw()

    def turn(self) -> None:
        """Turn the connector over: mating face to wire side and back."""
        self.face = "wire side" if self.face == "mating face" else "mating face"
        analysis = self._seen() if self._seen else None
        if self._connector and analysis:
            self.show_connector(self._connector, analysis)
        self.turned.emit(self.face)

    def _take(self, ref: str) -> None:
        self.choose(ref.split("/", 1)[1])
        self.chosen.emit(self.cavity)

    def _describe(self) -> None:
        name = self._connector.name if self._connector else "no connector"
        here = next((c.words for c in self._cavities if c.place.cavity == self.cavity), "")
        self.stand_on(
            end_text(self._connector.code, self.cavity) if self._connector and self.cavity else ""
        )
        self.setAccessibleName(f"{name}, {self.face}")
        self.setAccessibleDescription(here)

    def sizeHint(self) -> QSize:
        """Return a size with comfortable cavities."""
        if self._connector is None:
            return QSize(300, 100)
        width, height = face_size(self._connector, min(self._largest, 40))
        return QSize(round(width - 24), round(height + 8))

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the housing and its cavities."""
        if self._connector is None:
            return None
        foot = f"{self.face} · {self._connector.up or 'lock up'} · F turns it"
        if self.cavity:
            foot = f"{self._connector.code} cavity {self.cavity} · {foot}"
        frame = frame_of(self._connector, width, height, self._largest)
        return face_scene(
            self._connector,
            self._cavities,
            self.face,
            frame,
            chosen=self.cavity,
            focused=self.hasFocus(),
            foot=foot,
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Turn with F; else as any drawing."""
        if event.key() == Qt.Key.Key_F and not event.modifiers():
            self.turn()
        else:
            super().keyPressEvent(event)


class Legend(QWidget):
    """What the marks in the cavities mean."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        words = ", ".join(words for _, words in LEGEND)
        self.setAccessibleName(f"Marks in the cavities: {words}")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint each mark with its word."""
        measure = QFontMetricsF(font(11))
        widths = [measure.horizontalAdvance(words) for _, words in LEGEND]
        paint_scene(QPainter(self), legend_scene(self.width(), widths))
