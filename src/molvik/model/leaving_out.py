"""Edits of what is left out of a conversion on purpose."""

from msgspec.structs import replace

from molvik.model.edits import EditError, refuse
from molvik.model.job import Job, LeftOut


def leave_out(job: Job, left: LeftOut) -> Job:
    """Say that a thing is left out, or anew why. Raises EditError."""
    if not left.thing.strip():
        raise EditError("Say what is left out.")
    refuse(left)
    others = tuple(one for one in job.left_out if one.thing != left.thing)
    return replace(job, left_out=(*others, left))


def put_back(job: Job, thing: str) -> Job:
    """Say that a thing is there after all."""
    return replace(job, left_out=tuple(one for one in job.left_out if one.thing != thing))
