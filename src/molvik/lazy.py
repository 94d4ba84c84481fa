"""Properties that are computed when first asked for.

``functools.cached_property`` holds one lock for all objects of a class up to Python 3.11: while
another thread computes it for a job, the interface's thread would wait to compute it for the next.
Here two threads may compute the same thing once each, which does no harm: values never change.
"""

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

Value = TypeVar("Value")


class cached_property(Generic[Value]):  # noqa: N801  # it stands where functools' own stood
    """A property computed once for each object."""

    def __init__(self, compute: Callable[[Any], Value]) -> None:
        self._compute = compute
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
