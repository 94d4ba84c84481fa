"""Sheets: what goes to the bench and is handed over, previewed and written as PDF or CSV."""

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QProgressBar, QWidget

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.painting import paint_scene
from molvik.desktop.widgets.small import button, held, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.files.sheets import export_sheets, write_sheet
from molvik.findings import judged_findings
from molvik.sheet import Drawing, Paragraph, Sheet, Table, Ticks
from molvik.sheetset import every_sheet
from molvik.stopping import may_stop
from molvik.wording import counted

Row = tuple[int, tuple[str, ...]]


def _cell(index: int, line: Row) -> str:
    return line[1][index]


NARROW = 5
"""Columns with no more than this share of the page, as codes have, give no room away."""

LETTER_PX, LEAST_PX, MOST_PX = 7.5, 60, 260
"""What a letter takes across, and a column at least and at most, pixels: a line is read whole,
with a scroll bar rather than cut off in every cell.
"""

ROOM_PX = 900
"""Columns that take no more together share what room there is."""


def _table_of(table: Table, name: str) -> ThingsTable[Row]:
    """Return an empty table with the headings of one on a sheet."""
    letters = [max(map(len, cells)) for cells in zip(table.headings, *table.rows, strict=True)]
    wide = [max(LEAST_PX, min(MOST_PX, round(count * LETTER_PX) + 16)) for count in letters]
    fits = sum(wide) <= ROOM_PX
    columns: list[Column[Row]] = [
        Column(
            heading,
            partial(_cell, index),
            width=width,
            grow=max(0, round(share) - NARROW) if fits else 0,
            tip=heading,
        )
        for index, (heading, share, width) in enumerate(
            zip(table.headings, table.widths, wide, strict=True)
        )
    ]
    return ThingsTable(ThingsModel(columns, lambda line: str(line[0])), name)


def _lines(sheet: Sheet) -> Iterator[str]:
    """Yield what is to be read on a sheet: what is to tick a line each, notes together."""
    for block in sheet.blocks:
        if isinstance(block, Ticks):
            yield from (f"☐ {item}" for item in block.items)
    read = [ticks.text for ticks in sheet.blocks if isinstance(ticks, Paragraph)]
    if read:
        yield " ".join(read)


class Drawings(QWidget):
    """The drawings of a sheet side by side, as large as there is room for."""

    HIGH = 150

    def __init__(self) -> None:
        super().__init__()
        self._drawings: list[Drawing] = []

    def show_drawings(self, drawings: list[Drawing]) -> None:
        """Show drawings; nothing is seen without any."""
        self._drawings = drawings
        self.setVisible(bool(drawings))
        if drawings:
            self.setFixedHeight(
                min(self.HIGH, round(max(drawing.scene.height for drawing in drawings)))
            )
            self.setAccessibleName("; ".join(drawing.title for drawing in drawings))
            self.setToolTip("\n".join(drawing.title for drawing in drawings))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint them from the left."""
        painter = QPainter(self)
        room = self.width() / max(1, len(self._drawings))
        for index, drawing in enumerate(self._drawings):
            painter.save()
            painter.translate(index * room, 0)
            scale = min(1.0, room / drawing.scene.width, self.height() / drawing.scene.height)
            painter.scale(scale, scale)
            paint_scene(painter, drawing.scene)
            painter.restore()


Stop = Callable[[], bool]
Told = Callable[[int], object]


class SheetsPage(StagePage):
    """Sheets on the left, the chosen one in the middle."""

    _so_far = Signal(int)

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Sheets")
        self.list = WorkList("Sheets")
        self.list.chosen.connect(lambda _: self._show())
        self.work_column.addWidget(label("SHEETS, WITH ROWS", "head"))
        self.work_column.addWidget(self.list, 1)
        self.pdf = button(
            "Save as PDF…", "A4, with title and page numbers", self._ask_pdf, "action"
        )
        self.csv = button("Save as CSV…", "For a spreadsheet", self._ask_csv)
        self.all = button(
            "All into a folder…", "Every sheet as PDF, CSV and XLSX", self._ask_folder
        )
        self.done = label("", wrap=True)
        self.done.setObjectName("good")
        self.done.hide()
        self.progress = QProgressBar()
        self.progress.setAccessibleName("Files written")
        self.stop = button("Stop", "Stop writing; what was written by then stays", self._stop)
        self._working = held(label("Writing", "faint"), self.progress, self.stop)
        self._working.hide()
        self._so_far.connect(self.progress.setValue)
        self.words = label("", "faint", wrap=True)
        self.drawings = Drawings()
        self.tables: list[ThingsTable[Row]] = []
        self.middle.addLayout(row(self.title, self.about, 1, self.all, self.csv, self.pdf))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.done)
        self.middle.addWidget(self._working)
        self.middle.addWidget(self.words)
        self.middle.addWidget(self.drawings)
        self._shown = ""
        self._sheets: tuple[Sheet, ...] = ()
        self._making: Task | None = None

    def begin(self) -> None:
        """Another job was opened: what was written is of the one before."""
        super().begin()
        self.done.hide()

    def refresh(self) -> None:
        """Show the sheets of the job as it stands, once they are made: one of them says what was
        found, which takes as long as looking the job over.
        """
        analysis = self.analysis
        looked_over = analysis.known(judged_findings) is not None
        if len(analysis.job.wires) <= AT_ONCE and looked_over:
            self._take(analysis, every_sheet(analysis))
            return
        if self._making is not None:
            self._making.stop()
        self.about.setText("The sheets are being made …")
        self._sheets = ()  # what is shown is of the job before: it is not written
        self._can_write(False)

        def work(stop: Stop) -> tuple[Sheet, ...]:
            with may_stop(stop):
                return every_sheet(analysis)

        self._making = Task(work, self)
        self._making.done.connect(lambda sheets: self._take(analysis, sheets))
        self._making.failed.connect(self._failed)
        self._making.start()

    def _take(self, analysis: Analysis, sheets: tuple[Sheet, ...]) -> None:
        self._making = None
        if analysis is not self.analysis:
            return
        self._sheets = sheets
        self._can_write(self._working.isHidden())
        self.list.show_work(
            [Work(sheet.name, sheet.title, str(sheet.row_count)) for sheet in sheets]
        )
        self._show()

    def sheet(self) -> Sheet:
        """Return the chosen sheet."""
        sheets = self._sheets or every_sheet(self.analysis)
        return next((sheet for sheet in sheets if sheet.name == self.list.key()), sheets[0])

    def _show(self) -> None:
        if not self._sheets:
            return
        sheet = self.sheet()
        self.title.setText(sheet.title)
        self.about.setText(f"{counted(sheet.row_count, 'row')}")
        self.words.setText("\n".join(_lines(sheet)))
        self.drawings.show_drawings([ticks for ticks in sheet.blocks if isinstance(ticks, Drawing)])
        if self._shown != sheet.name:
            for old in self.tables:
                old.hide()  # it goes a moment later
                old.deleteLater()
            self.tables = [_table_of(table, sheet.title) for table in sheet.tables]
            for shown in self.tables:
                self.middle.addWidget(shown, 1)
            self._shown = sheet.name
        for shown, table in zip(self.tables, sheet.tables, strict=True):
            shown.things.show_things(list(enumerate(table.rows)))

    def _ask_pdf(self) -> None:
        self._ask("pdf", "PDF documents (*.pdf)")

    def _ask_csv(self) -> None:
        self._ask("csv", "Tables (*.csv)")

    def _ask(self, suffix: str, kinds: str) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the sheet", f"{self.sheet().name}.{suffix}", kinds
        )
        if name:
            path = Path(name)
            self.save(path if path.suffix else path.with_suffix(f".{suffix}"))

    def save(self, path: Path) -> None:
        """Write the chosen sheet as PDF or CSV, by the name's ending."""
        sheet, job = self.sheet(), self.store.job

        def write(stop: Stop, _: Told) -> list[Path]:

            write_sheet(sheet, job, path, stop)
            return [path]

        self._write(write, 1)

    def _ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Folder for the sheets")
        if name:
            self.save_all(Path(name))

    def save_all(self, folder: Path) -> None:
        """Write every sheet into a folder."""
        sheets, job = self._sheets or every_sheet(self.analysis), self.store.job

        def write(stop: Stop, told: Told) -> list[Path]:

            return export_sheets(job, sheets, folder, stop, told)

        self._write(write, 3 * len(sheets))

    def _write(self, write: Callable[[Stop, Told], list[Path]], files: int) -> None:
        """Write in the background, with what is done so far and a way to stop."""
        self.notice.say("")
        self.done.hide()
        self.progress.setRange(0, files if files > 1 else 0)
        self.progress.setValue(0)
        self._busy(True)
        task = Task(lambda stop: write(stop, self._so_far.emit), self)
        task.done.connect(self._written)
        task.failed.connect(self._failed)
        task.start()
        self._task = task

    def _stop(self) -> None:
        self._task.stop()
        self._busy(False)
        self.notice.say("Stopped. What was written by then stays.")

    def _can_write(self, can: bool) -> None:
        for push_button in (self.pdf, self.csv, self.all):
            push_button.setEnabled(can)

    def _busy(self, busy: bool) -> None:
        self._can_write(not busy and bool(self._sheets))
        self._working.setVisible(busy)

    def _written(self, paths: list[Path]) -> None:
        self._busy(False)
        folder = paths[0].parent
        names = ", ".join(path.name for path in paths)
        self.done.setText(f"Written into {folder}: {names}")
        self.done.show()

    def _failed(self, error: Exception) -> None:
        self._busy(False)
        self.notice.say(str(error))
