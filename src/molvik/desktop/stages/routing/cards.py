"""Routing in hand: a loom to build, one of its ends or breakouts, one of its stretches."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QSizePolicy

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import Shown
from molvik.desktop.panel.facts import Facts
from molvik.desktop.panel.fieldcard import FieldCard
from molvik.desktop.stages.page import known_now
from molvik.desktop.stages.routing.facts import run_facts
from molvik.desktop.stages.routing.sectionview import SectionView
from molvik.desktop.store import Store
from molvik.model.refs import Ref
from molvik.model.routing import LoomNode, NewLoom, Run
from molvik.model.routing_edits import Laid, find
from molvik.typed.field import Field, Typed, place_text
from molvik.typed.routed import JOINT_FIELDS, LOOM_FIELDS, RUN_FIELDS, type_routed
from molvik.wording import figures, some

MOST = 10
"""So many wires are named; the rest are counted."""


class RouteCard(FieldCard):
    """A thing of a loom to build. every: its fields."""

    every: tuple[Field[Any], ...] = ()

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.lay(self.every)

    def text_of(self, field: Field[Any], thing: Any) -> str:
        """Return what a field shows; a joint with its name."""
        return place_text(field, thing, self.store.job.routing.joints)

    def typed(self, thing: Laid, field: Field[Any], text: str) -> Typed:
        """Read what was typed into a field of it."""
        return type_routed(self.store.job, self.store.analysis.network, "", thing, field, text)


class LoomCard(RouteCard):
    """A loom to build."""

    every = LOOM_FIELDS

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a loom with what it comes to."""
        loom = find(analysis.job.routing, ref.code)
        assert isinstance(loom, NewLoom)
        self.show_fields(loom, self.every)
        routing = analysis.job.routing
        own = {joint.code for joint in routing.joints if joint.loom == loom.code}
        runs = [run for run in routing.runs if run.start in own or run.finish in own]
        length = sum(run.length_m or 0.0 for run in runs)
        facts: Facts = [("Stretches", f"{len(runs)}, {length:.2f} m together", "")]
        return Shown(loom.name, f"{loom.code} · loom to build", facts, removable=True)


class JointCard(RouteCard):
    """An end or a breakout."""

    every = JOINT_FIELDS

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a joint with what sits there."""
        joint = find(analysis.job.routing, ref.code)
        assert isinstance(joint, LoomNode)
        self.show_fields(joint, self.every)
        graph = analysis.electrics.ways.graph
        kind = joint.kind or ("end" if graph.is_end(joint.code) else "breakout")
        loom = find(analysis.job.routing, joint.loom)
        names = analysis.network.parts
        facts: Facts = [
            ("Sits there" if n == 0 else "", f"{code} {names[code].name}", "")
            for n, code in enumerate(joint.carries)
            if code in names
        ]
        facts.append(
            ("Stretches", " ".join(run for _, run, _ in graph.at[joint.code]) or "none", "")
        )
        of = loom.name if isinstance(loom, NewLoom) else joint.loom
        return Shown(joint.name, f"{joint.code} · {kind} · {of}", facts, removable=True)


class RunCard(RouteCard):
    """A stretch, with what lies in it as it looks cut across."""

    every = RUN_FIELDS

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.view = SectionView()
        self.view.picked.connect(hand.pick)
        self.view.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.view.setFixedHeight(self.HEIGHT.height())
        self.above = self.view

    HEIGHT = QSize(260, 220)

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a stretch with what lies in it."""
        run = find(analysis.job.routing, ref.code)
        assert isinstance(run, Run)
        self.show_fields(run, self.every)
        joints = analysis.electrics.ways.graph.joints
        ends = [joints[code].name if code else "?" for code in (run.start, run.finish)]
        length = "length not known" if run.length_m is None else f"{figures(run.length_m)} m"
        title, under = " to ".join(ends), f"{run.code} · {length}"
        if not known_now(analysis):
            self.view.hide()
            return Shown(title, under, [("Wires", "are being found …", "")], removable=True)
        section = analysis.sections[run.code]
        self.view.show_section(section, analysis.network.wires, run.covering)
        self.view.setVisible(bool(section.widths_mm))
        hot = analysis.job.routing.zone(run.zone).hot_c is not None
        air = f"as hot as {section.air_c:.0f} °C, {section.place}"
        facts: Facts = [("Air", air, "look" if hot else "")]
        if run.length_from != "typed" and run.length_m is not None:
            facts.append(("Length is", run.length_from, ""))
        wires = section.wires
        facts.append(("Wires", f"{len(wires)}: {some(wires, MOST)}" if wires else "none", ""))
        facts += run_facts(analysis, run)
        if section.unknown:
            facts.append(("No size", some(section.unknown, MOST), "look"))
        return Shown(title, under, facts, removable=True)
