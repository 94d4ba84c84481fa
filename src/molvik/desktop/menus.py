"""The menus and their keys."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from molvik.blocks.templates import TEMPLATES
from molvik.demo import DEMOS
from molvik.desktop.beside.opening import Beside
from molvik.desktop.commands import Commands
from molvik.desktop.jobfile.files import JobFiles
from molvik.desktop.stages.registry import ENTRIES
from molvik.desktop.store import Store
from molvik.stages import STAGES

Go = Callable[[int], object]
Act = Callable[[str, str], object]


class Doers(NamedTuple):
    """Who does what the menus say. show_findings: all of them, in the strip."""

    commands: Commands
    beside: Beside
    files: JobFiles
    store: Store
    show_findings: Callable[[], object]


class _Menus:
    """Builds the menus of a window, where each command is declared once: its name, its keys, what
    it does, and whether it needs a job. Find and the list of keys read them.
    """

    def __init__(
        self, window: QMainWindow, doers: Doers, go: Go, act: Act, to_hand: Callable[[], object]
    ) -> None:
        self._window, self._doers = window, doers
        self._go_to, self._act, self._to_hand = go, act, to_hand
        self.commands: list[QAction] = []

    def build(self) -> None:
        """Build all of them."""
        bar = self._window.menuBar()
        self._job(bar.addMenu("&Job"))
        self._edit(bar.addMenu("&Edit"))
        self._go(bar.addMenu("&Go"))
        self._help(bar.addMenu("&Help"))

    def _add(
        self, menu: QMenu, text: str, keys: str, do: Callable[[], object], job: bool = True
    ) -> None:
        action = QAction(text, self._window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda: do())
        menu.addAction(action)
        action.setProperty("needs a job", job)
        self.commands.append(action)

    def _add_of_stages(self, name: str, menu: QMenu) -> None:
        """Add what the stages have for a menu."""
        for key, entry in ENTRIES.items():
            for action in entry.actions:
                if action.menu == name:
                    self._add(
                        menu,
                        action.text,
                        action.keys,
                        partial(self._act, key, action.method),
                    )

    def _job(self, menu: QMenu) -> None:
        add, files, commands = self._add, self._doers.files, self._doers.commands
        add(menu, "&New", "Ctrl+N", commands.new_job, job=False)
        add(menu, "&Open…", "Ctrl+O", files.ask_open, job=False)
        recent = menu.addMenu("Open &recent")
        recent.aboutToShow.connect(lambda: commands.list_recent(recent))
        starts = menu.addMenu("Start &from")
        for title, starter in TEMPLATES.items():
            add(starts, title, "", partial(files.start_from, title), job=False)
            starts.actions()[-1].setToolTip(starter.about)
        starts.setToolTipsVisible(True)
        demos = menu.addMenu("Open a &demo")
        for name, words in DEMOS.items():
            add(demos, words, "", partial(files.open_demo, name), job=False)
        menu.addSeparator()
        add(menu, "&Save", "Ctrl+S", files.save)
        add(menu, "Save &as…", "Ctrl+Shift+S", files.ask_save_as)
        add(menu, "&Versions…", "", commands.open_versions)
        self._add_of_stages("Job", menu)
        add(menu, "Se&ttings…", "", commands.edit_settings)
        menu.addSeparator()
        add(menu, "&Close the job", "Ctrl+W", files.close_job)
        add(menu, "&Quit", "Ctrl+Q", self._window.close, job=False)

    def _edit(self, menu: QMenu) -> None:
        add, window, doers = self._add, self._window, self._doers
        commands, beside = doers.commands, doers.beside
        undo = doers.store.history.createUndoAction(window, "Undo")
        undo.setShortcut(QKeySequence("Ctrl+Z"))
        redo = doers.store.history.createRedoAction(window, "Redo")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        menu.addActions([undo, redo])
        for action in (undo, redo):
            action.setProperty("needs a job", True)
            self.commands.append(action)
        menu.addSeparator()
        add(menu, "&Find…", "Ctrl+K", commands.open_find)
        self._add_of_stages("Edit", menu)
        add(menu, "All f&indings", "F8", doers.show_findings)
        menu.addSeparator()
        add(menu, "&Type into what is in hand, and back", "F6", self._to_hand)
        add(menu, "Another c&ode for what is in hand…", "Ctrl+Shift+K", commands.change_code)
        add(menu, "&Note on what is in hand…", "Ctrl+J", beside.jot)
        add(menu, "&Photos of what is in hand…", "Ctrl+Shift+P", beside.ask_photos)
        add(menu, "&Clock on or off", "Ctrl+T", beside.set_clock)

    def _go(self, menu: QMenu) -> None:
        add, doers = self._add, self._doers
        for index, (_, name, _) in enumerate(STAGES):
            add(menu, f"&{index + 1} {name}", f"Ctrl+{index + 1}", partial(self._go_to, index))
        menu.addSeparator()
        add(menu, "&Logbook…", "Ctrl+L", doers.beside.show_logbook)
        add(menu, "S&tock…", "Ctrl+M", doers.beside.show_stock)
        add(menu, "&Quick sums…", "Ctrl+U", doers.commands.open_sums, job=False)

    def _help(self, menu: QMenu) -> None:
        add, commands = self._add, self._doers.commands
        add(menu, "&Keys…", "F1", commands.show_keys, job=False)
        add(menu, "Open .molvik files by &double click…", "", commands.register, job=False)
        add(menu, "&About Molvik…", "", commands.about, job=False)


def build_menus(
    window: QMainWindow, doers: Doers, go: Go, act: Act, to_hand: Callable[[], object]
) -> list[QAction]:
    """Build the menus of a window; return all commands. go: opens a stage by its number; act: has
    the page of a stage do something; to_hand: goes to what is in hand and back.
    """
    menus = _Menus(window, doers, go, act, to_hand)
    menus.build()
    return menus.commands
