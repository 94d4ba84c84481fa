"""What is alive, in the real window: the key turned, the reason told, things broken and mended."""

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QWheelEvent
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot

from conftest import answer, cell, page
from molvik.desktop.dialogs.parts import PartDialog
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.stages.circuits.facts import alive_facts
from molvik.desktop.window import MainWindow
from molvik.devices.states import Fault
from molvik.model import edits
from molvik.model.parts import Connector, Device, End, Grid
from molvik.netlist.faults import offered

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def shown(demo_window: MainWindow, qtbot: QtBot) -> Any:
    """What is alive in the demo, solved."""
    circuits = page(demo_window, "Circuits")
    circuits.tabs.setCurrentIndex(1)
    solved(qtbot, circuits.alive)
    return circuits.alive


def solved(qtbot: QtBot, point: Any) -> None:
    """Wait until every state is solved with what is set now."""

    def ready() -> bool:
        wanted = point.controls.conditions(point.controls.state())
        return bool(point._all) and all(
            one.state.faults == wanted.faults and one.state.switches == wanted.switches
            for one in point._all.values()
        )

    qtbot.waitUntil(ready)


def test_every_device_in_every_state_stands_in_one_table(shown: Any) -> None:
    assert cell(shown.table, "D18", "run") == "prime"
    assert cell(shown.table, "D18", "crank").endswith(" V")
    assert cell(shown.table, "D2", "run") == "at rest"
    assert "the engine does not start: Injector 1" in shown.summary.text()
    assert "F7 blows: running" in shown.summary.text()
    assert not shown.table.isColumnHidden(1 + len(shown.model.columns) - 3)


def test_the_key_is_turned_by_mouse_wheel_and_keys(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    dial = shown.controls.dial
    demo_window.hand.pick("D12")
    assert "D12 · run · dead" in shown.how.text()
    qtbot.mouseClick(dial, LEFT, pos=dial.place("crank").center().toPoint())
    assert dial.position == "crank"
    assert shown.how.text() == "D12 · crank · dead"
    assert "Why is it dead?  Injector 1 has no supply." in shown.said.text()
    assert "Key switch does not join 30 and 75 in “crank”" in shown.because.text()
    shown.show_me.click()
    assert demo_window.hand.subject == "D4"
    # Let go, the key springs back; the engine did not start.
    qtbot.keyClick(dial, Qt.Key.Key_Left)
    assert shown.controls.state().name == "run"
    coil = next(w for w in demo_window.store.job.wires if w.function == "Injector relay coil, cab")
    demo_window.store.do("x", lambda job: edits.change_wire(job, coil.code, start=End("D4", "15")))
    qtbot.keyClick(dial, Qt.Key.Key_Right)
    qtbot.keyClick(dial, Qt.Key.Key_Left)
    demo_window.hand.pick("D12")
    assert shown.controls.state().name == "running", "now it starts"
    assert shown.how.text() == "D12 · running · alive"
    qtbot.keyClick(dial, Qt.Key.Key_Left)
    qtbot.keyClick(dial, Qt.Key.Key_Left)
    assert shown.controls.state().name == "key off while running"
    down = QWheelEvent(
        QPointF(5, 5),
        QPointF(5, 5),
        QPoint(),
        QPoint(0, -120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(dial, down)
    assert dial.position == "accessory"
    assert "accessory" in dial.accessibleDescription()


def test_switches_the_battery_and_the_air_are_set_on_the_left(shown: Any, qtbot: QtBot) -> None:
    rows = shown.controls.rows
    assert rows["engine"].accessibleName() == "Engine: standing"
    rows["engine"].click()
    assert shown.controls.state().name == "first seconds"
    rows["engine"].click()
    assert shown.controls.state().name == "running"
    rows["isolator"].click()
    assert shown.controls.state().name == "isolator off while running"
    rows["isolator"].click()
    rows["D36"].click()
    assert rows["D36"].accessibleName() == "Wiper switch: off"
    solved(qtbot, shown)
    assert cell(shown.table, "D35", "acc.") == "dead"
    rows["speed"].click()
    assert rows["speed"].accessibleName() == "Speed: 4000"
    assert shown.controls.state().rpm == 4000
    rows["battery"].click()
    assert shown.controls.state().battery == "half"
    shown.controls.set_air("-10")
    assert shown.controls.state().temperature_c == -10
    with pytest.raises(ValueError):
        shown.controls.set_air("warm")
    assert shown._now.state.battery == "half"


def test_a_device_is_chosen_from_the_list_the_table_or_by_find(
    demo_window: MainWindow, shown: Any
) -> None:
    shown.table.setCurrentIndex(shown.model.index(shown.model.row_of("D18"), 0))
    assert shown.heading.text() == "Fuel pump"
    assert demo_window.hand.subject == "D18"
    assert shown.table.current_key() == "D18"
    assert "only in the first seconds, and with the engine turning" in shown.because.text()
    shown.table.pick("D8")
    shown._choose("D8")
    assert shown.heading.text() == "Headlamps"
    shown._clicked(2)
    assert shown.controls.state().name == "off"
    assert shown.controls.dial.position == "off"


def test_the_route_is_walked_by_keys_folded_zoomed_and_fitted(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    demo_window.hand.pick("D18")
    canvas = shown.route.canvas
    assert "Fuel pump relay 30 to 87, open 0.0 V" in canvas.accessibleDescription()
    folded = len(canvas.drawing.areas)
    assert any(area.ref == "" for area in canvas.drawing.areas), "joints taken together"
    shown.route.fold.click()
    assert len(canvas.drawing.areas) > folded
    canvas.stand_on(canvas.lines[0].stops[0].code)
    for _ in range(2):  # over the wire between them
        qtbot.keyClick(canvas, Qt.Key.Key_Right)
    qtbot.keyClick(canvas, Qt.Key.Key_Return)
    assert demo_window.hand.subject == "D19"
    assert shown.heading.text() == "Fuel pump", "a stop that is not a load is only ringed"
    qtbot.mouseClick(canvas.viewport(), LEFT, pos=canvas.spot("K2"))
    assert demo_window.hand.subject == "K2"
    before = canvas.drawing.height * canvas.zoom
    qtbot.keyClick(canvas, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
    assert canvas.drawing.height * canvas.zoom > before
    qtbot.keyClick(canvas, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: canvas.drawing.height * canvas.zoom <= canvas.viewport().height())


def test_what_is_pointed_at_in_the_circuit_can_be_broken_and_made_good(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    demo_window.hand.pick("D18")
    canvas = shown.route.canvas
    fuse = next(area.ref for area in canvas.drawing.areas if area.ref.startswith("F"))
    assert fuse

    def offered_at(ref: str, reason: QContextMenuEvent.Reason, take: int = -1) -> list[str]:
        """Ask for the menu of what is drawn; take one of what it offers."""
        spot = canvas.spot(ref)
        event = QContextMenuEvent(reason, spot, canvas.viewport().mapToGlobal(spot))
        QApplication.sendEvent(canvas.viewport(), event)
        (menu,) = (one for one in shown.controls.findChildren(QMenu) if one.isVisible())
        words = [action.text() for action in menu.actions() if action.text()]
        if take >= 0:
            menu.actions()[take].trigger()
        menu.close()
        return words

    mouse, keys = QContextMenuEvent.Reason.Mouse, QContextMenuEvent.Reason.Keyboard
    probe = f"Probe {fuse} at the bench"
    assert offered_at(fuse, mouse, take=0) == [f"What if {fuse} is out?", probe]
    assert [str(fault) for fault in shown.controls.faults] == [fuse]
    canvas.stand_on(fuse)
    assert offered_at(fuse, keys, take=0) == [f"Make good: {fuse} is out", probe]
    assert shown.controls.faults == ()
    wire = next(area.ref for area in canvas.drawing.areas if area.ref.startswith("W"))
    assert offered_at(wire, mouse) == [
        f"What if {wire} is off?",
        f"What if {wire} is shorted to earth?",
        f"What if {wire} has 2 Ω too many?",
        f"Probe {wire} at the bench",
    ]
    assert offered("C1", demo_window.store.job) == (Fault("open", "C1"),), "it is unplugged"
    assert offered("S1", demo_window.store.job) == ()


def test_the_drawing_is_saved_and_printed(
    demo_window: MainWindow, shown: Any, tmp_path: Path
) -> None:
    demo_window.hand.pick("D18")
    path = tmp_path / "pump.svg"
    shown.route.drawn.save_svg(path)
    text = path.read_text()
    assert text.lstrip().startswith("<?xml")
    assert "Fuel pump" in text
    assert text.index("<rect") < text.index("Fuel pump"), "it brings its own paper"
    shown.route.drawn.save_svg(tmp_path / "no" / "such" / "folder.svg")
    assert "folder.svg" in shown.route.notice.text()
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "pump.pdf"))
    shown.route.drawn.print_on(printer)
    assert (tmp_path / "pump.pdf").read_bytes().startswith(b"%PDF")


def test_what_if_something_breaks(demo_window: MainWindow, shown: Any, qtbot: QtBot) -> None:
    controls = shown.controls
    controls.break_it("W999")
    assert "There is no W999" in controls.notice.text()
    demo_window.hand.pick("W45")

    def say(asked: LineQuestion) -> None:
        assert asked.typed == "short W45 earth"
        asked.type("short W999 earth")
        assert "There is no W999" in asked.notice.text(), "refused where it was typed"
        asked.type("short W45 earth")

    answer(LineQuestion, say)
    controls.ask("Short to earth")
    solved(qtbot, shown)
    shown.tabs.setCurrentIndex(1)
    lines = [shown.differs.item(n).text() for n in range(shown.differs.count())]
    assert lines[0] == "W45 is shorted to earth:"
    assert any(line.startswith("F5 blows") for line in lines)
    demo_window.hand.pick("D18")
    controls.dial._turn("crank")
    assert "W45 is shorted to earth" in shown.because.text()
    job = demo_window.store.job
    assert job.part("F5") is not None, "nothing in the job has changed"
    assert not demo_window.store.history.canUndo()
    first = controls.mends["short W45 earth"]
    controls.break_it("W46")
    assert first.isHidden(), "the list is made anew, and nothing of the old one shows"
    assert list(controls.mends) == ["short W45 earth", "W46"]
    controls.mends["W46"].click()
    controls.mends["short W45 earth"].click()
    solved(qtbot, shown)
    assert "told here" in shown.differs.item(0).text()
    assert not controls.faults


def test_what_the_key_off_draws_and_what_the_engine_does_in_order(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    assert "above the 50 mA that may flow" in shown.idle.item(0).text()
    assert shown.idle.item(1).text().startswith("Heater blower (D10)")
    steps = [shown.order.steps.item(n).text() for n in range(shown.order.steps.count())]
    assert steps[4].startswith("crank: the engine does not start: Injector 1")
    shown.order.keep("cold: moon")
    assert "no state “moon”" in shown.notice.text()
    shown.order.keep("twice: crank, off, crank")
    assert shown.order.scenario.currentText() == "twice"
    assert shown.order.steps.count() == 3
    assert demo_window.store.job.scenarios[0].steps == ("crank", "off", "crank")
    shown.order.drop.click()
    assert not demo_window.store.job.scenarios
    demo_window.store.history.undo()
    assert demo_window.store.job.scenarios[0].name == "twice"


def test_moving_one_wire_mends_the_start(demo_window: MainWindow, shown: Any, qtbot: QtBot) -> None:
    coil = next(w for w in demo_window.store.job.wires if w.function == "Injector relay coil, cab")
    demo_window.store.do("x", lambda job: edits.change_wire(job, coil.code, start=End("D4", "15")))
    qtbot.waitUntil(lambda: "the engine starts" in shown.summary.text())
    assert any(
        "runs on" in shown.order.steps.item(n).text() for n in range(shown.order.steps.count())
    )
    demo_window.store.history.undo()
    qtbot.waitUntil(lambda: "does not start" in shown.summary.text())


def test_what_is_in_hand_says_when_it_is_live(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    analysis = demo_window.store.analysis
    named = {name: text for name, text, _ in alive_facts(analysis, analysis.network.wires["W45"])}
    assert named["Live in"].startswith("first seconds, crank, running")
    assert "A at most" in named["Carries"]
    pump = demo_window.store.job.part("D18")
    assert isinstance(pump, Device)
    said = {name: text for name, text, _ in alive_facts(analysis, pump)}
    assert said["Alive in"].startswith("first seconds, crank")
    assert "for an instant" in said["Inrush"]
    fuse = demo_window.store.job.fuses[4]
    assert {n: t for n, t, _ in alive_facts(analysis, fuse)}["Feeds"] == "Fuel pump"


def test_without_a_battery_it_says_what_to_do(window: MainWindow) -> None:
    window.files.new()
    circuits = page(window, "Circuits")
    circuits.tabs.setCurrentIndex(1)
    assert "no battery in the job" in circuits.alive.said.text()
    assert circuits.alive.said.isVisible()
    assert "Add one in Wires" in circuits.alive.because.text()
    assert not circuits.alive.show_me.isVisible()


def test_a_figure_that_cannot_be_is_said_in_place(
    demo_window: MainWindow, shown: Any, qtbot: QtBot
) -> None:
    store = demo_window.store
    store.do("x", lambda job: edits.change_part(job, "D9", values=(("ohm", -5.0),)))
    qtbot.waitUntil(lambda: "Left out: D9 has a resistance of -5" in shown.notice.text())
    store.history.undo()
    qtbot.waitUntil(lambda: not shown.notice.text())


def test_a_device_has_figures_of_its_own_and_keeps_what_the_window_does_not_show(
    demo_window: MainWindow, tmp_path: Path
) -> None:
    store = demo_window.store
    computer = store.job.part("D11")
    assert isinstance(computer, Device)
    dialog = PartDialog(demo_window, store, "device", computer)
    assert dialog.text("Figures") == "A=0.3 pulses_a_turn=2"
    assert "least_V=6.5" in dialog.fields["Figures"].placeholderText()
    assert dialog.text("Outputs").startswith("2 pulls low powered; 3 pulls low first seconds and")
    for figures, said in (
        ("volume=3", "is not a figure of a controller"),
        ("A=much", "no number above zero"),
    ):
        dialog.set_text("Figures", figures)
        dialog.accept()
        assert said in dialog.notice.text()
    dialog.set_text("Figures", "A=0.5 least_V=7")
    dialog.set_text("Outputs", "2 dances")
    dialog.accept()
    assert "“2 dances” is not understood" in dialog.notice.text()
    dialog.set_text("Outputs", "2 pulls low powered")
    dialog.accept()
    changed = store.job.part("D11")
    assert isinstance(changed, Device)
    assert changed.values == (("A", 0.5), ("least V", 7.0))
    assert len(changed.outputs) == 1
    assert (changed.supplies, changed.plug) == (computer.supplies, computer.plug)
    store.do("x", lambda job: edits.add(job, Connector("C30", "Fan plug", Grid(1, 2))))
    made = PartDialog(demo_window, store, "device")
    made.set_text("Name", "Fan")
    made.device_kind.setCurrentIndex(made.device_kind.findText("motor"))
    made._propose()
    made.set_text("Terminals", "1 2")
    made.set_text("Plug", "C30")
    made.set_text("Needed to run", "yes")
    made.accept()
    fan = store.job.devices[-1]
    assert (fan.plug, fan.terminals, fan.needed) == ("C30", ("1", "2"), True)
    store.do("x", lambda job: edits.remove_part(job, "C30"))
    assert store.job.devices[-1].plug == ""


def test_a_device_is_written_to_a_file_and_filled_in_from_it(
    demo_window: MainWindow, tmp_path: Path
) -> None:
    store = demo_window.store
    thermostat = store.job.part("D40")
    assert isinstance(thermostat, Device)
    path = tmp_path / "thermostat.molvik-device"
    PartDialog(demo_window, store, "device", thermostat).write_to(path)
    made = PartDialog(demo_window, store, "device")
    made.read_from(tmp_path / "none.molvik-device")
    assert "cannot be read" in made.notice.text()
    made.read_from(path)
    assert made.text("Positions") == "cold; warm: 1-case; hot: 1-case 2-case"
    made.set_text("Name", "Second thermostat")
    made.accept()
    new = store.job.devices[-1]
    assert (new.name, new.positions) == ("Second thermostat", thermostat.positions)


def test_nothing_of_the_key_is_carried_into_another_job(demo_window: MainWindow) -> None:
    shown = page(demo_window, "Circuits")
    shown.tabs.setCurrentIndex(1)
    controls = shown.alive.controls
    controls.dial._turn("crank")
    controls.battery, controls.air_c, controls.isolated = "flat", -20.0, True
    controls.switches = {"D18": "off"}
    controls.faults = (Fault("open", "W1"),)
    sizes = page(demo_window, "Sizes")
    sizes.detail.tabs.setCurrentIndex(1)
    demo_window.store.history.setClean()
    demo_window.files.open_demo("plover")
    assert shown.tabs.currentIndex() == sizes.detail.tabs.currentIndex() == 0
    assert (controls.key, controls.dial.position) == ("run", "run")
    state = controls.state()
    assert (state.battery, state.temperature_c, state.isolated) == ("charged", 20.0, False)
    assert state.switches == ()
    assert state.faults == frozenset()
