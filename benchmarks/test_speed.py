"""How long things take. Targets: window under 2 s, open, save and findings under 0.5 s each."""

import os
import subprocess
import sys
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from msgspec.structs import replace

from large import large_job
from molvik.analysis import Analysis
from molvik.electrical import fusing, heat
from molvik.files.jobfile import read_job
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Bundle


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
    save_job(large, path, PhotoBox())
    assert benchmark(read_job, path) == large


def test_save_2000_wires(benchmark: Any, large: Job, tmp_path: Path) -> None:
    photos, path = PhotoBox(), tmp_path / "large.molvik"
    save_job(large, path, photos)
    count = iter(range(10_000))

    def save() -> None:
        save_job(replace(large, subtitle=f"save {next(count)}"), path, photos)

    benchmark(save)


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


def test_solve_the_demo_in_one_state(benchmark: Any) -> None:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.demo import demo_job
    from molvik.devices.states import CRANK

    network = Analysis(demo_job()).network
    assert "Injector 1" in benchmark(OperatingPoint, network, CRANK).no_start


def test_solve_the_demo_in_all_states(benchmark: Any) -> None:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.demo import demo_job
    from molvik.devices.states import STATES

    network = Analysis(demo_job()).network
    assert len(benchmark(lambda: [OperatingPoint(network, state) for state in STATES])) == len(
        STATES
    )


def test_solve_2000_wires_in_one_state(benchmark: Any, large: Job) -> None:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.devices.states import RUN

    network = Analysis(large).network
    assert network.wires_at
    assert benchmark(OperatingPoint, network, RUN).solution.volts


def loom_of(wires: int) -> Any:
    """Return a job of this many wires whose network hangs together, with loads and relays."""
    import random

    from molvik.model.parts import Device, EarthPoint, End, Fuse, Splice, Wire, WireSize

    chance = random.Random(5)
    circuits = wires // 4
    devices = [Device("D1", "Battery", "battery", ("+", "-"))]
    fuses, splices, made = [], [], [Wire("W0", End("E1"), End("D1", "-"), length_m=0.5)]
    for n in range(1, circuits + 1):
        fuses.append(Fuse(f"F{n}", f"Fuse {n}", 15))
        splices.append(Splice(f"S{n}"))
        devices.append(Device(f"D{n + 1}", f"Lamp {n}", "lamp", ("+", "-"), values=(("A", 2.0),)))
        ends = (
            (End("D1", "+"), End(f"F{n}", "in")),
            (End(f"F{n}", "out"), End(f"S{n}")),
            (End(f"S{n}"), End(f"D{n + 1}", "+")),
            (End(f"D{n + 1}", "-"), End("E1")),
        )
        for at, (start, finish) in enumerate(ends):
            size = WireSize("metric", chance.choice((0.75, 1, 1.5, 2.5)))
            made.append(Wire(f"W{4 * n + at}", start, finish, size=size, length_m=1 + at / 3))
    return Job(
        "loom",
        devices=tuple(devices),
        fuses=tuple(fuses),
        splices=tuple(splices),
        earths=(EarthPoint("E1", "Block"),),
        wires=tuple(made),
    )


def tangled(wires: int) -> Any:
    """Return a job of this many wires that run anywhere: what is hardest to factor."""
    import random

    from molvik.model.parts import End, Splice, Wire, WireSize

    job = loom_of(wires // 2)
    chance = random.Random(6)
    splices = [Splice(f"X{n}") for n in range(wires // 3)]
    ends = [End(one.code) for one in (*job.splices, *splices)]
    made = [
        Wire(
            f"V{n}",
            ends[n % len(ends)],
            chance.choice(ends),
            size=WireSize("metric", 1.0),
            length_m=0.2 + chance.random(),
        )
        for n in range(wires - len(job.wires))
    ]
    whole = tuple(one for one in made if one.start != one.finish)
    return replace(job, splices=(*job.splices, *splices), wires=(*job.wires, *whole))


@pytest.mark.parametrize("kind", [loom_of, tangled])
@pytest.mark.parametrize("wires", [1000, 2000, 5000])
def test_solve_one_state(benchmark: Any, kind: Any, wires: int) -> None:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.devices.states import RUN

    network = Analysis(kind(wires)).network
    assert OperatingPoint(network, RUN).solution.volts
    assert benchmark(OperatingPoint, network, RUN).solution.volts


@pytest.mark.parametrize("kind", [loom_of, tangled])
def test_solve_5000_wires_in_all_states(benchmark: Any, kind: Any) -> None:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.devices.states import STATES

    network = Analysis(kind(5000)).network
    assert len(benchmark(lambda: [OperatingPoint(network, state) for state in STATES])) == len(
        STATES
    )


@pytest.mark.parametrize("by", ["molvik", "ngspice"])
@pytest.mark.parametrize("kind", [loom_of, tangled])
@pytest.mark.parametrize("wires", [2000, 5000])
def test_solve_a_loom_as_ngspice_does(
    benchmark: Any, by: str, kind: Any, wires: int, tmp_path: Path
) -> None:
    """The same network, solved here and by a run of ngspice with its netlist ready."""
    import shutil

    from molvik.circuits.behaviour import standing
    from molvik.circuits.simulate import OperatingPoint
    from molvik.devices.states import RUN
    from molvik.electrical.elements import Source
    from molvik.electrical.solve import solve

    point = OperatingPoint(Analysis(kind(wires)).network, RUN)
    elements, reference = point.elements, point.reference
    if by == "molvik":
        fixed, _ = standing(point.wiring)
        rest = elements[len(fixed.elements) :]
        assert benchmark(solve, rest, reference, fixed).volts
        return
    program = shutil.which("ngspice")
    if program is None:
        pytest.skip("scripts/setup test installs ngspice")
    number = {reference: "0"}
    lines = ["loom"]
    for at, one in enumerate(elements):
        a, b = (number.setdefault(node, f"n{len(number)}") for node in (one[1], one[2]))
        if isinstance(one, Source):
            lines += [f"V{at} {a} x{at} {one.volts}", f"R{at} x{at} {b} {one.ohm}"]
        else:
            lines.append(f"R{at} {a} {b} {one[3]}")
    path = tmp_path / "loom.cir"
    path.write_text("\n".join([*lines, ".control", "op", "print v(n5)", ".endc", ".end"]) + "\n")
    command = [program, "-b", str(path)]
    done = benchmark(lambda: subprocess.run(command, capture_output=True, text=True, check=False))
    assert "v(n5) =" in done.stdout


def test_turn_the_key_in_the_window(benchmark: Any, tmp_path: Path, qtbot: Any) -> None:
    """What a person waits for when the key is turned, with the demo: the state and its drawing."""
    from PySide6.QtCore import QSettings

    from molvik.desktop.window import MainWindow
    from molvik.devices.states import CRANK, RUN

    os.environ["XDG_STATE_HOME"] = str(tmp_path)
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.show()
    window.files.open_demo()
    window.go(3)
    page: Any = window.pages[3]
    page.tabs.setCurrentIndex(1)
    states = iter([CRANK, RUN] * 500)

    def turn() -> None:
        # Each time as if it had never been solved.
        window.store.analysis.electrics._points.clear()
        page.alive.controls.show_state(next(states))

    benchmark.pedantic(turn, rounds=20, warmup_rounds=2)
    window.store.history.setClean()


def test_paste_400_wires_into_the_wire_list(benchmark: Any, tmp_path: Path, qtbot: Any) -> None:
    """From the clipboard to rows that are shown. Target: 1 s."""
    from PySide6.QtCore import QSettings

    from molvik.desktop.window import MainWindow

    os.environ["XDG_STATE_HOME"] = str(tmp_path)
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.show()
    window.files.open_demo()
    window.go(3)
    page: Any = window.pages[3]
    lines = ["From\tTo\tFunction\tColour\tSize\tLength"]
    lines += [f"F1 out\tE1\tLead {n}\tRD/WH\t1 mm2\t{n / 100} m" for n in range(1, 401)]

    def paste() -> None:
        window.store.history.undo()
        table = page.table
        table.setCurrentIndex(table.model().index(table.model().rowCount() - 1, 1))
        table.paste("\n".join(lines))

    benchmark.pedantic(paste, rounds=8, warmup_rounds=1)
    assert len(window.store.job.wires) > 500
    window.store.history.setClean()


def test_strip_the_demo_to_its_engine(benchmark: Any) -> None:
    from molvik.circuits.strip import devices_named, strip
    from molvik.demo import demo_job

    job = demo_job()
    keep = devices_named(job, ["controller", "injector", "coil", "fuel pump"])
    assert benchmark.pedantic(strip, (job, keep), rounds=3).kept


def test_redraw_the_plot_of_a_fuse_and_its_wire(benchmark: Any, qtbot: Any) -> None:
    """Curves and painting, as when another wire is taken in hand. Target: 50 ms."""
    from molvik.demo import demo_job
    from molvik.desktop.stages.sizes.curveplot import CurvePlot
    from molvik.sizes.curves import curves

    analysis = Analysis(demo_job())
    network, asked = analysis.network, analysis.electrics.sizing_cases["W42"]
    work = analysis.electrics.fuse_work["F5"]
    plot = CurvePlot()
    qtbot.addWidget(plot)
    plot.resize(600, 250)

    def redraw() -> None:
        plot.show_curves(curves(network, network.wires["W42"], asked, work))
        plot.grab()

    benchmark(redraw)


def test_size_1000_wires(benchmark: Any) -> None:
    """Every criterion of each. Target: 1 s."""
    job = large_job(1000)

    def fresh() -> tuple[tuple[Analysis], dict[str, Any]]:
        return (Analysis(job),), {}

    assert benchmark.pedantic(lambda one: one.sizings, setup=fresh, rounds=5)


def test_size_1000_wires_in_bundles(benchmark: Any) -> None:
    """The same, in bundles of forty under a covering. Target: 1 s."""
    plain = large_job(1000)
    lying = tuple(replace(w, bundle=f"B{at // 40}") for at, w in enumerate(plain.wires))
    covers = tuple(Bundle(f"B{at}", covering="tape") for at in range(25))
    job = replace(plain, wires=lying, bundles=covers)

    def fresh() -> tuple[tuple[Analysis], dict[str, Any]]:
        return (Analysis(job),), {}

    assert benchmark.pedantic(lambda one: one.sizings, setup=fresh, rounds=5)


def test_one_quick_sum(benchmark: Any) -> None:
    """Target: 50 ms."""
    from molvik.sizes.quick import quick

    assert benchmark(quick, "14 awg 5 m 12 A")


def routed_job(wires: int = 2000, runs: int = 400) -> Any:
    """Return a job of wires between plugs on a loom: a trunk of forty stretches with branches."""
    import random

    from molvik.model.job import Job
    from molvik.model.parts import Connector, End, Grid, Wire, WireSize
    from molvik.model.routing import LoomNode, NewLoom, Routing, Run

    chosen = random.Random(1)
    joints = [LoomNode(f"J{n}", "H1", f"Trunk {n}") for n in range(41)]
    laid = [Run(f"R{n}", f"J{n}", f"J{n + 1}", 0.2) for n in range(40)]
    plugs = []
    for n in range(41, runs + 1):
        plugs.append(f"C{n}")
        joints.append(LoomNode(f"J{n}", "H1", f"Plug {n}", carries=(f"C{n}",)))
        laid.append(Run(f"R{n}", f"J{chosen.randint(0, 40)}", f"J{n}", 0.4))
    sizes = [WireSize("metric", area) for area in (0.5, 0.75, 1.0, 1.5, 2.5)]
    made = tuple(
        Wire(
            f"W{n}",
            End(chosen.choice(plugs), "1"),
            End(chosen.choice(plugs), "2"),
            size=chosen.choice(sizes),
            insulation="C125",
        )
        for n in range(wires)
    )
    connectors = tuple(Connector(code, code, Grid(2, 20)) for code in plugs)
    routing = Routing((NewLoom("H1", "Loom"),), tuple(joints), tuple(laid))
    return Job("x", connectors=connectors, wires=made, routing=routing)


def test_ways_and_lengths_of_2000_wires_on_400_stretches(benchmark: Any) -> None:
    """Target: 0.2 s."""
    job = routed_job()
    assert len(benchmark(lambda: Analysis(job).cut_lengths)) == 1993  # seven stay at one plug


def test_how_thick_400_stretches_with_2000_wires_are(benchmark: Any) -> None:
    """With their ways. Target: 0.5 s."""
    job = routed_job()
    assert benchmark(lambda: Analysis(job).sections)["R20"].over_mm > 10


def test_pack_100_wires(benchmark: Any) -> None:
    """Target: 50 ms."""
    import random

    from molvik.routing import packing

    chosen = random.Random(1)
    widths = tuple(chosen.choice((1.4, 1.6, 2.0, 2.7, 3.5)) for _ in range(100))

    def anew() -> Any:
        packing._packed.cache_clear()
        return packing.pack(widths)

    assert benchmark(anew).across_mm > 10


def test_lay_400_stretches_out_on_the_board(benchmark: Any) -> None:
    """In the background of the window."""
    from molvik.netlist.placing import place

    routing = routed_job().routing
    assert len(benchmark(lambda: place(routing, "H1")).paths) == 400


@pytest.mark.parametrize("stretches", [20, 100, 400])
def test_place_the_names_of_a_loom(
    benchmark: Any, stretches: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.syspath_prepend(str(Path(__file__).parent.parent / "tests"))
    from molvik.survey.drawing import LoomDrawing
    from molvik.survey.layout import lay_out
    from molvik.survey.tree import LoomTree
    from test_labelling import grown

    tree = LoomTree(grown(stretches, 1))
    placed = lay_out(tree)

    def labels() -> int:
        return len(LoomDrawing(tree, placed, 1300, 700).labelling.put)

    assert benchmark(labels) > 5


@pytest.mark.parametrize("which", ["demo", "2000 wires"])
def test_a_frame_while_a_branch_is_dragged(benchmark: Any, which: str) -> None:
    """Half the loom hangs from what is dragged. Target: 16 ms."""
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    from molvik.demo import demo_job
    from molvik.desktop import theme
    from molvik.desktop.stages.routing.routeview import RouteView, drawing_of

    app = QApplication.instance() or QApplication([])
    assert isinstance(app, QApplication)
    theme.apply(app)
    analysis = Analysis(demo_job() if which == "demo" else routed_job())
    view = RouteView()
    view.resize(900, 420)
    view.show()
    view.show_loom(analysis, drawing_of(analysis, "H1", view.room(), ready=True))
    app.processEvents()
    placed = analysis.placed["H1"]
    half = len(placed.places) / 2
    joint = min(placed.hangs, key=lambda code: abs(len(placed.beyond(code)) - half))
    ground, at = view.viewport(), QPointF(view.spot(joint))

    def send(kind: QEvent.Type, where: QPointF, button: Qt.MouseButton) -> None:
        app.sendEvent(
            ground,
            QMouseEvent(
                kind,
                where,
                ground.mapToGlobal(where),
                button,
                Qt.MouseButton.LeftButton,
                Qt.KeyboardModifier.ShiftModifier,
            ),
        )

    send(QEvent.Type.MouseButtonPress, at, Qt.MouseButton.LeftButton)
    steps = iter(range(1, 100_000))

    def frame() -> None:
        step = next(steps)
        send(
            QEvent.Type.MouseMove, at + QPointF(step % 60, step % 37 + 10), Qt.MouseButton.NoButton
        )
        view.viewport().repaint()

    benchmark(frame)
    assert view._moved is not None
