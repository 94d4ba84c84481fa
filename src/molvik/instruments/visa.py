"""Meters and testers that speak SCPI, by VISA (PyVISA with its own backend, which needs no driver).

Whatever goes wrong is an ``InstrumentError`` in words: nothing there, a line that is lost, an
answer that is none, or comes too late.
"""

import contextlib
from collections.abc import Iterable
from typing import Any

from molvik.proving.channels import HIGH, LOW

OVER = 9.0e37
"""An answer from here on is an overload (SCPI: 9.9E37)."""

TIMEOUT_MS = 3000
AGAIN_MS = 60
"""For so long a second answer is waited for."""


def search(backend: str = "@py") -> tuple[str, ...]:
    """Return the VISA names of the instruments that can be found: on USB, serial lines, and those
    of the network that announce themselves. Raises InstrumentError.
    """
    import logging
    import warnings

    import pyvisa

    logging.getLogger("pyvisa").setLevel(logging.ERROR)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of what is not installed for the network
            return tuple(pyvisa.ResourceManager(backend).list_resources("?*"))
    except (pyvisa.Error, OSError, ValueError) as error:
        raise InstrumentError(f"No instruments can be looked for: {_short(error)}") from error


class InstrumentError(ValueError):
    """An instrument that does not do what it should; the message is for the user."""


class Instrument:
    """A SCPI instrument by its VISA name. Raises InstrumentError. backend: "@py", or a file of
    pyvisa-sim with "@sim" behind it.
    """

    def __init__(self, resource: str, backend: str = "@py", timeout_ms: int = TIMEOUT_MS) -> None:
        import pyvisa

        self.name = resource.strip()
        self._errors: tuple[type[Exception], ...] = (pyvisa.Error, OSError, ValueError, KeyError)
        try:
            manager = pyvisa.ResourceManager(backend)
            self._line: Any = manager.open_resource(
                self.name, read_termination="\n", write_termination="\n", timeout=timeout_ms
            )
        except self._errors as error:
            raise self._absent(error) from error

    def _absent(self, error: Exception) -> InstrumentError:
        return InstrumentError(
            f"There is no instrument at {self.name or '?'}: is it on, its address right? "
            f"({_short(error)})"
        )

    def tell(self, command: str) -> None:
        """Send a command that is not answered."""
        try:
            self._line.write(command)
        except self._errors as error:
            raise InstrumentError(f"{self.name} was lost: {_short(error)}") from error

    def ask(self, command: str) -> str:
        """Send a command; return its answer."""
        try:
            return str(self._line.query(command)).strip()
        except self._errors as error:
            if isinstance(error, ConnectionRefusedError | TypeError):
                raise self._absent(error) from error
            late = "timeout" in str(error).lower() or "TMO" in str(error)
            what = "does not answer in time" if late else "was lost"
            raise InstrumentError(f"{self.name} {what}: {_short(error)}") from error

    def identity(self) -> str:
        """Return what it says it is; one question has one answer."""
        said = self.ask("*IDN?")
        if said.count(",") < 1:
            raise InstrumentError(f"{self.name} answers “{said[:40]}”: it is no SCPI instrument.")
        if again := self._more():
            raise InstrumentError(
                f"{self.name} answers twice, “{said[:40]}” and “{again[:40]}”: two instruments "
                "have one address. Give one of them another."
            )
        return ", ".join(part.strip() for part in said.split(",")[:2])

    def _more(self) -> str:
        """Return what comes without having been asked for."""
        usual = self._line.timeout
        try:
            self._line.timeout = AGAIN_MS
            return str(self._line.read()).strip()
        except self._errors:
            return ""
        finally:
            with contextlib.suppress(*self._errors):
                self._line.timeout = usual

    def ohm(self, command: str = "MEAS:RES?") -> float | None:
        """Return a reading in ohms, None for an overload."""
        return number(self.ask(command), self.name)

    def volts(self) -> float | None:
        """Return a reading in volts, None for an overload."""
        return number(self.ask("MEAS:VOLT:DC?"), self.name)

    def connect(self, high: Iterable[int], low: Iterable[int]) -> None:
        """Tie channels to both sides of the meter, and nothing else."""
        self.tell("ROUT:OPEN:ALL")
        self.tell(f"ROUT:CLOS (@{','.join(str(HIGH + n) for n in high)})")
        self.tell(f"ROUT:CLOS (@{','.join(str(LOW + n) for n in low)})")

    def close(self) -> None:
        """Let it go."""
        with contextlib.suppress(*self._errors):
            self._line.close()


def number(text: str, name: str) -> float | None:
    """Return a decimal number as IEEE 488.2 writes it, None for an overload. Raises
    InstrumentError.
    """
    try:
        value = float(text.split(",")[0])
    except ValueError as error:
        raise InstrumentError(f"{name} answers “{text[:40]}”, which is no reading.") from error
    if value != value or 9.905e37 < abs(value) < 9.915e37:  # "not a number", by SCPI 9.91E37
        raise InstrumentError(f"{name} has no reading: it answers “{text[:40]}”.")
    return None if abs(value) >= OVER else value


def _short(error: Exception) -> str:
    return " ".join(str(error).split())[:120] or type(error).__name__
