"""The versions of the job in its file: taken up again, or given a name."""

from datetime import datetime

from PySide6.QtWidgets import QDialog, QListWidget, QVBoxLayout, QWidget

from molvik.desktop.jobfiles import JobFiles
from molvik.desktop.questions import ask_line
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, label, row
from molvik.files.contents import Version
from molvik.files.errors import JobFileError


class VersionsDialog(QDialog):
    """Every version that the job's file holds, the newest first."""

    def __init__(self, parent: QWidget, files: JobFiles) -> None:
        super().__init__(parent)
        self._files = files
        self._versions: list[Version] = []
        self.setWindowTitle("Versions of this job")
        self.resize(560, 420)
        self.list = QListWidget()
        self.list.setAccessibleName("Versions, the newest first")
        self.list.itemActivated.connect(lambda _: self._take())
        self.list.currentRowChanged.connect(lambda _: self._may())
        self.take = button(
            "Take it up", "The job as it was then, as one step that can be undone", self._take,
            "action",
        )  # fmt: skip
        self.name = button(
            "Name the present state…", "Saves the job; a version with a name is kept for good",
            self._ask_name,
        )  # fmt: skip
        self.notice = Notice()
        about = label(
            "Each save makes a version. The newest twenty are kept, before those the last of each "
            "of sixty days, and all that have a name.",
            "faint",
            wrap=True,
        )
        whole = QVBoxLayout(self)
        whole.addWidget(about)
        whole.addWidget(self.list, 1)
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
    return f"{at}   {words}".rstrip()
