"""A job that is opened touches nothing but itself, whatever lies in it or beside it."""

import contextlib
import os
import shutil
import sqlite3
import stat
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import apsw
import pytest
from msgspec.structs import replace

from conftest import small_job
from journals import harmless_journal, journal_bytes, killed_save, outside_says, page, plainly
from molvik.cli import main
from molvik.files import database
from molvik.files.cutoff import put_back_in
from molvik.files.database import Database, ForeignError
from molvik.files.errors import ChangedOutsideError, InTheWayError, JobFileError
from molvik.files.jobfile import JobFile, open_job, read_job
from molvik.files.journal import parse
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from old_jobs import put_old
from test_nothing_lost import beside, more_photos, whole_photos, with_photos

Attack = Callable[[Path, Path], None]


@pytest.fixture
def box(tmp_path: Path) -> PhotoBox:
    return PhotoBox(tmp_path / "box")


@pytest.fixture
def path(tmp_path: Path) -> Path:
    (tmp_path / "jobs").mkdir()
    return tmp_path / "jobs" / "a.molvik"


@pytest.fixture
def victim(tmp_path: Path) -> Path:
    letter = tmp_path / "letter.txt"
    letter.write_text("dear reader")
    return letter


# what lies beside a job


def journal(path: Path, data: bytes) -> None:
    path.with_name(f"{path.name}-journal").write_bytes(data)


def names_a_file(path: Path, victim: Path) -> None:
    journal(path, harmless_journal(path, names=str(victim)))


def names_a_file_and_holds_nothing(path: Path, victim: Path) -> None:
    size = path.stat().st_size // 16_384
    journal(path, journal_bytes({}, size, names=str(victim)))


def names_itself_a_part_of_the_job(path: Path, victim: Path) -> None:
    journal(path, harmless_journal(path, names=str(path)))


def cuts_the_file_to_nothing(path: Path, victim: Path) -> None:
    journal(path, journal_bytes({}, 0))


def puts_other_pages_into_it(path: Path, victim: Path) -> None:
    pages = {1: page(path, 1), 2: bytes(16_384), 3: bytes(16_384)}
    journal(path, journal_bytes(pages, path.stat().st_size // 16_384))


def is_a_link(path: Path, victim: Path) -> None:
    path.with_name(f"{path.name}-journal").symlink_to(victim)


def is_a_link_to_a_journal(path: Path, victim: Path) -> None:
    victim.write_bytes(harmless_journal(path))
    path.with_name(f"{path.name}-journal").symlink_to(victim)


def is_a_pipe(path: Path, victim: Path) -> None:
    os.mkfifo(path.with_name(f"{path.name}-journal"))


def is_a_folder(path: Path, victim: Path) -> None:
    path.with_name(f"{path.name}-journal").mkdir()


def is_noise(path: Path, victim: Path) -> None:
    journal(path, b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7" + b"\xff" * 9000)


def is_larger_than_any_save(path: Path, victim: Path) -> None:
    journal(path, harmless_journal(path))
    os.truncate(path.with_name(f"{path.name}-journal"), 10**11)  # with nothing in it


def is_a_log(path: Path, victim: Path) -> None:
    other = path.with_name("other")
    shutil.copy(path, other)
    plain = sqlite3.connect(other)
    plain.execute("PRAGMA journal_mode = WAL")
    plain.execute("UPDATE job SET text = 'x'")
    plain.commit()
    shutil.copy(other.with_name("other-wal"), path.with_name(f"{path.name}-wal"))
    plain.close()
    for left in path.parent.glob("other*"):
        left.unlink()


def is_shared_memory_that_is_a_link(path: Path, victim: Path) -> None:
    is_a_log(path, victim)
    path.with_name(f"{path.name}-shm").symlink_to(victim)


BESIDE: list[Attack] = [
    names_a_file,
    names_a_file_and_holds_nothing,
    names_itself_a_part_of_the_job,
    cuts_the_file_to_nothing,
    puts_other_pages_into_it,
    is_a_link,
    is_a_link_to_a_journal,
    is_a_pipe,
    is_a_folder,
    is_noise,
    is_larger_than_any_save,
    is_a_log,
    is_shared_memory_that_is_a_link,
]


def known(folder: Path) -> dict[str, bytes | str]:
    """Return everything in a folder, by name."""
    found: dict[str, bytes | str] = {}
    for one in sorted(folder.rglob("*")):
        mode = one.lstat().st_mode
        regular = stat.S_ISREG(mode)
        small = regular and one.stat().st_size < 10**9
        found[str(one)] = one.read_bytes() if small else f"{stat.S_IFMT(mode)}"
    return found


@pytest.mark.parametrize("attack", [names_a_file, names_a_file_and_holds_nothing])
def test_the_attack_is_one(attack: Attack, path: Path, victim: Path) -> None:
    """SQLite, used without a thought, deletes the file that a journal names."""
    save_job(small_job(), path, PhotoBox())
    attack(path, victim)
    plainly(path)
    assert not victim.exists()


@pytest.mark.parametrize("attack", BESIDE)
def test_what_only_reads_changes_nothing(
    attack: Attack, path: Path, victim: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    box = PhotoBox(tmp_path / "box")
    job = with_photos(box)
    save_job(job, path, box)
    box.close()
    attack(path, victim)
    before = known(path.parent) | known(victim.parent / "box") | {"": victim.read_bytes()}
    for words in (["check", str(path)], ["survey", str(path)], ["prove", str(path)]):
        assert main(words) in (0, 1)
    capsys.readouterr()
    assert read_job(path) == job
    assert whole_photos(job, path) == ["P1", "P2", "P3", "P4", "P5"]
    after = known(path.parent) | known(victim.parent / "box") | {"": victim.read_bytes()}
    assert after == before


@pytest.mark.parametrize("attack", BESIDE)
def test_what_saves_touches_the_job_alone(
    attack: Attack, path: Path, victim: Path, tmp_path: Path
) -> None:
    box = PhotoBox(tmp_path / "box")
    job = with_photos(box)
    save_job(job, path, box)
    box.close()
    attack(path, victim)
    letter = victim.read_bytes()
    photos = PhotoBox(file=open_job(path))
    save_job(replace(job, title="saved"), path, photos)
    save_job(replace(job, title="again"), path, photos)
    photos.close()
    assert victim.read_bytes() == letter
    assert read_job(path).title == "again"
    assert whole_photos(job, path) == ["P1", "P2", "P3", "P4", "P5"]
    assert not any(one.endswith("-journal") for one in beside(path)), "it was set aside"
    if attack is not is_a_log and attack is not is_shared_memory_that_is_a_link:
        assert outside_says(path, tmp_path)[0] == "ok"


def test_a_journal_that_is_not_of_the_file_is_told_and_set_aside(
    path: Path, victim: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    save_job(small_job(), path, PhotoBox())
    names_a_file(path, victim)
    main(["check", str(path)])
    said = capsys.readouterr()
    assert "a.molvik-journal" in said.out + said.err
    assert "it names another file" in said.out + said.err
    photos = PhotoBox(file=open_job(path))
    save_job(replace(small_job(), title="x"), path, photos)
    assert beside(path) == ["a.molvik", "a.molvik-journal~"]


def test_a_journal_that_appears_while_it_is_saved_is_not_used(path: Path, victim: Path) -> None:
    save_job(small_job(), path, PhotoBox())
    file = open_job(path)
    with pytest.raises(apsw.Error), file.adding() as (there, _):  # noqa: PT012
        names_a_file(path, victim)
        there.run("UPDATE job SET version = 2")
    assert victim.exists()
    names_a_file(path, victim)  # it was looked at when the file was opened, not now
    with pytest.raises(ChangedOutsideError):
        save_job(replace(small_job(), title="x"), path, PhotoBox(file=file))
    assert victim.exists()


# what lies in it


@pytest.mark.parametrize(
    "statement",
    [
        "CREATE VIRTUAL TABLE more USING fts4(a)",
        "CREATE TRIGGER t AFTER UPDATE ON job BEGIN UPDATE photos SET data = x''; END",
        "CREATE VIEW v AS SELECT load_extension('x')",
        "CREATE TABLE more (b, a GENERATED ALWAYS AS (hex(zeroblob(400000000))))",
        "CREATE TABLE more (a DEFAULT (hex(zeroblob(1000000000))))",
        "CREATE INDEX i ON versions (at) WHERE at GLOB '*'",
        "ALTER TABLE job ADD COLUMN more CHECK (length(text) > 1)",
    ],
)
def test_a_schema_that_does_something_is_refused(path: Path, statement: str) -> None:
    save_job(small_job(), path, PhotoBox())
    plain = sqlite3.connect(path)
    plain.execute(statement)
    plain.commit()
    plain.close()
    before = path.read_bytes()
    with pytest.raises(JobFileError, match="not a Molvik job"):
        open_job(path)
    assert path.read_bytes() == before


def test_a_schema_of_many_tables_is_refused_before_it_is_read(path: Path) -> None:
    save_job(small_job(), path, PhotoBox())
    plain = sqlite3.connect(path)
    plain.execute("CREATE TABLE t (a)")
    (root,) = plain.execute("SELECT rootpage FROM sqlite_schema WHERE name = 't'").fetchone()
    plain.execute("PRAGMA writable_schema = ON")
    of = ", ".join(f"c{n}" for n in range(90))
    plain.executemany(
        "INSERT INTO sqlite_schema VALUES ('table', ?1, ?1, ?2, ?3)",
        ((f"t{n}", root, f"CREATE TABLE t{n} ({of})") for n in range(3000)),
    )
    plain.commit()
    plain.close()
    with pytest.raises(ForeignError):  # SQLite would say that there are too many columns
        Database(path, write=False)


@pytest.mark.parametrize(
    "statement",
    [
        "ATTACH 'x' AS x",
        "CREATE TABLE x (a)",
        "PRAGMA journal_mode = WAL",
        "DROP TABLE photos",
        "SELECT randomblob(9)",
        "PRAGMA writable_schema = ON",
        "PRAGMA page_size = 512",
        "UPDATE sqlite_schema SET sql = ''",
        "VACUUM INTO 'x'",
        "SELECT * FROM pragma_table_info('job')",
        "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x FROM c) SELECT * FROM c",
    ],
)
def test_what_is_no_statement_of_ours_is_not_done(path: Path, statement: str) -> None:
    save_job(small_job(), path, PhotoBox())
    with Database(path, write=True) as there, pytest.raises(apsw.Error):
        there.rows(statement)
    with Database(path, write=False) as there, pytest.raises(apsw.Error):
        there.run("DELETE FROM photos")


def test_a_job_kept_with_a_log_by_another_program_is_read_and_saved_without(
    path: Path, box: PhotoBox, tmp_path: Path
) -> None:
    job = with_photos(box)
    save_job(job, path, box)
    box.close()
    plain = sqlite3.connect(path)
    plain.execute("PRAGMA journal_mode = WAL")
    plain.execute("UPDATE versions SET name = 'x'")
    plain.commit()
    file = open_job(path)
    assert file.job == job
    assert "a.molvik-wal" in file.remark
    assert "Close it there first" in file.remark
    plain.close()  # which puts the log into the file
    photos = PhotoBox(file=open_job(path))
    assert photos.file is not None
    save_job(replace(job, title="saved"), path, photos)
    assert read_job(path).title == "saved"
    assert whole_photos(job, path) == ["P1", "P2", "P3", "P4", "P5"]
    assert path.read_bytes()[18:20] == b"\1\1"


# saves that were killed


@pytest.mark.parametrize("moment", [("write", n) for n in (0, 1, 2, 4, 7)] + [("delete", 0)])
def test_a_killed_save_is_taken_back_or_whole(
    moment: tuple[str, int], path: Path, box: PhotoBox, tmp_path: Path
) -> None:
    job = with_photos(box, 3)
    save_job(job, path, box)
    box.close()
    more = more_photos(job, box, 9)
    assert killed_save(path, more, box, lambda what, count: (what, count) == moment)
    before = path.read_bytes()
    assert path.with_name("a.molvik-journal").exists()
    file = open_job(path)
    assert file.remark == ""
    assert file.job in (job, more)
    assert all(file.photo(one.file) is not None for one in file.job.photos)
    assert path.read_bytes() == before, "reading it changes nothing"
    assert outside_says(path, tmp_path)[0] == "ok"
    # Put back by us, and by SQLite itself: the same bytes.
    ours = tmp_path / "ours"
    shutil.copy(path, ours)
    put_back_in(parse(path.with_name("a.molvik-journal").read_bytes()), ours)
    assert ours.read_bytes() == (tmp_path / "outside").read_bytes()
    photos = PhotoBox(box.folder, file)
    last = replace(file.job, title="saved after")
    save_job(last, path, photos)
    assert beside(path) == ["a.molvik"]
    assert read_job(path) == last
    assert outside_says(path, tmp_path)[0] == "ok"
    assert all(open_job(path).photo(one.file) is not None for one in last.photos)


@pytest.mark.parametrize("backup", ["before", "long before", "another"])
@pytest.mark.parametrize("moment", [3, 6])
def test_a_backup_put_back_over_a_killed_save_is_not_undone(
    backup: str, moment: int, path: Path, box: PhotoBox, tmp_path: Path
) -> None:
    """The file is another by now; what the killed save left would spoil it."""
    job, kept = with_photos(box, 4), tmp_path / "kept"
    save_job(job, path, box)
    if backup == "long before":
        shutil.copy(path, kept)
        for n in range(5):
            save_job(replace(job, title=f"{n}"), path, box)
    elif backup == "another":  # as often changed as the one that was killed
        other, more = PhotoBox(tmp_path / "other"), path.with_name("b.molvik")
        save_job(with_photos(other, 4, first=5), more, other)
        save_job(with_photos(other, 4, first=5), more, other)
        shutil.move(more, kept)
    else:
        shutil.copy(path, kept)
    box.close()
    wanted = read_job(kept)
    last = more_photos(job, box, 11)
    assert killed_save(path, last, box, lambda what, count: (what, count) == ("write", moment))
    shutil.copyfile(kept, path)  # the same file by its number, other bytes
    for words in (["check", str(path)], ["survey", str(path)]):
        main(words)
    assert path.read_bytes() == kept.read_bytes()
    file = open_job(path)
    assert file.job == wanted
    assert len(whole_photos(wanted, path)) == 4
    save_job(replace(wanted, title="saved"), path, PhotoBox(file=file))
    assert read_job(path).title == "saved"
    assert len(whole_photos(wanted, path)) == 4


# two that write


WRITER = """
import sys
from pathlib import Path
from msgspec.structs import replace
from molvik.files.errors import ChangedOutsideError, JobFileError
from molvik.files.jobfile import open_job
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
path, name, count = Path(sys.argv[1]), sys.argv[2], int(sys.argv[3])
done = 0
while done < count:
    photos = PhotoBox(file=open_job(path))
    job = photos.file.job
    try:
        save_job(replace(job, subtitle=f"{job.subtitle} {name}{done}"), path, photos)
        done += 1
    except JobFileError:
        pass
    photos.close()
"""


@pytest.mark.parametrize("old", [False, True])
def test_writers_that_share_no_lock_lose_no_save(path: Path, tmp_path: Path, old: bool) -> None:
    save_job(replace(small_job(), subtitle=""), path, PhotoBox())
    if old:  # a zip, which the first save replaces
        path.unlink()
        put_old(replace(small_job(), subtitle=""), path, PhotoBox())
    running = []
    for name in "abc":
        states = {**os.environ, "XDG_STATE_HOME": str(tmp_path / name)}
        words = [sys.executable, "-c", WRITER, str(path), name, "12"]
        running.append(subprocess.Popen(words, env=states))
    assert [one.wait(300) for one in running] == [0, 0, 0]
    found = read_job(path).subtitle.split()
    assert sorted(found) == sorted(f"{name}{n}" for name in "abc" for n in range(12))


HOLDER = """
import sqlite3, sys
there = sqlite3.connect(sys.argv[1], isolation_level=None)
there.execute("BEGIN EXCLUSIVE")
print(flush=True)
sys.stdin.read()
"""


@contextlib.contextmanager
def held_by_another(path: Path) -> Iterator[None]:
    words = [sys.executable, "-c", HOLDER, str(path)]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE) as holder:
        assert holder.stdin is not None
        assert holder.stdout is not None
        holder.stdout.readline()
        yield
        holder.stdin.close()


def at_the_moment_it_lies_there(
    monkeypatch: pytest.MonkeyPatch, act: Callable[[], object]
) -> list[str]:
    """Have something happen once, as soon as a new file has its name."""
    done: list[str] = []

    def then(_folder: Path) -> None:
        if not done:
            done.append("once")
            act()

    monkeypatch.setattr("molvik.files.writing.sync_folder", then)
    return done


def old_job(path: Path) -> PhotoBox:
    """Return a job of an earlier version, whose file the first save replaces."""
    put_old(small_job(), path, PhotoBox())
    return PhotoBox(file=open_job(path))


def test_a_save_that_is_done_is_not_called_one_that_failed(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another who takes the new file at once and keeps it is no reason to say it was not saved."""
    monkeypatch.setattr(database, "BUSY_MS", 100)
    photos = old_job(path)
    with contextlib.ExitStack() as held:
        done = at_the_moment_it_lies_there(
            monkeypatch, lambda: held.enter_context(held_by_another(path))
        )
        save_job(replace(small_job(), title="whole"), path, photos)
        assert done
    assert read_job(path).title == "whole"
    real = JobFile.holds
    with contextlib.ExitStack() as held:

        def holds(self: JobFile, *known: Any) -> None:
            held.enter_context(held_by_another(path))
            real(self, *known)

        with monkeypatch.context() as patch:
            patch.setattr(JobFile, "holds", holds)
            save_job(replace(small_job(), title="added"), path, photos)
    assert read_job(path).title == "added"
    save_job(replace(small_job(), title="and again"), path, photos)
    assert read_job(path).title == "and again"


def test_what_another_saves_into_the_new_file_at_once_is_not_written_over(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    photos = old_job(path)

    def another() -> None:
        theirs = PhotoBox(file=open_job(path))
        save_job(replace(small_job(), title="theirs"), path, theirs)
        theirs.close()

    done = at_the_moment_it_lies_there(monkeypatch, another)
    save_job(replace(small_job(), title="ours"), path, photos)
    assert done
    with pytest.raises(ChangedOutsideError):
        save_job(replace(small_job(), title="ours again"), path, photos)
    assert read_job(path).title == "theirs"


@pytest.mark.parametrize("before", [False, True])
def test_the_journal_of_who_saves_into_the_new_file_stays(
    before: bool, path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    photos = old_job(path)
    theirs = path.with_name(f"{path.name}-journal")
    if before:  # of a save that was killed: it goes with the file that is replaced
        theirs.write_bytes(b"killed")
    act = theirs.touch if before else lambda: theirs.write_bytes(b"live")
    done = at_the_moment_it_lies_there(monkeypatch, act)
    save_job(replace(small_job(), title="ours"), path, photos)
    assert done
    assert theirs.exists() is not before
    assert theirs.with_name(f"{theirs.name}~").exists() is before


def test_a_file_made_meanwhile_at_a_new_place_is_not_written_over(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = database.create

    def slowly(part: Path) -> None:
        real(part)
        path.write_text("theirs")

    monkeypatch.setattr("molvik.files.saving.database.create", slowly)
    with pytest.raises(InTheWayError):
        save_job(small_job(), path, PhotoBox())
    assert path.read_text() == "theirs"
    assert beside(path) == ["a.molvik"]


@pytest.mark.parametrize("number", [2**63 - 1, 2**62, 2**53, 0, -1, -(2**63)])
def test_any_number_of_a_version_can_be_saved_after(
    number: int, path: Path, box: PhotoBox, tmp_path: Path
) -> None:
    job = with_photos(box, 2)
    save_job(job, path, box)
    save_job(replace(job, title="second"), path, box)
    box.close()
    plain = sqlite3.connect(path)
    plain.execute("UPDATE versions SET id = ? WHERE id = 2", (number,))
    plain.execute("UPDATE shown SET version = ? WHERE version = 2", (number,))
    plain.execute("UPDATE job SET version = ?", (number,))
    plain.commit()
    plain.close()
    photos = PhotoBox(file=open_job(path))
    save_job(replace(job, title="third"), path, photos)
    file = open_job(path)
    titles = {file.version(one.id).title for one in file.versions()}
    assert titles == {"third", "second", job.title}
    assert file.job.title == "third"
    save_job(replace(job, title="fourth"), tmp_path / "b.molvik", photos, instead=True)
    assert read_job(tmp_path / "b.molvik").title == "fourth"
    assert len(whole_photos(job, path)) == 2


# what others may read


def test_recovery_copies_and_state_are_read_by_nobody_else(tmp_path: Path) -> None:
    from molvik.files.lock import lock_job
    from molvik.files.recovery import Recovery

    state = tmp_path / "xdg_state_home" / "molvik"
    state.mkdir(parents=True, mode=0o755)  # as an earlier version made it
    (state / "recovery").mkdir(mode=0o755)
    lock_job(tmp_path / "x.molvik")
    kept = Recovery()
    kept.keep(small_job(), None)
    with_photos(PhotoBox(kept.photos), 1)
    for one in [state, *state.rglob("*")]:
        mode = stat.S_IMODE(one.stat().st_mode)
        assert not mode & 0o077 or one.suffix == ".lock" or one.parent.name == "locks", one
    assert stat.S_IMODE(state.stat().st_mode) == 0o700
    kept.close()
