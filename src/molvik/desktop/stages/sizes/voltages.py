"""The job at another voltage: each wire and each part then, and the step that goes there."""

from PySide6.QtWidgets import QDialog, QTabWidget, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, choice, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.electrical.conductor import area_mm2
from molvik.sizes.voltage import PartThen, WireThen, parts_then, wires_then, with_sizes
from molvik.wording import figures


class VoltageDialog(QDialog):
    """Compares the job's voltage with another."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self.wires: tuple[WireThen, ...] = ()
        now = store.job.settings.system_v
        self.setWindowTitle(f"From {now:g} V to another voltage")
        self.resize(900, 600)
        others = [(f"{volts:g} V", str(volts)) for volts in (6.0, 12.0, 24.0) if volts != now]
        self.volts = choice("To", others)
        self.system = choice("Sizes", [("mm²", "metric"), ("AWG", "awg")])
        for combo_box in (self.volts, self.system):
            combo_box.currentIndexChanged.connect(lambda _: self.look())
        self.about = label("", wrap=True)
        self.model: ThingsModel[WireThen] = ThingsModel(
            self._columns(), lambda wire_then: wire_then.wire
        )
        self.table: ThingsTable[WireThen] = ThingsTable(self.model, "Wires at the other voltage")
        parts: list[Column[PartThen]] = [
            Column("Part", lambda part_then: part_then.code, width=56, mono=True),
            Column("Name", lambda part_then: part_then.name, width=190),
            Column("Needs", lambda part_then: part_then.what, width=560),
        ]
        self.parts: ThingsModel[PartThen] = ThingsModel(
            parts, lambda part_then: part_then.code or "fuses"
        )
        self.parts_table: ThingsTable[PartThen] = ThingsTable(self.parts, "Parts")
        self.tabs = QTabWidget()
        self.tabs.addTab(self.table, "Wires")
        self.tabs.addTab(self.parts_table, "Parts")
        tip = "Voltage, typed currents and the sizes that would fail, as one step: can be undone"
        self.act = button("Change the job", tip, self.change, "action")
        whole = QVBoxLayout(self)
        whole.addLayout(row(label("To", "faint"), self.volts, label("sizes in", "faint"),
                            self.system, 1))  # fmt: skip
        whole.addWidget(self.about)
        whole.addWidget(self.tabs, 1)
        whole.addWidget(label("The same power at every load. Fuses are left as they are: their "
                              "findings say which no longer do. Battery off first.", "faint",
                              wrap=True))  # fmt: skip
        whole.addLayout(row(1, button("Close", "Change nothing (Esc)", self.reject), self.act))
        self.look()

    def _columns(self) -> list[Column[WireThen]]:
        def share(value: float | None) -> str:
            return "" if value is None else f"{value:.1%}"

        return [
            Column("Wire", lambda it: it.wire, width=56, mono=True),
            Column("Function", lambda it: it.function, width=190),
            Column("Now", lambda it: f"{figures(it.now_a)} A", width=76, sort=lambda it: it.now_a),
            Column("Then", lambda it: f"{figures(it.then_a)} A", width=76,
                   sort=lambda it: it.then_a),
            Column("Drop now", lambda it: share(it.now), width=82, sort=lambda it: it.now or 0.0,
                   tip="Along this wire, as a share of the voltage"),
            Column("Drop then", lambda it: share(it.then), width=82,
                   sort=lambda it: it.then or 0.0),
            Column("Size", lambda it: str(it.size or ""), width=84,
                   sort=lambda it: area_mm2(it.size) if it.size else 0.0),
            Column("Does it", lambda it: "" if it.passes is None else "yes" if it.passes else "no",
                   width=66, role=lambda it: "proved" if it.passes else "stop"),
            Column("Needs", lambda it: str(it.needs or "none passes"), width=96),
        ]  # fmt: skip

    def look(self) -> None:
        """Compare with the chosen voltage."""
        analysis = self._store.analysis
        volts = float(self.volts.currentData())
        self.wires = wires_then(
            analysis.network, analysis.sizing_cases, volts, self.system.currentData()
        )
        self.model.show_things(list(self.wires))
        self.parts.show_things(list(parts_then(analysis.job, volts)))
        failing = sum(wire_then.passes is False for wire_then in self.wires)
        times = analysis.job.settings.system_v / volts
        self.about.setText(
            f"{times:g} times the current for the same power. {failing} of {len(self.wires)} wires "
            "would no longer do."
        )

    def change(self) -> None:
        """Take the job to the other voltage."""
        volts, wires = float(self.volts.currentData()), self.wires
        self._store.do(f"To {volts:g} V", lambda job: with_sizes(job, volts, wires))
        self.accept()
