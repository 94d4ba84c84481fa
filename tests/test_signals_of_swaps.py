"""Pulses by cylinders and teeth, warning lamps with the switch of another engine, gauges that are
lost, and what mends each. Sums stand beside their checks; sparks a turn of a four-stroke engine are
common practice with no source.
"""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import found
from molvik.analysis import Analysis
from molvik.blocks.arrangements import lay
from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.gauges.curves import by_law
from molvik.circuits.gauges.lamps import Lamp, lit_lamps
from molvik.circuits.gauges.matching import matches
from molvik.circuits.gauges.pulses import KM, TURN, at_speeds, hertz, setting
from molvik.circuits.gauges.pulses import given as pulses_given
from molvik.cli import main
from molvik.cli.answers import SAMPLES
from molvik.demo import DEMOS, demo_job
from molvik.desktop.window import MainWindow
from molvik.devices.states import RUN, RUNNING
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Device, End, Output, Position, Wire
from molvik.netlist.network import Network
from test_chargers import car
from test_gauges import GAUGE, SENDER, THERMISTOR, gauge_job, only, shown

TACHO = Device("D1", "Tachometer", "gauge", ("+", "S", "-"), values=((TURN, 3.0),))
SPEEDO = Device("D1", "Speedometer", "gauge", ("+", "S", "-"), values=((KM, 4000.0),))


def told(job: Job) -> dict[str, str]:
    """Return what is told of a job: the rule of each finding, with its severity."""
    return {one.rule: one.severity for one in find_all(Analysis(job))}


# Pulses.


@pytest.mark.parametrize(
    ("figures", "name", "pulses"),
    [
        ({"cylinders": 4}, TURN, 2.0),  # four strokes: each cylinder every second turn
        ({"cylinders": 6}, TURN, 3.0),
        ({"cylinders": 6, "cylinders a coil": 2}, TURN, 1.0),  # both spark, each turn
        ({"cylinders": 3, "strokes": 2}, TURN, 3.0),
        ({"cylinders": 4, "cylinders a coil": 1}, TURN, 0.5),
        ({"teeth": 58}, TURN, 58.0),
        # 8 teeth on the gearbox's output, 3.9 turns of it a wheel's, 1.95 m a turn: 16 000 a km.
        ({"teeth": 8, "final drive": 3.9, "tyre m": 1.95}, KM, 16_000.0),
        ({"teeth": 48, "tyre m": 2.0}, KM, 24_000.0),  # a ring at the wheel itself
        ({"teeth": 10, "gear": 0.5, "final drive": 4.0, "tyre m": 2.0}, KM, 10_000.0),
    ],
)
def test_pulses_follow_from_cylinders_and_teeth(
    figures: dict[str, float], name: str, pulses: float
) -> None:
    source = Device("D2", "Source", "pickup", ("1", "2"), values=tuple(figures.items()))
    made = pulses_given(source, name)
    assert made is not None
    assert made.pulses == pytest.approx(pulses)
    assert f"{figures.get('teeth', figures.get('cylinders')):g}" in made.says


def test_what_says_nothing_gives_nothing_and_what_cannot_be_is_told() -> None:
    assert pulses_given(replace(THERMISTOR, curve=()), TURN) is None
    wheel = Device("D2", "Pickup", "pickup", ("1", "2"), values=(("teeth", 8.0),))
    assert pulses_given(wheel, KM) is None  # without a tyre
    coil = Device("D2", "Coil", "coil", ("1", "2"), values=(("cylinders", 40.0),))
    match = only(gauge_job(TACHO, coil))
    assert match.verdict == "not known"
    assert "1 to 16 cylinders" in match.says


def test_hertz_are_told_at_speeds() -> None:
    """4000 a km at 90 km/h: 25 m a second, 4 a metre: 100 Hz. 2 a turn at 3000 a minute: 100 Hz."""
    assert hertz(4000, 90, a_turn=False) == pytest.approx(100)
    assert hertz(2, 3000, a_turn=True) == pytest.approx(100)
    assert at_speeds(2, TURN) == "33.3, 100, 200 Hz at 1000, 3000, 6000 1/min"
    assert at_speeds(3600, KM).startswith("30, 50, 100 Hz")


@given(st.floats(0.5, 60), st.floats(0.5, 60))
def test_a_converter_leaves_half_a_percent_at_most(wants: float, gives: float) -> None:
    """Three figures: half a unit of the last one, of at least 100."""
    assert (setting(3, 2), setting(8000, 13_346)) == (1.5, 0.599)
    assert gives * setting(wants, gives) / wants == pytest.approx(1, abs=0.0051)


def test_a_speedometer_with_another_gearbox_shows_its_error_over_the_range() -> None:
    gearbox = Device(
        "D2",
        "Speed sensor",
        "pickup",
        ("1", "2"),
        values=(("teeth", 8.0), ("final drive", 3.9), ("tyre m", 1.95)),
    )
    match = only(gauge_job(SPEEDO, gearbox))
    assert (match.verdict, match.way) == ("wrong", "converter")
    assert match.ratio == pytest.approx(4)
    at, off = match.errors[-1]
    assert off == pytest.approx(3 * at)
    assert all(left is not None and abs(left) <= 0.005 * at for at, left in match.after)
    assert "0.25 times" in match.does
    assert "Hz at 30, 50, 100 km/h" in match.says


def test_pulses_that_only_pull_low_want_a_pull_up_and_the_block_lays_it() -> None:
    job = lay(lay(Job("x"), "Starter"), "Engine computer, main relay", {"name": "ECU"})
    layer = CircuitBuilder(job)
    computer = next(device for device in job.devices if device.kind == "controller")
    pin = layer.pin(computer.code, "T", Output("", "pulls low", "turning"))
    own = layer.job.part(computer.code)
    assert isinstance(own, Device)
    layer.change(computer.code, values=(*own.values, (TURN, 2.0)))
    gauge = layer.device("Tachometer", "gauge", ("+", "S", "-"), values=((TURN, 2.0),))
    layer.wire(layer.key(), f"{gauge}/+", "Tachometer feed", "BK/RD", 0.1)
    layer.wire(f"{gauge}/-", layer.earth(), "Tachometer earth", "BK", 0.1)
    layer.wire(f"{gauge}/S", pin, "Tachometer", "GY", 0.01, use="sensor")
    job = layer.finished()
    (match,) = matches(Network(job))
    assert (match.verdict, match.way) == ("wrong", "pull-up")
    assert "only pulls T low" in match.says
    mended = lay(job, "Pull-up", {"at": f"{gauge}/S"})
    (match,) = matches(Network(mended))
    assert match.verdict == "right"
    new = {rule for rule, severity in told(mended).items() if severity != "note"}
    assert not new - {rule for rule, severity in told(job).items() if severity != "note"}
    with pytest.raises(EditError, match="no place"):
        lay(job, "Pull-up", {"at": "D99/S"})


# Gauges.


def test_a_gauge_of_two_terminals_is_not_left_out() -> None:
    meter = Device("D1", "Voltmeter", "gauge", ("+", "-"))
    match = only(Job("x", devices=(meter,)))
    assert match.verdict == "not known"
    assert "2 terminals" in match.says


def test_a_gauge_without_a_wire_is_told_and_may_be_accepted() -> None:
    alone = Job("x", title="x", devices=(GAUGE,))
    assert told(alone)["gauge-lost"] == "note"
    assert "gauge-lost" not in told(gauge_job(GAUGE, THERMISTOR))


def test_the_sender_that_belongs_to_it_is_found_among_those_of_the_job() -> None:
    strange = replace(GAUGE, curve=tuple((at, 700 - ohm) for at, ohm in SENDER))
    job = gauge_job(strange, THERMISTOR)
    chassis = Device("D3", "Chassis sender", "sensor", ("1",), curve=strange.curve)
    own = replace(job, devices=(*job.devices, chassis))
    match = only(own)
    assert match.way == "other sender"
    assert "Chassis sender (D3) fits it" in match.does
    assert "thread" in match.does
    assert "fits it" not in only(job).does
    other = replace(chassis, curve=tuple((at, 2 * ohm) for at, ohm in strange.curve))
    assert "fits it" not in only(replace(job, devices=(*job.devices, other))).does


def test_points_are_known_for_a_thermistors_and_the_one_that_is_not_is_named() -> None:
    """10 kilohms at 25 deg C and 3435 K, as data sheets give them; 25 and 20 are five kelvins."""
    clean = tuple(
        (float(t), float(round(ohm))) for t, ohm in by_law(12_138, 3435, (0, 20, 40, 60, 80, 100))
    )
    gauge = replace(GAUGE, curve=clean)
    match = only(gauge_job(gauge, replace(THERMISTOR, curve=clean)))
    assert match.verdict == "right"
    # 12 138 exp(3435 (1/298.15 - 1/293.15)) = 9972.6, ohms rounded
    assert "9973 Ω at 25 °C and 3435 K, within 0.0%" in match.law
    wrong = tuple((t, 1.6 * ohm if t == 60 else ohm) for t, ohm in clean)
    match = only(gauge_job(gauge, replace(THERMISTOR, curve=wrong)))
    assert f"{1.6 * dict(clean)[60]:g} Ω at 60 °C" in match.law
    assert "Measure that one again" in match.law


def test_a_damped_gauge_is_read_late() -> None:
    """95 % of the way takes three times of a first-order lag: 1 - exp(-3) = 0.95."""
    slow = replace(GAUGE, values=(("damping s", 20.0),))
    assert "after 60 s" in only(gauge_job(slow, THERMISTOR)).says
    assert "damped" not in only(gauge_job(GAUGE, THERMISTOR)).says


def test_a_bus_in_the_job_may_tell_what_the_wire_does_not() -> None:
    node = Device("D7", "Module", "network node", ("high", "low"))
    job = Job("x", title="x", devices=(GAUGE, node))
    assert "from the bus" in only(job).does
    assert "from the bus" not in only(Job("x", devices=(GAUGE,))).does


def test_an_input_is_judged_by_a_guess_until_its_pull_up_is_typed() -> None:
    small = replace(THERMISTOR, curve=tuple((at, ohm / 30) for at, ohm in SENDER))
    computer = Device("D9", "Computer", "controller", ("1", "2"), supplies=("1",))
    wire = Wire("W9", End("D2", "1"), End("D9", "2"))
    job = Job("x", title="x", devices=(small, computer), wires=(wire,))
    assert told(job)["sensor-out-of-range"] == "note"
    typed = edits.change_part(job, "D9", values=(("pull-up ohm", 2200.0),))
    assert told(typed)["sensor-out-of-range"] == "look"


# Warning lamps.

OPENS = (Position("standing", (("1", "case"),)), Position("running"))
CLOSES = (Position("standing"), Position("running", (("1", "case"),)))


def oil(positions: tuple[Position, ...]) -> Job:
    """Return a vehicle with an oil lamp and its switch."""
    layer = CircuitBuilder(car("lamp"))
    lamp = layer.device("Oil lamp", "warning lamp", ("+", "-"))
    switch = layer.device(
        "Oil pressure switch", "switch", ("1",), positions=positions, case=layer.earth()
    )
    layer.wire(layer.key(), f"{lamp}/+", "Oil lamp feed", "BK/RD", 0.2)
    layer.wire(f"{lamp}/-", f"{switch}/1", "Oil lamp", "GN", 0.2)
    return layer.finished()


def lamp_of(job: Job) -> Lamp:
    return next(one for one in lit_lamps(Network(job)) if one.name == "Oil lamp")


def test_a_lamp_with_its_own_switch_proves_itself_and_goes_out() -> None:
    lamp = lamp_of(oil(OPENS))
    assert (lamp.key_on, lamp.running, lamp.verdict) == ("lit", "dark", "right")
    assert "one wire, its body is earth, closed with the engine standing" in lamp.says
    assert "lamp-wrong" not in told(oil(OPENS))


@pytest.mark.parametrize("by", ["relay", "transistor"])
def test_a_switch_the_other_way_round_is_inverted_by_a_block(by: str) -> None:
    job = oil(CLOSES)
    lamp = lamp_of(job)
    assert (lamp.key_on, lamp.running, lamp.verdict) == ("dark", "lit", "wrong")
    assert "Lamp inverter" in lamp.does
    assert told(job)["lamp-wrong"] == "look"
    mended = lay(job, "Lamp inverter", {"lamp": lamp.lamp, "by": by})
    solved = Analysis(mended)
    states = [solved.operating_point(state).load[lamp.lamp].state for state in (RUN, RUNNING)]
    assert states == ["alive", "dead"]
    rules = {rule for rule, severity in told(mended).items() if severity != "note"}
    assert "lamp-wrong" not in rules
    assert not [one for every in found(mended).values() for one in every if one.severity == "stop"]


def test_what_cannot_be_inverted_is_said() -> None:
    job = oil(CLOSES)
    with pytest.raises(EditError, match="code of a warning lamp"):
        lay(job, "Lamp inverter", {"lamp": "D1", "by": "relay"})
    bare = edits.remove_wires(job, frozenset(w.code for w in job.wires if w.function == "Oil lamp"))
    with pytest.raises(EditError, match="No wire goes"):
        lay(bare, "Lamp inverter", {"lamp": lamp_of(job).lamp, "by": "relay"})


def test_a_lamp_that_never_goes_out_and_one_that_never_lights() -> None:
    always = oil((Position("standing", (("1", "case"),)), Position("running", (("1", "case"),))))
    assert "never goes out" in lamp_of(always).does
    never = oil((Position("standing"), Position("running")))
    assert "never lights" in lamp_of(never).does


def test_a_charge_lamp_that_lights_for_want_of_charging_is_told_once() -> None:
    job = car("lamp")
    lamp = next(device for device in job.devices if device.name == "Charge lamp")
    silent = edits.change_part(job, lamp.code, kind="LED", values=())
    assert "no-charge" in told(silent)
    assert "lamp-wrong" not in told(silent)


# In the window, and on the command line.


def test_warning_lamps_are_shown_beside_the_gauges(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, oil(CLOSES), qtbot)
    view.tabs.setCurrentIndex(2)
    lamp = lamp_of(window.store.job)
    view.lamps_table.pick(lamp.lamp)
    view._pick_lamp(lamp.lamp)
    assert window.hand.subject == lamp.lamp
    assert "Lamp inverter" in view.said.text()
    assert {one.verdict for one in view.lamps.things} == {"right", "wrong"}


def test_lamps_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "oil.molvik"
    save_job(oil(CLOSES), path, PhotoBox())
    assert main(["gauges", str(path), "--json"]) == 0
    lamps = {one["lamp"]: one for one in json.loads(capsys.readouterr().out)["lamps"]}
    assert sorted(one["verdict"] for one in lamps.values()) == ["right", "wrong"]
    assert main(["gauges", str(path)]) == 0
    assert "Oil lamp by" in capsys.readouterr().out


def test_the_heron_demo_has_its_traps_and_another_alternator_mends_the_first() -> None:
    job = demo_job("heron")
    rules = {rule for rule, severity in told(job).items() if severity != "note"}
    assert rules == {"no-charge", "gauge-off", "lamp-wrong"}
    lamps = {one.name: one for one in lit_lamps(Network(job))}
    assert lamps["Charge lamp, LED"].charges is False
    assert "does not charge" in lamps["Charge lamp, LED"].does
    (speedo,) = matches(Network(job))
    # 8 teeth, 3.42 turns for each of a wheel, 2.05 m: 8 x 3.42 / 2.05 x 1000.
    assert speedo.ratio == pytest.approx(8 * 3.42 / 2.05 * 1000 / 8000)
    after = lay(job, "Another alternator", {"by": "lamp", "amps": "110 A"})
    assert "no-charge" not in told(after)
    choke = next(device for device in after.devices if device.name == "Choke heater")
    assert Analysis(after).operating_point(RUNNING).load[choke.code].state == "alive"
    assert tuple(DEMOS) == SAMPLES
