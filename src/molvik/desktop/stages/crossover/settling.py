"""The user's word on a lead: where it goes, what becomes of it, and who is in its way."""

from collections.abc import Callable

from PySide6.QtWidgets import QWidget

from molvik.crossover.repinplan import Happening, RepinPlan
from molvik.desktop.dialogs.questions import Answer, ask_line, question
from molvik.desktop.stages.crossover.lines import (
    going,
    joining,
    occupant,
    place_of,
    read_word,
    reason_of,
)
from molvik.desktop.store import Store
from molvik.model import crossover_edits
from molvik.model.crossover import Decided, Disposition, Rejected
from molvik.model.job import Job


class Settling:
    """Takes the user's word on leads of the plan that is shown; a ValueError says why it was not
    taken. parent: asks from it.
    """

    def __init__(self, parent: QWidget, store: Store, plan: Callable[[], RepinPlan | None]) -> None:
        self._parent, self._store, self._shown = parent, store, plan

    def _plan(self) -> RepinPlan:
        plan = self._shown()
        assert plan is not None  # a line is shown, so there is a plan
        return plan

    def decide(self, lead: str, text: str) -> None:
        """Take what was typed of a lead."""
        plan = self._plan()
        self._settle(plan, lead, read_word(plan, lead, text))

    def put_here(self, happening: Happening, text: str) -> None:
        """A lead goes into a cavity; empty for the one that is proposed."""
        plan = self._plan()
        word = going(plan, happening.place, _to(plan, happening, text))
        self._settle(plan, happening.place, word)

    def join_here(self, happening: Happening, text: str) -> None:
        """A lead is spliced to the one that goes into a cavity."""
        plan = self._plan()
        word = joining(plan, happening.place, _to(plan, happening, text))
        self._settle(plan, happening.place, word)

    def _settle(self, plan: RepinPlan, lead: str, word: Decided | None) -> None:
        """Take the user's word on a lead; ask when another is in its way. ValueError: left so."""
        code = plan.set.code
        there = occupant(plan, lead, word.to) if word and word.disposition == "match" else None
        if word is not None and there is not None:
            chosen = ask_taken(self._parent, plan, there, word)
            if not chosen:
                raise ValueError(f"Nothing was changed: {word.to} is for {there.place}.")
            if chosen == "join":
                word = joining(plan, lead, word.to)
        if word is None:
            self._store.do(
                f"Propose for {lead}", lambda job: crossover_edits.undecide(job, code, lead)
            )
            return
        said = word
        self._store.do(f"Decide {lead}", lambda job: crossover_edits.decide(job, code, said))

    def say(self, happening: Happening, word: str) -> None:
        """Stow or remove a lead, refuse what is proposed, ask for a new wire, forget.
        Raises ValueError.
        """
        plan = self._plan()
        code, lead, to = plan.set.code, happening.place, happening.end
        if word in ("not this", "new wire") and not (happening.match and happening.match.want):
            raise ValueError(f"Nothing is proposed for {lead}: choose a cavity for it, or cap it.")
        aside: Disposition = "remove" if plan.set.approach == "chassis wiring" else "stow"
        why = ""
        if word in ("stow", "remove"):
            asked = ask_reason(self._parent, word, f"{lead} {happening.function}".strip())
            if asked is None:
                raise ValueError(f"Nothing was changed: {lead} is as it was.")
            why = asked

        def edit(job: Job) -> Job:
            match word:
                case "stow":
                    return crossover_edits.decide(job, code, Decided(lead, "stow", why=why))
                case "remove":
                    return crossover_edits.decide(job, code, Decided(lead, "remove", why=why))
                case "not this":
                    return crossover_edits.reject(job, code, Rejected(lead, to))
                case "new wire":
                    job = crossover_edits.reject(job, code, Rejected(lead, to, fresh=True))
                    given = f"{to} gets a new wire"
                    return crossover_edits.decide(job, code, Decided(lead, aside, why=given))
                case _:
                    return crossover_edits.undecide(job, code, lead)

        self._store.do(f"{lead}: {word}", edit)


USUAL = "not used in this vehicle; what it went to is gone; kept for later"


def ask_reason(parent: QWidget, word: str, what: str) -> str | None:
    """Ask why leads are put aside; None to leave it. It stands in the plan and on its sheet."""
    verb = {"stow": "cut back and capped", "remove": "removed from the loom"}[word]
    words = f"{what}. Usual reasons: {USUAL}."
    found = ask_line(parent, f"Why is it {verb}?", words, take=reason_of)
    return None if found is None else reason_of(found)


def _to(plan: RepinPlan, happening: Happening, text: str) -> str:
    """Return the cavity that is meant: as typed, or the one that is proposed."""
    if text:
        return place_of(plan, text)
    if not happening.end:
        raise ValueError(f"Type the cavity for {happening.place}.")
    return happening.end


def ask_taken(parent: QWidget, plan: RepinPlan, there: Happening, word: Decided) -> str:
    """Ask what happens to two leads for one cavity; return join, instead, or nothing."""
    confirmed = there.match is not None and there.match.state == "confirmed"
    how = "you confirmed that" if confirmed else "that match is sure"
    return question(
        parent,
        f"{word.to} is taken",
        f"{word.to} is for {there.function or there.place}, from {there.place}: {how}.",
        f"Splice {word.lead} to it, so that both go to {word.to}? Or put {word.lead} there "
        f"instead, and leave {there.place} to be decided again?",
        [Answer("instead", f"{word.lead} instead", loses=True), Answer("join", "Join both")],
    )
