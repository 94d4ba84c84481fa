"""Opening, saving and keeping the job's file, its lock and its recovery copy."""

import os
import uuid
from collections.abc import Callable
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit, QWidget

from molvik.blocks.templates import TEMPLATES
from molvik.demo import PHOTOS, demo_job
from molvik.desktop.jobfile.keeping import Keeper
from molvik.desktop.jobfile.questions import (
    ask_changed,
    ask_copy,
    ask_left,
    ask_missing,
    ask_unsaved,
)
from molvik.desktop.jobfile.recent import RecentFiles
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.threads.diskwork import DiskWork
from molvik.desktop.threads.lanes import KEEPING, OPENING
from molvik.files.contents import Version
from molvik.files.errors import ChangedOutsideError, JobFileError, PhotosMissingError
from molvik.files.jobfile import SUFFIX, JobFile, open_job
from molvik.files.lock import Lock, lock_job
from molvik.files.photobox import PhotoBox
from molvik.files.recovery import Leftover, discard, leftovers
from molvik.files.saving import save_job
from molvik.files.writing import clear_leftovers, reason
from molvik.model import stock_edits
from molvik.model.differing import differing
from molvik.model.job import Job

KINDS = f"Molvik jobs (*{SUFFIX});;All files (*)"


class JobFiles(QObject):
    """The file side of a window. opened: another job is in the window. told(text, good): say it.

    warned(text): what is to be seen as long as it lasts; empty when it is over.
    """

    opened = Signal()
    told = Signal(str, bool)
    warned = Signal(str)

    def __init__(self, window: QWidget, store: Store, settings: QSettings) -> None:
        super().__init__(window)
        self._window, self._store = window, store
        self.recent = RecentFiles(settings)
        self.keeper = Keeper(self, store, lambda: self.photos)
        self.keeper.warned.connect(self.warned)
        self._lock: Lock | None = None
        self._saving = DiskWork(window, KEEPING)
        self._opening = DiskWork(window, OPENING)
        self._verifying: Task | None = None
        self.photos = PhotoBox()
        """Where the photos of the job are."""
        self.has_job = False
        store.changed.connect(self._changed)

    def _changed(self, old: Job, new: Job) -> None:
        if self.has_job:
            self.keeper.due()

    # jobs in and out

    def new(self) -> bool:
        """Start an empty job; say whether the present one was left for it."""
        if not self.may_leave():
            return False
        self._take(Job(uuid.uuid4().hex), None, None, saved=True)
        return True

    def open_demo(self, name: str = "marten") -> None:
        """Open a demo as a job that was never saved, so that it cannot be spoilt."""

        if self.may_leave():
            self._take(demo_job(name), None, None, saved=True, photos=PHOTOS)

    def start_from(self, title: str) -> None:
        """Begin a job from one of those that ship."""

        if self.may_leave():
            made = replace(TEMPLATES[title].make(), id=uuid.uuid4().hex)
            self._take(made, None, None, saved=True)

    def ask_open(self) -> None:
        """Ask for a file and open it."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a job", "", KINDS)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> bool:
        """Open a job file; what is wrong with it is told and the present job stays."""
        path = path.absolute()
        if self._store.path is not None and _same(path, self._store.path):
            return True
        if not self.may_leave():
            return False
        self._see_to_the_end()
        try:
            file, lock = self._open(path)
        except JobFileError as error:
            self.told.emit(str(error), False)
            self.recent.forget(path)
            return False
        if file is None:
            self.told.emit(f"{path.name} was not opened: the disk does not answer.", False)
            return False
        if lock is None:
            if not ask_copy(self._window, path):
                file.close()
                return False
            self._take(file.job, None, None, saved=False, file=file)
            return True
        left = next((one for one in leftovers() if one.origin and _same(one.origin, path)), None)
        if left is not None:
            answer = ask_left(self._window, path, left, differing(file.job, left.job))
            if answer != "open":
                file.close()
                lock.release()
                if answer == "take":
                    self.recover(left)
                return answer == "take"
        self._take(file.job, path, lock, saved=not file.remark, file=file)
        self.recent.remember(path)
        self._tell_state(file.remark, file.job)
        return True

    def _open(self, path: Path) -> tuple[JobFile | None, Lock | None]:
        """Open a file, and lock it where nobody else has it; no file when the disk was not waited
        for. Raises JobFileError.
        """
        found: list[tuple[JobFile, Lock | None]] = []

        def work() -> None:
            lock = lock_job(path)
            try:
                if lock is not None:
                    clear_leftovers(Path(os.path.realpath(path)))
                found.append((open_job(path), lock))
            except BaseException:
                if lock is not None:
                    lock.release()
                raise

        def late(_problem: str) -> None:
            for file, lock in found:
                file.close()
                if lock is not None:
                    lock.release()

        done = self._opening.run(f"{path.name} is being opened", work, late)
        return found[0] if done else (None, None)

    def _see_to_the_end(self) -> None:
        """Let what is being saved or let go end, so that its file can be opened again."""
        if not KEEPING.is_idle and not self._saving.goes_on:
            words = "The job before is being saved"
            self._saving.run(words, lambda: None, lambda _: None)

    def _tell_state(self, remark: str, job: Job) -> None:
        """Say what is wrong with a file that was opened, and look through its photos."""
        lost = [photo.code for photo in job.photos if not self.photos.has(photo.file)]
        if lost:
            named = f"{', '.join(lost[:8])}{' and more' if len(lost) > 8 else ''}"
            remark += f" The pictures of {len(lost)} photos cannot be found: {named}."
        if remark:
            self.told.emit(remark.strip(), False)
        self._verify(job)

    def _verify(self, job: Job) -> None:
        """Look in the background whether every photo is as it was saved."""
        if self._verifying is not None:
            self._verifying.stop()
        box = self.photos
        task = Task(lambda stop: unreadable(job, box, stop), self)
        task.done.connect(self._tell_unreadable)
        self._verifying = task
        task.start()

    def _tell_unreadable(self, codes: list[str]) -> None:
        if codes:
            named = f"{', '.join(codes[:8])}{' and more' if len(codes) > 8 else ''}"
            self.told.emit(
                f"{len(codes)} photos in the file are damaged: {named}. They stay in it as they "
                "are. Add them again from the camera while you have them.",
                False,
            )

    def recover(self, leftover: Leftover) -> None:
        """Take up a job that a crash left behind; it belongs to its old file but is not saved."""
        if not self.may_leave():
            return
        origin, lock, file, remark = leftover.origin, None, None, ""
        # What was opened as a copy belongs to no file; its photos lie in the one it is from.
        lies_in = origin or leftover.pictures
        if lies_in is not None:
            try:
                file, lock = self._open(lies_in)
                problem = "" if file is not None else f"{lies_in.name} was not waited for."
            except JobFileError as error:
                problem = str(error)
            remark = f"{problem} The job was taken up without what lay in it." if problem else ""
        # A file saved since the crash must not be overwritten by what was kept before it.
        saved_at = file.path.stat().st_mtime if file is not None else 0.0
        is_own = origin is not None and lock is not None
        belongs = is_own and 0 < saved_at <= leftover.at.timestamp()
        if not belongs and lock is not None:
            lock.release()
            lock = None
        self._take(
            leftover.job,
            origin if belongs else None,
            lock,
            saved=False,
            file=file,
            photos=leftover.photos,
        )
        self._tell_state(remark, leftover.job)
        self.keeper.keep_at_once(lambda kept: discard(leftover) if kept else None)

    def _take(
        self,
        job: Job,
        path: Path | None,
        lock: Lock | None,
        *,
        saved: bool,
        file: JobFile | None = None,
        photos: Path | None = None,
    ) -> None:
        """Take up a job. file: where its photos are; photos: a folder of more."""
        self._let_go()
        self._lock = lock
        self.warned.emit(self.keeper.begin())
        recovery = self.keeper.recovery
        self.photos = PhotoBox(recovery.photos if recovery else None, file)
        try:
            if photos is not None:
                self.photos.take_over(photos)
        except OSError as error:
            self.warned.emit(f"Unsaved photos could not be copied: {reason(error)}.")
        self.photos.lost = frozenset(
            photo.file for photo in job.photos if not self.photos.has(photo.file)
        )
        self.has_job = True
        self._store.load(job, path, saved=saved)
        self.keeper.rest()
        if not saved:
            self.keeper.due()
        self.opened.emit()

    def _let_go(self) -> None:
        self.keeper.rest()
        if self._verifying is not None:
            self._verifying.stop()
            self._verifying = None
        photos, lock, recovery = self.photos, self._lock, self.keeper.let_go()
        self._lock = None

        def close() -> None:
            photos.close()
            if lock is not None:
                lock.release()
            if recovery is not None:
                recovery.close()

        KEEPING.in_turn(close)

    def close_job(self) -> bool:
        """Leave the job, asking about unsaved work; say whether it was left."""
        if self._saving.goes_on or not self.may_leave():
            return False
        self.has_job = False
        self._let_go()
        self._store.load(Job(""), None)
        self.opened.emit()
        return True

    # saving

    def save(self) -> bool:
        """Save the job to its file, asking for one if it has none; say whether it was saved."""
        _finish_typing()
        if self._store.path is None:
            return self.ask_save_as()
        return self._save(self._store.path)

    def ask_save_as(self) -> bool:
        """Ask for a file and save the job there."""
        start = self._store.path or Path(f"{self._store.job.title}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the job as", str(start), KINDS)
        if not name:
            return False
        path = Path(name)
        return self.save_as(path if path.suffix else path.with_suffix(SUFFIX))

    def save_as(self, path: Path) -> bool:
        """Save the job under another name and go on with that file. What is there is kept."""
        path = path.absolute()
        if self._store.path is not None and _same(path, self._store.path):
            return self._save(path)
        lock = lock_job(path)
        if lock is None:
            self.told.emit(f"{path.name} is open in another window. Choose another name.", False)
            return False
        if not self._save(path, instead=True):
            lock.release()
            return False
        if self._lock is not None:
            self._lock.release()
        self._lock = lock
        self._store.path = path
        self.recent.remember(path)
        self.told.emit(f"Saved as {path.name}", True)
        return True

    @property
    def has_file(self) -> bool:
        """Whether the job has a file to be saved to."""
        return self._store.path is not None

    def versions(self) -> list[Version]:
        """Return the versions in the job's file, the newest first."""
        file = self.photos.file
        return file.versions() if isinstance(file, JobFile) and self.has_file else []

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self._store.job

    def version(self, version: Version) -> Job:
        """Return the job as it was in a version. Raises JobFileError."""
        file = self.photos.file
        assert isinstance(file, JobFile)
        return file.version(version.id)

    def take_up(self, version: Version) -> None:
        """Have the job as it was in a version, as one step. Raises JobFileError."""
        then = self.version(version)
        self._store.do(
            f"Take up the version of {version.at[:16].replace('T', ' ')}",
            lambda job: replace(stock_edits.with_cuts_of(then, job), id=job.id),
        )

    def name_version(self, name: str) -> bool:
        """Save the job and give this version a name."""
        _finish_typing()
        return self._store.path is not None and self._save(self._store.path, name=name)

    def _save(
        self,
        path: Path,
        *,
        instead: bool = False,
        without: frozenset[str] = frozenset(),
        name: str = "",
    ) -> bool:
        job, photos = self._store.job, self.photos

        def work() -> None:
            save_job(job, path, photos, instead=instead, without=without, name=name)

        if self._saving.goes_on:
            self.told.emit(f"{path.name} is still being saved: the disk does not answer.", False)
            return False
        try:
            late = partial(self._saved_late, job, path)
            if not self._saving.run(f"{path.name} is being saved", work, late):
                self.told.emit(f"{path.name} is not saved yet: the disk does not answer.", False)
                return False
        except ChangedOutsideError as error:
            choice = ask_changed(self._window, error, path)
            if choice == "elsewhere":
                return self.ask_save_as()
            return choice == "here" and self._save(path, instead=True, without=without, name=name)
        except PhotosMissingError as error:
            if ask_missing(self._window, error):
                return self._save(path, instead=instead, without=without | error.names, name=name)
            self.told.emit(str(error), False)
            return False
        except JobFileError as error:
            self.told.emit(str(error), False)
            return False
        self.photos.lost |= without
        self._is_saved(path)
        return True

    def _is_saved(self, path: Path) -> None:
        self._store.history.setClean()
        self.keeper.rest()
        if self.keeper.recovery is not None:
            KEEPING.in_turn(self.keeper.recovery.drop)
        self.told.emit(f"Saved {path.name}", True)

    def _saved_late(self, job: Job, path: Path, problem: str) -> None:
        """A save that was not waited for has ended."""
        if problem:
            self.told.emit(problem, False)
        elif job is self._store.job and path == self._store.path:
            self._is_saved(path)
        else:
            self.told.emit(f"{path.name} was saved after all, as the job was then", True)

    def may_leave(self) -> bool:
        """Ask what to do with unsaved work; say whether the job may be left."""
        _finish_typing()
        if not self.has_job or not self._store.unsaved:
            return True
        answer = ask_unsaved(self._window, self._store.job.title)
        return answer == "discard" or (answer == "save" and self.save())


def _finish_typing() -> None:
    """Take up what stands in a field that was not left yet."""
    typing = QApplication.focusWidget()
    if isinstance(typing, QLineEdit):
        typing.clearFocus()


def _same(path: Path, other: Path) -> bool:
    """Return whether two paths lead to one file; a link that leads nowhere leads to itself."""
    return os.path.realpath(path) == os.path.realpath(other)


def unreadable(job: Job, box: PhotoBox, stop: Callable[[], bool]) -> list[str]:
    """Return the photos that are there but not as they were saved."""
    found: list[str] = []
    for photo in job.photos:
        if stop():
            break
        if box.has(photo.file) and box.read(photo.file) is None:
            found.append(photo.code)
    return found
