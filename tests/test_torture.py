"""A short run of the attacks in torture.py, each in a process of its own."""

import subprocess
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).parent


@pytest.mark.parametrize(
    ("name", "seconds"),
    [("job-bytes", 2), ("job-values", 2), ("tables", 2), ("pictures", 2), ("commands", 3),
     ("kills", 3), ("journals", 2), ("rows", 2), ("random-edits", 4), ("random-user", 20)],
)  # fmt: skip
@pytest.mark.parametrize("seed", [20261125])
def test_nothing_is_lost_and_nothing_raises(name: str, seconds: float, seed: int) -> None:
    words = [sys.executable, str(HERE / "torture.py"), "--only", name, "--seed", str(seed),
             "--seconds", str(seconds)]  # fmt: skip
    done = subprocess.run(words, capture_output=True, text=True, timeout=600)
    assert done.returncode == 0, done.stdout + done.stderr[-3000:]
    count = int(done.stdout.split(f"seed {seed}: ")[1].split(" times")[0].split(")")[-1])
    assert count > 5, done.stdout
