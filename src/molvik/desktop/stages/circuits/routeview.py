"""A device's circuit as a drawing to look at, walk through by keys, print and save."""

from pathlib import Path

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import (
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShortcut,
    QWheelEvent,
)
from PySide6.QtWidgets import QFileDialog, QScrollArea, QVBoxLayout, QWidget

from molvik.circuits.drawing import PAPER_WIDTH, Layout, Placed, drawn, lay_out
from molvik.circuits.route import Line, fold, in_words
from molvik.desktop.dialogs import ask
from molvik.desktop.theme import colour
from molvik.desktop.widgets.painting import paint_scene
from molvik.desktop.widgets.small import Notice, button
from molvik.drawing.scene import Scene

LEAST_ZOOM, MOST_ZOOM = 0.3, 2.5


class RouteCanvas(QWidget):
    """The drawing itself. picked(code) when a stop is chosen; unfolded when a fold is."""

    picked = Signal(str)
    unfolded = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("The circuit from the battery and back")
        self.lines: tuple[Line, ...] = ()
        self.zoom = 1.0
        self.room = 700
        self.chosen = ""
        self.focus_at = -1
        self.layout_now: Layout = lay_out((), 700)
        self._drawn: tuple[tuple[Layout, str, int], Scene] | None = None

    def show_lines(self, lines: tuple[Line, ...], chosen: str) -> None:
        """Draw other lines."""
        self.lines, self.chosen = lines, chosen
        self.setAccessibleDescription(in_words(lines))
        self.arrange()

    def arrange(self) -> None:
        """Place everything anew, for another width or zoom."""
        self.layout_now = lay_out(self.lines, self.room / self.zoom)
        self.focus_at = min(self.focus_at, len(self.layout_now.placed) - 1)
        self.setFixedSize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        """Return the size of the drawing."""
        wide, high = self.layout_now.width * self.zoom, self.layout_now.height * self.zoom
        return QSize(max(int(wide), 60), max(int(high), 40))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the drawing."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("sheet"))
        painter.scale(self.zoom, self.zoom)
        focus = self.focus_at if self.hasFocus() else -1
        paint_scene(painter, self._scene_with(focus))

    def _scene_with(self, focus: int) -> Scene:
        """Return the drawing with a stop in focus, made when something of it changed."""
        wanted = self.layout_now, self.chosen, focus
        if self._drawn is None or self._drawn[0] != wanted:
            self._drawn = wanted, drawn(*wanted)
        return self._drawn[1]

    def at(self, x: float, y: float) -> Placed | None:
        """Return the stop at a place of the widget."""
        x, y = x / self.zoom, y / self.zoom
        return next((placed for placed in self.layout_now.placed if placed.area.holds(x, y)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the stop in hand."""
        found = self.at(event.position().x(), event.position().y())
        if found is not None:
            self.focus_at = self.layout_now.placed.index(found)
            self._take(found)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk along the stops; Enter takes one in hand."""
        placed = self.layout_now.placed
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step and placed:
            self.focus_at = max(0, min(len(placed) - 1, self.focus_at + step))
            self.setAccessibleDescription(placed[self.focus_at].words)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and (
            0 <= self.focus_at < len(placed)
        ):
            self._take(placed[self.focus_at])
        else:
            super().keyPressEvent(event)

    def _take(self, placed: Placed) -> None:
        if placed.stop.shape == "fold":
            self.unfolded.emit()
        elif placed.stop.code:
            self.picked.emit(placed.stop.code)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Say in full what is under the mouse."""
        found = self.at(event.position().x(), event.position().y())
        self.setToolTip(found.words if found else "")


class RouteView(QWidget):
    """The drawing in a frame that scrolls, with zoom, fold, save and print."""

    def __init__(self) -> None:
        super().__init__()
        self.canvas = RouteCanvas()
        self._lines: tuple[Line, ...] = ()
        self._chosen = ""
        self.frame = QScrollArea()
        self.frame.setObjectName("card")
        self.frame.setWidget(self.canvas)
        self.frame.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.frame.viewport().installEventFilter(self)
        self.notice = Notice()
        tip = "Take plain joints in a row together, and show them again"
        self.fold = button("Fold joints", tip, self._fold)
        self.fold.setCheckable(True)
        self.fold.setChecked(True)
        self.bigger = button("+", "Larger (Ctrl+plus, Ctrl+wheel)", lambda: self.zoom_by(1.2))
        self.smaller = button("−", "Smaller (Ctrl+minus)", lambda: self.zoom_by(1 / 1.2))
        self.fit = button("Fit", "All of it in view (Ctrl+0)", self.fit_all)
        self.save = button("SVG…", "Save the drawing as a file", self._ask_svg)
        self.printed = button("Print…", "Print the drawing", self._ask_print)
        self.bigger.setAccessibleName("Larger")
        self.smaller.setAccessibleName("Smaller")
        self.tools = (self.fold, self.smaller, self.bigger, self.fit, self.save, self.printed)
        """For the line above the drawing."""
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addWidget(self.frame, 1)
        whole.addWidget(self.notice)
        self.canvas.unfolded.connect(self.fold.click)
        for keys, act in (
            ("Ctrl++", lambda: self.zoom_by(1.2)),
            ("Ctrl+=", lambda: self.zoom_by(1.2)),
            ("Ctrl+-", lambda: self.zoom_by(1 / 1.2)),
            ("Ctrl+0", self.fit_all),
        ):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(act)
        copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), self.canvas)
        copy.setContext(Qt.ShortcutContext.WidgetShortcut)
        copy.activated.connect(
            lambda: QGuiApplication.clipboard().setText(in_words(self.canvas.lines))
        )

    def show_lines(self, lines: tuple[Line, ...], chosen: str = "") -> None:
        """Show lines, folded if wanted."""
        self._lines, self._chosen = lines, chosen
        shown = tuple(fold(line) for line in lines) if self.fold.isChecked() else lines
        self.canvas.room = self.frame.viewport().width()
        self.canvas.show_lines(shown, chosen)
        for push_button in (
            self.fold,
            self.smaller,
            self.bigger,
            self.fit,
            self.save,
            self.printed,
        ):
            push_button.setEnabled(bool(lines))

    def _fold(self) -> None:
        self.show_lines(self._lines, self._chosen)

    def zoom_by(self, share: float) -> None:
        """Show it larger or smaller."""
        self.canvas.zoom = max(LEAST_ZOOM, min(MOST_ZOOM, self.canvas.zoom * share))
        self.canvas.arrange()

    def fit_all(self) -> None:
        """Show all of it at once, as large as goes."""
        room = self.frame.viewport().size()
        self.canvas.room = room.width()
        self.canvas.zoom = MOST_ZOOM / 2
        while self.canvas.zoom > LEAST_ZOOM:
            self.canvas.arrange()
            hint = self.canvas.sizeHint()
            if hint.height() <= room.height() and hint.width() <= room.width():
                return
            self.canvas.zoom /= 1.08
        self.canvas.zoom = LEAST_ZOOM
        self.canvas.arrange()

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        """Follow the width of the frame, and zoom with Ctrl and the wheel."""
        if isinstance(event, QResizeEvent) and event.size().width() != self.canvas.room:
            self.canvas.room = event.size().width()
            self.canvas.arrange()
        if isinstance(event, QWheelEvent) and (
            event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            self.zoom_by(1.1 if event.angleDelta().y() > 0 else 1 / 1.1)
            return True
        return False

    # on paper

    def svg(self) -> bytes:
        """Return the drawing as SVG."""
        from molvik.files.svg import svg_bytes

        return svg_bytes(drawn(lay_out(self.canvas.lines, PAPER_WIDTH)), "Circuit")

    def save_svg(self, path: Path) -> None:
        """Write the drawing to a file; what went wrong is said below it."""
        from molvik.files.errors import JobFileError
        from molvik.files.writing import write_file

        try:
            write_file(path, self.svg())
        except JobFileError as error:
            self.notice.say(str(error))
        else:
            self.notice.say("")

    def _ask_svg(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the drawing", "circuit.svg", "SVG (*.svg)"
        )
        if name:
            self.save_svg(Path(name if name.lower().endswith(".svg") else f"{name}.svg"))

    def _ask_print(self) -> None:
        from PySide6.QtPrintSupport import QPrintDialog, QPrinter

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        if ask(QPrintDialog(printer, self)):
            self.print_on(printer)

    def print_on(self, printer: object) -> None:
        """Print the drawing, as wide as the page, on as many pages as it needs."""
        from PySide6.QtPrintSupport import QPrinter

        assert isinstance(printer, QPrinter)
        scene = drawn(lay_out(self.canvas.lines, PAPER_WIDTH))
        painter = QPainter(printer)
        page = printer.pageRect(QPrinter.Unit.DevicePixel)
        scale = page.width() / PAPER_WIDTH
        shown = 0.0
        while True:
            painter.save()
            painter.scale(scale, scale)
            painter.translate(0, -shown)
            paint_scene(painter, scene)
            painter.restore()
            shown += page.height() / scale
            if shown >= scene.height:
                break
            printer.newPage()
        painter.end()
