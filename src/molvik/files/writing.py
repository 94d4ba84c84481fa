"""Writing files: whole or not at all, to regular files only, what was there set aside."""

import contextlib
import errno
import os
import shutil
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from molvik.files.errors import JobFileError

PART = ".molvik-part"
"""Ends the names of files that are being written; one that was left behind can be removed."""


def regular_target(path: Path) -> Path:
    """Return the file that is to be written, links followed; refuse what is not a regular file.
    Raises JobFileError.
    """
    try:
        real = path.resolve()
        kind = real.stat().st_mode
    except FileNotFoundError:
        return real
    except (OSError, RuntimeError, ValueError) as error:  # a loop of links, a NUL in the name
        raise JobFileError(f"{path} cannot be written: {reason(error)}.") from error
    if stat.S_ISDIR(kind):
        raise JobFileError(f"{path} is a folder. Name a file in it.")
    if not stat.S_ISREG(kind):
        raise JobFileError(f"{path} is a device or a pipe, not a file. Name another.")
    return real


def small_file(path: Path, most: int = 1_000_000) -> bytes:
    """Return what a small regular file holds. Raises OSError for what is none."""
    known = path.stat()
    if not stat.S_ISREG(known.st_mode):
        raise OSError(errno.EINVAL, "it is a folder, a device or a pipe")
    if known.st_size > most:
        raise OSError(errno.EFBIG, f"it is larger than {most / 1e6:.0f} MB")
    return path.read_bytes()


def reason(error: BaseException) -> str:
    """Return why something went wrong with a file, as the system says it."""
    if (isinstance(error, OSError) and error.errno == errno.ELOOP) or isinstance(
        error, RuntimeError
    ):
        return "it is a link that leads back to itself"
    words = error.strerror if isinstance(error, OSError) else None
    return words or str(error) or type(error).__name__


@contextmanager
def written_whole(
    path: Path, *, keep: bool = False, new: bool = False, private: bool = False
) -> Iterator[Path]:
    """Give a file to write beside path; it takes the place of path when the block ends well.

    The rights of the file it replaces are kept. keep: that file itself is kept too, set aside.
    new: there is none; FileExistsError when there is one by then. private: nobody else reads it.
    Raises OSError.
    """
    handle, name = tempfile.mkstemp(prefix=_beginning(path), suffix=PART, dir=path.parent)
    os.close(handle)
    part = Path(name)
    try:
        yield part
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        if not private:
            with contextlib.suppress(FileNotFoundError):
                os.chmod(part, path.stat().st_mode & 0o777)
            if not path.exists():
                os.chmod(part, 0o666 & ~_umask())
        if keep and path.exists():
            set_aside(path)
        if new:
            _appear(part, path)
        else:
            os.replace(part, path)
        sync_folder(path.parent)
    finally:
        for left in (part, part.with_name(f"{part.name}-journal")):
            with contextlib.suppress(OSError):
                left.unlink(missing_ok=True)


def _beginning(path: Path) -> str:
    """Return how the names begin of what a file is written in. In UTF-8, whatever its own is in."""
    return f".{os.fsencode(path.name).decode('utf-8', 'replace')[:100]}."


def _appear(part: Path, path: Path) -> None:
    """Give a file its name. Raises FileExistsError when another has it by now, OSError."""
    try:
        os.link(part, path)
    except FileExistsError:
        raise
    except OSError:  # a file system without hard links
        if os.path.lexists(path):
            raise FileExistsError(errno.EEXIST, "it is there by now") from None
        os.replace(part, path)


def write_file(path: Path, data: bytes) -> None:
    """Write a file whole or not at all; JobFileError says why not."""
    real = regular_target(path)
    try:
        with written_whole(real) as part:
            part.write_bytes(data)
    except OSError as error:
        raise JobFileError(
            f"{path} was not written: {reason(error)}. Choose another folder."
        ) from error


def set_aside(path: Path) -> Path:
    """Keep a file under a name of its own, NAME~ or NAME~2 and so on, never one that is taken.

    The file itself stays where it is, so that at every moment a whole one is there. Raises OSError.
    """
    for number in range(1, 10_000):
        aside = path.with_name(f"{path.name}~{number if number > 1 else ''}")
        try:
            os.link(path, aside)
        except FileExistsError:
            if os.path.samefile(path, aside):
                return aside
            continue
        except OSError:  # a file system without hard links
            if aside.exists():
                continue
            part = aside.with_name(f".{aside.name}{PART}")
            shutil.copy2(path, part)
            os.replace(part, aside)
        return aside
    raise OSError(errno.EEXIST, "too many copies lie beside it already")


def clear_leftovers(path: Path) -> None:
    """Remove what saves of this file left behind that were killed. Its lock must be held."""
    start, old = _beginning(path), f".{path.name}~.part"
    with contextlib.suppress(OSError):
        for other in path.parent.iterdir():
            name = other.name
            ours = name.startswith(start) and (PART in name[len(start) :] or name.endswith(".part"))
            if (ours or name == old) and stat.S_ISREG(other.lstat().st_mode):
                with contextlib.suppress(OSError):
                    other.unlink()


def sync_folder(folder: Path) -> None:
    """Have a folder's entries on the disk."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
