"""What a job file holds: the job, its versions and its photos. Raises apsw.Error."""

import contextlib
import hashlib
import itertools
import zlib
from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import NamedTuple

import apsw

from molvik.files.database import Database
from molvik.files.zipjob import LARGEST_JOB, LARGEST_PHOTO, unpack

MOST_PHOTOS = 20_000
"""Up to this id photos are looked for in a damaged file."""

MOST_VERSIONS = 50_000
KEPT_NEWEST = 20
KEPT_DAYS = 60

LAST_NUMBER = 2**53
"""A version with a number past it is numbered anew: SQLite has none past 2**63."""


class Version(NamedTuple):
    """A version of the job in its file. at: when it was saved, ISO 8601. name: the user's."""

    id: int
    at: str
    name: str


def digest(data: bytes) -> bytes:
    """Return the SHA-256 by which a text or a photo is known to be as it was saved."""
    return hashlib.sha256(data).digest()


# the job and its versions


def newest(there: Database) -> tuple[int, bytes, bytes] | None:
    """Return the id, the digest and the text of the newest version; None when it is not whole."""
    found = there.rows(
        "SELECT typeof(version), version, substr(sha256, 1, 33), CAST(text AS BLOB) FROM job "
        "WHERE id = 1"
    )
    if not found or found[0][0] != "integer":
        return None
    _, number, sha256, text = found[0]
    if not isinstance(text, bytes) or not isinstance(sha256, bytes):
        return None
    return (number, sha256, text) if digest(text) == sha256 else None


def versions(there: Database) -> list[Version]:
    """Return the versions in the file, the newest first."""
    found = there.rows(
        "SELECT id, substr(CAST(at AS BLOB), 1, 40), substr(CAST(name AS BLOB), 1, 400) "
        "FROM versions ORDER BY id DESC LIMIT ?",
        MOST_VERSIONS,
    )
    return [Version(number, _text(at), _text(name)) for number, at, name in found]


def _text(raw: bytes | None) -> str:
    return (raw or b"").decode("utf-8", "replace")


def version_ids(there: Database) -> list[int]:
    """Return the ids of the versions of a damaged file that can be found, the newest first."""
    with contextlib.suppress(apsw.Error):
        return [version.id for version in versions(there)]  # it is damaged elsewhere
    found: list[int] = []
    for number in range(MOST_VERSIONS, 0, -1):
        try:
            if there.one("SELECT id FROM versions WHERE id = ?", number) is not None:
                found.append(number)
        except apsw.Error:
            continue
    return found


def version_text(there: Database, number: int) -> bytes | None:
    """Return the text of a version; None when it is not there or not whole."""
    found = there.rows("SELECT substr(sha256, 1, 33), packed FROM versions WHERE id = ?", number)
    if not found or not isinstance(found[0][1], bytes):
        return None
    try:
        text = unpack(found[0][1], LARGEST_JOB)
    except ValueError:
        return None
    return text if digest(text) == found[0][0] else None


class Worth(NamedTuple):
    """What a file is worth. job: its newest version is as it was saved; photos: how many are;
    whole: all of them are, and nothing in the file is damaged.
    """

    job: bool
    photos: int
    whole: bool


def worth(there: Database) -> Worth:
    """Look through all of a file. Raises apsw.Error."""
    sound = there.one("PRAGMA integrity_check(1)") == "ok"
    found = newest(there)
    job = sound and found is not None and version_text(there, found[0]) == found[2]
    photos = photos_found(there)
    readable = 0
    for number in photos.values():
        with contextlib.suppress(apsw.Error):
            readable += photo(there, number) is not None
    return Worth(job, readable, job and readable == len(photos))


def put(there: Database, text: bytes, at: str, photos: Iterable[str], name: str = "") -> int:
    """Make a text the newest version, with the photos it shows; return its id.

    Within a transaction. The photos must be in the file by now.
    """
    sha256 = digest(text)
    last = there.one("SELECT id FROM versions ORDER BY id DESC LIMIT 1")
    if last is not None and not 0 < last < LAST_NUMBER:
        _number_anew(there)
    found = there.rows(
        "SELECT id, substr(sha256, 1, 33), length(name) FROM versions ORDER BY id DESC LIMIT 1"
    )
    if found and found[0][1] == sha256 and (not name or not found[0][2]):
        number = int(found[0][0])  # nothing changed: the same version, maybe with a name now
        if name:
            there.run("UPDATE versions SET name = ? WHERE id = ?", name, number)
    else:
        number = found[0][0] + 1 if found else 1
        there.run(
            "INSERT INTO versions VALUES (?, ?, ?, ?, ?)",
            number,
            at,
            name,
            sha256,
            zlib.compress(text, 6),
        )
        for entry in photos:
            there.run(
                "INSERT OR IGNORE INTO shown SELECT ?, id FROM photos WHERE name = ?", number, entry
            )
    there.run("INSERT OR REPLACE INTO job VALUES (1, ?, ?, ?)", number, sha256, text.decode())
    return number


def _number_anew(there: Database) -> None:
    """Number the versions from 1 in their order. Within a transaction.

    By way of numbers that none has, so that no two have one on the way.
    """
    known = [number for (number,) in there.rows("SELECT id FROM versions ORDER BY id")]
    there.run("DELETE FROM shown WHERE version NOT IN (SELECT id FROM versions)")
    free = iter(sorted({*range(1, 2 * len(known) + 1)} - {*known}))
    for step in (free, itertools.count(1)):
        moved = dict(zip(known, step, strict=False))
        for old, new in moved.items():
            there.run("UPDATE versions SET id = ? WHERE id = ?", new, old)
            there.run("UPDATE shown SET version = ? WHERE version = ?", new, old)
        known = list(moved.values())


def thin_out(there: Database, today: date, held: Iterable[str]) -> None:
    """Drop old automatic versions, and photos that no version shows. held: photos to keep anyway.

    Within a transaction.
    """
    for index in superfluous(versions(there), today):
        there.run("DELETE FROM versions WHERE id = ?", index)
        there.run("DELETE FROM shown WHERE version = ?", index)
    keep = set(held)
    for number, name in there.rows(
        "SELECT id, name FROM photos WHERE id NOT IN (SELECT photo FROM shown)"
    ):
        if name not in keep:
            there.run("DELETE FROM photos WHERE id = ?", number)


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


def photo_ids(there: Database) -> dict[str, int]:
    """Return the ids of the photos by name."""
    return {
        _text(name): number
        for name, number in there.rows(
            "SELECT substr(CAST(name AS BLOB), 1, 400), id FROM photos NOT INDEXED LIMIT ?",
            MOST_PHOTOS,
        )
    }


def photos_found(there: Database) -> dict[str, int]:
    """Return the ids of the photos of a damaged file that can be found, one by one."""
    with contextlib.suppress(apsw.Error):
        return photo_ids(there)  # it is damaged elsewhere
    found: dict[str, int] = {}
    for number in range(1, MOST_PHOTOS):
        try:
            name = there.one("SELECT substr(name, 1, 400) FROM photos WHERE id = ?", number)
        except apsw.Error:
            continue  # where it stands is damaged; the next may stand elsewhere
        if isinstance(name, str):
            found[name] = number
    return found


def photo(there: Database, number: int) -> bytes | None:
    """Return a photo's bytes; None when it is not there or not as it was put in."""
    found = there.rows(
        "SELECT substr(sha256, 1, 33), length(data) FROM photos WHERE id = ?", number
    )
    if not found or not isinstance(found[0][1], int) or found[0][1] > LARGEST_PHOTO:
        return None
    data = there.one("SELECT data FROM photos WHERE id = ?", number)
    return data if isinstance(data, bytes) and digest(data) == found[0][0] else None


def put_photo(there: Database, name: str, data: bytes) -> None:
    """Keep a photo. Within a transaction."""
    there.run(
        "INSERT INTO photos (name, sha256, data) VALUES (?, ?, ?) "
        "ON CONFLICT (name) DO UPDATE SET sha256 = excluded.sha256, data = excluded.data",
        name,
        digest(data),
        data,
    )
