"""The states a job is solved in: the key, the engine, the switches, the battery, what is broken."""

from typing import Literal, NamedTuple

from molvik.model.job import Job
from molvik.model.parts import Device, Position

EARTH = "earth"
"""What a wire is shorted to that touches metal."""


class Fault(NamedTuple):
    """A fault. kind: a wire, fuse, earth point or device that is off, a plug that is unplugged; a
    wire shorted to earth or to another; two cavities swapped; a joint with ``ohm`` too many; a
    relay that stays pulled in; a load of ``ohm`` that probes put between two places, the battery's
    earthed pole where the other is empty.
    """

    kind: Literal["open", "short", "swap", "bad", "stuck", "load"]
    at: str
    other: str = ""
    ohm: float = 0.0

    def __str__(self) -> str:
        match self.kind:
            case "open":
                return self.at
            case "bad":
                return f"bad {self.at} {self.ohm:g}"
            case "stuck":
                return f"stuck {self.at}"
            case _:
                return f"{self.kind} {self.at} {self.other}"


BatteryState = Literal["charged", "half", "flat"]


class State(NamedTuple):
    """A state. key: position of the key switch. turning: the engine is turned or runs. running: it
    runs by itself, at ``rpm``, so the alternator may charge. shortly: it lasts for seconds. first:
    these are the first seconds after the key came on. isolated: the battery switch is open.
    was_running: it comes after running, so what works goes on working while it can. switches: where
    other switches stand, by code. temperature_c: of all there is, deg C. faults: what is broken.
    rested: it has stood so long that what sleeps by itself does.
    """

    name: str
    key: str
    turning: bool = False
    running: bool = False
    shortly: bool = False
    isolated: bool = False
    was_running: bool = False
    first: bool = False
    rpm: float = 2000.0
    switches: tuple[tuple[str, str], ...] = ()
    battery: BatteryState = "charged"
    temperature_c: float = 20.0
    faults: frozenset[Fault] = frozenset()
    rested: bool = False

    @property
    def broken(self) -> frozenset[str]:
        """What is off, out or does not work."""
        return frozenset(fault.at for fault in self.faults if fault.kind == "open")


OFF = State("off", "off")
ACCESSORY = State("accessory", "accessory")
PRIME = State("first seconds", "run", first=True)
RUN = State("run", "run")
CRANK = State("crank", "crank", turning=True, shortly=True)
RUNNING = State("running", "run", turning=True, running=True)
KEY_OFF_RUNNING = State(
    "key off while running", "off", turning=True, running=True, was_running=True
)
ISOLATED = State(
    "isolator off while running", "run", turning=True, running=True, isolated=True, was_running=True
)
STATES = (OFF, ACCESSORY, PRIME, RUN, CRANK, RUNNING, KEY_OFF_RUNNING, ISOLATED)
"""In the order a key goes through them, then the two ways to stop."""

NAMED = {state.name: state for state in STATES}

Engine = Literal["standing", "first seconds", "running"]
"""What the engine does; the first seconds are those after the key is turned to run."""


def turned_to(key: str, engine: Engine = "standing", *, isolated: bool = False) -> State:
    """Return the state that key, engine and isolator make together: the one that has a name where
    there is one, else one called after what differs. Cranked, an engine only turns.
    """
    if key == "crank":
        state = CRANK
    elif engine == "running":
        going_on = RUNNING._replace(name=f"{key} while running", key=key, was_running=True)
        state = {"run": RUNNING, "off": KEY_OFF_RUNNING}.get(key, going_on)
        if isolated and key == "run":
            state = ISOLATED
    elif key == "run" and engine == "first seconds":
        state = PRIME
    else:
        state = {"off": OFF, "accessory": ACCESSORY}.get(key, RUN)
    if isolated and not state.isolated:
        state = state._replace(name=f"{state.name}, isolator off", isolated=True)
    return state


class Conditions(NamedTuple):
    """What holds beside key and engine. switches: where a user put them, by code. temperature_c: of
    the air; rpm: of the engine while it runs.
    """

    switches: tuple[tuple[str, str], ...] = ()
    battery: BatteryState = "charged"
    temperature_c: float = 20.0
    rpm: float = 2000.0
    faults: frozenset[Fault] = frozenset()

    def on(self, state: State, job: Job) -> State:
        """Return a state under these conditions; of switches only those the job has."""
        known = {device.code for device in job.devices}
        switches = tuple(sorted(switch for switch in self.switches if switch[0] in known))
        return state._replace(**self._replace(switches=switches)._asdict())


KEY_JOINS: dict[str, tuple[tuple[str, str], ...]] = {
    "off": (),
    "accessory": (("30", "75"),),
    "run": (("30", "75"), ("30", "15")),
    "crank": (("30", "15"), ("30", "50")),
}
"""What a key switch joins by its terminals of DIN 72552, when nothing else is said: 75 drops out
while cranking, 15 stays."""

KEYS = tuple(KEY_JOINS)


def is_key(device: Device) -> bool:
    """Return whether a switch is the key switch, by its terminals or its positions."""
    if device.kind != "switch":
        return False
    names = {position.name.lower() for position in device.positions}
    return {"30", "15"} <= set(device.terminals) or {"off", "run"} <= names


def joins_of(device: Device, state: State) -> tuple[tuple[str, str], ...]:
    """Return the terminals a switch joins in a state."""
    if device.kind == "isolator":
        if not device.positions:
            return () if state.isolated else device.joins
        names = {other.name.lower(): other.joins for other in device.positions}
        return names.get("off" if state.isolated else "on", ())
    if device.positions:
        position = position_of(device, state)
        return position.joins if position else ()
    if is_key(device):
        known = set(device.terminals)
        return tuple(pair for pair in KEY_JOINS[state.key] if set(pair) <= known)
    return () if dict(state.switches).get(device.code) == "off" else device.joins


def position_of(device: Device, state: State) -> Position | None:
    """Return where a switch with positions stands.

    Where the user put it; else as the key stands, as the engine moves it, or pressed in crank when
    it is the start button; else in its last position that it stays in.
    """
    names = {position.name.lower(): position for position in device.positions}
    engine = "running" if state.running else "standing"
    pressed = "start" if state.turning and not state.running else ""
    chosen = dict(state.switches).get(device.code, "").lower()
    for name in (chosen, state.key if is_key(device) else "", engine, pressed):
        if name and name in names:
            return names[name]
    staying = [position for position in device.positions if not position.momentary]
    return staying[-1] if staying else None


def all_joins(device: Device) -> tuple[tuple[str, str], ...]:
    """Return every pair of terminals a switch joins in some position."""
    pairs = list(device.joins)
    for position in device.positions:
        pairs += position.joins
    if is_key(device) and not device.positions:
        known = set(device.terminals)
        pairs += [pair for joins in KEY_JOINS.values() for pair in joins if set(pair) <= known]
    return tuple({frozenset(pair): pair for pair in pairs if pair[0] != pair[1]}.values())


def choices_of(device: Device) -> tuple[str, ...]:
    """Return the positions a user may put a switch in; none for the key and the isolator."""
    if device.kind != "switch" or is_key(device):
        return ()
    return tuple(position.name for position in device.positions) or ("off", "on")


def stands(device: Device, state: State) -> str:
    """Return where a user's switch stands, by the name of its position."""
    if device.positions:
        position = position_of(device, state)
        return position.name if position else ""
    return dict(state.switches).get(device.code, "on")


OFF_NAMES = (
    "off",
    "aus",
    "arrêt",
    "arret",
    "apagado",
    "spento",
    "0",
    "released",
    "up",
    "rest",
    "parked",
    "open",
)
"""What a position is called in which nothing is switched on (common practice)."""


def off_position(device: Device) -> str:
    """Return the position of a user's switch that is off: by its name, else the first."""
    choices = choices_of(device)
    named = (choice for choice in choices if choice.strip().lower() in OFF_NAMES)
    return next(named, choices[0])


def all_off(job: Job) -> tuple[tuple[str, str], ...]:
    """Return every user's switch in the position that is off."""
    return tuple((one.code, off_position(one)) for one in job.devices if choices_of(one))
