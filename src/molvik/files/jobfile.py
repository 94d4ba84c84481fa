"""The job file, ``NAME.molvik``: opened as far as it is whole, and held open.

A file that cannot be read is left as it was. ``files/saving.py`` writes it.
"""

import contextlib
import errno
import os
import shutil
import sqlite3
import stat
import tempfile
import threading
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from molvik.files import database
from molvik.files.database import Version
from molvik.files.errors import (
    Change,
    DamagedError,
    JobFileError,
)
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.writing import reason
from molvik.files.zipjob import START as ZIP_START
from molvik.files.zipjob import ZipJob
from molvik.model.job import Job

SUFFIX = ".molvik"


class _Seen(NamedTuple):
    """What a file was when it was last read or written here."""

    device: int
    inode: int
    size: int
    changed_ns: int
    version: int
    digest: bytes


class JobFile:
    """A job file that is open.

    path: with links followed. job: as it was read. remark: what is wrong with the file, or empty.
    lost: pictures that the job has and the file had no more when it was opened. The file is held
    open, so that its photos can be read even after somebody deletes or replaces it.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.remark = ""
        self._connection: sqlite3.Connection | None = None
        self._zip: ZipJob | None = None
        self._beside: ZipJob | None = None
        self._copy: tempfile.TemporaryDirectory[str] | None = None
        self._photos: dict[str, int] = {}
        self._guard = threading.RLock()
        self._at = path
        """Where it is read: a copy where a killed save cannot be taken back in its place."""
        self.whole = True
        """Whether it is a database without damage, to which a save may add."""
        try:
            self.job = self._read()
            self._held = {photo.file for photo in self.job.photos}
            self.lost = frozenset(self._held - self.names)
            self._seen = self._look()
        except BaseException:
            self.close()
            raise

    # reading

    def _read(self) -> Job:
        path = self.path
        start = _first_bytes(path)
        if not start:
            raise DamagedError(f"{path.name} is empty. Its last good version may be {path.name}~.")
        if start[:4] == ZIP_START:
            return self._read_zip()
        if start[:16] == database.START:
            return self._read_database()
        raise DamagedError(
            f"{path.name} is not a Molvik job. To read a pinout table, use Import in Pinouts."
        )

    def _read_zip(self) -> Job:
        self.whole = False
        self._zip = ZipJob(self.path)
        self.remark = self._zip.remark
        self._version, self._digest = 0, database.digest(self._zip.text)
        job = decode_job(self._zip.text, self.path.name)
        if self.path.name.endswith("~") and any(p.file not in self.names for p in job.photos):
            # Earlier versions kept the job beside its file without the photos, which stayed there.
            with contextlib.suppress(OSError, JobFileError):
                self._beside = ZipJob(self.path.with_name(self.path.name.rstrip("~")), job=False)
        return job

    def _read_database(self) -> Job:
        name = self.path.name
        try:
            self._connection = self._connect()
            database.check_kind(self._connection)
            database.check_whole(self._connection, self._at)
            self._photos = database.photo_ids(self._connection)
            found = database.newest(self._connection)
            if found is None:
                raise sqlite3.DatabaseError("its job is not whole")
            self._version, self._digest, text = found
            self._changes = self._data_version()
        except database.NewerError as error:
            raise JobFileError(
                f"{name} was saved by a newer Molvik. Update Molvik to open it. The file was not "
                "changed."
            ) from error
        except sqlite3.Error as error:
            if _busy(error):
                raise JobFileError(
                    f"{name} is being written by another program. Try again."
                ) from error
            return self._salvage(error)
        return decode_job(text, name)

    def _connect(self) -> sqlite3.Connection:
        """Open the file to write if one may; a save that was killed is then taken back."""
        path = self.path
        write = os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)
        try:
            made = database.connect(path, write=write)
            made.execute("SELECT count(*) FROM sqlite_schema").fetchone()
        except sqlite3.OperationalError:
            journal = path.with_name(f"{path.name}-journal")
            if write or not journal.exists():
                raise
            # What was killed cannot be taken back where one may not write: read a copy.
            self._copy = tempfile.TemporaryDirectory(prefix="molvik-")
            copy = self._at = Path(self._copy.name) / "job"
            shutil.copy(path, copy)
            shutil.copy(journal, copy.with_name("job-journal"))
            made = database.connect(copy, write=True)
        return made

    def _salvage(self, problem: sqlite3.Error) -> Job:
        """Read the newest version that is whole in a damaged file."""
        self.whole = False
        name = self.path.name
        if self._connection is not None:
            self._connection.close()
        damaged = f"{name} is damaged, and no job can be read in it. It was left as it is."
        try:
            self._connection = database.connect(self.path, write=False, salvage=True)
            database.check_kind(self._connection)
            self._photos = database.photos_found(self._connection)
            job, at = self._last_whole()
        except database.ForeignError as error:
            raise DamagedError(f"{name} is a database but not a Molvik job.") from error
        except sqlite3.Error as error:
            raise DamagedError(damaged) from error
        if job is None:
            raise DamagedError(damaged) from problem
        self._version, self._digest, self._changes = 0, b"", 0
        self._photos = {
            _photo: number
            for _photo, number in self._photos.items()
            if self.photo(_photo) is not None
        }
        newest = "its newest version" if not at else f"the version saved {_when(at)}"
        self.remark = (
            f"{name} was cut short or damaged. This is {newest}"
            f"{'; it may not be the newest' if at else ''}. Look what is missing, and save it: the "
            "damaged file is then kept beside it."
        )
        return job

    def _last_whole(self) -> tuple[Job | None, str]:
        """Return the newest job that can be read, and when it was saved where it may not be the
        newest.
        """
        assert self._connection is not None
        with contextlib.suppress(sqlite3.Error, DamagedError):
            found = database.newest(self._connection)
            if found is not None:
                return decode_job(found[2], self.path.name), ""
        times: dict[int, str] = {}
        with contextlib.suppress(sqlite3.Error):
            times = {version.id: version.at for version in database.versions(self._connection)}
        for number in database.version_ids(self._connection):
            with contextlib.suppress(sqlite3.Error, DamagedError):
                text = database.version_text(self._connection, number)
                if text is not None:
                    return decode_job(text, self.path.name), times.get(number, "earlier")
        return None, ""

    # photos

    @property
    def names(self) -> frozenset[str]:
        """The photos it holds."""
        own = self._zip.names if self._zip else frozenset(self._photos)
        return own | self._beside.names if self._beside else own

    def photo(self, name: str) -> bytes | None:
        """Return a photo's bytes, None when it is not there or not as it was saved."""
        with self._guard:
            found: bytes | None = None
            if self._zip is not None:
                found = self._zip.photo(name)
            elif self._connection is not None and name in self._photos:
                with contextlib.suppress(sqlite3.Error):
                    found = database.photo(self._connection, self._photos[name])
            if found is None and self._beside is not None:
                found = self._beside.photo(name)
            return found

    # what became of the file

    def _look(self) -> _Seen:
        known = os.stat(self.path)
        return _Seen(known.st_dev, known.st_ino, known.st_size, known.st_mtime_ns,
                     self._version, self._digest)  # fmt: skip

    def _data_version(self) -> int:
        assert self._connection is not None
        return int(self._connection.execute("PRAGMA data_version").fetchone()[0])

    def changed(self) -> Change | None:
        """Return what happened to the file since it was last read or written here."""
        try:
            known = os.stat(self.path)
        except OSError:
            return "deleted"
        if (known.st_dev, known.st_ino) != (self._seen.device, self._seen.inode):
            return "replaced"
        if not self.whole:
            same = (known.st_size, known.st_mtime_ns) == (self._seen.size, self._seen.changed_ns)
            return None if same else "changed"
        try:
            with self._guard, contextlib.closing(database.connect(self.path, write=False)) as fresh:
                found = database.newest(fresh)
                counted = self._data_version() == self._changes
        except sqlite3.Error:
            return "changed"
        if found is None or found[:2] != (self._seen.version, self._seen.digest) or not counted:
            return "changed"
        return None

    # versions

    def versions(self) -> list[Version]:
        """Return the versions in the file, the newest first."""
        if self._connection is None:
            return []
        with self._guard:
            try:
                return database.versions(self._connection)
            except sqlite3.Error:
                return []

    def version(self, number: int) -> Job:
        """Return the job as it was in a version; JobFileError when it is not there."""
        text: bytes | None = None
        if self._connection is not None:
            with self._guard, contextlib.suppress(sqlite3.Error):
                text = database.version_text(self._connection, number)
        if text is None:
            raise JobFileError(f"{self.path.name} holds no version {number} that can be read.")
        return decode_job(text, f"Version {number} of {self.path.name}")

    # writing

    @contextlib.contextmanager
    def adding(self) -> Iterator[tuple[sqlite3.Connection, frozenset[str]]]:
        """Give a way to write into the file, and the photos it held whatever happened since.

        Nobody reads it meanwhile. Raises sqlite3.Error.
        """
        with self._guard, contextlib.closing(database.connect(self.path, write=True)) as fresh:
            yield fresh, frozenset(self._held)

    def holds(self, job: Job, version: int, digest: bytes) -> None:
        """The job was written into the file: take what it is now for known."""
        with self._guard:
            assert self._connection is not None
            self._photos = database.photo_ids(self._connection)
            self.job = job
            self._version, self._digest = version, digest
            self._held |= {photo.file for photo in job.photos}
            self._changes = self._data_version()
            self._seen = self._look()

    def copy_to(self, path: Path) -> None:
        """Copy all of it into an empty file: versions, photos and job. Raises sqlite3.Error."""
        with self._guard:
            if self._connection is not None and self.whole:
                with contextlib.suppress(sqlite3.Error):  # it was changed under our hands
                    database.copy(self._connection, path)
                    return
            path.write_bytes(b"")
            database.create(path)
            with contextlib.closing(database.connect(path, write=True)) as other:
                other.execute("BEGIN IMMEDIATE")
                for name in sorted(self.names):
                    data = self.photo(name)
                    if data is not None:
                        database.put_photo(other, name, data)
                saved = datetime.fromtimestamp(self._seen.changed_ns / 1e9).astimezone()
                at = saved.isoformat(timespec="seconds")
                database.put(other, encode_job(self.job), at, self.names)
                other.execute("COMMIT")

    def close(self) -> None:
        """Let go of the file."""
        with self._guard:
            for one in (self._connection, self._zip, self._beside):
                if one is not None:
                    one.close()
            self._connection = self._zip = self._beside = None
            if self._copy is not None:
                self._copy.cleanup()
                self._copy = None


def open_job(path: Path) -> JobFile:
    """Open a job file; JobFileError says in words what is wrong with it.

    Where it holds no job that can be read, the copy kept beside it by an earlier version is taken,
    and the remark says so.
    """
    name = path.name
    try:
        real = path.resolve()
        kind = real.stat().st_mode
        if stat.S_ISDIR(kind):
            raise JobFileError(f"{name} is a folder, not a job.")
        if not stat.S_ISREG(kind):
            raise JobFileError(f"{name} is a device or a pipe, not a job.")
        try:
            return JobFile(real)
        except DamagedError as error:
            return _kept_beside(real, error)
    except FileNotFoundError as error:
        raise JobFileError(f"There is no file {name} there any more.") from error
    except PermissionError as error:
        raise JobFileError(f"You may not read {name}. Ask its owner for permission.") from error
    except (OSError, RuntimeError, ValueError) as error:
        raise JobFileError(f"{name} cannot be read: {reason(error)}.") from error


def is_job(path: Path) -> bool:
    """Return whether a file can be opened as a job."""
    try:
        open_job(path).close()
    except JobFileError:
        return False
    return True


def read_job(path: Path) -> Job:
    """Return the job in a file; JobFileError says in words what is wrong with it."""
    with contextlib.closing(open_job(path)) as file:
        return file.job


def _kept_beside(path: Path, problem: DamagedError) -> JobFile:
    """Say where the last good version of a damaged file is, if there is one."""
    kept = path.with_name(f"{path.name}~")
    try:
        with contextlib.closing(JobFile(kept)):
            pass
    except (OSError, JobFileError):
        raise problem from None
    raise DamagedError(
        f"{problem} A version before it is beside it as {kept.name}: open that, and save it "
        "under a new name."
    ) from problem


def system_number(error: BaseException) -> int | None:
    """Return the system's number for a problem SQLite had."""
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    return {
        sqlite3.SQLITE_FULL: errno.ENOSPC,
        sqlite3.SQLITE_READONLY: errno.EACCES,
        sqlite3.SQLITE_CANTOPEN: errno.EACCES,
        sqlite3.SQLITE_PERM: errno.EACCES,
        sqlite3.SQLITE_BUSY: errno.EBUSY,
        sqlite3.SQLITE_LOCKED: errno.EBUSY,
    }.get(code)


def _busy(error: sqlite3.Error) -> bool:
    return system_number(error) == errno.EBUSY


def _first_bytes(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(16)


def _when(at: str) -> str:
    try:
        return f"on {datetime.fromisoformat(at):%d %b %Y at %H:%M}"
    except ValueError:
        return "before"
