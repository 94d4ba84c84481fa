"""The command that judges the bus: its line, what a meter shows, what modules see, where to tap."""

import argparse
import math
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, analysed, complain, job_at, print_json

if TYPE_CHECKING:
    from molvik.circuits.bus.eye import WhatIf
    from molvik.circuits.bus.topology import Bus
    from molvik.model.job import Job


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    bus = commands.add_parser("bus", help="judge the bus: line, terminators, wave, places to tap")
    add_job(bus)
    bus.add_argument(
        "--unplugged",
        action="append",
        default=[],
        metavar="CODE",
        help="what is unplugged; may be given again",
    )
    bus.add_argument("--rate", type=float, metavar="KBIT", help="bit rate, kbit/s")
    bus.add_argument("--sender", metavar="CODE", help="which module sends the bit")
    bus.add_argument("--json", action="store_true", help="print JSON")
    bus.set_defaults(run=_bus)


def _bus(parsed: argparse.Namespace) -> int:
    job = job_at(parsed.job)
    found = analysed(job).buses
    if not found:
        return complain(
            "No bus is known in this job: a device of the kind “network node” at each module makes "
            "one, or “CAN high” and “CAN low” in a pinout."
        )
    known = {code for one in found for code in (*(m.code for m in one.members), *one.places)}
    for code in parsed.unplugged:
        if code not in known:
            return complain(f"“{code}” is not on a bus. There is: {', '.join(sorted(known))}.")
    if parsed.sender and not any(parsed.sender == m.code for one in found for m in one.talkers):
        return complain(f"“{parsed.sender}” does not talk on a bus.")
    try:
        answers = [_answer(job, one, parsed) for one in found]
    except ValueError as error:
        return complain(str(error))
    if parsed.json:
        print_json({"buses": answers})
    else:
        for answer in answers:
            _print(answer)
    return 0


def _answer(job: "Job", bus: "Bus", parsed: argparse.Namespace) -> dict[str, Any]:
    """Return all that is said of a bus. Raises ValueError for a rate that is none."""
    from molvik.circuits.bus.eye import WhatIf, fastest

    what_if = WhatIf(frozenset(parsed.unplugged))
    rate = bus.kbit_s if parsed.rate is None else parsed.rate
    best = fastest(bus, what_if)
    return {
        "bus": bus.key,
        "length_m": round(bus.length_m, 3),
        "kbit_s": rate,
        "kbit_s_is_typed": bus.said_kbit_s is not None,
        "unplugged": sorted(what_if.out),
        "unknown_lengths": list(bus.unknown),
        "members": _members(job, bus),
        "meter": _meter(bus, what_if),
        "sees": _sees(bus, parsed.sender, rate, what_if),
        "fastest_kbit_s": best.kbit_s if best else None,
        "taps": _taps(job, bus),
    }


def _members(job: "Job", bus: "Bus") -> list[dict[str, Any]]:
    from molvik.circuits.bus.power import power
    from molvik.netlist.network import Network

    fed = {one.code: one for one in power(Network(job), bus)}
    return [
        {
            "code": one.code,
            "name": one.name,
            "sort": one.sort,
            "at_m": round(bus.position_m(one.at), 3) if one.at in bus.places else None,
            "stub_m": round(bus.away_m(one.at), 3) if one.at in bus.places else None,
            "terminator": one.terminates,
            "crossed": one.crossed,
            "one_wire": one.half,
            "power": fed[one.code].says if one.code in fed else None,
        }
        for one in bus.members
    ]


def _meter(bus: "Bus", what_if: "WhatIf") -> list[dict[str, Any]]:
    from molvik.circuits.bus.meter import reads

    return [
        {
            "at": at,
            "ohm": None if math.isinf(shown.ohm) else round(shown.ohm, 2),
            "high_v": shown.high_v,
            "low_v": shown.low_v,
            "means": shown.means,
        }
        for at in dict.fromkeys(one.at for one in bus.members)
        for shown in [reads(bus, at, what_if.out)]
    ]


def _sees(bus: "Bus", sender: str | None, rate: float, what_if: "WhatIf") -> list[dict[str, Any]]:
    """Return what modules see of a bit: of one sender, or of each where it is not on this bus."""
    from molvik.circuits.bus.eye import eyes

    talkers = [one.code for one in bus.talkers if one.code not in what_if.out and not one.half]
    senders = [sender] if sender in talkers else talkers
    return [
        {
            "sender": made.sender,
            "in_time": made.in_time,
            "module": one.member.code,
            "dominant_v": _rounded(one.dominant_v),
            "recessive_v": _rounded(one.recessive_v),
            "free_v": round(one.free_v, 3),
            "reads_right": one.reads_right,
        }
        for made in (eyes(bus, senders, rate, what_if) if len(talkers) > 1 else ())
        for one in made.sees
    ]


def _taps(job: "Job", bus: "Bus") -> list[dict[str, Any]]:
    from molvik.circuits.bus.taps import taps

    return [
        {
            "at": one.at,
            "name": one.name,
            "way": one.way,
            "stub_m": round(one.stub_m, 3),
            "makes_it_longer": one.at_end,
            "moves_terminator": one.moves,
            "needs": list(one.needs),
            "against": list(one.against),
        }
        for one in taps(job, bus)
    ]


def _rounded(volts: float | None) -> float | None:
    return None if volts is None else round(volts, 3) + 0.0


def _print(answer: dict[str, Any]) -> None:
    print(f"Bus of {answer['bus']}: {answer['length_m']:g} m, {answer['kbit_s']:g} kbit/s")
    if not answer["kbit_s_is_typed"]:
        print("  no bit rate is typed at any of its modules: type it, or try another with --rate")
    for one in answer["members"]:
        at = "not on the line" if one["at_m"] is None else f"at {one['at_m']:g} m"
        said = [at]
        if one["stub_m"]:
            said.append(f"stub {one['stub_m']:g} m")
        said += [word for word, is_so in _SAID if one[is_so]]
        said += [one["power"]] if one["power"] else []
        print(f"  {one['code']:5} {one['name']:26} {', '.join(said)}")
    for one in answer["meter"]:
        ohm = "open" if one["ohm"] is None else f"{one['ohm']:g} ohm"
        print(f"  meter at {one['at']}: {ohm}. {one['means']}")
    for one in answer["sees"]:
        if one["dominant_v"] is None:
            print(f"  {one['sender']} sends: {one['module']} sees no bit at all")
            continue
        verdict = "reads it" if one["reads_right"] else "MISREADS it"
        print(
            f"  {one['sender']} sends: {one['module']} sees {one['dominant_v']:.2f} V and "
            f"{one['recessive_v']:.2f} V, {verdict}, {one['free_v']:.2f} V left"
        )
    if answer["fastest_kbit_s"]:
        print(f"  works up to {answer['fastest_kbit_s']:g} kbit/s (simulated: a judgement aid)")
    elif answer["sees"]:
        print("  works at no usual bit rate (simulated: a judgement aid)")
    for number, one in enumerate(answer["taps"], 1):
        against = f"; but {'; '.join(one['against'])}" if one["against"] else ""
        print(f"  tap {number}: {one['at']} {one['name']}: {'; '.join(one['needs'])}{against}")


_SAID = (("terminator", "terminator"), ("CROSSED", "crossed"), ("ONE WIRE ONLY", "one_wire"))
