"""What of a job a result reads: all else is left out of the job it is computed from.

So what was computed stands as long as that part of the job does, and cannot have read more.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any, ClassVar, NamedTuple, TypeVar

from msgspec.structs import replace

from molvik.model.job import Job

Kind = TypeVar("Kind", bound="Results")


class Reads(NamedTuple):
    """The fields of a job that are read. without: for some of its lists, the fields of their things
    that are not.
    """

    fields: tuple[str, ...]
    without: Mapping[str, Mapping[str, Any]] = MappingProxyType({})
    """For each list, those fields with what stands in for what is in them."""

    def of(self, job: Job) -> Job:
        """Return the job with nothing in the fields that are not read."""
        kept: dict[str, Any] = {name: getattr(job, name) for name in self.fields}
        for name, blank in self.without.items():
            kept[name] = tuple(_blanked(thing, blank) for thing in kept[name])
        return Job(job.id, **kept)

    def following(self, job: Job, was: Job, view: Job) -> Job:
        """Return what is read of a job after an edit: ``view``, of the job it was, if that is the
        same. Things that were not touched stay the same objects.
        """
        kept: dict[str, Any] = {}
        same = job.id == was.id
        for name in self.fields:
            new, old, seen = getattr(job, name), getattr(was, name), getattr(view, name)
            if new is old:
                new = seen
            elif name in self.without:
                new = _followed(new, old, seen, self.without[name])
            elif new == seen:
                new = seen
            kept[name] = new
            same = same and new is seen
        return view if same else Job(job.id, **kept)


def _blanked(thing: Any, blank: Mapping[str, Any]) -> Any:
    gone = {name: empty for name, empty in blank.items() if getattr(thing, name) != empty}
    return replace(thing, **gone) if gone else thing


def _followed(
    new: tuple[Any, ...], old: tuple[Any, ...], seen: tuple[Any, ...], blank: Mapping[str, Any]
) -> tuple[Any, ...]:
    """Return what is read of a list after an edit, ``seen`` itself when that is the same."""
    known = dict(zip(map(id, old), seen, strict=True))  # old keeps them alive: ids stand
    at = {one.code: one for one in seen}
    made = []
    for thing in new:
        one = known.get(id(thing))
        if one is None:
            one = _blanked(thing, blank)
            before = at.get(thing.code)
            one = before if before == one else one
        made.append(one)
    same = len(made) == len(seen) and all(a is b for a, b in zip(made, seen, strict=True))
    return seen if same else tuple(made)


class Results:
    """What is computed from some of a job. reads: of what. job: with nothing else in it."""

    reads: ClassVar[Reads]

    def __init__(self, job: Job, before: "Results | None" = None) -> None:
        self.job = job

    @classmethod
    def of(cls: type[Kind], job: Job, before: Kind | None = None) -> Kind:
        """Return the results of a job: those from before an edit, if it touched nothing they read.

        They are shared then: what one job has computed, the other knows.
        """
        if before is None:
            made = cls(cls.reads.of(job))
        else:
            view = cls.reads.following(job, before._whole, before.job)
            made = before if view is before.job else cls(view, before)
        made._whole = job
        return made

    _whole: Job
    """The job whose parts were read last, to tell quickly what an edit left alone."""
