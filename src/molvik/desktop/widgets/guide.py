"""What an empty page shows: what it does, the one thing to do first, and buttons for that."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtWidgets import QFrame, QPushButton, QSizePolicy

from molvik.desktop.widgets.small import button, column, label, row


class First(NamedTuple):
    """A thing to do first: the button's text, its tooltip, and what it does."""

    text: str
    tip: str
    do: Callable[[], object]


class Guide(QFrame):
    """Teaches an empty page; it stands in the upper half, and the first button is the usual one."""

    def __init__(self, does: str, first: str, *actions: First) -> None:
        super().__init__()
        self.setObjectName("card")
        self.buttons: list[QPushButton] = [
            button(action.text, action.tip, action.do, "" if index else "action")
            for index, action in enumerate(actions)
        ]
        what = label(does, wrap=True)
        what.setObjectName("handTitle")
        inside = column(what, label(first, wrap=True), row(*self.buttons, 1), spacing=12)
        inside.setContentsMargins(22, 20, 22, 20)
        self.setLayout(inside)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.setAccessibleName(f"{does} {first}")
