"""A short run of the attacks in torture.py, each in a process of its own."""

import subprocess
import sys
from pathlib import Path

import pytest

HERE = Path(__file__).parent


@pytest.mark.parametrize(
    ("name", "times"),
    [
        ("job-bytes", 60),
        ("job-values", 30),
        ("tables", 120),
        ("pictures", 800),
        ("commands", 30),
        ("kills", 40),
        ("command-kills", 20),
        ("window-kills", 6),
        ("shelf-kills", 12),
        ("journals", 50),
        ("rows", 25),
        ("random-edits", 3),
        ("random-user", 24),
        ("instruments", 12),
        ("slow-edits", 4),
    ],
)
@pytest.mark.parametrize("seed", [20261125])
def test_nothing_is_lost_and_nothing_raises(name: str, times: int, seed: int) -> None:
    words = [
        sys.executable,
        str(HERE / "torture.py"),
        "--only",
        name,
        "--seed",
        str(seed),
        "--times",
        str(times),
    ]
    done = subprocess.run(words, capture_output=True, text=True, timeout=1800)
    assert done.returncode == 0, done.stdout + done.stderr[-3000:]
    count = int(done.stdout.split(f"seed {seed}: ")[1].split(" times")[0].split(")")[-1])
    assert count >= times - 1
