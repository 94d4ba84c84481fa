"""What a hand, a key or the engine switches; and the bus bar, which is always closed."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from molvik.devices.kind import DeviceStates, Kind, OwnTest, Pair
from molvik.devices.nodes import Vehicle
from molvik.devices.states import KEY_JOINS, State, all_joins, is_key, joins_of
from molvik.electrical.elements import Element
from molvik.model.parts import Device


@dataclass(frozen=True, kw_only=True, eq=False)
class Contacts(Kind):
    """Contacts, and nothing that takes a current."""

    is_load: bool = False
    crossed: bool = False

    def elements(
        self, vehicle: Vehicle, device: Device, state: State, states: DeviceStates
    ) -> list[Element]:
        """None: its contacts are ways."""
        return []

    def contacts(self, device: Device) -> tuple[Pair, ...]:
        """What it joins in some position."""
        return all_joins(device)

    def joined(self, device: Device, state: State) -> Collection[Pair]:
        """What it joins where it stands in a state."""
        return joins_of(device, state)

    def alternatives(self, device: Device) -> tuple[tuple[Pair, ...], ...]:
        """Its positions, or those of a key."""
        if device.positions:
            return tuple(position.joins for position in device.positions)
        return tuple(KEY_JOINS.values()) if is_key(device) else ()

    def fed_at(self, vehicle: Vehicle, device: Device) -> Iterator[str]:
        """By nothing."""
        yield from ()

    def own_tests(self, device: Device, nominal_v: float, bench_c: float) -> Iterator[OwnTest]:
        """Every pair of terminals in every position: joined there, or open."""
        places = [(one.name, one.joins) for one in device.positions]
        places = places or [("on", device.joins), ("off", ())]
        for pair in self.contacts(device):
            for name, joins in places:
                made = frozenset(pair) in {frozenset(one) for one in joins}
                yield OwnTest(
                    pair, f"position {name}", shows="closed" if made else "open", position=name
                )


@dataclass(frozen=True, kw_only=True, eq=False)
class BusBar(Contacts):
    """Studs that are one."""

    def contacts(self, device: Device) -> tuple[Pair, ...]:
        """None that opens."""
        return ()

    def bridges(self, device: Device) -> tuple[Pair, ...]:
        """The first stud with each other one."""
        first, *others = device.terminals or ("",)
        return tuple((first, name) for name in others)

    def alternatives(self, device: Device) -> tuple[tuple[Pair, ...], ...]:
        """None: it has one position."""
        return ()


SWITCH = Contacts(
    name="switch",
    terminals=("in", "out"),
    figures={"contact ohm": 0.01},
    joins=(("in", "out"),),
    fields=("joins", "positions", "case"),
)

ISOLATOR = Contacts(
    name="isolator",
    terminals=("1", "2"),
    figures={"contact ohm": 0.001},
    joins=(("1", "2"),),
    fields=("joins", "positions"),
    is_supply=True,
)

BUS_BAR = BusBar(name="bus bar", terminals=("M8",), figures={"ohm": 0.0001}, is_supply=True)
