"""The threads beside the interface's, parted by what may wait for what.

What computes may be slow, an instrument may never answer, a disk may hang: none of them keeps the
others from being done, and the interface's thread waits for none of them.
"""

import queue
import threading
import time
from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import QThreadPool

Work = Callable[[], None]

COMPUTING_THREADS = 3
"""Python computes on one at a time; with more than one, what is short passes what is long."""


class Lane(Protocol):
    """Where work is done, in the order that it came."""

    def start(self, work: Work) -> None:
        """Have work done."""
        ...


class _Pool:
    """Some threads. What waits longest comes first."""

    def __init__(self, threads: int) -> None:
        self._threads = threads

    def start(self, work: Work) -> None:
        pool = QThreadPool.globalInstance()
        pool.setMaxThreadCount(self._threads)
        pool.start(work)


class _Row:
    """One thread, on which one thing is done after the other."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._waiting: queue.SimpleQueue[Work] = queue.SimpleQueue()
        self._begun = threading.Lock()
        self._thread: threading.Thread | None = None
        self._left = 0

    @property
    def is_idle(self) -> bool:
        """Whether nothing is being done there, nor waits."""
        return self._left == 0

    def in_turn(self, work: Work) -> None:
        """Do what takes no time after what is there: at once if nothing is."""
        if self.is_idle:
            work()
        else:
            self.start(work)

    def start(self, work: Work) -> None:
        with self._begun:
            self._left += 1
            self._waiting.put(work)
            if self._thread is None:
                self._thread = threading.Thread(target=self._work, name=self._name, daemon=True)
                self._thread.start()

    def _work(self) -> None:
        while True:
            work = self._waiting.get()
            try:
                work()
            finally:
                del work
                with self._begun:
                    self._left -= 1

    def wait(self, seconds: float) -> bool:
        """Wait until all is done that was there; say whether it was."""
        done = threading.Event()
        self.start(done.set)
        return done.wait(seconds)


class _Each:
    """A thread for each."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._running: set[threading.Thread] = set()

    def start(self, work: Work) -> None:
        self._running = {one for one in self._running if one.is_alive()}
        thread = threading.Thread(target=work, name=self._name, daemon=True)
        self._running.add(thread)
        thread.start()

    def wait(self, seconds: float) -> bool:
        """Wait until all has ended; say whether it has."""
        ends = time.monotonic() + seconds
        for one in list(self._running):
            one.join(max(0.0, ends - time.monotonic()))
        return not any(one.is_alive() for one in self._running)


COMPUTING = _Pool(COMPUTING_THREADS)
LOOKING = _Row("looking over")
"""Findings and verdicts: one look at a time."""
KEEPING = _Row("keeping")
"""Saving and the recovery copy: in the order they were asked for, and nothing else."""
SHELF = _Row("shelf")
"""What is read from the shop's shelf and booked there, one after the other."""
INSTRUMENTS = _Each("instrument")
OPENING = _Each("opening")
"""Files that are opened: a disk that hangs does not keep one on another disk from being opened."""


def wait_for_all(seconds: float) -> bool:
    """Wait for what is to be done before the program ends; say whether it was."""
    ends = time.monotonic() + seconds
    done = KEEPING.wait(seconds)
    done = SHELF.wait(max(0.1, ends - time.monotonic())) and done
    done = INSTRUMENTS.wait(max(0.1, ends - time.monotonic())) and done
    left_ms = max(100, int(1000 * (ends - time.monotonic())))
    done = QThreadPool.globalInstance().waitForDone(left_ms) and done
    return LOOKING.wait(max(0.1, ends - time.monotonic())) and done
