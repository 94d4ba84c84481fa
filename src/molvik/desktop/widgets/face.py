"""A connector drawn to its grid, the way it is held: at the mating face or at the wire side."""

import weakref
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from molvik.analysis import Analysis
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.paint import draw_cavity_wire
from molvik.model.geometry import Face, Place, extent, places
from molvik.model.parts import Colour, Connector, End, Pin
from molvik.reference.colours import colour_name

NUMBERED_STEP = 26
"""From this distance between cavities, px, there is room for a number above each."""


class Cavity(NamedTuple):
    """A cavity as it is painted."""

    place: Place
    state: str  # wired, listed, empty, plugged or unknown
    wires: tuple[Colour | None, ...]
    words: str


def cavities_of(connector: Connector, analysis: Analysis, face: Face) -> tuple[Cavity, ...]:
    """Return every cavity with its state and its description in words."""
    pins = {pin.cavity: pin for pin in connector.pins}
    network = analysis.network
    found: list[Cavity] = []
    for place in places(connector.grid, face):
        pin = pins.get(place.cavity, Pin(place.cavity))
        wires = network.wires_at.get(End(connector.code, place.cavity), [])
        if wires:
            state = "wired"
        elif pin.fill:
            state = pin.fill
        elif pin.function or pin.colour or pin.circuit:
            state = "listed"
        else:
            state = "unknown"
        colours = tuple(wire.colour for wire in wires) or ((pin.colour,) if pin.colour else ())
        says = {
            "wired": ", ".join(
                wire.code
                + (f" {colour_name(wire.colour.base, wire.colour.tracer)}" if wire.colour else "")
                for wire in wires
            ),
            "listed": "in the pinout, no wire yet",
            "empty": "empty",
            "plugged": "cavity plug fitted",
            "unknown": "not known",
        }[state]
        words = f"cavity {place.cavity}: {pin.function or 'no function known'} · {says}"
        found.append(Cavity(place, state, colours, words))
    return tuple(found)


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
        self.face: Face = "mating face"
        self.cavity = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumHeight(96)

    def show_connector(self, connector: Connector | None, analysis: Analysis) -> None:
        """Show a connector as the job has it."""
        self._connector, self._seen = connector, weakref.ref(analysis)
        self._cavities = cavities_of(connector, analysis, self.face) if connector else ()
        if not any(one.place.cavity == self.cavity for one in self._cavities):
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
        across, down = extent(self._connector.grid)
        step = min(self._largest, 40)
        return QSize(round(across * step + 40), round(down * step + 44))

    def _step(self) -> float:
        if self._connector is None:
            return 0.0
        columns, rows = extent(self._connector.grid)
        across = (self.width() - 64) / columns
        down = (self.height() - 36) / rows
        return max(8.0, min(across, down, self._largest))

    def _centre(self, place: Place) -> QPointF:
        assert self._connector is not None
        (columns, rows), step = extent(self._connector.grid), self._step()
        left = (self.width() - columns * step) / 2
        top = 16 + (self.height() - 36 - rows * step) / 2
        return QPointF(left + (place.column + 0.5) * step, top + (place.row + 0.5) * step)

    def _at(self, point: QPointF) -> Cavity | None:
        half = self._step() / 2
        for one in self._cavities:
            centre = self._centre(one.place)
            if abs(point.x() - centre.x()) <= half and abs(point.y() - centre.y()) <= half:
                return one
        return None

    # events

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the cavity under the mouse."""
        one = self._at(event.position())
        if one is not None:
            self.choose(one.place.cavity)
            self.chosen.emit(one.place.cavity)

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
            one = self._at(QPointF(event.pos()))
            if one is not None:
                QToolTip.showText(event.globalPos(), one.words, self)
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
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._connector is None:
            painter.setPen(colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No connector chosen")
            return
        (columns, down), step = extent(self._connector.grid), self._step()
        first = self._centre(Place("", 0, 0))
        shell = QRectF(
            first.x() - step / 2 - 8,
            first.y() - step / 2 - 6,
            columns * step + 16,
            down * step + 12,
        )
        painter.setPen(QPen(colour("copper" if self.hasFocus() else "faint"), 2))
        painter.setBrush(colour("side"))
        if self._connector.grid.round:
            painter.drawEllipse(shell)
        else:
            painter.drawRoundedRect(shell, 9, 9)
        if self._connector.lever or not (self._connector.key or self._connector.up):
            self._paint_lever(painter, shell)
        self._paint_key(painter, shell)
        for one in self._cavities:
            self._paint_cavity(painter, one, step)
        if not self._numbered(step):
            self._paint_row_ends(painter, shell, step)
        painter.setFont(font(11))
        painter.setPen(colour("faint"))
        below = 6 if self._connector.key == "bottom" else 2
        foot = QRectF(0, shell.bottom() + below, self.width(), 16)
        side = f"{self.face} · {self._connector.up or 'lock up'} · F turns it"
        if self.cavity:
            side = f"{self._connector.code} cavity {self.cavity} · {side}"
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter, side)

    def _side(self, side: str) -> str:
        """Return on which side something is seen: turning over swaps left and right only."""
        if self.face == "wire side":
            return {"left": "right", "right": "left"}.get(side, side)
        return side

    def _paint_lever(self, painter: QPainter, shell: QRectF) -> None:
        """Paint the lock lever or clip; where nothing is said it is held up, on top."""
        assert self._connector is not None
        side = self._side(self._connector.lever or "top")
        half = min(22.0, (shell.height() if side in ("left", "right") else shell.width()) / 4)
        middle = shell.center()
        boxes = {
            "top": QRectF(middle.x() - half, shell.top() - 6, 2 * half, 6),
            "bottom": QRectF(middle.x() - half, shell.bottom(), 2 * half, 6),
            "left": QRectF(shell.left() - 6, middle.y() - half, 6, 2 * half),
            "right": QRectF(shell.right(), middle.y() - half, 6, 2 * half),
        }
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("faint"))
        painter.drawRect(boxes[side])

    def _paint_key(self, painter: QPainter, shell: QRectF) -> None:
        """Paint the key as a notch in the rim."""
        assert self._connector is not None
        side = self._side(self._connector.key)
        middle = shell.center()
        # Beside the lever, where both are on top.
        both = self._connector.lever == "top" and not self._connector.grid.round
        beside = shell.width() * 0.25 if both else 0.0
        spots = {
            "top": QPointF(middle.x() - beside, shell.top()),
            "bottom": QPointF(middle.x(), shell.bottom()),
            "left": QPointF(shell.left(), middle.y()),
            "right": QPointF(shell.right(), middle.y()),
        }
        if side:
            painter.setPen(QPen(colour("ink"), 2))
            painter.setBrush(colour("sheet"))
            painter.drawEllipse(spots[side], 5, 5)

    def _numbered(self, step: float) -> bool:
        """Return whether each cavity is numbered; an irregular layout has no rows to number."""
        return step >= NUMBERED_STEP or bool(self._connector and self._connector.grid.spots)

    def _paint_row_ends(self, painter: QPainter, shell: QRectF, step: float) -> None:
        """Number the ends of each row where the cavities are too small to be numbered each."""
        painter.setFont(font(9, mono=True))
        painter.setPen(colour("faint"))
        rows: dict[float, list[Place]] = {}
        for one in self._cavities:
            rows.setdefault(one.place.row, []).append(one.place)
        for places_here in rows.values():
            ordered = sorted(places_here, key=lambda place: place.column)
            middle = self._centre(ordered[0]).y()
            left = QRectF(shell.left() - 24, middle - 7, 21, 14)
            right = QRectF(shell.right() + 3, middle - 7, 21, 14)
            vertical = Qt.AlignmentFlag.AlignVCenter
            painter.drawText(left, Qt.AlignmentFlag.AlignRight | vertical, ordered[0].cavity)
            painter.drawText(right, Qt.AlignmentFlag.AlignLeft | vertical, ordered[-1].cavity)

    def _paint_cavity(self, painter: QPainter, one: Cavity, step: float) -> None:
        centre = self._centre(one.place)
        numbered = self._numbered(step)
        radius = step * (0.27 if numbered else 0.36)
        if numbered:
            first = one is self._cavities[0]  # told at a glance, whichever way it is held
            painter.setFont(font(max(9, min(12, int(step * 0.29))), mono=True, bold=first))
            painter.setPen(colour("copper" if first else "ink"))
            line = QRectF(centre.x() - step / 2, centre.y() - step / 2, step, step * 0.36)
            painter.drawText(line, Qt.AlignmentFlag.AlignCenter, one.place.cavity)
            centre = QPointF(centre.x(), centre.y() + step * 0.14)
        if one.place.cavity == self.cavity:
            painter.setPen(QPen(colour("copper"), 2.5))
            painter.setBrush(colour("copper_wash"))
            half = step / 2 - 1
            middle = self._centre(one.place)
            painter.drawRoundedRect(
                QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half), 5, 5
            )
            if numbered:
                painter.setPen(colour("ink"))
                painter.drawText(
                    QRectF(middle.x() - half, middle.y() - step / 2, 2 * half, step * 0.36),
                    Qt.AlignmentFlag.AlignCenter,
                    one.place.cavity,
                )
        paint_state(painter, centre, radius, one.state, one.wires)


def paint_state(
    painter: QPainter, centre: QPointF, radius: float, state: str, wires: tuple[Colour | None, ...]
) -> None:
    """Paint what is in one cavity."""
    match state:
        case "wired":
            first = wires[0]
            if first is None:
                painter.setPen(QPen(colour("ink"), 1.2))
                painter.setBrush(colour("line"))
                painter.drawEllipse(centre, radius, radius)
            else:
                draw_cavity_wire(painter, centre, radius, first)
            if len(wires) > 1:
                painter.setPen(QPen(colour("stop"), 2.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(centre, radius + 1.5, radius + 1.5)
        case "listed":
            painter.setPen(QPen(colour("faint"), 1.4, Qt.PenStyle.DashLine))
            painter.setBrush(colour("sheet"))
            painter.drawEllipse(centre, radius, radius)
            if wires and wires[0] is not None:
                draw_cavity_wire(painter, centre, radius * 0.45, wires[0])
        case "plugged":
            painter.setPen(QPen(colour("faint"), 1.2))
            painter.setBrush(colour("line"))
            painter.drawEllipse(centre, radius, radius)
            reach = radius * 0.6
            painter.drawLine(
                QPointF(centre.x() - reach, centre.y() - reach),
                QPointF(centre.x() + reach, centre.y() + reach),
            )
            painter.drawLine(
                QPointF(centre.x() - reach, centre.y() + reach),
                QPointF(centre.x() + reach, centre.y() - reach),
            )
        case "empty":
            painter.setPen(QPen(colour("line"), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, radius, radius)
        case _:
            painter.setFont(font(max(9, int(radius * 1.3))))
            painter.setPen(colour("faint"))
            spot = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
            painter.drawText(spot, Qt.AlignmentFlag.AlignCenter, "?")


LEGEND: tuple[tuple[str, str], ...] = (
    ("wired", "wire"),
    ("listed", "in the pinout, no wire yet"),
    ("empty", "seen empty"),
    ("plugged", "cavity plug"),
    ("unknown", "not known"),
)
_SAMPLE = Colour("RD", "WH")


class Legend(QWidget):
    """What the marks in the cavities mean."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(20)
        words = ", ".join(words for _, words in LEGEND)
        self.setAccessibleName(f"Marks in the cavities: {words}")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint each mark with its word."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(11))
        widths = [painter.fontMetrics().horizontalAdvance(words) + 38 for _, words in LEGEND]
        left = (self.width() - sum(widths)) / 2
        for (state, words), width in zip(LEGEND, widths, strict=True):
            paint_state(painter, QPointF(left + 9, 10), 7.0, state, (_SAMPLE,))
            painter.setFont(font(11))
            painter.setPen(colour("faint"))
            place = QRectF(left + 21, 0, width, 20)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)
            left += width
