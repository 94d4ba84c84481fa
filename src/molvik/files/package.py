"""The job package: ``NAME.molvik``, a zip with ``job.json`` inside.

A save writes a temporary file beside the job, syncs it and renames it over the old one; the last
good version stays beside it as ``NAME.molvik~``. A file that cannot be read is left as it was.
"""

import contextlib
import errno
import os
import shutil
import tempfile
import zipfile
from collections import Counter
from datetime import datetime
from pathlib import Path

import msgspec

from molvik import __version__
from molvik.model import loom_edits
from molvik.model.edits import EditError
from molvik.model.job import SCHEMA_VERSION, Job
from molvik.pinouts.geometry import grid_problem

SUFFIX = ".molvik"
MEMBER = "job.json"
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
    airs = [(wire.code, wire.ambient_c) for wire in job.wires if wire.ambient_c is not None]
    for code, air_c in [*airs, ("the job", job.settings.ambient_c)]:
        if not -100 <= air_c <= 500:
            problem = problem or f"{code} has an air temperature of {air_c:g} °C"
    if not 0 <= job.settings.stagger_m <= 10:
        problem = problem or f"joints are {job.settings.stagger_m:g} m apart"
    problem = problem or _loom_problem(job) or _time_problem(job) or _stock_problem(job)
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
    for text in times:
        try:
            if datetime.fromisoformat(text).tzinfo is None:
                return f"the time {text} has no UTC offset"
        except ValueError:
            return f"“{text}” is no time"
    return ""


def open_job(path: Path) -> Job:
    """Read a job; JobFileError says in words what is wrong with the file."""
    name = path.name
    try:
        with zipfile.ZipFile(path) as package:
            if MEMBER not in package.namelist():
                raise JobFileError(f"{name} is a zip file but not a Molvik job.")
            if package.getinfo(MEMBER).file_size > LARGEST_BYTES:
                raise JobFileError(f"{name} unpacks to more than any job. It was not opened.")
            data = package.read(MEMBER)
    except JobFileError:
        raise
    except FileNotFoundError as error:
        raise JobFileError(f"There is no file {name} there any more.") from error
    except IsADirectoryError as error:
        raise JobFileError(f"{name} is a folder, not a job.") from error
    except PermissionError as error:
        raise JobFileError(f"You may not read {name}. Ask its owner for permission.") from error
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
        raise JobFileError(_not_a_zip(path)) from error
    except OSError as error:
        raise JobFileError(f"{name} cannot be read: {error.strerror or error}.") from error
    except Exception as error:  # zlib.error and the like: a damaged archive
        raise JobFileError(_not_a_zip(path)) from error
    return decode_job(data, name)


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


def save_job(job: Job, path: Path) -> None:
    """Write a job so that at every moment a whole version of it is on the disk."""
    temporary: Path | None = None
    try:
        # Follow a link, so that the file it points to is replaced and not the link.
        path = path.resolve()
        handle, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as package:
                package.writestr(MEMBER, encode_job(job))
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            if not os.access(path, os.W_OK):
                raise PermissionError(errno.EACCES, "read-only")
            os.chmod(temporary, path.stat().st_mode & 0o777)
            _keep_last_good(path)
        else:
            os.chmod(temporary, 0o666 & ~_umask())
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except OSError as error:
        raise JobFileError(_save_problem(path, error)) from error
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)


def _keep_last_good(path: Path) -> None:
    """Put the version on the disk beside itself as NAME~, whole at every moment too."""
    part = path.with_name(f".{path.name}~.part")
    part.unlink(missing_ok=True)
    try:
        os.link(path, part)
    except OSError:  # a file system without hard links
        shutil.copy2(path, part)
    os.replace(part, path.with_name(f"{path.name}~"))


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


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
