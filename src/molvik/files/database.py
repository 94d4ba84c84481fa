"""A job file opened as an SQLite database: its tables, and SQLite held to them.

A file may come from anywhere. What SQLite would do because of what is in it, or beside it, is shut
off here; ``onefile`` says what it can touch. Raises apsw.Error and OSError; ``jobfile`` makes words
for the user of them.
"""

import contextlib
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

import apsw

from molvik.files.onefile import OneFile, locked
from molvik.files.zipjob import LARGEST_JOB

START = b"SQLite format 3\0"
APPLICATION_ID = int.from_bytes(b"Mlvk", "big")
FILE_VERSION = 2
"""``user_version``: of the tables below. Version 1 was the zip; the text has a version too."""

PAGE_BYTES = 16_384
"""Large pages: a check of 600 MB of photos takes 0.14 s instead of 0.31 s with pages of 4 kB."""

TABLES = {
    "job": "CREATE TABLE job (id INTEGER PRIMARY KEY CHECK (id = 1), version INTEGER NOT NULL, "
    "sha256 BLOB NOT NULL, text TEXT NOT NULL)",
    "versions": "CREATE TABLE versions (id INTEGER PRIMARY KEY, at TEXT NOT NULL, "
    "name TEXT NOT NULL, sha256 BLOB NOT NULL, packed BLOB NOT NULL)",
    "photos": "CREATE TABLE photos (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, "
    "sha256 BLOB NOT NULL, data BLOB NOT NULL)",
    "shown": "CREATE TABLE shown (version INTEGER NOT NULL, photo INTEGER NOT NULL, "
    "PRIMARY KEY (version, photo)) WITHOUT ROWID",
}
"""job: the newest version as plain text. versions: each version, that one too, packed with zlib.
shown: which version shows which photo.
"""

BRANCH = 5
"""How a page of a table begins that leads to others, https://www.sqlite.org/fileformat2.html."""

CHUNK_BYTES = 1 << 20

BUSY_MS = 5000
"""So long a file is waited for that another program is changing."""

Value = int | str | bytes


class ForeignError(apsw.Error):
    """A database, but not a job."""


class NewerError(apsw.Error):
    """A job in tables of a newer Molvik."""


class NotWholeError(apsw.Error):
    """A job that is damaged, or cut short."""


class Database:
    """A file that is open as a database that nobody vouches for; SQLite touches nothing else.

    write: it may be changed. salvage: read what can be read of a file that was cut short.
    Raises apsw.Error: ForeignError, NewerError, NotWholeError or one of SQLite's.
    """

    def __init__(self, path: Path, *, write: bool, salvage: bool = False) -> None:
        self.path = path
        self._only = OneFile(path, write=write, lasting=salvage)
        mode = apsw.SQLITE_OPEN_READWRITE if write else apsw.SQLITE_OPEN_READONLY
        try:
            self._connection = apsw.Connection(
                self._only.path, flags=mode, vfs=self._only.name, statementcachesize=32
            )
            try:
                self._connection.set_busy_timeout(BUSY_MS)
                self._look_first()
                if salvage:
                    # A file shorter than it says is refused, unless one may write the schema.
                    self._connection.execute("PRAGMA writable_schema = ON")
                _defend(self._connection, write=write, salvage=salvage)
            except BaseException:
                self._connection.close()
                raise
        except BaseException:
            self._only.let_go()
            raise

    def _look_first(self) -> None:
        """Refuse what is no job before SQLite reads its tables, which may be made to be read."""
        head = self.bytes_at(0, 105)
        if len(head) < 105 or head[:16] != START:
            raise NotWholeError("no database")
        if int.from_bytes(head[68:72], "big") != APPLICATION_ID:
            raise ForeignError("not a job")
        if int.from_bytes(head[60:64], "big") > FILE_VERSION:
            raise NewerError("newer")
        # Ours are a few lines on the first page, and no tree of pages.
        if head[100] == BRANCH or int.from_bytes(head[103:105], "big") > len(TABLES) + 1:
            raise ForeignError("tables that are not ours")

    def __enter__(self) -> "Database":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Let go of the file."""
        self._connection.close()
        self._only.let_go()

    # questions

    def rows(self, statement: str, *values: Value) -> list[tuple[Any, ...]]:
        """Return the rows of a statement. Raises NotWholeError."""
        try:
            return list(self._connection.execute(statement, values))
        except UnicodeDecodeError as error:
            raise NotWholeError("a text in it is none") from error

    def one(self, statement: str, *values: Value) -> Any:
        """Return the first value of the first row, None when there is no row."""
        found = self.rows(statement, *values)
        return found[0][0] if found else None

    def run(self, statement: str, *values: Value) -> None:
        """Do a statement that has no answer."""
        self._connection.execute(statement, values)

    @contextlib.contextmanager
    def unchanged(self) -> Iterator[None]:
        """Let nobody change the file meanwhile. Raises apsw.BusyError when somebody does."""
        with locked(self.path, BUSY_MS / 1000):
            yield

    @contextlib.contextmanager
    def changing(self) -> Iterator[None]:
        """Change the file in one transaction: all of it or nothing."""
        for pragma in _TO_WRITE:
            self.run(f"PRAGMA {pragma}")
        self.run("BEGIN IMMEDIATE")
        try:
            yield
            self.run("COMMIT")
        except BaseException:
            if self._connection.in_transaction:
                self.run("ROLLBACK")
            raise

    # the file itself

    @property
    def is_being_written(self) -> bool:
        """Whether anybody, here or elsewhere, is changing the file at this moment."""
        file = self._only.file
        return file is not None and bool(file.xCheckReservedLock())

    def bytes_at(self, offset: int, amount: int) -> bytes:
        """Return bytes of the file, fewer at its end."""
        size = self.size()
        amount = max(0, min(amount, size - offset))
        return self._connection.read("main", 0, offset, amount)[1] if amount else b""

    def size(self) -> int:
        """Return how large the file is, bytes."""
        assert self._only.file is not None
        return int(self._only.file.xFileSize())

    def written_to(self, path: Path) -> None:
        """Write the file's bytes into another. Raises OSError."""
        with path.open("wb") as file:
            for at in range(0, self.size(), CHUNK_BYTES):
                file.write(self.bytes_at(at, CHUNK_BYTES))

    def copied_into(self, other: apsw.Connection) -> None:
        """Copy all of it into an empty file."""
        with other.backup("main", self._connection, "main") as copying:
            copying.step(-1)


def _defend(connection: apsw.Connection, *, write: bool, salvage: bool) -> None:
    """Follow https://www.sqlite.org/security.html, "Untrusted SQLite Database Files"."""
    for setting, value in (
        (apsw.SQLITE_DBCONFIG_DEFENSIVE, not salvage),
        (apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, False),
        (apsw.SQLITE_DBCONFIG_ENABLE_TRIGGER, False),
        (apsw.SQLITE_DBCONFIG_ENABLE_VIEW, False),
        (apsw.SQLITE_DBCONFIG_ENABLE_LOAD_EXTENSION, False),
        (apsw.SQLITE_DBCONFIG_ENABLE_ATTACH_CREATE, False),
        (apsw.SQLITE_DBCONFIG_ENABLE_ATTACH_WRITE, False),
        (apsw.SQLITE_DBCONFIG_DQS_DML, False),
        (apsw.SQLITE_DBCONFIG_DQS_DDL, False),
    ):
        connection.config(setting, int(value))
    for limit, most in (
        (apsw.SQLITE_LIMIT_LENGTH, LARGEST_JOB + 1_000_000),
        (apsw.SQLITE_LIMIT_SQL_LENGTH, 10_000),
        (apsw.SQLITE_LIMIT_COLUMN, 20),
        (apsw.SQLITE_LIMIT_EXPR_DEPTH, 20),
        (apsw.SQLITE_LIMIT_COMPOUND_SELECT, 3),
        (apsw.SQLITE_LIMIT_VDBE_OP, 25_000),
        (apsw.SQLITE_LIMIT_FUNCTION_ARG, 8),
        (apsw.SQLITE_LIMIT_ATTACHED, 0),
        (apsw.SQLITE_LIMIT_LIKE_PATTERN_LENGTH, 100),
        (apsw.SQLITE_LIMIT_TRIGGER_DEPTH, 1),
        (apsw.SQLITE_LIMIT_WORKER_THREADS, 0),
    ):
        connection.limit(limit, most)
    for pragma in (
        "cell_size_check = ON",
        "mmap_size = 0",
    ):
        connection.execute(f"PRAGMA {pragma}")
    connection.authorizer = partial(_allowed, write)


_READS = {
    apsw.SQLITE_SELECT,
    apsw.SQLITE_READ,
    apsw.SQLITE_TRANSACTION,
    apsw.SQLITE_PRAGMA,
    apsw.SQLITE_FUNCTION,
}
_WRITES = {apsw.SQLITE_INSERT, apsw.SQLITE_UPDATE, apsw.SQLITE_DELETE}
_PRAGMAS = {
    "user_version",
    "page_count",
    "page_size",
    "freelist_count",
    "quick_check",
    "integrity_check",
    "data_version",
}
_TO_WRITE = ("synchronous = EXTRA", "cache_size = -16000")
_FUNCTIONS = {"length", "substr", "typeof"}


def _allowed(
    write: bool,
    action: int,
    first: str | None,
    second: str | None,
    _: str | None,
    within: str | None,
) -> int:
    """Say whether a statement is one of ours: nothing in a file can ask for more."""
    ours = first is not None and (first in TABLES or first in ("sqlite_schema", "sqlite_master"))
    if within is not None:  # a trigger or a view
        known = False
    elif action == apsw.SQLITE_PRAGMA:
        known = first in _PRAGMAS and (second is None or first.endswith("_check"))
        known = known or f"{first} = {second}" in _TO_WRITE
    elif action == apsw.SQLITE_FUNCTION:
        known = second in _FUNCTIONS
    elif action == apsw.SQLITE_READ:
        known = ours
    else:
        known = action in _READS or (write and action in _WRITES and first in TABLES)
    return apsw.SQLITE_OK if known else apsw.SQLITE_DENY


@contextlib.contextmanager
def _plain(path: Path) -> Iterator[apsw.Connection]:
    """Open a file of our own that nobody else has."""
    only = OneFile(path, write=True)
    try:
        made = apsw.Connection(only.path, flags=apsw.SQLITE_OPEN_READWRITE, vfs=only.name)
        try:
            yield made
        finally:
            made.close()
    finally:
        only.let_go()


def create(path: Path) -> None:
    """Make an empty job database in an empty file."""
    with _plain(path) as made:
        made.execute(f"PRAGMA page_size = {PAGE_BYTES}")
        made.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        made.execute(f"PRAGMA user_version = {FILE_VERSION}")
        for statement in TABLES.values():
            made.execute(statement)


def copy(source: Database, path: Path) -> None:
    """Copy a database into an empty file, without the space that nothing lies in."""
    with _plain(path) as other:
        source.copied_into(other)
    with Database(path, write=False) as made:
        check_kind(made)
        check_whole(made)
        free, pages = made.one("PRAGMA freelist_count"), made.one("PRAGMA page_count")
    if int(free) * 4 > int(pages):
        with _plain(path) as other:
            other.execute("VACUUM")


def check_kind(there: Database) -> None:
    """Refuse what has anything in it but our tables. Raises ForeignError."""
    found = there.rows(
        "SELECT name, sql FROM sqlite_schema WHERE substr(name, 1, 17) <> 'sqlite_autoindex_' "
        "LIMIT ?",
        len(TABLES) + 1,
    )
    if dict(found) != TABLES:
        raise ForeignError("tables that are not ours")


def check_whole(there: Database) -> None:
    """Raise NotWholeError when the structure of the file is damaged."""
    pages, size = there.one("PRAGMA page_count"), there.one("PRAGMA page_size")
    if there.size() < int(pages) * int(size):
        raise NotWholeError("the file is shorter than it says")
    said = there.one("PRAGMA quick_check(1)")
    if said != "ok":
        raise NotWholeError(str(said)[:200])
