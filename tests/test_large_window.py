"""A window with thousands of wires: what is known shows at once, the rest when it was computed."""

import random
import sys
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from conftest import looked_over, open_window, page, small_job, wire
from jobs import edited, jobs
from molvik.analysis import Analysis
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.window import MainWindow
from molvik.model import edits
from molvik.netlist.network import Network
from molvik.sizes.wire import smallest

sys.path.insert(0, str(Path(__file__).parent.parent / "benchmarks"))
from large import large_job

SAME = ("cavities", "mates", "parts", "wires_at", "net_of", "feeds")


@given(st.data())
def test_what_is_taken_over_from_before_an_edit_is_what_would_be_computed(
    data: st.DataObject,
) -> None:
    job = data.draw(jobs())
    before = Network(job)
    for name in data.draw(st.lists(st.sampled_from(SAME))):
        getattr(before, name)
    network = before
    for _ in range(3):
        try:
            job = data.draw(edited(job))
        except ValueError:
            continue
        network = Network(job, network)
        fresh = Network(job)
        for name in SAME:
            assert getattr(network, name) == getattr(fresh, name), name


def test_a_wire_moved_to_another_cavity_is_in_another_net() -> None:
    job = small_job(wire("W1", "C1/1", "C2/1"), wire("W2", "C1/2", "C2/2"))
    before = Network(job)
    assert before.net_of
    moved = edits.change_wire(job, "W2", finish=job.wires[0].finish)
    after = Network(moved, before)
    assert after.net_of[moved.wires[1].start] == after.net_of[moved.wires[0].start]


@pytest.fixture
def large(qtbot: QtBot, tmp_path: Path) -> MainWindow:
    window = open_window(qtbot, tmp_path)
    window.files._take(large_job(1200), None, None, saved=True)
    page(window, "Circuits")
    looked_over(qtbot, window)
    return window


def said(window: MainWindow, name: str) -> str:
    rows = window.in_hand.facts._rows
    return next(value.text() for head, value in rows if head.text() == name)


def test_the_verdict_on_a_wire_in_hand_follows(large: MainWindow, qtbot: QtBot) -> None:
    large.hand.pick("W77")
    judged = said(large, "Verdict")
    assert "judged" not in judged
    large.store.do("x", lambda job: edits.change_wire(job, "W77", length_m=3.0))
    assert said(large, "Verdict") == "is being judged …", "never what was right before"
    assert "sizings" not in large.store.analysis.electrics.__dict__, (
        "nothing large is computed meanwhile"
    )
    qtbot.waitUntil(lambda: "judged" not in said(large, "Verdict"))
    whole = Analysis(large.store.job).electrics.sizings["W77"]
    assert ("is enough" in said(large, "Verdict")) == whole.passes


def test_sizes_say_that_they_are_being_judged(large: MainWindow, qtbot: QtBot) -> None:
    sizes = page(large, "Sizes")
    qtbot.waitUntil(lambda: sizes._grouped.counts["all"] == 1200)
    large.store.do("x", lambda job: edits.change_wire(job, "W79", length_m=90.0, load_a=9.0))
    assert sizes.judging.isVisible()
    qtbot.waitUntil(lambda: not sizes.judging.isVisible())
    assert Analysis(large.store.job).electrics.sizings["W79"].passes is False
    large.hand.pick("W79")
    assert " needs " in sizes.detail.verdict.text()


def test_all_rows_are_copied(large: MainWindow, qtbot: QtBot) -> None:
    table: Any = large.pages[large.stage].table  # type: ignore[attr-defined]
    QGuiApplication.clipboard().setText("before")
    table.selectAll()
    table.copy()
    qtbot.waitUntil(lambda: QGuiApplication.clipboard().text() != "before")
    lines = QGuiApplication.clipboard().text().split("\n")
    assert [line.split("\t")[0] for line in lines[1:1201]] == [f"W{n}" for n in range(1, 1201)]


def test_thousands_of_findings_are_all_in_the_list(large: MainWindow, qtbot: QtBot) -> None:
    large.store.do(
        "x",
        lambda job: replace(job, wires=tuple(replace(one, length_m=None) for one in job.wires)),
    )
    looked_over(qtbot, large)
    large.strip.show_all()
    open_ones = len(large.strip._open)
    assert open_ones > 300
    qtbot.waitUntil(lambda: large.strip.list.count() == open_ones)


@given(st.lists(st.tuples(st.integers(0, 30), st.text("ab", max_size=2)), unique_by=lambda t: t[0]))
def test_rows_sorted_by_any_column_keep_the_new_one_last(rows: list[tuple[int, str]]) -> None:
    blank = (-1, "")
    columns = [
        Column[tuple[int, str]]("N", lambda one: str(one[0]), sort=lambda one: one[0]),
        Column[tuple[int, str]]("T", lambda one: one[1]),
    ]
    model: ThingsModel[tuple[int, str]] = ThingsModel(columns, lambda o: str(o[0]), blank=blank)
    model.show_things(rows)
    for column, order in ((0, Qt.SortOrder.DescendingOrder), (1, Qt.SortOrder.AscendingOrder)):
        model.sort(column, order)
        backwards = order == Qt.SortOrder.DescendingOrder
        assert model.things == [*sorted(rows, key=lambda o: o[column], reverse=backwards), blank]
        assert all(model.row_of(str(one[0])) == at for at, one in enumerate(model.things))
    shuffled = random.Random(1).sample(rows, len(rows))
    model.show_things(shuffled)
    assert [one[1] for one in model.things[:-1]] == sorted(one[1] for one in rows)
    model.sort(-1)
    assert model.things == [*shuffled, blank]


def test_advice_on_a_size_comes_after_the_page(large: MainWindow, qtbot: QtBot) -> None:
    sizes = page(large, "Sizes")
    wires = large.store.job.wires
    code = next(one.code for one in wires if one.size)
    large.hand.pick(code)

    def smallest_told() -> str:
        return str(sizes.detail.advice._rows[0][1].text())

    assert "is being found" in smallest_told()
    assert not sizes.detail.plot.isVisibleTo(sizes), "no curve of another wire meanwhile"
    large.hand.pick(wires[7].code)
    large.hand.pick(code)  # what was asked meanwhile is dropped
    qtbot.waitUntil(lambda: "being found" not in smallest_told())
    least = smallest(large.store.analysis.electrics.sizing_cases[code], "metric")
    assert str(least) in smallest_told()


def test_no_advice_comes_for_a_wire_that_is_gone(large: MainWindow, qtbot: QtBot) -> None:
    sizes = page(large, "Sizes")
    every = frozenset(one.code for one in large.store.job.wires)
    large.hand.pick(large.store.job.wires[0].code)
    assert sizes.detail._soon.isActive()
    large.store.do("x", lambda job: edits.remove_wires(job, every))
    looked_over(qtbot, large)
    assert not sizes.detail._soon.isActive()
    assert sizes.detail._advising is None
    assert sizes.detail.verdict.text().startswith("No wire yet")
