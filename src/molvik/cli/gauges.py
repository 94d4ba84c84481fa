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
    from molvik.circuits.gauges.inputs import inputs
    from molvik.circuits.gauges.lamps import lit_lamps
    from molvik.circuits.gauges.matching import matches
    from molvik.netlist.network import Network

    network = Network(job_at(parsed.job))
    found, seen, lit = matches(network), inputs(network), lit_lamps(network)
    if parsed.json:
        print_json(
            {
                "gauges": [_answer(one) for one in found],
                "lamps": [
                    {
                        "lamp": one.lamp,
                        "by": one.source,
                        "key_on": one.key_on,
                        "running": one.running,
                        "verdict": one.verdict,
                        "does": one.does,
                    }
                    for one in lit
                ],
                "inputs": [
                    {
                        "sensor": one.sensor,
                        "computer": one.computer,
                        "volts": [[at, round(volts, 3)] for at, volts in one.volts],
                        "step_k_at_90": round(one.step_k, 3),
                        "taken_for_broken": one.lost,
                        "pull_up_ohm": one.pull_ohm,
                        "best_pull_up_ohm": round(one.best_ohm, 1),
                        "gauges_beside": one.beside,
                    }
                    for one in seen
                ],
            }
        )
        return 0
    for one in found:
        source = f" with {one.source}" if one.source else ""
        print(f"{one.gauge} {one.name}{source}: {one.verdict}. {one.says}")
        for line in filter(None, (one.does, one.law)):
            print(f"  {line}")
    for other in seen:
        print(f"{other.sensor} {other.name} at {other.computer}: {other.says}")
    for lamp in lit:
        print(f"{lamp.lamp} {lamp.name} by {lamp.source}: {lamp.verdict}. {lamp.says}")
        if lamp.does:
            print(f"  {lamp.does}")
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
        "way": one.way or None,
        "law": one.law or None,
        "says": one.says,
        "does": one.does,
        "ratio": one.ratio or None,
        "worst": round(one.worst, 3),
        "errors": [[at, None if off is None else round(off, 3)] for at, off in one.errors],
        "series_ohm": mended.series_ohm if mended else None,
        "beside_ohm": mended.beside_ohm if mended else None,
        "worst_with_them": round(mended.worst, 3) if mended else None,
    }
