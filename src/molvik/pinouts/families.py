"""Generic housings to begin with. None is a maker's: sizes, keys and contacts are common practice
for housings of that kind, and to be compared with the one in the hand.
"""

import math

from molvik.model.families import Family
from molvik.model.parts import CavityPosition, Connector, Gender, Grid, HousingGender
from molvik.reference.contacts import CONTACTS


def _sealed(ways: int, rows: int, contact: str, plug: bool) -> Family:
    housing: HousingGender = "plug" if plug else "receptacle"
    terminals: Gender = "socket" if plug else "pin"
    return Family(
        f"Sealed rectangular, {ways}-way {housing}",
        Grid(rows, ways // rows, start="top left" if plug else "top right"),
        housing,
        terminals,
        contact,
        key="bottom" if rows > 1 else "",
        lever="top",
        up="clip up",
        sealed=True,
        secondary_lock=True,
        cavity_plugs=True,
    )


def _computer(ways: int, rows: int, power: int) -> Family:
    """Return a lever-lock plug; its first cavities take the thick wires."""
    grid = Grid(rows, ways // rows, start="top right")
    return Family(
        f"Lever-lock computer plug, {ways}-way",
        grid,
        "plug",
        "socket",
        "20",
        tuple((str(n), "16") for n in range(1, power + 1)),
        key="bottom",
        lever="top",
        up="lever up",
        sealed=True,
        secondary_lock=True,
        cavity_plugs=True,
        note=f"cavities 1 to {power} take size 16",
    )


def _round(rings: tuple[int, ...], contact: str, names: str = "") -> Family:
    """Return a round plug: cavities on rings about the middle, counted from the key on top."""
    spots: list[CavityPosition] = []
    ways = sum(rings)
    for ring, count in enumerate(rings):
        radius = 0.0 if count == 1 else float(len(rings) - ring)
        for n in range(count):
            turn = 2 * math.pi * n / count
            label = names[len(spots)] if names else str(len(spots) + 1)
            x, y = radius * math.sin(turn), -radius * math.cos(turn)
            spots.append(CavityPosition(label, round(x, 4) + 0.0, round(y, 4) + 0.0))
    return Family(
        f"Round bulkhead, {ways}-way",
        Grid(1, 1, spots=tuple(spots), round=True),
        "receptacle",
        "pin",
        contact,
        key="top",
        up="wide key up",
        sealed=True,
        cavity_plugs=True,
    )


FAMILIES: tuple[Family, ...] = (
    *(
        _sealed(ways, rows, contact, plug)
        for ways, rows, contact in (
            (2, 1, "16"),
            (3, 1, "16"),
            (4, 2, "16"),
            (6, 2, "16"),
            (8, 2, "16"),
            (12, 2, "16"),
        )
        for plug in (True, False)
    ),
    _computer(40, 4, 4),
    _computer(60, 4, 6),
    _computer(80, 4, 8),
    _computer(120, 5, 10),
    _round((8, 5, 1), "16"),
    _round((16, 11, 6, 4), "20"),
    Family(
        "Key switch, five blades",
        Grid(
            1,
            1,
            spots=(
                CavityPosition("30", 1, 0, "8"),
                CavityPosition("15", 0, 1, "12"),
                CavityPosition("50", 2, 1, "12"),
                CavityPosition("75", 0, 2.2, "12"),
                CavityPosition("58", 2, 2.2, "12"),
            ),
        ),
        "receptacle",
        "pin",
        "12",
        key="top",
        up="keyhole's wide end up, seen from behind",
        note="terminals by DIN 72552; blades of 6.3 mm",
    ),
    Family(
        "Fuse panel, underside, 12 fuses",
        Grid(2, 12, by="column"),
        "receptacle",
        "socket",
        "12",
        up="bar on top",
        note="top row is the feed, bottom row the load; odd and even numbers",
    ),
    Family("Ring on a stud, M6", Grid(1, 1), "", "", "8", up="", note="one ring, more on top"),
    Family("Ring on a stud, M8", Grid(1, 1), "", "", "4", note="one ring, more on top"),
)
"""What ships. Users add their own."""


def about(family: Family) -> str:
    """Say in words what a housing of a family takes."""
    words = []
    sizes = dict.fromkeys((family.contact, *(size for _, size in family.contacts)))
    for size in sizes:
        contact = CONTACTS.get(size)
        if contact is not None:
            words.append(
                f"terminal {size}: {contact.current_a:g} A, {contact.least_mm2:g} to "
                f"{contact.most_mm2:g} mm²"
            )
    words.append("sealed" if family.sealed else "not sealed")
    words.append("secondary lock" if family.secondary_lock else "no secondary lock")
    if family.cavity_plugs:
        words.append("cavity plugs for what is empty")
    if family.note:
        words.append(family.note)
    return "; ".join(words)


def family_of(connector: Connector, name: str) -> Family:
    """Return a connector's housing as a family of its own."""
    return Family(
        name,
        connector.grid,
        connector.housing,
        connector.terminals,
        connector.contact,
        connector.contacts,
        connector.key,
        connector.lever,
        connector.up,
    )
