"""The same work without a window: check a job, export its sheets, read a pinout table."""

import argparse
import contextlib
import io
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from molvik import __version__
from molvik.cli import alive, calc, loom, size
from molvik.cli.answers import Demo, add_job, job_at
from molvik.cli.answers import complain as _complain
from molvik.cli.answers import print_json as _print_json


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command and return its exit code: 0 fine, 1 stops found, 2 could not be done."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    commands = {
        "demo",
        "check",
        "export",
        "import-pinout",
        "survey",
        "crossover",
        "simulate",
        "why",
        "strip",
        "import-wires",
        "calc",
        "size",
        "register",
    }
    if not words or (words[0] not in commands and not words[0].startswith("-")):
        # "molvik" and "molvik JOB" open the window, as a double click does.
        return _window(words)
    parser = _parser()
    parsed = parser.parse_args(words)
    if "sample" in parsed and (parsed.sample is None) == (parsed.job is None):
        parser.error("say which job: a file, or --demo marten or --demo plover")
    if getattr(parsed, "sample", None):
        parsed.job = Demo(parsed.sample)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # a terminal without ² shows ? instead
    try:
        code: int = parsed.run(parsed)
        sys.stdout.flush()
    except BrokenPipeError:  # whoever read it has read enough
        _drop_output()
        return 0
    except KeyboardInterrupt:
        return _complain("stopped; nothing more was written.")
    except OSError as error:
        _drop_output()
        return _complain(f"the answer could not be written: {error.strerror or error}.")
    return code


def _drop_output() -> None:
    """Have nothing more written at the end to where nothing can be written."""
    with contextlib.suppress(OSError, ValueError):
        handle = os.open(os.devnull, os.O_WRONLY)
        os.dup2(handle, sys.stdout.fileno())
        os.close(handle)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="molvik",
        description="Design, repin, size and prove engine wiring harnesses. "
        "Without a command, or with a job file, opens the window.",
    )
    parser.add_argument("--version", action="version", version=f"molvik {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")

    demo = commands.add_parser("demo", help="open the window with a demo job")
    demo.add_argument("name", nargs="?", choices=("marten", "plover"), default="marten")
    demo.set_defaults(run=lambda parsed: _window([f"--demo={parsed.name}"]))

    check = commands.add_parser("check", help="list what is wrong with a job")
    add_job(check)
    check.add_argument("--json", action="store_true", help="print JSON")
    check.set_defaults(run=_check)

    export = commands.add_parser("export", help="write the sheets of a job as PDF and CSV")
    add_job(export)
    export.add_argument("--out", type=Path, required=True, metavar="DIR")
    export.set_defaults(run=_export)

    pinout = commands.add_parser("import-pinout", help="read a pinout table and print it")
    pinout.add_argument("table", type=Path, metavar="TABLE")
    pinout.add_argument("--json", action="store_true", help="print JSON")
    pinout.set_defaults(run=_import_pinout)

    survey = commands.add_parser("survey", help="list the faults of the loom as found")
    add_job(survey)
    survey.add_argument("--json", action="store_true", help="print JSON")
    survey.set_defaults(run=_survey)

    crossover = commands.add_parser("crossover", help="plan the repinning of a plug")
    add_job(crossover)
    crossover.add_argument("--set", required=True, metavar="NAME", help="name or code of the set")
    crossover.add_argument("--json", action="store_true", help="print JSON")
    crossover.set_defaults(run=_crossover)

    alive.add_commands(commands)
    loom.add_commands(commands)
    calc.add_commands(commands)
    size.add_commands(commands)

    register = commands.add_parser(
        "register", help="let the desktop open .molvik files by double click"
    )
    register.set_defaults(run=_register)
    return parser


def _window(words: list[str]) -> int:
    from molvik.desktop.start import run

    return run(words)


def _check(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.files.errors import JobFileError
    from molvik.findings import judged_findings, unjudged
    from molvik.findings.kinds import SEVERITIES

    try:
        job = job_at(parsed.job)
    except JobFileError as error:
        return _complain(error)
    judged = judged_findings(Analysis(job))
    findings = [one.finding for one in judged]
    counts = {
        severity: sum(one.finding.severity == severity and one.is_open for one in judged)
        for severity in SEVERITIES
    }
    if parsed.json:
        _print_json(
            {
                "job": job.title,
                "counts": counts,
                "not_judged": unjudged(findings),
                "findings": [
                    {
                        "rule": one.finding.rule,
                        "severity": one.finding.severity,
                        "stage": one.finding.stage,
                        "subject": one.finding.subject,
                        "what": one.finding.what,
                        "why": one.finding.why,
                        "remedy": one.finding.remedy,
                        "accepted": one.acceptance.reason if one.acceptance else None,
                        "back": one.changed or None,
                    }
                    for one in judged
                ],
            }
        )
    else:
        for one in judged:
            print(f"{one.finding.severity:5} {one.finding.what}")
            print(f"      {one.finding.why}")
            if one.words:
                print(f"      {one.sentence}")
            print(f"      {one.finding.remedy}\n" if one.is_open else "")
        told = [f"{count} {severity}" for severity, count in counts.items()]
        print(", ".join([*told, *filter(None, [unjudged(findings)])]))
    return 1 if counts["stop"] else 0


def _export(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.files.errors import JobFileError
    from molvik.files.sheets import export_sheets
    from molvik.findings.sheet import every_sheet

    try:
        job = job_at(parsed.job)
        for path in export_sheets(job, every_sheet(Analysis(job)), parsed.out):
            print(path)
    except JobFileError as error:
        return _complain(error)
    return 0


def _import_pinout(parsed: argparse.Namespace) -> int:
    from molvik.files.tables import TableError, read_raw_table
    from molvik.pinouts.table import column_letter, find_columns, read_table

    try:
        raw = read_raw_table(parsed.table)
    except TableError as error:
        return _complain(error)
    columns = find_columns(raw)
    reading = read_table(raw, columns)
    if reading.problem:
        return _complain(f"{parsed.table.name}: {reading.problem}")
    if parsed.json:
        import msgspec

        _print_json(
            {
                "table": raw.name,
                "columns": {field: column_letter(at) for field, at in columns.fields.items()},
                "dialect": reading.dialect,
                "dialect_evidence": reading.dialect_evidence,
                "size_evidence": reading.size_evidence,
                "remarks": list(raw.remarks),
                "rows": [
                    {
                        "row": row.number,
                        "state": row.state,
                        "remarks": list(row.remarks),
                        "pin": None if row.pin is None else msgspec.to_builtins(row.pin),
                    }
                    for row in reading.rows
                ],
            }
        )
        return 0
    for remark in (*raw.remarks, reading.dialect_evidence, reading.size_evidence):
        if remark:
            print(remark)
    for row in reading.rows:
        pin = row.pin
        if pin is not None:
            colour, size = pin.colour or "", pin.size or ""
            print(f"{row.number:5}  {pin.cavity:>4}  {pin.function:32} {colour!s:6} {size}")
        for remark in row.remarks:
            print(f"{row.number:5}  {row.state}: {remark}")
    print(
        f"{reading.count('fine')} rows fine, {reading.count('needs you')} need you, "
        f"{reading.count('cannot be read')} cannot be read"
    )
    return 0


def _survey(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.files.errors import JobFileError
    from molvik.logbook.quote import break_even, choice
    from molvik.survey.decide import GRADES, condemned, decide, grade_of, whole_loom
    from molvik.survey.replacement import shortages
    from molvik.survey.spread import spread

    try:
        job = job_at(parsed.job)
    except JobFileError as error:
        return _complain(error)
    analysis = Analysis(job)
    tree, both = analysis.loom, analysis.once(choice)
    faults: list[dict[str, Any]] = []
    for fault in sorted(job.loom.faults, key=lambda one: -grade_of(tree, one)):
        decision, reach = decide(tree, fault), spread(tree, fault)
        faults.append(
            {
                "fault": fault.code,
                "on": fault.on,
                "kind": fault.kind,
                "grade": grade_of(tree, fault),
                "at_m": fault.at_m,
                "action": decision.action,
                "how": decision.how,
                "reason": decision.reason,
                "own": decision.own,
                "open_m": round(reach.open_m, 3),
                "inspect": {code: round(metres, 3) for code, metres in reach.inspect.items()},
            }
        )
    if parsed.json:
        _print_json(
            {
                "job": job.title,
                "problems": list(tree.problems),
                "condemned": list(condemned(tree)),
                "shortages": [
                    {
                        "kind": one.kind,
                        "what": one.what,
                        "short": round(one.short, 3),
                        "instead": {name: round(amount, 3) for name, amount in one.instead},
                    }
                    for one in shortages(tree, job.stock)
                    if one.short or one.instead
                ],
                "hours": {
                    "repair": round(both.repair.hours, 2),
                    "new_loom": round(both.new_loom.hours, 2),
                },
                "costs": {
                    "currency": job.settings.currency,
                    "repair": round(both.repair.total, 2),
                    "new_loom": round(both.new_loom.total, 2),
                    "unpriced": sorted({*both.repair.unpriced, *both.new_loom.unpriced}),
                },
                "faults": faults,
            }
        )
        return 0
    for one in faults:
        print(f"{one['fault']} on {one['on']}: {one['kind']}, {GRADES[one['grade']]}")
        print(f"   {one['action']}: {one['how']}")
        print(f"   {one['reason']}")
        print(f"   open {one['open_m']:.2f} m of covering, inspect {len(one['inspect'])} wires")
    money = break_even(both.repair, both.new_loom, job.settings)
    for words in (*tree.problems, whole_loom(tree), money):
        if words:
            print(words)
    return 0


def _crossover(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.crossover.plan import ticks_of
    from molvik.files.errors import JobFileError

    try:
        job = job_at(parsed.job)
    except JobFileError as error:
        return _complain(error)
    wanted = parsed.set.strip().lower()
    code = next((r.code for r in job.repins if wanted in (r.code.lower(), r.name.lower())), "")
    if not code:
        known = ", ".join(f"{one.code} {one.name}" for one in job.repins) or "none"
        return _complain(f"There is no repin set “{parsed.set}” in the job. It has: {known}.")
    analysis = Analysis(job)
    plan = analysis.plans[code]
    ticked = ticks_of(analysis.network, code)
    if parsed.json:
        _print_json(
            {
                "job": job.title,
                "set": code,
                "name": plan.set.name,
                "matches": [
                    {
                        "lead": one.lead.place,
                        "function": one.lead.function,
                        "to": one.want.place if one.want else None,
                        "wanted": one.want.function if one.want else None,
                        "score": round(one.score, 1),
                        "state": one.state,
                        "reason": one.reason,
                        "runners_up": [
                            {"to": r.place, "function": r.function, "score": round(r.score, 1)}
                            for r in one.runners
                        ],
                    }
                    for one in plan.matches
                ],
                "actions": [
                    {
                        "lead": one.place or None,
                        "action": one.action,
                        "to": one.end or None,
                        "function": one.function,
                        "reason": one.reason,
                        "fit": one.fit.verdict if one.fit else None,
                        "extend_m": one.extend_m,
                        "diagram": one.diagram,
                    }
                    for one in plan.happenings
                ],
                "steps": [
                    {
                        "key": step.key,
                        "do": step.do,
                        "detail": step.detail,
                        "first": step.first,
                        "take": step.take or None,
                        "put": step.put or None,
                        "ticks": list(step.ticks),
                        "done": step.is_done(ticked),
                    }
                    for step in plan.steps
                ],
                "problems": [one.text for one in plan.broken] + list(plan.astray(ticked)),
                "empty": {at: list(gaps) for at, gaps in plan.empty.items()},
            }
        )
        return 0
    for match in plan.matches:
        if not match.settled:
            to = f"{match.want.place} {match.want.function}" if match.want else "nothing"
            print(f"decide: {match.lead.place} {match.lead.function} to {to}? {match.reason}")
    for number, step in enumerate(plan.steps, start=1):
        if step.first:
            print(f"      {step.first}")
        done = "✓" if step.is_done(ticked) else " "
        print(f"{number:4} {done} {step.do}" + (f" ({step.detail})" if step.detail else ""))
    for words in (*(one.text for one in plan.broken), *plan.astray(ticked)):
        print(words)
    return 0


def _register(_: argparse.Namespace) -> int:
    from molvik.files.register import register

    try:
        for path in register():
            print(path)
    except OSError as error:
        return _complain(f"{error.filename} was not written: {error.strerror}.")
    return 0
