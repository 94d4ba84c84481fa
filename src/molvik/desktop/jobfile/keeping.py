"""Keeping recovery copies: soon after a change, at the latest so long after the first, and never
waited for.
"""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.lanes import KEEPING
from molvik.files.photobox import PhotoBox
from molvik.files.recovery import Recovery
from molvik.files.writing import reason

KEEP_AFTER_MS = 1500
"""A recovery copy is kept so long after the last change,"""

KEEP_WITHIN_MS = 15_000
"""and at the latest so long after the first that no copy holds, however steadily one works."""


class Keeper(QObject):
    """Keeps recovery copies of the job in a store. warned(text): what is to be seen as long as it
    lasts; empty when it is over.
    """

    warned = Signal(str)

    def __init__(self, parent: QObject, store: Store, photos: Callable[[], PhotoBox]) -> None:
        super().__init__(parent)
        self._store, self._photos = store, photos
        self.recovery: Recovery | None = None
        """Where they are kept; none where nothing can be."""
        self.task: Task | None = None
        self.timer, self.latest = QTimer(self), QTimer(self)
        for timer, wait_ms in ((self.timer, KEEP_AFTER_MS), (self.latest, KEEP_WITHIN_MS)):
            timer.setSingleShot(True)
            timer.setInterval(wait_ms)
            timer.timeout.connect(self.keep)

    def due(self) -> None:
        """Have a copy kept soon."""
        self.timer.start()
        if not self.latest.isActive():
            self.latest.start()

    def rest(self) -> None:
        """Keep none until something changes."""
        self.timer.stop()
        self.latest.stop()

    def begin(self) -> str:
        """Make a place for the copies of another job; return what is to be seen, empty for none."""
        try:
            self.recovery = Recovery()
        except OSError as error:
            return (
                f"No recovery copies are kept here and no photos can be added: {reason(error)} "
                f"in {error.filename}. Save often."
            )
        return ""

    def let_go(self) -> Recovery | None:
        """Return the place of the copies of the job that is left, which this one forgets."""
        self.rest()
        recovery, self.recovery, self.task = self.recovery, None, None
        return recovery

    def keep(self) -> None:
        """Keep a copy, off the interface's thread."""
        self.rest()
        if self.recovery is None or not self._store.unsaved:
            return
        if self.task is not None and not self.task.has_ended:
            self.task.stop()  # one that waits is not written: this one is newer
            self.warned.emit("The recovery copy takes long to write: the disk does not answer.")
        task = self._writing()
        task.done.connect(lambda _: self.warned.emit(""))
        task.failed.connect(self._not_kept)
        self.task = task
        task.start()

    def keep_at_once(self, then: Callable[[bool], None]) -> None:
        """Keep a copy now, saved or not; then is told whether it was."""
        if self.recovery is None:
            then(False)
            return
        task = self._writing()
        task.done.connect(lambda _: then(True))
        task.failed.connect(lambda _: then(False))
        task.start()

    def _writing(self) -> Task:
        recovery, job, path = self.recovery, self._store.job, self._store.path
        assert recovery is not None
        file = self._photos().file
        pictures = file.path if file is not None else None
        return Task(lambda _: recovery.keep(job, path, pictures), self, KEEPING)

    def _not_kept(self, error: Exception) -> None:
        """Say so for as long as it lasts, and try again."""
        where = getattr(error, "filename", None) or "the state folder"
        self.warned.emit(
            f"No recovery copy could be kept ({reason(error)}: {where}). Make room there, or save "
            "the job: saving is not hindered by it."
        )
        self.latest.start()
