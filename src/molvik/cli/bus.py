"""The command that judges the bus: its line, what a meter shows, what modules see, where to tap."""

import argparse
import math
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json

if TYPE_CHECKING:
    from molvik.circuits.bus.eye import Eye
    from molvik.circuits.bus.topology import Bus
    from molvik.netlist.network import Network


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
    from molvik.circuits.bus.topology import buses
    from molvik.netlist.network import Network

    job = job_at(parsed.job)
    network = Network(job)
    found = buses(network)
    if not found:
        return complain(
            "No bus is known in this job: a device of the kind “network node” at each module makes "
            "one, or “CAN high” and “CAN low” in a pinout."
        )
    known = {code for one in found for code in (*(m.code for m in one.members), *one.places)}
    for code in parsed.unplugged:
        if code not in known:
            return complain(f"“{code}” is not on a bus. There is: {', '.join(sorted(known))}.")
    try:
        answers = [_answer(network, one, parsed) for one in found]
    except ValueError as error:
        return complain(str(error))
    if parsed.json:
        print_json({"buses": answers})
    else:
        for answer in answers:
            _print(answer)
    return 0


def _answer(network: "Network", bus: "Bus", parsed: argparse.Namespace) -> dict[str, Any]:
    from molvik.circuits.bus.eye import WhatIf, eye, fastest
    from molvik.circuits.bus.meter import reads
    from molvik.circuits.bus.taps import taps

    what_if = WhatIf(frozenset(parsed.unplugged))
    rate = bus.kbit_s if parsed.rate is None else parsed.rate
    talkers = [one.code for one in bus.talkers if one.code not in what_if.out and not one.half]
    sender = parsed.sender if parsed.sender in talkers or len(talkers) < 2 else ""
    if parsed.sender and parsed.sender not in {one.code for one in bus.members}:
        raise ValueError(f"{parsed.sender} does not talk on this bus.")
    eyes: list[Eye] = []
    if len(talkers) > 1:
        eyes = [eye(bus, one, rate, what_if) for one in ([sender] if sender else talkers)]
    best = fastest(bus, what_if)
    return {
        "bus": bus.key,
        "length_m": round(bus.length_m, 3),
        "kbit_s": rate,
        "unplugged": sorted(what_if.out),
        "unknown_lengths": list(bus.unknown),
        "members": [
            {
                "code": one.code,
                "name": one.name,
                "sort": one.sort,
                "at_m": round(bus.position_m(one.at), 3) if one.at in bus.places else None,
                "stub_m": round(bus.away_m(one.at), 3) if one.at in bus.places else None,
                "terminator": one.terminates,
                "crossed": one.crossed,
                "one_wire": one.half,
            }
            for one in bus.members
        ],
        "meter": [
            {
                "at": at,
                "ohm": None if math.isinf(shown.ohm) else round(shown.ohm, 2),
                "high_v": shown.high_v,
                "low_v": shown.low_v,
                "means": shown.means,
            }
            for at in dict.fromkeys(one.at for one in bus.members)
            for shown in [reads(network, bus, at, what_if.out)]
        ],
        "sees": [
            {
                "sender": made.sender,
                "in_time": made.in_time,
                "module": one.member.code,
                "dominant_v": _rounded(one.dominant_v),
                "recessive_v": _rounded(one.recessive_v),
                "free_v": round(one.free_v, 3),
                "reads_right": one.reads_right,
            }
            for made in eyes
            for one in made.sees
        ],
        "fastest_kbit_s": best.kbit_s if best else None,
        "taps": [
            {
                "at": one.at,
                "name": one.name,
                "stub_m": round(one.stub_m, 3),
                "makes_it_longer": one.at_end,
                "moves_terminator": one.moves,
                "needs": list(one.needs),
                "against": list(one.against),
            }
            for one in taps(network.job, bus)
        ],
    }


def _rounded(volts: float | None) -> float | None:
    return None if volts is None else round(volts, 3) + 0.0


def _print(answer: dict[str, Any]) -> None:
    print(f"Bus of {answer['bus']}: {answer['length_m']:g} m, {answer['kbit_s']:g} kbit/s")
    for one in answer["members"]:
        at = "not on the line" if one["at_m"] is None else f"at {one['at_m']:g} m"
        said = [at]
        if one["stub_m"]:
            said.append(f"stub {one['stub_m']:g} m")
        said += [word for word, is_so in _SAID if one[is_so]]
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
