"""Charging on the screen: a day of the vehicle, what is given, drawn and left for the battery."""

import math
from functools import partial
from typing import NamedTuple

from PySide6.QtWidgets import QVBoxLayout

from molvik.circuits.balance import Balance, Draw, Drive, drive_of, play, problem
from molvik.circuits.balancedrawing import DriveDrawing, said
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.chargereads import READS, STARTS, ReadsTables
from molvik.desktop.stages.circuits.tabview import TabView
from molvik.desktop.store import Store
from molvik.desktop.widgets.canvas import Canvas
from molvik.desktop.widgets.drawer import Drawer
from molvik.desktop.widgets.small import button, choice, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.desktop.widgets.worklist import Work
from molvik.drawing.scene import Scene
from molvik.model import edits
from molvik.model.driving import Leg
from molvik.model.refs import Ref
from molvik.typed.driving import LEG_FIELDS, type_leg, type_share, with_leg, without_legs
from molvik.typed.field import Field
from molvik.wording import counted

BEGINS = (("begins full", "1"), ("begins at 80 %", "0.8"), ("begins half full", "0.5"))
HOW = (
    "Charging is judged with a battery and an alternator that are wired: under Wires, Loom… lays "
    "both as a block, “Charging”."
)
DRAW_PX, TABLE_PX = 300, 236
"""The least height of the drawing, and the most of the tables below it."""

WIDTHS = {"Part": 190, "Time": 76, "Engine": 92, "Night": 56, "Rain": 56, "More": 64}


class Part(NamedTuple):
    """A part of the day with its number, and what comes of it, None while that is found."""

    number: int
    leg: Leg
    balance: Balance | None


class DriveCanvas(Canvas):
    """Draws a day of the vehicle. A click chooses a part of it, by its number."""

    def __init__(self) -> None:
        super().__init__("A day of the vehicle: what is given and drawn, and the charge")
        self.drive: Drive | None = None
        self.chosen = -1

    def draw(self, width: float, height: float) -> Scene | None:
        """Return the day, None without one."""
        if self.drive is None:
            return None
        return DriveDrawing(self.drive, width, height, self.chosen).scene


class ChargeView(TabView):
    """The day above, its parts and their loads in tables below."""

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__(store, hand, "A DAY", "The parts of the day", "What comes of the day")
        self.drive: Drive | None = None
        self.list.chosen.connect(lambda key: self.choose(int(key)))
        self.begins = choice("The charge it begins with", list(BEGINS), "0.8")
        self.begins.currentIndexChanged.connect(lambda _: self.refresh())
        self.add_button = button("Add a part", "Of the day, to be changed below", self._add)
        self.usual_button = button("Usual day", "Forget what was typed of the day", self._usual)
        self.change_button = button(
            "Another alternator…",
            "Put another alternator or dynamo in its place, step by step, with what it takes and "
            "what its terminals should read",
            self._change,
        )
        self.more = label("", "faint", wrap=True)
        self.canvas = DriveCanvas()
        self.canvas.setMinimumHeight(DRAW_PX)
        self.canvas.picked.connect(lambda ref: self.choose(int(ref)))
        self._build_tables()
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 0)
        whole.setSpacing(4)
        top = row(self.said, self.begins, self.add_button, self.usual_button, self.change_button)
        top.setStretch(0, 1)
        whole.addLayout(top)
        whole.addWidget(self.more)
        whole.addWidget(self.canvas, 1)
        whole.addWidget(self.notice)
        whole.addWidget(self.drawer)

    def _build_tables(self) -> None:
        parts: list[Column[Part]] = [self._part_column(field) for field in LEG_FIELDS]
        parts += [
            Column("Drawn", _drawn, width=70, unit="A"),
            Column("Given", _given, width=70, unit="A"),
            Column("Left", _left, width=70, unit="A", role=_left_role),
            Column("What would do", _would_do, width=180, grow=1),
        ]
        self.parts: ThingsModel[Part] = ThingsModel(parts, lambda one: str(one.number))
        self.parts_table: ThingsTable[Part] = ThingsTable(self.parts, "The parts of the day")
        self.parts_table.setMaximumHeight(TABLE_PX)
        self.parts_table.picked.connect(self._picked)
        self.parts_table.refused.connect(self.notice.say)
        self.parts_table.removed.connect(self._remove)
        draws: list[Column[Draw]] = [
            Column("Load", lambda one: one.device, width=64, mono=True),
            Column("Name", lambda one: one.name, width=180, grow=1),
            Column("While on", lambda one: f"{one.amps:.2f} A", width=90, unit="A"),
            Column(
                "On",
                lambda one: f"{one.share * 100:.0f} %",
                width=70,
                unit="%",
                edit=self._type_share,
                role=lambda one: "copper" if one.typed else "",
                tip="Which share of the time; empty for what is usual",
            ),
            Column("On average", lambda one: f"{one.mean_a:.2f} A", width=104, unit="A"),
        ]
        self.draws: ThingsModel[Draw] = ThingsModel(draws, lambda one: one.device)
        self.draws_table: ThingsTable[Draw] = ThingsTable(self.draws, "What draws how much")
        self.draws_table.setMaximumHeight(TABLE_PX)
        self.draws_table.picked.connect(self._hand.pick)
        self.draws_table.refused.connect(self.notice.say)
        self.drawer = Drawer("The parts of the day, and their loads")
        self.drawer.addTab(self.parts_table, "The day")
        self.drawer.addTab(self.draws_table, "What draws how much")
        self.more_tables = ReadsTables(self._pick_part, self._say_more)
        for table, title in ((self.more_tables.reads, READS), (self.more_tables.starts, STARTS)):
            table.setMaximumHeight(TABLE_PX)
            self.drawer.addTab(table, title)
        self.drawer.currentChanged.connect(lambda _: self._find_more())

    def _part_column(self, field: Field[Leg]) -> Column[Part]:
        def edit(part: Part, text: str) -> None:
            self._store.take(type_leg(self._store.job, part.number, field, text))

        return Column(
            field.name,
            lambda part: field.show(part.leg),
            width=WIDTHS[field.name],
            edit=edit,
            tip=field.tip,
            unit=field.unit,
            grow=1 if field.name == "Part" else 0,
            choices=field.choices if field.listed else (),
        )

    def _type_share(self, draw: Draw, text: str) -> None:
        number = max(0, self.canvas.chosen)
        self._store.take(type_share(self._store.job, number, draw.device, text))

    # what is shown

    def refresh(self) -> None:
        """Play the day of the job as it is now through, aside."""
        job = self._store.job
        wrong = problem(job)
        for widget in (self.more, self.drawer, self.begins, self.add_button, self.change_button):
            widget.setVisible(not wrong)
        self.said.setVisible(not wrong)
        self.usual_button.setVisible(not wrong and bool(job.settings.drive))
        if wrong:
            self.stop()
            self.drive = self.canvas.drive = None
            self.said.setText(wrong)
            self.canvas.empty = f"{wrong}\n\n{HOW}"
            self.canvas.redraw()
            self.list.show_work([])
            return
        legs, begins = drive_of(job), float(self.begins.currentData() or 0.8)
        if self.canvas.chosen >= len(legs):
            self.canvas.chosen = -1
        if self.drive is None:
            self.said.setText("the day is being played through …")
        self.aside(lambda: play(job, legs, begins), self._found)
        self._find_more()

    def _find_more(self) -> None:
        """Find what is on the last two tabs while one of them is chosen."""
        wanted = self.drawer.tabText(self.drawer.currentIndex()) in (READS, STARTS)
        if wanted and not problem(self._store.job):
            self.more_tables.find(self._store.job)
        self._say_more()

    def _say_more(self) -> None:
        """Say what excites the alternator while its readings are looked at; else what is short."""
        known = self.more_tables.known
        if self.more_tables.waits:
            self.more.setText("what it reads is being found …")
        elif self.drawer.tabText(self.drawer.currentIndex()) == READS and known is not None:
            self.more.setText(known.how)
        elif self.drive is not None:
            self.more.setText(advice(self.drive))

    def _pick_part(self, code: str) -> None:
        if code:
            self._hand.pick(code)

    def _change(self) -> None:
        """Ask which alternator comes, and how it is excited."""
        from molvik.desktop.stages.circuits.laying import BlockDialog

        ask(BlockDialog(self, self._store, "Another alternator"))

    def fail(self, why: str) -> None:
        """Say why the day cannot be played through, and show what was typed of it."""
        self.drive = self.canvas.drive = None
        self.canvas.empty = why
        self.said.setText(why)
        self.more.setText("")
        self.canvas.redraw()
        legs = drive_of(self._store.job)
        self.parts.show_things([Part(n, leg, None) for n, leg in enumerate(legs)])
        self.list.show_work([])

    def _found(self, drive: Drive) -> None:
        self.drive = self.canvas.drive = drive
        self.said.setText(day_words(drive))
        self.more.setText(advice(drive))
        self.parts.show_things([Part(n, one.leg, one) for n, one in enumerate(drive.balances)])
        entries = [
            Work(
                str(n),
                one.leg.name,
                f"{one.left_a:+.0f} A" if abs(one.left_a) >= 0.5 else f"{one.left_a:+.2f} A",
                "stop" if one.left_a < 0 and one.leg.rpm else "faint",
            )
            for n, one in enumerate(drive.balances)
        ]
        self.list.show_work(entries)
        self._show_draws()
        self.canvas.redraw()

    def choose(self, number: int) -> None:
        """Show what draws how much in a part of the day."""
        if self.drive is None or not 0 <= number < len(self.drive.balances):
            return
        self.canvas.chosen = number
        self.canvas.redraw()
        self._show_draws()
        self.more.setText(said(self.drive.balances[number]) + ".")

    def _picked(self, key: str) -> None:
        if key:
            self.choose(int(key))

    def _show_draws(self) -> None:
        drive, number = self.drive, max(0, self.canvas.chosen)
        found = drive.balances[number].draws if drive and drive.balances else ()
        self.draws.show_things(list(found))
        name = drive.balances[number].leg.name if drive and drive.balances else ""
        self.drawer.setTabText(1, f"What draws how much: {name}"[:60])

    def follow(self, subject: str) -> None:
        """Mark the load in hand."""
        self.draws_table.pick(Ref.parse(subject).code)

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""
        self.stop()
        self.more_tables.forget()
        self.drive = self.canvas.drive = None
        self.parts.show_things([])
        self.draws.show_things([])
        self.list.show_work([])
        self.canvas.redraw()

    # what is changed

    def _add(self) -> None:
        self._store.do("Add a part of the day", with_leg)
        self.drawer.setCurrentIndex(0)

    def _usual(self) -> None:
        self._store.do("A usual day", partial(edits.change_settings, drive=()))

    def _remove(self, keys: list[str]) -> None:
        numbers = [int(key) for key in keys if key]
        if numbers and len(numbers) < len(drive_of(self._store.job)):
            words = counted(len(numbers), "part")
            self._store.do(f"Delete {words} of the day", lambda job: without_legs(job, numbers))
        elif numbers:
            self.notice.say("A day has one part at least: change it instead.")


def _drawn(part: Part) -> str:
    return "" if part.balance is None else f"{part.balance.loads_a:.1f}"


def _given(part: Part) -> str:
    return "" if part.balance is None else f"{part.balance.can_a:.0f}"


def _left(part: Part) -> str:
    return "" if part.balance is None else f"{part.balance.left_a:+.1f}"


def _left_role(part: Part) -> str:
    return "stop" if part.balance is not None and part.balance.left_a < 0 else "proved"


def _would_do(part: Part) -> str:
    """Say which alternator or pulleys would do, where what is there does not."""
    one = part.balance
    if one is None or not one.leg.rpm or one.left_a >= 0:
        return ""
    if math.isinf(one.rating_a):
        return "no alternator: it turns too slowly"
    other = f"an alternator of {math.ceil(one.rating_a / 5) * 5} A"
    return f"{other}, or pulleys of 1:{one.pulleys:g}" if one.pulleys else other


def day_words(drive: Drive) -> str:
    """Say what comes of a day, in a line."""
    begins, ends = f"{drive.charge[0]:.0%}", f"{drive.charge[-1]:.0%}"
    if drive.empty_min is not None:
        name, late = drive.empty_in
        when = f"{late / 60:.1f} h" if late >= 90 else f"{late:.0f} min"
        return f"After {when} “{name}” the battery turns no engine any more."
    if drive.gains < -0.005:
        return f"A day takes more than it gives: {begins} becomes {ends}."
    return f"The battery holds: {begins} becomes {ends}."


def advice(drive: Drive) -> str:
    """Say what is short where, and that it is a judgement aid."""
    driven = [one for one in drive.balances if one.leg.rpm]
    short = [one.leg.name for one in driven if one.left_a < 0]
    words = f"Less is given than drawn {' and '.join(short)}. " if short else ""
    if driven and not any(one.charges for one in driven):
        words = "The alternator is not excited and gives nothing: see What is alive, running. "
    rests = f" Taken, for it is not typed: {', '.join(drive.taken)}." if drive.taken else ""
    return (
        f"{words}Currents are solved, how long each is on is a guess until you type it; the "
        f"alternator is taken hot.{rests}"
    )
