"""Pinouts in hand: a connector, and one of its cavities with what was seen in it."""

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.hand import Hand
from molvik.desktop.panel.card import Shown
from molvik.desktop.panel.facts import Facts, wires_at
from molvik.desktop.panel.fieldcard import FieldCard
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, row
from molvik.model import edits
from molvik.model.parts import CavityFill, Connector, End, Pin
from molvik.model.refs import Ref, end_text
from molvik.reference.contacts import CONTACTS
from molvik.typed.field import Field, Typed
from molvik.typed.parts import CONNECTOR_FIELDS, type_part
from molvik.typed.pins import PIN_FIELDS, type_pin

FILLS: tuple[tuple[CavityFill, str, str, str], ...] = (
    ("empty", "Seen empty", "Nothing is in this cavity", "Empty"),
    ("plugged", "Plugged", "A cavity plug is fitted", "Plug in"),
    ("", "Not known", "Take the mark away", "Mark away from"),
)
"""What may be seen in a cavity: button, tooltip, and how the step is called in the history."""


class _Cavity(NamedTuple):
    """A cavity by its place, "C3/5", with what the pinout says of it."""

    code: str
    pin: Pin


class CavityCard(FieldCard):
    """A cavity: what the pinout says of it to type into, and buttons for what was seen in it."""

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.lay(PIN_FIELDS)
        self.fill_buttons = {
            fill: button(text, tip, partial(self._fill, fill, step))
            for fill, text, tip, step in FILLS
        }
        self._buttons = QWidget()
        self._buttons.setLayout(row(*self.fill_buttons.values(), 1, spacing=4))
        self.below = QWidget()
        self.below.setLayout(row(self._buttons))

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a cavity."""
        connector = analysis.job.connector(ref.code)
        assert connector is not None
        pin = next((p for p in connector.pins if p.cavity == ref.cavity), Pin(ref.cavity))
        wires = analysis.network.wires_at.get(End(ref.code, ref.cavity), [])
        self.show_fields(_Cavity(str(ref), pin), PIN_FIELDS)
        facts: Facts = [("Wires", ", ".join(f"{w.code} {w.function}" for w in wires) or "none", "")]
        if not pin.fill:
            facts.append(("Seen", "wired" if wires else "not known", ""))
        self._buttons.setVisible(not wires or bool(pin.fill))
        under = f"{connector.name} ({connector.code}), cavity {ref.cavity}"
        return Shown(pin.function or f"Cavity {ref.cavity}", under, facts)

    def text_of(self, field: Field[Pin], thing: _Cavity) -> str:
        """Return what the pinout says of it."""
        return field.show(thing.pin)

    def typed(self, thing: _Cavity, field: Field[Pin], text: str) -> Typed:
        """Read what was typed of it."""
        code, cavity, _ = Ref.parse(thing.code)
        return type_pin(self.store.analysis.network, code, cavity, field, text)

    def _fill(self, fill: CavityFill, step: str) -> None:
        code, cavity, _ = self.hand.ref
        self.store.do(
            f"{step} {end_text(code, cavity)}",
            lambda job: edits.fill_cavity(job, code, cavity, fill),
        )


class ConnectorCard(FieldCard):
    """A connector."""

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
        self.lay(CONNECTOR_FIELDS)

    def typed(self, thing: Connector, field: Field[Connector], text: str) -> Typed:
        """Read what was typed of it."""
        return type_part(self.store.analysis.network, thing.code, field, text)

    def show(self, analysis: Analysis, ref: Ref) -> Shown:
        """Show a connector with its wires."""
        network = analysis.network
        part = analysis.job.connector(ref.code)
        assert part is not None
        contact = CONTACTS.get(part.contact)
        fits = "not known"
        if contact is not None:
            fits = (
                f"size {contact.size}, {contact.current_a:g} A, "
                f"{contact.least_mm2:g} to {contact.most_mm2:g} mm²"
            )
        self.show_fields(part, CONNECTOR_FIELDS)
        mate = network.mates.get(part.code)
        facts: Facts = [
            ("Takes", fits, ""),
            ("Mates with", network.parts[mate].name if mate else "–", ""),
            ("Pinout", part.pinout_from or "typed by hand", ""),
            *wires_at(analysis, part.code),
        ]
        ways = len(network.cavities[part.code])
        under = f"{part.code} · {ways}-way {part.housing or 'housing'}"
        return Shown(part.name or part.code, under, facts, removable=True, changeable=True)
