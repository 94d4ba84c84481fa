"""The menus and their keys."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from molvik.blocks.templates import TEMPLATES
from molvik.demo import DEMOS
from molvik.desktop.stages.registry import ENTRIES
from molvik.stages import STAGES

if TYPE_CHECKING:
    from molvik.desktop.window import MainWindow


class _Menus:
    """Builds the menus of a window, where each command is declared once: its name, its keys, what
    it does, and whether it needs a job. Find and the list of keys read them.
    """

    def __init__(self, window: "MainWindow") -> None:
        self._window = window
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
                        partial(self._window.act, key, action.method),
                    )

    def _job(self, menu: QMenu) -> None:
        add, window, files = self._add, self._window, self._window.files
        add(menu, "&New", "Ctrl+N", window.new_job, job=False)
        add(menu, "&Open…", "Ctrl+O", files.ask_open, job=False)
        window.recent_menu = menu.addMenu("Open &recent")
        window.recent_menu.aboutToShow.connect(window.list_recent)
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
        add(menu, "&Versions…", "", window.open_versions)
        self._add_of_stages("Job", menu)
        add(menu, "Se&ttings…", "", window.edit_settings)
        menu.addSeparator()
        add(menu, "&Close the job", "Ctrl+W", files.close_job)
        add(menu, "&Quit", "Ctrl+Q", window.close, job=False)

    def _edit(self, menu: QMenu) -> None:
        add, window = self._add, self._window
        undo = window.store.history.createUndoAction(window, "Undo")
        undo.setShortcut(QKeySequence("Ctrl+Z"))
        redo = window.store.history.createRedoAction(window, "Redo")
        redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
        menu.addActions([undo, redo])
        for action in (undo, redo):
            action.setProperty("needs a job", True)
            self.commands.append(action)
        menu.addSeparator()
        add(menu, "&Find…", "Ctrl+K", window.open_find)
        self._add_of_stages("Edit", menu)
        add(menu, "All f&indings", "F8", window.strip.show_all)
        menu.addSeparator()
        add(menu, "&Type into what is in hand, and back", "F6", window.to_hand_and_back)
        add(menu, "Another c&ode for what is in hand…", "Ctrl+Shift+K", window.change_code)
        add(menu, "&Note on what is in hand…", "Ctrl+J", window.beside.jot)
        add(menu, "&Photos of what is in hand…", "Ctrl+Shift+P", window.beside.ask_photos)
        add(menu, "&Clock on or off", "Ctrl+T", window.beside.set_clock)

    def _go(self, menu: QMenu) -> None:
        add, window = self._add, self._window
        for index, (_, name, _) in enumerate(STAGES):
            add(menu, f"&{index + 1} {name}", f"Ctrl+{index + 1}", partial(window.go, index))
        menu.addSeparator()
        add(menu, "&Logbook…", "Ctrl+L", window.beside.show_logbook)
        add(menu, "S&tock…", "Ctrl+M", window.beside.show_stock)
        add(menu, "&Quick sums…", "Ctrl+U", window.open_sums, job=False)

    def _help(self, menu: QMenu) -> None:
        add, window = self._add, self._window
        add(menu, "&Keys…", "F1", window.show_keys, job=False)
        add(menu, "Open .molvik files by &double click…", "", window.register, job=False)
        add(menu, "&About Molvik…", "", window.about, job=False)


def build_menus(window: "MainWindow") -> list[QAction]:
    """Build the menus of a window; return all commands."""
    menus = _Menus(window)
    menus.build()
    return menus.commands
