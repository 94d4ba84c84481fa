"""Plus at metal, batteries in series, and relays that lock one another."""

from functools import cache

import pytest
from msgspec.structs import replace

from molvik.analysis import Analysis
from molvik.blocks.arrangements import BLOCKS, lay
from molvik.blocks.templates import TEMPLATES
from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import RUN, STATES
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.model.edits import EditError
from molvik.model.job import Job, Settings
from molvik.model.parts import Device, EarthPoint, End, Fuse, Output, Wire, WireSize
from molvik.netlist.network import Network
from molvik.proving.readings import seen_of_text
from molvik.sizes.short import far_short

RELAY = ("30", "87", "86", "85")


def end(text: str) -> End:
    at, _, cavity = text.partition("/")
    return End(at, cavity)


def job_of(wires: str, *devices: Device, fuses: tuple[Fuse, ...] = (), **settings: object) -> Job:
    """Return a job of wires "D1/+ F1/in 2.5, ...", 1 m each, of these sizes in mm2."""
    made = []
    for number, one in enumerate(wires.split(","), start=1):
        start, finish, size = one.split()
        made.append(
            Wire(
                f"W{number}",
                end(start),
                end(finish),
                length_m=1.0,
                insulation="C125",
                size=WireSize("metric", float(size)),
            )
        )
    return Job(
        "x",
        devices=devices,
        fuses=fuses,
        wires=tuple(made),
        earths=(EarthPoint("E1", "Frame"), EarthPoint("E2", "Engine")),
        settings=replace(Settings(), **settings),
    )


def rules(job: Job) -> dict[str, Finding]:
    return {one.rule: one for one in find_all(Analysis(job))}


BATTERY = Device("D1", "Battery", "battery", ("+", "-"))
SIX = "D1/- F1/in 6, F1/out D2/in 2.5, D2/out D3/+ 1.5, D3/- E1 1.5, D1/+ E1 25"
SWITCH, LAMP = (
    Device("D2", "Light switch", "switch", ("in", "out"), joins=(("in", "out"),)),
    (Device("D3", "Headlamp", "lamp", ("+", "-"))),
)
FUSE = (Fuse("F1", "Lamps", 20),)


def restoration(earthed: str, more: str = "", *devices: Device) -> Job:
    return job_of(
        SIX + more, BATTERY, SWITCH, LAMP, *devices, fuses=FUSE, system_v=6.0, earthed=earthed
    )


# plus at metal


def test_a_restoration_with_plus_at_metal_is_not_accused_of_a_short() -> None:
    accused = rules(restoration("minus"))["earth-meets-supply"]
    assert "If plus is at metal in this vehicle, say so" in accused.remedy
    found = rules(restoration("plus"))
    assert not {"earth-meets-supply", "returns-through", "no-fuse", "fuse-too-large"} & set(found)
    job = restoration("plus")
    point = OperatingPoint(Network(job), RUN)
    assert point.load["D3"].state == "alive"
    assert 6.0 < point.load["D3"].volts < 6.3


def test_its_hazards_are_told() -> None:
    """The unfused side is minus there: 1 mm2 from it to a heater has no fuse before it."""
    heater = Device("D4", "Heater", "load", ("a", "b"))
    job = restoration("plus", ", D1/- D4/a 1, D4/b E2 1", heater)
    assert job.wires[5].code == next(
        one.subject for one in find_all(Analysis(job)) if one.rule == "no-fuse"
    )
    thin = restoration("plus", ", F1/out D4/a 0.35, D4/b E2 0.35", heater)
    assert rules(thin)["fuse-too-large"].subject == "W6"
    network = Network(thin)
    assert network.feed(thin.wires[4]) is None, "the earth strap is fed by nothing"
    short = far_short(network, thin.wires[5], Analysis(thin).electrics.sizing_cases["W6"])
    assert short is not None
    assert 50 < short.amps < 6.3 / 0.05


def test_the_wrong_pole_for_the_settings_is_told_either_way() -> None:
    swapped = replace(restoration("plus"), settings=Settings(system_v=6.0))
    usual = job_of(
        SIX.replace("D1/-", "D1/x").replace("D1/+", "D1/-").replace("D1/x", "D1/+"),
        BATTERY,
        SWITCH,
        LAMP,
        fuses=FUSE,
        system_v=6.0,
        earthed="plus",
    )
    for job, pole in ((swapped, "plus"), (usual, "minus")):
        assert f"If {pole} is at metal" in rules(job)["earth-meets-supply"].remedy


def test_a_relay_with_a_diode_is_a_short_with_plus_at_metal() -> None:
    relay = Device("D5", "Horn relay", "relay", RELAY, suppression="diode")
    more = ", D2/out D5/86 1, D5/85 E2 1, F1/out D5/30 1"
    found = rules(restoration("plus", more, relay))["diode-reversed"]
    assert "earthed side" in found.remedy
    plain = replace(relay, suppression="resistor")
    assert "diode-reversed" not in rules(restoration("plus", more, plain))
    turned = more.replace("D5/86", "D5/x").replace("D5/85", "D5/86").replace("D5/x", "D5/85")
    assert "diode-reversed" not in rules(restoration("plus", turned, relay))


def test_lamps_have_no_poles_and_electronics_have() -> None:
    led, computer = (
        Device("D6", "Tail lamp", "LED", ("+", "-")),
        Device(
            "D7",
            "Ignition box",
            "controller",
            ("30", "31"),
            supplies=("30",),
            earths=("31",),
            outputs=(Output("1", "pulls low", "powered"),),
        ),
    )
    wrong = restoration(
        "plus", ", D2/out D6/+ 1, D6/- E2 1, D2/out D7/30 1, D7/31 E2 1", led, computer
    )
    right = restoration(
        "plus", ", D2/out D6/- 1, D6/+ E2 1, D2/out D7/31 1, D7/30 E2 1", led, computer
    )
    for job, state in ((wrong, "dead"), (right, "alive")):
        point = OperatingPoint(Network(job), RUN)
        assert {point.load[code].state for code in ("D6", "D7")} == {state}
    for lamp in ("D2/out D3/+", "D3/- E1"):
        assert lamp in SIX
    other = SIX.replace("D3/+", "D3/x").replace("D3/-", "D3/+").replace("D3/x", "D3/-")
    job = job_of(other, BATTERY, SWITCH, LAMP, fuses=FUSE, system_v=6.0, earthed="plus")
    assert "returns-through" not in rules(job)
    assert rules(right)["made-for-minus"].severity == "look"


def turned_round(job: Job) -> Job:
    """Return a job built with its other pole at metal: batteries and diodes the other way."""
    turned = {d.code: d.terminals[:2] for d in job.devices if d.kind in ("battery", "diode", "LED")}

    def other(at: End) -> End:
        names = turned.get(at.at, ())
        if at.cavity not in names:
            return at
        return replace(at, cavity=names[1 - names.index(at.cavity)])

    wires = tuple(replace(w, start=other(w.start), finish=other(w.finish)) for w in job.wires)
    return replace(job, wires=wires, settings=replace(job.settings, earthed="plus"))


@cache  # made once: a circuit is laid until it passes its own check
def without_poles() -> dict[str, Job]:
    """Every job to begin from and every circuit, where nothing in it is an engine computer."""
    found = {template.title: template.make() for template in TEMPLATES.values()}
    for block in BLOCKS.values():
        if not block.alters:
            found[block.title] = lay(Job(""), block.title, {})
    return {
        title: job
        for title, job in found.items()
        if all(
            device.kind != "controller" and device.suppression != "diode" for device in job.devices
        )
    }


@pytest.mark.parametrize("title", sorted(without_poles()))
def test_a_vehicle_turned_round_works_burns_and_is_judged_alike(title: str) -> None:
    """Only the poles differ: every load, current, feed and finding must be the same."""
    job = without_poles()[title]
    turned = turned_round(job)
    network, other = Network(job), Network(turned)
    for state in STATES:
        one, two = OperatingPoint(network, state), OperatingPoint(other, state)
        assert {load.device: load.state for load in one.loads} == {
            load.device: load.state for load in two.loads
        }
        assert two.wire_amps == pytest.approx(one.wire_amps, abs=1e-6)
    for wire, same in zip(job.wires, turned.wires, strict=True):
        assert network.feed(wire) == other.feed(same)
    ours = {"made-for-minus"}
    told = sorted((f.rule, f.subject) for f in find_all(Analysis(job)))
    assert told == sorted(
        (f.rule, f.subject) for f in find_all(Analysis(turned)) if f.rule not in ours
    )


def test_what_a_diode_feeds_with_plus_at_metal_is_on_its_other_side() -> None:
    """Current comes out of its anode there, away from the live side: 0.35 mm2 behind it burns."""
    diode, lamp = (
        Device("D6", "Diode", "diode", ("A", "K")),
        Device("D8", "Lamp", "lamp", ("a", "b")),
    )
    more = ", F1/out D6/{} 1, D6/{} D8/a 0.35, D8/b E2 0.35"
    for ends, fed in ((("K", "A"), True), (("A", "K"), False)):
        job = restoration("plus", more.format(*ends), diode, lamp)
        assert (Network(job).feed(job.wires[6]) is not None) is fed


def test_another_pole_at_metal_leaves_nothing_standing_of_before() -> None:
    job = restoration("plus")
    other = replace(job, settings=replace(job.settings, earthed="minus"))
    before = Network(job)
    assert before.feeds
    assert before.batteries.live == "-"
    after = Network(other, before)
    assert after.batteries.live == "+"
    assert after.feeds == Network(other).feeds
    assert after.feeds != before.feeds


def test_circuits_are_laid_for_plus_at_metal() -> None:
    job = lay(Job("", settings=Settings(system_v=6.0, earthed="plus")), "Fused feed")
    point = OperatingPoint(Network(job), RUN)
    assert point.loads
    assert not [f for f in find_all(Analysis(job)) if f.severity == "stop"]
    battery = next(device for device in job.devices if device.kind == "battery")
    assert End(battery.code, "+") in {
        end
        for wire in job.wires
        for end in wire.ends
        if any(e.at.startswith("E") for e in wire.ends)
    }
    with pytest.raises(EditError, match="needs minus at metal"):
        lay(job, "Engine computer, main relay")


@pytest.mark.parametrize("typed", ["-6.2 V", "6.2 V"])
def test_a_voltage_read_against_plus_is_taken_by_its_size(typed: str) -> None:
    """Whichever lead was on plus, the meter's sign says only that."""
    seen = seen_of_text(Network(restoration("plus")), "D3/+", "", typed, "run")
    assert seen.shown == 6.2
    assert seen_of_text(Network(restoration("minus")), "D3/+", "", typed, "run").shown == float(
        typed.split()[0]
    )


# batteries in series


ROW = "D1/+ D2/- 50, D2/+ F1/in 6, F1/out D3/+ 2.5, D3/- E1 2.5, D1/- E1 50"


def row(volts: float = 24.0, more: str = "", *devices: Device, **of: float) -> Job:
    values = tuple((name.replace("_", " "), value) for name, value in of.items())
    two = replace(BATTERY, code="D2", name="Upper battery", values=values)
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"))
    return job_of(
        ROW + more, replace(BATTERY, values=values), two, lamp, *devices, fuses=FUSE, system_v=volts
    )


@pytest.mark.parametrize("earthed", ["minus", "plus"])
def test_two_of_twelve_volts_are_twenty_four(earthed: str) -> None:
    job = row() if earthed == "minus" else turned_round(row())
    point = OperatingPoint(Network(job), RUN)
    amps = point.load["D3"].amps
    assert 24.5 < point.load["D3"].volts < 25.2
    assert point.source_amps == pytest.approx(amps), "not once for each battery"
    found = rules(job)
    assert "earth-meets-supply" not in found, "minus of the upper one is no earth"
    assert "over-voltage" not in found
    assert found["batteries-in-series"].what.endswith("each is taken for one of 12 V.")


def test_their_link_bears_what_the_main_fuse_lets_through() -> None:
    thin = row()
    thin = replace(
        thin, wires=(replace(thin.wires[0], size=WireSize("metric", 0.75)), *thin.wires[1:])
    )
    told = {f.rule: f for f in find_all(Analysis(thin)) if f.subject == "W1"}
    assert told["fuse-too-large"].severity == "stop"
    assert "W1" not in {f.subject for f in find_all(Analysis(row())) if f.severity == "stop"}


def test_typed_voltages_count_and_a_load_for_twelve_gets_too_much() -> None:
    """Two full 12 V batteries in a job of 12 V: its lamp gets twice what it is made for."""
    found = rules(row(12.0, rest_V=12.6))["over-voltage"]
    assert found.severity == "stop"
    assert "gets 2" in found.what
    assert "is made for 12 V" in found.what
    assert "batteries-in-series" not in rules(row(12.0, rest_V=12.6))


def test_batteries_side_by_side_and_two_that_short_each_other() -> None:
    beside = ROW.replace("D1/+ D2/- 50", "D1/+ D2/+ 50, D2/- E2 50")
    two = replace(BATTERY, code="D2", name="Second")
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"))
    job = job_of(beside, BATTERY, two, lamp, fuses=FUSE)
    assert 12 < OperatingPoint(Network(job), RUN).load["D3"].volts < 12.6
    ring = job_of("D1/+ D2/- 50, D2/+ D1/- 50, D1/- E1 50", BATTERY, two)
    assert Network(ring).batteries.in_series == {"D1": 1, "D2": 1}
    four = (
        "D1/+ D2/- 50, D4/+ D5/- 50, D2/+ D5/+ 50, D4/- E2 50, D2/+ F1/in 6, F1/out D3/+ 2.5, "
        "D3/- E1 2.5, D1/- E1 50"
    )
    rows = job_of(
        four,
        BATTERY,
        two,
        replace(two, code="D4"),
        replace(two, code="D5"),
        lamp,
        fuses=FUSE,
        system_v=24.0,
    )
    assert set(Network(rows).batteries.in_series.values()) == {2}
    assert 24.5 < OperatingPoint(Network(rows), RUN).load["D3"].volts < 25.2


def test_what_is_made_for_five_volts_is_told_on_twelve() -> None:
    sensor = Device("D3", "Pressure", "sensor", ("5V", "S", "-"))
    wires = "D1/+ F1/in 6, F1/out D3/5V 0.5, D3/- E1 0.5, D1/- E1 25"
    assert "over-voltage" in rules(job_of(wires, BATTERY, sensor, fuses=FUSE))


@pytest.mark.parametrize(("set_v", "told"), [(14.4, False), (14.8, False), (16.5, True)])
def test_charging_is_not_too_much_until_it_is(set_v: float, told: bool) -> None:
    maker = Device("D4", "Alternator", "alternator", ("B+",), values=(("set V", set_v),))
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"))
    wires = "D1/+ F1/in 6, F1/out D3/+ 2.5, D3/- E1 2.5, D1/- E1 50, D4/B+ D1/+ 25"
    job = job_of(wires, BATTERY, lamp, maker, fuses=FUSE)
    assert ("over-voltage" in rules(job)) is told


# relays that lock one another

CHANGE = ("30", "87", "87a", "86", "85")


def locked(*more: str) -> Job:
    """Two relays, the coil of each through the resting contact of the other."""
    left, right = (Device(code, name, "relay", CHANGE) for code, name in (("D2", "L"), ("D3", "R")))
    lamp = Device("D4", "Lamp", "lamp", ("+", "-"))
    wires = ", ".join(
        (
            "D1/+ F1/in 6",
            "F1/out D2/30 1",
            "F1/out D3/30 1",
            "D2/87a D3/86 1",
            "D3/87a D2/86 1",
            "D2/85 E1 1",
            "D3/85 E1 1",
            "D2/87 D4/+ 1",
            "D4/- E1 1",
            "D1/- E1 25",
            *more,
        )
    )
    return job_of(wires, BATTERY, left, right, lamp, fuses=FUSE)


def test_two_relays_that_lock_one_another_come_to_rest_either_way() -> None:
    point = OperatingPoint(Network(locked()), RUN)
    assert not point.chatter
    assert set(point.rests) == {frozenset({"D2"}), frozenset({"D3"})}
    assert point.load["D4"].state == ("alive" if "D2" in point.on else "dead")
    found = rules(locked())
    assert "chatter" not in found
    assert found["two-rests"].what.startswith("Chance decides which of D2 and D3 pulls in")


def test_a_coil_through_its_own_resting_contact_still_chatters() -> None:
    buzzer = Device("D2", "Buzzer", "relay", CHANGE)
    wires = "D1/+ F1/in 6, F1/out D2/30 1, D2/87a D2/86 1, D2/85 E1 1, D1/- E1 25"
    job = job_of(wires, BATTERY, buzzer, fuses=FUSE)
    assert OperatingPoint(Network(job), RUN).chatter == ("D2",)
    assert rules(job)["chatter"].subject == "D2"


def test_three_in_a_ring_never_rest() -> None:
    """Each pulls in only while the one before it rests: an odd ring has no rest, as in logic."""
    three = [Device(f"D{n}", f"K{n}", "relay", CHANGE) for n in (2, 3, 4)]
    wires = "D1/+ F1/in 6, D1/- E1 25"
    for one, other in (("D2", "D3"), ("D3", "D4"), ("D4", "D2")):
        wires += f", F1/out {one}/30 1, {one}/87a {other}/86 1, {one}/85 E1 1"
    job = job_of(wires, BATTERY, *three, fuses=FUSE)
    point = OperatingPoint(Network(job), RUN)
    assert point.chatter
    assert not point.rests


@pytest.mark.parametrize("many", [4, 6])
def test_an_even_ring_rests(many: int) -> None:
    relays = [Device(f"D{n + 2}", f"K{n}", "relay", CHANGE) for n in range(many)]
    wires = "D1/+ F1/in 6, D1/- E1 25"
    for n, one in enumerate(relays):
        after = relays[(n + 1) % many]
        wires += f", F1/out {one.code}/30 1, {one.code}/87a {after.code}/86 1, {one.code}/85 E1 1"
    point = OperatingPoint(Network(job_of(wires, BATTERY, *relays, fuses=FUSE)), RUN)
    assert not point.chatter
    for rest in point.rests:
        for n, one in enumerate(relays):
            before = relays[n - 1]
            assert (one.code in rest) != (before.code in rest), "a ring at rest stands in turns"
