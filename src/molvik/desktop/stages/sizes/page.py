"""Sizes: for one wire, each criterion with what is in hand, the smallest size, and its fuse."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.desktop.background import Task
from molvik.desktop.dialogs import ask
from molvik.desktop.facts import FactList, Facts
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage, known_now
from molvik.desktop.stages.sizes.bars import CriteriaView
from molvik.desktop.stages.sizes.facts import bundle_facts, figures, fuse_facts, short_facts
from molvik.desktop.stages.sizes.loomtable import columns
from molvik.desktop.stages.sizes.many import ResizeDialog
from molvik.desktop.stages.sizes.substituting import SubstituteDialog
from molvik.desktop.stages.sizes.voltages import VoltageDialog
from molvik.desktop.store import Store
from molvik.desktop.widgets.curveplot import CurvePlot
from molvik.desktop.widgets.small import button, choice, held, label, row, set_role
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.electrical.conductor import area_mm2, equivalence_text
from molvik.model import edits, wire_edits
from molvik.model.parts import Wire, WireSize
from molvik.reference.coverings import COVERINGS
from molvik.reference.places import PLACES
from molvik.sizes.advice import Advice, advise
from molvik.sizes.bundles import bundle_summary
from molvik.sizes.fuses import FuseWork
from molvik.sizes.sizing_case import SizingCase, margin_text
from molvik.sizes.wire import Sizing, judge

SOON_MS = 60
"""In a large job advice is looked for after the page was painted, not beside it."""


class SizesPage(StagePage):
    """Wires on the left, the least in hand first; the verdict on one, or on all, in the middle."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Sizes")
        self.list = WorkList("Wires, least in hand first")
        self.list.chosen.connect(hand.pick)
        self.work_column.addWidget(label("LEAST IN HAND FIRST", "head"))
        self.work_column.addWidget(self.list, 1)
        self._code = ""
        self.verdict = label("", wrap=True)
        self.bars = CriteriaView()
        self.unknown = label("", "look", wrap=True)
        self.figures = FactList()
        self.advice = FactList()
        self.use_awg = button("", "", lambda: self._use(self._awg), "action")
        self.use_metric = button("", "", lambda: self._use(self._metric), "action")
        self._awg: WireSize | None = None
        self._metric: WireSize | None = None
        self.bundle = FactList()
        self.place = choice(
            "Place of the bundle", [(place.name, place.code) for place in PLACES.values()]
        )
        self.covering = choice("Covering of the bundle",
                               [(kind.name, kind.key) for kind in COVERINGS.values()])  # fmt: skip
        self.place.activated.connect(lambda _: self._bundle(place=self.place.currentData()))
        self.covering.activated.connect(
            lambda _: self._bundle(covering=self.covering.currentData())
        )
        self.caution = label(
            "Still air, all loads at their worst at once, and what is not known taken on the safe "
            "side. Battery off first, the fuse at the source. Local rules and a licensed "
            "electrician come first.",
            "faint",
            wrap=True,
        )
        self._build_buttons()
        self.middle.addLayout(row(self.title, self.about, 1, self.use_awg, self.use_metric))
        self._waits = False
        self._advising: Task | None = None
        self._wanted: Callable[[], Advice] | None = None
        self._take: Callable[[Advice], None] | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._look_for_advice)
        self._judged = store.analysis
        """What the table shows: of the job as it stood when its wires were last judged."""
        self.judging = label("The wires are being judged anew …", "faint")
        self.judging.hide()
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.judging)
        self._build_table()
        self.tabs = QTabWidget()
        self.table.doubleClicked.connect(lambda _: self.tabs.setCurrentIndex(0))
        enter = QShortcut(QKeySequence(Qt.Key.Key_Return), self.table)
        enter.setContext(Qt.ShortcutContext.WidgetShortcut)
        enter.activated.connect(lambda: self.tabs.setCurrentIndex(0))
        self.tabs.setAccessibleName("One wire, or all of them")
        self.tabs.addTab(self._one_wire(), "One wire")
        self.tabs.addTab(self.table, "All wires")
        self.tabs.setCornerWidget(held(self.many, self.other, self.voltage))
        self.tabs.currentChanged.connect(self._turn_to)
        self.middle.addWidget(self.tabs, 1)

    def _build_buttons(self) -> None:
        self.many = button("Set many…", "Give every wire that fails, or every wire, the smallest "
                           "size that passes", self.set_many)  # fmt: skip
        self.other = button("Another wire…", "What a wire of another size, insulation or colour "
                            "comes to in its place", self.substitute)  # fmt: skip
        self.voltage = button("Another voltage…", "From 6 V to 12 V and back: currents, drop, "
                              "lamps, coil, cables", self.change_voltage)  # fmt: skip

    def _build_table(self) -> None:
        self.model: ThingsModel[Wire] = ThingsModel(columns(lambda: self._judged),
                                                    lambda wire: wire.code)  # fmt: skip
        self.table: ThingsTable[Wire] = ThingsTable(self.model, "All wires with their verdicts")
        self.table.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        self.table.picked.connect(self.hand.pick)

    def _one_wire(self) -> QWidget:
        body = QWidget()
        inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 8, 0, 0)
        inner.setSpacing(10)
        inner.addWidget(_card("", self.verdict, self.unknown, self.bars))
        self.below = QWidget()
        below = QHBoxLayout(self.below)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(10)
        below.addWidget(_card("FIGURES", self.figures), 1)
        below.addWidget(_card("SIZE AND FUSE", self.advice), 1)
        inner.addWidget(self.below)
        self.plot = CurvePlot()
        self.plot_card = _card("FUSE AND WIRE, TIME AGAINST CURRENT", self.plot)
        inner.addWidget(self.plot_card)
        where = held(label("It runs", "faint"), self.place, label("covered with", "faint"),
                     self.covering)  # fmt: skip
        self.bundle_card = _card("BUNDLE", self.bundle, where)
        inner.addWidget(self.bundle_card)
        inner.addWidget(self.caution)
        inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(body)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return scroll

    def refresh(self) -> None:
        """Show all wires by what they have in hand, and the verdict on one."""
        self._waits = not known_now(self.analysis)
        self.judging.setVisible(self._waits)
        if self._waits:
            return  # what was judged last stays until then
        self._judged = self.analysis
        sizings = self.analysis.sizings
        entries = sorted(
            (_entry(wire, sizings.get(wire.code)) for wire in self.store.job.wires),
            key=lambda entry: entry[0],
        )
        self.list.show_work([work for _, work in entries])
        if self._code not in self.analysis.network.wires:
            subject = self.hand.subject
            known = self.analysis.network.wires
            self._code = subject if subject in known else (entries[0][1].key if entries else "")
        self._fill_table()
        self._show()

    def _turn_to(self, _: int) -> None:
        """Fill the table when it comes into view; what stands beside it is as it was."""
        if not self._waits:
            self._fill_table()

    def _fill_table(self) -> None:
        if self.tabs.currentWidget() is self.table:
            self.model.show_things(list(self._judged.job.wires))
            self.table.pick(self._code)

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        super().forget()
        self._stop_advising()
        self._judged = self.analysis

    def fill_in(self) -> None:
        """Show the verdicts that were waited for."""
        if self._waits:
            self.refresh()

    def follow(self, subject: str) -> None:
        """Show the wire in hand."""
        if subject in self.analysis.network.wires:
            self._code = subject
            if not self._waits:
                self._show()

    def _show(self) -> None:
        self._stop_advising()
        analysis = self.analysis
        wire = analysis.network.wires.get(self._code)
        for widget in (self.use_awg, self.use_metric):
            widget.hide()
        self.other.setEnabled(wire is not None)
        self.many.setEnabled(wire is not None)
        self.voltage.setEnabled(wire is not None)
        self.below.setVisible(wire is not None)
        self.bars.setVisible(wire is not None)
        if wire is None:
            self.title.setText("Sizes")
            self.about.setText("")
            self.verdict.setText("No wire yet. Run one in Circuits (Ctrl+4).")
            set_role(self.verdict, "")
            self.bars.show_criteria(())
            self.unknown.hide()
            self.figures.show_facts([])
            self.advice.show_facts([])
            self.plot_card.hide()
            self.bundle_card.hide()
            return
        self.list.choose(wire.code)
        self.table.pick(wire.code)
        asked = analysis.sizing_cases[wire.code]
        feed = analysis.network.feed(wire)
        work = analysis.fuse_work.get(feed.fuse) if feed else None
        self.title.setText(wire.function or wire.code)
        self.about.setText(f"{wire.code} · {wire.size or 'no size yet'}")
        self._show_verdict(wire, analysis.sizings.get(wire.code))
        self._show_bundle(wire)
        network = analysis.electrics.network
        if len(analysis.job.wires) <= AT_ONCE:
            self._show_advice(wire, asked, work, advise(network, wire, asked, work))
            return
        self.figures.show_facts(figures(wire, asked))
        self.advice.show_facts([("Smallest", "is being looked for …", ""), *fuse_facts(work)])
        self.plot_card.hide()  # it is of the wire before
        self._wanted = partial(advise, network, wire, asked, work)
        self._take = partial(self._show_advice, wire, asked, work)
        self._soon.start(SOON_MS)

    def _look_for_advice(self) -> None:
        """Look for what is advised on the wire in view, in the background."""
        wanted = self._wanted
        assert wanted is not None  # the timer is stopped with it
        self._advising = Task(lambda stop: wanted(), self)
        self._advising.done.connect(self._take)
        self._advising.failed.connect(lambda error: self.notice.say(f"No advice: {error}"))
        self._advising.start()

    def _stop_advising(self) -> None:
        """Drop what is asked for the wire that was in view."""
        self._soon.stop()
        self._wanted = self._take = None
        if self._advising is not None:
            self._advising.stop()
            self._advising = None

    def _show_bundle(self, wire: Wire) -> None:
        self.bundle_card.setVisible(bool(wire.bundle))
        if not wire.bundle:
            return
        analysis = self.analysis
        known = analysis.job.bundle(wire.bundle)
        found = bundle_summary(analysis.electrics.network, wire.bundle, analysis.worst_amps)
        self.bundle.show_facts([("Name", wire.bundle, ""), *bundle_facts(found)])
        self.place.setCurrentIndex(max(0, self.place.findData(known.place)))
        self.covering.setCurrentIndex(max(0, self.covering.findData(known.covering)))

    def _bundle(self, **fields: str) -> None:
        """Change the place or the covering of the bundle in view."""
        wire = self.analysis.network.wires.get(self._code)
        if wire is not None:
            name = wire.bundle
            self.attempt(
                lambda: self.store.do(
                    f"Bundle {name}", lambda job: wire_edits.change_bundle(job, name, **fields)
                )
            )

    def _show_verdict(self, wire: Wire, sizing: Sizing | None) -> None:
        missing = sizing.unknown if sizing else ("its size",)
        self.unknown.setVisible(bool(missing))
        self.unknown.setText(f"Not judged yet: type {' and '.join(missing)} on the right.")
        if sizing is None:
            self.verdict.setText("Type the size on the right, or take the smallest that passes.")
            set_role(self.verdict, "")
            self.bars.show_criteria(())
            return
        tight = sizing.binding
        assert tight is not None
        if not sizing.passes:
            failing = " and ".join(
                criterion.name for criterion in sizing.criteria if not criterion.passes
            )
            self.verdict.setText(f"{wire.size} will not do: it fails on {failing}.")
            set_role(self.verdict, "bad")
        else:
            self.verdict.setText(
                f"{wire.size} passes. What binds it is {tight.name}, {margin_text(tight.margin)}."
            )
            set_role(self.verdict, "proved")
        self.bars.show_criteria(sizing.criteria)

    def _show_advice(
        self, wire: Wire, asked: SizingCase, work: FuseWork | None, advice: Advice
    ) -> None:
        """Show what is advised on the wire in view."""
        self._advising = None
        self.figures.show_facts([*figures(wire, asked), *short_facts(advice.short)])
        self.advice.show_facts([*self._offered(wire, asked, advice), *fuse_facts(work)])
        self.plot.show_curves(advice.curves)
        self.plot_card.setVisible(advice.curves is not None)

    def _offered(self, wire: Wire, asked: SizingCase, advice: Advice) -> Facts:
        """Offer the smallest sizes, and return what is advised."""
        facts: Facts = []
        self._awg, self._metric = advice.awg, advice.metric
        if asked.load_a is not None:
            both = " or ".join(str(size) for size in (self._awg, self._metric) if size)
            facts.append(("Smallest", both or "no single size passes: split the load", ""))
            for push_button, size in ((self.use_awg, self._awg), (self.use_metric, self._metric)):
                push_button.setVisible(size is not None and size != wire.size)
                if size is not None:
                    self._offer(push_button, size, wire, asked)
        if wire.size is not None:
            facts.append(("The same in", equivalence_text(wire.size), ""))
            inrush, fuse = advice.starts, advice.fuse
            if asked.load_a is None:
                words = "type the current to have one chosen"
            elif fuse is None:
                words = "none both carries this load and protects this wire: take a thicker wire"
            else:
                start = f", its start of {inrush[0]:.0f} A too," if inrush else ""
                words = f"{fuse[1]:g} A {fuse[0]} carries the load{start} and protects the wire"
            facts.append(("Fuse", words, ""))
            allowed = [f"{amps:.3g} A {kind}" for kind, amps in advice.most_a.items()]
            facts.append(("At most", " or ".join(allowed), ""))
        return facts

    @staticmethod
    def _offer(push_button: QPushButton, size: WireSize, wire: Wire, asked: SizingCase) -> None:
        """Offer a size: one that is needed loudly, a thinner one quietly, with what it leaves."""
        thinner = wire.size is not None and area_mm2(size) < area_mm2(wire.size)
        set_role(push_button, "quiet" if thinner else "action")
        left = judge(size, asked).binding
        words = f" leaves {left.margin:.0%}" if thinner and left else ""
        push_button.setText(f"{size}{words}" if thinner else f"Use {size}")
        tip = f"Give {wire.code} this size (can be undone)"
        if thinner and left:
            tip += f". It is thinner than what is there: {left.margin:.0%} in hand on {left.name}"
        push_button.setToolTip(tip)

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


def _entry(wire: Wire, sizing: Sizing | None) -> tuple[float, Work]:
    """Return how a wire stands in the list, and where: the least in hand first."""
    name = f"{wire.code}  {wire.function}".strip()
    if sizing is None:
        return 2.0, Work(wire.code, name, "no size", "live_text")
    tight = sizing.binding
    assert tight is not None  # strength is always judged
    if not sizing.passes:
        return tight.margin, Work(wire.code, name, tight.name, "stop")
    if sizing.unknown:
        return 1.5, Work(wire.code, name, "unknown", "live_text")
    return tight.margin, Work(wire.code, name, f"{tight.margin:.0%}", "proved")


def _card(heading: str, *widgets: QWidget) -> QFrame:
    card = QFrame()
    card.setObjectName("card")
    inner = QVBoxLayout(card)
    inner.setContentsMargins(16, 12, 16, 12)
    if heading:
        inner.addWidget(label(heading, "head"))
    for widget in widgets:
        inner.addWidget(widget)
    inner.addStretch(1)
    return card
