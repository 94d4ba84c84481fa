"""The shop's shelf: one database for all jobs, from which they reserve and are cut.

Every change is one transaction that is on the disk before it is reported, and each cut has a name
by which it is booked once: two windows, two jobs or a program that is killed lose no metre and take
none twice. Amounts are kept in whole thousandths, so that they add up. docs/shelf.md says more.
"""

import contextlib
import sqlite3
import uuid
from collections.abc import Iterator, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from molvik.files.errors import JobFileError
from molvik.files.places import data_home
from molvik.model.checks import thing_problem
from molvik.model.job import Job
from molvik.model.stock import NO_SHELF, Others, Shelf, StockItem, Taken, unit_of

APPLICATION_ID = int.from_bytes(b"Mlvs", "big")
VERSION = 1

TABLES = """
CREATE TABLE shelf (name TEXT NOT NULL);
CREATE TABLE items (id INTEGER PRIMARY KEY AUTOINCREMENT, thing TEXT NOT NULL,
    amount INTEGER NOT NULL CHECK (amount >= 0));
CREATE TABLE reserved (item INTEGER NOT NULL REFERENCES items, job TEXT NOT NULL,
    title TEXT NOT NULL, amount INTEGER NOT NULL CHECK (amount > 0), PRIMARY KEY (item, job));
CREATE TABLE taken (id TEXT PRIMARY KEY, job TEXT NOT NULL, item INTEGER NOT NULL,
    amount INTEGER NOT NULL CHECK (amount > 0), text TEXT NOT NULL, back INTEGER NOT NULL);
CREATE TABLE brought (job TEXT NOT NULL, code TEXT NOT NULL, PRIMARY KEY (job, code));
"""
"""items: a thing as JSON, without its amount. taken: cuts; back: whether one was put back.
brought: what of a job's own list was put on the shelf.
"""

PARTS = 1000
"""Amounts are kept in thousandths of a metre or piece."""

LETTERS = "ST"

BUSY_S = 5.0
"""So long a change of another window is waited for."""


class Brought(NamedTuple):
    """Things of a job's own list that are put on the shelf, by the job's id and their codes."""

    job: str
    codes: tuple[str, ...]


NOT_BROUGHT = Brought("", ())
NOTHING: Mapping[str, float] = MappingProxyType({})


class ShelfError(JobFileError, ValueError):
    """What cannot be done with the shelf; the text says why and what to do."""


def shelf_path() -> Path:
    """Return where the shelf lies."""
    return data_home() / "molvik" / "shelf.db"


class ShopShelf:
    """The shelf in a file, which is made when something is first put there. Raises ShelfError."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or shelf_path()

    def see(self, job: str) -> Shelf:
        """Return what a job sees of it, by the job's id; nothing while there is no shelf."""
        if not self.path.exists():
            return NO_SHELF
        with self._open() as shelf:
            shelf.execute("BEGIN")  # one moment for all that is read
            return _seen(shelf, job) if _is_begun(shelf, self.path) else NO_SHELF

    def put(
        self,
        items: tuple[StockItem, ...],
        more: Mapping[str, float] = NOTHING,
        brought: Brought = NOT_BROUGHT,
    ) -> tuple[str, ...]:
        """Put things on the shelf and return their codes: one that was taken off keeps its own.

        more: what is added to what lies there, by code, below zero for less. brought: what of a
        job's own list this is, which comes once. Raises ShelfError.
        """
        with self._change() as shelf:
            for code in brought.codes:
                if not shelf.execute(
                    "INSERT OR IGNORE INTO brought VALUES (?, ?)", (brought.job, code)
                ).rowcount:
                    raise ShelfError(f"{code} of this job was put on the shelf already.")
            for code, amount in more.items():
                _add(shelf, code, amount)
            return tuple(_put(shelf, item) for item in items)

    def change(self, was: StockItem, now: StockItem) -> None:
        """Change a thing as it was seen. What others changed meanwhile in the same fields stands,
        and is told. Raises ShelfError.
        """
        with self._change() as shelf:
            there = _item(shelf, was.code)
            fields = {
                name: getattr(now, name)
                for name in now.__struct_fields__
                if getattr(now, name) != getattr(was, name)
            }
            for name in fields:
                if getattr(there, name) != getattr(was, name):
                    raise ShelfError(
                        f"{was.code} was changed meanwhile: it has {_said(there, name)} now, not "
                        f"{_said(was, name)}. Look at it again."
                    )
            made = _sound(replace(there, **fields))
            shelf.execute(
                "UPDATE items SET thing = ?, amount = ? WHERE id = ?",
                (_text(made), _parts(made.amount), _number(was.code)),
            )

    def remove(
        self,
        codes: frozenset[str],
        more: Mapping[str, float] = NOTHING,
        brought: Brought = NOT_BROUGHT,
    ) -> None:
        """Take things off the shelf. more and brought: of ``put``, which this takes back.
        Raises ShelfError.
        """
        with self._change() as shelf:
            for code in sorted(codes):
                number = (_number(_item(shelf, code).code),)
                held = shelf.execute("SELECT title FROM reserved WHERE item = ?", number).fetchall()
                if held:
                    titles = ", ".join(title for (title,) in held)
                    raise ShelfError(f"{code} is reserved by {titles}. Let that go first.")
                shelf.execute("DELETE FROM items WHERE id = ?", number)
            for code, amount in more.items():
                _add(shelf, code, amount)
            for code in brought.codes:
                shelf.execute("DELETE FROM brought WHERE job = ? AND code = ?", (brought.job, code))

    def reserve(self, job: Job, amounts: Mapping[str, float]) -> None:
        """Reserve amounts for a job in place of what it had reserved."""
        with self._change() as shelf:
            shelf.execute("DELETE FROM reserved WHERE job = ?", (job.id,))
            for code, amount in amounts.items():
                if _parts(amount):
                    _is_free(shelf, code, amount, job.id)
                    shelf.execute(
                        "INSERT INTO reserved VALUES (?, ?, ?, ?)",
                        (_number(code), job.id, job.title, _parts(amount)),
                    )

    def book(self, job: Job, taken: tuple[Taken, ...]) -> None:
        """Book what is cut for a job, each cut once; what it had reserved of it is used up."""
        with self._change() as shelf:
            name = _name(shelf)
            for one in taken:
                if one.shelf == name:
                    _book(shelf, job.id, one)

    def put_back(self, ids: frozenset[str]) -> None:
        """Put back what was not cut after all, each once."""
        with self._change() as shelf:
            for booking in sorted(ids):
                for number, amount, text in shelf.execute(
                    "SELECT item, amount, text FROM taken WHERE id = ? AND NOT back", (booking,)
                ).fetchall():
                    shelf.execute("UPDATE taken SET back = 1 WHERE id = ?", (booking,))
                    there = shelf.execute(
                        "UPDATE items SET amount = amount + ? WHERE id = ?", (amount, number)
                    ).rowcount
                    if not there:  # the thing was taken off meanwhile: it is back with what is left
                        shelf.execute(
                            "INSERT INTO items VALUES (?, ?, ?)",
                            (number, _text(_cut(text).what), amount),
                        )

    # the file

    @contextlib.contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        """Open the file, which is there; what goes wrong is said in words."""
        try:
            with contextlib.closing(
                sqlite3.connect(self.path, timeout=BUSY_S, isolation_level=None)
            ) as shelf:
                shelf.execute("PRAGMA synchronous = FULL")
                shelf.execute("PRAGMA trusted_schema = OFF")
                yield shelf
        except sqlite3.OperationalError as error:
            if "locked" in str(error) or "busy" in str(error):
                words = "another window or program is changing it. Try again in a moment"
            else:
                words = f"{error}. Is the disk full, or may it not be written?"
            raise ShelfError(f"The shelf, {self.path}, was not changed: {words}.") from error
        except (sqlite3.DatabaseError, msgspec.DecodeError, OSError) as error:
            raise ShelfError(
                f"The shelf, {self.path}, cannot be read: {error}. Put it elsewhere, or put back "
                "a copy; a new one is begun when it is gone."
            ) from error

    @contextlib.contextmanager
    def _change(self) -> Iterator[sqlite3.Connection]:
        """Change it in one transaction, on the disk before this ends."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise ShelfError(
                f"{self.path.parent} cannot be made: {error.strerror or error}."
            ) from error
        with self._open() as shelf:
            shelf.execute("BEGIN IMMEDIATE")
            try:
                if not _is_begun(shelf, self.path):
                    _begin(shelf)
                yield shelf
                shelf.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    shelf.execute("ROLLBACK")
                raise


def _is_begun(shelf: sqlite3.Connection, path: Path) -> bool:
    """Return whether a file holds a shelf; not yet where it is empty. Refuses what is none."""
    (version,) = shelf.execute("PRAGMA user_version").fetchone()
    (application,) = shelf.execute("PRAGMA application_id").fetchone()
    (tables,) = shelf.execute("SELECT count(*) FROM sqlite_master").fetchone()
    if (version, application, tables) == (0, 0, 0):
        return False
    if application != APPLICATION_ID:
        raise ShelfError(f"{path} is not a shelf of Molvik. It was not changed.")
    if version > VERSION:
        raise ShelfError(f"{path} is the shelf of a newer Molvik. Install that one.")
    return True


def _begin(shelf: sqlite3.Connection) -> None:
    for statement in TABLES.split(";"):
        if statement.strip():
            shelf.execute(statement)
    shelf.execute("INSERT INTO shelf VALUES (?)", (uuid.uuid4().hex,))
    shelf.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    shelf.execute(f"PRAGMA user_version = {VERSION}")


def _seen(shelf: sqlite3.Connection, job: str) -> Shelf:
    items = tuple(
        replace(_thing(text), code=f"{LETTERS}{number}", amount=amount / PARTS)
        for number, text, amount in shelf.execute("SELECT * FROM items ORDER BY id")
    )
    reserved, held = dict[str, float](), dict[str, list[tuple[str, float]]]()
    for number, whose, title, amount in shelf.execute("SELECT * FROM reserved ORDER BY title"):
        code = f"{LETTERS}{number}"
        if whose == job:
            reserved[code] = amount / PARTS
        else:
            held.setdefault(code, []).append((title, amount / PARTS))
    others = {
        code: Others(round(sum(n for _, n in one), 3), tuple(one)) for code, one in held.items()
    }
    brought = frozenset(
        code for (code,) in shelf.execute("SELECT code FROM brought WHERE job = ?", (job,))
    )
    cuts = shelf.execute("SELECT id, text, back FROM taken WHERE job = ?", (job,)).fetchall()
    booked = tuple(_cut(text) for _, text, back in cuts if not back)
    back = frozenset(one for one, _, back in cuts if back)
    return Shelf(items, reserved, others, brought, booked, back, _name(shelf))


def _thing(text: str) -> StockItem:
    return msgspec.json.decode(text, type=StockItem)


def _cut(text: str) -> Taken:
    return msgspec.json.decode(text, type=Taken)


def _text(item: StockItem) -> str:
    return msgspec.json.encode(replace(item, code="", amount=0.0)).decode()


def _name(shelf: sqlite3.Connection) -> str:
    return str(shelf.execute("SELECT name FROM shelf").fetchone()[0])


def _parts(amount: float) -> int:
    return round(amount * PARTS)


def _number(code: str) -> int:
    digits = code.removeprefix(LETTERS)
    return int(digits) if digits.isdecimal() else -1


def _sound(item: StockItem) -> StockItem:
    problem = thing_problem(item)
    if problem:
        raise ShelfError(f"{problem[0].upper()}{problem[1:]}. Nothing was changed.")
    return item


def _item(shelf: sqlite3.Connection, code: str) -> StockItem:
    found = shelf.execute(
        "SELECT thing, amount FROM items WHERE id = ?", (_number(code),)
    ).fetchone()
    if found is None:
        raise ShelfError(f"There is no {code} on the shelf any more.")
    return replace(_thing(found[0]), code=code, amount=found[1] / PARTS)


def _put(shelf: sqlite3.Connection, item: StockItem) -> str:
    _sound(item)
    number = _number(item.code) if item.code else None
    if (
        number is not None
        and shelf.execute("SELECT 1 FROM items WHERE id = ?", (number,)).fetchone()
    ):
        raise ShelfError(f"{item.code} lies on the shelf already.")
    made = shelf.execute(
        "INSERT INTO items VALUES (?, ?, ?)", (number, _text(item), _parts(item.amount))
    )
    return f"{LETTERS}{made.lastrowid}"


def _add(shelf: sqlite3.Connection, code: str, amount: float) -> None:
    there = _item(shelf, code)
    _sound(replace(there, amount=there.amount + amount))
    shelf.execute(
        "UPDATE items SET amount = amount + ? WHERE id = ?", (_parts(amount), _number(code))
    )


def _is_free(shelf: sqlite3.Connection, code: str, amount: float, job: str) -> None:
    """Raise ShelfError where a job may not take so much."""
    item = _item(shelf, code)
    held = shelf.execute(
        "SELECT title, amount FROM reserved WHERE item = ? AND job != ?", (_number(code), job)
    ).fetchall()
    free = _parts(item.amount) - sum(one for _, one in held)
    if _parts(amount) > free:
        unit = unit_of(item.kind)
        others = "".join(f"; {title} has {n / PARTS:g} {unit} reserved" for title, n in held)
        raise ShelfError(
            f"{amount:g} {unit} of {code} are wanted, and {max(0, free) / PARTS:g} are free: "
            f"{item.amount:g} lie there{others}. Nothing was changed."
        )


def _book(shelf: sqlite3.Connection, job: str, one: Taken) -> None:
    known = shelf.execute("SELECT back FROM taken WHERE id = ?", (one.id,)).fetchone()
    amount, number = _parts(one.what.amount), _number(one.what.code)
    if amount == 0 or (known is not None and not known[0]):
        return
    _is_free(shelf, one.what.code, one.what.amount, job)
    shelf.execute("UPDATE items SET amount = amount - ? WHERE id = ?", (amount, number))
    shelf.execute(
        "DELETE FROM reserved WHERE item = ? AND job = ? AND amount <= ?", (number, job, amount)
    )
    shelf.execute(
        "UPDATE reserved SET amount = amount - ? WHERE item = ? AND job = ?", (amount, number, job)
    )
    shelf.execute(
        "INSERT OR REPLACE INTO taken VALUES (?, ?, ?, ?, ?, 0)",
        (one.id, job, number, amount, msgspec.json.encode(one).decode()),
    )


def _said(item: StockItem, name: str) -> str:
    value = getattr(item, name)
    return f"{value:g}" if isinstance(value, float) else str(value) or "nothing"
