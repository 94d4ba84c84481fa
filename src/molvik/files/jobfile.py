"""The job file, ``NAME.molvik``: opened as far as it is whole, and held open.

A file that cannot be read is left as it was. ``files/saving.py`` writes it.
"""

import contextlib
import errno
import logging
import os
import shutil
import stat
import tempfile
import threading
from collections.abc import Callable, Iterator
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import NamedTuple

import apsw

from molvik.files import contents, database
from molvik.files.contents import Version
from molvik.files.cutoff import CutOff, cut_off, put_back_in, settle
from molvik.files.database import Database
from molvik.files.errors import (
    Change,
    ChangedOutsideError,
    DamagedError,
    JobFileError,
)
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.journal import clear_given_up, journal_of
from molvik.files.onefile import is_sayable
from molvik.files.writing import reason
from molvik.files.zipjob import START as ZIP_START
from molvik.files.zipjob import ZipJob
from molvik.model.job import Job

log = logging.getLogger(__name__)

SUFFIX = ".molvik"

LOGGED = b"\2\2"
"""What stands at byte 18 of a database that is written by way of a log (WAL)."""


TRIES = 5
"""So often a file is read anew that another program puts a new one in the place of meanwhile."""


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
        self._guard = threading.RLock()
        for _ in range(TRIES):
            self._begin()
            try:
                known = os.stat(path)
                self.job = self._read()
                self._held = {photo.file for photo in self.job.photos}
                self.lost = frozenset(self._held - self.names)
                self._seen = _Seen(
                    known.st_dev,
                    known.st_ino,
                    known.st_size,
                    known.st_mtime_ns,
                    self._version,
                    self._digest,
                )
                if not self._was_swapped(known):
                    return
            except BaseException:
                self.close()
                raise
            self.close()
        raise JobFileError(f"{path.name} is being written by another program. Try again.")

    def _begin(self) -> None:
        self.remark = ""
        self._database: Database | None = None
        self._zip: ZipJob | None = None
        self._beside: ZipJob | None = None
        self._copy: tempfile.TemporaryDirectory[str] | None = None
        self._photos: dict[str, int] = {}
        self._changes: int | None = 0
        """SQLite's count of what others changed in it, None where it could not be asked."""
        self._at = self.path
        """Where it is read: a copy of our own where the file cannot be read as it lies."""
        self._left: CutOff | None = None
        """What a save that was killed left beside it."""
        self.whole = True
        """Whether it is a database without damage, to which a save may add."""

    def _was_swapped(self, known: os.stat_result) -> bool:
        """Return whether the file at its place was another before it was read than after."""
        now = os.stat(self.path)
        if not os.path.samestat(known, now):
            return True
        same = (known.st_size, known.st_mtime_ns) == (now.st_size, now.st_mtime_ns)
        return not (self.whole or same)

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
        self._version, self._digest = 0, contents.digest(self._zip.text)
        job = decode_job(self._zip.text, self.path.name)
        if self.path.name.endswith("~") and any(p.file not in self.names for p in job.photos):
            # Earlier versions kept the job beside its file without the photos, which stayed there.
            with contextlib.suppress(OSError, JobFileError):
                self._beside = ZipJob(self.path.with_name(self.path.name.rstrip("~")), job=False)
        return job

    def _read_database(self) -> Job:
        name = self.path.name
        try:
            self._database = self._connect()
            database.check_kind(self._database)
            database.check_whole(self._database)
            self._photos = contents.photo_ids(self._database)
            found = contents.newest(self._database)
            if found is None:
                raise database.NotWholeError("its job is not whole")
            self._version, self._digest, text = found
            self._changes = self._data_version()
        except database.NewerError as error:
            raise JobFileError(
                f"{name} was saved by a newer Molvik. Update Molvik to open it. The file was not "
                "changed."
            ) from error
        except apsw.Error as error:
            if _busy(error):
                raise JobFileError(
                    f"{name} is being written by another program. Try again."
                ) from error
            return self._salvage(error)
        return decode_job(text, name)

    def _connect(self) -> Database:
        """Open the file to read. A save that was killed is taken back in a copy of our own: only
        who saves changes the file.
        """
        if not is_sayable(self.path.name):
            self.whole = False  # a save writes it anew
            return Database(Path(shutil.copy(self.path, self._make_copy())), write=False)
        there = Database(self.path, write=False)
        try:
            if there.bytes_at(18, 2) == LOGGED:
                self.whole = False  # a save writes it anew, as a job that needs no log
                self.remark = _logged(self.path)
                return self._copied(there, _without_log)
            with there.unchanged():
                left = cut_off(there)
                if left is not None:
                    log.info("%s: a save was cut off: %s", self.path, left.words or "put back")
                self._left = left
                if left is not None and left.journal is not None:
                    return self._copied(there, partial(put_back_in, left.journal))
        except BaseException:
            there.close()
            raise
        if left is not None:
            self.remark = left.words
        return there

    def _copied(self, there: Database, change: Callable[[Path], object]) -> Database:
        """Read a copy of our own of the file, changed; the file itself is let go."""
        copy = self._make_copy()
        there.written_to(copy)
        there.close()
        change(copy)
        return Database(copy, write=False)

    def _make_copy(self) -> Path:
        self._copy = tempfile.TemporaryDirectory(prefix="molvik-")
        self._at = Path(self._copy.name) / "job"
        return self._at

    def _salvage(self, problem: apsw.Error) -> Job:
        """Read the newest version that is whole in a damaged file."""
        self.whole = False
        log.info("%s is read as far as it is whole: %s", self.path, problem)
        name = self.path.name
        if self._database is not None:
            self._database.close()
        damaged = f"{name} is damaged, and no job can be read in it. It was left as it is."
        try:
            self._database = Database(self._at, write=False, salvage=True)
            database.check_kind(self._database)
            self._photos = contents.photos_found(self._database)
            job, at = self._last_whole()
        except database.ForeignError as error:
            raise DamagedError(f"{name} is a database but not a Molvik job.") from error
        except apsw.Error as error:
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
            f"{'; it may not be the newest' if at else ''}. See what is missing, and save it: the "
            "damaged file is then kept beside it."
        )
        return job

    def _last_whole(self) -> tuple[Job | None, str]:
        """Return the newest job that can be read, and when it was saved where it may not be the
        newest.
        """
        assert self._database is not None
        with contextlib.suppress(apsw.Error, DamagedError):
            found = contents.newest(self._database)
            if found is not None:
                return decode_job(found[2], self.path.name), ""
        times: dict[int, str] = {}
        with contextlib.suppress(apsw.Error):
            times = {version.id: version.at for version in contents.versions(self._database)}
        for number in contents.version_ids(self._database):
            with contextlib.suppress(apsw.Error, DamagedError):
                text = contents.version_text(self._database, number)
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
            elif self._database is not None and name in self._photos:
                with contextlib.suppress(apsw.Error):
                    found = contents.photo(self._database, self._photos[name])
            if found is None and self._beside is not None:
                found = self._beside.photo(name)
            return found

    # what became of the file

    def _data_version(self) -> int:
        assert self._database is not None
        return int(self._database.one("PRAGMA data_version"))

    def changed(self) -> Change | None:
        """Return what happened to the file since it was last read or written here."""
        if moved := self.moved():
            return moved
        if not self.whole:
            known = os.stat(self.path)
            same = (known.st_size, known.st_mtime_ns) == (self._seen.size, self._seen.changed_ns)
            return None if same else "changed"
        try:
            with self._guard, Database(self.path, write=False) as fresh:
                return self.changed_in(fresh)
        except apsw.Error:
            return "changed"

    def moved(self) -> Change | None:
        """Return whether another file, or none, is at its place now."""
        try:
            known = os.stat(self.path)
        except OSError:
            return "deleted"
        same = (known.st_dev, known.st_ino) == (self._seen.device, self._seen.inode)
        return None if same else "replaced"

    def changed_in(self, fresh: Database) -> Change | None:
        """Return whether what stands in it is not what was read here. Raises apsw.Error."""
        if self._copy is not None:  # read with what a killed save left: to be looked at again
            return "changed"
        found = contents.newest(fresh)
        same = found is not None and found[:2] == (self._seen.version, self._seen.digest)
        known = same and self._changes in (None, self._data_version())
        return None if known else "changed"

    # versions

    def versions(self) -> list[Version]:
        """Return the versions in the file, the newest first."""
        if self._database is None:
            return []
        with self._guard:
            try:
                return contents.versions(self._database)
            except apsw.Error:
                return []

    def version(self, number: int) -> Job:
        """Return the job as it was in a version; JobFileError when it is not there."""
        text: bytes | None = None
        if self._database is not None:
            with self._guard, contextlib.suppress(apsw.Error):
                text = contents.version_text(self._database, number)
        if text is None:
            raise JobFileError(f"{self.path.name} holds no version {number} that can be read.")
        return decode_job(text, f"Version {number} of {self.path.name}")

    # writing

    @contextlib.contextmanager
    def adding(self) -> Iterator[tuple[Database, frozenset[str]]]:
        """Give a way to write into the file, and the photos it held whatever happened since.

        One transaction, in which nobody else writes: that the file is still what was read here is
        looked at in it. Raises ChangedOutsideError, apsw.Error, OSError.
        """
        name = self.path.name
        with self._guard, Database(self.path, write=True) as fresh:
            with fresh.changing():
                if change := self.moved() or self.changed_in(fresh):
                    raise ChangedOutsideError(name, change)
                if not clear_given_up(journal_of(self.path)):
                    raise ChangedOutsideError(name, "changed")  # another's save was cut off now
                yield fresh, frozenset(self._held)
            if change := self.moved():  # it was put into a file that nobody finds any more
                raise ChangedOutsideError(name, change)

    def settle(self) -> None:
        """Take away what a killed save left beside it: we are about to write. Raises apsw.Error,
        OSError.
        """
        with self._guard:
            if self._left is None or not self.whole or self.moved():
                return
            settle(self.path, self._left)
            self._left = None
            if self._copy is not None and self._database is not None:
                self._database.close()
                self._database = Database(self.path, write=False)
                self._copy.cleanup()
                self._copy, self._at = None, self.path
                self._photos = contents.photo_ids(self._database)
            self._changes = self._data_version()

    def holds(self, job: Job, version: int, digest: bytes, photos: dict[str, int]) -> None:
        """The job was written into the file, with these photos: take what it is now for known.

        Raises nothing: the save is done, whoever writes the file by now.
        """
        with self._guard:
            self._photos = photos
            self.job = job
            self._version, self._digest = version, digest
            self._held |= {photo.file for photo in job.photos}
            self._seen = self._seen._replace(version=version, digest=digest)
            self._changes = None
            with contextlib.suppress(apsw.Error):
                self._changes = self._data_version()

    def lies_at(self, path: Path) -> None:
        """The file was given this name, in the place of another or of none."""
        self.path = path
        self.whole = self.whole and is_sayable(path.name)

    def copy_to(self, path: Path) -> None:
        """Copy all of it into an empty file: versions, photos and job. Raises apsw.Error."""
        with self._guard:
            if self._database is not None and self.whole:
                with contextlib.suppress(apsw.Error):  # it was changed under our hands
                    database.copy(self._database, path)
                    return
            path.write_bytes(b"")
            database.create(path)
            with Database(path, write=True) as other, other.changing():
                for name in sorted(self.names):
                    data = self.photo(name)
                    if data is not None:
                        contents.put_photo(other, name, data)
                saved = datetime.fromtimestamp(self._seen.changed_ns / 1e9).astimezone()
                at = saved.isoformat(timespec="seconds")
                contents.put(other, encode_job(self.job), at, self.names)

    def close(self) -> None:
        """Let go of the file."""
        with self._guard:
            for one in (self._database, self._zip, self._beside):
                if one is not None:
                    one.close()
            self._database = self._zip = self._beside = None
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
        raise JobFileError(
            f"No permission to read {name}. Change its permissions, or ask its owner."
        ) from error
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
    known: dict[type[apsw.Error], int] = {
        apsw.FullError: errno.ENOSPC,
        apsw.ReadOnlyError: errno.EACCES,
        apsw.CantOpenError: errno.EACCES,
        apsw.PermissionsError: errno.EACCES,
        apsw.BusyError: errno.EBUSY,
        apsw.LockedError: errno.EBUSY,
    }
    return next((number for kind, number in known.items() if isinstance(error, kind)), None)


def _busy(error: apsw.Error) -> bool:
    return system_number(error) == errno.EBUSY


def _first_bytes(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(16)


def _when(at: str) -> str:
    try:
        return f"on {datetime.fromisoformat(at):%d %b %Y at %H:%M}"
    except ValueError:
        return "before"


def _logged(path: Path) -> str:
    """Say what a file is that another program keeps with a log beside it."""
    log = path.with_name(f"{path.name}-wal")
    if not log.is_file() or not log.stat().st_size:
        return ""
    return (
        f"{path.name} is open in another program, or was when that ended: what it did last lies in "
        f"{log.name} and is not read here. Close it there first, and open it again."
    )


def _without_log(path: Path) -> None:
    """Make a copy of our own a database that has no log."""
    with path.open("r+b") as file:
        file.seek(18)
        file.write(b"\1\1")
