"""The bundle of a wire: what lies in it, where it runs and what covers it, to be chosen."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.panel.facts import FactList
from molvik.desktop.stages.sizes.facts import bundle_facts
from molvik.desktop.widgets.small import choice, column, label, row
from molvik.model.parts import Wire
from molvik.reference.coverings import COVERINGS
from molvik.reference.places import PLACES
from molvik.sizes.bundles import bundle_summary
from molvik.wording import counted


class BundleCard(QWidget):
    """A bundle. changed(name, field, value): the user chose its place or its covering."""

    changed = Signal(str, str, str)

    def __init__(self) -> None:
        super().__init__()
        self._name = ""
        self.facts = FactList()
        self.place = choice("Place of the bundle", [(p.name, p.code) for p in PLACES.values()])
        self.covering = choice(
            "Covering of the bundle", [(kind.name, kind.key) for kind in COVERINGS.values()]
        )
        self.none = label(
            "It is in no bundle. Type one on the right, under the rest of its facts, "
            "and its neighbours' heat counts.",
            "faint",
            wrap=True,
        )
        self.way = label("", wrap=True)
        for field, box in (("place", self.place), ("covering", self.covering)):
            box.activated.connect(
                lambda _, field=field, box=box: self.changed.emit(
                    self._name, field, box.currentData()
                )
            )
        self._choices = QWidget()
        self._choices.setLayout(
            column(
                row(label("It runs", "faint"), self.place, 1),
                row(label("Covered with", "faint"), self.covering, 1),
            )
        )
        self.setLayout(column(self.none, self.way, self.facts, self._choices, 1))

    def show_wire(self, analysis: Analysis, wire: Wire) -> None:
        """Show the bundle of a wire."""
        self._name = wire.bundle
        way = analysis.electrics.ways.of.get(wire.code)
        runs = [step.run for step in way.steps] if way and not way.problem else []
        self.way.setVisible(bool(runs))
        self.none.setVisible(not wire.bundle and not runs)
        self.facts.setVisible(bool(wire.bundle or runs))
        self._choices.setVisible(bool(wire.bundle) and not runs)
        if runs:
            self._show_way(analysis, runs)
            return
        if not wire.bundle:
            return
        known = analysis.job.bundle(wire.bundle)
        found = bundle_summary(
            analysis.electrics.network, wire.bundle, analysis.electrics.worst_amps
        )
        self.facts.show_facts([("Name", wire.bundle, ""), *bundle_facts(found)])
        self.place.setCurrentIndex(max(0, self.place.findData(known.place)))
        self.covering.setCurrentIndex(max(0, self.covering.findData(known.covering)))

    def _show_way(self, analysis: Analysis, runs: list[str]) -> None:
        """Show the stretches a wire lies in: these count, not a bundle that is typed."""
        words = "It lies in {} of the looms to build: that counts, not a bundle that is typed."
        self.way.setText(words.format(" ".join(runs)))
        self.facts.show_facts(
            [
                (
                    run,
                    f"{counted(len(inside.wires), 'wire')}, {inside.over_mm:.1f} mm over all, "
                    f"{inside.air_c:.0f} °C, {inside.place}",
                    "",
                )
                for run in runs
                if (inside := analysis.sections.get(run))
            ]
        )
