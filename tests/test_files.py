"""The job package: saved whole, opened equal, and honest about what it cannot open."""

import errno
import json
import os
import stat
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest
from hypothesis import given

from conftest import small_job, wire
from jobs import jobs
from molvik.files import package
from molvik.files.lock import lock_job
from molvik.files.package import JobFileError, decode_job, encode_job, open_job, save_job
from molvik.files.recovery import Recovery, discard, leftovers
from molvik.files.schema import schema_json
from molvik.model.job import SCHEMA_VERSION, Job

ROOT = Path(__file__).parent.parent


@given(jobs())
def test_any_job_saved_and_opened_is_equal(job: Job) -> None:
    assert decode_job(encode_job(job), "x.molvik") == job


def test_a_file_saved_and_opened_is_equal(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "a job.molvik"
    save_job(demo, path)
    assert open_job(path) == demo
    assert [p.name for p in tmp_path.glob("*molvik*")] == ["a job.molvik"]
    assert stat.S_IMODE(path.stat().st_mode) & 0o600 == 0o600


def test_the_last_good_version_stays_beside_it(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "job.molvik"
    save_job(small_job(), path)
    save_job(demo, path)
    with zipfile.ZipFile(tmp_path / "job.molvik~") as before:
        assert decode_job(before.read("job.json"), "job.molvik~") == small_job()


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
    ],
)
def test_what_is_not_a_job_is_named_and_left_alone(tmp_path: Path, data: bytes, words: str) -> None:
    path = tmp_path / "x.molvik"
    path.write_bytes(data)
    with pytest.raises(JobFileError, match=words):
        open_job(path)
    assert path.read_bytes() == data


def test_a_job_cut_short_at_any_byte_is_refused_and_never_half_read(tmp_path: Path) -> None:
    whole = tmp_path / "whole.molvik"
    save_job(small_job(wire("W1", "C1/1", "C2/1")), whole)
    data = whole.read_bytes()
    path = tmp_path / "cut.molvik"
    for length in range(0, len(data), 23):
        path.write_bytes(data[:length])
        with pytest.raises(JobFileError):
            open_job(path)


def test_a_flipped_byte_is_noticed(tmp_path: Path, demo: Job) -> None:
    path = tmp_path / "x.molvik"
    save_job(demo, path)
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 0xFF
    path.write_bytes(bytes(data))
    with pytest.raises(JobFileError, match="damaged"):
        open_job(path)


def test_a_zip_from_somewhere_else_is_named(tmp_path: Path) -> None:
    path = tmp_path / "x.molvik"
    with zipfile.ZipFile(path, "w") as other:
        other.writestr("letter.txt", "hello")
    with pytest.raises(JobFileError, match="a zip file but not a Molvik job"):
        open_job(path)


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
        ({"job__wires__0__unheard_of": 1}, "damaged"),
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


def test_json_that_is_none_is_refused() -> None:
    for data in (b"{", b"[]", b"\xff\xfe", b"null"):
        with pytest.raises(JobFileError):
            decode_job(data, "x.molvik")


@pytest.mark.parametrize(
    ("number", "words"),
    [
        (errno.ENOSPC, "the disk is full"),
        (errno.EROFS, "the disk is read-only"),
        (errno.EACCES, "you may not write there"),
        (errno.EIO, "not saved"),
    ],
)
def test_a_save_that_fails_says_why_and_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, demo: Job, number: int, words: str
) -> None:
    path = tmp_path / "job.molvik"
    save_job(small_job(), path)

    def fail(handle: int) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(JobFileError, match=words) as problem:
        save_job(demo, path)
    assert "still open" in str(problem.value)
    assert open_job(path) == small_job()
    assert [p.name for p in tmp_path.glob(".*")] == []


def test_a_really_full_disk_is_told_and_leaves_the_old_file(tmp_path: Path, demo: Job) -> None:
    """A file system of its own with no room left, where the tests may mount one."""
    disk = tmp_path / "disk"
    disk.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=16k", "none", str(disk)], capture_output=True
    )
    if mounted.returncode:
        # Without the right to mount, the device that is always full stands in for it.
        with pytest.raises(OSError, match="No space") as problem:
            Path("/dev/full").write_bytes(b"x")
        assert "disk is full" in package._save_problem(disk / "a.molvik", problem.value)
        return
    try:
        path = disk / "job.molvik"
        save_job(small_job(), path)
        (disk / "filler").write_bytes(b"x" * 4096 * 2)
        with pytest.raises(JobFileError, match="disk is full"):
            save_job(demo, path)
        assert open_job(path) == small_job()
    finally:
        subprocess.run(["umount", str(disk)], check=True)


def test_a_folder_that_is_gone_is_told(tmp_path: Path) -> None:
    with pytest.raises(JobFileError, match="is not there any more"):
        save_job(small_job(), tmp_path / "gone" / "job.molvik")
    with pytest.raises(JobFileError, match=r"no file job\.molvik there"):
        open_job(tmp_path / "job.molvik")
    with pytest.raises(JobFileError, match="is a folder"):
        open_job(tmp_path)


def test_saving_through_a_link_changes_the_file_it_points_to(tmp_path: Path, demo: Job) -> None:
    real, link = tmp_path / "real.molvik", tmp_path / "link.molvik"
    save_job(small_job(), real)
    link.symlink_to(real)
    save_job(demo, link)
    assert link.is_symlink()
    assert open_job(real) == demo


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
    save_job(small_job(), path)
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
