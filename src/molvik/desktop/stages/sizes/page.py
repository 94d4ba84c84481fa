"""Sizes: for one wire, each criterion with what is in hand, the smallest size, and its fuse."""

import math

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from molvik.desktop.facts import FactList, Facts
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.sizes.many import ResizeDialog
from molvik.desktop.store import Store
from molvik.desktop.theme import colour, font
from molvik.desktop.widgets.curveplot import CurvePlot
from molvik.desktop.widgets.small import button, label, row, set_role
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.electrical.conductor import area_mm2, equivalence_text, resistance_20_ohm_per_m
from molvik.electrical.fusing import largest_protecting_a
from molvik.model import edits
from molvik.model.parts import Wire, WireSize
from molvik.quantities import ohm_text
from molvik.sizes.curves import curves
from molvik.sizes.short import FarShort, far_short
from molvik.sizes.wire import (
    Criterion,
    Question,
    Sizing,
    drop_v,
    fuse_for,
    judge,
    smallest,
    temperature_c,
)

BAR_HEIGHT = 40


class CriteriaView(QWidget):
    """A bar for each criterion: how much of its limit is used, and what is in hand."""

    def __init__(self) -> None:
        super().__init__()
        self._criteria: tuple[Criterion, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_criteria(self, criteria: tuple[Criterion, ...]) -> None:
        """Show criteria, the tightest first."""
        self._criteria = tuple(sorted(criteria, key=lambda one: one.in_hand))
        self.setFixedHeight(max(1, len(criteria)) * BAR_HEIGHT)
        words = [f"{c.name}: {c.has} of {c.limit}, {hand_text(c)}" for c in self._criteria]
        self.setAccessibleName("Criteria. " + ". ".join(words))
        self.setToolTip("\n".join(f"{c.name}: {c.why}" for c in self._criteria))
        self.update()

    def sizeHint(self) -> QSize:
        """Return the height of all bars."""
        return QSize(400, max(1, len(self._criteria)) * BAR_HEIGHT)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the bars."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, width = 112.0, self.width() - 112.0 - 132.0
        vertical = Qt.AlignmentFlag.AlignVCenter
        for index, one in enumerate(self._criteria):
            top = index * BAR_HEIGHT
            painter.setFont(font(13, bold=True))
            painter.setPen(colour("ink"))
            painter.drawText(QRectF(0, top, left, 20), vertical, one.name)
            painter.setFont(font(12))
            text = f"{one.has}  of  {one.limit}"
            room = QRectF(left, top, self.width() - left - 132, 20)
            shown = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(room.width())
            )
            painter.drawText(room, vertical, shown)
            used = min(1.0, max(0.0, 1 - one.in_hand))
            track = QRectF(left, top + 22, width, 8)
            painter.setPen(QPen(colour("line"), 1))
            painter.setBrush(colour("paper"))
            painter.drawRoundedRect(track, 4, 4)
            role = "stop" if not one.passes else "live" if one.in_hand < 0.1 else "proved"
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(role))
            painter.drawRoundedRect(QRectF(left, top + 22, max(8.0, width * used), 8), 4, 4)
            painter.setPen(colour("live_text" if role == "live" else role))
            painter.setFont(font(13, bold=True))
            painter.drawText(
                QRectF(self.width() - 124, top + 15, 124, 22), vertical, hand_text(one)
            )


def hand_text(one: Criterion) -> str:
    """Say what is in hand, or that it fails."""
    if one.passes:
        return f"{one.in_hand:.0%} in hand"
    return f"over by {-one.in_hand:.0%}" if one.in_hand > -9.99 else "far over"


class SizesPage(StagePage):
    """Wires on the left, the least in hand first; the verdict on one in the middle."""

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
        self.caution = label(
            "One wire alone in still air, at a steady current, and the drop of its own length. In "
            "a bundle or under a covering it runs hotter. Local rules and a licensed electrician "
            "come first.",
            "faint",
            wrap=True,
        )
        tip = "Give every wire that fails, or every wire, the smallest size that passes"
        self.many = button("Set many…", tip, self.set_many)
        self.middle.addLayout(
            row(self.title, self.about, 1, self.many, self.use_awg, self.use_metric)
        )
        self.middle.addWidget(self.notice)
        body = QWidget()
        inner = QVBoxLayout(body)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(10)
        inner.addWidget(_card("", self.verdict, self.unknown, self.bars))
        below = QHBoxLayout()
        below.setSpacing(10)
        below.addWidget(_card("FIGURES", self.figures), 1)
        below.addWidget(_card("SIZE AND FUSE", self.advice), 1)
        inner.addLayout(below)
        self.plot = CurvePlot()
        self.plot_card = _card("FUSE AND WIRE, TIME AGAINST CURRENT", self.plot)
        inner.addWidget(self.plot_card)
        inner.addWidget(self.caution)
        inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(body)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.middle.addWidget(scroll, 1)

    def refresh(self) -> None:
        """Show all wires by what they have in hand, and the verdict on one."""
        sizings = self.analysis.sizings
        entries: list[tuple[float, Work]] = []
        for wire in self.store.job.wires:
            name = f"{wire.code}  {wire.function}".strip()
            sizing = sizings.get(wire.code)
            if sizing is None:
                entries.append((2.0, Work(wire.code, name, "no size", "live_text")))
                continue
            tight = sizing.binding
            assert tight is not None  # strength is always judged
            least = tight.in_hand
            if not sizing.passes:
                entries.append((least, Work(wire.code, name, tight.name, "stop")))
            elif sizing.unknown:
                entries.append((1.5, Work(wire.code, name, "unknown", "live_text")))
            else:
                entries.append((least, Work(wire.code, name, f"{least:.0%}", "proved")))
        entries.sort(key=lambda entry: entry[0])
        self.list.show_work([work for _, work in entries])
        if self._code not in self.analysis.network.wires:
            held = self.hand.subject
            known = self.analysis.network.wires
            self._code = held if held in known else (entries[0][1].key if entries else "")
        self._show()

    def follow(self, subject: str) -> None:
        """Show the wire in hand."""
        if subject in self.analysis.network.wires:
            self._code = subject
            self._show()

    def _show(self) -> None:
        wire = self.analysis.network.wires.get(self._code)
        for widget in (self.use_awg, self.use_metric):
            widget.hide()
        if wire is None:
            self.title.setText("Sizes")
            self.about.setText("")
            self.verdict.setText("No wire yet. Run one in Circuits (Ctrl+4).")
            self.bars.show_criteria(())
            self.unknown.hide()
            self.figures.show_facts([])
            self.advice.show_facts([])
            self.plot_card.hide()
            return
        self.list.choose(wire.code)
        asked = self.analysis.questions[wire.code]
        self.title.setText(wire.function or wire.code)
        self.about.setText(f"{wire.code} · {wire.size or 'no size yet'}")
        sizing = judge(wire.size, asked) if wire.size is not None else None
        self._show_verdict(wire, sizing)
        short = far_short(self.analysis.network, wire)
        self.figures.show_facts([*_figures(wire, asked), *_short_facts(short)])
        self._show_advice(wire, asked)
        drawn = curves(self.analysis.network, wire)
        self.plot.show_curves(drawn)
        self.plot_card.setVisible(drawn is not None)

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
            failing = " and ".join(one.name for one in sizing.criteria if not one.passes)
            self.verdict.setText(f"{wire.size} will not do: it fails on {failing}.")
            set_role(self.verdict, "bad")
        else:
            self.verdict.setText(
                f"{wire.size} passes. What binds it is {tight.name}, {hand_text(tight)}."
            )
            set_role(self.verdict, "proved")
        self.bars.show_criteria(sizing.criteria)

    def _show_advice(self, wire: Wire, asked: Question) -> None:
        facts: Facts = []
        self._awg, self._metric = smallest(asked, "awg"), smallest(asked, "metric")
        if asked.load_a is not None:
            both = " or ".join(str(size) for size in (self._awg, self._metric) if size)
            facts.append(("Smallest", both or "no single size passes: split the load", ""))
            for at, size in ((self.use_awg, self._awg), (self.use_metric, self._metric)):
                at.setVisible(size is not None and size != wire.size)
                at.setText(f"Use {size}")
                at.setToolTip(f"Give {wire.code} this size (can be undone)")
        if wire.size is not None:
            facts.append(("The same in", equivalence_text(wire.size), ""))
            fuse = fuse_for(wire.size, asked)
            if asked.load_a is None:
                words = "type the current to have one chosen"
            elif fuse is None:
                words = "none both carries this load and protects this wire: take a thicker wire"
            else:
                words = f"{fuse[1]:g} A {fuse[0]} carries the load and protects the wire"
            facts.append(("Fuse", words, ""))
            allowed = [
                f"{largest_protecting_a(wire.size, asked.kind, asked.ambient_c, kind):.1f} A {kind}"
                for kind in ("blade", "bolt-down")
            ]
            facts.append(("At most", " or ".join(allowed), ""))
        self.advice.show_facts(facts)

    def set_many(self) -> None:
        """Open the list of what would change."""
        ResizeDialog(self, self.store).exec()

    def _use(self, size: WireSize | None) -> None:
        code = self._code
        if size is not None:
            self.attempt(
                lambda: self.store.do(
                    f"{code} to {size}", lambda job: edits.change_wire(job, code, size=size)
                )
            )


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


def _short_facts(short: FarShort | None) -> Facts:
    """Return what a dead short at the wire's far end comes to."""
    if short is None:
        return []
    opens = "it may never open" if math.isinf(short.opens_s) else f"{short.opens_s:.2g} s"
    stands = "for ever" if math.isinf(short.stands_s) else f"{short.stands_s:.2g} s"
    words = (
        f"{short.amps:.0f} A at its far end; {short.fuse} opens after {opens} at its slowest, the "
        f"wire stands it {stands}"
    )
    return [("Shorted", words, "" if short.guarded else "bad")]


def _figures(wire: Wire, asked: Question) -> Facts:
    """Return what is asked and what follows from it."""
    facts: Facts = [
        ("Insulation", f"{asked.kind.name}", ""),
        ("Air", f"{asked.ambient_c:g} °C", ""),
        ("Used for", asked.use.name, ""),
    ]
    if wire.load_a is None and asked.load_a is not None:
        facts.append(("Current", f"{asked.load_a:g} A in its worst state, nobody typed one", ""))
    if wire.size is None:
        return facts
    facts.append(("Copper", f"{area_mm2(wire.size):.2f} mm²", ""))
    per_metre = resistance_20_ohm_per_m(wire.size)
    if asked.length_m is not None:
        whole = ohm_text(per_metre * asked.length_m)
        facts.append(
            ("Resistance", f"{whole} over {asked.length_m:g} m ({per_metre * 1000:.2f} mΩ/m)", "")
        )
    else:
        facts.append(("Resistance", f"{per_metre * 1000:.2f} mΩ/m at 20 °C", ""))
    lost = drop_v(wire.size, asked)
    if lost is not None:
        facts.append(("Drop", f"{lost:.3f} V at {asked.load_a:g} A, hot", ""))
    heat = temperature_c(wire.size, asked)
    if heat is not None:
        role = "bad" if heat > asked.kind.limit_c else ""
        facts.append(("Conductor", f"{heat:.0f} °C of {asked.kind.limit_c:g} °C", role))
    return facts
