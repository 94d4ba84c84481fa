"""A file held still while another takes its place: nobody else saves there meanwhile."""

import contextlib
import errno
import fcntl
import os
import time
from collections.abc import Iterator
from pathlib import Path

import apsw

from molvik.files.database import BUSY_MS, START, Database

AGAIN_S = 0.02


@contextlib.contextmanager
def held_still(path: Path) -> Iterator[None]:
    """Let nobody else write a file, or put another in its place, who asks as we do; a database is
    locked as SQLite does. Raises OSError: of errno EBUSY when another has it for long.
    """
    handle = _locked(path)
    try:
        with contextlib.ExitStack() as held:
            if os.pread(handle, len(START), 0) == START:
                # One that is damaged, or that may not be written, has no lock to be had.
                try:
                    held.enter_context(_changing(path))
                except apsw.BusyError:
                    raise
                except apsw.Error:
                    pass
            yield
    finally:
        os.close(handle)


@contextlib.contextmanager
def _changing(path: Path) -> Iterator[None]:
    with Database(path, write=True) as there, there.changing():
        yield


def _locked(path: Path) -> int:
    """Return the file open, and locked."""
    ends = time.monotonic() + BUSY_MS / 1000
    while True:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if os.path.samestat(os.fstat(handle), os.stat(path)):
                return handle  # else it was replaced before it was locked
        except BlockingIOError:
            pass
        except BaseException:
            os.close(handle)
            raise
        os.close(handle)
        if time.monotonic() > ends:
            raise OSError(errno.EBUSY, "another program is writing it")
        time.sleep(AGAIN_S)
