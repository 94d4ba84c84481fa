"""Who has a job open: a lock that ends with the process, so that a crash leaves none behind."""

import fcntl
import hashlib
import os
from pathlib import Path
from typing import IO

from molvik.files.places import state_folder


class Lock:
    """An exclusive lock on a name, held until released or until the process ends."""

    def __init__(self, file: IO[str] | None) -> None:
        self._file = file

    @classmethod
    def take(cls, path: Path) -> "Lock | None":
        """Return a lock on a lock file, or None when another holds it. Raises OSError."""
        file = path.open("a")
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            file.close()
            return None
        return cls(file)

    def release(self) -> None:
        """Let go of it."""
        if self._file is not None:
            self._file.close()


def lock_job(path: Path) -> Lock | None:
    """Return the lock on a job file, None when another window or command has it.

    The lock lies in the user's own state folder, so that jobs in read-only folders can be opened.
    Where that folder cannot be written there is no lock, and changes from outside are still noticed
    when the job is saved.
    """
    name = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:32]
    try:
        return Lock.take(state_folder("locks") / name)
    except OSError:
        return Lock(None)
