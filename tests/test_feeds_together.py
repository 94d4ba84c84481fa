"""What can flow into a short by several ways at once, from several sources."""

import random

import pytest
from msgspec.structs import replace

from conftest import found_of
from feedtrees import flow_through, random_supply
from molvik.analysis import Analysis
from molvik.findings import find_all
from molvik.findings.finding import Finding
from molvik.model.job import Job, Settings
from molvik.model.parts import Device, EarthPoint, End, Fuse, Splice, Wire, WireSize
from molvik.netlist.feeds import Feed
from molvik.sizes.resize import resizes
from molvik.sizes.wire import smallest


def end(text: str) -> End:
    at, _, cavity = text.partition("/")
    return End(at, cavity)


def job_of(wires: str, *devices: Device, fuses: tuple[Fuse, ...] = ()) -> Job:
    """Return a job of wires "D1/+ F1/in 2.5, ...": 1 m each, 2 A, of these sizes in mm2."""
    made = []
    for number, one in enumerate(wires.split(","), start=1):
        start, finish, size = one.split()
        made.append(
            Wire(
                f"W{number}",
                end(start),
                end(finish),
                length_m=1.0,
                load_a=2.0,
                insulation="C125",
                size=WireSize("metric", float(size)),
            )
        )
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    return Job(
        "x",
        devices=(battery, *devices),
        fuses=fuses,
        wires=tuple(made),
        earths=(EarthPoint("E1", "Block"),),
        splices=(Splice("S1"),),
    )


def told(job: Job, code: str) -> dict[str, Finding]:
    return {one.rule: one for one in find_all(Analysis(job)) if one.subject == code}


RELAY = ("30", "87", "86", "85")
LAMP = Device("D9", "Lamp", "lamp", ("+", "-"))


def test_two_fuses_that_two_relays_join_add_up() -> None:
    """1.5 mm2 behind 2 x 20 A: it would come to 596 deg C."""
    wires = (
        "D1/+ F1/in 6, D1/+ F2/in 6, F1/out D2/30 2.5, F2/out D3/30 2.5, D2/87 S1 2.5, "
        "D3/87 S1 2.5, S1 D9/+ 1.5, D9/- E1 1.5, D1/- E1 16"
    )
    job = job_of(
        wires,
        Device("D2", "A", "relay", RELAY),
        Device("D3", "B", "relay", RELAY),
        LAMP,
        fuses=(Fuse("F1", "a", 20), Fuse("F2", "b", 20)),
    )
    network = Analysis(job).network
    assert network.feed(job.wires[6]) == Feed(40, "F1", ("F1", "F2"))
    assert network.feed(job.wires[4]) == Feed(20, "F2"), "a short at the relay: from the other only"
    finding = told(job, "W7")["fuse-too-large"]
    assert finding.severity == "stop"
    assert "F1 and F2 together, 40 A, are too large for W7" in finding.what
    assert "fuse-too-large" not in told(job, "W5")
    alone = replace(job, wires=job.wires[:5] + job.wires[6:])
    assert "fuse-too-large" not in told(alone, "W7")


def test_what_a_changeover_joins_one_after_the_other_does_not_add_up() -> None:
    wires = (
        "D1/+ F1/in 6, D1/+ F2/in 6, F1/out D2/87 2.5, F2/out D2/87a 2.5, D2/30 D9/+ 1.5, "
        "D9/- E1 1.5, D1/- E1 16"
    )
    changeover = Device("D2", "A", "relay", ("30", "87", "87a", "86", "85"))
    fuses = Fuse("F1", "a", 15), Fuse("F2", "b", 10)
    job = job_of(wires, changeover, LAMP, fuses=fuses)
    feed = Analysis(job).network.feed(job.wires[4])
    assert feed is not None
    assert feed.limit_a == 15


ALTERNATOR = Device("D2", "Alternator", "alternator", ("B+", "L"), values=(("most A", 120.0),))


def test_battery_and_alternator_feed_one_short_together() -> None:
    """6 mm2 behind a stud with a 60 A fuse to the battery and an alternator of 120 A."""
    wires = "D1/+ F1/in 16, F1/out S1 16, D2/B+ S1 25, S1 D9/+ 6, D9/- E1 6, D1/- E1 35"
    job = job_of(wires, ALTERNATOR, LAMP, fuses=(Fuse("F1", "Main", 60, "bolt-down"),))
    network = Analysis(job).network
    feeds = [network.feed(wire) for wire in job.wires[1:4]]
    assert feeds[:2] == [Feed(120, "D2"), Feed(120, "D2")]
    assert feeds[2] == Feed(180, "F1", ("D2", "F1")), "its fuse is known by its code"
    finding = told(job, "W4")["fuse-too-large"]
    assert "D2 and F1 together, 180 A" in finding.what


def test_what_the_alternator_alone_feeds_must_bear_all_it_gives() -> None:
    wires = "D1/+ F1/in 16, D2/B+ D9/+ 0.5, D9/- E1 0.5, D1/- E1 35"
    job = job_of(wires, ALTERNATOR, LAMP, fuses=(Fuse("F1", "Main", 60, "bolt-down"),))
    finding = told(job, "W2")["fuse-too-large"]
    assert finding.severity == "stop"
    assert "D2 can give 120 A, too much for W2, 0.5 mm²" in finding.what
    assert "never blows" in finding.why
    assert "type its own" not in finding.why
    usual = replace(job, devices=(job.devices[0], replace(ALTERNATOR, values=()), LAMP))
    assert "type its own" in told(usual, "W2")["fuse-too-large"].why, "a figure nobody typed"


@pytest.mark.parametrize(("ohm", "limit_a", "from_"), [(0.001, 30.0, "F1"), (1.0, 14.4, "D3")])
def test_a_low_resistance_lets_a_fault_through(ohm: float, limit_a: float, from_: str) -> None:
    wires = "D1/+ F1/in 6, F1/out D3/1 4, D3/2 D9/+ 0.35, D9/- E1 0.35, D1/- E1 16"
    shunt = Device("D3", "Shunt", "resistor", ("1", "2"), values=(("ohm", ohm),))
    job = job_of(wires, shunt, LAMP, fuses=(Fuse("F1", "a", 30),))
    feed = Analysis(job).network.feed(job.wires[2])
    assert feed is not None
    assert feed.limit_a == pytest.approx(limit_a)
    assert feed.fuse == from_
    assert "fuse-too-large" in told(job, "W3"), "0.35 mm2 bears neither for ever"


def test_a_cable_before_a_fuse_is_never_enough_by_its_load() -> None:
    """16 mm2 to an 80 A main fuse that carries 2 A: no thinner one may be proposed."""
    wires = "D1/+ F1/in 16, F1/out F2/in 16, F2/out D9/+ 1.5, D9/- E1 1.5, D1/- E1 35"
    fuses = Fuse("F1", "Main", 80, "bolt-down"), Fuse("F2", "Lamp", 10)
    job = job_of(wires, LAMP, fuses=fuses)
    analysis = Analysis(job)
    least = smallest(analysis.electrics.sizing_cases["W1"], "metric")
    assert least == smallest(analysis.electrics.sizing_cases["W2"], "metric"), "as behind that fuse"
    assert least is not None
    assert least.value >= 10
    thin = replace(job, wires=(replace(job.wires[0], size=WireSize("metric", 2.5)), *job.wires[1:]))
    assert "F1 behind it, 80 A, is too large for W1" in told(thin, "W1")["fuse-too-large"].what


def test_a_wire_without_any_fuse_gets_no_size_proposed() -> None:
    job = job_of("D1/+ D9/+ 2.5, D9/- E1 2.5, D1/- E1 35", LAMP)
    analysis = Analysis(job)
    assert smallest(analysis.electrics.sizing_cases["W1"], "metric") is None
    assert not analysis.electrics.sizings["W1"].is_enough
    assert "no-fuse" in told(job, "W1")
    made = resizes(
        job, lambda job: Analysis(job).electrics.sizing_cases, "metric", failing_only=False
    )
    assert "W1" not in {one.wire for one in made}


def test_what_all_current_comes_back_through_bears_the_main_fuse() -> None:
    """6 mm2 to the block under a main fuse of 100 A: it would come to 632 deg C."""
    wires = "D1/+ F1/in 35, F1/out D9/+ 25, D9/- E1 25, D1/- E1 {}"
    for size, burns in ((6, True), (35, False)):
        job = job_of(wires.format(size), LAMP, fuses=(Fuse("F1", "Main", 100, "bolt-down"),))
        assert ("fuse-too-large" in told(job, "W4")) is burns
        if burns:
            assert "Never a fuse in an earth" in told(job, "W4")["fuse-too-large"].remedy
        assert "fuse-too-large" not in told(job, "W3"), "one of several that come back there"


def test_cables_side_by_side_share_what_comes_back() -> None:
    """By Ohm's law: 10 mm2 beside 6 mm2, each 1 m and a bolt of 0.5 mohm, share 300 A."""
    wires = "D1/+ F1/in 70, F1/out D9/+ 50, D9/- E1 25, D1/- E1 {}, D1/- E2 {}"

    def back(one: float, other: float) -> Job:
        made = job_of(wires.format(one, other), LAMP, fuses=(Fuse("F1", "Main", 300, "bolt-down"),))
        return replace(made, earths=(*made.earths, EarthPoint("E2", "Case earth")))

    ohm = {10.0: 1.82e-3 + 5e-4, 6.0: 3.14e-3 + 5e-4}  # ISO 6722-1, ohm/m at 20 deg C
    shares = Analysis(back(10, 6)).network.returns
    expected = 300 * ohm[6.0] / (ohm[10.0] + ohm[6.0])
    assert shares["W4"].limit_a == pytest.approx(expected, rel=1e-3)
    assert shares["W5"].limit_a == pytest.approx(300 - expected, rel=1e-3)
    assert "fuse-too-large" in told(back(10, 6), "W4"), "with half of it each burns"
    assert "fuse-too-large" in told(back(10, 6), "W5")
    assert not {"fuse-too-large"} & {*told(back(70, 6), "W4"), *told(back(70, 6), "W5")}


def test_what_two_fuses_feed_together_comes_back_together() -> None:
    wires = (
        "D1/+ F1/in 25, D1/+ F2/in 25, F1/out S1 25, F2/out S1 25, S1 D9/+ 25, D9/- E1 25, "
        "D1/- E1 10"
    )
    fuses = Fuse("F1", "a", 80, "bolt-down"), Fuse("F2", "b", 100, "bolt-down")
    job = job_of(wires, LAMP, fuses=fuses)
    assert Analysis(job).network.returns["W7"].limit_a == pytest.approx(180)
    assert "F2 and F1, back through it" in told(job, "W7")["fuse-too-large"].what
    # An alternator on the same place gives its current back to its own body.
    more = replace(job.wires[3], code="W8", start=End("D8", "B+"))
    machine = Device("D8", "Alternator", "alternator", ("B+",), values=(("most A", 120.0),))
    job = replace(job, wires=(*job.wires, more), devices=(*job.devices, machine))
    assert Analysis(job).network.returns["W7"].limit_a == pytest.approx(180)


def test_each_of_two_batteries_gets_back_what_it_gives() -> None:
    """The second feeds 30 A by itself, and through the link of 60 A what the main fuse feeds."""
    wires = (
        "D1/+ F1/in 35, F1/out D9/+ 25, D9/- E1 25, D1/- E1 35, D8/+ F2/in 10, "
        "F2/out D7/+ 10, D7/- E1 10, D8/- E1 {}, D8/+ F3/in 16, F3/out D1/+ 16"
    )
    fuses = (
        Fuse("F1", "Main", 100, "bolt-down"),
        Fuse("F2", "Fridge", 30),
        Fuse("F3", "Link", 60, "bolt-down"),
    )
    devices = Device("D8", "Second", "battery", ("+", "-")), replace(LAMP, code="D7")
    job = job_of(wires.format(4), LAMP, *devices, fuses=fuses)
    comes = Analysis(job).network.returns
    assert comes["W4"].limit_a == pytest.approx(100)
    assert comes["W8"].limit_a == pytest.approx(60), (
        "what the link lets through, into the main fuse"
    )
    assert "fuse-too-large" in told(job, "W8")
    thick = job_of(wires.format(25), LAMP, *devices, fuses=fuses)
    assert "fuse-too-large" not in told(thick, "W8")
    unlinked = replace(job, wires=job.wires[:-2])
    assert Analysis(unlinked).network.returns["W8"].limit_a == pytest.approx(30)


def test_the_lower_of_two_in_series_gets_back_what_the_upper_feeds() -> None:
    wires = "D8/+ F1/in 35, F1/out D9/+ 25, D9/- E1 25, D1/+ D8/- 35, D1/- E1 6"
    upper = Device("D8", "Upper", "battery", ("+", "-"))
    job = job_of(wires, LAMP, upper, fuses=(Fuse("F1", "Main", 100, "bolt-down"),))
    job = replace(job, settings=Settings(system_v=24.0))
    assert Analysis(job).network.returns["W5"].limit_a == pytest.approx(100)
    assert "fuse-too-large" in told(job, "W5")


def test_large_blades_are_slower_and_a_usual_rating() -> None:
    """SAE J1888, from memory: at twice its rating one may take 60 s, where a small one has 5."""
    from molvik.electrical.fusing import largest_protecting_a, slowest_s
    from molvik.reference.fuses import RATINGS_A, curve_of
    from molvik.reference.insulation import INSULATIONS

    assert {50, 60, 70, 80} <= set(RATINGS_A["blade"])
    assert slowest_s(curve_of("blade", 60), 2.0) == pytest.approx(60)
    assert slowest_s(curve_of("blade", 40), 2.0) == pytest.approx(5)
    size = WireSize("metric", 10)
    large, small = (
        largest_protecting_a(size, INSULATIONS["C125"], 60.0, curve_of("blade", a))
        for a in (60, 40)
    )
    assert large <= small


def test_a_starters_cable_whose_end_is_loose_is_not_accused_yet() -> None:
    job = job_of("D1/+ D9/+ 50, D1/- E1 50", LAMP)
    loose = replace(job.wires[0], finish=End(), use="starter")
    job = replace(job, wires=(loose, job.wires[1]))
    assert "no-fuse" not in told(job, "W1")
    assert "no-fuse" in told(replace(job, wires=(replace(loose, use=""), job.wires[1])), "W1")


@pytest.mark.parametrize("seed", range(40))
def test_what_can_flow_through_each_wire_is_what_a_search_of_all_ways_finds(seed: int) -> None:
    job = random_supply(random.Random(seed))
    network = Analysis(job).network
    expected = flow_through(job)
    changeover = any("87a" in device.terminals for device in job.devices)
    for wire in job.wires:
        feed = network.feed(wire)
        found = 0.0 if feed is None else feed.limit_a
        if changeover:  # one that is passed from 87a to 87 counts as open both ways: never less
            assert found >= expected[wire.code] - 0.02
        else:
            assert found == pytest.approx(expected[wire.code], abs=0.02, rel=1e-3)


@pytest.mark.parametrize("seed", range(8))
def test_no_proposal_takes_protection_away(seed: int) -> None:
    job = random_supply(random.Random(1000 + seed))

    def unsafe(job: Job) -> set[str]:
        return {one.subject for one in found_of(Analysis(job), "no-fuse", "fuse-too-large")}

    before = unsafe(job)
    analysis = Analysis(job)
    for wire in job.wires:
        for system in ("metric", "awg"):
            size = smallest(analysis.electrics.sizing_cases[wire.code], system)
            if size is not None:
                changed = [replace(w, size=size) if w is wire else w for w in job.wires]
                after = unsafe(replace(job, wires=tuple(changed)))
                assert wire.code not in after, f"{wire.code} with {size}"
                assert after <= before
