"""A stage says what it brings; window, menus, list of keys and log read that."""

import importlib
import re
import sys
from collections import Counter
from importlib.machinery import ModuleSpec
from pathlib import Path
from types import ModuleType
from typing import Any, get_args

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtGui import QAction
from pytestqt.qtbot import QtBot

from conftest import looked_over, page
from molvik.analysis import Analysis
from molvik.cli import main
from molvik.demo import demo_job
from molvik.desktop.panel.facts import Facts
from molvik.desktop.stages.registry import ENTRIES, where
from molvik.desktop.window import MainWindow
from molvik.findings.kinds import KINDS, Stage
from molvik.logbook.clock import hours_by_stage, sessions
from molvik.logbook.story import story
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.model.refs import Ref
from molvik.stages import KEYS as STAGE_KEYS
from molvik.stages import STAGES, name_of


def test_a_stage_is_a_package_of_the_core_and_one_of_the_window() -> None:
    assert tuple(ENTRIES) == STAGE_KEYS
    for key in STAGE_KEYS:
        assert importlib.import_module(f"molvik.{key}").__doc__
    assert {kind.stage for kind in KINDS.values()} <= set(STAGE_KEYS)
    assert set(get_args(Stage)) <= set(STAGE_KEYS)


def test_each_action_is_in_the_menu_and_in_the_list_of_keys(demo_window: MainWindow) -> None:
    menu = {one.text(): one for one in demo_window.findChildren(QAction)}
    count = 0
    for key, entry in ENTRIES.items():
        shown = page(demo_window, name_of(key))
        for action in entry.actions:
            count += 1
            assert menu[action.text].shortcut().toString() == action.keys
            assert callable(getattr(shown, action.method))
            assert menu[action.text] in demo_window.commands.every
    assert count >= 3


def test_no_key_means_two_things(demo_window: MainWindow) -> None:
    keys = [
        key.toString()
        for one in demo_window.findChildren(QAction)
        for key in one.shortcuts()
        if not key.isEmpty()
    ]
    assert len(keys) > 20
    assert [key for key, count in Counter(keys).items() if count > 1] == []


@pytest.mark.parametrize(
    ("subject", "here", "there"),
    [
        ("W12", "survey", "circuits"),
        ("W12", "sizes", "sizes"),
        ("W12", "proving", "proving"),
        ("C2/15", "circuits", "pinouts"),
        ("C2", "pinouts", "pinouts"),
        ("B1", "sizes", "survey"),
        ("F5", "sizes", ""),
        ("", "sizes", ""),
    ],
)
def test_a_thing_is_shown_where_it_can_be_seen(subject: str, here: str, there: str) -> None:
    assert where(Analysis(demo_job()), subject, here) == there


def test_the_log_keeps_the_key_and_tells_the_name() -> None:
    at = "2026-11-02T10:{}:00+01:00"
    job = Job("x")
    for minute, kind, stage in (
        ("00", "clock on", "Sizes"),  # as logs from before have it
        ("10", "clock off", "Sizes"),
        ("20", "clock on", "sizes"),
        ("30", "clock off", "sizes"),
    ):
        job = edits.log(job, LogEntry(at.format(minute), kind, stage))  # type: ignore[arg-type]
    assert {one.stage for one in sessions(job.log)} == {"sizes"}
    (hours,) = hours_by_stage(job.log, sessions(job.log)[0].begin).values()
    assert hours == pytest.approx(1 / 3)
    assert {line.stage for line in story(job)} == {"Sizes"}
    assert name_of("a stage of a later version") == "a stage of a later version"


def test_the_window_comes_back_to_its_stage_by_its_key(
    demo_window: MainWindow, qtbot: QtBot
) -> None:
    page(demo_window, "Proving")
    looked_over(qtbot, demo_window)
    demo_window.close()
    kept: QSettings = demo_window.settings
    assert kept.value("stage") == "proving"
    for was, wanted in (("sizes", "sizes"), ("3", "pinouts"), ("gone", "pinouts")):
        kept.setValue("stage", was)
        again = MainWindow(kept)
        qtbot.addWidget(again)
        assert STAGES[again.stage].key == wanted


def test_each_kind_of_thing_has_the_card_of_its_stage(demo_window: MainWindow) -> None:
    hand, panel = demo_window.hand, demo_window.in_hand
    for subject, stage in (
        ("W42", "circuits"),
        ("F1", "circuits"),
        ("D2", "circuits"),
        ("E1", "circuits"),
        ("C2", "pinouts"),
        ("C2/5", "pinouts"),
        ("N20", "survey"),
        ("X1", "survey"),
    ):
        hand.pick(subject)
        made = type(panel.card).__module__
        assert made.startswith(f"molvik.desktop.stages.{stage}"), subject
        assert panel.title.text()
        every = [w for card in panel._made.values() for w in (card.above, card.below) if w]
        own = [panel.card.above, panel.card.below] if panel.card else []
        assert [one for one in every if one.isVisibleTo(panel)] == [one for one in own if one]
    hand.pick("")
    assert panel.card is None
    assert panel.title.text() == "Nothing"


def test_a_stage_says_what_it_knows_of_what_is_in_hand(
    demo_window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    demo_window.hand.pick("W42")
    names = [name.text() for name, value in demo_window.in_hand.facts._rows if value.text()]
    assert [one for one in names if one in ("Live in", "Verdict", "Proved")] == [
        "Verdict",
        "Proved",
        "Live in",
    ]
    monkeypatch.setitem(
        ENTRIES, "routing", ENTRIES["routing"]._replace(facts="test_stages:_facts_of_routing")
    )
    demo_window.in_hand.refresh()
    rows = {name.text(): value.text() for name, value in demo_window.in_hand.facts._rows}
    assert rows["Route"] == "of W42"


def _facts_of_routing(_: Analysis, ref: Ref) -> Facts:
    return [("Route", f"of {ref.code}", "")]


def test_a_stage_brings_its_commands(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """A module of the command line with a stage's key for a name is found by itself."""
    made = ModuleType("molvik.cli.routing")

    def add_commands(commands: Any) -> None:
        commands.add_parser("lengths", help="say how long").set_defaults(run=lambda parsed: 7)

    made.add_commands = add_commands  # type: ignore[attr-defined]
    made.__spec__ = ModuleSpec("molvik.cli.routing", None)
    monkeypatch.setitem(sys.modules, "molvik.cli.routing", made)
    assert main(["lengths"]) == 7
    with pytest.raises(SystemExit):
        main(["--help"])
    words = capsys.readouterr().out
    assert "say how long" in words
    described = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    for command in re.findall(r"^    ([a-z-]+)\b", words, re.M):
        assert command == "lengths" or f"molvik {command}" in described
