"""Codes of an engine computer: what it would see, what it sets, what stays harmlessly, and what the
rest says of the loom.
"""

import time
from collections.abc import Callable
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog
from pytestqt.qtbot import QtBot

from conftest import answer, cell, page, type_cell, type_field
from molvik.analysis import Analysis
from molvik.demo import demo_job
from molvik.desktop.stages.proving.flashes import FlashCount
from molvik.desktop.window import MainWindow
from molvik.devices.states import RUN, Fault, State
from molvik.model import edits, leaving_out
from molvik.model.edits import EditError
from molvik.model.job import Job, LeftOut, Reading
from molvik.model.parts import Connector, Device, EarthPoint, End, Grid, Output, Pin, Wire, WireSize
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.computer import computers, sensed, thing_of, watches
from molvik.proving.diagnose import Diagnosis
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.taken import taken
from molvik.proving.troublecodes import (
    code_evidence,
    codes_of,
    flash_codes,
    judge_codes,
    last_codes,
    offered,
    read_codes,
)
from molvik.reference.troublecodes import LEFT_OUT, within
from molvik.sheet import Paragraph
from molvik.sheetset import every_sheet

AT = "2026-11-02T10:00:00+01:00"
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(scope="module")
def marten() -> FaultSimulator:
    job = demo_job("marten")
    return FaultSimulator(Network(job), Bench(job))


def reading_of(job: Job, codes: str) -> Reading:
    return taken(job.settings, AT, "words", None, (End("D11"),), of="codes", said=codes)


# What hangs on the computer of the demo, read off its wires by hand.
@pytest.mark.parametrize(
    ("fault", "codes"),
    [
        ((), set()),
        ((Fault("open", "W33"),), {"P0118"}),  # the coolant sensor's signal
        ((Fault("open", "W34"),), {"P0118"}),  # its return
        ((Fault("short", "W33", "earth"),), {"P0117"}),
        ((Fault("open", "W35"),), {"P0118", "P0113", "P0123"}),  # the return that three share
        ((Fault("open", "W30"),), {"P0122"}),  # the throttle's 5 V
        ((Fault("open", "W28"),), {"P0335"}),
        ((Fault("open", "D43"),), {"P0335"}),
        ((Fault("open", "W21"),), {"P0201"}),
        ((Fault("open", "W27"),), {"P0352"}),
        ((Fault("open", "F4"),), {"P0351", "P0352"}),  # the coils' fuse
        ((Fault("open", "K3"),), {"P0201", "P0202", "P0203", "P0204"}),  # the injectors' relay
        ((Fault("bad", "W33", "", 1.0),), set()),  # an ohm is nothing to a sender
    ],
)
def test_codes_follow_from_what_the_computer_would_see(
    marten: FaultSimulator, fault: tuple[Fault, ...], codes: set[str]
) -> None:
    assert marten.codes(fault, "D11") == frozenset(codes)


def test_a_computer_without_its_earths_sets_nothing_and_does_not_answer(
    marten: FaultSimulator,
) -> None:
    assert marten.codes((Fault("open", "W38"),), "D11") is None
    assert marten.codes((), "D99") is None


def sender_job(ohm: float) -> Job:
    """A battery, a computer, and one sender between two of its cavities."""
    devices = (
        Device("D1", "Battery", "battery", ("+", "-")),
        Device(
            "D2",
            "Computer",
            "controller",
            plug="C1",
            supplies=("1",),
            earths=("2", "3"),
            outputs=(Output("4", "pulls low", "running"),),
        ),
        Device("D3", "Coolant sensor", "thermistor", ("1", "2"), values=(("ohm", ohm),)),
        Device("D4", "Fuel pump relay", "relay", ("30", "87", "86", "85")),
    )
    ends = (
        ("D1/+", "C1/1"),
        ("D1/-", "C1/2"),
        ("D1/-", "E1"),
        ("C1/3", "D3/2"),
        ("C1/5", "D3/1"),
        ("C1/4", "D4/85"),
        ("D1/+", "D4/86"),
    )
    wires = tuple(
        Wire(f"W{n}", End.of(a), End.of(b), size=WireSize("metric", 1.0), length_m=0.5)
        for n, (a, b) in enumerate(ends, 1)
    )
    pins = (
        Pin("5", "Coolant temperature signal"),
        Pin("6", "Oxygen sensor bank 1 sensor 2"),
        Pin("7", "Vehicle speed sensor"),
    )
    plug = Connector("C1", "Plug", Grid(1, 8), pins=pins)
    earths = (EarthPoint("E1", "Case earth"),)
    return Job("x", devices=devices, wires=wires, connectors=(plug,), earths=earths)


@pytest.mark.parametrize("ohm", [100.0, 2500.0, 10_000.0])
def test_a_sender_is_seen_through_a_divider(ohm: float) -> None:
    """5 V through 2.2 kilohms and the sender: worked by hand, U = 5 R / (R + 2200)."""
    network = Network(sender_job(ohm))
    computer = computers(network)[0]
    point = FaultSimulator(network, Bench(network.job)).solved((), RUN)
    volts = sensed(point, computer, watches(network, computer))
    assert volts is not None
    assert volts["5"] == pytest.approx(5 * ohm / (ohm + 2200), abs=0.02)


def test_a_thing_is_told_by_its_function_and_numbered() -> None:
    assert thing_of("Injector cyl. 3")[1].none == "P0203"  # type: ignore[index]
    assert thing_of("Ignition coil B")[1].none == "P0352"  # type: ignore[index]
    assert thing_of("Injector")[1].none == "P0201"  # type: ignore[index]
    assert thing_of("", "Intake air temperature")[1].high == "P0113"  # type: ignore[index]
    assert thing_of("Radiator fan relay 2")[1].none == "P0481"  # type: ignore[index]
    assert thing_of("Oxygen sensor heater")[1].none == "P0135"  # type: ignore[index]
    assert thing_of("Boot lamp", "") is None


# what codes are worth as evidence


@pytest.mark.parametrize(
    ("hidden", "also"),
    [
        (Fault("open", "W35"), set()),
        (Fault("open", "W28"), {"open W29", "open D43"}),
        (Fault("open", "F4"), {"open W15", "open W25"}),
    ],
)
def test_codes_alone_lead_to_what_they_share(
    marten: FaultSimulator, hidden: Fault, also: set[str]
) -> None:
    """Each wire of the demo that three codes share, or what hangs on one way, stands first."""
    job = marten.network.job
    codes = marten.codes((hidden,), "D11")
    assert codes
    seen = tuple(code_evidence(marten, reading_of(job, " ".join(codes))))
    assert {one.shown for one in seen} == {"set", "not set"}
    found = Diagnosis(marten.network, seen, marten)
    first = [cause.key for one in found.groups[0] for cause in one.causes]
    likely = [c.key for some in found.groups[:3] for one in some for c in one.causes]
    assert first[0] in {f"open {hidden.at}", *also}
    assert f"open {hidden.at}" in likely


def test_no_codes_accuse_nobody_and_what_is_left_out_says_nothing(marten: FaultSimulator) -> None:
    job = marten.network.job
    none = tuple(code_evidence(marten, reading_of(job, "")))
    assert not Diagnosis(marten.network, none, marten).ranked[0].causes
    assert not {one.point.red.cavity for one in none} & {"P0562", "P0563"}, "set late"
    low = tuple(code_evidence(marten, reading_of(job, "P0562")))
    assert ("P0562", "set") in {(one.point.red.cavity, one.shown) for one in low}
    harmless = tuple(code_evidence(marten, reading_of(job, "P0141 P0700")))
    assert [one.shown for one in harmless] == [one.shown for one in none]
    left = leaving_out.leave_out(job, LeftOut("P0511", ("P0511",), "the valve sticks, and may"))
    without = FaultSimulator(Network(left), Bench(left))
    points = {one.point.red.cavity for one in code_evidence(without, reading_of(left, "P0511"))}
    assert "P0511" not in points
    assert "P0118" in points


# what they mean


def test_what_is_left_out_makes_its_codes_harmless_and_only_those() -> None:
    job = leaving_out.leave_out(sender_job(2500.0), LeftOut("rear oxygen sensors"))
    job = leaving_out.leave_out(job, LeftOut("P1624", ("P1624",), "immobiliser taken out"))
    found = {
        v.code: v
        for v in judge_codes(Network(job), ("P0141", "P0118", "P1624", "P1000", "P0302", "P0562"))
    }
    meanings = {code: one.meaning for code, one in found.items()}
    assert meanings == {
        "P0141": "harmless",
        "P0118": "genuine",
        "P1624": "harmless",
        "P1000": "the maker's own",
        "P0302": "genuine",
        "P0562": "genuine",
    }
    assert next(iter(found)) in ("P0118", "P0302", "P0562"), "genuine ones first"
    assert "Check the fuel trims" in found["P0141"].why
    assert found["P1624"].why == "immobiliser taken out"
    assert found["P0118"].words == "Coolant sensor shows too much"
    assert (found["P0118"].on, "C1/5" in found["P0118"].why) == ("D3", True)
    assert "supply is too low" in found["P0562"].words
    assert "misfire" in found["P0302"].words
    back = leaving_out.put_back(job, "rear oxygen sensors")
    (again,) = judge_codes(Network(back), ("P0141",))
    assert (again.meaning, again.words) == ("genuine", "rear oxygen sensor, or its heater")
    assert "Harmless if “rear oxygen sensors” was left out" in again.why
    with pytest.raises(EditError, match="what is left out"):
        leaving_out.leave_out(job, LeftOut(" "))


def test_what_a_pinout_names_and_no_wire_goes_to_is_offered_first() -> None:
    found = offered(Network(sender_job(2500.0)))
    assert [thing.name for thing, where in found if where] == [
        "rear oxygen sensors",
        "road speed sensor",
    ]
    assert found[0][1] == "C1/6 Oxygen sensor bank 1 sensor 2: no wire"


def test_ranges_of_codes() -> None:
    assert within("P0700", ("P0700-P0799",))
    assert within("P0799", ("P0700-P0799",))
    assert not within("P0800", ("P0700-P0799",))
    assert not within("U0700", ("P0700-P0799",))


@pytest.mark.parametrize(
    ("text", "codes"),
    [
        ("P0118, p0335", ("P0118", "P0335")),
        ("0118 P0118", ("P0118",)),
        ("none", ()),
        ("", ()),
        ("no codes", ()),
        ("21 12", ("21", "12")),
        ("U0121;B1A2F", ("U0121", "B1A2F")),
    ],
)
def test_codes_as_they_are_typed(text: str, codes: tuple[str, ...]) -> None:
    assert read_codes(text) == codes


@pytest.mark.parametrize("text", ["P01", "X0118", "P0118 much", "P4118", "P" * 900])
def test_what_is_no_code_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="is not a code"):
        read_codes(text)
    assert len(read_codes(" ".join(f"P{n:04d}" for n in range(300)))) == 300


# Common practice: flashes of a figure close together, a gap between figures, a pause between codes;
# or long flashes for tens.
@pytest.mark.parametrize(
    ("flashes", "codes"),
    [
        ("s s  s", ("21",)),
        ("s   s", ("1", "1")),
        ("l l s", ("21",)),
        ("s s s", ("3",)),
        ("l   s s  s s s", ("10", "23")),
        ("", ()),
    ],
)
def test_flashes_are_counted(flashes: str, codes: tuple[str, ...]) -> None:
    """s and l: a short and a long flash; one space 0.5 s, two 2 s, three 5 s."""
    taps, now = [], 0.0
    for mark in flashes.replace("   ", "P").replace("  ", "G"):
        length = {"s": 0.3, "l": 1.2, " ": 0.5, "G": 2.0, "P": 5.0}[mark]
        if mark in "sl":
            taps.append((now, now + length))
        now += length
    assert flash_codes(taps) == codes


# in the window


def codes_page(window: MainWindow, job: Job) -> Any:
    window.files.new()
    made = replace(job, id=window.store.job.id)
    window.store.do("a job", lambda _: made)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.codes)
    return shown


def test_codes_are_typed_judged_and_left_out_in_the_window(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = codes_page(window, sender_job(2500.0))
    codes = shown.codes
    assert "No codes were read yet" in codes.words.text()
    type_field(codes.typed, "P0141 P0118")
    assert codes.words.text().startswith("2 codes, 0 harmless, read ")
    assert cell(codes.table, "P0141", "Meaning") == "genuine"
    codes.table.picked.emit("P0118")
    assert window.hand.subject == "D3"
    codes.left_table.pick("rear oxygen sensors")
    qtbot.mouseClick(codes.leave_button, LEFT)
    assert cell(codes.table, "P0141", "Meaning") == "harmless"
    assert codes.words.text().startswith("2 codes, 1 harmless")
    type_cell(codes.left_table, "rear oxygen sensors", "Because", "There is no exhaust behind it.")
    assert cell(codes.table, "P0141", "Why, or where to look") == "There is no exhaust behind it."
    codes.left_table.removed.emit(["rear oxygen sensors"])
    assert cell(codes.table, "P0141", "Meaning") == "genuine"
    window.store.history.undo()
    assert window.store.job.left_out == (
        LeftOut("rear oxygen sensors", (), "There is no exhaust behind it."),
    )
    type_field(codes.stays, "P1624")
    assert "why it may stay" in shown.notice.text()
    type_field(codes.stays, "P1624 immobiliser taken out")
    assert window.store.job.left_out[-1] == LeftOut("P1624", ("P1624",), "immobiliser taken out")
    type_field(codes.typed, "soon")
    assert "is not a code" in shown.notice.text()
    assert codes_of(last_codes(window.store.job.readings)) == ("P0141", "P0118")  # type: ignore[arg-type]
    said = "\n".join(
        block.text
        for sheet in every_sheet(Analysis(window.store.job))
        if sheet.name == "test-report"
        for block in sheet.blocks
        if isinstance(block, Paragraph)
    )
    assert "Code P0141, " in said
    assert "harmless. rear oxygen sensors, left out: There is no exhaust behind it." in said


def test_codes_are_evidence_in_the_window(window: MainWindow, qtbot: QtBot) -> None:
    shown = codes_page(window, sender_job(2500.0))
    type_field(shown.codes.typed, "P0118")
    shown.tabs.setCurrentWidget(shown.causes)
    qtbot.waitUntil(lambda: shown.causes.diagnosis is not None)
    first = {c.key for one in shown.causes.diagnosis.groups[0] for c in one.causes}
    first |= {c.key for one in shown.causes.diagnosis.groups[1] for c in one.causes}
    assert {"open W4", "open W5"} & first
    shown.causes.forget()


def test_codes_of_a_vehicle_nobody_has_drawn_are_read_too(window: MainWindow) -> None:
    job = sender_job(2500.0)
    shown = codes_page(window, replace(job, devices=job.devices[:1], wires=job.wires[:3]))
    type_field(shown.codes.typed, "P0118")
    assert cell(shown.codes.table, "P0118", "About") == "coolant temperature"
    assert window.store.job.readings[-1].points == (End(),)
    shown.codes.link.use_stand_in()
    assert "no engine computer" in shown.notice.text()


def tapping(flashes: int) -> Callable[[QDialog], None]:
    def tap(asked: QDialog) -> None:
        assert isinstance(asked, FlashCount)
        for _ in range(flashes):
            QTest.keyPress(asked, Qt.Key.Key_Space)
            time.sleep(0.02)
            QTest.keyRelease(asked, Qt.Key.Key_Space)
        assert asked.shown.text() == str(flashes)
        QTest.keyClick(asked, Qt.Key.Key_Return)

    return tap


def test_a_code_is_counted_off_a_lamp(window: MainWindow, qtbot: QtBot) -> None:
    shown = codes_page(window, sender_job(2500.0))
    answer(FlashCount, tapping(4))
    qtbot.mouseClick(shown.codes.flash_button, LEFT)
    (reading,) = window.store.job.readings
    assert (reading.said, reading.instrument) == ("4", "counted off the lamp")
    assert cell(shown.codes.table, "4", "Meaning") == "the maker's own"
    answer(FlashCount, lambda asked: QTest.keyClick(asked, Qt.Key.Key_Escape))
    qtbot.mouseClick(shown.codes.flash_button, LEFT)
    assert len(window.store.job.readings) == 1


def test_states_of_another_name_are_none_of_ours() -> None:
    """A reading of a loom that was changed since says nothing of it."""
    from molvik.proving.proofplan import ProofPlan
    from molvik.proving.validity import loom_fingerprint, standing

    job = sender_job(2500.0)
    job = edits.record(
        job,
        replace(
            reading_of(job, "P0118"),
            points=(End("D2"),),
            fingerprint=loom_fingerprint(ProofPlan(job)),
        ),
    )
    assert len(standing(ProofPlan(job)).readings) == 1
    longer = edits.change_wire(job, "W1", length_m=9.0)
    assert standing(ProofPlan(longer)).readings == ()
    assert State("x", "run").broken == frozenset()


# The list against a second one, written by meaning: SAE J2012, from memory.

BY_MEANING: dict[str, tuple[str, ...]] = {
    "brake switch": ("P0571", "P0572", "P0573", "P0703", "P0719", "P0724"),
    "clutch switch": ("P0704", "P0830", "P0831", "P0832", "P0833", "P0834", "P0835"),
    "purge valve": ("P0443", "P0444", "P0445", "P0458", "P0459"),
    "tank vent valve": ("P0446", "P0447", "P0448", "P0449", "P0498", "P0499"),
    "tank pressure sensor": ("P0450", "P0451", "P0452", "P0453", "P0454"),
    "leak of the tank": ("P0455", "P0456", "P0457"),
    "5 V sensor supply A": ("P0641", "P0642", "P0643"),
    "5 V sensor supply B": ("P0651", "P0652", "P0653"),
    "5 V sensor supply C": ("P0697", "P0698", "P0699"),
    "immobiliser lamp": ("P0648",),
    "air conditioning": ("P0645", "P0646", "P0647"),
    "timing chain": ("P0016", "P0017", "P0018", "P0019"),
    "intake air too hot": ("P0127",),
    "coolant": ("P0115", "P0117", "P0118", "P0125", "P0128"),
    "intake air temperature": ("P0111", "P0112", "P0113"),
    "closed throttle switch": ("P0510",),
    "serial link": ("P0600",),
    "software": ("U0300",),
    "cruise": ("P0564", "P0565", "P0574", "P0579", "P0580", "P0581"),
    "fan": ("P0480", "P0481", "P0691", "P0692", "P0693", "P0694"),
    "park or neutral": ("P0850", "P0851", "P0852"),
    "starter relay": ("P0615", "P0616", "P0617"),
    "main relay": ("P0685", "P0686", "P0687", "P0688", "P0689", "P0690"),
    "alternator": ("P0620", "P0621", "P0622", "P0625", "P0626"),
    "misfire": ("P0300", "P0301", "P0308"),
    "crank": ("P0335", "P0336", "P0339", "P0385"),
    "cam": ("P0340", "P0345", "P0365"),
    "second bank": ("P0150", "P0156", "P0155", "P0161"),
    "pedal": ("P2122", "P2123", "P2127", "P2128", "P2138"),
}


def test_each_code_is_said_to_be_of_what_it_is() -> None:
    """Words of the verdict on a code in a job that says nothing of it."""
    network = Network(sender_job(2500.0))
    for meaning, codes in BY_MEANING.items():
        for verdict in judge_codes(network, codes):
            said = f"{verdict.words} {verdict.why}".lower()
            assert meaning.lower() in said, (verdict.code, verdict.words, verdict.why)
    for code in ("P0026", "P0310", "P0998", "P2400", "U0400", "P0836"):
        (verdict,) = judge_codes(network, (code,))
        assert verdict.meaning == "genuine"
    (verdict,) = judge_codes(network, ("P0998",))
    assert "look it up for your engine" in verdict.words


NOT_OF: dict[str, tuple[str, ...]] = {
    # Left out one thing, what belongs to another stays a fault.
    "tank pressure sensor": ("P0458", "P0459", "P0443", "P0498"),
    "automatic gearbox": ("P0703", "P0704", "P0719", "P0724", "P0725", "P0850"),
    "air conditioning": ("P0648", "P0650", "P0651"),
    "cruise control": ("P0571", "P0572", "P0573", "P0703"),
    "purge valve": ("P0446", "P0450", "P0498"),
    "rear oxygen sensors": ("P0130", "P0135", "P0150", "P0155", "P0171"),
    "brake switch": ("P0704", "P0830"),
}


@pytest.mark.parametrize("thing", NOT_OF)
def test_what_is_of_another_thing_is_never_called_harmless(thing: str) -> None:
    job = leaving_out.leave_out(sender_job(2500.0), LeftOut(thing))
    for verdict in judge_codes(Network(job), NOT_OF[thing]):
        assert verdict.meaning == "genuine", verdict


def test_no_code_of_one_thing_lies_in_the_range_of_another() -> None:
    """But those that two share by their nature: the brake switch ends cruise control."""
    for name, thing in LEFT_OUT.items():
        for other, another in LEFT_OUT.items():
            if name < other:
                both = [
                    code
                    for code in ALL_P0
                    if within(code, thing.codes) and within(code, another.codes)
                ]
                assert not both, (name, other, both)


ALL_P0 = [f"P0{n:03d}" for n in range(1000)]


def test_what_is_wired_is_never_harmless() -> None:
    job = sender_job(2500.0)
    job = leaving_out.leave_out(job, LeftOut("the coolant sender", ("P0117", "P0118")))
    (verdict,) = judge_codes(Network(job), ("P0118",))
    assert verdict.meaning == "genuine"
    assert "said to be left out, but it is wired" in verdict.why
    # One that the computer only names, and a wire goes to.
    plug = job.connectors[0]
    at = next(pin.cavity for pin in plug.pins if "sensor 2" in pin.function)
    wired = edits.add(job, Wire("", start=End(plug.code, at), function="probe"))
    for here, meaning in ((job, "harmless"), (wired, "genuine")):
        left = leaving_out.leave_out(here, LeftOut("rear oxygen sensors"))
        (verdict,) = judge_codes(Network(left), ("P0141",))
        assert verdict.meaning == meaning
    assert "a wire goes to it at C1/6" in verdict.why
    stays = leaving_out.leave_out(job, LeftOut("P0118", ("P0118",), "gauge only"))
    (verdict,) = judge_codes(Network(stays), ("P0118",))
    assert verdict.meaning == "genuine" or "be sure" in verdict.why


def test_an_oxygen_sensor_2_may_be_the_other_banks_front_one() -> None:
    """Only what says bank and sensor, or rear, is the rear one."""
    job = sender_job(2500.0)
    plug = job.connectors[0]
    at = next(pin.cavity for pin in plug.pins if "sensor 2" in pin.function)
    for said, offers in (
        ("O2 sensor 2", False),
        ("Oxygen sensor rear", True),
        ("Oxygen sensor bank 1 sensor 2", True),
    ):
        named = edits.change_pin(job, plug.code, at, function=said)
        found = {thing.name for thing, where in offered(Network(named)) if where}
        assert ("rear oxygen sensors" in found) is offers, said
    for said, one in (
        ("EVAP canister purge solenoid", "purge valve"),
        ("Canister vent solenoid", "tank vent valve"),
        ("Fuel tank pressure sensor", "tank pressure sensor"),
    ):
        named = edits.change_pin(job, plug.code, at, function=said)
        found = {thing.name for thing, where in offered(Network(named)) if where}
        assert found == {one, "road speed sensor"}, said
