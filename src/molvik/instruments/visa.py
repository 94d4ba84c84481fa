"""Meters and testers that speak SCPI, by VISA (PyVISA with its own backend, which needs no driver).

Whatever goes wrong is an ``InstrumentError`` in words: nothing there, a line that is lost, an
answer that is none, that has no end, or comes too late.
"""

import contextlib
import logging
import re
import threading
import time
import warnings
from collections.abc import Iterable
from typing import Any

from molvik.instruments.answers import OHMS, VOLTS, InstrumentError, error_of, number
from molvik.proving.channels import HIGH, LOW

log = logging.getLogger(__name__)

TIMEOUT_MS = 3000
"""For the whole of an answer, however it dribbles in."""

MOST_BYTES = 4096
"""No answer to what is asked here is longer."""

SLICE_MS = 100
"""So often, while an answer is waited for, it is asked whether it still is."""

QUIET_MS = 60
"""For so long a second answer is waited for."""

MOST_STALE, ROUNDS = 200, 3
MOST_ERRORS = 50

SPEED = "1"
"""Periods of the mains that a reading takes in: a hum beside the loom falls out of it."""

_RESISTANCE = re.compile(r":?(?:SENSE?:)?RES(?:ISTANCE)?\b")
"""How an instrument says that it measures resistance by two wires; "FRES" is by four."""


def search(backend: str = "@py") -> tuple[str, ...]:
    """Return the VISA names of the instruments that can be found: on USB, serial lines, and those
    of the network that announce themselves. Raises InstrumentError.
    """

    import pyvisa

    logging.getLogger("pyvisa").setLevel(logging.ERROR)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of what is not installed for the network
            return tuple(pyvisa.ResourceManager(backend).list_resources("?*"))
    except (pyvisa.Error, OSError, ValueError) as error:
        raise InstrumentError(f"No instruments can be looked for: {_short(error)}") from error


class NotTakenError(InstrumentError):
    """A command that an instrument says it does not take."""


class SilentError(InstrumentError):
    """A question without an answer in time."""


class Instrument:
    """A SCPI instrument by its VISA name. Raises InstrumentError. backend: "@py", or a file of
    pyvisa-sim with "@sim" behind it. timeout_ms: for the whole of an answer.

    over: set, what is waited for is given up within a tenth of a second.
    """

    def __init__(self, resource: str, backend: str = "@py", timeout_ms: int = TIMEOUT_MS) -> None:
        import pyvisa

        self.name, self.backend = resource.strip(), backend
        self.over = threading.Event()
        self._whole_s = timeout_ms / 1000
        self._in_step = True
        self._tells_errors = True
        self._tells_function = self._tells_range = False
        # Whatever a backend raises; PyVISA's own go unfiltered through some of them.
        self._errors: tuple[type[Exception], ...] = (Exception,)
        try:
            manager = pyvisa.ResourceManager(backend)
            self._line: Any = manager.open_resource(
                self.name,
                read_termination="\n",
                write_termination="\n",
                timeout=timeout_ms,
                open_timeout=timeout_ms,
            )
        except self._errors as error:
            raise self._absent(error) from error
        # A stream comes byte by byte; the others in messages, which are asked for whole.
        self._streams = self.name.upper().endswith("::SOCKET") or self.name.upper()[:4] == "ASRL"

    def _absent(self, error: Exception) -> InstrumentError:
        return InstrumentError(
            f"There is no instrument at {self.name or '?'}: is it on, its address right? "
            f"({_short(error)})"
        )

    # lines

    def _write(self, command: str) -> None:
        log.debug("%s < %s", self.name, command[:200])
        try:
            self._line.write(command)
        except self._errors as error:
            raise self._lost(error) from error

    def _read(self, whole_s: float) -> str | None:
        """Return a line, None when none comes in time. Raises InstrumentError."""
        ends = time.monotonic() + whole_s
        data = bytearray()
        while True:
            left_ms = int(1000 * (ends - time.monotonic()))
            if self.over.is_set():
                raise InstrumentError(f"{self.name} is not waited for any longer.")
            if left_ms <= 0:
                if data:
                    raise InstrumentError(f"{self.name} does not answer in time: it broke off.")
                return None
            part = self._read_some(min(left_ms, SLICE_MS) if self._streams else left_ms)
            data += part
            if part.endswith(b"\n") or (part and not self._streams):
                said = data.decode("ascii", "replace").strip()
                log.debug("%s > %s", self.name, said[:200])
                return said
            if len(data) >= MOST_BYTES:
                raise InstrumentError(f"{self.name} answers without an end.")

    def _read_some(self, wait_ms: int) -> bytes:
        import pyvisa

        try:
            self._line.timeout = max(1, wait_ms)
            count = 1 if self._streams else MOST_BYTES
            with self._line.ignore_warning(pyvisa.constants.StatusCode.success_max_count_read):
                data, _ = self._line.visalib.read(self._line.session, count)
            return bytes(data)
        except pyvisa.VisaIOError as error:
            if error.error_code == pyvisa.constants.StatusCode.error_timeout:
                return b""
            raise self._lost(error) from error
        except self._errors as error:
            raise self._lost(error) from error

    def _lost(self, error: Exception) -> InstrumentError:
        if isinstance(error, ConnectionRefusedError | TypeError):
            return self._absent(error)  # it was never there: the backend says so late
        return InstrumentError(f"{self.name} was lost: {_short(error)}")

    def _drain(self) -> list[str]:
        """Return what came without having been asked for. Raises InstrumentError."""
        found: list[str] = []
        while len(found) < MOST_STALE:
            line = self._read(QUIET_MS / 1000)
            if line is None:
                return found
            found.append(line)
        raise InstrumentError(f"{self.name} answers without an end.")

    def _resynchronise(self) -> None:
        """After an error nobody knows which answer is to which question: throw away what comes, and
        ask whether it is done until that is answered. Raises InstrumentError.
        """
        for _ in range(ROUNDS):
            self._drain()
            self._write("*OPC?")
            said, ends = self._read(self._whole_s), time.monotonic() + self._whole_s
            while said is not None and said != "1" and time.monotonic() < ends:
                said = self._read(self._whole_s)  # what was still on its way
            if said == "1" and not self._drain():
                self._in_step = True
                self._write("*CLS")
                return
        raise InstrumentError(f"{self.name} answers out of step. Switch it off and on.")

    # asking

    def tell(self, command: str) -> None:
        """Send a command that is not answered. Raises InstrumentError, also where the instrument
        does not take it.
        """
        self._be_in_step()
        self._write(command)
        self._look_for_errors(command)

    def ask(self, command: str) -> str:
        """Send a command; return its answer. Raises InstrumentError."""
        self._be_in_step()
        try:
            said = self._asked(command)
        except SilentError:
            if self._tells_errors:  # it may say why: a question it does not know has no answer
                self._look_for_errors(command)
                self._in_step = False
            raise
        self._look_for_errors(command)
        if not self._tells_errors and self._drain():
            raise InstrumentError(f"{self.name} answers twice: “{said[:40]}” was not taken.")
        return said

    def _be_in_step(self) -> None:
        if not self._in_step:
            self._resynchronise()

    def _asked(self, command: str) -> str:
        self._in_step = False
        self._write(command)
        said = self._read(self._whole_s)
        if said is None:
            raise SilentError(f"{self.name} does not answer in time to {command[:40]}.")
        self._in_step = True
        return said

    def _look_for_errors(self, command: str) -> None:
        """Ask what went wrong. The answer has a form of its own, so that one which belongs to an
        earlier question shows.
        """
        if not self._tells_errors:
            return
        first = ""
        for _ in range(MOST_ERRORS):
            said = self._asked("SYST:ERR?")
            found = error_of(said)
            if found is None:
                self._in_step = False
                raise InstrumentError(
                    f"{self.name} answers “{said[:40]}” where it was asked for its errors: it "
                    f"answers twice, or out of step. What it said to {command[:40]} was not taken."
                )
            if found[0] == 0:
                break
            first = first or f"{found[0]}, {found[1][:60]}"
        if first:
            raise NotTakenError(f"{self.name} does not take {command[:40]}: error {first}.")

    def identity(self) -> str:
        """Return what it says it is; one question has one answer. Raises InstrumentError."""
        self._drain()
        said = self._asked("*IDN?")
        if said.count(",") < 1:
            raise InstrumentError(
                f"{self.name} answers “{said[:40]}”: it is not a SCPI instrument."
            )
        if again := self._drain():
            raise InstrumentError(
                f"{self.name} answers twice, “{said[:40]}” and “{again[0][:40]}”: two instruments "
                "have one address. Give one of them another."
            )
        self._tells_errors = self._asks_for_errors()
        return ", ".join(part.strip() for part in said.split(",")[:2])

    def _asks_for_errors(self) -> bool:
        """Return whether it tells its errors; those from before are read away."""
        try:
            self._write("*CLS")
            said = self._asked("SYST:ERR?")
        except InstrumentError:
            self._drain()
            self._in_step = True
            return False
        return error_of(said) is not None

    def ohm(self, command: str = "MEAS:RES?") -> float | None:
        """Return a reading in ohms, None for an overload."""
        return number(self.ask(command), self.name, OHMS)

    def volts(self) -> float | None:
        """Return a reading in volts, None for an overload."""
        return number(self.ask("MEAS:VOLT:DC?"), self.name, VOLTS)

    def stand_on_ohms(self) -> None:
        """Have READ? measure resistance, in any range: a meter stands on volts until it is told
        otherwise. What it says it stands on then is what counts.
        """
        self.tell("CONF:RES")
        for header, value in (("SENS:RES:RANG:AUTO", "ON"), ("SENS:RES:NPLC", SPEED)):
            with contextlib.suppress(NotTakenError):  # one without ranges, or with one speed
                self.tell(f"{header} {value}")
        self._tells_function = self._function() is not None
        self._check_function()
        self._tells_range = True
        self._check_range()

    def resistance(self) -> float | None:
        """Return a reading in ohms of one that was told to stand on them, None for an overload.

        Raises InstrumentError where it measures something else by now: somebody turned its switch.
        """
        if not self._tells_function:
            return self.ohm()  # sets what it measures, each time
        found = self.ohm("READ?")
        self._check_function()
        if found is None:
            self._check_range()
        return found

    def _function(self) -> str | None:
        """Return what it says it measures, None where it does not say."""
        for query in ("FUNC?", "CONF?"):
            with contextlib.suppress(NotTakenError):
                return self.ask(query).strip('"').upper()
        return None

    def _check_function(self) -> None:
        said = self._function() if self._tells_function else None
        if said is not None and not _RESISTANCE.match(said):
            raise InstrumentError(
                f"{self.name} was asked for ohms and measures “{said[:30]}”. Set it to two-wire "
                "resistance, leave its switch alone, and begin again."
            )

    def _check_range(self) -> None:
        if not self._tells_range:
            return
        try:
            said = self.ask("SENS:RES:RANG:AUTO?")
        except NotTakenError:
            self._tells_range = False
            return
        if said.upper() not in ("1", "+1", "ON"):
            raise InstrumentError(
                f"{self.name} stays in one range: whatever is beyond it would look open. Set its "
                "range to automatic, and begin again."
            )

    def open_all(self) -> None:
        """Tie nothing to the meter."""
        self.tell("ROUT:OPEN:ALL")

    def connect(self, high: Iterable[int], low: Iterable[int]) -> None:
        """Tie channels to both sides of the meter, and nothing else."""
        self.open_all()
        self.tell(f"ROUT:CLOS (@{','.join(str(HIGH + n) for n in high)})")
        self.tell(f"ROUT:CLOS (@{','.join(str(LOW + n) for n in low)})")

    def close(self) -> None:
        """Let it go."""
        with contextlib.suppress(*self._errors):
            self._line.close()


def _short(error: Exception) -> str:
    return " ".join(str(error).split())[:120] or type(error).__name__
