"""Rules about what is alive when: from the electrical solution."""

from collections.abc import Iterator

from molvik.analysis import Analysis
from molvik.circuits.drain import drain, lasts, parked
from molvik.circuits.paths import ways
from molvik.circuits.rundown import TAKES_A
from molvik.circuits.simulate import OperatingPoint, needed
from molvik.circuits.why import Explanation, why
from molvik.devices import generators, kind_of
from molvik.devices.kinds.alternator import alternators
from molvik.devices.states import CRANK, ISOLATED, KEY_OFF_RUNNING, OFF, RUN, RUNNING, STATES
from molvik.findings.finding import Figure, Finding
from molvik.findings.solving import point_in
from molvik.model.parts import Device
from molvik.model.refs import end_text
from molvik.netlist.branches import path, reached
from molvik.parsing.quantities import amps_text
from molvik.wording import figures


def _all_of(names: list[str]) -> str:
    more = f" and {names[-1]}" if len(names) > 1 else ""
    return f"{', '.join(names[:-1] or names)}{more}"


def does_not_start(analysis: Analysis) -> Iterator[Finding]:
    """What the engine needs is dead while it is cranked; one finding for each cause."""
    crank = point_in(analysis, CRANK)
    starters = [device for device in analysis.job.devices if device.kind == "starter"]
    by_cause: dict[str, list[tuple[Device, Explanation]]] = {}
    for device in (*needed(analysis.job), *starters):
        load = crank.load.get(device.code)
        if load is None or load.state not in ("dead", "weak"):
            continue
        said = why(crank, device.code)
        by_cause.setdefault(said.cause or device.code, []).append((device, said))
    for found in by_cause.values():
        device, said = found[0]
        verb = "are" if len(found) > 1 else "is"
        yield Finding(
            "dead-in-crank",
            "stop",
            device.code,
            f"{_all_of([load.name for load, _ in found])} {verb} dead while the engine is cranked.",
            " ".join(said.lines),
            said.remedy or "Follow its supply and its return.",
            (Figure("how many are dead", len(found)),),
        )


def runs_on(analysis: Analysis) -> Iterator[Finding]:
    """The engine goes on when the key is turned off, or much of what it needs does."""
    wanted = needed(analysis.job)
    if not wanted:
        return
    if point_in(analysis, RUNNING).lost:
        return  # it does not run in the first place
    after = point_in(analysis, KEY_OFF_RUNNING)
    lost = {device.code for device in after.lost}
    # What has a permanent supply is alive anyway, and stops nothing.
    ever = {load.device for load in point_in(analysis, OFF).loads if load.state == "alive"}
    on = [device for device in wanted if device.code not in lost and device.code not in ever]
    if not on:
        return
    relays = (d for d in analysis.job.devices if d.kind == "relay" and d.code in after.on)
    held = [device.name for device in relays]
    words = f" Pulled in: {', '.join(held)}." if held else ""
    because = (
        "The alternator feeds back, often through the charge lamp, what the key no longer feeds; a "
        "relay holds with far less than it took to pull in."
    )
    remedy = (
        "Put a diode into the charge lamp's wire, or take the relay's coil from a contact the lamp "
        "does not reach."
    )
    if not lost:
        yield Finding(
            "runs-on",
            "stop",
            "key",
            f"The engine runs on with the key off.{words}",
            because,
            remedy,
        )
    else:
        what = f"{_all_of([device.name for device in on])} stay alive with the key off."
        yield Finding("stays-alive", "look", "key", f"{what}{words}", because, remedy)


def isolator_does_not_stop(analysis: Analysis) -> Iterator[Finding]:
    """The battery is off, and the alternator keeps the engine alive."""
    if not needed(analysis.job):
        return
    isolator = next(device for device in analysis.job.devices if device.kind == "isolator")
    running, after = point_in(analysis, RUNNING), point_in(analysis, ISOLATED)
    if not running.lost and not after.lost:
        yield Finding(
            "isolator-no-stop",
            "stop",
            isolator.code,
            f"The engine runs on with {isolator.name} off.",
            "It takes the battery away and leaves the alternator, which feeds everything by "
            "itself: in an accident the engine cannot be stopped there.",
            "Break the ignition or the engine computer's feed with its second contacts as well.",
        )
    yield from _run_down(analysis, after, isolator)


def _run_down(analysis: Analysis, after: OperatingPoint, isolator: Device) -> Iterator[Finding]:
    """An alternator cut off while it charges must have somewhere to put its last energy."""
    makers = generators(analysis.job.devices)
    joined = reached(ways(after), [after.wiring.live], closed=True)
    resistors = [d.code for d in analysis.job.devices if d.kind == "resistor"]
    taken = any(after.load[code].amps > TAKES_A for code in resistors if code in after.load)
    for maker in makers:
        output = end_text(maker.code, kind_of(maker).source(""))
        if output in joined or taken:
            continue
        yield Finding(
            "no-run-down",
            "look",
            maker.code,
            f"{maker.name} has no load-dump path when {isolator.name} opens.",
            "Cut off while it charges, its voltage jumps to many times its own for a moment, and "
            "takes the engine computer and its own diodes with it.",
            "Use an isolator whose second contacts put a resistor (common practice: 3 Ω, 11 W) "
            "from its output to earth.",
        )


def does_not_charge(analysis: Analysis) -> Iterator[Finding]:
    """The engine runs and an alternator never begins."""
    running = point_in(analysis, RUNNING)
    for device, _ in alternators(analysis.job.devices):
        if running.load[device.code].state == "dead":
            said = why(running, device.code)
            yield Finding(
                "no-charge",
                "stop",
                device.code,
                f"{device.name} does not start charging.",
                " ".join(said.lines),
                said.remedy,
            )


def fuse_blows(analysis: Analysis) -> Iterator[Finding]:
    """With everything on, a fuse carries more than it stands."""
    solved = point_in(analysis, RUNNING)
    names = {fuse.code: fuse for fuse in analysis.job.fuses}
    for code, blown in sorted(solved.blown.items()):
        yield Finding(
            "fuse-blows",
            "stop",
            code,
            f"{code} {names[code].name} blows with everything behind it switched on: "
            f"{blown.amps:.0f} A.",
            f"Even the slowest {names[code].rating_a:g} A {names[code].kind} fuse will blow at "
            "that current.",
            "Share the loads out over two fuses, or find what draws too much.",
            (Figure("its current", blown.amps, "A"),),
        )


def chatters(analysis: Analysis) -> Iterator[Finding]:
    """A relay that cannot settle."""
    seen: set[str] = set()
    for state in (RUN, CRANK, RUNNING):
        point = point_in(analysis, state)
        for code in point.chatter:
            if code in seen or code not in point.load:
                continue
            seen.add(code)
            found = path(ways(point), point.load[code].plus, point.wiring.live) or []
            loop = ", ".join(dict.fromkeys(link.part for link in found if link.what != "contact"))
            yield Finding(
                "chatter",
                "stop",
                code,
                f"{code} cannot settle: it pulls in and lets go again and again.",
                f"Pulling in takes its own coil's supply or return away; its contacts burn. Its "
                f"coil is fed through {loop or 'nothing'}.",
                "Feed its coil from before its own contact.",
            )


def two_rests(analysis: Analysis) -> Iterator[Finding]:
    """Relays that lock one another, so that chance decides which of them pulls in."""
    told: set[frozenset[str]] = set()
    for state in STATES:
        rests = point_in(analysis, state).rests
        relays = frozenset[str]().union(*rests)
        if len(rests) < 2 or relays in told:
            continue
        told.add(relays)
        ways = "; or ".join(_all_of(sorted(rest)) if rest else "none of them" for rest in rests)
        yield Finding(
            "two-rests",
            "look",
            min(relays),
            f"Chance decides which of {_all_of(sorted(relays))} pulls in: {ways}.",
            "Each takes the coil of the other away, and the faster one wins. What is shown is the "
            f"first, in {state.name}.",
            "As an interlock it is right, while only one is asked for at a time. Else feed the one "
            "that must win from before the other's contact.",
            (Figure("how many states it can settle in", len(rests)),),
        )


def drains(analysis: Analysis) -> Iterator[Finding]:
    """What flows with the key off and every switch off empties the battery."""
    battery = next(device for device in analysis.job.devices if device.kind == "battery")
    found = drain(point_in(analysis, parked(analysis.job)))
    limit = analysis.job.settings.drain_limit_a
    if found.total_a <= limit:
        return
    items = ", ".join(f"{name} {figures(amps, 2)} A" for _, name, amps in found.items[:3])
    yield Finding(
        "drain",
        "look",
        battery.code,
        f"{amps_text(found.total_a)} is drawn with the key and all switches off; the limit is "
        f"{amps_text(limit)}.",
        f"Most of it goes into {items}. {lasts(analysis.job, found.total_a)}",
        "Feed anything that should be off at rest from a key-switched supply or a relay, or fit a "
        "switch.",
        (Figure("the current", found.total_a, "A"),),
    )
