"""The bench in the window: probes by mouse and keys, pulling, naming, the steps of power."""

from collections.abc import Iterator

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu
from pytestqt.qtbot import QtBot

from conftest import cell, page, type_field
from learners import cab
from molvik.desktop.stages.proving.practiceview import PracticeView
from molvik.desktop.widgets.benchcanvas import BenchCanvas
from molvik.desktop.window import MainWindow
from molvik.devices.states import NAMED, Fault
from molvik.files.practicerecord import add_round, load_record, record_path
from molvik.instruments.standsupply import StandInSupply
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import End
from molvik.proving.bench import Bench
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import seen_of
from molvik.proving.powerstep import allowed_a
from molvik.proving.practice.complaints import symptoms
from molvik.proving.practice.costs import METER_FUSE
from molvik.proving.practice.hiding import Hidden
from molvik.proving.practice.record import Played
from molvik.proving.practice.round import Round
from molvik.proving.report import report_sheet


def cab_job(window: MainWindow) -> Job:
    """Open an empty job, and lay the cab in it."""
    window.files.new()
    made = cab()
    job = Job(
        window.store.job.id,
        connectors=made.connectors,
        devices=made.devices,
        wires=made.wires,
        fuses=made.fuses,
        splices=made.splices,
        earths=made.earths,
    )
    window.store.do("a cab", lambda _: job)
    return window.store.job


def click(canvas: BenchCanvas, place: str, *, black: bool = False) -> None:
    """Click a place of the bench, as it is seen."""
    canvas.bring_into_view(place)
    button = Qt.MouseButton.RightButton if black else Qt.MouseButton.LeftButton
    QTest.mouseClick(canvas.viewport(), button, pos=canvas.spot(place))


@pytest.fixture
def practice(window: MainWindow, qtbot: QtBot) -> Iterator[PracticeView]:
    """Practice with W8, the blower's feed behind the bulkhead, open."""
    job = cab_job(window)
    shown = page(window, "Proving")
    shown.groups.choose("Practice")
    shown.tabs.setCurrentWidget(shown.practice)
    view: PracticeView = shown.practice
    network = shown.analysis.network
    simulator = FaultSimulator(network, Bench(job))
    fault = Fault("open", "W8")
    cause = next(one for one in simulator.causes(network) if one.faults == (fault,))
    hidden = Hidden((fault,), (cause,), (symptoms(simulator, (fault,))[0],))
    view._hidden(Round(network, "one", 5, simulator=simulator, hidden=hidden))
    view._offer()
    qtbot.waitUntil(lambda: view.bench.canvas.isVisible() and view.bench.canvas.isEnabled())
    yield view
    qtbot.waitUntil(lambda: view.is_at_rest)


def test_a_fault_is_found_by_pointing_only(practice: PracticeView, qtbot: QtBot) -> None:
    """Key, look, two volts, point: six actions with the mouse, no more than twelve."""
    canvas, actions = practice.bench.canvas, 0
    assert practice.complaint.text() == "“The blower does nothing with the key in run.”"

    def do(act: object) -> None:
        nonlocal actions
        assert callable(act)
        act()
        actions += 1

    do(practice.bench.turns["run"].click)
    do(lambda: click(canvas, "D3"))
    assert practice.words.text() == "Seen: dead, alive when sound."
    do(lambda: click(canvas, "C2/1"))
    assert float(practice.bench.meter.digits.text().split()[0]) > 12
    do(lambda: click(canvas, "D3/+"))
    assert abs(float(practice.bench.meter.digits.text().split()[0])) < 0.2
    do(practice.point_button.click)
    do(lambda: click(canvas, "C2/1"))
    qtbot.waitUntil(lambda: practice.after is not None, timeout=30_000)
    assert actions <= 12
    assert practice.words.text().startswith("Found: W8 is off.")
    qtbot.waitUntil(lambda: bool(practice.record.rounds), timeout=20_000)
    assert practice.record.rounds[-1].right
    assert load_record() == practice.record
    assert not practice.bench.canvas.isEnabled()
    told = [practice.steps.model.index(row, 4).data() for row in range(4)]
    assert told[0] == ""
    assert all(float(one) >= 0 for one in told[1:])
    assert practice.again_button.isEnabled()


def test_a_round_is_played_by_keys_only(practice: PracticeView, qtbot: QtBot) -> None:
    canvas = practice.bench.canvas
    canvas.setFocus()
    QTest.keyClick(canvas, Qt.Key.Key_3)
    assert practice.round is not None
    assert practice.round.key == "run"
    canvas.stand_on("C2/1")
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    assert practice.bench.red == End("C2", "1")
    canvas.stand_on("D3/+")
    QTest.keyClick(canvas, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert practice.bench.black == End("D3", "+")
    QTest.keyClick(canvas, Qt.Key.Key_Space)
    assert float(practice.bench.meter.digits.text().split()[0]) > 11  # all of it across the gap
    QTest.keyClick(canvas, Qt.Key.Key_6)
    assert practice.round.unplugged
    QTest.keyClick(canvas, Qt.Key.Key_O)
    assert practice.bench.function == "Ω"
    QTest.keyClick(canvas, Qt.Key.Key_Space)
    assert practice.bench.meter.digits.text() == "OL"
    places = [area.ref for area in canvas.drawing.areas] if canvas.drawing else []
    canvas.stand_on("D1/+")
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    assert canvas.place is not None
    assert places[canvas.place] != "D1/+"
    type_field(practice.answer, "w8")
    qtbot.waitUntil(lambda: practice.after is not None, timeout=30_000)
    assert practice.words.text().startswith("Found:")


def test_ohms_under_power_cost_and_show_nothing(practice: PracticeView) -> None:
    canvas = practice.bench.canvas
    practice.bench.turns["run"].click()
    practice.bench.meter.buttons["Ω"].click()
    click(canvas, "D3/+")
    assert practice.bench.meter.digits.text() == "- - -"
    assert practice.round is not None
    assert practice.round.steps[-1].minutes == METER_FUSE
    assert practice.steps.model.index(1, 0).data() == "2"


def test_parts_are_pulled_by_clicking_and_put_in_again(practice: PracticeView) -> None:
    canvas = practice.bench.canvas
    practice.bench.turns["run"].click()
    for code in ("K1", "F3"):
        type_field(practice.bench.lay, code)
    for code in ("F2", "K1", "C2"):
        click(canvas, code)
        assert practice.round is not None
        assert code in practice.round.pulled
        stand = next(one for one in canvas._stands if one.code == code)
        assert (stand.out and "put it in" in stand.words) or "plug it in" in stand.words
    chips = [practice.bench._chips.itemAt(n) for n in range(3)]
    shown = [one.widget() for one in chips if one is not None]
    assert [one.accessibleName() for one in shown if one] == ["C2 ×", "F2 ×", "K1 ×"]
    click(canvas, "C2")
    click(canvas, "F2")
    assert practice.round is not None
    assert "F2" not in practice.round.pulled
    # Amps in place of a fuse: pulled, both probes in its clips.
    click(canvas, "F3")
    practice.bench.meter.buttons["A"].click()
    click(canvas, "F3/out", black=True)
    click(canvas, "F3/in")
    assert float(practice.bench.meter.digits.text().split()[0]) > 0


def test_a_probe_is_dragged_from_place_to_place(practice: PracticeView) -> None:
    canvas = practice.bench.canvas
    practice.bench.turns["run"].click()
    click(canvas, "C2/1")
    steps = len(practice.round.steps) if practice.round else 0
    canvas.bring_into_view("C2/1", "C2/2")
    view = canvas.viewport()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=canvas.spot("C2/1"))
    QTest.mouseMove(view, canvas.spot("C2/2"))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=canvas.spot("C2/2"))
    assert practice.bench.red == End("C2", "2")
    assert practice.round is not None
    assert len(practice.round.steps) == steps + 1
    # Dropped on nothing it stays where it was; let go where it was it is read again.
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=canvas.spot("C2/2"))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(1, 1))
    assert practice.bench.red == End("C2", "2")
    click(canvas, "C2/2")
    assert len(practice.round.steps) == steps + 2
    # Both at one place: the other goes back into the hand.
    click(canvas, "C2/2", black=True)
    assert practice.bench.black == End("C2", "2")
    assert practice.bench.red == End()


def test_what_is_left_is_told_and_goes_when_more_is_seen(
    practice: PracticeView, qtbot: QtBot
) -> None:
    practice.bench.turns["run"].click()
    practice.bench.look_button.click()
    practice.leaves_button.click()
    qtbot.waitUntil(practice.causes.isVisible)
    assert "left, from " in practice.causes.text()
    assert "%" in practice.causes.text()
    click(practice.bench.canvas, "C2/1")
    assert not practice.causes.isVisible()


def test_a_wrong_name_says_why_and_the_round_goes_on(practice: PracticeView, qtbot: QtBot) -> None:
    practice.bench.turns["run"].click()
    click(practice.bench.canvas, "C2/1")
    type_field(practice.answer, "F2")
    qtbot.waitUntil(lambda: "F2 is sound" in practice.words.text())
    assert "would show" in practice.words.text()
    assert practice.round is not None
    assert not practice.round.is_over
    type_field(practice.answer, "W99")
    assert "There is no W99" in practice._page.notice.text()
    practice.point_button.click()
    assert practice.bench.canvas.pointing
    QTest.keyClick(practice.bench.canvas, Qt.Key.Key_Escape)
    assert not practice.bench.canvas.pointing


def test_a_part_is_laid_on_the_bench_by_its_name(practice: PracticeView) -> None:
    canvas = practice.bench.canvas
    assert not canvas.holds("D6/+")
    type_field(practice.bench.lay, "d6")
    assert canvas.holds("D6/+")
    type_field(practice.bench.lay, "D6/+ in run")
    assert practice.round is not None
    assert practice.round.key == "run"
    assert float(practice.bench.meter.digits.text().split()[0]) > 11
    type_field(practice.bench.lay, "D6/+ D6/+")
    assert "Both probes are at D6/+" in practice._page.notice.text()
    type_field(practice.bench.lay, "Z9")
    assert practice.bench.lay.refuses


def test_nothing_hidden_in_a_job_without_loads_offers_the_demo(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.practice)
    view = shown.practice
    view.begin(1)
    qtbot.waitUntil(lambda: "Choose the demo" in view.words.text())
    assert view.where.currentData() == "marten"
    before = window.store.job
    view.begin(3)
    qtbot.waitUntil(lambda: view.round is not None, timeout=30_000)
    assert view.round.network.job.title == "Marten fire tender"
    view.bench.turns["run"].click()
    qtbot.waitUntil(lambda: view.round.key == "run")
    qtbot.mouseClick(view.give_up, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: view.after is not None, timeout=60_000)
    assert view.words.text().startswith("It was: ")
    assert window.store.job == before
    qtbot.mouseClick(view.again_button, Qt.MouseButton.LeftButton)
    assert view.round is None
    assert view.begin_button.isVisible()


# the job's own bench


def test_the_probes_follow_the_wire_and_a_reading_is_kept_where_they_are(
    window: MainWindow,
) -> None:
    cab_job(window)
    shown = page(window, "Proving")
    window.hand.pick("W8")
    bench = shown.bench
    assert bench.isVisible()
    assert (bench.view.red, bench.view.black) == (End("C2", "1"), End("D3", "+"))
    assert bench.view.function == "Ω"
    assert bench.view.unplugged
    assert bench.expected.text() == f"expect {shown.analysis.tests['W8'].expected_ohm:.3g} Ω"
    click(bench.view.canvas, "D3/-")
    assert bench.view.red == End("D3", "-")
    type_field(bench.reading, "OL")
    kept = window.store.job.readings[-1]
    assert (kept.quantity, kept.value) == ("resistance", None)
    assert set(kept.points) == {End("D3", "-"), End("D3", "+")}
    # With something pulled, that stays with the reading.
    bench.view.turns["run"].click()
    bench.view.meter.buttons["V"].click()
    click(bench.view.canvas, "C2")
    click(bench.view.canvas, "D3/+")
    assert bench.expected.text() == "expect 0.00 V"
    type_field(bench.reading, "0.02")
    kept = window.store.job.readings[-1]
    assert (kept.quantity, kept.state, kept.out) == ("voltage", "run", ("C2",))
    bench.view.meter.buttons["lamp"].click()
    type_field(bench.reading, "bright")
    assert "lit, dim, dark" in shown.notice.text()


def test_a_probe_on_a_part_that_was_deleted_is_told(window: MainWindow) -> None:
    cab_job(window)
    shown = page(window, "Proving")
    window.hand.pick("W8")
    window.store.do("delete", lambda job: edits.remove_wires(job, frozenset({"W8"})))
    window.store.do("delete", lambda job: edits.remove_part(job, "D3"))
    bench = shown.bench
    bench.view.show_probes(End("D3", "+"), End("C2", "1"))
    type_field(bench.reading, "0.3")
    assert "D3 is not in the job any more" in shown.notice.text()


def test_a_step_of_power_shows_what_is_in_and_out_with_its_probes(
    window: MainWindow, qtbot: QtBot
) -> None:
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    power = shown.power
    qtbot.waitUntil(lambda: bool(power.steps), timeout=30_000)
    step = next(one for one in power.steps if one.subject == "F3")
    power.table.pick(step.key)
    power.table.picked.emit(step.key)
    view = shown.bench.view
    assert view.function == "A"
    assert (view.red, view.black) == (End("F3", "in"), End("F3", "out"))
    assert "F3" in view.pulled
    assert "F4" in view.pulled
    assert "F1" not in view.pulled
    figure = next(one for one in step.setup.figures if one.state == "off")
    assert shown.bench.expected.text() == f"expect {figure.value:.2f} A"
    assert power.facts["Expect"].text() == step.expect
    assert power.facts["Limit"].text() == step.limit != ""
    before = power.current
    assert before is not None
    power.tick_button.click()
    assert before.key in power.ticks.ticked()
    assert power.current is not None
    assert power.current.key != before.key


def test_alive_is_a_drawing_with_its_devices_beside_it(window: MainWindow, qtbot: QtBot) -> None:
    window.resize(1280, 800)
    window.files.open_demo()
    shown = page(window, "Circuits")
    shown.tabs.setCurrentWidget(shown.alive)
    alive = shown.alive
    qtbot.waitUntil(lambda: alive.controls.devices.count() > 20, timeout=30_000)
    qtbot.waitUntil(lambda: bool(alive._all), timeout=30_000)
    assert not alive.tabs.is_open
    assert alive.route.height() >= 420
    row = alive.controls.devices._lines.row_of["D8"]
    assert alive.controls.devices.text(row).startswith("Headlamps 1")
    alive.controls.devices.setCurrentRow(row)
    assert alive.code == "D8"
    assert window.hand.subject == "D8"
    drawing = alive.route.canvas.drawing
    assert drawing is not None
    assert drawing.height <= alive.route.canvas.viewport().height()
    if alive.route.fold.isChecked():
        alive.route.fold.click()
    stops = sum(len(line.stops) for line in alive.route.canvas.lines)
    drawing = alive.route.canvas.drawing
    assert drawing is not None
    assert stops >= 12
    assert drawing.height <= alive.route.canvas.viewport().height()  # all in view, no scrolling
    alive.route.fold.click()
    QTest.mouseClick(
        alive.tabs.tabBar(), Qt.MouseButton.LeftButton, pos=alive.tabs.tabBar().tabRect(0).center()
    )
    assert alive.tabs.is_open
    assert alive.table.isVisible()
    QTest.mouseClick(
        alive.tabs.tabBar(), Qt.MouseButton.LeftButton, pos=alive.tabs.tabBar().tabRect(0).center()
    )
    assert not alive.tabs.is_open
    # From the drawing to the bench.
    window.hand.pick("W58")
    alive.controls.probed.emit("W58")
    proving = page(window, "Proving")
    wire = window.store.job.wire("W58")
    assert wire is not None
    assert proving.bench.view.red == wire.start
    assert proving.bench.view.function == "V"
    assert proving.bench.view.key == "run"


def test_the_states_of_the_bench_are_states_of_the_job() -> None:
    from molvik.proving.probing import DEVICE_KEYS

    assert set(DEVICE_KEYS) <= set(NAMED)


def test_the_supply_is_held_to_what_the_step_allows(window: MainWindow, qtbot: QtBot) -> None:
    """With F3 and F4 still out less flows than with all in; past that it is switched off."""
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    power = shown.power
    qtbot.waitUntil(lambda: bool(power.steps), timeout=30_000)
    step = next(one for one in power.steps if one.subject == "F2")
    power.table.pick(step.key)
    power.table.picked.emit(step.key)
    limits = dict(step.setup.most_a)
    assert step.setup.out == ("F3", "F4")
    bar = power.supply
    bar.use_stand_in()
    qtbot.waitUntil(lambda: bar.instrument is not None and bar.is_at_rest, timeout=30_000)
    qtbot.mouseClick(bar.on_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bar.digits.text() == "12.6 V  0.00 A", timeout=30_000)
    assert bar.said.text() == f"at most {limits['off']:.2f} A in this step"
    qtbot.mouseClick(bar.off_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bar.is_at_rest and bar.digits.text() == "off", timeout=30_000)
    bar.key.setCurrentIndex(bar.key.findData("run"))
    qtbot.mouseClick(bar.on_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Switched off" in shown.notice.text(), timeout=30_000)
    assert f"By the job {limits['run']:.2f} A are needed" in shown.notice.text()
    every = allowed_a(shown.analysis.operating_point(NAMED["run"]))
    assert limits["run"] < every - 5
    bar.forget()
    qtbot.waitUntil(lambda: bar.is_at_rest)


def test_the_stand_in_of_a_supply_feeds_only_what_is_in() -> None:
    job = cab()
    stand_in = StandInSupply(job)
    for line in ("VOLT 12.6", "CURR 60", "SIM:KEY RUN", "OUTP ON"):
        stand_in.answer(line)
    every = float(stand_in.answer("MEAS:CURR?") or 0)
    stand_in.answer("SIM:OUT F3,F4")
    some = float(stand_in.answer("MEAS:CURR?") or 0)
    stand_in.answer("SIM:OUT F1")
    none = float(stand_in.answer("MEAS:CURR?") or 0)
    assert every > some + 1 > none + 2
    assert none == pytest.approx(0.0, abs=1e-3)
    stand_in.answer("SIM:OUT NONE")
    assert float(stand_in.answer("MEAS:CURR?") or 0) == pytest.approx(every)
    stand_in.answer("SIM:OUT F99")
    assert "-224" in (stand_in.answer("SYST:ERR?") or "")


def test_where_several_wires_meet_it_is_asked_which_is_meant(
    practice: PracticeView, qtbot: QtBot
) -> None:
    canvas = practice.bench.canvas
    type_field(practice.bench.lay, "D2")
    practice.point_button.click()
    click(canvas, "D2/15")
    (menu,) = (one for one in practice.bench.findChildren(QMenu) if one.isVisible())
    named = [action.text().split()[0] for action in menu.actions()]
    assert named == ["D2", "W7", "W9", "W11", "W12"]
    menu.actions()[1].trigger()
    menu.close()
    qtbot.waitUntil(lambda: "W7 is sound" in practice.words.text())
    assert not canvas.pointing
    # A place without a wire names nothing.
    practice.point_button.click()
    click(canvas, "C2/4")
    assert "No wire is at C2/4" in practice._page.notice.text()


def test_what_can_be_done_with_a_part_is_offered_by_a_right_click(
    practice: PracticeView, qtbot: QtBot
) -> None:
    practice.bench.turns["run"].click()
    practice.bench.canvas.asked.emit("D3", QPoint(0, 0))
    (menu,) = (one for one in practice.bench.findChildren(QMenu) if one.isVisible())
    assert [action.text() for action in menu.actions()] == [
        "Look at it",
        "Pull it, or put it in",
        "It is D3",
    ]
    menu.actions()[1].trigger()
    menu.close()
    assert practice.round is not None
    assert practice.round.pulled == {"D3"}
    assert practice.round.steps[-1].what == "D3 unplugged"


def test_somebody_moves_the_loom_and_heats_it(practice: PracticeView) -> None:
    practice.bench.move_button.click()
    practice.bench.heat_button.click()
    assert practice.round is not None
    assert practice.round.moved
    assert practice.round.warm
    practice.bench.move_button.click()
    assert not practice.round.moved
    assert [step.minutes for step in practice.round.steps] == [0.5, 5.0, 0.5]


def test_ohms_at_the_ends_of_a_wire_are_of_that_wire(window: MainWindow) -> None:
    """Typed on the bench or in the list, the wire is proved by it, and the plan with it."""
    cab_job(window)
    shown = page(window, "Proving")
    window.hand.pick("W8")
    assert shown.list.text(1).startswith("To measure 25")
    type_field(shown.bench.reading, "0.25")
    assert window.store.analysis.proof["W8"].outcome == "passed"
    assert cell(shown.table, "W8", "Read Ω") == "0.25"
    assert shown.bench.view.red == End("C2", "1"), "the probes stay where they are"
    type_field(shown.bench.reading, "OL")
    assert window.store.analysis.proof["W8"].outcome not in ("passed", "not measured")
    assert "W8" in shown.notice.text()
    # Along two wires of the plan: its measurement.
    one = next(m for m in window.store.analysis.plan.measurements if len(m.wires) > 1)
    shown.tabs.setCurrentWidget(shown.plan)
    shown.plan.show_measurement(one.key)
    assert {shown.bench.view.red, shown.bench.view.black} == {one.red, one.black}
    type_field(shown.bench.reading, "0.3")
    assert window.store.analysis.plan.judged[one.key].outcome == "passed"
    type_field(shown.bench.reading, "mostly")
    assert shown.bench.reading.refuses


def test_a_part_by_itself_is_read_on_the_bench_as_that_part(window: MainWindow) -> None:
    """What it should show, and what is kept, is of the part and not of the loom it hangs on."""
    window.files.open_demo()
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.parts)
    parts, bench = shown.parts, shown.bench
    tests = list(parts.model.things)
    coil = next(test for test in tests if test.subject == "D12" and test.most)
    parts.table.pick(coil.key)
    parts.table.picked.emit(coil.key)
    assert bench.expected.text() == f"expect {coil.expect}"
    assert bench.view.red.at == "C8", "an injector is probed in its plug"
    before = len(window.store.job.readings)
    assert coil.most is not None
    type_field(bench.reading, f"{(coil.least or 0) / 2 + coil.most / 2:g}")
    assert len(window.store.job.readings) == before + 1
    assert window.store.job.readings[-1].of == "part"
    assert parts.verdict(coil).outcome == "passed"
    other = next(test for test in tests if test.subject == "K1" and test.key != coil.key)
    parts.table.pick(other.key)
    parts.table.picked.emit(other.key)
    assert bench.expected.text() == f"expect {other.expect}"
    # Moved elsewhere it is the loom again.
    click(bench.view.canvas, "K1/30")
    assert bench.expected.text() != f"expect {other.expect}"


def test_the_bench_says_how_probes_get_down(window: MainWindow) -> None:
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.isolation)
    view = shown.bench.view
    assert view.isVisible()
    view.turns["run"].click()
    assert "clipped to the battery's earthed pole" in view.where.text()
    view.turns["unplugged"].click()
    assert view.where.text() == "Put both probes down: the battery is off."
    view.meter.buttons["Ω"].click()
    type_field(view.lay, "F2")
    click(view.canvas, "F2/in")
    assert view.where.text() == "red: fuse F2 Fuse 2, in"
    type_field(shown.bench.reading, "0.3")
    assert "Put the black probe somewhere, too" in shown.notice.text()


def test_a_step_of_power_tells_no_cause(window: MainWindow, qtbot: QtBot) -> None:
    """Its readings are with every switch off: held against a job with all on they were odd."""
    job = cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    power, bench = shown.power, shown.bench
    qtbot.waitUntil(lambda: bool(power.steps), timeout=30_000)
    step = next(one for one in power.steps if one.subject == "F3")
    power.table.pick(step.key)
    power.table.picked.emit(step.key)
    figure = next(one for one in step.setup.figures if one.state == "off")
    type_field(bench.reading, f"{figure.value:.2f}")
    kept = window.store.job.readings[-1]
    assert (kept.of, kept.quantity, kept.state) == ("power", "current", "off")
    assert seen_of(window.store.job.readings) == ()
    assert "every switch off" in str(
        report_sheet(window.store.analysis.network, window.store.analysis.plan)
    )
    # What is expected holds only as long as all is as in the step.
    bench.view.turns["run"].click()
    run = next(one for one in step.setup.figures if one.state == "run")
    assert bench.expected.text() == f"expect {run.value:.2f} A"
    click(bench.view.canvas, "F1")
    assert bench.expected.text() == "not as in the step"
    click(bench.view.canvas, "F1")
    type_field(bench.view.lay, "E1")
    click(bench.view.canvas, "E1", black=True)
    assert bench.expected.text() == ""
    assert job.readings == ()


def test_the_battery_and_what_lies_between_its_cables_are_read_before_power(
    window: MainWindow, qtbot: QtBot
) -> None:
    """Lamps and windings lie between the cables: as of the bare loom that was a short."""
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    power, bench = shown.power, shown.bench
    qtbot.waitUntil(lambda: len(power.steps) > 2, timeout=30_000)
    for step, text, quantity in (
        (power.steps[0], "12.7", "voltage"),
        (power.steps[1], "2.4", "resistance"),
    ):
        power.table.pick(step.key)
        power.table.picked.emit(step.key)
        assert (bench.view.red, bench.view.black) == (End("D1", "+"), End("D1", "-"))
        type_field(bench.reading, text)
        kept = window.store.job.readings[-1]
        assert (kept.of, kept.quantity, kept.value) == ("power", quantity, float(text))
    assert seen_of(window.store.job.readings) == ()


def test_a_supply_is_not_switched_on_with_another_key_than_the_steps(
    window: MainWindow, qtbot: QtBot
) -> None:
    """The limit was that of the whole job then, with the fuses still out."""
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.power)
    power, bar = shown.power, shown.power.supply
    qtbot.waitUntil(lambda: bool(power.steps), timeout=30_000)
    step = next(one for one in power.steps if [state for state, _ in one.setup.most_a] == ["off"])
    power.table.pick(step.key)
    power.table.picked.emit(step.key)
    bar.use_stand_in()
    qtbot.waitUntil(lambda: bar.instrument is not None and bar.is_at_rest, timeout=30_000)
    bar.key.setCurrentIndex(bar.key.findData("run"))
    qtbot.mouseClick(bar.on_button, Qt.MouseButton.LeftButton)
    assert shown.notice.text() == "In this step the key is at off: turn it there first."
    assert bar.is_at_rest
    bar.forget()


def test_a_part_is_read_only_as_it_is_measured(window: MainWindow) -> None:
    """Volts in run at its plug were kept as the ohms of the part."""
    window.files.open_demo()
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.parts)
    parts, bench = shown.parts, shown.bench
    coil = next(test for test in parts.model.things if test.subject == "D12" and test.most)
    parts.table.pick(coil.key)
    parts.table.picked.emit(coil.key)
    bench.view.turns["run"].click()
    bench.view.meter.buttons["V"].click()
    assert bench.expected.text() != f"expect {coil.expect}"
    type_field(bench.reading, "12.1")
    kept = window.store.job.readings[-1]
    assert (kept.of, kept.quantity, kept.state) == ("loom", "voltage", "run")
    assert parts.verdict(coil).outcome == "not measured"


def test_a_connected_meter_is_read_by_putting_a_probe_down(
    window: MainWindow, qtbot: QtBot
) -> None:
    cab_job(window)
    shown = page(window, "Proving")
    shown.tabs.setCurrentWidget(shown.plan)
    meter = shown.plan.instruments
    meter.use_stand_in()
    qtbot.waitUntil(lambda: meter.instrument is not None and meter.is_at_rest, timeout=30_000)
    one = shown.plan.model.things[0]
    shown.plan.show_measurement(one.key)
    view = shown.bench.view
    click(view.canvas, str(view.red))
    qtbot.waitUntil(lambda: len(window.store.job.readings) == 1, timeout=30_000)
    assert window.store.analysis.plan.judged[one.key].outcome == "passed"
    qtbot.waitUntil(lambda: view.meter.digits.text().endswith("Ω"))
    meter.forget()
    qtbot.waitUntil(lambda: meter.is_at_rest)


def test_a_damaged_record_is_left_as_it_is(practice: PracticeView, qtbot: QtBot) -> None:
    record_path().parent.mkdir(parents=True, exist_ok=True)
    record_path().write_text("{ not a record")
    type_field(practice.answer, "W8")
    qtbot.waitUntil(lambda: practice.after is not None, timeout=30_000)
    qtbot.waitUntil(lambda: "left as it is" in practice._page.notice.text(), timeout=20_000)
    assert record_path().read_text() == "{ not a record"
    record_path().unlink()


def test_two_windows_add_to_one_record(practice: PracticeView, qtbot: QtBot) -> None:
    add_round(Played("short", "one", False, 9.0, 4.0, "2026-12-01T10:00:00+01:00"))
    type_field(practice.answer, "W8")
    qtbot.waitUntil(lambda: len(practice.record.rounds) == 2, timeout=30_000)
    assert [one.kind for one in load_record().rounds] == ["short", "open wire"]
    qtbot.waitUntil(lambda: "short 0 of 1" in practice.kinds.text())


def test_another_round_can_be_had_while_something_is_worked_out(
    practice: PracticeView, qtbot: QtBot
) -> None:
    practice.bench.turns["run"].click()
    practice.leaves_button.click()
    assert practice.again_button.isEnabled()
    practice.again_button.click()
    assert practice.round is None
    assert practice.begin_button.isEnabled()
    practice.begin(3)
    qtbot.waitUntil(lambda: practice.round is not None, timeout=30_000)
    assert not practice.causes.isVisible(), "nothing of the round before"
