"""Jobs of earlier versions: a zip with ``job.json`` and photos. They open for ever.

Such a file was added to at its end, so one that was cut short may hold an older version of the job
that is whole. Whatever is whole in it is found, by its directory or, where that is lost, by the
header and the checksum of each member.
"""

import contextlib
import mmap
import struct
import zipfile
import zlib
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import IO, NamedTuple

from molvik.files.errors import DamagedError, JobFileError

MEMBER = "job.json"
LARGEST_JOB = 64_000_000
"""More than any job; what unpacks to more is not one. 5,000 wires are 3 MB."""

LARGEST_PHOTO = 50_000_000
"""More than any photo that was taken in: those are scaled down to under 3 MB."""

START = b"PK\x03\x04"
_END = b"PK\x05\x06"
_HEADER = struct.Struct("<4sHHHHHIIIHH")
_STREAMED = 0x08


class _Member(NamedTuple):
    """Where a member lies. at: of its data. when: it was written, local time."""

    name: str
    method: int
    at: int
    packed: int
    size: int
    crc: int
    when: datetime | None


class ZipJob:
    """A zip that is open. text: of its job. remark: what is wrong with the file, or empty.

    job: whether there must be one. Raises DamagedError when no job can be read, JobFileError when
    it is another kind of zip, OSError.
    """

    def __init__(self, path: Path, *, job: bool = True) -> None:
        self._file: IO[bytes] = path.open("rb")
        self._needs_job = job
        try:
            self._members, self.text, self.remark = self._look(path.name)
        except BaseException:
            self._file.close()
            raise

    @property
    def names(self) -> frozenset[str]:
        """The photos it holds."""
        return frozenset(self._members) - {MEMBER}

    def photo(self, name: str) -> bytes | None:
        """Return a photo's bytes, None when it is not there or not whole."""
        member = self._members.get(name)
        if member is None or name == MEMBER:
            return None
        with contextlib.suppress(OSError, ValueError):
            return self._read(member, LARGEST_PHOTO)
        return None

    def close(self) -> None:
        """Close the file."""
        self._file.close()

    def _look(self, name: str) -> tuple[dict[str, _Member], bytes, str]:
        listed: dict[str, _Member] = {}
        # A damaged directory fails in many ways.
        with contextlib.suppress(Exception), zipfile.ZipFile(self._file) as package:
            listed = {zip_info.filename: self._located(zip_info) for zip_info in package.infolist()}
        if listed and MEMBER not in listed:
            raise JobFileError(f"{name} is a zip file but not a Molvik job.")
        if MEMBER in listed and self._ends_with_directory():
            if listed[MEMBER].size > LARGEST_JOB:
                raise JobFileError(f"{name} unpacks to more than any job. It was not opened.")
            with contextlib.suppress(ValueError):
                return listed, self._read(listed[MEMBER], LARGEST_JOB), ""
        whole = dict(listed)
        text: bytes | None = None
        for member in self._scan():
            if member.name != MEMBER:
                whole[member.name] = member
                continue
            with contextlib.suppress(ValueError):
                text, whole[MEMBER] = self._read(member, LARGEST_JOB), member
        if text is None and not self._needs_job:
            return whole, b"", ""
        if text is None:
            photos = len(set(whole) - {MEMBER})
            found = f" {photos} photos in it are whole." if photos else ""
            raise DamagedError(
                f"{name} is damaged or cut short, and no job can be read in it.{found} It was left "
                "as it is."
            )
        when = whole[MEMBER].when
        saved = f"saved on {when:%d %b %Y at %H:%M}" if when else "found whole in it"
        remark = (
            f"{name} was cut short or damaged. This is the version {saved}; it may not be the "
            "newest. See what is missing, and save it: the damaged file is then kept beside it."
        )
        return whole, text, remark

    def _ends_with_directory(self) -> bool:
        """Return whether nothing follows the directory: what does is a save that was cut short."""
        size = self._file.seek(0, 2)
        self._file.seek(max(0, size - 65_557))
        tail = self._file.read()
        index = tail.rfind(_END)
        return index >= 0 and index + 22 + int.from_bytes(
            tail[index + 20 : index + 22], "little"
        ) == len(tail)

    def _located(self, info: zipfile.ZipInfo) -> _Member:
        self._file.seek(info.header_offset)
        head = _HEADER.unpack(self._file.read(_HEADER.size))
        at = info.header_offset + _HEADER.size + head[9] + head[10]
        when = None
        with contextlib.suppress(ValueError):
            when = datetime(*info.date_time)
        return _Member(
            info.filename,
            info.compress_type,
            at,
            info.compress_size,
            info.file_size,
            info.CRC,
            when,
        )

    def _scan(self) -> Iterator[_Member]:
        """Find the members by their headers, in the order in which they were written."""
        size = self._file.seek(0, 2)
        if size < _HEADER.size:
            return
        with mmap.mmap(self._file.fileno(), 0, access=mmap.ACCESS_READ) as view:
            index = view.find(START)
            while 0 <= index <= size - _HEADER.size:
                member, after = self._header(view, index)
                if member is not None:
                    yield member
                index = view.find(START, after)

    def _header(self, view: mmap.mmap, index: int) -> tuple[_Member | None, int]:
        """Return the member whose header begins here, if it is one of ours, and where to go on."""
        head = _HEADER.unpack(view[index : index + _HEADER.size])
        _, _, flags, method, time, date, crc, packed, full, name_length, extra = head
        begins = index + _HEADER.size
        name = view[begins : begins + name_length].decode("utf-8", "replace")
        data = begins + name_length + extra
        ours = name == MEMBER or name.startswith("photos/")
        if not ours or flags & _STREAMED or method not in (0, 8) or data + packed > len(view):
            return None, index + 4
        member = _Member(name, method, data, packed, full, crc, _dos_time(date, time))
        if name != MEMBER and not self._is_whole(member, view):
            return None, index + 4
        return member, data + packed

    def _is_whole(self, member: _Member, view: mmap.mmap) -> bool:
        if member.method == 0 and member.packed == member.size <= LARGEST_PHOTO:
            return zlib.crc32(view[member.at : member.at + member.packed]) == member.crc
        with contextlib.suppress(ValueError):
            return self._read(member, LARGEST_PHOTO) is not None
        return False

    def _read(self, member: _Member, most: int) -> bytes:
        """Return what a member holds; ValueError when it is not whole, or larger than most."""
        if member.packed > most or member.method not in (0, 8):
            raise ValueError("too large, or packed in a way that is not ours")
        self._file.seek(member.at)
        data = self._file.read(member.packed)
        if member.method == 8:
            data = unpack(data, most, -zlib.MAX_WBITS)
        if len(data) != member.size or zlib.crc32(data) != member.crc:
            raise ValueError("not whole")
        return data


def unpack(data: bytes, most: int, bits: int = zlib.MAX_WBITS) -> bytes:
    """Return unpacked data; ValueError when it is not whole or comes to more than most bytes."""
    packed = zlib.decompressobj(bits)
    try:
        plain = packed.decompress(data, most + 1)
    except zlib.error as error:
        raise ValueError("not whole") from error
    if len(plain) > most or not packed.eof:
        raise ValueError("too large, or not whole")
    return plain


def _dos_time(date: int, time: int) -> datetime | None:
    try:
        return datetime(
            (date >> 9) + 1980,
            date >> 5 & 15,
            date & 31,
            time >> 11,
            time >> 5 & 63,
            (time & 31) * 2,
        )
    except ValueError:
        return None
