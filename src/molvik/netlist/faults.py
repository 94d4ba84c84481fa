"""What can be broken to see what comes of it; nothing in the job changes."""

import re

from molvik.devices.states import EARTH, Fault
from molvik.model.job import Job
from molvik.model.parts import Connector, Device, EarthPoint, End, Fuse
from molvik.model.refs import Ref
from molvik.parsing.quantities import read_ohm

HOW = (
    "Type what is broken: W12 (off or out), short W12 earth, short W12 W13, swap C3/5 C3/6, "
    "bad W12 2 (ohms), stuck K1"
)


def in_words(fault: Fault, job: Job) -> str:
    """Return a fault in the words of the bench."""
    match fault.kind:
        case "short" if fault.other == EARTH:
            return f"{fault.at} is shorted to earth"
        case "short":
            return f"{fault.at} is shorted to {fault.other}"
        case "swap":
            return f"{fault.at} and {fault.other} are swapped"
        case "bad":
            return f"{fault.at} has {fault.ohm:g} Ω too many"
        case "stuck":
            return f"{fault.at} is stuck, pulled in"
        case "load":
            other = f" and {fault.other}" if fault.other else " and the battery"
            return f"{fault.ohm:g} Ω lie between {fault.at}{other}"
        case _:
            part = job.part(fault.at)
            if isinstance(part, Connector):
                return f"{fault.at} is unplugged"
            gone = "is out" if isinstance(part, Fuse | Device) else "is off"
            return f"{fault.at} {gone}"


def offered(code: str, job: Job) -> tuple[Fault, ...]:
    """Return what can be broken of a wire or part that is pointed at."""
    if job.wire(code) is not None:
        return Fault("open", code), Fault("short", code, EARTH), Fault("bad", code, "", 2.0)
    part = job.part(code)
    if isinstance(part, Device) and part.kind == "relay":
        return Fault("open", code), Fault("stuck", code)
    if isinstance(part, Device | Fuse | Connector):
        return (Fault("open", code),)
    if isinstance(part, EarthPoint):
        return Fault("open", code), Fault("bad", code, "", 2.0)
    return ()


def read_fault(text: str, job: Job) -> Fault:
    """Return the fault that is typed; ValueError says what cannot be broken so."""
    words = text.replace(", ", " ").replace(",", ".").split()
    if not words:
        raise ValueError(HOW)
    verbs = ("open", "short", "swap", "bad", "stuck")
    verb = words.pop(0).lower() if words[0].lower() in verbs else "open"
    at = _known(words[0], job) if words else ""
    other = words[1] if len(words) > 1 else ""
    if not at or len(words) > (1 if verb in ("open", "stuck") else 3 if verb == "bad" else 2):
        raise ValueError(f"“{text}” is not understood. {HOW}.")
    match verb:
        case "open" if "/" in at:
            raise ValueError(f"{at} is a cavity: take its wire off, or swap two cavities.")
        case "open":
            return Fault("open", at)
        case "short":
            if job.wire(at) is None:
                raise ValueError(
                    f"{at} is not a wire: a wire is shorted to earth or to another wire."
                )
            if other.lower() in ("", "earth", "ground"):
                return Fault("short", at, EARTH)
            if job.wire(_known(other, job)) is None:
                raise ValueError(f"{other} is not a wire: name a wire, or earth.")
            return Fault("short", at, _known(other, job))
        case "swap":
            found = _known(other, job) if other else ""
            if "/" not in at or "/" not in found or at == found:
                raise ValueError("Two cavities are swapped: swap C3/5 C3/6.")
            return Fault("swap", at, found)
        case "bad":
            ohm = read_ohm("".join(words[1:])) if other else 1.0
            if ohm is None:
                return Fault("open", at)
            if job.wire(at) is None and "/" not in at and isinstance(job.part(at), Device):
                raise ValueError(f"{at} is a device: name the wire, cavity, fuse or earth point.")
            return Fault("bad", at, "", ohm)
        case _:
            part = job.part(at)
            if not isinstance(part, Device) or part.kind != "relay":
                raise ValueError(f"{at} is not a relay: only a relay sticks.")
            return Fault("stuck", at)


def _known(word: str, job: Job) -> str:
    """Return a code or a cavity as the job writes it."""
    codes = {one.code.upper(): one.code for one in (*job.wires, *job.parts())}
    code, cavity, _ = Ref.parse(word)
    if code.upper() not in codes:
        raise ValueError(f"There is no {word} in the job to be broken.")
    return str(End(codes[code.upper()], cavity)) if re.search("/.", word) else codes[code.upper()]
