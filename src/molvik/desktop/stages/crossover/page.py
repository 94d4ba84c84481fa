"""Crossover: from two pinouts to a repinned plug, step by step."""

from collections import Counter
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from molvik.crossover.plan import OUT, Happening, Plan, ticks_of
from molvik.crossover.work import start_over, tick, untick
from molvik.desktop.dialogs import ask, put_up
from molvik.desktop.hand import Hand
from molvik.desktop.logbook import JotDialog, now_text
from molvik.desktop.questions import Answer, question
from molvik.desktop.stages.crossover.leadcard import LeadCard
from molvik.desktop.stages.crossover.lines import (
    SIGNS,
    WORDS,
    Row,
    confirm,
    extend,
    going,
    joining,
    occupant,
    place_of,
    read_word,
    rows_of,
)
from molvik.desktop.stages.crossover.setdialog import SetDialog
from molvik.desktop.stages.page import StagePage
from molvik.desktop.store import Store
from molvik.desktop.widgets.cards import StepCards
from molvik.desktop.widgets.face import FaceView
from molvik.desktop.widgets.guide import First, Guide
from molvik.desktop.widgets.rowdrag import RowDrag
from molvik.desktop.widgets.small import button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work, WorkList
from molvik.model import crossover_edits
from molvik.model.crossover import Decided, Disposition, Rejected
from molvik.model.job import Job
from molvik.model.parts import End
from molvik.steps import Step

CAUTION = "Battery off before the first terminal comes out. Airbag plugs are left alone."


class CrossoverPage(StagePage):
    """Repin sets on the left; the steps of the chosen one, its faces below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "Crossover")
        self._code = ""
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
        self.work_column.addWidget(label("WHAT HAPPENS TO THE WIRES", "head"))
        self.work_column.addWidget(self.happens)
        self._build_buttons()
        self._build_table()
        self._build_faces()
        self.empty = Guide(
            "Here a donor's plug becomes the one you need: who moves where, and in which order.",
            "Both pinouts are needed first, of the plug that gives and of the one that is wanted. "
            "Then say which plug the leads come from and which is to be right in the end.",
            First("Import the donor's pinout…", "The plug that the leads sit in now",
                  self.wish("pinouts", "ask_for_table")),
            First("Import the wanted pinout…", "The plug that is to be right in the end",
                  self.wish("pinouts", "ask_for_table")),
            First("Add a repin set…", "Which plug becomes which", self.add_set),
        )  # fmt: skip
        self.middle.addLayout(row(self.title, self.about, 1, self.set_button, self.bench_button))
        self.middle.addWidget(self.notice)
        self.middle.addWidget(self.empty)
        self.bar = QWidget()
        self.bar.setLayout(
            row(label(CAUTION, "faint"), 1, self.confirm_button, self.earlier, self.later,
                self.best, self.fresh)
        )  # fmt: skip
        self.middle.addWidget(self.bar)
        self.middle.addWidget(self.table, 1)
        self.middle.addWidget(self._faces)
        self.middle.addStretch(0)

    def _build_buttons(self) -> None:
        self.bench_button = button(
            "Step at the bench", "One card at a time, driven with one hand", self.bench, "action"
        )
        self.confirm_button = button(
            "Confirm", "Confirm the proposed match of the chosen lines (Ctrl+Return)", self.confirm
        )
        self.set_button = button(
            "Set…", "From where, into what, and by which approach", self.edit_set
        )
        self.earlier = button("↑", "This step earlier (Alt+Up), or drag it", lambda: self.shift(-1))
        self.later = button("↓", "This step later (Alt+Down), or drag it", lambda: self.shift(1))
        self.best = button("Best order", "Forget the order you made", self.best_order)
        self.fresh = button(
            "Take wires as they are", "Plan anew from where the wires are now", self.start_over
        )
        for keys, do in (
            ("Ctrl+Return", self.confirm),
            ("Alt+Up", lambda: self.shift(-1)),
            ("Alt+Down", lambda: self.shift(1)),
        ):
            QShortcut(QKeySequence(keys), self).activated.connect(do)

    def _build_table(self) -> None:
        self.model: ThingsModel[Row] = ThingsModel(self._columns(), lambda entry: entry.key)
        self.table: ThingsTable[Row] = ThingsTable(self.model, "Steps")
        self.table.picked.connect(self._picked)
        self.table.refused.connect(self.notice.say)
        self.table.macro = self.macro
        self.drag = RowDrag(self.table)
        self.drag.dropped.connect(self._drop)

    def _build_faces(self) -> None:
        self.out_title, self.in_title = label("", "head"), label("", "head")
        self.out_face, self.in_face = FaceView(largest=30), FaceView(largest=30)
        faces = QFrame()
        faces.setObjectName("card")
        inner = QHBoxLayout(faces)
        inner.setContentsMargins(10, 6, 10, 4)
        for title, face in ((self.out_title, self.out_face), (self.in_title, self.in_face)):
            face.face = "wire side"
            held = QWidget()
            inside = column(title, face, spacing=2)
            inside.setStretch(1, 1)
            held.setLayout(inside)
            inner.addWidget(held, 1)
        faces.setFixedHeight(206)
        self._faces = faces

    def _columns(self) -> list[Column[Row]]:
        return [
            Column("Step", lambda r: r.number, width=44, mono=True),
            Column("Function", lambda r: r.happening.function, width=138, grow=2),
            Column("Now in", lambda r: r.begin, width=68, mono=True),
            Column("", lambda r: SIGNS[r.happening.action], width=26),
            Column(
                "Goes to", lambda r: r.end, width=66, mono=True,
                edit=self._decide, tip="A cavity; stow, remove, or join and a cavity; empty for "
                "what is proposed",
            ),
            Column("Wire", lambda r: str(r.colour or ""), width=102, colour=lambda r: r.colour),
            Column("Size", lambda r: r.size, width=84),
            Column("What happens", lambda r: r.state, width=126, grow=1, role=lambda r: r.role),
            Column("Ticked", lambda r: "".join("✓" if t else "○" for t in r.ticks), width=58),
            Column(
                "Longer", lambda r: f"{r.happening.extend_m:.2f} m" if r.happening.extend_m else "",
                width=64, edit=self._extend,
                tip="How much longer it must be, and why: 350 mm, other side",
            ),
            Column("Described by", lambda r: r.happening.diagram, width=86, hidden=True),
            Column("Why", lambda r: r.why, width=220, hidden=True),
        ]  # fmt: skip

    # what is shown

    def plan(self) -> Plan | None:
        """Return the plan of the chosen set."""
        return self.analysis.plans.get(self._code)

    def _ticked(self) -> set[str]:
        return ticks_of(self.analysis.network, self._code)

    def refresh(self) -> None:
        """Show the sets and the chosen one."""
        entries = []
        for repin_set in self.store.job.repins:
            plan, done = (
                self.analysis.plans[repin_set.code],
                ticks_of(self.analysis.network, repin_set.code),
            )
            finished = sum(step.is_done(done) for step in plan.steps)
            left = sum(not m.settled for m in plan.matches)
            state = "all done" if finished == len(plan.steps) else f"{finished}/{len(plan.steps)}"
            under = f"{left} to decide" if left else f"{repin_set.code} · all decided"
            entries.append(Work(repin_set.code, repin_set.name, state, under=under))
        self.list.show_work(entries)
        if self.store.job.repin(self._code) is None:
            self._code = entries[0].key if entries else ""
        self.list.choose(self._code)
        self._show()

    def _show(self) -> None:
        plan = self.plan()
        for widget in (self.table, self._faces, self.bar, self.bench_button, self.set_button):
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
        self.about.setText(f"{way} · {len(plan.repin.leads)} leads")
        self.model.show_things(rows_of(plan, ticked))
        counts = Counter(happening.action for happening in plan.happenings)
        words = [
            f"{SIGNS[action]}  {count:>3}  {WORDS[action]}" for action, count in counts.items()
        ]
        plugs = len(plan.empty.get(plan.set.target, ()))
        words += [f"○  {plugs:>3}  cavity plugs"] if plugs else []
        self.happens.setText("\n".join(words))
        problems = [*plan.astray(ticked)]
        problems += [f"Step {problem.at + 1}: {problem.text}." for problem in plan.broken]
        problems += [
            f"{blocked.lead} waits: who sits in {blocked.end} stays there until it is decided."
            for blocked in plan.blocked
        ]
        more = f" ({len(problems) - 1} more)" if len(problems) > 1 else ""
        self.notice.say(f"{problems[0]}{more}" if problems else "")
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
        for face, title, place, words in (
            (self.out_face, self.out_title, begin, "TAKE OUT OF"),
            (self.in_face, self.in_title, end, "PUSH INTO"),
        ):
            where = End.of(place)
            code = where.at or (plan.set.target if plan else "")
            if face is self.out_face and not where.at and plan:
                code = plan.set.sources[0]
            face.show_connector(self.store.job.connector(code), self.analysis)
            face.choose(where.cavity)
            title.setText(f"{words} {place}" if place else f"{words} …")
        both = self.in_face.face == "wire side"
        self.out_title.setToolTip("seen at the wire side" if both else "")

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
        self.card.show_lead(None, None)  # what is in hand is no lead of this set

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
        plan = self.plan()
        assert plan is not None  # a line is shown, so there is a plan
        self._settle(plan, entry.happening.place, read_word(plan, entry.happening.place, text))

    def _settle(self, plan: Plan, lead: str, word: Decided | None) -> None:
        """Take the user's word on a lead; ask when another is in its way. ValueError: left so."""
        code = self._code
        there = occupant(plan, lead, word.to) if word and word.disposition == "match" else None
        if word is not None and there is not None:
            chosen = ask_taken(self, plan, there, word)
            if not chosen:
                raise ValueError(f"Nothing was changed: {word.to} is for {there.place}.")
            if chosen == "join":
                word = joining(plan, lead, word.to)
        if word is None:
            self.store.do(
                f"Propose for {lead}", lambda job: crossover_edits.undecide(job, code, lead)
            )
            return
        said = word
        self.store.do(f"Decide {lead}", lambda job: crossover_edits.decide(job, code, said))

    # what is said of the lead in hand, in its card

    def _lead_in_hand(self) -> tuple[Plan, Happening] | None:
        plan, entry = self.plan(), self._row()
        if plan is None or entry is None or entry.happening.lead is None:
            return None
        return plan, entry.happening

    def put_here(self, text: str) -> None:
        """The lead in hand goes into a cavity; empty for the one that is proposed."""
        self._with_lead(
            lambda plan, happening: self._settle(
                plan, happening.place, going(plan, happening.place, _to(plan, happening, text))
            )
        )

    def join_here(self, text: str) -> None:
        """The lead in hand is spliced to the one that goes into a cavity."""
        self._with_lead(
            lambda plan, happening: self._settle(
                plan, happening.place, joining(plan, happening.place, _to(plan, happening, text))
            )
        )

    def say(self, word: str) -> None:
        """Stow or remove the lead in hand, refuse what is proposed, ask for a new wire, forget."""
        self._with_lead(lambda plan, happening: self._say(plan, happening, word))

    def _say(self, plan: Plan, happening: Happening, word: str) -> None:
        code, lead, to = self._code, happening.place, happening.end
        if word in ("not this", "new wire") and not (happening.match and happening.match.want):
            raise ValueError(f"Nothing is proposed for {lead}: choose a cavity for it, or stow it.")
        aside: Disposition = "remove" if plan.set.approach == "chassis wiring" else "stow"

        def edit(job: Job) -> Job:
            match word:
                case "stow":
                    return crossover_edits.decide(job, code, Decided(lead, "stow"))
                case "remove":
                    return crossover_edits.decide(job, code, Decided(lead, "remove"))
                case "not this":
                    return crossover_edits.reject(job, code, Rejected(lead, to))
                case "new wire":
                    job = crossover_edits.reject(job, code, Rejected(lead, to, fresh=True))
                    return crossover_edits.decide(job, code, Decided(lead, aside))
                case _:
                    return crossover_edits.undecide(job, code, lead)

        self.store.do(f"{lead}: {word}", edit)

    def _with_lead(self, do: Callable[[Plan, Happening], None]) -> None:
        found = self._lead_in_hand()
        if found is not None:
            self.attempt(lambda: do(*found))

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

    def _reorder(self, plan: Plan, begin: int, end: int) -> None:
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
        code = self._code
        cards = StepCards(
            self,
            f"{code}: repin",
            lambda: plan.steps if (plan := self.analysis.plans.get(code)) else (),
            self._ticked,
            self._draw,
        )

        def do(step: Step, key: str) -> None:
            by = self.store.job.settings.measured_by
            words = f"{step.do}: {key.rpartition(': ')[2]}"
            try:
                self.store.do(words, lambda job: tick(job, code, step, key, now_text(), by))
            except ValueError as error:
                cards.notice.say(str(error))

        def undo(step: Step, key: str) -> None:
            try:
                self.store.do(f"Take back {step.do}", lambda job: untick(job, code, step, key))
            except ValueError as error:
                cards.notice.say(str(error))

        def note(subject: str) -> None:
            self.hand.pick(subject)
            ask(JotDialog(cards, self.store, self.hand, "crossover"))
            cards.refresh()

        cards.ticked.connect(do)
        cards.cleared.connect(undo)
        cards.noted.connect(note)
        cards.shown.connect(lambda subject: self.hand.pick(subject) if subject else None)
        put_up(cards)

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


def _to(plan: Plan, happening: Happening, text: str) -> str:
    """Return the cavity that is meant: as typed, or the one that is proposed."""
    if text:
        return place_of(plan, text)
    if not happening.end:
        raise ValueError(f"Type the cavity for {happening.place}.")
    return happening.end


def ask_taken(parent: QWidget, plan: Plan, there: Happening, word: Decided) -> str:
    """Ask what happens to two leads for one cavity; return join, instead, or nothing."""
    confirmed = there.match is not None and there.match.state == "confirmed"
    how = "you confirmed that" if confirmed else "that match is sure"
    return question(
        parent,
        f"{word.to} is taken",
        f"{word.to} is for {there.function or there.place}, from {there.place}: {how}.",
        f"Splice {word.lead} to it, so that both go to {word.to}? Or put {word.lead} there "
        f"instead, and leave {there.place} to be decided again?",
        [Answer("instead", f"{word.lead} instead", loses=True), Answer("join", "Join both")],
    )
