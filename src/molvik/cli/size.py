"""The command that judges the sizes of a job's wires."""

import argparse
import math
from pathlib import Path
from typing import Any

from molvik.cli.answers import complain, print_json


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    size = commands.add_parser("size", help="judge every wire's size, the least in hand first")
    size.add_argument("job", type=Path, metavar="JOB")
    size.add_argument("--wire", metavar="W", help="one wire only, with every criterion")
    size.add_argument("--json", action="store_true", help="print JSON")
    size.set_defaults(run=_size)


def _size(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.files.package import JobFileError, open_job
    from molvik.sizes.short import far_short
    from molvik.sizes.wire import smallest

    try:
        job = open_job(parsed.job)
    except JobFileError as error:
        return complain(error)
    analysis = Analysis(job)
    if parsed.wire is not None and job.wire(parsed.wire) is None:
        return complain(f"There is no wire {parsed.wire} in the job.")
    found: list[dict[str, Any]] = []
    for wire in job.wires:
        if parsed.wire not in (None, wire.code):
            continue
        sizing, asked = analysis.sizings.get(wire.code), analysis.questions[wire.code]
        binding = sizing.binding if sizing else None
        short = far_short(analysis.network, wire)
        found.append(
            {
                "wire": wire.code,
                "function": wire.function,
                "size": str(wire.size) if wire.size else None,
                "passes": sizing.passes if sizing else None,
                "binding": binding.name if binding else None,
                "in_hand": round(binding.in_hand, 3) if binding else None,
                "unknown": list(sizing.unknown) if sizing else ["its size"],
                "smallest": {
                    "metric": str(smallest(asked, "metric") or "") or None,
                    "awg": str(smallest(asked, "awg") or "") or None,
                },
                "criteria": [
                    {"name": c.name, "has": c.has, "limit": c.limit,
                     "in_hand": round(c.in_hand, 3), "why": c.why}
                    for c in (sizing.criteria if sizing else ())
                ],
                "far_short": None if short is None else {
                    "amps": round(short.amps, 1),
                    "fuse": short.fuse,
                    "opens_s": None if math.isinf(short.opens_s) else round(short.opens_s, 3),
                    "stands_s": None if math.isinf(short.stands_s) else round(short.stands_s, 3),
                    "guarded": short.guarded,
                },
            }
        )  # fmt: skip
    found.sort(key=lambda one: (one["in_hand"] is None, one["in_hand"]))
    if parsed.json:
        print_json({"job": job.title, "wires": found})
        return 0
    for one in found:
        state = {True: "passes", False: "fails", None: "no size"}[one["passes"]]
        hand = f"{one['in_hand']:.0%} in hand" if one["in_hand"] is not None else ""
        print(f"{one['wire']:5} {one['function']:28} {one['size'] or '':10} {state} on "
              f"{one['binding'] or '–'} {hand}")  # fmt: skip
        if parsed.wire is not None:
            for c in one["criteria"]:
                print(f"      {c['name']}: {c['has']} of {c['limit']}. {c['why']}")
    return 0
