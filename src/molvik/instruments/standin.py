"""A stand-in of a meter with a switch matrix, on a socket of this machine: it measures the loom of
a job, unplugged, with what is hidden in it, in the words of SCPI.
"""

import socketserver
import threading
from collections.abc import Sequence
from typing import Protocol

from molvik.devices.states import Fault
from molvik.instruments.scpi import (
    LONGEST_LINE,
    CommandError,
    ScpiDevice,
    channel_list,
    numeric,
    switch,
)
from molvik.model.job import Job
from molvik.proving.bench import Bench
from molvik.proving.benchfault import FaultyBench
from molvik.proving.channels import HIGH, LOW, channels

OVERLOAD = 9.9e37
"""What an instrument answers when its range is passed: an open circuit (SCPI)."""


class StandIn(ScpiDevice):
    """Answers commands. faults: what is hidden in the loom. As a real meter, it stands on volts
    until it is told otherwise.
    """

    def __init__(self, job: Job, faults: Sequence[Fault] = ()) -> None:
        self._bench = Bench(job)
        self._faulty = FaultyBench(self._bench, faults)
        self._points = {number: point for point, number in channels(self._bench).items()}
        self._closed: set[int] = set()
        self.reset()
        super().__init__(
            f"Molvik,stand-in of a meter and loom tester,{job.id[:8] or '0'},1",
            {
                "ROUTe:OPEN:ALL": self._open_all,
                "ROUTe:OPEN": self._open,
                "ROUTe:CLOSe": self._close,
                "ROUTe:CLOSe?": self._is_closed,
                "MEASure[:SCALar]:RESistance?": lambda text: self._measure("RES", text),
                "MEASure[:SCALar]:FRESistance?": lambda text: self._measure("FRES", text),
                "MEASure[:SCALar]:VOLTage[:DC]?": lambda text: self._measure("VOLT", text),
                "CONFigure[:SCALar]:RESistance": lambda text: self._configure("RES", text),
                "CONFigure[:SCALar]:FRESistance": lambda text: self._configure("FRES", text),
                "CONFigure[:SCALar]:VOLTage[:DC]": lambda text: self._configure("VOLT", text),
                "CONFigure?": lambda _: f'"{self._measures}"',
                "[SENSe:]FUNCtion?": lambda _: f'"{self._measures}"',
                "[SENSe:]RESistance:RANGe:AUTO": self._set_auto,
                "[SENSe:]RESistance:RANGe:AUTO?": lambda _: str(int(self._auto)),
                "[SENSe:]RESistance:NPLCycles": self._set_speed,
                "[SENSe:]RESistance:NPLCycles?": lambda _: f"{self._speed:+.3E}",
                "READ?": lambda text: self._measure(self._measures, text),
            },
        )

    def reset(self) -> None:
        """Open all channels, and stand on volts."""
        self._closed.clear()
        self._measures, self._auto, self._speed = "VOLT", True, 10.0

    def _set_auto(self, text: str) -> None:
        self._auto = switch(text)

    def _set_speed(self, text: str) -> None:
        self._speed = numeric(text, 0.02, 100)

    def _known(self, number: int) -> bool:
        return number % HIGH in self._points and number - number % HIGH in (HIGH, LOW)

    def _listed(self, text: str) -> list[int]:
        return channel_list(text, self._known, 2 * len(self._points))

    def _open_all(self, text: str) -> None:
        if text:
            raise CommandError(-108)
        self._closed.clear()

    def _open(self, text: str) -> None:
        self._closed.difference_update(self._listed(text))

    def _close(self, text: str) -> None:
        self._closed.update(self._listed(text))

    def _is_closed(self, text: str) -> str:
        return ",".join(str(int(one in self._closed)) for one in self._listed(text))

    def _configure(self, what: str, text: str) -> None:
        if text:
            raise CommandError(-108)
        self._measures = what

    def _measure(self, what: str, text: str) -> str:
        self._configure(what, text)
        return f"{0.0 if what == 'VOLT' else self._ohm():+.6E}"

    def _ohm(self) -> float:
        """Return what lies between the points tied on one side and on the other, ohms."""
        sides = [
            [self._points[n % HIGH] for n in sorted(self._closed) if n - n % HIGH == side]
            for side in (HIGH, LOW)
        ]
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

    def error(self, number: int) -> None:
        """Keep an error."""
        ...


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        """Answer line by line until it is closed. Of a line without an end nothing is kept."""
        server = self.server
        assert isinstance(server, Server)
        too_long = False
        while raw := self.rfile.readline(LONGEST_LINE):
            ends = raw.endswith(b"\n")
            with server.lock:
                if not ends or too_long:
                    if not too_long:
                        server.stand_in.error(-363)
                    said = None
                else:
                    said = server.stand_in.answer(raw.decode("ascii", "replace"))
            too_long = not ends
            if said is not None:
                self.wfile.write(f"{said}\n".encode("ascii", "replace"))


class Server(socketserver.ThreadingTCPServer):
    """A stand-in on a port of this machine, reached by nobody else; 0 for any that is free."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, stand_in: Answers, port: int = 0) -> None:
        self.stand_in = stand_in
        self.lock = threading.Lock()
        super().__init__(("127.0.0.1", port), _Handler)

    def handle_error(self, request: object, client_address: object) -> None:
        """A client that goes in the middle of an answer is no fault of ours."""

    @property
    def resource(self) -> str:
        """What it is called as an instrument."""
        return f"TCPIP::127.0.0.1::{self.server_address[1]}::SOCKET"
