"""To which system of a vehicle each piece of a diagram belongs: what a load is says its kind and
its name; what feeds or switches it belongs to what it leads to.
"""

from collections import Counter, defaultdict
from collections.abc import Mapping

from molvik.circuits.diagram.pieces import Piece, Pieces
from molvik.devices import kind_of
from molvik.devices.states import is_key
from molvik.model.job import Job
from molvik.model.parts import Device
from molvik.parsing.functions.telling import telling

POWER = "power distribution"

SYSTEMS = (
    POWER,
    "starting and charging",
    "ignition",
    "injection",
    "sensors",
    "cooling",
    "lamps",
    "gauges and warning lamps",
    "bus",
    "body",
)
"""In the order of their pages."""

BY_KIND = {
    "battery": POWER,
    "isolator": POWER,
    "bus bar": POWER,
    "starter": "starting and charging",
    "alternator": "starting and charging",
    "dynamo": "starting and charging",
    "regulator": "starting and charging",
    "coil": "ignition",
    "injector": "injection",
    "thermistor": "sensors",
    "pickup": "sensors",
    "sensor": "sensors",
    "lamp": "lamps",
    "gauge": "gauges and warning lamps",
    "warning lamp": "gauges and warning lamps",
    "network node": "bus",
    "diagnostic plug": "bus",
}

BY_WORDS: tuple[tuple[str, str], ...] = (
    ("choke", "injection"),
    ("heater", "body"),
    ("horn", "body"),
    ("wiper", "body"),
    ("washer", "body"),
    ("window", "body"),
    ("winch", "body"),
    ("main", POWER),
    ("start", "starting and charging"),
    ("charge", "starting and charging"),
    ("excitation", "starting and charging"),
    ("ignition", "ignition"),
    ("spark", "ignition"),
    ("fuel", "injection"),
    ("injector", "injection"),
    ("fan", "cooling"),
    ("coolant", "cooling"),
    ("headlamp", "lamps"),
    ("headlamps", "lamps"),
    ("lamp", "lamps"),
    ("beacon", "lamps"),
)
"""What words in a name say of a part, the first that is there (our choice)."""

MANY = 2
"""What leads to more systems than so many hands them their power."""

ROUNDS = 8
"""So far is followed what a fuse or a contact leads to."""


def systems(made: Pieces, job: Job) -> dict[str, str]:
    """Return the system of each piece, by its key."""
    devices = {device.code: device for device in job.devices}
    found: dict[str, str] = {}
    on: dict[int, list[Piece]] = defaultdict(list)
    for piece in made.pieces:
        for end in piece.ends:
            on[end.line].append(piece)
        said = _said(piece, devices.get(piece.code))
        if said:
            found[piece.key] = said
    earths = {line.number for line in made.lines if line.earth}
    for _ in range(ROUNDS):
        more: dict[str, str] = {}
        for piece in made.pieces:
            if piece.key in found:
                continue
            near = Counter(
                found[other.key]
                for end in piece.ends
                if end.line not in earths
                for other in on[end.line]
                if other.key in found and found[other.key] != POWER
            )
            if len(near) > MANY and piece.form in ("fuse", "wire", "contact"):
                more[piece.key] = POWER
            elif near:
                most = max(near.values())
                more[piece.key] = min(
                    (one for one, count in near.items() if count == most), key=SYSTEMS.index
                )
        if not more:
            break
        found |= more
    # A relay's coil is drawn with its contact.
    contacts = {p.code: found[p.key] for p in made.pieces if p.form == "contact" and p.key in found}
    for piece in made.pieces:
        if piece.form == "coil" and piece.code in contacts:
            found[piece.key] = contacts[piece.code]
    units = {piece.unit: found.get(piece.key, "body") for piece in made.pieces if piece.unit}
    return {
        piece.key: units[piece.unit] if piece.unit else found.get(piece.key, _rest(piece, devices))
        for piece in made.pieces
    }


def _rest(piece: Piece, devices: Mapping[str, Device]) -> str:
    """Return where a piece goes that nothing is known of: what a computer has, with injection."""
    device = devices.get(piece.code)
    return "injection" if device is not None and kind_of(device).is_computer else "body"


def _said(piece: Piece, device: Device | None) -> str:
    """Return what a part says of itself, empty where it belongs to what it leads to."""
    if device is None or piece.form in ("coil", "contact"):
        if device is None:
            return POWER if piece.form == "fuse" and _by_words(piece.under) == POWER else ""
        hands_on = is_key(device) or device.kind == "isolator"
        return POWER if hands_on and piece.form == "contact" else _by_words(device.name)
    if device.kind in BY_KIND and device.kind != "lamp":
        by_words = _by_words(device.name) if device.kind in ("warning lamp", "sensor") else ""
        return BY_KIND[device.kind] if by_words != "starting and charging" else by_words
    if device.kind == "controller":
        return ""
    return _by_words(device.name) or BY_KIND.get(device.kind, "")


def _by_words(name: str) -> str:
    words = {word for one in telling(name).words for word in one.split()}
    words |= set(name.lower().replace(",", " ").split())
    return next((system for word, system in BY_WORDS if word in words), "")
