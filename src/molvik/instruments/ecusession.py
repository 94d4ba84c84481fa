"""The link to an engine computer: python-can for the bus, can-isotp for longer messages.

Whatever goes wrong is an ``InstrumentError`` in words: no such bus, nobody who answers, an answer
that is none.
"""

import contextlib
import logging
import socket
import threading
import time
from collections import Counter
from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple, TypeVar

from molvik.instruments.answers import InstrumentError
from molvik.instruments.j1979 import (
    ABOUT,
    ALL_REQUEST,
    ANSWER,
    CLEAR,
    CODES,
    COMPUTERS,
    FIRST_ANSWER,
    FIRST_REQUEST,
    LIVE,
    PENDING,
    PIDS,
    TEXTS,
    AnswerError,
    live_request,
    read_codes_answer,
    read_live,
    read_supported,
    read_text,
)

T = TypeVar("T")

USUAL_BITS = 500_000
"""Bits a second of a bus whose bit rate was not typed (ISO 15765-4: 500 or 250 thousand)."""

EXAMPLE = "socketcan:can0, slcan:/dev/ttyUSB0@500000, socketcand:can0@HOST:PORT"
ANSWER_S, WHOLE_S = 2.0, 30.0
"""For so long an answer is waited for, and at most when it asks for time or comes in many parts."""

SLICE_S = 0.1
"""So often it is asked whether it still is waited for."""

SILENT = (
    "Nothing was heard: the key is off, there is no module on the bus, a wire is off, or a "
    "module waits to be asked"
    ". A single module on the bus stops sending: nothing acknowledges it."
)
QUIET_MS = 200

NOBODY = (
    "No computer answers. Is the key in run, the plug in, the bit rate right? Are both terminators "
    "there, high and low not swapped, the computer's feeds and earths alive?"
)


class Address(NamedTuple):
    """Which bus: the name of python-can's driver, its channel, and what else that wants."""

    interface: str
    channel: str
    bits: int
    host: str = ""
    port: int = 0


def read_address(text: str) -> Address:
    """Read the address of a bus: "socketcan:can0", "slcan:/dev/ttyUSB0@250000". Raises
    ValueError.
    """
    interface, _, rest = text.strip().partition(":")
    channel, _, more = rest.rpartition("@") if "@" in rest else (rest, "", "")
    if not interface or not channel:
        raise ValueError(f"“{text.strip()[:60]}” is not a bus. Type for example {EXAMPLE}.")
    if interface == "socketcand":
        host, _, port = more.rpartition(":")
        if not host or not port.isdigit():
            raise ValueError("Type where it is served: socketcand:can0@HOST:PORT.")
        return Address(interface, channel, USUAL_BITS, host, int(port))
    if more and not (more.isdigit() and 10_000 <= int(more) <= 1_000_000):
        raise ValueError(f"“{more[:20]}” is not a bit rate. Type 500000 or 250000.")
    return Address(interface, channel, int(more or USUAL_BITS))


def open_bus(address: Address) -> Any:
    """Return an open bus of python-can. Raises InstrumentError."""

    import can

    logging.getLogger("can").setLevel(logging.CRITICAL)
    more: dict[str, Any] = {}
    try:
        if address.interface == "socketcand":
            # Its driver tries for ten seconds; whether anybody is there shows at once.
            socket.create_connection((address.host, address.port), 2).close()
            more = {"host": address.host, "port": address.port}
        elif address.interface != "virtual":
            more = {"bitrate": address.bits}
        return can.Bus(interface=address.interface, channel=address.channel, **more)
    except Exception as error:  # each driver has errors of its own kind
        raise InstrumentError(
            f"There is no bus at {address.interface}:{address.channel}: is the adapter in, and the "
            f"bus up? ({' '.join(str(error).split())[:120]})"
        ) from error


class Heard(NamedTuple):
    """What was heard on a bus: frames by who sent them, errors, how long, s, and how many bits."""

    frames: dict[int, int]
    errors: int
    seconds: float
    bits: int

    def words(self, address: Address) -> str:
        """Say it in words, and what silence or errors mean."""
        if self.errors > sum(self.frames.values()):
            return (
                f"Only errors were heard, {self.errors} of them: the bit rate is another than "
                f"{address.bits}, or high and low are swapped or shorted."
            )
        if not self.frames:
            return SILENT
        share = self.bits / (self.seconds * address.bits)
        names = ", ".join(f"{one:03X}" for one in sorted(self.frames)[:16])
        said = f"{len(self.frames)} identifiers are sent ({names}); the bus is {share:.0%} busy"
        return f"{said}, {self.errors} errors." if self.errors else f"{said}."


FRAME_BITS, BYTE_BITS = 47, 8
"""Bits of a frame with an identifier of 11 bits, and of each byte of it, stuffing left out
(ISO 11898-1)."""


class EcuSession:
    """A bus with computers on it. Close it, or use it in a ``with``. Raises InstrumentError."""

    def __init__(self, address: Address) -> None:
        import can

        self.address = address
        self.over = threading.Event()
        """Set, what is waited for is given up."""
        self._bus = open_bus(address)
        self._notifier = can.Notifier(self._bus, [], timeout=0.1)
        self._stacks: dict[int, Any] = {}

    def __enter__(self) -> "EcuSession":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Let the bus go."""
        for stack in self._stacks.values():
            with contextlib.suppress(Exception):
                stack.stop()
        with contextlib.suppress(Exception):
            self._notifier.stop(timeout=1)
        with contextlib.suppress(Exception):
            self._bus.shutdown()

    # asking

    def _stack(self, number: int) -> Any:
        import isotp

        if number not in self._stacks:
            address = isotp.Address(
                isotp.AddressingMode.Normal_11bits,
                rxid=FIRST_ANSWER + number,
                txid=FIRST_REQUEST + number,
            )
            params = {"tx_padding": 0, "stmin": 0, "blocksize": 0}
            stack = isotp.NotifierBasedCanStack(
                bus=self._bus, notifier=self._notifier, address=address, params=params
            )
            stack.start()
            self._stacks[number] = stack
        return self._stacks[number]

    def ask(self, request: bytes, number: int = 0) -> bytes:
        """Send a request to a computer and return its answer. Raises InstrumentError."""
        stack = self._stack(number)
        while stack.available():
            stack.recv()  # what came late is of an earlier question
        try:
            stack.send(request)
            begun = time.monotonic()
            end = begun + ANSWER_S
            while time.monotonic() < end and not self.over.is_set():
                answer = stack.recv(block=True, timeout=SLICE_S)
                if answer is None:
                    if stack.is_rx_active():  # a long answer is coming in, frame by frame
                        end = min(time.monotonic() + ANSWER_S, begun + WHOLE_S)
                    continue
                if answer[:1] == b"\x7f" and answer[2:3] == b"\x78":
                    end = min(time.monotonic() + 5 * ANSWER_S, begun + WHOLE_S)  # it asks for time
                elif answer[0] in (request[0] + ANSWER, 0x7F):
                    return bytes(answer)
        except Exception as error:
            raise InstrumentError(f"The bus was lost: {error}") from error
        raise InstrumentError(NOBODY)

    def computers(self) -> tuple[int, ...]:
        """Return the numbers of the computers that answer a question to all. Raises
        InstrumentError.
        """
        import can

        heard = can.BufferedReader()
        self._notifier.add_listener(heard)
        try:
            data = [2, LIVE, 0, 0, 0, 0, 0, 0]
            self._bus.send(can.Message(arbitration_id=ALL_REQUEST, data=data, is_extended_id=False))
            found, end = set[int](), time.monotonic() + ANSWER_S
            while (left := end - time.monotonic()) > 0:
                message = heard.get_message(left)
                if message is None:
                    break
                number = message.arbitration_id - FIRST_ANSWER
                if 0 <= number < COMPUTERS and not message.is_error_frame:
                    found.add(number)
                    end = min(end, time.monotonic() + QUIET_MS / 1000)
        except Exception as error:
            raise InstrumentError(f"The bus was lost: {error}") from error
        finally:
            self._notifier.remove_listener(heard)
        if not found:
            raise InstrumentError(NOBODY)
        return tuple(sorted(found))

    def codes(self, number: int = 0) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Return the codes that are set, and those not sure yet. Raises InstrumentError."""

        def asked(service: int) -> tuple[str, ...]:
            request = bytes([service])
            return self._read(partial(read_codes_answer, service), request, number)

        return asked(CODES), asked(PENDING)

    def clear(self, number: int = 0) -> None:
        """Clear the codes. Raises InstrumentError, where it refuses."""
        answer = self.ask(bytes([CLEAR]), number)
        if answer[0] != CLEAR + ANSWER:
            raise InstrumentError("The computer refuses to clear: key in run, engine stopped.")

    def pids(self, number: int = 0) -> tuple[int, ...]:
        """Return the figures a computer has, of those known here. Raises InstrumentError."""
        found: list[int] = []
        for first in (0x00, 0x20, 0x40):
            if first and first not in found:
                break
            found += self._read(partial(read_supported, first), bytes([LIVE, first]), number)
        return tuple(pid for pid in found if pid in PIDS)

    def live(self, pids: tuple[int, ...], number: int = 0) -> dict[int, float]:
        """Return live figures. Raises InstrumentError."""
        found: dict[int, float] = {}
        for at in range(0, len(pids), 6):
            found |= self._read(read_live, live_request(pids[at : at + 6]), number)
        return found

    def about(self, number: int = 0) -> dict[str, str]:
        """Return what a computer says of itself, what it does not say left out."""
        found = {}
        for what, name in TEXTS.items():
            with contextlib.suppress(InstrumentError):
                found[name] = self._read(partial(read_text, what), bytes([ABOUT, what]), number)
        return found

    def _read(self, read: Callable[[bytes], T], request: bytes, number: int) -> T:
        try:
            return read(self.ask(request, number))
        except AnswerError as error:
            raise InstrumentError(str(error)) from error

    # listening

    def listen(self, seconds: float, stop: Callable[[], bool] = lambda: False) -> Heard:
        """Return what is heard without asking anything. Raises InstrumentError."""
        import can

        heard = can.BufferedReader()
        self._notifier.add_listener(heard)
        frames: Counter[int] = Counter()
        errors = bits = 0
        begun = time.monotonic()
        try:
            while time.monotonic() - begun < seconds and not stop():
                message = heard.get_message(0.1)
                if message is None:
                    continue
                if message.is_error_frame:
                    errors += 1
                else:
                    frames[message.arbitration_id] += 1
                    bits += FRAME_BITS + BYTE_BITS * message.dlc
        except Exception as error:
            raise InstrumentError(f"The bus was lost: {error}") from error
        finally:
            self._notifier.remove_listener(heard)
        return Heard(dict(frames), errors, max(1e-3, time.monotonic() - begun), bits)
