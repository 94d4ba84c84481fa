"""The command that plays a day of the vehicle through: alternator, loads, battery; and tells what
charging reads, and what a change of it takes.
"""

import argparse
import math
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json

if TYPE_CHECKING:
    from molvik.circuits.balance import Balance, Drive
    from molvik.circuits.cranking import Cranking
    from molvik.circuits.excitation import Excitation, Reads
    from molvik.circuits.rundown import Stop
    from molvik.model.job import Job


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    charge = commands.add_parser("charge", help="say what is left for the battery over a day")
    add_job(charge)
    charge.add_argument(
        "--begin", type=float, default=80.0, metavar="PERCENT", help="charge it begins with, %%"
    )
    charge.add_argument(
        "--reads", action="store_true", help="what terminals read, cranking, and the isolator"
    )
    charge.add_argument(
        "--change", metavar="TO", help="what another alternator takes: lamp, resistor, dynamo, …"
    )
    charge.add_argument("--amps", default="", help="rating of the other alternator")
    charge.add_argument("--json", action="store_true", help="print JSON")
    charge.set_defaults(run=_charge)


def _charge(parsed: argparse.Namespace) -> int:
    from molvik.circuits.balance import drive_of, play

    job = job_at(parsed.job)
    if parsed.change:
        return _change(job, parsed)
    if parsed.reads:
        return _reads(job, json=parsed.json)
    try:
        drive = play(job, drive_of(job), parsed.begin / 100)
    except ValueError as error:
        return complain(str(error))
    if parsed.json:
        print_json(_answer(drive))
    else:
        _print(drive)
    return 0


def _reads(job: "Job", *, json: bool) -> int:
    """Print what terminals read, cranking, and what the isolator does."""
    from molvik.circuits.cranking import cranking
    from molvik.circuits.excitation import excitation, reads_words
    from molvik.circuits.rundown import stop
    from molvik.netlist.network import Network

    network = Network(job)
    found, crank, end = excitation(network), cranking(network), stop(network)
    said = [*reads_words(found)] if found is not None else []
    said += [*(crank.says if crank is not None else ()), *(end.says if end is not None else ())]
    if not json:
        print("\n".join(said) or "There is nothing that charges, starts or isolates in the job.")
        return 0
    print_json(
        {
            "excitation": None if found is None else _excitation(found),
            "cranking": None if crank is None else _cranking(crank),
            "isolator": None if end is None else _isolator(end),
        }
    )
    return 0


def _excitation(found: "Excitation") -> dict[str, Any]:
    from molvik.circuits.excitation import NAMES

    def reads(one: "Reads") -> dict[str, Any]:
        volts = [None if volt is None else round(volt, 2) for volt in one.volts]
        names = [name.replace(" ", "_") for name in NAMES]
        return {"at": one.place, **dict(zip(names, volts, strict=True))}

    return {
        "says": found.says,
        "excited_at": found.at or None,
        "amps": round(found.amps, 4),
        "least_a": found.least_a,
        "least_is_typed": found.least_is_typed,
        "way": list(found.way),
        "charges": found.sound.charges,
        "reads": [reads(one) for one in found.reads],
        "broken": [
            {
                "code": one.code,
                "lamp_key_on": one.key_on or None,
                "lamp_running": one.running or None,
                "battery_v": round(one.battery_v, 2),
                "charges": one.charges,
            }
            for one in found.broken
        ],
    }


def _cranking(crank: "Cranking") -> dict[str, Any]:
    return {
        "turns": crank.turns,
        "amps": round(crank.amps, 1),
        "amps_are_typed": crank.is_typed,
        "battery_v": round(crank.battery_v, 2),
        "motor_v": round(crank.motor_v, 2),
        "lost_to_it_v": round(crank.plus_v, 3),
        "lost_back_v": round(crank.earth_v, 3),
        "key_a": None if crank.key_a is None else round(crank.key_a, 2),
        "left": [
            {"code": one.code, "volts": round(one.volts, 2), "state": one.state}
            for one in crank.left
        ],
    }


def _isolator(end: "Stop") -> dict[str, Any]:
    down = end.run_down
    taken = (
        {
            "code": down.code,
            "peak_v": round(down.peak_v, 1),
            "pulse_j": round(down.pulse_j, 1),
            "held_w": round(down.held_w, 1),
            "kelvins": round(down.kelvins, 1),
        }
        if down is not None
        else None
    )
    return {"stops": end.stops if end.known else None, "by": list(end.by), "run_down": taken}


def _change(job: "Job", parsed: argparse.Namespace) -> int:
    """Print what another alternator takes, step by step; nothing is changed."""
    from molvik.blocks.arrangements import lay
    from molvik.logbook.rework import rework, takes_lines

    try:
        after = lay(job, "Another alternator", {"by": parsed.change, "amps": parsed.amps})
    except ValueError as error:
        return complain(str(error))
    work = rework(job, after, job.stock)
    takes = takes_lines(work.cost, job.settings)
    if parsed.json:
        steps = [{"do": one.verb, "code": one.code or None, "text": one.text} for one in work.steps]
        print_json({"steps": steps, "takes": takes, "hours": round(work.cost.hours, 2)})
    else:
        print("\n".join((*work.lines, "", *takes)))
    return 0


def _answer(drive: "Drive") -> dict[str, Any]:
    every = max(1, len(drive.minutes) // 100)
    return {
        "begins_with": round(drive.charge[0], 4),
        "ends_with": round(drive.charge[-1], 4),
        "empty_min": None if drive.empty_min is None else round(drive.empty_min, 1),
        "not_typed": list(drive.taken),
        "parts": [_part(one) for one in drive.balances],
        "course": [
            {"minute": round(minute, 2), "charge": round(charge, 4), "volts": round(volts, 2)}
            for minute, charge, volts in list(
                zip(drive.minutes, drive.charge, drive.volts, strict=True)
            )[::every]
        ],
    }


def _part(one: "Balance") -> dict[str, Any]:
    return {
        "name": one.leg.name,
        "minutes": one.leg.minutes,
        "rpm": one.leg.rpm,
        "drawn_a": round(one.loads_a, 2),
        "given_a": round(one.can_a, 2),
        "left_a": round(one.left_a, 2),
        "alternator_v": round(one.set_v, 2) if one.leg.rpm else None,
        "battery_v": round(one.battery_v, 2),
        "rating_that_does_a": None if math.isinf(one.rating_a) else round(one.rating_a, 1),
        "pulleys_that_do": one.pulleys,
        "loads": [
            {
                "code": draw.device,
                "name": draw.name,
                "amps": round(draw.amps, 3),
                "share": round(draw.share, 3),
                "typed": draw.typed,
            }
            for draw in one.draws
        ],
    }


def _print(drive: "Drive") -> None:
    for one in drive.balances:
        given = f"{one.can_a:.0f} A given" if one.leg.rpm else "key off"
        print(
            f"{one.leg.name}, {one.leg.minutes:g} min: {one.loads_a:.1f} A drawn, {given}, "
            f"{one.left_a:+.1f} A for the battery, {one.battery_v:.1f} V at it"
        )
        for draw in one.draws[:6]:
            if draw.mean_a >= 0.05:
                print(f"  {draw.mean_a:6.1f} A  {draw.device:5} {draw.name}, {draw.share:.0%}")
    for words in drive.taken:
        print(f"Taken, for it is not typed: {words}.")
    print(f"Begins with {drive.charge[0]:.0%}, ends with {drive.charge[-1]:.0%}.")
    if drive.empty_min is not None:
        print(f"Turns no engine any more after {drive.empty_min / 60:.1f} h.")
