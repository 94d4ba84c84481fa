"""Edits of what a job has in stock of its own, and of what was cut for it."""

from collections import Counter
from typing import Any

from msgspec.structs import replace

from molvik.model.edits import EditError, coded, refuse, retire
from molvik.model.job import Job
from molvik.model.stock import StockItem, Taken, unit_of


def put_in(job: Job, items: tuple[StockItem, ...]) -> Job:
    """Add things to the job's own list, each with a code of its own."""
    for item in items:
        refuse(item)
    return replace(job, stock=(*job.stock, *coded(job, items, "T")))


def change(job: Job, code: str, **fields: Any) -> Job:
    """Change fields of one thing of the job's own list. Raises EditError."""
    if not any(item.code == code for item in job.stock):
        raise EditError(f"There is no {code} in stock.")
    stock = tuple(replace(item, **fields) if item.code == code else item for item in job.stock)
    for item in stock:
        refuse(item)
    return replace(job, stock=stock)


def take_out(job: Job, codes: frozenset[str]) -> Job:
    """Take things off the job's own list."""
    kept = tuple(item for item in job.stock if item.code not in codes)
    return retire(replace(job, stock=kept), [item.code for item in job.stock if item.code in codes])


def cut(job: Job, taken: tuple[Taken, ...]) -> Job:
    """Write down what was cut for the job. What is from its own list (no shelf) gets less there;
    the shelf books its own by itself. Raises EditError where the list has not so much.
    """
    known = {one.id for one in job.taken}
    new = tuple(one for one in taken if one.id not in known)
    for one in new:
        refuse(one)
    return replace(_moved(job, new, -1), taken=(*job.taken, *new))


def put_back(job: Job, ids: frozenset[str]) -> Job:
    """Write down that something was not cut after all."""
    gone = tuple(one for one in job.taken if one.id in ids)
    kept = tuple(one for one in job.taken if one.id not in ids)
    return replace(_moved(job, gone, 1), taken=kept)


def with_cuts_of(then: Job, now: Job) -> Job:
    """Return an earlier state of a job with what was really cut from the shelf since: going back to
    a design puts no wire back on its reel. Its own list is as it was then.
    """
    own = tuple(one for one in then.taken if not one.shelf)
    return replace(then, taken=(*own, *(one for one in now.taken if one.shelf)))


def _moved(job: Job, taken: tuple[Taken, ...], sign: int) -> Job:
    """Return the job with its own list as it is after cuts, or without them."""
    amounts: Counter[str] = Counter()
    for one in taken:
        if not one.shelf:
            amounts[one.what.code] += one.what.amount  # type: ignore[assignment]
    if not amounts:
        return job
    stock = []
    for item in job.stock:
        left = round(item.amount + sign * amounts.get(item.code, 0.0), 6)
        if left < 0:
            raise EditError(
                f"There are only {item.amount:g} {unit_of(item.kind)} of {item.code}. Count it "
                "again and type its amount first."
            )
        stock.append(replace(item, amount=left))
    return replace(job, stock=tuple(stock))
