"""The board at full size, seen before it is printed: what is on it, and on which paper."""

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QFileDialog, QVBoxLayout, QWidget

from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.fields import ticked
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, choice, label, row
from molvik.drawing.scene import Box, Pen, Rect, Scene, Shape, Text
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text
from molvik.routing.board.revisions import given_out, next_mark
from molvik.routing.board.sheet import BoardSheet, Layer
from molvik.routing.board.tiling import EVERY, Tiling, tiling
from molvik.wording import counted

KINDS = "PDF in tiles (*.pdf);;SVG (*.svg);;DXF (*.dxf)"

TABLES = "Tables"

SHOWN: dict[str, tuple[Layer, ...]] = {
    "Names": ("NAMES",),
    "Lengths": ("DIMENSIONS",),
    "Clips and ties": ("HOLDS",),
    "Zones": ("ZONES",),
}
"""What can be left out; without tables the nodes have their names in place of them."""


class SheetView(Canvas):
    """Shows a board with the tiles of paper that it is cut into."""

    def __init__(self) -> None:
        super().__init__("The board at full size", "")
        self._sheet: BoardSheet | None = None
        self._tiles: Tiling | None = None

    def show_board(self, sheet: BoardSheet | None, tiles: Tiling | None) -> None:
        """Show a board, and how it is cut into sheets of paper."""
        self._sheet, self._tiles = sheet, tiles
        self.redraw()

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the board; with legend and title block only where they are on the sheet itself."""
        if self._sheet is None:
            return None
        shown = self._tiles.sheet if self._tiles is not None else self._sheet
        board = Box(0, 0, shown.width_mm, shown.height_mm)
        shapes = (Rect(board, None, "sheet"), *shown.scene.shapes, *self._paper(board))
        return shown.scene._replace(shapes=shapes)

    def _paper(self, board: Box) -> Iterator[Shape]:
        """Yield the tiles, as far as they lie on the board."""
        for tile in self._tiles.tiles if self._tiles is not None else ():
            left, top = max(0.0, tile.shows.x), max(0.0, tile.shows.y)
            right = min(board.right, tile.shows.right)
            box = Box(left, top, right - left, min(board.bottom, tile.shows.bottom) - top)
            yield Rect(box, Pen("copper", 2.0, (14.0, 6.0)))
            name = Box(box.x + 8, box.y + 6, 90, 34)
            yield Text(tile.name, name, 34, "copper", "left", bold=True, whole=True)


class BoardDialog(QDialog):
    """Chooses what is on a board and on which paper it goes, and writes it. ``said``: what was
    written, in words.
    """

    def __init__(self, parent: QWidget, store: Store, loom: str) -> None:
        super().__init__(parent)
        self._store, self._loom = store, loom
        self._whole: BoardSheet | None = None
        self._task: Task | None = None
        self.said = ""
        self.setWindowTitle("The board at full size")
        self.resize(1180, 720)
        self.view = SheetView()
        papers = [("whole, no tiles", ""), *((name, name) for name in EVERY)]
        self.paper = choice("Paper", papers, "A4")
        self.paper.setToolTip("Sheets are laid where the fewest show all of it; a roll is cut off")
        self.paper.currentIndexChanged.connect(lambda _: self._show())
        self.tables = ticked(TABLES, True, self._begin)
        self.shown = {name: ticked(name, True, self._show) for name in SHOWN}
        self.about = label("")
        self.notice = Notice()
        self.save = button("Save…", "As PDF, SVG or DXF, with what is shown", self._ask, "action")
        self.save.setDefault(True)
        self.save.setEnabled(False)
        tools = row(label("Paper"), self.paper, self.tables, *self.shown.values(), 1, self.about)
        whole = QVBoxLayout(self)
        whole.addLayout(tools)
        whole.addWidget(self.notice)
        whole.addWidget(self.view, 1)
        words = "Print at 100 %: each sheet has a ruler of 100 mm to check that by."
        close = button("Close", "Back to Routing (Esc)", self.reject)
        self.revise = button(
            "New revision…",
            "Give this state of the board out under the next letter, with what changed",
            self._revise,
        )
        fit = button("Fit", "All of it in view (Ctrl+0)", self.view.fit_all)
        whole.addLayout(row(label(words, "faint"), 1, self.revise, fit, close, self.save))
        QShortcut(QKeySequence("Ctrl+S"), self).activated.connect(self._ask)
        self.setWindowFlag(Qt.WindowType.WindowMaximizeButtonHint)
        self._begin()

    @property
    def sheet(self) -> BoardSheet | None:
        """The board with what is shown; None while it is being drawn."""
        if self._whole is None:
            return None
        hidden = [SHOWN[name] for name, box in self.shown.items() if not box.isChecked()]
        return self._whole.without(frozenset(layer for layers in hidden for layer in layers))

    def _begin(self) -> None:
        """Draw the board: of a large loom it takes a moment."""
        analysis, loom, on = self._store.analysis, self._loom, now_text()[:10]
        tables = self.tables.isChecked()
        self._whole = None
        self._aside(lambda: analysis.board_sheet(loom, on, tables=tables), self._take, "drawing …")

    def _aside(self, work: Callable[[], Any], then: Callable[[Any], None], words: str) -> None:
        """Do something aside, in place of what was done before; nothing is written meanwhile."""
        if self._task is not None:
            self._task.stop()
        self.save.setEnabled(False)
        self.about.setText(words)
        self._task = Task(lambda _: work(), self)
        self._task.done.connect(then)
        self._task.failed.connect(self._refuse)
        self._task.start()

    def _refuse(self, error: Exception) -> None:
        self.notice.say(str(error))
        self.about.setText("")
        self.save.setEnabled(self._whole is not None)

    def _take(self, sheet: BoardSheet) -> None:
        self._whole = sheet
        self._show()

    def _show(self) -> None:
        """Show the board as chosen, once it is known which sheets of paper that takes."""
        sheet, paper = self.sheet, self.paper.currentData()
        if sheet is None:
            return
        self.notice.say("")

        def cut() -> Tiling | None:
            return tiling(sheet, paper) if paper else None

        self._aside(cut, partial(self._show_sheets, sheet), "laying the sheets …")

    def _show_sheets(self, sheet: BoardSheet, tiles: Tiling | None) -> None:
        size = f"{sheet.width_mm:.0f} by {sheet.height_mm:.0f} mm"
        kind = "strip" if self.paper.currentText().startswith("roll") else "sheet"
        count = f", {counted(len(tiles.tiles), kind)}" if tiles else ""
        left = f", {counted(len(sheet.left_out), 'label')} without room" if sheet.left_out else ""
        board = sheet.board
        large = ", more than the board of the loom" if board.too_large else ""
        tight = f", {counted(len(board.tight), 'plug')} over others" if board.tight else ""
        self.about.setText(f"{size}{large}{count}{left}{tight}")
        self.view.show_board(sheet, tiles)
        self.save.setEnabled(True)

    def _revise(self) -> None:
        """Ask what changed, and give the board out as the next revision."""
        store, loom = self._store, self._loom
        held = next(one for one in store.job.routing.looms if one.code == loom)
        mark = next_mark(held.revisions)
        since = f" since {held.revisions[-1].mark}" if held.revisions else ""
        text = "" if held.revisions else "First issue"
        on, by = now_text()[:10], store.job.settings.measured_by

        def give(what: str) -> None:
            store.do(f"Revision {mark}", lambda job: given_out(job, loom, what, on, by))

        words = f"What changed{since}? It stands in the title block, with {on}."
        if ask_line(self, f"Revision {mark} of {held.name}", words, text, give) is not None:
            self._begin()

    def _ask(self) -> None:
        if self.sheet is None:
            return
        name, kind = QFileDialog.getSaveFileName(self, "The board at full size", "board.pdf", KINDS)
        if not name:
            return
        path = Path(name)
        if not path.suffix:
            path = path.with_suffix("." + kind.rsplit(".", 1)[-1].rstrip(")"))
        self.write_to(path)

    def write_to(self, path: Path) -> None:
        """Write the board to a file, aside; what went wrong is said in the place for it."""
        sheet = self.sheet
        if sheet is None:
            return
        paper = self.paper.currentData() or f"roll {sheet.height_mm + 60:.0f}"
        size = f"{sheet.width_mm:.0f} by {sheet.height_mm:.0f} mm"
        self.said = ""

        def write() -> str:
            from molvik.files.board import board_bytes

            write_file(path, board_bytes(sheet, path.suffix, paper))
            return f"{sheet.board.name}, {size}, written to {path.name}"

        self._aside(write, self._written, f"{path.name} is being written …")

    def _written(self, said: str) -> None:
        self.said = said
        self.accept()

    def done(self, result: int) -> None:
        """Give up what is being drawn with the window."""
        if self._task is not None:
            self._task.stop()
        super().done(result)
