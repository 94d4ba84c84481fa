"""What is alive: a device's circuit, every device in every state of the key, and why."""

from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QFrame,
    QListWidget,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from molvik.analysis import Analysis
from molvik.circuits.drain import Drain, drain, parked
from molvik.circuits.route import route
from molvik.circuits.simulate import Load, OperatingPoint
from molvik.circuits.symptoms import symptoms
from molvik.circuits.why import Explanation, why
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.controls import Controls
from molvik.desktop.stages.circuits.inorder import OrderView
from molvik.desktop.stages.circuits.routeview import RouteView
from molvik.desktop.stages.page import AT_ONCE
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.drawer import Drawer
from molvik.desktop.widgets.notice import Notice
from molvik.desktop.widgets.small import ShortLabel, button, copyable, label, row, set_role
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work
from molvik.devices.states import CRANK, PRIME, RUN, STATES, State
from molvik.model.parts import Device
from molvik.netlist.faults import in_words
from molvik.parsing.quantities import amps_text

COLUMNS = tuple(state for state in STATES if state is not PRIME)
"""States with a column of their own; the first seconds show in that of run."""

SHOWN = ("off", "acc.", "run", "crank", "running", "key off", "isolated")
ROLES = {"alive": "live_text", "weak": "stop", "dead": "faint", "at rest": "faint"}
"""Up to so many wires a state is solved while the key is turned, beyond on another thread."""


REST_MS = 60


class AliveView(QWidget):
    """The key on top, the chosen circuit, the table of devices against states below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self._store, self._hand = store, hand
        self._tasks: list[Task] = []
        self._all: dict[str, OperatingPoint] = {}
        self._sound: dict[str, OperatingPoint] = {}
        self._now: OperatingPoint | None = None
        self._later = QTimer(self, singleShot=True, interval=REST_MS)
        self._later.timeout.connect(self._solve_all)
        self.controls = Controls(store, hand)
        self.controls.changed.connect(self.refresh)
        self.controls.shown.connect(self._choose)
        self._build_banner()
        self.route = RouteView()
        self.route.canvas.picked.connect(hand.pick)
        self.route.canvas.asked.connect(self.controls.offer)
        self.notice = Notice(over=True)
        self.order = OrderView(store, self.controls, self._run)
        self.order.said.connect(self.notice.say)
        self._build_tabs()
        self.code = ""
        upper = QWidget()
        above = QVBoxLayout(upper)
        above.setContentsMargins(0, 2, 0, 0)
        above.setSpacing(4)
        above.addWidget(self.controls.top)
        above.addWidget(self.banner)
        above.addWidget(self.route, 1)
        above.addWidget(self.notice)
        lower = QWidget()
        below = QVBoxLayout(lower)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(4)
        below.addWidget(self.tabs, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(upper)
        split.addWidget(lower)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(0, 1)
        self._split = split
        self.tabs.fold()
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(split)

    def _build_banner(self) -> None:
        self.banner = QFrame()
        self.banner.setObjectName("said")
        self.heading = ShortLabel()
        self.heading.setObjectName("handTitle")
        self.how = label("", "faint")
        self.said = label("", wrap=True)
        self.because = label("", wrap=True)
        for text_label in (self.said, self.because):
            text_label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.show_me = button("Show me", "Select the cause", self._show_cause, "quiet")
        inner = QVBoxLayout(self.banner)
        inner.setContentsMargins(12, 4, 8, 4)
        inner.setSpacing(2)
        head = row(self.heading, self.how, self.said)
        head.setStretch(2, 1)
        inner.addLayout(head)
        reason = row(self.because, self.show_me)
        reason.setStretch(0, 1)
        inner.addLayout(reason)
        self._cause = ""

    def _build_tabs(self) -> None:
        self.model: ThingsModel[Device] = ThingsModel(self._columns(), lambda device: device.code)
        self.table: ThingsTable[Device] = ThingsTable(self.model, "What is alive")
        self.table.verticalHeader().setDefaultSectionSize(24)  # eight of them are to be in view
        self.table.picked.connect(self._choose)
        self.table.clicked.connect(lambda index: self._clicked(index.column()))
        self.differs = self._list("What is different")
        self.idle = self._list("Drawn with the key and every switch off")
        self.summary = self.controls.summary
        self.tabs = Drawer("What is alive, in tables")
        self.tabs.addTab(self.table, "In every state")
        self.tabs.addTab(self.differs, "What is different")
        self.tabs.addTab(self.idle, "With the key off")
        self.tabs.addTab(self.order, "In order")

    @staticmethod
    def _list(name: str) -> QListWidget:
        made = QListWidget()
        made.setAccessibleName(name)
        made.setWordWrap(True)
        copyable(made)
        return made

    # columns

    def _load(self, state: State, device: Device) -> Load | None:
        found = self._all.get(state.name)
        return found.load.get(device.code) if found else None

    def _columns(self) -> list[Column[Device]]:
        def text(state: State, device: Device) -> str:
            load = self._load(state, device)
            if load is None:
                return ""
            if load.state == "alive":
                return f"{abs(load.volts):.1f} V"
            first = self._load(PRIME, device)
            primed = state is RUN and first is not None and first.state == "alive"
            return "prime" if primed else load.state

        def role(state: State, device: Device) -> str:
            load = self._load(state, device)
            if load is None:
                return ""
            if state is CRANK and load.state != "alive" and self._needs(device.code):
                return "stop"
            return ROLES[load.state]

        def amps(device: Device) -> str:
            load = self._now.load.get(device.code) if self._now else None
            return f"{load.amps:.2f} A" if load and load.amps >= 0.005 else ""

        columns: list[Column[Device]] = [
            Column("Code", lambda d: d.code, width=44, mono=True),
            Column("Device", lambda d: d.name, width=130, grow=1),
        ]
        columns += [
            Column(
                name,
                partial(text, state),
                width=62,
                role=partial(role, state),
                tip=state.name,
                figures=True,
            )
            for state, name in zip(COLUMNS, SHOWN, strict=True)
        ]
        return [
            *columns,
            Column("Now", amps, width=62, unit="A", tip="The current in the state that is set"),
        ]

    def _needs(self, code: str) -> bool:
        crank = self._all.get(CRANK.name)
        return crank is not None and any(device.code == code for device in crank.lost)

    # solving

    def refresh(self) -> None:
        """Solve the job as it stands: the chosen state at once, the others when they are ready."""
        for task in self._tasks:
            task.stop()
        self._tasks = []
        self._later.stop()
        self.controls.refresh()
        analysis = self._store.analysis
        if not any(device.kind == "battery" for device in analysis.job.devices):
            self._empty()
            return
        state = self.controls.state()
        if len(analysis.job.wires) <= AT_ONCE:
            self._show_now(analysis, analysis.operating_point(state))
        else:
            self._run(
                lambda: analysis.operating_point(state), lambda one: self._show_now(analysis, one)
            )
        self._later.start()

    def _solve_all(self) -> None:
        """Solve every state, once the key has come to rest: it would slow the turning down."""
        analysis = self._store.analysis
        named = [self.controls.conditions(state) for state in STATES]
        sound = [state._replace(faults=frozenset()) for state in named]
        faulty = bool(self.controls.faults)
        rest = parked(analysis.job)._replace(faults=frozenset(self.controls.faults))

        def solve() -> tuple[list[OperatingPoint], list[OperatingPoint], Drain]:
            every = [analysis.operating_point(state) for state in named]
            whole = [analysis.operating_point(state) for state in sound] if faulty else every
            return every, whole, drain(analysis.operating_point(rest))

        self._run(solve, lambda found: self._show_all(analysis, *found))

    def _run(self, solve: object, shown: object) -> None:
        assert callable(solve)
        task = Task(lambda _: solve(), self)
        task.done.connect(shown)
        task.failed.connect(self._failed)
        self._tasks.append(task)
        task.start()

    def _failed(self, error: object) -> None:
        self.notice.say(f"The job was not solved. {error}")

    def _empty(self) -> None:
        self._all, self._now = {}, None
        self.model.show_things([])
        self.controls.devices.show_work([])
        self.heading.setText("Nothing can be alive yet")
        self.how.setText("")
        self.said.setText("There is no battery in the job.")
        self.because.setText(
            "Add one in Wires, with the devices it feeds: then turn the key and see what is alive."
        )
        self.because.show()
        self.show_me.hide()
        set_role(self.banner, "alive")
        self.banner.show()
        self.route.show_lines(())
        self.summary.setText("")

    def _show_now(self, analysis: Analysis, alive: OperatingPoint) -> None:
        """Show the state that the controls ask for."""
        if analysis is not self._store.analysis:
            return
        self._now = alive
        self.controls.caught = alive.state.key == "crank" and not alive.no_start
        left_out = (f"{code} has {why}." for code, why in sorted(alive.refused.items()))
        said = f"The job was not solved. {alive.problem}" if alive.problem else " ".join(left_out)
        self.notice.say(f"Left out: {said}" if said and not alive.problem else said)
        known = {load.device for load in alive.loads}
        if self.code not in known:
            lost = next((device.code for device in alive.lost if device.code in known), "")
            self.code = lost or next((load.device for load in alive.loads), "")
        self.model.show_things([d for d in analysis.job.devices if d.code in known])
        self.controls.devices.show_work(
            [
                Work(load.device, load.name, self._stands(load), ROLES[load.state])
                for load in alive.loads
            ]
        )
        self._show_circuit()

    @staticmethod
    def _stands(load: Load) -> str:
        """Say in a few letters how a device stands."""
        return f"{abs(load.volts):.1f} V" if load.state == "alive" else load.state

    def _show_all(
        self,
        analysis: Analysis,
        every: list[OperatingPoint],
        sound: list[OperatingPoint],
        idle: Drain,
    ) -> None:
        if analysis is not self._store.analysis:
            return
        self._all = {point.state.name: point for point in every}
        self._sound = {point.state.name: point for point in sound}
        isolator = any(device.kind == "isolator" for device in analysis.job.devices)
        self.table.setColumnHidden(1 + len(COLUMNS), not isolator)
        self.model.show_things(self.model.things)
        self.table.pick(self.code)
        self.summary.setText(self._in_short())
        self._show_differences()
        self._show_idle(analysis, idle)
        self.order.refresh()
        if self._hand.subject:
            self._hand.picked.emit(self._hand.subject)  # there is more to say of it now

    def _in_short(self) -> str:
        crank = self._all[CRANK.name]
        words = ["Cranked, the engine starts."]
        if crank.no_start:
            words = [f"Cranked, the engine does not start: {crank.no_start}."]
        blown: dict[str, list[str]] = {}
        for state, point in self._all.items():
            for fuse in sorted(point.blown):
                blown.setdefault(f"{fuse} blows", []).append(state)
            for relay in point.chatter:
                blown.setdefault(f"{relay} chatters", []).append(state)
        words += [f"{what}: {', '.join(states)}." for what, states in blown.items()]
        return " ".join(words)

    def _show_differences(self) -> None:
        self.differs.clear()
        if not self.controls.faults:
            self.differs.addItem("Break something above: what a person would see is told here.")
            return
        job = self._store.job
        broken = ", ".join(in_words(fault, job) for fault in self.controls.faults)
        changes = symptoms(self._sound, self._all) or ("Nothing that could be seen.",)
        self.differs.addItems([f"{broken}:", *changes])

    def _show_idle(self, analysis: Analysis, found: Drain) -> None:
        limit = analysis.job.settings.drain_limit_a
        self.idle.clear()
        verdict = "within" if found.total_a <= limit else "above"
        self.idle.addItem(
            f"{amps_text(found.total_a)} with the key and every switch off, {verdict} the "
            f"{amps_text(limit)} that may flow."
        )
        self.idle.addItems(
            [f"{name} ({code}): {amps_text(amps)}" for code, name, amps in found.items]
        )

    # the chosen circuit

    def _choose(self, code: str) -> None:
        if code and code != self.code:
            self.code = code
            self.table.pick(code)
            self._show_circuit()
        if code:
            self._hand.pick(code)

    def _clicked(self, column: int) -> None:
        if 2 <= column < 2 + len(COLUMNS):
            self.controls.show_state(COLUMNS[column - 2])

    def follow(self, subject: str) -> None:
        """Show the circuit of what is in hand, if it is a device that can be alive."""
        if self._now is not None and subject in self._now.load and subject != self.code:
            self.code = subject
            self.table.pick(subject)
            self._show_circuit()
        elif self._now is not None:
            self.route.canvas.mark(subject)

    def _show_circuit(self) -> None:
        alive, code = self._now, self.code
        if alive is None or code not in alive.load:
            return
        load = alive.load[code]
        self.controls.devices.choose(code)
        said = why(alive, code)
        self.heading.setText(load.name)
        self.how.setText(f"{code} · {alive.state.name} · {load.state}")
        turns = alive.state.key == "crank" or alive.state.running
        missed = turns and any(device.code == code for device in alive.lost)
        self._say(said, load, wanted=missed or load.state == "weak")
        self.route.show_lines(route(alive, code), self._hand.subject)

    def _say(self, said: Explanation, load: Load, *, wanted: bool) -> None:
        """Say why a load is as it is; in red only what is dead while it should live."""
        dead = load.state in ("dead", "weak")
        verb = {"dead": "Why is it dead?", "weak": "Why is it weak?"}.get(load.state, "Alive.")
        lines = list(said.lines)
        first = lines.pop(0) if lines else ""
        self.said.setText(first if not dead else f"{verb}  {first}")
        self.because.setText(" ".join([*lines, said.remedy]).strip())
        self._cause = said.cause
        self.show_me.setVisible(bool(said.cause) and dead)
        self.because.setVisible(bool(self.because.text()))
        set_role(self.said, "strong")
        set_role(self.banner, "dead" if dead and wanted else "alive")
        self.banner.show()

    def _show_cause(self) -> None:
        if self._cause:
            self._hand.pick(self._cause)
