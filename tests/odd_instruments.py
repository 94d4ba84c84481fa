"""Instruments that do what instruments do on a bad day; for tests and torture."""

import contextlib
import random
import socketserver
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

STREAM_BYTES = 3_000_000
"""What is called endless here: enough to show, and the test ends."""

Say = Callable[[bytes], object]


class OddInstrument(socketserver.ThreadingTCPServer):
    """A meter that measures another value each time, in an odd way. odd(line, answer, say): says
    the answer to a line in its way, and returns True, or False to have it said as it should be.
    """

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, odd: Callable[[str, str, Say], bool]) -> None:
        super().__init__(("127.0.0.1", 0), _Handler)
        self.odd = odd
        self.shown = 0.0
        """What it measured last."""
        self.measured: list[float] = []
        self.resource = f"TCPIP::127.0.0.1::{self.server_address[1]}::SOCKET"

    def plain(self, line: str) -> str | None:
        """Return what a good instrument answers."""
        if line in ("MEAS:RES?", "READ?"):
            self.shown = round(1.0 + len(self.measured) * 1.25, 3)
            self.measured.append(self.shown)
            return f"{self.shown:+.6E}"
        known = {"*IDN?": "Maker,odd,1,1", "SYST:ERR?": '0,"No error"', "*OPC?": "1"}
        return known.get(line)

    def handle_error(self, request: object, client_address: object) -> None:
        """Its client goes when it likes."""


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        server = self.server
        assert isinstance(server, OddInstrument)
        for raw in self.rfile:
            line = raw.decode("ascii", "replace").strip()
            answer = server.plain(line)
            if answer is not None and not server.odd(line, answer, self.wfile.write):
                self.wfile.write(answer.encode() + b"\n")


@contextlib.contextmanager
def serving(odd: Callable[[str, str, Say], bool]) -> Iterator[OddInstrument]:
    """Serve an odd instrument until the block ends."""
    with OddInstrument(odd) as server:
        thread = threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True)
        thread.start()
        try:
            yield server
        finally:
            server.shutdown()


def _stream(answer: str, say: Say) -> None:
    for _ in range(STREAM_BYTES // 10_000):
        say(b"7" * 10_000)


def _lines(answer: str, say: Say) -> None:
    for _ in range(STREAM_BYTES // 1_000):
        say(b"+1.0\n" * 200)


def _dribble(answer: str, say: Say) -> None:
    for letter in (answer * 40)[:400]:
        say(letter.encode())
        time.sleep(0.03)


def _late(answer: str, say: Say) -> None:
    time.sleep(0.6)
    say(answer.encode() + b"\n")


def _twice(answer: str, say: Say) -> None:
    say(f"{answer}\n".encode())
    time.sleep(0.15)
    say(f"{answer}\n".encode())


ODD: dict[str, Callable[[str, Say], Any]] = {
    "a stream without an end": _stream,
    "lines without an end": _lines,
    "a byte now and then": _dribble,
    "late": _late,
    "twice": lambda answer, say: say(f"{answer}\n{answer}\n".encode()),
    "twice, the second late": _twice,
    "nothing": lambda answer, say: None,
    "an empty line": lambda answer, say: say(b"\n"),
    "an error": lambda answer, say: say(b'-113,"Undefined header"\n'),
    "an underscore": lambda answer, say: say(b"1_0\n"),
    "infinity": lambda answer, say: say(b"inf\n"),
    "no number": lambda answer, say: say(b"nan\n"),
    "far too large": lambda answer, say: say(b"1e300\n"),
    "400 digits": lambda answer, say: say(b"7" * 400 + b"\n"),
    "hexadecimal": lambda answer, say: say(b"0x1F\n"),
    "other digits": lambda answer, say: say("١٢\n".encode()),
    "with its unit": lambda answer, say: say(answer.encode() + b"OHM\n"),
    "two values": lambda answer, say: say(answer.encode() + b"," + answer.encode() + b"\n"),
    "half, then silence": lambda answer, say: say(answer[:5].encode()),
    "bytes": lambda answer, say: say(bytes(range(128, 256)) + b"\n"),
    "below nothing": lambda answer, say: say(b"-4.0E+02\n"),
    "not a number of SCPI": lambda answer, say: say(b"9.91E37\n"),
    "a greeting before": lambda answer, say: say(b"ready\n" + answer.encode() + b"\n"),
}


def at_random(chance: random.Random, share: float = 0.2) -> Callable[[str, str, Say], bool]:
    """Return a way of answering that is odd now and then."""

    def odd(line: str, answer: str, say: Say) -> bool:
        if chance.random() >= share:
            return False
        ODD[chance.choice(list(ODD))](answer, say)
        return True

    return odd
