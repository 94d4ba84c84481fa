"""Work off the interface's thread: its answer, its end, and whose thread clears up."""

import gc
import threading
import weakref
from types import SimpleNamespace

import pytest
from PySide6.QtCore import QObject, QThreadPool
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from molvik.desktop.threads import background
from molvik.desktop.threads.background import Task, sweep_here
from molvik.stopping import Stopped


class Ring(QObject):
    """A thing of Qt's that only the collector of cyclic garbage can free."""

    def __init__(self) -> None:
        super().__init__()
        self.me = self


@pytest.fixture
def owner(qtbot: QtBot) -> QWidget:
    made = QWidget()
    qtbot.addWidget(made)
    sweep_here()
    return made


def test_an_answer_comes_on_the_interfaces_thread(owner: QWidget, qtbot: QtBot) -> None:
    worked, answered = [], []
    task = Task(lambda stop: worked.append(threading.get_ident()) or 7, owner)  # type: ignore[func-returns-value]
    task.done.connect(lambda result: answered.append((result, threading.get_ident())))
    task.start()
    qtbot.waitUntil(lambda: bool(answered))
    assert answered == [(7, threading.get_ident())]
    assert worked != [threading.get_ident()]


def test_an_error_is_handed_over(owner: QWidget, qtbot: QtBot) -> None:
    failed: list[Exception] = []
    task = Task(lambda stop: 1 / 0, owner)
    task.failed.connect(failed.append)
    task.start()
    qtbot.waitUntil(lambda: bool(failed))
    assert isinstance(failed[0], ZeroDivisionError)


def test_garbage_of_qt_is_collected_on_the_interfaces_thread(owner: QWidget, qtbot: QtBot) -> None:
    freed: list[int] = []

    def litter() -> None:
        for _ in range(50):
            weakref.finalize(Ring(), lambda: freed.append(threading.get_ident()))

    def work(stop: object) -> int:
        # Far more new objects than the collector would bear, were it not switched off.
        return len([[number] for number in range(gc.get_threshold()[0] * 20)])

    litter()
    task = Task(work, owner)
    with qtbot.waitSignal(task.done):
        task.start()
    assert not [one for one in freed if one != threading.get_ident()]
    kept = [[number] for number in range(gc.get_threshold()[0] * 2)]
    qtbot.waitUntil(lambda: len(freed) == 50)
    assert set(freed) == {threading.get_ident()}
    assert kept


def test_what_takes_long_to_collect_waits_for_a_pause(
    owner: QWidget, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    qtbot.waitUntil(lambda: background._Run.running == 0)  # work of a test before this one
    sweeper, now, frozen = sweep_here(), 1000.0, 700_000
    done: list[int | str] = []
    counts = [0, 0, 0]
    stand_in = SimpleNamespace(
        get_count=lambda: tuple(counts),
        get_threshold=lambda: (700, 10, 10),
        collect=lambda generation=2: done.append(generation),
        freeze=lambda: done.append("aside"),
        unfreeze=lambda: done.append("back"),
        get_freeze_count=lambda: frozen,
    )
    monkeypatch.setattr(background, "gc", stand_in)
    monkeypatch.setattr(background, "time", SimpleNamespace(monotonic=lambda: now))
    whole = ["back", 2, "aside"]

    def swept(*then: int) -> list[int | str]:
        done.clear()
        counts[:] = then
        sweeper.sweep()
        return list(done)

    sweeper.at_work()
    sweeper._aside = sweeper._middle = sweeper._left = 0
    assert swept(100, 11, 11) == []
    assert swept(1_000, 0, 0) == [0]
    assert swept(1_000, 11, 0) == [1]  # little outlived the young collections
    assert swept(60_000, 0, 0) == ["aside"]  # something large was just read
    assert swept(30_000, 1, 0) == swept(19_000, 2, 0) == [0]
    assert swept(1_500, 11, 0) == ["aside"]  # the middle has become large
    assert swept(1_000, 11, 11) == ["aside"]
    now += background.LONG_PAUSE_S - 1
    assert swept(100, 0, 0) == []
    now += 1  # a pause
    assert swept(100, 0, 0) == whole
    assert swept(100, 0, 0) == [], "there is nothing more"
    sweeper.at_work()
    frozen += background.MUCH + 1
    assert swept(background.MUCH + 1, 0, 0) == ["aside"]
    now += background.PAUSE_S  # much waits for a short one
    assert swept(100, 0, 0) == whole
    sweeper.at_work()
    assert swept(background.MOST_ASIDE + 1, 0, 0) == ["aside"], "they ended by themselves"
    frozen += background.MOST_ASIDE + 1
    assert swept(background.MOST_ASIDE + 1, 0, 0) == ["aside", *whole], "there is a limit"
    monkeypatch.setattr(background._Run, "running", 1)
    assert swept(60_000, 0, 0) == ["aside"]
    now += 60
    assert swept(100, 0, 0) == [], "not beside a worker"


def test_what_was_set_aside_is_collected_all_the_same(owner: QWidget) -> None:
    sweeper = sweep_here()
    freed: list[int] = []
    weakref.finalize(Ring(), freed.append, 1)
    gc.freeze()
    gc.collect()
    assert freed == []
    sweeper._aside, sweeper._worked = 1, 0.0
    sweeper.sweep()
    assert freed == [1]
    gc.unfreeze()


def test_work_outlives_the_window_that_asked(owner: QWidget, qtbot: QtBot) -> None:
    go, begun = threading.Event(), threading.Event()
    asked: list[bool] = []
    answered: list[object] = []
    window = QWidget()

    def work(stop: object) -> None:
        begun.set()
        go.wait(60)
        asked.append(stop())  # type: ignore[operator]

    task = Task(work, window)
    task.done.connect(answered.append)
    task.start()
    assert begun.wait(60)
    window.deleteLater()
    with qtbot.waitSignal(window.destroyed):
        pass
    go.set()
    assert QThreadPool.globalInstance().waitForDone(60_000)
    qtbot.wait(20)
    assert asked == [True]  # it was told to stop
    assert answered == []


@pytest.mark.parametrize("error", [Stopped, KeyError])
def test_work_that_was_stopped_or_failed_keeps_nothing(
    owner: QWidget, qtbot: QtBot, error: type[Exception]
) -> None:
    """What it had computed goes with it, without the collector, which comes seldom: an error holds
    the frames it went through, and one of them the error.
    """
    held: list[weakref.ref[Ring]] = []
    ended: list[object] = []

    class Large:
        pass

    def compute() -> None:
        large = Large()
        held.append(weakref.ref(large))  # type: ignore[arg-type]
        raise error("x")

    def work(stop: object) -> None:
        try:
            compute()
        except error as problem:
            raise error("y") from problem

    task = Task(work, owner)
    task.failed.connect(ended.append)
    gc.collect()
    assert not gc.isenabled()
    task.start()
    qtbot.waitUntil(lambda: bool(ended))
    assert held[0]() is None
    ended.clear()
