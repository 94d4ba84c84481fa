"""Pure edits of the logbook. What is corrected, parted or struck out leaves a trace."""

from typing import Any

from msgspec.structs import replace

from molvik.model.edits import EditError, refuse_line
from molvik.model.job import Job
from molvik.model.log import LogEntry


def correct(job: Job, number: int, now: str, **fields: Any) -> Job:
    """Change fields of a line, by its number in the log; what it said before stays with it. now:
    ISO 8601 with its UTC offset. Raises EditError.
    """
    old = _line(job, number)
    new = replace(old, **fields)
    if new == old:
        return job
    refuse_line(new)
    was = f"{_told(old)}, until {now[:16].replace('T', ' ')}"
    return _with(job, number, replace(new, was="; ".join(filter(None, (old.was, was)))))


def part(job: Job, number: int, now: str, quantity: float, minutes: float) -> Job:
    """Part a line of what was done in two: so much in so many minutes, and what is left. Raises
    EditError.
    """
    old = _line(job, number)
    left, left_min = old.quantity - quantity, old.minutes - minutes
    if old.kind != "done" or not (quantity > 0 and minutes > 0 and left > 0 and left_min > 0):
        raise EditError(
            f"Say how much of it, between 0 and {old.quantity:g}, and how long that took, between "
            f"0 and {old.minutes:g} minutes."
        )
    job = correct(job, number, now, quantity=quantity, minutes=minutes)
    was = f"parted from {_told(old)}, {now[:16].replace('T', ' ')}"
    rest = replace(old, quantity=round(left, 6), minutes=round(left_min, 6), was=was)
    return replace(job, log=(*job.log[: number + 1], rest, *job.log[number + 1 :]))


def strike(job: Job, number: int, now: str) -> Job:
    """Strike a line out, or let it count again: it stays in the log. Raises EditError."""
    old = _line(job, number)
    return _with(job, number, replace(old, struck_at="" if old.struck_at else now))


def _line(job: Job, number: int) -> LogEntry:
    if not 0 <= number < len(job.log):
        raise EditError("There is no such line in the log any more.")
    return job.log[number]


def _with(job: Job, number: int, entry: LogEntry) -> Job:
    return replace(job, log=(*job.log[:number], entry, *job.log[number + 1 :]))


def _told(entry: LogEntry) -> str:
    when = entry.at[:16].replace("T", " ")
    return " ".join(filter(None, (when, entry.kind, entry.stage, entry.says)))
