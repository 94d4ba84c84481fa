"""An unsaved job survives a crash: it is kept in the state folder until it is saved or given up."""

import contextlib
import shutil
import uuid
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

import msgspec

from molvik.files.errors import JobFileError
from molvik.files.jobfile import read_job
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.lock import Lock
from molvik.files.places import state_folder
from molvik.files.writing import written_whole
from molvik.model.job import Job

SUFFIX = ".recovery"


class _Origin(msgspec.Struct):
    """The first line of a copy; the job's text follows. origin: the file it belongs to; pictures:
    the file its photos lie in, which may be another's, opened as a copy.
    """

    origin: str = ""
    pictures: str = ""


class Recovery:
    """The recovery copy of one window. Its lock tells other windows that it is in use.

    Raises OSError where the state folder cannot be written.
    """

    def __init__(self) -> None:
        self._folder = state_folder("recovery")
        self._name = uuid.uuid4().hex
        self._lock = Lock.take(self._folder / f"{self._name}.lock")
        self.photos = self._folder / f"{self._name}.photos"
        """Where photos lie that are not in the job's file yet."""

    def keep(self, job: Job, path: Path | None, pictures: Path | None = None) -> None:
        """Keep a job as it stands, with the file it belongs to, and the one its photos lie in.
        Raises OSError.
        """
        first = _Origin(*("" if one is None else str(one.absolute()) for one in (path, pictures)))
        with written_whole(self._folder / f"{self._name}{SUFFIX}", private=True) as part:
            part.write_bytes(msgspec.json.encode(first) + b"\n" + encode_job(job))

    def drop(self) -> None:
        """Give the copy up: the job was saved, or the user does not want it."""
        with contextlib.suppress(OSError):
            (self._folder / f"{self._name}{SUFFIX}").unlink(missing_ok=True)

    def close(self) -> None:
        """Give up the copy, its photos and the lock."""
        self.drop()
        shutil.rmtree(self.photos, ignore_errors=True)
        if self._lock is not None:
            self._lock.release()
            self._lock = None
        with contextlib.suppress(OSError):
            (self._folder / f"{self._name}.lock").unlink(missing_ok=True)


class Leftover(NamedTuple):
    """A job that a crashed window left behind. origin: the file it belongs to, or None; pictures:
    the one its photos lie in, beside those not saved yet.
    """

    file: Path
    job: Job
    origin: Path | None
    at: datetime
    pictures: Path | None = None

    @property
    def photos(self) -> Path:
        """Where its photos lie that were not saved."""
        return self.file.with_suffix(".photos")


def leftovers() -> list[Leftover]:
    """Return the jobs of windows that ended without closing, the newest first."""
    found: list[Leftover] = []
    try:
        folder = state_folder("recovery")
        for file in [*folder.glob(f"*{SUFFIX}"), *folder.glob("*.molvik")]:
            lock = Lock.take(file.with_suffix(".lock"))
            if lock is None:
                continue  # its window is still open
            lock.release()
            with contextlib.suppress(JobFileError):  # left there: someone may still read it
                job, first = _read(file)
                moment = datetime.fromtimestamp(file.stat().st_mtime).astimezone()
                origin, pictures = (
                    Path(one) if one else None for one in (first.origin, first.pictures)
                )
                found.append(Leftover(file, job, origin, moment, pictures))
        _sweep(folder)
    except OSError:
        pass  # no state folder, nothing left in it
    return sorted(found, key=lambda leftover: leftover.at, reverse=True)


def _read(file: Path) -> tuple[Job, _Origin]:
    """Return a kept job and where it is from. Raises JobFileError, OSError."""
    if file.suffix == SUFFIX:
        head, _, text = file.read_bytes().partition(b"\n")
        first = _Origin()
        with contextlib.suppress(msgspec.DecodeError):
            first = msgspec.json.decode(head, type=_Origin)
        return decode_job(text, file.name), first
    beside = file.with_suffix(".origin")  # as earlier versions kept it
    origin = beside.read_text(encoding="utf-8") if beside.exists() else ""
    return read_job(file), _Origin(origin)


def _sweep(folder: Path) -> None:
    """Remove what windows left behind whose job was saved before they crashed."""
    kept = {file.stem for file in folder.iterdir() if file.suffix in (SUFFIX, ".molvik")}
    for file in folder.iterdir():
        stem = file.name.lstrip(".").split(".")[0]
        if (file.suffix == ".photos" and stem not in kept) or file.suffix == ".molvik-part":
            _remove_if_left(folder / f"{stem}.lock", file)


def _remove_if_left(lock_file: Path, what: Path) -> None:
    lock = Lock.take(lock_file)
    if lock is not None:
        if what.is_dir():
            shutil.rmtree(what, ignore_errors=True)
        else:
            what.unlink(missing_ok=True)
        lock.release()
        lock_file.unlink(missing_ok=True)


def discard(leftover: Leftover) -> None:
    """Throw a leftover away."""
    for suffix in (SUFFIX, ".molvik", ".molvik~", ".origin", ".lock"):
        leftover.file.with_suffix(suffix).unlink(missing_ok=True)
    shutil.rmtree(leftover.photos, ignore_errors=True)
