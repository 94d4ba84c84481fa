"""Long work off the interface's thread, with an answer back on it and a way to stop."""

import contextlib
import ctypes
import gc
import sys
import threading
import time
import traceback
from collections.abc import Callable
from functools import _lru_cache_wrapper
from typing import Any, TypeVar

from PySide6.QtCore import QCoreApplication, QObject, QTimer, Signal
from PySide6.QtGui import QPixmapCache

from molvik.desktop.threads.lanes import COMPUTING, Lane
from molvik.files.errors import JobFileError
from molvik.files.reports import keep_report
from molvik.files.tablelimits import TableError
from molvik.stopping import Stopped

Kind = TypeVar("Kind", bound=QObject)

SWEEP_MS = 500
"""How often cyclic garbage is looked for on the interface's thread."""

M_ARENA_MAX = -8
"""The GNU C library's name for how many pools of memory there may be."""

M_MMAP_THRESHOLD, LARGE_BYTES = -3, 256 * 1024
"""From this size on a block is given back as soon as it is free. Left to itself the library raises
the limit with each large block, and keeps them among the small ones.
"""

SWITCH_S = 0.0005
"""How long a worker keeps the interpreter when the interface wants it. Each cell that is painted
asks for it anew: with Python's 5 ms a table takes half a second to paint beside a worker.
"""

MANY = 50_000
"""To go through more new objects than these would be felt: they are set aside, which takes no time.
"""

LONG_PAUSE_S = 15.0
"""What was set aside is gone through when nothing was done for so long."""

PAUSE_S, MUCH = 2.0, 800_000
"""The pause that must do when so many objects were set aside."""

MOST_ASIDE = 2_000_000
"""With so many set aside, some 200 MB, they are gone through whatever the user does."""


class Sweeper(QObject):
    """Collects cyclic garbage on the interface's thread only.

    Python collects on whichever thread happens to allocate. A closed window and its models are
    such garbage, and Qt does not survive their end on another thread: it crashes, rarely, and
    always elsewhere. So collecting by itself is switched off and done here, by the same counts.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        sys.setswitchinterval(SWITCH_S)
        with contextlib.suppress(OSError, AttributeError):
            # One pool of memory for all threads: workers' own are never given back whole.
            library = ctypes.CDLL(None)
            library.mallopt(M_ARENA_MAX, 1)
            library.mallopt(M_MMAP_THRESHOLD, LARGE_BYTES)
        self._worked = time.monotonic()
        self._middle = 0  # at most so many objects outlived young collections since the last middle
        self._aside = 0  # at most so many objects were set aside since all were gone through,
        self._left = 0  # which left so many
        self._trimmed = 0  # how much work aside had ended when memory was last given back
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.sweep)
        self._timer.start(SWEEP_MS)

    def at_work(self) -> None:
        """The user does something: what takes long waits until they pause."""
        self._worked = time.monotonic()

    def let_go(self) -> None:
        """Give memory back after a job was closed: answers kept for it, what is garbage now, and
        what the C library keeps for itself.
        """
        _forget_answers()
        gc.unfreeze()
        gc.collect()
        self._aside = self._middle = self._left = 0
        QPixmapCache.clear()
        self._trim()

    def _trim(self) -> None:
        """Give back what the C library keeps for itself: a tenth of all after a large job was
        looked over, and it takes some 10 ms.
        """
        self._trimmed = _Run.ended_runs
        with contextlib.suppress(OSError, AttributeError):  # not the GNU library
            ctypes.CDLL(None).malloc_trim(0)

    def sweep(self) -> None:
        """Collect the generations that are due; what would be felt is set aside for a pause."""
        if _Run.ended_runs != self._trimmed:
            self._trim()
        # Counts and thresholds as in gc: objects, then young and middle collections since.
        young = gc.get_count()[0]
        if young > gc.get_threshold()[0]:
            due = 0
            for generation in (1, 2):
                if gc.get_count()[generation] > gc.get_threshold()[generation]:
                    due = generation
            if due == 2 or young + (self._middle if due else 0) > MANY:
                gc.freeze()
                self._aside += young + self._middle
                self._middle = 0
                if self._aside > MUCH:  # many of them ended by themselves; counting takes a moment
                    self._aside = max(1, gc.get_freeze_count() - self._left)
            else:
                gc.collect(due)
                self._middle = self._middle + young if due == 0 else 0
        if self._aside and self._is_time():
            gc.unfreeze()
            gc.collect()
            gc.freeze()  # what is left lasts: young collections need not go through it
            self._aside, self._left = 0, gc.get_freeze_count()

    def _is_time(self) -> bool:
        """Return whether going through all objects is not felt, or must be done."""
        if self._aside > MOST_ASIDE:
            return True
        paused_s = time.monotonic() - self._worked
        needed_s = PAUSE_S if self._aside > MUCH else LONG_PAUSE_S
        return _Run.running == 0 and paused_s >= needed_s


def _forget_answers() -> None:
    """Empty what functions of ours keep of their answers: they were asked for a job now closed."""
    for name, module in list(sys.modules.items()):
        if name.startswith("molvik."):
            for var in list(vars(module).values()):
                if isinstance(var, _lru_cache_wrapper):
                    var.cache_clear()


FORESEEN = (Stopped, ValueError, OSError, JobFileError, TableError)
"""What work aside may end in, and says in words for the user; all else is a fault of ours."""

_counting = threading.Lock()


def sweep_here() -> Sweeper:
    """Have cyclic garbage collected on this thread, the interface's, from now on."""
    return _one(Sweeper)


def _one(kind: type[Kind]) -> Kind:
    """Return the application's one object of a kind, made when first asked for."""
    application = QCoreApplication.instance()
    assert application is not None
    found = application.findChild(kind)
    return found if found is not None else kind(application)


class _Post(QObject):
    """Brings what ran on another thread back to the interface's. It lasts as long as that.

    One for all: a sender that went with its window could be deleted while the other thread is
    still sending.
    """

    ended = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.ended.connect(self._deliver)

    def _deliver(self, run: "_Run") -> None:
        run.deliver()


class _Run:
    """Work on another thread; it may outlive the window that asked. running: how many there are.
    ended_runs: how many there were.
    """

    running = ended_runs = 0

    def __init__(
        self,
        work: Callable[[Callable[[], bool]], Any],
        answer: Callable[[Any, Exception | None], None],
    ) -> None:
        self._work = work
        self._answer: Callable[[Any, Exception | None], None] | None = answer
        self._post = _one(_Post)
        self._result: Any = None
        self._error: Exception | None = None
        self.ended = threading.Event()
        self.stopped = threading.Event()

    def run(self) -> None:
        """Do the work; called on another thread."""
        with _counting:
            _Run.running += 1
        try:
            if not self.stopped.is_set():  # it may have waited long
                self._result = self._work(self.stopped.is_set)
        except Exception as problem:  # handed to the interface, which shows it
            if not isinstance(problem, FORESEEN):
                keep_report(problem, "work aside")
            self._error = without_frames(problem)
        self._work = _done
        with _counting:
            _Run.running -= 1
            _Run.ended_runs += 1
        self.ended.set()
        self._post.ended.emit(self)

    def deliver(self) -> None:
        """Hand the answer over; called on the interface's thread."""
        answer, self._answer = self._answer, None
        if answer is not None:
            answer(self._result, self._error)
        self._result = None  # whoever keeps the task does not keep what it computed

    def forget(self) -> None:
        """Stop: nobody is left to take the answer."""
        self.stopped.set()
        self._answer = None


def _done(_stop: Callable[[], bool]) -> None:
    """Stand for work that has ended: it held the job that it was done on."""


def without_frames(problem: Exception) -> Exception:
    """Return a problem without the frames it went through: they hold all that was computed there,
    and one of them holds the problem, a ring that only the collector would free. Where it came from
    is kept as a note.
    """
    if not isinstance(problem, Stopped):
        problem.add_note("".join(traceback.format_exception(problem)))
    seen: BaseException | None = problem
    while seen is not None:
        seen.__traceback__ = None
        seen = seen.__cause__ or seen.__context__
    return problem


def is_working() -> bool:
    """Return whether anything is being done beside the interface's thread."""
    return _Run.running > 0


class Task(QObject):
    """One piece of long work. done(result) or failed(exception) comes on the interface's thread.

    The work gets a function to ask whether it should stop. After ``stop`` neither signal comes,
    nor after the end of the window that asked. lane: what it may have to wait for.
    """

    done = Signal(object)
    failed = Signal(object)

    def __init__(
        self, work: Callable[[Callable[[], bool]], Any], parent: QObject, lane: Lane = COMPUTING
    ) -> None:
        super().__init__(parent)
        self._lane = lane
        self._run = _Run(work, self._answer)
        self.destroyed.connect(self._run.forget)

    def start(self) -> None:
        """Begin."""
        self._lane.start(self._run.run)

    def stop(self) -> None:
        """Ask the work to end and drop its answer."""
        self._run.stopped.set()

    def wait(self) -> None:
        """Wait until the work has ended. Never on the interface's thread."""
        self._run.ended.wait()

    @property
    def has_ended(self) -> bool:
        """Whether the work has come to its end, stopped or not."""
        return self._run.ended.is_set()

    def _answer(self, result: Any, error: Exception | None) -> None:
        self.deleteLater()
        if self._run.stopped.is_set():
            return
        if error is not None:
            self.failed.emit(error)
        else:
            self.done.emit(result)
