"""Two programs that use one shelf and are killed: the attack "shelf" of torture.py.

What is counted by hand here shares nothing with the shelf but its tables.
"""

import contextlib
import os
import random
import signal
import sqlite3
import time
import traceback
import uuid
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from molvik.files.shelf import ShelfError, ShopShelf
from molvik.model.job import Job
from molvik.model.stock import StockItem, Taken

THINGS, EACH_M, PROGRAMS = 3, 40.0, 2


def _use_for_ever(path: Path, seed: int, tell: Callable[[str], None]) -> None:
    """Reserve, cut and put back without end; tell what is about to be done, and what is done."""
    chance = random.Random(seed)
    shelf, job = ShopShelf(path), Job(f"job {seed}", title=f"Job {seed}")
    while True:
        seen = shelf.see(job.id)
        item = chance.choice(seen.items)
        kind = chance.choice(("reserve", "cut", "cut", "back", "count"))
        if kind == "reserve":
            with contextlib.suppress(ShelfError):  # the other was quicker
                shelf.reserve(job, {item.code: min(seen.free(item), chance.uniform(0, 5))})
        elif kind == "count":
            amount = item.amount + chance.choice((-1.0, 1.0))
            change = f"{uuid.uuid4().hex} {item.code} {round(amount - item.amount):+d}"
            tell(f"counting {change}")
            try:
                shelf.put((), {item.code: amount - item.amount})
            except ShelfError:
                tell(f"refused {change}")
                continue
            tell(f"counted {change}")
        elif kind == "cut":
            metres = round(chance.uniform(0.001, 3), 3)
            one = Taken(uuid.uuid4().hex, seen.name, StockItem(item.code, amount=metres))
            try:
                shelf.book(job, (one,))
            except ShelfError:
                continue
            tell(f"cut {one.id}")
            if chance.random() < 0.3:
                shelf.book(job, (one,))  # asked again: it is booked once
        elif seen.booked:
            one = chance.choice(seen.booked)
            tell(f"putting {one.id}")
            shelf.put_back(frozenset((one.id,)))
            tell(f"back {one.id}")


def strike(chance: random.Random, folder: Path) -> None:
    """Begin a shelf and two programs on it, kill them, and count what is left."""
    path = folder / "shelf.db"
    for left in folder.glob("shelf.db*"):
        left.unlink()
    ShopShelf(path).put((StockItem("", amount=EACH_M),) * THINGS)
    told, children = [], []
    for _ in range(PROGRAMS):
        reads, writes = os.pipe()
        seed = chance.randrange(10**9)
        child = os.fork()
        if child == 0:
            os.close(reads)
            try:
                _use_for_ever(path, seed, partial(_tell, writes))
            except BaseException:
                traceback.print_exc()
            os._exit(1)
        os.close(writes)
        told.append(reads)
        children.append(child)
    time.sleep(chance.choice((0.02, 0.1, 0.3)) * (0.2 + chance.random()))
    for child in children:
        assert os.waitpid(child, os.WNOHANG)[0] == 0, "it ended by itself"
        os.kill(child, signal.SIGKILL)
    for child in children:
        os.waitpid(child, 0)
    lines: list[str] = []
    for reads in told:
        lines += _all_of(reads).decode().splitlines()
        os.close(reads)
    _count(path, lines)


def _tell(writes: int, text: str) -> None:
    os.write(writes, text.encode() + b"\n")


def _all_of(reads: int) -> bytes:
    said = b""
    while part := os.read(reads, 65_536):
        said += part
    return said


def _words(lines: list[str], first: str) -> Iterator[list[str]]:
    return (line.split()[1:] for line in lines if line.startswith(f"{first} "))


def _count(path: Path, lines: list[str]) -> None:
    """Count every metre by the file alone, and by what the programs said was done."""
    with sqlite3.connect(path) as shelf:
        assert shelf.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        there = {f"ST{n}": amount for n, amount in shelf.execute("SELECT id, amount FROM items")}
        taken = shelf.execute("SELECT id, item, amount, back FROM taken").fetchall()
        reserved = shelf.execute("SELECT item, sum(amount) FROM reserved GROUP BY item").fetchall()
    shelf.close()
    state = {key: back for key, _, _, back in taken}
    begun = {key for (key,) in _words(lines, "putting")}
    for (key,) in _words(lines, "cut"):
        assert key in state, "a cut that was done is not booked"
        assert not state[key] or key in begun, "a cut that was done was put back by nobody"
    for (key,) in _words(lines, "back"):
        assert state[key] == 1, "what was put back is booked as cut"
    refused = {key for key, _, _ in _words(lines, "refused")}
    done = {key for key, _, _ in _words(lines, "counted")}
    for code, amount in there.items():
        gone = sum(n for _, item, n, back in taken if f"ST{item}" == code and not back)
        counted = {
            key: int(n) * 1000
            for key, item, n in _words(lines, "counting")
            if item == code and key not in refused
        }
        sure = sum(n for key, n in counted.items() if key in done)
        unsure = [n for key, n in counted.items() if key not in done]  # it was killed meanwhile
        may = {
            sure + sum(n for n, way in zip(unsure, ways, strict=True) if way)
            for ways in _ways(len(unsure))
        }
        assert amount + gone - EACH_M * 1000 in may, f"{code}: a metre lost, or twice"
        assert amount >= 0
    for item, amount in reserved:
        assert amount >= 0, item


def _ways(count: int) -> Iterator[tuple[bool, ...]]:
    if count == 0:
        yield ()
        return
    for rest in _ways(count - 1):
        yield (True, *rest)
        yield (False, *rest)
