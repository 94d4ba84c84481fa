"""Pure edits of the photos."""

from typing import Any

from msgspec.structs import replace

from molvik.model.edits import EditError, coded, refuse, retire
from molvik.model.job import Job
from molvik.model.photos import Mark, Photo


def find(job: Job, code: str) -> Photo:
    """Return the photo with this code. Raises EditError."""
    photo = next((photo for photo in job.photos if photo.code == code), None)
    if photo is None:
        raise EditError(f"There is no photo {code} in the job.")
    return photo


def add(job: Job, photos: tuple[Photo, ...]) -> Job:
    """Add photos, each with a code of its own."""
    for photo in photos:
        refuse(photo)
    return replace(job, photos=(*job.photos, *coded(job, photos, "P")))


def change(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of one photo."""
    old = find(job, code)
    new = replace(old, **fields)
    refuse(new)
    return replace(job, photos=tuple(new if photo is old else photo for photo in job.photos))


def turn(job: Job, code: str) -> Job:
    """Turn a photo by a quarter clockwise, with its marks."""
    photo = find(job, code)
    marks = tuple(
        replace(one, x1=_part(1 - one.y1), y1=one.x1, x2=_part(1 - one.y2), y2=one.x2)
        for one in photo.marks
    )
    return change(
        job,
        code,
        marks=marks,
        width=photo.height,
        height=photo.width,
        turned=(photo.turned + 1) % 4,
    )


def _part(value: float) -> float:
    return round(value, 6)


def mark(job: Job, code: str, other: Mark) -> Job:
    """Put a mark on a photo."""
    return change(job, code, marks=(*find(job, code).marks, other))


def change_mark(job: Job, code: str, index: int, **fields: Any) -> Job:
    """Change a mark, counted from zero."""
    marks = list(find(job, code).marks)
    marks[index] = replace(marks[index], **fields)
    return change(job, code, marks=tuple(marks))


def unmark(job: Job, code: str, index: int) -> Job:
    """Take a mark off a photo."""
    marks = find(job, code).marks
    return change(job, code, marks=(*marks[:index], *marks[index + 1 :]))


def remove(job: Job, code: str) -> Job:
    """Take a photo out of the job."""
    old = find(job, code)
    kept = tuple(photo for photo in job.photos if photo is not old)
    return retire(replace(job, photos=kept), [code])
