"""The job file: saved whole, opened equal, and honest about what it cannot open."""

import errno
import json
import os
import re
import sqlite3
import stat
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from msgspec.structs import replace

from conftest import put_job, small_job
from jobs import jobs
from molvik.files.devices import read_device
from molvik.files.errors import DamagedError, InTheWayError, JobFileError
from molvik.files.families import read_family
from molvik.files.jobfile import open_job, read_job
from molvik.files.jobtext import decode_job, encode_job
from molvik.files.lock import lock_job
from molvik.files.photobox import PhotoBox
from molvik.files.recovery import Recovery, discard, leftovers
from molvik.files.saving import _save_problem, save_job
from molvik.files.schema import schema_json
from molvik.files.writing import clear_leftovers
from molvik.model.job import SCHEMA_VERSION, Job, Reading
from molvik.model.parts import End
from molvik.proving.continuity import verdicts
from molvik.proving.proofplan import ProofPlan

ROOT = Path(__file__).parent.parent


@given(jobs())
def test_any_job_saved_and_opened_is_equal(job: Job) -> None:
    assert decode_job(encode_job(job), "x.molvik") == job


def test_a_file_saved_and_opened_is_equal(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "a job.molvik"
    put_job(demo, path)
    assert read_job(path) == demo
    assert [p.name for p in tmp_path.iterdir() if "molvik" in p.name] == ["a job.molvik"]
    assert stat.S_IMODE(path.stat().st_mode) & 0o600 == 0o600


def test_any_sqlite_program_reads_the_job_as_text(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "job.molvik"
    put_job(demo, path)
    plain = sqlite3.connect(path)
    assert plain.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
    assert plain.execute("PRAGMA application_id").fetchone()[0] == int.from_bytes(b"Mlvk", "big")
    text = plain.execute("SELECT text FROM job").fetchone()[0]
    assert decode_job(text.encode(), "x") == demo
    assert plain.execute("SELECT count(*) FROM photos").fetchone()[0] == len(demo.photos)
    plain.close()


def test_what_a_save_replaces_as_a_whole_stays_beside_it(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "job.molvik"
    put_job(small_job(), path)
    put_job(demo, path)
    put_job(replace(demo, title="third"), path)
    assert read_job(tmp_path / "job.molvik~") == small_job()
    assert read_job(tmp_path / "job.molvik~2") == demo


def test_a_file_that_nobody_gave_up_is_not_written_over(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "job.molvik"
    path.write_text("a letter")
    with pytest.raises(InTheWayError, match="is there already"):
        save_job(small_job(), path, PhotoBox())
    assert path.read_text() == "a letter"


def test_two_versions_differ_by_the_lines_that_changed(demo: Job) -> None:
    from molvik.model import edits

    one = encode_job(demo).decode().splitlines()
    other = encode_job(edits.change_wire(demo, "W12", note="moved")).decode().splitlines()
    assert len(set(other) - set(one)) <= 2
    assert one == encode_job(demo).decode().splitlines()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"hello", "is not a Molvik job"),
        (b"PK\x03\x04rubbish", "damaged or cut short"),
        (b"SQLite format 3\0rubbish", "damaged"),
    ],
)
def test_what_is_not_a_job_is_named_and_left_alone(tmp_path: Path, data: bytes, words: str) -> None:
    path = tmp_path / "x.molvik"
    path.write_bytes(data)
    with pytest.raises(JobFileError, match=words):
        open_job(path)
    assert path.read_bytes() == data


def test_a_zip_from_somewhere_else_is_named(tmp_path: Path) -> None:
    path = tmp_path / "x.molvik"
    with zipfile.ZipFile(path, "w") as other:
        other.writestr("letter.txt", "hello")
    with pytest.raises(JobFileError, match="a zip file but not a Molvik job"):
        open_job(path)


def test_a_database_from_somewhere_else_is_named(tmp_path: Path) -> None:
    path = tmp_path / "x.molvik"
    other = sqlite3.connect(path)
    other.execute("CREATE TABLE letters (text)")
    other.close()
    with pytest.raises(JobFileError, match="a database but not a Molvik job"):
        open_job(path)


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE TRIGGER t AFTER INSERT ON versions BEGIN DELETE FROM photos; END",
        "CREATE VIEW v AS SELECT 1",
        "CREATE INDEX i ON versions (at)",
        "CREATE TABLE more (x)",
    ],
)
def test_a_database_with_more_in_it_than_a_job_is_refused(tmp_path: Path, statement: str) -> None:
    path = tmp_path / "x.molvik"
    put_job(small_job(), path)
    other = sqlite3.connect(path)
    other.execute(statement)
    other.close()
    with pytest.raises(JobFileError, match="not a Molvik job"):
        open_job(path)


def test_a_database_of_a_newer_molvik_says_so(tmp_path: Path) -> None:
    path = tmp_path / "x.molvik"
    put_job(small_job(), path)
    other = sqlite3.connect(path)
    other.execute("PRAGMA user_version = 3")
    other.close()
    with pytest.raises(JobFileError, match="newer Molvik"):
        open_job(path)


@pytest.mark.parametrize("kind", ["fifo", "loop", "device"])
def test_what_is_no_regular_file_is_neither_read_nor_written(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "x.molvik"
    if kind == "fifo":
        os.mkfifo(path)
    elif kind == "loop":
        path.symlink_to(path)
    else:
        path.symlink_to("/dev/full")
    with pytest.raises(JobFileError):
        open_job(path)
    with pytest.raises(JobFileError, match=r"device or a pipe|leads back"):
        save_job(small_job(), path, PhotoBox(), instead=True)


@pytest.mark.parametrize("name", ["100% sure? #1 & more.molvik", "b'\\xff.molvik", "ø ☃.molvik"])
def test_any_name_can_be_saved_and_opened(tmp_path: Path, name: str) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/\xff\xfe " + name.encode()))
    photos = PhotoBox()
    save_job(small_job(), path, photos)
    save_job(replace(small_job(), title="second"), path, photos)
    assert read_job(path).title == "second"


def test_a_job_in_a_folder_nobody_may_write_is_opened(tmp_path: Path) -> None:
    folder = tmp_path / "read only"
    folder.mkdir()
    path = folder / "job.molvik"
    put_job(small_job(), path)
    path.chmod(0o444)
    folder.chmod(0o555)
    assert read_job(path) == small_job()
    folder.chmod(0o755)


@pytest.mark.parametrize("reader", [read_device, read_family])
@pytest.mark.parametrize("kind", ["fifo", "loop", "folder", "deep", "large"])
def test_shared_devices_and_housings_are_no_way_to_hang(
    tmp_path: Path, reader: Callable[[Path], object], kind: str
) -> None:
    path = tmp_path / "x.molvik-device"
    if kind == "fifo":
        os.mkfifo(path)
    elif kind == "loop":
        path.symlink_to(path)
    elif kind == "folder":
        path.mkdir()
    else:
        path.write_bytes(b'{"name":' + b"[" * (100_000 if kind == "deep" else 2_000_000))
    with pytest.raises(JobFileError, match=r"cannot be read|is not a (device|housing)"):
        reader(path)


def test_what_killed_saves_left_is_cleared_at_the_next_opening(tmp_path: Path) -> None:
    path = tmp_path / "job.molvik"
    put_job(small_job(), path)
    names = (
        ".job.molvik.a1b2.molvik-part",
        ".job.molvik.a1b2.molvik-part-journal",
        ".job.molvik.x9.part",
        ".job.molvik~.part",
    )
    others = (".job2.molvik.a1.molvik-part", "job.molvik~", ".job.molvik.notes")
    for name in (*names, *others):
        (tmp_path / name).write_text("left")
    clear_leftovers(path)
    left = {one.name for one in tmp_path.iterdir() if one.is_file()}
    assert left == {"job.molvik", *others}


def altered(demo: Job, **fields: object) -> bytes:
    data = json.loads(encode_job(demo))
    for name, value in fields.items():
        target = data
        *way, last = name.split("__")
        for step in way:
            target = target[int(step) if step.isdigit() else step]
        target[last] = value
    return json.dumps(data).encode()


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"schema": SCHEMA_VERSION + 1}, "newer Molvik"),
        ({"schema": "one"}, "does not say which version"),
        ({"job__wires__0__length_m": "long"}, "damaged"),
        ({"job__wires__0__colour": 7}, "damaged"),
        ({"job__wires__0__unheard_of": 1}, "newer Molvik: it holds what"),
        ({"job__wires__0__length_m": -4}, "W1 has a length or current of -4"),
        ({"job__wires__0__code": "W2"}, "the code W2 is used twice"),
        ({"job__connectors__0__grid__rows": 10**9}, "more cavities than any housing"),
        ({"job__fuses__0__rating_a": 0}, "F1 has a rating of 0 A"),
        ({"job__wires__0__size__value": 0}, "wire size of 0"),
        ({"job__settings": {"system_v": 0}}, "system voltage is 0 V"),
        ({"job__settings": {"ambient_c": -400}}, "the job has an air temperature of -400"),
        ({"job__wires__0__ambient_c": 1e9}, "W1 has an air temperature"),
    ],
)
def test_a_job_with_something_impossible_is_refused_by_name(
    demo: Job, fields: dict[str, object], words: str
) -> None:
    with pytest.raises(JobFileError, match=words):
        decode_job(altered(demo, **fields), "x.molvik")


def test_a_cavity_listed_twice_is_refused_by_name(demo: Job) -> None:
    data = json.loads(encode_job(demo))
    plug = next(one for one in data["job"]["connectors"] if one.get("pins"))
    plug["pins"].append(plug["pins"][0])
    words = f"{plug['code']} lists cavity {plug['pins'][0]['cavity']} twice"
    with pytest.raises(JobFileError, match=words):
        decode_job(json.dumps(data).encode(), "x.molvik")


def test_json_that_is_none_is_refused() -> None:
    for data in (b"{", b"[]", b"\xff\xfe", b"null"):
        with pytest.raises(JobFileError):
            decode_job(data, "x.molvik")


@pytest.mark.parametrize(
    ("number", "words"),
    [
        (errno.ENOSPC, "the disk is full"),
        (errno.EROFS, "the disk is read-only"),
        (errno.EACCES, "no permission to write there"),
        (errno.EIO, "not saved"),
    ],
)
def test_a_save_that_fails_says_why_and_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, demo: Job, number: int, words: str
) -> None:
    path = tmp_path / "job.molvik"
    put_job(small_job(), path)
    left = sorted(one.name for one in tmp_path.iterdir())

    def fail(handle: int) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(JobFileError, match=words) as problem:
        put_job(demo, path)
    assert "still open" in str(problem.value)
    assert read_job(path) == small_job()
    assert sorted(one.name for one in tmp_path.iterdir()) == left


def test_a_really_full_disk_is_told_and_leaves_the_old_file(tmp_path: Path, demo: Job) -> None:
    """A file system of its own with no room left, where the tests may mount one."""
    disk = tmp_path / "disk"
    disk.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=300k", "none", str(disk)], capture_output=True
    )
    if mounted.returncode:
        # Without the right to mount, the device that is always full stands in for it.
        with pytest.raises(OSError, match="No space") as problem:
            Path("/dev/full").write_bytes(b"x")
        assert "disk is full" in _save_problem(disk / "a.molvik", problem.value)
        return
    try:
        path = disk / "job.molvik"
        put_job(small_job(), path)
        (disk / "filler").write_bytes(b"x" * 4096 * 20)
        with pytest.raises(JobFileError, match="disk is full"):
            put_job(demo, path)
        assert read_job(path) == small_job()
    finally:
        subprocess.run(["umount", str(disk)], check=True)


def test_a_folder_that_is_gone_is_told(tmp_path: Path) -> None:
    with pytest.raises(JobFileError, match="is not there any more"):
        put_job(small_job(), tmp_path / "gone" / "job.molvik")
    with pytest.raises(JobFileError, match=r"no file job\.molvik there"):
        read_job(tmp_path / "job.molvik")
    with pytest.raises(JobFileError, match="is a folder"):
        read_job(tmp_path)


def test_saving_through_a_link_changes_the_file_it_points_to(tmp_path: Path, demo: Job) -> None:
    real, link = tmp_path / "real.molvik", tmp_path / "link.molvik"
    put_job(small_job(), real)
    link.symlink_to(real)
    put_job(demo, link)
    assert link.is_symlink()
    assert read_job(real) == demo


def test_the_published_schema_is_the_one_the_types_have() -> None:
    published = (ROOT / "docs" / "job.schema.json").read_bytes()
    assert published == schema_json(), "run: make schema"
    assert json.loads(published)["$defs"]["Wire"]["properties"]["length_m"]


def test_one_job_is_open_in_one_window_only(tmp_path: Path) -> None:
    path = tmp_path / "job.molvik"
    first = lock_job(path)
    assert first is not None
    assert lock_job(path) is None
    assert lock_job(tmp_path / "other.molvik") is not None
    first.release()
    assert lock_job(path) is not None


def test_a_crash_leaves_no_lock_and_the_unsaved_job_survives(tmp_path: Path, demo: Job) -> None:
    """A second process opens a job, keeps a recovery copy, and is killed."""
    path = tmp_path / "job.molvik"
    put_job(small_job(), path)
    script = (
        "import os, sys; from pathlib import Path\n"
        "from molvik.demo import demo_job\n"
        "from molvik.files.lock import lock_job\n"
        "from molvik.files.recovery import Recovery\n"
        "lock = lock_job(Path(sys.argv[1])); r = Recovery()\n"
        "r.keep(demo_job(), Path(sys.argv[1]))\n"
        "print('kept', flush=True); sys.stdin.read()\n"
    )
    child = subprocess.Popen(
        [sys.executable, "-c", script, str(path)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    assert child.stdout is not None
    assert child.stdout.readline() == "kept\n"
    assert lock_job(path) is None
    assert leftovers() == [], "the other window is still open"
    child.kill()
    child.wait()
    lock = lock_job(path)
    assert lock is not None
    lock.release()
    left = leftovers()
    assert [(one.job, one.origin) for one in left] == [(demo, path)]
    discard(left[0])
    assert leftovers() == []


def test_a_job_that_was_saved_leaves_nothing_to_recover(demo: Job) -> None:
    recovery = Recovery()
    recovery.keep(demo, None)
    recovery.drop()
    recovery.close()
    assert leftovers() == []


def test_every_promise_on_the_page_names_a_test_that_is_there() -> None:
    page = (ROOT / "docs" / "job-file.md").read_text()
    tests = "\n".join(one.read_text() for one in (ROOT / "tests").glob("test_*.py"))
    named = re.findall(r"`\.\.\._([a-z0-9_-]+?)(?:_?\.\.\.)?`", page)
    assert len(named) > 12
    for words in named:
        assert re.search(rf"def test_\w*{words.replace('-', '_')}", tests), words


FIRST = """{"schema": 1, "written_by": "molvik 0.1.0", "job": {"id": "a", "title": "Old",
"connectors": [{"code": "C1", "name": "n", "grid": {"rows": 1, "columns": 2}}],
"wires": [{"code": "W1",
"start": {"at": "C1", "cavity": "1"}, "finish": {"at": "C1", "cavity": "2"}}],
"readings": [{"wire": "W1", "ohm": 0.3, "at": "2026-11-02T10:00:00+01:00", "by": "IM",
"leads_ohm": 0.2, "start": {"at": "C1", "cavity": "1"}, "finish": {"at": "C1", "cavity": "2"},
"note": "cold"}, {"wire": "W9", "ohm": null, "at": "2026-11-02T10:01:00+01:00", "by": "",
"leads_ohm": 0.2, "start": {"at": "C1", "cavity": "1"}, "finish": {"at": "C1", "cavity": "2"}}]}}"""


def test_a_job_of_the_first_schema_opens_with_its_readings() -> None:
    """There a reading was the ohms of a wire."""
    job = decode_job(FIRST.encode(), "old.molvik")
    one, other = job.readings
    ends = (End("C1", "1"), End("C1", "2"))
    assert one == Reading(
        "W1", "resistance", 0.3, ends, "2026-11-02T10:00:00+01:00", "IM", leads_ohm=0.2, note="cold"
    )
    assert (other.item, other.value, other.shown) == ("W9", None, "open")
    assert verdicts(ProofPlan(job))["W1"].outcome == "open", (
        "between its ends, since it was measured"
    )
    assert job.spent, "the code of a wire that only a reading speaks of is given to nothing else"
    assert decode_job(encode_job(job), "new.molvik") == job
    for broken in ('"readings": 5', '"readings": [5]', '"readings": [{"wire": 5}]'):
        text = re.sub(r'"readings": \[.*\]', broken, FIRST, flags=re.DOTALL)
        with pytest.raises(DamagedError):
            decode_job(text.encode(), "broken.molvik")
