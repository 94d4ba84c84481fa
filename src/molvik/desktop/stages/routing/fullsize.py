"""A loom to build at full size, to a file: PDF in tiles, SVG or DXF."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from molvik.analysis import Analysis
from molvik.desktop.dialogs.questions import ask_line
from molvik.files.errors import JobFileError
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text

KINDS = "PDF in tiles (*.pdf);;SVG (*.svg);;DXF (*.dxf)"


def ask_full_size(parent: QWidget, analysis: Analysis, loom: str) -> str:
    """Ask where to, and on which paper; return what was written, empty when it was given up.

    Raises ValueError for what cannot be written, in words.
    """
    from molvik.routing.board.tiling import EVERY

    name, kind = QFileDialog.getSaveFileName(parent, "The loom at full size", "board.pdf", KINDS)
    if not name:
        return ""
    path = Path(name)
    if not path.suffix:
        path = path.with_suffix("." + kind.rsplit(".", 1)[-1].rstrip(")"))
    paper = "A4"
    if path.suffix.lower() == ".pdf":
        words = "Print at 100 %: each tile has a ruler of 100 mm to check that by."
        chosen = ask_line(parent, "On which paper?", words, "A4", choices=list(EVERY))
        if chosen is None:
            return ""
        paper = chosen
    return write_full_size(analysis, loom, path, paper)


def write_full_size(analysis: Analysis, loom: str, path: Path, paper: str) -> str:
    """Write a loom at full size; return what was written. Raises ValueError."""
    from molvik.files.board import board_bytes

    sheet = analysis.board_sheet(loom, now_text()[:10])
    try:
        write_file(path, board_bytes(sheet, path.suffix, paper))
    except JobFileError as error:
        raise ValueError(str(error)) from error
    size = f"{sheet.width_mm:.0f} by {sheet.height_mm:.0f} mm"
    return f"{sheet.board.name}, {size}, written to {path.name}"
