"""The command that judges the sizes of a job's wires."""

import argparse
import contextlib
import math
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json
from molvik.numbers import read_number
from molvik.parsing.quantities import QuantityError, read_size
from molvik.reference.insulation import INSULATIONS, insulation, read_insulation
from molvik.wording import figures

if TYPE_CHECKING:
    from molvik.analysis import Analysis
    from molvik.model.job import Job
    from molvik.model.parts import Wire


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    size = commands.add_parser(
        "size", help="judge every wire's size, what uses most of its limit first"
    )
    add_job(size)
    size.add_argument("--wire", metavar="W", help="one wire only, with every criterion")
    size.add_argument(
        "--with",
        dest="other",
        metavar="X",
        help="what another wire comes to in its place: '2.5 mm2 C125'",
    )
    size.add_argument("--volts", metavar="V", help="every wire and part at another voltage")
    size.add_argument("--fuses", action="store_true", help="what every fuse has to bear")
    size.add_argument("--json", action="store_true", help="print JSON")
    size.set_defaults(run=_size)


def _size(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis

    job = job_at(parsed.job)
    analysis = Analysis(job)
    if parsed.wire is not None and job.wire(parsed.wire) is None:
        return complain(f"There is no wire {parsed.wire} in the job.")
    if parsed.other is not None:
        return _with(parsed, analysis)
    if parsed.volts is not None:
        return _volts(parsed, analysis)
    if parsed.fuses:
        return _fuses(parsed, analysis)
    return _wires(parsed, analysis)


def _with(parsed: argparse.Namespace, analysis: "Analysis") -> int:
    from molvik.sizes.substitute import in_words, substitute

    if parsed.wire is None:
        return complain("Say for which wire: --wire W12 --with '2.5 mm2 C125'.")
    wire = analysis.network.wires[parsed.wire]
    first, _, last = parsed.other.strip().rpartition(" ")
    text, code = parsed.other, ""
    with contextlib.suppress(ValueError):
        code = read_insulation(last)
        text = first
    try:
        size = read_size(text)
    except QuantityError as error:
        known = ", ".join(INSULATIONS)
        return complain(f"{error} An insulation, if any, comes last: one of {known}.")
    kind = insulation(code or wire.insulation)
    found = substitute(wire.size, analysis.electrics.sizing_cases[wire.code], size, kind)
    facts = in_words(found)
    if parsed.json:
        print_json(
            {
                "wire": wire.code,
                "size": str(size),
                "insulation": kind.code,
                "copper": None if found.copper is None else round(found.copper, 3),
                "class_k": found.class_k,
                "outside_mm": round(found.new_mm, 2),
                "fits": found.fits,
                "passes": found.sizing.passes,
                "will_do": found.will_do,
                "facts": [{"name": name, "says": says} for name, says, _ in facts],
            }
        )
        return 0
    will = "will do" if found.will_do else "will not do"
    print(f"{size} {kind.name} {will} in the place of {wire.code}, {wire.size or 'no size'}.")
    for name, says, _ in facts:
        print(f"  {name}: {says}")
    return 0


def _volts(parsed: argparse.Namespace, analysis: "Analysis") -> int:
    from molvik.electrics import Electrics
    from molvik.sizes.voltage import parts_then, wires_then

    try:
        volts = read_number(parsed.volts.strip().rstrip("vV"), "voltage", "6")
    except ValueError as error:
        return complain(str(error))
    now = analysis.job.settings.system_v
    if not 1 <= volts <= 1000:
        return complain(f"{volts:g} V is outside 1 to 1000 V.")
    if volts == now:
        return complain(f"The job is at {now:g} V already.")
    electrics = analysis.electrics

    def solve(job: "Job") -> Electrics:
        return Electrics(job, electrics)

    wires = wires_then(analysis.job, electrics, volts, "metric", solve)
    parts = parts_then(analysis.job, volts)
    if parsed.wire is not None:
        wires, parts = tuple(wire for wire in wires if wire.wire == parsed.wire), ()
        if not wires:
            return complain(f"What {parsed.wire} carries is not known: type its current.")
    if parsed.json:
        print_json(
            {
                "from_v": now,
                "to_v": volts,
                "wires": [
                    {
                        "wire": wire.wire,
                        "function": wire.function,
                        "now_a": wire.now_a,
                        "then_a": wire.then_a,
                        "drop_now": wire.now,
                        "drop_then": wire.then,
                        "size": str(wire.size) if wire.size else None,
                        "passes": wire.passes,
                        "needs": str(wire.needs) if wire.needs else None,
                        "fails": list(wire.fails),
                    }
                    for wire in wires
                ],
                "parts": [
                    {"code": part.code, "name": part.name, "needs": part.what} for part in parts
                ],
            }
        )
        return 0
    for wire in wires:
        loads = f"{figures(wire.now_a)} A to {figures(wire.then_a)} A"
        print(f"{wire.wire:5} {wire.function:28} {loads} {wire.size or 'no size'}: {wire.says}")
    for part in parts:
        print(f"{part.code:5} {part.name}: {part.what}")
    return 0


def _fuses(parsed: argparse.Namespace, analysis: "Analysis") -> int:
    found = [
        {
            "fuse": code,
            "name": work.fuse.name,
            "rating_a": work.fuse.rating_a,
            "load_a": round(work.load_a, 2),
            "inrush_a": round(work.inrush[0], 1) if work.inrush else None,
            "starter": work.starter or None,
            "bears_inrush": work.bears_inrush,
            "crank_a": round(work.crank_a, 1),
            "bears_cranking": work.bears_cranking,
            "before": work.before.code if work.before else None,
            "alone_up_to_a": None
            if math.isinf(work.alone_up_to_a)
            else round(work.alone_up_to_a, 1),
        }
        for code, work in analysis.electrics.fuse_work.items()
    ]
    if parsed.json:
        print_json({"job": analysis.job.title, "fuses": found})
        return 0
    for fuse in found:
        words = [f"carries {fuse['load_a']:g} A"]
        if fuse["inrush_a"]:
            holds = "holds" if fuse["bears_inrush"] else "may blow"
            words.append(f"{fuse['inrush_a']:g} A when {fuse['starter']} starts: {holds}")
        if fuse["crank_a"]:
            holds = "holds" if fuse["bears_cranking"] else "may blow"
            words.append(f"{fuse['crank_a']:g} A while cranking: {holds}")
        if fuse["before"]:
            most = fuse["alone_up_to_a"]
            up_to = "at any current" if most is None else f"up to {most:g} A"
            first = f"blows before {fuse['before']} {up_to}"
            words.append(first if most != 0 else f"{fuse['before']} may blow first")
        print(f"{fuse['fuse']:5} {fuse['name']:24} {fuse['rating_a']:g} A {'; '.join(words)}")
    return 0


def _told(analysis: "Analysis", wire: "Wire") -> dict[str, Any]:
    """Return what there is to say of a wire's size, as JSON has it."""
    from molvik.sizes.hot import temperature_c
    from molvik.sizes.short import far_short
    from molvik.sizes.wire import smallest

    sizing, requirements = (
        analysis.electrics.sizings.get(wire.code),
        analysis.electrics.sizing_cases[wire.code],
    )
    binding = sizing.binding if sizing else None
    short = far_short(analysis.electrics.network, wire, requirements)
    hot = temperature_c(wire.size, requirements) if wire.size else None
    return {
        "wire": wire.code,
        "function": wire.function,
        "size": str(wire.size) if wire.size else None,
        "passes": sizing.passes if sizing else None,
        "binding": binding.name if binding else None,
        "margin": round(binding.margin, 3) if binding else None,
        "unknown": list(sizing.unknown) if sizing else ["its size"],
        "amps": requirements.load_a,
        "crank_amps": requirements.crank_a,
        "air_c": requirements.ambient_c,
        "bundle": next((lying.name for lying in requirements.lies if lying.name), None),
        "conductor_c": None if hot is None else round(hot, 1),
        "paths": [
            {
                "to": path_asked.loss.device,
                "state": path_asked.loss.state.name,
                "lost_v": round(path_asked.loss.lost_v, 3),
                "worst": path_asked.loss.worst,
            }
            for path_asked in requirements.paths
        ],
        "smallest": {
            "metric": str(smallest(requirements, "metric") or "") or None,
            "awg": str(smallest(requirements, "awg") or "") or None,
        },
        "criteria": [
            {
                "name": c.name,
                "has": c.has,
                "limit": c.limit,
                "margin": round(c.margin, 3),
                "why": c.why,
            }
            for c in (sizing.criteria if sizing else ())
        ],
        "far_short": None
        if short is None
        else {
            "amps": round(short.amps, 1),
            "fuse": short.fuse,
            "opens_s": None if math.isinf(short.opens_s) else round(short.opens_s, 3),
            "stands_s": None if math.isinf(short.stands_s) else round(short.stands_s, 3),
            "guarded": short.guarded,
        },
    }


def _wires(parsed: argparse.Namespace, analysis: "Analysis") -> int:
    from molvik.sizes.sizing_case import used_text

    wires = [wire for wire in analysis.job.wires if parsed.wire in (None, wire.code)]
    found = [_told(analysis, wire) for wire in wires]
    found.sort(key=lambda one: (one["margin"] is None, one["margin"]))
    if parsed.json:
        print_json({"job": analysis.job.title, "wires": found})
        return 0
    for told in found:
        state = {True: "passes", False: "fails", None: "no size"}[told["passes"]]
        used = "" if told["margin"] is None else used_text(told["margin"])
        print(
            f"{told['wire']:5} {told['function']:28} {told['size'] or '':10} {state} on "
            f"{told['binding'] or '–'} {used}"
        )
        if parsed.wire is not None:
            for c in told["criteria"]:
                print(f"      {c['name']}: {c['has']} of {c['limit']}. {c['why']}")
    return 0
