"""The command line, as a user runs it."""

import contextlib
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import put_job
from molvik.cli import main
from molvik.demo import DONOR_TABLE, ECU_TABLE, demo_job
from molvik.desktop import start
from molvik.devices.states import STATES
from molvik.files.jobfile import open_job
from molvik.model import edits
from molvik.model.job import Acceptance, Job


@pytest.fixture
def demo_file(tmp_path: Path, demo: Job) -> Path:
    path = tmp_path / "demo.molvik"
    put_job(demo, path)
    return path


def test_check_lists_findings_and_fails_on_stops(
    demo_file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["check", str(demo_file)]) == 1
    out = capsys.readouterr().out
    assert "W61, Blue beacon, has no fuse" in out
    assert out.strip().splitlines()[-1].startswith("21 to fix, ")


def test_check_json_is_as_documented(demo_file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["check", str(demo_file), "--json"])
    report = json.loads(capsys.readouterr().out)
    assert report["version"] == 1
    assert report["job"] == "Marten fire tender"
    assert report["counts"]["stop"] == 21
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for key in (*report, *report["findings"][0]):
        assert f"`{key}`" in documented


def test_an_accepted_stop_no_longer_fails_the_check(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    from conftest import wire

    job = Job("x", wires=(wire("W1", "", ""),))
    path = tmp_path / "x.molvik"
    put_job(job, path)
    assert main(["check", str(path)]) == 1
    put_job(
        edits.accept(job, Acceptance("loose-end W1", "spare", "2026-11-02T10:00:00+01:00")), path
    )
    assert main(["check", str(path)]) == 0
    assert "Accepted 2026-11-02: spare" in capsys.readouterr().out


def test_check_of_what_is_no_job_says_so_and_exits_with_2(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "x.molvik"
    path.write_text("hello")
    assert main(["check", str(path)]) == 2
    assert "is not a Molvik job" in capsys.readouterr().err
    assert main(["export", str(path), "--out", str(tmp_path)]) == 2


def test_export_writes_the_sheets(
    demo_file: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["export", str(demo_file), "--out", str(tmp_path / "out")]) == 0
    names = [Path(line).name for line in capsys.readouterr().out.split()]
    assert "wire-list.pdf" in names
    assert "continuity-list.csv" in names


def test_import_pinout_json_has_every_row(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["import-pinout", str(ECU_TABLE), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["columns"]["cavity"] == "A"
    assert report["dialect"] == "single letters"
    assert len(report["rows"]) == 70
    assert report["rows"][0]["pin"]["colour"] == {"base": "RD", "tracer": "WH"}
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for key in (*report, *report["rows"][0]):
        assert f"`{key}`" in documented


def test_import_pinout_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["import-pinout", str(DONOR_TABLE)]) == 0
    assert "62 rows OK" in capsys.readouterr().out
    table = tmp_path / "t.csv"
    table.write_text("a,b\n1,2\n")
    assert main(["import-pinout", str(table)]) == 2
    assert "No column is headed cavity" in capsys.readouterr().err
    table.write_text("Pin,Colour\n1,QQ\n")
    assert main(["import-pinout", str(table)]) == 0
    assert "to check: Colour “QQ”" in capsys.readouterr().out


def test_crossover_json_has_matches_actions_and_steps(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "plover.molvik"
    put_job(demo_job("plover"), path)
    assert main(["crossover", str(path), "--set", "engine computer plug", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["set"] == "Q1"
    assert len(report["matches"]) == 48
    assert report["problems"] == []
    assert {step["done"] for step in report["steps"]} == {False}
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for part in (report, report["matches"][0], report["actions"][0], report["steps"][0]):
        for key in part:
            assert f"`{key}`" in documented
    for action in {one["action"] for one in report["actions"]}:
        assert f"`{action}`" in documented


def test_crossover_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "plover.molvik"
    put_job(demo_job("plover"), path)
    assert main(["crossover", str(path), "--set", "Q3"]) == 0
    out = capsys.readouterr().out
    assert "decide: C5/5 Vehicle speed sensor return to C6/3 Sensor ground?" in out
    assert "Neutral switch: C5/6 to C6/7" in out
    assert main(["crossover", str(path), "--set", "gearbox"]) == 2
    assert "It has: Q1 Engine computer plug, Q2" in capsys.readouterr().err


def test_simulate_and_why(demo_file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    documented = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    assert main(["simulate", str(demo_file), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert [one["state"] for one in report["states"]] == [state.name for state in STATES]
    state = report["states"][2]
    for part in (report, state, state["loads"][0], report["drain"], report["drain"]["items"][0]):
        for key in part:
            assert f"`{key}`" in documented, key
    assert main(["simulate", str(demo_file), "--state", "crank"]) == 0
    assert "does not start: Injector 1" in capsys.readouterr().out
    fault = ["--state", "crank", "--fault", "F4"]
    assert main(["simulate", str(demo_file), *fault]) == 0
    assert "Coil A, Coil B dead" in capsys.readouterr().out
    assert main(["why", str(demo_file), "--device", "D16", *fault, "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert (report["cause"], report["alive"]) == ("F4", False)
    for key in report:
        assert f"`{key}`" in documented, key
    for words, said in (
        (["simulate", str(demo_file), "--state", "moon"], "The states are: off"),
        (["simulate", str(demo_file), "--scenario", "moon"], "start and stop with the key"),
        (["simulate", str(demo_file), "--fault", "W999"], "no W999"),
        (["simulate", str(demo_file), "--fault", "short K1 earth"], "K1 is not a wire"),
        (["simulate", str(demo_file), "--switch", "D36=sideways"], "It has: off, on"),
        (["simulate", str(demo_file), "--temperature", "900"], "between -60 and 150"),
        (["why", str(demo_file), "--device", "D99", "--state", "run"], "no device D99"),
    ):
        assert main(words) == 2
        assert said in capsys.readouterr().err


def test_a_scenario_is_gone_through_in_order(
    demo_file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    words = ["simulate", str(demo_file), "--scenario", "start and stop with the key", "--json"]
    assert main(words) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["engine"][:4] == ["stands"] * 4
    assert report["engine"][4].startswith("does not start: Injector 1")
    assert report["engine"][5:] == ["stands", "stands"]
    # Wipers off, lamps off: what the switches let through is missing from what flows.
    quiet = ["--switch", "D7=off", "--switch", "D36=off", "--battery", "half"]
    assert main(["simulate", str(demo_file), "--state", "accessory", *quiet]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert next(line for line in lines if "Wiper motor" in line).endswith("dead")


def test_help_and_version(capsys: pytest.CaptureFixture[str]) -> None:
    for words in (["--help"], ["check", "--help"], ["--version"]):
        with pytest.raises(SystemExit) as end:
            main(words)
        assert end.value.code == 0
    assert "molvik 0.1.0" in capsys.readouterr().out


def run(*words: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run molvik as a process without any display but the one given."""
    kept = {
        name: value
        for name, value in os.environ.items()
        if name not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    return subprocess.run(
        [sys.executable, "-m", "molvik", *words],
        env={**kept, **environment},
        capture_output=True,
        text=True,
        timeout=600,
    )


def test_without_a_display_it_says_so_and_how_to_start_one() -> None:
    for words in (["demo"], []):
        done = run(*words)
        assert done.returncode == 2
        assert "no display here" in done.stderr
        assert "xvfb-run" in done.stderr


def test_a_display_that_does_not_answer_is_told() -> None:
    for display in (":987", "nonsense"):
        done = run("demo", DISPLAY=display)
        assert done.returncode == 2
        assert f"display {display} does not answer" in done.stderr


def test_an_unknown_option_is_told() -> None:
    done = run("--wide", QT_QPA_PLATFORM="offscreen")
    assert done.returncode == 2


def test_check_imports_nothing_of_qt(demo_file: Path) -> None:
    script = (
        "import sys; from molvik.cli import main\n"
        "main(['check', sys.argv[1]])\n"
        "assert not any(name.startswith('PySide6') for name in sys.modules)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", script, str(demo_file)], capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize(
    "words",
    [
        ["check"],
        ["survey"],
        ["crossover", "--set", "Q1"],
        ["simulate"],
        ["size"],
        ["size", "--fuses"],
        ["why", "--device", "D5", "--state", "run"],
        ["strip", "--keep", "D5"],
    ],
)
def test_every_command_takes_a_demo_by_its_name(
    words: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    name = "plover" if words[0] == "crossover" else "marten"
    assert main([*words, "--demo", name]) in (0, 1)
    assert capsys.readouterr().out


def test_a_demo_is_changed_into_a_file_only(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table = tmp_path / "w.csv"
    table.write_text("From,To,Function\nC1 1,,Extra\n")
    assert main(["import-wires", str(table), "--demo", "marten"]) == 2
    assert "say --out FILE" in capsys.readouterr().err
    out = tmp_path / "mine.molvik"
    assert main(["import-wires", str(table), "--demo", "marten", "--out", str(out)]) == 0
    with contextlib.closing(open_job(out)) as file:
        assert file.job.wires[-1].function == "Extra"
        assert file.job.photos
        assert not file.lost


@pytest.mark.parametrize("words", [["check"], ["check", "x.molvik", "--demo", "marten"]])
def test_a_job_is_either_a_file_or_a_demo(
    words: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    with pytest.raises(SystemExit) as stopped:
        main(words)
    assert stopped.value.code == 2
    assert "--demo marten" in capsys.readouterr().err


def test_a_long_command_tells_that_it_works(capsys: pytest.CaptureFixture[str]) -> None:
    """With a clock of its own: nothing in the first moments, then each second."""
    from molvik.cli.progress import _teller

    clock = [100.0]
    tell = _teller(lambda: clock[0])
    said = []
    for clock[0] in (100.5, 102.1, 102.5, 103.2):
        assert not tell()
        said.append("working" in capsys.readouterr().err)
    assert said == [False, True, False, True]


def test_stripping_tells_how_far_it_is_where_somebody_looks(
    demo_file: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    from molvik.cli import progress

    words = ["strip", str(demo_file), "--keep", "D1"]
    assert main(words) == 0
    assert capsys.readouterr().err == "", "nobody looks"
    monkeypatch.setattr(sys.stderr, "isatty", lambda: True)
    monkeypatch.setattr(progress, "FIRST_S", 0.0)
    monkeypatch.setattr(progress, "EVERY_S", 0.0)
    assert main(words) == 0
    told = re.findall(r"working, \d+ s, (\d+) of (\d+)", capsys.readouterr().err)
    shares = [int(done) / int(of) for done, of in told]
    assert shares == sorted(shares)
    assert shares[-1] > 0.5


def test_a_command_that_is_stopped_by_hand_writes_nothing(
    demo_file: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def stopped(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr("molvik.circuits.strip.strip", stopped)
    out = tmp_path / "out.molvik"
    assert main(["strip", str(demo_file), "--keep", "D1", "--out", str(out)]) == 2
    assert "stopped; nothing more was written" in capsys.readouterr().err
    assert not out.exists()


@pytest.mark.parametrize(
    ("words", "asked"),
    [
        (["job.molvik"], ("", "job.molvik", "")),
        (["--demo=plover"], ("plover", None, "")),
        (["file:///home/me/my%20job.molvik"], ("", "/home/me/my job.molvik", "")),
        (["file://localhost/a.molvik"], ("", "/a.molvik", "")),
        (["-job.molvik"], ("", "-job.molvik", "")),
        (["--", "--odd"], ("", "--odd", "")),
        (["--odd"], ("", None, "--odd")),
        (["--", "a", "b"], ("", "a", "")),
        ([], ("", None, "")),
        (["https://here/a.molvik"], ("", "https:/here/a.molvik", "")),
    ],
)
def test_what_the_window_is_opened_on(
    words: list[str],
    asked: tuple[str, str | None, str],
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """As a desktop names a file, and whatever it is called."""
    monkeypatch.chdir(tmp_path)
    Path("-job.molvik").write_bytes(b"")
    demo, job, unknown = start._asked(words)
    assert (demo, None if job is None else str(job), unknown) == asked
    opened: list[list[str]] = []

    def show(words: list[str]) -> int:
        opened.append(words)
        return 0

    monkeypatch.setattr("molvik.cli.jobs.show_window", show)
    if words and not words[0].startswith("--o") and not words[0].startswith("--demo"):
        main(words)
        assert opened == [words]
