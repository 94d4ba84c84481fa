"""A large job that is edited for long: what it takes of memory, and of the interface's thread."""

import random
import sys
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from molvik.desktop import theme
from molvik.desktop.window import MainWindow
from molvik.model import edits
from molvik.model.job import Job
from molvik.stages import STAGES

MOST_MB = {2000: 350}
"""What the process may grow to, with a job of so many wires."""

EVERY_S = (0.3, 0.7, 1.6, 1.6, 1.6)


def edit_slowly(
    chance: random.Random, folder: Path, seconds: float, wires: int, times: int | None
) -> int:
    """Edit for so long, or so often; return how often.

    Fails when memory goes over its limit, or is not given back when the job is closed. How long the
    window was held is printed.
    """
    sys.path.insert(0, str(Path(__file__).parent.parent / "benchmarks"))
    from large import large_job
    from torture import megabytes

    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    theme.apply(application)
    window = MainWindow(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    window.files.new()
    large = large_job(wires)
    window.store.do("a large job", lambda job: replace(large, id=job.id))
    held: list[float] = []
    last = time.perf_counter()

    def spin(until: Callable[[], bool]) -> None:
        nonlocal last
        last, longest = time.perf_counter(), 0.0
        while not until():
            application.processEvents()
            longest = max(longest, time.perf_counter() - last)
            time.sleep(0.002)
            last = time.perf_counter()
        held.append(longest)

    window.get_ready()  # as on the first screen of the program: pages stay when a job is closed
    spin(lambda: window.is_at_rest and len(window.pages) == len(STAGES))
    begun, most, count = megabytes(), 0.0, 0
    ends = time.monotonic() + seconds
    while count < times if times is not None else time.monotonic() < ends:
        count += 1
        if count % 40 == 1:
            window.go(chance.randrange(len(STAGES)))
        window.hand.pick(f"W{chance.randrange(1, wires)}")
        window.store.do("an edit", _edit(chance, wires))
        wait, at = chance.choice(EVERY_S), time.monotonic()
        spin(lambda at=at, wait=wait: time.monotonic() - at >= wait)  # type: ignore[misc]
        if chance.random() < 0.3:
            spin(lambda: window.is_at_rest)
        most = max(most, megabytes())
        if count % 100 == 0:
            print(f"[{count} edits, {megabytes():.0f} MB]", file=sys.stderr, flush=True)
    window.store.history.setClean()
    window.files.close_job()
    at = time.monotonic()
    spin(lambda: time.monotonic() - at > 5)
    after = megabytes()
    slow = sorted(held)
    usual, seldom = (1000 * slow[int(len(slow) * share)] for share in (0.5, 0.95))
    print(
        f"{wires} wires: {begun:.0f} MB, at most {most:.0f}, {after:.0f} when closed; held "
        f"{usual:.0f} ms, in 1 of 20 {seldom:.0f}, at most {1000 * slow[-1]:.0f}",
        file=sys.stderr,
        flush=True,
    )
    assert most < MOST_MB.get(wires, 700), f"{most:.0f} MB"
    assert after < begun + 60, f"{after:.0f} MB are kept of a closed job"
    return count


def _edit(chance: random.Random, wires: int) -> Callable[[Job], Job]:
    code, other = (f"W{chance.randrange(1, wires)}" for _ in range(2))
    length, kind = chance.uniform(0.2, 6.0), chance.randrange(6)

    def edit(job: Job) -> Job:
        one = job.wire(other)
        assert one is not None
        match kind:
            case 0:
                return edits.change_wire(job, code, length_m=length)
            case 1:
                return edits.change_wire(job, code, note=f"{length:.3f}")
            case 2:
                return edits.change_wire(job, code, size=one.size)
            case 3:
                return edits.change_wire(job, code, finish=one.finish)
            case 4:
                return replace(job, settings=replace(job.settings, bench_c=15 + length))
            case _:
                return edits.change_wire(job, code, function=f"{length:.3f}")

    return edit
