"""What a save that was killed left beside a job: whether it is of this file, what it is good for,
and taking it away when the job is saved. SQLite itself never sees it (``onefile``).
"""

import contextlib
import os
import tempfile
from pathlib import Path
from typing import NamedTuple

import apsw

from molvik.files import contents, database
from molvik.files.database import Database
from molvik.files.journal import (
    ForeignJournalError,
    Journal,
    belongs,
    journal_of,
    parse,
    put_back,
    read_journal,
    set_aside,
)
from molvik.files.onefile import locked
from molvik.files.writing import sync_folder

HEADER_BYTES = 100


class CutOff(NamedTuple):
    """A journal beside a job. words: for the user, empty where there is nothing to tell.

    journal: what is to be put back before the job is whole, None for nothing. ours: it is of the
    save that made the file what it is, and can go with it. digest: of what was looked at.
    """

    words: str
    journal: Journal | None
    ours: bool
    digest: bytes


def cut_off(there: Database) -> CutOff | None:
    """Look at the journal beside a file that nobody changes meanwhile; None when there is none, or
    it is of a save that goes on.

    It is put back only where that makes more of the job whole than there is without it: a journal
    does not say which file it belongs to, and the file may be another by now, a backup that was
    put back over the damaged one. Raises OSError, apsw.Error.
    """
    path = journal_of(there.path)
    try:
        data = read_journal(path, there.size())
        if data is None or there.is_being_written:
            return None
        journal = parse(data)
        if not belongs(journal, there.bytes_at(0, HEADER_BYTES), there.size()):
            raise ForeignJournalError("it is of another state of the file")
    except ForeignJournalError as error:
        return CutOff(_foreign(path, error), None, ours=False, digest=b"")
    digest = contents.digest(data)
    stands = _worth(there)
    if stands.whole:
        return CutOff("", None, ours=True, digest=digest)
    with tempfile.TemporaryDirectory(prefix="molvik-") as folder:
        copy = Path(folder) / "job"
        there.written_to(copy)
        put_back_in(journal, copy)
        with contextlib.suppress(apsw.Error), Database(copy, write=False) as before:
            if _worth(before) > stands:
                return CutOff("", journal, ours=True, digest=digest)
    either = ForeignJournalError("the file is not whole with it either")
    return CutOff(_foreign(path, either), None, ours=False, digest=digest)


def _foreign(path: Path, why: ForeignJournalError) -> str:
    return (
        f"{path.name} lies beside it, as a save leaves it that was cut off, but it is not of this "
        f"file: {why}. It was not used, and is set aside as {path.name}~ when the job is saved."
    )


def _worth(there: Database) -> contents.Worth:
    try:
        database.check_kind(there)
        return contents.worth(there)
    except apsw.Error:
        return contents.Worth(job=False, photos=0, whole=False)


def put_back_in(journal: Journal, path: Path) -> None:
    """Undo a save in a file of our own. Raises OSError."""
    with path.open("r+b") as file:

        def write(data: bytes, at: int) -> None:
            file.seek(at)
            file.write(data)

        put_back(journal, write, file.truncate)


def settle(path: Path, left: CutOff) -> None:
    """Take away what was looked at, before the file is changed: put back, or set aside.

    What lies there now and was not looked at stays. Raises apsw.Error, OSError.
    """
    journal = journal_of(path)
    with locked(path, database.BUSY_MS / 1000, alone=True) as file:
        if not left.ours:
            set_aside(journal)
            return
        with contextlib.suppress(ForeignJournalError):
            data = read_journal(journal)
            if data is not None and contents.digest(data) == left.digest:
                if left.journal is not None:
                    put_back(left.journal, file.xWrite, file.xTruncate)
                    file.xSync(apsw.SQLITE_SYNC_FULL)
                os.unlink(journal)
                sync_folder(path.parent)
