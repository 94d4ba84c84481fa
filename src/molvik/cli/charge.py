"""The command that plays a day of the vehicle through: alternator, loads, battery."""

import argparse
import math
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json

if TYPE_CHECKING:
    from molvik.circuits.balance import Balance, Drive


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    charge = commands.add_parser("charge", help="say what is left for the battery over a day")
    add_job(charge)
    charge.add_argument(
        "--begin", type=float, default=80.0, metavar="PERCENT", help="charge it begins with, %%"
    )
    charge.add_argument("--json", action="store_true", help="print JSON")
    charge.set_defaults(run=_charge)


def _charge(parsed: argparse.Namespace) -> int:
    from molvik.circuits.balance import drive_of, play

    job = job_at(parsed.job)
    try:
        drive = play(job, drive_of(job), parsed.begin / 100)
    except ValueError as error:
        return complain(str(error))
    if parsed.json:
        print_json(_answer(drive))
    else:
        _print(drive)
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
