"""Arrangements that people repeat: two or three questions, and the circuit lies in the job.

A block is a function that lays it, and an entry in ``BLOCKS`` with its questions. Figures of loads
are typical (common practice, from memory) and can be changed afterwards.
"""

from collections.abc import Callable, Mapping
from typing import NamedTuple

from molvik.blocks.changing import change_charger
from molvik.blocks.chargers import (
    ARRANGEMENTS,
    excite_by_resistor,
    lay_charger,
    rating_a,
)
from molvik.blocks.laying import CircuitBuilder
from molvik.circuits.cranking import KEY_MOST_A
from molvik.circuits.excitation import LAMPS
from molvik.devices import generators
from molvik.devices.states import RUN, joins_of
from molvik.model.edits import EditError
from molvik.model.job import Job
from molvik.model.parts import Device, Output, Position, WireSize
from molvik.parsing.quantities import read_current_a


class Ask(NamedTuple):
    """A question. choices: what it may be; empty for a text or, with an example in A, a current."""

    key: str
    text: str
    default: str
    choices: tuple[str, ...] = ()


class Block(NamedTuple):
    """An arrangement with its questions. charges: it is about what charges, so that what the
    terminals of that should read is told with it; alters: it changes what is there, so that its
    steps go into the log.
    """

    title: str
    about: str
    asks: tuple[Ask, ...]
    lay: Callable[[CircuitBuilder, Mapping[str, str]], None]
    charges: bool = False
    alters: bool = False


NAME = Ask("name", "What it feeds", "Load")
AMPS = Ask("amps", "Current", "5 A")
PLACES = (
    Ask("supply", "Fed from (empty: the fuse box stud)", ""),
    Ask("key", "Key feed (empty: key switch 15)", ""),
    Ask("earth", "Earth at (empty: the first earth point)", ""),
)
"""Asked for every block, behind its own questions."""

BY = Ask("by", "Excited by", "lamp", ARRANGEMENTS)
OLD = Ask("old", "Wires no longer needed", "taken out", ("taken out", "capped and tied back"))
RATING = Ask("amps", "Rating (empty: what is usual)", "")

THREE_PAIRS = "three pairs: battery, key feed, run-down resistor"
ONE_PAIR = "one pair: the alternator stays on the battery"

PULL_UP_OHM = 1000.0
"""What pulls a signal up at 12 V (common practice: 1 to 10 kilohms)."""

LAY_MM = 30.0
"""One turn of a twisted pair for a pickup, mm (common practice: 30 to 50 turns a metre)."""

SMALL_STARTER_OHM = 0.02
"""The starter of an engine of the days of 6 V, ohms: some 220 A (common practice: 150 to 250)."""

RUN_DOWN_OHM = 3.0
"""Between the alternator and earth when the isolator opens, at 12 V (common practice: 3 ohms)."""


def lay(job: Job, title: str, answers: Mapping[str, str] | None = None) -> Job:
    """Return the job with a block laid into it; ValueError says what is in the way."""
    return begun(job, title, answers).finished()


def begun(job: Job, title: str, answers: Mapping[str, str] | None = None) -> CircuitBuilder:
    """Return a block as it is laid, before its sizes and fuses are worked out, which takes longer.

    ValueError says what is in the way. Raises EditError.
    """
    block = BLOCKS[title]
    given = {ask.key: ask.default for ask in (*block.asks, *PLACES)} | dict(answers or {})
    for ask in block.asks:
        if ask.choices and given[ask.key] not in ask.choices:
            raise EditError(f"{ask.text}: one of {', '.join(ask.choices)}.")
    layer = CircuitBuilder(job, given["earth"], given["supply"], given["key"])
    block.lay(layer, given)
    return layer


def _amps(given: Mapping[str, str]) -> float:
    amps = read_current_a(given["amps"])
    if not 0 < amps <= 40:
        raise EditError(
            "A current above zero and up to 40 A. More than that has a cable of its own."
        )
    return amps


# The small ones.


def relay_feed(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A load through a fuse and a relay that the key pulls in."""
    name, amps = given["name"], _amps(given)
    fuse, relay = lay.fuse(name, amps), lay.relay(f"{name} relay")
    load = lay.device(name, "load", values=(("A", amps),))
    lay.feed(fuse)
    lay.wire(f"{fuse}/out", f"{relay}/30", f"{name} relay feed", "RD/WH", amps, 0.4)
    lay.wire(f"{relay}/87", f"{load}/{lay.live}", name, "OG", amps)
    lay.wire(f"{load}/{lay.earthed}", lay.earth(), f"{name} earth", "BK", amps, 0.8)
    lay.wire(lay.key(), f"{relay}/86", f"{name} relay coil", "BK/RD", 0.2)
    lay.wire(f"{relay}/85", lay.earth(), f"{name} relay earth", "BK", 0.2, 0.6)


def fused_feed(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A load that is live whatever the key does, with a switch: it would empty the battery."""
    name, amps = given["name"], _amps(given)
    fuse, load = lay.fuse(name, amps), lay.device(name, "load", values=(("A", amps),))
    switch = lay.device(
        f"{name} switch",
        "switch",
        ("1", "2"),
        positions=(Position("off"), Position("on", (("1", "2"),))),
    )
    lay.feed(fuse)
    lay.wire(f"{fuse}/out", f"{switch}/1", f"{name} switch feed", "RD", amps)
    lay.wire(f"{switch}/2", f"{load}/{lay.live}", f"{name} feed", "RD/BU", amps, 0.5)
    lay.wire(f"{load}/{lay.earthed}", lay.earth(), f"{name} earth", "BK", amps, 0.8)


def key_feed(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A small load from the key, alive in run and in crank. Raises EditError."""
    name, amps = given["name"], _amps(given)
    if amps > KEY_MOST_A:
        raise EditError(f"{amps:g} A is much for a key switch: lay a relay feed instead.")
    fuse, load = lay.fuse(name, amps), lay.device(name, "load", values=(("A", amps),))
    lay.wire(lay.key(), f"{fuse}/in", f"{name} fuse feed", "BK/RD", amps, 0.4)
    lay.wire(f"{fuse}/out", f"{load}/{lay.live}", f"{name} feed", "BK/YE", amps)
    lay.wire(f"{load}/{lay.earthed}", lay.earth(), f"{name} earth", "BK", amps, 0.8)


def main_relay(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """An engine computer that wakes by the key and pulls in its own main relay."""
    _computer(lay, given["name"])


def _computer(lay: CircuitBuilder, name: str) -> tuple[str, str]:
    """Lay a computer with its main relay; return both."""
    # What it drives resists by the square of the voltage: so do its drivers, below 12 V.
    driver = 0.2 * min(1.0, lay.job.settings.system_v / 12) ** 2
    computer = lay.device(
        name,
        "controller",
        ("30", "15", "87", "HR", "31", "31b"),
        supplies=("30",),
        earths=("31", "31b"),
        needed=True,
        values=(("A", 0.5), ("asleep A", 0.005), ("driver ohm", driver)),
        outputs=(Output("HR", "pulls low", "input live", "15"),),
    )
    memory, main = lay.fuse(f"{name} memory", 3), lay.fuse(f"{name} main", 12)
    relay = lay.relay("Main relay")
    lay.feed(memory)
    lay.feed(main)
    lay.wire(f"{memory}/out", f"{computer}/30", f"{name} permanent supply", "RD", 1, use="ecu")
    lay.wire(f"{main}/out", f"{relay}/30", "Main relay feed", "RD/WH", 12, 0.4, "ecu")
    lay.wire(f"{main}/out", f"{relay}/86", "Main relay coil", "RD/BU", 0.2, 0.4)
    lay.wire(f"{relay}/85", f"{computer}/HR", "Main relay driver", "GN/RD", 0.2)
    lay.wire(f"{relay}/87", f"{computer}/87", f"{name} supply", "RD/YE", 2, use="ecu")
    lay.wire(lay.key(), f"{computer}/15", f"{name} key on", "BK/RD", 0.1)
    for terminal in ("31", "31b"):
        lay.wire(
            f"{computer}/{terminal}", lay.earth(), f"{name} earth {terminal}", "BK", 3, 0.8, "ecu"
        )
    return computer, relay


def pump(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A fuel pump with its relay and a crash switch; a timer primes it and stops it."""
    name, amps = given["name"], _amps(given)
    fuse, relay = lay.fuse(name, amps), lay.relay(f"{name} relay")
    load = lay.device(name, "motor", values=(("A", amps),), needed=True)
    crash = lay.device(
        "Crash switch",
        "switch",
        ("1", "2"),
        positions=(Position("tripped"), Position("set", (("1", "2"),))),
    )
    lay.feed(fuse)
    lay.wire(f"{fuse}/out", f"{relay}/30", f"{name} relay feed", "RD/BK", amps, 0.4, "pump")
    lay.wire(f"{relay}/87", f"{load}/{lay.live}", f"{name} feed", "WH/VT", amps, 3.0, "pump")
    lay.wire(f"{load}/{lay.earthed}", lay.earth(), f"{name} earth", "BK", amps, 1.0, "pump")
    lay.wire(lay.key(), f"{crash}/1", "Crash switch feed", "BK/RD", 0.5)
    lay.wire(f"{crash}/2", f"{relay}/86", f"{name} relay coil", "BK/YE", 0.2)
    if given["by"] == "key alone":
        lay.wire(f"{relay}/85", lay.earth(), f"{name} relay earth", "BK", 0.2, 0.6)
        return
    primes = Output("P", "pulls low", "first seconds and turning")
    timer = lay.device(
        "Pump timer",
        "controller",
        ("15", "P", "31"),
        supplies=("15",),
        earths=("31",),
        values=(("A", 0.1),),
        outputs=(primes,),
    )
    lay.wire(f"{crash}/2", f"{timer}/15", "Pump timer supply", "BK/YE", 0.3, 0.5)
    lay.wire(f"{timer}/31", lay.earth(), "Pump timer earth", "BK", 0.3, 0.6)
    lay.wire(f"{relay}/85", f"{timer}/P", f"{name} relay driver", "GN/WH", 0.2, 0.5)


def fans(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """One or two fans, each with fuse and relay, switched to earth by a thermostat."""
    amps = _amps(given)
    names = ("Fan",) if given["many"] == "one" else ("Fan, low", "Fan, high")
    steps = (("1", "case"), ("2", "case"))[: len(names)]
    positions = (
        Position("cold"),
        *(
            Position(("warm", "hot")[index] if len(names) > 1 else "hot", steps[: index + 1])
            for index in range(len(names))
        ),
    )
    thermostat = lay.device(
        "Fan thermostat", "switch", ("1", "2")[: len(names)], positions=positions, case=lay.earth()
    )
    for index, name in enumerate(names):
        fuse, relay = lay.fuse(name, amps), lay.relay(f"{name} relay")
        fan = lay.device(name, "motor", values=(("A", amps),))
        lay.feed(fuse)
        lay.wire(f"{fuse}/out", f"{relay}/30", f"{name} relay feed", "RD/VT", amps, 0.4, "pump")
        lay.wire(f"{relay}/87", f"{fan}/{lay.live}", name, "VT", amps, 1.2, "pump")
        lay.wire(f"{fan}/{lay.earthed}", lay.earth(), f"{name} earth", "BK", amps, 1.0, "pump")
        lay.wire(lay.key(), f"{relay}/86", f"{name} relay coil", "BK/RD", 0.2)
        lay.wire(f"{relay}/85", f"{thermostat}/{index + 1}", f"{name} switched", "BU", 0.2)


# Starting, charging, stopping.

CABLE = WireSize("metric", 50)


def starter(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A starter, by key, by push button, or by a helper relay close to it. Raises EditError."""
    there = lay.first("starter")
    if there is not None and given["by"] == "key":
        raise EditError(f"{there.name} ({there.code}) is there already, and wired to be changed.")
    if there is None:
        small = (("motor ohm", SMALL_STARTER_OHM),) if lay.job.settings.system_v < 9 else ()
        code = lay.device("Starter", "starter", ("30", "50"), case=lay.earth(), values=small)
        lay.wire(lay.battery(), f"{code}/30", "Starter cable", "RD", 180, 1.2, "starter", CABLE)
    else:
        code = there.code
    solenoid = f"{code}/50"
    match given["by"]:
        case "key":
            lay.wire(lay.key("50"), solenoid, "Start", "VT", 8, 1.5)
        case "push button":
            positions = Position("released"), Position("start", (("1", "2"),), momentary=True)
            button = lay.device("Start button", "switch", ("1", "2"), positions=positions)
            if not lay.move(solenoid, f"{button}/1"):
                lay.wire(lay.key(), f"{button}/1", "Start button feed", "BK/RD", 8, 0.6)
            lay.wire(f"{button}/2", solenoid, "Start", "VT", 8, 1.5)
        case _:
            relay, fuse = lay.relay("Start relay"), lay.fuse("Starter solenoid", 12)
            if not lay.move(solenoid, f"{relay}/86"):
                lay.wire(lay.key("50"), f"{relay}/86", "Start relay coil", "VT/WH", 0.2, 1.2)
            lay.feed(fuse)
            lay.wire(f"{fuse}/out", f"{relay}/30", "Start relay feed", "RD", 10, 0.8)
            lay.wire(f"{relay}/87", solenoid, "Start", "VT", 10, 0.3)
            lay.wire(f"{relay}/85", lay.earth(), "Start relay earth", "BK", 0.2, 0.3)


def charging(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """What charges, with its fuse, and what excites it. Raises EditError."""
    by = given["by"]
    there = generators(lay.job.devices)
    if there and by == "resistor":
        excite_by_resistor(lay)
    elif there:
        name, code = there[0].name, there[0].code
        raise EditError(f"{name} ({code}) is there already: lay “Another alternator”.")
    else:
        _computer_for(lay, by)
        lay_charger(lay, by, rating_a(given["amps"], by, lay.job.settings.system_v))


def another_charger(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """Another machine or arrangement in the place of what charges. Raises EditError."""
    by = given["by"]
    amps = rating_a(given["amps"], by, lay.job.settings.system_v)
    _computer_for(lay, by)
    change_charger(lay, by, amps, capped=given["old"] == OLD.choices[1])


def _computer_for(lay: CircuitBuilder, by: str) -> None:
    """Lay the computer that an arrangement hangs on, where there is none."""
    if by == "engine computer" and lay.computer() is None:
        _computer(lay, "Engine computer")


def isolator(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A battery isolator that stops the engine: whose second contacts break the key's feed; or of
    one pair, with the alternator on the battery's side of it. Raises EditError.
    """
    switch = lay.key("30")
    there = lay.first("isolator")
    if there is None and given["contacts"] == ONE_PAIR:
        _one_pair(lay)
        return
    if there is None:
        battery = lay.first("battery")
        assert battery is not None  # the key brought one
        code = lay.device(
            "Battery isolator",
            "isolator",
            ("1", "2", "3", "4", "5", "6"),
            positions=(Position("off", (("5", "6"),)), Position("on", (("1", "2"), ("3", "4")))),
        )
        lay.move(f"{battery.code}/{lay.live}", f"{code}/2")
        lay.wire(
            f"{battery.code}/{lay.live}",
            f"{code}/1",
            "Battery to isolator",
            "RD",
            180,
            0.25,
            "starter",
            CABLE,
        )
        _run_down(lay, code)
        pair = ("3", "4")
    else:
        code = there.code
        used = {e.cavity for w in lay.job.wires for e in w.ends if e.at == code}
        pair = next((j for j in joins_of(there, RUN) if not set(j) & used), ("", ""))
        if not pair[0]:
            raise EditError(f"{there.name} ({code}) has no free second contacts.")
    lay.move(switch, f"{code}/{pair[0]}")
    lay.wire(f"{code}/{pair[1]}", switch, "Key switch feed through isolator", "RD/BK", 7)


def _one_pair(lay: CircuitBuilder) -> None:
    """With the alternator on the battery's side nothing else is fed by it, and it dumps no load."""
    battery = lay.first("battery")
    assert battery is not None  # the key brought one
    code = lay.device(
        "Battery isolator",
        "isolator",
        ("1", "2"),
        positions=(Position("off"), Position("on", (("1", "2"),))),
    )
    post = f"{battery.code}/{lay.live}"
    lay.move(post, f"{code}/2", but="charging")
    lay.wire(post, f"{code}/1", "Battery to isolator", "RD", 180, 0.25, "starter", CABLE)


def _run_down(lay: CircuitBuilder, isolator: str) -> None:
    """Give an alternator that is cut off while it charges somewhere to put its last energy."""
    volts = lay.job.settings.system_v
    ohm = RUN_DOWN_OHM * (volts / 12) ** 2
    resistor = lay.device("Load dump resistor", "resistor", ("1", "2"), values=(("ohm", ohm),))
    fuse = lay.fuse("Load dump", 4.8 * 12 / volts)
    lay.feed(fuse)
    lay.wire(f"{fuse}/out", f"{resistor}/1", "Load dump resistor", "RD/GN", 5 * 12 / volts, 0.5)
    lay.wire(f"{resistor}/2", f"{isolator}/5", "Load dump", "BK/RD", 5 * 12 / volts, 0.5)
    lay.wire(f"{isolator}/6", lay.earth(), "Load dump earth", "BK", 5 * 12 / volts, 0.5)


# Signals.


def pull_up(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A resistor from the key's feed to a signal that is only pulled low. Raises EditError."""
    place = lay.place(given["at"])
    ohm = PULL_UP_OHM * (lay.job.settings.system_v / 12) ** 2
    code = lay.device("Pull-up", "resistor", ("1", "2"), values=(("ohm", ohm),))
    lay.wire(lay.key(), f"{code}/1", "Pull-up feed", "BK/RD", 0.05, 0.4)
    lay.wire(f"{code}/2", place, "Pull-up", "GY", 0.05, 0.3, "sensor")


def inverter(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A lamp lights where its switch is open: by a relay at rest, or by a transistor in a module.

    Raises EditError.
    """
    lamp = lay.job.part(given["lamp"].strip().upper())
    if not isinstance(lamp, Device) or lamp.kind not in LAMPS:
        raise EditError("Type the code of a warning lamp, as D12.")
    if len(lamp.terminals) != 2:
        raise EditError(f"{lamp.name} ({lamp.code}) has no two terminals.")
    switched = f"{lamp.code}/{lamp.terminals[1]}"
    if given["by"] == "relay":
        terminals = ("30", "87", "86", "85", "87a")
        name = f"{lamp.name} inverter"
        relay = lay.device(name, "relay", terminals, suppression="resistor")
        _moved(lay, switched, f"{relay}/85", lamp)
        lay.wire(lay.key(), f"{relay}/86", f"{lamp.name} inverter coil", "BK/RD", 0.2, 0.4)
        lay.wire(switched, f"{relay}/87a", lamp.name, "GN", 0.2, 0.4)
        lay.wire(f"{relay}/30", lay.earth(), f"{lamp.name} inverter earth", "BK", 0.2, 0.6)
        return
    module = lay.device(
        f"{lamp.name} inverter",
        "controller",
        ("15", "IN", "OUT", "31"),
        supplies=("15",),
        earths=("31",),
        values=(("A", 0.005),),
        outputs=(Output("OUT", "pulls low", "input live", "IN"),),
    )
    _moved(lay, switched, f"{module}/IN", lamp)
    ohm = PULL_UP_OHM * (lay.job.settings.system_v / 12) ** 2
    resistor = lay.device("Pull-up", "resistor", ("1", "2"), values=(("ohm", ohm),))
    lay.wire(lay.key(), f"{module}/15", f"{lamp.name} inverter feed", "BK/RD", 0.1, 0.4)
    lay.wire(f"{module}/15", f"{resistor}/1", "Pull-up feed", "BK/RD", 0.05, 0.1)
    lay.wire(f"{resistor}/2", f"{module}/IN", "Pull-up", "GY", 0.05, 0.1, "sensor")
    lay.wire(switched, f"{module}/OUT", lamp.name, "GN", 0.2, 0.4)
    lay.wire(f"{module}/31", lay.earth(), f"{lamp.name} inverter earth", "BK", 0.2, 0.6)


def _moved(lay: CircuitBuilder, begin: str, end: str, lamp: Device) -> None:
    if not lay.move(begin, end):
        raise EditError(f"No wire goes to {begin}, where the switch of {lamp.name} should be.")


# The large ones.


def injection(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """The least a standalone engine computer needs: supplies, injectors, coils, sensors."""
    computer, relay = _computer(lay, "Engine computer")
    for what, name, kind, amps, many in (
        ("Injectors", "Injector", "injector", 1.2, 4),
        ("Coils", "Coil", "coil", 6.0, 2),
    ):
        fuse, splice = lay.fuse(what, min(12, amps * many)), lay.splice(f"{what} supply")
        lay.wire(
            f"{relay}/87", f"{fuse}/in", f"{what} fuse feed", "RD/YE", min(12, amps * many), 0.4
        )
        lay.wire(f"{fuse}/out", splice, f"{what} supply", "RD/GN", min(12, amps * many))
        for number in range(1, many + 1):
            one = lay.device(f"{name} {number}", kind, ("1", "2"), needed=True)
            pin = lay.pin(computer, f"{name[0]}{number}", Output("", "pulls low", "turning"))
            lay.wire(splice, f"{one}/1", f"{name} {number} supply", "RD/GN", amps, 0.4)
            lay.wire(f"{one}/2", pin, f"{name} {number}", "WH/BK", amps)
    reference = lay.pin(computer, "5V", Output("", "5 V", "powered"))
    back = lay.pin(computer, "SR", Output("", "pulls low", "powered"))
    throttle = lay.device("Throttle sensor", "sensor", ("5V", "signal", "return"))
    lay.wire(reference, f"{throttle}/5V", "Throttle 5 V", "RD/WH", 0.01, use="sensor")
    lay.wire(
        f"{throttle}/signal",
        lay.pin(computer, "TPS"),
        "Throttle signal",
        "BU/WH",
        0.01,
        use="sensor",
    )
    earths = lay.splice("Sensor return")
    lay.wire(earths, back, "Sensor return", "BK/YE", 0.02, use="sensor")
    lay.wire(f"{throttle}/return", earths, "Throttle return", "BK/YE", 0.01, 0.6, "sensor")
    for name, pin, colour in (("Coolant sensor", "CLT", "BU/YE"), ("Air sensor", "IAT", "BU/RD")):
        sensor = lay.device(name, "thermistor", ("1", "2"))
        lay.wire(
            f"{sensor}/1", lay.pin(computer, pin), f"{name} signal", colour, 0.01, use="sensor"
        )
        lay.wire(f"{sensor}/2", earths, f"{name} return", "BK/YE", 0.01, 0.6, "sensor")
    _screened(lay, "Crank sensor", computer)


def screened(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A pickup on a screened, twisted cable, its screen earthed at the computer's end only."""
    there = lay.computer()
    computer = there.code if there else _computer(lay, "Engine computer")[0]
    _screened(lay, given["name"], computer)


def _screened(lay: CircuitBuilder, name: str, computer: str) -> None:
    sensor = lay.device(name, "pickup", ("signal", "return", "screen"))
    cable = f"{name} cable"
    short = name[:3].upper()
    for terminal, colour in (("signal", "YE"), ("return", "YE/BK")):
        pin = lay.pin(computer, f"{short}-{terminal.upper()}")
        lay.wire(
            f"{sensor}/{terminal}",
            pin,
            f"{name} {terminal}",
            colour,
            0.01,
            1.2,
            "sensor",
            cable=cable,
            lay_length_mm=LAY_MM,
        )
    pin = lay.pin(computer, f"{short}-SCREEN")
    lay.wire(f"{sensor}/screen", pin, f"{name} screen", "BK", 0.01, 1.2, "screen", cable=cable)


def run_stand(lay: CircuitBuilder, given: Mapping[str, str]) -> None:
    """A stand to run an engine on: isolator, key, start button, charging, pump, ignition.

    Raises EditError.
    """
    if lay.first("starter") or lay.first("alternator") or lay.first("isolator"):
        raise EditError("A run stand begins with an empty job; this one has its starter already.")
    starter(lay, {"by": "push button"})
    charging(lay, {"by": "lamp", "amps": ""})
    pump(lay, {"name": "Fuel pump", "amps": "8 A", "by": "timer that primes"})
    coil = lay.device("Ignition coil", "coil", ("15", "1"), needed=True, values=(("ohm", 3.0),))
    fuse = lay.fuse("Ignition", 4.5)
    lay.wire(lay.key(), f"{fuse}/in", "Ignition fuse feed", "BK/RD", 4, 0.4)
    lay.wire(f"{fuse}/out", f"{coil}/15", "Ignition feed", "BK/YE", 4, 1.2)
    lay.wire(f"{coil}/1", lay.earth(), "Ignition, points to earth", "GN", 4, 0.8)
    gauge = lay.device("Oil lamp", "warning lamp", ("+", "-"))
    oil = lay.device(
        "Oil pressure switch",
        "switch",
        ("1",),
        case=lay.earth(),
        positions=(Position("standing", (("1", "case"),)), Position("running")),
    )
    lay.wire(f"{fuse}/out", f"{gauge}/{lay.live}", "Oil lamp feed", "BK/YE", 0.2)
    lay.wire(f"{gauge}/{lay.earthed}", f"{oil}/1", "Oil lamp", "GN", 0.2)
    isolator(lay, {"contacts": THREE_PAIRS})


BLOCKS: dict[str, Block] = {
    block.title: block
    for block in (
        Block(
            "Relay feed",
            "A load through a fuse and a relay that the key pulls in.",
            (NAME, AMPS),
            relay_feed,
        ),
        Block(
            "Fused feed",
            "A load that the key has no part in, behind its own fuse and switch.",
            (NAME, AMPS),
            fused_feed,
        ),
        Block(
            "Key feed",
            "A small load from the key, alive in run and in crank.",
            (NAME, AMPS._replace(default="2 A")),
            key_feed,
        ),
        Block(
            "Engine computer, main relay",
            "A computer that wakes by the key and pulls in its own main relay.",
            (Ask("name", "Its name", "Engine computer"),),
            main_relay,
        ),
        Block(
            "Fuel pump",
            "Relay, crash switch, and a timer that primes and stops it.",
            (
                Ask("name", "Its name", "Fuel pump"),
                AMPS._replace(default="8 A"),
                Ask("by", "Switched by", "timer that primes", ("timer that primes", "key alone")),
            ),
            pump,
        ),
        Block(
            "Fans",
            "One or two fans with fuse and relay each, and a thermostat.",
            (Ask("many", "How many", "one", ("one", "two")), AMPS._replace(default="10 A")),
            fans,
        ),
        Block(
            "Starter",
            "By key, by push button, or by a helper relay close to the starter.",
            (Ask("by", "Started by", "key", ("key", "push button", "helper relay")),),
            starter,
        ),
        Block(
            "Charging",
            "An alternator or a dynamo with its fuse, and what excites it, through a diode that "
            "ends running on.",
            (BY, RATING),
            charging,
            charges=True,
        ),
        Block(
            "Another alternator",
            "In the place of what charges now: from any arrangement to any. The lamp goes on "
            "working, and so does what hung on an old regulator.",
            (BY, RATING, OLD),
            another_charger,
            charges=True,
            alters=True,
        ),
        Block(
            "Isolator",
            "A battery isolator that really stops the engine. Put it where it can be pulled from "
            "outside too, by its own handle or a cable.",
            (
                Ask(
                    "contacts",
                    "Its contacts",
                    THREE_PAIRS,
                    (THREE_PAIRS, ONE_PAIR),
                ),
            ),
            isolator,
        ),
        Block(
            "Pull-up",
            "A resistor from the key's feed to a signal that a computer only pulls low.",
            (Ask("at", "The signal, as D12/S", "D12/S"),),
            pull_up,
            alters=True,
        ),
        Block(
            "Lamp inverter",
            "A warning lamp whose switch closes where it wants one that opens. A relay is replaced "
            "by the road; a transistor in a module takes next to no current.",
            (
                Ask("lamp", "The lamp, as D12", "D12"),
                Ask("by", "Inverted by", "relay", ("relay", "transistor")),
            ),
            inverter,
            alters=True,
        ),
        Block(
            "Run stand", "Isolator, key, start button, charging, pump and ignition.", (), run_stand
        ),
        Block(
            "Standalone engine computer",
            "Computer, main relay, four injectors, two coils, and the sensors it needs.",
            (),
            injection,
        ),
        Block(
            "Sensor, screened cable",
            "A pickup; its screen is earthed at one end only.",
            (Ask("name", "Its name", "Cam sensor"),),
            screened,
        ),
    )
}
"""Every block by its title, in the order they are offered."""
