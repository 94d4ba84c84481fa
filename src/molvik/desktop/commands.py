"""What the window does when it is told to by a menu, a key or Find."""

from datetime import datetime

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QWidget

from molvik import __version__
from molvik.desktop.dialogs.codes import change_code, may_take_out
from molvik.desktop.dialogs.jobsettings import JobSettings
from molvik.desktop.dialogs.opening import ask, put_up
from molvik.desktop.dialogs.questions import tell
from molvik.desktop.hand import Hand
from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.store import Store
from molvik.files.register import register
from molvik.findings.accepting import acceptance_of
from molvik.findings.finding import Finding
from molvik.model import edits, loom_edits, routing_edits
from molvik.model.job import Job


class Commands(QObject):
    """told(text): something is to be said loudly. refused(text): why what is in hand stays.
    followed(subject, stage): go there. every: the commands of the menus, which Find and the list of
    keys read.
    """

    told = Signal(str)
    refused = Signal(str)
    followed = Signal(str, str)

    def __init__(self, window: QWidget, store: Store, hand: Hand, files: JobFiles) -> None:
        super().__init__(window)
        self._window, self._store, self._hand, self._files = window, store, hand, files
        self.every: list[QAction] = []
        self.find_box: QWidget | None = None

    def enable(self, has_job: bool) -> None:
        """Allow what makes sense with a job, or without one."""
        for action in self.every:
            action.setEnabled(has_job or not action.property("needs a job"))

    def forget(self) -> None:
        """The job was closed: let go of what was found in it."""
        if self.find_box is not None:
            self.find_box.deleteLater()
            self.find_box = None

    # the job

    def new_job(self) -> None:
        """Start an empty job and ask for its name."""
        if self._files.new():
            self.edit_settings()

    def edit_settings(self) -> None:
        """Change the job's title and settings."""

        put_up(JobSettings(self._window, self._store))

    def open_versions(self) -> None:
        """Show the versions in the job's file."""
        from molvik.desktop.jobfile.versions import VersionsDialog

        ask(VersionsDialog(self._window, self._files))

    def list_recent(self, menu: QMenu) -> None:
        """Fill the menu of jobs opened last."""
        menu.clear()
        for path in self._files.recent():
            action = menu.addAction(str(path))
            action.triggered.connect(lambda _, path=path: self._files.open(path))
        if menu.isEmpty():
            menu.addAction("No job was opened yet").setEnabled(False)

    # what is in hand

    def change_code(self) -> None:
        """Give what is in hand another code."""

        code = self._hand.ref.code
        if not code:
            self.told.emit("Select something first, in a list or a drawing.")
            return
        self._hand.pick(change_code(self._window, self._store, code))

    def take_out(self, code: str) -> None:
        """Take a thing out of the job; what it takes along is asked first."""
        store = self._store
        if code in store.analysis.network.wires:
            wanted = frozenset([code])
            store.do(f"Delete {code}", lambda job: edits.remove_wires(job, wanted))
        else:
            if not may_take_out(self._window, store.job, code):
                return
            remove = edits.remove_part
            if loom_edits.find(store.job.loom, code) is not None:
                remove = loom_edits.remove
            elif routing_edits.find(store.job.routing, code) is not None:
                remove = routing_edits.remove
            try:
                store.do(f"Delete {code}", lambda job: remove(job, code))
            except edits.EditError as error:
                self.refused.emit(str(error))
                return
        self._hand.pick("")

    # findings

    def accept(self, finding: Finding, reason: str) -> None:
        """Accept a finding for a reason."""
        now = datetime.now().astimezone().isoformat(timespec="seconds")
        job = self._store.job
        accepted = acceptance_of(finding, job, reason.strip(), now, job.settings.measured_by)
        try:
            self._store.do("Accept a finding", lambda job: edits.accept(job, accepted))
        except ValueError as error:
            self.told.emit(str(error))

    def withdraw(self, finding: Finding) -> None:
        """Take an acceptance back."""
        code = finding.subject

        def take_back(job: Job) -> Job:
            if finding.rule == "fault-found" and all(
                one.finding != finding.key for one in job.accepted
            ):
                # It was left for a reason where it was found.
                return loom_edits.change(job, code, decision="", reason="", decided_at="")
            return edits.withdraw(job, finding.key)

        self._store.do("Take back an acceptance", take_back)

    # beside the work

    def open_find(self) -> None:
        """Open the find box."""
        if not self._files.has_job:
            return
        from molvik.desktop.dialogs.find import FindBox

        if not isinstance(self.find_box, FindBox):
            self.find_box = FindBox(self._window, self.every)
            self.find_box.followed.connect(self.followed)
        self.find_box.ask(self._store.analysis)

    def open_sums(self) -> None:
        """Open quick sums; they stay open beside the work."""
        from molvik.desktop.dialogs.sums import SumsDialog

        sums = SumsDialog(self._window)
        sums.setProperty("needs no job", True)
        put_up(sums)

    def show_keys(self) -> None:
        """Show every key there is."""
        from molvik.desktop.dialogs.keys import KeysDialog

        keys = KeysDialog(self._window, self.every)
        keys.setProperty("needs no job", True)
        put_up(keys)

    def register(self) -> None:
        """Let the desktop open jobs by double click."""

        try:
            written = register()
        except OSError as error:
            self.told.emit(f"{error.filename} was not written: {error.strerror}.")
            return
        tell(
            self._window,
            "Double click",
            "Your desktop now opens .molvik files with Molvik. Written:\n\n"
            + "\n".join(str(path) for path in written),
        )

    def about(self) -> None:
        """Say what this is."""
        tell(
            self._window,
            "About Molvik",
            f"Molvik {__version__}\n\nDesign, repin, size and prove engine wiring harnesses.\n"
            "MIT licence. Typeface B612, SIL Open Font License.",
        )
