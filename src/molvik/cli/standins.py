"""Stand-ins of instruments, each as a process: a tester, a bench supply, an engine computer."""

import argparse
import socketserver
from collections.abc import Callable
from typing import TYPE_CHECKING

from molvik.cli.answers import add_job, complain, job_at

if TYPE_CHECKING:
    from molvik.devices.states import Fault
    from molvik.model.job import Job

Made = Callable[["Job", "list[Fault]", argparse.Namespace], socketserver.BaseServer]


def add_commands(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the commands to the parser."""
    for name, words, make in (
        ("tester", "a stand-in of a meter and loom tester, on a socket", _tester),
        ("supply", "a stand-in of a bench supply, on a socket", _supply),
        ("ecu", "a stand-in of an engine computer, on a bus", _computer),
    ):
        made = commands.add_parser(name, help=words)
        add_job(made)
        made.add_argument("--port", type=int, default=0, help="any that is free without one")
        made.add_argument(
            "--fault", action="append", default=[], help="hidden in the loom: W12, bad W3 5"
        )
        if name == "ecu":
            made.add_argument(
                "--key", choices=("off", "run", "running"), default="run", help="key position"
            )
        made.set_defaults(run=_run, make=make)


def _run(parsed: argparse.Namespace) -> int:
    """Serve until it is stopped."""
    from molvik.netlist.faults import read_fault

    job = job_at(parsed.job)
    make: Made = parsed.make
    try:
        faults = [read_fault(text, job) for text in parsed.fault]
        server = make(job, faults, parsed)
    except (ValueError, OSError, OverflowError) as error:
        return complain(str(error))
    with server:
        resource = getattr(server, "resource", "")
        print(f"{resource} stands for {job.title} until it is stopped (Ctrl+C).", flush=True)
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            return 0
    return 0


def _tester(
    job: "Job", faults: "list[Fault]", parsed: argparse.Namespace
) -> socketserver.BaseServer:
    from molvik.instruments.standin import Server, StandIn

    return Server(StandIn(job, faults), parsed.port)


def _supply(
    job: "Job", faults: "list[Fault]", parsed: argparse.Namespace
) -> socketserver.BaseServer:
    from molvik.instruments.standin import Server
    from molvik.instruments.standsupply import StandInSupply

    made = StandInSupply(job, faults)
    made.get_ready()
    return Server(made, parsed.port)


def _computer(
    job: "Job", faults: "list[Fault]", parsed: argparse.Namespace
) -> socketserver.BaseServer:
    from molvik.instruments.ecu import StandInComputer
    from molvik.instruments.ecubus import BusServer

    server = BusServer(StandInComputer(job, faults, parsed.key), parsed.port)
    server.stand_in.ready.wait()
    return server
