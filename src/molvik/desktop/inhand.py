"""The panel on the right: whatever is in hand, the same in every stage."""

import math
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from molvik.analysis import Analysis
from molvik.desktop.facts import FactList, Facts
from molvik.desktop.hand import Hand
from molvik.desktop.stages.circuits.facts import alive_facts
from molvik.desktop.stages.page import known_now
from molvik.desktop.store import Store
from molvik.desktop.typed import WIRE_FIELDS, WireField, edit_wire
from molvik.desktop.widgets.paint import Swatch
from molvik.desktop.widgets.small import (
    CheckedField,
    Notice,
    button,
    column,
    label,
    row,
)
from molvik.desktop.widgets.story import StoryView
from molvik.desktop.widgets.thumbs import Thumbs
from molvik.model import edits
from molvik.model.loom_edits import Found, find
from molvik.model.parts import (
    CavityFill,
    Connector,
    Device,
    EarthPoint,
    End,
    Fuse,
    Part,
    Pin,
    Splice,
    Wire,
)
from molvik.model.refs import Ref
from molvik.netlist.passing import terminals_named
from molvik.reference.colours import colour_name
from molvik.reference.contacts import CONTACTS
from molvik.reference.fuses import BODY_COLOURS
from molvik.sizes.drop import drop_v
from molvik.sizes.hot import temperature_c
from molvik.sizes.wire import Sizing


class InHand(QWidget):
    """Shows the subject in hand. removed(code): the user wants it taken out of the job.

    dropped(paths): files were dropped on it. photos_wanted: photos are to be added.
    """

    removed = Signal(str)
    dropped = Signal(list)
    photos_wanted = Signal()

    def __init__(self, store: Store, hand: Hand) -> None:
        super().__init__()
        self.setObjectName("hand")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._store, self._hand = store, hand
        self.title = label("", wrap=True)
        self.title.setObjectName("handTitle")
        self.swatch = Swatch()
        self.under = label("", "faint", wrap=True)
        self.story = StoryView()
        self.story.chosen.connect(hand.pick)
        self.facts = FactList()
        self.notice = Notice()
        self.fields: dict[str, CheckedField] = {}
        self._form_code = ""
        self._waits = False
        self._form = QWidget()
        form = QGridLayout(self._form)
        form.setContentsMargins(0, 0, 0, 0)
        form.setVerticalSpacing(4)
        form.setColumnMinimumWidth(0, 86)
        for at, field in enumerate(WIRE_FIELDS):
            entry = CheckedField(field.name, field.tip, partial(self._take, field))
            if field.choices:
                entry.offer(field.choices)
            entry.refused.connect(self.notice.say)
            entry.taken.connect(lambda: self.notice.say(""))
            name = label(field.name, "faint")
            name.setBuddy(entry)
            form.addWidget(name, at, 0)
            form.addWidget(entry, at, 1)
            self.fields[field.name] = entry
        self._cavity = QWidget()
        self.fill_buttons = {
            "empty": button("Seen empty", "Nothing is in this cavity", lambda: self._fill("empty")),
            "plugged": button("Plugged", "A cavity plug is fitted", lambda: self._fill("plugged")),
            "": button("Not known", "Take the mark away", lambda: self._fill("")),
        }
        self._cavity.setLayout(row(*self.fill_buttons.values(), 1, spacing=4))
        self.change = button("Change…", "Its name, rating, terminals or housing", self._change)
        self.remove = button(
            "Take out of the job", "Remove it; can be undone", self._remove, "quiet"
        )
        self.thumbs = Thumbs()
        tip = "Photos of what is in hand (Ctrl+Shift+P); or drop them on this panel"
        self.add_photos = button("Add photos…", tip, self.photos_wanted.emit, "quiet")
        self.setAcceptDrops(True)
        body = QWidget()
        body.setObjectName("handBody")
        inner = QVBoxLayout(body)
        inner.setContentsMargins(18, 14, 14, 14)
        inner.setSpacing(10)
        inner.addWidget(label("IN HAND", "head"))
        inner.addWidget(self.title)
        inner.addLayout(row(self.swatch, self.under))
        self._cards = QVBoxLayout()
        inner.addLayout(self._cards)
        self._card: QWidget | None = None
        for widget in (self.thumbs, self.story, self.facts, self._cavity, self.notice, self._form):
            inner.addWidget(widget)
        inner.addLayout(row(self.change, self.remove, 1))
        inner.addLayout(row(self.add_photos, 1))
        inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setLayout(column(scroll))
        self.setMinimumWidth(280)
        hand.picked.connect(lambda _: self.refresh())

    def show_card(self, card: QWidget | None) -> None:
        """Show what the open stage has to say of what is in hand, in place of the last one's."""
        if card is self._card:
            return
        if self._card is not None:
            self._card.hide()
        if card is not None and card.parentWidget() is not self._cards.parentWidget():
            self._cards.addWidget(card)
        self._card = card

    def refresh(self) -> None:
        """Show the subject in hand as the job has it now."""
        analysis, subject = self._store.analysis, self._hand.subject
        network = analysis.network
        code, cavity, _ = Ref.parse(subject)
        wire = network.wires.get(code)
        part = network.parts.get(code)
        self.notice.say("")
        for widget in (self.swatch, self.story, self._form, self._cavity):
            widget.hide()
        self.thumbs.show_photos(self._store.job.photos_on(subject))
        found = find(self._store.job.loom, code)
        removable = wire is not None or found is not None or (part is not None and not cavity)
        self.remove.setVisible(removable)
        self.change.setVisible(part is not None and not cavity)
        if wire is not None:
            self._show_wire(analysis, wire)
        elif isinstance(part, Connector) and cavity:
            self._show_cavity(analysis, part, cavity)
        elif part is not None:
            self._show_part(analysis, part)
        elif found is not None:
            self._show_found(analysis, found)
        else:
            self.title.setText("Nothing")
            self.under.setText("Choose a wire, a cavity or a part: its story shows here.")
            self.facts.show_facts([])

    def fill_in(self) -> None:
        """Show what was computed meanwhile."""
        if self._waits:
            self._waits = False
            self.refresh()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files."""
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Hand over the files that were dropped."""
        urls = event.mimeData().urls()
        self.dropped.emit([Path(url.toLocalFile()) for url in urls if url.isLocalFile()])

    # wires

    def _show_wire(self, analysis: Analysis, wire: Wire) -> None:
        self.title.setText(wire.function or f"Wire {wire.code}")
        self.swatch.show()
        self.swatch.show_colour(wire.colour)
        tint = wire.colour
        named = colour_name(tint.base, tint.tracer) if tint else "colour not known"
        size = str(wire.size) if wire.size else "size not known"
        self.under.setText(f"{wire.code} · {named} · {size}")
        legs: dict[str, str] = {}
        stops = analysis.story(wire.code)
        for stop in stops:
            if stop.wire:
                legs[stop.wire] = _leg(analysis, analysis.network.wires[stop.wire])
        self._waits = not known_now(analysis)
        self.story.show()
        self.story.show_story(stops, legs, wire.code)
        self.facts.show_facts(wire_facts(analysis, wire))
        if wire.code != self._form_code:
            for entry in self.fields.values():
                entry.finish()  # what was typed belongs to the wire it was typed for
            self._form_code = wire.code
        self._form.show()
        for field in WIRE_FIELDS:
            self.fields[field.name].show_value(field.show(wire))

    def _take(self, field: WireField, text: str) -> None:
        edit_wire(self._store, self._form_code, field, text)

    def _show_found(self, analysis: Analysis, thing: Found) -> None:
        from molvik.desktop.found import show_found

        shown = show_found(analysis, thing)
        self.title.setText(shown.title)
        self.under.setText(shown.under)
        self.swatch.setVisible(shown.colour is not None)
        self.swatch.show_colour(shown.colour)
        self.facts.show_facts(shown.facts)

    # cavities and parts

    def _show_cavity(self, analysis: Analysis, connector: Connector, cavity: str) -> None:
        pin = next((p for p in connector.pins if p.cavity == cavity), Pin(cavity))
        wires = analysis.network.wires_at.get(End(connector.code, cavity), [])
        self.title.setText(pin.function or f"Cavity {cavity}")
        self.under.setText(f"{connector.name} ({connector.code}), cavity {cavity}")
        facts: Facts = [
            ("Wires", ", ".join(f"{w.code} {w.function}" for w in wires) or "none", ""),
            ("Circuit", pin.circuit or "–", ""),
            ("Pinout says", _pin_words(pin), ""),
            ("Seen", pin.fill or ("wired" if wires else "not known"), ""),
        ]
        if pin.note:
            facts.append(("Note", pin.note, ""))
        self.facts.show_facts(facts)
        self._cavity.setVisible(not wires or bool(pin.fill))

    def _fill(self, fill: CavityFill) -> None:
        code, cavity, _ = self._hand.ref
        words = {"": "Mark away from", "empty": "Empty", "plugged": "Plug in"}[fill]
        self._store.do(
            f"{words} {code}/{cavity}", lambda job: edits.fill_cavity(job, code, cavity, fill)
        )

    def _show_part(self, analysis: Analysis, part: Part) -> None:
        network = analysis.network
        self.title.setText(part.name or part.code)
        ends = [end for end in network.wires_at if end.at == part.code]
        if isinstance(part, Device) and part.plug:
            mine = {End(part.plug, name) for name in terminals_named(part)}
            ends += [end for end in network.wires_at if end in mine]
        wires = sorted(
            {f"{w.code} {w.function}".strip() for end in ends for w in network.wires_at[end]}
        )
        facts: Facts = []
        match part:
            case Connector():
                ways = len(network.cavities[part.code])
                self.under.setText(f"{part.code} · {ways}-way {part.housing or 'housing'}")
                contact = CONTACTS.get(part.contact)
                mate = network.mates.get(part.code)
                facts = [
                    ("Terminals", part.terminals or "not known", ""),
                    (
                        "Contact",
                        f"size {contact.size}, {contact.current_a:g} A, "
                        f"{contact.least_mm2:g} to {contact.most_mm2:g} mm²"
                        if contact
                        else "not known",
                        "",
                    ),
                    ("Plugs into", network.parts[mate].name if mate else "–", ""),
                    ("Pinout", part.pinout_from or "typed by hand", ""),
                ]
            case Fuse():
                tint = BODY_COLOURS.get(part.rating_a) if part.kind == "blade" else None
                body = f", {tint} body" if tint else ""
                self.under.setText(f"{part.code} · {part.rating_a:g} A {part.kind} fuse{body}")
            case Splice():
                self.under.setText(f"{part.code} · {part.joint} splice")
            case EarthPoint():
                self.under.setText(f"{part.code} · {self._store.job.settings.earth_word} point")
            case Device():
                self.under.setText(f"{part.code} · {part.kind}")
                facts = [("Terminals", ", ".join(terminals_named(part)), "")]
                if part.plug:
                    facts.append(("Plug", part.plug, ""))
        if isinstance(part, Device | Fuse):
            facts += alive_facts(analysis, part)
        facts.append(("Wires", f"{len(wires)}", ""))
        facts += [("", text, "") for text in wires[:14]]
        if len(wires) > 14:
            facts.append(("", f"and {len(wires) - 14} more", ""))
        self.facts.show_facts(facts)

    def _change(self) -> None:
        from molvik.desktop.parts import change_part

        change_part(self, self._store, self._hand.subject)

    def _remove(self) -> None:
        self.removed.emit(self._hand.subject)


def _leg(analysis: Analysis, wire: Wire) -> str:
    """Return what to say of a wire between two stops: its code, length and drop."""
    words = [wire.code]
    if wire.length_m is not None:
        words.append(f"{wire.length_m:.2f} m")
    known = wire.size is not None and known_now(analysis)
    lost = drop_v(wire.size, analysis.sizing_cases[wire.code]) if known and wire.size else None
    if lost is not None:
        words.append(f"drop {lost * 1000:.0f} mV")
    return " · ".join(words)


def _pin_words(pin: Pin) -> str:
    words = [colour_name(pin.colour.base, pin.colour.tracer)] if pin.colour else []
    words += [str(pin.size)] if pin.size else []
    return ", ".join(words) or "–"


def wire_facts(analysis: Analysis, wire: Wire) -> Facts:
    """Return what to know of a wire: size, protection, heat, proof."""
    facts: Facts = []
    known = known_now(analysis)
    sizing = analysis.sizings.get(wire.code) if known else None
    if wire.size is None:
        facts.append(("Size", "not known", "look"))
    elif sizing is None:
        facts.append(("Size", "is being judged …", ""))
    elif not sizing.passes:
        facts.append(("Size", f"{sizing.size} fails on {_failing(sizing)}", "bad"))
    elif sizing.unknown:
        facts.append(("Size", f"not judged: {' and '.join(sizing.unknown)} not known", "look"))
    else:
        facts.append(("Size", f"{sizing.size} is enough", "proved"))
    feed = analysis.network.feed(wire) if known else None
    if not known:
        facts.append(("Protected by", "is being judged …", ""))
    elif feed is None:
        facts.append(("Protected by", "not fed by the battery", ""))
    elif math.isinf(feed.limit_a):
        starter = wire.use == "starter"
        facts.append(("Protected by", "no fuse", "" if starter else "bad"))
    else:
        facts.append(("Protected by", f"{feed.fuse}, {feed.limit_a:g} A", ""))
    asked = analysis.sizing_cases[wire.code] if known else None
    heat = temperature_c(wire.size, asked) if wire.size and asked else None
    if heat is not None and asked is not None:
        hot = heat > asked.kind.limit_c
        text = f"{heat:.0f} °C of {asked.kind.limit_c:g} °C"
        facts.append(("Heat", text, "bad" if hot else ""))
    facts += alive_facts(analysis, wire)
    verdict = analysis.proof.get(wire.code)
    if verdict is None:
        facts.append(("Proved", "no: it has a loose end", "bad"))
    else:
        role = {"passed": "proved", "not measured": "look"}.get(verdict.outcome, "bad")
        facts.append(("Proved", verdict.text, role))
    return facts


def _failing(sizing: Sizing) -> str:
    return " and ".join(one.name for one in sizing.criteria if not one.passes)
