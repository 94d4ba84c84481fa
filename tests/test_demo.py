"""The demo is complete, reproducible, and has just the mistakes it is meant to have."""

import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

import openpyxl
import pytest

from conftest import found
from molvik.demo import DONOR_TABLE, ECU_TABLE, FOLDER
from molvik.files.register import register
from molvik.files.tables import read_raw_table
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.pinouts.columns import find_columns
from molvik.pinouts.table import read_table

ROOT = Path(__file__).parent.parent


def test_the_demo_is_as_large_as_promised(demo: Job) -> None:
    assert len(demo.wires) >= 120
    kinds_of = [one.kind for one in demo.devices]
    assert kinds_of.count("relay") >= 6
    assert {"battery", "isolator", "starter", "alternator", "controller", "gauge"} <= {*kinds_of}
    kinds = [one.grid for one in demo.connectors]
    grids = {(grid.by, grid.start, grid.serpentine, grid.letters) for grid in kinds}
    assert len(grids) >= 3
    assert len({len(cavities(one.grid)) for one in demo.connectors}) >= 3


def test_the_demo_is_what_its_script_makes(tmp_path: Path) -> None:
    subprocess.run(
        [sys.executable, str(ROOT / "scripts" / "make_demo.py"), str(tmp_path)], check=True
    )
    for name in ("marten.json", "ecu-plug.csv"):
        assert (tmp_path / name).read_bytes() == (FOLDER / name).read_bytes(), "run make_demo.py"
    # A spreadsheet carries the time it was written: its cells are compared.
    made, shipped = (
        [list(row) for row in openpyxl.load_workbook(path).worksheets[0].values]
        for path in (tmp_path / DONOR_TABLE.name, DONOR_TABLE)
    )
    assert made == shipped


@pytest.mark.parametrize(("table", "code"), [(ECU_TABLE, "C2"), (DONOR_TABLE, "C1")])
def test_its_tables_import_to_the_pins_it_has(demo: Job, table: Path, code: str) -> None:
    connector = demo.connector(code)
    assert connector is not None
    raw = read_raw_table(table)
    reading = read_table(raw, find_columns(raw), known=frozenset(cavities(connector.grid)))
    assert {row.state for row in reading.rows} == {"fine"}
    assert tuple(row.pin for row in reading.rows) == connector.pins


def test_its_mistakes_are_found_and_no_others_stop_it(demo: Job) -> None:
    # Put in by hand: see the notes of the wires in scripts/make_demo.py.
    findings = found(demo)
    stops = {
        rule: sorted(one.subject for one in found_here if one.severity == "stop")
        for rule, found_here in findings.items()
    }
    assert {rule: subjects for rule, subjects in stops.items() if subjects} == {
        "network-terminators": ["D31"],  # a cap that was none, at C17
        "failed-continuity": ["W56", "W59"],  # bad repair; green at the lamp end
        "dead-in-crank": ["D12"],  # the injectors' relay is fed from the accessory contact
        "isolator-no-stop": ["D19"],  # its second contacts are not used
        "fuse-blows": ["F7"],  # heater and headlamps on 15 A
        "fuse-too-large": ["W42", "W57"],  # the donor's thin pump wire; the heater's
        "fault-found": ["X1", "X2", "X6"],  # the beacon burnt, the old wiring, the heater
        "loose-end": ["W63"],  # panel lamps, found cut
        "named-not-wired": ["C2/70"],  # one of three ECU earths left off
        "no-fuse": ["W61"],  # the beacon, added later
        "terminal-size": ["W12 C2/1"],  # 1.5 mm2 into a size 20 contact
        "two-wires-one-cavity": ["C4/5"],  # the heater twisted in
        "does-not-pass": ["J44"],  # the rear bulkhead's hole
        "length-differs": ["W92"],  # the coolant sender's wire, for a branch nearly a metre long
        "sleeve-cannot-go-on": ["R18"],  # thought of with the plugs on both sides on
        "splice-moves": ["S6"],  # in the stretch that moves when the cab is tilted
        "too-hot-here": ["R16"],  # split tube beside the manifold
    }
    assert [one.subject for one in findings["splice-near"]] == ["S2"]  # beside the firewall
    assert [one.subject for one in findings["plug-does-not-pass"]] == ["J44"]  # the pump's plug
    alike = {one.subject for one in findings["look-alikes"] if one.severity != "note"}
    assert "C7 C16" in alike  # both thermistors: each tells the other's temperature
    assert "W57" in {one.subject for one in findings["runs-hot"]}  # the heater on 0.75 mm2
    # And the charge lamp feeds the main relay back: put the injectors right, and it runs on.
    assert "Main relay" in findings["stays-alive"][0].what
    assert "Heater blower" in findings["drain"][0].why  # twisted in before its switch
    assert [one.subject for one in findings["colour-differs"]] == ["W23 C2/7"]


def test_registering_makes_molvik_files_known_to_the_desktop(tmp_path: Path) -> None:
    written = register()
    names = sorted(path.name for path in written)
    assert names == ["application-x-molvik.svg", "molvik.desktop", "molvik.svg", "molvik.xml"]
    entry = next(path for path in written if path.suffix == ".desktop")
    checked = subprocess.run(["desktop-file-validate", str(entry)], capture_output=True, text=True)
    assert checked.returncode == 0, checked.stdout
    text = entry.read_text()
    assert "%f" in text
    assert "MimeType=application/x-molvik;" in text
    # The database tool of the freedesktop.org standard read our MIME type.
    mime = next(path for path in written if path.suffix == ".xml").parent.parent
    assert "application/x-molvik:*.molvik" in (mime / "globs").read_text()


def test_a_plain_install_carries_everything_that_is_read_at_run_time(tmp_path: Path) -> None:
    # Build from a copy: setuptools leaves its build folder beside the sources.
    source = tmp_path / "source"
    shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("*.egg-info"))
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source / name)
    command = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation"]
    subprocess.run([*command, "-w", str(tmp_path), str(source)], check=True)
    with zipfile.ZipFile(next(tmp_path.glob("molvik-*.whl"))) as wheel:
        packed = {name for name in wheel.namelist() if name.startswith("molvik/")}
    ours = {
        path.relative_to(ROOT / "src").as_posix()
        for path in (ROOT / "src" / "molvik").rglob("*")
        if path.is_file() and "__pycache__" not in path.parts
    }
    assert ours - packed == set()
