"""How a command reads a job and answers: JSON on the standard output, complaints on the other."""

import argparse
import contextlib
import io
import json
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

from molvik.files.errors import InTheWayError, JobFileError
from molvik.files.lock import lock_job
from molvik.files.writing import clear_leftovers, regular_target

if TYPE_CHECKING:
    from molvik.analysis import Analysis
    from molvik.model.job import Job

JSON_VERSION = 1
"""Version of the ``--json`` output, described in docs/command-line.md."""


def complain(text: object) -> int:
    """Say what is wrong, and return the exit code for it."""
    say(text)
    return 2


def say(text: object) -> None:
    """Say something that is not part of the answer."""
    print(f"molvik: {text}", file=sys.stderr)


def print_json(value: dict[str, Any]) -> None:
    """Print an answer as JSON with its version."""
    out = sys.stdout.plain if isinstance(sys.stdout, _SaidOut) else sys.stdout
    plain = (out.encoding or "").lower().replace("-", "") != "utf8"
    json.dump({"version": JSON_VERSION, **value}, out, ensure_ascii=plain, indent=1)
    print(file=out)


class Demo(str):
    """The name of a demo, where a job is asked for."""

    __slots__ = ()


SAMPLES = ("marten", "plover", "heron")
"""The demos by name, known without reading one."""


def add_job(command: argparse.ArgumentParser) -> None:
    """Have a command take a job: a file, or a demo by its name."""
    command.add_argument("job", type=Path, metavar="JOB", nargs="?", help="a job file")
    command.add_argument("--demo", dest="sample", choices=SAMPLES, help="a demo instead of a file")


def job_at(path: "Path | Demo") -> "Job":
    """Read a job, and say what is wrong with its file. Raises JobFileError."""
    from molvik.demo import demo_job
    from molvik.files.jobfile import open_job

    if isinstance(path, Demo):
        return demo_job(path)
    file = open_job(path)
    try:
        tell_state(file.remark, len(file.lost))
        _speak(file.job)
        return file.job
    finally:
        file.close()


class _SaidOut(io.TextIOBase):
    """The standard output, in the words of the job once it is read; JSON goes past it."""

    say: Callable[[str], str]

    def __init__(self, out: TextIO) -> None:
        self.plain, self.say = out, str

    @property
    def encoding(self) -> str:  # type: ignore[override]
        """That of what is behind it."""
        return self.plain.encoding

    def write(self, text: str) -> int:
        """Write a text in the words of the job."""
        self.plain.write(self.say(text))
        return len(text)

    def flush(self) -> None:
        """Write what waits."""
        self.plain.flush()


def _speak(job: "Job") -> None:
    """Say what follows in the words of a job."""
    from molvik.spoken import Spoken

    spoken = Spoken(job)
    if isinstance(sys.stdout, _SaidOut):
        sys.stdout.say = spoken.say


@contextlib.contextmanager
def as_job_says() -> Iterator[None]:
    """Have what is printed inside said in the words of the job that is read there."""
    with contextlib.redirect_stdout(_SaidOut(sys.stdout)):
        yield


def analysed(job: "Job") -> "Analysis":
    """Return the analysis of a job with what it sees of the shop's shelf."""
    from molvik.analysis import Analysis
    from molvik.files.shelf import ShelfError, ShopShelf

    try:
        return Analysis(job, shelf=ShopShelf().see(job.id))
    except ShelfError as error:
        say(str(error))
        return Analysis(job)


def tell_state(remark: str, lost: int) -> None:
    """Say what is wrong with a job file that was opened all the same."""
    if remark:
        say(remark)
    if lost:
        say(f"{lost} of its photos {'are' if lost > 1 else 'is'} not in the file any more.")


def change_job(
    path: "Path | Demo", out: Path | None, overwrite: bool, edit: "Callable[[Job], Job]"
) -> None:
    """Change a job in its file, or write it changed to another. Raises JobFileError, ValueError.

    The same lock is held as by a window, so that neither writes over the other's work.
    """
    from molvik.demo import PHOTOS, demo_job
    from molvik.files.jobfile import is_job, open_job
    from molvik.files.photobox import PhotoBox
    from molvik.files.saving import save_job

    if isinstance(path, Demo) and out is None:
        raise JobFileError("a demo has no file to be changed: say --out FILE")
    target = regular_target(out or Path(path))
    lock = lock_job(target)
    if lock is None:
        raise JobFileError(
            f"{target.name} is open in a window or used by another command. Close it there first; "
            "nothing was written."
        )
    try:
        clear_leftovers(target)
        given = demo_job(path) if isinstance(path, Demo) else None
        file = None if isinstance(path, Demo) else open_job(path)
        photos = PhotoBox(None if file else PHOTOS, file)
        try:
            if file is not None:
                tell_state(file.remark, len(file.lost))
                given = file.job
            assert given is not None
            changed = edit(given)
            instead = (file is None or target != file.path) and (overwrite or is_job(target))
            save_job(changed, target, photos, instead=instead)
        except InTheWayError as error:
            raise JobFileError(
                f"{target.name} is there already and is not a job. It was not written over; say "
                "--overwrite if it may be."
            ) from error
        finally:
            photos.close()
    finally:
        lock.release()
