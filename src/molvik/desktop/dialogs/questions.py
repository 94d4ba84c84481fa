"""Questions of the window, in its own look: what to do, or a line of text."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import NamedTuple

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QPushButton, QVBoxLayout, QWidget

from molvik.desktop.dialogs.opening import ask
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import Choice, button, label, row

WIDTH_PX = 460


class Answer(NamedTuple):
    """A way to answer. key: what is handed back; loses: something is lost, or can be hurt, by it;
    tip: what, where it is not what is there now.
    """

    key: str
    words: str
    loses: bool = False
    tip: str = "What is there now will be lost"


class Question(QDialog):
    """Asks one thing. The first answer is what Enter gives, unless it loses something: then it is
    Cancel. answer: the key of what was pressed, empty for Cancel or Esc.
    """

    def __init__(
        self,
        parent: QWidget,
        title: str,
        text: str,
        more: str = "",
        answers: Sequence[Answer] = (),
        cancel: str = "Cancel",
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(WIDTH_PX)
        self.answer = ""
        self.heading = label(title, wrap=True)
        self.heading.setObjectName("handTitle")
        self.text = label(text, wrap=True)
        self.more = label(more, "faint", wrap=True)
        self.more.setVisible(bool(more))
        self.buttons: list[QPushButton] = []
        safe = bool(answers) and not answers[0].loses
        back = button(cancel, "Change nothing (Esc)", self.reject, "" if safe else "action")
        for index, answer in enumerate(answers):
            role = "action" if safe and index == 0 else ""
            tip = answer.tip if answer.loses else ""
            self.buttons.append(button(answer.words, tip, partial(self._take, answer.key), role))
        ends = (
            [*self.buttons[1:][::-1], back, *self.buttons[:1]]
            if safe
            else [
                *self.buttons[::-1],
                back,
            ]
        )
        self.buttons.append(back)
        ends[-1].setDefault(True)
        whole = self._whole = QVBoxLayout(self)
        whole.setContentsMargins(18, 16, 18, 14)
        whole.setSpacing(10)
        for said in (self.heading, self.text, self.more):
            whole.addWidget(said)
        whole.addLayout(row(1, *ends))
        ends[-1].setFocus()

    def showEvent(self, event: QShowEvent) -> None:
        """Be as high as the words need at this width: a warning must not be cut off."""
        super().showEvent(event)
        width = max(self.minimumSizeHint().width(), WIDTH_PX)
        self.resize(width, self._whole.totalHeightForWidth(width))

    def _take(self, key: str) -> None:
        self.answer = key
        self.accept()

    def press(self, words: str) -> None:
        """Press the button with these words."""
        next(one for one in self.buttons if words in one.text()).click()


class LineQuestion(QDialog):
    """Asks for a line of text. take: is given it; a ValueError from it is said, and the line stays
    to be mended. choices: it is one of these.
    """

    def __init__(
        self,
        parent: QWidget,
        title: str,
        words: str,
        text: str = "",
        take: Callable[[str], object] | None = None,
        choices: Sequence[str] = (),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(WIDTH_PX)
        self._taken = take
        heading = label(title)
        heading.setObjectName("handTitle")
        self.words = label(words, wrap=True)
        self.field: QLineEdit | Choice
        if choices:
            self.field = Choice()
            self.field.addItems(list(choices))
            self.field.setCurrentText(text)
        else:
            self.field = QLineEdit(text)
            self.field.selectAll()
        self.field.setAccessibleName(title)
        self.notice = Notice()
        keep = button("Keep", "Take it (Enter)", self.accept, "action")
        keep.setDefault(True)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(18, 16, 18, 14)
        whole.setSpacing(10)
        for widget in (heading, self.words, self.field, self.notice):
            whole.addWidget(widget)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), keep))
        self.field.setFocus()

    @property
    def typed(self) -> str:
        """What stands in the line."""
        return self.field.text() if isinstance(self.field, QLineEdit) else self.field.currentText()

    def type(self, text: str) -> None:
        """Put a text into the line and take it."""
        if isinstance(self.field, QLineEdit):
            self.field.setText(text)
        else:
            self.field.setCurrentText(text)
        self.accept()

    def accept(self) -> None:
        """Hand over what was typed; where it is refused, say why and stay."""
        if self._taken is not None:
            try:
                self._taken(self.typed)
            except ValueError as error:
                self.notice.say(str(error))
                self.adjustSize()
                return
        super().accept()


def question(
    parent: QWidget,
    title: str,
    text: str,
    more: str = "",
    answers: Sequence[Answer] = (),
    cancel: str = "Cancel",
) -> str:
    """Ask what to do; return the key of the answer, nothing when it was given up."""
    made = Question(parent, title, text, more, answers, cancel)
    ask(made)
    return made.answer


def ask_line(
    parent: QWidget,
    title: str,
    words: str,
    text: str = "",
    take: Callable[[str], object] | None = None,
    choices: Sequence[str] = (),
) -> str | None:
    """Ask for a line of text; return it, None when it was given up."""
    made = LineQuestion(parent, title, words, text, take, choices)
    return made.typed if ask(made) else None


def tell(parent: QWidget, title: str, text: str) -> None:
    """Say something that is to be read."""
    question(parent, title, text, cancel="Close")
