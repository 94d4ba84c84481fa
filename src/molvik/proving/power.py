"""Bringing power up in steps, from the job itself: what to do, what to expect, what if not.

Before power: nothing that is a short. Then little current, fuse by fuse; the feeds of each plug
before its computer is put in; then pump, crank, run, charge, stop and rest. Expected values are
those of the solution of the network; the order is common practice.
"""

from collections.abc import Iterator

from molvik.circuits.drain import drain, lasts
from molvik.circuits.simulate import OperatingPoint
from molvik.devices import generators
from molvik.devices.nodes import minus_of
from molvik.devices.states import (
    CRANK,
    ISOLATED,
    KEY_OFF_RUNNING,
    OFF,
    PRIME,
    RUN,
    RUNNING,
    choices_of,
)
from molvik.model.job import Job
from molvik.model.parts import Device, End
from molvik.netlist.network import Network
from molvik.parsing.functions.reading import our_words
from molvik.parsing.quantities import amps_text
from molvik.proving.bringup import Bench, first_steps, fuse_steps, plug_steps
from molvik.proving.powerstep import PowerStep, Setup, Solved, ready_to_start, still
from molvik.proving.signals import signal_steps
from molvik.steps import Step
from molvik.wording import some

POWER = "power"
"""Name of the list of steps, for its ticks."""

CHARGED_V = (13.8, 14.8)
"""Of a 12 V system that charges (common practice); of others by their share."""


def power_steps(network: Network, solved: Solved) -> tuple[PowerStep, ...]:
    """Return the steps of a job with a battery; none without one, nor where nothing is solved."""
    job = network.job
    if not any(device.kind == "battery" for device in job.devices):
        return ()
    if solved(OFF).problem or solved(RUN).problem:
        return ()
    bench, raw = Bench(network), solved
    solved = still(job, raw)
    ready, needed = ready_to_start(job, raw)
    on = some([d.name for d in job.devices if d.code in needed])
    found = [
        *first_steps(bench),
        *fuse_steps(bench),
        *plug_steps(bench),
        *signal_steps(job, solved),
        *_engine(network, ready, f"Switched on: {on}. " if on else ""),
        *_stops(network, solved, ready),
    ]
    return tuple(
        step._replace(key=f"power {number}: {step.key}") for number, step in enumerate(found, 1)
    )


MEND_FIRST = "repair that first (Circuits says why)"


def _engine(network: Network, solved: Solved, switched_on: str) -> Iterator[PowerStep]:
    """Prime, crank, run, charge, loads, lamps. switched_on: what the engine needs on, in words."""
    job = network.job
    prime, rest = solved(PRIME), solved(RUN)
    briefly = [
        load.name
        for load in prime.loads
        if load.state == "alive" and rest.load[load.device].state != "alive"
    ]
    pumps = [
        device for device in job.devices if {"fuel", "pump"} <= set(our_words(device.name).split())
    ]
    if briefly:
        yield PowerStep(
            "prime",
            "",
            "Key to run, and listen",
            "The first seconds tell that the computer works its relays.",
            "Fuel line looked at; extinguisher at hand.",
            f"{', '.join(briefly)}: for seconds.",
            "Not heard: its relay, its fuse, its earth, in this order.",
            Setup(("run",)),
        )
    if pumps:
        yield PowerStep(
            "fuel leaks",
            pumps[0].code,
            f"With {pumps[0].name} running, go along the fuel line joint by joint, with a dry hand "
            "or paper",
            "A joint that drips does so over what will soon be hot.",
            "Nothing hot or sparking near, air to breathe, extinguisher at hand.",
            "Dry everywhere, and still dry after a minute.",
            "Switch off at once; repair it before cranking.",
        )
    starters = [device for device in job.devices if device.kind == "starter"]
    crank = solved(CRANK)
    if starters:
        yield from _cranked(network, crank, starters[0], switched_on)
    running = solved(RUNNING)
    makers = generators(job.devices)
    if makers and not running.problem:
        stays = crank.no_start if starters else ""
        dead = [device.name for device in running.lost]
        runs = (
            f"By the job it does not start, {stays}: {MEND_FIRST}."
            if stays
            else (
                f"By the job it does not run, {', '.join(dead)} dead: {MEND_FIRST}."
                if dead
                else "It runs; oil pressure within seconds."
            )
        )
        yield PowerStep(
            "start",
            "",
            "Start it, set base timing with it locked, then look at idle",
            "Timing that is off melts pistons; it is set before anything else.",
            "Injectors and coils plugged in again.",
            runs,
            "Switch off at once. Read codes, then find the weak cylinder by disconnecting one "
            "injector at a time.",
        )
        yield _charged(running, makers[0].code)
    if starters and not running.problem:
        yield from _at_work(job, solved)
    yield from _lamps(job, rest, running)


def _cranked(
    network: Network, crank: OperatingPoint, starter: Device, switched_on: str
) -> Iterator[PowerStep]:
    """What is read while it is cranked: the battery, and what its earth loses."""
    volts = crank.across(crank.wiring.live, crank.reference)
    turns = starter.code in crank.on
    says = f"{volts:.1f} V at the battery while it turns; the computer shows engine speed."
    if crank.no_start:
        says = (
            f"By the job it does not start: {crank.no_start}: {MEND_FIRST}."
            if not turns
            else (f"{says} By the job it does not start: {crank.no_start}.")
        )
    yield PowerStep(
        "crank",
        starter.code,
        "Crank, gearbox in neutral, three seconds",
        "Before it starts it shows pulses, fuel pressure and cranking voltage.",
        f"{switched_on}Injectors or coils unplugged for the first time; hands and sleeves off the "
        "belts.",
        says,
        "No speed shown: crank sensor, its polarity, its screen.",
        Setup(("crank",), red=End.of(crank.wiring.live)),
    )
    if turns:
        lost = abs(crank.across(minus_of(starter), crank.reference))
        most = max(EARTH_DROP_V * network.job.settings.system_v / 12, 1.5 * lost)
        pole = network.job.settings.earthed
        yield PowerStep(
            "earth while cranking",
            starter.code,
            f"Volts from {starter.name}'s body to the battery's {pole} post while it turns",
            "An earth that is good enough for a lamp may not be for a starter, and its current "
            "then takes another path"
            ": through a throttle cable, a screen, a sensor.",
            "As before; the probe on bare metal.",
            f"{lost:.2f} V by the job, {most:.2f} V at most.",
            "Its earth strap: both ends, bare metal under them, thick enough.",
            Setup(("crank",), red=End.of(minus_of(starter))),
        )


EARTH_DROP_V = 0.3
"""What the earth may lose while cranking, of a 12 V vehicle (common practice: 0.2 to 0.5 V)."""


def _charged(running: OperatingPoint, maker: str) -> PowerStep:
    low, high = (limit * running.nominal / 12 for limit in CHARGED_V)
    volts = running.across(running.wiring.live, running.reference)
    says = f"{low:.1f} to {high:.1f} V."
    if running.stands(maker) == "dead":
        says += f" By the job it does not charge, {volts:.1f} V: {MEND_FIRST}."
    elif not low - 0.05 <= volts <= high + 0.05:
        says += f" By the job it comes to {volts:.1f} V."
    return PowerStep(
        "charge",
        maker,
        "Measure at the battery with the engine at fast idle",
        "An alternator that does not charge, or overcharges, is the next breakdown.",
        "",
        says,
        "Less: its exciter and warning lamp, its fuse. More: its sense wire, its earth.",
        Setup(("running",), red=End.of(running.wiring.live)),
    )


def _at_work(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """Every load, gauges and temperature, and cylinders one by one."""
    on = tuple(
        (device.code, choices[-1])
        for device in job.devices
        if len(choices := choices_of(device)) > 1
    )
    full = solved(RUNNING._replace(switches=on))
    drawn = sum(load.amps for load in full.loads if load.state == "alive")
    yield PowerStep(
        "loads",
        "",
        "Every load on, fast idle, ten minutes; feel fuses, relays and plugs",
        "What gets warm now will fail on the first wet night.",
        "Nobody near fans and belts.",
        f"about {drawn:.0f} A in all; no fuse blows, nothing too warm to hold.",
        "A warm plug or fuse: its terminals, then the size of its wire.",
    )
    gauges = [device.name for device in job.devices if device.kind == "gauge"]
    if gauges:
        yield PowerStep(
            "gauges",
            "",
            "Let it warm up; check the gauges against a thermometer",
            "A gauge that reads wrong can cost an engine.",
            "Cooling system bled, cap on.",
            f"{', '.join(gauges)} agree; the fan comes on before it is too hot.",
            "Its sender with a known resistor in its place; then its earth.",
        )
    fired = [device for device in job.devices if device.kind == "injector"] or [
        device for device in job.devices if device.kind == "coil"
    ]
    if len(fired) > 1:
        yield PowerStep(
            "misfire",
            fired[0].code,
            f"At idle, unplug one after the other: {', '.join(device.name for device in fired)}",
            "The one that changes nothing is the one that does not work.",
            "Insulated pliers; never a coil's lead off while it sparks.",
            "Speed drops by the same amount with each.",
            "No change: swap it with its neighbour. It moves along: the part. It stays: its wires.",
        )


def _lamps(job: Job, rest: OperatingPoint, running: OperatingPoint) -> Iterator[PowerStep]:
    """Which warning lamps are lit before the engine runs, and while it does."""
    lit = [load.name for load in rest.loads if _warns(job, load.device) and load.state == "alive"]
    out = [
        load.name for load in running.loads if _warns(job, load.device) and load.state == "alive"
    ]
    if lit:
        yield PowerStep(
            "lamps",
            "",
            "Look at the warning lamps: key in run, then running",
            "A lamp that never lights warns of nothing.",
            "",
            f"run: {', '.join(lit)}; running: {', '.join(out) or 'none'}.",
            "Dark in run: bulb, feed, or a sender that was left off.",
            Setup(("run", "running")),
        )


def _warns(job: Job, code: str) -> bool:
    return any(device.code == code and device.kind == "warning lamp" for device in job.devices)


METER_FUSE_A = 10.0
"""What the fuse of a bench meter bears, A (common practice: 10, some 20)."""


def _stops(network: Network, solved: Solved, ready: Solved) -> Iterator[PowerStep]:
    """What stops it, and what it draws at rest."""
    job = network.job
    if generators(job.devices):
        after = ready(KEY_OFF_RUNNING)
        stops = bool(after.lost or after.problem)
        yield PowerStep(
            "key off",
            "",
            "Turn the key off with the engine running",
            "An alternator may keep the ignition alive through its lamp.",
            "",
            "It stops at once." if stops else f"By the job it runs on: {MEND_FIRST}.",
            "A diode in the exciter's wire, or another feed.",
        )
    if any(device.kind == "isolator" for device in job.devices):
        after = ready(ISOLATED)
        stops = bool(after.lost or after.problem)
        yield PowerStep(
            "isolator",
            "",
            "Open the isolator with the engine running, at idle"
            if stops
            else "Do not open the isolator under charge yet",
            "It has to stop an engine that the alternator feeds."
            if stops
            else "An alternator that loses its battery while it charges jumps to many times its "
            "voltage, and by the job nothing stops it.",
            "Loads on, so that the voltage does not jump.",
            "It stops at once." if stops else f"By the job the engine runs on: {MEND_FIRST}.",
            "Its second contacts: they open the computer's relay, too.",
        )
    rest = drain(solved(OFF._replace(rested=True)))
    takers = ", ".join(f"{name} {amps_text(amps)}" for _, name, amps in rest.items[:4])
    woken = max(0.0, solved(RUN).source_amps)
    meter = (
        ""
        if woken <= METER_FUSE_A
        else (
            f" {amps_text(woken)} by the job if something wakes, or the key is turned: the meter's "
            f"own fuse, often {METER_FUSE_A:g} A, goes. A clamp, or a wire across the meter "
            "until all sleeps."
        )
    )
    yield PowerStep(
        "drain",
        "",
        "Key off, everything shut: measure the current into the battery's live cable",
        f"What draws at rest empties the battery. {lasts(job, rest.total_a)}".rstrip(),
        "Ammeter in series. Wait until all modules sleep: ten minutes, newer vehicles up to an "
        f"hour.{meter}",
        f"{amps_text(rest.total_a)} by the job ({takers or 'nothing'}), "
        f"{amps_text(job.settings.drain_limit_a)} at most.",
        "Pull fuses one by one until it falls.",
    )


def as_steps(found: tuple[PowerStep, ...]) -> tuple[Step, ...]:
    """Return steps as cards: what is expected, why, and what to do if it is not so."""
    return tuple(
        Step(
            one.key,
            one.subject,
            one.do,
            f"Expect: {one.expect} {one.why} If not: {one.otherwise}",
            first=one.before,
        )
        for one in found
    )
