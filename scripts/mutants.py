"""Plant faults in chosen modules, one at a time, and see whether the tests notice: make mutants.

The faults are those of cosmic-ray, drawn by a seed, the same number from each module; the tests are
those that name the module. It works on a copy, so that nothing here is ever left changed, and ends
after so many seconds. What survives is listed with its place and its difference: either a test is
missing, or the fault changes nothing (an equivalent one), which a reader has to judge.
"""

import argparse
import os
import random
import shutil
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from tempfile import TemporaryDirectory

HERE = Path(__file__).parent.parent

MODULES: dict[str, tuple[str, ...]] = {
    "crossover/order.py": ("test_crossover.py",),
    "crossover/match.py": ("test_crossover.py", "test_sure_matches.py"),
    "electrical/transient.py": ("test_heat.py", "test_heat_more.py", "test_where_it_runs.py"),
    "electrical/fusing.py": ("test_fusing.py", "test_sizes.py"),
    "electrical/heat.py": ("test_heat.py", "test_heat_more.py"),
    "devices/kinds/battery.py": ("test_behaviour.py", "test_alive.py"),
    "devices/kinds/alternator.py": ("test_behaviour.py", "test_alive.py", "test_close_calls.py"),
    "netlist/feeds.py": ("test_feeds.py", "test_feeds_together.py"),
    "netlist/network.py": ("test_results.py", "test_feeds.py"),
    "proving/benchfault.py": ("test_proving.py", "test_diagnose.py"),
    "proving/proofplan.py": ("test_plan.py",),
    "routing/ways.py": ("test_routing.py", "test_building.py"),
    "routing/splices.py": ("test_routing.py", "test_building.py"),
    "sizes/drop.py": ("test_drops.py", "test_sizes.py"),
    "survey/rules.py": ("test_decisions.py", "test_survey.py"),
    "files/writing.py": ("test_files.py", "test_nothing_lost.py"),
    "parsing/quantities.py": ("test_quantities.py",),
    "pinouts/looks.py": ("test_pinouts.py", "test_pinout_columns.py"),
}
"""Modules under src/molvik, and the tests that state what they do."""

CONFIG = """[cosmic-ray]
module-path = "{module}"
timeout = 240.0
excluded-modules = []
test-command = "{python} -m pytest -x -q -n 2 -p no:cacheprovider {tests}"
[cosmic-ray.distributor]
name = "local"
"""


def copy_to(there: Path) -> None:
    """Copy what is in the repository, as it stands here."""
    names = subprocess.check_output(["git", "ls-files"], cwd=HERE, text=True).splitlines()
    for name in names:
        if (HERE / name).exists():
            (there / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(HERE / name, there / name)


def drawn(tool: str, there: Path, module: str, each: int, chosen: random.Random) -> Path:
    """Return the session of a module with so many faults left in it."""
    config, session = there / "mutants.toml", there / "mutants.sqlite"
    session.unlink(missing_ok=True)
    tests = " ".join(f"tests/{name}" for name in MODULES[module])
    path = f"src/molvik/{module}"
    config.write_text(CONFIG.format(module=path, python=sys.executable, tests=tests))
    subprocess.run([tool, "init", config.name, session.name], cwd=there, check=True)
    with sqlite3.connect(session) as base:
        jobs = sorted(job for (job,) in base.execute("SELECT job_id FROM work_items"))
        kept = set(chosen.sample(jobs, min(each, len(jobs))))
        for table in ("mutation_specs", "work_items"):
            base.executemany(
                f"DELETE FROM {table} WHERE job_id = ?", [(job,) for job in jobs if job not in kept]
            )
    return session


def results(session: Path) -> list[tuple[str, str]]:
    """Return of each fault that was tried what became of it, and its difference."""
    with sqlite3.connect(session) as base:
        return [
            (str(outcome).rsplit(".", 1)[-1].lower(), diff or "")
            for outcome, diff in base.execute("SELECT test_outcome, diff FROM work_results")
        ]


def main() -> int:
    """Try the faults; say which survive."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=1800)
    parser.add_argument("--each", type=int, default=4, help="faults of each module")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--tool", default="cosmic-ray")
    parser.add_argument("--only", default="", help="modules whose path holds this")
    asked = parser.parse_args()
    end = time.monotonic() + asked.seconds
    tried = survived = 0
    with TemporaryDirectory() as folder:
        there = Path(folder)
        copy_to(there)
        environment = {"PYTHONPATH": f"{there / 'src'}:{there / 'tests'}"}
        for module in MODULES:
            if asked.only not in module or time.monotonic() > end:
                continue
            session = drawn(asked.tool, there, module, asked.each, random.Random(asked.seed))
            try:
                subprocess.run(
                    [asked.tool, "exec", "mutants.toml", session.name],
                    cwd=there,
                    timeout=max(1.0, end - time.monotonic()),
                    env={**os.environ, **environment},
                    check=False,
                )
            except subprocess.TimeoutExpired:
                print("The time is over.")
                shutil.copy2(HERE / "src/molvik" / module, there / "src/molvik" / module)
            found = results(session)
            alive = [diff for outcome, diff in found if outcome == "survived"]
            tried, survived = tried + len(found), survived + len(alive)
            print(f"{module}: {len(found)} tried, {len(alive)} survived", flush=True)
            for diff in alive:
                print("\n".join(f"    {line}" for line in diff.splitlines()[3:]), flush=True)
    print(f"{tried} tried, {survived} survived ({survived / max(tried, 1):.0%})")
    return 0


if __name__ == "__main__":
    sys.exit(main())
