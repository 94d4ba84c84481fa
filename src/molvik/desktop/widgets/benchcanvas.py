"""The bench to click on: two probes are put down, parts are pulled, all by mouse or keys."""

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent

from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.benchtop import BLACK, RED, Stand, benchtop_scene, probes_scene
from molvik.drawing.scene import Area, Scene
from molvik.model.parts import End
from molvik.model.refs import end_text

HOW = "Click: red probe · right click: black · drag to move · Space: read again"


class BenchCanvas(Canvas):
    """What lies on the bench. probed(place, black): a probe was put somewhere. taken(code): a part
    itself was clicked. again(): the reading is wanted once more. pressed(letter): a letter or
    figure was pressed. pointed(place): a place was clicked while pointing; left(): Esc was pressed.
    """

    probed = Signal(str, bool)
    taken = Signal(str)
    again = Signal()
    pressed = Signal(str)
    pointed = Signal(str)
    left = Signal()
    flows = True

    def __init__(self, name: str, empty: str) -> None:
        super().__init__(name, empty)
        self._stands: tuple[Stand, ...] = ()
        self._first: tuple[str, ...] = ()
        self._spots: frozenset[str] = frozenset()
        self.red = self.black = End()
        self.marked: tuple[str, ...] = ()
        self.pointing = False
        """Whether a click points at a place, and puts no probe there."""
        self._dragged: bool | None = None
        self._drag_from: QPoint | None = None

    def show_bench(self, stands: tuple[Stand, ...], first: tuple[str, ...] = ()) -> None:
        """Show what lies on the bench. first: the codes of what stands before all else."""
        if (stands, first) == (self._stands, self._first):
            return
        self._stands, self._first = stands, first
        self._spots = frozenset(
            ref
            for stand in stands
            for ref in (
                [end_text(stand.code, one.place.cavity) for one in stand.plug.cavities]
                if stand.plug
                else [spot.ref for spot in stand.spots]
            )
        )
        self.redraw()

    def show_probes(self, red: End, black: End, marked: tuple[str, ...] = ()) -> None:
        """Show where the probes are, and what is ringed."""
        self.red, self.black, self.marked = red, black, marked
        places = " and ".join(
            f"{name} at {end}" for name, end in (("red", red), ("black", black)) if end.at
        )
        self.setAccessibleDescription(f"Probes: {places or 'none is down'}")
        self.redraw_over()

    def bring_into_view(self, *places: str) -> None:
        """Scroll so that some places are seen, the first one last."""
        areas = {area.ref: area for area in reversed(self.drawing.areas)} if self.drawing else {}
        for place in reversed(places):
            if place in areas:
                self.ensureVisible(QRectF(*areas[place].box), 20, 40)

    def holds(self, place: str) -> bool:
        """Return whether a probe can be put on a place that is shown."""
        return place in self._spots

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the bench for a width."""
        return benchtop_scene(self._stands, width - 4, self._first) if self._stands else None

    def draw_over(self) -> Scene | None:
        """Return the probes and what is ringed."""
        if self._drawing is None:
            return None
        probes = [
            (str(end), role) for end, role in ((self.red, RED), (self.black, BLACK)) if end.at
        ]
        return probes_scene(self._drawing, probes, self.marked)

    # the mouse

    def _choose(self, area: Area) -> None:
        self._take(area.ref, black=False)

    def _take(self, ref: str, *, black: bool) -> None:
        if self.pointing and ref in self._spots:
            self.pointed.emit(ref)
        elif ref in self._spots:
            self.probed.emit(ref, black)
        elif ref and not black:
            self.taken.emit(ref)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Put a probe down, begin to drag one, or take a part."""
        area = self.hit(event.position().toPoint())
        black = event.button() == Qt.MouseButton.RightButton or bool(
            event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        )
        if area is None or event.button() == Qt.MouseButton.MiddleButton:
            super().mousePressEvent(event)
            return
        self._come_to(area)
        held = area.ref in map(str, (self.red, self.black)) and not self.pointing
        if event.button() == Qt.MouseButton.LeftButton and held:
            self._dragged = area.ref == str(self.black)
            self._drag_from = event.position().toPoint()
            return
        self._take(area.ref, black=black)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Put a probe down that was dragged; where it was not moved it is read again."""
        black, begun = self._dragged, self._drag_from
        self._dragged = self._drag_from = None
        if black is None or begun is None:
            super().mouseReleaseEvent(event)
            return
        area = self.hit(event.position().toPoint())
        here = str(self.black if black else self.red)
        if area is not None and area.ref in self._spots and area.ref != here:
            self.probed.emit(area.ref, black)
        elif area is not None and area.ref == here:
            self.again.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Take a double click as two: a part that is pulled is put in again by the second."""
        self.mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Offer no menu where the right button puts the black probe down."""
        area = self.hit(event.pos())
        by_mouse = event.reason() == QContextMenuEvent.Reason.Mouse
        if by_mouse and area is not None and area.ref in self._spots:
            event.accept()
            return
        super().contextMenuEvent(event)

    # the keyboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter puts the red probe down or takes a part, with Shift the black one; Space reads."""
        key = event.key()
        drawing, place = self.drawing, self.place
        if key == Qt.Key.Key_Space and not event.modifiers():
            self.again.emit()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and drawing and place is not None:
            black = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._take(drawing.areas[place].ref, black=black)
        elif key == Qt.Key.Key_Escape:
            self.left.emit()
        elif not event.modifiers() and event.text().isalnum():
            self.pressed.emit(event.text().lower())
        else:
            super().keyPressEvent(event)
