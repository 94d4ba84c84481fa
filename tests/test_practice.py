"""Finding faults for practice, in the core: what is hidden, what it costs, what is said after."""

import random
from typing import Any

import pytest
from msgspec.structs import replace

from learners import HABITS, cab
from molvik.circuits.simulate import OperatingPoint
from molvik.circuits.why import why
from molvik.demo import demo_job
from molvik.devices.states import NAMED, RUN, STATES, Fault
from molvik.files.tabletext import read_text_table
from molvik.logbook.story import _reading as _story
from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.netlist.stands import on_the_bench
from molvik.proving.bench import Bench
from molvik.proving.benchtop import what_matters
from molvik.proving.diagnose import LIKELY, Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation, seen_of
from molvik.proving.points import Point
from molvik.proving.practice.after import Told, debrief, habit, program_way, told
from molvik.proving.practice.complaints import Symptom, by_design, in_words, symptoms
from molvik.proving.practice.costs import BURNT_OUTPUT, HINT, METER_FUSE, WRONG, Step
from molvik.proving.practice.costs import HABITS as WORDS
from molvik.proving.practice.hiding import DEGREES, Hidden
from molvik.proving.practice.record import KINDS, Played, Record, read_record, written
from molvik.proving.practice.round import Round
from molvik.proving.practice.soundcopy import sound_copy
from molvik.proving.probing import FUNCTIONS
from molvik.proving.proofplan import ProofPlan
from molvik.proving.readings import reading_of, seen_of_shown, seen_of_table
from molvik.proving.taken import taken
from test_diagnose import lamp
from test_plan import loom_job

CAB = Network(cab())
SIMULATOR = FaultSimulator(CAB, Bench(CAB.job))

ROUNDS = {"second symptom": 4, "two": 4}
"""Of what takes long fewer are played here; 200 are in the benchmark."""


def hidden(*faults: Fault, trigger: Any = "", aside: tuple[Fault, ...] = ()) -> Round:
    """Return a round with something known hidden in the cab."""
    every = SIMULATOR.causes(CAB)
    causes = tuple(
        next(c for c in every if any(f[:3] == fault[:3] for f in c.faults)) for fault in faults
    )
    noticed = symptoms(SIMULATOR, (*faults, *aside))
    made = Hidden(faults, causes, (noticed[0],), aside, trigger)
    return Round(CAB, "one", 5, simulator=SIMULATOR, hidden=made)


@pytest.mark.parametrize("degree", DEGREES)
def test_the_program_goes_no_longer_way_than_three_habits_and_finds_all(degree: Any) -> None:
    """Learners that measure from front to back, halve the way, or change parts: they know the
    wiring, and nothing of how causes are found. 200 rounds are in the benchmark.
    """
    program, learners = 0.0, dict.fromkeys(HABITS, 0.0)
    for seed in range(ROUNDS.get(degree, 8)):
        played = Round(CAB, degree, seed, simulator=SIMULATOR)
        way = program_way(played)
        assert way.is_over, played.answer
        program += way.minutes
        for one in HABITS:
            again = played.again()
            learners[one] += one(again, seed).play()
            assert again.is_over
    assert all(program <= minutes for minutes in learners.values()), (program, learners)


@pytest.mark.parametrize("seed", range(24))
def test_what_is_hidden_is_never_lost_from_what_is_left(seed: int) -> None:
    """Whatever is measured, and however many ohms the bad joint has: what is true stays likely."""
    chance = random.Random(seed)
    played = Round(CAB, "one", seed, simulator=SIMULATOR)
    ends = sorted({end for wire in CAB.job.wires for end in wire.ends if end.cavity}, key=str)
    for _ in range(5):
        played.turn(chance.choice(("run", "crank", "accessory")))
        red, black = chance.sample(ends, 2)
        played.measure("V", red, End() if chance.random() < 0.6 else black)
        if chance.random() < 0.3:
            played.pull(chance.choice(("F2", "F3", "K1", "C1")))
    key = played.hidden.causes[0].key
    share = sum(
        one.share for one in played.leaves().ranked if key in [cause.key for cause in one.causes]
    )
    assert share >= LIKELY, (played.answer, played.steps)


def test_a_complaint_is_in_the_words_of_a_customer() -> None:
    every = {device.code: device for device in demo_job("marten").devices}
    for code, stands, state, words in (
        ("D8", "dead", "run", "The headlamps stay dark with the key in run."),
        ("D38", "weak", "running", "The left brake lamp only glows with the engine running."),
        ("D20", "weak", "run", "The left fan turns slowly with the key in run."),
        (
            "D25",
            "alive",
            "running",
            "The oil lamp is lit, and should not be, with the engine running.",
        ),
        ("D18", "alive", "run", "The fuel pump turns, and should not, with the key in run."),
        ("D8", "weak", "run", "The headlamps only glow with the key in run."),
        ("D8", "alive", "off", "The headlamps are lit, and should not be, with the key off."),
        ("D22", "alive", "off", "The coolant gauge shows something too soon with the key off."),
        ("D33", "alive", "off", "The horn works, and should not, with the key off."),
        ("D33", "weak", "run", "The horn is weak with the key in run."),
        ("D3", "dead", "crank", "The starter does nothing while it is cranked."),
    ):
        assert in_words(Symptom(state, code, stands, "alive"), every[code]) == words


def test_each_degree_hides_what_it_says() -> None:
    for seed in range(8):
        two = Round(CAB, "two", seed, simulator=SIMULATOR)
        assert len(two.hidden.faults) == len({one.device for one in two.hidden.symptoms}) == 2
        other = Round(CAB, "second symptom", seed, simulator=SIMULATOR)
        assert len(other.hidden.faults) == 1
        assert len(other.hidden.aside) == 1
        assert other.hidden.aside[0].at == other.hidden.symptoms[1].device
        comes = Round(CAB, "intermittent", seed, simulator=SIMULATOR)
        assert comes.hidden.trigger
    sound = [Round(CAB, "sound", seed, simulator=SIMULATOR).hidden for seed in range(16)]
    assert 3 < sum(not one.faults for one in sound) < 13
    with pytest.raises(ValueError, match="No fault hidden here would be noticed"):
        Round(Network(loom_job(("C1/1", "C2/1"))), "one", 1)


def test_what_comes_and_goes_shows_only_then() -> None:
    """Cold it reads as a sound loom does; hot it does not, and only that tells."""
    played = hidden(Fault("open", "W8"), trigger="warm")
    played.turn("run")
    assert played.look("D3") == "alive"
    assert not played.steps[-1].seen
    assert played.steps[-1].badly == "asleep"
    played.heat(True)
    assert played.look("D3") == "dead, alive when sound"
    cranked = hidden(Fault("open", "W8"), trigger="cranked")
    cranked.turn("run")
    assert cranked.look("D3") == "alive"
    cranked.turn("crank")
    assert cranked.look("D3").startswith("dead")
    proposal = cranked.leaves().next
    assert proposal is None or not proposal.point.is_on_bench  # unplugged it never shows


def test_meters_used_badly_cost_and_tell_nothing() -> None:
    played = hidden(Fault("open", "W8"))
    played.turn("run")
    before = len(played.told)
    assert played.measure("Ω", End("C1", "1"), End("D2", "15")) == "- - -"
    assert (played.steps[-1].minutes, played.steps[-1].badly) == (METER_FUSE, "under power")
    assert played.measure("A", End("D2", "15"), End("E1")) == "its fuse blew"
    assert played.steps[-1].badly == "ammeter"
    assert len(played.told) == before
    played.unplug()
    assert played.measure("V", End("D2", "15"), End("D1", "-")) == "0.00 V"
    assert played.measure("Ω", End("D2", "15"), End("C1", "1")).endswith("Ω")
    with pytest.raises(ValueError, match="Both probes are at C1/1"):
        played.measure("Ω", End("C1", "1"), End("C1", "1"))
    with pytest.raises(ValueError, match="Put the red probe"):
        played.measure("V", End(), End("C1", "1"))
    with pytest.raises(ValueError, match="C77 is not in the job any more"):
        played.measure("V", End("C77", "1"), End())
    with pytest.raises(ValueError, match="All is unplugged"):
        played.look("D3")
    played.turn("run")
    with pytest.raises(ValueError, match="nothing to be seen"):
        played.look("E1")
    with pytest.raises(ValueError, match="cannot be pulled"):
        played.pull("E1")
    early = hidden(Fault("open", "W8"))
    early.unplug()
    assert early.steps[-1].badly == "unplugged"


def test_a_test_lamp_on_a_computers_line_burns_it() -> None:
    network = Network(demo_job("marten"))
    played = Round(network, "one", 3)
    computer = next(d for d in network.job.devices if d.kind == "controller")
    line = next(
        o.terminal for o in computer.outputs if End(computer.plug, o.terminal) in network.wires_at
    )
    played.turn("run")
    played.measure("lamp", End(computer.plug, line), End())
    assert played.steps[-1].badly == "lamp"
    assert played.steps[-1].minutes >= BURNT_OUTPUT
    played.measure("lamp", End("D8", "56"), End())
    assert played.steps[-1].badly == ""


def test_naming_says_why_and_costs_and_one_of_two_gives_nothing_away() -> None:
    played = hidden(Fault("open", "W8"), Fault("open", "W16"))
    first = played.name("W16")
    assert first.right
    assert not first.over
    assert "W8" not in first.words
    played.turn("run")
    assert played.look("D6") == "alive"
    played.measure("V", End("F2", "out"), End())
    wrong = played.name("F2")
    assert not wrong.right
    assert "F2 is sound" in wrong.words
    assert "W8" not in wrong.words
    assert "would show" in wrong.words
    assert played.steps[-1].minutes == WRONG
    assert not played.nothing().right
    last = played.name("W8")
    assert last.right
    assert last.over
    assert played.is_over
    with pytest.raises(ValueError, match="There is no W99"):
        played.name("W99")


def test_what_is_broken_beside_it_is_not_what_was_looked_for() -> None:
    played = hidden(Fault("open", "W8"), aside=(Fault("open", "D5"),))
    named = played.name("D5")
    assert not named.right
    assert not named.over
    assert "what the customer came for is left" in named.words
    played.turn("run")
    assert played.look("D5") == "alive"
    assert played.name("W8").over


def test_a_changed_part_is_not_thought_of_again() -> None:
    played = hidden(Fault("open", "W8"))
    assert any("W7" in cause.on for one in played.leaves().ranked for cause in one.causes)
    played.name("W7")
    assert not any("W7" in cause.on for one in played.leaves().ranked for cause in one.causes)


def test_after_a_round_each_step_has_what_it_told_and_one_habit_is_named() -> None:
    played = hidden(Fault("open", "W8"))
    played.unplug()
    played.measure("Ω", End("E1"), End("E2"))
    played.turn("run")
    played.look_around()
    played.measure("Ω", End("E1"), End("E2"))
    played.hint()
    played.name("W8")
    after = debrief(played)
    assert [one.step.what for one in after.steps][:2] == [
        "Battery off, all unplugged",
        "Ω at E1 against E2, all unplugged",
    ]
    looked = next(one for one in after.steps if one.step.what.startswith("Looked around"))
    assert looked.bits is not None
    assert looked.bits > 1
    assert looked.left is not None
    assert after.bits == pytest.approx(sum(one.bits or 0 for one in after.steps))
    assert after.minutes == pytest.approx(sum(step.minutes for step in played.steps))
    assert after.program
    assert after.program_minutes < after.minutes
    assert after.habit is not None
    assert after.habit.words in WORDS.values()
    # HINT and METER_FUSE cost the same; whichever is named, no other cost more.
    assert after.habit.minutes == pytest.approx(max(HINT, METER_FUSE))
    clean = hidden(Fault("open", "W8"))
    clean.turn("run")
    clean.look_around()
    clean.name("W8")
    assert habit(told(clean)) is None


def test_the_worst_habit_is_the_one_that_cost_most() -> None:
    steps = tuple(
        Told(Step("", "", minutes, (), badly), None, None)
        for minutes, badly in ((3, "unplugged"), (10, "guessed"), (1, "asleep"), (1, "asleep"))
    )
    found = habit(steps)
    assert found is not None
    assert found.words == WORDS["guessed"]
    assert found.minutes == 10
    quiet = tuple(Told(Step("x", "", 1), bits, 3) for bits in (0.0, 0.01, 2.0))
    found = habit(quiet)
    assert found is not None
    assert found.words == WORDS["nothing new"]
    assert found.minutes == 2


def test_a_record_makes_weak_kinds_come_up_more_often() -> None:
    record = Record()
    assert set(record.weights) == set(KINDS)
    for kind, right in (("bad earth", True), ("short", False), ("short", False)):
        record = record.with_round(Played(kind, "one", right, 8.0, 4.0, "2026-12-01T10:00:00"))
    assert record.weights["short"] > record.weights["open wire"] > record.weights["bad earth"]
    assert record.by_kind == {"bad earth": (1, 1), "short": (0, 2)}
    assert record.weakest == "short"
    assert read_record(written(record)) == record
    with pytest.raises(ValueError, match="not a record of practice"):
        read_record(b'{"rounds": 3}')
    chosen = {"short": 0, "blown fuse": 0}
    for seed in range(60):
        weights = dict.fromkeys(KINDS, 0.0) | {"short": 3.0, "blown fuse": 1.0}
        kind = Round(CAB, "one", seed, weights, SIMULATOR).hidden.kind(CAB.job)
        chosen[kind] += 1
    assert chosen["short"] > chosen["blown fuse"] > 0


# what meters show with something pulled, against oracles of their own


def test_an_unplugged_plug_is_a_job_without_it() -> None:
    """Against the whole network of a job in which that plug goes nowhere."""
    job = CAB.job
    apart = replace(job, connectors=tuple(replace(plug, plugs_into="") for plug in job.connectors))
    oracle = FaultSimulator(Network(apart), Bench(apart))
    for name in ("run", "crank", "running"):
        for wire in job.wires:
            for end in wire.ends:
                if not end.cavity:
                    continue
                for code in ("C1", "C2"):
                    point = Point.of("voltage", end, End(), name, (code,))
                    shown = SIMULATOR.predicted((), point)
                    wanted = oracle.predicted((), Point.of("voltage", end, End(), name))
                    assert shown == (None if wanted is None else pytest.approx(wanted, abs=1e-3))
    assert SIMULATOR.solved((Fault("open", "C1"),), RUN).stands("D3") == "dead"
    assert SIMULATOR.solved((), RUN).stands("D3") == "alive"


def test_the_plug_of_a_computer_pulled_is_the_computer_out() -> None:
    network = Network(demo_job("marten"))
    simulator = FaultSimulator(network, Bench(network.job))
    plugged, out = (
        simulator.solved((Fault("open", code),), NAMED["running"]) for code in ("C2", "D11")
    )
    for code in ("D12", "D16", "D18", "D8"):
        assert plugged.stands(code) == out.stands(code)
    assert simulator.solved((), NAMED["running"]).stands("D18") == "alive"
    assert plugged.stands("D18") == "dead"


@pytest.mark.parametrize(("ohm", "lit"), [(3.0, "lit"), (25.0, "dim"), (200.0, "dark")])
def test_a_test_lamp_divides_the_voltage_with_what_is_before_it(ohm: float, lit: str) -> None:
    """5 W at 12 V are 28.8 ohms: with 3 before it, it has 91 %, with 25 54 %, with 200 13 %."""
    network = Network(lamp())
    simulator = FaultSimulator(network, Bench(network.job))
    faults = (Fault("open", "D2"), Fault("bad", "W2", "", ohm))
    point = Point.of("lamp", End("D2", "+"), End(), "run")
    assert simulator.predicted(faults, point) == lit
    volts = simulator.predicted(faults, Point.of("voltage", End("D2", "+"), End(), "run"))
    assert isinstance(volts, float)
    assert volts > 12


def test_an_ammeter_in_place_of_a_fuse_shows_what_its_loads_draw() -> None:
    """By hand: the battery's volts over each lamp's ohms, each with its own wires."""
    network = Network(lamp())
    simulator = FaultSimulator(network, Bench(network.job))
    amps = simulator.predicted((), Point.of("current", End("F1", "in"), End("F1", "out"), "run"))
    assert isinstance(amps, float)
    point = simulator.solved((), RUN)
    drawn = sum(load.amps for load in point.loads if load.device in ("D2", "D3"))
    assert amps == pytest.approx(drawn, rel=1e-6)
    assert drawn > 1
    off = simulator.predicted(
        (), Point.of("current", End("F1", "in"), End("F1", "out"), "run", ("D2",))
    )
    assert isinstance(off, float)
    assert 0.2 * amps < off < 0.8 * amps


def test_tone_and_diode_tell_no_more_than_they_show() -> None:
    played = hidden(Fault("bad", "W8", "", 12.0))
    played.turn("run")
    played.look("D3")
    played.unplug()
    assert played.measure("tone", End("C2", "1"), End("D3", "+")) == "sounds"
    assert played.told[-1].shown == "sounds"
    assert played.measure("diode", End("C2", "1"), End("D3", "+")) == "joined"
    assert played.measure("tone", End("C2", "1"), End("E1")) == "silent"
    assert set(FUNCTIONS) == {"V", "Ω", "tone", "diode", "A", "lamp"}


def test_a_fuse_that_is_looked_at_is_whole_or_blown() -> None:
    played = hidden(Fault("short", "W8", "earth"))
    played.turn("run")
    assert played.look("F2") == "blown, whole when sound"
    assert played.look("F3") == "whole"
    left = played.leaves().ranked
    assert (
        sum(one.share for one in left if any("F2" in c.on or "W8" in c.on for c in one.causes))
        > 0.1
    )


# what was out stays with a reading, wherever it goes


def test_what_was_out_is_read_kept_told_and_counted() -> None:
    """Volts behind a plug that was off say nothing is wrong; without that they would."""
    network, plan = CAB, ProofPlan(CAB.job)
    raw = read_text_table(
        "readings.csv",
        b"red,black,reading,state,out\nD3/+,,0.0 V,run,c1\nF2/out,,12.4 V,run,\n",
    )
    seen = seen_of_table(raw, network)
    assert [one.point.out for one in seen] == [("C1",), ()]
    kept = [reading_of(one, plan, "2026-12-01T10:00:00+01:00") for one in seen]
    assert kept[0].out == ("C1",)
    assert "C1 out" in _story(kept[0])
    again = seen_of(kept)
    assert [one.point for one in again] == [one.point for one in seen]
    assert not Diagnosis(network, again, SIMULATOR).odd
    plugged = [again[0]._replace(point=Point.of("voltage", End("D3", "+"), End(), "run"))]
    assert Diagnosis(network, plugged, SIMULATOR).odd
    bad = read_text_table("readings.csv", b"red,black,reading,state,out\nD3/+,,0.0 V,run,Z9\n")
    with pytest.raises(ValueError, match="row 2: There is no Z9"):
        seen_of_table(bad, network)


@pytest.mark.parametrize(
    ("what", "text", "shown"),
    [
        ("tone", "Sounds", "sounds"),
        ("diode", "ol", "OL"),
        ("lamp", "dim", "dim"),
        ("fuse", "blown", "blown"),
        ("current", "4.2 A", 4.2),
        ("current", "350 mA", 0.35),
        ("voltage", "12,1 V", 12.1),
        ("resistance", "OL", None),
        ("resistance", "0.5", 0.3),
    ],
)
def test_a_reading_is_typed_in_its_own_unit_and_comes_back_from_the_job(
    what: str, text: str, shown: float | str | None
) -> None:
    ends = (End("F2", "in"), End("F2", "out")) if what == "current" else (End("C2", "1"), End("E1"))
    if what == "fuse":
        ends = End("F2"), End()
    bench = what in ("tone", "diode", "resistance")
    point = Point.of(what, *ends, "" if bench else "run")
    seen = seen_of_shown(point, text, 0.2)
    assert seen.shown == (pytest.approx(shown) if isinstance(shown, float) else shown)
    reading = reading_of(seen, ProofPlan(CAB.job), "2026-12-01T10:00:00+01:00", 0.2)
    (back,) = seen_of([reading])
    assert back.point == point
    assert back.shown == (pytest.approx(shown) if isinstance(shown, float) else shown)
    with pytest.raises(ValueError, match=r"."):
        seen_of_shown(point, "purple", 0.2)


def test_a_supply_that_was_read_is_no_current_through_a_fuse() -> None:
    ends = End("D1", "+"), End("D1", "-")
    reading = taken(
        CAB.job.settings, "2026-12-01T10:00:00+01:00", "current", 3.0, ends, state="run"
    )
    assert seen_of([reading]) == ()


def test_practice_is_played_on_a_job_without_its_own_mistakes() -> None:
    """The demo's F7 blows while the engine runs: that would be a second complaint."""
    job = demo_job("marten")
    network = Network(job)
    assert "F7" in OperatingPoint(network, NAMED["running"]).blown
    made = sound_copy(job)
    assert not any(OperatingPoint(Network(made), state).blown for state in STATES)
    before = {fuse.code: fuse.rating_a for fuse in job.fuses}
    changed = {f.code: f.rating_a for f in made.fuses if f.rating_a != before[f.code]}
    assert set(changed) == {"F7"}
    assert changed["F7"] > 20
    assert sound_copy(cab()) == cab()


def test_what_is_looked_at_is_looked_at_with_what_is_out() -> None:
    """With its plug off the blower is dead in a sound loom, too: that tells nothing."""
    played = hidden(Fault("open", "W16"))
    played.turn("run")
    played.pull("C1")
    assert played.look("D3") == "dead"
    assert played.told[-1].point.out == ("C1",)
    played.look_around()
    assert {seen.point.out for seen in played.steps[-1].seen} == {("C1",)}


@pytest.mark.parametrize("ohm", [4.7, 17.0, 104.0, 180.0])
def test_a_bad_joint_of_any_size_is_closed_in_on_under_power(ohm: float) -> None:
    """Of a hundred ohms before a small lamp no size that is tried explained the reading."""
    fault = Fault("bad", "W22", "", ohm)
    points = [
        Point.of("voltage", End("D8", "-"), End(), "run"),
        Point.of("voltage", End("D8", "+"), End(), "run"),
    ]
    seen = [Observation(point, SIMULATOR.predicted((fault,), point)) for point in points * 2]
    best = Diagnosis(CAB, seen, SIMULATOR).ranked[0]
    assert [cause.key for cause in best.causes] == ["bad W22"]
    assert not best.unexplained
    assert best.faults[0].ohm == pytest.approx(ohm, rel=0.25)


def test_an_unplugged_plug_is_so_in_the_whole_solution_too() -> None:
    state = RUN._replace(faults=frozenset({Fault("open", "C1")}))
    point = OperatingPoint(CAB, state)
    assert point.stands("D3") == point.stands("D4") == "dead"
    assert point.stands("D6") == "alive"
    said = why(point, "D3")
    assert "C1" in " ".join((*said.lines, said.remedy))


def test_words_seen_with_something_out_keep_it() -> None:
    point = Point.of("lamp", End("D3", "+"), End(), "run", ("C1",))
    reading = reading_of(
        Observation(point, "dark"), ProofPlan(CAB.job), "2026-12-01T10:00:00+01:00"
    )
    assert (reading.said, reading.out) == ("dark", ("C1",))
    assert seen_of([reading])[0].point == point


def test_what_matters_lies_on_the_bench() -> None:
    """The pump's own way, its relay, and what feeds the relay's coil; not the work lamps."""
    shown = what_matters(CAB, ["D6"], 8)
    assert {"D1", "D6", "F1", "F4", "K1", "E2", "D2", "F2"} <= set(shown)
    assert "D5" not in shown
    assert what_matters(CAB, []) == ("D1",)
    assert what_matters(CAB, ["nowhere"]) == ("D1",)
    network = Network(demo_job("marten"))
    assert "C13" in what_matters(network, ["D18"]), "a device with a plug is probed there"
    laid = on_the_bench(network, ["C13", "D18", "F5", "E1", "S1"], frozenset({"F5"}))
    assert [one.code for one in laid] == ["C13", "D18", "F5", "E1"]
    assert [one.out for one in laid] == [False, False, True, False]
    assert not laid[1].spots, "its terminals are in its plug"


def test_what_is_meant_to_be_so_is_complained_of_too() -> None:
    network = Network(demo_job("marten"))
    meant = by_design(FaultSimulator(network, Bench(network.job)))
    assert ("run", "D25", "alive") in {one[:3] for one in meant}, "oil lamp, until it runs"
    assert ("run", "D18", "dead") in {one[:3] for one in meant}, "pump, until it runs"
    assert all(one.stands == one.sound for one in meant)


def test_what_steps_told_begins_again_where_something_was_repaired() -> None:
    """Seen with both faults in, a lamp that then works spoke against itself."""
    played = hidden(Fault("open", "W8"), Fault("open", "W16"))
    played.turn("run")
    played.look("D6")
    played.name("W16")
    played.look("D6")
    played.measure("V", End("C2", "1"), End())
    played.name("F2")
    played.measure("V", End("D3", "+"), End())
    after = told(played)
    by_what = {one.step.what: one for one in after}
    right = by_what["It is: W16"]
    assert right.bits is None
    assert right.step.known is not None
    # From there on it is as if nothing had been seen before but what is still odd.
    alone = list(right.step.known)
    alone += [seen for step in played.steps[played.steps.index(right.step) :] for seen in step.seen]
    wanted = played.leaves_of(alone, frozenset({"F2"}))
    assert after[-1].left == sum(one.share >= LIKELY for one in wanted.ranked)
    assert after[-1].left == played.count_left(), "as was said when it was asked"
    assert all(one.bits < 12 for one in after if one.bits is not None)


def test_a_fuse_that_blew_looks_so_with_the_key_off() -> None:
    played = hidden(Fault("short", "W8", "earth"))
    assert played.look("F2").startswith("blown")
    played.pull("F2")
    assert played.steps[-1].shown.startswith("blown")
