"""What if: whatever is broken in the demo, the explanation names it; what a person would see."""

import itertools
from collections.abc import Iterator
from typing import Any, get_args

import pytest

from conftest import found
from molvik.analysis import Analysis
from molvik.circuits.drain import drain, lasts, parked
from molvik.circuits.scenario import SHIPPED, go_through, scenarios, states_of
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.symptoms import symptoms
from molvik.circuits.why import why
from molvik.devices.states import (
    CRANK,
    KEY_OFF_RUNNING,
    KEYS,
    NAMED,
    RUN,
    RUNNING,
    STATES,
    Conditions,
    Engine,
    Fault,
    State,
    turned_to,
)
from molvik.model import edits
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.parts import Device, End, Position, Scenario, Wire
from molvik.netlist.circuitgraph import circuit_graph
from molvik.netlist.faults import in_words, read_fault
from molvik.netlist.network import Network
from test_alive import job_of, operating_point


def put_right(demo: Job) -> Job:
    """The demo with its injector relay fed from a contact that stays on in crank."""
    coil = next(w for w in demo.wires if w.function == "Injector relay coil, cab")
    return edits.change_wire(demo, coil.code, start=End("D4", "15"))


@pytest.fixture
def right(demo: Job) -> Job:
    return put_right(demo)


def test_the_demos_injectors_die_in_crank_and_moving_one_wire_mends_it(demo: Job) -> None:
    crank = Analysis(demo).operating_point(CRANK)
    assert crank.no_start.startswith("Injector 1, Injector 2")
    said = why(crank, "D12")
    assert said.cause == "D4"
    assert "Injector relay has its contact open" in said.text
    assert "Key switch does not join 30 and 75 in “crank”" in said.text
    assert Analysis(put_right(demo)).operating_point(CRANK).no_start == ""


def test_the_engine_then_runs_on_through_its_charge_lamp(right: Job) -> None:
    analysis = Analysis(right)
    off = analysis.operating_point(KEY_OFF_RUNNING)
    assert not off.lost
    # Fed through the charge lamp, the main relay's coil keeps more than it needs to hold.
    assert {"K1", "K3", "D2", "D11"} <= off.on
    assert 0.2 * 12 <= off.load["K1"].volts < 0.7 * 12
    said = why(off, "K1")
    assert said.alive
    assert "fed back through Charge lamp" in said.text
    assert "D2" in said.text
    assert "runs-on" in found(right)
    # Heater and headlamps together are too much for their fuse.
    assert set(analysis.operating_point(RUNNING).blown) == {"F7"}


def test_a_diode_in_the_charge_lamps_lead_ends_the_running_on(right: Job) -> None:
    lamp = next(w for w in right.wires if w.function == "Charge lamp feed")
    job = edits.add(right, Device("D60", "Diode", "diode", ("A", "K")))
    job = edits.change_wire(job, lamp.code, finish=End("D60", "A"))
    job = edits.add(job, Wire("", End("D60", "K"), End("D6", "1"), "Charge lamp feed"))
    assert not {"runs-on", "stays-alive"} & found(job).keys()
    analysis = Analysis(job)
    assert analysis.operating_point(RUN).load["D6"].state == "alive"
    assert "D2" in analysis.operating_point(RUNNING).on  # it still begins to charge
    # The other way round nothing passes: no lamp, no charge, and it is found.
    job = edits.change_wire(job, lamp.code, finish=End("D60", "K"))
    job = edits.change_wire(job, job.wires[-1].code, start=End("D60", "A"))
    by_rule = found(job)
    assert by_rule["diode-reversed"][0].subject == "D60"
    assert by_rule["no-charge"][0].subject == "D2"


# Every what-if.


def every_fault(job: Job, kind: str) -> Iterator[Fault]:
    """Yield one fault for each thing of the job that can have it."""
    match kind:
        case "open":
            yield from (Fault("open", wire.code) for wire in job.wires)
            yield from (Fault("open", fuse.code) for fuse in job.fuses)
            yield from (Fault("open", earth.code) for earth in job.earths)
            yield from (Fault("open", d.code) for d in job.devices if d.kind == "relay")
        case "short":
            yield from (Fault("short", wire.code, "earth") for wire in job.wires)
        case "bad":
            yield from (Fault("bad", wire.code, "", 15.0) for wire in job.wires)
        case "swap":
            network = Network(job)
            for plug in job.connectors:
                used = [c for c in cavities(plug.grid) if End(plug.code, c) in network.wires_at]
                for one, other in itertools.pairwise(used):
                    yield Fault("swap", f"{plug.code}/{one}", f"{plug.code}/{other}")


ASKED = {"open": 600, "short": 300, "bad": 250, "swap": 140}
"""At least so often the demo must give occasion to ask; the counts are printed by -rP."""


@pytest.mark.parametrize("kind", ASKED)
def test_for_every_what_if_on_the_demo_the_explanation_names_the_cause(
    right: Job, kind: str
) -> None:
    network = Network(right)
    whole = {state.name: OperatingPoint(network, state) for state in (RUN, CRANK)}
    asked = 0
    missed = []
    for fault in every_fault(right, kind):
        for state in (RUN, CRANK):
            before = whole[state.name].load
            after = OperatingPoint(network, state._replace(faults=frozenset([fault])))
            for one in after.loads:
                if before[one.device].state == "alive" and one.state in ("dead", "weak"):
                    asked += 1
                    said = why(after, one.device)
                    if said.cause not in (fault.at, fault.other):
                        missed.append((str(fault), state.name, one.device, said.text))
    print(f"{kind}: {asked - len(missed)} of {asked} explanations name what was broken")
    assert asked > ASKED[kind]
    assert not missed, missed


def test_a_relay_that_sticks_is_named_by_what_it_keeps_alive(right: Job) -> None:
    network = Network(right)
    state = RUN._replace(faults=frozenset([Fault("stuck", "K2")]))
    said = why(OperatingPoint(network, state), "D18")
    assert (said.alive, said.cause) == (True, "K2")
    assert "K2 is stuck" in said.text


# Symptoms.


def all_states(job: Job, *faults: Fault) -> dict[str, OperatingPoint]:
    analysis = Analysis(job)
    states = (state._replace(faults=frozenset(faults)) for state in STATES)
    return {state.name: analysis.operating_point(state) for state in states}


@pytest.mark.parametrize(
    ("fault", "seen"),
    [
        ("F5", "The engine does not start: Fuel pump dead while cranking."),
        ("short W45 earth", "F5 blows: first seconds, crank, running"),
        ("stuck K2", "Fuel pump: alive instead of dead in off, accessory, run"),
        ("E2", "Tank gauge: dead instead of alive in accessory, first seconds, run"),
    ],
)
def test_what_a_person_would_see(right: Job, fault: str, seen: str) -> None:
    changes = symptoms(all_states(right), all_states(right, read_fault(fault, right)))
    assert any(line.startswith(seen) for line in changes), changes
    assert symptoms(all_states(right), all_states(right)) == ()


# Faults as they are typed.


def test_faults_are_read_as_they_are_typed(demo: Job) -> None:
    for text, fault, words in (
        ("w12", Fault("open", "W12"), "W12 is off"),
        ("open F3", Fault("open", "F3"), "F3 is out"),
        ("short W12 ground", Fault("short", "W12", "earth"), "W12 is shorted to earth"),
        ("short w12 w13", Fault("short", "W12", "W13"), "W12 is shorted to W13"),
        ("swap C2/5, C2/6", Fault("swap", "C2/5", "C2/6"), "C2/5 and C2/6 are swapped"),
        ("bad W12 0,5", Fault("bad", "W12", "", 0.5), "W12 has 0.5 Ω too many"),
        ("bad E1 2 ohm", Fault("bad", "E1", "", 2.0), "E1 has 2 Ω too many"),
        ("stuck k2", Fault("stuck", "K2"), "K2 is stuck, pulled in"),
    ):
        read = read_fault(text, demo)
        assert (read, in_words(read, demo)) == (fault, words)
        assert read_fault(str(read), demo) == read


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "Type what is broken"),
        ("W999", "There is no W999"),
        ("short F3 earth", "F3 is not a wire"),
        ("short W12 F3", "F3 is not a wire"),
        ("swap C2/5 W3", "Two cavities are swapped"),
        ("swap C2/5", "Two cavities are swapped"),
        ("stuck F3", "F3 is not a relay"),
        ("bad D18 1", "D18 is a device"),
        ("open C2/5", "C2/5 is a cavity"),
        ("W12 W13 W14", "is not understood"),
        ("bad W12 much", "“much”"),
    ],
)
def test_faults_that_cannot_be_say_why(demo: Job, text: str, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        read_fault(text, demo)


# Scenarios.


def test_the_engine_starts_runs_and_is_stopped_in_order(right: Job) -> None:
    def engine(job: Job, name: str, *faults: Fault) -> list[str]:
        scenario = next(one for one in scenarios(job) if one.name == name)
        states = [s._replace(faults=frozenset(faults)) for s in states_of(scenario)]
        return [step.engine for step in go_through(Network(job), states)]

    key = "start and stop with the key"
    assert engine(right, key) == ["stands"] * 4 + ["turns and starts", "runs", "runs on"]
    assert engine(right, "stop with the isolator")[-1] == "runs on"
    lamp = Fault("open", next(w.code for w in right.wires if w.function == "Charge lamp feed"))
    # Without its charge lamp it does not run on: the key stops it.
    stopped = engine(right, key, lamp)
    assert stopped[-2] == "runs"
    assert stopped[-1].startswith("stops: ")
    dead = engine(right, key, Fault("open", "F5"))
    assert dead[4:] == ["does not start: Fuel pump dead while cranking", "stands", "stands"]


def test_a_job_has_scenarios_of_its_own(right: Job) -> None:
    own = edits.set_scenarios(right, (Scenario("twice", ("crank", "off", "crank")),))
    assert [one.name for one in scenarios(own)] == ["twice", *(one.name for one in SHIPPED)]
    steps = go_through(Network(own), states_of(own.scenarios[0]))
    assert [step.runs for step in steps] == [True, False, True]
    with pytest.raises(ValueError, match="no state “moon”"):
        states_of(Scenario("x", ("moon",)))


# Drain.


def test_what_flows_with_everything_off_is_told_item_by_item(demo: Job) -> None:
    off = drain(Analysis(demo).operating_point(parked(demo)))
    names = [name for _, name, _ in off.items]
    assert names[:2] == ["Heater blower", "Blue beacon"]
    assert names[2] == "Engine computer (asleep after 10 min)"
    assert off.total_a == pytest.approx(sum(amps for _, _, amps in off.items), rel=0.01)


def test_a_loose_earth_point_takes_what_is_wired_to_it_and_not_what_is_bolted_down() -> None:
    """A body has bolts of its own; what is loose is between the metal and the rings there."""
    bolted = Device("D3", "Lamp on the block", "lamp", ("+",), case="E1", values=(("A", 2.0),))
    wired = Device("D4", "Lamp with a wire", "lamp", ("+", "-"), values=(("A", 2.0),))
    job = job_of("D1/+ F1/in, F1/out D3/+, F1/out D4/+, D4/- E1, E2 D1/-", bolted, wired)

    def states(fault: Fault) -> dict[str, str]:
        solved = operating_point(job, RUN._replace(faults=frozenset([fault])))
        return {code: solved.load[code].state for code in ("D3", "D4")}

    assert states(Fault("open", "E1")) == {"D3": "alive", "D4": "dead"}
    # The battery's own strap is at E2: without it nothing comes back.
    assert states(Fault("open", "E2")) == {"D3": "dead", "D4": "dead"}
    sound = operating_point(job, RUN).load["D4"].volts
    bad = operating_point(job, RUN._replace(faults=frozenset([Fault("bad", "E1", ohm=1.0)])))
    # One ohm in a circuit of 6 ohms takes a seventh of the voltage.
    assert bad.load["D4"].volts == pytest.approx(sound * 6 / 7, rel=0.02)
    assert bad.load["D3"].volts == pytest.approx(sound, rel=0.02)


# What key, engine and isolator make together.


@pytest.mark.parametrize("isolated", [False, True])
@pytest.mark.parametrize("engine", ["standing", "first seconds", "running"])
@pytest.mark.parametrize("key", KEYS)
def test_key_engine_and_isolator_make_one_state(key: str, engine: Any, isolated: bool) -> None:
    state = turned_to(key, engine, isolated=isolated)
    assert state.key == key
    assert state.isolated == isolated
    cranks = key == "crank"
    assert state.shortly == cranks, "only cranking is short"
    assert state.running == (engine == "running" and not cranks)
    assert state.turning == (state.running or cranks)
    assert state.first == (engine == "first seconds" and key == "run")
    if state.running and (key != "run" or isolated):
        assert state.was_running, "what is held goes on"
    named = NAMED.get(state.name)
    assert named in (None, state), "a name stands for one state"


def test_every_named_state_can_be_turned_to() -> None:
    made = {
        turned_to(key, engine, isolated=isolated)
        for key in KEYS
        for engine in get_args(Engine)
        for isolated in (False, True)
    }
    assert set(STATES) <= made


def test_conditions_hold_for_any_state_and_forget_switches_that_are_gone() -> None:
    switch = Device("D5", "Fog lamps", "switch", ("in", "out"), (("in", "out"),))
    job = Job("x", devices=(switch,))
    set_so = Conditions(
        (("D9", "off"), ("D5", "off")), "half", -5.0, 900.0, frozenset([Fault("open", "W1")])
    )
    for state in STATES:
        under = set_so.on(state, job)
        assert under.switches == (("D5", "off"),)
        assert (under.battery, under.temperature_c, under.rpm) == ("half", -5.0, 900.0)
        assert under.faults == {Fault("open", "W1")}
        assert Conditions().on(under, job) == state, "and nothing else was changed"


def test_a_bad_contact_is_of_its_own_wiring_alone() -> None:
    """Contacts are made once for all wirings of a network; a bad one is not among them."""
    relay = Device("K1", "relay", "relay", ("30", "87", "85", "86"), (("30", "87"),))
    network = Network(Job("x", devices=(relay,)))
    bad = RUN._replace(faults=frozenset({Fault("bad", "K1", ohm=2.0)}))

    def contact_ohm(state: State) -> float:
        (link,) = circuit_graph(network, state).switched(state, frozenset({"K1"}), ())
        return link.ohm

    plain = contact_ohm(RUN)
    assert contact_ohm(bad) == pytest.approx(plain + 2.0)
    assert contact_ohm(RUN) == plain


def test_a_switch_is_off_where_its_position_says_so(demo: Job) -> None:
    """Typed "on; off", the first position is no off: its lamp drew, and was not counted."""
    for names in (("on", "off"), ("off", "on"), ("Ein", "Aus")):
        positions = tuple(
            Position(name, (("30", "53"),) if name.lower() in ("on", "ein") else ())
            for name in names
        )
        job = edits.change_part(demo, "D36", positions=positions)
        assert dict(parked(job).switches)["D36"].lower() in ("off", "aus")


def test_how_long_the_battery_lasts_by_hand(demo: Job) -> None:
    """30 Ah of 60 at 0.073 A: 411 h, 17 days; of a typed 100 Ah at 5 A: 10 h."""
    assert "half flat after about 17 days" in lasts(demo, 0.073)
    assert "no capacity is typed at D1" in lasts(demo, 0.073)
    typed = edits.change_part(demo, "D1", values=(("Ah", 100.0),))
    assert lasts(typed, 5.0) == "A 100 Ah battery is half flat after about 10 h."
    assert lasts(demo, 0.0) == ""
    assert lasts(Job("x"), 1.0) == ""


def test_a_computer_sleeps_after_its_time_and_one_that_never_does_is_told(demo: Job) -> None:
    off = drain(Analysis(demo).operating_point(parked(demo)))
    names = {code: (name, amps) for code, name, amps in off.items}
    assert names["D11"][0].endswith("(asleep after 10 min)")
    assert names["D11"][1] == pytest.approx(0.01, rel=0.1), "what it draws asleep, and not awake"
    assert "sleep" not in names["D10"][0], "a blower does not sleep"
    computer = next(device for device in demo.devices if device.code == "D11")
    never = edits.change_part(demo, "D11", values=(*computer.values, ("sleeps min", 0.0)))
    awake = {
        code: (name, amps)
        for code, name, amps in drain(Analysis(never).operating_point(parked(never))).items
    }
    assert awake["D11"][0].endswith("(never sleeps)")
    assert awake["D11"][1] == pytest.approx(0.31, abs=0.01)
    just_off = Analysis(demo).operating_point(parked(demo)._replace(rested=False))
    assert {code: amps for code, _, amps in drain(just_off).items}["D11"] == pytest.approx(
        awake["D11"][1], rel=0.01
    )
