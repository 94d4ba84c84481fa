"""A bench supply with a current limit, by SCPI: first power that cannot burn anything.

What flows is held against what the states of the job say; with more, the output is switched off.
"""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from molvik.devices.states import ACCESSORY, OFF, RUN, State
from molvik.instruments.answers import AMPS, VOLTS, InstrumentError, number
from molvik.instruments.offguard import Guard
from molvik.instruments.visa import Instrument

FIRST_STATES = (OFF, ACCESSORY, RUN)
"""What a bench supply can bring up: nothing cranks on it."""

NOT_OFF = "The supply is perhaps NOT off: pull its plug, or press its own button."

EMPTY_V = 0.8
"""Below this share of its voltage a supply is at its limit (our choice)."""


class Supply(Instrument):
    """A supply that understands VOLT, CURR, OUTP, MEAS:VOLT? and MEAS:CURR? (SCPI 1999)."""

    def set(self, volts: float, amps: float) -> None:
        """Set what it holds at most."""
        self.tell(f"VOLT {volts:.3f}")
        self.tell(f"CURR {amps:.3f}")

    def switch_on(self) -> None:
        """Switch its output on."""
        self.tell("OUTP ON")

    def switch_off(self) -> None:
        """Switch its output off, whatever else was asked of it, and see that it is. Raises
        InstrumentError where nobody knows.
        """
        off = self._seen_off(again=True)
        if not off:
            raise InstrumentError(f"{NOT_OFF} It says that its output is on.")

    def _seen_off(self, *, again: bool) -> bool:
        """Switch it off and ask whether it is. again: once more where somebody pressed Off while
        the answer was waited for, which ends every waiting.
        """
        self.over.clear()
        self._write("OUTP OFF")  # before all else: what it still answers is read afterwards
        try:
            self._in_step = False
            return self.ask("OUTP?") in ("0", "OFF")
        except InstrumentError as error:
            if again and self.over.is_set():
                return self._seen_off(again=False)
            raise InstrumentError(f"{NOT_OFF} ({error})") from error

    def measure(self) -> tuple[float, float]:
        """Return its voltage and its current, V and A. Raises InstrumentError."""
        volts = number(self.ask("MEAS:VOLT?"), self.name, VOLTS)
        amps = number(self.ask("MEAS:CURR?"), self.name, AMPS)
        if volts is None or amps is None:
            raise InstrumentError(f"{self.name} is beyond its range.")
        return volts, amps


class Flow(NamedTuple):
    """What a supply shows. trouble: why it was switched off, empty while all is well."""

    volts: float
    amps: float
    trouble: str = ""


def watch(
    supply: Supply,
    volts: float,
    most_a: float,
    state: str,
    stop: Callable[[], bool],
    pause: Callable[[], object],
    wanted_a: float = 0.0,
) -> Iterator[Flow]:
    """Switch a supply on and yield what it shows until it is stopped, or too much flows; its output
    is off then, whatever happened. pause: waits between two readings. wanted_a: what the job needs,
    where it is held to less. Raises InstrumentError.
    """
    supply.set(volts, most_a)
    guard = Guard(supply.name, supply.backend)
    try:
        supply.switch_on()
        while not stop():
            pause()
            shown, amps = supply.measure()
            trouble = ""
            if amps > most_a * 0.98 or shown < EMPTY_V * volts:
                trouble = f"Switched off: {amps:.2f} A at {shown:.1f} V in {state}, " + (
                    f"held to {most_a:g} A. By the job {wanted_a:.2f} A are needed: if nothing got "
                    "warm, switch it on again and allow them."
                    if wanted_a > most_a
                    else f"where at most {most_a:.2f} A are expected. Take fuses out one by one."
                )
            yield Flow(shown, amps, trouble)
            if trouble:
                return
    except InstrumentError:
        if not stop():  # else the answer was not waited for, to be off at once
            raise
    finally:
        supply.switch_off()
        guard.release()


def state_named(name: str) -> State:
    """Return one of the states that a supply brings up."""
    return next(state for state in FIRST_STATES if state.name == name)
