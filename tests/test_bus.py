"""The bus of a job: its line and stubs, what a meter shows, where to tap, and what is wrong."""

import itertools
import json
import math
from itertools import pairwise

import pytest
from msgspec.structs import replace

from busjobs import bus_job
from molvik.analysis import Analysis
from molvik.blocks.arrangements import lay
from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.bus.beginning import Stop, begun, read_line
from molvik.circuits.bus.eye import WhatIf, between_m, eye, fastest
from molvik.circuits.bus.meter import in_words, reads
from molvik.circuits.bus.power import Fed, Power, power
from molvik.circuits.bus.taps import tapped, taps
from molvik.circuits.bus.topology import Bus, buses
from molvik.circuits.simulate import OperatingPoint
from molvik.cli import main
from molvik.devices.states import RUN, Fault
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.findings.kinds import KINDS
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End, Grid, Pin, Wire
from molvik.netlist.network import Network
from molvik.reference.bus import limits_at

PLUG = Connector("C1", "Empty plug", Grid(1, 2))


def only(job: Job) -> Bus:
    (bus,) = buses(Network(job))
    return bus


def found(job: Job, rule: str = "network-") -> dict[str, Finding]:
    return {one.rule: one for one in find_all(Analysis(job)) if one.rule.startswith(rule)}


def usual() -> Job:
    """Return a sound bus: two modules at its ends, one between them, one on a short stub."""
    return bus_job(
        ("D1", "S1", 4.0), ("S1", "D2", 2.0), ("S1", "D3", 0.5), ends=("D1", "D2"), splices=("S1",)
    )


# the line


def test_the_line_runs_from_terminator_to_terminator_with_stubs_off_it() -> None:
    bus = only(usual())
    assert bus.trunk == ("D1", "S1", "D2")
    assert bus.along_m == {"D1": 0.0, "S1": 4.0, "D2": 6.0}
    assert bus.stubs == {"D3": ("S1", 0.5)}
    assert bus.length_m == 6.0
    assert [one.code for one in bus.terminators] == ["D1", "D2"]
    assert between_m(bus, "D3", "D1") == pytest.approx(4.5)
    assert between_m(bus, "D3", "D2") == pytest.approx(2.5)
    assert between_m(bus, "D1", "D2") == pytest.approx(6.0)


def test_without_two_terminators_it_runs_between_those_farthest_apart() -> None:
    job = bus_job(("D1", "D2", 1.0), ("D2", "D3", 7.0), ("D2", "D4", 3.0), ends=("D2",))
    bus = only(job)
    assert bus.trunk == ("D4", "D2", "D3") or bus.trunk == ("D3", "D2", "D4")
    assert bus.length_m == 10.0
    assert bus.stubs == {"D1": ("D2", 1.0)}


def test_it_goes_through_plugs_that_are_together() -> None:
    plugs = (
        Connector("C1", "Bulkhead", Grid(1, 2), plugs_into="C2"),
        Connector("C2", "Bulkhead, far side", Grid(1, 2)),
    )
    job = bus_job(("D1", "C1", 2.0), ("C2", "D2", 3.0), ends=("D1", "D2"), plugs=plugs)
    bus = only(job)
    assert bus.length_m == 5.0
    assert reads(bus, "D1").ohm == pytest.approx(60, rel=0.01)
    assert reads(bus, "D1", ("C1",)).ohm == pytest.approx(120, rel=0.01)
    assert reads(bus, "C2", ("C1",)).ohm == pytest.approx(120, rel=0.01)


def test_a_resistor_between_the_wires_is_a_terminator_and_a_pinout_a_module() -> None:
    pins = (Pin("1", "CAN-High"), Pin("2", "CAN-L"))
    computer = Connector("C1", "Engine computer", Grid(1, 2), pins=pins)
    job = bus_job(("D1", "C1", 2.0), ends=("D1",), plugs=(computer,))
    resistor = Device("D9", "End of line", "resistor", ("+", "-"), values=(("ohm", 120.0),))
    wires = (
        Wire("W90", End("C1", "1"), End("D9", "+"), length_m=0.1, lay_length_mm=25),
        Wire("W91", End("C1", "2"), End("D9", "-"), length_m=0.1, lay_length_mm=25),
    )
    job = replace(job, devices=(*job.devices, resistor), wires=(*job.wires, *wires))
    bus = only(job)
    assert {one.code: one.sort for one in bus.members} == {
        "C1": "by its wires",
        "D1": "module",
        "D9": "terminator",
    }
    assert [one.code for one in bus.terminators] == ["D1", "D9"]
    assert found(job) == {}


@pytest.mark.parametrize(
    ("high", "low"),
    [
        ("CAN High (Antrieb)", "CAN Low (Antrieb)"),
        ("Datenbus high", "Datenbus low"),
        ("CAN haut", "CAN bas"),
        ("Data link (+)", "Data link (-)"),
        ("J1939 +", "J1939 -"),
    ],
)
def test_a_pinout_in_other_words_makes_a_bus_as_well(high: str, low: str) -> None:
    """The names are from memory: as pinouts say it."""
    plug = Connector("C1", "Computer", Grid(1, 2), pins=(Pin("1", high), Pin("2", low)))
    other = Connector("C2", "Cluster", Grid(1, 2), pins=(Pin("1", high), Pin("2", low)))
    bus = only(bus_job(("C1", "C2", 2.0), plugs=(plug, other)))
    assert [one.code for one in bus.talkers] == ["C1", "C2"]


def test_a_computer_with_the_two_wires_but_no_pinout_is_on_the_bus_and_not_an_empty_plug() -> None:
    job = bus_job(("C1", "D1", 3.0), ("D1", "D2", 5.0), ends=("D2",), plugs=(PLUG,))
    computer = Device("D9", "Engine computer", "controller", ("1", "2"), plug="C1")
    job = replace(job, devices=(*job.devices, computer))
    bus = only(job)
    assert {one.code: one.sort for one in bus.members}["D9"] == "by its wires"
    assert "empty" not in found(job)["network-terminators"].remedy
    assert next(one for one in taps(job, bus) if one.at == "C1").way == "spliced"


def test_a_length_that_follows_from_the_loom_counts_and_one_that_nobody_knows_is_said() -> None:
    job = bus_job(("D1", "D2", None), ends=("D1", "D2"))
    assert only(job).unknown == ("W1",)
    (bus,) = buses(Network(job), {"W1": 45.0})
    assert bus.unknown == ()
    assert bus.length_m == 45.0


def test_two_buses_of_a_job_are_two() -> None:
    one = bus_job(("D1", "D2", 1.0), ends=("D1", "D2"))
    two = bus_job(("D3", "D4", 1.0), ends=("D3", "D4"))
    moved = tuple(replace(wire, code=f"W{n}") for n, wire in enumerate(two.wires, 10))
    job = replace(one, devices=one.devices + two.devices, wires=one.wires + moved)
    assert [bus.key for bus in buses(Network(job))] == ["D1", "D3"]


def test_jobs_without_a_bus_or_without_its_wires_have_none() -> None:
    assert buses(Network(Job(id="x", title="x"))) == ()
    alone = Device("D1", "Module", "network node", ("high", "low"))
    assert buses(Network(Job(id="x", title="x", devices=(alone,)))) == ()


# the meter


def by_solution(job: Job, at: End, other: End, out: tuple[str, ...]) -> float:
    """Return the ohms between two places by the solution of the whole network: a battery behind a
    resistor of 1000 ohms at them, what is unplugged off.
    """
    devices = (
        Device("D90", "Test battery", "battery", ("+", "-")),
        Device("D91", "Test resistor", "resistor", ("+", "-"), values=(("ohm", 1000.0),)),
    )
    wires = (
        Wire("W80", End("D90", "+"), End("D91", "+"), length_m=0.01),
        Wire("W81", End("D91", "-"), at, length_m=0.01),
        Wire("W82", End("D90", "-"), other, length_m=0.01),
    )
    whole = replace(job, devices=(*job.devices, *devices), wires=(*job.wires, *wires))
    state = RUN._replace(faults=frozenset(Fault("open", code) for code in out))
    point = OperatingPoint(Network(whole), state)
    volts = point.solution.volts[str(at)] - point.solution.volts[str(other)]
    amps = abs(point.wire_amps["W81"])
    return volts / amps if amps > 1e-7 else math.inf


def test_the_meter_agrees_with_the_network_solution_with_any_two_unplugged() -> None:
    jobs = (
        usual(),
        bus_job(("D1", "D2", 3.0), ("D2", "D3", 1.0), ("D3", "D4", 5.0), ends=("D1", "D4")),
        bus_job(("D1", "D2", 3.0), ("D2", "D3", 1.0), ends=("D1", "D2", "D3")),
        bus_job(("D1", "D2", 3.0), ("D2", "D3", 1.0), ends=("D2",)),
    )
    tried = 0
    for job in jobs:
        bus = only(job)
        codes = [one.code for one in bus.members]
        outs = [(), *((one,) for one in codes), *itertools.combinations(codes, 2)]
        for out in outs:
            for member in bus.members:
                shown = reads(bus, member.at, out).ohm
                wanted = by_solution(job, member.high, member.low, out)
                if shown == math.inf:
                    assert wanted > 1e6, (out, member.code)
                else:
                    assert shown == pytest.approx(wanted, rel=0.02), (out, member.code)
                tried += 1
    assert tried > 100


@pytest.mark.parametrize(
    ("ohm", "words"),
    [
        (math.inf, "Open"),
        (30_000.0, "No terminator"),
        (121.0, "One terminator"),
        (60.3, "Two terminators, as it should be"),
        (40.0, "Three terminators"),
        (30.0, "Four terminators"),
        (0.4, "The two wires touch"),
        (75.0, "No number of terminators"),
    ],
)
def test_ohms_are_told_for_what_they_mean(ohm: float, words: str) -> None:
    """60, 120, 40 ohms: common practice, from the 120 ohms of ISO 11898-2."""
    assert words in in_words(ohm)


def test_at_rest_both_wires_have_half_of_five_volts_while_a_module_is_plugged_in() -> None:
    """ISO 11898-2: 2.5 V."""
    job = usual()
    shown = reads(only(job), "S1")
    assert (shown.high_v, shown.low_v) == (2.5, 2.5)
    dead = reads(only(job), "S1", ("D1", "D2", "D3"))
    assert (dead.high_v, dead.ohm) == (None, math.inf)


# what modules see


def test_a_sound_bus_is_read_by_all_and_one_without_terminators_is_not() -> None:
    bus = only(usual())
    for one in bus.talkers:
        assert eye(bus, one.code, 250).works
    bare = only(bus_job(("D1", "D2", 8.0), ("D2", "D3", 8.0)))
    assert not eye(bare, "D1", 1000).works
    best, worse = fastest(bus), fastest(bare)
    assert best is not None
    assert worse is None or worse.kbit_s < best.kbit_s


def test_what_if_a_terminator_is_out_or_one_too_many_or_a_stub_longer() -> None:
    bus = only(bus_job(("D1", "D2", 20.0), ("D2", "D3", 10.0), ends=("D1", "D3")))
    level = {
        what: eye(bus, "D2", 500, what_if).sees[0].dominant_v
        for what, what_if in (
            ("one", WhatIf(out=frozenset({"D3"}))),
            ("two", WhatIf()),
            ("three", WhatIf(ends=("D2",))),
        )
    }
    # By hand: 2.8 V behind 24 ohms into 120, 60 and 40 ohms.
    assert level["one"] == pytest.approx(2.8 * 120 / 144, abs=0.03)
    assert level["three"] == pytest.approx(2.8 * 40 / 64, abs=0.03)
    assert level["two"] == pytest.approx(2.0, abs=0.03)
    long = eye(bus, "D1", 1000, WhatIf(longer_m=(("D2", 15.0),)))
    assert long.free_v < eye(bus, "D1", 1000).free_v


def test_a_module_with_its_wires_crossed_sees_no_bit() -> None:
    bus = only(bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ends=("D1", "D3"), crossed=("D2",)))
    seen = {one.member.code: one for one in eye(bus, "D1", 250).sees}
    assert seen["D2"].dominant_v is None
    assert not seen["D2"].reads_right
    assert seen["D3"].reads_right


def test_a_bus_so_long_that_no_answer_comes_in_time_does_not_work() -> None:
    """By hand: 2 x (150 m x 5 ns + 150 ns) = 1800 ns; 80 % of a bit at 500 kbit/s are 1600 ns."""
    bus = only(bus_job(("D1", "D2", 150.0), ends=("D1", "D2")))
    assert not eye(bus, "D1", 500).in_time
    assert eye(bus, "D1", 250).in_time


@pytest.mark.parametrize("rate", [0.0, -5.0])
def test_a_rate_that_is_none_and_a_sender_that_does_not_talk_are_refused(rate: float) -> None:
    bus = only(usual())
    with pytest.raises(ValueError, match="above zero"):
        eye(bus, "D1", rate)
    with pytest.raises(ValueError, match="does not talk"):
        eye(bus, "S1", 250)
    with pytest.raises(ValueError, match="does not talk"):
        eye(bus, "D1", 250, WhatIf(out=frozenset({"D1"})))


# findings


def test_a_sound_bus_has_no_finding() -> None:
    assert found(usual()) == {}


def test_a_terminator_left_off_is_told_with_where_it_belongs() -> None:
    job = bus_job(("C1", "D1", 3.0), ("D1", "D2", 5.0), ends=("D2",), plugs=(PLUG,))
    told = found(job)
    assert set(told) == {"network-terminators"}
    one = told["network-terminators"]
    assert one.severity == "stop"
    assert "1 terminator" in one.what
    assert "a meter shows 120 Ω; 60 Ω are right" in one.why
    assert "C1 looks empty, at the end of a wire" in one.remedy
    none = found(bus_job(("D1", "D2", 5.0)))["network-terminators"]
    assert "0 terminators" in none.what
    assert "D1, D2" in none.remedy


def test_three_terminators_are_to_check_and_four_to_fix() -> None:
    three = found(bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ends=("D1", "D2", "D3")))
    assert three["network-terminators"].severity == "look"
    assert "40 Ω" in three["network-terminators"].why
    ends = ("D1", "D2", "D3", "D4")
    four = found(bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ("D3", "D4", 2.0), ends=ends))
    assert four["network-terminators"].severity == "stop"
    assert "30 Ω" in four["network-terminators"].why


def test_a_line_that_goes_on_beyond_its_terminator_is_told() -> None:
    told = found(bus_job(("D1", "D2", 5.0), ("D2", "D3", 6.0), ends=("D1", "D2")))
    assert set(told) == {"network-terminator-inside"}
    assert "6 m beyond a terminator, to Module 3 (D3)" in told["network-terminator-inside"].what
    assert found(bus_job(("D1", "D2", 5.0), ("D2", "D3", 0.5), ends=("D1", "D2"))) == {}


@pytest.mark.parametrize(
    ("stub", "rate", "long"),
    [(0.2, 1000, False), (0.4, 1000, True), (2.9, 250, False), (3.1, 250, True)],
)
def test_a_stub_is_judged_by_the_bit_rate(stub: float, rate: float, long: bool) -> None:
    """ISO 11898-2: 0.3 m at 1 Mbit/s; SAE J1939-15: 3 m at 250 kbit/s. From memory."""
    job = bus_job(
        ("D1", "S1", 3.0),
        ("S1", "D2", 3.0),
        ("S1", "D3", stub),
        ends=("D1", "D2"),
        splices=("S1",),
        kbit={"D1": rate},
    )
    told = found(job)
    assert set(told) == ({"network-stub"} if long else set())
    if long:
        assert told["network-stub"].subject == "D3"
        assert f"{stub:g} m" in told["network-stub"].what


@pytest.mark.parametrize(
    ("metres", "rate", "long"),
    [(39, 250, False), (41, 250, True), (99, 500, False), (101, 500, True), (41, 1000, True)],
)
def test_a_line_is_judged_by_the_bit_rate(metres: float, rate: float, long: bool) -> None:
    """SAE J1939: 40 m at 250 kbit/s; about 100 m at 500, 40 m at 1000. From memory."""
    told = found(bus_job(("D1", "D2", metres), ends=("D1", "D2"), kbit={"D1": rate}))
    assert set(told) == ({"network-too-long"} if long else set())


def test_more_modules_than_j1939_allows_are_told() -> None:
    """SAE J1939-15: ten; J1939-11, with a screen: thirty. From memory."""
    assert limits_at(250, screened=False).nodes == 10
    assert limits_at(250, screened=True).nodes == 30
    links = tuple((f"D{n}", f"D{n + 1}", 1.0) for n in range(1, 11))
    assert set(found(bus_job(*links, ends=("D1", "D11")))) == {"network-nodes"}
    assert found(bus_job(*links[:9], ends=("D1", "D10"))) == {}


def test_crossed_wires_one_wire_and_two_wires_that_are_one_are_told() -> None:
    job = bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ends=("D1", "D3"), crossed=("D2",))
    assert set(found(job)) == {"network-crossed"}
    assert found(job)["network-crossed"].subject == "D2"
    sound = bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ends=("D1", "D2"))
    broken = edits.remove_wires(sound, frozenset({"W4"}))
    told = found(broken)
    assert told["network-one-wire"].subject == "D3"
    assert "With one wire it hears nothing" in told["network-one-wire"].why
    shorted = replace(
        sound, wires=(*sound.wires, Wire("W70", End("D2", "high"), End("D2", "low"), length_m=0.1))
    )
    assert "the bus is shorted there" in found(shorted)["network-one-wire"].why


def test_a_ring_untwisted_wires_and_different_rates_are_told() -> None:
    ring = bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ("D3", "D1", 2.0), ends=("D1", "D3"))
    assert set(found(ring)) == {"network-ring"}
    loose = bus_job(("D1", "D2", 2.0), ends=("D1", "D2"), twisted=False)
    assert set(found(loose)) == {"network-untwisted"}
    short = bus_job(("D1", "D2", 0.1), ends=("D1", "D2"), twisted=False)
    assert found(short) == {}
    rates = bus_job(("D1", "D2", 2.0), ends=("D1", "D2"), kbit={"D1": 500, "D2": 250})
    assert set(found(rates)) == {"network-rates"}
    assert "Module 2 at 250, Module 1 at 500" in found(rates)["network-rates"].what


@pytest.mark.parametrize(
    ("ohms", "told"),
    [
        ({"D1": 60.0}, {"network-terminators", "network-terminator-odd"}),
        ({"D1": 60.0, "D2": 60.0}, {"network-terminator-odd"}),
        ({"D1": 110.0, "D2": 125.0}, set()),
    ],
)
def test_a_terminator_of_another_value_is_told(ohms: dict[str, float], told: set[str]) -> None:
    """One of 60 ohms shows on a meter as two would, and ends neither end (ISO 11898-2: 120)."""
    job = bus_job(("D1", "D2", 5.0))
    devices = tuple(
        replace(device, values=(("ohm", ohms[device.code]),)) if device.code in ohms else device
        for device in job.devices
    )
    assert set(found(replace(job, devices=devices))) == told


def test_two_modules_that_do_not_agree_which_wire_is_high_are_told_and_neither_is_blamed() -> None:
    told = found(bus_job(("D1", "D2", 2.0), ends=("D1", "D2"), crossed=("D2",)))
    assert set(told) == {"network-crossed"}
    assert "do not agree which wire of the bus is high" in told["network-crossed"].what
    assert "Module 1 (D1)" in told["network-crossed"].what
    assert "Module 2 (D2)" in told["network-crossed"].what


def test_one_module_alone_is_a_note() -> None:
    job = bus_job(("D1", "C1", 2.0), plugs=(PLUG,))
    assert {one.rule: one.severity for one in found(job).values()} == {"network-alone": "note"}


def test_each_finding_says_what_happens() -> None:
    told = found(bus_job(("D1", "D2", 30.0), ("D2", "D3", 9.0), ends=("D2",)))
    assert "Simulated at 250 kbit/s" in told["network-terminators"].why
    assert {kind for kind in KINDS if kind.startswith("network-")} >= set(told)


# a new module


def test_places_for_a_new_module_are_ranked_by_what_they_do_to_the_line() -> None:
    job = usual()
    plug = Device("D8", "Plug for codes", "diagnostic plug", ("16", "4", "5", "6", "14"))
    wires = (
        Wire("W60", End("S1", ""), End("D8", "6"), length_m=0.4, lay_length_mm=25),
        Wire("W61", End("S19", ""), End("D8", "14"), length_m=0.4, lay_length_mm=25),
    )
    job = replace(job, devices=(*job.devices, plug), wires=(*job.wires, *wires))
    ranked = taps(job, only(job), 0.3)
    at = [one.at for one in ranked]
    assert at[0] == "S1"
    assert at[-1] == "D8"
    of = {one.at: one for one in ranked}
    assert of["S1"].against == ()
    assert of["S1"].stub_m == pytest.approx(0.3)
    assert of["D3"].stub_m == pytest.approx(0.8)
    assert "this plug stays free for reading codes" in of["D8"].against
    assert of["D1"].at_end
    assert of["D1"].moves == "D1"
    far = {one.at: one for one in taps(job, only(job), 3.5)}
    assert any("its stub would be 3.5 m" in text for text in far["S1"].against)


def test_at_a_module_with_its_wires_crossed_a_new_one_is_wired_the_right_way_round() -> None:
    job = bus_job(("D1", "D2", 2.0), ("D2", "D3", 2.0), ends=("D1", "D3"), crossed=("D2",))
    bus = only(job)
    crossed = next(one for one in bus.members if one.code == "D2")
    assert (crossed.high, crossed.low) == (End("D2", "low"), End("D2", "high"))
    tap = next(one for one in taps(job, bus) if one.at == "D2")
    made = only(tapped(job, bus, tap, "Boost gauge"))
    new = next(one for one in made.members if one.name == "Boost gauge")
    assert not new.crossed
    assert not new.half


@pytest.mark.parametrize("place", ["S1", "D1", "D2", "D3"])
def test_a_tap_is_one_edit_that_leaves_two_terminators_at_the_ends(place: str) -> None:
    job = usual()
    bus = only(job)
    tap = next(one for one in taps(job, bus, 0.3) if one.at == place)
    made = tapped(job, bus, tap, "Boost gauge", 0.3)
    after = only(made)
    assert len(after.members) == 4
    assert len(after.terminators) == 2
    assert len(made.wires) == len(job.wires) + 2
    new = next(one for one in after.members if one.name == "Boost gauge")
    assert not new.crossed
    assert not new.half
    assert (new.at in after.trunk) == tap.at_end
    assert {
        one.rule for one in find_all(Analysis(made)) if one.rule.startswith("network-")
    } == set()


def test_at_an_end_that_has_no_terminator_the_new_module_has_one() -> None:
    job = bus_job(("C1", "D1", 3.0), ("D1", "D2", 5.0), ends=("D2",), plugs=(PLUG,))
    bus = only(job)
    assert {bus.trunk[0], bus.trunk[-1]} == {"C1", "D2"}
    tap = next(one for one in taps(job, bus) if one.at == "C1")
    assert tap.at_end
    assert "a terminator of its own: this end has none" in tap.needs
    assert found(tapped(job, bus, tap, "Boost gauge")) == {}


def with_plug(job: Job, code: str, plug: str) -> Job:
    """Return the job with the wires of a module at a plug of its own."""
    grid = Connector(plug, "Its plug", Grid(1, 2))
    cavity = {"high": "1", "low": "2"}
    wires = tuple(
        replace(
            wire,
            **{
                side: End(plug, cavity[end.cavity])
                for side, end in (("start", wire.start), ("finish", wire.finish))
                if end.at == code
            },
        )
        for wire in job.wires
    )
    devices = tuple(
        replace(one, plug=plug, terminals=("1", "2")) if one.code == code else one
        for one in job.devices
    )
    return replace(job, connectors=(*job.connectors, grid), devices=devices, wires=wires)


def test_beside_a_plug_a_new_module_is_spliced_in_for_a_cavity_takes_one_wire() -> None:
    job = with_plug(
        bus_job(
            ("D1", "S1", 4.0),
            ("S1", "D2", 2.0),
            ("S1", "D3", 0.5),
            ends=("D1", "D2"),
            splices=("S1",),
        ),
        "D3",
        "C7",
    )
    bus = only(job)
    at = next(one.at for one in bus.members if one.code == "D3")
    tap = next(one for one in taps(job, bus, 0.2) if one.at == at)
    assert tap.way == "spliced"
    assert "a splice in each of the two wires beside the plug" in tap.needs
    made = tapped(job, bus, tap, "Boost gauge", 0.2)
    assert len(made.splices) == len(job.splices) + 2
    ends = [end for wire in made.wires for end in wire.ends if end.at == "C7"]
    assert sorted(end.cavity for end in ends) == ["1", "2"]
    after = only(made)
    new = next(one for one in after.members if one.name == "Boost gauge")
    assert not new.crossed
    assert not new.half
    assert after.away_m(new.at) == pytest.approx(0.45 + 0.2)


def test_into_an_empty_plug_a_new_module_is_plugged_without_wires() -> None:
    job = bus_job(("C1", "D1", 3.0), ("D1", "D2", 5.0), ends=("D2",), plugs=(PLUG,))
    bus = only(job)
    tap = next(one for one in taps(job, bus) if one.at == "C1")
    assert tap.way == "plugged in"
    made = tapped(job, bus, tap, "Boost gauge")
    assert made.wires == job.wires
    after = only(made)
    new = next(one for one in after.members if one.name == "Boost gauge")
    assert (new.high.cavity, new.low.cavity) == ("1", "2")
    assert new.terminates


def test_a_tap_without_a_name_or_with_wires_of_no_length_is_refused() -> None:
    job = usual()
    bus = only(job)
    tap = taps(job, bus)[0]
    with pytest.raises(EditError, match="a name"):
        tapped(job, bus, tap, " ")
    with pytest.raises(EditError, match="10 mm to 40 m"):
        tapped(job, bus, tap, "X", 0.0)


# on the command line


def test_the_bus_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["bus", "--demo", "marten", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    (bus,) = answer["buses"]
    assert {one["code"] for one in bus["members"]} >= {"D31", "D32"}
    assert main(["bus", "--demo", "marten", "--unplugged", "D32"]) == 0
    assert "meter at D31" in capsys.readouterr().out
    for words, told in (
        (["--unplugged", "D99"], "is not on a bus"),
        (["--sender", "D99"], "does not talk"),
        (["--rate", "0"], "above zero"),
    ):
        assert main(["bus", "--demo", "marten", *words]) == 2
        assert told in capsys.readouterr().err


# begun from a line of words


def test_a_bus_is_begun_from_its_modules_in_order() -> None:
    stops = read_line("Engine computer 2.5 m, Cluster 800 mm, Gearbox 2 40 cm; Rear lamps")
    assert [(stop.name, stop.next_m) for stop in stops] == [
        ("Engine computer", 2.5),
        ("Cluster", 0.8),
        ("Gearbox 2", 0.4),
        ("Rear lamps", None),
    ]
    job = begun(Job(id="x", title="x"), stops[:3])
    bus = only(job)
    assert bus.length_m == pytest.approx(3.3)
    assert [one.name for one in bus.terminators] == ["Engine computer", "Gearbox 2"]
    assert found(job) == {}
    unknown = only(begun(Job(id="x", title="x"), (*stops[:1], replace_next(stops[1]), stops[3])))
    assert len(unknown.unknown) == 1
    for text in ("", "Alone", "Alone 2 m"):
        with pytest.raises(ValueError, match="two modules at least"):
            read_line(text)
    with pytest.raises(EditError, match="two modules"):
        begun(job, stops[:1])


def replace_next(stop: Stop) -> Stop:
    return stop._replace(next_m=None)


# What feeds its modules.


def powered(*, earthed: bool = True) -> Job:
    """Return a bus of three: one fed always, one by the key, one known by its bus alone."""
    layer = CircuitBuilder(lay(Job("x"), "Starter"))
    fuse = layer.fuse("Cluster", 5)
    layer.feed(fuse)
    made = [
        layer.device(name, "network node", terminals, values=(("ohm", ohm),))
        for name, terminals, ohm in (
            ("Cluster", ("high", "low", "30", "31"), 120.0),
            ("Lever", ("high", "low", "15", "31"), 30_000.0),
            ("Cap", ("high", "low"), 120.0),
        )
    ]
    layer.wire(f"{fuse}/out", f"{made[0]}/30", "Cluster supply", "RD", 0.5)
    layer.wire(layer.key(), f"{made[1]}/15", "Lever supply", "BK/RD", 0.5)
    for one in made[: 2 if earthed else 1]:
        layer.wire(f"{one}/31", layer.earth(), "Module earth", "BK", 0.5)
    for a, b in pairwise(made):
        for line in ("high", "low"):
            layer.wire(f"{a}/{line}", f"{b}/{line}", f"Network {line}", "GN", 0.01, 1.0, "sensor")
    return layer.finished()


def fed_of(job: Job) -> dict[str, Power]:
    analysis = Analysis(job)
    (bus,) = analysis.buses
    return {one.name: one for one in power(analysis.network, bus)}


def test_each_module_is_told_what_feeds_it_and_when() -> None:
    job = powered()
    fed = fed_of(job)
    cluster, lever, cap = fed["Cluster"], fed["Lever"], fed["Cap"]
    fuse = next(one.code for one in job.fuses if one.name == "Cluster")
    assert cluster.fed == (Fed("30", fuse, always=True),)
    key = next(one.code for one in job.fuses if one.name == "Key switch")
    assert lever.fed == (Fed("15", key, always=False),)
    assert cluster.earths == lever.earths == ("31",)
    assert cluster.is_fed
    assert not cap.known
    assert cap.says == "its supply is not in the job"


def test_a_module_without_an_earth_or_a_supply_is_told() -> None:
    lever = fed_of(powered(earthed=False))["Lever"]
    assert "no earth" in lever.says
    assert not lever.is_fed
    job = powered()
    feed = next(wire for wire in job.wires if wire.function == "Lever supply")
    cut = fed_of(edits.remove_wires(job, frozenset([feed.code])))["Lever"]
    assert "no supply in run" in cut.says
    # Earthed through a heater only: at no volts, and no earth.
    earth = next(wire for wire in job.wires if End(fed_of(job)["Lever"].code, "31") in wire.ends)
    layer = CircuitBuilder(job)
    heater = layer.device("Heater", "heater", ("+", "-"), values=(("A", 5.0),))
    layer.wire(f"{heater}/-", layer.earth(), "Heater earth", "BK", 5)
    far = "finish" if earth.start.cavity == "31" else "start"
    job2 = edits.change_wire(layer.finished(), earth.code, **{far: End(heater, "+")})
    assert "no earth" in fed_of(job2)["Lever"].says
    assert not power(Analysis(Job("x")).network, Analysis(job).buses[0])
