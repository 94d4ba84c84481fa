"""The clock, the story, and the hours still to come."""

import json
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from conftest import answer, open_window, page, small_job, wire
from jobs import words_on
from molvik.analysis import Analysis
from molvik.desktop.beside.logbook import LogbookWindow
from molvik.desktop.beside.logline import JotDialog
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.window import MainWindow
from molvik.files.errors import JobFileError
from molvik.files.jobtext import decode_job, encode_job
from molvik.logbook.clock import hours_by_stage, hours_text, running, sessions
from molvik.logbook.estimate import (
    OPERATIONS,
    START_MIN,
    hours,
    rates,
    repair_quantities,
    replace_quantities,
)
from molvik.logbook.quote import Cost, break_even, quote_sheet
from molvik.logbook.story import matching, story
from molvik.model import edits, loom_edits
from molvik.model.job import Acceptance, Job, Settings
from molvik.model.log import LogEntry
from molvik.model.loom import Fault, FoundWire, Loom, Node, Segment
from molvik.proving.wiretest import continuity_reading
from molvik.sheetset import every_sheet

NOW = datetime.fromisoformat("2026-11-06T20:00:00+01:00")


def on(at: str, stage: str = "Survey") -> LogEntry:
    return LogEntry(at, "clock on", stage)


def off(at: str) -> LogEntry:
    return LogEntry(at, "clock off")


def test_a_session_across_midnight_is_as_long_as_it_was() -> None:
    log = (on("2026-11-02T22:30:00+01:00"), off("2026-11-03T00:45:00+01:00"))
    assert hours_by_stage(log, NOW) == {"survey": 2.25}


def test_a_change_of_zone_or_of_the_clocks_costs_no_hour() -> None:
    # Summer time ended in Europe on 25 October 2026 at 01:00 UTC: 02:30 came twice.
    log = (on("2026-10-25T02:30:00+02:00"), off("2026-10-25T02:30:00+01:00"))
    assert hours_by_stage(log, NOW) == {"survey": 1.0}
    ferry = (on("2026-11-02T10:00:00+01:00"), off("2026-11-02T10:00:00+00:00"))
    assert hours_by_stage(ferry, NOW) == {"survey": 1.0}


def test_going_on_to_another_stage_ends_the_one_before() -> None:
    log = (
        on("2026-11-02T10:00:00+01:00", "Survey"),
        on("2026-11-02T11:00:00+01:00", "Pinouts"),
        off("2026-11-02T11:30:00+01:00"),
        off("2026-11-02T11:40:00+01:00"),
    )
    assert hours_by_stage(log, NOW) == {"survey": 1.0, "pinouts": 0.5}
    assert running(log) is None


def test_a_forgotten_clock_is_noticed_and_not_counted() -> None:
    log = (on("2026-11-04T18:00:00+01:00"),)
    session = running(log)
    assert session is not None
    assert session.forgotten(NOW)
    assert hours_by_stage(log, NOW) == {"survey": 0.0}
    fresh = (on("2026-11-06T18:00:00+01:00"),)
    assert hours_by_stage(fresh, NOW) == {"survey": 2.0}


@given(st.lists(st.tuples(st.integers(0, 600), st.integers(1, 600)), min_size=1, max_size=9))
def test_hours_are_the_sum_of_the_sessions(spans: list[tuple[int, int]]) -> None:
    at = NOW - timedelta(days=60)
    log: list[LogEntry] = []
    for pause, work in spans:
        at += timedelta(minutes=pause)
        log.append(on(at.isoformat()))
        at += timedelta(minutes=work)
        log.append(off(at.isoformat()))
    assert len(sessions(log)) == len(spans)
    total = sum(hours_by_stage(log, NOW).values())
    assert total == pytest.approx(sum(work for _, work in spans) / 60)


def test_hours_are_written_as_people_say_them() -> None:
    assert hours_text(3 + 40 / 60) == "3 h 40"
    assert hours_text(0) == "0 h 00"


def test_the_story_tells_everything_in_the_order_it_happened() -> None:
    one = wire("W1", "C1/1", "C2/1")
    job = small_job(one)
    reading = continuity_reading(one, 0.3, "2026-11-02T10:05:00+01:00", Settings(measured_by="IM"))
    job = edits.record(job, reading)
    done = LogEntry(
        "2026-11-02T10:10:00+01:00", "done", "Survey", "L1", "by the window", "IM", "crimp", 2, 5
    )
    for entry in (
        LogEntry("2026-11-02T10:00:00+01:00", "note", "Pinouts", "C1/2", "tang was flat", "IM"),
        done,
    ):
        job = edits.log(job, entry)
    job = edits.accept(job, Acceptance("loose-end W9", "spare", "2026-11-02T09:00:00+01:00"))
    lines = story(job)
    assert [line.kind for line in lines] == ["accepted", "note", "reading", "done"]
    assert lines[2].text == "C1/1 to C2/1: 0.3 Ω"
    assert lines[3].text == "crimp, 2 in 5 min: by the window"
    assert [line.kind for line in matching(lines, "tang c1/2")] == ["note"]
    assert matching(lines, "nothing of the kind") == ()


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        (LogEntry("t", "note", text="  "), "empty note"),
        (LogEntry("t", "done", text="x"), "what was done"),
        (LogEntry("t", "done", operation="crimp", quantity=-1, minutes=3), "above zero"),
        (LogEntry("t", "done", operation="crimp", quantity=1), "how many minutes"),
    ],
)
def test_a_line_that_says_nothing_is_refused(entry: LogEntry, words: str) -> None:
    with pytest.raises(edits.EditError, match=words):
        edits.log(Job("x"), entry)


def test_a_time_without_its_zone_is_refused_on_opening() -> None:
    good = edits.log(Job("x"), LogEntry("2026-11-02T10:00:00+01:00", text="hello"))
    assert decode_job(encode_job(good), "x") == good
    for at, words in (("2026-11-02T10:00:00", "no UTC offset"), ("yesterday", "is not a time")):
        data = json.loads(encode_job(good))
        data["job"]["log"][0]["at"] = at
        with pytest.raises(JobFileError, match=words):
            decode_job(json.dumps(data).encode(), "x")


# Estimates


def done(operation: str, quantity: float, minutes: float) -> LogEntry:
    return LogEntry(
        "2026-11-02T10:00:00+01:00",
        "done",
        operation=operation,  # type: ignore[arg-type]
        quantity=quantity,
        minutes=minutes,
    )


@given(st.sampled_from(OPERATIONS), st.floats(0.5, 60))
def test_rates_learn_until_they_reach_the_builders_own(operation: str, own: float) -> None:
    before = rates(())[operation].minutes  # type: ignore[index]
    assert before == START_MIN[operation]  # type: ignore[index]
    some = rates([done(operation, 2, 2 * own)] * 3)[operation].minutes  # type: ignore[index]
    many = rates([done(operation, 10, 10 * own)] * 100)[operation].minutes  # type: ignore[index]
    assert abs(many - own) <= abs(some - own) + 1e-9 <= abs(before - own) + 2e-9
    assert many == pytest.approx(own, rel=0.05, abs=0.15)


def test_an_estimate_counts_by_hand() -> None:
    loom = Loom(
        (Node("N1", "a"), Node("N2", "b"), Node("N3", "c")),
        (Segment("B1", "N1", "N2", 2.0, "tape"), Segment("B2", "N2", "N3", 1.0)),
        (
            FoundWire("L1", "N1", "N3", fused=False),
            FoundWire("L2", "N1", "N2"),
        ),
        (
            Fault("X1", "L1", "burnt"),
            Fault("X2", "L2", "bad repair", 1.0),
            Fault("X3", "L2", "bad terminal"),
        ),
    )
    analysis = Analysis(Job("x", loom=loom))
    repair = repair_quantities(analysis)
    # L1 anew: 3 m, two crimps, two terminals out and in; its covered way, B1, opened whole, so
    # the repair at 1 m costs no more; two joints for it; one terminal anew.
    assert repair["new wire"] == pytest.approx(3.0)
    assert repair["open and close covering"] == pytest.approx(2.0)
    assert repair["crimp"] == 3
    assert repair["terminal out and in"] == 3
    assert repair["splice"] == 2
    new = replace_quantities(analysis)
    assert new["new wire"] == pytest.approx(5.0)
    assert new["crimp"] == 4
    first = rates(())
    by_hand = (3 * 6 + 2 * 20 + 3 * 3 + 3 * 4 + 2 * 10) / 60
    assert hours(repair, first) == pytest.approx(by_hand)


def a_cost(hours: float, materials: float, price: float) -> Cost:
    return Cost(hours, {}, (), hours * price, materials, (), {})


def test_the_break_even_is_said() -> None:
    at_50 = Settings(hour_price=50)
    # 2 h and 40 against 5 h and 100: 140 against 350, so 210 or 4.2 h apart.
    words = break_even(a_cost(2, 40, 50), a_cost(5, 100, 50), at_50)
    assert "140 against 350 EUR" in words
    assert "Repair costs less, until it takes 4.2 h more" in words
    assert "Both cost the same" not in words
    words = break_even(a_cost(6, 40, 50), a_cost(5, 30, 50), at_50)
    assert "A new loom costs less, by as much as 1.2 h" in words
    # 2 h and 340 against 5 h and 100: 3 h against 240, the same at 80 an hour.
    words = break_even(a_cost(2, 340, 50), a_cost(5, 100, 50), at_50)
    assert "Both cost the same at 80.00 EUR an hour" in words
    at_80 = Settings(hour_price=80)
    one, other = a_cost(2, 340, 80), a_cost(5, 100, 80)
    assert one.total == other.total
    assert "until it takes 0.0 h more" in break_even(one, other, at_80)
    assert "price of an hour" in break_even(a_cost(2, 0, 0), a_cost(5, 0, 0), Settings())
    assert break_even(a_cost(0, 0, 0), a_cost(0, 0, 0), at_80) == ""


def test_a_quote_adds_up_and_says_what_has_no_price(demo: Job) -> None:
    sheet = quote_sheet(Analysis(demo))
    totals = {row[1]: float(row[4]) for row in sheet.tables[0].rows if not row[0]}
    work = sum(float(row[4]) for row in sheet.tables[0].rows if row[0] == "Work")
    materials = sum(float(row[4]) for row in sheet.tables[0].rows if row[0] == "Material")
    assert totals["Work"] == pytest.approx(work, abs=0.05)
    assert totals["Materials"] == pytest.approx(materials, abs=0.05)
    assert totals["Together"] == pytest.approx(work + materials, abs=0.1)
    assert sheet.title == "Quote: repair of the loom"
    bare = quote_sheet(Analysis(replace(demo, stock=())))
    assert "Without a price in stock: wire" in words_on(bare)[0]
    abroad = tuple(replace(item, currency="GBP") for item in demo.stock)
    assert "prices in GBP" in words_on(quote_sheet(Analysis(replace(demo, stock=abroad))))[0]


def test_a_decision_for_a_new_loom_is_what_is_quoted(demo: Job) -> None:
    job = loom_edits.change(demo, "X1", decision="replace the loom")
    sheet = quote_sheet(Analysis(job))
    assert sheet.title == "Quote: a new loom"
    (covering,) = (row for row in sheet.tables[0].rows if row[1] == "open and close covering")
    length = sum(segment.length_m or 0.0 for segment in demo.loom.segments)
    assert float(covering[2]) == pytest.approx(length, rel=0.01)


def test_the_demo_has_its_hours(demo: Job) -> None:
    analysis = Analysis(demo)
    known = rates(demo.log)
    repair, new = (
        hours(repair_quantities(analysis), known),
        hours(replace_quantities(analysis), known),
    )
    assert 1 < repair < new < 60


# In the window


def test_the_clock_runs_on_the_stage_in_view(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Proving")
    assert demo_window.beside.clock_button.text() == "Clock off · 3 h 25"
    qtbot.mouseClick(demo_window.beside.clock_button, Qt.MouseButton.LeftButton)
    assert demo_window.beside.clock_button.text().startswith("On the clock")
    session = running(demo_window.store.job.log)
    assert session is not None
    assert session.stage == "proving"
    demo_window.beside.set_clock()
    assert demo_window.beside.clock_button.text().startswith("Clock off")
    demo_window.store.history.undo()
    assert running(demo_window.store.job.log) is not None


def test_a_forgotten_clock_asks_how_long_was_worked(
    demo_window: MainWindow,
) -> None:
    start = datetime.now().astimezone() - timedelta(hours=30)
    entry = on(start.isoformat(timespec="seconds"), "Survey")
    demo_window.store.do("x", lambda job: edits.log(job, entry))
    assert "forgotten?" in demo_window.beside.clock_button.text()
    answer(LineQuestion, lambda asked: asked.reject())
    demo_window.beside.set_clock()
    assert running(demo_window.store.job.log) is not None

    def worked(asked: LineQuestion) -> None:
        asked.type("80")
        assert "0 to 12" in asked.notice.text()
        asked.type("2,5")

    answer(LineQuestion, worked)
    demo_window.beside.set_clock()
    assert demo_window.beside.clock_button.text() == "Clock off · 5 h 55"


def test_a_note_is_taken_on_what_is_in_hand(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W42")

    def write(dialog: JotDialog) -> None:
        assert dialog.windowTitle() == "Note on W42"
        dialog.accept()
        assert "empty note" in dialog.notice.text()
        QTest.keyClicks(dialog.text, "insulation thin at the clip")
        dialog.accept()

    before_log = len(demo_window.store.job.log)
    demo_window.beside.jot()
    answer(JotDialog, write)
    qtbot.waitUntil(lambda: len(demo_window.store.job.log) > before_log)
    entry = demo_window.store.job.log[-1]
    assert (entry.subject, entry.stage, entry.by) == ("W42", "circuits", "Mirel")
    assert entry.text == "insulation thin at the clip"


def test_what_was_done_teaches_the_rates(demo_window: MainWindow, qtbot: QtBot) -> None:
    survey = page(demo_window, "Survey")
    before = [line[3] for line in survey.hours_model.things if line[0] == "splice"]

    def write(dialog: JotDialog) -> None:
        dialog.operation.setCurrentText("splice")
        dialog.operation.activated.emit(0)
        dialog.quantity.setText("many")
        dialog.minutes.setText("90")
        dialog.accept()
        assert "“many” is not a number" in dialog.notice.text()
        dialog.quantity.setText("3")
        dialog.accept()

    before_log = len(demo_window.store.job.log)
    demo_window.beside.jot()
    answer(JotDialog, write)
    qtbot.waitUntil(lambda: len(demo_window.store.job.log) > before_log)
    after = next(line for line in survey.hours_model.things if line[0] == "splice")
    assert before == ["10.0"]
    assert after[3:] == ("20.0", "3 logged")  # (3 x 10 + 90) / 6
    assert survey.hours_verdict.text().startswith("Repair ")


def test_the_logbook_is_read_filtered_and_printed(demo_window: MainWindow, qtbot: QtBot) -> None:
    demo_window.beside.show_logbook()
    book = demo_window.beside.logbook
    assert isinstance(book, LogbookWindow)
    job = demo_window.store.job
    told = len(job.readings) + len(job.log) + len(job.photos)
    assert len(book.model.things) == told
    book.filter.setText("old repair")
    assert len(book.model.things) == 1
    book.filter.setText("")
    demo_window.beside.set_clock()
    assert len(book.model.things) == told + 1
    assert "Pinouts 0 h 00" in book.hours.text()
    sheet = every_sheet(demo_window.store.analysis)[-1]
    assert sheet.name == "logbook"
    assert [row[3] for row in sheet.tables[0].rows[:2]] == ["clock on", "photo"]
    book.close()


def test_the_log_comes_back_with_the_job(qtbot: QtBot, tmp_path: Path) -> None:
    window = open_window(qtbot, tmp_path)
    window.files.open_demo()
    window.beside.set_clock()
    assert window.files.save_as(tmp_path / "job.molvik")
    log = window.store.job.log
    window.files.close_job()
    again = open_window(qtbot, tmp_path)
    again.files.open(tmp_path / "job.molvik")
    assert again.store.job.log == log
    assert again.beside.clock_button.text().startswith("On the clock")
