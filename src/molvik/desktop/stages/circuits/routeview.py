"""A device's circuit as a drawing to look at, walk through by keys, print and save."""

from PySide6.QtCore import Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from molvik.circuits.drawing import PAPER_WIDTH, drawn, lay_out
from molvik.circuits.route import Line, fold, in_words
from molvik.desktop.widgets.canvas import BAR_PX, Canvas
from molvik.desktop.widgets.canvastools import CanvasTools
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, held
from molvik.drawing.scene import Area, Scene


class RouteCanvas(Canvas):
    """The drawing itself. unfolded: joints that were taken together are wanted."""

    unfolded = Signal()
    flows = True

    def __init__(self) -> None:
        super().__init__("The circuit from the battery and back")
        self.lines: tuple[Line, ...] = ()
        self.chosen = ""

    def show_lines(self, lines: tuple[Line, ...], chosen: str) -> None:
        """Draw other lines."""
        self.lines, self.chosen = lines, chosen
        self.setAccessibleDescription(in_words(lines))
        self.redraw()

    def mark(self, code: str) -> None:
        """Ring another stop."""
        if code != self.chosen:
            self.chosen = code
            self.redraw()

    def draw(self, width: float, height: float) -> Scene:
        """Return the lines laid out for a width."""
        return drawn(lay_out(self.lines, width), self.chosen)

    def beside(self, across: int, down: int) -> Area | None:
        """Return the stop or wire before or after along the line; up and down the nearest."""
        drawing = self.drawing
        at = self.place
        if not across or drawing is None or at is None:
            return super().beside(across, down)
        # Left to right, row by row; a wire stands between its stops.
        order = sorted(drawing.areas, key=lambda area: (round(area.middle.y), area.middle.x))
        index = order.index(drawing.areas[at]) + across
        return order[index] if 0 <= index < len(order) else None

    def _choose(self, area: Area) -> None:
        if area.ref:
            self.picked.emit(area.ref)
        else:
            self.unfolded.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Copy the circuit in words with Ctrl+C; else as any drawing."""
        if event.matches(QKeySequence.StandardKey.Copy):
            QGuiApplication.clipboard().setText(in_words(self.lines))
        else:
            super().keyPressEvent(event)


class RouteView(QWidget):
    """The drawing in a frame, with its tools."""

    def __init__(self) -> None:
        super().__init__()
        self.canvas = RouteCanvas()
        self._lines: tuple[Line, ...] = ()
        frame = QFrame()
        frame.setObjectName("card")
        inner = QVBoxLayout(frame)
        inner.setContentsMargins(1, 1, 1, 1)
        inner.addWidget(self.canvas)
        self.notice = Notice()
        tip = "Take plain joints in a row together, and show them again"
        self.fold = button("Fold joints", tip, self._fold)
        self.fold.setCheckable(True)
        self.fold.setChecked(True)
        self.drawn = CanvasTools(self.canvas, "Circuit", self._on_paper, self.notice)
        self._frame = frame
        self.tools = held(self.fold, *self.drawn.every)
        """In the corner of the drawing, over its own heading's line."""
        self.tools.setParent(frame)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addWidget(frame, 1)
        whole.addWidget(self.notice)
        self.canvas.unfolded.connect(self.fold.click)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the tools in their corner."""
        super().resizeEvent(event)
        wanted = self.tools.sizeHint()
        self.tools.setGeometry(
            self._frame.width() - wanted.width() - BAR_PX - 6, 4, wanted.width(), wanted.height()
        )
        self.tools.raise_()

    def show_lines(self, lines: tuple[Line, ...], chosen: str = "") -> None:
        """Show lines, folded if wanted."""
        self._lines = lines
        shown = tuple(fold(line) for line in lines) if self.fold.isChecked() else lines
        self.canvas.show_lines(shown, chosen)
        self.fold.setEnabled(bool(lines))
        self.drawn.enable(bool(lines))

    def _fold(self) -> None:
        self.show_lines(self._lines, self.canvas.chosen)

    def _on_paper(self) -> Scene:
        return drawn(lay_out(self.canvas.lines, PAPER_WIDTH))
