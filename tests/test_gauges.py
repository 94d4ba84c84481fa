"""Gauges with what moves them: curves, laws, resistors, pulses, and what is said of them."""

import itertools
import json
import math
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import page
from molvik.analysis import Analysis
from molvik.circuits.gauges.curves import Curve, by_law, fit_beta, fit_steinhart_hart
from molvik.circuits.gauges.drawing import error_scene
from molvik.circuits.gauges.inputs import inputs, seen_v, step_k
from molvik.circuits.gauges.matching import Match, matches
from molvik.circuits.gauges.pulses import firing_a_turn, hertz, pulses_a_km
from molvik.circuits.gauges.resistors import Mended, best_resistor, errors, rated
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.stages.circuits.gaugeview import GaugeView
from molvik.desktop.window import MainWindow
from molvik.devices import kind_of
from molvik.devices.kinds.sensing import Thermistor
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Device, End, Wire
from molvik.netlist.network import Network
from molvik.parsing.devices import curve_text, read_curve
from molvik.reference.resistors import E12, E24, STANDARD_OHM

SENDER = ((20.0, 600.0), (40.0, 287.0), (60.0, 142.0), (80.0, 75.0), (100.0, 42.0), (120.0, 25.0))


# curves and laws


def test_a_law_of_two_figures_is_found_again_from_its_points() -> None:
    """R25 of 10 kilohms and a beta of 3435 K, as data sheets give them."""
    celsius = (-20, 0, 25, 50, 85, 120)
    points = tuple(
        (float(t), 10_000 * math.exp(3435 * (1 / (t + 273.15) - 1 / 298.15))) for t in celsius
    )
    made = fit_beta(points)
    assert made.r25 == pytest.approx(10_000, rel=1e-9)
    assert made.beta_k == pytest.approx(3435, rel=1e-9)
    assert made.off < 1e-9
    assert made.ohm_at(37.0) == pytest.approx(10_000 * math.exp(3435 * (1 / 310.15 - 1 / 298.15)))


def test_the_law_of_three_figures_meets_a_published_table_between_its_points() -> None:
    """A published table of a thermistor of 3000 ohms at 25 deg C, its values from memory."""
    table = {0: 9796, 25: 3000, 37: 1817, 60: 746.3, 80: 376.9, 100: 203.8}
    fitted = fit_steinhart_hart(tuple((float(t), float(table[t])) for t in (0, 25, 60, 100)))
    assert fitted.off_k < 0.05
    for celsius in (37, 80):
        assert fitted.celsius_at(table[celsius]) == pytest.approx(celsius, abs=0.2)


@pytest.mark.parametrize(
    "points",
    [((20.0, 100.0),), ((20.0, 100.0), (20.0, 90.0)), ((20.0, 100.0), (-300.0, 900.0))],
)
def test_points_that_make_no_law_are_refused(points: tuple[tuple[float, float], ...]) -> None:
    with pytest.raises(ValueError, match=r"points|colder"):
        fit_beta(points)
    with pytest.raises(ValueError, match=r"points|colder"):
        fit_steinhart_hart((*points, (50.0, 50.0)) if len(points) > 1 else points)


def test_nothing_is_known_beyond_the_ends_of_a_curve() -> None:
    curve = Curve(SENDER, logs=True)
    assert curve.ends == (20.0, 120.0)
    assert curve.ohm_at(19.9) is None
    assert curve.ohm_at(121) is None
    assert curve.value_at(24.0) is None
    assert curve.value_at(601.0) is None
    assert curve.value_at(-1.0) is None
    for value, ohm in SENDER:
        assert curve.ohm_at(value) == pytest.approx(ohm)
        assert curve.value_at(ohm) == pytest.approx(value)


@given(st.floats(20, 120), st.booleans())
def test_a_value_comes_back_from_its_ohms(value: float, logs: bool) -> None:
    curve = Curve(SENDER, logs=logs)
    ohm = curve.ohm_at(value)
    assert ohm is not None
    assert curve.value_at(ohm) == pytest.approx(value, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("20 600", "Two points at least"),
        ("20 600, 20 500", "two points at 20"),
        ("20 600, 40 287, 60 300", "turns back"),
        ("20 600, 40 0", "above zero"),
        ("20 600, warm 300", "not a value and its ohms"),
        ("20, 600", "not a value and its ohms"),
    ],
)
def test_a_curve_that_is_none_is_refused_where_it_is_typed(text: str, told: str) -> None:
    with pytest.raises(ValueError, match=told):
        read_curve(text)


def test_a_curve_comes_back_as_it_was_typed_and_a_job_refuses_one_that_is_none() -> None:
    assert read_curve(curve_text(SENDER)) == SENDER
    assert read_curve("90=240; 20: 2500") == ((20.0, 2500.0), (90.0, 240.0))
    assert read_curve("") == ()
    job = Job(id="x", title="x", devices=(Device("D1", "S", "thermistor", ("1", "2")),))
    with pytest.raises(EditError, match="turns back"):
        edits.change_part(job, "D1", curve=((1.0, 1.0), (2.0, 3.0), (3.0, 2.0)))


def test_a_thermistor_with_points_has_their_ohms_wherever_it_is_asked() -> None:
    device = Device("D1", "S", "thermistor", ("1", "2"), curve=SENDER)
    kind = kind_of(device)
    assert isinstance(kind, Thermistor)
    assert kind.ohm_at(device, 60.0) == pytest.approx(142.0)
    assert kind.ohm_at(device, 50.0) == pytest.approx(math.sqrt(287 * 142))
    assert kind.ohm_at(device, -40.0) == pytest.approx(600.0)
    assert kind.ohm_at(device, 200.0) == pytest.approx(25.0)
    (test,) = kind.own_tests(device, 12.0, 60.0)
    assert test.times * kind.figure(device, "ohm") == pytest.approx(142.0)


# resistors


def test_standard_resistors_are_those_of_iec_60063() -> None:
    """From memory: each of E24 is about 10 % above the one before, each of E12 in E24."""
    assert set(E12) <= set(E24)
    assert len(E24) == 24
    for one, other in itertools.pairwise((*E24, 10.0)):
        assert 1.06 < other / one < 1.17
    assert STANDARD_OHM[0] == 1.0
    assert STANDARD_OHM[-1] == 91_000.0


@pytest.mark.parametrize("seed", range(6))
def test_the_best_resistors_are_the_best_of_all_there_are(seed: int) -> None:
    """Against every pair, one after the other, in plain Python, for a scale with three points."""
    chosen = random.Random(seed)
    factor, more = chosen.uniform(0.7, 1.6), chosen.uniform(0, 40)
    sender = Curve(SENDER)
    gauge = Curve(tuple((at, ohm * factor + more) for at, ohm in SENDER[1:5]))
    low, high = 50.0, 95.0
    best = best_resistor(sender, gauge, low, high)

    def squares(series: float, beside: float | None) -> float:
        total = 0.0
        for step in range(41):
            at = low + (high - low) * step / 40
            ohm = sender.ohm_at(at) or 0.0
            if beside is not None:
                ohm = ohm * beside / (ohm + beside)
            ohm += series
            scale = sorted((r, v) for v, r in gauge.points)
            shown = float(np.interp(ohm, [r for r, _ in scale], [v for _, v in scale]))
            total += (shown - at) ** 2
        return total

    own = squares(best.series_ohm or 0.0, best.beside_ohm)
    besides: list[float | None] = [None, *(one for one in STANDARD_OHM if one > 20)]
    least = min(
        squares(series, beside)
        for series in (0.0, *STANDARD_OHM[:80:2])
        for beside in besides[:90:4]
    )
    assert own <= least * (1 + 1e-6)
    near = [one for one in STANDARD_OHM if best.series_ohm and 0.5 < one / best.series_ohm < 2]
    assert all(own <= squares(one, best.beside_ohm) * (1 + 1e-6) for one in near)
    worst = max(abs(off) for _, off in errors(sender, gauge, low, high, best) if off is not None)
    assert best.worst >= worst - 1e-9


def test_a_gauge_made_for_twelve_ohms_more_wants_twelve_ohms_in_series() -> None:
    sender = Curve(SENDER, logs=True)
    gauge = Curve(tuple((at, ohm + 12) for at, ohm in SENDER), logs=True)
    best = best_resistor(sender, gauge, 20.0, 120.0)
    assert (best.series_ohm, best.beside_ohm) == (12.0, None)
    assert best.worst < 0.5
    # By hand: 12 V through 120 ohms of the gauge, 12 and the sender's least.
    assert best.watts[0] == pytest.approx((12 / (120 + 12 + 25)) ** 2 * 12, rel=0.02)
    assert rated(best.watts[0]) == 0.25
    assert rated(0.2) == 0.5
    with pytest.raises(ValueError, match="choose a range within that"):
        best_resistor(sender, gauge, 0.0, 100.0)


def test_what_is_in_series_and_what_is_beside_are_summed_as_ohm_has_it() -> None:
    assert Mended(None, None, 0, 0).through(100.0) == 100.0
    assert Mended(22.0, None, 0, 0).through(100.0) == 122.0
    assert Mended(10.0, 100.0, 0, 0).through(100.0) == 60.0
    assert "in series" in Mended(10.0, 100.0, 0, 0, (0.1, 0.2)).words
    assert "beside the sender" in Mended(10.0, 100.0, 0, 0, (0.1, 0.2)).words


# pulses


@pytest.mark.parametrize(
    ("cylinders", "strokes", "a_coil", "sparks"),
    [
        (4, 4, None, 2.0),
        (6, 4, None, 3.0),
        (8, 4, None, 4.0),
        (4, 4, 2, 1.0),
        (4, 4, 1, 0.5),
        (2, 2, None, 2.0),
    ],
)
def test_sparks_a_turn(cylinders: int, strokes: int, a_coil: int | None, sparks: float) -> None:
    """Common practice: half as many as cylinders; one for two cylinders that fire together."""
    assert firing_a_turn(cylinders, strokes=strokes, a_coil=a_coil) == sparks


def test_pulses_in_hertz() -> None:
    """By hand: 4000 pulses a km at 90 km/h are 100 a second; 2 a turn at 3000 1/min, too."""
    assert hertz(4000, 90, a_turn=False) == pytest.approx(100)
    assert hertz(2, 3000, a_turn=True) == pytest.approx(100)
    assert pulses_a_km(8, 3.9, 1.95) == pytest.approx(16_000)
    for pulses, speed in ((-1, 10), (0, 10), (2, -10)):
        with pytest.raises(ValueError, match="above zero"):
            hertz(pulses, speed, a_turn=True)
    with pytest.raises(ValueError, match="above zero"):
        pulses_a_km(0, 3.9, 1.9)
    with pytest.raises(ValueError, match="cylinders"):
        firing_a_turn(0)
    with pytest.raises(ValueError, match="serves"):
        firing_a_turn(4, a_coil=5)


# in a job


def gauge_job(gauge: Device, source: Device, pin: str = "1") -> Job:
    wire = Wire("W1", End(gauge.code, "S"), End(source.code, pin))
    return Job(id="x", title="x", devices=(gauge, source), wires=(wire,))


def only(job: Job) -> Match:
    (match,) = matches(Network(job))
    return match


GAUGE = Device("D1", "Coolant gauge", "gauge", ("+", "S", "-"), curve=SENDER)
THERMISTOR = Device("D2", "Coolant sender", "thermistor", ("1", "2"), curve=SENDER)


def test_a_gauge_with_its_own_sender_is_right() -> None:
    match = only(gauge_job(GAUGE, THERMISTOR))
    assert match.verdict == "right"
    assert match.worst == pytest.approx(0, abs=1e-9)


def test_a_gauge_with_another_sender_is_wrong_and_what_mends_it_is_said() -> None:
    other = replace(GAUGE, curve=tuple((at, ohm + 12) for at, ohm in SENDER))
    match = only(gauge_job(other, THERMISTOR))
    assert match.verdict == "wrong"
    assert match.worst > 10
    assert match.mended is not None
    assert match.mended.series_ohm == 12.0
    assert "12 Ω in series" in match.does
    strange = replace(GAUGE, curve=tuple((at, 700 - ohm) for at, ohm in SENDER))
    lost = only(gauge_job(strange, THERMISTOR))
    assert lost.verdict == "wrong"
    assert "No resistor mends it" in lost.does


def test_a_sender_known_by_its_law_counts_and_one_of_which_nothing_is_typed_does_not() -> None:
    by_figures = replace(THERMISTOR, curve=(), values=(("ohm", 600.0), ("beta K", 3400.0)))
    wants = by_law(600.0, 3400.0, (20.0, 40.0, 60.0, 80.0, 100.0, 120.0))
    assert only(gauge_job(replace(GAUGE, curve=wants), by_figures)).verdict == "right"
    match = only(gauge_job(GAUGE, replace(THERMISTOR, curve=())))
    assert match.verdict == "not known"
    assert "Coolant sender (D2)" in match.says
    assert only(gauge_job(replace(GAUGE, curve=()), THERMISTOR)).verdict == "not known"


def test_curves_without_a_value_in_common_and_a_gauge_without_a_wire_are_told() -> None:
    cold = replace(THERMISTOR, curve=((-40.0, 9000.0), (0.0, 1500.0)))
    match = only(gauge_job(GAUGE, cold))
    assert match.verdict == "not known"
    assert "no value in common" in match.says
    alone = Job(id="x", title="x", devices=(GAUGE,))
    assert only(alone).verdict == "lost"


def test_pulses_are_compared_where_both_are_typed() -> None:
    tacho = Device("D1", "Tacho", "gauge", ("+", "S", "-"), values=(("pulses a turn", 3.0),))
    pickup = Device("D2", "Pickup", "pickup", ("1", "2"), values=(("pulses a turn", 2.0),))
    match = only(gauge_job(tacho, pickup))
    assert match.verdict == "wrong"
    assert match.ratio == pytest.approx(2 / 3)
    assert "67% of what is" in match.says
    assert "1.5 times" in match.does
    same = replace(pickup, values=(("pulses a turn", 3.0),))
    assert only(gauge_job(tacho, same)).verdict == "right"
    assert only(gauge_job(tacho, replace(pickup, values=()))).verdict == "not known"


def test_the_demo_has_a_gauge_15_k_off_and_a_tachometer_that_shows_two_thirds() -> None:
    told = {one.subject: one for one in find_all(Analysis(demo_job())) if one.rule == "gauge-off"}
    assert set(told) == {"D22", "D24"}
    assert "15 too much" in told["D22"].what
    assert "12 Ω in series" in told["D22"].remedy
    assert "67% of what is" in told["D24"].what
    mended = edits.change_part(demo_job(), "D22", curve=SENDER)
    assert "D22" not in {
        one.subject for one in find_all(Analysis(mended)) if one.rule == "gauge-off"
    }


def test_gauges_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["gauges", "--demo", "marten", "--json"]) == 0
    answer = {one["gauge"]: one for one in json.loads(capsys.readouterr().out)["gauges"]}
    assert answer["D22"]["series_ohm"] == 12.0
    assert answer["D24"]["ratio"] == pytest.approx(2 / 3)
    assert main(["gauges", "--demo", "marten"]) == 0
    assert "D22 Coolant gauge with D27: wrong" in capsys.readouterr().out
    assert main(["gauges", "--demo", "plover"]) == 0


# the inputs of a computer


def input_job(sensor: Device, *more: Device, wires: tuple[Wire, ...] = ()) -> Job:
    computer = Device("D9", "Computer", "controller", ("1", "2"), supplies=("1",))
    wire = Wire("W9", End(sensor.code, "1"), End("D9", "2"))
    return Job(id="x", title="x", devices=(sensor, computer, *more), wires=(wire, *wires))


def test_what_a_computer_sees_of_a_thermistor() -> None:
    """By hand: 5 V over 2200 and 240 ohms leave 0.492 V; half of 5 V where both are alike."""
    assert seen_v(240.0, 2200.0) == pytest.approx(5 * 240 / 2440)
    assert seen_v(2200.0, 2200.0) == pytest.approx(2.5)
    (one,) = inputs(Network(input_job(THERMISTOR)))
    volts = dict(one.volts)
    assert volts[60] == pytest.approx(5 * 142 / (142 + 2200))
    ohms = [seen_v(math.sqrt(75 * 42) * f, 2200.0) for f in (1,)]
    assert volts[90] == pytest.approx(ohms[0])
    assert one.best_ohm == pytest.approx(math.sqrt(75 * 42))
    # A step is 5 V / 1024; by the slope between 89.5 and 90.5 deg C.
    law = Curve(SENDER, logs=True)
    slope = [seen_v(law.ohm_at(t) or 0.0, 2200.0) for t in (89.5, 90.5)]
    assert one.step_k == pytest.approx(5 / 1024 / (slope[0] - slope[1]), rel=1e-6)


def test_a_pull_up_as_large_as_the_sensor_sees_most() -> None:
    """Held to a search over resistors."""
    law = Curve(SENDER, logs=True)

    def at(celsius: float) -> float:
        return law.ohm_at(celsius) or 1.0

    steps = {pull: step_k(at, pull, 90.0) for pull in np.geomspace(5, 5000, 400)}
    best = min(steps, key=lambda pull: steps[pull])
    assert best == pytest.approx(at(90.0), rel=0.03)


def test_a_sensor_taken_for_broken_and_one_with_a_gauge_beside_are_told() -> None:
    small = replace(THERMISTOR, curve=tuple((at, ohm / 30) for at, ohm in SENDER))
    told = {one.rule for one in find_all(Analysis(input_job(small)))}
    assert "sensor-out-of-range" in told
    fine = replace(THERMISTOR, curve=tuple((at, ohm * 6) for at, ohm in SENDER))
    assert "sensor-out-of-range" not in {one.rule for one in find_all(Analysis(input_job(fine)))}
    wire = Wire("W8", End("D2", "1"), End("D1", "S"))
    shared = input_job(fine, GAUGE, wires=(wire,))
    (one,) = inputs(Network(shared))
    assert one.beside == ("D1",)
    told_of = {one.rule: one for one in find_all(Analysis(shared))}
    assert "D9 and D1 at once" in told_of["sensor-shared"].what


def test_an_input_is_drawn_with_what_is_taken_for_broken(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, input_job(THERMISTOR), qtbot)
    assert view.inputs.rowCount() == 1
    view.tabs.setCurrentIndex(1)
    view.inputs_table.pick("D2")
    view._show_input("D2")
    scene = view.canvas.draw(600, 300)
    assert scene is not None
    assert any("at 90 °C" in text for text in scene.texts())
    assert window.hand.subject == "D2"


# in the window


def shown(window: MainWindow, job: Job, qtbot: QtBot) -> GaugeView:
    window.files.new()
    window.store.load(job, None)
    circuits = page(window, "Circuits")
    view: GaugeView = circuits.turn_to("Gauges")
    qtbot.waitUntil(lambda: not view.waits)
    return view


def test_gauges_are_shown_with_their_error_and_follow_what_is_in_hand(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, demo_job(), qtbot)
    assert view.model.rowCount() == 3
    assert view.canvas.match is not None
    assert view.canvas.match.gauge == "D22"
    assert "12 Ω in series" in view.said.text()
    view.choose("D24")
    assert window.hand.subject == "D24"
    assert view.canvas.match.worst == pytest.approx(-1 / 3)
    assert view.canvas.match.errors[-1] == pytest.approx((7000, -7000 / 3))
    assert view.canvas.draw(600, 300) is not None
    window.hand.pick("D27")
    assert view.canvas.match.gauge == "D22", "its sender leads to the gauge"
    scene = view.canvas.draw(600, 300)
    assert scene is not None
    assert "At 105 it shows 120, 15 too much." in scene.texts()


def test_a_typed_curve_changes_the_verdict(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, gauge_job(replace(GAUGE, curve=()), THERMISTOR), qtbot)
    assert view.found[0].verdict == "not known"
    window.store.do("Curve", lambda job: edits.change_part(job, "D1", curve=SENDER))
    qtbot.waitUntil(lambda: not view.waits and view.found[0].verdict == "right")
    window.store.history.undo()
    qtbot.waitUntil(lambda: not view.waits and view.found[0].verdict == "not known")


def test_a_job_without_gauges_says_how_to_get_one(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, Job(id="x", title="x"), qtbot)
    assert "no gauge in the job" in view.canvas.empty
    assert not view.tabs.isVisible()


def test_an_error_curve_stays_within_its_room() -> None:
    other = replace(GAUGE, curve=tuple((at, ohm * 1.4) for at, ohm in SENDER))
    scene = error_scene(only(gauge_job(other, THERMISTOR)), 500, 240)
    assert scene is not None
    for shape in scene.shapes:
        points = getattr(shape, "points", ())
        assert all(-1 <= p.x <= 501 and -1 <= p.y <= 241 for p in points)
