"""Long computing that stops when nobody waits for it any more.

Whoever starts it says how it is asked; the loops that take long look up now and then. A context
variable, because what is computed is asked for in many places and by two threads.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class Stopped(Exception):  # noqa: N818
    """The work was stopped: the job changed meanwhile."""


def _never() -> bool:
    return False


_asked: ContextVar[Callable[[], bool]] = ContextVar("asked", default=_never)


@contextmanager
def may_stop(stop: Callable[[], bool]) -> Iterator[None]:
    """Let what is computed inside be stopped: it raises Stopped soon after ``stop`` says yes."""
    token = _asked.set(stop)
    try:
        yield
    finally:
        _asked.reset(token)


def look_up() -> None:
    """Raise Stopped when this thread's work is to stop."""
    if _asked.get()():
        raise Stopped
