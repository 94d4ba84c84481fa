"""What a customer says: which thing does what, and when, in the words of one who only uses it."""

from typing import NamedTuple

from molvik.circuits.simulate import OperatingPoint
from molvik.devices.states import NAMED
from molvik.model.parts import Device
from molvik.proving.diagnose import SEEN
from molvik.proving.faultsimulator import Faults, FaultSimulator

NOTICED = (*SEEN, "starter")
"""Kinds of devices that anybody notices working."""

LOOKED_AT = ("run", "crank", "running", "off")
"""States in which somebody notices what is odd, in this order."""

WHEN = {
    "off": "with the key off",
    "accessory": "with the key at accessory",
    "run": "with the key in run",
    "crank": "while it is cranked",
    "running": "with the engine running",
}

LIGHT = {"dead": "stay dark", "weak": "only glow", "alive": "be lit, and should not be,"}
TURNS = {"dead": "do nothing", "weak": "turn slowly", "alive": "turn, and should not,"}
SHOWS = {"dead": "show nothing", "weak": "show too little", "alive": "show something too soon"}
WORKS = {"dead": "do nothing", "weak": "be weak", "alive": "work, and should not,"}

SAID = {
    "lamp": LIGHT,
    "warning lamp": LIGHT,
    "LED": LIGHT,
    "motor": TURNS,
    "starter": TURNS,
    "gauge": SHOWS,
    "heater": {"dead": "stay cold", "weak": "get lukewarm", "alive": "be hot, and should not be,"},
}
"""What a device does, as one who uses it says it, by how it stands."""

ONE = {"do": "does", "be": "is", "only": "only glows"}
"""Verbs of one thing that are not made by an s."""

PLACES = {
    "warm": "It only does so when everything is hot.",
    "moved": "It comes and goes: over bumps.",
    "cranked": "Only then; else it is fine.",
}
"""What is said of what does not show at any time."""


class Symptom(NamedTuple):
    """What is odd: how a device stands in a state, and how it would in a sound loom."""

    state: str
    device: str
    stands: str
    sound: str


def symptoms(simulator: FaultSimulator, faults: Faults) -> list[Symptom]:
    """Return what anybody would notice of some faults, state by state."""
    found: list[Symptom] = []
    for name in LOOKED_AT:
        state = NAMED[name]
        now = simulator.solved(faults, state)
        if now.problem or simulator.solved((), state).problem:
            continue
        stood = simulator.stood(state)
        other = now.otherwise(stood)
        found += [
            Symptom(name, device.code, other[device.code], stood[device.code])
            for device in simulator.network.job.devices
            if device.kind in NOTICED and other.get(device.code)
        ]
    return found


def by_design(simulator: FaultSimulator) -> list[Symptom]:
    """Return what somebody may take for a fault and is meant to be so: what is dead and lives in a
    later state, warning lamps that are lit until the engine runs.
    """
    found: list[Symptom] = []
    for name, later in (("accessory", "run"), ("run", "running")):
        if any(simulator.solved((), NAMED[one]).problem for one in (name, later)):
            continue
        now, then = simulator.stood(NAMED[name]), simulator.stood(NAMED[later])
        for device in simulator.network.job.devices:
            here, there = now.get(device.code, ""), then.get(device.code, "")
            meant = device.kind in SEEN and here == "dead" and there == "alive"
            warns = device.kind == "warning lamp" and here == "alive" and there == "dead"
            if meant or warns:
                found.append(Symptom(name, device.code, here, here))
    return found


def in_words(symptom: Symptom, device: Device) -> str:
    """Say a symptom as a customer does."""
    does = SAID.get(device.kind, WORKS).get(symptom.stands, symptom.stands)
    name = device.name or device.code
    thing, _, which = name.partition(", ")
    many = thing.endswith("s") and not thing.endswith("ss")
    if not many:
        verb, _, rest = does.partition(" ")
        stem = verb.rstrip(",")
        one = ONE.get(stem, f"{stem}s") + verb[len(stem) :]
        does = one if stem == "only" or not rest else f"{one} {rest}"
    elif does.startswith("be "):
        does = f"are {does[3:]}"
    called = f"{which} {_small(thing)}" if which.isalpha() else _small(name)
    return f"The {called} {does} {WHEN[symptom.state]}."


def _small(name: str) -> str:
    """Return a name as it stands in a sentence: an abbreviation stays as it is."""
    return name[0].lower() + name[1:] if name[1:2].islower() else name


def dead_always(points: list[OperatingPoint]) -> frozenset[str]:
    """Return the devices that work in no state: by a mistake of the job itself."""
    states: dict[str, set[str]] = {}
    for point in points:
        for load in point.loads:
            states.setdefault(load.device, set()).add(load.state)
    return frozenset(code for code, seen in states.items() if not seen & {"alive", "at rest"})
