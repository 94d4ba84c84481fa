"""One wire below the table: the verdict, what it uses of what it may, the fuse's curve, working."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.analysis import Analysis
from molvik.desktop.panel.facts import FactList, Facts
from molvik.desktop.stages.page import AT_ONCE
from molvik.desktop.stages.sizes.bars import CriteriaView
from molvik.desktop.stages.sizes.bundlecard import BundleCard
from molvik.desktop.stages.sizes.curveplot import CurvePlot
from molvik.desktop.stages.sizes.facts import asked_facts, fuse_facts, short_facts
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import button, column, label, row, set_role
from molvik.electrical.conductor import area_mm2, equivalence_text
from molvik.model.parts import Wire, WireSize
from molvik.sizes.advice import Advice, advise
from molvik.sizes.assessment import verdict
from molvik.sizes.fuses import FuseWork
from molvik.sizes.sizing_case import SizingCase
from molvik.sizes.wire import judge
from molvik.wording import figures

SOON_MS = 60
"""In a large job advice is looked for after the page was painted, not beside it."""

CAUTION = (
    "Still air, all loads at their worst at once, and what is not known taken on the safe side. "
    "Battery off first, the fuse at the source. Local regulations, the vehicle maker's data and "
    "licensed practice come first."
)


class WireDetail(QWidget):
    """The verdict on one wire. used(size): the user takes a size that is offered. failed(text)."""

    used = Signal(object)
    failed = Signal(str)

    def __init__(self, bundle: BundleCard, other: QPushButton) -> None:
        super().__init__()
        self._advising: Task | None = None
        self._wanted: Callable[[], Advice] | None = None
        self._take: Callable[[Advice], None] | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._look_for_advice)
        self._awg: WireSize | None = None
        self._metric: WireSize | None = None
        self.verdict = label("", wrap=True)
        self.verdict.setObjectName("verdict")
        self.bars = CriteriaView()
        self.unknown = label("", "look", wrap=True)
        self.use_metric = button("", "", lambda: self.used.emit(self._metric), "action")
        self.use_awg = button("", "", lambda: self.used.emit(self._awg), "action")
        self.figures, self.advice = FactList(), FactList()
        self.plot = CurvePlot()
        self.no_plot = label("", "faint", wrap=True)
        self.no_plot.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.bundle = bundle
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Fuse and wire, working, bundle")
        self._add_tabs()
        left = _card(
            label("USED OF WHAT IS ALLOWED", "head"),
            self.bars,
            label("the mark is the limit", "faint"),
            self.unknown,
            1,
            row(self.use_metric, self.use_awg, 1),
            row(other, 1),
        )
        self.cards = QWidget()
        both = QHBoxLayout(self.cards)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(12)
        both.addWidget(left, 2)
        both.addWidget(_card(self.tabs), 3)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 8, 0, 0)
        whole.setSpacing(8)
        whole.addWidget(self.verdict)
        whole.addWidget(self.cards, 1)

    def _add_tabs(self) -> None:
        curve = QWidget()
        curve.setLayout(column(self.plot, self.no_plot))
        body = QWidget()
        body.setLayout(
            column(
                label("SIZE AND FUSE", "head"),
                self.advice,
                label("FIGURES", "head"),
                self.figures,
                label(CAUTION, "faint", wrap=True),
                1,
            )
        )
        working = QScrollArea()
        working.setWidgetResizable(True)
        working.setWidget(body)
        working.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for widget, name, tip in (
            (curve, "Fuse and wire", "Time against current: which gives way first"),
            (working, "Working", "What was assumed, and what follows from it"),
            (self.bundle, "Bundle", "What lies round it, where it runs, and what covers it"),
        ):
            self.tabs.setTabToolTip(self.tabs.addTab(widget, name), tip)

    def show_none(self, words: str) -> None:
        """Show that there is no wire to judge."""
        self.stop()
        self.verdict.setText(words)
        set_role(self.verdict, "")
        self.cards.hide()

    def show_wire(self, analysis: Analysis, wire: Wire) -> None:
        """Show the verdict on a wire. Of a large job advice comes from the background."""
        self.stop()
        self.cards.show()
        requirements = analysis.electrics.sizing_cases[wire.code]
        sizing = analysis.electrics.sizings.get(wire.code)
        words, role = verdict(wire, sizing, analysis.electrics.least_sizes.get(wire.code))
        self.verdict.setText(words)
        set_role(self.verdict, role)
        missing = sizing.unknown if sizing else ("its size",)
        self.unknown.setVisible(bool(missing))
        self.unknown.setText(f"Not judged yet: type {' and '.join(missing)} on the right.")
        self.bars.show_criteria(sizing.criteria if sizing else ())
        self.bundle.show_wire(analysis, wire)
        feed = analysis.network.feed(wire)
        work = analysis.electrics.fuse_work.get(feed.fuse) if feed else None
        network = analysis.electrics.network
        if len(analysis.job.wires) <= AT_ONCE:
            self._show_advice(wire, requirements, work, advise(network, wire, requirements, work))
            return
        for push_button in (self.use_awg, self.use_metric):
            push_button.hide()
        self.figures.show_facts(asked_facts(wire, requirements))
        self.advice.show_facts([("Smallest", "is being found …", ""), *fuse_facts(work)])
        self._show_plot(None, "The curves are being drawn …")
        self._wanted = partial(advise, network, wire, requirements, work)
        self._take = partial(self._show_advice, wire, requirements, work)
        self._soon.start(SOON_MS)

    def _look_for_advice(self) -> None:
        """Look for what is advised on the wire in view, in the background."""
        wanted = self._wanted
        assert wanted is not None  # the timer is stopped with it
        self._advising = Task(lambda stop: wanted(), self)
        self._advising.done.connect(self._take)
        self._advising.failed.connect(lambda error: self.failed.emit(f"No advice: {error}"))
        self._advising.start()

    def stop(self) -> None:
        """Drop what is asked for the wire that was in view."""
        self._soon.stop()
        self._wanted = self._take = None
        if self._advising is not None:
            self._advising.stop()
            self._advising = None

    def _show_advice(
        self, wire: Wire, requirements: SizingCase, work: FuseWork | None, advice: Advice
    ) -> None:
        """Show what is advised on the wire in view."""
        self._advising = None
        self.figures.show_facts([*asked_facts(wire, requirements), *short_facts(advice.short)])
        self.advice.show_facts([*self._offered(wire, requirements, advice), *fuse_facts(work)])
        lacks = "It has no size yet." if wire.size is None else "There is no fuse before it."
        if wire.size is not None and " and " in requirements.fuse_from:
            lacks = f"{requirements.fuse_from} feed it together: there is no one curve."
        self._show_plot(advice, lacks)

    def _show_plot(self, advice: Advice | None, otherwise: str) -> None:
        curves = advice.curves if advice else None
        self.plot.show_curves(curves)
        self.plot.setVisible(curves is not None)
        self.no_plot.setVisible(curves is None)
        self.no_plot.setText(otherwise)

    def _offered(self, wire: Wire, requirements: SizingCase, advice: Advice) -> Facts:
        """Offer the smallest sizes, and return what is advised."""
        facts: Facts = []
        self._awg, self._metric = advice.awg, advice.metric
        for push_button, size in ((self.use_awg, self._awg), (self.use_metric, self._metric)):
            known = requirements.load_a is not None and size is not None
            push_button.setVisible(known and size != wire.size)
            if known and size is not None:
                _offer(push_button, size, wire, requirements)
        if requirements.load_a is not None:
            both = " or ".join(str(size) for size in (self._awg, self._metric) if size)
            none = (
                "none without a fuse"
                if requirements.bare
                else "no single size passes: split the load"
            )
            facts.append(("Smallest", both or none, ""))
        if wire.size is not None:
            facts.append(("The same in", equivalence_text(wire.size), ""))
            facts.append(("Fuse", _fuse_words(requirements, advice), ""))
            allowed = [f"{figures(amps)} A {kind}" for kind, amps in advice.most_a.items()]
            facts.append(("At most", " or ".join(allowed), ""))
        return facts


def _fuse_words(requirements: SizingCase, advice: Advice) -> str:
    """Say which fuse carries the load and protects the wire."""
    inrush, fuse = advice.starts, advice.fuse
    if requirements.load_a is None:
        return "type the current to have one chosen"
    if fuse is None:
        return "none both carries this load and protects this wire: take a thicker wire"
    start = f", its start of {inrush[0]:.0f} A too," if inrush else ""
    return f"{fuse[1]:g} A {fuse[0]} carries the load{start} and protects the wire"


def _offer(at: QPushButton, size: WireSize, wire: Wire, requirements: SizingCase) -> None:
    """Offer a size: one that is needed loudly, a thinner one quietly, with what it would use."""
    thinner = wire.size is not None and area_mm2(size) < area_mm2(wire.size)
    set_role(at, "" if thinner else "action")
    binding = judge(size, requirements).binding
    at.setText(f"{size} would do" if thinner else f"Use {size}")
    tip = f"Give {wire.code} this size (can be undone)"
    if thinner and binding:
        tip += f". Thinner than what is there: {binding.used:.0%} of {binding.name} would be used"
    at.setToolTip(tip)


def _card(*things: object) -> QFrame:
    card = QFrame()
    card.setObjectName("card")
    inner = column(*things, spacing=6)  # type: ignore[arg-type]
    inner.setContentsMargins(14, 10, 14, 10)
    card.setLayout(inner)
    return card
