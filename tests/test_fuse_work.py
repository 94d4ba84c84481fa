"""What a fuse has to bear; what another wire, or another voltage, comes to."""

import json
import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from conftest import answer, awg, cell, found, metric, page, put_job
from molvik.analysis import Analysis
from molvik.circuits.simulate import OperatingPoint
from molvik.cli import main
from molvik.desktop.stages.sizes.substituting import SubstituteDialog
from molvik.desktop.stages.sizes.voltages import VoltageDialog
from molvik.desktop.window import MainWindow
from molvik.devices.states import CRANK, RUN, RUNNING
from molvik.electrical.conductor import resistance_ohm_per_m
from molvik.electrical.fusing import (
    bears_inrush,
    choose_fuse,
    overload_c,
    quickest_s,
    slowest_s,
    smallest_carrying_a,
)
from molvik.electrical.heat import outside_diameter_mm
from molvik.electrics import Electrics
from molvik.findings import find_all
from molvik.model.edits import change_wire
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, End, Fuse, Grid, Wire
from molvik.model.routing import Routing
from molvik.netlist.network import Network
from molvik.reference.copper import AWG_SIZES
from molvik.reference.fuses import RATINGS_A, TIME_LIMITS, curve_of
from molvik.reference.insulation import INSULATIONS, insulation
from molvik.sizes.fuses import alone_up_to_a
from molvik.sizes.hot import temperature_c
from molvik.sizes.sizing_case import sizing_case
from molvik.sizes.substitute import in_words, substitute
from molvik.sizes.voltage import at_volts, parts_then, wires_then, with_sizes
from molvik.sizes.wire import judge, smallest
from test_alive import DIRECT, LAMP, job_of

# Common practice, with no source


def test_a_charge_cable_as_it_is_usually_made_passes() -> None:
    # 4 AWG with a 175 A bolt-down fuse for a 130 A alternator over 1.2 m.
    wire = Wire(
        "W1",
        End("F1", "out"),
        End("D2", "B+"),
        size=awg(4),
        load_a=130,
        length_m=1.2,
        insulation="SGX",
        use="charging",
    )
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    maker = Device("D2", "Alternator", "alternator", ("B+",))
    fuse = Fuse("F1", "Charging", 175, "bolt-down")
    feed = Wire("W2", End("D1", "+"), End("F1", "in"), size=awg(4), length_m=0.2)
    job = Job("x", devices=(battery, maker), fuses=(fuse,), wires=(feed, wire))
    sizing = judge(awg(4), sizing_case(Network(job), wire))
    assert sizing.passes, sizing
    assert not sizing.unknown
    # Old PVC cable of the same copper is not protected by it.
    pvc = judge(awg(4), sizing_case(Network(job), replace(wire, insulation="SGT")))
    assert "fuse" in {one.name for one in pvc.criteria if not one.passes}


def test_a_200_ampere_main_fuse_carries_a_big_engines_starter() -> None:
    # A starter of some 250 A through 200 A: more than 15 s, even the quickest.
    soonest = quickest_s("bolt-down", 250 / 200)
    assert soonest is not None
    assert soonest > 15
    # 400 A would open it: twice the rating, 1 s at the quickest (ISO 8820-5).
    assert quickest_s("bolt-down", 2.0) == pytest.approx(1.0)


def crank_job(rating_a: float) -> Job:
    starter = Device(
        "D3", "Starter", "starter", ("30", "50"), case="E1", values=(("motor ohm", 0.03),)
    )
    key = Device("D2", "Key", "switch", ("30", "15", "50"), (("30", "15"), ("30", "50")))
    job = job_of(
        "D1/+ F1/in, F1/out D3/30, F1/out D2/30, D2/50 D3/50, E1 D1/-",
        key,
        starter,
        fuses=(Fuse("F1", "Main", rating_a, "bolt-down"),),
    )
    wires = tuple(replace(wire, size=metric(70)) for wire in job.wires)
    return replace(job, wires=wires)


def test_a_main_fuse_that_cranking_opens_is_found() -> None:
    small = found(crank_job(100))
    assert small["fuse-cranking"][0].subject == "F1"
    assert "cranking" in small["fuse-cranking"][0].what
    assert "fuse-cranking" not in found(crank_job(300))


@pytest.mark.parametrize("rating_a", [20, 40, 60, 80, 100, 125, 150, 175, 200, 250, 300, 500])
@pytest.mark.parametrize("kind", ["blade", "bolt-down", "fusible link", "breaker"])
def test_whether_a_fuse_outlasts_cranking_is_said_once(rating_a: float, kind: str) -> None:
    """The engine starts through a fuse exactly when no stop says that it opens."""
    job = crank_job(rating_a)
    job = replace(job, fuses=(Fuse("F1", "Main", rating_a, kind),))  # type: ignore[arg-type]
    analysis = Analysis(job)
    cranked = analysis.operating_point(CRANK)
    stops = {one.rule for one in find_all(analysis) if one.severity == "stop"}
    opens = "F1" in cranked.blown
    assert opens == ("fuse-cranking" in stops)
    assert opens == (cranked.no_start != "")
    amps = cranked.blown["F1"].amps if opens else analysis.electrics.fuse_work["F1"].crank_a
    assert opens == (slowest_s(curve_of(kind, rating_a), amps / rating_a) <= 15)


def test_six_volts_need_the_next_cable_up() -> None:
    # A starter of the same power takes twice the current; the same share of half the voltage is a
    # quarter of the drop.
    cable = Wire(
        "W1",
        End("D1", "+"),
        End("D3", "30"),
        size=awg(4),
        load_a=150,
        length_m=1.5,
        insulation="SGX",
        use="starter",
    )
    job = Job("x", devices=(Device("D1", "Battery", "battery", ("+", "-")),), wires=(cable,))
    electrics = Electrics(job)
    sizing_cases = electrics.sizing_cases
    twelve = smallest(sizing_cases["W1"], "awg")
    (then,) = wires_then(job, electrics, 6.0, "awg", Electrics)
    assert then.then_a == 300
    # Twice the current over half the voltage, and copper that is warmer for it.
    now, hotter = (
        resistance_ohm_per_m(awg(4), temperature_c(awg(4), one) or 0.0)
        for one in (sizing_cases["W1"], Electrics(at_volts(job, 6.0)).sizing_cases["W1"])
    )
    assert hotter > now
    assert then.then == pytest.approx(4 * (then.now or 0.0) * hotter / now)
    assert twelve is not None
    assert then.needs is not None
    assert AWG_SIZES.index(then.needs) > AWG_SIZES.index(twelve)
    # And back again nothing is lost.
    there = with_sizes(job, 6.0, (then,))
    assert there.settings.system_v == 6
    assert there.wires[0].load_a == 300
    assert there.wires[0].size == then.needs
    assert with_sizes(there, 12.0, ()).wires[0].load_a == 150


def test_what_was_typed_of_a_device_is_of_the_same_power_at_another_voltage() -> None:
    """A lamp of 5 A, a horn of 4 ohms and a battery of 12.6 V and 70 Ah, from 12 to 6 V and back:
    by P = U I and P = U2 / R. What is promised is what then flows.
    """
    lamp = Device("D2", "Lamp", "lamp", ("+", "-"), values=(("A", 5.0),))
    coil = Device("D3", "Coil", "coil", ("+", "-"), values=(("ohm", 4.0),))
    battery = Device(
        "D1", "Battery", "battery", ("+", "-"), values=(("rest V", 12.6), ("Ah", 70.0))
    )
    job = job_of("D1/+ D2/+, D2/- E1, D1/+ D3/+, D3/- E1, D1/- E1", lamp, coil)
    job = replace(job, devices=(battery, lamp, coil))
    there = with_sizes(job, 6.0, ())
    figures_then = {device.code: dict(device.values) for device in there.devices}
    assert figures_then["D2"] == {"A": 10.0}
    assert figures_then["D3"] == {"ohm": 1.0}
    assert figures_then["D1"] == {"rest V": 6.3, "Ah": 140.0}
    now, then = (OperatingPoint(Network(one), RUN).load["D2"].amps for one in (job, there))
    assert then == pytest.approx(2 * now, rel=0.06), "not the 5 A it had"
    back = with_sizes(there, 12.0, ())
    assert {device.code: dict(device.values) for device in back.devices} == {
        device.code: dict(device.values) for device in job.devices
    }


def test_words_for_going_down_are_not_those_for_going_up() -> None:
    heater, resistor = Device("D2", "Seat", "heater"), Device("D3", "Ballast", "resistor")
    job = Job("x", devices=(heater, resistor, Device("D4", "G", "gauge")))
    down = {one.code: one.what for one in parts_then(job, 6.0)}
    up = {one.code: one.what for one in parts_then(job, 24.0)}
    assert "a quarter of the heat" in down["D2"]
    assert "four times the heat" in up["D2"]
    assert "a quarter of its ohms" in down["D3"], "ballast resistors are not forgotten"
    assert "limiter before it" in up["D4"]
    assert "limiter cannot raise" in down["D4"]


# Fuses: the quickest and the slowest


@pytest.mark.parametrize("kind", ["blade", "bolt-down"])
def test_the_band_goes_through_the_published_points(kind: str) -> None:
    # ISO 8820-3 and 8820-5, from memory.
    for limit in TIME_LIMITS[kind]:
        if limit.least_s:
            assert (
                quickest_s(kind, limit.multiple * 1.0000001)
                == pytest.approx(limit.least_s, rel=1e-3)
                or limit == TIME_LIMITS[kind][0]
            )
        if limit.most_s:
            assert slowest_s(kind, limit.multiple) == pytest.approx(limit.most_s)


@given(st.sampled_from(sorted(TIME_LIMITS)), st.floats(1.0, 50.0))
def test_the_quickest_is_never_slower_than_the_slowest(kind: str, multiple: float) -> None:
    soonest = quickest_s(kind, multiple)
    assert soonest is None or soonest <= slowest_s(kind, multiple)


@given(st.floats(0.5, 30), st.floats(1, 10), st.floats(0.005, 3))
def test_a_fuse_chosen_for_a_start_bears_it(load_a: float, times: float, seconds: float) -> None:
    inrush = (load_a * times, seconds)
    for kind in ("blade", "bolt-down"):
        rating = smallest_carrying_a(load_a, kind, 60, inrush)
        plain = smallest_carrying_a(load_a, kind, 60)
        assert rating is None or plain is not None
        if rating is not None and plain is not None:
            assert rating >= plain
            assert bears_inrush(curve_of(kind, rating), rating, inrush)


def test_a_hot_place_takes_something_off_a_fuse() -> None:
    assert smallest_carrying_a(8, "blade", 60) == 10
    assert smallest_carrying_a(8, "blade", 110) == 15
    assert choose_fuse(metric(4), insulation("C125"), 60, 8, (60, 0.1)) == ("blade", 30)


def test_cross_linked_insulation_bears_more_for_less_time_and_pvc_does_not() -> None:
    # The thermal overload test of ISO 6722-1: class plus 50 K for 6 h (from memory).
    linked, pvc = insulation("C125"), insulation("B100")
    assert overload_c(linked, 6 * 3600) == 175
    assert overload_c(linked, 3 * 3600) == pytest.approx(185)
    assert overload_c(linked, 5) == 250  # IEC 60364-4-43
    assert {overload_c(pvc, seconds) for seconds in (5, 600, 6 * 3600)} == {150}
    # ISO 6722-1: class and 25 K for 240 h (from memory), and for ever.
    for kind, most in ((linked, 150), (pvc, 125)):
        assert overload_c(kind, 240 * 3600) == overload_c(kind, math.inf) == pytest.approx(most)


def test_which_fuse_opens_first() -> None:
    ten, thirty, main = Fuse("F1", "", 10), Fuse("F2", "", 30), Fuse("F3", "", 80, "bolt-down")
    # Heat that melts: a blade fuse of 3.6 R2 at the slowest, of 0.49 R2 at the quickest.
    assert alone_up_to_a(ten, thirty) == math.inf
    assert alone_up_to_a(ten, main) == math.inf
    assert alone_up_to_a(ten, Fuse("F4", "", 15)) < 60
    assert alone_up_to_a(ten, ten) == 0
    assert alone_up_to_a(thirty, ten) == 0


@given(st.sampled_from(RATINGS_A["blade"]), st.sampled_from(RATINGS_A["bolt-down"]))
def test_up_to_there_the_one_before_holds(near: float, far: float) -> None:
    first, before = Fuse("F1", "", near), Fuse("F2", "", far, "bolt-down")
    most = alone_up_to_a(first, before)
    for share in (0.2, 0.5, 0.9, 1.0):
        amps = min(most, 20_000.0) * share
        if amps >= 1.35 * near:
            soonest = quickest_s("bolt-down", amps / far)
            assert soonest is None or soonest > slowest_s("blade", amps / near) * 0.98


def test_what_starts_behind_a_fuse_is_added_to_what_runs() -> None:
    pump = Device("D3", "Pump", "motor", ("+", "-"), values=(("A", 5.0), ("inrush times", 6.0)))
    job = job_of(
        DIRECT + ", F1/out D4/+, D4/- E1",
        pump,
        Device("D4", "Lamp", "lamp", ("+", "-"), values=(("A", 4.0),)),
        fuses=(Fuse("F1", "Both", 10),),
    )
    work = Analysis(job).electrics.fuse_work["F1"]
    assert work.starter == "Pump"
    assert work.inrush is not None
    volts = 12.6 / 12  # a little more than nominal flows
    assert work.inrush[0] == pytest.approx((4 + 30) * volts, rel=0.05)
    assert not work.bears_inrush
    assert found(job)["fuse-inrush"][0].subject == "F1"
    larger = replace(job, fuses=(Fuse("F1", "Both", 20),))
    assert "fuse-inrush" not in found(larger)


def test_a_fuse_behind_one_that_is_no_larger_is_found() -> None:
    wires = "D1/+ F1/in, F1/out F2/in, F2/out D3/+, D3/- E1, E1 D1/-"
    job = job_of(wires, LAMP, fuses=(Fuse("F1", "First", 5), Fuse("F2", "Second", 10)))
    assert found(job)["fuse-order"][0].severity == "look"
    good = replace(job, fuses=(Fuse("F1", "First", 40, "bolt-down"), Fuse("F2", "Second", 10)))
    assert "fuse-order" not in found(good)


def test_a_wire_that_steps_down_behind_one_fuse_is_found() -> None:
    wires = "D1/+ F1/in, F1/out S1, S1 D3/+, D3/- E1, E1 D1/-"
    job = job_of(wires, LAMP)
    job = change_wire(job, "W2", size=metric(4), insulation="C125")
    job = change_wire(job, "W3", size=metric(0.5), insulation="C125")
    finding = next(one for one in found(job)["fuse-too-large"] if one.subject == "W3")
    assert "steps down from W2, 4 mm²" in finding.what


def test_all_the_cable_before_the_first_fuse_counts_and_how_to_shorten_it_is_said() -> None:
    wires = "D1/+ D2/M8, D2/M8 F1/in, F1/out D3/+, D3/- E1, E1 D1/-"
    job = job_of(wires, LAMP, Device("D2", "Stud", "bus bar", ("M8",)))
    job = change_wire(job, "W1", length_m=0.4)
    job = change_wire(job, "W2", length_m=0.3)
    finding = found(job)["far-fuse"][0]
    assert "W1 and W2 run 0.7 m" in finding.what
    assert "Shorten W1, 0.4 m" in finding.remedy
    near = change_wire(job, "W1", length_m=0.1)
    assert "far-fuse" not in found(near)


def test_a_typed_current_that_is_too_small_is_told() -> None:
    job = job_of(DIRECT, Device("D3", "Lamp", "lamp", ("+", "-"), values=(("A", 8.0),)))
    low = change_wire(job, "W2", load_a=3.0)
    assert found(low)["current-differs"][0].subject == "W2"
    assert "8" in found(low)["current-differs"][0].what
    assert "current-differs" not in found(change_wire(job, "W2", load_a=8.0))


def test_the_fuse_that_is_advised_bears_the_start_of_the_load(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W118")  # the wiper motor
    texts = [value.text() for _, value in sizes.detail.advice._rows if not value.isHidden()]
    advised = next(text for text in texts if "carries the load" in text)
    assert "its start of 19 A" in advised
    rating = float(advised.split()[0])
    assert bears_inrush("blade", rating, (19, 0.08))


# Another wire in its place


def sealed() -> tuple[Job, Wire]:
    wire = Wire(
        "W1",
        End("C1", "1"),
        End("D3", "+"),
        size=metric(1),
        load_a=5,
        length_m=1,
        insulation="C125",
    )
    plug = Connector("C1", "Plug", Grid(1, 2), contact="16")
    return Job("x", connectors=(plug,), wires=(wire,)), wire


def test_a_substitute_is_compared_in_copper_class_and_outside() -> None:
    job, wire = sealed()
    asked = sizing_case(Network(job), wire)
    same = substitute(metric(1), asked, metric(1), insulation("C125"))
    assert same.copper == 1
    assert same.will_do
    # ASTM B258: 16 AWG is 1.309 mm2; ISO 6722-1 has the 1 mm2 conductor at 18.5 mohm/m.
    more = substitute(metric(1), asked, awg(16), insulation("GXL"))
    assert more.copper == pytest.approx(1.309 / (1.7241e-8 * 1.02 / 18.5e-3 * 1e6), rel=0.08)
    assert more.class_k == 0
    assert more.new_mm == pytest.approx(outside_diameter_mm(awg(16), insulation("GXL")))
    thick = substitute(metric(1), asked, metric(4), insulation("SXL"))
    assert thick.sizing.passes
    assert not thick.will_do  # neither seal nor terminal takes it
    words = " ".join(text for _, text, _ in in_words(thick))
    assert "does not close on it" in words
    assert "not made for this copper" in words
    cool = substitute(metric(1), asked, metric(1), insulation("A85"))
    assert cool.class_k == -40


@given(st.sampled_from(AWG_SIZES), st.sampled_from(sorted(INSULATIONS)))
def test_a_substitute_is_judged_as_the_wire_itself_would_be(size: object, code: str) -> None:
    job, wire = sealed()
    asked = sizing_case(Network(job), wire)
    placed = replace(wire, size=size, insulation=code)
    alone = judge(size, sizing_case(Network(replace(job, wires=(placed,))), placed))  # type: ignore[arg-type]
    assert substitute(wire.size, asked, size, insulation(code)).sizing == alone  # type: ignore[arg-type]


def test_another_wire_is_tried_and_put_in_the_window(demo_window: MainWindow) -> None:
    page(demo_window, "Sizes")
    store = demo_window.store
    before = store.job
    dialog = SubstituteDialog(demo_window, store, "W42")
    dialog.section.setText("fourteen")
    dialog.look()
    assert not dialog.act.isEnabled()
    assert "fourteen" in dialog.notice.text()
    dialog.section.setText("1 mm2")
    dialog.look()
    assert "will not do" in dialog.verdict.text()
    stocked = next(n for n in range(dialog.stock.count()) if dialog.stock.itemData(n))
    dialog.stock.setCurrentIndex(stocked)
    item = next(one for one in store.job.stock if one.code == dialog.stock.currentData())
    assert dialog.section.text() == str(item.size)
    dialog.put()
    wire = store.job.wire("W42")
    assert wire is not None
    assert (wire.size, wire.insulation) == (item.size, item.insulation)
    store.history.undo()
    assert store.job == before


def test_another_voltage_is_seen_and_made_in_the_window(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Sizes")
    store = demo_window.store
    before = store.job
    dialog = VoltageDialog(demo_window, store)
    assert "2 times the current" in dialog.about.text()
    assert not dialog.act.isEnabled(), "it is being solved, and not on this thread"
    qtbot.waitUntil(lambda: bool(dialog.wires))
    assert cell(dialog.table, "W2", "Then") == "360 A"
    assert cell(dialog.table, "W57", "Function") == "Heater blower"
    needs = {one.code: one.what for one in parts_then(store.job, 6.0)}
    assert "3 cells" in needs["D1"]
    assert "a resistor cannot raise the voltage" in needs["D16"]
    assert "ballast resistor" in {o.code: o.what for o in parts_then(store.job, 24.0)}["D16"]
    assert "bulb" in needs["D8"]
    dialog.change()
    assert store.job.settings.system_v == 6
    store.history.undo()
    assert store.job == before
    closed = VoltageDialog(demo_window, store)
    task = closed._task
    closed.reject()
    assert task is not None
    qtbot.waitUntil(lambda: task.has_ended)
    assert closed.wires == ()


def test_the_header_says_the_voltage_whatever_stands_below_the_title(
    demo_window: MainWindow,
) -> None:
    window = demo_window
    for subtitle in ("", "Sister model's engine"):
        window.store.do("x", lambda job: replace(job, subtitle=subtitle))  # noqa: B023
        window.store.do("x", lambda job: at_volts(job, 6.0))
        assert window.header.about.text().startswith("6 V · ")
        window.store.do("x", lambda job: at_volts(job, 12.0))
        assert window.header.about.text().startswith("12 V · ")


def test_the_table_shows_what_uses_most_of_its_limit_first(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    sizes.list.setCurrentRow(1)
    assert sizes.table.model().rowCount() == len(demo_window.store.job.wires)
    order = [sizes.table.model().index(row, 0).data() for row in range(4)]
    sizings = demo_window.store.analysis.electrics.sizings
    hands = [min(c.margin for c in sizings[code].criteria) for code in order]
    assert hands == sorted(hands)
    assert hands[0] < 0
    assert cell(sizes.table, "W42", "Because").startswith("drop 0.24 of 0.068 V")
    assert cell(sizes.table, "W42", "Needs") == "3 mm²"
    assert cell(sizes.table, "W42", "Used %") == "354"
    assert float(cell(sizes.table, "W42", "Fuse %")) > 100
    sizes.table.setCurrentIndex(sizes.model.index(sizes.model.row_of("W6"), 0))
    assert demo_window.hand.subject == "W6"
    assert sizes.detail.verdict.text().startswith("Alternator output")


def test_the_buttons_open_what_they_say(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    seen: list[str] = []

    def note(dialog: Any) -> None:
        seen.append(dialog.windowTitle())
        dialog.reject()

    for button, kind in ((sizes.other, SubstituteDialog), (sizes.voltage, VoltageDialog)):
        answer(kind, note)
        button.click()
    assert "W42" in seen[0]
    assert "12 V" in seen[1]


def test_a_bundle_is_covered_in_the_window(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W57")
    assert "lies in R26 R39 R40" in sizes.detail.bundle.way.text(), "its way counts"
    # Without a loom to build, what is typed does.
    demo_window.store.do("no looms", lambda job: replace(job, routing=Routing()))
    assert sizes.detail.bundle.way.isHidden()
    assert not sizes.detail.bundle.facts.isHidden()
    before = demo_window.store.analysis.electrics.sizing_cases["W57"]
    bundle = sizes.detail.bundle
    bundle.covering.setCurrentIndex(bundle.covering.findData("heat sleeve"))
    bundle.covering.activated.emit(bundle.covering.currentIndex())
    bundle.place.setCurrentIndex(bundle.place.findData("exhaust"))
    bundle.place.activated.emit(bundle.place.currentIndex())
    after = demo_window.store.analysis.electrics.sizing_cases["W57"]
    assert after.ambient_c == 110 > before.ambient_c
    assert after.lies[0].neighbours.covering_mm == 2.0 > before.lies[0].neighbours.covering_mm
    demo_window.hand.pick("W6")
    assert sizes.detail.bundle.facts.isHidden()


# Without a window


def test_substitute_and_voltage_on_the_command_line(
    demo: Job, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "demo.molvik"
    put_job(demo, path)
    assert main(["size", str(path), "--wire", "W42", "--with", "2.5 mm2 C125", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["copper"] == pytest.approx(3.29, abs=0.1)
    assert {"wire", "size", "insulation", "will_do", "facts"} <= set(report)
    assert main(["size", str(path), "--volts", "6", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    starter = next(one for one in report["wires"] if one["wire"] == "W2")
    assert starter["then_a"] == 360
    assert main(["size", str(path), "--volts", "6", "--wire", "W42"]) == 0
    said = capsys.readouterr().out.splitlines()
    assert [line.split()[0] for line in said] == ["W42"], "it says of one wire what was asked"
    assert main(["size", str(path), "--fuses"]) == 0
    assert "F5" in capsys.readouterr().out
    for wrong in (
        ["--with", "2.5 mm2"],
        ["--wire", "W42", "--with", "thick"],
        ["--wire", "W42", "--with", "2.5 mm2 wool"],
        ["--volts", "0"],
        ["--volts", "12"],
    ):
        assert main(["size", str(path), *wrong]) == 2, wrong
        assert capsys.readouterr().err


def charge_job(rating_a: float, typed_a: float | None = None) -> Job:
    machine = Device(
        "D2", "Alternator", "alternator", ("B+", "L"), case="E1", values=(("most A", rating_a),)
    )
    job = job_of(
        "D1/+ F1/in, F1/out D2/B+, E1 D1/-, D1/+ D2/L",
        machine,
        fuses=(Fuse("F1", "Charge", 170, "bolt-down"),),
    )
    wires = [replace(one, size=metric(35), length_m=1.0, insulation="SGX") for one in job.wires]
    wires[:2] = [replace(one, load_a=typed_a) for one in wires[:2]]
    return replace(job, wires=tuple(wires))


def test_the_charge_cable_is_judged_by_what_the_alternator_can_give() -> None:
    """An empty battery and every load on ask for all of it."""
    for rating in (130.0, 140.0):
        asked = Analysis(charge_job(rating)).electrics.sizing_cases
        assert asked["W1"].load_a == asked["W2"].load_a == rating
    # 170 A carries 136 A for ever: the larger machine changes the verdict.
    assert "fuse-too-small" not in found(charge_job(130))
    assert found(charge_job(140))["fuse-too-small"][0].subject == "F1"
    # What the user typed comes first.
    typed = Analysis(charge_job(140, 90.0))
    assert typed.electrics.sizing_cases["W2"].load_a == 90.0
    assert typed.electrics.fuse_work["F1"].load_a < 136


def test_an_empty_battery_takes_more_than_a_full_one() -> None:
    analysis = Analysis(charge_job(130))
    full, flat = (
        analysis.operating_point(RUNNING._replace(battery=state)).source_amps
        for state in ("charged", "flat")
    )
    assert flat < full < 0


def test_a_way_that_is_open_charges_nothing() -> None:
    machine = Device("D2", "Alternator", "alternator", ("B+", "L"), case="E1")
    relay = Device("D3", "Relay", "relay", ("30", "87", "86", "85"))
    job = job_of("D1/+ D3/30, D3/87 D2/B+, E1 D1/-", machine, relay, fuses=())
    assert Analysis(job).electrics.charging_a == {}
    straight = job_of("D1/+ D2/B+, E1 D1/-", machine, fuses=())
    # By the cable there, and by the strap back, which is the only one.
    assert Analysis(straight).electrics.charging_a == {"W1": 90.0, "W2": 90.0}
