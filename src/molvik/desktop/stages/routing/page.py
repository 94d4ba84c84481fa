"""Routing: the looms to build, the ways of wires along them, what each is cut to."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QSplitter, QTabWidget, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.cards.benchcards import TickList, at_the_bench
from molvik.desktop.hand import Hand
from molvik.desktop.stages.page import AT_ONCE, StagePage
from molvik.desktop.stages.routing.boardtools import BoardTools
from molvik.desktop.stages.routing.columns import (
    change_columns,
    joint_columns,
    run_columns,
    wire_columns,
    zone_columns,
)
from molvik.desktop.stages.routing.routeview import RouteView, drawing_of
from molvik.desktop.store import Store
from molvik.desktop.threads.background import Task
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.model import routing_edits
from molvik.model.job import Job
from molvik.model.parts import Wire
from molvik.model.routing import LoomNode, NewLoom, Run, Zone
from molvik.routing.building import building_steps
from molvik.routing.compare import Change
from molvik.routing.drawing import RouteDrawing
from molvik.routing.laying import LAYING
from molvik.steps import Step
from molvik.typed.field import Field
from molvik.typed.routed import NEW, NEW_ZONE, type_routed, type_zone
from molvik.wording import counted

COMPARED = "Beside the old loom"


class RoutingPage(StagePage):
    """Looms on the left; the chosen one drawn to scale, its tables below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "The looms to build")
        self._loom = ""
        self.ticks = TickList(store, LAYING)
        self._task: Task | None = None
        self._seen: Analysis | None = None
        """What is shown is of this job, which lags behind while a large one is computed."""
        self.list = WorkList("Looms")
        self.list.chosen.connect(self._choose_loom)
        self.work_column.addWidget(label("LOOMS", "head"))
        self.work_column.addWidget(self.list, 1)
        self.work_column.addWidget(
            button("Add a loom…", "Engine loom, cab loom, patch loom", self.add_loom)
        )
        self.take_over_button = button(
            "Take over old loom",
            "The loom as found becomes a loom to build, in one step; "
            "from a breakout on when one of it is in hand",
            self.take_over,
        )
        self.work_column.addWidget(self.take_over_button)
        self.view = RouteView()
        self.view.picked.connect(hand.pick)
        self.lengths_button = button(
            "Take these lengths",
            "Every wire that has a route gets its cut length",
            self.take_lengths,
            "action",
        )
        self.bench_button = button(
            "Lay at the bench…",
            "Wire by wire, in an order in which nothing is threaded back: one "
            "card at a time, driven with one hand",
            self.lay_at_the_bench,
        )
        self.guide = Guide(
            "Here the looms are laid out: how long each wire is cut, what lies beside what, and "
            "what a loom passes on its route.",
            "Type a stretch: from, to, length. A plug's code puts the plug at its end: C3. Or take "
            "over the loom as it was found.",
            First(
                "Type the first stretch",
                "From, to and length; new names make new nodes",
                partial(self.type_new, "Stretches"),
            ),
            First(
                "Take over old loom", "The loom as found becomes a loom to build", self.take_over
            ),
        )
        self._build_tables()
        self._lay_out()

    def _build_tables(self) -> None:
        self.tabs = QTabWidget()
        self.tabs.setAccessibleName("Tables of the looms")
        self.tables: dict[str, ThingsTable[Any]] = {}
        columns: dict[str, tuple[list[Column[Any]], Any]] = {
            "Stretches": (run_columns(lambda: self._seen, self._type), NEW[Run]),
            "Ends and breakouts": (joint_columns(self._type), NEW[LoomNode]),
            "Wires": (wire_columns(lambda: self._seen), None),
            "Zones": (zone_columns(self._type_zone), NEW_ZONE),
            COMPARED: (change_columns(), None),
        }
        for name, (made, blank) in columns.items():
            model: ThingsModel[Any] = ThingsModel(made, _key, blank=blank)
            table: ThingsTable[Any] = ThingsTable(model, f"Routing: {name}")
            table.refused.connect(self.notice.say)
            table.macro = self.macro
            if name == "Zones":
                table.removed.connect(self._drop_zones)
            elif name == COMPARED:
                table.picked.connect(self._pick_change)
            else:
                table.picked.connect(lambda code: self.hand.pick(code) if code else None)
            if blank is not None and name != "Zones":
                table.removed.connect(self._remove)
            self.tables[name] = table
            self.tabs.addTab(table, name)

    def _lay_out(self) -> None:
        self._card = QFrame()
        self._card.setObjectName("card")
        inside = QVBoxLayout(self._card)
        inside.setContentsMargins(6, 6, 6, 6)
        inside.addWidget(self.view)
        self.tools = BoardTools(self, self.view)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self._card)
        split.addWidget(self.tabs)
        split.setChildrenCollapsible(False)
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setSizes([300, 220])
        self.tools.whole_page.connect(self._whole_page)
        self.tools.first_stretch.connect(self._first_stretch)
        self._head = QWidget()
        self._head.setLayout(row(self.title, self.about, 1, self.bench_button, self.lengths_button))
        self.middle.addWidget(self._head)
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.tools)
        self.middle.addLayout(column(self.guide))
        self.middle.addWidget(split, 1)

    def _first_stretch(self) -> None:
        """Begin with a stretch that is typed; then others are drawn out of its ends."""
        self.type_new("Stretches")
        self.notice.say(
            "The first stretch is typed: from, to, length. Others are then drawn out of its ends."
        )

    def _whole_page(self, on: bool) -> None:
        """Give the board the page, or the tables their part of it again."""
        self.tabs.setVisible(not on)
        self._head.setVisible(not on)
        self.tools.caution.setVisible(not on)

    # what is shown

    def refresh(self) -> None:
        """Show the looms of the job as it stands; of a large job once their ways are found."""
        routing = self.store.job.routing
        if all(loom.code != self._loom for loom in routing.looms):
            self._loom = routing.looms[0].code if routing.looms else ""
        of = {joint.code: joint.loom for joint in routing.joints}
        works = []
        for loom in routing.looms:
            runs = [
                run for run in routing.runs if loom.code in (of.get(run.start), of.get(run.finish))
            ]
            length = sum(run.length_m or 0.0 for run in runs)
            works.append(
                Work(
                    loom.code,
                    loom.name,
                    f"{length:.1f} m",
                    under=f"{loom.code} · {counted(len(runs), 'stretch', 'stretches')}",
                )
            )
        self.list.show_work(works)
        self.list.choose(self._loom)
        bare = not routing.joints
        self.guide.setVisible(bare)
        self._card.setVisible(not bare)
        self.tools.setVisible(not bare)
        has_old = bool(self.store.job.loom.nodes)
        self.take_over_button.setEnabled(has_old)
        self.guide.buttons[1].setEnabled(has_old)
        self._fetch()

    def _fetch(self) -> None:
        """Show the chosen loom, once all that is shown of it is computed."""
        analysis = self.analysis
        if self._task is not None:
            self._task.stop()
        if len(analysis.job.wires) <= AT_ONCE:
            room = self.view.room()
            self._show(
                analysis, drawing_of(analysis, self._loom, room, ready=False, shown=self.view.shown)
            )
        else:
            self.about.setText("The routes are being found …")
            for waiting in (self.lengths_button, self.bench_button, self.tools):
                waiting.setEnabled(False)
            loom, room, shown = self._loom, self.view.room(), self.view.shown

            def work(_: object) -> RouteDrawing | None:
                _ = analysis.cut_lengths, analysis.loom_changes
                return drawing_of(analysis, loom, room, ready=True, shown=shown)

            self._task = Task(work, self)
            self._task.done.connect(lambda made: self._show(analysis, made))
            self._task.start()

    def _show(self, analysis: Analysis, made: RouteDrawing | None) -> None:
        if analysis is not self.analysis:
            return
        self._seen = analysis
        self.hand.loom = self._loom
        routing, loom = analysis.job.routing, self._loom
        own = {joint.code for joint in routing.joints if joint.loom == loom}
        runs = [
            run
            for run in routing.runs
            if not (run.start or run.finish) or run.start in own or run.finish in own
        ]
        self.tables["Stretches"].things.show_things(runs)
        self.tables["Ends and breakouts"].things.show_things(
            [joint for joint in routing.joints if joint.loom == loom]
        )
        ways = analysis.electrics.ways.of
        self.tables["Wires"].things.show_things(
            [wire for wire in analysis.job.wires if wire.code in ways]
        )
        self.tables["Zones"].things.show_things(list(routing.zones))
        self.tables[COMPARED].things.show_things(list(analysis.loom_changes.get(loom, ())))
        self.view.show_loom(analysis, made)
        self.tools.setEnabled(True)
        self.tools.show_loom(analysis, loom)
        waits = self._waiting(analysis)
        self.bench_button.setEnabled(bool(analysis.cut_lengths))
        self.lengths_button.setEnabled(bool(waits))
        self.lengths_button.setText(f"Take {len(waits)} lengths" if waits else "Take lengths")
        found = sum(not way.problem for way in ways.values())
        words = f"{found} of {len(ways)} wires have a route" if routing.joints else "none yet"
        self.about.setText(words)
        self.follow(self.hand.subject)

    def _waiting(self, analysis: Analysis) -> dict[str, float]:
        """Return what wires would be cut to whose length is not that, m."""
        return {
            code: cut.cut_m
            for code, cut in analysis.cut_lengths.items()
            if cut.now_m is None or abs(cut.now_m - cut.cut_m) > 0.0005
        }

    def follow(self, subject: str) -> None:
        """Show what is in hand: its row, its stretch, its way."""
        thing = routing_edits.find(self.store.job.routing, subject)
        at = (j.code for j in self.store.job.routing.joints if subject and subject in j.carries)
        known = thing is not None or subject in self.analysis.network.wires
        self.view.hold(subject if known else next(at, ""))
        if isinstance(thing, NewLoom):
            self._choose_loom(thing.code)
        elif isinstance(thing, LoomNode | Run):
            name = "Stretches" if isinstance(thing, Run) else "Ends and breakouts"
            loom = self._loom_of(thing)
            if loom and loom != self._loom:
                self._choose_loom(loom)
            if self.tabs.currentWidget() is not self.tables["Wires"]:
                self.tabs.setCurrentWidget(self.tables[name])
            self.tables[name].pick(subject)
        elif self.tables["Wires"].things.row_of(subject) >= 0:
            self.tables["Wires"].pick(subject)

    def _loom_of(self, thing: LoomNode | Run) -> str:
        if isinstance(thing, LoomNode):
            return thing.loom
        of = {joint.code: joint.loom for joint in self.store.job.routing.joints}
        return of.get(thing.start) or of.get(thing.finish) or ""

    def _choose_loom(self, code: str) -> None:
        if code != self._loom:
            self._loom = code
            self.list.choose(code)
            self._fetch()

    def leave(self) -> None:
        """Let go of the job that was shown."""
        self._seen = None

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        self.leave()
        super().forget()

    # changes

    def _type(self, thing: Any, field: Field[Any], text: str) -> None:
        job, network = self.store.job, self.analysis.network
        code = self.store.take(type_routed(job, network, self._loom, thing, field, text))
        self.notice.say("")
        if not thing.code:
            name = "Stretches" if isinstance(thing, Run) else "Ends and breakouts"
            self.tables[name].pick(code)
            self.hand.pick(code)
        if isinstance(thing, Run) and field.name == "Length":
            self.tables["Stretches"].go_to_new("From")  # its zone and covering can wait
        elif isinstance(thing, Run):
            self.tables["Stretches"].go_on(code, field.name)

    def _type_zone(self, thing: Zone, field: Field[Any], text: str) -> None:
        name = self.store.take(type_zone(self.analysis.network, thing, field, text))
        self.notice.say("")
        self.tables["Zones"].pick(name)

    def type_new(self, name: str) -> None:
        """Begin to type a new thing into its table."""
        table = self.tables[name]
        self.tabs.setCurrentWidget(table)
        table.edit_cell("", table.things.columns[1].heading)

    def add_loom(self) -> None:
        """Add a loom; its name is typed in the panel."""
        code = routing_edits.free_code(self.store.job, NewLoom)
        name = f"Loom {len(self.store.job.routing.looms) + 1}"
        self.store.do(f"Add {code}", lambda job: routing_edits.add(job, NewLoom(code, name)))
        self._choose_loom(code)
        self.hand.pick(code)

    def take_over(self) -> None:
        """Take the loom as found over; from a breakout on when one of it is in hand."""
        nodes = {node.code for node in self.store.job.loom.nodes}
        beyond = self.hand.subject if self.hand.subject in nodes else ""
        name = f"From {beyond}" if beyond else routing_edits.FIRST_LOOM

        def edit(job: Job) -> Job:
            return routing_edits.take_over(job, name, beyond)

        if self.attempt(lambda: self.store.do("Take over the loom as found", edit)):
            self._choose_loom(self.store.job.routing.looms[-1].code)

    def take_lengths(self) -> None:
        """Give every wire that has a way the length it is cut to."""
        waits = self._waiting(self.analysis)
        words = f"Lengths of {counted(len(waits), 'wire')}"
        self.attempt(
            lambda: self.store.do(words, lambda job: routing_edits.take_lengths(job, waits))
        )

    def draw_from_hand(self) -> None:
        """Draw a stretch from the joint in hand."""
        self.tools.draw_from_hand()

    def put_splice(self) -> None:
        """Lay the splice in hand where it lies best."""
        self.tools.put_splice()

    # at the bench

    def _steps(self) -> tuple[Step, ...]:
        analysis = self.analysis
        return building_steps(
            analysis.job, analysis.electrics.ways, analysis.cut_lengths, analysis.assembly
        )

    def lay_at_the_bench(self) -> None:
        """Go through the wires card by card."""
        ticks = self.ticks
        at_the_bench(self, "Laying", self._steps, ticks.ticked, ticks.tick, ticks.clear, "routing")

    def _pick_change(self, key: str) -> None:
        """Take in hand what became of something of the old loom, or what it was."""
        code = key.partition(" ")[0]
        if code:
            self.hand.pick(code)

    def _remove(self, codes: list[str]) -> None:
        self.remove_each(codes, routing_edits.remove)

    def _drop_zones(self, names: list[str]) -> None:
        self.remove_each(names, routing_edits.drop_zone)


def _key(thing: Wire | Run | LoomNode | Zone | Change) -> str:
    match thing:
        case Zone():
            return thing.name
        case Change():
            return f"{thing.new or thing.old} {thing.how}"
        case _:
            return thing.code
