"""Codes of an engine computer: which are harmless because of what was left out, and what the others
tell of. Flash codes are counted off a lamp.
"""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

from molvik.model.job import Job, LeftOut, Reading
from molvik.model.parts import Device, End
from molvik.model.refs import end_text
from molvik.netlist.network import Network
from molvik.parsing.functions.telling import telling
from molvik.proving.computer import Watch, computers, watches
from molvik.proving.faultsimulator import FaultSimulator
from molvik.proving.observations import Observation
from molvik.proving.points import Point
from molvik.reference.troublecodes import (
    CODE,
    FAMILIES,
    LEFT_OUT,
    LeftOutThing,
    is_standard,
    within,
)
from molvik.wording import some

HOW = "P0118 P0335, or none"
MOST_CODES = 1000
FLASHED = re.compile(r"\d{1,3}")


def read_codes(text: str) -> tuple[str, ...]:
    """Return the codes that are typed, each once: "P0118, 0335", or none; of two or three figures,
    "21", those that a lamp flashes. Raises ValueError.
    """
    words = [word for word in re.split(r"[\s,;]+", text.strip().upper()) if word]
    if words in ([], ["NONE"], ["NO", "CODES"]):
        return ()
    found: dict[str, None] = {}
    for word in words:
        code = f"P{word}" if re.fullmatch(r"\d{4}", word) else word
        if not (CODE.fullmatch(code) or FLASHED.fullmatch(code)):
            raise ValueError(f"“{word[:20]}” is not a code. Type for example {HOW}.")
        found[code] = None
    if len(found) > MOST_CODES:
        raise ValueError(f"{len(found)} codes are more than any computer keeps.")
    return tuple(found)


def codes_of(reading: Reading) -> tuple[str, ...]:
    """Return the codes of a reading of codes."""
    return tuple(reading.said.split())


def last_codes(readings: Iterable[Reading], computer: str = "") -> Reading | None:
    """Return the last reading of codes, of one computer or of any."""
    found = None
    for reading in readings:
        if reading.of == "codes" and computer in ("", reading.points[0].at):
            found = reading
    return found


Meaning = Literal["harmless", "genuine", "the maker's own"]


class CodeVerdict(NamedTuple):
    """What a code means. words: what it is about; why: it is harmless, or what to look at; on: the
    code of the part it is about, empty where nobody knows.
    """

    code: str
    meaning: Meaning
    words: str
    why: str
    on: str = ""


def judge_codes(network: Network, codes: Sequence[str]) -> tuple[CodeVerdict, ...]:
    """Return what each of some codes means in a job: genuine ones first."""
    watched = {
        code: (computer, watch)
        for computer in computers(network)
        for watch in watches(network, computer)
        for code in watch.codes[:3]
        if code
    }
    wired = wired_things(network)
    found = [_judged(network.job, code, watched.get(code), wired) for code in codes]
    order: dict[Meaning, int] = {"genuine": 0, "the maker's own": 1, "harmless": 2}
    return tuple(sorted(found, key=lambda one: (order[one.meaning], one.code)))


def _judged(
    job: Job, code: str, watched: tuple[Device, Watch] | None, wired: Mapping[str, str]
) -> CodeVerdict:
    left = next((one for one in job.left_out if covers(one, code)), None)
    words = _about(code)
    where = ""
    if left is not None and left.thing != code:
        # What is wired is there, whatever was said of it: its fault is a fault.
        at = end_text(watched[0].plug, watched[1].cavity) if watched else ""
        where = wired.get(left.thing, "") or at
        left = None if where else left
    if FLASHED.fullmatch(code) and left is None:
        look = "Look it up in the maker's list of flash codes; let it stay here if it is harmless."
        return CodeVerdict(code, "the maker's own", "counted off the lamp", look)
    if left is not None:
        known = LEFT_OUT.get(left.thing)
        why = left.reason or (known.why if known else "")
        if watched is not None:
            why += f" It is wired, at {watched[0].plug}/{watched[1].cavity}: be sure."
        said = "may stay" if left.thing == code else f"{left.thing}, left out"
        return CodeVerdict(code, "harmless", said, why)
    if watched is not None:
        computer, watch = watched
        look = _look(computer, watch, code) + (LEFT_BUT_WIRED if where else "")
        return CodeVerdict(code, "genuine", _circuit(job, watch, code), look, watch.device)
    if where:
        look = f"It was said to be left out, and a wire goes to it at {where}: look there."
        return CodeVerdict(code, "genuine", words, look)
    if not is_standard(code):
        look = "Look it up in the maker's list; enter it as left out if it is harmless."
        return CodeVerdict(code, "the maker's own", "a code of the computer's maker", look)
    look = "The job does not say more: enter the part, and what the computer's cavities are for."
    thing = next((one for one in LEFT_OUT.values() if within(code, one.codes)), None)
    if thing is not None:
        words = words if words != UNKNOWN else thing.name
        look = f"Harmless if “{thing.name}” was left out on purpose: say so below. Else: genuine."
    return CodeVerdict(code, "genuine", words, look)


UNKNOWN = "not in this list: look it up for your engine"


def _about(code: str) -> str:
    return next((words for span, words in FAMILIES if within(code, (span,))), UNKNOWN)


def _circuit(job: Job, watch: Watch, code: str) -> str:
    if watch.kind == "supply":
        return (
            "the computer's supply is too low"
            if code == watch.codes.low
            else ("the computer's supply is too high")
        )
    name = next((d.name for d in job.devices if d.code == watch.device), watch.thing)
    how = {watch.codes.low: "too little", watch.codes.high: "too much"}.get(code, "nothing")
    if watch.kind == "driver":
        return f"{name}: circuit open, or shorted to earth or to battery positive"
    return f"{name} shows {how}"


def _look(computer: Device, watch: Watch, code: str) -> str:
    at = end_text(computer.plug, watch.cavity)
    match watch.kind:
        case "sender":
            said = (
                "a wire off, or its return" if code == watch.codes.high else "is shorted to earth"
            )
        case "wiper":
            said = (
                "its return is off"
                if code == watch.codes.high
                else ("its 5 V or its signal is open, or shorted to earth")
            )
        case "pickup":
            said = "a wire off, polarity, gap, screen"
        case "driver":
            said = "its feed, the part, the wire to the computer"
        case _:
            return f"Measure at {at} against the battery's plus and minus, under load."
    return f"From {at} on: {said}."


LEFT_BUT_WIRED = " It was said to be left out, but it is wired."


def wired_things(network: Network) -> dict[str, str]:
    """Return the things that may be left out and are not: where a wire goes to them at a computer's
    plug, by their names.
    """
    plugs = {computer.plug for computer in computers(network)}
    ends = {end for wire in network.job.wires for end in wire.ends}
    found: dict[str, str] = {}
    for plug in network.job.connectors:
        for pin in plug.pins if plug.code in plugs else ():
            if pin.function and End(plug.code, pin.cavity) in ends:
                words, numbers = telling(pin.function)
                said = words | set(numbers)
                for name in _said(said):
                    found.setdefault(name, f"{end_text(plug.code, pin.cavity)} {pin.function}")
    return found


def _said(words: frozenset[str] | set[str]) -> frozenset[str]:
    """Return the things that a pinout names by some words: those it names most closely, the vent of
    a canister rather than its purge valve.
    """
    named: dict[int, set[str]] = {}
    for thing in LEFT_OUT.values():
        sizes = [len(one) for one in thing.says if words >= set(one)]
        if sizes:
            named.setdefault(max(sizes), set()).add(thing.name)
    return frozenset(named[max(named)] if named else ())


def covers(left: LeftOut, code: str) -> bool:
    """Return whether a code stays because a thing is left out."""
    known = LEFT_OUT.get(left.thing)
    return within(code, (*left.codes, *(known.codes if known else ())))


def offered(network: Network) -> tuple[tuple[LeftOutThing, str], ...]:
    """Return the things that may be left out, with why each is thought of: those a pinout names and
    no wire goes to first.
    """
    wired = {end for wire in network.job.wires for end in wire.ends}
    unwired: list[tuple[frozenset[str], str]] = []
    for plug in network.job.connectors:
        for pin in plug.pins:
            if pin.function and End(plug.code, pin.cavity) not in wired:
                words, numbers = telling(pin.function)
                where = f"{end_text(plug.code, pin.cavity)} {pin.function}: no wire"
                unwired.append((words | set(numbers), where))
    found = [(thing, _named(thing, unwired)) for thing in LEFT_OUT.values()]
    return tuple(sorted(found, key=lambda one: not one[1]))


def _named(thing: LeftOutThing, unwired: list[tuple[frozenset[str], str]]) -> str:
    """Return where a thing stands in a pinout, empty for nowhere."""
    return next((where for words, where in unwired if thing.name in _said(words)), "")


def codes_of_left_out(job: Job) -> tuple[str, ...]:
    """Return the codes that a computer commonly sets for what is left out, and those typed."""
    found = []
    for left in job.left_out:
        known = LEFT_OUT.get(left.thing)
        found += [*left.codes, *(known.sets if known else ())]
    return tuple(code for code in dict.fromkeys(found) if CODE.fullmatch(code))


def harmless_words(job: Job) -> tuple[str, ...]:
    """Return what is left out on purpose, with the codes that stay, for a report."""
    found = []
    for left in job.left_out:
        known = LEFT_OUT.get(left.thing)
        codes = (*left.codes, *(known.codes if known else ()))
        why = left.reason or (known.why if known else "")
        found.append(f"{left.thing} ({some(codes, 6)}): {why}")
    return tuple(found)


# as evidence


def code_evidence(simulator: FaultSimulator, reading: Reading) -> Iterator[Observation]:
    """Yield what a reading of codes says of each circuit that its computer watches: a code is set,
    or it is not. What somebody judged harmless says nothing, nor that there is none of the supply:
    it is set late. What is watched is wired, so that it is not a thing left out.
    """
    read, at = set(codes_of(reading)), reading.points[0].at
    job = simulator.network.job
    for watch in simulator.watched(at):
        for code in filter(None, watch.codes[:3]):
            if watch.kind == "supply" and code not in read:
                continue
            if not any(left.thing == code for left in job.left_out):
                shown = "set" if code in read else "not set"
                yield Observation(Point.of("code", End(at, code), End(), "run"), shown)


# counted off a lamp

LONG_S, GAP_S, PAUSE_S = 0.9, 1.6, 4.0
"""A flash of so long is a ten; after so long the next figure, or the next code, begins (common
practice; makers differ)."""


def flash_codes(taps: Sequence[tuple[float, float]]) -> tuple[str, ...]:
    """Return the codes counted off a lamp. taps: when a key went down and up with each flash, s.

    Figures are counted flash by flash with a gap between figures and a pause between codes; where
    some flashes are long, these are the tens (common practice).
    """
    if not taps:
        return ()
    codes: list[list[tuple[float, float]]] = [[taps[0]]]
    for before, tap in pairwise(taps):
        if tap[0] - before[1] >= PAUSE_S:
            codes.append([])
        codes[-1].append(tap)
    return tuple(_flashed(some) for some in codes)


def _flashed(taps: list[tuple[float, float]]) -> str:
    long = sum(up - down >= LONG_S for down, up in taps)
    if long:
        return f"{long}{len(taps) - long}"
    figures = [1]
    for before, tap in pairwise(taps):
        if tap[0] - before[1] >= GAP_S:
            figures.append(0)
        figures[-1] += 1
    return "".join(str(figure % 10) for figure in figures)
