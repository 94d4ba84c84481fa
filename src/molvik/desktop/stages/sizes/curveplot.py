"""The time and current of a wire and its fuse, on the screen."""

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QSizePolicy

from molvik.desktop.widgets.canvas import Canvas
from molvik.drawing.scene import Scene
from molvik.sizes.curvedrawing import CurveDrawing
from molvik.sizes.curves import Curves


class CurvePlot(Canvas):
    """Draws the curves of one wire; hidden without any."""

    def __init__(self) -> None:
        super().__init__("Time against current")
        self.curves: Curves | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(250)

    def sizeHint(self) -> QSize:
        """Return a size that shows three decades well."""
        return QSize(560, 250)

    def show_curves(self, curves: Curves | None) -> None:
        """Draw other curves."""
        self.curves = curves
        self.setVisible(curves is not None)
        self.redraw()
        if curves is None:
            return
        verdict = "protects" if curves.protects else "does not protect"
        words = f"{curves.fuse} {verdict} the wire at every current"
        self.setAccessibleDescription(words)
        self.setToolTip(
            f"{words}. The fuse blows somewhere in its band, at the latest on its upper edge; the "
            "wire must stand that. Both axes are logarithmic."
        )

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the curves."""
        return CurveDrawing(self.curves, width, height).scene if self.curves else None
