"""Start the application, or say in words why it cannot start here."""

import ctypes
import os
import socket
import sys
from pathlib import Path

from molvik.desktop.textsize import follow_desktop
from molvik.files.places import file_of, is_job

SYSTEM_PACKAGES = (
    "libegl1 libgl1 libfontconfig1 libdbus-1-3 libxkbcommon0 libxkbcommon-x11-0 libxcb-cursor0 "
    "libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-render-util0 libxcb-shape0"
)

END_S = 10.0
"""For so long the program waits at its end for a copy that is being written."""


def run(words: list[str]) -> int:
    """Open the window on a job, on a demo (``--demo=NAME``) or on the first screen."""
    demo, job, unknown = _asked(words)
    if unknown:
        return _complain(f"there is no option {unknown}. Try molvik --help.")
    problem = display_problem()
    if problem:
        return _complain(problem)
    try:
        from PySide6.QtCore import QTimer
        from PySide6.QtGui import QIcon
        from PySide6.QtWidgets import QApplication
    except ImportError as error:
        return _complain(
            f"the window needs system libraries that are missing ({error}).\n"
            f"On Debian: apt-get install {SYSTEM_PACKAGES}"
        )
    from molvik.desktop import theme
    from molvik.desktop.window import MainWindow

    follow_desktop()
    application = QApplication(["molvik"])
    application.setApplicationName("Molvik")
    application.setDesktopFileName("molvik")
    icon = Path(__file__).parent / "icons" / "molvik.png"
    application.setWindowIcon(QIcon(str(icon)))
    theme.apply(application)
    window = MainWindow()
    window.troubles.take_over()
    window.show()
    if demo:
        window.files.open_demo(demo)
    if job is not None:
        window.files.open(job)
    QTimer.singleShot(0, window.get_ready)
    return end(application.exec())


def _asked(words: list[str]) -> tuple[str, Path | None, str]:
    """Return which demo and which job are to be opened, and an option that is none. After "--" all
    are files.
    """
    demo, options = "", True
    for word in words:
        if options and word == "--":
            options = False
        elif options and word.startswith("--demo="):
            demo = word[7:]
        elif options and word.startswith("-") and not is_job(word):
            return "", None, word
        else:
            return demo, file_of(word), ""
    return demo, None, ""


def end(code: int) -> int:
    """Wait for work aside, which must not outlive Python, once the last window is closed; return
    the code to end with. What does not stop, a disk or a device that hangs, ends with the program.
    """
    from molvik.desktop.threads.lanes import wait_for_all

    if not wait_for_all(END_S):  # work for a closed window has been told to stop
        os._exit(code)
    return code


def display_problem() -> str:
    """Return why no window can be opened, empty when one can."""
    if os.environ.get("QT_QPA_PLATFORM", "").split(":")[0] in ("offscreen", "minimal", "vnc"):
        return ""
    wayland = os.environ.get("WAYLAND_DISPLAY", "")
    if wayland and (Path(os.environ.get("XDG_RUNTIME_DIR", "/")) / wayland).exists():
        return ""
    display = os.environ.get("DISPLAY", "")
    how = (
        "Start it from a desktop session, or on a virtual screen:\n"
        "  xvfb-run -a molvik demo      (Debian package xvfb)\n"
        "Without a window there are: molvik check, molvik export, molvik import-pinout."
    )
    if not display:
        return f"there is no display here to open a window on. {how}"
    if not _answers(display):
        return f"the display {display} does not answer. {how}"
    try:
        ctypes.CDLL("libxcb-cursor.so.0")
    except OSError:
        return (
            "the window needs system libraries that are missing (libxcb-cursor.so.0).\n"
            f"On Debian: apt-get install {SYSTEM_PACKAGES}"
        )
    return ""


def _answers(display: str) -> bool:
    """Return whether an X server listens at a display such as :0 or host:10.0."""
    host, _, number = display.rpartition(":")
    number = number.split(".")[0]
    if not number.isdigit():
        return False
    if host in ("", "unix"):
        path = f"/tmp/.X11-unix/X{number}"
        for address in (path, f"\0{path}"):
            with socket.socket(socket.AF_UNIX) as probe:
                try:
                    probe.connect(address)
                except OSError:
                    continue
                return True
        return False
    try:
        socket.create_connection((host, 6000 + int(number)), timeout=2).close()
    except OSError:
        return False
    return True


def _complain(text: str) -> int:
    print(f"molvik: {text}", file=sys.stderr)
    return 2
