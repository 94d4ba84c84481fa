"""That a long command is at work: told on a terminal, once a second; Ctrl+C stops it."""

import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from molvik.stopping import may_stop

FIRST_S, EVERY_S = 2.0, 1.0


_done = ""


def share(done: int, of: int) -> None:
    """Say how much is done."""
    global _done
    _done = f", {done} of {of}"


@contextmanager
def told() -> Iterator[None]:
    """Tell of long computing inside, where somebody looks. It takes no time where nobody does."""
    if not sys.stderr.isatty():
        yield
        return
    global _done
    _done = ""
    teller = _teller(time.monotonic)
    with may_stop(teller):
        try:
            yield
        finally:
            print("\r\033[K", end="", file=sys.stderr, flush=True)


def _teller(now: Callable[[], float]) -> Callable[[], bool]:
    """Return what is asked whether to stop, never says so, and tells now and then that it was."""
    begun, due = now(), now() + FIRST_S

    def tell() -> bool:
        nonlocal due
        moment = now()
        if moment >= due:
            due = moment + EVERY_S
            words = (
                f"\r\033[Kworking, {moment - begun:.0f} s{_done}; Ctrl+C stops, nothing is written"
            )
            print(words, end="", file=sys.stderr, flush=True)
        return False

    return tell
