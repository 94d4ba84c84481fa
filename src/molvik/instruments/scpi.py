"""What stand-ins of SCPI instruments have in common: the words of IEEE 488.2, long and short forms,
compound lines, registers, a queue of errors (IEEE 488.2 and SCPI 1999, from memory).

By hand: of the registries' simulators pyvisa-sim answers fixed pairs in the client's process, and
lewis matches whole lines; neither has short forms, compound lines or registers.
"""

import re
from collections import deque
from collections.abc import Callable, Mapping
from typing import NamedTuple

LONGEST_LINE = 64_000
"""What is longer is not a command; a loom tester's list of 5,000 channels has 30,000 letters."""

MOST_ERRORS = 20
NO_ERROR = '0,"No error"'

ERRORS = {
    -101: "Invalid character",
    -102: "Syntax error",
    -104: "Data type error",
    -108: "Parameter not allowed",
    -109: "Missing parameter",
    -113: "Undefined header",
    -222: "Data out of range",
    -223: "Too much data",
    -224: "Illegal parameter value",
    -350: "Queue overflow",
    -363: "Input buffer overrun",
}

# Bits of the event register (*ESR?) and of the status byte (*STB?).
DONE, QUERY_ERROR, DEVICE_ERROR, EXECUTION_ERROR, COMMAND_ERROR, POWER_ON = 1, 4, 8, 16, 32, 128
ERROR_WAITS, EVENT_SUMMARY, SERVICE = 4, 32, 64

Run = Callable[[str], "str | None"]
"""Does a command with its parameters; what a query answers."""


class CommandError(Exception):
    """A command that is not done. number: of ERRORS."""

    def __init__(self, number: int) -> None:
        super().__init__(ERRORS[number])
        self.number = number


class _Known(NamedTuple):
    header: re.Pattern[str]
    run: Run


def _header(text: str) -> re.Pattern[str]:
    """Return what matches a header in its long and short forms."""
    parts = re.findall(r"\[|\]|:|\?|\*|[A-Z]+[a-z]*", text)
    made = ""
    for part in parts:
        short = re.match(r"[A-Z]+", part)
        if part in "[]":
            made += "(?:" if part == "[" else ")?"
        elif short:
            rest = part[short.end() :].upper()
            made += f"{short[0]}(?:{rest})?" if rest else short[0]
        else:
            made += re.escape(part)
    return re.compile(made)


class ScpiDevice:
    """An instrument that answers lines. commands: by header, short letters large, what may be left
    out in brackets, a question mark behind a query: ``[SOURce:]VOLTage[:LEVel]?``.
    """

    def __init__(self, name: str, commands: Mapping[str, Run]) -> None:
        self.name = name
        every = {**commands, **self._common}
        self._commands = [_Known(_header(text), run) for text, run in every.items()]
        self._errors: deque[int] = deque()
        self._events, self._enabled, self._service = POWER_ON, 0, 0

    @property
    def _common(self) -> dict[str, Run]:
        return {
            "*IDN?": lambda _: self.name,
            "*TST?": lambda _: "0",
            "*OPC?": lambda _: "1",
            "*WAI": lambda _: None,
            "*OPC": self._opc,
            "*CLS": self._cls,
            "*RST": self._rst,
            "*ESR?": self._esr,
            "*STB?": lambda _: str(self.status),
            "*ESE": self._ese,
            "*ESE?": lambda _: str(self._enabled),
            "*SRE": self._sre,
            "*SRE?": lambda _: str(self._service),
            "SYSTem:ERRor[:NEXT]?": self._next_error,
            "SYSTem:VERSion?": lambda _: "1999.0",
        }

    # what those who inherit say

    def reset(self) -> None:
        """Be as when it was switched on."""

    # lines

    def answer(self, line: str) -> str | None:
        """Return what is answered to a line, None for nothing. Several commands are parted by
        semicolons; each begins where the one before stood, or at the root behind a colon.
        """
        if len(line) > LONGEST_LINE:
            self.error(-363)
            return None
        answers, path = [], ""
        for part in line.strip().split(";"):
            text = part.strip()
            if not text:
                continue
            header, _, rest = text.partition(" ")
            header, parameters = header.upper(), rest.strip()
            if header.startswith("*"):
                full = header
            elif header.startswith(":"):
                full = header[1:]
            else:
                full = path + header
            found = self._find(full)
            if found is None and path and not header.startswith((":", "*")):
                found, full = self._find(header), header
            if found is None:
                self.error(-113)
                break  # what follows on the line is not done either
            if not header.startswith("*"):
                path = full[: full.rfind(":") + 1]
            try:
                said = found(parameters)
            except CommandError as problem:
                self.error(problem.number)
                break
            if said is not None:
                answers.append(said)
        return ";".join(answers) if answers else None

    def _find(self, header: str) -> Run | None:
        return next((one.run for one in self._commands if one.header.fullmatch(header)), None)

    # errors and registers

    def error(self, number: int) -> None:
        """Keep an error; the last place says that there were more."""
        kind = EXECUTION_ERROR if -300 < number <= -200 else COMMAND_ERROR
        self._events |= DEVICE_ERROR if number <= -300 else kind
        if len(self._errors) < MOST_ERRORS:
            self._errors.append(number)
        else:
            self._errors[-1] = -350

    @property
    def status(self) -> int:
        """Return the status byte."""
        made = ERROR_WAITS if self._errors else 0
        made |= EVENT_SUMMARY if self._events & self._enabled else 0
        return made | (SERVICE if made & self._service else 0)

    def _next_error(self, _: str) -> str:
        if not self._errors:
            return NO_ERROR
        number = self._errors.popleft()
        return f'{number},"{ERRORS[number]}"'

    def _esr(self, _: str) -> str:
        events, self._events = self._events, 0
        return str(events)

    def _opc(self, _: str) -> None:
        self._events |= DONE

    def _cls(self, _: str) -> None:
        self._errors.clear()
        self._events = 0

    def _rst(self, _: str) -> None:
        self.reset()

    def _ese(self, text: str) -> None:
        self._enabled = int(numeric(text, 0, 255))

    def _sre(self, text: str) -> None:
        self._service = int(numeric(text, 0, 255)) & ~SERVICE


_NUMERIC = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:\s?E\s?[+-]?\d+)?", re.IGNORECASE)


def numeric(text: str, least: float, most: float) -> float:
    """Return a parameter within its range. Raises CommandError."""
    if not text:
        raise CommandError(-109)
    if "," in text:
        raise CommandError(-108)
    if len(text) > 40 or not _NUMERIC.fullmatch(text):
        raise CommandError(-104)
    value = float(text.replace(" ", ""))
    if not least <= value <= most:
        raise CommandError(-222)
    return value


def switch(text: str) -> bool:
    """Return a parameter that is on or off. Raises CommandError."""
    word = text.upper()
    if not word:
        raise CommandError(-109)
    if word not in ("ON", "OFF", "1", "0"):
        raise CommandError(-224)
    return word in ("ON", "1")


def channel_list(text: str, known: Callable[[int], bool], most: int) -> list[int]:
    """Return the channels of a list such as ``(@10001,10003:10007)``. most: how many there are.

    Raises CommandError.
    """
    if not text:
        raise CommandError(-109)
    found = re.fullmatch(r"\(@([\d\s,:]*)\)", text)
    if found is None:
        raise CommandError(-102)
    channels: list[int] = []
    for word in found[1].split(","):
        ends = re.fullmatch(r"\s*(\d{1,9})\s*(?::\s*(\d{1,9})\s*)?", word)
        if ends is None:
            raise CommandError(-102)
        first, last = int(ends[1]), int(ends[2] or ends[1])
        if last < first or not known(first) or not known(last) or last - first >= most:
            raise CommandError(-222)
        channels += range(first, last + 1)
        if len(channels) > most:
            raise CommandError(-223)
    return channels
