"""What a meter shows on a bus, what feeds its modules, and the places for a new one, as tables that
fold away.
"""

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from molvik.circuits.bus.meter import AT_REST, Reads
from molvik.circuits.bus.power import Power
from molvik.circuits.bus.taps import Tap
from molvik.desktop.widgets.drawer import Drawer
from molvik.desktop.widgets.small import button, row
from molvik.desktop.widgets.table import ThingsTable
from molvik.desktop.widgets.things import Column, ThingsModel

TABLE_PX = 190
"""The most of a table below the drawings, px."""


class BusTables(Drawer):
    """All three tables. pick: takes a part in hand; lay: lays a new module at the chosen place."""

    def __init__(self, pick: Callable[[str], None], lay: Callable[[], None]) -> None:
        super().__init__("What a meter shows, and places for a new module")
        reads: list[Column[Reads]] = [
            Column("Place", lambda one: one.at, width=64, mono=True),
            Column("Ohms", lambda one: one.shown, width=84),
            Column("High V", lambda one: _volts(one.high_v), width=64),
            Column("Low V", lambda one: _volts(one.low_v), width=64),
            Column("What it means", lambda one: one.means, width=380, grow=1),
        ]
        self.reads: ThingsModel[Reads] = ThingsModel(reads, lambda one: one.at)
        self.reads_table: ThingsTable[Reads] = ThingsTable(self.reads, "What a meter shows")
        self.reads_table.picked.connect(pick)
        self.reads_table.setToolTip(
            "Ohms between the two wires with the power off; volts against earth at rest:\n"
            + "\n".join(f"{what}: {means}" for what, means in AT_REST)
        )
        places: list[Column[Tap]] = [
            Column("Place", lambda one: one.at, width=64, mono=True),
            Column("Name", lambda one: one.name, width=150),
            Column("Stub", _stub, width=128),
            Column("What it takes", lambda one: "; ".join(one.needs), width=230, grow=1),
            Column(
                "What speaks against it",
                lambda one: "; ".join(one.against) or "nothing",
                width=210,
                grow=1,
                role=lambda one: "live_text" if one.against else "proved",
            ),
        ]
        self.taps: ThingsModel[Tap] = ThingsModel(places, lambda one: one.at)
        self.taps_table: ThingsTable[Tap] = ThingsTable(self.taps, "Places for a new module")
        self.taps_table.doubleClicked.connect(lambda _: lay())
        self.lay_button = button(
            "Lay it here…", "The module, its pair of wires, and a terminator moved", lay
        )
        self.reads_table.setMaximumHeight(TABLE_PX)
        self.taps_table.setMaximumHeight(TABLE_PX - 40)
        box = QWidget()
        inside = QVBoxLayout(box)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.taps_table, 1)
        inside.addLayout(row(1, self.lay_button))
        fed: list[Column[Power]] = [
            Column("Module", lambda one: one.code, width=64, mono=True),
            Column("Name", lambda one: one.name, width=180),
            Column(
                "What feeds it",
                lambda one: one.says,
                width=380,
                grow=1,
                role=lambda one: "" if one.is_fed else "stop",
            ),
        ]
        self.fed: ThingsModel[Power] = ThingsModel(fed, lambda one: one.code)
        self.fed_table: ThingsTable[Power] = ThingsTable(self.fed, "What feeds each module")
        self.fed_table.picked.connect(pick)
        self.fed_table.setMaximumHeight(TABLE_PX)
        self.addTab(self.reads_table, "What a meter shows")
        self.addTab(box, "Places for a new module")
        self.addTab(self.fed_table, "Power of each module")
        self.fold()

    def show_all(
        self, reads: tuple[Reads, ...], taps: tuple[Tap, ...], fed: tuple[Power, ...]
    ) -> None:
        """Show what a meter shows, the places for a new module, the best first, and what feeds
        those that are there.
        """
        self.reads.show_things(list(reads))
        self.taps.show_things(list(taps))
        self.fed.show_things(list(fed))

    def show_places(self) -> None:
        """Unfold the places for a new module, the best chosen."""
        self.setCurrentIndex(1)
        self.unfold()
        if self.taps.things:
            self.taps_table.pick(self.taps.things[0].at)
        self.taps_table.setFocus()


def _volts(volts: float | None) -> str:
    return "dead" if volts is None else f"{volts:.1f}"


def _stub(one: Tap) -> str:
    return "makes it longer" if one.at_end else f"{one.stub_m:.2g} m"
