"""What can be done with any drawing: larger, smaller, fitted, saved as SVG, printed."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtGui import QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QFileDialog, QWidget

from molvik.desktop.dialogs.opening import ask
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.painting import paint_scene
from molvik.desktop.widgets.small import button
from molvik.drawing.scene import Scene
from molvik.files.errors import JobFileError
from molvik.files.writing import write_file


class CanvasTools:
    """Buttons for a drawing. title: its name in files; paper: returns it as it goes on paper."""

    def __init__(
        self, canvas: Canvas, title: str, paper: Callable[[], Scene | None], notice: Notice
    ) -> None:
        self._canvas, self._title, self._paper, self._notice = canvas, title, paper, notice
        self.smaller = button("−", "Smaller (Ctrl+minus)", lambda: canvas.zoom_by(1 / 1.2))
        self.bigger = button("+", "Larger (Ctrl+plus, Ctrl+wheel)", lambda: canvas.zoom_by(1.2))
        self.fit = button("Fit", "All of it in view (Ctrl+0)", canvas.fit_all)
        self.save = button("SVG…", "Save the drawing as a file", self._ask_svg)
        self.printed = button("Print…", "Print the drawing", self._ask_print)
        self.bigger.setAccessibleName("Larger")
        self.smaller.setAccessibleName("Smaller")
        self.every: tuple[QWidget, ...] = (
            self.smaller,
            self.bigger,
            self.fit,
            self.save,
            self.printed,
        )

    def enable(self, able: bool) -> None:
        """Say whether there is anything drawn."""
        for tool in self.every:
            tool.setEnabled(able)

    def save_svg(self, path: Path) -> None:
        """Write the drawing to a file; what went wrong is said in the place for it."""
        from molvik.files.svg import svg_bytes

        scene = self._paper()
        if scene is None:
            return
        try:
            write_file(path, svg_bytes(scene, self._title))
        except JobFileError as error:
            self._notice.say(str(error))
        else:
            self._notice.say("")

    def _ask_svg(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self._canvas, "Save the drawing", f"{self._title.lower()}.svg", "SVG (*.svg)"
        )
        if name:
            self.save_svg(Path(name if name.lower().endswith(".svg") else f"{name}.svg"))

    def _ask_print(self) -> None:
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        if ask(QPrintDialog(printer, self._canvas)):
            self.print_on(printer)

    def print_on(self, printer: QPrinter) -> None:
        """Print the drawing, as wide as the page, on as many pages as it needs."""
        scene = self._paper()
        if scene is None:
            return
        painter = QPainter(printer)
        page = printer.pageRect(QPrinter.Unit.DevicePixel)
        scale = page.width() / scene.width
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
