"""The journal that a killed save leaves beside a job: read here, never by SQLite.

Its format is published: https://www.sqlite.org/fileformat2.html, "The Rollback Journal".
A journal holds pages as they were before the save. It says nothing of the file it belongs to, so
it is put back only where the file is not whole without it and is whole with it.
"""

import contextlib
import errno
import os
import stat
import struct
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

MAGIC = bytes.fromhex("d9d505f920a163d7")
_HEADER = struct.Struct(">8sIIIII")
_ALL = 0xFFFFFFFF
"""As the number of records: as many as there are."""

LARGEST = 400_000_000
"""No save changes more than that, nor more than the file."""


class Journal(NamedTuple):
    """pages: their bytes before the save, by number from 1. size: of the file then, pages."""

    page_bytes: int
    size: int
    pages: dict[int, bytes]

    def counter(self) -> int | None:
        """Return how often the file had been changed before the save, None where it does not
        say.
        """
        first = self.pages.get(1)
        return None if first is None else change_counter(first)


class ForeignJournalError(ValueError):
    """What lies there is no journal of a save of ours; the text says why."""


def journal_of(path: Path) -> Path:
    """Return where SQLite has the journal of a file."""
    return path.with_name(f"{path.name}-journal")


def change_counter(first_page: bytes) -> int:
    """Return how often a database was changed, by its first page."""
    return int.from_bytes(first_page[24:28], "big")


def read_journal(path: Path, file_bytes: int = LARGEST) -> bytes | None:
    """Return what a journal holds, None when there is none or it was given up by its writer.

    file_bytes: the size of the file it may be of.

    Raises ForeignJournalError for what is not a regular file, OSError.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    except FileNotFoundError:
        return None
    except OSError as error:
        if error.errno in (errno.ELOOP, errno.ENXIO):  # a link, a socket
            raise ForeignJournalError("it is not a regular file") from error
        if error.errno == errno.EACCES:
            raise ForeignJournalError("no permission to read it") from error
        raise
    try:
        known = os.fstat(handle)
        if not stat.S_ISREG(known.st_mode):
            raise ForeignJournalError("it is not a regular file")
        most = min(LARGEST, file_bytes + file_bytes // 4 + 1_000_000)
        if known.st_size > most:
            raise ForeignJournalError("it is larger than any save")
        with open(handle, "rb", closefd=False) as file:
            data = file.read(most)
    finally:
        os.close(handle)
    # SQLite takes an empty one, and one whose first bytes were wiped, for given up.
    return data if data[:1].strip(b"\0") else None


def parse(data: bytes) -> Journal:
    """Return what a journal puts back. Raises ForeignJournalError."""
    if len(data) < _HEADER.size or data[:8] != MAGIC:
        raise ForeignJournalError("it is not a journal")
    if data[-8:] == MAGIC and len(data) > 512:
        # Such a tail names a file that SQLite would delete. No save of a job writes one.
        raise ForeignJournalError("it names another file")
    at, size, page_bytes = 0, -1, 0
    pages: dict[int, bytes] = {}
    while at + _HEADER.size <= len(data) and data[at : at + 8] == MAGIC:
        _, count, nonce, first_size, sector, this = _HEADER.unpack_from(data, at)
        if this not in (512 << n for n in range(8)) or sector not in (32 << n for n in range(12)):
            raise ForeignJournalError("its sizes are none of a database")
        if size < 0:
            size, page_bytes = first_size, this
        elif this != page_bytes:
            raise ForeignJournalError("it changes its mind on the size of a page")
        at += sector
        record = 8 + page_bytes
        whole = max(0, (len(data) - at) // record)
        for _ in range(whole if count == _ALL else min(count, whole)):
            number = int.from_bytes(data[at : at + 4], "big")
            page = data[at + 4 : at + 4 + page_bytes]
            told = int.from_bytes(data[at + 4 + page_bytes : at + record], "big")
            if number == 0 or told != _checksum(nonce, page):
                return Journal(page_bytes, size, pages)  # what follows was never on the disk
            if number <= size:
                pages.setdefault(number, page)
            at += record
        at = -(-at // sector) * sector
    return Journal(page_bytes, size, pages)


def _checksum(nonce: int, page: bytes) -> int:
    """Return a page's checksum: every two hundredth byte from the end, and the header's number."""
    return (nonce + sum(page[at] for at in range(len(page) - 200, 0, -200))) & 0xFFFFFFFF


def belongs(journal: Journal, first_page: bytes, file_bytes: int) -> bool:
    """Return whether a journal may be of the save that left a file as it is.

    first_page: of the file, at least its header of 100 bytes.
    """
    size = int.from_bytes(first_page[16:18], "big")
    if journal.page_bytes != (65_536 if size == 1 else size):
        return False
    if file_bytes < journal.size * journal.page_bytes:
        return False  # a save makes a file longer, never shorter
    before = journal.counter()
    now = change_counter(first_page)
    return before is None or now in (before, (before + 1) & 0xFFFFFFFF)


def put_back(
    journal: Journal, write: Callable[[bytes, int], object], truncate: Callable[[int], object]
) -> None:
    """Undo a save in a file that nobody else has. write: bytes at a place; truncate: to a size."""
    for number, page in journal.pages.items():
        write(page, (number - 1) * journal.page_bytes)
    truncate(journal.size * journal.page_bytes)


def clear_given_up(journal: Path) -> bool:
    """Delete a journal that its writer gave up, or that never counted: it was not on the disk
    before the file was touched. Say whether the way is free.

    Whoever asks has the file's lock. Raises OSError.
    """
    try:
        if read_journal(journal) is not None:
            return False
    except ForeignJournalError:
        return False
    with contextlib.suppress(FileNotFoundError):
        journal.unlink()
    return True


def set_aside(journal: Path) -> Path | None:
    """Keep a journal under a name that no program takes for one; None when there is none.

    Raises OSError.
    """
    for number in range(1, 10_000):
        aside = journal.with_name(f"{journal.name}~{number if number > 1 else ''}")
        if os.path.lexists(aside):
            continue
        with contextlib.suppress(FileNotFoundError):
            os.rename(journal, aside)
            return aside
        return None
    raise OSError(errno.EEXIST, "too many journals lie beside it already")
