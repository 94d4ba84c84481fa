"""The job package: ``NAME.molvik``, a zip with ``job.json`` and photos inside (``files.archive``).

A file that cannot be read is left as it was.
"""

import contextlib
import errno
import zipfile
from collections import Counter
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

import msgspec

from molvik import __version__
from molvik.files import archive
from molvik.files.archive import MEMBER
from molvik.model import crossover_edits, loom_edits, photo_edits
from molvik.model.edits import EditError
from molvik.model.job import SCHEMA_VERSION, Job
from molvik.pinouts.geometry import grid_problem

SUFFIX = ".molvik"
LARGEST_BYTES = 200_000_000
"""More than any job; a zip that unpacks to more is not one."""


class JobFileError(Exception):
    """A job file that cannot be opened or saved; the text says why and what to do."""


class Envelope(msgspec.Struct, frozen=True):
    """What ``job.json`` holds: the schema's version, who wrote it, and the job."""

    schema: int
    written_by: str
    job: Job


def encode_job(job: Job) -> bytes:
    """Return ``job.json`` with a stable order, one value a line, so that versions can be compared
    line by line.
    """
    envelope = Envelope(SCHEMA_VERSION, f"molvik {__version__}", job)
    return msgspec.json.format(msgspec.json.encode(envelope), indent=1) + b"\n"


def decode_job(data: bytes, name: str) -> Job:
    """Return the job in ``job.json``; name is the file's, for messages."""
    try:
        head = msgspec.json.decode(data)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise JobFileError(
            f"{name} is damaged: its contents are not readable ({error}). "
            f"The version before it may be beside it as {name}~."
        ) from error
    version = head.get("schema") if isinstance(head, dict) else None
    if not isinstance(version, int):
        raise JobFileError(f"{name} is not a Molvik job: it does not say which version it is.")
    if version > SCHEMA_VERSION:
        raise JobFileError(
            f"{name} was saved by a newer Molvik (file version {version}; this one reads up to "
            f"{SCHEMA_VERSION}). Update Molvik to open it. The file was not changed."
        )
    try:
        job = msgspec.convert(head, Envelope).job
    except msgspec.ValidationError as error:
        raise JobFileError(f"{name} is damaged: {error}. The file was not changed.") from error
    _check(job, name)
    return job


def _check(job: Job, name: str) -> None:
    """Refuse values that types alone let through and that nothing could be computed from."""
    codes = Counter([part.code for part in job.parts()] + [wire.code for wire in job.wires])
    twice = [code for code, count in codes.items() if count > 1]
    problem = f"the code {twice[0]} is used twice" if twice else ""
    for connector in job.connectors:
        problem = problem or grid_problem(connector.grid)
    for fuse in job.fuses:
        if not 0 < fuse.rating_a < 10_000:
            problem = problem or f"{fuse.code} has a rating of {fuse.rating_a:g} A"
    sizes = [(wire.code, wire.size) for wire in job.wires]
    sizes += [(c.code, pin.size) for c in job.connectors for pin in c.pins]
    for code, size in sizes:
        least, most = (-4, 60) if size and size.system == "awg" else (0, 1000)
        if size and not least < size.value <= most:
            problem = problem or f"{code} has a wire size of {size.value:g}"
    for wire in job.wires:
        for figure in (wire.length_m, wire.load_a):
            if figure is not None and not 0 <= figure < 1e5:
                problem = problem or f"{wire.code} has a length or current of {figure:g}"
        for figure in (wire.on_s, wire.rest_s):
            if figure is not None and not 0 < figure <= 1e6:
                problem = problem or f"{wire.code} is on or off for {figure:g} s"
    for use, share in job.settings.drop_shares:
        if not 0 < share <= 1:
            problem = problem or f"{use or 'general'} may lose {share:g} of the voltage"
    airs = [(wire.code, wire.ambient_c) for wire in job.wires if wire.ambient_c is not None]
    airs += job.settings.air_c
    for code, air_c in [*airs, ("the job", job.settings.ambient_c)]:
        if not -100 <= air_c <= 500:
            problem = problem or f"{code} has an air temperature of {air_c:g} °C"
    if not 0 <= job.settings.stagger_m <= 10:
        problem = problem or f"joints are {job.settings.stagger_m:g} m apart"
    if not 0 <= job.settings.hour_price < 1e6:
        problem = problem or f"an hour costs {job.settings.hour_price:g}"
    problem = problem or _loom_problem(job) or _time_problem(job) or _stock_problem(job)
    problem = problem or _photo_problem(job) or _repin_problem(job)
    if not 0 < job.settings.system_v <= 1000:
        problem = problem or f"the system voltage is {job.settings.system_v:g} V"
    if problem:
        raise JobFileError(f"{name} is damaged: {problem}. The file was not changed.")


def _loom_problem(job: Job) -> str:
    """Return what is impossible in the loom as found, by adding its things one by one."""
    bare = Job(job.id)
    try:
        for thing in job.loom.things():
            bare = loom_edits.add(bare, thing)
    except EditError as error:
        return str(error).rstrip(".")
    return ""


def _photo_problem(job: Job) -> str:
    """Return what is impossible in the photos."""
    for code, count in Counter(photo.code for photo in job.photos).items():
        if count > 1:
            return f"the photo {code} is there twice"
    for photo in job.photos:
        if not (0 < photo.width < 100_000 and 0 < photo.height < 100_000):
            return f"the photo {photo.code} has no size"
        try:
            for mark in photo.marks:
                photo_edits.check(mark)
        except EditError as error:
            return f"{photo.code}: {error}".rstrip(".")
    return ""


def _repin_problem(job: Job) -> str:
    """Return what is impossible in the repin sets and the further pinouts."""
    codes = {one.code for one in job.connectors}
    for pinout in job.pinouts:
        if pinout.connector not in codes:
            return f"the table {pinout.name} is of {pinout.connector}, which is not there"
    try:
        for one in job.repins:
            crossover_edits.check(job, one)
    except EditError as error:
        return str(error).rstrip(".")
    return ""


def _stock_problem(job: Job) -> str:
    """Return what is impossible in the stock."""
    for item in job.stock:
        least = -4 if item.size and item.size.system == "awg" else 0
        if item.size and not least < item.size.value <= 1000:
            return f"{item.code} has a wire size of {item.size.value:g}"
        if not (0 <= item.amount < 1e6 and 0 <= item.price < 1e6):
            return f"{item.code} has an amount or a price that cannot be"
    return ""


def _time_problem(job: Job) -> str:
    """Return the first time that is none, or has no offset from UTC to be compared by."""
    times = [entry.at for entry in job.log]
    times += [reading.at for reading in job.readings]
    times += [one.at for one in job.accepted]
    times += [one.at for one in job.ticks]
    times += [photo.at for photo in job.photos]
    times += [fault.decided_at for fault in job.loom.faults if fault.decided_at]
    for text in times:
        try:
            if datetime.fromisoformat(text).tzinfo is None:
                return f"the time {text} has no UTC offset"
        except ValueError:
            return f"“{text}” is no time"
    return ""


class Opened(NamedTuple):
    """A job read from a file. remark: what the user should know about the file, or empty."""

    job: Job
    remark: str = ""


def open_job(path: Path) -> Job:
    """Read a job; JobFileError says in words what is wrong with the file."""
    return open_package(path).job


def open_package(path: Path) -> Opened:
    """Read a job, or the version before the last when the last was cut short while saving."""
    try:
        return Opened(decode_job(_job_json(path, None), path.name))
    except _DamagedError as error:
        with contextlib.suppress(OSError, _DamagedError):
            end = archive.whole_end(path)
            if end is not None:
                remark = (
                    f"{path.name} was cut short while it was being saved. This is the version "
                    "saved before: look what is missing, and save it."
                )
                return Opened(decode_job(_job_json(path, end), path.name), remark)
        raise JobFileError(str(error)) from error


class _DamagedError(Exception):
    """A file that is no whole package; the text is for the user."""


def _job_json(path: Path, end: int | None) -> bytes:
    name = path.name
    try:
        with archive.Part(path, end) as file, zipfile.ZipFile(file) as package:
            if MEMBER not in package.namelist():
                raise JobFileError(f"{name} is a zip file but not a Molvik job.")
            if package.getinfo(MEMBER).file_size > LARGEST_BYTES:
                raise JobFileError(f"{name} unpacks to more than any job. It was not opened.")
            return package.read(MEMBER)
    except JobFileError:
        raise
    except FileNotFoundError as error:
        raise JobFileError(f"There is no file {name} there any more.") from error
    except IsADirectoryError as error:
        raise JobFileError(f"{name} is a folder, not a job.") from error
    except PermissionError as error:
        raise JobFileError(f"You may not read {name}. Ask its owner for permission.") from error
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
        raise _DamagedError(_not_a_zip(path)) from error
    except OSError as error:
        raise JobFileError(f"{name} cannot be read: {error.strerror or error}.") from error
    except Exception as error:  # zlib.error and the like: a damaged archive
        raise _DamagedError(_not_a_zip(path)) from error


def _not_a_zip(path: Path) -> str:
    with contextlib.suppress(OSError), path.open("rb") as file:
        start = file.read(4)
        if not start:
            return f"{path.name} is empty. Its last good version may be {path.name}~."
        if start == b"PK\x03\x04":
            return (
                f"{path.name} is damaged or cut short. It was left as it is; its last good "
                f"version may be beside it as {path.name}~: rename a copy of that and open it."
            )
    return f"{path.name} is not a Molvik job. To read a pinout table, use Import in Pinouts."


def no_photos(name: str) -> bytes | None:
    """Stand for the photos where there are none."""
    return None


def save_job(job: Job, path: Path, source: archive.PhotoSource | None = no_photos) -> None:
    """Write a job, with its photos from a source, or without them when there is no source.

    At every moment a whole version of it is on the disk; JobFileError says what went wrong.
    """
    names = () if source is None else tuple(dict.fromkeys(photo.file for photo in job.photos))
    try:
        archive.write_package(path, encode_job(job), names, source or no_photos)
    except OSError as error:
        raise JobFileError(_save_problem(path, error)) from error


def _save_problem(path: Path, error: OSError) -> str:
    reasons: dict[int | None, str] = {
        errno.ENOSPC: "the disk is full. Make room and save again, or save elsewhere",
        errno.EDQUOT: "your share of the disk is full. Make room, or save elsewhere",
        errno.EROFS: "the disk is read-only. Save elsewhere with Save as",
        errno.EACCES: "you may not write there. Save elsewhere with Save as",
        errno.EPERM: "you may not write there. Save elsewhere with Save as",
        errno.ENOENT: f"the folder {path.parent} is not there any more. Save elsewhere",
        errno.ENAMETOOLONG: "the name is too long. Save under a shorter one",
    }
    reason = reasons.get(error.errno, error.strerror or str(error))
    return f"{path.name} was not saved: {reason}. Nothing is lost: the job is still open."
