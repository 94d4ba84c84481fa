"""Proving: the continuity list. Type what the meter says; it is judged at once."""

from functools import reduce

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QTabWidget, QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import StagePage, plan_known
from molvik.desktop.stages.proving.causesview import CausesView
from molvik.desktop.stages.proving.codesview import CodesView
from molvik.desktop.stages.proving.isolationview import IsolationView
from molvik.desktop.stages.proving.itemsview import JOINTS, PARTS, ItemsView
from molvik.desktop.stages.proving.jobbench import JobBench
from molvik.desktop.stages.proving.mapview import MapView
from molvik.desktop.stages.proving.meterfields import MeterFields
from molvik.desktop.stages.proving.planview import PlanView, keep_reading
from molvik.desktop.stages.proving.powerview import PowerView
from molvik.desktop.stages.proving.practiceview import PracticeView
from molvik.desktop.stages.proving.wiretable import WireTable
from molvik.desktop.store import Store
from molvik.desktop.threads.reading import read_aside
from molvik.desktop.widgets.fold import Fold
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import label, row
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.logbook.clock import now_text
from molvik.model import edits
from molvik.model.job import Reading
from molvik.model.parts import End, Wire
from molvik.parsing.tables import RawTable
from molvik.proving.jointtests import joint_tests
from molvik.proving.parttests import part_tests
from molvik.proving.points import Point
from molvik.proving.readings import reading_of, seen_of_table
from molvik.wording import counted

CAUTION = (
    "Battery disconnected, fuses and relays out, plugs off at both ends. Never measure ohms on a "
    "live wire; leave airbag and high-voltage circuits to those licensed for them."
)
GROUPS = (
    ("LOOM UNPLUGGED", ("Wires", "Plan", "Isolation", "Parts", "Joints", "Map")),
    ("WITH POWER", ("Power", "Codes")),
    ("FIND THE FAULT", ("Causes", "Practice")),
)
"""What is proved, in the order it is done in."""

LEAST_ROWS = 6
"""So many of the list on the left are always in view, in a low window."""

WAITS = "The job is being looked over …"


class ProvingPage(StagePage):
    """What is proved on the left, its tests in the middle, the bench below them."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Proving")
        self.groups = WorkList("What is proved", tight=True)
        self.groups.chosen.connect(self._turn_to)
        self.work_column.addWidget(self.groups)
        self.list = WorkList("Which tests", tight=True)
        self.list.chosen.connect(lambda _: self._show_tests())
        self.work_column.addWidget(self.list)
        self.meter = MeterFields(store, self.notice)
        scroll = QScrollArea()  # in a low window its fields have less room than they want
        scroll.setObjectName("side")
        self.meter.setObjectName("side")
        scroll.setWidget(self.meter)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setMinimumHeight(90)
        self._meter_fold = Fold("Meter", scroll)
        self.work_column.addWidget(self._meter_fold)
        self._waits = False
        self._done = ""
        self.work_column.addStretch(1)
        self.table = WireTable(self)
        self.model = self.table.things
        self.caution = label(CAUTION, "faint", wrap=True)
        self.empty = Guide(
            "Here the loom is proved with a meter before it sees power: expected and read, wire by "
            "wire.",
            "It lists every wire that has both ends: run wires first. Codes of a computer are read "
            "without any, under Codes.",
            First(
                "Go to Circuits",
                "Run wires between parts (Ctrl+4)",
                self.wish("circuits", "show_ends"),
            ),
        )
        self.bench = JobBench(self)
        self._build_tabs()
        self.middle.addLayout(row(self.title, self.about, 1))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.caution)
        self.middle.addWidget(self.empty)
        self.middle.addWidget(self.tabs, 1)
        self.middle.addWidget(self.bench, 1)
        self.middle.addStretch(0)

    def _build_tabs(self) -> None:
        self.plan = PlanView(self)
        self.map = MapView(self)
        self.map.wanted.connect(self._show_measurement)
        self.plan.instruments.ran.connect(self._show_found)
        self.bench.read_meter = self._read_meter
        self.bench.keep_ohm = self._keep_ohm
        self.causes = CausesView(self, self.plan.isolate)
        self.causes.proposed.connect(self._show_probes)
        self.power = PowerView(self)
        self.power.chosen.connect(self._show_probes)
        self.codes = CodesView(self)
        self.practice = PracticeView(self)
        self.parts = ItemsView(self, "Parts by themselves", PARTS, lambda a: part_tests(a.job))
        self.joints = ItemsView(self, "Joints", JOINTS, lambda a: joint_tests(a.network, a.plan))
        self.bench.keep_part = self.parts.read
        self.parts.table.picked.connect(lambda _: self._show_probes())
        self.isolation = IsolationView(self)
        self._views: dict[str, QWidget] = {
            "Wires": self.table,
            "Plan": self.plan,
            "Isolation": self.isolation,
            "Parts": self.parts,
            "Joints": self.joints,
            "Map": self.map,
            "Power": self.power,
            "Codes": self.codes,
            "Causes": self.causes,
            "Practice": self.practice,
        }
        # Which is shown is chosen on the left: a bar of ten tabs is read by nobody.
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("What is proved")
        self.tabs.setDocumentMode(True)
        self.tabs.tabBar().hide()
        for name, view in self._views.items():
            self.tabs.addTab(view, name)
        self.tabs.currentChanged.connect(lambda _: self._show_tab())

    def _turn_to(self, name: str) -> None:
        """Show what was chosen on the left."""
        self.tabs.setCurrentWidget(self._views[name])

    def _show_groups(self) -> None:
        """Show what there is to prove in three groups, each with what waits there."""
        plan = self.analysis.plan if not self._waits else None
        judged = plan.judged.values() if plan is not None else ()
        to_do = sum(one.outcome != "passed" for one in judged)
        failed = sum(one.outcome not in ("passed", "not measured") for one in judged)
        waits = {
            "Wires": (self._done.removesuffix(" proved"), "faint"),
            "Plan": (f"{to_do} to do" if to_do else "", "live_text"),
            "Map": (f"{failed} failed" if failed else "", "stop"),
        }
        entries = []
        for heading, names in GROUPS:
            entries.append(Work(heading, heading, heading=True))
            entries += [Work(name, name, *waits.get(name, ("", "faint"))) for name in names]
        self.groups.show_work(entries)
        self.groups.choose(self.tabs.tabText(self.tabs.currentIndex()))
        self.groups.setMaximumHeight(len(entries) * self.groups.row_px + 6)
        self.groups.setMinimumHeight(LEAST_ROWS * self.groups.row_px)

    def take_readings(self, raw: RawTable, name: str) -> None:
        """Record the readings that a table lists, as one step; what cannot be read is said."""
        analysis, at = self.analysis, now_text()
        leads = self.store.job.settings.meter_leads_ohm

        def take(readings: list[Reading]) -> None:
            if readings:
                self.store.do(
                    f"Read {counted(len(readings), 'reading')}",
                    lambda job: reduce(edits.record, readings, job),
                )
            self.notice.say("")

        read_aside(
            self,
            f"Reading {name}",
            lambda _: [
                reading_of(one, analysis.plan, at, leads)
                for one in seen_of_table(raw, analysis.network)
            ],
            take,
            lambda why: self.notice.say(f"{name} was not taken: {why}"),
        )

    def refresh(self) -> None:
        """Show the tests as the job stands."""
        self._waits = not plan_known(self.analysis)
        self.meter.show_settings()
        if self._waits:  # what is shown stays, until the job was looked over
            self.about.setText(WAITS)
            self.empty.hide()
            return
        self.table.lines.take_over()
        proof = self.table.lines.shown.proof
        counts = {"not measured": 0, "passed": 0, "failed": 0, "moved": 0}
        for verdict in proof.values():
            counts[verdict.outcome if verdict.outcome in counts else "failed"] += 1
        entries = [
            Work("all", "All", str(len(proof))),
            Work("not measured", "To measure", str(counts["not measured"]), "live_text"),
            Work("passed", "Passed", str(counts["passed"]), "proved"),
            Work("failed", "Failed", str(counts["failed"]), "stop"),
            Work("moved", "Moved since", str(counts["moved"]), "live_text"),
        ]
        self.list.show_work(entries)
        self.list.setFixedHeight(len(entries) * self.list.row_px + 6)
        self._done = f"{counts['passed']} of {len(proof)} proved" if proof else ""
        self._show_tests()
        self._show_tab()

    def _show_tab(self) -> None:
        """Show what is in view; the causes are looked for only while they are looked at."""
        shown = self.tabs.currentWidget()
        for view in (
            self.plan,
            self.isolation,
            self.map,
            self.parts,
            self.joints,
            self.power,
            self.codes,
            self.causes,
        ):
            if view is shown:
                view.show_job(self.analysis)
        unplugged = shown in (self.table, self.plan, self.isolation, self.map)
        by_wires = unplugged or shown is self.causes
        self._show_groups()
        self.list.setVisible(shown is self.table)
        if shown is self.practice and self.practice.round is None:
            self.practice.look_up_record()
        for widget in self._views.values():  # only what is shown may ask for room
            up = QSizePolicy.Policy.Preferred if widget is shown else QSizePolicy.Policy.Ignored
            widget.setSizePolicy(widget.sizePolicy().horizontalPolicy(), up)
        settings = self.store.job.settings
        self._meter_fold.show_title(
            f"Meter {settings.meter_leads_ohm:g} Ω · {settings.meter_step_ohm:g} Ω"
        )
        self.empty.setVisible(by_wires and not self.table.lines.shown.proof and not self._waits)
        self.caution.setVisible(unplugged)
        self._show_probes()

    def fill_in(self) -> None:
        """The job was looked over: the plan of a large one is made."""
        if self._waits:
            self.refresh()
        else:
            self._show_tab()

    def leave(self) -> None:
        """Let go of the causes that were played through: they hold the solution of the job."""
        self.causes.forget()

    def forget(self) -> None:
        """The job was closed: let go of what was found of it."""
        self._waits = False
        self.table.lines.forget()
        self.plan.instruments.forget()
        self.causes.forget()
        self.power.forget()
        for view in (self.map, self.codes, self.parts, self.joints):
            view.forget()
        self.practice.forget()
        self.bench.forget()
        super().forget()

    def _read_meter(self, red: End, black: End) -> bool:
        """Read the meter that is connected into the measurement of the plan there; return whether
        there is one, and a meter that can be read now.
        """
        if not plan_known(self.analysis):
            return False
        found = (
            one for one in self.analysis.plan.measurements if {one.red, one.black} == {red, black}
        )
        one = next(found, None)
        if one is None:
            return False

        def came() -> None:
            reading = self.analysis.plan.reading(one)
            if reading is not None:
                self.bench.show_read(reading.value)

        return self.plan.instruments.read_for(one, came)

    def _keep_ohm(self, red: End, black: End, text: str) -> bool:
        """Keep ohms that were read on the bench as of the wire, or the measurement of the plan,
        whose ends the probes are at; return whether there is one. Raises ValueError.
        """
        if self._waits:
            return False
        places = {red, black}
        network = self.analysis.network
        wire = next((w for w in network.wires_at.get(red, ()) if set(w.ends) == places), None)
        if wire is not None and wire.code in self.table.lines.shown.proof:
            self.table.lines.measure(wire, text)
            return True
        every = self.analysis.plan.measurements
        one = next((one for one in every if {one.red, one.black} == places), None)
        if one is None:
            return False
        judged = keep_reading(self, one, text)
        failed = judged.outcome not in ("passed", "not measured")
        self.notice.say(f"{one.red} to {one.black}: {judged.text}" if failed else "")
        return True

    def probe_in_hand(self) -> None:
        """Put the red probe on what is in hand, with the key in run."""
        self.tabs.setCurrentWidget(self.causes)
        self._show_tab()
        self.bench.probe(self.hand.subject)

    def _show_measurement(self, key: str) -> None:
        """Show a measurement in the plan."""
        self.tabs.setCurrentWidget(self.plan)
        self.plan.show_measurement(key)

    def _show_found(self, wrong: bool) -> None:
        """A tester went through the plan: show where it failed."""
        if wrong:
            self.tabs.setCurrentWidget(self.map)

    def _show_tests(self) -> None:
        wanted = self.list.key() or "all"
        proof = self.table.lines.shown.proof
        known = ("not measured", "passed", "moved")

        def belongs(code: str) -> bool:
            outcome = proof[code].outcome
            kind = outcome if outcome in known else "failed"
            # The wire just measured stays in view until the list is chosen again.
            return wanted in ("all", kind)

        wires = [w for w in self.table.lines.shown.wires if w.code in proof and belongs(w.code)]
        self.model.show_things(wires)
        self._show_probes()

    def follow(self, subject: str) -> None:
        """Show what is in hand, wherever it is measured."""
        if subject in self.table.lines.shown.proof:
            if self.model.row_of(subject) < 0:
                self.list.choose("all")
                self._show_tests()
            self.table.pick(subject)
        self.plan.follow(subject)
        self.parts.follow(subject)
        self.joints.follow(subject)
        self._show_probes()

    def _show_probes(self) -> None:
        wire = self.analysis.network.wires.get(self.hand.subject)
        test = self.table.lines.shown.tests.get(self.hand.subject)
        doubt = f" · {test.wire}: {test.doubt}" if test and test.doubt else ""
        self.about.setText(WAITS if self._waits else self._done + doubt)
        shown = self.tabs.currentWidget()
        probed = shown not in (self.joints, self.map, self.codes, self.practice)
        self.bench.setVisible(
            probed and (bool(self.table.lines.shown.proof) or shown is self.power)
        )
        if self.bench.isHidden():
            return
        step = self.power.current if shown is self.power else None
        if step is not None:
            self.bench.show_step(step)
            return
        part = self.parts.current if shown is self.parts else None
        if part is not None:
            self.bench.show_part(part)
            return
        proposal = self.causes.diagnosis.next if self.causes.diagnosis else None
        point = proposal.point if shown is self.causes and proposal is not None else None
        self.bench.show_ends(self._probe_ends(wire, point), self.hand.subject, point)

    def _probe_ends(self, wire: Wire | None, point: Point | None) -> tuple[End, End] | None:
        """Return where the probes go: at the reading that is proposed, at the chosen measurement,
        else at the ends of a wire; None for nowhere.
        """
        if point is not None:
            return (point.red, point.black) if point.what in ("resistance", "voltage") else None
        chosen = self.plan.current if self.tabs.currentWidget() is self.plan else None
        if chosen is not None and wire and wire.code in chosen.wires:
            return chosen.red, chosen.black
        return wire.ends if wire else None
