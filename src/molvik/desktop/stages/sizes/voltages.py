"""The job at another voltage: each wire and each part then, and the step that goes there."""

from collections.abc import Callable

from PySide6.QtWidgets import QDialog, QTabWidget, QVBoxLayout, QWidget

from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.small import button, choice, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.electrical.conductor import area_mm2
from molvik.electrics import Electrics
from molvik.model.job import Job
from molvik.sizes.voltage import PartThen, WireThen, parts_then, wires_then, with_sizes
from molvik.stopping import may_stop
from molvik.wording import counted, figures


class VoltageDialog(QDialog):
    """Compares the job's voltage with another."""

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self._task: Task | None = None
        self.wires: tuple[WireThen, ...] = ()
        now = store.job.settings.system_v
        self.setWindowTitle(f"From {now:g} V to another voltage")
        self.resize(1040, 640)
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
        whole.addLayout(
            row(label("To", "faint"), self.volts, label("sizes in", "faint"), self.system, 1)
        )
        whole.addWidget(self.about)
        whole.addWidget(self.tabs, 1)
        whole.addWidget(
            label(
                "The same power at every load. Fuses are left as they are: their "
                "findings say which no longer do. Battery off first.",
                "faint",
                wrap=True,
            )
        )
        whole.addLayout(row(1, button("Close", "Change nothing (Esc)", self.reject), self.act))
        self.look()

    def _columns(self) -> list[Column[WireThen]]:
        def share(value: float | None) -> str:
            return "" if value is None else f"{value:.1%}"

        return [
            Column("Wire", lambda it: it.wire, width=56, mono=True),
            Column("Function", lambda it: it.function, width=170),
            Column("Now", lambda it: f"{figures(it.now_a)} A", width=76, sort=lambda it: it.now_a),
            Column(
                "Then", lambda it: f"{figures(it.then_a)} A", width=76, sort=lambda it: it.then_a
            ),
            Column(
                "Drop now",
                lambda it: share(it.now),
                width=82,
                sort=lambda it: it.now or 0.0,
                tip="Along this wire, as a share of the voltage",
            ),
            Column(
                "Drop then", lambda it: share(it.then), width=82, sort=lambda it: it.then or 0.0
            ),
            Column(
                "Size",
                lambda it: str(it.size or ""),
                width=84,
                sort=lambda it: area_mm2(it.size) if it.size else 0.0,
            ),
            Column(
                "Enough",
                lambda it: "" if it.passes is None else "yes" if it.passes else "no",
                width=66,
                role=lambda it: "proved" if it.passes else "stop",
            ),
            Column(
                "What it needs",
                lambda it: it.says,
                width=300,
                tip="Each path is put right where that takes least copper, so not every wire "
                "that fails has to change",
            ),
        ]

    def look(self) -> None:
        """Compare with the chosen voltage."""
        analysis = self._store.analysis
        volts = float(self.volts.currentData())
        system = self.system.currentData()
        self.parts.show_things(list(parts_then(analysis.job, volts)))
        times = analysis.job.settings.system_v / volts
        self.current = f"{times:g} times the current for the same power."
        self.about.setText(f"{self.current} Solving the job at {volts:g} V …")
        self.wires = ()
        self.model.show_things([])
        self.act.setEnabled(False)
        self._stop()

        def work(stop: Callable[[], bool]) -> tuple[WireThen, ...]:
            def solve(job: Job) -> Electrics:
                return Electrics(job, analysis.electrics)

            with may_stop(stop):
                return wires_then(analysis.job, analysis.electrics, volts, system, solve)

        self._task = Task(work, self)
        self._task.done.connect(self._show)
        self._task.failed.connect(lambda error: self.about.setText(f"{self.current} {error}"))
        self._task.start()

    def _show(self, wires: tuple[WireThen, ...]) -> None:
        self._task = None
        self.wires = wires
        self.model.show_things(list(wires))
        failing = sum(one.passes is False for one in wires)
        others = sum(one.needs is not None for one in wires)
        self.about.setText(
            f"{self.current} {failing} of {counted(len(wires), 'wire')} would no longer be enough; "
            f"{others} get another size."
        )
        self.act.setEnabled(True)

    def _stop(self) -> None:
        if self._task is not None:
            self._task.stop()
            self._task = None

    def done(self, result: int) -> None:
        """Close, and drop what is still being solved."""
        self._stop()
        super().done(result)

    def change(self) -> None:
        """Take the job to the other voltage."""
        volts, wires = float(self.volts.currentData()), self.wires
        self._store.do(f"To {volts:g} V", lambda job: with_sizes(job, volts, wires))
        self.accept()
