"""Sheets: what goes to the bench and is handed over, previewed and written as PDF or CSV."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from molvik.desktop.background import Task
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.findings.sheet import every_sheet
from molvik.sheets import Sheet

Row = tuple[int, tuple[str, ...]]


def _cell(at: int, line: Row) -> str:
    return line[1][at]


class SheetsPage(StagePage):
    """Sheets on the left, the chosen one in the middle."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Sheets")
        self.list = WorkList("Sheets")
        self.list.chosen.connect(lambda _: self._show())
        self.work_column.addWidget(label("SHEETS", "head"))
        self.work_column.addWidget(self.list, 1)
        self.pdf = button(
            "Save as PDF…", "A4, with title and page numbers", self._ask_pdf, "action"
        )
        self.csv = button("Save as CSV…", "For a spreadsheet", self._ask_csv)
        self.all = button("All into a folder…", "Every sheet as PDF and CSV", self._ask_folder)
        self.done = label("", wrap=True)
        self.done.setObjectName("good")
        self.done.hide()
        self.notes = label("", "faint", wrap=True)
        self.table: ThingsTable[Row] | None = None
        self.middle.addLayout(row(self.title, self.about, 1, self.all, self.csv, self.pdf))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.done)
        self.middle.addWidget(self.notes)
        self._shown = ""

    def refresh(self) -> None:
        """Show the sheets of the job as it stands."""
        sheets = every_sheet(self.analysis)
        self.list.show_work([Work(one.name, one.title, f"{len(one.rows)} rows") for one in sheets])
        self._show()

    def sheet(self) -> Sheet:
        """Return the chosen sheet."""
        sheets = every_sheet(self.analysis)
        return next((one for one in sheets if one.name == self.list.key()), sheets[0])

    def _show(self) -> None:
        sheet = self.sheet()
        self.title.setText(sheet.title)
        self.about.setText(f"{len(sheet.rows)} rows")
        self.notes.setText(" ".join(sheet.notes))
        if self.table is None or self._shown != sheet.name:
            if self.table is not None:
                self.table.deleteLater()
            columns: list[Column[Row]] = [
                Column(
                    heading,
                    partial(_cell, at),
                    width=max(60, int(share * 14)),
                )
                for at, (heading, share) in enumerate(
                    zip(sheet.headings, sheet.widths, strict=True)
                )
            ]
            model: ThingsModel[Row] = ThingsModel(columns, lambda line: str(line[0]))
            self.table = ThingsTable(model, sheet.title)
            self.middle.insertWidget(3, self.table, 1)
            self._shown = sheet.name
        self.table.things.show_things(list(enumerate(sheet.rows)))

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

        def write() -> list[Path]:
            from molvik.files.sheets import sheet_csv, sheet_pdf
            from molvik.files.writing import write_file

            csv = path.suffix.lower() == ".csv"
            write_file(path, sheet_csv(sheet) if csv else sheet_pdf(sheet, job, datetime.now()))
            return [path]

        self._write(write)

    def _ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Folder for the sheets")
        if name:
            self.save_all(Path(name))

    def save_all(self, folder: Path) -> None:
        """Write every sheet into a folder."""
        sheets, job = every_sheet(self.analysis), self.store.job

        def write() -> list[Path]:
            from molvik.files.sheets import export_sheets

            return export_sheets(job, sheets, folder)

        self._write(write)

    def _write(self, write: Callable[[], list[Path]]) -> None:
        """Write in the background: a long PDF takes seconds."""
        self.notice.say("")
        self.done.setText("Writing …")
        self.done.show()
        for one in (self.pdf, self.csv, self.all):
            one.setEnabled(False)
        task = Task(lambda stop: write(), self)
        task.done.connect(self._written)
        task.failed.connect(self._failed)
        task.start()
        self._task = task

    def _written(self, paths: list[Path]) -> None:
        self._again()
        folder = paths[0].parent
        names = ", ".join(path.name for path in paths)
        self.done.setText(f"Written into {folder}: {names}")

    def _failed(self, error: Exception) -> None:
        self._again()
        self.done.hide()
        self.notice.say(str(error))

    def _again(self) -> None:
        for one in (self.pdf, self.csv, self.all):
            one.setEnabled(True)
