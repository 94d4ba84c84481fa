"""Opening, saving and keeping the job's file, its lock and its recovery copy."""

import uuid
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit, QMessageBox, QWidget

from molvik.desktop.background import Task
from molvik.desktop.store import Store
from molvik.files.lock import Lock, lock_job
from molvik.files.package import SUFFIX, JobFileError, open_package, save_job
from molvik.files.photos import PhotoBox
from molvik.files.recovery import Leftover, Recovery, discard
from molvik.model.job import Job

KEEP_AFTER_MS = 1500
MOST_RECENT = 8
KINDS = f"Molvik jobs (*{SUFFIX});;All files (*)"


class JobFiles(QObject):
    """The file side of a window. opened: another job is in the window. told(text, good): say it."""

    opened = Signal()
    told = Signal(str, bool)

    def __init__(self, window: QWidget, store: Store, settings: QSettings) -> None:
        super().__init__(window)
        self._window, self._store, self._settings = window, store, settings
        self._lock: Lock | None = None
        self._recovery: Recovery | None = None
        self._keeping: Task | None = None
        self.photos = PhotoBox(Path())
        """Where the photos of the job are."""
        self.has_job = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(KEEP_AFTER_MS)
        self._timer.timeout.connect(self.keep)
        store.changed.connect(self._changed)

    def _changed(self, old: Job, new: Job) -> None:
        if self.has_job:
            self._timer.start()

    # jobs in and out

    def new(self) -> bool:
        """Start an empty job; say whether the present one was left for it."""
        if not self.may_leave():
            return False
        self._take(Job(uuid.uuid4().hex), None, None, saved=True)
        return True

    def open_demo(self, name: str = "marten") -> None:
        """Open a demo as a job that was never saved, so that it cannot be spoilt."""
        from molvik.demo import PHOTOS, demo_job

        if self.may_leave():
            self._take(demo_job(name), None, None, saved=True, photos=PHOTOS)

    def start_from(self, title: str) -> None:
        """Begin a job from one of those that ship."""
        from molvik.circuits.starters import STARTERS

        if self.may_leave():
            made = replace(STARTERS[title].make(), id=uuid.uuid4().hex)
            self._take(made, None, None, saved=True)

    def ask_open(self) -> None:
        """Ask for a file and open it."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a job", "", KINDS)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> bool:
        """Open a job file; what is wrong with it is told and the present job stays."""
        if self._store.path is not None and path.resolve() == self._store.path.resolve():
            return True
        if not self.may_leave():
            return False
        try:
            job, remark = open_package(path)
        except JobFileError as error:
            self.told.emit(str(error), False)
            self.forget(path)
            return False
        lock = lock_job(path)
        if lock is None:
            if not self._open_a_copy(path):
                return False
            self._take(job, None, None, saved=False, package=path)
            return True
        self._take(job, path, lock, saved=not remark)
        self._remember(path)
        if remark:
            self.told.emit(remark, False)
        return True

    def recover(self, leftover: Leftover) -> None:
        """Take up a job that a crash left behind; it belongs to its old file but is not saved."""
        if not self.may_leave():
            return
        origin = leftover.origin
        # A file saved since the crash must not be overwritten by what was kept before it.
        if origin is not None and origin.exists():
            if origin.stat().st_mtime > leftover.at.timestamp():
                origin = None
        lock = lock_job(origin) if origin else None
        path = origin if lock is not None else None
        self._take(
            leftover.job,
            path,
            lock,
            saved=False,
            package=leftover.origin,
            photos=leftover.photos,
        )
        self.keep()
        self.wait()
        discard(leftover)

    def _open_a_copy(self, path: Path) -> bool:
        answer = QMessageBox.question(
            self._window,
            "Open in another window",
            f"{path.name} is open in another window. Two windows would overwrite each other's "
            "work.\n\nOpen a copy that you save under another name?",
        )
        return answer == QMessageBox.StandardButton.Yes

    def _take(
        self,
        job: Job,
        path: Path | None,
        lock: Lock | None,
        *,
        saved: bool,
        package: Path | None = None,
        photos: Path | None = None,
    ) -> None:
        """Take up a job. package: where its photos are if not in path; photos: a folder of more."""
        self._let_go()
        self._lock = lock
        self._recovery = Recovery()
        self.photos = PhotoBox(self._recovery.photos, path or package)
        if photos is not None:
            self.photos.take_over(photos)
        self.has_job = True
        self._store.load(job, path, saved=saved)
        self._timer.stop()
        if not saved:
            self._timer.start()
        self.opened.emit()

    def _let_go(self) -> None:
        self._timer.stop()
        self.wait()
        if self._lock is not None:
            self._lock.release()
            self._lock = None
        if self._recovery is not None:
            self._recovery.close()
            self._recovery = None

    def close_job(self) -> bool:
        """Leave the job, asking about unsaved work; say whether it was left."""
        if not self.may_leave():
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
        """Save the job under another name and go on with that file."""
        if self._store.path is not None and path.resolve() == self._store.path.resolve():
            return self._save(path)
        lock = lock_job(path)
        if lock is None:
            self.told.emit(f"{path.name} is open in another window. Choose another name.", False)
            return False
        if not self._save(path):
            lock.release()
            return False
        if self._lock is not None:
            self._lock.release()
        self._lock = lock
        self._store.path = path
        self._remember(path)
        self.told.emit(f"Saved as {path.name}", True)
        return True

    def _save(self, path: Path) -> bool:
        try:
            self.photos.before_save(self._store.job)
            save_job(self._store.job, path, self.photos.read)
        except JobFileError as error:
            self.told.emit(str(error), False)
            return False
        self.photos.package = path
        self._store.history.setClean()
        self._timer.stop()
        self.wait()
        if self._recovery is not None:
            self._recovery.drop()
        self.told.emit(f"Saved {path.name}", True)
        return True

    def may_leave(self) -> bool:
        """Ask what to do with unsaved work; say whether the job may be left."""
        _finish_typing()
        if not self.has_job or not self._store.unsaved:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Unsaved work")
        box.setText(f"{self._store.job.title} has changes that are not saved.")
        box.setStandardButtons(
            QMessageBox.StandardButton.Save
            | QMessageBox.StandardButton.Discard
            | QMessageBox.StandardButton.Cancel
        )
        box.setDefaultButton(QMessageBox.StandardButton.Save)
        answer = box.exec()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

    # recovery

    def keep(self) -> None:
        """Keep a recovery copy, off the interface's thread."""
        if self._recovery is None or not self._store.unsaved:
            return
        recovery, job, path = self._recovery, self._store.job, self._store.path
        self.wait()
        task = Task(lambda stop: recovery.keep(job, path), self)
        task.failed.connect(
            lambda error: self.told.emit(f"No recovery copy could be kept: {error}", False)
        )
        self._keeping = task
        task.start()

    def wait(self) -> None:
        """Wait for a recovery copy that is being written."""
        if self._keeping is not None:
            self._keeping.wait()
            self._keeping = None

    # recent files

    def recent(self) -> list[Path]:
        """Return the files opened last that are still there."""
        kept = self._settings.value("recent", [])
        names = kept if isinstance(kept, list) else [kept] if isinstance(kept, str) else []
        return [path for path in map(Path, names) if path.exists()]

    def _remember(self, path: Path) -> None:
        names = [str(path.resolve())]
        names += [str(one) for one in self.recent() if str(one) not in names]
        self._settings.setValue("recent", names[:MOST_RECENT])

    def forget(self, path: Path) -> None:
        """Take a file off the list of recent ones."""
        gone = str(path.resolve())
        names = [str(one) for one in self.recent() if str(one) != gone]
        self._settings.setValue("recent", names)


def _finish_typing() -> None:
    """Take up what stands in a field that was not left yet."""
    typing = QApplication.focusWidget()
    if isinstance(typing, QLineEdit):
        typing.clearFocus()
