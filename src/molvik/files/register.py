"""Let the user's desktop know .molvik files: a MIME type, an icon and a .desktop file."""

import shutil
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

from molvik.files.places import data_home

MIME = """<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="application/x-molvik">
    <comment>Molvik job</comment>
    <sub-class-of type="application/vnd.sqlite3"/>
    <glob pattern="*.molvik"/>
  </mime-type>
</mime-info>
"""

ENTRY = """[Desktop Entry]
Type=Application
Name=Molvik
GenericName=Wiring harness workshop
Comment=Design, repin, size and prove engine wiring harnesses
Exec={command} %f
Icon=molvik
Terminal=false
Categories=Engineering;Electronics;
MimeType=application/x-molvik;
StartupWMClass=molvik
"""


def register() -> list[Path]:
    """Write the desktop integration into the user's data folder; return what was written."""
    home = data_home()
    icon = files("molvik.desktop").joinpath("icons", "molvik.svg").read_bytes()
    wanted = {
        home / "mime" / "packages" / "molvik.xml": MIME.encode(),
        home / "applications" / "molvik.desktop": ENTRY.format(command=_command()).encode(),
        home / "icons" / "hicolor" / "scalable" / "apps" / "molvik.svg": icon,
        home / "icons" / "hicolor" / "scalable" / "mimetypes" / "application-x-molvik.svg": icon,
    }
    for path, data in wanted.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    # The desktop finds the files by itself sooner or later; these make it at once.
    tools = {"update-mime-database": "mime", "update-desktop-database": "applications"}
    for tool, folder in tools.items():
        program = shutil.which(tool)
        if program:
            subprocess.run([program, str(home / folder)], check=False, capture_output=True)
    return list(wanted)


def _command() -> str:
    """Return how this Molvik is started, quoted for a .desktop file."""
    beside = Path(sys.executable).with_name("molvik")
    program = str(beside) if beside.exists() else shutil.which("molvik") or "molvik"
    return f'"{program}"' if " " in program else program
