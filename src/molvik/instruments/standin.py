"""A stand-in of a meter with a switch matrix, on a socket of this machine: it measures the loom of
a job, unplugged, with what is hidden in it, in the words of SCPI (SCPI 1999, from memory).
"""

import re
import socketserver
import threading
from collections.abc import Sequence
from typing import Protocol

from molvik.model.job import Job
from molvik.netlist.faults import Fault
from molvik.proving.bench import Bench
from molvik.proving.benchfault import FaultyBench
from molvik.proving.channels import HIGH, LOW, channels

OVERLOAD = 9.9e37
"""What an instrument answers when its range is passed: an open circuit (SCPI)."""


class StandIn:
    """Answers commands. faults: what is hidden in the loom."""

    def __init__(self, job: Job, faults: Sequence[Fault] = ()) -> None:
        self._bench = Bench(job)
        self._faulty = FaultyBench(self._bench, faults)
        self._points = {number: point for point, number in channels(self._bench).items()}
        self._closed: set[int] = set()
        self._errors: list[str] = []
        self._name = f"Molvik,stand-in of a meter and loom tester,{job.id[:8] or '0'},1"

    def answer(self, line: str) -> str | None:
        """Return what is answered to a line, None for nothing."""
        command = " ".join(line.strip().upper().split())
        match command:
            case "":
                return None
            case "*IDN?":
                return self._name
            case "*RST" | "ROUT:OPEN:ALL" | "ROUT:OPEN":
                self._closed.clear()
                return None
            case "*CLS":
                self._errors.clear()
                return None
            case "*OPC?":
                return "1"
            case "SYST:ERR?":
                return self._errors.pop(0) if self._errors else '0,"No error"'
            case "MEAS:RES?" | "MEAS:FRES?" | "READ?":
                return f"{self._ohm():+.6E}"
            case "MEAS:VOLT:DC?":
                return f"{0.0:+.6E}"
            case _ if found := re.fullmatch(r"ROUT:(CLOS|OPEN) \(@([\d,: ]*)\)", command):
                self._switch(found[1] == "CLOS", found[2])
                return None
            case _:
                self._errors.append('-113,"Undefined header"')
                return None

    def _switch(self, close: bool, text: str) -> None:
        for word in filter(None, (part.strip() for part in text.split(","))):
            first, _, last = word.partition(":")
            for number in range(int(first), int(last or first) + 1):
                if number % HIGH not in self._points or number - number % HIGH not in (HIGH, LOW):
                    self._errors.append('-222,"Data out of range"')
                elif close:
                    self._closed.add(number)
                else:
                    self._closed.discard(number)

    def _ohm(self) -> float:
        """Return what lies between the points tied on one side and on the other, ohms."""
        sides = [[self._points[n % HIGH] for n in sorted(self._closed) if n - n % HIGH == side]
                 for side in (HIGH, LOW)]  # fmt: skip
        found = [
            ohm
            for red in sides[0]
            for black in sides[1]
            if (ohm := 0.0 if red == black else self._faulty.ohm(red, black)) is not None
        ]
        return min(found, default=OVERLOAD)


class Answers(Protocol):
    """Whatever answers SCPI line by line."""

    def answer(self, line: str) -> str | None:
        """Return what is answered to a line, None for nothing."""
        ...


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """Answer line by line until the line is closed."""
        server = self.server
        assert isinstance(server, Server)
        for raw in self.rfile:
            with server.lock:
                said = server.stand_in.answer(raw.decode("ascii", "replace"))
            if said is not None:
                self.wfile.write(f"{said}\n".encode("ascii"))


class Server(socketserver.ThreadingTCPServer):
    """A stand-in on a port of this machine, reached by nobody else; 0 for any that is free."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, stand_in: Answers, port: int = 0) -> None:
        self.stand_in = stand_in
        self.lock = threading.Lock()
        super().__init__(("127.0.0.1", port), _Handler)

    @property
    def resource(self) -> str:
        """What it is called as an instrument."""
        return f"TCPIP::127.0.0.1::{self.server_address[1]}::SOCKET"
