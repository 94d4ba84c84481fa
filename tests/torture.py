"""Attacks on everything that is read, saved and clicked: make torture.

Each attack is bounded in time and prints its seed; ``tests/torture.py --only kills --seed 7`` runs
one again. A failure is an exception that nobody foresaw, a lost save or photo, a limit passed.
"""

import argparse
import contextlib
import io
import json
import os
import random
import shutil
import signal
import sys
import tempfile
import time
import traceback
import zipfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

from msgspec.structs import replace

from journals import outside_says
from molvik.cli import main as command
from molvik.cli.answers import change_job
from molvik.demo import PHOTOS, demo_job
from molvik.files.database import START
from molvik.files.errors import JobFileError
from molvik.files.jobfile import open_job
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.photobox import PhotoBox
from molvik.files.photos import PhotoError, Picture, is_kept_picture, make_ready
from molvik.files.saving import save_job
from molvik.files.stock import read_stock, stock_csv
from molvik.files.tablelimits import TableError
from molvik.files.tables import read_raw_table
from molvik.model import photo_edits
from molvik.model.job import Job

LONGEST_S, HANGS_S = 5.0, 120.0
"""What one attack on a file may take of the processor, and after how long it hangs."""

MOST_MB = 400
"""What the process may grow to, with all its libraries loaded."""

SCHEMA = ("sql", "name", "type", "rootpage")
AT = "2026-03-02T10:20:30+01:00"
Attack = Callable[[random.Random, Path, float], int]


def megabytes() -> float:
    """Return what this process has in memory."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


@contextlib.contextmanager
def in_time() -> Iterator[None]:
    """Fail what takes too long, by the processor's time: the machine may do other things."""

    def late(*_: object) -> None:
        raise AssertionError(f"it took longer than {LONGEST_S:g} s, or hangs")

    timers = (
        (signal.SIGALRM, signal.ITIMER_REAL, HANGS_S),
        (signal.SIGPROF, signal.ITIMER_PROF, LONGEST_S),
    )
    old = [signal.signal(one, late) for one, _, _ in timers]
    for _, timer, seconds in timers:
        signal.setitimer(timer, seconds)
    try:
        yield
    finally:
        for (one, timer, _), before in zip(timers, old, strict=True):
            signal.setitimer(timer, 0)
            signal.signal(one, before)


def mutated(chance: random.Random, data: bytes) -> bytes:
    """Return bytes with some of them changed, gone, doubled or cut off."""
    made = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 5, 30))):
        at, size = chance.randrange(len(made) + 1), chance.choice((1, 2, 4, 16, 300, 20_000))
        match chance.randrange(7):
            case 0 if made:
                made[min(at, len(made) - 1)] ^= 1 << chance.randrange(8)
            case 1:
                made[at : at + size] = chance.randbytes(min(size, 400))
            case 2:
                del made[at : at + size]
            case 3:
                made[at:at] = made[at : at + size] * chance.choice((1, 2, 8))
            case 4 if chance.random() < 0.3:
                del made[at:]
            case 5:
                made[at : at + size] = bytes(min(size, len(made) - at))
            case _:
                worth = chance.choice((0, 1, 0x7F, 0xFF, 0xFFFF, 2**31 - 1, 2**32 - 1))
                made[at : at + 4] = worth.to_bytes(4, chance.choice(("little", "big")))
    return bytes(made)


ODD: tuple[Any, ...] = (
    None,
    True,
    "",
    0,
    -1,
    1e-308,
    1e308,
    -1e308,
    1e-12,
    0.5,
    10**30,
    "x" * 3000,
    "\ud7ff￿",
    [],
    {},
    [[]],
    "W1",
    "C1",
    "D1",
    "+",
    "=1+1",
    2**31,
    -0.0,
    "2026-03-02",
    ["a", "b"],
)


def odd_values(chance: random.Random, text: bytes) -> bytes:
    """Return a job's text with values in it that nobody would type."""
    whole = json.loads(text)
    for _ in range(chance.choice((1, 1, 1, 2, 4))):
        here: Any = whole["job"]
        for _ in range(12):
            keys = list(here) if isinstance(here, dict) else list(range(len(here)))
            if not keys:
                break
            key = chance.choice(keys)
            if isinstance(here[key], dict | list) and here[key] and chance.random() < 0.85:
                here = here[key]
                continue
            match chance.randrange(8):
                case 0 if isinstance(here, list):
                    here.append(here[key])
                case 1 if isinstance(here, list):
                    del here[key]
                case 2 if isinstance(here, dict):
                    here[chance.choice(("note", "values", "x", str(key)))] = chance.choice(ODD)
                case _:
                    here[key] = chance.choice(ODD)
            break
    return json.dumps(whole).encode()


TIMES: int | None = None
"""How often each attack strikes; None for as long as there is time."""


def until(seconds: float) -> Iterator[int]:
    """Count while there is time, or to what is wanted."""
    ends = time.monotonic() + seconds
    number = 0
    while number < TIMES if TIMES is not None else time.monotonic() < ends:
        yield number
        number += 1


def noise(seed: int, size: int = 60_000) -> Picture:
    """Return bytes that stand for a photo."""
    return Picture(random.Random(seed).randbytes(size), 800, 600)


def job_with_photos(box: PhotoBox, count: int = 6) -> Job:
    """Return the smaller demo job with photos."""
    photos = tuple(replace(box.add(noise(n)), at=AT) for n in range(count))
    return photo_edits.add(replace(demo_job("plover"), photos=()), photos)


# the attacks


def job_bytes(chance: random.Random, folder: Path, seconds: float) -> int:
    """Job files, databases and zips, with bytes changed: no photo is lost that could be read."""
    from old_jobs import put_old

    box = PhotoBox(folder / "box")
    job, path = job_with_photos(box), folder / "a.molvik"
    known = {noise(n).file: noise(n).data for n in range(6)}
    save_job(job, path, box)
    save_job(replace(job, title="second"), path, box)
    put_old(job, folder / "old.molvik", box)
    put_old(replace(job, title="second"), folder / "old.molvik", box)
    files = path.read_bytes(), (folder / "old.molvik").read_bytes()
    attacked = folder / "attacked.molvik"
    done = 0
    for done in until(seconds):
        data = mutated(chance, chance.choice(files))
        attacked.write_bytes(data)
        with in_time():
            try:
                file = open_job(attacked)
            except JobFileError:
                assert attacked.read_bytes() == data, "a file that was not opened was changed"
                continue
            found = [file.photo(one.file) for one in file.job.photos]
            whole = [
                one.file
                for one, b in zip(file.job.photos, found, strict=True)
                if b is not None and known.get(one.file) == b
            ]
            for picture, one in zip(found, file.job.photos, strict=True):
                assert picture is None or one.file not in known or picture == known[one.file]
            if done % 5 == 0:
                photos = PhotoBox(file=file)
                with contextlib.suppress(JobFileError):
                    save_job(replace(file.job, title="saved"), attacked, photos)
                    again = open_job(attacked)
                    for name in whole:
                        assert again.photo(name) == known[name], "a save lost a photo"
                    again.close()
                photos.close()
            file.close()
        for left in folder.glob("attacked.molvik?*"):
            left.unlink()
    return done


def job_values(chance: random.Random, folder: Path, seconds: float) -> int:
    """Jobs with odd values: refused in words, or everything is computed from them."""
    from test_never_raises import everything

    texts = [encode_job(demo_job("plover")), *_small_texts()]
    done = 0
    for done in until(seconds):
        text = odd_values(chance, chance.choice(texts))
        try:
            job = decode_job(text, "x")
        except JobFileError as error:
            if len(str(error)) > 600:
                raise AssertionError("an answer longer than anybody reads") from error
            continue
        assert decode_job(encode_job(job), "x") == job
        if len(job.wires) < 30 or done % 40 == 0:
            everything(job)
    return done


def _small_texts() -> list[bytes]:
    from molvik.blocks.templates import TEMPLATES

    return [encode_job(one.make()) for one in TEMPLATES.values()]


def tables(chance: random.Random, folder: Path, seconds: float) -> int:
    """Tables as CSV and XLSX, read as pinouts, wires and stock."""
    from molvik.circuits.wire_table import read_wires
    from molvik.demo import DONOR_TABLE, ECU_TABLE
    from molvik.netlist.network import Network
    from molvik.pinouts.columns import find_columns
    from molvik.pinouts.propose import propose_grid
    from molvik.pinouts.table import read_table

    job = demo_job("plover")
    csv, xlsx = ECU_TABLE.read_bytes(), DONOR_TABLE.read_bytes()
    network, count = Network(job), 0
    stock = stock_csv(demo_job().stock)
    for _ in until(seconds):
        count += 1
        path = folder / chance.choice(("t.csv", "t.xlsx"))
        if chance.random() < 0.5:
            data = mutated(chance, chance.choice((csv, stock)))
        else:
            data = _with_odd_part(chance, xlsx) if chance.random() < 0.7 else mutated(chance, xlsx)
        path.write_bytes(data)
        with in_time(), contextlib.suppress(TableError):
            raw = read_raw_table(path)
            reading = read_table(raw, find_columns(raw))
            propose_grid(one.pin.cavity for one in reading.rows if one.pin)
            read_wires(raw, network)
            read_stock(path)
    return count


def _with_odd_part(chance: random.Random, data: bytes) -> bytes:
    """Return a workbook one of whose parts was changed, packed again so that it is looked into."""
    kept = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(kept, "w", 8) as new:
        victim = chance.choice(old.namelist())
        for name in old.namelist():
            part = old.read(name)
            new.writestr(name, mutated(chance, part) if name == victim else part)
    return kept.getvalue()


def pictures(chance: random.Random, folder: Path, seconds: float) -> int:
    """Photos in all formats."""
    from PIL import Image

    made = []
    for kind in ("JPEG", "PNG", "WEBP", "TIFF", "GIF", "BMP", "EPS"):
        for mode in ("RGB", "L"):
            kept = io.BytesIO()
            Image.effect_noise((90, 70), 60).convert(mode).save(kept, kind)
            made.append(kept.getvalue())
    count = 0
    for _ in until(seconds):
        count += 1
        data = mutated(chance, chance.choice(made))
        with in_time():
            is_kept_picture(data)
            with contextlib.suppress(PhotoError):
                assert is_kept_picture(make_ready(data, "a.jpg").data)
    return count


def commands(chance: random.Random, folder: Path, seconds: float) -> int:
    """The command line on files that are none of what it wants."""
    from molvik.demo import DONOR_TABLE, ECU_TABLE

    photos = PhotoBox(PHOTOS)
    whole = folder / "whole.molvik"
    save_job(demo_job("plover"), whole, photos)
    photos.close()
    files = [whole.read_bytes(), ECU_TABLE.read_bytes(), DONOR_TABLE.read_bytes(), b"", b"\0" * 9]
    a, b, out = folder / "a.molvik", folder / "b.csv", folder / "out.molvik"
    count = 0
    for _ in until(seconds):
        count += 1
        for path in (a, b, out):
            data = chance.choice(files)
            path.write_bytes(mutated(chance, data) if chance.random() < 0.6 and data else data)
        words = chance.choice(
            (
                ["check", str(a)],
                ["check", str(a), "--json"],
                ["survey", str(a)],
                ["import-pinout", str(b)],
                ["import-pinout", str(b), "--json"],
                ["import-wires", str(a), str(b)],
                ["import-wires", str(a), str(b), "--out", str(out)],
                ["strip", str(a), "--keep", chance.choice(("pump", "D1", "x"))],
                ["size", str(a), "--wire", chance.choice(("W1", "W999"))],
                ["why", str(a), "--device", "D1", "--state", chance.choice(("run", "x"))],
                ["prove", str(a), "--diagnose", str(b)],
                ["route", str(a)],
                ["prove", str(a), "--plan"],
                ["crossover", str(a), "--set", "Q1"],
                ["calc", "14", "awg", chance.choice(("5", "x"))],
                ["simulate", str(a), "--fault", chance.choice(("W1", "short W1 earth", "swap"))],
            )
        )
        before = out.read_bytes()
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            code = command(words)
        assert code in (0, 1, 2), f"{words}: {code}"
        assert code != 1 or words[0] == "check", f"{words}: 1 is for findings"
        if code and "--out" in words:
            assert out.read_bytes() == before
        for left in (*folder.glob("*.molvik~*"), *folder.glob("b.csv~*")):
            left.unlink()
    return count


Writer = Callable[[Path, Job, PhotoBox, int], None]
"""Saves a job again and again, and writes into a pipe which saves are done."""


def kills(chance: random.Random, folder: Path, seconds: float) -> int:
    """A process that saves is killed at any moment: no confirmed save and no photo is lost."""
    return _killed(chance, folder, seconds, _save_for_ever)


def command_kills(chance: random.Random, folder: Path, seconds: float) -> int:
    """A command that changes a job in its file is killed."""
    return _killed(chance, folder, seconds, _command_for_ever)


def window_kills(chance: random.Random, folder: Path, seconds: float) -> int:
    """The window is killed while its user edits and saves."""
    import molvik.desktop.window  # noqa: F401  # once, for all that begin as copies of this process

    return _killed(chance, folder, seconds, _window_for_ever)


def _killed(chance: random.Random, folder: Path, seconds: float, writer: Writer) -> int:
    box = PhotoBox(folder / "box")
    few = replace(demo_job("plover"), photos=())
    many = job_with_photos(box, 6)
    count = 0
    for _ in until(seconds):
        count += 1
        path = folder / "killed.molvik"
        for left in folder.glob("*killed.molvik*"):
            left.unlink()
        job = chance.choice((few, many))
        save_job(replace(job, subtitle="0"), path, box)
        if chance.random() < 0.3:  # an old zip, that is migrated when it is saved
            from old_jobs import put_old

            path.unlink()
            put_old(replace(job, subtitle="0"), path, box)
        box.close()
        reads, writes = os.pipe()
        child = os.fork()
        if child == 0:
            try:
                writer(path, job, box, writes)
            except BaseException:
                traceback.print_exc()
            os._exit(1)
        os.close(writes)
        said = b"" if writer is _save_for_ever else os.read(reads, 65_536)  # a window takes long
        time.sleep(chance.choice((0.004, 0.02, 0.05)) * chance.random() + 0.002)
        assert os.waitpid(child, os.WNOHANG)[0] == 0, "it ended by itself"
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        while part := os.read(reads, 65_536):
            said += part
        os.close(reads)
        confirmed = int(said.split(b"\n")[-2]) if said.count(b"\n") else 0
        if path.read_bytes()[:16] == START:
            assert outside_says(path, folder)[0] == "ok", "another reader finds it damaged"
        file = open_job(path)
        number = int(file.job.subtitle)
        assert file.remark == "", file.remark
        assert number >= confirmed, f"save {confirmed} was confirmed, {number} was found"
        for one in file.job.photos:
            kept = file.photo(one.file)
            assert kept is not None, f"{one.code} was lost"
            assert one.file == Picture(kept, 0, 0).file
        photos = PhotoBox(box.folder, file)
        last = replace(file.job, subtitle="last")
        save_job(last, path, photos)
        photos.close()
        beside = [f"{one.name} {one.stat().st_size}" for one in folder.glob("killed.molvik-*")]
        assert not beside, f"left beside it: {beside}"
        assert outside_says(path, folder) == ("ok", encode_job(last).decode())
    return count


def shelf_kills(chance: random.Random, folder: Path, seconds: float) -> int:
    """Two programs that use one shelf are killed: no metre is lost or taken twice."""
    from shelfkills import strike

    count = 0
    for _ in until(seconds):
        count += 1
        strike(chance, folder)
    return count


def journals(chance: random.Random, folder: Path, seconds: float) -> int:
    """Whatever lies beside a job: nothing else is touched, no photo is lost."""
    from journals import harmless_journal, journal_bytes

    box = PhotoBox(folder / "box")
    job, path, kept = job_with_photos(box), folder / "a.molvik", folder / "kept"
    save_job(job, path, box)
    shutil.copy(path, folder / "long ago")
    save_job(replace(job, title="second"), path, box)
    shutil.copy(path, kept)
    box.close()
    letter, count = folder / "letter", 0
    pages = path.stat().st_size // 16_384
    for _ in until(seconds):
        count += 1
        letter.write_bytes(b"dear reader")
        shutil.copyfile(chance.choice((kept, folder / "long ago")), path)
        wanted = open_job(path).job
        names = chance.choice(("", "", str(letter), str(path), str(folder / "box"), "x" * 600))
        old = {chance.randint(1, pages): chance.randbytes(16_384) for _ in range(3)}
        first = path.read_bytes()[:16_384]
        match chance.randrange(5):
            case 0 | 1:
                data = harmless_journal(chance.choice((path, kept)), names)
            case 2:
                data = journal_bytes(old, chance.choice((0, 1, pages, 2**31)), names=names)
            case 3:
                data = journal_bytes({1: first} | old, pages, names=names)
            case _:
                size = chance.choice((512, 16_384))
                data = journal_bytes({}, chance.randrange(pages), size, names)
        if chance.random() < 0.4:
            data = mutated(chance, data)
        ending = chance.choice(("-journal", "-journal", "-journal", "-wal", "-shm"))
        beside = folder / f"a.molvik{ending}"
        beside.write_bytes(data)
        before = path.read_bytes()
        with in_time():
            with (
                contextlib.redirect_stdout(io.StringIO()),
                contextlib.redirect_stderr(io.StringIO()),
            ):
                assert command(["survey", str(path)]) == 0
            assert path.read_bytes() == before
            assert beside.read_bytes() == data
            photos = PhotoBox(file=open_job(path))
            if chance.random() < 0.5:
                save_job(replace(wanted, title="saved"), path, photos)
            photos.close()
            file = open_job(path)
            assert file.job in (wanted, replace(wanted, title="saved"))
            for one in wanted.photos:
                assert file.photo(one.file) is not None, "a photo was lost"
            file.close()
        assert letter.read_bytes() == b"dear reader", "another file was touched"
        for left in folder.glob("a.molvik?*"):
            left.unlink()
    return count


def rows(chance: random.Random, folder: Path, seconds: float) -> int:
    """Job files whose rows and schema were changed by an SQLite program: told, never raised."""
    import sqlite3

    box = PhotoBox(folder / "box")
    job, path, kept = job_with_photos(box), folder / "a.molvik", folder / "kept"
    save_job(job, kept, box)
    save_job(replace(job, title="second"), kept, box)
    box.close()
    odd = (
        "NULL",
        "''",
        "x''",
        "-1",
        "0",
        "9223372036854775807",
        "-9223372036854775808",
        "1e308",
        "'x'",
        "9e999",
        "x'ff00ff'",
        "rowid",
        "rowid + 1",
        "zeroblob(70000000)",
        "randomblob(20)",
        "CAST(x'ff' AS TEXT)",
        "(SELECT text FROM job)",
    )
    columns = {
        "job": ("id", "version", "sha256", "text"),
        "versions": ("id", "at", "name", "sha256", "packed"),
        "photos": ("id", "name", "sha256", "data"),
        "shown": ("version", "photo"),
    }
    count = 0
    for _ in until(seconds):
        count += 1
        shutil.copyfile(kept, path)
        plain = sqlite3.connect(path, isolation_level=None)
        plain.execute("PRAGMA ignore_check_constraints = ON")
        if chance.random() < 0.2:
            plain.execute("PRAGMA writable_schema = ON")
        for _ in range(chance.choice((1, 1, 2, 4))):
            table = chance.choice(list(columns))
            column, value = chance.choice(columns[table]), chance.choice(odd)
            with contextlib.suppress(sqlite3.Error):
                first = columns[table][0]
                copied = [chance.choice(odd) if c == "id" else c for c in columns[table]]
                plain.execute(
                    chance.choice(
                        (
                            f"UPDATE OR IGNORE {table} SET {column} = {value}",
                            f"UPDATE OR IGNORE {table} SET {column} = {value} WHERE {first} = 1",
                            f"DELETE FROM {table}",
                            f"DELETE FROM {table} WHERE {column} > 1",
                            f"INSERT OR IGNORE INTO {table} SELECT "
                            f"{', '.join(copied)} FROM {table}",
                            f"UPDATE sqlite_schema SET {chance.choice(SCHEMA)} = {value}",
                            "PRAGMA user_version = 1",
                            "PRAGMA journal_mode = WAL",
                            "VACUUM",
                            f"ALTER TABLE {table} ADD COLUMN more",
                            f"DROP TABLE {table}",
                        )
                    )
                )
        plain.close()
        before = path.read_bytes()
        with in_time():
            try:
                file = open_job(path)
            except JobFileError:
                assert path.read_bytes() == before
                continue
            photos = PhotoBox(file=file)
            whole = [one.file for one in file.job.photos if file.photo(one.file) is not None]
            for version in file.versions()[:30]:
                with contextlib.suppress(JobFileError):
                    file.version(version.id)
            with contextlib.suppress(JobFileError):
                save_job(replace(file.job, title="saved"), path, photos)
                again = open_job(path)
                assert again.job.title == "saved"
                assert all(again.photo(name) is not None for name in whole), "a save lost a photo"
                again.close()
            photos.close()
        for left in folder.glob("a.molvik?*"):
            left.unlink()
    return count


def _save_for_ever(path: Path, job: Job, box: PhotoBox, told: int) -> None:
    """Save again and again, now and then with a photo more; say which saves are done."""
    number = 0
    photos = PhotoBox(box.folder, open_job(path))
    while True:
        number += 1
        if number % 3 == 0:
            job = photo_edits.add(job, (replace(box.add(noise(100 + number)), at=AT),))
        save_job(replace(job, subtitle=str(number)), path, photos)
        os.write(told, b"%d\n" % number)


def _command_for_ever(path: Path, job: Job, box: PhotoBox, told: int) -> None:
    """Change the job in its file as every command does."""
    number = 0
    while True:
        number += 1
        change_job(path, None, False, partial(_numbered, number))
        os.write(told, b"%d\n" % number)


def _window_for_ever(path: Path, job: Job, box: PhotoBox, told: int) -> None:
    """Edit in the window and save, by what its commands call; some edits are not saved."""
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from molvik.desktop.window import MainWindow

    application = QApplication([])
    window = MainWindow(QSettings(f"{path}.ini", QSettings.Format.IniFormat))
    window.show()
    assert window.files.open(path)
    number = 0
    while True:
        number += 1
        window.store.do("a subtitle", partial(_numbered, number))
        application.processEvents()
        if number % 4 == 0:
            window.files.keeper.keep()
        assert window.files.save()
        os.write(told, b"%d\n" % number)


def _numbered(number: int, job: Job) -> Job:
    return replace(job, subtitle=str(number))


def random_edits(chance: random.Random, folder: Path, seconds: float) -> int:
    """Whatever edits accept, a file gives back."""
    from hypothesis import HealthCheck, Phase, given, seed, settings
    from hypothesis import strategies as st

    from jobs import edited, jobs

    done = 0

    def run(data: st.DataObject) -> None:
        nonlocal done
        job = data.draw(jobs())
        for _ in range(6):
            with contextlib.suppress(ValueError):
                job = data.draw(edited(job))
                done += 1
        assert decode_job(encode_job(job), "x") == job

    for _ in until(seconds):
        some = settings(
            max_examples=20,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        seed(chance.randrange(2**32))(some(given(st.data())(run)))()
    return done


def blocks(chance: random.Random, folder: Path, seconds: float) -> int:
    """Two blocks, or all of them, in any order at any voltage: none raises a stop or a look."""
    from test_blocks import VOLTS, WANTED, empty, laid, told

    done = 0
    for _ in until(seconds):
        order = list(WANTED)
        chance.shuffle(order)
        volts, job = chance.choice(VOLTS), None
        for title, answers, _ in order[: chance.choice((2, 2, 2, 3, len(order)))]:
            job = laid(job or empty(volts), title, answers)
        assert job is not None
        assert not told(job), (volts, [one[:2] for one in order])
        done += 1
    return done


def random_user(chance: random.Random, folder: Path, seconds: float) -> int:
    """A person who clicks and types anything: nothing raises, and memory comes back."""
    from randomuser import play

    return play(chance, folder, seconds, TIMES)


def instruments(chance: random.Random, folder: Path, seconds: float) -> int:
    """Instruments that answer oddly: a reading is what was measured, or there is none."""
    from molvik.instruments.answers import InstrumentError
    from molvik.instruments.visa import Instrument
    from odd_instruments import at_random, serving

    count = 0
    for _ in until(seconds):
        count += 1
        before = megabytes()
        with serving(at_random(chance, chance.choice((0.05, 0.3, 0.8)))) as server:
            try:
                meter = Instrument(server.resource, timeout_ms=250)
                meter.identity()
            except InstrumentError:
                continue
            for _ in range(6):
                began = time.process_time()
                with contextlib.suppress(InstrumentError):
                    ohm = meter.ohm()
                    assert ohm == server.shown, f"{ohm} was read, {server.shown} was measured"
                assert time.process_time() - began < LONGEST_S
            meter.close()
        assert megabytes() - before < 60, "it swells"
    return count


def slow_edits(chance: random.Random, folder: Path, seconds: float, wires: int = 2000) -> int:
    """Edits of a large job, some of them before the one before was looked over: nothing swells, and
    the interface's thread is not held.
    """
    from slowedits import edit_slowly

    return edit_slowly(chance, folder, seconds, wires, TIMES)


def slow_edits_5000(chance: random.Random, folder: Path, seconds: float) -> int:
    """The same with 5,000 wires."""
    return slow_edits(chance, folder, seconds, 5000)


ATTACKS: dict[str, tuple[Attack, float]] = {
    "job-bytes": (job_bytes, 1.0),
    "job-values": (job_values, 1.5),
    "tables": (tables, 1.0),
    "pictures": (pictures, 0.5),
    "commands": (commands, 1.0),
    "kills": (kills, 1.5),
    "command-kills": (command_kills, 1.0),
    "window-kills": (window_kills, 1.0),
    "shelf-kills": (shelf_kills, 1.0),
    "journals": (journals, 1.0),
    "rows": (rows, 1.0),
    "random-edits": (random_edits, 0.5),
    "blocks": (blocks, 1.0),
    "random-user": (random_user, 1.0),
    "instruments": (instruments, 1.0),
    "slow-edits": (slow_edits, 1.0),
    "slow-edits-5000": (slow_edits_5000, 1.0),
}
"""Each attack with its share of the time."""


def run(name: str, seconds: float, seed: int) -> int:
    """Run one attack; return how many times it struck."""
    attack, share = ATTACKS[name]
    with tempfile.TemporaryDirectory(prefix="molvik-torture-") as folder:
        os.environ["XDG_STATE_HOME"] = folder + "/state"
        os.environ["XDG_DATA_HOME"] = folder + "/data"
        try:
            return attack(random.Random(seed), Path(folder), seconds * share)
        finally:
            shutil.rmtree(folder + "/state", ignore_errors=True)


def main() -> int:
    """Run the attacks one after the other."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=20, help="for each attack, about")
    parser.add_argument("--seed", type=int, default=int(time.time()))
    parser.add_argument("--only", choices=list(ATTACKS), action="append")
    parser.add_argument("--rounds", type=int, default=1)
    parser.add_argument("--times", type=int, help="so often instead of so long")
    words = parser.parse_args()
    global TIMES
    TIMES = words.times
    for number in range(words.rounds):
        for name in words.only or ATTACKS:
            seed = words.seed + number
            print(f"{name}, seed {seed}: ", end="", flush=True)
            began = time.monotonic()
            count = run(name, words.seconds, seed)
            took = time.monotonic() - began
            print(f"{count} times in {took:.0f} s, {megabytes():.0f} MB, nothing lost", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
