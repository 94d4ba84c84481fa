"""What becomes of the lead in hand: the match, why, what else it might be, and what to do."""

from functools import partial

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtWidgets import QCompleter, QFrame, QLineEdit, QPushButton, QVBoxLayout

from molvik.crossover.repinplan import Happening, RepinPlan
from molvik.desktop.stages.crossover.lines import WORDS
from molvik.desktop.widgets.small import button, label, row, set_role

STATES = {
    "confirmed": "you decided",
    "sure": "sure",
    "look": "to be decided",
    "converter": "needs a converter",
    "none": "to be decided",
    "spare": "one more than there are cavities",
}
MOST_RUNNERS = 3


class LeadCard(QFrame):
    """The lead in hand. here, join: a cavity was chosen for it, as it was typed, empty for the
    proposed one; said: stow, remove, new wire, not this, or take back.
    """

    here = Signal(str)
    join = Signal(str)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.goes = label("", wrap=True)
        self.state = label("", "faint", wrap=True)
        self.why = label("", "faint", wrap=True)
        self.why.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.runners: list[QPushButton] = []
        inside = QVBoxLayout(self)
        inside.setContentsMargins(10, 8, 10, 8)
        inside.setSpacing(5)
        self._head = label("WHAT BECOMES OF IT", "head")
        for widget in (self._head, self.goes, self.state, self.why):
            inside.addWidget(widget)
        self._else = label("Or", "faint")
        inside.addWidget(self._else)
        for index in range(MOST_RUNNERS):
            made = button("", "Put it there instead", partial(self._runner, index), "quiet")
            made.setStyleSheet("text-align: left")
            self.runners.append(made)
            inside.addWidget(made)
        self._build_cavity()
        inside.addLayout(row(self.cavity, self.here_button, self.join_button, spacing=4))
        self._says = {
            word: button(text, tip, partial(self.said.emit, word), "quiet")
            for word, text, tip in (
                ("not this", "Not this", "It is not for the proposed cavity: propose another"),
                ("stow", "Cap", "Cut back, capped and left in the loom"),
                ("remove", "Remove", "Removed from the loom"),
                ("new wire", "New wire", "The cavity gets a new wire; this one is put aside"),
                ("take back", "Take back", "Forget what was decided, and propose again"),
            )
        }
        inside.addLayout(
            row(*(self._says[w] for w in ("not this", "stow", "remove")), 1, spacing=4)
        )
        inside.addLayout(row(*(self._says[w] for w in ("new wire", "take back")), 1, spacing=4))
        self._runner_places: list[str] = []
        self.hide()

    def _build_cavity(self) -> None:
        self.cavity = QLineEdit()
        self.cavity.setPlaceholderText("cavity")
        self.cavity.setAccessibleName("Cavity for this wire")
        self.cavity.setToolTip("Another cavity, by its number or its function")
        self._names = QStringListModel(self)
        completer = QCompleter(self._names, self)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.cavity.setCompleter(completer)
        self.cavity.returnPressed.connect(self._here)
        self.here_button = button("Here", "It goes into this cavity (Enter)", self._here, "action")
        self.join_button = button(
            "Join", "It is spliced to the wire that goes into this cavity", self._join
        )

    def button_of(self, word: str) -> QPushButton:
        """Return the button for a word."""
        return self._says[word]

    def show_lead(self, plan: RepinPlan | None, happening: Happening | None) -> None:
        """Show a lead of a plan; nothing for none, or for a new wire, which has no lead."""
        self.setVisible(plan is not None and happening is not None and happening.lead is not None)
        if plan is None or happening is None or happening.lead is None:
            return
        match = happening.match
        wants = plan.repin.wanted_at
        want = wants.get(happening.end)
        place = f"{happening.end} {want.function}" if want else happening.end
        self._head.setText(f"{happening.place} IN {plan.set.code}")
        verb = WORDS[happening.action]
        if happening.action == "undecided":
            self.goes.setText(f"{place}?" if place else "No cavity is proposed")
        else:
            self.goes.setText(f"{verb}: {place}" if place else verb)
        set_role(self.goes, "live_text" if happening.action == "undecided" else "")
        said = STATES[match.state] if match else ""
        score = f", {match.score:.0f} of 100" if match and match.score and not match.decided else ""
        self.state.setText(f"{said}{score}")
        self.why.setText(
            "; ".join(filter(None, (happening.reason, happening.fit.why if happening.fit else "")))
        )
        runners = match.runners if match and match.decided is None else ()
        self._runner_places = [runner.place for runner in runners]
        self._else.setVisible(bool(runners))
        for index, made in enumerate(self.runners):
            made.setVisible(index < len(runners))
            if index < len(runners):
                runner = runners[index]
                made.setText(f"{runner.place} {runner.function}, {runner.score:.0f}")
        self.cavity.clear()
        self._names.setStringList([f"{want} {w.function}".strip() for want, w in wants.items()])
        proposed = bool(match and match.want)
        self.cavity.setPlaceholderText(happening.end if proposed else "cavity")
        self._says["not this"].setEnabled(proposed)
        self._says["new wire"].setEnabled(proposed)
        self._says["stow"].setEnabled(happening.action != "stowed")
        self._says["remove"].setEnabled(happening.action != "removed")
        spoken = {word.lead for word in plan.set.decided} | {w.lead for w in plan.set.rejected}
        self._says["take back"].setEnabled(happening.place in spoken)

    def typed(self) -> str:
        """Return the cavity that was typed, without the function the list puts behind it."""
        return self.cavity.text().strip().split(" ")[0]

    def _here(self) -> None:
        self.here.emit(self.typed())

    def _join(self) -> None:
        self.join.emit(self.typed())

    def _runner(self, index: int) -> None:
        self.here.emit(self._runner_places[index])
