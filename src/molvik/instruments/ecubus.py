"""The stand-in of an engine computer on a bus: python-can's virtual one, and served to other
processes in the protocol of socketcand (from memory of its documents), which python-can speaks.
"""

import contextlib
import queue
import re
import socketserver
import threading
import time
from typing import Any

from molvik.instruments.ecu import StandInComputer, speaking
from molvik.instruments.j1979 import ALL_REQUEST, FIRST_ANSWER, FIRST_REQUEST, REFUSED

NODES_FROM, EVERY_S = 0x300, 0.1
"""Identifiers of the other nodes that speak, and how often they do (our choice)."""

FRAMES_PER_S = 100

NOT_MEANT = (0x11, 0x12, 0x31)
"""Reasons with which a question to all is not refused: it was meant for others (ISO 14229-1)."""


class ComputerOnBus:
    """Answers on a virtual bus until it is closed. channel: the name of the bus."""

    def __init__(self, computer: StandInComputer, channel: str) -> None:
        import can
        import isotp

        self.computer, self.channel = computer, channel
        self._bus = can.Bus(interface="virtual", channel=channel)
        self._all: queue.SimpleQueue[bytes] = queue.SimpleQueue()
        self._notifier = can.Notifier(self._bus, [self._hear], timeout=0.05)
        address = isotp.Address(
            isotp.AddressingMode.Normal_11bits, rxid=FIRST_REQUEST, txid=FIRST_ANSWER
        )
        self._stack: Any = isotp.NotifierBasedCanStack(
            bus=self._bus, notifier=self._notifier, address=address, params={"tx_padding": 0}
        )
        self._stack.start()
        self._over = threading.Event()
        self.ready = threading.Event()
        """Set once all it may be asked is solved: from then on it answers as fast as a real one."""
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _hear(self, message: Any) -> None:
        """Take up a question to all: a single frame."""
        if message.arbitration_id == ALL_REQUEST and message.data and message.data[0] < 8:
            self._all.put(bytes(message.data[1 : 1 + message.data[0]]))

    def _serve(self) -> None:
        import can

        try:
            if self.computer.answers:
                _ = self.computer.codes, self.computer.figures()
        finally:
            self.ready.set()
        spoken = 0.0
        nodes = [
            NODES_FROM + place
            for place, device in enumerate(
                one for one in self.computer.job.devices if one.kind == "network node"
            )
            if device.code in speaking(self.computer)
        ]
        while not self._over.is_set():
            request, to_all = self._stack.recv(block=True, timeout=0.02), False
            if not request:
                with contextlib.suppress(queue.Empty):
                    request, to_all = self._all.get_nowait(), True
            answer = self.computer.answer(bytes(request)) if request else None
            if to_all and answer and answer[0] == REFUSED and answer[2] in NOT_MEANT:
                answer = None
            if answer is not None:
                self._stack.send(answer)
            if self.computer.answers and time.monotonic() - spoken >= EVERY_S:
                spoken = time.monotonic()
                for node in nodes:
                    self._bus.send(
                        can.Message(arbitration_id=node, data=[0] * 8, is_extended_id=False)
                    )

    def close(self) -> None:
        """Fall silent."""
        self._over.set()
        self._thread.join(2)
        with contextlib.suppress(Exception):
            self._stack.stop()
        with contextlib.suppress(Exception):
            self._notifier.stop(timeout=1)
        self._bus.shutdown()


class _Client(socketserver.BaseRequestHandler):
    """One client of the server: what it sends goes on the bus, what is heard there goes to it."""

    def handle(self) -> None:
        """Speak until the line is closed."""
        import can

        server = self.server
        assert isinstance(server, BusServer)
        self.request.sendall(b"< hi >")
        bus = can.Bus(interface="virtual", channel=server.channel)
        notifier = None
        text = ""
        try:
            while data := self.request.recv(4096):
                text += data.decode("ascii", "replace")
                while found := re.search(r"<\s*([^<>]*?)\s*>", text):
                    text = text[found.end() :]
                    words = found[1].split()
                    if words[:1] == ["rawmode"] and notifier is None:
                        notifier = can.Notifier(bus, [self._tell], timeout=0.05)
                    if words[:1] == ["send"]:
                        _send(bus, words[1:])
                    elif words:
                        self.request.sendall(b"< ok >")
                text = text[-200:]
        except OSError:
            pass
        finally:
            if notifier is not None:
                notifier.stop(timeout=1)
            bus.shutdown()

    def _tell(self, message: Any) -> None:
        name = (
            f"{message.arbitration_id:08X}"
            if message.is_extended_id
            else (f"{message.arbitration_id:03X}")
        )
        said = f"< frame {name} {time.time():.6f} {bytes(message.data).hex().upper()} >"
        with contextlib.suppress(OSError):
            self.request.sendall(said.encode("ascii"))


def _send(bus: Any, words: list[str]) -> None:
    import can

    with contextlib.suppress(ValueError, IndexError):
        data = [int(word, 16) for word in words[2 : 2 + int(words[1], 16)]]
        bus.send(
            can.Message(
                arbitration_id=int(words[0], 16), data=data, is_extended_id=len(words[0]) > 3
            )
        )


class BusServer(socketserver.ThreadingTCPServer):
    """The stand-in's bus on a port of this machine, reached by nobody else; 0 for any free one."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, computer: StandInComputer, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Client)
        self.channel = f"molvik {self.server_address[1]}"
        self.stand_in = ComputerOnBus(computer, self.channel)

    @property
    def resource(self) -> str:
        """What it is called as a bus."""
        return f"socketcand:can0@127.0.0.1:{self.server_address[1]}"

    def server_close(self) -> None:
        """Fall silent and let the port go."""
        super().server_close()
        self.stand_in.close()
