"""Pinouts: read a pinout table."""

import argparse
from pathlib import Path

import msgspec

from molvik.cli.answers import complain, print_json
from molvik.files.tablelimits import TableError
from molvik.files.tables import read_raw_table
from molvik.parsing.rowstates import STATE_WORDS, said_counts


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command to the parser."""
    pinout = commands.add_parser("import-pinout", help="read a pinout table and print it")
    pinout.add_argument("table", type=Path, metavar="TABLE")
    pinout.add_argument("--json", action="store_true", help="print JSON")
    pinout.set_defaults(run=_import_pinout)


def _import_pinout(parsed: argparse.Namespace) -> int:
    from molvik.pinouts.columns import column_letter, find_columns
    from molvik.pinouts.table import read_table

    try:
        raw = read_raw_table(parsed.table)
    except TableError as error:
        return complain(error)
    columns = find_columns(raw)
    reading = read_table(raw, columns)
    if reading.problem:
        return complain(f"{parsed.table.name}: {reading.problem}")
    if parsed.json:
        print_json(
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
            print(f"{row.number:5}  {STATE_WORDS[row.state]}: {remark}")
    print(
        said_counts(
            reading.count("fine"), reading.count("needs you"), reading.count("cannot be read")
        )
    )
    return 0
