"""Cards that are done by a photo: dropped on the card, picked, or taken with a camera whose folder
is watched while both hands are at the loom.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any, cast

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtWidgets import QFileDialog

from molvik.desktop.jobfile.drops import taken_as_copies
from molvik.desktop.stages.page import StagePage
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.widgets.small import button
from molvik.files.photos import SUFFIXES
from molvik.steps import Step

FOLDER = "bench/camera"
"""The key of the folder that the camera writes to, among the settings of who works here."""

LOOK_MS = 500
"""How often the folder is looked through. A picture that did not grow since is whole."""


class CameraCards(QObject):
    """Brings photos to the card that is up, and goes on when it is done by one."""

    def __init__(
        self, page: StagePage, cards: StepCards, photographed: Callable[[Step], bool]
    ) -> None:
        super().__init__(cards)
        self._page, self._cards, self._photographed = page, cards, photographed
        self._window = cast(Any, page.window())
        self._awaited = ""
        self._sizes: dict[Path, int] = {}
        self._taken: set[Path] = set()
        self.folder: Path | None = None
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self.look)
        self.pick_button = button(
            "Photo…", "Pick photos of it (P); they can be dropped here, too", self.pick
        )
        tip = "Each new picture in it is taken for the card that is up: press the shutter and go on"
        self.camera_button = button("", tip, self.ask_folder)
        for one in (self.pick_button, self.camera_button):
            one.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            cards.below.insertWidget(cards.below.count() - 4, one)
        cards.skips_done = True
        cards.setAcceptDrops(True)
        cards.installEventFilter(self)
        cards.photo_wanted.connect(self.pick)
        page.store.changed.connect(self._changed)
        self._window.beside.told.connect(self._tell)
        kept = self._window.settings.value(FOLDER, "")
        self.watch(Path(str(kept)) if kept else None)

    # where photos come from

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Take pictures that are dropped on the card, as copies."""
        paths = taken_as_copies(event)
        if paths and event.type() == QEvent.Type.Drop:
            self.take(paths)
        return bool(paths)

    def pick(self) -> None:
        """Ask for photos of what the card is about."""
        from molvik.desktop.beside.photos import KINDS

        names, _ = QFileDialog.getOpenFileNames(self._cards, "Photos", "", KINDS)
        if names:
            self.take([Path(name) for name in names])

    def ask_folder(self) -> None:
        """Ask for the folder that the camera writes to, or stop watching it."""
        if self.folder is not None:
            self._window.settings.remove(FOLDER)
            self.watch(None)
            return
        name = QFileDialog.getExistingDirectory(self._cards, "The folder the camera writes to")
        if name:
            self._window.settings.setValue(FOLDER, name)
            self.watch(Path(name))

    def watch(self, folder: Path | None) -> None:
        """Watch a folder for pictures that come from now on; none for no folder."""
        self.folder = folder
        self._sizes = {}
        self._taken = set(self._pictures())
        if folder is None:
            self._look.stop()
        else:
            self._look.start()
        self.camera_button.setText("Watch camera…" if folder is None else f"Watching {folder.name}")

    def _pictures(self) -> list[Path]:
        if self.folder is None:
            return []
        try:
            return sorted(p for p in self.folder.iterdir() if p.suffix.lower() in SUFFIXES)
        except OSError:
            return []

    def look(self) -> None:
        """Take what has come into the camera's folder and is whole."""
        whole = []
        for path in self._pictures():
            if path in self._taken:
                continue
            try:
                size = path.stat().st_size
            except OSError:
                continue
            if size and self._sizes.get(path) == size:
                whole.append(path)
            self._sizes[path] = size
        if whole:
            self._taken |= set(whole)
            self.take(whole)

    # what becomes of them

    def take(self, paths: list[Path]) -> None:
        """Take photos for the card that is up."""
        step = self._cards.current()
        if step is None or not self._photographed(step):
            self._cards.notice.say(
                f"{paths[0].name} was not taken: this card is not done by a "
                "photo. Go to one that is, and pick it with P."
            )
            return
        self._awaited = step.key
        self._page.hand.pick(step.subject)
        self._window.beside.add_photos(paths)

    def _changed(self, old: object, new: object) -> None:
        """Go on where the card that waited for a photo has it."""
        step = self._cards.current()
        if step is None or step.key != self._awaited:
            return
        if self._cards.is_done(step):
            self._awaited = ""
            self._cards.notice.say("")
            self._cards.go_on()

    def _tell(self, text: str, good: bool) -> None:
        if not good:
            self._cards.notice.say(text)
