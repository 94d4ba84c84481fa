"""How long the interface's thread is held by each action: python benchmarks/freezes.py [WIRES].

The longest hold is what a person feels: the action itself, or anything that follows from it until
the window has come to rest. Given for each action as the median and the worst of several times.
"""

import os
import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtWidgets import QApplication

from large import large_job
from molvik.desktop import theme
from molvik.desktop.window import MainWindow
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.model import edits
from molvik.stages import STAGES

TIMES = 7


class Watch:
    """Measures how long the event loop is held."""

    def __init__(self) -> None:
        self._timer = QTimer()
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._tick)
        self._last = self.longest = 0.0

    def _tick(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self._last)
        self._last = now

    def hold(self, action: Callable[[], object], rested: Callable[[], bool]) -> float:
        """Return the longest hold of an action until the window has come to rest, s."""
        self._last, self.longest = time.perf_counter(), 0.0
        self._timer.start()
        action()
        self._tick()
        ends = time.perf_counter() + 60
        while not rested() and time.perf_counter() < ends:
            QApplication.processEvents()
        for _ in range(30):
            QApplication.processEvents()
            self._tick()  # what followed from it counts too
            time.sleep(0.002)
            self._last = time.perf_counter()
        self._timer.stop()
        return self.longest


def measure(wires: int, folder: Path, times: int = TIMES) -> dict[str, list[float]]:
    """Return the longest holds of each action in a window with so many wires, s."""
    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    theme.apply(application)
    path = folder / f"{wires}.molvik"
    save_job(large_job(wires), path, PhotoBox(), instead=True)
    window = MainWindow(QSettings(str(folder / "s.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    watch, store = Watch(), window.store
    window.get_ready()  # as the program does on its first screen
    while len(window.pages) < len(STAGES):
        QApplication.processEvents()
    found: dict[str, list[float]] = {}

    def rested() -> bool:
        if not window.files.has_job:
            return True
        return window.is_at_rest

    def note(name: str, action: Callable[[], object]) -> None:
        found.setdefault(name, []).append(watch.hold(action, rested))

    def change(code: str, **fields: object) -> None:
        store.do("x", lambda job: edits.change_wire(job, code, **fields))

    note("open", lambda: window.files.open(path))
    stages = ["Circuits", "Sizes", "Proving", "Pinouts", "Crossover", "Survey", "Sheets"]
    for name in stages:
        note(f"first visit: {name}", partial(window.go, window.stage_named(name)))
    for _ in range(times):
        for name in stages:
            note("switch stages", partial(window.go, window.stage_named(name)))
    window.go(window.stage_named("Circuits"))
    page: Any = window.pages[window.stage]
    table = page.table
    for n in range(times):
        code = f"W{100 + n * 7}"
        note("take a wire in hand", partial(window.hand.pick, code))
        note("edit with a wire in hand", partial(change, code, length_m=1.0 + n / 10))
        note("undo", store.history.undo)
        note("redo", store.history.redo)
        note("note in hand", partial(change, code, note=f"n{n}"))
        note("save", window.files.save)
        for at, heading in enumerate(("wire", "from", "function")):
            order = (Qt.SortOrder.DescendingOrder, Qt.SortOrder.AscendingOrder)[n % 2]
            note(f"sort by {heading}", partial(table.sortByColumn, at, order))
        table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        table.selectAll()
        note("copy all rows", table.copy)
        gone = frozenset(f"W{500 + i}" for i in range(100))
        note("delete 100 wires", partial(page.remove, list(gone)))
        note("undo that", store.history.undo)
        lines = "\n".join(f"C1 {i % 70 + 1}\tC2 {i % 70 + 1}\tPasted {i}" for i in range(400))
        table.pick("")
        table.setCurrentIndex(table.model().index(table.model().rowCount() - 1, 1))
        note("paste 400 wires", partial(table.paste, lines))
        note("undo that paste", store.history.undo)
    for name in ("Sizes", "Proving"):
        window.go(window.stage_named(name))
        for n in range(times):
            code = f"W{200 + n * 7}"
            note(f"{name}: take in hand", partial(window.hand.pick, code))
            # Another length at each stage: the same one again is no edit.
            note(f"{name}: edit", partial(change, code, length_m=1.1 + n / 10 + len(name)))
    sizes: Any = window.pages[window.stage_named("Sizes")]
    window.go(window.stage_named("Sizes"))
    every = sizes.table
    note("Sizes: show all wires", partial(sizes.list.setCurrentRow, 1))
    for n in range(times):
        for at in (0, 4, 7):
            order = (Qt.SortOrder.DescendingOrder, Qt.SortOrder.AscendingOrder)[n % 2]
            note("Sizes: sort all wires", partial(every.sortByColumn, at, order))
    began = time.perf_counter()

    def ten() -> None:
        for n in range(10):
            change("W77", note=f"t{n}")
            until = time.perf_counter() + 0.1
            while time.perf_counter() < until:
                QApplication.processEvents()

    window.go(window.stage_named("Circuits"))
    window.hand.pick("W77")
    began = time.perf_counter()
    ten()
    found["ten edits 0.1 s apart (beyond 1 s)"] = [time.perf_counter() - began - 1.0]
    store.history.setClean()
    window.close()
    window.deleteLater()
    return found


def main() -> None:
    """Print a table."""
    wires = [int(one) for one in sys.argv[1:]] or [2000, 5000]
    with TemporaryDirectory() as folder:
        os.environ["XDG_STATE_HOME"] = folder
        for count in wires:
            print(f"{count} wires: longest hold of the interface, ms (median, worst)")
            for name, holds in measure(count, Path(folder)).items():
                print(
                    f"  {name:36} {statistics.median(holds) * 1000:7.0f} {max(holds) * 1000:7.0f}"
                )


if __name__ == "__main__":
    main()
