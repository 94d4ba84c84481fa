"""A connector drawn to its grid, the way it is held: at the mating face or at the wire side."""

import weakref

from PySide6.QtCore import QEvent, QPointF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from molvik.analysis import Analysis
from molvik.desktop.theme import colour, font
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
from molvik.netlist.cavities import cavities_of


class FaceView(QWidget):
    """The face of a connector. Click or arrow keys choose a cavity, F turns it over.

    chosen(cavity): a cavity was chosen. turned(face): it was turned over.
    """

    chosen = Signal(str)
    turned = Signal(str)

    def __init__(self, largest: int = 40) -> None:
        super().__init__()
        self._largest = largest
        self._cavities: tuple[Cavity, ...] = ()
        self._connector: Connector | None = None
        # Held by the window as long as it is shown: out of sight, a face must not keep a whole job.
        self._seen: weakref.ref[Analysis] | None = None
        self._drawn: tuple[tuple[object, ...], Scene] | None = None
        self.face: Face = "mating face"
        self.cavity = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
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
        self.update()

    def choose(self, cavity: str) -> None:
        """Mark a cavity, without a signal."""
        if cavity != self.cavity:
            self.cavity = cavity
            self._describe()
            self.update()

    def turn(self) -> None:
        """Turn the connector over: mating face to wire side and back."""
        self.face = "wire side" if self.face == "mating face" else "mating face"
        analysis = self._seen() if self._seen else None
        if self._connector and analysis:
            self.show_connector(self._connector, analysis)
        self.turned.emit(self.face)

    def _describe(self) -> None:
        name = self._connector.name if self._connector else "no connector"
        here = next((c.words for c in self._cavities if c.place.cavity == self.cavity), "")
        self.setAccessibleName(f"{name}, {self.face}")
        self.setAccessibleDescription(here)

    # geometry

    def sizeHint(self) -> QSize:
        """Return a size with comfortable cavities."""
        if self._connector is None:
            return QSize(300, 100)
        width, height = face_size(self._connector, min(self._largest, 40))
        return QSize(round(width - 24), round(height + 8))

    @property
    def scene(self) -> Scene:
        """Return the drawing as it stands, made when something of it changed."""
        assert self._connector is not None
        wanted = (self._connector, self._cavities, self.face, self.width(), self.height(),
                  self.cavity, self.hasFocus())  # fmt: skip
        if self._drawn is None or self._drawn[0] != wanted:
            frame = frame_of(self._connector, self.width(), self.height(), self._largest)
            foot = f"{self.face} · {self._connector.up or 'lock up'} · F turns it"
            if self.cavity:
                foot = f"{self._connector.code} cavity {self.cavity} · {foot}"
            scene = face_scene(self._connector, self._cavities, self.face, frame,
                               chosen=self.cavity, focused=self.hasFocus(), foot=foot)  # fmt: skip
            self._drawn = wanted, scene
        return self._drawn[1]

    def _at(self, point: QPointF) -> Cavity | None:
        if self._connector is None:
            return None
        boxes = zip(self.scene.areas, self._cavities, strict=True)
        return next(
            (cavity for area, cavity in boxes if area.box.holds(point.x(), point.y())), None
        )

    # events

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the cavity under the mouse."""
        cavity = self._at(event.position())
        if cavity is not None:
            self.choose(cavity.place.cavity)
            self.chosen.emit(cavity.place.cavity)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move between cavities with the arrows, choose with Enter, turn with F."""
        moves = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
        }
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_F and not event.modifiers():
            self.turn()
        elif key in moves and self._cavities:
            self._move(*moves[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.cavity:
            self.chosen.emit(self.cavity)
        else:
            super().keyPressEvent(event)

    def _move(self, down: int, across: int) -> None:
        here = next((c.place for c in self._cavities if c.place.cavity == self.cavity), None)
        if here is None:
            self.choose(self._cavities[0].place.cavity)
            self.chosen.emit(self.cavity)
            return
        # The nearest in that direction, those straight ahead before those to the side.
        ahead = [
            (abs(c.place.row - here.row) + abs(c.place.column - here.column) + 4 * aside, c)
            for c in self._cavities
            if (along := (c.place.row - here.row) * down + (c.place.column - here.column) * across)
            > 0.3
            and (aside := abs((c.place.row - here.row) * across)
                 + abs((c.place.column - here.column) * down)) <= along
        ]  # fmt: skip
        if ahead:
            self.choose(min(ahead, key=lambda pair: pair[0])[1].place.cavity)
            self.chosen.emit(self.cavity)

    def event(self, event: QEvent) -> bool:
        """Show what is in the cavity under the mouse."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            cavity = self._at(QPointF(event.pos()))
            if cavity is not None:
                QToolTip.showText(event.globalPos(), cavity.words, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the focus."""
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Hide the focus."""
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the housing and its cavities."""
        painter = QPainter(self)
        if self._connector is None:
            painter.setPen(colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No connector chosen")
            return
        paint_scene(painter, self.scene)


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
