"""Routing: how long each wire is cut, and what lies in each stretch."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, analysed, complain, job_at, print_json
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text
from molvik.wording import counted

if TYPE_CHECKING:
    from molvik.analysis import Analysis


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    route = commands.add_parser("route", help="list routes, cut lengths and what lies where")
    add_job(route)
    route.add_argument("--json", action="store_true", help="print JSON")
    route.set_defaults(run=_route)
    board = commands.add_parser("board", help="write a loom to build at full size")
    add_job(board)
    board.add_argument("--out", required=True, help="FILE.pdf, FILE.svg or FILE.dxf")
    board.add_argument("--paper", default="A4", help="A4 to A0, Letter or roll 914, for a PDF")
    board.add_argument("--names", action="store_true", help="names only, no tables at the plugs")
    board.add_argument("--pegs", action="store_true", help="print where pins and forks go")
    board.add_argument("--loom", default="", help="its code; the first loom without one")
    board.add_argument("--overwrite", action="store_true", help="replace a file that is there")
    board.set_defaults(run=_board)


def _route(parsed: argparse.Namespace) -> int:

    analysis = analysed(job_at(parsed.job))
    answer = _answer(analysis)
    if parsed.json:
        print_json(answer)
        return 0
    if not answer["looms"]:
        print("No loom is laid out in this job: see Routing.")
        return 0
    for loom in answer["looms"]:
        print(
            f"{loom['loom']} {loom['name']}: "
            f"{counted(loom['stretches'], 'stretch', 'stretches')}, {loom['length_m']} m"
        )
    for run in answer["stretches"]:
        length = "length not known" if run["length_m"] is None else f"{run['length_m']:.2f} m"
        print(
            f"{run['stretch']} {run['from']} to {run['to']}: {length}, "
            f"{counted(len(run['wires']), 'wire')}, {run['over_mm']:.1f} mm over all, "
            f"{run['air_c']:.0f} °C"
        )
    for wire in answer["wires"]:
        if wire["problem"]:
            print(f"{wire['wire']}: {wire['problem']}")
        elif wire["cut_m"] is not None:
            now = "" if wire["now_m"] is None else f", the job has {wire['now_m']:.2f} m"
            print(f"{wire['wire']}: cut length {wire['cut_m']:.2f} m, {' '.join(wire['way'])}{now}")
    for number, step in enumerate(answer["assembly"]["steps"], 1):
        what = f"slide on {step['what']}" if step["what"] else "close"
        print(f"{number}. {what} {step['at']}, from {' '.join(step['from'])}")
    for stuck in answer["assembly"]["stuck"]:
        print(f"{stuck['what']} of {stuck['at']} cannot be slid on any more")
    for cover in answer["coverings"]:
        short = f", {cover['short_m']:.2f} m short" if cover["short_m"] else ""
        print(f"{cover['covering']} {cover['size']}: {cover['amount_m']:.2f} m{short}")
    for problem in answer["problems"]:
        print(problem)
    return 0


def _board(parsed: argparse.Namespace) -> int:
    from molvik.files.board import board_bytes

    analysis = analysed(job_at(parsed.job))
    looms = analysis.job.routing.looms
    path = Path(parsed.out)
    if path.exists() and not parsed.overwrite:
        return complain(f"{path.name} is there already; say --overwrite if it may be replaced.")
    try:
        loom = parsed.loom or (looms[0].code if looms else "")
        sheet = analysis.board_sheet(loom, now_text()[:10], tables=not parsed.names)
        made = board_bytes(sheet, path.suffix, parsed.paper)
    except ValueError as error:
        return complain(str(error))
    write_file(path, made)
    for peg in sheet.pegs if parsed.pegs else ():
        print(f"{peg.x_mm:8.1f} {peg.y_mm:8.1f}  {peg.kind:7} {peg.what}")
    size = f"{sheet.width_mm:.0f} by {sheet.height_mm:.0f} mm"
    print(f"{sheet.board.name}, {size}, written to {path}")
    return 0


def _answer(analysis: "Analysis") -> dict[str, Any]:
    """Return the routing as JSON has it. Lengths in m, diameters in mm, temperatures in deg C."""
    routing, graph = analysis.job.routing, analysis.electrics.ways.graph
    names = {joint.code: joint.name for joint in routing.joints}
    of = {joint.code: joint.loom for joint in routing.joints}
    looms = []
    for loom in routing.looms:
        runs = [run for run in routing.runs if loom.code in (of.get(run.start), of.get(run.finish))]
        length = round(sum(run.length_m or 0.0 for run in runs), 3)
        looms.append(
            {"loom": loom.code, "name": loom.name, "stretches": len(runs), "length_m": length}
        )
    stretches = [
        {
            "stretch": run.code,
            "from": names.get(run.start, ""),
            "to": names.get(run.finish, ""),
            "length_m": run.length_m,
            "wires": list(analysis.sections[run.code].wires),
            "packed_mm": round(analysis.sections[run.code].tight_mm, 2),
            "laid_mm": round(analysis.sections[run.code].laid_mm, 2),
            "over_mm": round(analysis.sections[run.code].over_mm, 2),
            "air_c": round(analysis.sections[run.code].air_c, 1),
        }
        for run in routing.runs
    ]
    return {
        "job": analysis.job.title,
        "looms": looms,
        "stretches": stretches,
        "wires": [_wire(analysis, code) for code in analysis.electrics.ways.of],
        **_building(analysis),
        "problems": list(graph.problems),
    }


def _building(analysis: "Analysis") -> dict[str, Any]:
    """Return what putting the looms together comes to, as JSON has it."""
    from molvik.routing.covers import wanted

    return {
        "assembly": {
            "steps": [
                {"at": put.at, "what": put.what, "from": list(put.ends)}
                for put in analysis.assembly.steps
            ],
            "stuck": [{"at": one.at, "what": one.what} for one in analysis.assembly.stuck],
            "take_off": list(analysis.assembly.off),
        },
        "coverings": [
            {
                "covering": one.covering,
                "size": one.size,
                "amount_m": round(one.amount_m, 3),
                "stretches": list(one.runs),
                "stock": one.item,
                "short_m": round(one.short_m, 3),
            }
            for one in wanted(analysis.covers, analysis.stock_left)
        ],
        "splices": [
            {
                "splice": code,
                "best": None
                if places.best is None
                else {
                    "stretch": places.best.run,
                    "at_m": round(places.best.at_m, 3),
                    "wire_m": round(places.best.wire_m, 3),
                },
                "now_wire_m": None if places.now is None else round(places.now.wire_m, 3),
            }
            for code, places in analysis.splice_places.items()
        ],
        "alike": [
            {"plugs": [pair.one, pair.other], "does": pair.does, "said": list(pair.said)}
            for pair in analysis.electrics.alike
        ],
    }


def _wire(analysis: "Analysis", code: str) -> dict[str, Any]:
    way, cut = analysis.electrics.ways.of[code], analysis.cut_lengths.get(code)
    return {
        "wire": code,
        "way": [step.run for step in way.steps],
        "problem": way.problem,
        "way_m": None if cut is None else round(cut.way_m, 3),
        "cut_m": None if cut is None else round(cut.cut_m, 3),
        "now_m": analysis.network.wires[code].length_m,
    }
