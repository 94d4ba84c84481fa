"""How a command reads a job and answers: JSON on the standard output, complaints on the other."""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
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
    plain = (sys.stdout.encoding or "").lower().replace("-", "") != "utf8"
    json.dump({"version": JSON_VERSION, **value}, sys.stdout, ensure_ascii=plain, indent=1)
    print()


def job_at(path: Path) -> "Job":
    """Read a job, and say what is wrong with its file. Raises JobFileError."""
    from molvik.files.jobfile import open_job

    file = open_job(path)
    try:
        tell_state(file.remark, len(file.lost))
        return file.job
    finally:
        file.close()


def tell_state(remark: str, lost: int) -> None:
    """Say what is wrong with a job file that was opened all the same."""
    if remark:
        say(remark)
    if lost:
        say(f"{lost} of its photos {'are' if lost > 1 else 'is'} not in the file any more.")


def change_job(path: Path, out: Path | None, overwrite: bool, edit: "Callable[[Job], Job]") -> None:
    """Change a job in its file, or write it changed to another. Raises JobFileError, ValueError.

    The same lock is held as by a window, so that neither writes over the other's work.
    """
    from molvik.files.errors import InTheWayError, JobFileError
    from molvik.files.jobfile import is_job, open_job
    from molvik.files.lock import lock_job
    from molvik.files.photobox import PhotoBox
    from molvik.files.saving import save_job
    from molvik.files.writing import clear_leftovers, regular_target

    target = regular_target(out or path)
    lock = lock_job(target)
    if lock is None:
        raise JobFileError(
            f"{target.name} is open in a window or used by another command. Close it there first; "
            "nothing was written."
        )
    try:
        clear_leftovers(target)
        file = open_job(path)
        photos = PhotoBox(file=file)
        try:
            tell_state(file.remark, len(file.lost))
            changed = edit(file.job)
            instead = target != file.path and (overwrite or is_job(target))
            save_job(changed, target, photos, instead=instead)
        except InTheWayError as error:
            raise JobFileError(
                f"{target.name} is there already and is no job. It was not written over; say "
                "--overwrite if it may be."
            ) from error
        finally:
            photos.close()
    finally:
        lock.release()
