"""Requests to an engine computer and its answers, as bytes (SAE J1979 over ISO 15765-4; numbers and
scalings from memory).

Service 01 asks for live data, 02 for what it was when a code was set, 03 for codes, 07 for those
that are not sure yet, 0A for those that no tool can clear, 04 clears them, 06 asks what it found
when it tested itself, 09 says which computer it is. An answer's service is 40 hexadecimal more than
the request's.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

LIVE, FROZEN, CODES, CLEAR, TESTS, PENDING = 0x01, 0x02, 0x03, 0x04, 0x06, 0x07
ABOUT, PERMANENT = 0x09, 0x0A
ANSWER, REFUSED = 0x40, 0x7F
ALL_REQUEST, FIRST_REQUEST, FIRST_ANSWER, COMPUTERS = 0x7DF, 0x7E0, 0x7E8, 8
"""Identifiers of 11 bits: to all computers, to the first, from the first, and how many there are
(ISO 15765-4)."""


class AnswerError(ValueError):
    """An answer that is none; the message is for the user."""


class Pid(NamedTuple):
    """One figure of live data: how many bytes it has, and how they are read and written."""

    name: str
    unit: str
    size: int
    read: Callable[[bytes], float]
    write: Callable[[float], int]


def _byte(name: str, unit: str, scale: float, shift: float = 0.0) -> Pid:
    return Pid(
        name,
        unit,
        1,
        lambda raw: raw[0] * scale + shift,
        lambda value: round((value - shift) / scale),
    )


def _word(name: str, unit: str, scale: float) -> Pid:
    return Pid(
        name,
        unit,
        2,
        lambda raw: (256 * raw[0] + raw[1]) * scale,
        lambda value: round(value / scale),
    )


PIDS: dict[int, Pid] = {
    0x04: _byte("load", "%", 100 / 255),
    0x05: _byte("coolant", "°C", 1, -40),
    0x0B: _byte("manifold pressure", "kPa", 1),
    0x0C: _word("engine speed", "1/min", 0.25),
    0x0D: _byte("road speed", "km/h", 1),
    0x0E: _byte("timing before top dead centre", "°", 0.5, -64),
    0x0F: _byte("intake air", "°C", 1, -40),
    0x10: _word("air mass", "g/s", 0.01),
    0x11: _byte("throttle", "%", 100 / 255),
    0x1F: _word("time since start", "s", 1),
    0x21: _word("distance with the lamp on", "km", 1),
    0x2F: _byte("tank level", "%", 100 / 255),
    0x33: _byte("outside pressure", "kPa", 1),
    0x42: _word("the computer's supply", "V", 0.001),
    0x46: _byte("outside air", "°C", 1, -40),
}

REASONS = {
    0x10: "it refuses",
    0x11: "it does not know this service",
    0x12: "it does not know this request",
    0x13: "the request has a wrong length",
    0x21: "it is busy: ask again",
    0x22: "not now: key in run, engine stopped",
    0x31: "it has no such value",
    0x33: "it wants to be unlocked",
    0x78: "it needs more time",
}
"""Why a computer refuses (ISO 14229-1, from memory)."""

TEXTS = {0x02: "vehicle number", 0x04: "calibration", 0x0A: "name"}
"""What service 09 tells in letters."""


# codes


def code_bytes(code: str) -> bytes:
    """Return the two bytes of a code: two bits for the letter, two for the first digit, then three
    hexadecimal digits.
    """
    letter = "PCBU".index(code[0])
    return bytes([letter << 6 | int(code[1]) << 4 | int(code[2], 16), int(code[3:], 16)])


def code_text(raw: bytes) -> str:
    """Return the code that two bytes stand for."""
    return f"{'PCBU'[raw[0] >> 6]}{raw[0] >> 4 & 3}{raw[0] & 15:X}{raw[1]:02X}"


def codes_answer(service: int, codes: Sequence[str]) -> bytes:
    """Return the answer that lists codes: how many, as far as one byte counts, then two bytes each
    (ISO 15765-4).
    """
    return bytes([service + ANSWER, min(255, len(codes))]) + b"".join(map(code_bytes, codes))


def read_codes_answer(service: int, raw: bytes) -> tuple[str, ...]:
    """Return the codes of an answer. Raises AnswerError.

    The count has one byte; a computer with more goes on beyond it, so the bytes there are count.
    """
    body = _body(service, raw)
    if len(body) % 2 != 1:
        raise AnswerError(f"An answer of {len(raw)} bytes lists no codes.")
    pairs = (body[at : at + 2] for at in range(1, len(body), 2))
    return tuple(dict.fromkeys(code_text(pair) for pair in pairs if pair != b"\0\0"))


# live data


def live_request(pids: Iterable[int]) -> bytes:
    """Return the request for up to six figures."""
    return bytes([LIVE, *list(pids)[:6]])


def live_answer(values: dict[int, float]) -> bytes:
    """Return the answer with figures; one that does not fit stands at its end."""
    made = bytearray([LIVE + ANSWER])
    for pid, value in values.items():
        size = PIDS[pid].size
        most = 256**size - 1
        made.append(pid)
        made += max(0, min(most, PIDS[pid].write(value))).to_bytes(size, "big")
    return bytes(made)


def read_live(raw: bytes) -> dict[int, float]:
    """Return the figures of an answer by their numbers. Raises AnswerError."""
    body, found, at = _body(LIVE, raw), dict[int, float](), 0
    while at < len(body):
        pid = PIDS.get(body[at])
        if pid is None or at + 1 + pid.size > len(body):
            break  # what follows cannot be told apart
        found[body[at]] = pid.read(body[at + 1 : at + 1 + pid.size])
        at += 1 + pid.size
    return found


def supported(first: int, pids: Iterable[int]) -> bytes:
    """Return four bytes that say which of the 32 numbers after one there are, the first in the
    highest bit; the last bit says that there are more beyond.
    """
    known, bits = set(pids), 0
    for place in range(32):
        there = first + 1 + place in known or (place == 31 and any(p > first + 32 for p in known))
        bits |= there << (31 - place)
    return bits.to_bytes(4, "big")


def read_supported(first: int, raw: bytes) -> tuple[int, ...]:
    """Return which numbers there are by an answer to the request for them. Raises AnswerError."""
    body = _body(LIVE, raw)
    if len(body) < 5 or body[0] != first:
        raise AnswerError("It does not say which figures it has.")
    bits = int.from_bytes(body[1:5], "big")
    return tuple(first + 1 + place for place in range(32) if bits >> (31 - place) & 1)


def text_answer(what: int, text: str) -> bytes:
    """Return the answer of service 09 with a text: a vehicle number of 17 letters, a calibration of
    16; a name of 20, four for the kind of computer, a hyphen and fifteen.
    """
    letters = text.encode("ascii", "replace")
    if what == 0x0A:
        kind, _, name = letters.partition(b"-")
        padded = kind[:4].ljust(4, b"\0") + b"-" + name[:15].ljust(15, b"\0")
    else:
        is_vehicle = what == 0x02
        padded = letters[:17].rjust(17, b"\0") if is_vehicle else letters[:16].ljust(16, b"\0")
    return bytes([ABOUT + ANSWER, what, 1]) + padded


def read_text(what: int, raw: bytes) -> str:
    """Return the text of an answer of service 09. Raises AnswerError."""
    body = _body(ABOUT, raw)
    if len(body) < 2 or body[0] != what:
        raise AnswerError("It does not say which computer it is.")
    return "".join(chr(one) for one in body[2:] if 32 <= one < 127).strip()


def refusal(service: int, reason: int) -> bytes:
    """Return the answer that refuses."""
    return bytes([REFUSED, service, reason])


def _body(service: int, raw: bytes) -> bytes:
    if len(raw) >= 3 and raw[0] == REFUSED:
        why = REASONS.get(raw[2], f"reason {raw[2]:02X}")
        raise AnswerError(f"The computer refuses service {raw[1]:02X}: {why}.")
    if not raw or raw[0] != service + ANSWER:
        raise AnswerError(f"An answer to something else came: {raw[:8].hex(' ') or 'nothing'}.")
    return raw[1:]
