"""The command that says whether each gauge shows the truth with what moves it."""

import argparse
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, job_at, print_json

if TYPE_CHECKING:
    from molvik.circuits.gauges.matching import Match


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    gauges = commands.add_parser("gauges", help="say whether each gauge shows the truth")
    add_job(gauges)
    gauges.add_argument("--json", action="store_true", help="print JSON")
    gauges.set_defaults(run=_gauges)


def _gauges(parsed: argparse.Namespace) -> int:
    from molvik.circuits.gauges.matching import matches
    from molvik.netlist.network import Network

    found = matches(Network(job_at(parsed.job)))
    if parsed.json:
        print_json({"gauges": [_answer(one) for one in found]})
        return 0
    for one in found:
        source = f" with {one.source}" if one.source else ""
        print(f"{one.gauge} {one.name}{source}: {one.verdict}. {one.says}")
        if one.does:
            print(f"  {one.does}")
    if not found:
        print("There is no gauge in the job.")
    return 0


def _answer(one: "Match") -> dict[str, Any]:
    mended = one.mended
    return {
        "gauge": one.gauge,
        "name": one.name,
        "source": one.source or None,
        "verdict": one.verdict,
        "says": one.says,
        "does": one.does,
        "ratio": one.ratio or None,
        "worst": round(one.worst, 3),
        "errors": [[at, None if off is None else round(off, 3)] for at, off in one.errors],
        "series_ohm": mended.series_ohm if mended else None,
        "beside_ohm": mended.beside_ohm if mended else None,
        "worst_with_them": round(mended.worst, 3) if mended else None,
    }
