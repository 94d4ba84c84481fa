"""Before it is opened, at the bench: what is typed on a card, ticked or photographed is put into
the loom at once, and nothing else makes a card done.
"""

from typing import Any

from molvik.desktop.cards.benchcards import TickList, at_the_bench
from molvik.desktop.stages.page import StagePage
from molvik.model import loom_edits
from molvik.model.loom import FoundWire, Segment
from molvik.steps import Step
from molvik.survey.before import BATTERY, asks_for_a_photo, before_opening, recorded
from molvik.typed.field import Field, named
from molvik.typed.found import FOUND_FIELDS, SEGMENT_FIELDS, type_found

PHOTO_FIRST = (
    "It is done by a photo: P picks one, drop it here, or let the camera's folder be watched."
)
FIELDS: dict[type, Field[Any]] = {
    Segment: named(SEGMENT_FIELDS, "Length"),
    FoundWire: named(FOUND_FIELDS, "Measured"),
}

NOTHING: dict[str, dict[str, Any]] = {
    "mark": {"mark": ""},
    "measure": {"length_m": None},
    "gauge": {"size": None, "seen": ""},
    "trace": {"known": "presumed"},
}
"""What each kind of card brought, taken back."""


class BeforeOpening:
    """The list, how far it is, and its cards."""

    def __init__(self, page: StagePage, ticks: TickList) -> None:
        self._page, self._ticks = page, ticks

    def steps(self) -> tuple[Step, ...]:
        """Return all steps."""
        return before_opening(self._page.analysis.loom)

    def done(self) -> set[str]:
        """Return the keys of the steps that are done."""
        job = self._page.store.job
        marked = {thing.code for thing in job.loom.faults if job.photos_on(thing.code)}
        photographed = {photo.on for photo in job.photos} | marked
        return recorded(job.loom, self._ticks.ticked(), photographed)

    def left(self) -> int:
        """Return how many steps are to be done."""
        done = self.done()
        return sum(step.key not in done for step in self.steps())

    def go_through(self) -> None:
        """Go through the steps card by card."""
        at_the_bench(
            self._page,
            "Before it is opened",
            self.steps,
            self.done,
            self.tick,
            self.clear,
            "survey",
            answer=self.answer,
            photographed=asks_for_a_photo,
        )

    def tick(self, step: Step, key: str) -> None:
        """Tick a card on which nothing is typed: the battery is off, or a label is tied on. Raises
        ValueError where a photo is wanted.
        """
        if asks_for_a_photo(step):
            raise ValueError(PHOTO_FIRST)
        if step.key == BATTERY:
            self._ticks.tick(step, key)
        else:
            self._change(step, f"Mark {step.subject}", mark=step.subject)

    def clear(self, step: Step, key: str) -> None:
        """Take back what a card brought. Raises ValueError for a photo."""
        if asks_for_a_photo(step):
            raise ValueError("The photo stays: delete it where it is seen large.")
        if step.key == BATTERY:
            self._ticks.clear(step, key)
            return
        self._change(step, f"Clear {step.key}", **NOTHING[step.key.partition(" ")[0]])

    def answer(self, step: Step, text: str) -> None:
        """Take what was typed on a card. Raises ValueError."""
        store = self._page.store
        thing = loom_edits.find(store.job.loom, step.subject)
        if step.key.startswith("trace "):
            code = text.upper()
            node = self._page.analysis.loom.nodes.get(code)
            if node is None:
                raise ValueError(
                    f"There is no end {code}. Type one of those above; a new one is "
                    "typed into the table."
                )
            if isinstance(thing, FoundWire) and code == thing.start:
                raise ValueError(f"{step.subject} starts at {code}: type where it ends.")
            self._change(step, f"Trace {step.subject}", finish=code, known="traced")
            return
        field = FIELDS[type(thing)]
        store.take(type_found(store.job, self._page.analysis.network, thing, field, text))

    def _change(self, step: Step, words: str, **fields: Any) -> None:
        self._page.store.do(words, lambda job: loom_edits.change(job, step.subject, **fields))
