"""The same work without a window: check a job, export its sheets, read a pinout table."""

import argparse
import contextlib
import importlib
import importlib.util
import io
import os
import sys
from collections.abc import Collection, Sequence

from molvik import __version__
from molvik.cli import jobs, progress
from molvik.cli.answers import Demo, as_job_says, complain
from molvik.files.errors import JobFileError
from molvik.files.places import is_job
from molvik.files.reports import keep_report, log, set_up_log
from molvik.files.tablelimits import TableError
from molvik.stages import KEYS


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command and return its exit code: 0 fine, 1 stops found, 2 could not be done."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    debug = "--debug" in words
    words = [word for word in words if word != "--debug"]
    set_up_log(debug=debug)
    log.debug("molvik %s: %s", __version__, " ".join(words))
    parser, commands = _parser()
    first = words[0] if words else ""
    if first not in commands and (not first.startswith("-") or first == "--" or is_job(first)):
        # "molvik" and "molvik JOB" open the window, as a double click does, whatever it is called.
        return jobs.show_window(words)
    parsed = parser.parse_args(words)
    if "sample" in parsed and (parsed.sample is None) == (parsed.job is None):
        parser.error("say which job: a file, or --demo marten, plover or heron")
    if getattr(parsed, "sample", None):
        parsed.job = Demo(parsed.sample)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")  # a terminal without ² shows ? instead
    try:
        with progress.told(), as_job_says():
            code: int = parsed.run(parsed)
        sys.stdout.flush()
    except (JobFileError, TableError) as error:
        return complain(error)
    except BrokenPipeError:  # whoever read it has read enough
        _drop_output()
        return 0
    except KeyboardInterrupt:
        return complain("stopped; nothing more was written.")
    except OSError as error:
        _drop_output()
        return complain(f"the answer could not be written: {error.strerror or error}.")
    except Exception as error:  # a fault of ours
        report = keep_report(error, " ".join(words))
        where = f" A report is kept in {report}." if report else ""
        return complain(f"something went wrong in the program itself ({error}).{where}")
    return code


def _drop_output() -> None:
    """Have nothing more written at the end to where nothing can be written."""
    with contextlib.suppress(OSError, ValueError):
        handle = os.open(os.devnull, os.O_WRONLY)
        os.dup2(handle, sys.stdout.fileno())
        os.close(handle)


def _parser() -> tuple[argparse.ArgumentParser, Collection[str]]:
    """Return the parser, and the names of all commands."""
    parser = argparse.ArgumentParser(
        prog="molvik",
        description="Design, repin, size and prove engine wiring harnesses. "
        "Without a command, or with a job file, opens the window.",
    )
    parser.add_argument(
        "--debug", action="store_true", help="say what is done, and keep it in a log"
    )
    parser.add_argument("--version", action="version", version=f"molvik {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")
    jobs.add_commands(commands)
    for key in KEYS:
        # A stage's commands are in the module here that has its key for a name.
        if importlib.util.find_spec(f"molvik.cli.{key}") is not None:
            importlib.import_module(f"molvik.cli.{key}").add_commands(commands)
    return parser, commands.choices
