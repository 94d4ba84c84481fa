"""A loom to build on the board: to scale, turned and bent by dragging, drawn out of its joints."""

import math
import weakref
from typing import NamedTuple

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QMouseEvent

from molvik.analysis import Analysis
from molvik.desktop.widgets.loomcanvas import LoomCanvas, name_width
from molvik.drawing.scene import Area, Box, Oval, Path, Pen, Point, Rect, Scene, Shape, Text
from molvik.model.job import Job
from molvik.model.routing import LoomNode
from molvik.routing.drawing import USUAL, RouteDrawing, lit_runs, plugs_of, tree_of
from molvik.routing.turning import TIDY_DEG, Grab, Turned
from molvik.routing.vehicle import vehicle_scene
from molvik.wording import counted

DRAG_PX = 5
"""A press that moves less far is a click."""


class Drawn(NamedTuple):
    """A stretch drawn out of a joint. to: the joint it ends at, empty for a new one. heading: which
    way it leads, deg, None where nobody drew it; length_m: as it was drawn.
    """

    joint: str
    to: str
    heading: float | None
    length_m: float


def drawing_of(
    analysis: Analysis,
    loom: str,
    room: tuple[float, float],
    *,
    ready: bool,
    shown: frozenset[str] = USUAL,
) -> RouteDrawing | None:
    """Return a loom drawn in so much room; None without ends. ready: of a large one it takes a
    while, and is done now; else when it is first looked at, which many edits in a row never are.
    """
    job, placed = analysis.job, analysis.placed.get(loom)
    if placed is None or not placed.places:
        return None
    thick = {code: section.over_mm for code, section in analysis.sections.items()}
    tree, plugs = tree_of(job.routing, loom, thick), plugs_of(job, analysis.network, loom)
    wires = {code: len(section.wires) for code, section in analysis.sections.items()}
    made = RouteDrawing(
        job.routing,
        tree,
        placed,
        plugs,
        loom,
        *room,
        measure=name_width,
        shown=shown,
        wires=wires,
    )
    if ready:
        _ = made.scene
    return made


class RouteView(LoomCanvas):
    """Draws one loom; of what is in hand the way of a wire.

    turned(turns): a branch was turned, or a stretch bent, by dragging it; of each run of the loom
    its heading and bend. drawn(stretch): one was drawn out of a joint.
    """

    turned = Signal(object)
    drawn = Signal(object)

    def __init__(self) -> None:
        super().__init__("The loom to build, on the board")
        self._made: RouteDrawing | None = None
        self._pressed: tuple[QPoint, str] | None = None
        self._grab: Grab | None = None
        self._moved: Turned | None = None
        self._out: Drawn | None = None
        self._zones = False
        self.shown = USUAL
        """What is shown of stretches."""
        self.draws = False
        """Whether dragging draws a new stretch out of a joint."""

    def show_loom(self, analysis: Analysis, made: RouteDrawing | None) -> None:
        """Show a loom as the job has it: as it was drawn before, or nothing."""
        self._made, self._seen = made, weakref.ref(analysis)
        self.redraw()

    def show_zones(self, zones: bool) -> None:
        """Show which place each stretch passes, in columns, or the loom as it lies on the board."""
        self._zones = zones
        self.redraw()

    def show_only(self, shown: frozenset[str]) -> None:
        """Show of stretches only some things, of SHOWN."""
        self.shown = shown
        if self._made is not None:
            self._made = self._made.again(self.room(), shown=shown)
        self.redraw()

    def loom_drawing(self, hand: str = "") -> RouteDrawing | None:
        """Return the loom as it is drawn in the room there is; None without one."""
        made, analysis = self._made, self.analysis
        if made is None or analysis is None:
            return None
        room = self.room()
        if not hand and (made.width, made.height) != room:
            self._made = made = made.again(room)
        lit = lit_runs(hand, analysis.electrics.ways.of) if hand else frozenset[str]()
        return made.again(room, hand, lit) if hand else made

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the loom."""
        if self._zones:
            return self._by_places(None)
        made = self.loom_drawing()
        return made.scene if made else None

    def _by_places(self, only: frozenset[str] | None) -> Scene | None:
        made = self._made
        if made is None:
            return None
        return vehicle_scene(made.routing, made.loom, made.placed, *self.room(), only, name_width)

    def draw_over(self) -> Scene | None:
        """Return what is in hand, or what is being dragged."""
        if self._moved is not None or self._out is not None:
            return self._dragged()
        if self._zones:
            ways = self.analysis.electrics.ways.of if self.analysis else {}
            return self._by_places(lit_runs(self._hand, ways)) if self._hand else None
        made = self.loom_drawing(self._hand) if self._hand else None
        return made.marks if made else None

    def told(self, area: Area) -> str:
        """Say what a joint or stretch is."""
        section = self.analysis.sections.get(area.ref) if self.analysis else None
        if section is None:
            plug = self._made.plugs.get(area.ref) if self._made else None
            seen = (
                ""
                if plug is None
                else (
                    f"\nseen from above, mating face outward, {plug.wide_mm:.0f} mm wide"
                    + (f", top: {plug.up}" if plug.up else "")
                )
            )
            return f"{area.ref} {area.words}{seen}"
        wires = counted(len(section.wires), "wire")
        return f"{area.ref} · {wires} · {section.over_mm:.1f} mm over all"

    # dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose what is under the mouse; it may be dragged from there."""
        at = event.position().toPoint()
        area = self.hit(at)  # before the panel opens for it, and everything moves
        super().mousePressEvent(event)
        if event.button() == Qt.MouseButton.LeftButton and area is not None and not self._zones:
            self._pressed = at, area.ref

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Turn what is dragged, or draw a stretch out of it."""
        at = event.position().toPoint()
        if self._pressed is None or not event.buttons() & Qt.MouseButton.LeftButton:
            super().mouseMoveEvent(event)
            return
        far = (at - self._pressed[0]).manhattanLength() >= DRAG_PX
        if not far and self._moved is None and self._out is None:
            return
        tidy = not event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        if self.draws:
            self._out = self._drawn_to(self._pressed[1], at, tidy)
        else:
            self._turn(self._pressed[1], at, tidy)
        self.redraw_over()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Leave it as it was turned, or ask how long what was drawn is."""
        super().mouseReleaseEvent(event)
        moved, out = self._moved, self._out
        self.let_go()
        if moved is not None and self._made is not None:
            self.turned.emit({**self._made.placed.turns, **moved.turns})
        elif out is not None:
            self.drawn.emit(out)

    def let_go(self) -> None:
        """Give up what is being dragged."""
        self._pressed = self._grab = self._moved = self._out = None
        self.keep_still(False)
        self.redraw_over()

    def on_board(self, at: QPoint) -> Point | None:
        """Return where a place of the viewport is on the board, m."""
        made = self.loom_drawing()
        if made is None:
            return None
        scale, left, top = made.scale
        spot = self.mapToScene(at)
        return Point((spot.x() - left) / scale, (spot.y() - top) / scale)

    def _turn(self, ref: str, at: QPoint, tidy: bool) -> None:
        if self._made is None or (point := self.on_board(at)) is None:
            return
        if self._grab is None:
            runs = {run.code: run for run in self._made.routing.runs}
            self._grab = Grab(self._made.placed, runs, ref)
            self.keep_still(True)
        if self._grab.holds:
            self._moved = self._grab.to(point, tidy=tidy)

    def _drawn_to(self, ref: str, at: QPoint, tidy: bool) -> Drawn | None:
        """Return what is drawn out of a joint to a place."""
        if self._made is None or (point := self.on_board(at)) is None:
            return None
        places = self._made.placed.places
        begin = places.get(ref)
        if begin is None:
            return None
        area = self.hit(at)
        to = area.ref if area and area.ref in places and area.ref != ref else ""
        heading = math.degrees(math.atan2(point.y - begin.y, point.x - begin.x))
        if tidy:
            heading = round(heading / TIDY_DEG) * TIDY_DEG
        return Drawn(ref, to, heading, round(max(0.01, math.dist(begin, point)), 2))

    def _dragged(self) -> Scene | None:
        """Draw only what moves: over the rest, which stands."""
        made = self.loom_drawing()
        if made is None:
            return None
        places = made.placed.places
        scale, left, top = made.scale

        def px(point: Point) -> Point:
            return Point(left + point.x * scale, top + point.y * scale)

        shapes: list[Shape] = []
        if self._moved is not None:
            for run, path in self._moved.paths.items():
                line = tuple(map(px, path))
                shapes.append(Path(line, Pen("copper", made.thick_px(run), round=True)))
        if self._out is not None:
            begin = places[self._out.joint]
            angle, long = math.radians(self._out.heading or 0.0), self._out.length_m
            end = Point(begin.x + long * math.cos(angle), begin.y + long * math.sin(angle))
            if self._out.to:
                end = places[self._out.to]
            shapes += [
                Path((px(begin), px(end)), Pen("copper", 2.5, (6.0, 4.0))),
                Oval(Box(px(end).x - 4, px(end).y - 4, 8, 8), Pen("copper", 1.5), "sheet"),
                *_said(px(end), self._out.to or f"{long * 1000:.0f} mm"),
            ]
        return Scene(*self.room(), tuple(shapes))


def _said(point: Point, words: str) -> tuple[Shape, ...]:
    """Return words beside a place, on a ground of their own."""
    wide = name_width(words, True) + 8
    box = Box(point.x + 8, point.y - 20, wide, 16)
    return Rect(box, Pen("copper", 1.0), "sheet", 3.0), Text(words, box, 11, "copper", bold=True)


def joint_of(job: Job, code: str) -> LoomNode | None:
    """Return a joint of a loom to build, None for any other code."""
    return next((joint for joint in job.routing.joints if joint.code == code), None)
