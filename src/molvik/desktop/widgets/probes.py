"""Both probes of a meter, each drawn where it goes: the plug it is put into, and its cavity."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.small import label

Drawn = Callable[[FaceView, str], bool]
"""Draws the plug of a place in a face; says whether there is one."""


class Probes(QWidget):
    """The red and the black probe, side by side. largest: how large a cavity is drawn, px."""

    def __init__(self, largest: int = 40) -> None:
        super().__init__()
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(24)
        self.sides: list[tuple[QLabel, FaceView]] = []
        for name in ("Red probe", "Black probe"):
            words, face = label(name, "head"), FaceView(largest=largest)
            face.face = "wire side"
            face.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            side = QVBoxLayout()
            side.addWidget(words)
            side.addWidget(face, 1)
            side.addStretch(0)
            whole.addLayout(side, 1)
            self.sides.append((words, face))

    def show_places(self, places: tuple[str, ...], drawn: Drawn | None) -> None:
        """Show where the probes go; what is no plug is only named."""
        self.setVisible(bool(places))
        for (words, face), name, place in zip(
            self.sides, ("RED PROBE", "BLACK PROBE"), (*places, "", "")[:2], strict=True
        ):
            words.setText(f"{name} · {place or 'the battery’s minus'}")
            face.setVisible(bool(place) and drawn is not None and drawn(face, place))
