"""No way of writing, cutting, replacing or killing a job file loses a photo without a word."""

import os
import random
import shutil
import sqlite3
import subprocess
import zipfile
from datetime import date, timedelta
from pathlib import Path

import pytest
from msgspec.structs import replace

from conftest import small_job
from molvik.cli import main
from molvik.files import database
from molvik.files.contents import Version, superfluous
from molvik.files.errors import ChangedOutsideError, JobFileError, PhotosMissingError
from molvik.files.jobfile import open_job, read_job
from molvik.files.lock import lock_job
from molvik.files.photobox import PhotoBox
from molvik.files.photos import Picture
from molvik.files.saving import save_job
from molvik.model import photo_edits
from molvik.model.job import Job
from molvik.model.photos import Photo
from old_jobs import put_old

AT = "2026-03-02T10:20:30+01:00"


def noise(seed: int, size: int = 400_000) -> Picture:
    """Return bytes that stand for a photo; the file does not look into them."""
    return Picture(random.Random(seed).randbytes(size), 800, 600)


def with_photos(box: PhotoBox, count: int = 5, first: int = 0) -> Job:
    photos = tuple(replace(box.add(noise(n)), at=AT) for n in range(first, first + count))
    return photo_edits.add(small_job(), photos)


def more_photos(job: Job, box: PhotoBox, seed: int) -> Job:
    return photo_edits.add(job, (replace(box.add(noise(seed)), at=AT),))


def whole_photos(job: Job, path: Path) -> list[str]:
    """Return the codes of the job's photos that a file holds as they were added."""
    file = open_job(path)
    kept = {noise(n).file: noise(n).data for n in range(12)}
    found = [one.code for one in job.photos if file.photo(one.file) == kept[one.file]]
    file.close()
    return found


@pytest.fixture
def box(tmp_path: Path) -> PhotoBox:
    return PhotoBox(tmp_path / "box")


@pytest.fixture
def path(tmp_path: Path) -> Path:
    return tmp_path / "a.molvik"


def beside(path: Path) -> list[str]:
    return sorted(one.name for one in path.parent.iterdir() if one.name.startswith(path.name))


# saving


def test_a_job_comes_back_with_its_photos(box: PhotoBox, path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    assert read_job(path) == job
    assert whole_photos(job, path) == ["P1", "P2", "P3", "P4", "P5"]


def test_the_photos_are_not_written_anew(box: PhotoBox, path: Path, tmp_path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    shutil.rmtree(tmp_path / "box")  # they are in the file now, and not looked for elsewhere
    size, inode = path.stat().st_size, path.stat().st_ino
    before = path.read_bytes()
    later = replace(job, title="With a note")
    save_job(later, path, box)
    assert path.stat().st_ino == inode
    assert path.stat().st_size < size + 100_000
    pages = range(0, size, database.PAGE_BYTES)
    after = path.read_bytes()
    changed = sum(before[at : at + 16_384] != after[at : at + 16_384] for at in pages)
    assert changed < 8, "of more than a hundred pages"
    assert read_job(path) == later
    assert len(whole_photos(job, path)) == 5
    assert beside(path) == ["a.molvik"]


def test_save_as_takes_photos_and_versions_along(box: PhotoBox, path: Path, tmp_path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    save_job(replace(job, title="two"), path, box)
    save_job(replace(job, title="three"), tmp_path / "b.molvik", box)
    assert read_job(path).title == "two"
    other = open_job(tmp_path / "b.molvik")
    assert [other.version(one.id).title for one in other.versions()] == ["three", "two", job.title]
    assert len(whole_photos(job, tmp_path / "b.molvik")) == 5


def test_a_photo_that_is_nowhere_is_named_before_anything_is_written(
    box: PhotoBox, path: Path, tmp_path: Path
) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    before = path.read_bytes()
    more = more_photos(job, box, 9)
    shutil.rmtree(tmp_path / "box")
    with pytest.raises(PhotosMissingError, match=r"A photo .* cannot be read any more: P6") as told:
        save_job(more, path, box)
    assert path.read_bytes() == before
    save_job(more, path, box, without=told.value.names)  # the user knows, and says so
    assert read_job(path) == more
    assert len(whole_photos(more, path)) == 5
    save_job(replace(more, title="known lost"), path, PhotoBox(file=open_job(path)))


def test_what_a_save_leaves_out_can_still_be_undone(box: PhotoBox, path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    later = PhotoBox(file=open_job(path))  # opened again
    for n in range(30):  # more saves than automatic versions are kept
        save_job(replace(photo_edits.remove(job, "P2"), title=f"{n}"), path, later)
    save_job(job, path, later)
    assert len(whole_photos(job, path)) == 5


def test_a_photo_that_no_version_shows_goes_in_a_later_session(box: PhotoBox, path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    without = photo_edits.remove(job, "P2")
    photos = PhotoBox(file=open_job(path))
    for n in range(25):
        save_job(replace(without, title=f"{n}"), path, photos)
    photos.close()
    assert open_job(path).photo(job.photos[1].file) is not None, "the first of the day shows it"
    file = open_job(path)
    with sqlite3.connect(path) as plain:
        plain.execute("DELETE FROM versions WHERE id < 10")
        plain.execute("DELETE FROM shown WHERE version < 10")
    file = open_job(path)
    save_job(replace(without, title="later"), path, PhotoBox(file=file))
    assert file.photo(job.photos[1].file) is None
    assert len(whole_photos(job, path)) == 4


def test_versions_that_are_kept_are_named_ones_new_ones_and_one_a_day() -> None:
    today = date(2026, 3, 2)
    times = [(today - timedelta(days=n // 3)).isoformat() + f"T1{2 - n % 3}:00" for n in range(300)]
    made = [Version(300 - n, at, "kept" if n == 290 else "") for n, at in enumerate(times)]
    gone = set(superfluous(made, today))
    kept = [one for one in made if one.id not in gone]
    assert [one.id for one in kept[:20]] == [one.id for one in made[:20]]
    assert sum(one.name == "kept" for one in kept) == 1
    days = {one.at[:10] for one in kept}
    assert days == {(today - timedelta(days=n)).isoformat() for n in range(61)} | {times[290][:10]}
    assert 60 < len(kept) < 90


def test_a_version_with_a_name_stays_and_is_found(box: PhotoBox, path: Path) -> None:
    save_job(small_job(), path, box, name="as found")
    for n in range(40):
        save_job(replace(small_job(), title=f"{n}"), path, box)
    file = open_job(path)
    named = [one for one in file.versions() if one.name]
    assert [one.name for one in named] == ["as found"]
    assert file.version(named[0].id) == small_job()
    with pytest.raises(JobFileError, match="no version 999"):
        file.version(999)


# damaged


@pytest.mark.parametrize("share", [0.2, 0.4, 0.6, 0.8, 0.95, 0.999])
def test_a_file_cut_short_gives_what_is_whole_and_saving_keeps_it(
    box: PhotoBox, path: Path, share: float
) -> None:
    job = with_photos(box, 10)
    save_job(job, path, box)
    save_job(replace(job, title="newest"), path, box)
    data = path.read_bytes()
    path.write_bytes(data[: int(len(data) * share)])
    file = open_job(path)
    assert "cut short or damaged" in file.remark
    assert replace(file.job, title=job.title) == job
    found = whole_photos(job, path)
    assert len(found) >= int(share * 10) - 2
    save_job(replace(file.job, title="saved again"), path, PhotoBox(file=file))
    assert open_job(path).remark == ""
    assert whole_photos(job, path) == found
    assert (path.parent / "a.molvik~").read_bytes() == data[: int(len(data) * share)]


def test_a_flipped_byte_costs_one_photo_or_is_told(box: PhotoBox, path: Path) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    data = path.read_bytes()
    for at in random.Random(3).sample(range(len(data)), 30):
        other = bytearray(data)
        other[at] ^= 0xFF
        path.write_bytes(bytes(other))
        try:
            file = open_job(path)
        except JobFileError:
            continue
        assert file.job == job
        assert len(whole_photos(job, path)) >= 4


def old_file(path: Path, box: PhotoBox) -> tuple[Job, Job, int]:
    """Write a zip in two saves; return both jobs and where the first ends."""
    job = with_photos(box)
    put_old(job, path, box)
    end = path.stat().st_size
    more = replace(more_photos(job, box, 9), title="second")
    put_old(more, path, box)
    return job, more, end


def test_an_old_zip_is_opened_and_becomes_a_database_on_its_first_save(
    box: PhotoBox, path: Path
) -> None:
    _, job, _ = old_file(path, box)
    data = path.read_bytes()
    file = open_job(path)
    assert (file.job, file.remark) == (job, "")
    later = replace(job, title="moved")
    save_job(later, path, PhotoBox(file=file))
    assert path.read_bytes()[:15] == b"SQLite format 3"
    assert (path.parent / "a.molvik~").read_bytes() == data
    assert read_job(path) == later
    assert whole_photos(job, path) == [one.code for one in job.photos]
    now = open_job(path)
    assert [now.version(one.id) for one in now.versions()] == [later, job]


@pytest.mark.parametrize("behind", [1, 30_000, 65_000, 199_000, 390_000])
def test_a_zip_cut_behind_an_older_directory_says_so_and_loses_no_photo(
    box: PhotoBox, path: Path, behind: int
) -> None:
    job, _, end = old_file(path, box)
    data = path.read_bytes()
    path.write_bytes(data[: end + behind])
    file = open_job(path)
    assert file.job == job
    assert "the version saved on" in file.remark
    assert "may not be the newest" in file.remark
    save_job(file.job, path, PhotoBox(file=file))
    assert whole_photos(job, path) == [one.code for one in job.photos]
    assert (path.parent / "a.molvik~").stat().st_size == end + behind


def test_a_zip_cut_in_its_directory_still_gives_the_newest(box: PhotoBox, path: Path) -> None:
    _, job, _ = old_file(path, box)
    path.write_bytes(path.read_bytes()[:-30])
    file = open_job(path)
    assert file.job == job
    assert len(whole_photos(job, path)) == 6


def test_a_zip_cut_in_its_photos_gives_them_to_the_copy_beside_it(
    box: PhotoBox, path: Path
) -> None:
    """Earlier versions kept the job beside its file as NAME~, without photos."""
    job = with_photos(box)
    put_old(job, path, box)
    data = path.read_bytes()
    path.write_bytes(data[:1_300_000])
    kept = path.parent / "a.molvik~"
    put_old(job, kept, PhotoBox())
    with pytest.raises(JobFileError, match=r"3 photos in it are whole.*beside it as a\.molvik~"):
        open_job(path)
    file = open_job(kept)
    assert len(file.lost) == 2
    save_job(file.job, path, PhotoBox(file=file), instead=True)
    assert whole_photos(job, path) == ["P1", "P2", "P3"]
    assert (path.parent / "a.molvik~2").read_bytes() == data[:1_300_000]
    assert kept.exists()


def test_false_sizes_in_a_zip_are_no_way_to_fill_the_memory(tmp_path: Path, path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("job.json", b" " * 300_000_000)
    with pytest.raises(JobFileError, match="unpacks to more than any job"):
        open_job(path)
    data = bytearray(path.read_bytes())
    for mark, at in ((b"PK\x01\x02", 24), (b"PK\x03\x04", 22)):
        start = data.rfind(mark) + at
        data[start : start + 4] = (1000).to_bytes(4, "little")
    path.write_bytes(bytes(data))
    with pytest.raises(JobFileError, match="damaged"):
        open_job(path)


# changed from outside


def opened(path: Path, box: PhotoBox) -> tuple[Job, PhotoBox]:
    job = with_photos(box)
    save_job(job, path, box)
    return job, PhotoBox(file=open_job(path))


def test_a_file_deleted_meanwhile_is_told_and_its_photos_are_still_there(
    box: PhotoBox, path: Path, tmp_path: Path
) -> None:
    job, photos = opened(path, box)
    path.unlink()
    shutil.rmtree(tmp_path / "box")
    with pytest.raises(ChangedOutsideError, match="deleted or moved"):
        save_job(job, path, photos)
    assert not path.exists()
    save_job(job, path, photos, instead=True)
    assert len(whole_photos(job, path)) == 5


def test_a_file_replaced_meanwhile_is_told_and_both_are_kept(box: PhotoBox, path: Path) -> None:
    job, photos = opened(path, box)
    other = path.with_name("other.molvik")
    save_job(replace(small_job(), title="theirs"), other, PhotoBox())
    os.replace(other, path)
    with pytest.raises(ChangedOutsideError, match="replaced"):
        save_job(job, path, photos)
    assert read_job(path).title == "theirs"
    save_job(job, path, photos, instead=True)
    assert len(whole_photos(job, path)) == 5
    assert read_job(path.parent / "a.molvik~").title == "theirs"


def test_a_file_written_over_meanwhile_is_told(box: PhotoBox, path: Path, tmp_path: Path) -> None:
    job, photos = opened(path, box)
    other = path.with_name("other.molvik")
    save_job(replace(small_job(), title="theirs"), other, PhotoBox())
    shutil.copyfile(other, path)  # the same file, other bytes
    with pytest.raises(ChangedOutsideError, match="changed by another program"):
        save_job(job, path, photos)
    shutil.rmtree(tmp_path / "box")
    with pytest.raises(PhotosMissingError, match="5 photos"):  # their bytes are gone: told
        save_job(job, path, photos, instead=True)
    assert read_job(path).title == "theirs"


def test_a_file_written_over_by_its_twin_is_told(path: Path) -> None:
    """As many saves and as many bytes: only the text tells them apart."""
    twin = path.with_name("twin.molvik")
    for one, title in ((path, "mine"), (twin, "hers")):
        save_job(replace(small_job(), title=title), one, PhotoBox())
    photos = PhotoBox(file=open_job(path))
    assert path.stat().st_size == twin.stat().st_size
    shutil.copyfile(twin, path)
    with pytest.raises(ChangedOutsideError):
        save_job(replace(small_job(), title="mine again"), path, photos)
    assert read_job(path).title == "hers"


@pytest.mark.parametrize("statement", ["DELETE FROM photos WHERE id = 1", "UPDATE job SET text=''"])
def test_a_change_inside_the_file_is_told(box: PhotoBox, path: Path, statement: str) -> None:
    job, photos = opened(path, box)
    plain = sqlite3.connect(path)
    plain.execute(statement)
    plain.commit()
    plain.close()
    with pytest.raises(ChangedOutsideError):
        save_job(job, path, photos)


def test_two_that_save_one_file_do_not_write_over_each_other(box: PhotoBox, path: Path) -> None:
    job, mine = opened(path, box)
    theirs = PhotoBox(file=open_job(path))
    save_job(replace(job, title="theirs"), path, theirs)
    with pytest.raises(ChangedOutsideError):
        save_job(replace(job, title="mine"), path, mine)
    save_job(replace(job, title="mine"), path, mine, instead=True)
    file = open_job(path)
    assert [file.version(one.id).title for one in file.versions()][:2] == ["mine", "theirs"]


def test_an_old_zip_changed_meanwhile_is_told(box: PhotoBox, path: Path) -> None:
    old_file(path, box)
    photos = PhotoBox(file=open_job(path))
    job = read_job(path)
    put_old(replace(job, title="theirs"), path, box)
    with pytest.raises(ChangedOutsideError, match="changed by another program"):
        save_job(job, path, photos)


@pytest.mark.skipif(os.geteuid() != 0, reason="a small disk can be mounted by root only")
def test_a_full_disk_leaves_a_file_with_photos_as_it_was(box: PhotoBox, tmp_path: Path) -> None:
    disk = tmp_path / "disk"
    disk.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", str(disk)]
    if subprocess.run(mount, capture_output=True, check=False).returncode:
        pytest.skip("no file system may be mounted here")
    try:
        path = disk / "a.molvik"
        job = with_photos(box)
        save_job(job, path, box)
        more = photo_edits.add(job, (replace(box.add(noise(7, 2_000_000)), at=AT),))
        with pytest.raises(JobFileError, match="the disk is full"):
            save_job(more, path, box)
        assert read_job(path) == job
        assert len(whole_photos(job, path)) == 5
        assert beside(path) == ["a.molvik"]
        save_job(replace(job, title="a small change still fits"), path, box)
    finally:
        box.close()
        subprocess.run(["umount", "--lazy", str(disk)], check=True)


# the command line


def wires_table(folder: Path) -> Path:
    table = folder / "wires.csv"
    table.write_text("from,to,function\nC1/1,C2/1,Lamp\nC1/2,C2/2,Pump\n")
    return table


def test_the_command_line_carries_photos_over(
    box: PhotoBox, path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    job = with_photos(box)
    put_old(job, path, box)
    table, out = str(wires_table(tmp_path)), tmp_path / "out.molvik"
    assert main(["import-wires", str(path), table, "--out", str(out)]) == 0
    assert len(whole_photos(job, out)) == 5
    assert len(read_job(out).wires) == 2
    assert read_job(path) == job
    assert main(["import-wires", str(path), table]) == 0
    assert len(whole_photos(job, path)) == 5
    stripped = tmp_path / "stripped.molvik"
    assert main(["strip", str(path), "--keep", "Battery", "--out", str(stripped)]) == 0
    assert len(whole_photos(job, stripped)) == 5
    capsys.readouterr()


def test_the_command_line_does_not_write_a_job_that_is_open(
    path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    save_job(small_job(), path, PhotoBox())
    lock = lock_job(path)
    assert lock is not None
    before, table = path.read_bytes(), str(wires_table(tmp_path))
    assert main(["import-wires", str(path), table]) == 2
    assert "open in a window" in capsys.readouterr().err
    other = tmp_path / "b.molvik"
    save_job(small_job(), other, PhotoBox())
    assert main(["import-wires", str(other), table, "--out", str(path)]) == 2
    assert main(["strip", str(other), "--keep", "Battery", "--out", str(path)]) == 2
    assert path.read_bytes() == before
    assert main(["check", str(path)]) in (0, 1)  # reading is free
    lock.release()
    assert main(["import-wires", str(path), table]) == 0


@pytest.mark.parametrize("kind", ["device", "fifo", "folder", "letter", "table"])
def test_out_is_a_regular_file_and_no_other_work_is_replaced(
    path: Path, tmp_path: Path, kind: str, capsys: pytest.CaptureFixture[str]
) -> None:
    save_job(small_job(), path, PhotoBox())
    table, out = wires_table(tmp_path), tmp_path / "out"
    if kind == "device":
        out = Path("/dev/null")
    elif kind == "fifo":
        os.mkfifo(out)
    elif kind == "folder":
        out.mkdir()
    elif kind == "letter":
        out.write_text("dear all")
    else:
        out = table
    before = out.read_bytes() if out.is_file() else b""
    assert main(["import-wires", str(path), str(table), "--out", str(out)]) == 2
    if out.is_file():
        assert out.read_bytes() == before
        assert "--overwrite" in capsys.readouterr().err
        words = ["import-wires", str(path), str(table), "--out", str(out), "--overwrite"]
        assert main(words) == 0
        assert len(read_job(out).wires) == 2
        assert out.with_name(f"{out.name}~").read_bytes() == before
    assert read_job(path) == small_job()


def test_a_lost_photo_is_told_by_every_command(
    path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    job = replace(small_job(), photos=(Photo("P1", "photos/lost.jpg", 800, 600, AT),))
    save_job(job, path, PhotoBox(), without={"photos/lost.jpg"})
    main(["check", str(path)])
    assert "1 of its photos is not in the file any more" in capsys.readouterr().err
    assert main(["import-wires", str(path), str(wires_table(tmp_path))]) == 0
