"""How long things take. Targets: window under 2 s, open, save and findings under 0.5 s each."""

import os
import subprocess
import sys
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest

from large import large_job
from molvik.analysis import Analysis
from molvik.electrical import fusing, heat
from molvik.files.package import open_job, save_job
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.job import Job


@pytest.fixture(scope="session")
def large() -> Job:
    return large_job()


STARTUP = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from molvik.desktop import window
class Measured(window.MainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        QTimer.singleShot(0, QApplication.quit)
window.MainWindow = Measured
from molvik.cli import main
sys.exit(main(["demo"]))
"""


def test_startup_with_the_demo_to_a_painted_window(benchmark: Any, tmp_path: Path) -> None:
    environment = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "XDG_STATE_HOME": str(tmp_path),
        "XDG_CONFIG_HOME": str(tmp_path),
    }

    def start() -> None:
        subprocess.run([sys.executable, "-c", STARTUP], env=environment, check=True)

    benchmark.pedantic(start, rounds=5, warmup_rounds=1)


def test_open_2000_wires(benchmark: Any, large: Job, tmp_path: Path) -> None:
    path = tmp_path / "large.molvik"
    save_job(large, path)
    assert benchmark(open_job, path) == large


def test_save_2000_wires(benchmark: Any, large: Job, tmp_path: Path) -> None:
    benchmark(save_job, large, tmp_path / "large.molvik")


@pytest.mark.parametrize("cold", [True, False], ids=["first-time", "after-an-edit"])
def test_all_findings_of_2000_wires(benchmark: Any, large: Job, cold: bool) -> None:
    def fresh() -> tuple[tuple[Analysis], dict[str, Any]]:
        if cold:
            for kept in (heat.current_for_temperature_a, fusing.largest_protecting_a):
                kept.cache_clear()
        return (Analysis(large),), {}

    found = benchmark.pedantic(find_all, setup=fresh, rounds=8)
    assert found


def test_edit_one_wire_in_the_window_with_2000_wires(
    benchmark: Any, large: Job, tmp_path: Path, qtbot: Any
) -> None:
    """What a person waits for after typing a note into the wire list."""
    from PySide6.QtCore import QSettings

    from molvik.desktop.window import MainWindow

    os.environ["XDG_STATE_HOME"] = str(tmp_path)
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.show()
    window.files.new()
    window.store.load(large, None)
    window.go(3)
    notes = iter(range(10_000))

    def edit() -> None:
        note = f"note {next(notes)}"
        window.store.do("note", lambda job: edits.change_wire(job, "W1000", note=note))

    benchmark.pedantic(edit, rounds=20, warmup_rounds=1)
    window.store.history.setClean()
