"""What all tests share: a state folder of their own, an offscreen screen, small jobs."""

import functools
import gc
import itertools
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings
from PySide6.QtCore import QMimeData, QPoint, QPointF, QSettings, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QApplication, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from molvik.analysis import Analysis
from molvik.demo import DEMOS, PHOTOS, demo_job
from molvik.desktop import theme
from molvik.desktop.dialogs.questions import Question
from molvik.desktop.stages.circuits.cards import WireCard
from molvik.desktop.threads import background
from molvik.desktop.threads.background import sweep_here
from molvik.desktop.window import MainWindow
from molvik.files.photobox import PhotoBox
from molvik.files.saving import save_job
from molvik.findings import RULES, find_all, rule
from molvik.findings.finding import Finding
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse, Grid, Wire, WireSize
from molvik.model.stock import NO_SHELF, Shelf

BROKEN = rule.broken
"""How a rule that breaks becomes a finding. In tests it raises, so that nothing is hidden."""


def raise_on(rule: rule.Rule, error: Exception) -> Finding:
    raise error


rule.broken = raise_on

# Shared machines stall; what is tested is right and wrong, not time.
# The same draws each time: a red run is then about the change. make torture draws others.
settings.register_profile("molvik", deadline=None, max_examples=60, derandomize=True)
settings.register_profile("others", deadline=None, max_examples=200)
settings.load_profile("molvik")
for waits in (QtBot.waitUntil, QtBot.waitSignal):
    (waits.__kwdefaults__ or {}).update(timeout=int(os.environ.get("MOLVIK_WAIT_MS", "180000")))


@pytest.fixture(autouse=True)
def _own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Keep locks, recovery copies and desktop files of a test to itself."""
    for name in ("XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))


@pytest.fixture(autouse=True)
def _answers_are_kept(monkeypatch: pytest.MonkeyPatch, request: pytest.FixtureRequest) -> None:
    """Keep what the core remembers from test to test; what is about memory is marked and does not.

    Closing a job empties it, and most tests open the same job next. With MOLVIK_AS_USERS nothing is
    replaced: the same tests in the window that users have.
    """
    shares = "MOLVIK_AS_USERS" not in os.environ
    if shares and request.node.get_closest_marker("forgets") is None:
        monkeypatch.setattr(background, "_forget_answers", lambda: None)
        monkeypatch.setattr(background.Sweeper, "let_go", lambda sweeper: None)
        monkeypatch.setattr("molvik.desktop.store.Analysis", _analysis_of)


@functools.cache
def _looked_over(name: str) -> Analysis:
    """Return what is computed from a demo, for every window that opens it."""
    analysis = Analysis(demo_job(name))
    analysis.look_over()
    return analysis


def _analysis_of(job: Job, before: Analysis | None = None, shelf: Shelf = NO_SHELF) -> Analysis:
    """Stand in for Analysis in the window: what it computes is kept from test to test as well."""
    for name in DEMOS:
        known = before is None and shelf == NO_SHELF
        if known and job.id == f"demo-{name}" and job == _looked_over(name).job:
            return _looked_over(name)
    return Analysis(job, before, shelf)


@pytest.fixture(autouse=True)
def _swept() -> Iterator[None]:
    """Collect what a test leaves behind on this thread, even when no event loop ran. What is left
    then is kept for good, and need not be looked through again after every window.
    """
    yield
    if QApplication.instance() is not None:
        sweep_here().sweep()
        gc.freeze()


@pytest.fixture
def demo() -> Job:
    return demo_job()


def wire_card(window: MainWindow) -> WireCard:
    """Return the card of the wire in hand."""
    card = window.in_hand.card
    assert isinstance(card, WireCard)
    return card


def put_job(job: Job, path: Path) -> None:
    """Write a job to a file, the demo's photos with it; what is there is kept beside it."""
    photos = PhotoBox(PHOTOS)
    save_job(job, path, photos, instead=True)
    photos.close()


def metric(area: float) -> WireSize:
    return WireSize("metric", area)


def awg(number: float) -> WireSize:
    return WireSize("awg", number)


def small_job(*wires: Wire, **fields: object) -> Job:
    """Return a job with a battery, two fuses, an earth, two six-way connectors and these wires."""
    parts: dict[str, object] = {
        "connectors": (
            Connector("C1", "Engine plug", Grid(2, 3), contact="16", terminals="socket"),
            Connector("C2", "Lamp plug", Grid(2, 3), contact="16", terminals="pin"),
        ),
        "fuses": (Fuse("F1", "Main", 40, "bolt-down"), Fuse("F2", "Lamp", 10)),
        "earths": (EarthPoint("E1", "Block"),),
        "devices": (
            Device("D1", "Battery", "battery", ("+", "-")),
            Device("K1", "Relay", "relay", ("30", "87", "85", "86"), (("30", "87"),)),
        ),
    }
    return Job("small", wires=wires, **{**parts, **fields})  # type: ignore[arg-type]


def wire(code: str, start: str, finish: str, **fields: object) -> Wire:
    """Return a wire between ends written C1/2, F1/in, E1."""

    def end(text: str) -> End:
        at, _, cavity = text.partition("/")
        return End(at, cavity)

    return Wire(code, end(start), end(finish), **fields)  # type: ignore[arg-type]


def found(job: Job) -> dict[str, list[Finding]]:
    """Return the findings of a job by their rule."""
    by_rule: dict[str, list[Finding]] = {}
    for finding in find_all(Analysis(job)):
        by_rule.setdefault(finding.rule, []).append(finding)
    return by_rule


def found_of(analysis: Analysis, *kinds: str) -> list[Finding]:
    """Return the findings of some kinds; only the rules that find these are asked."""
    devices = {device.kind for device in analysis.job.devices}
    asked = (rule for rule in RULES if set(rule.kinds) & set(kinds))
    return [one for rule in asked for one in rule.apply(analysis, devices) if one.rule in kinds]


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path) -> MainWindow:
    """The real window on its first screen, with settings of its own."""
    return open_window(qtbot, tmp_path)


@pytest.fixture
def demo_window(window: MainWindow, qtbot: QtBot) -> MainWindow:
    """The real window on the demo job, looked over."""
    qtbot.mouseClick(window.welcome.demo_button, Qt.MouseButton.LeftButton)
    looked_over(qtbot, window)
    return window


def open_window(qtbot: QtBot, folder: Path) -> MainWindow:
    """Open a window whose settings lie in a folder."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    if not application.styleSheet():  # as at a start: dressing again dresses all windows there are
        theme.apply(application)
    made = MainWindow(QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat))
    # A test must not end in a question about unsaved work.
    qtbot.addWidget(made, before_close_func=lambda one: one.store.history.setClean())
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    return made


def looked_over(qtbot: QtBot, window: MainWindow) -> None:
    """Wait until the findings strip shows the job as it stands."""
    qtbot.waitUntil(lambda: window.is_at_rest, timeout=60_000)
    qtbot.wait(20)


def page(window: MainWindow, name: str) -> Any:
    """Go to a stage by its key and return its page."""
    index = window.stage_named(name)
    QTest.keyClick(window, Qt.Key(Qt.Key.Key_1 + index), Qt.KeyboardModifier.ControlModifier)
    if window.stage != index:  # offscreen, a window that is not active takes no shortcuts
        window.trunk.breakouts[index].click()
    assert window.stage == index
    return window.pages[index]


def type_cell(table: Any, key: str, heading: str, text: str) -> None:
    """Type into a cell of a table as a person does."""
    table.edit_cell(key, heading)
    editor = table.indexWidget(table.currentIndex())
    assert isinstance(editor, QLineEdit)
    editor.selectAll()
    QTest.keyClicks(editor, text)
    QTest.keyClick(editor, Qt.Key.Key_Return)
    # Enter is taken up by the event loop; the editor is closed once it was.
    while table.state() == QAbstractItemView.State.EditingState:
        QTest.qWait(2)
        if table.indexWidget(table.currentIndex()) is not editor:
            break


def give_up(qtbot: QtBot, table: Any, typed: str) -> None:
    """After a refusal: the cell opens again with what was typed; press Escape in it."""

    def reopened() -> bool:
        editor = table.indexWidget(table.currentIndex())
        return isinstance(editor, QLineEdit) and editor.text() == typed

    qtbot.waitUntil(reopened)
    QTest.keyClick(table.indexWidget(table.currentIndex()), Qt.Key.Key_Escape)


def type_field(field: QLineEdit, text: str) -> None:
    """Type into a field and press Enter."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    QApplication.processEvents()


def cell(table: Any, key: str, heading: str) -> str:
    """Return what a table shows in a cell."""
    model = table.things
    headings = [column.heading for column in model.columns]
    return str(model.index(model.row_of(key), headings.index(heading)).data())


WAITING: list[str] = []
"""Windows that a test still waits for."""


@pytest.fixture(autouse=True)
def every_window_that_was_waited_for_opened() -> Iterator[None]:
    """A window that never opens fails the test that waits for it, not one that comes later."""
    WAITING.clear()
    yield
    left, WAITING[:] = WAITING[:], []
    assert not left, f"no {', '.join(left)} opened"


def drop(
    window: QWidget,
    paths: list[Path],
    on: QWidget,
    at: QPoint | None = None,
    *,
    only_moved: bool = False,
) -> None:
    """Drag files in from the desktop, offered to be moved, and let go of them over a widget."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    where = QPointF(on.mapTo(window, at or on.rect().center()))
    left, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    move, copy = Qt.DropAction.MoveAction, Qt.DropAction.CopyAction
    offered, handle = move if only_moved else move | copy, window.windowHandle()
    enter = QDragEnterEvent(where.toPoint(), offered, data, left, keys)
    enter.setDropAction(move)
    QApplication.sendEvent(handle, enter)
    assert enter.isAccepted()
    event = QDropEvent(where, offered, data, left, keys)
    event.setDropAction(move)
    QApplication.sendEvent(handle, event)
    done = Qt.DropAction.IgnoreAction if only_moved else copy
    assert event.dropAction() == done, "or who dragged it deletes the file"


def answer(kind: type, do: Callable[[Any], None]) -> None:
    """When a window of this kind opens, do something in it; it may block until then."""
    tries = itertools.count()
    WAITING.append(kind.__name__)

    def look() -> None:
        if kind.__name__ not in WAITING:
            return  # the test it was for is over
        for one in QApplication.topLevelWidgets():
            if isinstance(one, kind) and one.isVisible():
                WAITING.remove(kind.__name__)
                try:
                    do(one)
                except BaseException:
                    one.close()  # or the window that asked would wait for ever
                    raise
                return
        assert next(tries) < 200, f"no {kind.__name__} opened"
        QTimer.singleShot(20, look)

    QTimer.singleShot(0, look)


def press(words: str) -> Callable[[Question], None]:
    """Return what presses the button of a question with these words."""
    return lambda asked: asked.press(words)


@pytest.fixture
def stand_ins(tmp_path: Path) -> Iterator[Any]:
    """Begin stand-ins of instruments as processes, by their commands; each is asked for by what it
    prints first. They are ended with the test.
    """
    begun: list[subprocess.Popen[str]] = []

    def begin(job: Job, command: str, *more: str) -> tuple[str, subprocess.Popen[str]]:
        path = tmp_path / f"job{len(begun)}.molvik"
        put_job(job, path)
        made = subprocess.Popen(
            [sys.executable, "-m", "molvik", command, str(path), *more],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env={**os.environ},
        )
        begun.append(made)
        assert made.stdout is not None
        return made.stdout.readline().split()[0], made

    yield begin
    for one in begun:
        one.kill()
        one.wait()
