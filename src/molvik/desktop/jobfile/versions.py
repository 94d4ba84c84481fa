"""The versions of the job in its file: looked at, taken up again, or given a name."""

from datetime import datetime

from PySide6.QtWidgets import QDialog, QListWidget, QVBoxLayout, QWidget

from molvik.desktop.dialogs.questions import ask_line
from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import OPENING
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.files.contents import Version
from molvik.files.errors import JobFileError
from molvik.model.differing import Difference, differences

Numbered = tuple[int, Difference]


class VersionsDialog(QDialog):
    """Every version that the job's file holds, the newest first."""

    def __init__(self, parent: QWidget, files: JobFiles) -> None:
        super().__init__(parent)
        self._files = files
        self._versions: list[Version] = []
        self._reading: Task | None = None
        self.setWindowTitle("Versions of this job")
        self.resize(860, 480)
        self.list = QListWidget()
        self.list.setAccessibleName("Versions, the newest first")
        self.list.itemActivated.connect(lambda _: self._take())
        self.list.currentRowChanged.connect(lambda _: self._look())
        self.list.setFixedWidth(260)
        self.list.setWordWrap(True)
        columns: list[Column[Numbered]] = [
            Column("What", lambda one: one[1].what, width=86),
            Column("Field", lambda one: one[1].field, width=100),
            Column("Then", lambda one: one[1].was, width=150, grow=1),
            Column("Now", lambda one: one[1].now, width=150, grow=1),
        ]
        self.model: ThingsModel[Numbered] = ThingsModel(columns, lambda one: str(one[0]))
        self.table: ThingsTable[Numbered] = ThingsTable(self.model, "What is another now")
        self.differs = label("", wrap=True)
        self.take = button(
            "Take it up",
            "The job as it was then, as one step that can be undone",
            self._take,
            "action",
        )
        self.name = button(
            "Name the present state…",
            "Saves the job; a version with a name is kept for good",
            self._ask_name,
        )
        self.notice = Notice()
        about = label(
            "Each save makes a version. The newest twenty are kept, before those the last of each "
            "of sixty days, and all that have a name.",
            "faint",
            wrap=True,
        )
        whole = QVBoxLayout(self)
        whole.addWidget(about)
        sides = row(self.list)
        sides.addLayout(column(self.differs, self.table), 1)
        whole.addLayout(sides, 1)
        whole.addWidget(self.notice)
        whole.addLayout(row(self.name, 1, button("Close", "Esc", self.reject), self.take))
        self.refresh()

    def refresh(self) -> None:
        """Show the versions that are there now."""
        self._versions = self._files.versions()
        self.list.clear()
        self.list.addItems(
            [_words(version, index == 0) for index, version in enumerate(self._versions)]
        )
        self.name.setEnabled(self._files.has_file)
        if not self._versions:
            self.notice.say("The job has no file yet. Save it; from then on each save is kept.")
        self.list.setCurrentRow(0 if self._versions else -1)
        self._may()

    def text(self, index: int) -> str:
        """Return what stands in a line."""
        return self.list.item(index).text()

    def _may(self) -> None:
        self.take.setEnabled(self.list.currentRow() >= 0)

    def _look(self) -> None:
        """Show in what the job as it is differs from the version; it is read aside."""
        self._may()
        index = self.list.currentRow()
        if self._reading is not None:
            self._reading.stop()
        self.model.show_things([])
        self.differs.setText("")
        if index < 0:
            return
        self.differs.setText("Reading it…")
        job, files, version = self._files.job, self._files, self._versions[index]
        task = Task(lambda _: differences(files.version(version), job), self, OPENING)
        task.done.connect(self._show)
        task.failed.connect(lambda error: self.differs.setText(str(error)))
        self._reading = task
        task.start()

    def _show(self, found: tuple[Difference, ...]) -> None:
        self._reading = None
        self.model.show_things(list(enumerate(found)))
        count = len(found)
        self.differs.setText(
            f"{count} thing{'s were' if count > 1 else ' was'} otherwise then:"
            if count
            else "The job is as it was then."
        )

    def _take(self) -> None:
        index = self.list.currentRow()
        if index < 0:
            return
        version = self._versions[index]
        try:
            self._files.take_up(version)
        except JobFileError as error:
            self.notice.say(str(error))
            return
        self.accept()

    def _ask_name(self) -> None:
        name = ask_line(self, "Name the present state", "What it is called")
        if name and name.strip():
            self._files.name_version(name.strip()[:80])
            self.refresh()


def _words(version: Version, newest: bool) -> str:
    try:
        at = f"{datetime.fromisoformat(version.at):%d %b %Y, %H:%M:%S}"
    except ValueError:
        at = version.at[:20]
    words = version.name or ("as saved last" if newest else "")
    return f"{at}\n{words}".rstrip()
