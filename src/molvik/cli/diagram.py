"""The commands that draw the whole job as a diagram, and list its nets."""

import argparse
from pathlib import Path

from molvik.cli.answers import add_job, complain, job_at, print_json
from molvik.files.writing import write_file
from molvik.logbook.clock import now_text
from molvik.wording import counted


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    diagram = commands.add_parser("diagram", help="draw the whole job as current tracks")
    add_job(diagram)
    diagram.add_argument("--out", required=True, help="FILE.pdf, or FILE.svg: one file a sheet")
    diagram.add_argument("--state", default="", help="draw what is alive in it strong: run …")
    diagram.add_argument("--by", choices=("tracks", "system"), default="tracks", help="its pages")
    diagram.add_argument("--overwrite", action="store_true", help="replace a file that is there")
    diagram.set_defaults(run=_diagram)
    netlist = commands.add_parser("netlist", help="list what wires join, in a state with volts")
    add_job(netlist)
    netlist.add_argument("--state", default="", help="solve it so: run, crank, running …")
    netlist.add_argument("--json", action="store_true", help="print JSON")
    netlist.set_defaults(run=_netlist)


def _diagram(parsed: argparse.Namespace) -> int:
    from molvik.circuits.diagram.frame import Heading, sheets
    from molvik.circuits.diagram.tracks import diagram_in
    from molvik.devices.states import NAMED
    from molvik.files.diagram import diagram_pdf, diagram_svgs

    job, path = job_at(parsed.job), Path(parsed.out)
    if path.suffix.lower() not in (".pdf", ".svg"):
        return complain(f"{path.name}: say FILE.pdf or FILE.svg.")
    if parsed.state and parsed.state not in NAMED:
        return complain(f"There is no state “{parsed.state}”: {', '.join(NAMED)}.")
    try:
        made = diagram_in(job, parsed.state, by_system=parsed.by == "system")
        heading = Heading(job.title, job.subtitle, now_text()[:10], job.settings.measured_by)
        drawn = sheets(made, heading)
        if path.suffix.lower() == ".pdf":
            files = {path: diagram_pdf(drawn, job.title)}
        else:
            found = diagram_svgs(drawn, job.title)
            stem = path.with_suffix("")
            names = [Path(f"{stem}-{number:02d}.svg") for number in range(1, len(found) + 1)]
            files = dict(zip(names, found, strict=True))
    except ValueError as error:
        return complain(str(error))
    for name in files:
        if name.exists() and not parsed.overwrite:
            return complain(f"{name.name} is there already; say --overwrite to replace it.")
    for name, data in files.items():
        write_file(name, data)
    tracks = made.pages[-1].last
    print(f"{counted(tracks, 'track')} on {counted(len(made.pages), 'sheet')}, written to {path}")
    if made.left_out:
        print(f"Not drawn, for they go nowhere: {', '.join(made.left_out)}")
    return 0


def _netlist(parsed: argparse.Namespace) -> int:
    from molvik.circuits.diagram.netlist import nets_of

    try:
        found = nets_of(job_at(parsed.job), parsed.state)
    except ValueError as error:
        return complain(str(error))
    if parsed.json:
        print_json(
            {
                "state": parsed.state or None,
                "nets": [
                    {
                        "number": one.number,
                        "places": list(one.places),
                        "wires": list(one.wires),
                        "volts": None if one.volts is None else round(one.volts, 3),
                    }
                    for one in found
                ],
            }
        )
        return 0
    for one in found:
        volts = "" if one.volts is None else f" {one.volts:.2f} V"
        wires = f" by {', '.join(one.wires)}" if one.wires else ""
        print(f"{one.number:4}{volts}  {', '.join(one.places)}{wires}")
    if not found:
        print("Nothing is wired yet.")
    return 0
