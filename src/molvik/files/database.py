"""The job file as an SQLite database: its tables, and opening it by SQLite's advice for files that
come from elsewhere.

Raises sqlite3.Error and OSError; ``files.jobfile`` makes words for the user of them.
"""

import contextlib
import hashlib
import os
import sqlite3
import sys
import zlib
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import NamedTuple
from urllib.parse import quote

from molvik.files.zipjob import LARGEST_JOB, LARGEST_PHOTO, unpack

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

MOST_PHOTOS = 20_000
"""Up to this id photos are looked for in a damaged file."""

MOST_VERSIONS = 50_000
KEPT_NEWEST = 20
KEPT_DAYS = 60


class Version(NamedTuple):
    """A version of the job in its file. at: when it was saved, ISO 8601. name: the user's."""

    id: int
    at: str
    name: str


class ForeignError(sqlite3.DatabaseError):
    """A database, but not a job."""


class NewerError(sqlite3.DatabaseError):
    """A job in tables of a newer Molvik."""


def connect(path: Path, *, write: bool, salvage: bool = False) -> sqlite3.Connection:
    """Open a file as a database that nobody vouches for.

    salvage: read what can be read of a file that was cut short.
    """
    mode = "rw" if write else "ro"
    if salvage:
        mode += "&immutable=1"
    made = sqlite3.connect(
        f"file:{quote(os.fsencode(path))}?mode={mode}", uri=True, isolation_level=None, timeout=5,
        check_same_thread=False, cached_statements=32,
    )  # fmt: skip
    made.text_factory = lambda raw: raw.decode("utf-8", "replace")
    try:
        if salvage:
            # A file shorter than it says is refused as a whole, unless one may write the schema.
            made.execute("PRAGMA writable_schema = ON")
        _defend(made)
        if not salvage:
            made.execute("PRAGMA journal_mode = DELETE")
    except BaseException:
        made.close()
        raise
    return made


def _defend(connection: sqlite3.Connection) -> None:
    """Follow https://www.sqlite.org/security.html, "Untrusted SQLite Database Files"."""
    if sys.version_info >= (3, 12):
        connection.setconfig(sqlite3.SQLITE_DBCONFIG_DEFENSIVE, True)
        connection.setconfig(sqlite3.SQLITE_DBCONFIG_ENABLE_TRIGGER, False)
        connection.setconfig(sqlite3.SQLITE_DBCONFIG_ENABLE_VIEW, False)
    # Older Pythons cannot say it; there, as everywhere, only our own tables are let through.
    for limit, most in (
        (sqlite3.SQLITE_LIMIT_LENGTH, LARGEST_JOB + 1_000_000),
        (sqlite3.SQLITE_LIMIT_SQL_LENGTH, 10_000),
        (sqlite3.SQLITE_LIMIT_COLUMN, 20),
        (sqlite3.SQLITE_LIMIT_EXPR_DEPTH, 20),
        (sqlite3.SQLITE_LIMIT_COMPOUND_SELECT, 3),
        (sqlite3.SQLITE_LIMIT_VDBE_OP, 25_000),
        (sqlite3.SQLITE_LIMIT_FUNCTION_ARG, 8),
        (sqlite3.SQLITE_LIMIT_ATTACHED, 0),
        (sqlite3.SQLITE_LIMIT_LIKE_PATTERN_LENGTH, 100),
        (sqlite3.SQLITE_LIMIT_TRIGGER_DEPTH, 1),
        (sqlite3.SQLITE_LIMIT_WORKER_THREADS, 0),
    ):
        connection.setlimit(limit, most)
    for pragma in (
        "trusted_schema = OFF",
        "cell_size_check = ON",
        "mmap_size = 0",
        "synchronous = EXTRA",
        "cache_size = -16000",
    ):
        connection.execute(f"PRAGMA {pragma}")


def create(path: Path) -> None:
    """Make an empty job database in an empty file."""
    with_tables = sqlite3.connect(path, isolation_level=None)
    try:
        with_tables.execute(f"PRAGMA page_size = {PAGE_BYTES}")
        with_tables.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        with_tables.execute(f"PRAGMA user_version = {FILE_VERSION}")
        for statement in TABLES.values():
            with_tables.execute(statement)
    finally:
        with_tables.close()


def copy(source: sqlite3.Connection, path: Path) -> None:
    """Copy a database into an empty file, without the space that nothing lies in."""
    other = sqlite3.connect(path)
    try:
        source.backup(other)
        check_kind(other)
        check_whole(other, path)
        free, pages = _one(other, "PRAGMA freelist_count"), _one(other, "PRAGMA page_count")
        if int(str(free)) * 4 > int(str(pages)):
            other.execute("VACUUM")
    finally:
        other.close()


def check_kind(connection: sqlite3.Connection) -> None:
    """Refuse what is another program's, newer, or has anything in it but our tables."""
    if _one(connection, "PRAGMA application_id") != APPLICATION_ID:
        raise ForeignError("not a job")
    if int(str(_one(connection, "PRAGMA user_version"))) > FILE_VERSION:
        raise NewerError("newer")
    found = connection.execute(
        "SELECT name, sql FROM sqlite_schema WHERE name NOT LIKE 'sqlite_autoindex%'"
    ).fetchmany(len(TABLES) + 1)
    if dict(found) != TABLES:
        raise ForeignError("tables that are not ours")


def check_whole(connection: sqlite3.Connection, path: Path) -> None:
    """Raise sqlite3.DatabaseError when the structure of the file is damaged."""
    pages, size = _one(connection, "PRAGMA page_count"), _one(connection, "PRAGMA page_size")
    if os.stat(path).st_size < int(str(pages)) * int(str(size)):
        raise sqlite3.DatabaseError("the file is shorter than it says")
    said = _one(connection, "PRAGMA quick_check(1)")
    if said != "ok":
        raise sqlite3.DatabaseError(str(said)[:200])


def _one(connection: sqlite3.Connection, statement: str, *values: object) -> object:
    row = connection.execute(statement, values).fetchone()
    return None if row is None else row[0]


def digest(data: bytes) -> bytes:
    """Return the SHA-256 by which a text or a photo is known to be as it was saved."""
    return hashlib.sha256(data).digest()


# the job and its versions


def newest(connection: sqlite3.Connection) -> tuple[int, bytes, bytes] | None:
    """Return the id, the digest and the text of the newest version; None when it is not whole."""
    row = connection.execute("SELECT version, sha256, text FROM job").fetchone()
    if row is None or not isinstance(row[2], str) or not isinstance(row[0], int):
        return None
    text = row[2].encode()
    return (row[0], row[1], text) if digest(text) == row[1] else None


def versions(connection: sqlite3.Connection) -> list[Version]:
    """Return the versions in the file, the newest first."""
    found = connection.execute("SELECT id, at, name FROM versions ORDER BY id DESC LIMIT 20000")
    return [Version(int(one), str(at), str(name)) for one, at, name in found]


def version_ids(connection: sqlite3.Connection) -> list[int]:
    """Return the ids of the versions of a damaged file that can be found, the newest first."""
    with contextlib.suppress(sqlite3.Error):
        return [version.id for version in versions(connection)]  # it is damaged elsewhere
    found: list[int] = []
    for number in range(MOST_VERSIONS, 0, -1):
        try:
            if _one(connection, "SELECT id FROM versions WHERE id = ?", number) is not None:
                found.append(number)
        except sqlite3.Error:
            continue
    return found


def version_text(connection: sqlite3.Connection, number: int) -> bytes | None:
    """Return the text of a version; None when it is not there or not whole."""
    row = connection.execute(
        "SELECT sha256, packed FROM versions WHERE id = ?", (number,)
    ).fetchone()
    if row is None or not isinstance(row[1], bytes):
        return None
    try:
        text = unpack(row[1], LARGEST_JOB)
    except ValueError:
        return None
    return text if digest(text) == row[0] else None


def put(
    connection: sqlite3.Connection, text: bytes, at: str, photos: Iterable[str], name: str = ""
) -> int:
    """Make a text the newest version, with the photos it shows; return its id.

    Within a transaction. The photos must be in the file by now.
    """
    sha256 = digest(text)
    row = connection.execute("SELECT id, sha256, name FROM versions ORDER BY id DESC").fetchone()
    if row is not None and row[1] == sha256 and (not name or not row[2]):
        number = int(row[0])  # nothing changed: the same version, maybe with a name now
        if name:
            connection.execute("UPDATE versions SET name = ? WHERE id = ?", (name, number))
    else:
        number = 1 if row is None else int(row[0]) + 1
        connection.execute(
            "INSERT INTO versions VALUES (?, ?, ?, ?, ?)",
            (number, at, name, sha256, zlib.compress(text, 6)),
        )
        connection.executemany(
            "INSERT OR IGNORE INTO shown SELECT ?, id FROM photos WHERE name = ?",
            [(number, entry) for entry in photos],
        )
    connection.execute(
        "INSERT OR REPLACE INTO job VALUES (1, ?, ?, ?)", (number, sha256, text.decode())
    )
    return number


def thin_out(connection: sqlite3.Connection, today: date, held: Iterable[str]) -> None:
    """Drop old automatic versions, and photos that no version shows. held: photos to keep anyway.

    Within a transaction.
    """
    gone = superfluous(versions(connection), today)
    for table, column in (("versions", "id"), ("shown", "version")):
        connection.executemany(
            f"DELETE FROM {table} WHERE {column} = ?", [(index,) for index in gone]
        )
    keep = set(held)
    for number, name in connection.execute(
        "SELECT id, name FROM photos WHERE id NOT IN (SELECT photo FROM shown)"
    ).fetchall():
        if name not in keep:
            connection.execute("DELETE FROM photos WHERE id = ?", (number,))


def superfluous(all_versions: list[Version], today: date) -> list[int]:
    """Return the versions that need not be kept. all_versions: the newest first.

    Kept are all with a name, the newest twenty, and the last of each of the sixty days before.
    """
    days: set[str] = set()
    gone: list[int] = []
    oldest = (today - timedelta(days=KEPT_DAYS)).isoformat()
    for place, version in enumerate(all_versions):
        day = version.at[:10]
        first_seen = day not in days
        days.add(day)
        if not (version.name or place < KEPT_NEWEST or (first_seen and day >= oldest)):
            gone.append(version.id)
    return gone


def now_text() -> str:
    """Return the local time with its UTC offset, ISO 8601."""
    return datetime.now().astimezone().isoformat(timespec="seconds")


# photos


def photo_ids(connection: sqlite3.Connection) -> dict[str, int]:
    """Return the ids of the photos by name."""
    return {str(name): int(number) for name, number in connection.execute(
        "SELECT name, id FROM photos NOT INDEXED")}  # fmt: skip


def photos_found(connection: sqlite3.Connection) -> dict[str, int]:
    """Return the ids of the photos of a damaged file that can be found, one by one."""
    with contextlib.suppress(sqlite3.Error):
        return photo_ids(connection)  # it is damaged elsewhere
    found: dict[str, int] = {}
    for number in range(1, MOST_PHOTOS):
        try:
            name = _one(connection, "SELECT name FROM photos WHERE id = ?", number)
        except sqlite3.Error:
            continue  # where it stands is damaged; the next may stand elsewhere
        if isinstance(name, str):
            found[name] = number
    return found


def photo(connection: sqlite3.Connection, number: int) -> bytes | None:
    """Return a photo's bytes; None when it is not there or not as it was put in."""
    row = connection.execute(
        "SELECT sha256, length(data) FROM photos WHERE id = ?", (number,)
    ).fetchone()
    if row is None or not isinstance(row[1], int) or row[1] > LARGEST_PHOTO:
        return None
    data = _one(connection, "SELECT data FROM photos WHERE id = ?", number)
    if not isinstance(data, bytes) or digest(data) != row[0]:
        return None
    return data


def put_photo(connection: sqlite3.Connection, name: str, data: bytes) -> None:
    """Keep a photo. Within a transaction."""
    connection.execute(
        "INSERT INTO photos (name, sha256, data) VALUES (?, ?, ?) "
        "ON CONFLICT (name) DO UPDATE SET sha256 = excluded.sha256, data = excluded.data",
        (name, digest(data), data),
    )
