"""Stripping a loom down: what must stay for some devices to work as before, and what can go.

A wire stays when without it a device that is kept is no longer alive in just the states it was
alive in, or one of its terminals no longer reaches what it reached: the battery, earth, or another
device that is kept.
"""

from collections.abc import Callable, Iterable
from typing import NamedTuple

from msgspec.structs import replace

from molvik.circuits.simulate import OperatingPoint
from molvik.devices import kind_of
from molvik.devices.kind import terminals_named
from molvik.devices.nodes import METAL
from molvik.devices.states import (
    ACCESSORY,
    CRANK,
    ISOLATED,
    KEY_OFF_RUNNING,
    OFF,
    PRIME,
    RUN,
    RUNNING,
    State,
    is_key,
)
from molvik.model import edits
from molvik.model.job import Job
from molvik.model.parts import Device, End, Wire
from molvik.model.refs import end_text
from molvik.netlist.branches import by_node, reached
from molvik.netlist.cache import Key
from molvik.netlist.circuitgraph import circuit_graph
from molvik.netlist.network import Network

LOOKED_AT = (RUN, CRANK, RUNNING, PRIME, OFF, ACCESSORY, KEY_OFF_RUNNING, ISOLATED)
"""The states that are compared, those that tell most first."""

KEY_LEADS = {
    "15": ("key on, run and crank", "KEY ON"),
    "50": ("start", "START"),
    "75": ("accessory", "ACC"),
    "30": ("constant, to the key switch", "CONST KEY"),
}


class Lead(NamedTuple):
    """A lead that is hooked up by hand. place: where it went; label: what it should carry."""

    wire: str
    place: str
    what: str
    label: str


class StripPlan(NamedTuple):
    """What comes of stripping.

    kept: wires with the device each is kept for. gone: wires that can go. parts: codes of parts
    that are left without a wire. shared: wires that stay and also served what goes, with its names.
    leads: what is then hooked up by hand. held: parts without a wire that stay, with what holds
    them.
    """

    kept: dict[str, str]
    gone: tuple[str, ...]
    parts: tuple[str, ...]
    shared: dict[str, tuple[str, ...]]
    leads: tuple[Lead, ...]
    held: dict[str, str]


ALIVE = Key[dict[str, dict[str, bool]]]()
"""What is alive in each state, by its name."""


class Stopped(Exception):  # noqa: N818
    """The user asked to stop."""


def devices_named(job: Job, words: Iterable[str]) -> tuple[str, ...]:
    """Return the codes of devices by their codes, names or kinds; ValueError names a word."""
    found: list[str] = []
    for word in words:
        tidy = word.strip().lower()
        same = [
            device.code
            for device in job.devices
            if tidy in (device.code.lower(), device.name.lower(), device.kind, f"{device.kind}s")
        ]
        near = [device.code for device in job.devices if tidy and tidy in device.name.lower()]
        if not tidy or not (same or near):
            kinds = ", ".join(sorted({device.kind for device in job.devices}))
            raise ValueError(
                f"There is no device “{word}”. Name one, its code, or a kind: {kinds}."
            )
        found += same or near
    return tuple(dict.fromkeys(found))


def with_sensors(job: Job, keep: Iterable[str]) -> tuple[str, ...]:
    """Return what is kept and the sensors that its computers read: without them an engine does not
    run as before, though every wire of the computer stays.
    """
    kept = tuple(dict.fromkeys(keep))
    network = Network(job)
    plugs = {
        device.plug
        for device in job.devices
        if device.code in kept and kind_of(device).is_computer and device.plug
    }
    read = {network.net_of[end] for end in network.net_of if end.at in plugs}
    found = []
    for device in job.devices:
        model = kind_of(device)
        if not model.watched or device.code in kept:
            continue
        signal = End.of(end_text(device.plug or device.code, _signal(device)))
        if network.net_of.get(signal) in read:
            found.append(device.code)
    return (*kept, *found)


def _signal(device: Device) -> str:
    """Return the terminal of a sensor that a computer reads."""
    return "signal" if "signal" in device.terminals else device.terminals[0]


def held_by(job: Job, code: str) -> str:
    """Return what holds on to a part, in words; empty when it can be taken out."""
    try:
        edits.refuse_held(job, code)
    except edits.EditError as error:
        return str(error)
    return ""


def strip(
    job: Job,
    keep: Iterable[str],
    stop: Callable[[], bool] = lambda: False,
    progress: Callable[[int, int], None] = lambda done, of: None,
) -> StripPlan:
    """Return what must stay and what can go; ValueError when nothing is kept. Raises Stopped."""
    wanted = tuple(dict.fromkeys(keep))
    unknown = [code for code in wanted if not isinstance(job.part(code), Device)]
    if unknown:
        raise ValueError(f"There is no device {unknown[0]} in the job.")
    if not wanted:
        raise ValueError("Nothing is kept: choose at least one device.")
    check = _Check(job, wanted)
    stays = [wire.code for wire in job.wires if wire.start.at and wire.finish.at]
    reasons: dict[str, str] = {}
    total = len(stays)
    # Many groups first, then halves of them, down to single wires. What was needed while more was
    # there is needed when less is, so that it comes to the same as wire after wire.
    waiting = [_first_groups(job, frozenset(wanted), stays)]
    left = total
    while waiting:
        if stop():
            raise Stopped
        groups = waiting.pop(0)
        group = [code for codes in groups for code in codes]
        progress(total - left, total)
        rest = frozenset(stays) - frozenset(group)
        broken = check.broken_by(rest)
        if not broken:
            stays = [code for code in stays if code in rest]
            left -= len(group)
        elif len(group) == 1:
            reasons[group[0]] = broken
            left -= 1
        else:
            parts = groups if len(groups) > 1 else [[code] for code in group]
            middle = len(parts) // 2
            waiting[:0] = [parts[:middle], parts[middle:]]
    return _plan(job, wanted, stays, reasons)


def _first_groups(job: Job, wanted: frozenset[str], stays: list[str]) -> list[list[str]]:
    """Return wires in groups: those of what is not kept first, each device's by itself."""
    known = set(stays)
    homes = {
        device.plug or device.code
        for device in job.devices
        if device.code not in wanted and not is_key(device) and not kind_of(device).is_supply
    }
    groups: dict[str, list[str]] = {}
    for wire in job.wires:
        at = next((end.at for end in wire.ends if end.at in homes), "")
        if wire.code in known:
            groups.setdefault(at, []).append(wire.code)
    rest = groups.pop("", [])
    found = list(groups.values())
    return [*found, *(rest[begin : begin + 8] for begin in range(0, len(rest), 8))]


class _Check:
    """Says what is broken when only some wires are left."""

    def __init__(self, job: Job, wanted: tuple[str, ...]) -> None:
        self.job, self.wanted = job, wanted
        self.devices = [device for device in job.devices if device.code in wanted]
        network = Network(job)
        self.terminals = {
            node: device.name for device in self.devices for node in terminals_of(network, device)
        }
        self.whole = {state.name: self._alive(network, state) for state in LOOKED_AT}
        # Where a fuse blows, less to feed may bring it back: that breaks nothing.
        self.mended = {s.name for s in LOOKED_AT if OperatingPoint(network, s).blown}
        self.reach = self._reach(network)

    def _alive(self, network: Network, state: State) -> dict[str, bool]:
        solved = OperatingPoint(network, state)
        return {
            code: solved.load[code].state in ("alive", "weak")
            for code in self.wanted
            if code in solved.load
        }

    def _reach(self, network: Network) -> dict[str, frozenset[str]]:
        """Return what each terminal of a kept device reaches."""
        made = circuit_graph(network, RUN)
        plain = by_node(made.fixed)
        # Through fuses, switches and relays, whether they are closed or not.
        through = by_node((*made.fixed, *made.switched(RUN, frozenset(), ())))
        fed = reached(through, [made.live]) if made.live else set()
        mine = self.terminals
        found: dict[str, frozenset[str]] = {}
        for node in mine:
            near = reached(plain, [node])
            marks = {other for other in near if other in mine and other != node}
            marks |= {"earth"} if METAL in near else set()
            marks |= {"battery"} if node in fed else set()
            found[node] = frozenset(marks)
        return found

    def broken_by(self, stays: frozenset[str]) -> str:
        """Return the name of a kept device that no longer works as before, empty for none."""
        left = replace(self.job, wires=tuple(w for w in self.job.wires if w.code in stays))
        network = Network(left)
        names = {device.code: device.name for device in self.devices}
        for node, marks in self._reach(network).items():
            if marks != self.reach[node]:
                return self.terminals[node]
        for state in LOOKED_AT:
            now = self._solved(network, state)
            for code, was in self.whole[state.name].items():
                if now.get(code) != was and (was or state.name not in self.mended):
                    return names[code]
        return ""

    def _solved(self, network: Network, state: State) -> dict[str, bool]:
        kept = network.cache.get(ALIVE, dict)
        if state.name not in kept:
            kept[state.name] = self._alive(network, state)
        return kept[state.name]


def terminals_of(network: Network, device: Device) -> tuple[str, ...]:
    """Return the nodes of a device where wires go: of a computer, every cavity that is wired."""
    if kind_of(device).is_computer and device.plug:
        return tuple(str(end) for end in network.wires_at if end.at == device.plug)
    return tuple(end_text(device.plug or device.code, name) for name in terminals_named(device))


def _plan(
    job: Job, wanted: tuple[str, ...], stays: list[str], reasons: dict[str, str]
) -> StripPlan:
    staying = frozenset(stays)
    gone = tuple(w.code for w in job.wires if w.code not in staying)
    left = edits.remove_wires(job, frozenset(gone))
    bare = _bare_parts(left, frozenset(wanted))
    held = {code: why for code in bare if (why := held_by(left, code))}
    parts = tuple(code for code in bare if code not in held)
    network, after = Network(job), Network(left)
    shared: dict[str, tuple[str, ...]] = {}
    names = {device.code: device.name for device in job.devices}
    homes = {device.plug: device.code for device in job.devices if device.plug}
    for code in stays:
        others = _beside(network, code) - _beside(after, code)
        served = [names.get(homes.get(other, other), "") for other in sorted(others)]
        told = tuple(dict.fromkeys(name for name in served if name))
        if told:
            shared[code] = told
    wires = [w for w in job.wires if w.code in staying]
    leads = [lead for wire in wires for lead in _leads(job, wire, frozenset(wanted))]
    leads += _outputs(network, after, frozenset(wanted))
    return StripPlan(
        {c: reasons.get(c, "") for c in stays}, gone, parts, shared, tuple(leads), held
    )


def _outputs(network: Network, after: Network, wanted: frozenset[str]) -> list[Lead]:
    """Return the cavities of computers that spoke to what goes: gauges, fans, a second computer."""
    found = []
    homes = {device.plug or device.code: device for device in network.job.devices}
    for device in network.job.devices:
        if device.code not in wanted or not kind_of(device).is_computer:
            continue
        for node in terminals_of(network, device):
            end = End.of(node)
            if end in after.wires_at:
                continue
            net = network.net_of.get(end)
            others = {
                homes[end.at].name
                for end, number in network.net_of.items()
                if number == net and end.at in homes and homes[end.at].code not in wanted
            }
            wire = network.wires_at[end][0]
            for name in sorted(others):
                label = (wire.function or name).upper()
                found.append(Lead(wire.code, node, name.lower(), label))
    return found


def _beside(network: Network, code: str) -> set[str]:
    """Return the parts that other wires of a wire's net go to."""
    net = {network.net_of.get(end) for end in network.wires[code].ends}
    return {end.at for end, number in network.net_of.items() if number in net and end.at}


def _bare_parts(job: Job, wanted: frozenset[str]) -> tuple[str, ...]:
    """Return the parts that no wire goes to any more; what is kept, and its plugs, stay."""
    used = {end.at for wire in job.wires for end in wire.ends}
    plugs = {device.plug for device in job.devices if device.code in wanted or device.plug in used}
    mates = {connector.plugs_into for connector in job.connectors if connector.code in used}
    mates |= {connector.code for connector in job.connectors if connector.plugs_into in used}
    homes = {device.code for device in job.devices if device.plug in used and device.plug}
    held = used | wanted | plugs | mates | homes
    held |= {device.case for device in job.devices if device.code in held}
    return tuple(part.code for part in job.parts() if part.code not in held)


def _leads(job: Job, wire: Wire, wanted: frozenset[str]) -> Iterable[Lead]:
    """Yield what has to be hooked up at the ends of a wire that stays."""
    earths = {earth_point.code: earth_point.name for earth_point in job.earths}
    devices = {device.plug or device.code: device for device in job.devices}
    for end in wire.ends:
        device = devices.get(end.at)
        function = (wire.function or wire.code).upper()
        if end.at in earths:
            label = function if "EARTH" in function else f"EARTH {function}"
            yield Lead(wire.code, str(end), f"earth, {earths[end.at]}", label)
        elif device is None or device.code in wanted:
            continue
        elif device.kind == "battery":
            plus = end.cavity == "+"
            label = "CONST" if plus else "BATT EARTH"
            yield Lead(wire.code, str(end), "constant" if plus else "battery earth", label)
        elif is_key(device) and end.cavity in KEY_LEADS:
            what, label = KEY_LEADS[end.cavity]
            yield Lead(wire.code, str(end), what, label)
        elif not kind_of(device).is_supply:
            yield Lead(wire.code, str(end), device.name.lower(), f"{device.name} {end}".upper())


def stripped(job: Job, plan: StripPlan) -> Job:
    """Return the job without what can go."""
    job = edits.remove_wires(job, frozenset(plan.gone))
    for code in plan.parts:
        if job.part(code) is not None:
            job = edits.remove_part(job, code)
    return job
