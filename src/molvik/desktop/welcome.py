"""The first screen, for a person with no job: start one, open the demo, open a file."""

from collections.abc import Callable
from functools import partial
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from molvik.blocks.templates import TEMPLATES
from molvik.desktop.widgets.small import ShortButton, ShortLabel, button, column, label, row
from molvik.files.recovery import Leftover
from molvik.stages import STAGES
from molvik.wording import counted, visible

WIDE_PX = 820


class Welcome(QWidget):
    """The first screen."""

    recovered = Signal(object)
    discarded = Signal(object)
    reopened = Signal(object)

    def __init__(
        self,
        new: Callable[[], object],
        demo: Callable[[str], object],
        open_file: Callable[[], object],
        start_from: Callable[[str], object],
    ) -> None:
        super().__init__()
        icon = QLabel()
        picture = QPixmap()
        picture.loadFromData(files("molvik.desktop").joinpath("icons", "molvik.png").read_bytes())
        icon.setPixmap(picture.scaledToHeight(72, Qt.TransformationMode.SmoothTransformation))
        title = label("Molvik")
        title.setObjectName("welcomeTitle")
        promise = label("Every wire accounted for.", "faint")
        card = self._ways_to_begin(new, demo, open_file, start_from)
        self._recent = QVBoxLayout()
        self._recent.setSpacing(0)
        self._left = QVBoxLayout()
        self._left.setSpacing(8)
        caution = label(
            "Molvik computes and records; it does not replace your judgement, local rules or a "
            "licensed electrician. Disconnect the battery before you open a loom.",
            "faint",
            wrap=True,
        )
        self._order = _order_of_the_work()
        held = QWidget()
        held.setMaximumWidth(WIDE_PX)
        body = QVBoxLayout(held)
        body.setSpacing(14)
        body.addLayout(row(icon, _stacked(title, promise), 1, spacing=18))
        body.addLayout(self._left)
        body.addWidget(card)
        body.addLayout(self._recent)
        body.addWidget(self._order)
        body.addWidget(caution)
        middle = QWidget()
        across = QHBoxLayout(middle)
        across.addStretch(1)
        across.addWidget(held, 1000)
        across.addStretch(1)
        down = QVBoxLayout()
        down.addStretch(1)
        down.addWidget(middle)
        down.addStretch(1)
        whole = QWidget()
        whole.setLayout(down)
        # What does not fit is scrolled to, never squeezed.
        self._scrolled = QScrollArea()
        self._scrolled.setWidget(whole)
        self._scrolled.setWidgetResizable(True)
        self._scrolled.setFrameShape(QFrame.Shape.NoFrame)
        self._scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self._scrolled)

    def _ways_to_begin(
        self,
        new: Callable[[], object],
        demo: Callable[[str], object],
        open_file: Callable[[], object],
        start_from: Callable[[str], object],
    ) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        inner = QVBoxLayout(card)
        inner.setContentsMargins(22, 18, 22, 18)
        inner.setSpacing(6)
        self.new_button = button("Start a job", "An empty job (Ctrl+N)", new, "action")
        self.demo_button = button(
            "Open the demo",
            "A made-up job: the Marten fire tender gets another engine",
            partial(demo, "marten"),
        )
        self.repin_button = button(
            "Repinning demo",
            "A made-up job: a plug of the Plover van is repinned",
            partial(demo, "plover"),
        )
        self.charge_button = button(
            "Charging demo",
            "A made-up job: the Heron pick-up gets another alternator",
            partial(demo, "heron"),
        )
        self.start_button = button("Start from…", "A small whole job to change", lambda: None)
        starts = QMenu(self)
        for name, starter in TEMPLATES.items():
            action = starts.addAction(name, partial(start_from, name))
            action.setToolTip(starter.about)
        starts.setToolTipsVisible(True)
        self.start_button.setMenu(starts)
        self.open_button = button("Open a file…", "A .molvik job (Ctrl+O)", open_file)
        for push_button, words in (
            (self.new_button, "Name it, import your first pinout table, run a wire."),
            (self.start_button, "A run stand, a bare engine, an upgrade, a swap, a 6 V loom."),
            (self.demo_button, "A fire tender gets a fuel-injected engine; find its mistakes."),
            (self.repin_button, "A van's computer plug is repinned: matched, ordered, stepped."),
            (self.charge_button, "A pick-up's 55 A, a dead charge lamp, gauges that mislead."),
            (self.open_button, "Go on with a job that was saved."),
        ):
            push_button.setFixedWidth(160)
            inner.addLayout(row(push_button, label(words, "faint", wrap=True), spacing=16))
        return card

    def show_lists(self, recent: list[Path], leftovers: list[Leftover]) -> None:
        """Show the files opened last and the jobs a crash left behind."""
        _clear(self._recent)
        _clear(self._left)
        self._order.setVisible(not recent)  # who has opened jobs knows it
        if recent:
            self._recent.addWidget(label("OPENED LAST", "head"))
        for path in recent:
            name = ShortButton(visible(path.stem))
            name.setProperty("role", "quiet")
            name.setToolTip(str(path))
            name.setAccessibleName(path.stem)
            name.setMinimumWidth(120)
            name.clicked.connect(partial(self.reopened.emit, path))
            folder = ShortLabel(str(path.parent))
            folder.setProperty("role", "faint")
            line = QHBoxLayout()
            line.addWidget(name, 3)
            line.addWidget(folder, 2)
            held = QWidget()
            held.setLayout(line)
            line.setContentsMargins(0, 0, 0, 0)
            self._recent.addWidget(held)
        for leftover in leftovers:
            card = QFrame()
            card.setObjectName("good")
            words = label(visible(_unsaved(leftover)), wrap=True)
            words.setToolTip(str(leftover.origin or "It was never saved"))
            take = button(
                "Take it up",
                "Open the job as it was when the program ended",
                partial(self.recovered.emit, leftover),
                "action",
            )
            drop = button(
                "Throw away",
                "Delete the kept copy for good",
                partial(self.discarded.emit, leftover),
            )
            across = QHBoxLayout(card)
            across.setContentsMargins(18, 7, 18, 7)
            across.addWidget(words, 1)
            across.addWidget(take)
            across.addWidget(drop)
            self._left.addWidget(card)


def _unsaved(leftover: Leftover) -> str:
    """Say which job was left behind, so that two of one name are told apart."""
    job, origin = leftover.job, leftover.origin
    of = f"of {origin.name} in {origin.parent}" if origin else "never saved to a file"
    wires = "1 wire" if len(job.wires) == 1 else f"{counted(len(job.wires), 'wire')}"
    return f"{job.title}: unsaved work from {leftover.at:%d %b %Y, %H:%M}, {of}; {wires}."


def _stacked(*widgets: QWidget) -> QWidget:
    held = QWidget()
    held.setLayout(column(*widgets, spacing=0))
    return held


def _order_of_the_work() -> QWidget:
    held = QWidget()
    order = QGridLayout(held)
    order.setContentsMargins(0, 0, 0, 0)
    order.setHorizontalSpacing(24)
    order.addWidget(label("THE ORDER OF THE WORK", "head"), 0, 0, 1, 2)
    for index, (_, name, asks) in enumerate(STAGES):
        order.addWidget(label(f"{index + 1}  {name}: {asks}", "faint"), 1 + index % 4, index // 4)
    return held


def _clear(layout: QVBoxLayout) -> None:
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.deleteLater()
