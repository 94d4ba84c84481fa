"""Sizes: wires by how they stand, the verdict on the one in hand, its smallest size, its fuse."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QSplitter

from molvik.analysis import Analysis
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage, known_now
from molvik.desktop.stages.sizes.bundlecard import BundleCard
from molvik.desktop.stages.sizes.detail import WireDetail
from molvik.desktop.stages.sizes.groups import ALL, Grouped
from molvik.desktop.stages.sizes.loomtable import columns
from molvik.desktop.stages.sizes.many import ResizeDialog
from molvik.desktop.stages.sizes.substituting import SubstituteDialog
from molvik.desktop.stages.sizes.voltages import VoltageDialog
from molvik.desktop.store import Store
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import ThingsModel
from molvik.desktop.widgets.worklist import WorkList
from molvik.model import edits, wire_edits
from molvik.model.job import Job
from molvik.model.parts import Wire, WireSize

NOTHING = Analysis(Job(""))
USED = 5
"""The column that the table is sorted by at first."""


class SizesPage(StagePage):
    """Groups of wires on the left, their table in the middle, one of them judged below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Sizes")
        self._code = ""
        self._waits = False
        self._judged = store.analysis
        """What the table shows: of the job as it stood when its wires were last judged."""
        self._grouped = Grouped(NOTHING)  # a page is built beside the work: it judges nothing yet
        self._chose = False
        """Whether the group in view is one that was chosen for this job."""
        self._listed = ""
        """The group that the table shows."""
        self.list = WorkList("Which wires")
        self.list.chosen.connect(lambda _: self._choose_group())
        self.work_column.addWidget(self.list, 1)
        self.many = button(
            "Set all to fit…",
            "Give every wire that fails, or every wire, the smallest size that passes",
            self.set_many,
            "action",
        )
        self.other = button(
            "Another wire…",
            "What a wire of another size, insulation or colour comes to in its place",
            self.substitute,
            "quiet",
        )
        self.voltage = button(
            "Another voltage…",
            "From 6 V to 12 V and back: currents, voltage drop, lamps, coil, cables",
            self.change_voltage,
        )
        self.judging = label("The wires are being judged again …", "faint")
        self.judging.hide()
        self._build_table()
        bundle = BundleCard()
        bundle.changed.connect(self._change_bundle)
        self.detail = WireDetail(bundle, self.other)
        self.detail.used.connect(self._use)
        self.detail.failed.connect(self.notice.say)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.table)
        split.addWidget(self.detail)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(0, 1)
        split.setSizes([210, 380])
        self.middle.addLayout(row(self.title, self.about, 1, self.voltage, self.many))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.judging)
        self._split = split
        self._build_guide()
        self.middle.addWidget(self.guide)
        self.middle.addWidget(split, 1)
        self.middle.addStretch(0)

    def _build_guide(self) -> None:
        self.guide = Guide(
            "Here every wire is held against what it carries: its voltage drop, how hot it gets, "
            "and whether its fuse protects it.",
            "It needs wires with a size, a length and a load. A single question needs no job: "
            "quick sums answer it.",
            First(
                "Quick sums…",
                "One question, one answer: 14 awg 5 m 12 A (Ctrl+U)",
                self.wish("", "open_sums"),
            ),
            First(
                "Go to Circuits",
                "Run wires between parts (Ctrl+4)",
                self.wish("circuits", "show_ends"),
            ),
        )

    def _build_table(self) -> None:
        self.model: ThingsModel[Wire] = ThingsModel(
            columns(lambda: self._judged), lambda wire: wire.code
        )
        self.table: ThingsTable[Wire] = ThingsTable(self.model, "Wires with their verdicts")
        self.table.sortByColumn(USED, Qt.SortOrder.DescendingOrder)
        self.table.picked.connect(self.hand.pick)
        self.table.doubleClicked.connect(lambda _: self.detail.tabs.setCurrentIndex(1))

    def refresh(self) -> None:
        """Show the wires by how they stand, and the verdict on one."""
        self._waits = not known_now(self.analysis)
        self.judging.setVisible(self._waits)
        if self._waits:
            if self._judged is NOTHING:  # else what was judged last stays until then
                self.model.show_things([])
            return
        self._judged = self.analysis
        self._grouped = Grouped(self.analysis)
        wanted = self.list.key() if self._chose else ""
        self.list.show_work(self._grouped.entries())
        if not self._grouped.counts[wanted]:
            wanted = "fails" if self._grouped.counts["fails"] and not self._chose else ALL
        self._chose = bool(self._judged.job.wires)
        self.list.choose(wanted)
        self._show_group(in_turns=len(self._judged.job.wires) > AT_ONCE)

    def _show_group(self, *, in_turns: bool = False) -> None:
        """Show the wires of the group that is chosen. in_turns: the one below in its own turn."""
        key = self.list.key() or ALL
        title, about = self._grouped.title(key)
        self.title.setText(title if self._judged.job.wires else "Sizes")
        self.about.setText(about if self._judged.job.wires else "")
        failing = self._grouped.can_be_set
        self.many.setText(f"Set all {failing} to fit…" if failing > 1 else "Set many…")
        # A wire that was mended stays where it was until another is looked at.
        kept = self._code if key == self._listed and self.model.row_of(self._code) >= 0 else ""
        self._listed = key
        self.model.show_things(
            [
                w
                for w in self._judged.job.wires
                if w.code == kept or self._grouped.holds(key, w.code)
            ]
        )
        if self.model.row_of(self._code) < 0:
            self._code = self.model.key(self.model.things[0]) if self.model.things else ""
        if in_turns:
            QTimer.singleShot(0, self._show)  # what is typed meanwhile comes between
        else:
            self._show()

    def _choose_group(self) -> None:
        """Show another group, and take its first wire in hand if the one in hand is not in it."""
        before = self._code
        self._show_group()
        if self._code != before:
            self.hand.pick(self._code)

    def begin(self) -> None:
        """Another job was opened: what fails in it is shown first."""
        super().begin()
        self.model.show_things([])  # not the wires of the job before, while these are judged
        self.detail.show_none("The wires are being judged …")
        self._chose = False
        self._code = ""

    def leave(self) -> None:
        """Let go of the verdicts."""
        self._judged, self._grouped = NOTHING, Grouped(NOTHING)

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        super().forget()
        self.detail.stop()
        self.leave()
        self._chose = False

    def fill_in(self) -> None:
        """Show the verdicts that were waited for."""
        if self._waits:
            self.refresh()

    def follow(self, subject: str) -> None:
        """Show the wire in hand; among all of them when it is not in the group in view."""
        if subject not in self.analysis.network.wires:
            return
        self._code = subject
        if self._waits:
            return
        if not self._grouped.holds(self.list.key() or ALL, subject):
            self.list.choose(ALL)
            self._show_group()
        else:
            self._show()

    def _show(self) -> None:
        if self._waits:
            return
        wire = self.analysis.network.wires.get(self._code)
        for push_button in (self.other, self.many, self.voltage):
            push_button.setEnabled(wire is not None)
        self.guide.setVisible(wire is None)
        self._split.setVisible(wire is not None)
        if wire is None:
            self.detail.show_none("No wire yet. Run one in Circuits (Ctrl+4).")
            return
        self.table.pick(wire.code)
        self.detail.show_wire(self.analysis, wire)

    def _change_bundle(self, name: str, field: str, value: str) -> None:
        """Change the place or the covering of the bundle in view."""
        self.attempt(
            lambda: self.store.do(
                f"Bundle {name}", lambda job: wire_edits.change_bundle(job, name, **{field: value})
            )
        )

    def set_many(self) -> None:
        """Open the list of what would change."""
        ask(ResizeDialog(self, self.store))

    def substitute(self) -> None:
        """Ask what another wire comes to in the place of the one in view."""
        if self._code:
            ask(SubstituteDialog(self, self.store, self._code))

    def change_voltage(self) -> None:
        """Compare the job with another voltage."""
        ask(VoltageDialog(self, self.store))

    def _use(self, size: WireSize | None) -> None:
        code = self._code
        if size is not None:
            self.attempt(
                lambda: self.store.do(
                    f"{code} to {size}", lambda job: edits.change_wire(job, code, size=size)
                )
            )
