"""The continuity of each wire, as a table: what to expect, what was read, and what that means."""

from datetime import datetime
from typing import NamedTuple

from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.stages.proving.ohmcolumns import ohm_column, read_text
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.model import edits
from molvik.model.job import Reading
from molvik.model.parts import Wire
from molvik.parsing.quantities import read_ohm
from molvik.proving.wiretest import ContinuityTest, Verdict, continuity_reading, latest

ROLES = {"passed": "proved", "not measured": "faint", "moved": "live_text"}


class WireTests(NamedTuple):
    """The tests that the tables show, and not all that was computed of the job with them."""

    wires: tuple[Wire, ...]
    tests: dict[str, ContinuityTest]
    proof: dict[str, Verdict]


NOTHING = WireTests((), {}, {})


class WireLines:
    """What stands in the lines, and what is typed into them."""

    def __init__(self, page: StagePage) -> None:
        self._page = page
        self.shown = NOTHING
        """What is shown: of a large job, as it was looked over last."""
        self._latest: dict[str, Reading] = {}

    def take_over(self) -> None:
        """Take over what is computed of the job as it stands."""
        job, analysis = self._page.store.job, self._page.analysis
        self.shown = WireTests(job.wires, analysis.tests, analysis.proof)
        self._latest = latest(job.readings)

    def forget(self) -> None:
        """The job was closed: let go of it."""
        self.shown, self._latest = NOTHING, {}

    def columns(self) -> list[Column[Wire]]:
        """Return the columns of the table."""

        def test(wire: Wire) -> ContinuityTest:
            return self.shown.tests[wire.code]

        def outcome(wire: Wire) -> str:
            return self.shown.proof[wire.code].outcome

        return [
            Column("Wire", lambda w: w.code, width=56, mono=True),
            Column("Function", lambda w: w.function, width=130, grow=1),
            Column("From", lambda w: str(w.start), width=72, mono=True),
            Column("To", lambda w: str(w.finish), width=72, mono=True),
            ohm_column(
                "Expect",
                lambda w: test(w).expected_ohm,
                74,
                "Ohms to expect, the meter's leads included",
            ),
            ohm_column(
                "Limit", lambda w: test(w).limit_ohm, 62, "Above this, look for a bad joint"
            ),
            Column(
                "Read Ω",
                lambda w: read_text(self._last(w)),
                width=60,
                edit=self.measure,
                tip="Type what the meter shows: 0.3, 450 mohm, or OL for open. Enter goes on.",
            ),
            Column("Verdict", outcome, width=108, role=lambda w: ROLES.get(outcome(w), "stop")),
            Column(
                "When",
                self._when,
                width=66,
                sort=self._time,
                tip="The hour of today's readings, the day of earlier ones; the sheet has both",
            ),
            Column("By", self._by, width=60, hidden=True),
        ]

    def _last(self, wire: Wire) -> Reading | None:
        return self._latest.get(wire.code)

    def _by(self, wire: Wire) -> str:
        last = self._last(wire)
        return last.by if last else ""

    def _when(self, wire: Wire) -> str:
        last = self._last(wire)
        if last is None:
            return ""
        moment = datetime.fromisoformat(last.at)
        return f"{moment:%H:%M}" if moment.date() == datetime.now().date() else f"{moment:%d %b}"

    def _time(self, wire: Wire) -> str:
        last = self._last(wire)
        return last.at if last else ""

    def measure(self, wire: Wire, text: str) -> None:
        """Keep a reading with its time and who took it."""
        now = datetime.now().astimezone().isoformat(timespec="seconds")
        reading = continuity_reading(wire, read_ohm(text), now, self._page.store.job.settings)
        self._page.store.do(f"Reading of {wire.code}", lambda job: edits.record(job, reading))
        if not plan_known(self._page.analysis):
            return
        verdict = self._page.analysis.proof[wire.code]
        failed = verdict.outcome not in ("passed", "not measured")
        self._page.notice.say(f"{wire.code}: {verdict.text}" if failed else "")


class WireTable(ThingsTable[Wire]):
    """A line for each wire; what the meter says is typed, and judged at once."""

    def __init__(self, page: StagePage) -> None:
        lines = WireLines(page)
        super().__init__(ThingsModel(lines.columns(), lambda w: w.code), "Continuity list")
        self.lines = lines
        self.enter_goes_down = True
        self.picked.connect(page.hand.pick)
        self.refused.connect(page.notice.say)
        self.macro = page.macro
