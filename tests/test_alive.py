"""What is alive, when and why not: circuits worked by hand, and facts of the trade.

Each sum stands beside its check; where no source is named it is common practice.
"""

import pytest

from molvik.analysis import Analysis
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.why import why
from molvik.devices.states import (
    CRANK,
    ISOLATED,
    KEY_OFF_RUNNING,
    OFF,
    RUN,
    RUNNING,
    STATES,
    Fault,
    State,
)
from molvik.electrical.conductor import resistance_20_ohm_per_m
from molvik.model.job import Job
from molvik.model.parts import (
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Grid,
    Output,
    Wire,
    WireSize,
)

BATTERY = Device("D1", "Battery", "battery", ("+", "-"))
KEY = Device("D2", "Key switch", "switch", ("30", "15", "50", "75"))


def run(text: str) -> tuple[Wire, ...]:
    """Return wires written "D1/+ F1/in, …", each of 1 m and 2.5 mm2; E1 for an earth point."""
    wires = []
    for number, pair in enumerate(text.split(","), start=1):
        start, finish = (End(*word.split("/")) for word in pair.split())
        wires.append(Wire(f"W{number}", start, finish, size=WireSize("metric", 2.5), length_m=1.0))
    return tuple(wires)


def job_of(wires: str, *devices: Device, **fields: object) -> Job:
    parts: dict[str, object] = {
        "fuses": (Fuse("F1", "Main", 30),),
        "earths": (EarthPoint("E1", "Block"), EarthPoint("E2", "Case earth")),
    }
    return Job("x", devices=(BATTERY, *devices), wires=run(wires), **{**parts, **fields})  # type: ignore[arg-type]


def operating_point(job: Job, state: State) -> OperatingPoint:
    return OperatingPoint(Analysis(job).network, state)


def states_of(job: Job, code: str) -> dict[str, str]:
    """Return the state of a device in each state of the key."""
    return {
        state.name: next(
            one.state for one in operating_point(job, state).loads if one.device == code
        )
        for state in STATES
    }


LAMP = Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 2.0),))
DIRECT = "D1/+ F1/in, F1/out D3/+, D3/- E1, E1 D1/-"


def test_a_lamp_on_a_battery_by_hand() -> None:
    # 12.6 V over: the battery 12 mohm, three metres of 2.5 mm2 and one to earth, a 30 A fuse of
    # 0.1 V / 30 A, the lamp 12 V / 2 A = 6 ohm.
    wire = resistance_20_ohm_per_m(WireSize("metric", 2.5))
    around = 0.012 + 4 * wire + 0.1 / 30 + 6.0
    shown = next(
        one for one in operating_point(job_of(DIRECT, LAMP), OFF).loads if one.device == "D3"
    )
    assert shown.amps == pytest.approx(12.6 / around, rel=1e-6)
    assert shown.volts == pytest.approx(12.6 / around * 6.0, rel=1e-6)
    assert shown.state == "alive"
    found = operating_point(job_of(DIRECT, LAMP), OFF)
    assert found.wire_amps["W2"] == pytest.approx(12.6 / around, rel=1e-6)


def test_a_relay_through_the_key_switch() -> None:
    relay = Device("K1", "Pump relay", "relay", ("30", "87", "86", "85"), (("30", "87"),))
    pump = Device("D3", "Pump", "motor", ("+", "-"), values=(("A", 6.0),))
    job = job_of(
        "D1/+ F1/in, F1/out D2/30, F1/out K1/30, D2/15 K1/86, K1/85 E1, K1/87 D3/+, D3/- E1, "
        "E1 D1/-",
        KEY,
        relay,
        pump,
    )
    assert states_of(job, "D3") == {
        "off": "dead",
        "accessory": "dead",
        "first seconds": "alive",
        "run": "alive",
        "crank": "alive",
        "running": "alive",
        "key off while running": "dead",
        "isolator off while running": "alive",
    }
    coil = next(one for one in operating_point(job, RUN).loads if one.device == "K1")
    assert coil.amps == pytest.approx(12.5 / 90, rel=0.02)  # 90 ohm across a battery of 12.6 V
    said = why(operating_point(job, OFF), "D3")
    assert said.cause == "D2"
    assert "Pump relay has its contact open" in said.text
    assert "Key switch does not join 30 and 15" in said.text


def test_a_feed_on_the_accessory_contact_dies_in_crank() -> None:
    pump = Device("D3", "Pump", "motor", ("+", "-"), needed=True)
    starter = Device("D4", "Starter", "starter", ("30", "50"), case="E1")
    wires = "D1/+ F1/in, F1/out D2/30, D2/{} D3/+, D3/- E1, E1 D1/-, D2/50 D4/50, D1/+ D4/30"
    wrong = job_of(wires.format("75"), KEY, pump, starter)
    assert states_of(wrong, "D3")["accessory"] == "alive"
    assert states_of(wrong, "D3")["crank"] == "dead"
    assert operating_point(wrong, CRANK).no_start == "Pump dead while cranking"
    assert "does not join 30 and 75 in “crank”" in why(operating_point(wrong, CRANK), "D3").text
    assert operating_point(job_of(wires.format("15"), KEY, pump, starter), CRANK).no_start == ""


def test_the_starter_pulls_the_battery_down() -> None:
    # 12.6 V behind 12 mohm and two metres of 50 mm2, the motor 50 mohm, coil and key beside it.
    starter = Device("D4", "Starter", "starter", ("30", "50"), case="E1")
    job = job_of("D1/+ D4/30, E1 D1/-, D1/+ F1/in, F1/out D2/30, D2/50 D4/50", KEY, starter)
    thick = tuple(
        Wire(w.code, w.start, w.finish, size=WireSize("metric", 50), length_m=1.0)
        if w.code in ("W1", "W2")
        else w
        for w in job.wires
    )
    job = Job("x", devices=job.devices, wires=thick, fuses=job.fuses, earths=job.earths)
    found = operating_point(job, CRANK)
    cable = resistance_20_ohm_per_m(WireSize("metric", 50))
    amps = 12.6 / (0.012 + 2 * cable + 0.05)
    assert found.solution.amps["D4"] == pytest.approx(amps, rel=0.02)
    assert found.solution.volts["D1/+"] == pytest.approx(12.6 - amps * 0.012, rel=0.02)
    assert found.blown == {}  # seconds: a fuse stands them
    assert operating_point(job, RUN).solution.volts["D1/+"] > 12.5


def charging(lamp: Device) -> Job:
    alternator = Device("D4", "Alternator", "alternator", ("B+", "L"), case="E1")
    return job_of(
        "D1/+ F1/in, F1/out D2/30, D2/15 D3/+, D3/- D4/L, D4/B+ D1/+, E1 D1/-",
        KEY,
        alternator,
        lamp,
    )


def test_the_charge_lamp_lights_with_the_key_on_and_goes_out_when_charging() -> None:
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    job = charging(lamp)
    assert states_of(job, "D3")["run"] == "alive"
    # 60 ohm in series with the field's 9: 60/69 of 12.5 V.
    shown = next(one for one in operating_point(job, RUN).loads if one.device == "D3")
    assert shown.volts == pytest.approx(12.6 * 60 / 69, rel=0.01)
    running = operating_point(job, RUNNING)
    assert "D4" in running.on
    assert next(one for one in running.loads if one.device == "D3").state == "dead"
    # 14.4 V, less some tenths for the regulator and the current the battery takes.
    assert 14.0 < running.solution.volts["D4/B+"] < 14.4
    assert -20 < running.source_amps < 0


@pytest.mark.parametrize(
    ("element", "excites"),
    [
        (Device("D3", "Resistor", "resistor", ("+", "-"), values=(("ohm", 560.0),)), True),
        (Device("D3", "Charge lamp", "LED", ("+", "-"), values=(("ohm", 1000.0),)), False),
    ],
)
def test_560_ohms_excite_where_a_light_emitting_diode_does_not(
    element: Device, excites: bool
) -> None:
    # 12.6 V / 569 ohm = 22 mA; an LED behind its 1 kilohm passes some 10 mA.
    running = operating_point(charging(element), RUNNING)
    assert ("D4" in running.on) is excites
    if not excites:
        said = why(running, "D4")
        assert "runs but does not charge" in said.text
        assert "filament lamp" in said.remedy
        assert said.cause == "D3"


COMPUTER = Device(
    "D5",
    "Engine computer",
    "controller",
    plug="C1",
    supplies=("1",),
    earths=("3", "4"),
    outputs=(Output("2"), Output("5", "pulls low", "turning"), Output("6", "5 V")),
)


def computer(*, earths: bool) -> Job:
    relay = Device("K1", "Main relay", "relay", ("30", "87", "86", "85"), (("30", "87"),))
    wires = (
        "D1/+ F1/in, F1/out C1/1, F1/out K1/30, F1/out K1/86, K1/85 C1/2, K1/87 D3/+, D3/- E1, "
        "E1 D1/-"
    )
    if earths:
        wires += ", C1/3 E1, C1/4 E1"
    plug = Connector("C1", "Computer plug", Grid(2, 3))
    return job_of(wires, COMPUTER, relay, LAMP, connectors=(plug,))


def test_without_the_computers_earths_the_main_relay_does_not_pull_in() -> None:
    assert states_of(computer(earths=True), "D3")["run"] == "alive"
    job = computer(earths=False)
    assert states_of(job, "D3")["run"] == "dead"
    assert states_of(job, "K1")["run"] == "dead"
    said = why(operating_point(job, RUN), "D3")
    assert "Main relay has its contact open" in said.text
    assert "Engine computer does not drive its output" in said.text
    assert "Engine computer has no return" in said.text
    assert said.cause == "D5"


def test_a_five_volt_reference_is_five_volts() -> None:
    found = operating_point(computer(earths=True), RUN)
    volts = found.solution.volts
    assert volts["D5/6"] - volts["D5 earth"] == pytest.approx(5.0)


def test_a_battery_switch_alone_leaves_the_engine_running_on_its_alternator() -> None:
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    alternator = Device("D4", "Alternator", "alternator", ("B+", "L"), case="E1")
    coil = Device("D6", "Ignition coil", "load", ("+", "-"), values=(("ohm", 4.0),), needed=True)
    switch = Device(
        "D7", "Battery switch", "isolator", ("1", "2", "3", "4"), (("1", "2"), ("3", "4"))
    )
    plain = (
        "D1/+ D7/1, D7/2 F1/in, F1/out D2/30, D2/15 D3/+, D3/- D4/L, D4/B+ D7/2, E1 D1/-, D6/- E1, "
    )
    devices = (KEY, alternator, lamp, coil, switch)

    def coil_in(job: Job, state: State) -> str:
        return next(one.state for one in operating_point(job, state).loads if one.device == "D6")

    job = job_of(plain + "D2/15 D6/+", *devices)
    assert coil_in(job, RUNNING) == "alive"
    assert coil_in(job, ISOLATED) == "alive"  # it goes on running on what it makes itself
    assert coil_in(job, KEY_OFF_RUNNING) == "dead"
    # With auxiliary contacts in the coil's feed it stops, whatever the alternator does.
    job = job_of(plain + "D2/15 D7/3, D7/4 D6/+", *devices)
    assert coil_in(job, RUNNING) == "alive"
    assert coil_in(job, ISOLATED) == "dead"
    assert why(operating_point(job, ISOLATED), "D6").cause == "D7"


def test_a_short_behind_a_fuse_blows_it_and_is_named() -> None:
    short = Device("D6", "Pinched wire", "load", ("+", "-"), values=(("ohm", 0.01),))
    fuses = (Fuse("F1", "Main", 80), Fuse("F2", "Lamp", 10))
    wires = "D1/+ F1/in, F1/out F2/in, F2/out D3/+, D3/- E1, E1 D1/-, F2/out D6/+, D6/- E1"
    job = job_of(wires, LAMP, short, fuses=fuses)
    found = operating_point(job, RUN)
    assert set(found.blown) == {"F2"}  # the smaller one goes and saves the other
    said = why(found, "D3")
    assert said.cause == "F2"
    assert "Most of it goes into Pinched wire." in said.text


def test_a_relay_that_cannot_settle_is_chatter() -> None:
    # Its own break contact feeds its coil: it pulls in, and so lets go.
    relay = Device("K1", "Buzzer", "relay", ("30", "87", "86", "85", "87a"), (("30", "87"),))
    job = job_of("D1/+ F1/in, F1/out K1/30, K1/87a K1/86, K1/85 E1, E1 D1/-", relay)
    assert operating_point(job, RUN).chatter == ("K1",)


def test_a_long_thin_wire_is_named_as_what_loses_the_voltage() -> None:
    job = job_of(DIRECT, Device("D3", "Pump", "motor", ("+", "-"), values=(("A", 9.0),)))
    thin = Wire(
        "W2", End("F1", "out"), End("D3", "+"), size=WireSize("metric", 0.35), length_m=25.0
    )
    job = Job(
        "x",
        devices=job.devices,
        wires=(job.wires[0], thin, *job.wires[2:]),
        fuses=job.fuses,
        earths=job.earths,
    )
    said = why(operating_point(job, RUN), "D3")
    assert said.cause == "W2"
    assert "V are dropped in W2" in said.text


@pytest.mark.parametrize("broken", ["W1", "W2", "W3", "W4", "F1", "E1", "E2"])
def test_what_was_taken_away_is_what_the_explanation_names(broken: str) -> None:
    state = State("run", "run", faults=frozenset([Fault("open", broken)]))
    through_the_metal = DIRECT.replace("D3/- E1", "D3/- E2")
    said = why(operating_point(job_of(through_the_metal, LAMP), state), "D3")
    assert said.cause == broken, said


def test_why_it_is_alive_names_the_way() -> None:
    said = why(operating_point(job_of(DIRECT, LAMP), RUN), "D3")
    assert "is alive: 12." in said.text
    assert "W2, F1, W1" in said.text


def test_odd_jobs_do_not_bring_it_down() -> None:
    for job in (Job("x"), Job("x", devices=(BATTERY,)), job_of("D1/+ D1/-"), job_of("D1/+ E9")):
        for state in STATES:
            assert operating_point(job, state).chatter == ()
    pins = Device("K1", "Relay without pins", "relay", ("30",), (("30", "87"),))
    assert states_of(job_of("D1/+ K1/30", pins), "K1")["run"] == "dead"
    assert why(operating_point(Job("x"), RUN), "D9").text == "There is no device D9 in the job."


def test_run_on_is_found_with_the_key_off() -> None:
    # The lamp's feed is not from the key but from the battery: key off, and it still charges.
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    alternator = Device("D4", "Alternator", "alternator", ("B+", "L"), case="E1")
    wires = "D1/+ F1/in, F1/out D3/+, D3/- D4/L, D4/B+ D1/+, E1 D1/-"
    assert "D4" in operating_point(job_of(wires, KEY, alternator, lamp), KEY_OFF_RUNNING).on
