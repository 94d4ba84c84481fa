"""Pinouts in hand: a connector, and one of its cavities with what was seen in it."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QWidget

from molvik.analysis import Analysis
from molvik.desktop.card import HandCard, Shown
from molvik.desktop.facts import Facts, wires_at
from molvik.desktop.hand import Hand
from molvik.desktop.store import Store
from molvik.desktop.widgets.small import button, row
from molvik.model import edits
from molvik.model.parts import CavityFill, End, Pin
from molvik.model.refs import Ref
from molvik.reference.colours import colour_name
from molvik.reference.contacts import CONTACTS

FILLS: tuple[tuple[CavityFill, str, str, str], ...] = (
    ("empty", "Seen empty", "Nothing is in this cavity", "Empty"),
    ("plugged", "Plugged", "A cavity plug is fitted", "Plug in"),
    ("", "Not known", "Take the mark away", "Mark away from"),
)
"""What may be seen in a cavity: button, tooltip, and how the step is called in the history."""


class CavityCard(HandCard):
    """A cavity, with buttons for what was seen in it."""

    def __init__(self, store: Store, hand: Hand, say: Callable[[str], None]) -> None:
        super().__init__(store, hand, say)
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
        facts: Facts = [
            ("Wires", ", ".join(f"{w.code} {w.function}" for w in wires) or "none", ""),
            ("Circuit", pin.circuit or "–", ""),
            ("Pinout says", _pin_words(pin), ""),
            ("Seen", pin.fill or ("wired" if wires else "not known"), ""),
        ]
        if pin.note:
            facts.append(("Note", pin.note, ""))
        self._buttons.setVisible(not wires or bool(pin.fill))
        under = f"{connector.name} ({connector.code}), cavity {ref.cavity}"
        return Shown(pin.function or f"Cavity {ref.cavity}", under, facts)

    def _fill(self, fill: CavityFill, step: str) -> None:
        code, cavity, _ = self.hand.ref
        self.store.do(
            f"{step} {code}/{cavity}", lambda job: edits.fill_cavity(job, code, cavity, fill)
        )


class ConnectorCard(HandCard):
    """A connector."""

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
        mate = network.mates.get(part.code)
        facts: Facts = [
            ("Terminals", part.terminals or "not known", ""),
            ("Contact", fits, ""),
            ("Plugs into", network.parts[mate].name if mate else "–", ""),
            ("Pinout", part.pinout_from or "typed by hand", ""),
            *wires_at(analysis, part.code),
        ]
        ways = len(network.cavities[part.code])
        under = f"{part.code} · {ways}-way {part.housing or 'housing'}"
        return Shown(part.name or part.code, under, facts, removable=True, changeable=True)


def _pin_words(pin: Pin) -> str:
    words = [colour_name(pin.colour.base, pin.colour.tracer)] if pin.colour else []
    words += [str(pin.size)] if pin.size else []
    return ", ".join(words) or "–"
