"""The zip a job lies in, written so that at every moment a whole version of it is on the disk.

Without photos, or with few, a save writes a new file beside the old one and renames it over it.
Photos make a package large, and writing them anew for each note would take seconds: such a package
is added to at its end. The new ``job.json`` and new photos come after the whole old file, then a
new directory that lists them and the photos already there. Until that directory is complete the
old one still holds, so a save that was cut short loses only itself (``whole_end`` finds the old
one). What is no longer listed is dead weight; when there is much of it, the file is written anew.
"""

import contextlib
import errno
import io
import mmap
import os
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Collection
from pathlib import Path

MEMBER = "job.json"

APPEND_FROM_BYTES = 1_000_000
"""With less than this in photos, writing all of it anew is quick enough."""

LEAST_DEAD_BYTES = 8_000_000
"""Dead weight that is never worth writing a file anew for; above it, a quarter of the file is."""

_END_OF_DIRECTORY = b"PK\x05\x06"
_MOST_TRIES = 200

PhotoSource = Callable[[str], bytes | None]
"""Returns the bytes of a photo by its name, None when it is nowhere to be found."""


class Part(io.RawIOBase):
    """The first bytes of a file, as a file; without an end, all of it."""

    def __init__(self, path: Path, end: int | None = None) -> None:
        self._file = path.open("rb")
        self._end = os.fstat(self._file.fileno()).st_size if end is None else end

    def readable(self) -> bool:
        """Yes."""
        return True

    def seekable(self) -> bool:
        """Yes."""
        return True

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        """Go to a place."""
        if whence == os.SEEK_END:
            offset, whence = self._end + offset, os.SEEK_SET
        return self._file.seek(offset, whence)

    def tell(self) -> int:
        """Return the place."""
        return self._file.tell()

    def read(self, size: int | None = -1) -> bytes:
        """Read no further than the end."""
        left = max(0, self._end - self._file.tell())
        return self._file.read(left if size is None or size < 0 else min(size, left))

    def close(self) -> None:
        """Close the file."""
        self._file.close()
        super().close()


def read_member(path: Path, name: str, end: int | None = None) -> bytes:
    """Return a member of a package. end: take only so many bytes of the file for the package.

    Raises KeyError without such a member, zipfile.BadZipFile, zlib.error or OSError.
    """
    with Part(path, end) as source, zipfile.ZipFile(source) as package:
        return package.read(name)


def photos_in(path: Path) -> list[str]:
    """Return the names of the photos in a package, none when it is no whole package."""
    with contextlib.suppress(OSError, zipfile.BadZipFile), zipfile.ZipFile(path) as package:
        return [name for name in package.namelist() if name != MEMBER]
    return []


def whole_end(path: Path) -> int | None:
    """Return where the last whole version in a damaged file ends, None when there is none.

    Raises OSError.
    """
    with path.open("rb") as file:
        if os.fstat(file.fileno()).st_size == 0:
            return None
        with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as view:
            at = len(view)
            for _ in range(_MOST_TRIES):
                at = view.rfind(_END_OF_DIRECTORY, 0, at)
                if at < 0:
                    return None
                end = at + 22  # the length of an end record without a comment; ours have none
                with contextlib.suppress(Exception):  # photos may hold the same four bytes
                    read_member(path, MEMBER, end)
                    return end
    return None


def write_package(path: Path, job: bytes, photos: Collection[str], source: PhotoSource) -> None:
    """Write a package. photos: names of the pictures it is to hold, of which those already in the
    file stay where they are. Raises OSError.
    """
    path = path.resolve()  # a link stays a link: the file it points to is written
    if path.exists() and not os.access(path, os.W_OK):
        raise PermissionError(errno.EACCES, "read-only")
    if not _append(path, job, photos, source):
        _replace(path, job, photos, source)


def _append(path: Path, job: bytes, photos: Collection[str], source: PhotoSource) -> bool:
    """Add to the end of a package with photos; say no when that is not the thing to do."""
    if not photos or not path.exists():
        return False
    size = path.stat().st_size
    try:
        with zipfile.ZipFile(path) as package:
            members = {one.filename: one for one in package.infolist()}
            old_job = package.read(MEMBER)
    except Exception:  # damaged: written anew, as a whole
        return False
    kept = sum(members[name].compress_size for name in photos if name in members)
    dead = size - kept
    if kept < APPEND_FROM_BYTES or dead > max(LEAST_DEAD_BYTES, kept / 4):
        return False
    _keep_job(path, old_job)
    try:
        with path.open("r+b") as file:
            with zipfile.ZipFile(file, "a", zipfile.ZIP_DEFLATED) as package:
                # What follows is written behind the old directory, which stays good until then.
                package.start_dir = size
                for gone in [one for one in package.filelist if one.filename not in photos]:
                    package.filelist.remove(gone)
                    del package.NameToInfo[gone.filename]
                _write(package, job, [name for name in photos if name not in members], source)
            file.flush()
            os.fsync(file.fileno())
    except BaseException:
        os.truncate(path, size)  # once it is closed: closing it may still write
        raise
    return True


def _replace(path: Path, job: bytes, photos: Collection[str], source: PhotoSource) -> None:
    temporary: Path | None = None
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        temporary = Path(name)
        with os.fdopen(handle, "wb") as file:
            with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as package:
                _write(package, job, photos, source)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            os.chmod(temporary, path.stat().st_mode & 0o777)
            _keep_last_good(path)
        else:
            os.chmod(temporary, 0o666 & ~_umask())
        os.replace(temporary, path)
        _sync_folder(path.parent)
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)


def _write(
    package: zipfile.ZipFile, job: bytes, photos: Collection[str], source: PhotoSource
) -> None:
    for name in photos:
        picture = source(name)
        if picture is not None:
            package.writestr(name, picture, zipfile.ZIP_STORED)  # a JPEG is packed already
    package.writestr(MEMBER, job)


def _keep_last_good(path: Path) -> None:
    """Put the version on the disk beside itself as NAME~, whole at every moment too."""
    part = path.with_name(f".{path.name}~.part")
    part.unlink(missing_ok=True)
    try:
        os.link(path, part)
    except OSError:  # a file system without hard links
        shutil.copy2(path, part)
    os.replace(part, path.with_name(f"{path.name}~"))


def _keep_job(path: Path, old_job: bytes) -> None:
    """Put the last version beside it as NAME~, without the photos, which stay in NAME."""
    part = path.with_name(f".{path.name}~.part")
    with part.open("wb") as file:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as package:
            package.writestr(MEMBER, old_job)
        file.flush()
        os.fsync(file.fileno())
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
