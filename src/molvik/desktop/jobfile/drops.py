"""Files dropped on the window, wherever: photos, jobs and tables are taken for what they are, as
copies; no field gets the name of a file as text.
"""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QWidget

from molvik.desktop.widgets.canvas import Canvas
from molvik.files.photos import NOT_READ, SUFFIXES
from molvik.parsing.tables import RawTable

if TYPE_CHECKING:
    from molvik.desktop.window import MainWindow

JOBS = (".molvik",)
TABLES = (".csv", ".tsv", ".txt", ".xlsx")
_DRAGS = (QEvent.Type.DragEnter, QEvent.Type.DragMove, QEvent.Type.Drop)


def taken_as_copies(event: QEvent) -> list[Path]:
    """Accept the files that are dragged, and return them; none for what is no drag, or no file. Who
    drags may offer to move them: then the file would be gone from where it was.
    """
    if event.type() not in _DRAGS or not isinstance(event, QDropEvent):
        return []
    paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
    if paths:
        copied = event.possibleActions() & Qt.DropAction.CopyAction
        if copied:
            event.setDropAction(Qt.DropAction.CopyAction)
        elif event.type() == QEvent.Type.Drop:
            event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
    return paths


class Drops(QObject):
    """Takes what is dropped on a window, before any field in it sees it."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self._window = window
        window.setAcceptDrops(True)

    def watch(self) -> None:
        """See to what comes from the desktop; to be called once the window is on it."""
        handle = self._window.windowHandle()
        handle.removeEventFilter(self)
        handle.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Take files; what else is dropped is for what lies under it."""
        paths = taken_as_copies(event)
        if paths and isinstance(event, QDropEvent) and event.type() == QEvent.Type.Drop:
            self.take(paths, event.position().toPoint())
        return bool(paths)

    def take(self, paths: list[Path], at: QPoint) -> None:
        """Take files that were dropped at a place of the window."""
        window = self._window
        by = {"jobs": JOBS, "photos": (*SUFFIXES, *NOT_READ), "tables": TABLES}
        some = {
            kind: [path for path in paths if path.suffix.lower() in suffixes]
            for kind, suffixes in by.items()
        }
        left = [path for path in paths if not any(path in known for known in some.values())]
        if some["jobs"]:
            window.files.open(some["jobs"][0])
            left += [*some["jobs"][1:], *some["photos"], *some["tables"]]
        elif some["photos"] or some["tables"]:
            if not window.files.has_job:
                window.tell("Start or open a job first: what is dropped is taken into it.", False)
                return
            if some["photos"]:
                self._aim(at)
                window.beside.add_photos(some["photos"])
            if some["tables"]:
                self._table(some["tables"][0])
                left += some["tables"][1:]
        if left:
            more = f" and {len(left) - 1} more" if len(left) > 1 else ""
            window.tell(
                f"Not taken: {left[0].name}{more}. Jobs and tables are taken one at a "
                "time, photos as many as there are.",
                False,
            )

    def _aim(self, at: QPoint) -> None:
        """Take in hand what lies under a place of a drawing: a photo dropped there is of it."""
        under: QWidget | None = self._window.childAt(at)
        while under is not None and not isinstance(under, Canvas):
            under = under.parentWidget()
        if under is not None:
            area = under.hit(under.viewport().mapFrom(self._window, at))
            if area is not None and area.ref:
                self._window.hand.pick(area.ref)

    def _table(self, path: Path) -> None:
        """Read a table where it belongs: by its headings, a list of readings or of wires; else it
        is a pinout.
        """
        from molvik.desktop.threads.reading import read_aside
        from molvik.files.tables import read_raw_table

        window = self._window
        read_aside(
            window,
            f"Reading {path.name}",
            lambda stop: read_raw_table(path, stop),
            partial(self._sort, path),
            lambda text: window.tell(text, False),
        )

    def _sort(self, path: Path, raw: RawTable) -> None:
        from molvik.circuits.wire_table import has_wires
        from molvik.proving.readings import has_readings

        if has_readings(raw):
            self._page("proving").take_readings(raw, path.name)
        elif has_wires(raw):
            self._page("circuits").menus.read_table(path)
        else:
            self._page("pinouts").import_table(path)

    def _page(self, key: str) -> Any:
        """Open a stage and return its page."""
        window = self._window
        window.go(window.stage_named(key))
        return window.pages[window.stage]
