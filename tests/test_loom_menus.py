"""The menus of the wire list, blocks and stripping down, in the real window."""

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog
from pytestqt.qtbot import QtBot

from conftest import answer, page, type_cell, type_field, wire_card
from molvik.analysis import Analysis
from molvik.circuits.scenario import go_through, scenarios, states_of
from molvik.desktop.dialogs.questions import LineQuestion
from molvik.desktop.stages.circuits.laying import BlockDialog
from molvik.desktop.stages.circuits.stripping import StripDialog
from molvik.desktop.window import MainWindow
from molvik.model import edits, loom_edits, wire_edits
from molvik.model.job import Job
from molvik.model.loom import FoundWire
from molvik.model.references import renamed, uses
from molvik.survey.linked import take_length

KEY = Qt.Key


@pytest.fixture
def wires(demo_window: MainWindow) -> Any:
    """The wire list of the demo."""
    circuits = page(demo_window, "Circuits")
    circuits.tabs.setCurrentIndex(0)
    return circuits


def choose(circuits: Any, *codes: str) -> None:
    circuits.table.clearSelection()
    circuits.table.pick(codes[0])
    model = circuits.table.selectionModel()
    for code in codes:
        row = circuits.model.row_of(code)
        index = circuits.model.index(row, 0)
        model.select(index, model.SelectionFlag.Select | model.SelectionFlag.Rows)


def say(text: str) -> None:
    answer(LineQuestion, lambda asked: asked.type(text))


def test_chosen_wires_are_split_extended_fused_and_copied(
    wires: Any, demo_window: MainWindow
) -> None:
    menus, store = wires.menus, demo_window.store
    before = len(store.job.wires)
    choose(wires, "W42")
    menus.split()
    assert len(store.job.wires) == before + 1
    choose(wires, "W42")
    menus.join()
    assert not wires.notice.text(), (wires.notice.text(), wires.chosen_wires())
    assert len(store.job.wires) == before
    choose(wires, "W42")
    say("0.5 m")
    menus.extend()
    assert store.job.wires[-1].length_m == 0.5
    choose(wires, "W42")
    say("much")
    menus.insert_fuse()
    assert "“much”" in wires.notice.text()
    choose(wires, "W42")
    say("15 A")
    menus.insert_fuse()
    assert store.job.fuses[-1].rating_a == 15
    choose(wires, "W44")
    menus.insert_relay()
    assert store.job.devices[-1].kind == "relay"
    choose(wires, "W17")
    say("2")
    menus.duplicate()
    assert [w.function for w in store.job.wires[-2:]] == ["Injector 2 supply", "Injector 3 supply"]
    for _ in range(7):
        store.history.undo()
    assert len(store.job.wires) == before


def test_many_wires_are_set_filled_down_reversed_and_stowed(
    wires: Any, demo_window: MainWindow, qtbot: QtBot
) -> None:
    menus, store = wires.menus, demo_window.store
    choose(wires, "W1", "W2")
    menus.set_field("Length", "2 m", wires.chosen_wires())
    assert {store.job.wire(code).length_m for code in ("W1", "W2")} == {2.0}  # type: ignore[union-attr]
    menus.set_field("Length", "far", wires.chosen_wires())
    assert "“far”" in wires.notice.text()
    choose(wires, "W1", "W2", "W3")
    menus.column = 5  # the size of the first
    assert wires.chosen_wires() == ("W1", "W2", "W3")
    menus.fill_down()
    sizes = {str(store.job.wire(code).size) for code in ("W1", "W2", "W3")}  # type: ignore[union-attr]
    assert sizes == {"25 mm²"}
    choose(wires, "W21")
    menus.reverse()
    assert str(store.job.wire("W21").start) == "C2/5"  # type: ignore[union-attr]
    menus.stow()
    assert store.job.wire("W21").stowed  # type: ignore[union-attr]
    menus.take_up()
    assert not store.job.wire("W21").stowed  # type: ignore[union-attr]
    choose(wires, "W28", "W29", "W128")
    say("Crank cable, 30 mm")
    menus.make_cable()
    cores = [w for w in store.job.wires if w.cable == "Crank cable"]
    assert [(w.code, w.lay_length_mm) for w in cores] == [
        ("W28", 30.0),
        ("W29", 30.0),
        ("W128", None),
    ]
    wires.table.clearSelection()
    menus.split()
    assert "Choose one or more wires" in wires.notice.text()


def test_wires_are_written_to_a_table_and_read_back(
    wires: Any, demo_window: MainWindow, tmp_path: Path, qtbot: QtBot
) -> None:
    path = tmp_path / "wires.csv"
    wires.menus.write_table(path)
    before = demo_window.store.job
    every = frozenset(w.code for w in before.wires)
    from molvik.model import edits

    # What was taken out does not come back as another wire: its code is on a label.
    demo_window.store.do("x", lambda job: edits.remove_wires(job, every))
    wires.menus.read_table(path)
    qtbot.waitUntil(lambda: "was deleted from this job" in wires.notice.text())
    again = {wire.code for wire in demo_window.store.job.wires}
    assert len(again) == len(before.wires)
    assert not again & every
    demo_window.store.history.undo()
    # A job in which they never were takes them with their codes.
    bare = replace(before, wires=())
    demo_window.store.do("y", lambda job: bare)
    wires.menus.read_table(path)
    qtbot.waitUntil(lambda: bool(demo_window.store.job.wires))
    now = demo_window.store.job.wires
    readings = {reading.item for reading in before.readings if reading.item}
    assert len(now) == len(before.wires)
    assert {w.code for w in now} >= readings
    wires.menus.read_table(tmp_path / "none.csv")
    qtbot.waitUntil(lambda: "none.csv" in wires.notice.text())
    assert "none.csv cannot be read" in wires.notice.text()


def test_four_hundred_wires_are_pasted_as_one_step(wires: Any, demo_window: MainWindow) -> None:
    store = demo_window.store
    before = store.job
    lines = ["From\tTo\tFunction\tSize\tLength"]
    lines += [f"F1 out\tE1\tLead {n}\t1 mm2\t{n / 100} m" for n in range(1, 401)]
    lines += ["C99 1\tE1\tLost\t1 mm2\t"]
    QGuiApplication.clipboard().setText("\n".join(lines))
    table = wires.table
    table.setCurrentIndex(table.model().index(table.model().rowCount() - 1, 1))
    table.paste(QGuiApplication.clipboard().text())
    assert len(store.job.wires) == len(before.wires) + 401
    assert "Look at row 402: There is no C99" in wires.notice.text()
    store.history.undo()
    assert store.job == before


# Blocks.


def test_a_block_shows_what_it_lays_and_lays_it_as_one_step(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Circuits")
    store = demo_window.store
    dialog = BlockDialog(demo_window, store)
    dialog.list.setCurrentRow(0)
    dialog.fields["amps"].setText("much")  # type: ignore[union-attr]
    assert "“much”" in dialog.notice.text()
    assert not dialog.act.isEnabled()
    dialog.fields["name"].setText("Rotating lamp")  # type: ignore[union-attr]
    dialog.fields["amps"].setText("6 A")  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: dialog.laid is not None)
    lines = [dialog.comes.item(n).text() for n in range(dialog.comes.count())]
    assert any("Rotating lamp relay, relay" in line for line in lines)
    assert any("Rotating lamp earth" in line and "mm²" in line for line in lines)
    dialog.lay_it()
    assert any(d.name == "Rotating lamp" for d in store.job.devices)
    store.history.undo()
    assert not any(d.name == "Rotating lamp" for d in store.job.devices)


def test_a_run_stand_is_drawn_from_nothing_by_keyboard_and_runs(
    window: MainWindow, qtbot: QtBot
) -> None:
    window.files.new()
    circuits = page(window, "Circuits")
    done: list[str] = []

    def lay(dialog: QDialog) -> None:
        assert isinstance(dialog, BlockDialog)
        dialog.list.setFocus()
        for key in (KEY.Key_R, KEY.Key_U):  # to “Run stand” by its first letters
            qtbot.keyClick(dialog.list, key)
            done.append("key")
        assert dialog.list.currentItem().text() == "Run stand"
        qtbot.keyClick(dialog, KEY.Key_Return)  # at once: it lays as soon as sizes are known
        done.append("key")
        qtbot.waitUntil(lambda: not dialog.isVisible())

    answer(BlockDialog, lay)
    circuits.menus.loom.actions()[0].trigger()
    done += ["menu", "entry"]
    job = window.store.job
    assert len(done) < 40
    assert len(job.wires) > 20
    network = Analysis(job).network
    for scenario in scenarios(job):
        engine = [step.engine for step in go_through(network, states_of(scenario))]
        assert "turns and starts" in engine
        assert "runs" in engine
        assert engine[-1].startswith("stops")
    assert not window.strip.counts["stop"].text().startswith("1 ")


# Stripping down.


def test_stripping_down_is_seen_before_it_is_done_and_undone(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Circuits")
    store = demo_window.store
    before = store.job
    dialog = StripDialog(demo_window, store)
    dialog.look.click()
    qtbot.waitUntil(lambda: "Nothing is kept" in dialog.notice.text())
    dialog.engine.click()
    assert "D12" in dialog.keep()
    assert "D8" not in dialog.keep()
    dialog.none.click()
    assert dialog.keep() == ()
    for at in range(dialog.devices.count()):
        item = dialog.devices.item(at)
        if item.data(Qt.ItemDataRole.UserRole) == "D18":
            item.setCheckState(Qt.CheckState.Checked)
    assert not dialog.act.isEnabled()
    dialog.look.click()
    qtbot.waitUntil(lambda: dialog.plan is not None)
    plan = dialog.plan
    assert plan is not None
    assert "Nothing has been deleted yet" in dialog.about.text()
    assert dialog.stays.count() == len(plan.kept)
    assert "for Fuel pump" in dialog.stays.item(0).text()
    assert any("Label “CONST”" in dialog.leads.item(n).text() for n in range(dialog.leads.count()))
    dialog.act.click()
    assert {w.code for w in store.job.wires} == set(plan.kept)
    store.history.undo()
    assert store.job == before


def test_looking_can_be_stopped(demo_window: MainWindow, qtbot: QtBot) -> None:
    dialog = StripDialog(demo_window, demo_window.store)
    dialog.engine.click()
    dialog.look.click()
    assert not dialog.bar.isHidden()
    dialog.stop.click()
    assert dialog.bar.isHidden()
    assert dialog.plan is None


def test_a_wire_gets_its_length_along_the_loom_as_found(demo_window: MainWindow) -> None:
    """Linked by its code in Survey; a typed length is a typed one again."""
    survey, store = page(demo_window, "Survey"), demo_window.store
    tree = store.analysis.loom
    found = next(one for one in tree.loom.wires if one.finish and tree.length_m(one.code) > 0.5)
    table = survey.table_of[FoundWire]
    type_cell(table, found.code, "Wire", "w42")
    assert survey.notice.text() == ""
    type_cell(table, tree.loom.wires[-1].code, "Wire", "W999")
    assert "There is no wire W999" in survey.notice.text()
    circuits = page(demo_window, "Circuits")
    demo_window.hand.pick("W42")
    choose(circuits, "W42")
    circuits.menus.take_lengths()
    wire = store.job.wire("W42")
    assert wire is not None
    assert (wire.length_m, wire.length_from) == (round(tree.length_m(found.code), 3), "measured")
    facts = {name.text(): value.text() for name, value in demo_window.in_hand.facts._rows}
    assert facts["Length is"] == "measured on the loom as found"
    assert facts["As found"].startswith(f"{found.code}, ")
    for made in (wire_edits.split(store.job, "W42"), wire_edits.duplicate(store.job, ("W42",), 1)):
        assert made.wires[-1].length_from == "typed", "a piece, and a copy, was not measured"
    type_field(wire_card(demo_window).fields["Length"], "2 m")
    typed = store.job.wire("W42")
    assert typed is not None
    assert (typed.length_m, typed.length_from) == (2.0, "typed")
    store.history.undo()
    again = store.job.wire("W42")
    assert again is not None
    assert again.length_from == "measured"
    choose(circuits, "W43")
    circuits.menus.take_lengths()
    assert "W43 is linked to no wire as found" in circuits.notice.text()
    unmeasured = loom_edits.change(store.job, tree.ways[found.code][0].segment, length_m=None)
    with pytest.raises(edits.EditError, match="has no length of B"):
        take_length(unmeasured, Analysis(unmeasured).loom, "W42")
    cut_off = loom_edits.change(store.job, found.code, finish="", left_m=0.4)
    with pytest.raises(edits.EditError, match="was cut off"):
        take_length(cut_off, Analysis(cut_off).loom, "W42")


def test_a_link_follows_its_wire_and_goes_with_it(demo: Job) -> None:
    code = demo.loom.wires[0].code
    job = loom_edits.change(demo, code, wire="W42")
    (use,) = (one for one in uses(job, "W42") if code in one.holders)
    assert use.words == f"{code} is linked to no wire"
    assert renamed(job, "W42", "W900").loom.wires[0].wire == "W900"
    assert edits.remove_wires(job, frozenset({"W42"})).loom.wires[0].wire == ""
