"""An unsaved job survives a crash: it is kept in the state folder until it is saved or given up."""

import shutil
import uuid
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from molvik.files.lock import Lock
from molvik.files.package import JobFileError, open_job, save_job
from molvik.files.places import state_folder
from molvik.model.job import Job


class Recovery:
    """The recovery copy of one window. Its lock tells other windows that it is in use."""

    def __init__(self) -> None:
        self._folder = state_folder("recovery")
        self._name = uuid.uuid4().hex
        self._lock = Lock.take(self._folder / f"{self._name}.lock")
        self.photos = self._folder / f"{self._name}.photos"
        """Where photos lie that are not in the package yet."""

    def keep(self, job: Job, path: Path | None) -> None:
        """Keep a job as it stands, with the file it belongs to."""
        save_job(job, self._folder / f"{self._name}.molvik", None)
        origin = "" if path is None else str(path)
        (self._folder / f"{self._name}.origin").write_text(origin, encoding="utf-8")

    def drop(self) -> None:
        """Give the copy up: the job was saved, or the user does not want it."""
        for suffix in (".molvik", ".molvik~", ".origin"):
            (self._folder / f"{self._name}{suffix}").unlink(missing_ok=True)

    def close(self) -> None:
        """Give up the copy, its photos and the lock."""
        self.drop()
        shutil.rmtree(self.photos, ignore_errors=True)
        if self._lock is not None:
            self._lock.release()
            self._lock = None
        (self._folder / f"{self._name}.lock").unlink(missing_ok=True)


class Leftover(NamedTuple):
    """A job that a crashed window left behind. origin: the file it belongs to, or None."""

    file: Path
    job: Job
    origin: Path | None
    at: datetime

    @property
    def photos(self) -> Path:
        """Where its photos lie that were not saved."""
        return self.file.with_suffix(".photos")


def leftovers() -> list[Leftover]:
    """Return the jobs of windows that ended without closing, the newest first."""
    found: list[Leftover] = []
    for file in state_folder("recovery").glob("*.molvik"):
        lock = Lock.take(file.with_suffix(".lock"))
        if lock is None:
            continue  # its window is still open
        lock.release()
        try:
            job = open_job(file)
        except JobFileError:
            continue  # left where it is: someone may still read something out of it
        origin_file = file.with_suffix(".origin")
        origin = origin_file.read_text(encoding="utf-8") if origin_file.exists() else ""
        at = datetime.fromtimestamp(file.stat().st_mtime).astimezone()
        found.append(Leftover(file, job, Path(origin) if origin else None, at))
    _sweep()
    return sorted(found, key=lambda one: one.at, reverse=True)


def _sweep() -> None:
    """Remove photos whose job was saved before its window crashed: they are in its package."""
    for folder in state_folder("recovery").glob("*.photos"):
        if not folder.with_suffix(".molvik").exists():
            lock = Lock.take(folder.with_suffix(".lock"))
            if lock is not None:
                shutil.rmtree(folder, ignore_errors=True)
                lock.release()


def discard(leftover: Leftover) -> None:
    """Throw a leftover away."""
    for suffix in (".molvik", ".molvik~", ".origin", ".lock"):
        leftover.file.with_suffix(suffix).unlink(missing_ok=True)
    shutil.rmtree(leftover.photos, ignore_errors=True)
