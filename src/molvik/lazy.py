"""Properties that are computed when first asked for.

``functools.cached_property`` holds one lock for all objects of a class up to Python 3.11: while
another thread computes it for a job, the interface's thread would wait to compute it for the next.
Here two threads may compute the same thing once each, which does no harm: values never change.
"""

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

Value = TypeVar("Value")


class cached_property(Generic[Value]):  # noqa: N801  # it stands where functools' own stood
    """A property computed once for each object. reads: the fields of the job it is computed from,
    or of what the object has beside it, for ``take_over``; empty when it is made anew for each job.
    """

    def __init__(self, compute: Callable[[Any], Value], reads: tuple[str, ...] = ()) -> None:
        self._compute = compute
        self.reads = reads
        self.__doc__ = compute.__doc__
        self._name = ""

    def __set_name__(self, owner: type, name: str) -> None:
        self._name = name

    @overload
    def __get__(self, thing: None, owner: type) -> "cached_property[Value]": ...

    @overload
    def __get__(self, thing: object, owner: type) -> Value: ...

    def __get__(self, thing: object | None, owner: type) -> "Value | cached_property[Value]":
        if thing is None:
            return self
        value = self._compute(thing)
        thing.__dict__[self._name] = value
        return value


def reading(*fields: str) -> Callable[[Callable[[Any], Value]], cached_property[Value]]:
    """Declare a property that is computed from these fields alone, of ``job`` or of what its
    object has beside it.
    """
    return lambda compute: cached_property(compute, fields)


def reuse_from(thing: Any, before: Any) -> None:
    """Take from the same thing of the job before an edit what is computed from fields that are
    still the same.
    """
    for name, var in vars(type(thing)).items():
        if not isinstance(var, cached_property) or not var.reads or name not in before.__dict__:
            continue
        if all(_field(thing, field) is _field(before, field) for field in var.reads):
            thing.__dict__[name] = before.__dict__[name]


def _field(thing: Any, name: str) -> Any:
    """Return a field of the job, or of what a thing has beside it."""
    return getattr(thing.job, name) if hasattr(thing.job, name) else getattr(thing, name)
