"""What went wrong in the program itself: a report for whoever mends it, kept on this machine, and
the log. Neither holds anything of a job but the codes that stand in messages.
"""

import logging
import platform
import sys
import traceback
from datetime import datetime
from logging.handlers import RotatingFileHandler
from pathlib import Path

from molvik import __version__
from molvik.files.places import state_folder

MOST_REPORTS = 30
LOG_BYTES = 2_000_000

log = logging.getLogger("molvik")


def set_up_log(*, debug: bool) -> None:
    """Say on the error output, and in a file, what is done; without debug, nothing."""
    log.addHandler(logging.NullHandler())
    if not debug:
        return
    log.setLevel(logging.DEBUG)
    words = logging.Formatter("%(asctime)s %(levelname)s %(threadName)s %(name)s: %(message)s")
    handlers: list[logging.Handler] = [logging.StreamHandler()]
    try:
        path = state_folder("logs") / "molvik.log"
        handlers.append(RotatingFileHandler(path, maxBytes=LOG_BYTES, backupCount=1))
    except OSError:
        pass  # it still goes to the error output
    for handler in handlers:
        handler.setFormatter(words)
        log.addHandler(handler)


def keep_report(error: BaseException, doing: str = "") -> Path | None:
    """Keep a report of a problem; return where, None where nothing can be written.

    doing: what was done last, in words.
    """
    log.error("went wrong: %s", error, exc_info=error)
    lines = [
        f"Molvik {__version__}, {datetime.now().astimezone().isoformat(timespec='seconds')}",
        f"Python {sys.version.split()[0]}, {platform.platform()}",
        f"Doing: {doing}" if doing else "",
        "",
        "".join(traceback.format_exception(error)),
    ]
    try:
        folder = state_folder("reports")
        path = folder / f"{datetime.now():%Y-%m-%d-%H%M%S-%f}.txt"
        path.write_text("\n".join(lines), encoding="utf-8")
        for old in sorted(folder.glob("*.txt"))[:-MOST_REPORTS]:
            old.unlink(missing_ok=True)
    except OSError:
        return None
    return path
