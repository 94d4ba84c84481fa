"""Crossover: from two pinouts to a repinned plug, step by step."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

from molvik.crossover.repinplan import OUT, Happening, RepinPlan, ticks_of
from molvik.crossover.work import start_over, tick, untick
from molvik.desktop.cards.benchcards import at_the_bench
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.hand import Hand
from molvik.desktop.stages.crossover.faces import TwoFaces
from molvik.desktop.stages.crossover.leadcard import LeadCard
from molvik.desktop.stages.crossover.lines import (
    Row,
    columns_of,
    confirm,
    extend,
    happens_of,
    problems_of,
    put_aside,
    rows_of,
    set_work,
)
from molvik.desktop.stages.crossover.setdialog import SetDialog
from molvik.desktop.stages.crossover.settling import Settling, ask_reason
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.rowdrag import RowDrag
from molvik.desktop.widgets.small import button, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import ThingsModel
from molvik.desktop.widgets.worklist import WorkList
from molvik.logbook.clock import now_text
from molvik.model import crossover_edits
from molvik.model.parts import End
from molvik.steps import Step
from molvik.wording import counted

CAUTION = "Battery off before the first terminal comes out. Airbag plugs are left alone."


class CrossoverPage(StagePage):
    """Repin sets on the left; the steps of the chosen one, its faces below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Crossover")
        self._code = ""
        self.settling = Settling(self, store, self.plan)
        self.card = LeadCard()
        self.card.here.connect(self.put_here)
        self.card.join.connect(self.join_here)
        self.card.said.connect(self.say)
        self.hand_card = self.card
        self.list = WorkList("Repin sets")
        self.list.chosen.connect(self._choose_set)
        self.happens = label("")
        self.happens.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.happens.setContentsMargins(6, 0, 0, 6)
        self.work_column.addWidget(label("REPIN SETS", "head"))
        self.work_column.addWidget(self.list, 1)
        self.work_column.addWidget(
            button("Add a repin set…", "Which plug becomes which", self.add_set)
        )
        self._happens_head = label("WHAT HAPPENS", "head")
        self.work_column.addWidget(self._happens_head)
        self.work_column.addWidget(self.happens)
        self._build_buttons()
        self.work_column.addWidget(self.rest_button)
        self._build_table()
        self.faces = TwoFaces()
        self.empty = Guide(
            "Repin a donor plug: which terminal goes where, and in which order.",
            "Both pinouts are needed first, of the plug that gives and of the one that is wanted. "
            "Then say which plug the wires come from and which is to be right in the end.",
            First(
                "Import the donor's pinout…",
                "The plug that the wires are in now",
                self.wish("pinouts", "ask_for_table"),
            ),
            First(
                "Import the wanted pinout…",
                "The plug that is to be right in the end",
                self.wish("pinouts", "ask_for_table"),
            ),
            First("Add a repin set…", "Which plug becomes which", self.add_set),
        )
        self.middle.addLayout(row(self.title, self.about, 1, self.set_button, self.bench_button))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.empty)
        self.bar = QWidget()
        self.bar.setLayout(
            row(
                label(CAUTION, "faint"),
                1,
                self.confirm_button,
                self.earlier,
                self.later,
                self.best,
                self.fresh,
            )
        )
        self.middle.addWidget(self.bar)
        self.middle.addWidget(self.table, 1)
        self.middle.addWidget(self.faces)
        self.middle.addStretch(0)

    def _build_buttons(self) -> None:
        self.bench_button = button(
            "Step at the bench", "One card at a time, driven with one hand", self.bench, "action"
        )
        self.confirm_button = button(
            "Confirm", "Confirm the proposed match of the chosen lines (Ctrl+Return)", self.confirm
        )
        self.rest_button = button(
            "Cap the rest…",
            "Cut back and cap all wires that have no cavity proposed, for one reason",
            self.stow_rest,
            "quiet",
        )
        self.set_button = button(
            "Change the set…", "From where, into what, and by which approach", self.edit_set
        )
        self.earlier = button("↑", "This step earlier (Alt+Up), or drag it", lambda: self.shift(-1))
        self.later = button("↓", "This step later (Alt+Down), or drag it", lambda: self.shift(1))
        self.best = button("Best order", "Forget the order you made", self.best_order)
        self.fresh = button("Plan again", "Plan from where the wires are now", self.start_over)
        for keys, do in (
            ("Ctrl+Return", self.confirm),
            ("Alt+Up", lambda: self.shift(-1)),
            ("Alt+Down", lambda: self.shift(1)),
        ):
            QShortcut(QKeySequence(keys), self).activated.connect(do)

    def _build_table(self) -> None:
        self.model: ThingsModel[Row] = ThingsModel(
            columns_of(self._decide, self._extend), lambda entry: entry.key
        )
        self.table: ThingsTable[Row] = ThingsTable(self.model, "Steps")
        self.table.picked.connect(self._picked)
        self.table.refused.connect(self.notice.say)
        self.table.macro = self.macro
        self.drag = RowDrag(self.table)
        self.drag.dropped.connect(self._drop)

    # what is shown

    def plan(self) -> RepinPlan | None:
        """Return the plan of the chosen set."""
        return self.analysis.plans.get(self._code)

    def _ticked(self) -> set[str]:
        return ticks_of(self.analysis.network, self._code)

    def refresh(self) -> None:
        """Show the sets and the chosen one."""
        entries = [set_work(self.analysis, repin_set) for repin_set in self.store.job.repins]
        self.list.show_work(entries)
        if self.store.job.repin(self._code) is None:
            self._code = entries[0].key if entries else ""
        self.list.choose(self._code)
        self._show()

    def _show(self) -> None:
        plan = self.plan()
        for widget in (
            self.table,
            self.faces,
            self._happens_head,
            self.bar,
            self.bench_button,
            self.set_button,
        ):
            widget.setVisible(plan is not None)
        self.empty.setVisible(plan is None)
        self.happens.setText("")
        if plan is None:
            self.title.setText("Crossover")
            self.about.setText("")
            self.model.show_things([])
            return
        ticked = self._ticked()
        self.title.setText(plan.set.name)
        way = f"{', '.join(plan.set.sources)} → {plan.set.target}"
        self.about.setText(f"{way} · {counted(len(plan.repin.leads), 'wire')}")
        self.model.show_things(rows_of(plan, ticked))
        self.happens.setText("\n".join(happens_of(plan)))
        problems = problems_of(plan, ticked)
        more = f" ({len(problems) - 1} more)" if len(problems) > 1 else ""
        self.notice.say(f"{problems[0]}{more}" if problems else "")
        self.rest_button.setVisible(bool(plan.unproposed))
        self.best.setVisible(bool(plan.set.order))
        self.fresh.setVisible(bool(plan.set.start))
        self.bench_button.setText("Step at the bench" if plan.steps else "Nothing to do")
        self.bench_button.setEnabled(bool(plan.steps))
        self._show_faces()

    def _row(self) -> Row | None:
        key = self.table.current_key()
        return next((thing for thing in self.model.things if thing.key == key), None)

    def _show_faces(self) -> None:
        """Show where the chosen lead comes out and where it goes in, and what becomes of it."""
        plan, entry = self.plan(), self._row()
        held = entry is not None and self.hand.subject in _names(entry.happening)
        self.card.show_lead(plan, entry.happening if entry and held else None)
        begin = end = ""
        if entry is not None:
            begin = entry.step.take if entry.step else entry.happening.place
            end = entry.step.put if entry.step else entry.happening.end
        sets = (plan.set.sources[0], plan.set.target) if plan else ("", "")
        self.faces.show_places(self.analysis, (begin, end), sets)

    def _picked(self, key: str) -> None:
        entry = self._row()
        self._show_faces()
        if entry is None:
            return
        lead = entry.happening.lead
        if lead is not None and lead.wires:
            self.hand.pick(lead.wires[0][0])
        else:
            self.hand.pick(entry.happening.place or entry.happening.end)

    def follow(self, subject: str) -> None:
        """Show the set and the lead in hand."""
        if subject in self.analysis.plans:
            self._choose_set(subject)
            return
        plan = self.plan()
        if plan is None or not subject:
            return
        for thing in self.model.things:
            if subject in _names(thing.happening):
                shown = self._row()
                if shown is None or shown.happening != thing.happening:
                    self.table.pick(thing.key)  # both lines of a parked lead are of the same
                self._show_faces()
                return
        self.card.show_lead(None, None)  # what is in hand is not a lead of this set

    def _choose_set(self, code: str) -> None:
        self._code = code
        self.list.choose(code)
        self._show()

    # changes

    def add_set(self) -> None:
        """Ask for a new set."""
        if not self.store.job.connectors:
            self.notice.say("Import a pinout or add a connector in Pinouts first.")
            return
        dialog = SetDialog(self, self.store, None)
        if ask(dialog):
            self._choose_set(dialog.code)

    def edit_set(self) -> None:
        """Change the chosen set."""
        ask(SetDialog(self, self.store, self.store.job.repin(self._code)))

    def _decide(self, entry: Row, text: str) -> None:
        self.settling.decide(entry.happening.place, text)

    # what is said of the lead in hand, in its card

    def _happening_in_hand(self) -> Happening | None:
        entry = self._row()
        return entry.happening if entry is not None and entry.happening.lead is not None else None

    def put_here(self, text: str) -> None:
        """The lead in hand goes into a cavity; empty for the one that is proposed."""
        self._with_lead(lambda happening: self.settling.put_here(happening, text))

    def join_here(self, text: str) -> None:
        """The lead in hand is spliced to the one that goes into a cavity."""
        self._with_lead(lambda happening: self.settling.join_here(happening, text))

    def say(self, word: str) -> None:
        """Stow or remove the lead in hand, refuse what is proposed, ask for a new wire, forget."""
        self._with_lead(lambda happening: self.settling.say(happening, word))

    def _with_lead(self, do: Callable[[Happening], None]) -> None:
        found = self._happening_in_hand()
        if found is not None:
            self.attempt(lambda: do(found))

    def _extend(self, entry: Row, text: str) -> None:
        plan = self.plan()
        assert plan is not None
        lead = entry.happening.place
        self.store.do(f"Length of {lead}", lambda job: extend(job, plan, lead, text))

    def confirm(self) -> None:
        """Confirm what is proposed for the chosen lines."""
        plan = self.plan()
        if plan is None:
            return
        keys = set(self.table.selected_keys())
        chosen = [r.happening.match for r in self.model.things if r.key in keys]
        found = [m for m in chosen if m is not None and m.want is not None]
        if not found:
            self.notice.say("Choose lines with a proposed cavity first.")
            return
        words = found[0].lead.place if len(found) == 1 else f"{len(found)} matches"
        self.store.do(f"Confirm {words}", lambda job: confirm(job, plan, found))

    def stow_rest(self) -> None:
        """Put aside all leads that nothing is proposed for, for one reason."""
        plan = self.plan()
        if plan is None or not plan.unproposed:
            return
        leads = tuple(happening.place for happening in plan.unproposed)
        word = "remove" if plan.set.approach == "chassis wiring" else "stow"
        why = ask_reason(self, word, f"{counted(len(leads), 'wire')} without a cavity")
        if why is not None:
            self.store.do(
                f"Put {counted(len(leads), 'wire')} aside",
                lambda job: put_aside(job, plan, leads, why),
            )

    def shift(self, by: int) -> None:
        """Move the chosen step earlier or later."""
        entry, plan = self._row(), self.plan()
        if entry is None or entry.step is None or plan is None:
            return
        index = int(entry.number) - 1
        self._reorder(plan, index, index + by)

    def _drop(self, begin: int, end: int) -> None:
        """A line was dragged to another place."""
        plan = self.plan()
        if plan is None:
            return
        steps = [self.model.things[row].number for row in (begin, end)]
        if not all(steps):
            self.notice.say("Only steps can be dragged, and only among the steps.")
            return
        self._reorder(plan, int(steps[0]) - 1, int(steps[1]) - 1)

    def _reorder(self, plan: RepinPlan, begin: int, end: int) -> None:
        keys = [op.key for op in plan.ops]
        if not 0 <= end < len(keys) or begin == end:
            return
        keys.insert(end, keys.pop(begin))
        code = self._code
        self.store.do(
            f"Step {begin + 1} to {end + 1}",
            lambda job: crossover_edits.change(job, code, order=tuple(keys)),
        )

    def best_order(self) -> None:
        """Forget the user's order."""
        code = self._code
        self.store.do("Best order", lambda job: crossover_edits.change(job, code, order=()))

    def start_over(self) -> None:
        """Plan anew from where the wires are now."""
        code = self._code
        self.store.do("Take the wires as they are", lambda job: start_over(job, code))

    # at the bench

    def bench(self) -> None:
        """Go through the steps card by card."""
        code, store = self._code, self.store

        def steps() -> tuple[Step, ...]:
            plan = self.analysis.plans.get(code)
            return plan.steps if plan else ()

        def do(step: Step, key: str) -> None:
            by = store.job.settings.measured_by
            words = f"{step.do}: {key.rpartition(': ')[2]}"
            store.do(words, lambda job: tick(job, code, step, key, now_text(), by))

        def undo(step: Step, key: str) -> None:
            store.do(f"Take back {step.do}", lambda job: untick(job, code, step, key))

        at_the_bench(self, f"{code}: repin", steps, self._ticked, do, undo, "crossover", self._draw)

    def _draw(self, face: FaceView, step: Step) -> bool:
        """Show the connector of a card the way it is held, the cavity lit."""
        taken = step.tick_key(OUT) in self._ticked() or not step.take
        place = End.of(step.put if taken and step.put else step.take)
        face.show_connector(self.store.job.connector(place.at), self.analysis)
        face.choose(place.cavity)
        return bool(place.at)


def _names(happening: Happening) -> tuple[str, ...]:
    """Return what is in hand when a lead is: its cavities, and its wires."""
    codes = (code for code, _ in happening.lead.wires) if happening.lead else ()
    return tuple(filter(None, (happening.place, happening.end, *codes)))
