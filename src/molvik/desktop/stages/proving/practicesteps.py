"""The steps of a round of practice: what was done, shown and cost; afterwards what it told."""

from typing import NamedTuple

from PySide6.QtWidgets import QVBoxLayout, QWidget

from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.proving.practice.after import Debrief
from molvik.proving.practice.round import Round, cause_words
from molvik.wording import counted

MOST_LINES = 4
DURING_PX, LEAST_AFTER_PX, AFTER_PX = 152, 180, 300
"""How high the table is: during a round always the same, or what is clicked moves away under the
hand; after it, the room is the table's."""

TOLD, LEFT = 4, 5


class Line(NamedTuple):
    """A line of the table. told, left: only after the round."""

    number: str
    what: str
    shown: str
    minutes: str
    told: str = ""
    left: str = ""
    role: str = ""


class PracticeSteps(QWidget):
    """Own steps; after the round those of the program below them."""

    def __init__(self) -> None:
        super().__init__()

        def role(line: Line) -> str:
            return line.role

        self.model: ThingsModel[Line] = ThingsModel(
            [
                Column("Step", lambda line: line.number, width=44, figures=True),
                Column("What was done", lambda line: line.what, width=300, grow=3, role=role),
                Column("Shown", lambda line: line.shown, width=150, grow=2, role=role),
                Column("Cost", lambda line: line.minutes, width=66, figures=True, unit="min"),
                Column(
                    "Told",
                    lambda line: line.told,
                    width=66,
                    figures=True,
                    unit="bits",
                    tip="After the round: one bit halves what is left, none told nothing",
                ),
                Column("Left", lambda line: line.left, width=56, figures=True),
            ],
            lambda line: line.number,
        )
        self.table: ThingsTable[Line] = ThingsTable(self.model, "What was done")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.table)

    def show_round(self, played: Round, after: Debrief | None) -> None:
        """Show the steps of a round, and after it what they told."""
        self.setMaximumHeight(DURING_PX if after is None else AFTER_PX)
        self.setMinimumHeight(DURING_PX if after is None else LEAST_AFTER_PX)
        for place in (TOLD, LEFT):
            self.table.setColumnHidden(place, after is None)
        lines = []
        for number, step in enumerate(played.steps, 1):
            told = after.steps[number - 1] if after and number <= len(after.steps) else None
            lines.append(
                Line(
                    str(number),
                    step.what,
                    step.shown,
                    f"{step.minutes:.1f}",
                    "" if told is None or told.bits is None else f"{told.bits:.1f}",
                    "" if told is None or told.left is None else str(told.left),
                    "stop" if step.badly else "",
                )
            )
        for number, step in enumerate(after.program if after else (), 1):
            minutes = f"{step.minutes:.1f}"
            what = f"the program: {step.what}"
            lines.append(Line(f"p{number}", what, step.shown, minutes, role="faint"))
        self.model.show_things(lines)
        if after is None:
            self.table.scrollToBottom()
        else:
            self.table.scrollToTop()

    def clear(self) -> None:
        """Show nothing."""
        self.model.show_things([])


def cause_lines(played: Round, before: int) -> tuple[int, str]:
    """Return how many causes all that was seen leaves, and say which, the likeliest first. before:
    how many there were when it was asked last, none for never. Takes a while.
    """
    found = played.leaves()
    count = played.count_left()
    lines = []
    for group in found.groups[:MOST_LINES]:
        share = sum(one.share for one in group)
        words = "; or ".join(cause_words(one.causes, played.network) for one in group[:2])
        lines.append(f"{share * 100:.0f} %  {words}")
    was = before or played.count_all
    head = f"{counted(count, 'cause')} left, from {was}, in {counted(len(found.groups), 'group')}"
    return count, "\n".join((f"{head}:", *lines))
