"""The menus and their keys."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from molvik.blocks.templates import TEMPLATES
from molvik.demo import DEMOS
from molvik.desktop.stages.registry import ENTRIES, action_keys, page_keys
from molvik.stages import STAGES

if TYPE_CHECKING:
    from molvik.desktop.window import MainWindow

KEYS = f"""Ctrl+1 to Ctrl+{len(STAGES)}: stages
Ctrl+K: find
Ctrl+Z, Ctrl+Shift+Z: undo, redo
{action_keys()}
Ctrl+Shift+K: another code for what is in hand
Ctrl+J: note on what is in hand
Ctrl+Shift+P: photos of what is in hand
Ctrl+T: clock; Ctrl+L: logbook; Ctrl+M: stock
F8: all findings

{page_keys()}
In a photo: A, C and L draw an arrow, a circle, a length.
In a table: type to edit, Enter keeps, Esc gives up; Ctrl+C and Ctrl+V copy and paste cells; \
Delete takes wires out.
"""


def build_menus(window: "MainWindow") -> list[QAction]:
    """Build the menus of a window; return the actions that need a job."""
    bar, files = window.menuBar(), window.files
    needs_job: list[QAction] = []

    def add(menu: QMenu, text: str, keys: str, do: Callable[[], object], job: bool = True) -> None:
        action = QAction(text, window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda: do())
        menu.addAction(action)
        if job:
            needs_job.append(action)

    def add_actions(name: str, menu: QMenu) -> None:
        """Add what the stages have for a menu."""
        for key, entry in ENTRIES.items():
            for one in entry.actions:
                if one.menu == name:
                    add(menu, one.text, one.keys, partial(window.act, key, one.method))

    job = bar.addMenu("&Job")
    add(job, "&New", "Ctrl+N", window.new_job, job=False)
    add(job, "&Open…", "Ctrl+O", files.ask_open, job=False)
    window.recent_menu = job.addMenu("Open &recent")
    window.recent_menu.aboutToShow.connect(window.list_recent)
    starts = job.addMenu("Start &from")
    for title, starter in TEMPLATES.items():
        add(starts, title, "", partial(files.start_from, title), job=False)
        starts.actions()[-1].setToolTip(starter.about)
    starts.setToolTipsVisible(True)
    demos = job.addMenu("Open a &demo")
    for name, words in DEMOS.items():
        add(demos, words, "", partial(files.open_demo, name), job=False)
    job.addSeparator()
    add(job, "&Save", "Ctrl+S", files.save)
    add(job, "Save &as…", "Ctrl+Shift+S", files.ask_save_as)
    add(job, "&Versions…", "", window.open_versions)
    add_actions("Job", job)
    add(job, "Se&ttings…", "", window.edit_settings)
    job.addSeparator()
    add(job, "&Close the job", "Ctrl+W", files.close_job)
    add(job, "&Quit", "Ctrl+Q", window.close, job=False)
    edit = bar.addMenu("&Edit")
    undo = window.store.history.createUndoAction(window, "Undo")
    undo.setShortcut(QKeySequence("Ctrl+Z"))
    redo = window.store.history.createRedoAction(window, "Redo")
    redo.setShortcuts([QKeySequence("Ctrl+Shift+Z"), QKeySequence("Ctrl+Y")])
    edit.addActions([undo, redo])
    edit.addSeparator()
    add(edit, "&Find…", "Ctrl+K", window.open_find)
    add_actions("Edit", edit)
    add(edit, "All f&indings", "F8", window.strip.show_all)
    edit.addSeparator()
    add(edit, "Another c&ode for what is in hand…", "Ctrl+Shift+K", window.change_code)
    add(edit, "&Note on what is in hand…", "Ctrl+J", window.beside.jot)
    add(edit, "&Photos of what is in hand…", "Ctrl+Shift+P", window.beside.ask_photos)
    add(edit, "&Clock on or off", "Ctrl+T", window.beside.set_clock)
    go = bar.addMenu("&Go")
    for index, (_, name, _) in enumerate(STAGES):
        add(go, f"&{index + 1} {name}", f"Ctrl+{index + 1}", partial(window.go, index))
    go.addSeparator()
    add(go, "&Logbook…", "Ctrl+L", window.beside.show_logbook)
    add(go, "S&tock…", "Ctrl+M", window.beside.show_stock)
    add(go, "&Quick sums…", "Ctrl+U", window.open_sums, job=False)
    assist = bar.addMenu("&Help")
    add(assist, "&Keys…", "F1", window.show_keys, job=False)
    add(assist, "Open .molvik files by &double click…", "", window.register, job=False)
    add(assist, "&About Molvik…", "", window.about, job=False)
    return needs_job
