"""What modules that build on a network compute of it once, each under a key of its own."""

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from molvik.model.job import Job

Value = TypeVar("Value")


class Key(Generic[Value]):
    """The key of one such result. reads: the lists of the job that it is computed from alone, so
    that it is reused while they are the same; none for one that stands for this network only.
    """

    def __init__(self, *reads: str) -> None:
        self.reads = reads


class Cache:
    """Results by their keys."""

    def __init__(self) -> None:
        self._held: dict[Key[Any], Any] = {}

    def get(self, key: Key[Value], make: Callable[[], Value]) -> Value:
        """Return a result, made when it is first asked for."""
        if key not in self._held:
            self._held[key] = make()
        found: Value = self._held[key]
        return found

    def reuse_from(self, before: "Cache", job: Job, was: Job) -> None:
        """Take what is computed from lists that are still the same after an edit."""
        for key, value in before._held.copy().items():
            if key.reads and all(getattr(job, one) is getattr(was, one) for one in key.reads):
                self._held[key] = value
