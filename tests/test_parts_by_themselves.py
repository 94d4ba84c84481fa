"""What parts show by themselves on a meter."""

import math

import pytest
from msgspec.structs import replace

from conftest import cell, page, type_cell, type_field
from molvik.desktop.window import MainWindow
from molvik.model.job import Job, Settings
from molvik.model.parts import Connector, Device, Grid, Position, WireSize
from molvik.netlist.network import Network
from molvik.parsing.quantities import QuantityError
from molvik.proving.items import ItemTest, ItemVerdict, item_reading, item_readings, judge_item
from molvik.proving.jointtests import joint_tests, pull_n
from molvik.proving.observations import seen_of
from molvik.proving.parttests import line_words, part_tests
from molvik.proving.proofplan import ProofPlan
from molvik.proving.validity import mended_text
from test_plan import loom_job

AT = "2026-11-02T10:00:00+01:00"

DEVICES = (
    Device("K1", "Relay", "relay", ("30", "87", "87a", "86", "85"), values=(("coil ohm", 80.0),)),
    Device("D1", "Coolant", "thermistor", ("signal", "return")),
    Device("D2", "Diode", "diode", ("+", "-")),
    Device("D3", "Injector", "injector", ("+", "-")),
    Device(
        "D4",
        "Key",
        "switch",
        ("30", "15", "50"),
        positions=(Position("off"), Position("run", (("30", "15"),))),
    ),
    Device("D5", "End of line", "network node", ("high", "low"), values=(("ohm", 120.0),)),
    Device("D6", "Dash", "network node", ("high", "low")),
    Device("D7", "Throttle", "sensor", ("5V", "signal", "return")),
)


def shown_by(job: Job) -> dict[tuple[str, str], ItemTest]:
    return {(test.subject, f"{test.between}, {test.what}"): test for test in part_tests(job)}


def judged(job: Job, test: ItemTest, text: str) -> tuple[str, str]:
    reading = item_reading(test, text, AT, job.settings)
    verdict = judge_item(test, item_readings([reading]), job.settings)
    return verdict.outcome, verdict.text


def test_windings_contacts_and_senders_show_what_they_are() -> None:
    job = Job("x", devices=DEVICES)
    found = shown_by(job)
    coil = found["K1", "85 and 86, its coil"]
    assert (coil.least, coil.most) == pytest.approx((72.0, 88.0)), "its own figure"
    assert judged(job, coil, "80.2") == ("passed", "80.2 Ω, as it should")
    assert judged(job, coil, "65")[0] == "failed"
    assert judged(job, coil, "OL") == ("failed", "open; it should show 72 to 88 Ω")
    rest, pulled = (
        found["K1", f"30 and 87, its contact, {how}"] for how in ("at rest", "pulled in")
    )
    assert [judged(job, rest, text)[0] for text in ("OL", "2 Mohm", "0.2")] == [
        "passed",
        "passed",
        "failed",
    ]
    assert [judged(job, pulled, text)[0] for text in ("0.2", "0.4", "0.6", "OL")] == [
        "passed",
        "passed",
        "failed",
        "failed",
    ], "leads of 0.2, 0.1 and a step of 0.1"
    assert found["K1", "30 and 87a, its contact, at rest"].expect == "under 0.1 Ω"
    assert found["D3", "+ and -, its winding"].expect == "11.2 to 16.8 Ω, as is usual"
    forwards = found["D2", "+ and -, diode test, forwards"]
    assert [judged(job, forwards, text)[0] for text in ("0.62", "620 mV", "0.1 V", "OL")] == [
        "passed",
        "passed",
        "failed",
        "failed",
    ]
    assert judged(job, found["D2", "- and +, ohms backwards"], "OL")[0] == "passed"
    assert found["D4", "30 and 15, position run"].expect == "under 0.1 Ω"
    assert found["D4", "30 and 15, position off"].expect == "open"
    assert found["D7", "5V and return, its track"].least == pytest.approx(2000)
    sender = replace(DEVICES[1], terminals=("1",), case="E1")
    found = shown_by(Job("x", devices=(*DEVICES[:1], sender)))
    assert ("D1", "1 and its body, at 20 °C, falling as it warms") in found


def test_a_part_that_failed_and_passes_comes_and_goes_until_it_was_moved_warmed_or_mended() -> None:
    job = Job("x", devices=DEVICES)
    test = shown_by(job)["K1", "30 and 87, its contact, pulled in"]

    def after(*texts: str) -> ItemVerdict:
        made = [
            mended_text(job, text[5:], AT)
            if text.startswith("mend ")
            else item_reading(test, text, AT, job.settings)
            for text in texts
        ]
        return judge_item(test, item_readings(made), job.settings)

    assert after("0.2").outcome == "passed"
    assert after("OL", "0.2").outcome == "comes and goes"
    assert after("OL", "0.2").text.startswith("open before: measure it again while the wires")
    assert "warm" in after("OL", "0.2", "0.2").text
    assert after("OL", "0.2", "0.2").outcome == "comes and goes"
    assert after("OL", "0.2", "0.2", "0.3").outcome == "passed"
    assert after("OL", "0.2", "0.2", "3").outcome == "failed"
    assert after("OL", "0.2", "3", "0.2").outcome == "comes and goes"
    assert after("OL", "mend K1 another relay").outcome == "not measured"
    assert after("OL", "mend K1 another relay", "0.2").outcome == "passed"
    assert after("OL", "mend D3 cleaned", "0.2").outcome == "comes and goes", "another part"


def test_a_terminator_and_the_line_between_two() -> None:
    """ISO 11898-2: 120 ohms at each of the two ends, 60 across the line."""
    job = Job("x", devices=DEVICES)
    found = shown_by(job)
    assert ("D5", "high and low, its terminator") in found
    assert ("D6", "high and low, its terminator") not in found, "it terminates nothing"
    line = found["D5", "high and low, the network's line"]
    assert judged(job, line, "60.2")[0] == "passed"
    assert judged(job, line, "120") == (
        "failed",
        "about 120 Ω: one terminator is there, the other is missing",
    )
    assert "thrown away" in judged(job, line, "OL")[1]
    assert not any("line" in what for _, what in shown_by(Job("x", devices=DEVICES[5:6])))


def test_a_screen_is_earthed_at_one_end() -> None:
    job = loom_job(("C5/3", "C2/17"))
    screen = replace(job.wires[0], use="screen", function="Crank screen")
    computer = Device("D9", "Computer", "controller", plug="C2")
    job = replace(job, wires=(screen,), devices=(computer,))
    on, off = part_tests(job)
    assert (on.subject, str(on.red), on.position) == ("W1", "C5/3", "C2 on")
    assert [judged(job, on, text)[0] for text in ("0.6", "OL")] == ["passed", "failed"]
    assert [judged(job, off, text)[0] for text in ("0.6", "OL")] == ["failed", "passed"]
    assert not part_tests(replace(job, devices=())), "nobody knows which end is earthed"


# UL 486A, from memory, in pounds-force.
@pytest.mark.parametrize(("awg", "lbf"), [(22, 8), (18, 20), (16, 30), (10, 80), (-3, 450)])
def test_a_crimp_bears_the_force_of_its_size(awg: int, lbf: float) -> None:
    assert pull_n(WireSize("awg", awg)) == pytest.approx(lbf * 4.44822)


def test_a_larger_wire_is_pulled_at_harder() -> None:
    sizes = [0.13, 0.22, 0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 25.0, 50.0, 95.0, 120.0]
    forces = [pull_n(WireSize("metric", size)) for size in sizes]
    assert forces[:-1] == sorted(forces[:-1])
    assert pull_n(WireSize("metric", 0.163)) == pytest.approx(17.8, rel=0.02), "half of 22 AWG"
    assert 8 * 4.448 < forces[3] < 13 * 4.448, "0.5 mm2 lies between 22 and 20 AWG"


def test_heavy_cables_are_measured_under_a_current_and_crimps_by_samples() -> None:
    job = loom_job(
        ("D1/+", "D2/30"), ("C1/1", "C2/1"), ("C1/2", "E1"), ("C1/3", "E1"), ("C1/3", "E1")
    )
    cable = replace(job.wires[0], size=WireSize("metric", 25.0), length_m=2.0, function="Starter")
    plug = Connector("C1", "Plug", Grid(1, 4), contact="20")
    job = replace(
        job, wires=(cable, *job.wires[1:]), connectors=(plug,), settings=Settings(drop_test_a=20.0)
    )
    drops = [test for test in joint_tests(Network(job), ProofPlan(job)) if test.of == "drop"]
    assert [test.subject for test in drops] == ["W1", "W4", "W5"], "heavy, or beside each other"
    assert "clamped to this wire alone" in drops[1].what
    # ISO 6722-1: 25 mm2 has at most 0.743 mohm/m; lugs of 0.2 to 1 mohm are common practice.
    most = 20 * (2 * 0.743e-3 * 1.1 + 2 * 0.001)
    assert drops[0].most == pytest.approx(most, rel=0.01)
    assert judged(job, drops[0], f"{most * 1000 - 2:.0f}")[0] == "passed", "bare numbers are mV"
    assert judged(job, drops[0], "0.15 V") == (
        "failed",
        f"150 mV at 20 A; it should show {drops[0].expect}",
    )
    halved = item_reading(drops[0], "60 mV", AT, replace(job.settings))
    again = replace(halved, with_a=10.0)  # taken at half the current: it says twice as much
    assert judge_item(drops[0], item_readings([again]), job.settings).outcome == "failed"
    failed = item_reading(drops[0], "0.15 V", AT, job.settings)
    made = [failed, mended_text(job, "W1 new lug", AT)]
    assert judge_item(drops[0], item_readings(made), job.settings).outcome == "not measured"
    made = [failed, mended_text(job, "W4 new lug", AT)]
    assert judge_item(drops[0], item_readings(made), job.settings).outcome == "failed", "another"
    pulls = [test for test in joint_tests(Network(job), ProofPlan(job)) if test.of == "pull"]
    samples = [test.position for test in pulls]
    assert len(samples) == len(set(samples)), "one for each size in each terminal"
    small = next(test for test in pulls if "contact 20" in test.position)
    assert small.name.endswith("C1")
    assert judged(job, small, f"{small.least:.1f}")[0] == "passed"
    assert judged(job, small, "2 kgf")[0] == "failed"
    with pytest.raises(QuantityError, match="outside"):
        item_reading(small, "0", AT, job.settings)


@pytest.mark.parametrize(("warm", "ohm"), [(20.0, 2500.0), (80.0, 348.0), (-10.0, 9379.0)])
def test_a_thermistor_falls_as_it_warms(warm: float, ohm: float) -> None:
    """R = R20 exp(B (1/T - 1/T20)), B 3400 K: worked by hand."""
    job = Job("x", settings=Settings(bench_c=warm), devices=DEVICES)
    test = next(test for test in part_tests(job) if test.subject == "D1")
    assert "e+" not in test.expect, "ohms are written out"
    assert test.least is not None
    assert test.most is not None
    assert math.sqrt(test.least * test.most) / math.sqrt(0.96) == pytest.approx(ohm, rel=0.01)


@pytest.mark.parametrize(
    ("ohm", "told"),
    [
        (121.0, "the other is missing"),
        (60.0, "both terminators"),
        (40.5, "one terminator too many"),
        (9e4, "thrown away as a cap"),
        (3.0, "the two wires are shorted"),
    ],
)
def test_ohms_across_a_line_say_how_many_terminators_there_are(ohm: float, told: str) -> None:
    """ISO 11898-2: 120 ohms at each of the two ends."""
    assert told in line_words(ohm)


def test_parts_stand_in_a_table_and_a_line_is_judged(window: MainWindow) -> None:
    window.files.new()
    job = replace(window.store.job, devices=DEVICES)
    window.store.do("parts", lambda _: job)
    shown = page(window, "Proving")
    assert shown.tabs.isVisible(), "no wire is needed"
    shown.tabs.setCurrentWidget(shown.parts)
    assert shown.parts.model.rowCount() == len(part_tests(job))
    table = shown.parts.table
    table.picked.emit("K1 85 and 86 its coil")
    assert window.hand.subject == "K1"
    window.hand.pick("D4")
    assert table.current_key().startswith("D4 "), "the table follows the hand"
    type_cell(table, "K1 85 and 86 its coil", "Read", "81")
    assert cell(table, "K1 85 and 86 its coil", "Verdict") == "passed"
    assert shown.parts.done.text().startswith("1 of ")
    reading = window.store.job.readings[-1]
    assert (reading.of, reading.value, reading.bench_c) == ("part", 81.0, 20.0)
    assert not seen_of(window.store.job.readings), "a part by itself says nothing of the loom"
    line = "D5 high and low the network's line"
    type_cell(table, line, "Read", "120")
    assert "the other is missing" in shown.notice.text()
    assert cell(table, line, "Verdict") == "failed"
    window.store.history.undo()
    assert cell(table, line, "Verdict") == "not measured"
    type_cell(table, line, "Read", "much")
    assert "is not a reading" in shown.notice.text()


def test_joints_stand_in_a_table_too(window: MainWindow) -> None:
    window.files.new()
    job = loom_job(("D1/+", "D2/30"), ("C1/1", "C2/1"))
    job = replace(
        job,
        id=window.store.job.id,
        wires=(replace(job.wires[0], size=WireSize("metric", 25.0)), job.wires[1]),
    )
    window.store.do("wires", lambda _: job)
    shown = page(window, "Proving")
    type_field(shown.meter.drop, "25 A")
    assert window.store.job.settings.drop_test_a == 25.0
    shown.tabs.setCurrentWidget(shown.joints)
    (drop,) = (test for test in shown.joints.model.things if test.of == "drop")
    assert "at 25 A" in drop.what
    type_cell(shown.joints.table, drop.key, "Read", "30")
    assert cell(shown.joints.table, drop.key, "Read") == "30 mV at 25 A"
    assert window.store.job.readings[-1].value == pytest.approx(0.03)
    window.hand.pick("W1")
    assert shown.joints.table.current_key() == drop.key
