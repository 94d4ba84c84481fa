"""Codes of the engine computer: read, typed or counted; what stays harmlessly, what the rest is."""

from functools import partial
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QWidget

from molvik.analysis import Analysis
from molvik.desktop.dialogs.opening import ask
from molvik.desktop.stages.page import StagePage
from molvik.desktop.stages.proving.flashes import FlashCount
from molvik.desktop.stages.proving.linkbar import LinkBar
from molvik.desktop.widgets.small import CheckedField, button, column, label, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel
from molvik.logbook.clock import now_text
from molvik.model import edits, leaving_out
from molvik.model.job import LeftOut
from molvik.model.parts import End
from molvik.proving.computer import computers
from molvik.proving.taken import taken
from molvik.proving.troublecodes import (
    HOW,
    CodeVerdict,
    codes_of,
    judge_codes,
    last_codes,
    offered,
    read_codes,
)
from molvik.proving.validity import loom_fingerprint
from molvik.reference.troublecodes import LEFT_OUT
from molvik.wording import agree, counted

ROLES = {"harmless": "proved", "genuine": "stop"}
STAYS = "P1624 immobiliser removed from the software"


class Thing(NamedTuple):
    """A thing that may be left out. left: as it is in the job, None while it is not left out."""

    name: str
    codes: str
    why: str
    where: str
    left: LeftOut | None


class CodesView(QWidget):
    """The codes above, what is left out below."""

    def __init__(self, page: StagePage) -> None:
        super().__init__()
        self._page = page
        self.link = LinkBar(page)
        self.link.read.connect(self._read)
        self.typed = CheckedField("Codes", f"All codes that are set: {HOW}", self._type)
        self.typed.setPlaceholderText(HOW)
        self.flash_button = button(
            "Count flashes…",
            "Count a code off a lamp: tap a key with each flash",
            self.count_flashes,
        )
        self.stays = CheckedField("May stay", f"A code that may stay, and why: {STAYS}", self._stay)
        self.stays.setPlaceholderText(STAYS)
        for field in (self.typed, self.stays):
            field.refused.connect(page.notice.say)
            field.taken.connect(lambda: page.notice.say(""))
        self.words = label("", wrap=True)
        self.words.setObjectName("handTitle")
        self.told = label("", "faint", wrap=True)
        self.link.told.connect(self._tell)
        self.told.hide()
        self._build_tables()
        typed = row(
            label("Codes", "faint"),
            self.typed,
            self.flash_button,
            label("May stay", "faint"),
            self.stays,
        )
        typed.setStretch(1, 2)
        typed.setStretch(4, 2)
        below = QWidget()
        self.leave_button = button(
            "Leave out, or put back",
            "Say of the chosen thing that it is "
            "left out on purpose (type why to change the reason; Delete "
            "puts back)",
            self.toggle,
        )
        heading = row(label("LEFT OUT ON PURPOSE", "head"), 1, self.leave_button)
        below.setLayout(column(heading, self.left_table))
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.table)
        split.addWidget(below)
        split.setStretchFactor(0, 1)
        split.setStretchFactor(1, 1)
        split.setChildrenCollapsible(False)
        self.setLayout(column(self.link, typed, self.words, self.told, split))

    def _build_tables(self) -> None:
        self.model: ThingsModel[CodeVerdict] = ThingsModel(
            [
                Column("Code", lambda one: one.code, width=70, mono=True),
                Column(
                    "Meaning",
                    lambda one: one.meaning,
                    width=120,
                    role=lambda one: ROLES.get(one.meaning, "live_text"),
                ),
                Column("About", lambda one: one.words, width=220, grow=2),
                Column("Why, or where to look", lambda one: one.why, width=320, grow=3),
                Column("On", lambda one: one.on, width=60, mono=True),
            ],
            lambda one: one.code,
        )
        self.table: ThingsTable[CodeVerdict] = ThingsTable(self.model, "Codes that are set")
        self.table.picked.connect(self._pick)
        self.left_model: ThingsModel[Thing] = ThingsModel(
            [
                Column(
                    "Left out",
                    lambda one: "✓" if one.left else "",
                    width=76,
                    role=lambda one: "proved",
                ),
                Column("What", lambda one: one.name, width=190, grow=1),
                Column("Codes that stay", lambda one: one.codes, width=170, grow=1),
                Column(
                    "Because",
                    lambda one: one.why,
                    width=320,
                    grow=3,
                    edit=self._because,
                    tip="Why its codes are harmless: typing a reason leaves it out",
                ),
                Column("In a pinout", lambda one: one.where, width=120),
            ],
            lambda one: one.name,
        )
        self.left_table: ThingsTable[Thing] = ThingsTable(self.left_model, "Left out on purpose")
        self.left_table.refused.connect(self._page.notice.say)
        self.left_table.removed.connect(self._put_back)

    def show_job(self, analysis: Analysis) -> None:
        """Show the codes that were read last, and what is left out."""
        job = analysis.job
        reading = last_codes(job.readings)
        verdicts = judge_codes(analysis.network, codes_of(reading)) if reading else ()
        self.model.show_things(list(verdicts))
        if reading is None:
            self.words.setText(
                "No codes were read yet: connect the scan tool, type them, or count the flashes of "
                "a lamp."
            )
        else:
            harmless = sum(one.meaning == "harmless" for one in verdicts)
            said = (
                f"{counted(len(verdicts), 'code')}, {harmless} harmless" if verdicts else "No codes"
            )
            self.words.setText(f"{said}, read {reading.at[:16].replace('T', ' ')}.")
        left = {one.thing: one for one in job.left_out}
        things = [
            Thing(thing.name, ", ".join(thing.codes), thing.why, where, left.pop(thing.name, None))
            for thing, where in offered(analysis.network)
        ]
        things = [
            one._replace(why=one.left.reason or one.why) if one.left else one for one in things
        ]
        things += [
            Thing(one.thing, ", ".join(one.codes), one.reason, "", one) for one in left.values()
        ]
        things.sort(key=lambda one: (one.left is None, not one.where))
        self.left_model.show_things(things)

    def _pick(self, key: str) -> None:
        on = next((one.on for one in self.model.things if one.code == key), "")
        if on:
            self._page.hand.pick(on)

    # what was read

    def _read(self, found: tuple[tuple[str, ...], tuple[str, ...]]) -> None:
        """Keep the codes that came by the link; those not sure yet are said."""
        codes, pending = found
        self._keep(codes, self.link.identity)
        more = f" Not sure yet: {', '.join(pending)}." if pending else ""
        were = agree(len(codes), "was", "were")
        self._tell(f"{counted(len(codes), 'code')} {were} read.{more}")

    def _tell(self, words: str) -> None:
        self.told.setText(words)
        self.told.setVisible(bool(words))

    def _type(self, text: str) -> None:
        if text.strip():
            codes = read_codes(text)
            self.typed.show_value("")
            self._keep(codes, "")

    def count_flashes(self) -> None:
        """Count codes off a lamp."""
        asked = FlashCount(self)
        if ask(asked) and asked.codes:
            self._keep(asked.codes, "counted off the lamp")

    def _keep(self, codes: tuple[str, ...], instrument: str) -> None:
        page = self._page
        job = page.store.job
        found = computers(page.analysis.network)
        at = End(found[0].code if found else "")  # of a vehicle nobody has drawn
        reading = taken(
            job.settings,
            now_text(),
            "words",
            None,
            (at,),
            of="codes",
            said=" ".join(codes),
            instrument=instrument[:80],
            fingerprint=loom_fingerprint(page.analysis.plan),
        )
        page.store.do("Codes", lambda old: edits.record(old, reading))

    # what is left out

    def _stay(self, text: str) -> None:
        """Say of a code that it may stay, and why."""
        if not text.strip():
            return
        code, _, reason = text.strip().partition(" ")
        (code,) = read_codes(code) or ("",)
        if not code or not reason.strip():
            raise ValueError(f"Type a code and why it may stay: {STAYS}.")
        self.stays.show_value("")
        self._leave(LeftOut(code, (code,), reason.strip()))

    def toggle(self) -> None:
        """Leave the chosen thing out, or put it back."""
        key = self.left_table.current_key()
        if not key:
            self._page.notice.say("Choose a thing below first.")
        elif any(one.thing == key for one in self._page.store.job.left_out):
            self._put_back([key])
        else:
            self._leave(LeftOut(key))

    def _because(self, thing: Thing, text: str) -> None:
        known = LEFT_OUT.get(thing.name)
        reason = text.strip() if known is None or text.strip() != known.why else ""
        codes = thing.left.codes if thing.left else ()
        self._leave(LeftOut(thing.name, codes, reason))

    def _leave(self, left: LeftOut) -> None:
        words = f"Left out: {left.thing}"
        self._page.store.do(words, lambda job: leaving_out.leave_out(job, left))

    def _put_back(self, keys: list[str]) -> None:
        for key in keys:
            if any(one.thing == key for one in self._page.store.job.left_out):
                words = f"Not left out: {key}"
                self._page.store.do(words, partial(leaving_out.put_back, thing=key))

    def forget(self) -> None:
        """The job was closed: let go of it."""
        self.link.forget()
        self.model.show_things([])
        self.left_model.show_things([])
        self._tell("")
