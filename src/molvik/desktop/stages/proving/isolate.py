"""Isolation at the bench: groups of nets tied together and measured against each other."""

from molvik.desktop.bench import at_the_bench, no_tick
from molvik.desktop.logbook import now_text
from molvik.desktop.questions import Answer, question
from molvik.desktop.stages.page import StagePage
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.log import LogEntry
from molvik.parsing.quantities import read_ohm
from molvik.proving.bench import Bench
from molvik.proving.isolation import (
    HIGH_V,
    Groups,
    Isolation,
    apart_words,
    harmed,
    isolation_of,
)
from molvik.proving.taken import taken
from molvik.steps import Step
from molvik.wording import some

APART_OHM = 1e6
"""Nets that do not touch show at least this, ohms (common practice)."""


def ask_high_voltage(page: StagePage) -> int:
    """Ask that everything is unplugged which a high voltage breaks; return the voltage of the
    insulation tester, 0 when it was given up. Enter gives up: it is confirmed on purpose.
    """
    names = harmed(page.store.job)
    named = some(names, 12, "; ")
    text = "Every module is unplugged, battery and alternator are off, and nobody touches the loom."
    return int(question(
        page, "Isolation with an insulation tester", f"{text} Is it so?",
        "A high voltage breaks electronics at once. "
        + (f"In this job: {named}. " if names else "This job names none: look for yourself. ")
        + "It can hurt: keep hands off until the tester has discharged the loom. Leave airbag and "
        "high-voltage circuits to those licensed for them, and keep to local rules.",
        [Answer(str(volts), f"All unplugged, {volts} V", loses=True,
                tip="Electronics that are still plugged in are lost by it") for volts in HIGH_V],
    ) or 0)  # fmt: skip


class IsolationRun:
    """One run of isolation, from card to card. What touches is kept as a reading, and that all
    passed as a note of the job. volts: of an insulation tester, 0 for a meter.
    """

    def __init__(self, page: StagePage, volts: int = 0) -> None:
        self._page = page
        self._at = f" at {volts} V" if volts else ""
        self._bench: Bench = page.analysis.plan.bench
        self.steps: Isolation = isolation_of(self._bench)
        self._done: list[tuple[Groups, str]] = []

    def begin(self) -> None:
        """Put up the first card."""
        title = f"Isolation{self._at}"
        at_the_bench(self._page, title, self._cards, self._ticked, no_tick, no_tick, "proving",
                     answer=self._answer)  # fmt: skip

    def _cards(self) -> tuple[Step, ...]:
        shown = [self._card(number, groups, said)
                 for number, (groups, said) in enumerate(self._done, 1)]  # fmt: skip
        if self.steps.now is not None:
            shown.append(self._card(len(shown) + 1, self.steps.now, ""))
        return tuple(shown)

    def _card(self, number: int, groups: Groups, said: str) -> Step:
        one, other = (apart_words(self._bench, group) for group in (groups.one, groups.other))
        return Step(
            f"isolate {number}", "", f"{number}. {groups.why}",
            f"tie together {one} and measure against {other}, tied together{self._at}; apart is OL "
            f"or more than {APART_OHM / 1e6:g} MΩ",
            asks="OL", shown=said, letters="kKMmohΩ", begins="oOlL",
        )  # fmt: skip

    def _ticked(self) -> set[str]:
        return {f"isolate {number}" for number in range(1, len(self._done) + 1)}

    def _answer(self, step: Step, text: str) -> None:
        if step.key in self._ticked():
            raise ValueError("That is answered: go on with the last card.")
        ohm = read_ohm(text)
        groups = self.steps.now
        if groups is None:
            return
        touches = ohm is not None and ohm < APART_OHM
        known = len(self.steps.touching)
        self._done.append((groups, "they touch" if touches else "apart"))
        self.steps.answer(touches)
        if len(self.steps.touching) > known:
            self._keep(self.steps.touching[-1], ohm)
        if self.steps.now is None:
            self._note()

    def _keep(self, pair: tuple[int, int], ohm: float | None) -> None:
        """Keep that two nets touch, as a reading between a point of each."""
        nets, settings = self._bench.nets, self._page.store.job.settings
        points = nets[pair[0]].points[0], nets[pair[1]].points[0]
        reading = taken(settings, now_text(), "resistance", ohm, points,
                        note=f"isolation{self._at}")  # fmt: skip
        self._page.store.do(
            f"{points[0]} touches {points[1]}", lambda job: edits.record(job, reading)
        )

    def _note(self) -> None:
        """Note what came of it in the logbook."""
        touching = len(self.steps.touching)
        words = f"Isolation: {touching} pairs touch" if touching else "Isolation passed"
        words += self._at
        words += f", {self.steps.measured} measurements of {len(self._bench.nets)} nets."
        by = self._page.store.job.settings.measured_by

        def edit(job: Job) -> Job:
            return edits.log(job, LogEntry(now_text(), "note", "proving", "", words, by=by))

        self._page.store.do("Isolation", edit)
