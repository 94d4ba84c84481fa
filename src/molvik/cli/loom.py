"""The commands that change a loom: strip it down, read wires in."""

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from molvik.cli import progress
from molvik.cli.answers import add_job, change_job, complain, job_at, print_json, say
from molvik.files.errors import JobFileError
from molvik.files.tablelimits import TableError
from molvik.files.tables import read_raw_table
from molvik.parsing.rowstates import STATE_WORDS, said_counts
from molvik.wording import agree, counted

if TYPE_CHECKING:
    from molvik.circuits.wire_table import WireTable
    from molvik.model.job import Job


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the commands to the parser."""
    strip = commands.add_parser("strip", help="say what can go when only some devices are kept")
    add_job(strip)
    strip.add_argument(
        "--keep", nargs="+", required=True, metavar="WORD", help="devices by code, name or kind"
    )
    strip.add_argument(
        "--without-sensors", action="store_true", help="not the sensors that a kept computer reads"
    )
    strip.add_argument("--out", type=Path, metavar="FILE", help="write the stripped job there")
    strip.add_argument("--overwrite", action="store_true", help="replace a file that is not a job")
    strip.add_argument("--json", action="store_true", help="print JSON")
    strip.set_defaults(run=_strip)

    wires = commands.add_parser("import-wires", help="read a table of wires into a job")
    add_job(wires)
    wires.add_argument("table", type=Path, metavar="TABLE")
    wires.add_argument("--out", type=Path, metavar="FILE", help="write there instead of JOB")
    wires.add_argument("--overwrite", action="store_true", help="replace a file that is not a job")
    wires.add_argument(
        "--update", action="store_true", help="wires that are there already get what the table says"
    )
    wires.add_argument(
        "--as-new", action="store_true", help="every row is a new wire, whatever its code"
    )
    wires.add_argument("--json", action="store_true", help="print JSON")
    wires.set_defaults(run=_import)


def _table_json(table: "WireTable", codes: list[str], there: set[str]) -> dict[str, object]:
    """Return what was read of a table of wires. codes: of the wires made from it, in its order;
    there: of those that were there already, each met once.
    """
    made, left = iter(codes), set(there)

    def code(typed: str) -> str:
        if typed in left:
            left.remove(typed)
            return typed
        return next(made)

    return {
        "columns": list(table.columns),
        "unused": list(table.unused),
        "rows": [
            {
                "row": row.number,
                "state": row.state,
                "wire": code(row.typed) if row.wire is not None else None,
                "remarks": list(row.remarks),
            }
            for row in table.rows
        ],
    }


def _import(parsed: argparse.Namespace) -> int:
    from molvik.circuits.wire_table import compared, put_wires, read_wires, take_up
    from molvik.netlist.network import Network

    old = new = table = None

    def edit(job: "Job") -> "Job":
        nonlocal old, new, table
        old, table = job, read_wires(read_raw_table(parsed.table), Network(job))
        if table.problem:
            raise TableError(f"{parsed.table.name}: {table.problem}")
        found = compared(table, job)
        if parsed.as_new or not (found.same or found.changed):
            new = put_wires(job, table.wires())
        else:
            new = take_up(job, found, changed=parsed.update)
            left = "" if parsed.update else ", and left as they are (--update takes them up)"
            say(
                f"{len(found.same)} wires are there already, {len(found.changed)} are changed{left}"
                f", {len(found.gone)} are not in the table."
            )
        return new

    try:
        change_job(parsed.job, parsed.out, parsed.overwrite, edit)
    except (JobFileError, TableError, ValueError) as error:
        return complain(error)
    assert old is not None
    assert new is not None
    assert table is not None
    job = old
    codes = [wire.code for wire in new.wires[len(job.wires) :]]
    if parsed.json:
        there = set() if parsed.as_new else {wire.code for wire in job.wires}
        print_json({"job": job.title, **_table_json(table, codes, there)})
        return 0
    for row in table.rows:
        for remark in row.remarks:
            print(f"{row.number:5}  {STATE_WORDS[row.state]}: {remark}")
    counts = said_counts(
        table.count("fine"), table.count("needs you"), table.count("cannot be read")
    )
    print(f"{counts}; {counted(len(codes), 'wire')} added")
    return 0


def _strip(parsed: argparse.Namespace) -> int:
    from molvik.circuits.strip import StripPlan, devices_named, strip, stripped, with_sensors

    found: tuple[Job, tuple[str, ...], StripPlan] | None = None

    def planned(now: "Job") -> "tuple[Job, tuple[str, ...], StripPlan]":
        keep = devices_named(now, parsed.keep)
        keep = keep if parsed.without_sensors else with_sensors(now, keep)
        return now, keep, strip(now, keep, progress=progress.share)

    def edit(now: "Job") -> "Job":
        nonlocal found
        found = planned(now)
        return stripped(now, found[2])

    try:
        if parsed.out is not None:
            change_job(parsed.job, parsed.out, parsed.overwrite, edit)
        job, keep, plan = found or planned(job_at(parsed.job))
    except (JobFileError, ValueError) as error:
        return complain(error)
    if parsed.json:
        print_json(
            {
                "job": job.title,
                "keep": list(keep),
                "kept": [{"wire": code, "for": reason} for code, reason in plan.kept.items()],
                "gone": list(plan.gone),
                "parts": list(plan.parts),
                "shared": {code: list(names) for code, names in plan.shared.items()},
                "leads": [lead._asdict() for lead in plan.leads],
                "held": plan.held,
            }
        )
        return 0
    for code, reason in plan.kept.items():
        wire = job.wire(code)
        also = f"; also served {', '.join(plan.shared[code])}" if code in plan.shared else ""
        print(f"keep {code:5} {wire.function if wire else '':28} for {reason}{also}")
    for code in plan.gone:
        wire = job.wire(code)
        print(f"go   {code:5} {wire.function if wire else ''}")
    for code, why in plan.held.items():
        print(f"stay {code:5} without a wire. {why}")
    for lead in plan.leads:
        print(f"hook up {lead.wire:5} at {lead.place:8} {lead.what}: label “{lead.label}”")
    stay = f"{counted(len(plan.kept), 'wire')} {agree(len(plan.kept), 'stays', 'stay')}"
    print(f"{stay}, {len(plan.gone)} can go, {len(plan.leads)} to hook up")
    return 0
