"""Rules from the electrical solution, each with the smallest loom that breaks it."""

import pytest
from msgspec.structs import replace

from conftest import found
from molvik.analysis import Analysis
from molvik.devices.states import RUN, STATES, choices_of
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.model.job import Job, Settings
from molvik.model.parts import Connector, Device, Fuse, Grid, Output, Splice, Wire, WireSize
from molvik.model.parts import End as At
from test_alive import BATTERY, DIRECT, KEY, LAMP, charging, job_of


def rule(job: Job, name: str) -> list[Finding]:
    return found(job).get(name, [])


def test_a_feed_on_the_accessory_contact_is_a_stop_and_names_the_key() -> None:
    pump = Device("D3", "Pump", "motor", ("+", "-"), needed=True)
    starter = Device("D4", "Starter", "starter", ("30", "50"), case="E1")
    wires = "D1/+ F1/in, F1/out D2/30, D2/75 D3/+, D3/- E1, E1 D1/-, D2/50 D4/50, D1/+ D4/30"
    (one,) = rule(job_of(wires, KEY, pump, starter), "dead-in-crank")
    assert (one.subject, one.severity) == ("D3", "stop")
    assert "does not join 30 and 75 in “crank”" in one.why
    assert not rule(job_of(wires.replace("75", "15"), KEY, pump, starter), "dead-in-crank")


ISOLATOR = Device("D7", "Isolator", "isolator", ("1", "2", "3", "4"), (("1", "2"), ("3", "4")))


def isolated(coil: str, *more: Device, extra: str = "") -> Job:
    lamp = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    alternator = Device("D4", "Alternator", "alternator", ("B+", "L"), case="E1")
    wires = (
        "D1/+ D7/1, D7/2 F1/in, F1/out D2/30, D2/15 D3/+, D3/- D4/L, D4/B+ D7/2, E1 D1/-, "
        f"D6/- E1, {coil}{extra}"
    )
    coils = Device("D6", "Ignition", "load", ("+", "-"), values=(("ohm", 4.0),), needed=True)
    return job_of(wires, KEY, alternator, lamp, coils, ISOLATOR, *more)


def test_an_isolator_that_does_not_stop_the_engine() -> None:
    (one,) = rule(isolated("D2/15 D6/+"), "isolator-no-stop")
    assert one.subject == "D7"
    assert not rule(isolated("D2/15 D7/3, D7/4 D6/+"), "isolator-no-stop")


def test_an_alternator_needs_somewhere_to_run_down() -> None:
    stopped = "D2/15 D7/3, D7/4 D6/+"
    assert [one.subject for one in rule(isolated(stopped), "no-run-down")] == ["D4"]
    resistor = Device("D8", "Load dump resistor", "resistor", ("1", "2"), values=(("ohm", 3.0),))
    with_one = isolated(stopped, resistor, extra=", D4/B+ D8/1, D8/2 E1")
    assert not rule(with_one, "no-run-down")


def test_a_light_emitting_diode_alone_does_not_excite() -> None:
    lamp = Device("D3", "Charge lamp", "LED", ("+", "-"), values=(("ohm", 1000.0),))
    (one,) = rule(charging(lamp), "no-charge")
    assert "filament lamp" in one.remedy
    filament = Device("D3", "Charge lamp", "lamp", ("+", "-"), values=(("ohm", 60.0),))
    assert not rule(charging(filament), "no-charge")


def test_what_flows_with_the_key_off_is_held_against_the_jobs_limit() -> None:
    clock = Device("D3", "Clock", "load", ("+", "-"), values=(("A", 0.08),))
    (one,) = rule(job_of(DIRECT, clock), "drain")
    assert "Clock 0.084 A" in one.why
    assert not rule(job_of(DIRECT, clock, settings=Settings(drain_limit_a=0.1)), "drain")


def test_two_fuses_on_one_net() -> None:
    fuses = (Fuse("F1", "A", 10), Fuse("F2", "B", 15))
    (one,) = rule(job_of(DIRECT + ", D1/+ F2/in, F2/out D3/+", LAMP, fuses=fuses), "feeds-joined")
    assert one.what.startswith("F1 and F2")


def test_a_load_that_returns_through_another() -> None:
    # Two lamps share an earth that is off; one is switched off, and glows backwards.
    switch = Device("D5", "Switch", "switch", ("in", "out"), (("in", "out"),))
    other = Device("D6", "Tail lamp", "lamp", ("+", "-"), values=(("A", 2.0),))
    load = Device("D8", "Heater", "heater", ("+", "-"), values=(("A", 5.0),))
    wires = (
        "D1/+ F1/in, F1/out D3/+, F1/out D5/in, D5/out D6/+, D5/out D8/+, D8/- E1, D3/- S1, "
        "D6/- S1, E1 D1/-"
    )
    job = job_of(wires, LAMP, switch, other, load, splices=(Splice("S1"),))
    assert [one.subject for one in rule(job, "returns-through")] == ["D6"]
    whole = job_of(wires + ", S1 E1", LAMP, switch, other, load, splices=(Splice("S1"),))
    assert not rule(whole, "returns-through")
    # Behind twenty other switches it is found as well.
    others = [replace(switch, code=f"D{n}") for n in range(20, 40)]
    lamps = [replace(LAMP, code=f"D{n + 20}") for n in range(20, 40)]
    more = "".join(f", F1/out D{n}/in, D{n}/out D{n + 20}/+, D{n + 20}/- E1" for n in range(20, 40))
    many = (*others, *lamps, LAMP, switch, other, load)
    analysis = Analysis(job_of(wires + more, *many, splices=(Splice("S1"),)))
    found = [one.subject for one in find_all(analysis) if one.rule == "returns-through"]
    assert found == ["D6"]
    assert analysis.electrics.solved(STATES) is not None
    one_off = RUN._replace(switches=(("D20", choices_of(others[0])[0]),))
    assert analysis.electrics.solved((one_off,)) is None, "those of hundreds of switches are let go"
    sound = job_of(wires + more + ", S1 E1", *many, splices=(Splice("S1"),))
    assert not rule(sound, "returns-through")


@pytest.mark.parametrize(
    ("ends", "severity"), [("C1/3 E1", "stop"), ("C1/3 C2/3", ""), ("C2/3 C2/2", "look")]
)
def test_a_screen_is_earthed_at_one_end(ends: str, severity: str) -> None:
    # C1 is the computer's plug, where screens are earthed inside; C2 the sensor's.
    computer = Device("D5", "Computer", "controller", supplies=("1",), earths=("2",), plug="C1")
    job = job_of(
        "D1/+ F1/in, F1/out C1/1, C1/2 E1, E1 D1/-",
        computer,
        connectors=(Connector("C1", "Computer", Grid(1, 4)), Connector("C2", "Sensor", Grid(1, 4))),
    )
    a, b = (At(*word.split("/")) for word in ends.split())
    screen = Wire("W9", a, b, size=WireSize("metric", 0.5), length_m=1.0, use="screen")
    job = Job(
        "x",
        connectors=job.connectors,
        devices=job.devices,
        fuses=job.fuses,
        earths=job.earths,
        wires=(*job.wires, screen),
    )
    assert [one.severity for one in rule(job, "screen-earths")] == ([severity] if severity else [])


def test_a_diode_across_a_coil_the_wrong_way_round() -> None:
    def coil(a: str, b: str) -> Job:
        relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"), suppression="diode")
        return job_of(f"D1/+ F1/in, F1/out K1/{a}, K1/{b} E1, E1 D1/-", relay)

    assert rule(coil("85", "86"), "diode-reversed")[0].severity == "stop"
    assert not rule(coil("86", "85"), "diode-reversed")


@pytest.mark.parametrize(("suppression", "asked"), [("", True), ("resistor", False)])
def test_a_coil_beside_a_computer_has_something_across_it(suppression: str, asked: bool) -> None:
    relay = Device("K1", "Relay", "relay", ("30", "87", "86", "85"), suppression=suppression)  # type: ignore[arg-type]
    computer = Device(
        "D5",
        "Computer",
        "controller",
        supplies=("1",),
        earths=("2",),
        plug="C1",
        outputs=(Output("3"),),
    )
    wires = "D1/+ F1/in, F1/out C1/1, C1/2 E1, F1/out K1/86, K1/85 C1/3, E1 D1/-"
    job = job_of(wires, relay, computer, connectors=(Connector("C1", "Plug", Grid(1, 4)),))
    assert bool(rule(job, "no-suppression")) is asked


def test_a_relay_that_cannot_settle_names_its_loop() -> None:
    relay = Device("K1", "Buzzer", "relay", ("30", "87", "86", "85", "87a"), (("30", "87"),))
    (one,) = rule(
        job_of("D1/+ F1/in, F1/out K1/30, K1/87a K1/86, K1/85 E1, E1 D1/-", relay), "chatter"
    )
    assert "fed through W3, K1, W2, F1, W1" in one.why


def test_a_figure_that_cannot_be_is_a_finding_and_the_others_stay() -> None:
    bad = Device("D3", "Lamp", "lamp", ("+", "-"), values=(("ohm", -5.0),))
    by_rule = found(job_of(DIRECT, bad))
    assert "Lamp (D3) has a resistance of -5" in by_rule["cannot-solve"][0].what
    assert "cannot-be-judged" in by_rule


def test_the_metres_without_a_fuse_are_told() -> None:
    (one,) = rule(job_of("D1/+ D3/+, D3/- E1, E1 D1/-", LAMP), "no-fuse")
    assert "W1" in one.what
    assert one.what.endswith("no fuse between it and the battery: 1 m of it.")


def test_a_battery_alone_has_nothing_to_find() -> None:
    assert not {"drain", "no-charge", "dead-in-crank"} & found(Job("x", devices=(BATTERY,))).keys()
