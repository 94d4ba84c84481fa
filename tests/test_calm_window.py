"""The window is calm: each thing once, rows edited in their place, tables that fit."""

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from conftest import (
    looked_over,
    metric,
    open_window,
    page,
    small_job,
    type_cell,
    wire,
    wire_card,
)
from molvik.analysis import Analysis
from molvik.desktop.dialogs.find import FindBox, name_of
from molvik.desktop.dialogs.keys import KeysDialog
from molvik.desktop.hand import Hand
from molvik.desktop.stages.sizes.bars import role_of
from molvik.desktop.stages.sizes.groups import BARE, STARTER, UNFED, Grouped
from molvik.desktop.stages.sizes.page import SizesPage
from molvik.desktop.store import Store
from molvik.desktop.widgets.fitting import NARROWEST
from molvik.desktop.widgets.guide import Guide
from molvik.desktop.widgets.trunk import Waits
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.desktop.window import MainWindow
from molvik.findings import judged_findings
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.loom import Fault
from molvik.model.parts import Device
from molvik.parsing.quantities import amps_text, read_size
from molvik.search import search
from molvik.sizes.assessment import standing, verdict
from molvik.sizes.sizing_case import FAR_OVER, Criterion
from molvik.sizes.wire import judge
from molvik.stages import STAGES
from molvik.survey.decide import decide

KEY = Qt.Key
STAGE_NAMES = ("Survey", "Pinouts", "Crossover", "Circuits", "Sizes", "Proving")


def press(key: Qt.Key) -> None:
    """Press a key where the focus is."""
    widget = QApplication.focusWidget()
    assert widget is not None
    QTest.keyClick(widget, key)


# What is in hand


def test_enter_takes_a_value_and_goes_to_the_next_row(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    demo_window.to_hand_and_back()
    fields = wire_card(demo_window).fields
    assert fields["From"].hasFocus()
    for _ in range(4):
        press(KEY.Key_Return)
    assert fields["Size"].hasFocus()
    QTest.keyClicks(fields["Size"], "2.5 mm2")  # all of it is chosen: typed over
    QTest.keyClick(fields["Size"], KEY.Key_Return)
    assert fields["Insulation"].hasFocus()
    assert str(demo_window.store.job.wire("W57").size) == "2.5 mm²"  # type: ignore[union-attr]
    assert demo_window.hand.subject == "W57"


def test_a_refused_value_keeps_the_cursor_and_escape_gives_it_up(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    field = wire_card(demo_window).fields["Length"]
    was = field.text()
    field.enter()
    QTest.keyClicks(field, "long")
    QTest.keyClick(field, KEY.Key_Return)
    assert field.hasFocus()
    assert field.text() == "long"
    assert "not a length" in demo_window.in_hand.notice.text()
    QTest.keyClick(field, KEY.Key_Escape)
    assert (field.text(), field.refuses) == (was, False)
    assert demo_window.in_hand.notice.text() == ""


def test_tab_through_the_panel_never_lands_on_what_removes(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    demo_window.to_hand_and_back()
    seen: list[object] = []
    while QApplication.focusWidget() not in seen:
        seen.append(QApplication.focusWidget())
        press(KEY.Key_Tab)
    assert len(seen) > 10
    assert demo_window.in_hand.remove not in seen


def test_one_key_goes_to_the_panel_and_back(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    circuits.table.setFocus()
    demo_window.to_hand_and_back()
    assert isinstance(QApplication.focusWidget(), QLineEdit)
    demo_window.to_hand_and_back()
    assert circuits.table.hasFocus()


def test_the_rest_of_the_rows_is_folded_and_enter_opens_it(demo_window: MainWindow) -> None:
    page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    card = wire_card(demo_window)
    assert not card.fields["Note"].isVisible()
    card.fields["Current"].enter()
    QTest.keyClick(card.fields["Current"], KEY.Key_Return)
    assert card.fields["Note"].isVisible()
    assert card.fields["Air"].hasFocus()


def test_what_is_wrong_with_a_thing_stands_beside_it(demo_window: MainWindow, qtbot: QtBot) -> None:
    page(demo_window, "Sizes")
    demo_window.hand.pick("W57")
    problems = demo_window.in_hand.problems
    assert problems.lines[0].isVisible()
    assert "F7, 15 A, is too large for W57" in problems.lines[0].text()
    assert problems.lines[0].accessibleName().startswith("fix: ")
    demo_window.hand.pick("W6")
    assert not any("W57" in line.text() for line in problems.lines if line.isVisible())
    demo_window.hand.pick("W57")
    demo_window.store.do("x", lambda job: edits.change_wire(job, "W57", size=read_size("2.5 mm2")))
    looked_over(qtbot, demo_window)
    assert not any("too large" in line.text() for line in problems.lines if line.isVisible())


# Sizes: groups, verdicts


def test_the_list_groups_and_filters_the_table(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    wires = demo_window.store.job.wires
    sizings = demo_window.store.analysis.electrics.sizings
    failing = {code for code, one in sizings.items() if not one.passes}
    assert {wire.code for wire in sizes.model.things} == failing
    assert sizes.title.text() == "Wires that fail"
    assert sizes.about.text().startswith(f"{len(failing)} of {len(wires)}")
    counts = {}
    for key, name in (("tight", "Tight"), ("passes", "Passes"), ("not judged", "Not judged")):
        sizes.list.choose(key)
        sizes._choose_group()
        counts[key] = len(sizes.model.things)
        entry = next(e for e in sizes._grouped.entries() if e.key == key)
        assert (entry.title, entry.state) == (name, str(counts[key]))
    assert sum(counts.values()) + len(failing) == len(wires)
    sizes.list.choose("fuse:F7")
    sizes._choose_group()
    assert {wire.code for wire in sizes.model.things} == {
        wire.code
        for wire in wires
        if (feed := demo_window.store.analysis.network.feed(wire)) and feed.fuse == "F7"
    }


def test_headings_in_the_list_are_passed_over(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    sizes.list.setFocus()
    sizes.list.choose("not judged")
    QTest.keyClick(sizes.list, KEY.Key_Down)
    assert sizes.list.key().startswith("fuse:")


def test_a_wire_that_was_mended_stays_in_view_until_another_is_looked_at(
    demo_window: MainWindow,
) -> None:
    sizes = page(demo_window, "Sizes")
    assert "no fuse protects it" in sizes.detail.verdict.text(), "the worst first; no size mends it"
    assert not sizes.detail.use_metric.isVisible()
    first = sizes.model.things[1].code
    demo_window.hand.pick(first)
    before = len(sizes.model.things)
    sizes.detail.use_metric.click()
    assert demo_window.hand.subject == first
    assert len(sizes.model.things) == before
    assert "passes with" in sizes.detail.verdict.text()
    demo_window.hand.pick(sizes.model.things[0].code)
    sizes.refresh()
    assert first not in [wire.code for wire in sizes.model.things]


def test_what_is_taken_in_hand_elsewhere_is_found_among_all(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    assert sizes.list.key() == "fails"
    demo_window.hand.pick("W6")
    assert sizes.list.key() == "all"
    assert sizes.table.current_key() == "W6"


def test_verdicts_say_the_size_that_is_needed_first(demo: Job) -> None:
    analysis = Analysis(demo)

    def said(code: str) -> str:
        wire = analysis.network.wires[code]
        return verdict(
            wire, analysis.electrics.sizings.get(code), analysis.electrics.least_sizes.get(code)
        )[0]

    assert said("W57").startswith(
        "Heater blower needs 2 mm², has 0.75 mm²: its voltage drop is too large, "
    )
    assert "passes with" in said("W6")
    for one in demo.wires:
        words = said(one.code)
        assert "-" not in words.replace(one.function, ""), "no negative share is a headline"


def test_how_a_wire_stands_covers_every_wire_once(demo: Job) -> None:
    analysis = Analysis(demo)
    for one in demo.wires:
        sizing = analysis.electrics.sizings.get(one.code)
        stands = standing(sizing)
        fails = sizing is not None and not sizing.passes
        assert (stands.group == "fails") == fails
        assert (stands.used is None) == (stands.group == "not judged")
        if stands.used is not None:
            assert (stands.used > 1) == fails
        assert stands.because


@pytest.mark.parametrize(
    ("used", "role"), [(0.5, "proved"), (0.905, "live"), (0.999, "live"), (1.001, "stop")]
)
def test_a_bar_says_tight_before_it_says_wrong(used: float, role: str) -> None:
    bar = Criterion("heat", "", "", 1 - used, "", used, 1.0, "A")
    assert role_of(bar) == role
    assert bar.used == pytest.approx(used)
    assert bar.figures == f"{used:.3g} of 1 A"


def test_far_over_is_no_figure() -> None:
    assert standing(None).because == "no size"
    bar = Criterion("heat", "", "", FAR_OVER, "", 9, 0, "A")
    assert role_of(bar) == "stop"


# Tables


def widths(table: object) -> dict[str, int]:
    columns = table.things.columns  # type: ignore[attr-defined]
    return {
        column.heading: table.columnWidth(number)  # type: ignore[attr-defined]
        for number, column in enumerate(columns)
        if not table.isColumnHidden(number)  # type: ignore[attr-defined]
    }


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (1920, 1080)])
def test_important_columns_fit_without_a_scroll_bar(
    demo_window: MainWindow, qtbot: QtBot, size: tuple[int, int]
) -> None:
    demo_window.resize(*size)
    for name in STAGE_NAMES:
        shown = page(demo_window, name)
        qtbot.wait(30)
        for table in shown.every_table:
            if table.isVisible():
                assert sum(widths(table).values()) <= table.viewport().width(), name
                assert not table.horizontalScrollBar().isVisible(), name


def test_columns_are_chosen_and_kept(qtbot: QtBot, tmp_path: Path) -> None:
    window = open_window(qtbot, tmp_path)
    window.files.open_demo()
    table = page(window, "Sizes").table
    names = [column.heading for column in table.things.columns]
    assert table.isColumnHidden(names.index("Bundle"))
    menu = table.fitting.menu()
    next(a for a in menu.actions() if a.text() == "Bundle").trigger()
    next(a for a in menu.actions() if a.text() == "Because").trigger()
    assert "Bundle" in widths(table)
    assert "Because" not in widths(table)
    table.horizontalHeader().resizeSection(names.index("Function"), 211)
    window.store.history.setClean()
    window.close()
    again = open_window(qtbot, tmp_path)
    again.files.open_demo()
    table = page(again, "Sizes").table
    assert "Bundle" in widths(table)
    assert "Because" not in widths(table)
    assert widths(table)["Function"] == 211
    next(a for a in table.fitting.menu().actions() if a.text() == "As they were").trigger()
    assert "Because" in widths(table)
    assert widths(table)["Function"] != 211


def test_what_was_kept_of_columns_and_cannot_be_read_does_no_harm(demo_window: MainWindow) -> None:
    table = page(demo_window, "Sizes").table
    before = widths(table)
    for text in ("{", "[]", '{"shown": 3}', '{"shown": {}, "widths": {"Wire": "wide"}}', "null"):
        table.fitting.restore(text)
        assert widths(table) == before


def test_columns_that_grow_take_and_give_the_room_there_is(demo_window: MainWindow) -> None:
    table = page(demo_window, "Sizes").table
    by_name = {column.heading: column for column in table.things.columns}
    demo_window.resize(1900, 800)
    QTest.qWait(20)
    wide = widths(table)
    demo_window.resize(1280, 800)
    QTest.qWait(20)
    narrow = widths(table)
    for heading, column in by_name.items():
        if heading in narrow:
            assert narrow[heading] >= int(column.width * NARROWEST)
            assert (wide[heading] > narrow[heading]) == bool(column.grow)


def test_tab_leaves_a_table_and_typing_edits(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    circuits.table.setFocus()
    circuits.table.pick("W3")
    QTest.keyClick(circuits.table, KEY.Key_Tab)
    assert not circuits.table.hasFocus()
    type_cell(circuits.table, "W3", "Note", "kept")
    assert demo_window.store.job.wire("W3").note == "kept"  # type: ignore[union-attr]


def test_figures_stand_to_the_right_with_their_unit_in_the_heading(demo_window: MainWindow) -> None:
    model = page(demo_window, "Sizes").model
    for number, column in enumerate(model.columns):
        where = model.index(0, number).data(Qt.ItemDataRole.TextAlignmentRole)
        right = bool(where and Qt.AlignmentFlag(where) & Qt.AlignmentFlag.AlignRight)
        assert right == column.figures, column.heading
        if column.heading.endswith(("%", " A", "°C")):
            assert column.figures


def test_no_scroll_area_lies_in_another(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("W42")
    assert sizes.detail.plot.isVisible(), "the plot is in the first screen"
    buttons = [b.text() for b in sizes.findChildren(QPushButton) if b.isVisible()]
    assert "Set all 13 to fit…" in buttons


# Panels and trunk


def test_the_panel_is_a_strip_while_nothing_is_in_hand(demo_window: MainWindow) -> None:
    panel = demo_window.in_hand
    page(demo_window, "Circuits")
    demo_window.hand.pick("")
    assert panel.is_folded
    assert panel.width() < 60
    demo_window.hand.pick("W57")
    QTest.qWait(20)
    assert panel.width() > 250
    assert panel.title.isVisible()


def test_a_narrow_window_folds_the_panel_before_anything_is_cut(demo_window: MainWindow) -> None:
    panel = demo_window.in_hand
    page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    demo_window.resize(1024, 700)
    QTest.qWait(20)
    assert (demo_window.width(), demo_window.height()) == (1024, 700)
    assert panel.is_folded
    demo_window.to_hand_and_back()
    QTest.qWait(20)
    assert not panel.is_folded
    assert isinstance(QApplication.focusWidget(), QLineEdit)
    panel.folder.click()
    assert panel.is_folded
    demo_window.resize(1280, 800)
    QTest.qWait(20)
    assert not panel.is_folded


def test_every_stage_fits_a_small_screen(demo_window: MainWindow, qtbot: QtBot) -> None:
    for name in (*STAGE_NAMES, "Routing", "Sheets"):
        page(demo_window, name)
        demo_window.resize(1024, 700)
        qtbot.wait(20)
        assert (demo_window.width(), demo_window.height()) == (1024, 700), name


def test_the_trunk_says_what_waits_and_paints_no_progress(demo_window: MainWindow) -> None:
    sizes = demo_window.trunk.breakouts[demo_window.stage_named("Sizes")]
    open_ones = [one for one in demo_window.strip._open if one.stage == "sizes"]
    assert sizes.waits.stop == sum(one.severity == "stop" for one in open_ones)
    assert sizes.waits.look == sum(one.severity == "look" for one in open_ones)
    assert f"Here wait: {sizes.waits.stop} to fix, {sizes.waits.look} to check" in sizes.toolTip()
    proving = demo_window.trunk.breakouts[demo_window.stage_named("Proving")]
    assert "131 wires to measure" in proving.toolTip()
    first = demo_window.trunk.breakouts[0]
    page(demo_window, "Crossover")
    then = first.grab().toImage()
    page(demo_window, "Sheets")
    assert first.grab().toImage() == then, "a stage that was passed looks like any other"


# Empty pages, find and keys


@pytest.mark.parametrize("name", STAGE_NAMES)
def test_an_empty_page_says_what_it_does_and_what_to_do_first(
    window: MainWindow, qtbot: QtBot, name: str
) -> None:
    window.files.new()
    shown = page(window, name)
    qtbot.wait(20)
    (guide,) = [one for one in shown.findChildren(Guide) if one.isVisible()]
    assert guide.accessibleName().startswith(("Here ", "Repin a donor plug"))
    below = guide.mapTo(shown, guide.rect().bottomLeft()).y()
    assert below < shown.height() / 2, "it stands in the upper half"
    assert all(button.isVisible() and button.toolTip() for button in guide.buttons)


def test_enter_works_on_the_button_that_has_the_focus(window: MainWindow) -> None:
    window.files.new()
    sizes = page(window, "Sizes")
    go = sizes.guide.buttons[1]
    go.setFocus()
    QTest.keyClick(go, KEY.Key_Return)
    circuits = window.pages[window.stage]
    assert STAGES[window.stage].key == "circuits"
    assert circuits.guide.buttons[0].hasFocus()  # type: ignore[attr-defined]


def test_the_first_end_of_a_loom_is_typed_from_the_empty_page(window: MainWindow) -> None:
    window.files.new()
    survey = page(window, "Survey")
    survey.guide.buttons[0].click()
    editor = QApplication.focusWidget()
    assert isinstance(editor, QLineEdit)
    QTest.keyClicks(editor, "Bulkhead plug")
    QTest.keyClick(editor, KEY.Key_Return)
    QTest.qWait(20)
    assert [node.name for node in window.store.job.loom.nodes] == ["Bulkhead plug"]
    assert not survey.guide.isVisible()


@pytest.mark.parametrize(
    ("text", "said", "subject"),
    [
        ("c2/15", "C2/15 · ", "C2/15"),
        ("c2 15", " · in C2/15", "W"),
        ("d1 -", "W3 · ", "W3"),
        ("Br/W", "brown", "W"),
        ("crank sensor", "cavity", "C2/"),
        ("too large", "fix: F7, 15 A, is too large", "W57"),
    ],
)
def test_find_reads_what_stands_on_paper(demo: Job, text: str, said: str, subject: str) -> None:
    analysis = Analysis(demo)
    analysis.once(judged_findings)
    hits = [hit for hit in search(analysis, text) if said in hit.text]
    assert hits, [hit.text for hit in search(analysis, text)]
    assert any(hit.subject.startswith(subject) for hit in hits)


def test_find_does_commands_and_goes_to_findings(demo_window: MainWindow) -> None:
    page(demo_window, "Survey")
    demo_window.commands.open_find()
    box = demo_window.commands.find_box
    assert isinstance(box, FindBox)
    box.field.setText("too large for W57")
    QTest.keyClick(box.field, KEY.Key_Return)
    assert (STAGES[demo_window.stage].key, demo_window.hand.subject) == ("sizes", "W57")
    demo_window.commands.open_find()
    box.field.setText("all findings")
    assert "do: All findings   F8" in [box.list.item(n).text() for n in range(box.list.count())]
    box.list.setCurrentRow(box.list.count() - 1)
    QTest.keyClick(box.field, KEY.Key_Return)
    assert demo_window.strip.panel.isVisible()


def test_every_key_of_every_command_is_in_the_list(demo_window: MainWindow) -> None:
    demo_window.commands.show_keys()
    (keys,) = demo_window.findChildren(KeysDialog)
    told = {name: text for text, name, _ in keys.lists["Everywhere"]}
    for action in demo_window.commands.every:
        if action.shortcuts():
            assert action.shortcut().toString() in told[name_of(action)]
    assert told["Type into what is in hand, and back"] == "F6"
    keys.close()


@pytest.mark.parametrize(
    ("amps", "said"),
    [(12, "12 A"), (0.35, "0.35 A"), (0.00525, "5.25 mA"), (0.00004, "40 µA"), (0, "0 A")],
)
def test_a_current_is_told_in_the_unit_of_its_size(amps: float, said: str) -> None:
    assert amps_text(amps) == said


# What planted faults showed to be held by nothing


def test_columns_that_grow_give_way_only_so_far(demo_window: MainWindow) -> None:
    table = page(demo_window, "Sizes").table
    by_name = {column.heading: column for column in table.things.columns}
    table.setFixedWidth(330)
    QTest.qWait(20)
    for heading, width in widths(table).items():
        assert width >= int(by_name[heading].width * NARROWEST), heading
    assert table.horizontalScrollBar().isVisible()


def test_wires_without_a_fuse_have_groups_of_their_own() -> None:
    battery = Device("D1", "Battery", "battery", ("+", "-"))
    starter = Device("D2", "Starter", "starter", ("30", "50", "body"))
    lamp = Device("D3", "Lamp", "lamp", ("+", "-"))
    wires = (
        wire("W1", "D1/+", "D2/30", size=metric(35), use="starter"),
        wire("W2", "D1/+", "D3/+", size=metric(1)),
        wire("W3", "F1/out", "F2/in", size=metric(1)),
    )
    grouped = Grouped(Analysis(small_job(*wires, devices=(battery, starter, lamp))))
    assert grouped.holds(STARTER, "W1")
    assert grouped.holds(BARE, "W2")
    assert grouped.holds(UNFED, "W3")
    assert not grouped.holds(BARE, "W1")
    titles = {entry.key: entry.role for entry in grouped.entries()}
    assert titles[BARE] == "stop"
    assert titles[STARTER] == "faint"


def test_all_that_fails_is_named_the_worst_with_its_figures(demo: Job) -> None:
    because = standing(Analysis(demo).electrics.sizings["W57"]).because
    assert because == "drop 0.394 of 0.162 V; fuse, heat"


def test_the_thinnest_wire_is_not_tight_and_what_fails_is_not_either(demo: Job) -> None:
    analysis = Analysis(demo)
    assert not analysis.electrics.sizings["W57"].is_tight
    asked = analysis.electrics.sizing_cases["W57"]._replace(
        load_a=0.1, length_m=0.2, paths=(), fuse_a=None
    )
    thinnest = judge(read_size("22 AWG"), asked)
    assert thinnest.passes
    assert min(c.margin for c in thinnest.criteria if c.name == "strength") < 0.1
    assert not thinnest.is_tight


def test_what_was_accepted_is_not_said_again_in_the_panel_or_in_find(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Sizes")
    demo_window.hand.pick("W57")
    finding = next(one for one in demo_window.strip._open if one.key == "fuse-too-large W57")
    demo_window.strip.accepted.emit(finding, "the fuse goes next week")
    looked_over(qtbot, demo_window)
    lines = demo_window.in_hand.problems.lines
    assert not any("too large" in line.text() for line in lines if line.isVisible())
    hits = search(demo_window.store.analysis, "too large for W57")
    assert not [hit for hit in hits if hit.stage]


def test_what_is_to_do_gives_way_to_what_must_be_judged() -> None:
    assert Waits(2, 0, 1, 129, "wires").shown() == [("stop", "2")]
    assert Waits(0, 1500).shown() == [("look", "999+")]
    assert Waits(to_do=129, words="wires").shown() == [("note", "129")]
    assert Waits().shown() == []


def test_copy_and_paste_go_by_what_is_seen(demo_window: MainWindow) -> None:
    table = page(demo_window, "Circuits").table
    table.pick("W42")
    table.copy()
    lines = QGuiApplication.clipboard().text().split("\n")
    assert "Insulation" not in lines[0]
    assert lines[0].split("\t")[-3:] == ["Length m", "Current A", "Note"]
    headings = [column.heading for column in table.things.columns]
    row = table.currentIndex().row()
    table.setCurrentIndex(table.things.index(row, headings.index("Length")))
    was = demo_window.store.job.wire("W42")
    table.paste("1.25\t8\tseen")
    now = demo_window.store.job.wire("W42")
    assert was is not None
    assert now is not None
    assert (now.length_m, now.load_a, now.note) == (1.25, 8, "seen")
    assert now.insulation == was.insulation


def test_red_is_only_what_is_dead_while_it_should_live(demo_window: MainWindow) -> None:
    circuits = page(demo_window, "Circuits")
    circuits.tabs.setCurrentIndex(1)
    alive = circuits.alive
    demo_window.hand.pick("D12")
    assert alive.how.text() == "D12 · run · dead"
    assert alive.banner.property("role") == "alive", "no injector lives while the engine stands"
    alive.controls.dial._turn("crank")
    assert alive.how.text() == "D12 · crank · dead"
    assert alive.banner.property("role") == "dead"


def test_faults_are_grouped_by_what_is_to_be_done(demo_window: MainWindow) -> None:
    survey = page(demo_window, "Survey")
    survey.list.choose("do:splice in a piece")
    survey._choose_group()
    tree = demo_window.store.analysis.loom
    shown = survey.table_of[Fault].things.things[:-1]
    assert shown
    assert {decide(tree, fault).action for fault in shown} == {"splice in a piece"}


def test_the_panel_follows_a_row_that_was_current_before(demo_window: MainWindow) -> None:
    sizes = page(demo_window, "Sizes")
    demo_window.hand.pick("")
    row = sizes.table.currentIndex()
    assert sizes.detail.verdict.text()
    code = sizes.table.current_key()
    QTest.mouseClick(
        sizes.table.viewport(), Qt.MouseButton.LeftButton, pos=sizes.table.visualRect(row).center()
    )
    assert demo_window.hand.subject == code
    demo_window.hand.pick("")
    demo_window.to_hand_and_back()
    assert demo_window.hand.subject == code
    assert isinstance(QApplication.focusWidget(), QLineEdit)


# Read once more


def test_a_press_takes_the_current_row_in_hand_however_it_became_current(
    demo_window: MainWindow,
) -> None:
    sizes = page(demo_window, "Sizes")
    sizes.table.setFocus()
    QTest.keyClick(sizes.table, KEY.Key_Down)
    code = demo_window.hand.subject
    assert code == sizes.table.current_key()
    demo_window.hand.pick("D12")
    place = sizes.table.visualRect(sizes.table.currentIndex()).center()
    QTest.mouseClick(sizes.table.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert demo_window.hand.subject == code


def test_the_way_back_from_the_panel_survives_the_cell_that_was_typed_in(
    demo_window: MainWindow,
) -> None:
    circuits = page(demo_window, "Circuits")
    demo_window.hand.pick("W57")
    circuits.table.edit_cell("W57", "Note")
    QTest.keyClicks(circuits.table.indexWidget(circuits.table.currentIndex()), "typed")
    demo_window.to_hand_and_back()
    QTest.qWait(20)  # the cell's field is gone by now
    assert demo_window.store.job.wire("W57").note == "typed"  # type: ignore[union-attr]
    demo_window.to_hand_and_back()
    assert circuits.table.hasFocus()


def test_a_page_that_is_built_on_a_job_computes_nothing() -> None:
    """A large job opened by its name has its pages built after it."""
    store = Store(small_job(wire("W1", "C1/1", "F2/out", size=metric(1))))
    SizesPage(store, Hand())
    assert "sizings" not in vars(store.analysis.electrics)


def test_find_waits_for_findings_instead_of_computing_them(demo: Job) -> None:
    analysis = Analysis(demo)
    analysis.look_over()
    again = Analysis(edits.change_wire(demo, "W1", note="x"), analysis)
    assert again.electrics.is_judged
    assert not [hit for hit in search(again, "too large") if hit.stage]
    assert again.known(judged_findings) is None
    again.once(judged_findings)
    assert [hit for hit in search(again, "too large") if hit.stage]


def test_a_group_that_is_gone_gives_way_to_the_first(qtbot: QtBot) -> None:
    groups = WorkList("Groups")
    qtbot.addWidget(groups)
    heading, every, bad = Work("#", "SHOW", heading=True), Work("all", "All"), Work("bad", "Bad")
    groups.show_work([heading, every, bad])
    assert groups.key() == "all"
    assert groups.choose("bad")
    groups.show_work([heading, every])
    assert groups.key() == "all"
