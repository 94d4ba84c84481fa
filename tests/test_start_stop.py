"""Cranking and stopping: cables both ways, the key, the isolator, the run-down resistor.

Sums stand beside their checks. The pulse is that of ISO 16750-2 (from memory); 3 ohms and 11 W for
a run-down resistor are common practice.
"""

import json
import math
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import answer, found
from molvik.blocks.arrangements import ONE_PAIR, lay
from molvik.circuits.cranking import cranking
from molvik.circuits.rundown import RunDown, dump_j, run_down, stop
from molvik.cli import main
from molvik.desktop.stages.circuits.chargereads import READS, STARTS
from molvik.desktop.stages.circuits.laying import BlockDialog
from molvik.desktop.window import MainWindow
from molvik.devices.states import OFF, State
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.model import edits
from molvik.model.job import Job, Settings
from molvik.model.parts import Device, End
from molvik.netlist.network import Network
from molvik.reference.rundown import DUMP_S, DUMPS, inner_ohm
from test_alive import KEY, job_of, operating_point
from test_chargers import car, copper
from test_charging import shown

STARTER = Device("D4", "Starter", "starter", ("30", "50"), case="E2")
CRANKED = "D1/+ D4/30, D1/+ F1/in, F1/out D2/30, D2/50 D4/50, D1/- E1, E1 E2"


# Cranking.


def test_what_cables_take_both_ways_is_a_sum_by_hand() -> None:
    """A battery of 12.6 V behind 12 milliohms, a motor of 50 milliohms, a metre of 2.5 mm2 there
    and another back from the metal (far too thin: that it shows).
    """
    crank = cranking(Network(job_of(CRANKED, KEY, STARTER)))
    assert crank is not None
    assert crank.turns
    wire = copper(1.0, 2.5)
    amps = 12.6 / (0.012 + wire + 0.05 + wire)
    assert crank.amps == pytest.approx(amps, rel=0.05)  # and what the solenoid takes
    assert crank.plus_v == pytest.approx(amps * wire, rel=0.07)
    assert crank.earth_v == pytest.approx(amps * wire, rel=0.12)
    whole = crank.motor_v + crank.plus_v + crank.earth_v
    assert whole == pytest.approx(crank.battery_v, abs=0.01)
    # The solenoid takes what 1.2 ohms take of what is left for it, all through the key.
    assert crank.key_a is not None
    across = crank.battery_v - crank.earth_v
    assert crank.key_a == pytest.approx(across / (1.2 + 3 * wire), rel=0.04)
    # With a helper relay its coil of 90 ohms is all that the key carries.
    assert crank.relay_a == pytest.approx(12 / 90)


def test_a_helper_relay_takes_the_current_off_the_key() -> None:
    plain = lay(Job("x"), "Starter")
    helped = lay(plain, "Starter", {"by": "helper relay"})
    before, after = (cranking(Network(job)) for job in (plain, helped))
    assert before is not None and after is not None  # noqa: PT018
    assert before.key_a is not None and after.key_a is not None  # noqa: PT018
    assert before.key_a > 5
    assert after.key_a == pytest.approx(before.relay_a or 0, rel=0.25)
    assert after.relay_a is None
    assert any("helper relay" in line for line in before.says)
    assert not any("helper relay" in line for line in after.says)


def test_a_key_that_carries_a_heavy_solenoid_is_told() -> None:
    six = lay(Job("x", settings=Settings(system_v=6.0)), "Starter")
    assert any(one.rule == "start-contact" for every in found(six).values() for one in every)
    helped = lay(six, "Starter", {"by": "helper relay"})
    assert not any(one.rule == "start-contact" for every in found(helped).values() for one in every)


def test_what_the_engine_needs_has_what_is_left() -> None:
    job = lay(lay(Job("x"), "Starter"), "Standalone engine computer")
    crank = cranking(Network(job))
    assert crank is not None
    by_name = {one.name: one for one in crank.left}
    assert by_name["Engine computer"].state == "alive"
    assert by_name["Engine computer"].volts < crank.battery_v
    assert cranking(Network(Job("x"))) is None


def test_a_starter_that_does_not_turn_is_said() -> None:
    job = job_of(CRANKED.replace("D2/50 D4/50, ", ""), KEY, STARTER)
    crank = cranking(Network(job))
    assert crank is not None
    assert not crank.turns
    assert "does not turn" in crank.says[0]


# Run down.


@pytest.mark.parametrize(("peak_v", "ohm", "seconds"), [(77.0, 3.0, 0.4), (35.0, 12.0, 0.05)])
def test_the_energy_of_a_pulse_is_what_adding_it_up_gives(
    peak_v: float, ohm: float, seconds: float
) -> None:
    """Added up in small steps until nothing is left, of a voltage that falls to a tenth."""
    step, total, at = seconds / 20_000, 0.0, 0.0
    while at < 5 * seconds:
        volts = peak_v * 10 ** -((at + step / 2) / seconds)
        total += volts**2 / ohm * step
        at += step
    assert dump_j(peak_v, ohm, seconds) == pytest.approx(total, rel=1e-3)


def stopped(job: Job) -> RunDown:
    end = stop(Network(job))
    assert end is not None
    assert end.run_down is not None
    return end.run_down


def test_the_resistor_of_an_isolator_by_hand() -> None:
    """90 A: inside 10 x 13.5 x 6000 / (0.8 x 90 x 12000) = 0.94 ohms; 101 V over 3.94 ohms."""
    assert inner_ohm(90, DUMPS[12]) == pytest.approx(0.9375)
    down = stopped(lay(car("lamp", "90 A"), "Isolator"))
    assert down.ohm == 3
    assert down.peak_v == pytest.approx(101 * 3 / 3.9375)
    assert down.peak_a == pytest.approx(101 / 3.9375)
    assert down.pulse_j == pytest.approx(down.peak_v**2 / 3 * DUMP_S / (2 * math.log(10)))
    assert down.held_w == pytest.approx(14.2**2 / 3, rel=0.06)
    assert 20 < down.kelvins < 60
    # A larger machine is stiffer: its pulse is higher.
    assert stopped(lay(car("lamp", "150 A"), "Isolator")).peak_v > down.peak_v


def test_at_24_volts_the_pulse_is_that_of_24() -> None:
    down = stopped(lay(car("lamp", volts=24.0), "Isolator"))
    assert down.clamped_v == 65
    assert 100 < down.peak_v < 202


def test_a_resistor_without_an_alternator_is_refused() -> None:
    with pytest.raises(ValueError, match="no alternator"):
        run_down(Network(Job("x")), Device("D1", "R", "resistor", ("1", "2")), 14.0)
    with pytest.raises(ValueError, match="above zero"):
        inner_ohm(0, DUMPS[12])


@pytest.mark.parametrize("contacts", ["", ONE_PAIR])
@pytest.mark.parametrize("by", ["lamp", "engine computer", "dynamo"])
def test_an_isolator_stops_the_engine_with_each_kind_of_contacts(contacts: str, by: str) -> None:
    job = lay(car(by), "Fuel pump")
    job = lay(job, "Isolator", {"contacts": contacts} if contacts else {})
    end = stop(Network(job))
    assert end is not None
    assert end.stops
    assert "Fuel pump" in end.by
    assert (end.run_down is None) == bool(contacts)
    assert not [one for every in found(job).values() for one in every if one.severity == "stop"]


def test_with_one_pair_the_alternator_stays_on_the_battery() -> None:
    """It has nothing to dump then, in whichever order they are laid."""
    first = lay(car("lamp"), "Isolator", {"contacts": ONE_PAIR})
    second = lay(lay(Job("x"), "Starter"), "Isolator", {"contacts": ONE_PAIR})
    for made in (first, lay(second, "Charging")):
        job = lay(made, "Fuel pump", {"by": "key alone"})
        isolated = State("isolated", "run", turning=True, running=True, isolated=True)
        point = operating_point(job, isolated._replace(was_running=True))
        assert point.source_amps <= 0.01  # charged, or nothing
        assert not [one for every in found(job).values() for one in every if one.severity != "note"]
        assert operating_point(job, OFF._replace(isolated=True)).source_amps == pytest.approx(
            0, abs=1e-3
        )


def test_an_isolator_that_stops_nothing_says_so() -> None:
    job = lay(car("lamp"), "Isolator")
    unknown = stop(Network(job))
    assert unknown is not None
    assert "not known" in unknown.says[0]
    pumped = lay(job, "Fuel pump", {"by": "key alone"})
    key = next(device for device in pumped.devices if device.name == "Key switch")
    fuse = next(fuse for fuse in pumped.fuses if fuse.name == "Key switch")
    feed = next(wire for wire in pumped.wires if End(key.code, "30") in wire.ends)
    # The key is fed from the alternator's side, past the second contacts.
    around = edits.change_wire(pumped, feed.code, start=End(fuse.code, "out"))
    around = edits.change_wire(around, feed.code, finish=End(key.code, "30"))
    stays = stop(Network(around))
    assert stays is not None
    assert not stays.stops
    assert "does not stop the engine" in stays.says[0]
    assert stop(Network(car("lamp"))) is None


# In the window, and on the command line.


def test_another_alternator_is_laid_from_charging_and_undone(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, car("regulator beside it", "55 A"), qtbot)
    before = window.store.job
    seen: list[str] = []

    def choose(dialog: BlockDialog) -> None:
        assert dialog.list.currentItem().text() == "Another alternator"
        dialog.fields["by"].setCurrentText("lamp and sense wire")  # type: ignore[union-attr]
        dialog.fields["amps"].setText("130 A")  # type: ignore[union-attr]
        qtbot.waitUntil(lambda: dialog.laid is not None)
        for listed in (dialog.steps, dialog.takes, dialog.reads):
            assert listed.count() > 3
            seen.extend(listed.item(row).text() for row in range(listed.count()))
        assert dialog.log.isChecked()
        qtbot.mouseClick(dialog.act, Qt.MouseButton.LeftButton)

    answer(BlockDialog, choose)
    qtbot.mouseClick(view.change_button, Qt.MouseButton.LeftButton)
    after = window.store.job
    assert not any(device.kind == "regulator" for device in after.devices)
    assert any("Take off: D6 Regulator" in line for line in seen)
    assert any("130 A" in line and "not in stock" in line for line in seen)
    assert any("all in order" in line.lower() for line in seen)
    assert "Take off: D6" in after.log[-1].text  # at hand at the bench
    window.store.history.undo()
    assert window.store.job == before


def test_what_it_reads_and_what_comes_of_cranking_is_found_when_it_is_turned_to(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, lay(car("lamp"), "Isolator"), qtbot)
    assert view.more_tables.known is None
    for title in (READS, STARTS):
        number = [view.drawer.tabText(n) for n in range(view.drawer.count())].index(title)
        view.drawer.setCurrentIndex(number)
        qtbot.waitUntil(lambda: view.more_tables.known is not None)
    assert view.more_tables.reads_model.rowCount() > 10
    assert view.more_tables.starts_model.rowCount() >= 4
    rows = [view.more_tables.reads_model.things[n] for n in range(3)]
    assert rows[0].says == "charges"
    view.drawer.setCurrentIndex(2)
    assert "mA with the key in run" in view.more.text()
    # What is changed is found anew.
    was = view.more_tables.known
    window.store.load(car("dynamo"), None)
    qtbot.waitUntil(lambda: view.more_tables.known not in (None, was))
    assert "Dynamo begins by itself" in view.more.text()


def test_the_same_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "car.molvik"
    save_job(lay(car("lamp"), "Isolator"), path, PhotoBox())
    assert main(["charge", str(path), "--reads", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["excitation"]["charges"] is True
    assert told["excitation"]["amps"] > told["excitation"]["least_a"]
    assert told["cranking"]["turns"] is True
    assert told["isolator"]["stops"] is None  # nothing in it is needed by an engine
    assert told["isolator"]["run_down"]["pulse_j"] > 50
    assert main(["charge", str(path), "--reads"]) == 0
    assert "All in order" in capsys.readouterr().out
    assert main(["charge", str(path), "--change", "dynamo", "--amps", "30 A", "--json"]) == 0
    steps = json.loads(capsys.readouterr().out)["steps"]
    assert steps[0]["do"] == "Safe"
    assert any("Regulator" in one["text"] for one in steps if one["do"] == "Fit")
    assert main(["charge", str(path), "--change", "magic"]) == 2
    assert "one of lamp" in capsys.readouterr().err
