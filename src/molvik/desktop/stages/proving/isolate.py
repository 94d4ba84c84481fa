"""Isolation at the bench: groups of nets tied together and measured against each other."""

from functools import reduce

from molvik.desktop.cards.benchcards import at_the_bench, no_tick
from molvik.desktop.dialogs.questions import Answer, question
from molvik.desktop.stages.page import StagePage
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.parsing.quantities import read_ohm
from molvik.proving.bench import Bench
from molvik.proving.isolation import (
    APART_OHM,
    CLIPS,
    HIGH_V,
    Groups,
    Isolation,
    apart_words,
    isolation_of,
    measurements_if_sound,
    sensitive_to_high_voltage,
)
from molvik.proving.touching import between, isolated
from molvik.steps import Step
from molvik.wording import counted, some

NAMED = 6
"""Up to so many places of a group are named on a card; of more it says how many are drawn."""


def ask_high_voltage(page: StagePage) -> int:
    """Ask that everything is unplugged which a high voltage breaks; return the voltage of the
    insulation tester, 0 when it was given up. Enter gives up: it is confirmed on purpose.
    """
    names = sensitive_to_high_voltage(page.store.job)
    named = some(names, 12, "; ")
    text = (
        "Every module is unplugged, battery and alternator are off, and all hands are off the loom."
    )
    return int(
        question(
            page,
            "Short test with an insulation tester",
            f"{text} Is it so?",
            "A high voltage breaks electronics at once. "
            + (f"In this job: {named}. " if names else "This job names none: look for yourself. ")
            + "It can hurt: keep hands off until the tester has discharged the loom. Leave airbag "
            "and high-voltage circuits to those licensed for them, and keep to local rules.",
            [
                Answer(
                    str(volts),
                    f"All unplugged, {volts} V",
                    loses=True,
                    tip="Electronics still plugged in will be destroyed",
                )
                for volts in HIGH_V
            ],
        )
        or 0
    )


def ask_clips(page: StagePage) -> int | None:
    """Ask how many places can be tied together; return 0 for all, None when it was given up."""
    bench = page.analysis.plan.bench
    if sum(bool(net.points) for net in bench.nets) <= 2 * CLIPS:
        return 0
    by_clips, at_once = measurements_if_sound(bench, CLIPS), measurements_if_sound(bench)
    said = question(
        page,
        "Short test",
        "How many points can you tie together at once?",
        f"With clips, no more than {CLIPS} a side are tied: {counted(by_clips, 'measurement')} if "
        "nothing is shorted. With spare mates of the plugs wired as each card draws them, "
        f"{at_once} are enough.",
        [Answer("clips", f"Clips, {CLIPS} a side"), Answer("blocks", "Plugs wired as drawn")],
    )
    return {"clips": CLIPS, "blocks": 0}.get(said)


class IsolationRun:
    """One run of isolation, from card to card. What touches is kept as a reading as soon as
    it is found, and at the end what came of all. volts: of an insulation tester, 0 for a meter.
    clips: how many places are tied together at most, 0 for any number.
    """

    def __init__(self, page: StagePage, volts: int = 0, clips: int = 0) -> None:
        self._page = page
        self._at = f" at {volts} V" if volts else ""
        self._how = f"short test{self._at}"
        # The nets as they were when it began: the wires may be changed beside the cards.
        self._plan = page.analysis.plan
        self._bench: Bench = self._plan.bench
        self.steps: Isolation = isolation_of(self._bench, clips or None)
        self._done: list[tuple[Groups, str]] = []
        self._said = ""

    def begin(self) -> None:
        """Put up the first card."""
        title = f"Short test{self._at}"
        at_the_bench(
            self._page,
            title,
            self._cards,
            self._ticked,
            no_tick,
            no_tick,
            "proving",
            answer=self._answer,
        )

    def _cards(self) -> tuple[Step, ...]:
        shown = [
            self._card(number, groups, said) for number, (groups, said) in enumerate(self._done, 1)
        ]
        if self.steps.now is not None:
            shown.append(self._card(len(shown) + 1, self.steps.now, ""))
        else:
            shown.append(
                Step(
                    "isolated",
                    "",
                    f"Short test: {self._said}",
                    "All is measured. What is shorted is marked on the Map; Esc closes.",
                )
            )
        return tuple(shown)

    def _card(self, number: int, groups: Groups, said: str) -> Step:
        sides = groups.one, groups.other
        one, other = (self._tied_words(group) for group in sides)
        return Step(
            f"isolate {number}",
            "",
            f"{number}. {groups.why}",
            f"red on {one}, black on {other}{self._at}; apart is OL or more than "
            f"{APART_OHM / 1e6:g} MΩ",
            asks="OL",
            shown=said,
            letters="kKMmohΩ",
            begins="oOlL",
            tied=tuple(tuple(str(self._bench.tied_at[net]) for net in group) for group in sides),
        )

    def _tied_words(self, group: tuple[int, ...]) -> str:
        """Name a group; the drawing shows it, so that of many only their number is said."""
        if len(group) == 1:
            return apart_words(self._bench, group)
        few = len(group) <= NAMED
        return f"{apart_words(self._bench, group) if few else f'{len(group)} places'} tied together"

    def _ticked(self) -> set[str]:
        done = {f"isolate {number}" for number in range(1, len(self._done) + 1)}
        return done if self.steps.now is not None else done | {"isolated"}

    def _answer(self, step: Step, text: str) -> None:
        if step.key in self._ticked():
            raise ValueError("That is answered: go on with the last card.")
        ohm = read_ohm(text)
        groups = self.steps.now
        if groups is None:
            return
        known = len(self.steps.touching)
        touches = self.steps.answer(ohm)
        self._done.append((groups, "they are shorted together" if touches else "apart"))
        if len(self.steps.touching) > known:
            made = between(
                self._plan, self.steps.touching[-1], self.steps.ohm, now_text(), "", self._how
            )
            self._page.store.do(
                "{} touches {}".format(*made.points), lambda job: edits.record(job, made)
            )
        if self.steps.now is None:
            self._end()

    def _end(self) -> None:
        """Keep what came of it."""
        made = isolated(
            self._plan, self.steps.touching, self.steps.measured, now_text(), "", self._how
        )
        self._said = made[-1].said
        self._page.store.do("Short test", lambda job: reduce(edits.record, made, job))
