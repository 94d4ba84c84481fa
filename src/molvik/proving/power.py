"""Bringing power up in steps, from the job itself: what to do, what to expect, what if not.

Before power: nothing that is a short. Then little current, fuse by fuse; the feeds of each plug
before its computer is put in; then pump, crank, run, charge, stop and rest. Expected values are
those of the solution of the network; the order is common practice.
"""

from collections.abc import Iterator

from molvik.circuits.drain import drain
from molvik.circuits.simulate import OperatingPoint
from molvik.model.geometry import cavities
from molvik.model.job import Job
from molvik.model.parts import Connector, Device
from molvik.netlist.faults import Fault
from molvik.netlist.network import Network
from molvik.netlist.states import (
    ACCESSORY,
    CRANK,
    ISOLATED,
    KEY_OFF_RUNNING,
    OFF,
    PRIME,
    RUN,
    RUNNING,
    State,
    choices_of,
)
from molvik.parsing.quantities import amps_text
from molvik.proving.powerstep import PowerStep, Solved, still
from molvik.proving.signals import signal_steps
from molvik.reference.device_types import type_of
from molvik.steps import Step
from molvik.wording import figures

POWER = "power"
"""Name of the list of steps, for its ticks."""

FED_SHARE = 0.8
"""A cavity at more than this share of the nominal voltage is fed (our choice)."""

CHARGED_V = (13.8, 14.8)
"""Of a 12 V system that charges (common practice); of others by their share."""


def power_steps(network: Network, solved: Solved) -> tuple[PowerStep, ...]:
    """Return the steps of a job with a battery; none without one, nor where nothing is solved."""
    job = network.job
    if not any(device.kind == "battery" for device in job.devices):
        return ()
    if solved(OFF).problem or solved(RUN).problem:
        return ()
    solved = still(job, solved)
    found = [
        *_before(job, solved), *_fuses(job, solved), *_plugs(network, solved),
        *signal_steps(job, solved),
        *_engine(job, solved), *_stops(job, solved),
    ]  # fmt: skip
    return tuple(step._replace(key=f"power {number}: {step.key}") for number, step in enumerate(
        found, 1))  # fmt: skip


def _before(job: Job, solved: Solved) -> Iterator[PowerStep]:
    plus = next(device.code for device in job.devices if device.kind == "battery")
    idle = max(0.0, solved(OFF).source_amps)
    out = frozenset(Fault("open", fuse.code) for fuse in job.fuses)
    bare = max(0.0, solved(OFF._replace(faults=out)).source_amps) if out else idle
    nominal = job.settings.system_v
    least = f"more than {figures(nominal / idle * 0.5, 2)} Ω" if idle > 1e-3 else "open, or kilohms"
    yield PowerStep(
        "no short", plus, "Ohms from plus to minus cable, both off the battery, key off",
        "A short here burns a wire the moment the battery is on.",
        "Battery off. Computers unplugged. Airbag and high-voltage circuits left alone.",
        f"{least}; key in run lower, but never under an ohm or two.",
        "Take fuses out one by one until it is gone: it is behind that one.",
    )  # fmt: skip
    yield PowerStep(
        "little current",
        plus,
        "First power: a bench supply held to 1 A, or a headlamp bulb in series with plus, key off",
        "What is wrong shows as light, not as smoke.",
        "All fuses out. Computers unplugged. Someone at the isolator.",
        f"{amps_text(bare)} by the job; the bulb stays dark.",
        "The bulb lights: off again, and measure from the plus cable on.",
    )


def _fuses(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """Fuses one by one, in the order in which they are fed, with what each should carry."""
    states = (OFF, ACCESSORY, RUN)
    for fuse in job.fuses:
        name = f"{fuse.code} {fuse.code}/in {fuse.code}/out"
        amps = [abs(solved(state).solution.amps.get(name, 0.0)) for state in states]
        shown = ", ".join(
            f"{state.name} {amp:.1f} A" if amp >= 0.05 else f"{state.name} nothing"
            for state, amp in zip(states, amps, strict=True)
        )
        yield PowerStep(
            f"fuse {fuse.code}",
            fuse.code,
            f"Put in {fuse.code} {fuse.name}, {fuse.rating_a:g} A: off, accessory, run",
            "One circuit at a time: what it does now is of this fuse.",
            "Nobody leans over a fan or a pump that may start.",
            f"{shown}. No smoke, no warm fuse.",
            "More, or it blows: out again; look at what it feeds, and for two wires that touch.",
        )


def _plugs(network: Network, solved: Solved) -> Iterator[PowerStep]:
    """The feeds of the plug of each controller, with it unplugged."""
    job = network.job
    for device in job.devices:
        if type_of(device).acts_as != "controller" or not device.plug:
            continue
        plug = job.connector(device.plug)
        if plug is None:
            continue
        out = frozenset({Fault("open", device.code)})
        for state in (OFF, ACCESSORY, RUN, CRANK):
            point = solved(state._replace(faults=out))
            if not point.problem:
                yield _feeds(device, plug, state, point)
        yield PowerStep(
            f"plug {device.code} in", device.code, f"Plug {device.name} in, key to run",
            "Its earths and feeds are proved: now it may wake.",
            "Key off while it is plugged in.",
            "Its relay pulls in, its lamp lights and goes out. Link up, and read its codes: note "
            "them, clear once, read again.",
            "No relay, no lamp: its earths first (without them nothing works and nothing warns), "
            "then its constant feed.",
        )  # fmt: skip


def _feeds(device: Device, plug: Connector, state: State, point: OperatingPoint) -> PowerStep:
    fed, earthed = list[str](), list[str]()
    for cavity in cavities(plug.grid):
        volts = point.solution.volts.get(f"{plug.code}/{cavity}")
        if volts is None:
            continue
        if abs(volts) >= FED_SHARE * point.nominal:
            fed.append(cavity)
        elif abs(volts) < 0.2 and state == OFF and cavity in device.earths:
            earthed.append(cavity)
    said = f"{point.nominal:g} V at {', '.join(fed)}" if fed else "no feed at all"
    if earthed:
        said += f"; earth, under 0.2 V, at {', '.join(earthed)}"
    return PowerStep(
        f"{plug.code} {state.name}",
        plug.code,
        f"{plug.code} {plug.name}: probe every cavity, key {state.key}",
        "A feed that is dead in crank, or live when it should not be, is found before it costs a "
        "computer.",
        f"{device.name} unplugged; probe from behind, spread no terminal."
        + (" Starter's wire off, or the coils unplugged." if state == CRANK else ""),
        f"{said}; nothing elsewhere.",
        "Follow it back with Circuits: what stands between it and its fuse.",
    )


def _engine(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """Prime, crank, run, charge, loads, lamps."""
    prime, rest = solved(PRIME), solved(RUN)
    briefly = [load.name for load in prime.loads
               if load.state == "alive" and rest.load[load.device].state != "alive"]  # fmt: skip
    if briefly:
        yield PowerStep(
            "prime", "", "Key to run, and listen",
            "The first seconds tell that the computer works its relays.",
            "Fuel line looked at; extinguisher at hand.", f"{', '.join(briefly)}: for seconds.",
            "Not heard: its relay, its fuse, its earth, in this order.",
        )  # fmt: skip
    starters = [device for device in job.devices if device.kind == "starter"]
    if starters:
        crank = solved(CRANK)
        volts = crank.across(crank.wiring.live, crank.reference)
        yield PowerStep(
            "crank",
            starters[0].code,
            "Crank, gearbox in neutral, three seconds",
            "Before it starts it shows pulses, fuel pressure and cranking voltage.",
            "Injectors or coils unplugged for the first time; hands and sleeves off the belts.",
            f"{volts:.1f} V at the battery while it turns; the computer shows engine speed."
            + (f" By the job it does not start: {crank.starts}." if crank.starts else ""),
            "No speed shown: crank sensor, its polarity, its screen.",
        )
    running = solved(RUNNING)
    if any(device.kind == "alternator" for device in job.devices) and not running.problem:
        low, high = (limit * job.settings.system_v / 12 for limit in CHARGED_V)
        yield PowerStep(
            "start", "", "Start it, set base timing with it locked, then look at idle",
            "Timing that is off melts pistons; it is set before anything else.",
            "Injectors and coils plugged in again.", "It runs; oil pressure within seconds.",
            "Off at once; codes, then misfire by pulling one cylinder at a time.",
        )  # fmt: skip
        yield PowerStep(
            "charge", "", "Measure at the battery with the engine at fast idle",
            "An alternator that does not charge, or overcharges, is the next breakdown.",
            "", f"{low:.1f} to {high:.1f} V.",
            "Less: its exciter and warning lamp, its fuse. More: its sense wire, its earth.",
        )  # fmt: skip
    if starters and not running.problem:
        yield from _at_work(job, solved)
    yield from _lamps(job, rest, running)


def _at_work(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """Every load, gauges and temperature, and cylinders one by one."""
    on = tuple((device.code, choices[-1]) for device in job.devices
               if len(choices := choices_of(device)) > 1)  # fmt: skip
    full = solved(RUNNING._replace(switches=on))
    drawn = sum(load.amps for load in full.loads if load.state == "alive")
    yield PowerStep(
        "loads", "", "Every load on, fast idle, ten minutes; feel fuses, relays and plugs",
        "What warms up now fails in the first rain at night.", "Nobody near fans and belts.",
        f"about {drawn:.0f} A in all; no fuse blows, nothing too warm to hold.",
        "A warm plug or fuse: its terminals, then the size of its wire.",
    )  # fmt: skip
    gauges = [device.name for device in job.devices if device.kind == "gauge"]
    if gauges:
        yield PowerStep(
            "gauges", "", "Let it warm up; hold the gauges against a thermometer",
            "A gauge that lies costs an engine.", "Cooling system bled, cap on.",
            f"{', '.join(gauges)} agree; the fan comes on before it is too hot.",
            "Its sender with a known resistor in its place; then its earth.",
        )  # fmt: skip
    fired = [device for device in job.devices if device.kind == "injector"] or [
        device for device in job.devices if device.kind == "coil"
    ]
    if len(fired) > 1:
        yield PowerStep(
            "misfire", fired[0].code,
            f"At idle, unplug one after the other: {', '.join(device.name for device in fired)}",
            "The one that changes nothing is the one that does not work.",
            "Insulated pliers; never a coil's lead off while it sparks.",
            "Speed falls by as much with each.",
            "No change: swap it with its neighbour. It moves along: the part. It stays: its wires.",
        )  # fmt: skip


def _lamps(job: Job, rest: OperatingPoint, running: OperatingPoint) -> Iterator[PowerStep]:
    """Which warning lamps are lit before the engine runs, and while it does."""
    lit = [load.name for load in rest.loads if _warns(job, load.device) and load.state == "alive"]
    out = [load.name for load in running.loads
           if _warns(job, load.device) and load.state == "alive"]  # fmt: skip
    if lit:
        yield PowerStep(
            "lamps", "", "Look at the warning lamps: key in run, then running",
            "A lamp that never lights warns of nothing.", "",
            f"run: {', '.join(lit)}; running: {', '.join(out) or 'none'}.",
            "Dark in run: bulb, feed, or a sender that was left off.",
        )  # fmt: skip


def _warns(job: Job, code: str) -> bool:
    return any(device.code == code and device.kind == "warning lamp" for device in job.devices)


def _stops(job: Job, solved: Solved) -> Iterator[PowerStep]:
    """What stops it, and what it draws at rest."""
    if any(device.kind == "alternator" for device in job.devices):
        after = solved(KEY_OFF_RUNNING)
        goes_on = "" if after.lost or after.problem else " By the job it does not: see Circuits."
        yield PowerStep(
            "key off", "", "Turn the key off with the engine running",
            "An alternator may keep the ignition alive through its lamp.", "",
            f"It stops at once.{goes_on}", "A diode in the exciter's wire, or another feed.",
        )  # fmt: skip
    if any(device.kind == "isolator" for device in job.devices):
        after = solved(ISOLATED)
        goes_on = "" if after.lost or after.problem else " By the job it does not: see Circuits."
        yield PowerStep(
            "isolator", "", "Open the isolator with the engine running, at idle",
            "It has to stop an engine that the alternator feeds.",
            "Loads on, so that the voltage does not leap.", f"It stops at once.{goes_on}",
            "Its second contacts: they open the computer's relay, too.",
        )  # fmt: skip
    rest = drain(solved(OFF))
    some = ", ".join(f"{name} {amps_text(amps)}" for _, name, amps in rest.items[:4])
    yield PowerStep(
        "drain",
        "",
        "Key off, everything shut: measure the current into the battery's plus",
        "What draws at rest empties the battery in weeks.",
        "Ammeter in series, ten minutes after the key.",
        f"{amps_text(rest.total_a)} by the job ({some or 'nothing'}), "
        f"{amps_text(job.settings.drain_limit_a)} at most.",
        "Pull fuses one by one until it falls.",
    )


def as_steps(found: tuple[PowerStep, ...]) -> tuple[Step, ...]:
    """Return steps as cards: what is expected, why, and what to do if it is not so."""
    return tuple(
        Step(one.key, one.subject, one.do,
             f"Expect: {one.expect} {one.why} If not: {one.otherwise}", first=one.before)
        for one in found
    )  # fmt: skip
