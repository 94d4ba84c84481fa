"""What devices do: batteries in the cold, regulators at their limit, switches that spring back.

Each sum stands beside its check; where no source is named it is common practice.
"""

import math
from pathlib import Path

import pytest
from hypothesis import given, settings

from jobs import jobs
from molvik.analysis import Analysis
from molvik.circuits.paths import fed_by
from molvik.circuits.route import fold, in_words, route
from molvik.circuits.simulate import OperatingPoint, needed
from molvik.circuits.why import why
from molvik.devices import value
from molvik.devices.kinds.alternator import OUTPUT_AT_RPM, share_at
from molvik.devices.states import (
    CRANK,
    OFF,
    PRIME,
    RUN,
    RUNNING,
    STATES,
    Fault,
    all_off,
    choices_of,
)
from molvik.files.devices import read_device, write_device
from molvik.files.errors import JobFileError
from molvik.model.job import Job, Settings
from molvik.model.parts import Connector, Device, Fuse, Grid, Output, Position, Splice
from molvik.parsing.devices import outputs_text, positions_text, read_outputs, read_positions
from test_alive import DIRECT, KEY, LAMP, charging, job_of, operating_point


def volts(job: Job, node: str, state: object = RUN) -> float:
    return operating_point(job, state).solution.volts[node]  # type: ignore[arg-type]


# Batteries.


def test_a_cold_flat_battery_gives_less() -> None:
    starter = Device("D4", "Starter", "starter", ("30", "50"), case="E1")
    job = job_of("D1/+ D4/30, E1 D1/-, D1/+ F1/in, F1/out D2/30, D2/50 D4/50", KEY, starter)
    warm = volts(job, "D1/+", CRANK)
    cold = volts(job, "D1/+", CRANK._replace(temperature_c=-20.0))
    flat = volts(job, "D1/+", CRANK._replace(battery="flat"))
    assert flat < cold < warm
    # 12.2 V is half charged (common practice).
    assert volts(job, "D1/+", OFF._replace(battery="half")) == pytest.approx(12.2, abs=0.01)


def test_copper_is_warmer_and_resists_more() -> None:
    # 0.393 % a kelvin: at 80 deg C 23.6 % more than at 20.
    job = job_of(DIRECT, Device("D3", "Pump", "motor", ("+", "-"), values=(("A", 9.0),)))
    lost = []
    for temperature in (20.0, 80.0):
        found = operating_point(job, RUN._replace(temperature_c=temperature))
        amps = found.wire_amps["W2"]
        lost.append(found.across("F1/out", "D3/+") / amps)
    assert lost[1] / lost[0] == pytest.approx(1 + 0.00393 * 60, rel=1e-6)


def test_a_six_volt_job_has_six_volt_devices() -> None:
    job = job_of(DIRECT, LAMP, settings=Settings(system_v=6.0))
    assert volts(job, "D1/+", OFF) == pytest.approx(6.3, abs=0.05)
    relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"))
    # The same power: half the voltage, a quarter of the resistance.
    assert value(relay, "coil ohm", 6.0) == pytest.approx(90 / 4)


# Alternators.


def test_a_machine_that_charges_holds_its_lamp_terminal_at_its_own_voltage() -> None:
    """So the lamp has nothing across it and goes out (common practice)."""
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    point = operating_point(charging(lamp), RUNNING)
    plus, held = (point.solution.volts[f"D4/{name}"] for name in ("B+", "L"))
    assert "D4" in point.on
    assert held == pytest.approx(plus, abs=0.05)
    assert not point.refused


def test_an_alternator_gives_no_more_than_it_can() -> None:
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    job = charging(lamp)
    heavy = Device("D8", "Heater", "heater", ("+", "-"), values=(("A", 200.0),))
    wires = (
        "D1/+ F1/in, F1/out D2/30, D2/15 D3/+, D3/- D4/L, D4/B+ D1/+, E1 D1/-, D1/+ D8/+, D8/- E1"
    )
    loaded = job_of(wires, *job.devices[1:], heavy, fuses=(Fuse("F1", "Main", 300),))
    light, full = operating_point(job, RUNNING), operating_point(loaded, RUNNING)
    assert light.solution.volts["D4/B+"] > 14.0
    most = 90 * share_at(OUTPUT_AT_RPM, 2000 * 2.5)
    assert full.solution.amps["D4"] == pytest.approx(most, rel=1e-6)
    assert full.source_amps > 0  # the battery gives the rest
    # At idle it gives less: the voltage falls further.
    idle = operating_point(loaded, RUNNING._replace(rpm=600))
    assert idle.solution.amps["D4"] < most
    assert share_at(OUTPUT_AT_RPM, 500) == 0
    assert share_at(OUTPUT_AT_RPM, 9000) == 1


def test_a_sense_wire_holds_the_voltage_where_it_senses() -> None:
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    load = Device("D8", "Lamps", "lamp", ("+", "-"), values=(("A", 30.0),))
    wires = (
        "D1/+ F1/in, F1/out D2/30, D2/15 D3/+, D3/- D4/L, D4/B+ D1/+, E1 D1/-, D1/+ D8/+, D8/- E1"
    )
    plain = Device("D4", "Alternator", "alternator", ("B+", "L"), case="E1")
    senses = Device("D4", "Alternator", "alternator", ("B+", "L", "S"), case="E1")
    without = volts(job_of(wires, KEY, plain, lamp, load), "D1/+", RUNNING)
    held = volts(job_of(wires + ", D4/S D1/+", KEY, senses, lamp, load), "D1/+", RUNNING)
    assert held > without + 0.1
    assert held == pytest.approx(14.4 - 0.004 * 45, abs=0.15)


# Switches.

PUSH = Device(
    "D5",
    "Start button",
    "switch",
    ("1", "2"),
    positions=(Position("released"), Position("start", (("1", "2"),), momentary=True)),
)


def test_a_start_button_is_pressed_while_cranking_and_springs_back() -> None:
    job = job_of("D1/+ F1/in, F1/out D5/1, D5/2 D3/+, D3/- E1, E1 D1/-", PUSH, LAMP)
    assert {s.name: operating_point(job, s).load["D3"].state for s in (RUN, CRANK, RUNNING)} == {
        "run": "dead",
        "crank": "alive",
        "running": "dead",
    }
    held = RUN._replace(switches=(("D5", "start"),))
    assert operating_point(job, held).load["D3"].state == "alive"


def test_the_engine_moves_an_oil_pressure_switch() -> None:
    moved = Position("standing", (("1", "case"),)), Position("running")
    oil = Device("D5", "Oil pressure", "switch", ("1",), case="E1", positions=moved)
    job = job_of("D1/+ F1/in, F1/out D3/+, D3/- D5/1, E1 D1/-", oil, LAMP)
    assert operating_point(job, RUN).load["D3"].state == "alive"
    assert operating_point(job, RUNNING).load["D3"].state == "dead"


def test_a_switch_that_is_put_off_is_off() -> None:
    plain = Device("D5", "Switch", "switch", ("in", "out"), (("in", "out"),))
    job = job_of("D1/+ F1/in, F1/out D5/in, D5/out D3/+, D3/- E1, E1 D1/-", plain, LAMP)
    assert choices_of(plain) == ("off", "on")
    assert operating_point(job, RUN).load["D3"].state == "alive"
    assert operating_point(job, RUN._replace(switches=all_off(job))).load["D3"].state == "dead"
    assert choices_of(KEY) == ()


# Controllers.


def controller(*outputs: Output, **fields: object) -> Job:
    computer = Device(
        "D5",
        "Computer",
        "controller",
        ("5", "6", "7"),
        supplies=("1",),
        earths=("2",),
        outputs=outputs,
        plug="C1",
    )
    wires = "D1/+ F1/in, F1/out D2/30, F1/out C1/1, C1/2 E1, F1/out D3/+, D3/- C1/5, D2/15 C1/6, E1 D1/-"  # noqa: E501
    return job_of(wires, KEY, computer, LAMP, connectors=(Connector("C1", "Plug", Grid(1, 8)),))


@pytest.mark.parametrize(
    ("when", "input_at", "lit"),
    [
        ("powered", "", {"off", "first seconds", "run", "crank", "running"}),
        ("first seconds", "", {"first seconds"}),
        ("first seconds and turning", "", {"first seconds", "crank", "running"}),
        ("key on", "", {"first seconds", "run", "crank", "running"}),
        ("turning", "", {"crank", "running"}),
        ("cranking", "", {"crank"}),
        ("running", "", {"running"}),
        ("input live", "6", {"first seconds", "run", "crank", "running"}),
        ("input low", "6", set()),
    ],
)
def test_when_an_output_acts(when: str, input_at: str, lit: set[str]) -> None:
    job = controller(Output("5", "pulls low", when, input_at))  # type: ignore[arg-type]
    states = (OFF, PRIME, RUN, CRANK, RUNNING)
    assert {s.name for s in states if operating_point(job, s).load["D3"].state == "alive"} == lit


def test_an_output_that_waits_for_its_input_says_so() -> None:
    said = why(operating_point(controller(Output("5", "pulls low", "input live", "6")), OFF), "D3")
    assert "drives C1/5 only while C1/6 is live" in said.text
    said = why(operating_point(controller(Output("5", "pulls low", "cranking")), RUN), "D3")
    assert "only while cranking" in said.text


def test_a_controller_holds_its_own_relay_after_the_key_is_off() -> None:
    # The relay feeds the computer, which pulls its coil low as long as it is powered.
    relay = Device("K1", "Main relay", "relay", ("30", "87", "86", "85"), (("30", "87"),))
    computer = Device(
        "D5",
        "Computer",
        "controller",
        supplies=("1",),
        earths=("2",),
        plug="C1",
        outputs=(Output("3"),),
    )
    wires = "D1/+ F1/in, F1/out K1/30, F1/out K1/86, K1/85 C1/3, K1/87 C1/1, C1/2 E1, E1 D1/-"
    plug = (Connector("C1", "Plug", Grid(1, 8)),)
    asleep = operating_point(job_of(wires, relay, computer, connectors=plug), RUN)
    assert not asleep.on  # nothing wakes it
    # Once awake it stays so.
    woken = job_of(wires + ", F1/out D2/30, D2/15 C1/1", KEY, relay, computer, connectors=plug)
    run = operating_point(woken, RUN)
    assert "K1" in run.on
    assert "K1" in OperatingPoint(Analysis(woken).network, OFF, run).on


# Sensors, coils.


def test_a_sensor_of_three_wires_sits_between_its_reference_and_its_return() -> None:
    sensor = Device(
        "D6",
        "Throttle",
        "sensor",
        ("5V", "signal", "return"),
        values=(("ohm", 4000.0), ("wiper share", 0.25)),
    )
    computer = Device(
        "D5",
        "Computer",
        "controller",
        supplies=("1",),
        earths=("2",),
        plug="C1",
        outputs=(Output("3", "5 V"), Output("4")),
    )
    wires = "D1/+ F1/in, F1/out C1/1, C1/2 E1, E1 D1/-, C1/3 D6/5V, D6/return C1/4"
    plug = (Connector("C1", "Plug", Grid(1, 8)),)
    found = operating_point(job_of(wires, computer, sensor, connectors=plug), RUN)
    assert found.load["D6"].state == "alive"
    # A quarter of 5 V at the wiper.
    assert found.across("D6/signal", "D6/return") == pytest.approx(1.25, abs=0.01)


def test_a_thermistor_falls_with_temperature() -> None:
    # exp(beta (1/T - 1/293.15)): 2.5 kilohm at 20 deg C, some 350 ohm at 80.
    sensor = Device("D6", "Coolant", "thermistor", ("1", "2"))
    job = job_of("D1/+ F1/in, F1/out D6/1, D6/2 E1, E1 D1/-", sensor)
    for temperature in (20.0, 80.0):
        found = operating_point(job, RUN._replace(temperature_c=temperature))
        ohm = found.across("D6/1", "D6/2") / found.solution.amps["D6"]
        wanted = 2500 * math.exp(3400 * (1 / (temperature + 273.15) - 1 / 293.15))
        assert ohm == pytest.approx(wanted, rel=1e-6)


def test_a_diode_across_a_coil_blocks_one_way_and_shorts_the_other() -> None:
    def coil(way: str) -> OperatingPoint:
        relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"), suppression="diode")
        a, b = ("86", "85") if way == "right" else ("85", "86")
        return operating_point(job_of(f"D1/+ F1/in, F1/out K1/{a}, K1/{b} E1, E1 D1/-", relay), RUN)

    assert coil("right").load["K1"].state == "alive"
    assert abs(coil("right").solution.amps["K1 diode"]) < 1e-6
    wrong = coil("wrong")
    assert "F1" in wrong.blown


@pytest.mark.parametrize("drop", [1.8, 2.0, 3.3])
@pytest.mark.parametrize("ohm", [47.0, 220.0, 560.0, 1500.0, 6800.0])
def test_a_light_emitting_diode_holds_its_drop_at_any_current(drop: float, ohm: float) -> None:
    # Bare, behind a resistor: by its law 0.12 V less for a tenth of the current.
    led = Device("D3", "Charge lamp", "LED", ("+", "-"), values=(("drop", drop), ("ohm", 0.0)))
    before = Device("D4", "Before it", "resistor", ("1", "2"), values=(("ohm", ohm),))
    found = operating_point(
        job_of("D1/+ F1/in, F1/out D4/1, D4/2 D3/+, D3/- E1, E1 D1/-", led, before), RUN
    )
    load = found.load["D3"]
    assert load.volts == pytest.approx(drop, abs=0.15)
    assert load.amps == pytest.approx((12.6 - load.volts) / ohm, rel=0.01)
    assert load.state == "alive"  # however little of the voltage it takes
    assert not found.refused


def test_a_light_emitting_diode_with_too_little_current_is_not_seen() -> None:
    led = Device("D3", "Lamp", "LED", ("+", "-"), values=(("ohm", 0.0),))
    before = Device("D4", "Before it", "resistor", ("1", "2"), values=(("ohm", 100_000.0),))
    wires = "D1/+ F1/in, F1/out D4/1, D4/2 D3/+, D3/- E1, E1 D1/-"
    assert operating_point(job_of(wires, led, before), RUN).load["D3"].state == "dead"


def test_sixty_ohms_between_two_terminated_nodes() -> None:
    # ISO 11898-2: 120 ohms at each end.
    nodes = [
        Device(f"D{n}", f"Node {n}", "network node", ("high", "low"), values=(("ohm", 120.0),))
        for n in (8, 9)
    ]
    meter = Device("D7", "Meter", "resistor", ("1", "2"), values=(("ohm", 1000.0),))
    wires = "D8/high D9/high, D8/low D9/low, D1/+ D7/1, D7/2 D8/high, D8/low D1/-"
    found = operating_point(job_of(wires, meter, *nodes), RUN)
    ohm = found.across("D8/high", "D8/low") / found.solution.amps["D7"]
    assert ohm == pytest.approx(60, abs=0.05)


def test_what_a_fuse_feeds() -> None:
    other = Device("D6", "Horn", "load", ("+", "-"))
    wires = DIRECT + ", D1/+ F2/in, F2/out D6/+, D6/- E1"
    job = job_of(wires, LAMP, other, fuses=(Fuse("F1", "Lamp", 10), Fuse("F2", "Horn", 10)))
    found = operating_point(job, RUN)
    assert (fed_by(found, "F1"), fed_by(found, "F2")) == (("D3",), ("D6",))


def test_what_an_engine_needs_when_nobody_said() -> None:
    parts = (
        Device("D5", "Computer", "controller"),
        Device("D6", "Injector", "injector"),
        Device("D7", "Fuel pump", "motor", ("+", "-")),
        Device("D8", "Fan", "motor"),
    )
    job = job_of("D1/+ D7/+", *parts)
    assert [one.code for one in needed(job)] == ["D5", "D6"]
    own = job_of("D1/+ D7/+", *parts, Device("D9", "Magneto", "load", needed=True))
    assert [one.code for one in needed(own)] == ["D9"]


# Bad input.


def test_a_resistance_below_zero_is_refused_by_name() -> None:
    bad = Device("D3", "Lamp", "lamp", ("+", "-"), values=(("ohm", -5.0),))
    solved = operating_point(job_of(DIRECT, bad), RUN)
    assert "a resistance of -5" in solved.refused["D3"]


@given(jobs())
@settings(max_examples=25, deadline=None)
def test_no_job_brings_it_down(job: Job) -> None:
    network = Analysis(job).network
    for state in (RUN, CRANK, STATES[-1]):
        faults = frozenset([Fault("open", job.wires[0].code)] if job.wires else [])
        found = OperatingPoint(network, state._replace(faults=faults))
        for device in job.devices:
            assert why(found, device.code).text
            for line in route(found, device.code):
                assert len(line.legs) == len(line.stops) - 1
                assert len(fold(line).legs) == len(fold(line).stops) - 1


# Routes.


def test_a_route_goes_from_the_battery_through_the_device_and_back() -> None:
    relay = Device("K1", "Pump relay", "relay", ("30", "87", "86", "85"), (("30", "87"),))
    pump = Device("D3", "Pump", "motor", ("A", "B"), plug="C1", values=(("A", 6.0),))
    job = job_of(
        "D1/+ F1/in, F1/out D2/30, F1/out K1/30, D2/15 K1/86, K1/85 E1, K1/87 S1, S1 C1/A, C1/B "
        "E2, E1 D1/-",
        KEY,
        relay,
        pump,
        connectors=(Connector("C1", "Pump plug", Grid(1, 2, letters=True)),),
        splices=(Splice("S1", "Pump feed"),),
    )
    lines = route(operating_point(job, OFF), "D3")
    assert [line.device for line in lines] == ["D3", "K1"]
    feed = lines[0]
    assert [stop.code for stop in feed.stops] == ["D1", "F1", "K1", "S1", "D3", "E2", "D1"]
    assert [leg.wires for leg in feed.legs] == [
        ("W1",),
        ("W3",),
        ("W6",),
        ("W7",),
        ("W8",),
        ("W9",),
    ]
    assert [leg.good for leg in feed.legs] == [True, True, False, False, True, True]
    contact = feed.stops[2]
    assert (contact.under, contact.closed, contact.shape) == ("30 to 87", False, "contact")
    assert "Pump relay 30 to 87, open 0.0 V" in in_words(lines)
    # With the key on all of it is live, and what is plain is taken together.
    live = route(operating_point(job, RUN), "D3")[0]
    assert all(leg.good for leg in live.legs)
    assert [stop.code for stop in live.stops] == [stop.code for stop in feed.stops]


def test_sixty_stops_are_folded_to_what_matters() -> None:
    links = ", ".join(f"S{n} S{n + 1}" for n in range(1, 60))
    job = job_of(
        f"D1/+ F1/in, F1/out S1, {links}, S60 D3/+, D3/- E1, E1 D1/-",
        LAMP,
        splices=tuple(Splice(f"S{n}") for n in range(1, 61)),
    )
    (line,) = route(operating_point(job, RUN), "D3")
    assert len(line.stops) == 65
    shown = fold(line)
    assert [stop.code for stop in shown.stops] == ["D1", "F1", "S60", "D3", "E1", "D1"]
    assert shown.stops[2].title == "60 joints"
    assert len(shown.stops[2].held) == 60


# As people type them, and in files.


def test_positions_and_outputs_are_read_as_typed() -> None:
    text = "off; on: 30-53; pressed*: 30-case"
    made = read_positions(text, ("30", "53"))
    assert made[2] == Position("pressed", (("30", "case"),), momentary=True)
    assert positions_text(made) == text
    text = "2 pulls low powered; 5 feeds high input live 12; 9 5 V first seconds and turning"
    outputs = read_outputs(text)
    assert outputs[1] == Output("5", "feeds high", "input live", "12")
    assert outputs_text(outputs) == text
    for wrong in ("on: 30-99", "on; on", ": 30-53"):
        with pytest.raises(ValueError, match="Type"):
            read_positions(wrong, ("30", "53"))
    for wrong in ("2 dances", "2 pulls low sometimes", "2 pulls low input live", "2 5 V powered 3"):
        with pytest.raises(ValueError, match="Type"):
            read_outputs(wrong)


def test_a_device_is_shared_as_a_file(tmp_path: Path) -> None:
    path = tmp_path / "relay.molvik-device"
    relay = Device(
        "K1",
        "Relay with diode",
        "relay",
        ("30", "87", "86", "85"),
        (("30", "87"),),
        plug="C1",
        values=(("coil ohm", 75.0),),
        suppression="diode",
    )
    write_device(relay, path)
    read = read_device(path)
    assert (read.code, read.plug, read.suppression) == ("", "", "diode")
    assert read.values == relay.values
    for text, said in (
        ("{", "is not a device"),
        ('{"code":"","name":"","kind":"lamp"}', "no name"),
        ('{"code":"","name":"x","kind":"lamp","values":[["A",-1]]}', "not above zero"),
        ('{"code":"","name":"x","kind":"horn"}', "x is of an unknown kind, “horn”"),
    ):
        path.write_text(text)
        with pytest.raises(JobFileError, match=said):
            read_device(path)
    with pytest.raises(JobFileError, match="cannot be read"):
        read_device(tmp_path / "none.molvik-device")
