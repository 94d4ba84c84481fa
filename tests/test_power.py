"""Power brought up in steps, and the report of what was tested."""

import random

import pytest
from msgspec.structs import replace

from feedtrees import random_supply
from learners import cab
from molvik.analysis import Analysis
from molvik.blocks.templates import TEMPLATES
from molvik.circuits.simulate import OperatingPoint
from molvik.demo import demo_job
from molvik.devices.states import ACCESSORY, CRANK, OFF, RUN, Fault, all_off
from molvik.model import edits
from molvik.model.job import Job, Reading
from molvik.model.log import Tick
from molvik.model.parts import Connector, Device, End, Grid, Wire
from molvik.netlist.network import Network
from molvik.parsing.quantities import amps_text
from molvik.proving.bringup import LEAST_SEEN_A, Bench, first_steps
from molvik.proving.items import item_reading
from molvik.proving.jointtests import joint_tests
from molvik.proving.power import POWER, as_steps, power_steps
from molvik.proving.powerstep import PowerStep, ready_to_start, switches_off
from molvik.proving.report import report_sheet
from molvik.proving.taken import taken
from molvik.proving.touching import isolated
from molvik.sheet import Paragraph, Table
from molvik.sheetset import every_sheet
from test_alive import job_of as alive_job
from test_diagnose import lamp
from test_plan import loom_job

AT = "2026-11-02T10:00:00+01:00"


def steps_of(job: Job) -> dict[str, PowerStep]:
    analysis = Analysis(job)
    found = power_steps(analysis.network, analysis.operating_point)
    return {step.key.partition(": ")[2]: step for step in found}


def test_the_steps_expect_what_the_network_gives() -> None:
    steps = steps_of(demo_job())
    assert list(steps)[:3] == ["battery", "no short", "little current"], (
        "nothing before the short is ruled out"
    )
    order = list(steps)
    assert order.index("fuse F1") < order.index("C2 off") < order.index("plug D11 in")
    assert order.index("plug D11 in") < order.index("crank") < order.index("charge")
    assert order[-1] == "drain"
    assert order.index("charge") < order.index("loads") < order.index("gauges")
    assert "Coolant gauge, Tank gauge, Tachometer agree" in steps["gauges"].expect
    assert "Injector 1, Injector 2, Injector 3, Injector 4" in steps["misfire"].do
    # The mistakes of the demo are in what is expected, and said.
    assert "does not start: Injector 1" in steps["crank"].expect
    assert "By the job the engine runs on: repair that first" in steps["isolator"].expect
    assert steps["isolator"].do.startswith("Do not open the isolator")
    assert "Heater blower" in steps["drain"].expect
    assert "50 mA at most" in steps["drain"].expect
    # Feeds of the computer's plug: permanent ones at every turn of the key, its earths beside.
    assert all("52" in steps[f"C2 {state}"].expect for state in ("off", "run", "crank"))
    assert "earth, under 0.2 V, at 68, 69" in steps["C2 off"].expect
    assert "13.8 to 14.8 V" in steps["charge"].expect
    # Nobody left a switch on: at rest it draws what the drain says.
    job = demo_job()
    still = OFF._replace(switches=switches_off(job))
    computers = [one.code for one in job.devices if one.kind == "controller"]
    out = still._replace(
        faults=frozenset(
            Fault("open", code) for code in (*(fuse.code for fuse in job.fuses), *computers)
        )
    )
    for key, state in (("drain", still._replace(rested=True)), ("little current", out)):
        amps = Analysis(job).operating_point(state).source_amps
        assert steps[key].expect.startswith(f"{amps_text(amps)} by the job"), key
    doubled = replace(demo_job(), settings=replace(demo_job().settings, system_v=24.0))
    assert "27.6 to 29.6 V" in steps_of(doubled)["charge"].expect


def test_a_fuse_expects_what_flows_through_it() -> None:
    job = lamp()
    analysis = Analysis(job)
    step = steps_of(job)["fuse F1"]
    point = analysis.operating_point(RUN._replace(switches=all_off(job)))
    amps = sum(abs(point.wire_amps[code]) for code in ("W2", "W5"))
    assert amps > 0.1
    assert f"run {amps_text(amps)}" in step.expect
    assert steps_of(replace(job, devices=job.devices[1:])) == {}, "nothing without a battery"


def without(job: Job, fuses: set[str]) -> Job:
    """Return a job in which fuses and all computers are not there at all."""
    kept = tuple(one for one in job.devices if one.kind != "controller")
    return replace(
        job, fuses=tuple(one for one in job.fuses if one.code not in fuses), devices=kept
    )


@pytest.mark.parametrize("name", ["marten", "plover", *TEMPLATES])
def test_each_fuse_expects_what_flows_with_those_before_it_and_no_others(name: str) -> None:
    """Against the job with what is out taken out of it: 12.1 A were expected through a main fuse
    behind which every other fuse was still out.
    """
    job = TEMPLATES[name].make() if name in TEMPLATES else demo_job(name)
    steps = [step for key, step in steps_of(job).items() if key.startswith("fuse ")]
    assert {step.subject for step in steps} == {fuse.code for fuse in job.fuses}
    inside: list[str] = []
    for step in steps:
        code = step.subject
        inside.append(code)
        left = without(job, {fuse.code for fuse in job.fuses} - set(inside))
        state = RUN._replace(switches=switches_off(left))
        point = OperatingPoint(Network(left), state)
        blown = point.blown.get(code)
        amps = abs(point.solution.amps.get(f"{code} {code}/in {code}/out", 0.0))
        shown = f"run {amps_text(amps)}" if amps >= LEAST_SEEN_A else "run nothing"
        assert blown or f"{shown}." in step.expect, (step.do, step.expect, shown)
        assert "Computers unplugged, every switch off" in step.before
        assert (f"In so far: {inside[0]}" if inside[1:] else "No other is in") in step.before


def test_a_short_behind_the_main_fuse_is_not_what_the_step_expects() -> None:
    step = steps_of(demo_job("marten"))["fuse F1"]
    assert step.expect.startswith("off, accessory, run nothing")


def test_a_fuse_behind_another_comes_after_it() -> None:
    job = demo_job("marten")
    turned = replace(job, fuses=job.fuses[::-1])
    keys = [key for key in steps_of(turned) if key.startswith("fuse ")]
    assert keys.index("fuse F1") < keys.index("fuse F3")


def test_no_sentence_stands_beside_a_figure_that_contradicts_it() -> None:
    found = steps_of(demo_job("marten"))
    assert "4.1 A" not in found["no short"].expect or "never under" not in found["no short"].expect
    assert "the bulb glows, because Blue beacon is fed without a fuse" in (
        found["little current"].expect
    )
    assert "stays dark" not in found["little current"].expect
    assert "are no proof against a short" in found["no short"].expect
    assert "It runs" not in found["start"].expect
    assert "By the job it does not start" in found["start"].expect
    sound = steps_of(TEMPLATES["Engine run stand"].make())
    assert sound["little current"].expect.endswith("the bulb stays dark.")
    assert sound["no short"].expect.startswith("key off: open, or kilohms; in run: open")
    assert sound["start"].expect == "It runs; oil pressure within seconds."
    assert sound["isolator"].expect == "It stops at once."


def test_before_power_the_battery_and_while_cranking_the_earth_are_measured() -> None:
    found = steps_of(TEMPLATES["Engine run stand"].make())
    assert found["battery"].expect.startswith("12.6 V charged and at rest, red on +; minus is the")
    assert "V by the job, 0.30 V at most" in found["earth while cranking"].expect
    bad = TEMPLATES["Engine run stand"].make()
    earth = next(w for w in bad.wires if w.function == "Battery earth")
    thin = edits.change_wire(bad, earth.code, length_m=8.0)
    lost = float(steps_of(thin)["earth while cranking"].expect.split()[0])
    assert lost > 0.3
    assert "the meter's own fuse" in steps_of(demo_job("marten"))["drain"].before


def test_signals_without_the_vehicle_come_from_the_job() -> None:
    """Contacts that make something work, senders by R = R20 exp(B (1/T - 1/T20)), pulses."""
    found = steps_of(demo_job("marten"))
    brake = found["bridge D37 down"]
    assert brake.do.startswith("Bridge 1 to 2 at Brake pedal switch")
    assert brake.expect == "on: Brake lamp, left; Brake lamp, right."
    assert found["bridge D26 running"].do.startswith("Unplug Oil pressure switch")
    assert found["bridge D26 running"].expect == "off: Oil lamp."
    assert not any("D4 " in key for key in found), "the key is no such switch"
    assert all(step.expect.strip(". ") for step in found.values()), "a step without effect is none"
    # 2500 ohms at 20 deg C, B 3400 K: 267 ohms at 90 deg C, worked by hand.
    assert "a resistor of 2500 Ω, then of 267 Ω" in found["sender D45"].do
    # 600 turns a minute of 58 teeth are 580 pulses a second.
    assert "580 Hz" in found["pulses D43"].do


def test_each_card_says_what_to_expect_why_and_what_if_not() -> None:
    for step in as_steps(tuple(steps_of(lamp()).values())):
        assert "Expect:" in step.detail
        assert "If not:" in step.detail


def words_of(job: Job) -> str:
    sheet = report_sheet(Network(job), Analysis(job).plan)
    return "\n".join(block.text for block in sheet.blocks if isinstance(block, Paragraph))


def verdict_of(job: Job) -> str:
    return words_of(job).split("\n", 1)[0]


def test_a_report_passes_nothing_that_was_not_tested() -> None:
    """Each of what is missing is said; the last thing that was, and it passes, of the bench."""
    job = loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"), ("C1/3", "C2/3"), ("C1/3", "C2/3"))
    assert verdict_of(job).startswith("NOT COMPLETE: not all of it was measured; the short test")

    def read(job: Job, instrument: str) -> Job:
        for one in Analysis(job).plan.measurements:
            made = taken(
                job.settings,
                AT,
                "resistance",
                0.3,
                (one.red, one.black),
                fingerprint=one.fingerprint,
                instrument=instrument,
            )
            job = edits.record(job, made)
        (run,) = isolated(Analysis(job).plan, [], 2, AT, instrument, "isolation")
        return edits.record(job, run)

    ours = read(job, "stand-in: Molvik")
    assert "readings of a stand-in prove nothing" in verdict_of(ours)
    whole = read(ours, "bench meter")
    said = verdict_of(whole)
    assert said.startswith("NOT COMPLETE: no measurement reaches some wires, or tells them apart.")
    analysis = Analysis(whole)
    beside = [
        test
        for test in joint_tests(analysis.network, analysis.plan)
        if test.of == "drop" and test.subject in ("W3", "W4")
    ]
    assert len(beside) == 2
    one = edits.record(whole, item_reading(beside[0], "1 mV", AT, whole.settings))
    assert verdict_of(one) == said, "of the other nothing is known"
    both = edits.record(one, item_reading(beside[1], "1 mV", AT, whole.settings))
    assert verdict_of(both).startswith("PASSED on the bench: continuity and short test. 3 of 3")
    wrong = Reading("W1", "resistance", None, (End("C1", "1"), End("C2", "1")), AT)
    assert verdict_of(edits.record(both, wrong)).startswith("FAILED. 2 of 3")
    longer = edits.change_wire(both, "W1", length_m=3.0)
    assert verdict_of(longer).startswith("NOT COMPLETE: not all of it was measured; the short test")


def signs(job: Job) -> list[str]:
    tables = report_sheet(Network(job), Analysis(job).plan).tables
    return [row[1][:12] for table in tables for row in table.rows if row[0] == "As built"]


def test_the_report_says_what_was_not_tested_and_changes_with_the_loom() -> None:
    job = loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"), ("C1/3", "C2/3"))
    assert "0 of 3 measurements passed" in verdict_of(job)
    assert "The short test was not done." in words_of(job)
    assert "Power was not brought up" in words_of(job)
    sign = {one.key: one.fingerprint for one in Analysis(job).plan.measurements}
    points = End("C1", "1"), End("C2", "1")
    job = edits.record(
        job,
        Reading(
            "W1", "resistance", 0.3, points, AT, "Mirel", leads_ohm=0.2, fingerprint=sign["W1"]
        ),
    )
    points = End("C1", "2"), End("C2", "2")
    job = edits.record(job, Reading("W2", "resistance", None, points, AT))
    (run,) = isolated(Analysis(job).plan, [], 2, AT, "", "isolation at 500 V")
    job = edits.record(job, run)
    job = edits.tick(job, Tick(POWER, "power 1: no short", AT))
    said = words_of(job)
    assert "1 of 3 measurements passed, 1 failed, 0 to be measured again" in said
    assert "1 not measured" in said
    assert "Short test at 500 V, 2026-11-02 10:00: passed; 2 measurements of 3 circuits." in said
    assert "1 step of power" in said
    longer = edits.change_wire(job, "W1", length_m=3.0)
    assert "0 of 3 measurements passed, 1 failed, 1 to be measured again" in words_of(longer)
    assert "The loom was changed or repaired since: measure it again." in words_of(longer)
    assert "measure it again" not in said
    assert signs(longer) != signs(job)
    (sheet,) = [sheet for sheet in every_sheet(Analysis(job)) if sheet.name == "test-report"]
    rows = [row for block in sheet.blocks if isinstance(block, Table) for row in block.rows]
    row = next(row for row in rows if row[2:3] == ("W1",))
    assert row[5:] == ("0.3", "2026-11-02 10:00", "Mirel", "meter, by eye", "", "passed")
    assert "stand-in" not in said
    points = End("C1", "3"), End("C2", "3")
    ours = taken(job.settings, AT, "resistance", 0.3, points, instrument="stand-in: Molvik")
    assert "Readings of a stand-in: 1." in words_of(edits.record(job, ours))
    assert pytest.approx(float(row[3]), abs=0.01) == 0.25


@pytest.mark.parametrize(
    ("needs", "lamp_a"),
    [({"D29"}, 0.2), ({"D11", "D20", "D30"}, 0.2), (set(), 0.2), ({"D29"}, 15.0)],
)
def test_only_the_switches_an_engine_needs_are_on_however_many_there_are(
    needs: set[str], lamp_a: float
) -> None:
    """With 15 A each, all on at once blow the fuse before them."""
    # Twenty-one switches, each with a lamp; the pump hangs behind those that it needs, in series.
    switches = [
        Device(f"D{number}", f"Switch {number}", "switch", ("1", "2"), (("1", "2"),))
        for number in range(10, 31)
    ]
    lamps = [
        Device(f"D{number + 40}", f"Lamp {number}", "lamp", ("+", "-"), values=(("A", lamp_a),))
        for number in range(10, 31)
    ]
    key = Device("D2", "Key switch", "switch", ("30", "15", "50"))
    pump = Device("D3", "Pump", "motor", ("+", "-"), needed=True)
    starter = Device("D4", "Starter", "starter", ("30", "50"), case="E1")
    runs = ["D1/+ F1/in, F1/out D2/30, D2/50 D4/50, D1/+ D4/30, D3/- E1, E1 D1/-"]
    at = "D2/15"
    for code in sorted(needs):
        runs.append(f"{at} {code}/1")
        at = f"{code}/2"
    runs.append(f"{at} D3/+")
    for switch, its in zip(switches, lamps, strict=True):
        fed = [] if switch.code in needs else [f"D2/15 {switch.code}/1"]
        runs += [*fed, f"{switch.code}/2 {its.code}/+", f"{its.code}/- E1"]
    job = alive_job(", ".join(runs), key, pump, starter, *switches, *lamps)
    analysis = Analysis(job)
    ready, found = ready_to_start(job, analysis.operating_point)
    assert set(found) == needs
    assert not ready(CRANK).no_start
    lit = {load.device for load in ready(CRANK).loads if load.state == "alive"}
    assert lit & {lamp.code for lamp in lamps} == {f"D{int(code[1:]) + 40}" for code in needs}


def test_with_plus_at_the_metal_the_bulb_goes_into_the_minus_cable() -> None:
    demo = demo_job()
    turned = replace(demo, settings=replace(demo.settings, earthed="plus"))
    battery = next(device for device in demo.devices if device.kind == "battery")
    for job, live in ((demo, "plus"), (turned, "minus")):
        *_, first = first_steps(Bench(Network(job)))
        assert f"in series with {live}, key off" in first.do
        assert first.subject == battery.code


@pytest.mark.parametrize("seed", range(31))
def test_each_figure_of_a_step_is_of_the_network_with_just_that_out(seed: int) -> None:
    """Random supplies, some with a computer: against a job from which what is out was taken."""
    chance = random.Random(seed)
    job = random_supply(chance, fused=True) if seed < 30 else cab()  # that has a key
    if seed % 2:
        fed = End(chance.choice(job.splices).code)
        plug = Connector("C1", "Computer's plug", Grid(1, 3))
        computer = Device(
            "D90", "Computer", "controller", plug="C1", supplies=("1",), earths=("2",)
        )
        wires = (Wire("W90", fed, End("C1", "1")), Wire("W91", End("C1", "2"), End("E1")))
        job = replace(
            job,
            connectors=(plug,),
            devices=(*job.devices, computer),
            wires=(*job.wires, *wires),
        )
    steps = steps_of(job)
    if not steps:  # nothing can be solved with all in: then nothing is brought up
        assert (
            OperatingPoint(Network(job), OFF).problem or OperatingPoint(Network(job), RUN).problem
        )
        return
    states = {state.name: state for state in (OFF, ACCESSORY, RUN, CRANK)}
    figures = 0
    for step in steps.values():
        left = replace(
            job,
            fuses=tuple(one for one in job.fuses if one.code not in step.setup.out),
            devices=tuple(one for one in job.devices if one.code not in step.setup.out),
        )
        network = Network(left)
        for figure in step.setup.figures:
            state = states[figure.state]._replace(switches=switches_off(left))
            point = OperatingPoint(network, state)
            code = figure.place.at
            if figure.place.cavity:
                wanted = point.solution.volts[str(figure.place)]
            elif code in point.blown:
                wanted = point.blown[code].amps
            elif code.startswith("F"):
                wanted = abs(point.solution.amps.get(f"{code} {code}/in {code}/out", 0.0))
            else:
                wanted = max(0.0, point.source_amps)
            assert figure.value == pytest.approx(wanted, rel=1e-3, abs=2e-3), (step.do, figure)
            figures += 1
        for name, most in step.setup.most_a:
            if step.subject.startswith("F"):
                state = states[name]._replace(switches=switches_off(left))
                drawn = max(0.0, OperatingPoint(network, state).source_amps)
                assert most == pytest.approx(1.5 * drawn + 0.2, rel=1e-3, abs=2e-3)
    assert figures >= len(job.fuses)
