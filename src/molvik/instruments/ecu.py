"""A stand-in of an engine computer: it answers from the job, with what is hidden in its loom.

Its figures follow from the voltages it would see at its cavities, so that a sensor with a wire off
reads nonsense; its codes are those that these voltages set, and those of what was left out.
"""

from collections.abc import Sequence
from typing import Literal

from molvik.devices.kinds.sensing import thermistor_c
from molvik.devices.states import OFF, RUN, RUNNING, Fault
from molvik.instruments.j1979 import (
    ABOUT,
    CLEAR,
    CODES,
    FROZEN,
    LIVE,
    PENDING,
    PERMANENT,
    PIDS,
    TESTS,
    TEXTS,
    code_bytes,
    codes_answer,
    live_answer,
    refusal,
    supported,
    text_answer,
)
from molvik.model.job import Job
from molvik.model.parts import End
from molvik.netlist.network import Network
from molvik.proving.bench import Bench
from molvik.proving.computer import PULL_OHM, REFERENCE_V, Watch, computers, sensed
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.troublecodes import codes_of_left_out

Key = Literal["off", "run", "running"]
STATES = {"off": OFF, "run": RUN, "running": RUNNING}
IDLE_RPM, STILL_KPA = 850.0, 101.0
PID_OF = {"coolant": 0x05, "intake air": 0x0F, "throttle": 0x11}

LINES = {"network node": ("high", "low"), "diagnostic plug": ("6", "14")}
"""The two wires of the line at each kind of device (ISO 15031-3 for the plug)."""

NOT_NOW, NO_SERVICE, NO_VALUE, WRONG_LENGTH = 0x22, 0x11, 0x31, 0x13
OXYGEN_V = (0.45, 0.3, 0.6)
"""What its test of the oxygen sensor found, and the limits (our choice)."""


class StandInComputer:
    """Answers requests as bytes. faults: what is hidden; key: how the key stands.

    Raises ValueError for a job without an engine computer.
    """

    def __init__(self, job: Job, faults: Sequence[Fault] = (), key: Key = "run") -> None:
        self.simulator = FaultSimulator(Network(job), Bench(job))
        found = computers(self.simulator.network)
        if not found:
            raise ValueError(
                "There is no engine computer with a plug in the job: add a controller "
                "under Circuits."
            )
        self.job, self.computer, self.faults = job, found[0], tuple(faults)
        self.key: Key = key
        self._cleared: frozenset[str] = frozenset()

    @property
    def answers(self) -> bool:
        """Whether it is powered and awake."""
        point = self.simulator.solved(self.faults, STATES[self.key])
        return self.key != "off" and self.computer.code in point.on

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes that are set now."""
        code, simulator = self.computer.code, self.simulator
        own = (simulator.codes(self.faults, code) or frozenset()) | (
            simulator.supply_codes(self.faults, code) or frozenset()
        )
        return tuple(sorted(own | set(codes_of_left_out(self.job))))

    def answer(self, request: bytes) -> bytes | None:
        """Return the answer to a request, None for silence."""
        if not request or not self.answers:
            return None
        match request[0]:
            case service if service in (CODES, PENDING):
                # What was cleared and is still so is not sure yet, until the key was off.
                pending = service == PENDING
                told = [code for code in self.codes if (code in self._cleared) == pending]
                return codes_answer(service, told)
            case service if service == CLEAR:
                if self.key == "running":
                    return refusal(CLEAR, NOT_NOW)
                self._cleared = frozenset(self.codes)
                return bytes([CLEAR + 0x40])
            case service if service == LIVE:
                return self._live(request[1:])
            case service if service == FROZEN:
                return self._frozen(request[1:])
            case service if service == PERMANENT:
                return codes_answer(service, self.codes)  # as long as the fault is there
            case service if service == TESTS and len(request) > 1:
                return self._tests(request[1])
            case service if service == ABOUT and len(request) > 1:
                return self._about(request[1])
            case service:
                return refusal(service, NO_SERVICE)

    def turn(self, key: Key) -> None:
        """Turn the key. Off and on again, what was cleared and is still so is set anew."""
        if key == "off":
            self._cleared = frozenset()
        self.key = key

    def _about(self, what: int) -> bytes:
        names = {0x02: "STANDIN0000000000", 0x04: "STAND-IN", 0x0A: "ECM-STAND-IN"}
        if what == 0:
            return bytes([ABOUT + 0x40, 0]) + supported(0, TEXTS)
        return text_answer(what, names[what]) if what in names else refusal(ABOUT, NO_VALUE)

    def _live(self, asked: bytes) -> bytes:
        figures = self.figures()
        if len(asked) == 1 and asked[0] % 0x20 == 0:
            return bytes([LIVE + 0x40, asked[0]]) + supported(asked[0], (*figures, 0x01, 0x1C))
        if asked == b"\x01":
            lamp = 0x80 if self.codes else 0
            return bytes([LIVE + 0x40, 1, lamp | min(127, len(self.codes)), 0, 0, 0])
        known = {pid: figures[pid] for pid in asked if pid in figures}
        return live_answer(known) if known else refusal(LIVE, NO_VALUE)

    def _frozen(self, asked: bytes) -> bytes:
        """Return what it was when the code was set: it is so still, the fault is always there."""
        if len(asked) != 2:
            return refusal(FROZEN, WRONG_LENGTH)
        pid, frame = asked
        codes, figures = self.codes, self.figures()
        if frame != 0 or (pid and pid != 2 and not codes):
            return refusal(FROZEN, NO_VALUE)
        head = bytes([FROZEN + 0x40, pid, frame])
        if pid % 0x20 == 0:
            return head + supported(pid, (2, *figures) if codes else (2,))
        if pid == 2:
            return head + (code_bytes(codes[0]) if codes else b"\0\0")
        if pid not in figures:
            return refusal(FROZEN, NO_VALUE)
        return head + live_answer({pid: figures[pid]})[2:]

    def _tests(self, monitor: int) -> bytes:
        """Return what came of a test of its own: of an oxygen sensor, if it has one, between what
        it must not be below nor above; the unit is 0.122 mV.
        """
        known = {1} if any(watch.thing == "oxygen" for watch in self._watched) else set[int]()
        if monitor % 0x20 == 0:
            return bytes([TESTS + 0x40, monitor]) + supported(monitor, known)
        if monitor not in known:
            return refusal(TESTS, NO_VALUE)
        numbers = b"".join(round(volts / 0.000122).to_bytes(2, "big") for volts in OXYGEN_V)
        return bytes([TESTS + 0x40, monitor, 0x01, 0x0A]) + numbers

    @property
    def _watched(self) -> tuple[Watch, ...]:
        return self.simulator.watched(self.computer.code)

    def figures(self) -> dict[int, float]:
        """Return its live data by number."""
        point = self.simulator.solved(self.faults, STATES[self.key])
        watched = self._watched
        volts = sensed(point, self.computer, watched) or {}
        turning = self.key == "running" and "P0335" not in self.codes
        code = self.computer.code
        found = {
            0x0B: 35.0 if turning else STILL_KPA,
            0x0C: IDLE_RPM if turning else 0.0,
            0x0D: 0.0,
            0x33: STILL_KPA,
            0x42: point.wiring.polarity * point.across(f"{code} supply", f"{code} earth"),
        }
        for watch in watched:
            pid = PID_OF.get(watch.thing)
            if pid is not None and watch.cavity in volts:
                found[pid] = self._figure(watch, volts[watch.cavity])
        return {pid: found[pid] for pid in sorted(found) if pid in PIDS}

    def _figure(self, watch: Watch, volts: float) -> float:
        """Return what a voltage is taken for: a temperature, or a share."""
        if watch.kind != "sender":
            return volts / REFERENCE_V * 100
        if volts >= REFERENCE_V - 0.01:
            return -40.0  # as cold as it can say: nobody is there
        device = next(one for one in self.job.devices if one.code == watch.device)
        nominal = self.job.settings.system_v
        ohm = max(0.1, PULL_OHM * volts / (REFERENCE_V - volts))
        return thermistor_c(device, ohm, nominal)


def speaking(computer: StandInComputer) -> tuple[str, ...]:
    """Return the codes of the other nodes of the job's network that reach the line: whose two wires
    go to those of another node, or to the diagnostic plug.
    """
    ends = {
        device.code: [End(device.plug or device.code, name) for name in LINES[device.kind]]
        for device in computer.job.devices
        if device.kind in LINES
    }
    faulty = computer.simulator.faulty(computer.faults)
    broken = {fault.at for fault in computer.faults if fault.kind == "open"}

    def joined(one: str, other: str) -> bool:
        pairs = zip(ends[one], ends[other], strict=True)
        return all(faulty.ohm(a, b) is not None for a, b in pairs)

    return tuple(
        device.code
        for device in computer.job.devices
        if device.kind == "network node"
        and device.code not in broken
        and any(joined(device.code, other) for other in ends if other != device.code)
    )
