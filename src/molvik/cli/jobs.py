"""A job as a whole: shown, checked, exported; and job files made known to the desktop."""

import argparse
from pathlib import Path

from molvik.cli.answers import SAMPLES, add_job, analysed, complain, job_at, print_json
from molvik.desktop.start import run
from molvik.files.register import register


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the commands to the parser."""
    demo = commands.add_parser("demo", help="open the window with a demo job")
    demo.add_argument("name", nargs="?", choices=SAMPLES, default="marten")
    demo.set_defaults(run=lambda parsed: show_window([f"--demo={parsed.name}"]))

    check = commands.add_parser("check", help="list what is wrong with a job")
    add_job(check)
    check.add_argument("--json", action="store_true", help="print JSON")
    check.set_defaults(run=_check)

    export = commands.add_parser("export", help="write the sheets of a job as PDF and CSV")
    add_job(export)
    export.add_argument("--out", type=Path, required=True, metavar="DIR")
    export.set_defaults(run=_export)

    register = commands.add_parser(
        "register", help="let the desktop open .molvik files by double click"
    )
    register.set_defaults(run=_register)


def show_window(words: list[str]) -> int:
    """Open the window, and return its exit code when it is closed."""

    return run(words)


def _check(parsed: argparse.Namespace) -> int:
    from molvik.findings import judged_findings, unjudged
    from molvik.findings.kinds import SEVERITIES, count_of

    job = job_at(parsed.job)
    judged = judged_findings(analysed(job))
    findings = [entry.finding for entry in judged]
    counts = {
        severity: sum(entry.finding.severity == severity and entry.is_open for entry in judged)
        for severity in SEVERITIES
    }
    if parsed.json:
        print_json(
            {
                "job": job.title,
                "counts": counts,
                "not_judged": unjudged(findings),
                "findings": [
                    {
                        "rule": entry.finding.rule,
                        "severity": entry.finding.severity,
                        "stage": entry.finding.stage,
                        "subject": entry.finding.subject,
                        "what": entry.finding.what,
                        "why": entry.finding.why,
                        "remedy": entry.finding.remedy,
                        "accepted": entry.acceptance.reason if entry.acceptance else None,
                        "back": entry.changed or None,
                    }
                    for entry in judged
                ],
            }
        )
    else:
        for entry in judged:
            print(f"{entry.finding.word:5} {entry.finding.what}")
            print(f"      {entry.finding.why}")
            if entry.words:
                print(f"      {entry.sentence}")
            print(f"      {entry.finding.remedy}\n" if entry.is_open else "")
        told = [count_of(severity, count) for severity, count in counts.items()]
        print(", ".join([*told, *filter(None, [unjudged(findings)])]))
    return 1 if counts["stop"] else 0


def _export(parsed: argparse.Namespace) -> int:
    from molvik.files.sheets import export_sheets
    from molvik.sheetset import every_sheet

    job = job_at(parsed.job)
    for path in export_sheets(job, every_sheet(analysed(job)), parsed.out):
        print(path)
    return 0


def _register(_: argparse.Namespace) -> int:

    try:
        for path in register():
            print(path)
    except OSError as error:
        return complain(f"{error.filename} was not written: {error.strerror}.")
    return 0
