"""A view of a tab that is made when it is first turned to: what it needs takes a moment to load."""

from collections.abc import Callable
from typing import Protocol

from PySide6.QtWidgets import QVBoxLayout, QWidget

from molvik.desktop.hand import Hand
from molvik.desktop.store import Store


class View(Protocol):
    """What a tab shows. left: what belongs on the left of the page."""

    left: QWidget

    def refresh(self) -> None:
        """Show the job as it is now."""

    def follow(self, subject: str) -> None:
        """Mark what is in hand."""

    def forget(self) -> None:
        """The job was closed: let go of what was shown of it."""


Make = Callable[[Store, Hand], View]


class LaterView(QWidget):
    """The room of a view. left: its room on the left of the page."""

    def __init__(self, make: Make, store: Store, hand: Hand) -> None:
        super().__init__()
        self._make, self._store, self._hand = make, store, hand
        self._made: View | None = None
        self.left = QWidget()
        for room in (self, self.left):
            inside = QVBoxLayout(room)
            inside.setContentsMargins(0, 0, 0, 0)

    @property
    def view(self) -> View:
        """The view, made when it is first asked for."""
        if self._made is None:
            self._made = self._make(self._store, self._hand)
            assert isinstance(self._made, QWidget)
            for room, inside in ((self, self._made), (self.left, self._made.left)):
                layout = room.layout()
                assert layout is not None
                layout.addWidget(inside)
        return self._made

    def follow(self, subject: str) -> None:
        """Mark what is in hand, where there is anything to mark it in."""
        if self._made is not None:
            self._made.follow(subject)

    def forget(self) -> None:
        """Let go of what was shown of a job."""
        if self._made is not None:
            self._made.forget()


def bus_view(store: Store, hand: Hand) -> View:
    """Make the view of the bus."""
    from molvik.desktop.stages.circuits.busview import BusView

    return BusView(store, hand)


def charge_view(store: Store, hand: Hand) -> View:
    """Make the view of charging."""
    from molvik.desktop.stages.circuits.chargeview import ChargeView

    return ChargeView(store, hand)


def gauge_view(store: Store, hand: Hand) -> View:
    """Make the view of gauges."""
    from molvik.desktop.stages.circuits.gaugeview import GaugeView

    return GaugeView(store, hand)


def diagram_view(store: Store, hand: Hand) -> View:
    """Make the view of the diagram."""
    from molvik.desktop.stages.circuits.diagramview import DiagramView

    return DiagramView(store, hand)


LATER: dict[str, Make] = {
    "Bus": bus_view,
    "Charging": charge_view,
    "Gauges": gauge_view,
    "Diagram": diagram_view,
}
"""The tabs that are made when they are first turned to, in their order."""
