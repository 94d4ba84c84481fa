"""Who has a job open: a lock that ends with the process, so that a crash leaves none behind."""

import fcntl
import hashlib
from pathlib import Path
from typing import IO

from molvik.files.places import state_folder


class Lock:
    """An exclusive lock on a name, held until released or until the process ends."""

    def __init__(self, file: IO[str]) -> None:
        self._file = file

    @classmethod
    def take(cls, path: Path) -> "Lock | None":
        """Return a lock on a lock file, or None when another window holds it."""
        file = path.open("a")
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            file.close()
            return None
        return cls(file)

    def release(self) -> None:
        """Let go of it."""
        self._file.close()


def lock_job(path: Path) -> Lock | None:
    """Return the lock on a job file, None when it is open in another window.

    The lock lies in the user's own state folder, so that jobs in read-only folders can be opened.
    """
    name = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:32]
    return Lock.take(state_folder("locks") / name)
