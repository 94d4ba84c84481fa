"""Tests of things by themselves as a table: what each should show, typed and judged at once."""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.widgets.small import column, label
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.proving.items import (
    BAD,
    ItemTest,
    ItemVerdict,
    Taken,
    item_reading,
    item_readings,
    judge_item,
    shown_text,
)

PARTS = (
    "Each part by itself, unplugged. Figures are its own where they were entered under Circuits, "
    "else usual ones. Readings are typed as the meter shows them, its leads included."
)
JOINTS = (
    "Heavy cables under a current, a voltage drop for each; and for each size and terminal one "
    "sample, crimped like those of the loom and pulled at (UL 486A). Type mV, or newtons, lbf or "
    "kgf."
)
ROLES = {"passed": "proved", "not measured": "faint"}


class ItemsView(QWidget):
    """A list of tests. tests: of a job as it stands; words: what they are."""

    def __init__(
        self,
        page: StagePage,
        name: str,
        words: str,
        tests: Callable[[Analysis], Sequence[ItemTest]],
        *extra: QWidget,
    ) -> None:
        super().__init__()
        self._page, self._tests = page, tests
        self._taken: Taken = {}
        columns: list[Column[ItemTest]] = [
            Column("On", lambda test: test.subject, width=60, mono=True),
            Column("Name", lambda test: test.name, width=150, grow=2),
            Column("Between", lambda test: test.between, width=136, grow=1),
            Column("What", lambda test: test.what, width=180, grow=2),
            Column("Expect", lambda test: test.expect, width=170, grow=2),
            Column(
                "Read",
                self._shown,
                width=90,
                edit=self.read,
                tip="As the meter shows it: 0.3, 1.2k, OL; 0.62 V; 35 mV. Enter goes on.",
            ),
            Column(
                "Verdict",
                lambda test: self.verdict(test).outcome,
                width=104,
                role=lambda test: ROLES.get(self.verdict(test).outcome, "stop"),
            ),
        ]
        self.model: ThingsModel[ItemTest] = ThingsModel(columns, lambda test: test.key)
        self.table: ThingsTable[ItemTest] = ThingsTable(self.model, name)
        self.table.enter_goes_down = True
        self.table.refused.connect(page.notice.say)
        self.table.macro = page.macro
        self.table.picked.connect(self._pick)
        self.words = label(words, "faint", wrap=True)
        self.done = label("", "faint")
        self.setLayout(column(self.words, *extra, self.table, self.done))

    def show_job(self, analysis: Analysis) -> None:
        """Show the tests of the job as it stands."""
        if not plan_known(analysis):
            return
        tests = list(self._tests(analysis))
        self._taken = item_readings(analysis.job.readings)
        self.model.show_things(tests)
        outcomes = [self.verdict(test).outcome for test in tests]
        failed = sum(outcome in BAD for outcome in outcomes)
        said = f"{outcomes.count('passed')} of {len(tests)} passed"
        self.done.setText(f"{said}, {failed} failed." if failed else f"{said}." if tests else "")
        self.follow(self._page.hand.subject)

    @property
    def current(self) -> ItemTest | None:
        """The chosen test."""
        key = self.table.current_key()
        return next((test for test in self.model.things if test.key == key), None)

    def verdict(self, test: ItemTest) -> ItemVerdict:
        """Return what the readings of a test mean."""
        return judge_item(test, self._taken, self._page.store.job.settings)

    def _shown(self, test: ItemTest) -> str:
        reading = self.verdict(test).by
        return "" if reading is None else shown_text(reading)

    def read(self, test: ItemTest, text: str) -> None:
        """Keep a reading with its time and who took it, and say what is wrong with it."""
        page = self._page
        reading = item_reading(test, text, now_text(), page.store.job.settings)
        page.store.do(f"{test.name}: {test.what}", lambda job: edits.record(job, reading))
        verdict = self.verdict(test)
        failed = verdict.outcome in BAD or test.means is not None
        page.notice.say(f"{test.name}, {test.what}: {verdict.text}" if failed else "")

    def _pick(self, key: str) -> None:
        test = next((test for test in self.model.things if test.key == key), None)
        if test is not None:
            self._page.hand.pick(test.subject)

    def forget(self) -> None:
        """The job was closed: let go of it."""
        self._taken = {}
        self.model.show_things([])

    def follow(self, subject: str) -> None:
        """Bring the first test of what is in hand into view, unless one of its is chosen."""
        chosen = self.table.current_key()
        tests = {test.key: test for test in self.model.things}
        if chosen in tests and tests[chosen].subject == subject:
            return
        first = next((test for test in tests.values() if test.subject == subject), None)
        if first is not None:
            self.table.pick(first.key)
