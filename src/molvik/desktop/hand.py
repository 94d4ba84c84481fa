"""What is in hand: the one selection that every stage follows."""

from PySide6.QtCore import QObject, Signal

from molvik.model.refs import Ref


class Hand(QObject):
    """The subject in hand: a code such as W12 or F2, or a cavity such as C3/5; empty for none."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.subject = ""
        self.loom = ""
        """The code of the loom to build that was looked at last, empty for none."""

    @property
    def ref(self) -> Ref:
        """The subject as a place."""
        return Ref.parse(self.subject)

    def pick(self, subject: str) -> None:
        """Take a subject in hand."""
        if subject != self.subject:
            self.subject = subject
            self.picked.emit(subject)
