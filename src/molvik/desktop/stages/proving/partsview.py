"""What each part shows by itself, unplugged, as a table beside the meter."""

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.stages.page import StagePage
from molvik.desktop.widgets.small import CheckedField, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.parsing.quantities import read_ohm
from molvik.proving.parts import PartTest, line_words, part_tests

WORDS = (
    "Each part by itself, unplugged. Figures are its own where they were entered under Circuits, "
    "else usual ones."
)


class PartsView(QWidget):
    """The tests of parts, and what ohms across a network's two wires mean."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        columns: list[Column[PartTest]] = [
            Column("Part", lambda test: test.device, width=60, mono=True),
            Column("Name", lambda test: test.name, width=160, grow=2),
            Column("Between", lambda test: test.between, width=130, grow=1),
            Column("What", lambda test: test.what, width=150, grow=1),
            Column("Expect", lambda test: test.expect, width=220, grow=2),
        ]
        self.model: ThingsModel[PartTest] = ThingsModel(
            columns, lambda test: f"{test.device} {test.between} {test.what}"
        )
        self.table: ThingsTable[PartTest] = ThingsTable(self.model, "Parts by themselves")
        self.table.picked.connect(lambda key: page.hand.pick(key.split()[0]) if key else None)
        tip = "Ohms between the two wires of a network, all plugged in, power off"
        self.line = CheckedField("Network line", tip, self._judge)
        self.line.setPlaceholderText("60")
        self.line.setMaximumWidth(90)
        self.line.refused.connect(page.notice.say)
        self.line.taken.connect(lambda: page.notice.say(""))
        self.said = label("", "look", wrap=True)
        asked = row(label("Network line, Ω", "faint"), self.line, self.said)
        asked.setStretch(2, 1)
        self.setLayout(column(label(WORDS, "faint", wrap=True), self.table, asked))

    def show_parts(self, analysis: Analysis) -> None:
        """Show what the parts of the job as it stands should show."""
        self.model.show_things(list(part_tests(analysis.job)))
        self.follow(self._page.hand.subject)

    def follow(self, subject: str) -> None:
        """Bring the first test of the part in hand into view, unless one of its tests is chosen."""
        if self.table.current_key().split(" ")[0] == subject:
            return
        first = next((test for test in self.model.things if test.device == subject), None)
        if first is not None:
            self.table.pick(self.model.key(first))

    def _judge(self, text: str) -> None:
        if not text.strip():
            self.said.setText("")
            return
        ohm = read_ohm(text)
        self.said.setText(line_words(1e9 if ohm is None else ohm))
