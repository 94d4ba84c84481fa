"""Saving a job so that nothing is lost: the one way in which a job file is written, for the window
and the command line alike.
"""

import contextlib
import errno
import logging
import os
from collections.abc import Collection, Iterable, Iterator
from datetime import date
from pathlib import Path

import apsw

from molvik.files import contents, database
from molvik.files.database import Database
from molvik.files.errors import (
    ChangedOutsideError,
    InTheWayError,
    JobFileError,
    PhotosMissingError,
)
from molvik.files.jobfile import JobFile, system_number
from molvik.files.jobtext import encode_job
from molvik.files.journal import journal_of, set_aside
from molvik.files.photobox import PhotoBox
from molvik.files.still import held_still
from molvik.files.writing import reason, regular_target, written_whole
from molvik.model.job import Job

log = logging.getLogger(__name__)


def save_job(
    job: Job,
    path: Path,
    photos: PhotoBox,
    *,
    instead: bool = False,
    without: Collection[str] = (),
    name: str = "",
) -> None:
    """Write a job, with its photos and the versions before it. The one way to write a job file.

    photos: where its photos are, with the file it came from. instead: the user said that what lies
    at path may be replaced; it is then kept beside it as NAME~. without: pictures the user knows
    cannot be read any more. name: what the user calls this version. At every moment a whole version
    is on the disk, and no success is reported with fewer readable photos than before.

    Raises JobFileError: ChangedOutsideError, InTheWayError, PhotosMissingError or another.
    Raises PermissionError.
    """
    real = regular_target(path)
    _check_photos(job, real.name, photos, without)
    base = photos.file if isinstance(photos.file, JobFile) else None
    own = base is not None and base.path == real
    try:
        if real.exists() and not os.access(real, os.W_OK):
            raise PermissionError(errno.EACCES, "read-only")
        if base is not None and own:
            base.settle()
        change = base.changed() if base is not None and own else None
        if change and not instead:
            raise ChangedOutsideError(real.name, change)
        if base is not None and own and base.whole and not change:
            with base.adding() as (there, held):
                version = _write(there, job, photos, without, name, held)
                known = contents.photo_ids(there)
            base.holds(job, *version, known)
            log.info("saved version %d into %s", version[0], real)
            return
        with contextlib.ExitStack() as unless_it_lies_there:
            with _in_place_of(real, base if own else None, instead=instead) as part:
                if base is not None:
                    base.copy_to(part)
                else:
                    database.create(part)
                with Database(part, write=True) as fresh, fresh.changing():
                    _write(fresh, job, photos, without, name, ())
                # Opened before it lies there: from then on others may write it, and a save that
                # is done must not be called one that failed.
                written = JobFile(part)
                unless_it_lies_there.callback(written.close)
            unless_it_lies_there.pop_all()
        written.lies_at(real)
        log.info("written whole: %s", real)
        photos.file = written
        if base is not None:
            base.close()
    except (OSError, apsw.Error) as error:
        raise JobFileError(_save_problem(real, error)) from error


@contextlib.contextmanager
def _in_place_of(real: Path, own: JobFile | None, *, instead: bool) -> Iterator[Path]:
    """Give a file to write that takes the place of another, which is kept beside it. Nobody else
    who saves there can do so meanwhile. own: what was read from there.

    Raises ChangedOutsideError, InTheWayError, OSError, apsw.Error.
    """
    if not os.path.lexists(real):
        try:
            with written_whole(real, new=True) as part:
                yield part
        except FileExistsError as error:  # somebody else made it meanwhile
            raise InTheWayError(real.name) from error
        return
    if own is None and not instead:
        raise InTheWayError(real.name)
    with held_still(real):
        if own is not None and not instead and (change := own.changed()):
            raise ChangedOutsideError(real.name, change)
        journal = journal_of(real)
        left = _identity(journal)
        with written_whole(real, keep=True) as part:
            yield part
        # What a killed save left belongs to the file that is kept now. A journal that came since is
        # of somebody who saves into the new one.
        if left is not None and _identity(journal) == left:
            with contextlib.suppress(OSError):  # it stays, and is told when the job is opened
                set_aside(journal)


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        known = os.lstat(path)
    except OSError:
        return None
    return known.st_dev, known.st_ino


def _check_photos(job: Job, name: str, photos: PhotoBox, without: Collection[str]) -> None:
    known = {*without, *photos.lost}
    missing = [
        photo for photo in job.photos if not photos.has(photo.file) and photo.file not in known
    ]
    if missing:
        raise PhotosMissingError(
            name, [photo.code for photo in missing], {photo.file for photo in missing}
        )


def _write(
    there: Database,
    job: Job,
    photos: PhotoBox,
    without: Collection[str],
    name: str,
    held: Iterable[str],
) -> tuple[int, bytes]:
    """Put a job and the photos the file does not have into it; return the version and digest.

    Within a transaction.
    """
    text = encode_job(job)
    wanted = list(dict.fromkeys(photo.file for photo in job.photos))
    known = contents.photo_ids(there)
    gone: set[str] = set()
    for picture in wanted:
        if picture not in known and photos.has(picture):
            data = photos.read(picture)
            if data is None:
                gone.add(picture)
            else:
                contents.put_photo(there, picture, data)
    if gone - set(without):
        codes = [photo.code for photo in job.photos if photo.file in gone]
        raise PhotosMissingError("The file", codes, gone)
    number = contents.put(there, text, contents.now_text(), wanted, name)
    contents.thin_out(there, date.today(), {*held, *wanted})
    return number, contents.digest(text)


def _save_problem(path: Path, error: BaseException) -> str:
    reasons: dict[int | None, str] = {
        errno.ENOSPC: "the disk is full. Make room and save again, or save elsewhere",
        errno.EDQUOT: "your share of the disk is full. Make room, or save elsewhere",
        errno.EROFS: "the disk is read-only. Save elsewhere with Save as",
        errno.EACCES: "no permission to write there. Save elsewhere with Save as",
        errno.EPERM: "no permission to write there. Save elsewhere with Save as",
        errno.ENOENT: f"the folder {path.parent} is not there any more. Save elsewhere",
        errno.ENAMETOOLONG: "the name is too long. Save under a shorter one",
        errno.EBUSY: "another program is writing it. Try again in a moment",
    }
    number = error.errno if isinstance(error, OSError) else system_number(error)
    words = reasons.get(number, reason(error))
    return f"{path.name} was not saved: {words}. Nothing is lost: the job is still open."
