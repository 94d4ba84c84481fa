"""Stripping down: choose what the engine must keep, see what can go, and take it out at once."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from molvik.circuits.strip import Stopped, StripPlan, strip, stripped, with_sensors
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import button, column, copyable, label, row
from molvik.devices import kind_of
from molvik.model.job import Job
from molvik.wording import agree, counted


class StripDialog(QDialog):
    """Devices to keep on the left, what comes of it on the right."""

    progressed = Signal(int, int)

    def __init__(self, parent: QWidget, store: Store) -> None:
        super().__init__(parent)
        self._store = store
        self._job: Job = store.job
        self._task: Task | None = None
        self.plan: StripPlan | None = None
        self.setWindowTitle("Strip the loom down")
        self.resize(1080, 680)
        self._build_devices()
        tip = "Computer, injectors, coils, sensors, starter, alternator, and what the engine needs"
        self.engine = button("The engine", tip, self._engine)
        self.none = button("None", "Take all marks away", partial(self._mark, lambda _: False))
        self.sensors = QCheckBox("and the sensors that their computer reads")
        self.sensors.setChecked(True)
        self.sensors.setToolTip(
            "Crank, throttle, coolant: without them an engine does not run as before"
        )
        self.sensors.toggled.connect(lambda _: self._changed())
        self.look = button("Find out", "What must stay for these, and what can go", self.find_out)
        self.stop = button("Stop", "Stop here; nothing is changed", self._stop)
        self.stop.hide()
        self.bar = QProgressBar()
        self.bar.hide()
        self.about = label(
            "Mark everything that must keep working. Its feeds, earths and references stay; all "
            "else can go.",
            wrap=True,
        )
        self.notice = Notice()
        self._build_lists()
        self.act = button(
            "Strip the loom",
            "Delete what can go, as one step that can be undone",
            self.strip_it,
            "action",
        )
        self.act.setEnabled(False)
        left = QWidget()
        left.setLayout(
            column(
                label("KEEP", "head"),
                self.devices,
                self.sensors,
                row(self.engine, self.none, 1, self.look),
            )
        )
        right = QWidget()
        right.setLayout(column(self.about, self.notice, row(self.bar, self.stop), self.tabs))
        both = row(left, right, spacing=14)
        both.setStretch(0, 2)
        both.setStretch(1, 3)
        whole = QVBoxLayout(self)
        whole.addLayout(both, 1)
        whole.addLayout(row(1, button("Cancel", "Change nothing (Esc)", self.reject), self.act))
        self.progressed.connect(self._progress)

    def _build_devices(self) -> None:
        self.devices = QListWidget()
        self.devices.setAccessibleName("What is kept")
        for device in self._job.devices:
            kind = kind_of(device)
            if not (kind.is_load or kind.by_ohm):
                continue
            item = QListWidgetItem(f"{device.name}  ({device.code}, {device.kind})")
            item.setData(Qt.ItemDataRole.UserRole, device.code)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked)
            self.devices.addItem(item)
        self.devices.itemChanged.connect(lambda _: self._changed())

    def _build_lists(self) -> None:
        self.stays, self.goes, self.leads = (QListWidget() for _ in range(3))
        self.tabs = QTabWidget()
        for list_widget, name in (
            (self.stays, "Stays"),
            (self.goes, "Can go"),
            (self.leads, "Hook up"),
        ):
            list_widget.setAccessibleName(name)
            list_widget.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
            list_widget.setWordWrap(True)
            copyable(list_widget)
            self.tabs.addTab(list_widget, name)

    def _mark(self, wanted: Callable[[str], bool]) -> None:
        for index in range(self.devices.count()):
            item = self.devices.item(index)
            on = wanted(str(item.data(Qt.ItemDataRole.UserRole)))
            item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)

    def _engine(self) -> None:
        known = {device.code: device for device in self._job.devices}
        self._mark(lambda code: known[code].needed or kind_of(known[code]).is_engine)

    def keep(self) -> tuple[str, ...]:
        """Return the codes that are marked."""
        items = (self.devices.item(index) for index in range(self.devices.count()))
        return tuple(
            str(item.data(Qt.ItemDataRole.UserRole))
            for item in items
            if item.checkState() == Qt.CheckState.Checked
        )

    def _changed(self) -> None:
        self.plan = None
        self.act.setEnabled(False)

    def find_out(self) -> None:
        """Look on another thread what must stay."""
        job, keep = self._job, self.keep()
        if self.sensors.isChecked():
            keep = with_sensors(job, keep)
        self.notice.say("")
        self._stop()

        def work(stop: Callable[[], bool]) -> StripPlan:
            return strip(job, keep, stop, self.progressed.emit)

        task = Task(work, self)
        task.done.connect(self._show)
        task.failed.connect(self._failed)
        self._task = task
        self.bar.show()
        self.stop.show()
        task.start()

    def _progress(self, done: int, of: int) -> None:
        self.bar.setMaximum(of)
        self.bar.setValue(done)

    def _stop(self) -> None:
        if self._task is not None:
            self._task.stop()
            self._task = None
        self.bar.hide()
        self.stop.hide()

    def _failed(self, error: Exception) -> None:
        self._stop()
        if not isinstance(error, Stopped):
            self.notice.say(str(error))

    def _show(self, plan: StripPlan) -> None:
        self._stop()
        self.plan = plan
        for list_widget in (self.stays, self.goes, self.leads):
            list_widget.clear()
        for code, reason in plan.kept.items():
            also = plan.shared.get(code, ())
            words = f"{self._named(code)}, for {reason}"
            self.stays.addItem(words + (f"; also served {', '.join(also)}" if also else ""))
        self.stays.addItems([f"Without a wire: {why}" for why in plan.held.values()])
        self.goes.addItems([self._named(code) for code in plan.gone])
        names = {part.code: getattr(part, "name", "") for part in self._job.parts()}
        self.goes.addItems([f"{code} {names[code]}".strip() for code in plan.parts])
        for lead in plan.leads:
            self.leads.addItem(f"{lead.wire} at {lead.place}: {lead.what}. Label “{lead.label}”")
        counts = len(plan.kept) + len(plan.held), len(plan.gone) + len(plan.parts), len(plan.leads)
        for index, (name, count) in enumerate(
            zip(("Stays", "Can go", "Hook up"), counts, strict=True)
        ):
            self.tabs.setTabText(index, f"{name} {count}")
        self.about.setText(
            f"{counted(len(plan.kept), 'wire')} {agree(len(plan.kept), 'stays', 'stay')}, "
            f"{counted(len(plan.gone), 'wire')} and {counted(len(plan.parts), 'part')} can go, "
            f"{counted(len(plan.leads), 'wire')} to hook up by hand. Nothing has been deleted yet."
        )
        self.act.setEnabled(bool(plan.gone or plan.parts))

    def _named(self, code: str) -> str:
        wire = self._job.wire(code)
        return f"{code} {wire.function}" if wire else code

    def strip_it(self) -> None:
        """Take out what can go."""
        plan = self.plan
        if plan is None:
            return
        try:
            self._store.do("Strip the loom", lambda job: stripped(job, plan))
        except ValueError as error:
            self.notice.say(str(error))
            return
        self.accept()

    def done(self, result: int) -> None:
        """End what is under way."""
        self._stop()
        super().done(result)
