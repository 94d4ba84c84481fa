"""The commands that say what is alive, and why: simulate and why."""

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from molvik.cli.answers import add_job, complain, job_at, print_json
from molvik.files.errors import JobFileError
from molvik.files.writing import write_file
from molvik.parsing.quantities import amps_text

if TYPE_CHECKING:
    from molvik.circuits.simulate import OperatingPoint
    from molvik.devices.states import Fault, State
    from molvik.model.job import Job

FAULT_HELP = (
    "what is broken: W12, “short W12 earth”, “short W12 W13”, “swap C3/5 C3/6”, "
    "“bad W12 2” (ohms), “stuck K1”; may be given again"
)


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add both commands to the parser."""
    simulate = commands.add_parser("simulate", help="say what is alive in each state of the key")
    add_job(simulate)
    which = simulate.add_mutually_exclusive_group()
    which.add_argument("--state", metavar="NAME", help="one state only")
    which.add_argument(
        "--scenario", metavar="NAME", help="states in order: does it start and stop?"
    )
    _conditions(simulate)
    simulate.set_defaults(run=_simulate)

    reason = commands.add_parser("why", help="say why a device is dead or alive")
    add_job(reason)
    reason.add_argument("--device", required=True, metavar="D")
    reason.add_argument("--state", required=True, metavar="NAME")
    reason.add_argument("--svg", type=Path, metavar="FILE", help="draw its circuit to a file")
    reason.add_argument("--overwrite", action="store_true", help="replace a file that is there")
    _conditions(reason)
    reason.set_defaults(run=_why)


def _conditions(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--fault", action="append", default=[], metavar="FAULT", help=FAULT_HELP)
    parser.add_argument(
        "--switch",
        action="append",
        default=[],
        metavar="CODE=POSITION",
        help="position of a switch; may be given again",
    )
    parser.add_argument("--battery", choices=("charged", "half", "flat"), default="charged")
    parser.add_argument("--temperature", type=float, default=20.0, metavar="C")
    parser.add_argument("--rpm", type=float, default=2000.0, help="engine speed while it runs")
    parser.add_argument("--json", action="store_true", help="print JSON")


def _states(parsed: argparse.Namespace, job: "Job") -> "list[State]":
    """Return the states that are asked for, with their conditions; ValueError for others."""
    from molvik.circuits.scenario import scenarios, states_of
    from molvik.devices.states import NAMED, STATES, Conditions
    from molvik.netlist.faults import read_fault

    faults: list[Fault] = [read_fault(text, job) for text in parsed.fault]
    if not -60 <= parsed.temperature <= 150:
        raise ValueError("The temperature lies between -60 and 150 °C.")
    if not 0 <= parsed.rpm <= 20_000:
        raise ValueError("The engine speed lies between 0 and 20000 1/min.")
    if getattr(parsed, "scenario", None) is not None:
        known = {scenario.name: scenario for scenario in scenarios(job)}
        if parsed.scenario not in known:
            raise ValueError(
                f"There is no scenario “{parsed.scenario}”. There is: {', '.join(known)}."
            )
        chosen = list(states_of(known[parsed.scenario]))
    elif parsed.state is not None and parsed.state not in NAMED:
        raise ValueError(f"There is no state “{parsed.state}”. The states are: {', '.join(NAMED)}.")
    else:
        chosen = [NAMED[parsed.state]] if parsed.state is not None else list(STATES)
    conditions = Conditions(
        _switches(parsed, job), parsed.battery, parsed.temperature, parsed.rpm, frozenset(faults)
    )
    return [conditions.on(state, job) for state in chosen]


def _switches(parsed: argparse.Namespace, job: "Job") -> tuple[tuple[str, str], ...]:
    """Return where switches are put; ValueError names one that cannot be."""
    from molvik.devices.states import choices_of

    found = []
    known = {device.code: choices_of(device) for device in job.devices}
    for text in parsed.switch:
        code, _, position = text.partition("=")
        choices = {one.lower(): one for one in known.get(code, ())}
        if position.lower() not in choices:
            can = (
                f"It has: {', '.join(choices)}."
                if choices
                else f"{code} is not a switch a user operates."
            )
            raise ValueError(f"“{text}” is not possible. {can}")
        found.append((code, choices[position.lower()]))
    return tuple(found)


def _print_point(point: "OperatingPoint", engine: str) -> None:
    """Print what is alive in one state. engine: what it does in a scenario."""
    print(point.state.name + (f": the engine {engine}" if engine else ""))
    for load in point.loads:
        volts = round(load.volts, 1) + 0.0  # no minus before a zero
        figures = f"{volts:6.1f} V {load.amps:7.2f} A"
        print(f"  {load.device:5} {load.name:24} {figures}  {load.state}")
    for fuse, blown in sorted(point.blown.items()):
        print(f"  {fuse} blows: {blown.amps:.0f} A")
    for relay in point.chatter:
        print(f"  {relay} cannot settle: it chatters")
    if point.state.name == "crank" and not engine:
        print(f"  the engine {'does not start: ' + point.no_start if point.no_start else 'starts'}")


def _simulate(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.circuits.drain import drain, parked
    from molvik.circuits.scenario import go_through

    try:
        job = job_at(parsed.job)
        states = _states(parsed, job)
        analysis = Analysis(job)
        engine: list[str] = []
        if parsed.scenario is not None:
            steps = go_through(analysis.network, states)
            found, engine = [step.point for step in steps], [step.engine for step in steps]
        else:
            found = [analysis.operating_point(state) for state in states]
        idle = drain(analysis.operating_point(parked(job)._replace(faults=states[0].faults)))
    except (JobFileError, ValueError) as error:
        return complain(error)
    if parsed.json:
        print_json(
            {
                "job": job.title,
                "faults": sorted(str(fault) for fault in states[0].faults),
                "states": [_state(point) for point in found],
                "engine": engine,
                "drain": {
                    "total_a": round(idle.total_a, 4),
                    "items": [
                        {"device": code, "name": name, "amps": round(amps, 4)}
                        for code, name, amps in idle.items
                    ],
                },
            }
        )
        return 0
    for index, point in enumerate(found):
        _print_point(point, engine[index] if engine else "")
    print(f"key and every switch off: {amps_text(idle.total_a)}")
    for code, name, amps in idle.items:
        print(f"  {code:5} {name:24} {amps_text(amps):>10}")
    return 0


def _state(point: "OperatingPoint") -> dict[str, Any]:
    return {
        "state": point.state.name,
        "no_start": point.no_start or None,
        "blown": sorted(point.blown),
        "chatter": list(point.chatter),
        "battery_a": round(point.source_amps, 3),
        "loads": [
            {
                "device": load.device,
                "name": load.name,
                "volts": round(load.volts, 3) + 0.0,
                "amps": round(load.amps, 3),
                "state": load.state,
            }
            for load in point.loads
        ],
        "wires": {code: round(amps, 4) for code, amps in point.wire_amps.items()},
    }


def _why(parsed: argparse.Namespace) -> int:
    from molvik.analysis import Analysis
    from molvik.circuits.why import why

    try:
        job = job_at(parsed.job)
        (state,) = _states(parsed, job)
        if not any(device.code == parsed.device for device in job.devices):
            return complain(f"There is no device {parsed.device} in the job.")
        point = Analysis(job).operating_point(state)
        said = why(point, parsed.device)
    except (JobFileError, ValueError) as error:
        return complain(error)
    if parsed.json:
        print_json(
            {
                "job": job.title,
                "device": parsed.device,
                "state": state.name,
                "alive": said.alive,
                "lines": list(said.lines),
                "cause": said.cause or None,
                "remedy": said.remedy,
            }
        )
    else:
        print(said.text)
    if parsed.svg is not None:
        return _draw(point, parsed.device, parsed.svg, overwrite=parsed.overwrite)
    return 0


def _draw(point: "OperatingPoint", code: str, path: Path, *, overwrite: bool) -> int:
    """Write a device's circuit as SVG."""
    from molvik.circuits.drawing import PAPER_WIDTH, drawn, lay_out
    from molvik.circuits.route import fold, route
    from molvik.files.svg import svg_bytes

    lines = tuple(fold(line) for line in route(point, code))
    if not lines:
        return complain(f"{code} has no circuit of its own to be drawn.")
    if path.exists() and not overwrite:
        return complain(f"{path.name} is there already; say --overwrite if it may be replaced.")
    name = next(load.name for load in point.loads if load.device == code)
    title = f"{name} ({code}), {point.state.name}"
    try:
        write_file(path, svg_bytes(drawn(lay_out(lines, PAPER_WIDTH)), title))
    except JobFileError as error:
        return complain(error)
    print(path, file=sys.stderr)
    return 0
