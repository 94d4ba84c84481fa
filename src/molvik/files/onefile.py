"""What SQLite may touch while a job is open: that one file, and while it saves the journal that it
makes itself.

SQLite acts on whatever lies beside a database before the first question is asked: a journal is
rolled back and deletes the file that it names, a write-ahead log is taken over, shared memory is
made. Here it is given a file system in which nothing else lies (https://www.sqlite.org/vfs.html).
"""

import contextlib
import itertools
import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import apsw

_numbers = itertools.count(1)

AGAIN_S = 0.01


def is_sayable(name: str) -> bool:
    """Return whether SQLite can be told a name: names of files may be any bytes."""
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True


class OneFile(apsw.VFS):
    """A file system with one file in it. write: it may be changed, with a journal that is new.

    lasting: nobody changes it meanwhile, so no locks are taken and nothing is asked about them.
    """

    def __init__(self, path: Path, *, write: bool, lasting: bool = False) -> None:
        self._write, self._lasting = write, lasting
        self._folder: int | None = None
        self.path = self._name_of(path)
        self.journal = f"{self.path}-journal"
        self.file: _File | None = None
        self.name = f"molvik-{next(_numbers)}"
        super().__init__(self.name, base="unix")

    def _name_of(self, path: Path) -> str:
        """Return a name that SQLite can be told, in UTF-8; the folder's own may be none."""
        if is_sayable(str(path)):
            return str(path)
        if not is_sayable(path.name):
            raise apsw.CantOpenError("its name is not in UTF-8")
        self._folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        return f"/proc/self/fd/{self._folder}/{path.name}"

    def let_go(self) -> None:
        """No connection uses it any more."""
        self.unregister()
        if self._folder is not None:
            os.close(self._folder)
            self._folder = None

    def xFullPathname(self, name: str) -> str:
        """Return a name as it is: links were followed before."""
        return name

    def xAccess(self, pathname: str, flags: int) -> bool:
        """Say that nothing lies beside the file: neither journal nor log, nor what they name."""
        return False

    def xDelete(self, filename: str, syncdir: bool) -> None:
        """Delete the journal of a save that is done, and nothing else. Raises PermissionsError."""
        if not self._write or filename != self.journal:
            raise apsw.PermissionsError("only the journal of a save is deleted")
        super().xDelete(filename, syncdir)

    def xOpen(self, name: "str | apsw.URIFilename | None", flags: list[int]) -> apsw.VFSFile:
        """Open the file, the journal of a save, or a nameless file to sort in.
        Raises CantOpenError.
        """
        wanted = name.filename() if isinstance(name, apsw.URIFilename) else name
        if wanted is None and self._write:
            return apsw.VFSFile("unix", None, flags)
        if wanted == self.path and flags[0] & apsw.SQLITE_OPEN_MAIN_DB:
            self.file = _File(name, flags, lasting=self._lasting)
            return self.file
        if wanted == self.journal and self._write:
            # A new one: what lies there by now was put there by somebody else.
            new = [flags[0] | apsw.SQLITE_OPEN_EXCLUSIVE, flags[1]]
            return apsw.VFSFile("unix", wanted, new)
        raise apsw.CantOpenError(f"not a part of the job: {wanted}")


class _File(apsw.VFSFile):
    def __init__(self, name: Any, flags: list[int], *, lasting: bool) -> None:
        self._lasting = lasting
        super().__init__("unix", name, flags)

    def xDeviceCharacteristics(self) -> int:
        """Say of a file that lasts that it does not change."""
        known = super().xDeviceCharacteristics()
        return known | apsw.SQLITE_IOCAP_IMMUTABLE if self._lasting else known


@contextlib.contextmanager
def locked(path: Path, wait_s: float, *, alone: bool = False) -> Iterator[apsw.VFSFile]:
    """Let nobody change a file who locks it as SQLite does; alone: nor read it. It may be no whole
    database. Raises apsw.BusyError when somebody else has it for so long.
    """
    mode = apsw.SQLITE_OPEN_READWRITE if alone else apsw.SQLITE_OPEN_READONLY
    only = OneFile(path, write=False)
    try:
        file = apsw.VFSFile("unix", only.path, [apsw.SQLITE_OPEN_MAIN_DB | mode, 0])
        try:
            wanted = [apsw.SQLITE_LOCK_SHARED]
            if alone:
                wanted += [apsw.SQLITE_LOCK_RESERVED, apsw.SQLITE_LOCK_EXCLUSIVE]
            ends = time.monotonic() + wait_s
            while wanted:
                try:
                    file.xLock(wanted[0])
                    del wanted[0]
                except apsw.BusyError:
                    if time.monotonic() > ends:
                        raise
                    time.sleep(AGAIN_S)
            yield file
        finally:
            file.xUnlock(apsw.SQLITE_LOCK_NONE)
            file.xClose()
    finally:
        only.let_go()
