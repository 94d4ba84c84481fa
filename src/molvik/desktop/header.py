"""The top of the window: the job, the trunk with its stages, find and the clock."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.trunk import Trunk
from molvik.wording import visible


class Header(QWidget):
    """settings_wanted, find_wanted: the title, the find button was pressed."""

    settings_wanted = Signal()
    find_wanted = Signal()

    def __init__(self, clock_button: QWidget) -> None:
        super().__init__()
        tip = "Change the title and settings"
        self.title = button("", tip, self.settings_wanted.emit, "quiet")
        self.title.setObjectName("jobTitle")
        self.about = label("", "faint")
        self.trunk = Trunk()
        self.find_button = QPushButton("Find wire, cavity, function   Ctrl+K")
        self.find_button.setToolTip("Type a code, cavity, colour, function or size (Ctrl+K)")
        self.find_button.clicked.connect(self.find_wanted.emit)
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addLayout(row(self.title, self.about, 1, spacing=14))
        left.addWidget(self.trunk)
        inner = QHBoxLayout(self)
        inner.setContentsMargins(18, 8, 18, 4)
        inner.setSpacing(24)
        inner.addLayout(left, 1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.find_button)
        right.addWidget(clock_button)
        inner.addLayout(right)

    def name(self, store: Store) -> None:
        """Say which job it is, and whether its file holds it as it is."""
        job = store.job
        self.title.setText(visible(job.title))
        words = [f"{job.settings.system_v:g} V", *([job.subtitle] if job.subtitle else [])]
        words.append("edited" if store.unsaved else "saved" if store.path else "not saved yet")
        self.about.setText(" · ".join(words))
