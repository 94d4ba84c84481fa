"""Draw icons/molvik.png from icons/molvik.svg (needs rsvg-convert, Debian's librsvg2-bin)."""

import subprocess
from pathlib import Path

ICONS = Path(__file__).parent.parent / "src" / "molvik" / "desktop" / "icons"

if __name__ == "__main__":
    command = ["rsvg-convert", "-w", "256", "-h", "256", "-o", str(ICONS / "molvik.png")]
    subprocess.run([*command, str(ICONS / "molvik.svg")], check=True)
