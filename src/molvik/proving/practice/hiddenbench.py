"""A loom with something hidden in it, on the bench: what is done there, shows and costs."""

import random

from molvik.devices import kind_of
from molvik.devices.states import NAMED
from molvik.lazy import cached_property
from molvik.model.parts import Connector, Device, End, Fuse
from molvik.netlist.network import Network
from molvik.proving.diagnose import LOOKING, NEARER, PROBING, UNPLUGGING
from molvik.proving.faultsimulator import Faults, FaultSimulator
from molvik.proving.meter import spread_ohm
from molvik.proving.observations import Observation
from molvik.proving.points import Point, Shown
from molvik.proving.practice.complaints import NOTICED, dead_always
from molvik.proving.practice.costs import (
    AMPS_OFF,
    BURNT_OUTPUT,
    METER_FUSE,
    MOVING,
    NEXT_LOOK,
    PULLING,
    TURNING,
    UNPLUGGING_ONE,
    VOLTS_OFF,
    WARMING,
    Step,
)
from molvik.proving.practice.hiding import Hidden
from molvik.proving.probing import DEVICE_KEYS, Function, Probing, digits, reading_point


class HiddenBench:
    """A loom with something hidden in it. seed: of what the meter is off; simulator: of the same
    network, to go on with.
    """

    def __init__(
        self,
        network: Network,
        hidden: Hidden,
        seed: int,
        simulator: FaultSimulator,
    ) -> None:
        self.network, self.job, self.hidden = network, network.job, hidden
        self.simulator, self._chosen = simulator, random.Random(seed)
        self.steps: list[Step] = []
        self.left: list[int] = list(range(len(hidden.faults)))
        """Which of what is hidden was not found yet, by their places."""
        self.key = "off"
        self.unplugged = self.warm = self.moved = False
        self.pulled: frozenset[str] = frozenset()
        self.aside_mended = False
        self._told: list[Observation] = self._complained()
        self._last: Point | None = None

    def _complained(self) -> list[Observation]:
        """What is seen at once: what the customer said of what is not mended yet."""
        faults = self._all_faults()
        found = []
        for one in self.hidden.symptoms:
            point = Point.of("device", End(one.device), End(), one.state)
            found.append(Observation(point, self.simulator.predicted(faults, point)))
        return found

    # what is said

    @cached_property
    def complaint(self) -> str:
        """What the customer says."""
        return self.hidden.complaint(self.job)

    @cached_property
    def own_mistakes(self) -> tuple[str, ...]:
        """The devices that nobody could see work, by the job itself: they are left out."""
        dead = dead_always([self.simulator.solved((), NAMED[name]) for name in ("run", "running")])
        return tuple(
            device.code
            for device in self.job.devices
            if device.kind in NOTICED and device.code in dead and device.kind != "starter"
        )

    @property
    def minutes(self) -> float:
        """What it took so far."""
        return sum(step.minutes for step in self.steps)

    @property
    def answer(self) -> str:
        """What is wrong, in words."""
        return self.hidden.answer(self.job)

    # what is so

    def _all_faults(self) -> Faults:
        """What is wrong with the loom while it shows."""
        aside = () if self.aside_mended else self.hidden.aside
        return (*(self.hidden.faults[n] for n in self.left), *aside)

    @property
    def shows(self) -> bool:
        """Whether what comes and goes is there as things stand."""
        match self.hidden.trigger:
            case "warm":
                return self.warm
            case "moved":
                return self.moved
            case "cranked":
                return self.key == "crank" and not self.unplugged
            case _:
                return True

    @property
    def faults(self) -> Faults:
        """What is wrong as things stand."""
        if self.shows:
            return self._all_faults()
        return () if self.aside_mended else self.hidden.aside

    # what is done at the bench

    def turn(self, key: str) -> None:
        """Turn the key, by the name of the state, all plugged in again. Raises ValueError."""
        if key not in DEVICE_KEYS:
            raise ValueError(f"There is no “{key}”: turn it to {', '.join(DEVICE_KEYS)}.")
        if self.unplugged:
            self.unplugged = False
            self._did("All plugged in again", "", UNPLUGGING)
        if key != self.key:
            self.key = key
            self._did(f"Key to {key}", "", TURNING)

    def unplug(self) -> None:
        """Take the battery off, all plugs, fuses and relays out: for ohms."""
        if not self.unplugged:
            looked = any(step.seen for step in self.steps)
            self.unplugged = True
            self._did("Battery off, all unplugged", "", UNPLUGGING, "" if looked else "unplugged")

    def pull(self, code: str) -> None:
        """Pull a fuse, relay or plug, or put it in again. Raises ValueError."""
        part = self.network.parts.get(code)
        if not can_pull(part):
            raise ValueError(f"{code} cannot be pulled: fuses, relays, plugs and devices can.")
        minutes = PULLING if isinstance(part, Fuse) or _is_relay(part) else UNPLUGGING_ONE
        gone = "pulled" if minutes == PULLING else "unplugged"
        if code in self.pulled:
            self.pulled -= {code}
            self._did(f"{code} put in again", "", minutes)
        else:
            self.pulled |= {code}
            if isinstance(part, Fuse) and not self.unplugged:
                self._look_at(
                    Point.of("fuse", End(code), End(), self.key), minutes, f"{code} pulled"
                )
            else:
                self._did(f"{code} {gone}", "", minutes)

    def move(self, moved: bool) -> None:
        """Have the loom moved while it is measured, or leave it."""
        if moved != self.moved:
            self.moved = moved
            self._did("Loom moved meanwhile" if moved else "Loom left alone", "", MOVING)

    def heat(self, warm: bool) -> None:
        """Get all hot, or let it cool down."""
        if warm != self.warm:
            self.warm = warm
            self._did("All hot" if warm else "Cooled down", "", WARMING)

    def look(self, code: str) -> str:
        """Look at one device: whether it works, beside how it would in a sound loom; at a fuse:
        whether it is whole. Raises ValueError for what nobody can see.
        """
        part = self.network.parts.get(code)
        if isinstance(part, Fuse):
            point = Point.of("fuse", End(code), End(), self.key)
        elif isinstance(part, Device) and part.kind in NOTICED:
            if self.unplugged:
                raise ValueError("All is unplugged: nothing works now. Turn the key first.")
            point = Point.of("device", End(code), End(), self.key, tuple(self.pulled))
        else:
            raise ValueError(f"At {code} there is nothing to be seen. Probe it.")
        return self._look_at(point, LOOKING)

    def _look_at(self, point: Point, minutes: float, did: str = "") -> str:
        shown = self.simulator.predicted(self.faults, point) or "nothing"
        sound = self.simulator.predicted((), point) or "nothing"
        words = f"{shown}" if shown == sound else f"{shown}, {sound} when sound"
        part = self.network.parts[point.red.at]
        named = f"{part.name} ({part.code})" if part.name else part.code
        out = f", {', '.join(point.out)} out" if point.out else ""
        seen = (Observation(point, shown),)
        self._saw(did or f"Looked: {named}, {point.state}{out}", words, minutes, seen)
        return words

    def look_around(self) -> str:
        """Look at everything that is seen or heard working; what is odd is told. Raises ValueError
        with all unplugged.
        """
        if self.unplugged:
            raise ValueError("All is unplugged: nothing works now. Turn the key first.")
        odd, seen = list[str](), list[Observation]()
        for device in self.job.devices:
            if device.kind not in NOTICED or device.code in self.own_mistakes:
                continue
            point = Point.of("device", End(device.code), End(), self.key, tuple(self.pulled))
            shown, sound = (self.simulator.predicted(some, point) for some in (self.faults, ()))
            seen.append(Observation(point, shown))
            if shown != sound:
                odd.append(f"{device.name or device.code} {shown}, {sound} when sound")
        minutes = LOOKING * (1 + NEXT_LOOK * max(0, len(seen) - 1))
        words = "; ".join(odd) or f"all {len(seen)} as they should be"
        self._saw(f"Looked around, {self.key}", words, minutes, tuple(seen))
        return words

    def measure(self, function: Function, red: End, black: End) -> str:
        """Return what the meter shows, with its error. An empty end is a clip on the battery's
        earthed pole. Raises ValueError where the probes are nowhere.
        """
        probing = Probing(function, red, black, self.key, self.unplugged, self.pulled)
        badly = self._harm(probing)
        made = reading_point(self.network, probing)
        where = made.words
        if made.point is None:
            cost = {"under power": METER_FUSE, "ammeter": METER_FUSE}.get(badly, PROBING)
            self._did(where, made.shown, cost, badly)
            return made.shown
        point = made.point
        shown = self._blurred(point, self.simulator.predicted(self.faults, point))
        near = self._last is not None and {point.red, point.black} & {
            self._last.red,
            self._last.black,
        } - {End()}
        minutes = PROBING * (NEARER if near else 1.0) + (BURNT_OUTPUT if badly == "lamp" else 0.0)
        self._last = point
        words = digits(probing.function, shown, self.job.settings.meter_leads_ohm)
        self._saw(where, words, minutes, (Observation(point, shown),), badly)
        return words

    def _harm(self, probing: Probing) -> str:
        """Return what is done badly with the meter as it stands."""
        if probing.unplugged:
            return ""
        if probing.function in ("Ω", "tone", "diode"):
            return "under power"
        if probing.function == "A" and not probing.in_place_of_fuse:
            return "ammeter"
        if probing.function == "lamp" and self._lines & self._nets(probing.red, probing.black):
            return "lamp"
        return ""

    @cached_property
    def _lines(self) -> set[int]:
        """The nets of the lines of computers that are neither feed nor earth."""
        found: set[int] = set()
        for device in self.job.devices:
            if kind_of(device).is_computer:
                places = {output.terminal for output in device.outputs}
                for place in places - {*device.supplies, *device.earths}:
                    found |= self._nets(End(device.plug or device.code, place))
        return found

    def _nets(self, *ends: End) -> set[int]:
        bench = self.simulator.bench
        return {bench.net_of[end] for end in ends if end in bench.net_of}

    def _blurred(self, point: Point, shown: Shown) -> Shown:
        if not isinstance(shown, float):
            return shown
        if point.what == "voltage":
            return round(shown + self._chosen.gauss(0, VOLTS_OFF), 2)
        if point.what == "current":
            return round(max(0.0, shown + self._chosen.gauss(0, AMPS_OFF)), 2)
        settings = self.job.settings
        ohm = shown + self._chosen.uniform(-1, 1) * spread_ohm(shown, settings) * 0.6
        return max(0.0, round(ohm / settings.meter_step_ohm) * settings.meter_step_ohm)

    def _did(self, what: str, shown: str, minutes: float, badly: str = "") -> None:
        self.steps.append(Step(what, shown, minutes, (), badly))

    def _saw(
        self,
        what: str,
        words: str,
        minutes: float,
        seen: tuple[Observation, ...],
        badly: str = "",
    ) -> None:
        """Keep what was seen. With what comes and goes asleep it tells nothing of it."""
        if not self.shows:
            self.steps.append(Step(what, words, minutes, (), badly or "asleep"))
            return
        self._told += seen
        self.steps.append(Step(what, words, minutes, seen, badly))


def can_pull(part: object) -> bool:
    """Return whether something can be pulled or unplugged."""
    if isinstance(part, Device):
        return part.kind != "battery"
    return isinstance(part, Fuse | Connector)


def _is_relay(part: object) -> bool:
    return isinstance(part, Device) and kind_of(part).is_pulled
