"""Charging: what is given, drawn and left, and a day played through, against sums by hand."""

import json
import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from conftest import page, type_cell
from molvik.analysis import Analysis
from molvik.circuits.balance import (
    accepts_a,
    balances,
    drive_of,
    play,
    problem,
    usual_drive,
)
from molvik.circuits.balancedrawing import DriveDrawing
from molvik.circuits.usage import taken, usual_share
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.stages.circuits.chargeview import ChargeView, advice, day_words
from molvik.desktop.window import MainWindow
from molvik.devices.kinds.alternator import OUTPUT_AT_RPM, share_at
from molvik.findings import find_all
from molvik.model import edits
from molvik.model.driving import Leg
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Device, EarthPoint, End, Wire, WireSize
from molvik.netlist.network import Network
from molvik.reference.charging import (
    EMPTY,
    FULL_SHARE,
    HOT_SHARE,
    KEPT,
    TAKES_ALL,
)
from molvik.typed.driving import LEG_FIELDS, type_leg, type_share, with_leg, without_legs
from molvik.typed.field import named

ROAD = Leg("on the road", 60.0, 2400.0)
PARKED = Leg("parked", 600.0, 0.0)


def car(*loads: tuple[str, float], most_a: float = 60.0) -> Job:
    """Return a vehicle with a battery of 60 Ah, an alternator and loads that are always on, each so
    many ohms; cables have next to no resistance.
    """
    devices = [
        Device("D1", "Battery", "battery", ("+", "-")),
        Device("D2", "Alternator", "alternator", ("B+",), case="E1", values=(("most A", most_a),)),
    ]
    heavy = WireSize("metric", 95)
    wires = [
        Wire("W1", End("D1", "+"), End("D2", "B+"), size=heavy, length_m=0.01),
        Wire("W2", End("D1", "-"), End("E1", ""), size=heavy, length_m=0.01),
    ]
    for number, (name, ohm) in enumerate(loads, 3):
        code = f"D{number}"
        devices.append(Device(code, name, "load", ("+", "-"), values=(("ohm", ohm),)))
        for place, end in (("+", End("D1", "+")), ("-", End("D1", "-"))):
            wires.append(
                Wire(f"W{len(wires) + 1}", End(code, place), end, size=heavy, length_m=0.01)
            )
    return Job(
        id="car",
        title="Car",
        devices=tuple(devices),
        wires=tuple(wires),
        earths=(EarthPoint("E1", "Block"),),
    )


def test_what_is_given_drawn_and_left_is_what_a_sum_by_hand_gives() -> None:
    """Set to 14.4 V behind 4 milliohms; the battery rests at 12.6 V behind 0.15 ohms while it is
    charged: V = (14.4/0.004 + 12.6/0.15) / (1/0.004 + 1/0.15 + 1/1.4).
    """
    (one,) = balances(car(("Pump", 1.4)), (ROAD,))
    volts = (14.4 / 0.004 + 12.6 / 0.15) / (1 / 0.004 + 1 / 0.15 + 1 / 1.4)
    assert one.battery_v == pytest.approx(volts, rel=2e-3)
    assert one.loads_a == pytest.approx(volts / 1.4, rel=2e-3)
    assert one.can_a == pytest.approx(60 * HOT_SHARE * share_at(OUTPUT_AT_RPM, 2400 * 2.5))
    assert one.left_a == pytest.approx(one.can_a - one.loads_a)
    assert dict(one.takes_a)[1.0] == pytest.approx((volts - 12.6) / 0.15, rel=0.02)


def test_a_day_by_hand() -> None:
    """An hour at 40 A drawn of 30 A given takes 10 Ah of 60; then nothing is drawn."""
    job = car(("Heater", 14.0))
    leg = Leg("crawling", 60.0, 700.0, extra_a=40.0)
    (one,) = balances(job, (leg,))
    drive = play(job, (leg,), 0.9)
    wanted = 0.9 + one.left_a * 1.0 / 60
    assert one.left_a < 0
    assert drive.charge[-1] == pytest.approx(wanted, abs=1e-6)
    assert drive.minutes[-1] == pytest.approx(60.0)
    # A battery that is not full takes all that is left, and keeps nine tenths of it.
    leg = Leg("on the road", 30.0, 3000.0, shares=(("D3", 0.0),))
    (two,) = balances(job, (leg,))
    drive = play(job, (leg,), 0.5)
    takes = accepts_a(two.takes_a, 0.5)
    assert takes < two.left_a
    assert drive.charge[-1] == pytest.approx(0.5 + takes * KEPT * 0.5 / 60, rel=0.01)


def test_parked_it_loses_what_the_battery_gives() -> None:
    """By hand: 1.26 ohms take 12.6 V / 1.272 ohms = 9.9 A with the battery's own 12 milliohms."""
    job = car(("Clock", 1.26))
    (one,) = balances(job, (PARKED,))
    assert one.loads_a == pytest.approx(12.6 / 1.272, rel=2e-3)
    assert one.can_a == 0
    (more,) = balances(job, (replace(PARKED, extra_a=2.5),))
    assert more.loads_a == pytest.approx(one.loads_a + 2.5)
    drive = play(job, (PARKED,), 1.0)
    assert drive.empty_min == pytest.approx((1 - EMPTY) * 60 / one.loads_a * 60, rel=0.02)
    assert drive.empty_in == ("parked", drive.empty_min)
    assert "After 4.9 h “parked”" in day_words(drive)


def test_parked_a_load_that_is_typed_to_be_on_for_a_while_counts_for_that_while() -> None:
    job = car(("Fridge", 6.3), ("Clock", 1260.0))
    (always,) = balances(job, (PARKED,))
    (half,) = balances(job, (replace(PARKED, shares=(("D3", 0.5),)),))
    fridge = next(draw for draw in always.draws if draw.device == "D3")
    assert fridge.amps == pytest.approx(12.6 / 6.312, rel=5e-3)
    assert half.loads_a == pytest.approx(always.loads_a - 0.5 * fridge.amps)
    assert half.loads_a == pytest.approx(sum(draw.mean_a for draw in half.draws), rel=1e-3)


def beside(job: Job, *, in_series: bool) -> Job:
    """Return a job with a second battery, of 40 Ah, beside the first or on top of it."""
    second = Device("D90", "Second battery", "battery", ("+", "-"), values=(("Ah", 40.0),))
    heavy = WireSize("metric", 95)
    if not in_series:
        wires = (
            Wire("W90", End("D90", "+"), End("D1", "+"), size=heavy, length_m=0.01),
            Wire("W91", End("D90", "-"), End("D1", "-"), size=heavy, length_m=0.01),
        )
        return replace(job, devices=(*job.devices, second), wires=(*job.wires, *wires))
    lifted = tuple(
        replace(
            wire,
            **{
                side: End("D90", "+")
                for side, end in (("start", wire.start), ("finish", wire.finish))
                if end == End("D1", "+")
            },
        )
        for wire in job.wires
    )
    link = Wire("W90", End("D90", "-"), End("D1", "+"), size=heavy, length_m=0.01)
    job = replace(job, devices=(*job.devices, second), wires=(*lifted, link))
    return edits.change_settings(job, system_v=24.0)


def test_batteries_side_by_side_hold_out_longer_and_those_in_series_have_the_voltage_of_both() -> (
    None
):
    """By hand: 60 and 40 Ah side by side are 100 Ah; in series the 40 Ah are what there is."""
    day = (replace(PARKED, minutes=6000.0),)
    job = car(("Clock", 12.6))
    one = play(job, day, 1.0)
    two = play(beside(job, in_series=False), day, 1.0)
    assert one.empty_min == pytest.approx(0.8 * 60 / one.balances[0].loads_a * 60, rel=0.01)
    assert two.empty_min == pytest.approx(0.8 * 100 / two.balances[0].loads_a * 60, rel=0.01)
    row = play(beside(job, in_series=True), day, 1.0)
    assert row.balances[0].battery_v == pytest.approx(2 * 12.6, rel=0.01)
    assert row.volts[0] == pytest.approx(2 * 12.6)
    assert row.empty_min == pytest.approx(0.8 * 40 / row.balances[0].loads_a * 60, rel=0.02)


def test_figures_that_nobody_typed_are_named() -> None:
    assert taken(Network(car())) == ("Battery holds 60 Ah",)
    bare = replace(car(), devices=tuple(replace(one, values=()) for one in car().devices))
    assert taken(Network(bare)) == ("Battery holds 60 Ah", "Alternator gives 90 A")
    weak = car(("Pump", 0.1))
    untyped = tuple(replace(one, values=()) if one.code == "D2" else one for one in weak.devices)
    weak = replace(weak, devices=untyped)
    typed = edits.change_settings(weak, drive=(Leg("crawling", 30.0, 800.0),))
    (told,) = [one for one in find_all(Analysis(typed)) if one.rule == "charge-short"]
    assert told.severity == "note"
    assert "Nobody typed that Alternator gives 90 A: that is a guess." in told.why
    drive = play(bare, usual_drive())
    assert "Taken, for it is not typed: Battery holds 60 Ah" in advice(drive)


def test_a_flat_battery_takes_more_than_a_full_one_never_less() -> None:
    job = car(("Pump", 1.4))
    (one,) = balances(job, (ROAD,))
    taken = [accepts_a(one.takes_a, charge / 100) for charge in range(0, 101, 5)]
    assert taken == sorted(taken, reverse=True)
    assert taken[-1] == pytest.approx(dict(one.takes_a)[1.0] * FULL_SHARE)
    assert taken[0] > 1.3 * dict(one.takes_a)[1.0]


@given(st.floats(0, 1), st.floats(0, 1))
def test_acceptance_falls_as_it_fills(one: float, other: float) -> None:
    """Common practice, from memory: all of it to 80 %, then evenly less."""
    takes = ((0.0, 18.0), (0.5, 14.0), (1.0, 10.0))
    low, high = sorted((one, other))
    assert accepts_a(takes, low) >= accepts_a(takes, high) - 1e-9
    if high <= TAKES_ALL:
        assert accepts_a(takes, 0.5) == pytest.approx(14.0)


def test_which_alternator_or_which_pulleys_would_do() -> None:
    job = car(("Pump", 0.3), most_a=60.0)
    (one,) = balances(job, (Leg("in traffic", 30.0, 800.0),))
    assert one.left_a < 0
    share = HOT_SHARE * share_at(OUTPUT_AT_RPM, 800 * 2.5)
    assert one.rating_a == pytest.approx(one.loads_a / share)
    bigger = car(("Pump", 0.3), most_a=one.rating_a + 0.1)
    (two,) = balances(bigger, (Leg("in traffic", 30.0, 800.0),))
    assert two.left_a == pytest.approx(0.1 * share, abs=0.01)
    assert (
        one.pulleys is None
        or HOT_SHARE * 60 * share_at(OUTPUT_AT_RPM, 800 * one.pulleys) >= one.loads_a
    )
    weak = car(("Pump", 0.6), most_a=40.0)
    (three,) = balances(weak, (Leg("in traffic", 30.0, 900.0),))
    assert three.left_a < 0
    assert three.pulleys is not None
    assert 40 * HOT_SHARE * share_at(OUTPUT_AT_RPM, 900 * three.pulleys) >= three.loads_a
    assert 40 * HOT_SHARE * share_at(OUTPUT_AT_RPM, 900 * (three.pulleys - 0.1)) < three.loads_a
    (slow,) = balances(job, (Leg("hardly turning", 30.0, 100.0),))
    assert slow.can_a == 0
    assert math.isinf(slow.rating_a)


def test_an_alternator_that_is_not_excited_gives_nothing() -> None:
    job = car(("Pump", 1.4))
    devices = tuple(
        replace(one, terminals=("B+", "L")) if one.code == "D2" else one for one in job.devices
    )
    (one,) = balances(replace(job, devices=devices), (ROAD,))
    assert not one.charges
    assert one.can_a == 0
    assert one.left_a == pytest.approx(-one.loads_a)


def test_with_plus_at_metal_it_comes_to_the_same() -> None:
    job = car(("Pump", 1.4))
    turned = edits.change_settings(job, earthed="plus")
    swap = {"+": "-", "-": "+"}
    wires = tuple(
        replace(
            wire,
            **{
                side: End("D1", swap[end.cavity])
                for side, end in (("start", wire.start), ("finish", wire.finish))
                if end.at == "D1"
            },
        )
        for wire in turned.wires
    )
    (one,), (other,) = balances(job, (ROAD,)), balances(replace(turned, wires=wires), (ROAD,))
    assert other.battery_v == pytest.approx(one.battery_v)
    assert other.loads_a == pytest.approx(one.loads_a)


@pytest.mark.parametrize(
    ("name", "night", "rain", "idle", "share"),
    [
        ("Headlamps", True, False, False, 1.0),
        ("Headlamps", False, False, False, 0.0),
        ("Wiper motor", False, True, False, 0.8),
        ("Brake lamp, left", False, False, True, 0.5),
        ("Fuel pump", False, False, False, 1.0),
        ("Oxygen sensor heater", False, False, False, 1.0),
        ("Horn", True, True, True, 0.0),
        ("Scheinwerfer links", False, True, False, 0.0),
        ("Scheibenwischer", False, True, False, 0.8),
        ("Bremslicht", True, False, False, 0.05),
        ("Rückfahrlicht", True, False, False, 0.01),
        ("Feu stop gauche", False, False, True, 0.5),
        ("Lunette chauffante", False, False, False, 0.0),
        ("Klaxon", True, True, True, 0.0),
        ("Infantry lamp", False, False, False, 1.0),
    ],
)
def test_how_long_a_load_is_on_goes_by_its_name_until_it_is_typed(
    name: str, night: bool, rain: bool, idle: bool, share: float
) -> None:
    """Our guesses, from memory; no source."""
    leg = Leg("x", 10.0, 800.0 if idle else 2400.0, night, rain)
    assert usual_share(name, leg) == pytest.approx(share)


def test_what_the_user_types_counts() -> None:
    job = car(("Headlamps", 1.4), ("Pump", 2.8))
    typed = type_share(job, 0, "D3", "25 %").edit(edits.change_settings(job, drive=(ROAD,)))
    (one,) = balances(typed, drive_of(typed))
    of = {draw.device: draw for draw in one.draws}
    assert (of["D3"].share, of["D3"].typed) == (0.25, True)
    assert not of["D4"].typed
    again = type_share(typed, 0, "D3", "").edit(typed)
    assert again.settings.drive == (ROAD,)
    with pytest.raises(ValueError, match="Share in per cent"):
        type_share(job, 0, "D3", "150")


@pytest.mark.parametrize(
    ("field", "text", "told"),
    [
        ("Part", " ", "a name"),
        ("Time", "-5", "not possible"),
        ("Engine", "fast", "engine speed"),
        ("Night", "perhaps", "neither yes nor no"),
        ("More", "lots", "lots"),
    ],
)
def test_what_cannot_be_is_refused_where_it_is_typed(field: str, text: str, told: str) -> None:
    with pytest.raises(ValueError, match=told):
        type_leg(car(), 0, named(LEG_FIELDS, field), text)


@pytest.mark.parametrize(
    ("field", "text", "name", "value"),
    [
        ("Time", "2 h", "minutes", 120.0),
        ("Time", "45", "minutes", 45.0),
        ("Engine", "0", "rpm", 0.0),
        ("Rain", "yes", "rain", True),
        ("More", "12 A", "extra_a", 12.0),
        ("More", "", "extra_a", 0.0),
    ],
)
def test_parts_of_the_day_are_typed(field: str, text: str, name: str, value: Any) -> None:
    job = type_leg(car(), 1, named(LEG_FIELDS, field), text).edit(car())
    assert getattr(job.settings.drive[1], name) == value
    assert len(job.settings.drive) == len(usual_drive())
    shown = named(LEG_FIELDS, field).show(job.settings.drive[1])
    assert type_leg(job, 1, named(LEG_FIELDS, field), shown).edit(job) == job


def test_a_day_that_cannot_be_is_refused_and_a_job_without_what_charges_says_so() -> None:
    for leg in (
        Leg("", 1, 1),
        Leg("x", -1, 1),
        Leg("x", 1, math.nan),
        Leg("x", 1, 1, shares=(("D3", 2.0),)),
        Leg("x", 1, 1, extra_a=-1),
    ):
        with pytest.raises(EditError):
            edits.change_settings(car(), drive=(leg,))
    bare = Job(id="x", title="x")
    assert "no battery" in problem(bare)
    assert "no alternator" in problem(replace(bare, devices=car().devices[:1]))
    assert "No wire goes to B+" in problem(replace(car(), wires=()))
    unled = replace(car().devices[1], terminals=("L",))
    assert "no terminal B+" in problem(replace(car(), devices=(car().devices[0], unled)))
    with pytest.raises(ValueError, match="no battery"):
        play(bare, usual_drive())
    with pytest.raises(ValueError, match="no minutes"):
        play(car(), (Leg("x", 0.0, 800.0),))
    with pytest.raises(ValueError, match="share of full"):
        play(car(), usual_drive(), 1.5)
    assert play(car(), (Leg("x", 0.0, 800.0), ROAD)).minutes[-1] == pytest.approx(60.0)


def test_the_day_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["charge", "--demo", "marten", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert [part["name"] for part in answer["parts"]] == [leg.name for leg in usual_drive()]
    assert answer["begins_with"] == 0.8
    assert main(["charge", "--demo", "marten", "--begin", "50"]) == 0
    assert "Begins with 50%" in capsys.readouterr().out
    assert main(["charge", "--demo", "plover"]) in (0, 2)
    assert main(["charge", "--demo", "marten", "--begin", "500"]) == 2


def short(job: Job) -> dict[str, str]:
    return {
        one.subject: one.severity for one in find_all(Analysis(job)) if one.rule == "charge-short"
    }


def test_a_part_of_the_day_that_takes_more_than_is_given_is_told() -> None:
    weak = car(("Pump", 0.3), most_a=60.0)
    assert short(weak) == {"D2": "note"}, "how long each is on is a guess"
    typed = edits.change_settings(weak, drive=(Leg("crawling", 30.0, 800.0),))
    assert short(typed) == {"D2": "look"}
    (told,) = [one for one in find_all(Analysis(typed)) if one.rule == "charge-short"]
    (one,) = balances(typed, typed.settings.drive)
    assert f"{one.loads_a:.0f} A" in told.what
    assert f"{one.can_a:.0f} A" in told.what
    assert short(car(("Pump", 3.0))) == {}
    assert short(edits.change_settings(weak, drive=(PARKED,))) == {}


@pytest.mark.parametrize("ohm", [0.2, 0.3, 0.4, 0.5, 0.6, 0.8, 1.0, 2.0])
def test_what_is_looked_at_first_leaves_nothing_out(ohm: float) -> None:
    """The finding is there whenever the whole sum says so, for loads of every size."""
    job = edits.change_settings(car(("Pump", ohm)), drive=(Leg("crawling", 30.0, 900.0),))
    (one,) = balances(job, job.settings.drive)
    assert bool(short(job)) == (one.left_a < 0)


# in the window


def shown(window: MainWindow, job: Job, qtbot: QtBot) -> ChargeView:
    window.files.new()
    window.store.load(job, None)
    circuits = page(window, "Circuits")
    view: ChargeView = circuits.turn_to("Charging")
    qtbot.waitUntil(lambda: not view.waits)
    return view


def test_the_demo_says_that_its_battery_is_flat_in_the_morning(
    window: MainWindow, qtbot: QtBot
) -> None:
    view = shown(window, demo_job(), qtbot)
    assert "“parked” the battery turns no engine" in view.said.text()
    assert view.drive is not None
    scene = view.canvas.draw(740, 320)
    assert scene is not None
    assert "parked" in scene.texts()
    view.choose(3)
    assert "drawn from the battery" in view.more.text()
    assert view.draws.rowCount() >= 2


def test_the_day_is_changed_in_its_table_and_undone(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, car(("Pump", 1.4)), qtbot)
    type_cell(view.parts_table, "0", "Time", "2 h")
    assert window.store.job.settings.drive[0].minutes == 120
    qtbot.waitUntil(lambda: not view.waits)
    assert view.usual_button.isVisible()
    qtbot.mouseClick(view.add_button, Qt.MouseButton.LeftButton)
    assert len(window.store.job.settings.drive) == 5
    view._remove(["4"])
    assert len(window.store.job.settings.drive) == 4
    qtbot.mouseClick(view.usual_button, Qt.MouseButton.LeftButton)
    assert window.store.job.settings.drive == ()
    window.store.history.undo()
    assert len(window.store.job.settings.drive) == 4
    qtbot.waitUntil(lambda: not view.waits)
    view.choose(0)
    type_cell(view.draws_table, "D3", "On", "10")
    assert dict(window.store.job.settings.drive[0].shares) == {"D3": 0.1}


def test_a_job_that_charges_nothing_says_what_is_missing(window: MainWindow, qtbot: QtBot) -> None:
    view = shown(window, Job(id="x", title="x"), qtbot)
    assert "no battery" in view.canvas.empty
    assert view.canvas.draw(700, 300) is None
    assert not view.drawer.isVisible()


def test_days_of_one_part_and_of_many_are_drawn_within_their_room() -> None:
    for legs in ((ROAD,), tuple(Leg(f"part {n}", 10.0 * n, 800.0) for n in range(1, 13))):
        scene = DriveDrawing(play(car(("Pump", 1.4)), legs), 700, 320).scene
        assert len(scene.areas) == len(legs)
        for area in scene.areas:
            assert 0 <= area.box.x <= area.box.right <= 701


def test_parts_are_added_and_taken_out() -> None:
    job = with_leg(car())
    assert len(job.settings.drive) == 5
    assert [leg.name for leg in without_legs(job, [0, 1]).settings.drive][-1] == "new part"


def test_a_winch_has_a_part_of_the_usual_day() -> None:
    """It takes what it takes for five minutes, and nothing else of the day is changed by it."""
    plain, job = car(("Pump", 1.4)), car(("Pump", 1.4), ("Winch, front", 0.1))
    assert [leg.name for leg in drive_of(plain)] == [leg.name for leg in usual_drive()]
    legs = drive_of(job)
    assert [leg.name for leg in legs if leg.name not in {one.name for one in usual_drive()}] == [
        "at work: Winch, front"
    ]
    at_work, road = (
        next(one for one in balances(job, legs) if one.leg.name.startswith(name))
        for name in ("at work", "on the road, by day")
    )
    assert at_work.loads_a - road.loads_a == pytest.approx(at_work.set_v / 0.1, rel=0.03)
    assert at_work.left_a < 0
