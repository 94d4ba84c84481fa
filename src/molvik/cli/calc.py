"""The command for quick sums, without a job."""

import argparse
from typing import TYPE_CHECKING

from molvik.cli.answers import complain, print_json

if TYPE_CHECKING:
    from molvik.sizes.sums import Answer


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    calc = commands.add_parser("calc", help="quick sums: wire, drop, fuse, cable, gauge, bundle, …")
    calc.add_argument(
        "what",
        nargs="+",
        metavar="WHAT",
        help="wire, drop, fuse, cable, charge, gauge, bundle, twist, resistor, power "
        "with its figures, or a line: 14 awg 5 m 12 A",
    )
    for name, text in (
        ("--amps", "current"),
        ("--length", "length: 5 m, 22 in"),
        ("--volts", "voltage"),
        ("--max-drop", "the voltage drop allowed: 3%%"),
        ("--ambient", "air, °C"),
        ("--size", "2.5 mm2"),
    ):
        calc.add_argument(name, metavar="X", help=text)
    calc.add_argument("--json", action="store_true", help="print JSON")
    calc.set_defaults(run=_calc)


def _calc(parsed: argparse.Namespace) -> int:
    from molvik.sizes.quick import quick
    from molvik.sizes.sumline import HELP

    words = list(parsed.what)
    for value, unit in (
        (parsed.size, ""),
        (parsed.length, "m"),
        (parsed.amps, "A"),
        (parsed.volts, "V"),
        (parsed.max_drop, "%"),
        (parsed.ambient, "C"),
    ):
        if value is not None:
            bare = value.replace(".", "", 1).replace(",", "", 1).lstrip("-").isdigit()
            words.append(f"{value} {unit}" if bare else value)
    text = " ".join(words)
    try:
        answer: Answer | None = quick(text)
    except ValueError as error:
        return complain(error)
    if answer is None:
        return complain(f"“{text}” is not a sum. Type for example: {HELP}.")
    if parsed.json:
        print_json(
            {
                "asked": text,
                "answer": answer.line,
                "working": list(answer.working),
                "values": answer.values,
            }
        )
    else:
        print(answer.line)
        for line in answer.working:
            print(f"  {line}")
    return 0
