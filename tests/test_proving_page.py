"""Proving in the real window: the plan typed and measured card by card, isolation, causes."""

import json
from collections import Counter
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from conftest import answer, cell, page, press, put_job, type_cell, type_field
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.window import MainWindow
from molvik.devices.states import RUN
from molvik.drawing.scene import Pen, Rect
from molvik.logbook.story import story
from molvik.model import edits
from molvik.model.job import Job, Quantity, Settings
from molvik.model.parts import Connector, Device, EarthPoint, End, Grid
from molvik.proving.causes import causes
from molvik.proving.isolation import sensitive_to_high_voltage
from molvik.proving.observations import seen_of
from molvik.proving.scoring import under_power
from molvik.proving.taken import taken
from molvik.proving.validity import Standing, standing
from molvik.proving.wiretest import continuity_reading
from molvik.sheet import Paragraph
from molvik.sheetset import every_sheet
from test_diagnose import lamp
from test_map import star
from test_plan import AT, loom_job

LEFT = Qt.MouseButton.LeftButton


def opened(window: MainWindow, job: Job) -> Any:
    window.files.new()
    made = replace(job, id=window.store.job.id)
    window.store.do("a loom", lambda _: made)
    return page(window, "Proving")


def loom() -> Job:
    """Return a splice with three branches, two wires beside each other, and one more."""
    return loom_job(
        ("C1/1", "S1"),
        ("S1", "C2/1"),
        ("S1", "C3/1"),
        ("C1/2", "C2/2"),
        ("C1/3", "C3/3"),
        ("C1/3", "C3/3"),
    )


def cards_of(window: MainWindow) -> StepCards:
    (cards,) = (one for one in window.findChildren(StepCards) if one.isVisible())
    return cards


def test_the_plan_is_typed_and_says_what_it_proves(window: MainWindow) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.plan)
    table = shown.plan.table
    keys = [one.key for one in window.store.analysis.plan.measurements]
    assert len(keys) == 4
    assert "4 measurements prove 6 wires" in shown.plan.words.text()
    assert "W5, W6" in shown.plan.words.text(), "what is not told apart is said"
    through = next(key for key in keys if cell(table, key, "Through") == "W1 W2")
    type_cell(table, through, "Read Ω", "0.3")
    assert cell(table, through, "Verdict") == "passed"
    reading = window.store.job.readings[-1]
    assert (reading.value, [str(p) for p in reading.points]) == (0.3, ["C1/1", "C2/1"])
    assert reading.fingerprint
    window.store.do("longer", lambda job: edits.change_wire(job, "W2", length_m=4.0))
    assert cell(table, through, "Verdict") == "changed"
    type_cell(table, through, "Read Ω", "OL")
    assert "one of W1, W2 is broken" in shown.notice.text()
    table.picked.emit(through)
    assert [str(shown.bench.view.red), str(shown.bench.view.black)] == ["C1/1", "C2/1"]


def test_the_meters_accuracy_and_the_bench_are_typed_once(window: MainWindow) -> None:
    shown = opened(window, loom())
    for field, text in ((shown.meter.off, "0.5 % + 3"), (shown.meter.bench, "35")):
        type_field(field, text)
    settings = window.store.job.settings
    assert (settings.meter_percent, settings.meter_counts, settings.bench_c) == (0.5, 3, 35.0)
    assert shown.meter.off.text() == "0.5 % + 3"
    type_field(shown.meter.off, "much")
    assert "share" in shown.notice.text()
    assert window.store.job.settings == settings


def test_the_plan_is_measured_card_by_card(window: MainWindow, qtbot: QtBot) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.mouseClick(shown.plan.bench_button, LEFT)
    cards = cards_of(window)
    assert cards.headline.text().startswith("C1/")
    QTest.keyClicks(cards, "0.3")
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert "1 done" in cards.count.text()
    QTest.keyClicks(cards, "OL")
    assert cards.big.text() == "OL"
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert "Kept: open" in cards.notice.text(), "a wrong reading is kept, and said"
    assert [reading.value for reading in window.store.job.readings] == [0.3, None]
    size = cards.size()
    QTest.keyClicks(cards, "0.31")
    assert cards.big.text() == "0.31", "what is typed next begins anew"
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert "open before, and nothing was repaired: measure it again while" in cards.notice.text()
    for _ in range(2):
        QTest.keyClicks(cards, "0.31")
        QTest.keyClick(cards, Qt.Key.Key_Return)
    assert "2 done" in cards.count.text(), "moved and warmed it passed as well"
    QTest.keyClicks(cards, "OL")
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert "Kept: open" in cards.notice.text()
    at = cards.at
    QTest.keyClick(cards, Qt.Key.Key_Return)
    assert (cards.at, cards.typed, cards.notice.text()) == (at + 1, "", ""), "Enter alone goes on"
    assert [one.value for one in window.store.job.readings] == [0.3, None, 0.31, 0.31, 0.31, None]
    QTest.keyClicks(cards, "0.123456789123456")
    assert len(cards.typed) < 12
    QApplication.processEvents()
    assert cards.size() == size, "it does not grow"
    cards.close()


def test_a_message_moves_nothing_and_goes_with_what_it_is_about(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.waitUntil(lambda: shown.plan.table.viewport().height() > 100)
    key = window.store.analysis.plan.measurements[0].key
    window.hand.pick("W1")  # its panel is open

    def place() -> tuple[int, int]:
        QApplication.processEvents()
        at = shown.plan.table.mapTo(window, QPoint(0, 0))
        return at.x(), at.y()

    before = place()
    type_cell(shown.plan.table, key, "Read Ω", "OL")
    assert place() == before
    assert shown.notice.isVisible()
    assert shown.notice.height() > 20, "it is read"
    assert shown.notice.geometry().bottom() < shown.caution.y()
    assert shown.notice.geometry().bottom() < shown.plan.table.mapTo(shown, QPoint(0, 0)).y()
    window.store.history.undo()
    assert not shown.notice.isVisible(), "what it was about is undone"
    card = window.in_hand
    qtbot.waitUntil(card.facts.isVisible)
    at = card.facts.mapTo(card, QPoint(0, 0))
    card.notice.say("Refused, for a reason that takes more than one line of this narrow panel.")
    QApplication.processEvents()
    assert card.facts.mapTo(card, QPoint(0, 0)) == at
    assert card.notice.height() > 40


def test_a_card_draws_both_probes_and_space_reads_the_meter(
    window: MainWindow, qtbot: QtBot
) -> None:
    plugs = tuple(Connector(code, code, Grid(1, 4)) for code in ("C1", "C2"))
    job = loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2"), ("C1/3", "E1"))
    shown = opened(window, replace(job, connectors=plugs, earths=(EarthPoint("E1", "Case earth"),)))
    shown.tabs.setCurrentWidget(shown.plan)
    bar = shown.plan.instruments
    qtbot.mouseClick(bar.stand_in_button, LEFT)
    qtbot.waitUntil(lambda: bar.read_button.isEnabled())
    qtbot.mouseClick(shown.plan.bench_button, LEFT)
    cards = cards_of(window)
    red, black = cards.probes.sides
    assert red[0].text() == "RED PROBE · C1/1"
    assert black[1].isVisible()
    assert (red[1].cavity, black[1].cavity) == ("1", "1")
    QTest.keyClick(cards, Qt.Key.Key_F)
    assert red[1].face == "mating face", "as its words say"
    assert "the meter is read" in cards.state.text()
    QTest.keyClick(cards, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: "1 done" in cards.count.text())
    assert cards.at == 1, "it passed: on to the next"
    assert window.store.job.readings[-1].instrument.startswith("stand-in")
    cards.at = 2
    cards.refresh()
    assert black[0].text() == "BLACK PROBE · E1"
    assert not black[1].isVisible(), "an earth point has no face"
    cards.close()
    bar.forget()


def test_a_foot_pedal_is_learnt_and_kept(window: MainWindow, qtbot: QtBot) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.mouseClick(shown.plan.bench_button, LEFT)
    cards = cards_of(window)
    QTest.keyClick(cards, Qt.Key.Key_F13)
    assert cards.at == 0
    qtbot.mouseClick(cards.pedal_button, LEFT)
    QTest.keyClick(cards, Qt.Key.Key_F13)
    assert cards.at == 0, "learning is not a step"
    QTest.keyClicks(cards, "0.3")
    QTest.keyClick(cards, Qt.Key.Key_F13)
    assert (cards.at, len(window.store.job.readings)) == (1, 1)
    cards.close()
    qtbot.mouseClick(shown.plan.bench_button, LEFT)
    cards = cards_of(window)
    assert cards.pedal == Qt.Key.Key_F13, "kept"
    qtbot.mouseClick(cards.pedal_button, LEFT)
    QTest.keyClick(cards, Qt.Key.Key_Escape)
    assert cards.pedal == Qt.Key.Key_F13
    assert cards.isVisible(), "Esc gave up learning, not the cards"
    cards.close()


def test_isolation_closes_in_on_what_touches(window: MainWindow, qtbot: QtBot) -> None:
    job = loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 7)), ("C1/7", "E1"))
    plugs = tuple(Connector(code, code, Grid(2, 6)) for code in ("C1", "C2"))
    shown = opened(window, replace(job, earths=(EarthPoint("E1", "Case earth"),), connectors=plugs))
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.mouseClick(shown.plan.isolation_button, LEFT)
    cards = cards_of(window)
    assert "earth and screens" in cards.headline.text()
    assert cards.tied_side.text().startswith("seen from the wire side")
    QTest.keyClick(cards, Qt.Key.Key_F)
    assert cards.tied_side.text().startswith("seen from the mating face")
    assert "C1 7" in cards.detail.text()
    touching = {"C1/2", "C1/3"}
    while not any(reading.of == "isolation" for reading in window.store.job.readings):
        step = cards.current()
        assert step is not None
        sides = [touching & set(group) for group in step.tied]
        QTest.keyClicks(cards, "0.4" if all(sides) else "OL")
        QTest.keyClick(cards, Qt.Key.Key_Return)
        assert not cards.notice.text()
    *steps, last = cards._steps()
    said = [step.shown for step in steps]
    assert said[0] == "apart", "the earths"
    assert last.do == cards.headline.text()
    assert "is shorted to" in last.do
    assert "they are shorted together" in said
    reading, whole = window.store.job.readings
    assert {str(point) for point in reading.points} == touching
    assert reading.value == 0.4, "also where the last of the halves was open"
    assert "C1/2 is shorted to C1/3" in whole.said
    assert f"{len(said)} measurements of 7 circuits" in whole.said
    assert f"{len(said)} measurements of 7 circuits" in shown.plan.words.text()
    assert last.do == f"Short test: {whole.said}"
    cards.close()


def test_no_more_is_tied_together_than_there_are_clips(window: MainWindow, qtbot: QtBot) -> None:
    job = loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 31)))
    plugs = tuple(Connector(code, code, Grid(2, 15)) for code in ("C1", "C2"))
    shown = opened(window, replace(job, connectors=plugs))
    shown.tabs.setCurrentWidget(shown.plan)
    for which, most, sound in (("Clips, 8 a side", 8, 6 + 12), ("Plugs wired as drawn", 16, 5)):
        told: list[str] = []

        def choose(asked: Question, words: str = which, told: list[str] = told) -> None:
            told.append(" ".join(one.text() for one in asked.findChildren(QLabel)))
            press(words)(asked)

        answer(Question, choose)
        qtbot.mouseClick(shown.plan.isolation_button, LEFT)
        cards = cards_of(window)
        assert "18 measurements" in told[0].replace("\n", " ")
        largest = count = 0
        while not cards.headline.text().startswith("Short test: passed"):
            step = cards.current()
            assert step is not None
            largest = max(largest, *(len(group) for group in step.tied))
            count += 1
            QTest.keyClicks(cards, "OL")
            QTest.keyClick(cards, Qt.Key.Key_Return)
        assert (largest, count) == (most, sound)
        cards.close()
    answer(Question, lambda asked: QTest.keyClick(asked, Qt.Key.Key_Escape))
    qtbot.mouseClick(shown.plan.isolation_button, LEFT)
    assert not [one for one in window.findChildren(StepCards) if one.isVisible()]


def test_what_touches_is_what_stood_on_the_card_though_wires_were_changed_beside_it(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = opened(window, loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 4))))
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.mouseClick(shown.plan.isolation_button, LEFT)
    cards = cards_of(window)
    window.store.do("gone", lambda job: edits.remove_wires(job, frozenset({"W1"})))
    touching = {"C1/2", "C1/3"}
    while not any(reading.of == "isolation" for reading in window.store.job.readings):
        step = cards.current()
        assert step is not None
        both = all(touching & set(group) for group in step.tied)
        QTest.keyClicks(cards, "0.4" if both else "OL")
        QTest.keyClick(cards, Qt.Key.Key_Return)
        assert not cards.notice.text()
    reading, _ = window.store.job.readings
    assert {str(point) for point in reading.points} == touching
    assert "changed or repaired since" in shown.plan.words.text()
    cards.close()


def test_a_card_of_isolation_draws_what_is_tied_together(window: MainWindow, qtbot: QtBot) -> None:
    job = loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 9)), ("D1/+", "D2/+"))
    job = replace(job, devices=tuple(Device(code, code, "lamp") for code in ("D1", "D2")))
    shown = opened(window, job)
    shown.tabs.setCurrentWidget(shown.plan)
    qtbot.mouseClick(shown.plan.isolation_button, LEFT)
    cards = cards_of(window)
    step = cards.current()
    assert step is not None
    one, other = step.tied
    assert len(one) + len(other) == 9
    assert cards.tied.isVisible()
    assert not cards.probes.isVisible()
    drawn = cards.tied.drawing
    assert drawn is not None
    assert {area.ref for area in drawn.areas} == {*(f"C1/{n}" for n in range(1, 13)), "D1/+"}, (
        "the plug and the terminal where it is tied, and no other"
    )
    red = [
        shape for shape in drawn.shapes if isinstance(shape, Rect) and shape.pen == Pen("stop", 2.0)
    ]
    assert len(red) == len(one)
    areas = {area.ref: area.box for area in drawn.areas}
    assert {ref for ref, box in areas.items() if any(box.covers(s.box) for s in red)} == set(one)
    QTest.keyClick(cards, Qt.Key.Key_F)
    assert cards.tied.face == "mating face"
    cards.close()


def test_the_plan_follows_the_hand_and_its_reading_is_of_the_wires_as_they_are(
    window: MainWindow,
) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.plan)
    window.hand.pick("W4")
    chosen = shown.plan.current
    assert chosen.wires == ("W4",)
    assert shown.plan.table.current_key() == chosen.key
    window.store.do("longer", lambda job: edits.change_wire(job, "W4", length_m=9.0))
    assert shown.plan.current.expected_ohm > chosen.expected_ohm
    assert shown.plan.current.fingerprint != chosen.fingerprint
    window.store.do("gone", lambda job: edits.remove_wires(job, frozenset({"W4"})))
    assert shown.plan.current.key == shown.plan.table.current_key() != chosen.key


def test_a_high_voltage_waits_until_all_is_said_to_be_unplugged(
    window: MainWindow, qtbot: QtBot
) -> None:
    """Common practice: electronics are unplugged before an insulation tester is put on."""
    parts = (
        Device("ECU", "Engine computer", "controller"),
        Device("M1", "Fan", "motor"),
        Device("K1", "Fan relay", "relay", suppression="diode"),
    )
    job = replace(loom_job(("C1/1", "C2/1"), ("C1/2", "C2/2")), devices=parts)
    assert sensitive_to_high_voltage(job) == ["Engine computer", "Fan relay"]
    shown = opened(window, job)
    shown.tabs.setCurrentWidget(shown.plan)

    def give_up(asked: Question) -> None:
        assert "Engine computer; Fan relay" in asked.more.text()
        assert "Fan;" not in asked.more.text()
        assert asked.more.height() >= asked.more.heightForWidth(asked.more.width()), "cut off"
        QTest.keyClick(asked, Qt.Key.Key_Return)

    answer(Question, give_up)
    qtbot.mouseClick(shown.plan.high_button, LEFT)
    assert not [one for one in window.findChildren(StepCards) if one.isVisible()]
    answer(Question, press("500 V"))
    qtbot.mouseClick(shown.plan.high_button, LEFT)
    cards = cards_of(window)
    assert cards.detail.text().startswith("red on C1 2, black on C1 1 at 500 V;")
    QTest.keyClicks(cards, "OL")
    QTest.keyClick(cards, Qt.Key.Key_Return)
    run = window.store.job.readings[-1]
    assert (run.of, run.said) == ("isolation", "passed; 1 measurement of 2 circuits")
    assert "Short test at 500 V" in shown.plan.words.text()
    assert "passed; 1 measurement of 2 circuits" in story(window.store.job)[-1].text
    cards.close()


def found_out(qtbot: QtBot, shown: Any, until: Callable[[], bool]) -> None:
    qtbot.waitUntil(lambda: shown.causes.is_at_rest and until())


def test_causes_are_found_and_the_next_measurement_taken(window: MainWindow, qtbot: QtBot) -> None:
    shown = opened(window, loom())
    shown.tabs.setCurrentWidget(shown.causes)
    causes = shown.causes
    assert "Nothing was read or seen yet" in causes.verdict.text()
    causes.symptom.setText("C1/1 C2/1 OL")
    causes._add(causes.symptom.text())
    found_out(qtbot, shown, lambda: causes.diagnosis is not None)
    assert causes.table.things.rowCount() >= 2
    assert causes.counted.text() == "Counted: C1/1 C2/1 open."
    assert "Measure next: ohms from" in causes.next.text()
    first = causes.diagnosis
    assert first is not None
    point = first.next.point
    causes._take("0.3")  # kept in the job, as any reading
    assert {str(p) for p in window.store.job.readings[-1].points} == {
        str(point.red),
        str(point.black),
    }
    found_out(qtbot, shown, lambda: causes.diagnosis is not first)
    assert "open" in causes.verdict.text()
    key = causes.diagnosis.groups[0][0].causes[0]
    causes.table.picked.emit(key.key)
    assert window.hand.subject == key.on[0]
    window.store.do(
        "moved",
        lambda job: edits.record(
            job, continuity_reading(job.wires[3], None, "2026-11-02T10:00:00+01:00", job.settings)
        ),
    )
    readings, plan = window.store.job.readings, window.store.analysis.plan
    assert standing(plan).readings == readings
    window.store.do("elsewhere", lambda job: edits.change_wire(job, "W4", finish=End("C2", "5")))
    plan = window.store.analysis.plan
    assert standing(plan).readings == readings[:-1], "where W4 was is no matter now"
    assert standing(plan).left_out == 1
    with pytest.raises(ValueError, match="where and what"):
        causes._add("broken")
    for text, told in (("W99 crimped", "not a wire or part"), ("W2", "Say what was done")):
        with pytest.raises(ValueError, match=told):
            causes._mend(text)
    type_field(causes.mended, "W2 new terminal")
    assert window.store.job.readings[-1].said == "new terminal"
    found_out(qtbot, shown, lambda: "Nothing was read" in causes.verdict.text())
    assert causes.left_out.text().startswith("3 readings are of what was changed or repaired")
    window.store.history.undo()
    found_out(qtbot, shown, lambda: " is open" in causes.verdict.text())


def test_what_comes_and_goes_is_measured_again_and_not_forgotten(
    window: MainWindow, qtbot: QtBot
) -> None:
    shown = opened(window, loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 5))))
    shown.tabs.setCurrentWidget(shown.causes)
    causes = shown.causes
    for text in ("C1/1 C2/1 0.3", "C1/3 C2/3 OL", "C1/3 C2/3 0.3"):
        type_field(causes.symptom, text)
    found_out(qtbot, shown, lambda: causes.verdict.text().startswith("It comes and goes"))
    assert causes.next.text() == "Measure next: ohms from C1/3 to C2/3, power off"
    assert causes.counted.text() == "Counted: 1 other than before; 1 as expected."
    assert not any("earth" in line.words for line in causes.model.things), "there is none"
    for _ in range(3):
        type_field(causes.symptom, "C1/1 C1/2 0.3")
    found_out(qtbot, shown, lambda: causes.verdict.text().startswith("W1 is shorted to W2."))
    assert "Besides, it comes and goes at “ohms from C1/3 to C2/3" in causes.verdict.text()
    assert "C1/1 C1/2 0.10 Ω, 3 times; 1 other than before" in causes.counted.text()
    for _ in range(2):
        type_field(causes.symptom, "C1/3 C2/3 0.3")
    found_out(qtbot, shown, lambda: causes.verdict.text() == "W1 is shorted to W2.")


def test_a_touch_that_was_read_leads_to_isolation(window: MainWindow, qtbot: QtBot) -> None:
    job = loom_job(*((f"C1/{n}", f"C2/{n}") for n in range(1, 5)))
    plugs = tuple(Connector(code, code, Grid(1, 4)) for code in ("C1", "C2"))
    shown = opened(window, replace(job, connectors=plugs))
    shown.tabs.setCurrentWidget(shown.causes)
    causes = shown.causes
    type_field(causes.symptom, "C1/1 C2/1 0.2")
    found_out(qtbot, shown, lambda: causes.diagnosis is not None)
    assert not causes.isolation_button.isVisible()
    type_field(causes.symptom, "C1/1 C1/3 0.3")
    qtbot.waitUntil(causes.isolation_button.isVisible)
    assert "the short test finds them all, in about 2 measurements" in causes.touches.text()
    found_out(qtbot, shown, lambda: "A slip, or W1 is shorted to W3: 0.10" in causes.verdict.text())
    assert causes.next.text() == "Measure next: ohms from C1/1 to C1/3, power off"
    qtbot.mouseClick(causes.isolation_button, LEFT)
    cards = cards_of(window)
    while not any(reading.of == "isolation" for reading in window.store.job.readings):
        step = cards.current()
        assert step is not None
        both = all({"C1/1", "C1/3"} & set(group) for group in step.tied)
        QTest.keyClicks(cards, "0.3" if both else "OL")
        QTest.keyClick(cards, Qt.Key.Key_Return)
    cards.close()
    found_out(qtbot, shown, lambda: causes.model.things[0].words == "W1 is shorted to W3")
    assert not causes.isolation_button.isVisible()


def test_what_is_seen_with_the_power_on_stays_in_the_job(window: MainWindow, qtbot: QtBot) -> None:
    """A symptom and a voltage are kept like any reading; a change of the loom outdates them."""
    window.files.new()
    made = replace(demo_job("marten"), id=window.store.job.id, readings=())
    window.store.do("a loom", lambda _: made)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.causes)
    for text in ("D8 dead in run", "C4/5 12.1 V in run"):
        type_field(shown.causes.symptom, text)
    device, volts = window.store.job.readings
    assert (device.quantity, device.said, device.state) == ("words", "dead", "run")
    assert device.shown == "dead"
    assert (volts.quantity, volts.value, volts.state) == ("voltage", 12.1, "run")
    told = {line.subject: line.text for line in story(window.store.job)}
    assert told["D8"] == "D8: dead, run"
    seen = seen_of(standing(window.store.analysis.plan).readings)
    assert [one.shown for one in seen] == ["dead", 12.1]
    window.store.do("longer", lambda job: edits.change_wire(job, "W1", length_m=9.0))
    assert standing(window.store.analysis.plan) == Standing((), 2)
    shown.causes.forget()


def test_power_is_brought_up_step_by_step(demo_window: MainWindow, qtbot: QtBot) -> None:
    shown = page(demo_window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    qtbot.waitUntil(lambda: bool(shown.power.steps))
    assert not shown.caution.isVisible(), "with power on, other cautions hold"
    assert shown.power.table.things.rowCount() == len(shown.power.steps) > 20
    qtbot.mouseClick(shown.power.bench_button, LEFT)
    cards = cards_of(demo_window)
    assert cards.headline.text().startswith("Volts across the battery")
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert cards.headline.text().startswith("Ohms from the plus to the minus cable")
    assert "Battery off" in cards.first.text()
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert cards.headline.text().startswith("First power")
    cards.close()
    assert [tick.list for tick in demo_window.store.job.ticks][-1] == "power"
    shown._show_tab()
    assert cell(shown.power.table, shown.power.steps[0].key, "Done") == "✓"
    shown.power.table.picked.emit(next(s.key for s in shown.power.steps if s.subject == "F3"))
    assert demo_window.hand.subject == "F3"


def test_prove_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "loom.molvik"
    put_job(loom(), path)
    assert main(["prove", str(path), "--plan"]) == 0
    said = capsys.readouterr().out
    assert "4 measurements, 0 wires proved." in said
    assert "not told apart: W5, W6" in said
    assert "Short test 1, neighbours" in said
    assert main(["prove", str(path), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert len(found["measurements"]) == 4
    assert found["not_told_apart"] == [["W5", "W6"]]
    table = tmp_path / "read.csv"
    table.write_text("red,black,reading,state\nC1/1,C2/1,OL,\nC1/1,C3/1,0.3,\n")
    assert main(["prove", str(path), "--diagnose", str(table)]) == 0
    assert "W2 is open" in capsys.readouterr().out
    assert main(["prove", str(path), "--diagnose", str(table), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["causes"][0]["causes"][0]["faults"] == ["W2"]
    for text, told in (
        ("red,black,reading\nC1/1,C2/1,mostly\n", "row 2: “mostly” is not a reading"),
        ("a,b\n1,2\n", "no columns headed red"),
    ):
        table.write_text(text)
        assert main(["prove", str(path), "--diagnose", str(table)]) == 2
        assert told in capsys.readouterr().err


def test_what_was_played_through_serves_every_answer(window: MainWindow, qtbot: QtBot) -> None:
    """Before anything is asked, and from reading to reading; another wire is another network."""
    shown = opened(window, lamp())
    shown.tabs.setCurrentWidget(shown.causes)
    simulator = window.store.analysis.simulator
    every = {fault for cause in causes(simulator.network) for fault in under_power(cause)}
    qtbot.waitUntil(lambda: shown.causes.is_at_rest)
    assert {faults[0] for faults, state in simulator._solved if faults and state == RUN} == every
    shown.causes._add("D3 dead in run")
    found_out(qtbot, shown, lambda: shown.causes.diagnosis is not None)
    assert shown.causes.diagnosis.simulator is simulator
    before = shown.causes.diagnosis
    shown.causes._take("alive" if before.next.point.what == "device" else "12 V")
    found_out(qtbot, shown, lambda: shown.causes.diagnosis is not before)
    assert shown.causes.diagnosis.simulator is simulator is window.store.analysis.simulator
    window.store.do("longer", lambda job: edits.change_wire(job, "W1", length_m=9.0))
    assert window.store.analysis.simulator is not simulator


def test_the_window_the_list_the_report_and_the_command_line_count_alike(
    window: MainWindow, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Five wires typed one by one under Wires, a sixth open, voltage and free ohms beside."""
    shown = opened(window, replace(star(), settings=Settings(measured_by="Mirel", meter="M 7")))
    shown.tabs.setCurrentWidget(shown.table)
    for code in ("W1", "W2", "W3", "W4"):
        type_cell(shown.table, code, "Read Ω", "0.3")
    type_cell(shown.table, "W5", "Read Ω", "OL")
    points = End.of("C2/1"), End.of("C3/1")
    beside: tuple[tuple[Quantity, float, str], ...] = (
        ("resistance", 0.5, ""),
        ("voltage", 11.9, "run"),
    )
    for quantity, value, state in beside:
        made = taken(window.store.job.settings, AT, quantity, value, points, state=state)
        window.store.do("x", partial(edits.record, reading=made))
    analysis = window.store.analysis
    path = tmp_path / "a.molvik"
    assert window.files.save_as(path)
    assert main(["prove", str(path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    (report,) = [one for one in every_sheet(analysis) if one.name == "test-report"]
    first = next(block.text for block in report.blocks if isinstance(block, Paragraph))
    assert first.startswith("FAILED. 3 of 5 measurements passed, 1 failed, 0 to be")
    outcomes = Counter(one["outcome"] for one in told["measurements"])
    assert outcomes == {"passed": 3, "open": 1, "not measured": 1}
    rows = [row for table in report.tables for row in table.rows]
    assert sum(row[-1] == "passed" for row in rows if len(row) == 11) == 3
    others = {row[0] for row in rows if len(row) == 7 and row[5] == "M 7"}
    assert {"W1: C1/1 to S1", "W4: S1 to C4/1", "C2/1 to C3/1"} <= others
    assert [row[1:3] for row in rows if row[0] == "C2/1 to C3/1"] == [
        ("0.5 Ω", "power off"),
        ("11.9 V", "run"),
    ]
    (wires,) = [one for one in every_sheet(analysis) if one.name == "continuity-list"]
    assert sum(row[9] == "passed" for table in wires.tables for row in table.rows) == 4
    assert told["proved"] == ["W1", "W2", "W3", "W4"]
    shown.tabs.setCurrentWidget(shown.plan)
    assert "5 measurements prove 6 wires, 2 to do" in shown.plan.words.text()


def test_what_proving_shows_is_called_in_the_words_of_the_bench(window: MainWindow) -> None:
    window.files.open_demo()
    shown = page(window, "Proving")
    called = [shown.tabs.tabText(at) for at in range(shown.tabs.count())]
    assert called == [
        "Wires",
        "Plan",
        "Isolation",
        "Parts",
        "Joints",
        "Map",
        "Power",
        "Codes",
        "Causes",
        "Practice",
    ]
    assert shown.causes.symptom.accessibleName() == "Seen"
