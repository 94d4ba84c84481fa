"""Why a device is dead, or alive: the way of the current, followed to the first cause."""

from typing import NamedTuple

from molvik.circuits.paths import Flow, follow, ways
from molvik.circuits.simulate import REFERENCE_V, OperatingPoint
from molvik.devices import kind_of
from molvik.devices.kinds.alternator import FIELD, Alternator
from molvik.devices.nodes import METAL
from molvik.model.parts import Device, Fuse
from molvik.model.refs import Ref, end_text
from molvik.netlist.branches import path, reached
from molvik.netlist.circuitgraph import Branch
from molvik.netlist.faults import in_words
from molvik.wording import figures

MOST_DEEP = 8


class Explanation(NamedTuple):
    """Why. lines: in words, from the device to the cause. cause: the code of the part, or the
    cavity. remedy: what would change it. alive: whether it says why a device is alive.
    """

    lines: tuple[str, ...]
    cause: str = ""
    remedy: str = ""
    alive: bool = False

    @property
    def text(self) -> str:
        """The whole of it."""
        return " ".join((*self.lines, self.remedy)).strip()


def why(point: OperatingPoint, code: str) -> Explanation:
    """Return why a device is dead, or by which way it is alive."""
    device = next((device for device in point.job.devices if device.code == code), None)
    if device is None:
        return Explanation((f"There is no device {code} in the job.",))
    return _Asking(point).why(device, frozenset())


class _Asking:
    """One question; it keeps the ways of the job while it is answered."""

    def __init__(self, point: OperatingPoint) -> None:
        self.point, self.ways = point, ways(point)

    def why(self, device: Device, asked: frozenset[str]) -> Explanation:
        point, name = self.point, device.name
        if device.code in point.state.broken:
            remedy = f"Fit {device.code}."
            return Explanation((f"{name} is taken away.",), device.code, remedy)
        if device.code in asked or len(asked) > MOST_DEEP:
            ring = f"{name} waits for itself: the circuit goes in a ring."
            return Explanation((ring,), device.code)
        asked |= {device.code}
        load = point.load.get(device.code)
        if load is None:
            return Explanation((f"{name} is not a load.",))
        if load.state == "at rest":
            return Explanation((f"{name} stands: the engine does not run in this state.",))
        if load.state == "alive":
            return self.why_alive(device)
        if isinstance(kind_of(device), Alternator) and point.state.running:
            return self.no_charge(device, asked)
        volts = point.solution.volts
        supplied = volts.get(load.plus)
        top, least = volts.get(point.wiring.live, 0.0), point.least_v
        if kind_of(device).on_reference(device):
            top, least = 5.0, REFERENCE_V
        lost = top - (supplied or 0.0)
        raised = volts.get(load.minus, point.nominal)
        if supplied is None or supplied < least or lost > raised:
            return self.interrupted(device, load.plus, point.wiring.live, "supply", asked)
        return self.interrupted(device, load.minus, point.reference, "return", asked)

    # alive

    def why_alive(self, device: Device) -> Explanation:
        """Follow the current back to where it comes from, through other loads too."""
        point = self.point
        load = point.load[device.code]
        flows = follow(point, load.plus if load.volts >= 0 else load.minus, upstream=True)
        parts = list(dict.fromkeys(f.part for f in flows if f.what not in ("contact", "metal")))
        through = ", ".join(parts) or "nothing"
        lines = [f"{device.name} is alive: {abs(load.volts):.1f} V, fed through {through}."]
        passed = [f.part for f in flows if f.what == "load" and f.part != device.code]
        names = {device.code: device for device in point.job.devices}
        back = [names[c].name for c in dict.fromkeys(passed) if c in names and not _gives(names[c])]
        if back:
            lines.append(f"It is fed back through {' and '.join(back)}.")
        cause = next((f.part for f in flows if f.part in point.wiring.stuck), "")
        if cause:
            lines.append(f"{cause} is stuck, pulled in.")
        for fault in point.state.faults:
            if not cause and fault.kind in ("short", "swap") and self._touched(fault.at, flows):
                cause = fault.at
                lines.append(f"{in_words(fault, point.job)}.")
        return Explanation(tuple(lines), cause, alive=True)

    def _touched(self, at: str, flows: list[Flow]) -> bool:
        fault = next(fault for fault in self.point.state.faults if fault.at == at)
        if fault.kind == "short":
            return any(f.what == "short" and f.part == at for f in flows)
        return bool({fault.at, fault.other} & {node for f in flows for node in (f.a, f.b)})

    # an alternator

    def no_charge(self, device: Device, asked: frozenset[str]) -> Explanation:
        """One that runs and does not charge lacks the current through its field."""
        point = self.point
        amps = point.solution.amps.get(f"{device.code} field", 0.0)
        kind = kind_of(device)
        assert isinstance(kind, Alternator)
        node = end_text(device.code, kind.excited_at(device))
        found = path(self.ways, node, point.wiring.live, through_loads=True)
        line = (
            f"{device.name} runs but does not charge: {max(0.0, amps) * 1000:.0f} mA flow into "
            f"{node}, too little to excite it."
        )
        opened = [link for link in found or [] if not link.closed]
        if opened:
            cause = self.cause(opened[-1], asked)
            return Explanation((line, *cause.lines), cause.cause, cause.remedy)
        if not found:
            line += f" Nothing in the job leads from {node} to the battery."
        thin = max(found or [], key=lambda link: link.ohm, default=None)
        part = thin.part if thin else device.code
        remedy = "Let a filament lamp or some hundreds of ohms feed it with the key in run."
        if kind.excited_at(device) == FIELD and not found:
            remedy = f"Run a wire from {node} to DF of its regulator, and one from D+ to D+."
        return Explanation((line,), part, remedy)

    # dead

    def interrupted(
        self, device: Device, begin: str, end: str, side: str, asked: frozenset[str]
    ) -> Explanation:
        """Follow the supply or the return of a device to what interrupts it."""
        found = path(self.ways, begin, end) if begin and end else None
        first = f"{device.name} has no {side}"
        if found is None and side == "supply":
            giver, found = self._to_reference(begin)
            if giver is not None and giver.code not in self.point.on:
                deeper = self.why(giver, asked)
                words = (f"{first}.", f"{giver.name} gives no 5 V.")
                return Explanation((*words, *deeper.lines), deeper.cause, deeper.remedy)
        if found is None:
            driver = self._driver_at(device, begin)
            if driver is not None:
                deeper = self.why(driver, asked)
                words = (f"{first}.", f"{driver.name} does not drive its output.")
                return Explanation((*words, *deeper.lines), deeper.cause, deeper.remedy)
            where = "the battery" if side == "supply" else "earth"
            place = _place(device, begin, side)
            way = (f"{first}: nothing in the job leads from {place} to {where}.",)
            return Explanation(way, device.code, f"Run the wire from {place}.")
        # From the battery's side: what comes first there is the cause of all behind it.
        opened = [link for link in found[::-1] if not link.closed]
        if opened:
            cause = self.cause(opened[0], asked)
            return Explanation((f"{first}.", *cause.lines), cause.cause, cause.remedy)
        return self.lossy(first, found)

    def lossy(self, first: str, found: list[Branch]) -> Explanation:
        """The way is closed, and the voltage is lost on it, or in the battery."""
        point = self.point
        battery = next((d for d in point.job.devices if d.kind == "battery"), None)
        kept = point.solution.volts.get(point.wiring.live, 0.0)
        shorted = self._short(follow(point, point.wiring.live, upstream=False))
        if battery is not None and (kept < point.least_v or shorted):
            return self.pulled_down(first, battery, kept)
        # What a device does inside, as the field of an alternator, is no loss.
        outside = [link for link in found if link.what not in ("inside", "load")]
        worst = max(outside or found, key=self._drop)
        lost = self._drop(worst)
        said = self._restless(first) or self._rushing(first, worst)
        if said:
            return said
        place = worst.part
        return Explanation(
            (f"{first} of any use: {lost:.1f} V are dropped in {place}, {figures(worst.ohm)} Ω.",),
            place,
            f"Look for the bad joint in {place}, or take a thicker wire.",
        )

    def _restless(self, first: str) -> Explanation | None:
        """What feeds it chatters."""
        point = self.point
        if not point.chatter:
            return None
        words = f"{first}: {', '.join(point.chatter)} cannot settle."
        for code in point.chatter:
            load = point.load.get(code)
            short = self._short(follow(point, load.plus, upstream=True)) if load else None
            if short:
                return Explanation((words, short[1]), short[0], "Put that right first.")
        return Explanation((words,), point.chatter[0], "Feed its coil from before its contact.")

    def _rushing(self, first: str, worst: Branch) -> Explanation | None:
        """A short that no fuse has cleared yet takes the voltage away."""
        volts = self.point.solution.volts
        lower = min((worst.a, worst.b), key=lambda node: volts.get(node, 0.0))
        short = self._short(follow(self.point, lower, upstream=False))
        if short is None:
            return None
        amps = abs(self.point.solution.amps.get(worst.name, 0.0))
        words = f"{first} of any use: {amps:.0f} A flows through {worst.part}."
        return Explanation((words, short[1]), short[0], "Find that before power is put on again.")

    def pulled_down(self, first: str, battery: Device, kept: float) -> Explanation:
        """The battery itself gives too little: something takes it all, or it is flat."""
        flows = follow(self.point, self.point.wiring.live, upstream=False)
        amps = self.point.source_amps
        line = f"{first}: the battery is pulled down to {kept:.1f} V by {amps:.0f} A."
        short = self._short(flows)
        if short:
            return Explanation((line, short[1]), short[0], "Clear that first.")
        taker = flows[-1].part if flows else battery.code
        return Explanation(
            (line, f"Most of it goes into {taker}."),
            battery.code,
            "Charge or change the battery, or use thicker cables.",
        )

    def _short(self, flows: list[Flow]) -> tuple[str, str] | None:
        """Return the fault a current runs into, with words for it."""
        point = self.point
        nodes = {node for flow in flows for node in (flow.a, flow.b)}
        for fault in point.state.faults:
            shorted = fault.kind == "short" and any(
                flow.what == "short" and flow.part == fault.at for flow in flows
            )
            if shorted or (fault.kind == "swap" and {fault.at, fault.other} & nodes):
                return fault.at, f"{in_words(fault, point.job)}."
        return None

    def _to_reference(self, begin: str) -> tuple[Device | None, list[Branch] | None]:
        """Return the controller that feeds a sensor with 5 V, and the way there."""
        for device in self.point.job.devices:
            for output in device.outputs:
                if output.acts == "5 V":
                    found = path(self.ways, begin, end_text(device.code, output.terminal))
                    if found:
                        return device, found
        return None, None

    def _driver_at(self, device: Device, begin: str) -> Device | None:
        """Return the controller that ends a way to nowhere, for want of its own earth or supply."""

        seen = reached(self.ways, [begin])
        return next(
            (
                other
                for other in self.point.job.devices
                if kind_of(other).is_computer
                and other.code != device.code
                and other.code not in self.point.on
                if {f"{other.code} earth", f"{other.code} supply"} & seen
            ),
            None,
        )

    def _drop(self, link: Branch) -> float:
        volts = self.point.solution.volts
        return abs(volts.get(link.a, 0.0) - volts.get(link.b, 0.0))

    # causes

    def cause(self, link: Branch, asked: frozenset[str]) -> Explanation:
        """Say why a link is open."""
        point, code = self.point, link.part
        part = next((part for part in point.job.parts() if part.code == code), None)
        name = getattr(part, "name", "") or code
        match link.what:
            case "wire":
                words = f"{code} is off: {link.a} to {link.b} is interrupted."
                return Explanation((words,), code, f"Put {code} back.")
            case "swap":
                fault = next(f for f in point.state.faults if code in (f.at, f.other))
                words = f"{in_words(fault, point.job)}."
                return Explanation((words,), fault.at, "Put each back into its own cavity.")
            case "metal":
                words = f"Earth point {code} {name} is not connected to the metal."
                return Explanation((words,), code, f"Clean and tighten {code}.")
            case "fuse":
                assert isinstance(part, Fuse)
                return self.open_fuse(part)
            case "switch" | "isolator":
                ends = f"{Ref.parse(link.a).cavity} and {Ref.parse(link.b).cavity}"
                if code in point.state.broken:
                    return Explanation((f"{name} is taken away.",), code, f"Fit {code}.")
                return Explanation(
                    (f"{name} does not join {ends} in “{point.state.name}”.",),
                    code,
                    "Turn it on, or take the feed from a contact that is closed in this position.",
                )
            case "relay" | "driver":
                assert isinstance(part, Device)
                return self.not_driven(link, part, name, asked)
            case _:
                return Explanation((f"{name} is missing.",), code, f"Fit {code}.")

    def not_driven(
        self, link: Branch, part: Device, name: str, asked: frozenset[str]
    ) -> Explanation:
        """Say why a relay's contact is open, or a controller's output does nothing."""
        point = self.point
        if link.what == "driver" and part.code in point.on:
            output = next(o for o in part.outputs if link.a == end_text(part.code, o.terminal))
            plug = part.plug or part.code
            place = end_text(plug, output.terminal)
            if output.input:
                state = "live" if output.when == "input live" else "low"
                words = (
                    f"{name} drives {place} only while {end_text(plug, output.input)} is {state}."
                )
                return Explanation((words,), part.code, "Follow the wire of that input.")
            when = WHEN[output.when]
            words = f"{name} drives {place} only {when}."
            return Explanation((words,), part.code, "Crank or run the engine.")
        if link.what == "relay" and (part.code in point.on or part.code in point.wiring.stuck):
            stuck = part.code in point.wiring.stuck
            words = f"{name} is {'stuck' if stuck else 'pulled in'}, which opens this contact."
            return Explanation((words,), part.code)
        words = "has its contact open" if link.what == "relay" else "does not drive its output"
        deeper = self.why(part, asked)
        lines = (f"{name} {words}.", *deeper.lines)
        return Explanation(lines, deeper.cause, deeper.remedy)

    def open_fuse(self, fuse: Fuse) -> Explanation:
        """Say why a fuse is open: out, or blown, and by what."""
        name = f"Fuse {fuse.code} {fuse.name}"
        blown = self.point.blown.get(fuse.code)
        if blown is None:
            return Explanation((f"{name} is open: it is out.",), fuse.code, f"Fit {fuse.code}.")
        flows = follow(
            self.point,
            end_text(fuse.code, "out"),
            upstream=False,
            solution=blown.solution,
            elements=blown.elements,
        )
        line = (
            f"{name} has blown: it carries {blown.amps:.0f} A, more than its {fuse.rating_a:g} A."
        )
        short = self._short(flows)
        if short:
            return Explanation((line, short[1]), short[0], "Find that before a new fuse is fitted.")
        known = {device.code: device.name for device in self.point.job.devices}
        taker = next((known[f.part] for f in flows[::-1] if f.part in known), "")
        lines = (line, f"Most of it goes into {taker}.") if taker else (line,)
        return Explanation(lines, fuse.code, "Find the short or the overload behind it first.")


WHEN = {
    "first seconds": "in the first seconds with the key in run",
    "first seconds and turning": "in the first seconds, and with the engine turning",
    "key on": "with the key in run",
    "turning": "with the engine turning",
    "cranking": "while cranking",
    "running": "while the engine runs",
    "powered": "while it is powered",
}


def _gives(device: Device) -> bool:
    return device.kind in ("battery", "controller") or kind_of(device).regulates


def _place(device: Device, node: str, side: str) -> str:
    """Return where a wire of a device should be, in the words of its plug."""
    names = device.supplies if side == "supply" else device.earths
    if kind_of(device).is_computer and names:
        return ", ".join(end_text(device.plug or device.code, name) for name in names)
    return node if node and node != METAL else device.code
