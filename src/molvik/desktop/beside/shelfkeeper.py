"""Between the job in the window and the shop's shelf: reads it, books what is cut, tells of others.

Nothing here waits for the disk on the interface's thread.
"""

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.diskwork import DiskWork
from molvik.desktop.threads.lanes import SHELF
from molvik.files.shelf import ShelfError, ShopShelf
from molvik.model import stock_edits
from molvik.model.job import Job
from molvik.model.stock import Shelf, Taken, unit_of
from molvik.wording import some

Result = TypeVar("Result")

LOOK_AFTER_MS = 150
"""After another program changed the shelf: it may be about to change more."""


class ShelfKeeper(QObject):
    """Keeps what the job sees of the shelf up to date, and books there what was cut for the job.

    told(text): what could not be done, or what is odd. seen(): what is seen of it may be another.
    """

    told = Signal(str)
    seen = Signal()

    def __init__(self, window: QWidget, store: Store, shelf: ShopShelf | None = None) -> None:
        super().__init__(window)
        self._store = store
        self.shelf = shelf or ShopShelf()
        self._work = DiskWork(window, SHELF)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(LOOK_AFTER_MS)
        self._soon.timeout.connect(self.look)
        self._watch = QFileSystemWatcher(self)
        self._watch.fileChanged.connect(lambda _: self._soon.start())
        self._watch.directoryChanged.connect(lambda _: self._soon.start())
        self._looked_for = ""  # the job for which it was last read
        store.changed.connect(self._changed)

    def do(self, words: str, change: Callable[[ShopShelf], Result]) -> Result:
        """Change the shelf and see what came of it. Raises ShelfError, and nothing was changed.
        words: what is done, for a disk that takes its time.
        """
        done: list[tuple[Result, Shelf]] = []
        job = self._store.job.id

        def work() -> None:
            done.append((change(self.shelf), self.shelf.see(job)))

        if self._work.goes_on:
            raise ShelfError("The disk is still busy with the shelf. Try again in a moment.")
        if not self._work.run(words, work, self._late):
            raise ShelfError("The disk takes its time: the shelf follows when it is done.")
        ((result, shelf),) = done
        self._take(job, shelf)
        return result

    def look(self) -> None:
        """Read the shelf again: another window or program may have changed it."""
        job = self._store.job.id
        read: list[Shelf] = []
        task = Task(lambda _: read.append(self.shelf.see(job)), self, SHELF)
        task.done.connect(lambda _: self._take(job, read[0]))
        task.failed.connect(lambda error: self.told.emit(str(error)))
        task.start()

    @property
    def not_in_the_job(self) -> tuple[Taken, ...]:
        """What was cut for this job, says the shelf, and the job does not know: it was closed
        without saving, or the program was killed.
        """
        known = {one.id for one in self._store.job.taken}
        return tuple(one for one in self._store.shelf.booked if one.id not in known)

    def _late(self, problem: str) -> None:
        if problem:
            self.told.emit(problem)
        self.look()

    def _take(self, job: str, shelf: Shelf) -> None:
        """Take up what was read, if it is of the job that is still here."""
        self._follow_file()
        if job != self._store.job.id:
            return
        first = self._looked_for != job
        self._looked_for = job
        self._store.see_shelf(shelf)
        if first:
            known = {one.id for one in shelf.booked} | shelf.given_back
            here = [one for one in self._store.job.taken if one.shelf and one.shelf == shelf.name]
            unknown = tuple(one for one in here if one.id not in known)
            self._book(self._store.job, unknown)
            if self.not_in_the_job:
                what = some([_said(one) for one in self.not_in_the_job], 3)
                self.told.emit(
                    f"The shelf has {what} as cut for this job, and its file does not: say in "
                    "Stock whether it was cut."
                )
        self.seen.emit()

    def _follow_file(self) -> None:
        """Be told when another program changes the shelf, or begins one."""
        path = self.shelf.path
        wanted = path if path.exists() else path.parent
        if wanted.exists() and str(wanted) not in self._watch.files() + self._watch.directories():
            self._watch.addPath(str(wanted))

    def _changed(self, old: Job, new: Job) -> None:
        if old.id != new.id or self._store.is_loading:  # a file undoes no cut: it is asked about
            self._looked_for = ""
            if new.id:
                self.look()
            return
        if old.taken is new.taken:
            return
        was, now = ({one.id: one for one in job.taken} for job in (old, new))
        gone = frozenset(key for key, one in was.items() if key not in now and one.shelf)
        came = tuple(one for key, one in now.items() if key not in was and one.shelf)
        if gone:
            self._aside(lambda: self.shelf.put_back(gone), lambda error: self.told.emit(str(error)))
        self._book(new, came)

    def _book(self, job: Job, taken: tuple[Taken, ...]) -> None:
        """Book what the job says was cut, each once; what cannot be was not cut."""
        if taken:
            ids = frozenset(one.id for one in taken)
            self._aside(
                lambda: self.shelf.book(job, taken), lambda error: self._refused(ids, error)
            )

    def _refused(self, ids: frozenset[str], error: Exception) -> None:
        self._store.do("Not cut", lambda job: stock_edits.put_back(job, ids))
        self.told.emit(str(error))

    def _aside(self, work: Callable[[], None], failed: Callable[[Exception], None]) -> None:
        task = Task(lambda _: work(), self, SHELF)
        task.done.connect(lambda _: self.look())
        task.failed.connect(failed)
        task.start()


def _said(one: Taken) -> str:
    target = f" for {one.on}" if one.on else ""
    return f"{one.what.amount:g} {unit_of(one.what.kind)} of {one.what.code}{target}"
